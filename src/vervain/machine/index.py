"""Dictionaries over one machine value, and the nets: pins joined without any resistance between."""

from collections.abc import Iterable
from functools import cached_property

from vervain.machine.machine import Axis, Cable, Device, Hookup, Machine, PinRef
from vervain.machine.part import Bridge, CablePart, Part

Net = tuple[PinRef, ...]


def group_by_device(hookups: Iterable[Hookup]) -> dict[str, tuple[Hookup, ...]]:
    """Hookups by each device they touch, in document order."""
    found: dict[str, dict[str, Hookup]] = {}
    for hookup in hookups:
        for end in (hookup.a, hookup.b):
            found.setdefault(end.device, {})[hookup.id] = hookup
    return {device: tuple(by_id.values()) for device, by_id in found.items()}


def group_by_cable(hookups: Iterable[Hookup]) -> dict[str, tuple[Hookup, ...]]:
    """Hookups by the cable they use, in document order."""
    found: dict[str, list[Hookup]] = {}
    for hookup in hookups:
        if hookup.cable is not None:
            found.setdefault(hookup.cable, []).append(hookup)
    return {cable: tuple(users) for cable, users in found.items()}


class Index:
    """What the look-ups read: built once for a machine value, in time linear in its size."""

    def __init__(self, machine: Machine, before: "Index | None" = None) -> None:
        self.machine = machine
        self._before = before
        self.parts: dict[str, Part] = {part.id: part for part in machine.parts}
        self.cable_parts: dict[str, CablePart] = {part.id: part for part in machine.cable_parts}
        self.devices: dict[str, Device] = {device.designator: device for device in machine.devices}
        self.hookups: dict[str, Hookup] = {hookup.id: hookup for hookup in machine.hookups}
        self.cables: dict[str, Cable] = {cable.id: cable for cable in machine.cables}
        self.axes: dict[str, Axis] = {axis.id: axis for axis in machine.axes}
        self.hookups_of_device = group_by_device(machine.hookups)
        self.hookups_of_cable = group_by_cable(machine.hookups)
        self.axis_of_device = {name: axis for axis in machine.axes for name in axis.members}

    @cached_property
    def net_of_pin(self) -> dict[PinRef, Net]:
        """The net of every pin that anything is joined to.

        Nets that did not change keep the tuple they had in the index before, so that comparing
        them is comparing identities.
        """
        before, self._before = self._before, None
        old = before.net_of_pin if before is not None else {}
        nets: dict[PinRef, Net] = {}
        neighbours = self._neighbours()
        for start in neighbours:
            if start in nets:
                continue
            seen = {start}
            waiting = [start]
            while waiting:
                for pin in neighbours[waiting.pop()]:
                    if pin not in seen:
                        seen.add(pin)
                        waiting.append(pin)
            members = tuple(sorted(seen, key=lambda pin: (pin.device, pin.port, pin.pin)))
            known = old.get(members[0])
            net = known if known == members else members
            for pin in net:
                nets[pin] = net
        return nets

    def _neighbours(self) -> dict[PinRef, list[PinRef]]:
        neighbours: dict[PinRef, list[PinRef]] = {}
        for hookup in self.machine.hookups:
            for conductor in hookup.conductors:
                a = PinRef(device=hookup.a.device, port=hookup.a.port, pin=conductor.a)
                b = PinRef(device=hookup.b.device, port=hookup.b.port, pin=conductor.b)
                neighbours.setdefault(a, []).append(b)
                neighbours.setdefault(b, []).append(a)
        for device in self.machine.devices:
            part = self.parts.get(device.part)
            for element in part.inside if part else ():
                if isinstance(element, Bridge):
                    pins = [
                        PinRef(device=device.designator, port=port, pin=pin)
                        for port, pin in element.pins
                    ]
                    for first, second in zip(pins, pins[1:], strict=False):
                        neighbours.setdefault(first, []).append(second)
                        neighbours.setdefault(second, []).append(first)
        return neighbours
