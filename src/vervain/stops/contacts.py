"""How switches and emergency stops are wired: which contacts are used, and what reads them."""

from functools import partial

from vervain.electrical.mains import mains_entries
from vervain.model.base import Record
from vervain.model.electrical import LogicInput
from vervain.model.elements import HELD_BY, Contact
from vervain.model.machine import PinRef
from vervain.queries.connectivity import is_contact, joined_inside, nets_reached, steps_from
from vervain.queries.engine import query
from vervain.queries.index import Net
from vervain.queries.machine_queries import Queries
from vervain.stops.circuit import Worker, is_worked_by

CHAIN_ENDS = frozenset({"coil+", "coil-", "stop A+", "stop A-", "stop B+", "stop B-"})


class UsedContact(Record, frozen=True, kw_only=True):
    """A contact of a device with conductors at both of its pins."""

    pins: tuple[PinRef, PinRef]
    rest: str
    bridged: bool
    is_held: bool = False


@query
def used_contacts(queries: Queries, designator: str) -> tuple[UsedContact, ...]:
    """The contacts of a device that are wired at both ends; the common of several has one wire for
    all.
    """
    part = queries.part_of(designator)
    found = []
    for element in part.inside if part else ():
        if not isinstance(element, Contact):
            continue
        a, b = (PinRef(device=designator, port=port, pin=pin) for port, pin in element.pins)
        if _is_wired(queries, a) and _is_wired(queries, b):
            found.append(UsedContact(
                pins=(a, b), rest=element.rest, bridged=b in queries.net(a),
                is_held=element.worked_by in HELD_BY,
            ))  # fmt: skip
    return tuple(found)


def _is_wired(queries: Queries, ref: PinRef) -> bool:
    """Whether a wire comes to a pin, or to one of its device that is one copper with it."""
    return any(steps_from(queries, pin) for pin in (ref, *joined_inside(queries, ref)))


def free_contact(
    queries: Queries, designator: str, coil: Worker | None = None
) -> tuple[PinRef, PinRef] | None:
    """The pins of an NC contact of a device that nothing is joined to; with a `coil`, one that this
    works.
    """
    free = (
        (a, b) for a, b in mirrors_of(queries, designator, coil)
        if not steps_from(queries, a) and not steps_from(queries, b)
    )  # fmt: skip
    return next(free, None)


def mirrors_of(
    queries: Queries, designator: str, coil: Worker | None = None
) -> list[tuple[PinRef, PinRef]]:
    """The pins of the NC contacts of a device; with a `coil`, of those that this works."""
    part = queries.part_of(designator)
    found = []
    for element in part.inside if part else ():
        if not isinstance(element, Contact) or element.rest != "NC":
            continue
        if coil is None or is_worked_by(element, coil):
            a, b = (PinRef(device=designator, port=port, pin=pin) for port, pin in element.pins)
            found.append((a, b))
    return found


@query
def input_of(queries: Queries, designator: str) -> PinRef | None:
    """The input pin that reads a device: its output's, or its contact's through others in series.

    The search stops at supply and return pins, which many devices share.
    """
    part = queries.part_of(designator)
    return input_from(queries, [
        PinRef(device=designator, port=port.id, pin=pin.id)
        for port in (part.ports if part else ())
        for pin in port.pins
        if pin.function in ("signal", "com", "nc", "no")
    ])  # fmt: skip


def input_from(queries: Queries, starts: list[PinRef]) -> PinRef | None:
    """The input pin that some pins reach, through contacts in series with them."""
    nets = nets_reached(queries, starts, is_contact, partial(_has_rail, queries))
    return next(
        (
            ref
            for net in nets
            if not _has_rail(queries, net)
            for ref in net
            if (pin := queries.pin(ref)) is not None and isinstance(pin.electrical, LogicInput)
        ),
        None,
    )


def _has_rail(queries: Queries, net: Net) -> bool:
    """Whether a net is a supply or a return, or mains as it comes in."""
    pins = (queries.pin(ref) for ref in net)
    entries = mains_entries(queries)
    return any(pin is not None and pin.function in ("plus", "zero") for pin in pins) or any(
        ref in entries for ref in net
    )


def is_wired_against_itself(queries: Queries, designator: str) -> bool:
    """Whether a stop has a contact in a channel that is bridged, or that closes when pressed. What
    a receiver or a light curtain holds is NO, and opens when pressed.
    """
    return any(
        contact.bridged
        or (
            contact.rest == "NO" and not contact.is_held
            and is_in_stop_chain(queries, *contact.pins)
        )
        for contact in used_contacts(queries, designator)
    )  # fmt: skip


@query
def is_in_stop_chain(queries: Queries, a: PinRef, b: PinRef) -> bool:
    """Whether a contact lies in a stop channel: a net at it ends in a relay coil or a stop input,
    directly or through further contacts.
    """
    nets = nets_reached(queries, [a, b], is_contact, partial(_has_rail, queries))
    return any(_ends_a_chain(queries, ref) for net in nets for ref in net)


def _ends_a_chain(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is that of a coil, at mains too, or of a stop input."""
    pin, port = queries.pin(ref), queries.port(ref.port_ref)
    is_coil = port is not None and port.kind == "coil"
    return is_coil or (pin is not None and pin.function in CHAIN_ENDS)
