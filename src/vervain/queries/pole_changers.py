"""Contacts that change poles: of the throws of one common, one lies at the plus of a source and
another at its 0 V, so that what hangs at the common is at either, and never at both.
"""

from collections.abc import Callable, Collection, Iterable, Mapping

from vervain.model.electrical import FeedOut
from vervain.model.elements import Contact, PinAt
from vervain.model.machine import Device, PinRef, PortRef
from vervain.model.part import Part
from vervain.queries.step import Step
from vervain.queries.walk import reached

# A contact by its device and its place among what is inside that.
ContactOf = tuple[str, int]
# The commons of a part's contacts, each with the far pins of its throws and their places.
Commons = dict[PinAt, dict[int, PinAt]]
Joined = Mapping[PinRef, Collection[PinRef]]


def commons_of(part: Part) -> Commons:
    """The pins of a part at which several of its contacts begin."""
    found: Commons = {}
    for place, element in enumerate(part.inside):
        if isinstance(element, Contact):
            a, b = element.pins
            found.setdefault(a, {})[place] = b
            found.setdefault(b, {})[place] = a
    return {common: throws for common, throws in found.items() if len(throws) > 1}


def throws_at(part: Part | None, pin: PinRef) -> list[PinRef]:
    """The far pins of the contacts that begin at a pin of a device of some part; none where it is
    the common of none.
    """
    ends = commons_of(part).get((pin.port, pin.pin), {}) if part is not None else {}
    return [_pin(pin.device, at) for at in ends.values()]


def pole_changers(
    devices: Iterable[Device],
    parts: Mapping[str, Part],
    commons: Mapping[str, Commons],
    steps: Mapping[PinRef, tuple[Step, ...]],
    inside: Callable[[Device, Collection[int]], Joined],
) -> frozenset[ContactOf]:
    """The contacts of a machine that change poles. `commons` are those of the parts that have any,
    and `inside` gives what a device joins with every contact closed but some, by their places.
    """
    by_name = {device.designator: device for device in devices}
    used = {
        (name, common): wired
        for name, device in by_name.items()
        for common, throws in commons.get(device.part, {}).items()
        if _pin(name, common) in steps
        and len(wired := {n: at for n, at in throws.items() if _pin(name, at) in steps}) > 1
    }
    if not used:
        return frozenset()
    left_out: dict[str, set[int]] = {}
    for (name, _), wired in used.items():
        left_out.setdefault(name, set()).update(wired)
    joined: dict[str, Joined] = {}

    def neighbours(pin: PinRef) -> list[PinRef]:
        if pin.device not in joined:
            device = by_name.get(pin.device)
            joined[pin.device] = inside(device, left_out.get(pin.device, ())) if device else {}
        return [*(step.end for step in steps.get(pin, ())), *joined[pin.device].get(pin, ())]

    found: set[ContactOf] = set()
    for (name, _), wired in used.items():
        poles = [
            _poles(reached([_pin(name, at)], neighbours), by_name, parts) for at in wired.values()
        ]
        if any(plus & zero for plus, _ in poles for _, zero in poles):
            found |= {(name, place) for place in wired}
    return frozenset(found)


def _pin(device: str, at: PinAt) -> PinRef:
    return PinRef(device=device, port=at[0], pin=at[1])


def _poles(
    pins: Iterable[PinRef], devices: Mapping[str, Device], parts: Mapping[str, Part]
) -> tuple[set[PortRef], set[PortRef]]:
    """The ports of sources whose plus is among some pins, and those whose 0 V is."""
    pluses: set[PortRef] = set()
    zeros: set[PortRef] = set()
    for ref in pins:
        device = devices.get(ref.device)
        part = parts.get(device.part) if device is not None else None
        port = part.port(ref.port) if part is not None else None
        if port is None or not any(isinstance(pin.electrical, FeedOut) for pin in port.pins):
            continue
        pin = port.pin(ref.pin)
        if pin is not None and isinstance(pin.electrical, FeedOut):
            pluses.add(ref.port_ref)
        elif pin is not None and pin.function == "zero":
            zeros.add(ref.port_ref)
    return pluses, zeros
