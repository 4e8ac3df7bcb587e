"""How switches and emergency stops are wired: which contacts are used, and what reads them."""

from vervain.model.base import Record
from vervain.model.electrical import LogicInput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.queries.connectivity import steps_from
from vervain.queries.engine import query
from vervain.queries.look import Look

CHAIN_ENDS = frozenset({"coil+", "coil-", "stop A+", "stop A-", "stop B+", "stop B-"})


class UsedContact(Record, frozen=True, kw_only=True):
    """A contact of a device with conductors at both of its pins."""

    pins: tuple[PinRef, PinRef]
    rest: str
    bridged: bool


@query
def used_contacts(look: Look, designator: str) -> tuple[UsedContact, ...]:
    """The contacts of a device that are wired at both ends."""
    part = look.part_of(designator)
    found = []
    for element in part.inside if part else ():
        if not isinstance(element, Contact):
            continue
        a, b = (PinRef(device=designator, port=port, pin=pin) for port, pin in element.pins)
        if steps_from(look, a) and steps_from(look, b):
            found.append(UsedContact(pins=(a, b), rest=element.rest, bridged=b in look.net(a)))
    return tuple(found)


@query
def input_of(look: Look, designator: str) -> PinRef | None:
    """The input pin that reads a device: its output's, or its contact's through others in series.

    The search stops at supply and return pins, which many devices share.
    """
    part = look.part_of(designator)
    waiting = [
        PinRef(device=designator, port=port.id, pin=pin.id)
        for port in (part.ports if part else ())
        for pin in port.pins
        if pin.function in ("signal", "com", "nc", "no")
    ]
    seen: set[PinRef] = set()
    while waiting:
        here = waiting.pop(0)
        if here in seen:
            continue
        net = look.net(here)
        seen.update(net)
        if any(_is_rail(look, ref) for ref in net):
            continue
        for ref in net:
            pin = look.pin(ref)
            if pin is not None and isinstance(pin.electrical, LogicInput):
                return ref
            waiting.extend(other for other in _across_contact(look, ref) if other not in seen)
    return None


def _is_rail(look: Look, ref: PinRef) -> bool:
    pin = look.pin(ref)
    return pin is not None and pin.function in ("plus", "zero")


def _across_contact(look: Look, ref: PinRef) -> list[PinRef]:
    part = look.part_of(ref.device)
    found = []
    for element in part.inside if part else ():
        if isinstance(element, Contact) and (ref.port, ref.pin) in element.pins:
            for port, pin in element.pins:
                if (port, pin) != (ref.port, ref.pin):
                    found.append(PinRef(device=ref.device, port=port, pin=pin))
    return found


@query
def is_in_stop_chain(look: Look, a: PinRef, b: PinRef) -> bool:
    """Whether a contact lies in a stop channel: a net at it ends in a relay coil or a stop input,
    directly or through further contacts.
    """
    waiting = [a, b]
    seen: set[PinRef] = set()
    while waiting:
        here = waiting.pop()
        if here in seen:
            continue
        net = look.net(here)
        seen.update(net)
        for ref in net:
            pin = look.pin(ref)
            if pin is not None and pin.function in CHAIN_ENDS:
                return True
        if not any(_is_rail(look, ref) for ref in net):
            for ref in net:
                waiting.extend(other for other in _across_contact(look, ref) if other not in seen)
    return False
