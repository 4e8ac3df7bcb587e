"""The contacts of stops and contactors that a proposal may use."""

from vervain.model.elements import Contact, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import Part
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries

Ends = tuple[PinRef, PinRef]
# What a chain carries are coils and inputs; thinner wires break.
CHAIN_MM2 = 0.5
CHANNELS = (("stop A+", "stop A-"), ("stop B+", "stop B-"))


def contacts_that_rest(part: Part, rest: str) -> list[Contact]:
    """The contacts of a part that rest so, NC or NO."""
    return [e for e in part.inside if isinstance(e, Contact) and e.rest == rest]


def contact_ends(device: str, element: Contact | Fuse) -> Ends:
    """The two pins of a contact, or a fuse, of a device."""
    (a_port, a_pin), (b_port, b_pin) = element.pins
    return (
        PinRef(device=device, port=a_port, pin=a_pin),
        PinRef(device=device, port=b_port, pin=b_pin),
    )


def free_contacts(queries: Queries, name: str, rest: str) -> list[Ends]:
    """The contacts of a device that rest so, and that nothing is joined to."""
    part = queries.part_of(name)
    every = contacts_that_rest(part, rest) if part is not None else []
    ends = (contact_ends(name, element) for element in every)
    return [pair for pair in ends if not any(steps_from(queries, ref) for ref in pair)]


def free_stops(queries: Queries) -> dict[str, list[Ends]]:
    """The contacts that open of each emergency stop, where nothing is joined to any of them."""
    found = {}
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind != "emergency stop" or queries.hookups_of(name):
            continue
        contacts = [contact_ends(name, element) for element in contacts_that_rest(part, "NC")]
        if contacts:
            found[name] = contacts
    return found


def mirror_of(queries: Queries, name: str) -> Ends | None:
    """The ends of a contactor's free contact that opens while it is worked; None where there is
    none.
    """
    return next(iter(free_contacts(queries, name, "NC")), None)
