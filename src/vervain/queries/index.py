"""Dictionaries over one machine value, and the nets: pins joined without any resistance between."""

from collections.abc import Iterable
from functools import cached_property
from itertools import pairwise

from vervain.model.axis import Axis
from vervain.model.elements import Bridge, Contact, Fuse
from vervain.model.machine import Cable, Device, Hookup, Machine, PinRef, ends_of
from vervain.model.part import CablePart, Part, is_fitted
from vervain.model.place import Place, Run
from vervain.queries.step import Step
from vervain.queries.walk import reached

Net = tuple[PinRef, ...]
Neighbours = dict[PinRef, list[PinRef]]


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
        self.places: dict[str, Place] = {place.id: place for place in machine.places}
        self.runs: dict[str, Run] = {run.id: run for run in machine.runs}
        self.axes: dict[str, Axis] = {axis.id: axis for axis in machine.axes}
        same = before if before is not None and before.machine.hookups is machine.hookups else None
        self.hookups_of_device: dict[str, tuple[Hookup, ...]] = (
            same.hookups_of_device if same else group_by_device(machine.hookups)
        )
        self.hookups_of_cable: dict[str, tuple[Hookup, ...]] = (
            same.hookups_of_cable if same else group_by_cable(machine.hookups)
        )
        self.axis_of_device = {name: axis for axis in machine.axes for name in axis.members}

    @cached_property
    def steps_of_pin(self) -> dict[PinRef, tuple[Step, ...]]:
        """Every conductor by each pin that it ends at, seen from that pin."""
        if self._before is not None and self._before.machine.hookups is self.machine.hookups:
            return self._before.steps_of_pin
        found: dict[PinRef, list[Step]] = {}
        for hookup in self.machine.hookups:
            for conductor in hookup.conductors:
                a, b = ends_of(hookup, conductor)
                for start, end in ((a, b), (b, a)):
                    step = Step(start=start, end=end, hookup=hookup.id, conductor=conductor)
                    found.setdefault(start, []).append(step)
        return {pin: tuple(steps) for pin, steps in found.items()}

    @cached_property
    def net_of_pin(self) -> dict[PinRef, Net]:
        """The net of every pin that anything is joined to: only copper between its members."""
        old = self._before.net_of_pin if self._before is not None else {}
        if self._before is not None and _same_copper(self._before.machine, self.machine):
            return old
        return _groups(self._neighbours(through_switches=False), old)

    @cached_property
    def rail_of_pin(self) -> dict[PinRef, Net]:
        """As `net_of_pin`, with every fuse whole and every contact closed."""
        old = self._before.rail_of_pin if self._before is not None else {}
        if self._before is not None and _same_copper(self._before.machine, self.machine):
            return old
        return _groups(self._neighbours(through_switches=True), old)

    def forget_before(self) -> None:
        """Lets go of the index before, once everything that is compared with it was compared."""
        self._before = None

    def _neighbours(self, through_switches: bool) -> Neighbours:
        neighbours: Neighbours = {}

        def join(a: PinRef, b: PinRef) -> None:
            neighbours.setdefault(a, []).append(b)
            neighbours.setdefault(b, []).append(a)

        for hookup in self.machine.hookups:
            for conductor in hookup.conductors:
                join(*ends_of(hookup, conductor))
        for device in self.machine.devices:
            part = self.parts.get(device.part)
            for element in part.inside if part else ():
                closes = through_switches and isinstance(element, Contact | Fuse)
                bridges = isinstance(element, Bridge) and is_fitted(element, part, device.settings)
                if bridges or closes:
                    pins = [
                        PinRef(device=device.designator, port=port, pin=pin)
                        for port, pin in element.pins
                    ]
                    for first, second in pairwise(pins):
                        join(first, second)
        return neighbours


def _same_copper(old: Machine, new: Machine) -> bool:
    """Whether both machines join their pins alike: the same hookups, parts and fitted bridges.
    An edit that leaves a list alone keeps that very tuple, so hookups and parts need no reading.
    """
    if old.hookups is not new.hookups or old.parts is not new.parts:
        return False
    return old.devices is new.devices or [_joins_by(device) for device in old.devices] == [
        _joins_by(device) for device in new.devices
    ]


def _joins_by(device: Device) -> tuple[object, ...]:
    """What of a device decides which of its pins are joined."""
    return device.designator, device.part, device.settings


def _groups(neighbours: Neighbours, old: dict[PinRef, Net]) -> dict[PinRef, Net]:
    """Connected groups of pins. A group that did not change keeps the tuple it had before, so
    that comparing groups is comparing identities.
    """
    groups: dict[PinRef, Net] = {}
    for start in neighbours:
        if start in groups:
            continue
        seen = reached([start], neighbours.__getitem__)
        members = tuple(sorted(seen, key=lambda pin: (pin.device, pin.port, pin.pin)))
        known = old.get(members[0])
        group = known if known == members else members
        for pin in group:
            groups[pin] = group
    return groups
