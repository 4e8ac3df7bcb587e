"""Ends of wiring that nothing is joined to where something should be, and what could come there."""

from vervain.electrical.feeds import sources_of
from vervain.electrical.outputs import outputs_among
from vervain.electrical.pin_needs import partners
from vervain.electrical.unmet_needs import AT_MAINS, has_own_way, is_other_side, is_started
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Contact, Diode, Fuse, Resistor
from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import across, is_contact, is_joint, joined_inside
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import taken_as

MAY_BE_EARTHED = frozenset({"pe", "zero", "shield", "none", "through"})
OF_LOADS = frozenset({"load+", "load-", "coil+", "coil-"})
# What must not meet even through a fuse or a contact.
BY_THE_RAIL = (*AT_MAINS, "plus", "zero")


@query
def open_ends(queries: Queries, device: str) -> tuple[PinRef, ...]:
    """The pins of a device that nothing is joined to although something is joined beside them: the
    rest of a plug that is begun, the far end of a fuse or contact, the far side of a connector.
    """
    part = queries.part_of(device)
    if part is None:
        return ()
    found: dict[PinRef, None] = {}
    for port in part.ports:
        started = is_started(queries, PortRef(device=device, port=port.id))
        for pin in port.pins:
            here = PinRef(device=device, port=port.id, pin=pin.id)
            if queries.steps(here) or pin.function in ("none", "shield"):
                continue
            if is_joint(queries, device):
                across = joined_inside(queries, here)
                if any(queries.steps(other) for other in across):
                    found[here] = None
            elif started and port.end != "through":
                found[here] = None
    for element in part.inside:
        if isinstance(element, Contact | Fuse | Diode | Resistor):
            a, b = (PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)
            for here, other in ((a, b), (b, a)):
                if not queries.steps(here) and has_own_way(queries, other):
                    found[here] = None
    return tuple(found)


@query
def rail_pins(queries: Queries) -> tuple[PinRef, ...]:
    """One pin of each source's plus and of its return: where a feed can be taken from."""
    found: dict[tuple[PinRef, ...], PinRef] = {}
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part else ():
            if not any(isinstance(pin.electrical, FeedOut) for pin in port.pins):
                mains = port.end == "through" and any(p.function == "line" for p in port.pins)
                if not mains:
                    continue
            for pin in port.pins:
                if isinstance(pin.electrical, FeedOut) or pin.function in (
                    "zero", "line", "neutral", "pe",
                ):  # fmt: skip
                    here = PinRef(device=device, port=port.id, pin=pin.id)
                    found.setdefault(queries.net(here), here)
    return tuple(found.values())


@query
def dead_pins(queries: Queries) -> tuple[PinRef, ...]:
    """The pins of what has no source, and of contacts and fuses by which it would be fed: a wire
    may be missing at any of them.
    """
    found: dict[PinRef, None] = {}
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part else ():
            for pin in port.pins:
                here = PinRef(device=device, port=port.id, pin=pin.id)
                if not isinstance(pin.electrical, FeedIn) or not queries.steps(here):
                    continue
                if not sources_of(queries, here) and not outputs_among(queries, queries.net(here)):
                    found[here] = None
                    found |= dict.fromkeys(
                        ref for ref in queries.rail(here) if _is_in_line(queries, ref)
                    )
    return tuple(found)


@query
def ends_of_contacts_side_by_side(queries: Queries) -> tuple[PinRef, ...]:
    """One pin of each net to which contacts lead from one other net, and nothing else: what a
    button and the contact that holds it switch is missing there.
    """
    found: dict[tuple[PinRef, ...], PinRef] = {}
    for device in queries.devices():
        part = queries.part_of(device)
        for element in part.inside if part is not None else ():
            for port, pin in element.pins if isinstance(element, Contact) else ():
                here = PinRef(device=device, port=port, pin=pin)
                net = queries.net(here)
                if len(net) < 2 or net in found:
                    continue
                beyond = [across(queries, ref, is_contact) for ref in net]
                others = {queries.net(far) for ends in beyond for far in ends}
                if all(beyond) and len(others) == 1:
                    found[net] = here
    return tuple(found.values())


def _is_in_line(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is one of a contact or a fuse."""
    return bool(across(queries, ref, lambda _, element: isinstance(element, Contact | Fuse)))


def is_strip(queries: Queries, pin: PinRef) -> bool:
    """Whether a pin is one of a terminal strip."""
    part = queries.part_of(pin.device)
    return part is not None and part.kind == "terminal strip"


def is_connector(queries: Queries, pin: PinRef) -> bool:
    """Whether a pin is one of an in-line connector."""
    part = queries.part_of(pin.device)
    return part is not None and part.kind == "connector"


@query
def strip_pins(queries: Queries) -> tuple[PinRef, ...]:
    """One pin of each net of a terminal strip, one that is free where there is one; where earth and
    0 V are bonded, one of each.
    """
    found: dict[tuple[tuple[PinRef, ...], bool], PinRef] = {}
    for device in queries.devices():
        part = queries.part_of(device)
        if part is None or part.kind != "terminal strip":
            continue
        pins = [
            PinRef(device=device, port=port.id, pin=pin.id)
            for port in part.ports
            for pin in port.pins
        ]
        for here in sorted(pins, key=lambda ref: bool(queries.steps(ref))):
            pin = queries.pin(here)
            found.setdefault((queries.net(here), pin is not None and pin.function == "pe"), here)
    return tuple(found.values())


@query
def free_lines(queries: Queries) -> tuple[PinRef, ...]:
    """The inputs and outputs of hosts at whose ports nothing is joined."""
    return tuple(
        PinRef(device=device, port=port.id, pin=pin.id)
        for device in queries.devices()
        if (part := queries.part_of(device)) is not None
        for port in part.ports
        if port.end == "host" and not is_started(queries, PortRef(device=device, port=port.id))
        for pin in port.pins
        if isinstance(pin.electrical, LogicInput | LogicOutput)
    )


def free_inputs(queries: Queries) -> tuple[PinRef, ...]:
    """Those of `free_lines` that read."""
    lines = ((ref, queries.pin(ref)) for ref in free_lines(queries))
    return tuple(
        ref for ref, pin in lines if pin is not None and isinstance(pin.electrical, LogicInput)
    )


def may_be_joined(queries: Queries, first: PinRef, second: PinRef) -> bool:
    """Whether a conductor between two pins would make sense: not joined already and no strangers
    to each other; within one device only at a contact that holds its own coil, or from one open
    contact to the next.
    """
    if second in queries.net(first):
        return False
    one, two = queries.pin(first), queries.pin(second)
    if one is None or two is None:
        return False
    if first.device == second.device:
        # A contact that holds its own coil; two open ones in a row.
        is_free = not queries.steps(first) and not queries.steps(second)
        in_a_row = is_free and first.port != second.port
        if in_a_row and {one.function, two.function} <= {"com", "nc"}:
            return True
        return {one.function, two.function} in ({"no", "coil+"}, {"com", "coil+"})
    if any(taken_as(queries, pin.port_ref) for pin in (first, second)):
        # A line of a processor that is used the other way already.
        return False
    throws = {one.function, two.function}
    if "pe" in throws and not throws <= MAY_BE_EARTHED:
        # Earth carries no current at work: no signal and no load has its way there.
        return False
    if throws <= {"nc", "no"} and throws != {"nc"}:
        # Contacts are joined in series at their commons, or rest contact to rest contact; one lies
        # over another where their commons are joined as well.
        return throws == {"no"} and _have_one_common(queries, first, second)
    inputs = all(isinstance(pin.electrical, LogicInput) for pin in (one, two))
    if inputs and len(queries.net(first)) == 1 == len(queries.net(second)):
        # Neither gives anything, nor does what hangs on either.
        return False
    if _is_held(queries, first, second) or _is_held(queries, second, first):
        return False
    if is_other_side(queries, first, second) or is_other_side(queries, second, first):
        return False
    for contact, end in ((first, second), (second, first)):
        if _lies_across(queries, contact, end) or _is_earth_at_a_contact(queries, contact, end):
            return False
        if _only_tells(queries, contact) and OF_LOADS & {one.function, two.function}:
            return False
    return strangers_met(queries, first, second) is None


def _only_tells(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin gives the volts, or the current, that a sensor tells by: it works no load."""
    part, pin = queries.part_of(ref.device), queries.pin(ref)
    is_own = part is not None and part.kind in ("sensor", "encoder", "hand wheel")
    output = pin.electrical if pin is not None else None
    return is_own and isinstance(output, LogicOutput) and output.drive in ("push-pull", "current")


def _is_held(queries: Queries, drive: PinRef, other: PinRef) -> bool:
    """Whether a pin drives a relay and the other one is a rail that nothing switches."""
    part, port = queries.part_of(drive.device), queries.port(drive.port_ref)
    pin, there = queries.pin(drive), queries.pin(other)
    if part is None or port is None or pin is None or there is None:
        return False
    is_drive = part.kind == "relay module" and port.kind == "load" and pin.function == "load-"
    return is_drive and there.function in ("zero", "plus")


def _lies_across(queries: Queries, contact: PinRef, end: PinRef) -> bool:
    """Whether the other side of a contact lies at one end of a load and a pin at the other one: the
    contact would pass the load by, and feed it nothing.
    """
    beyond = [pin for far in across(queries, contact, is_contact) for pin in queries.net(far)]
    ports = {pin.port_ref for pin in (end, *queries.net(end))} & {pin.port_ref for pin in beyond}
    return any(
        (port := queries.port(ref)) is not None
        and port.kind in ("load", "coil")
        and port.end == "device"
        for ref in ports
    )


def _is_earth_at_a_contact(queries: Queries, contact: PinRef, end: PinRef) -> bool:
    """Whether an end is a pin for earth, or joined to earth without a 0 V, and the other a pin of
    a contact: earth is never switched, and carries no current at work.
    """
    found = {pin.function for ref in (end, *queries.net(end)) if (pin := queries.pin(ref))}
    own = queries.pin(end)
    is_earth = (own is not None and own.function == "pe") or {"pe", "zero"} & found == {"pe"}
    return is_earth and bool(across(queries, contact, is_contact))


def _have_one_common(queries: Queries, first: PinRef, second: PinRef) -> bool:
    """Whether the other sides of two contacts are joined."""

    others = across(queries, second, is_contact)
    return any(
        there in queries.net(here) for here in across(queries, first, is_contact)
        for there in others
    )  # fmt: skip


def _functions_met(queries: Queries, end: PinRef) -> dict[tuple[str, str], None]:
    """The functions on a pin's net, each with its device; and what of mains comes through fuses and
    contacts, or would come to mains through them.
    """
    here = [(pin.on_a_net, ref.device) for ref in queries.net(end) if (pin := queries.pin(ref))]
    behind = [(pin.on_a_net, ref.device) for ref in queries.rail(end) if (pin := queries.pin(ref))]
    return dict.fromkeys((*here, *(found for found in behind if found[0] in BY_THE_RAIL)))


def strangers_met(queries: Queries, first: PinRef, second: PinRef) -> tuple[str, str] | None:
    """Two functions that would meet where two pins are joined, and have nothing to do with each
    other on one net; None where there are none. What is together on one side already is no news,
    nor what two pins of one device do that are not themselves joined, but at mains.
    """
    table = partners()
    own = {ref: pin.on_a_net for ref in (first, second) if (pin := queries.pin(ref)) is not None}
    if len(own) == 2 and table.strangers(own[first], own[second]):
        return own[first], own[second]
    met = [_functions_met(queries, end) for end in (first, second)]
    functions = [{function for function, _ in side} for side in met]
    for a, one in met[0]:
        for b, two in met[1]:
            together = any(a in side and b in side for side in functions)
            apart = one != two or {a, b} & AT_MAINS
            if {a, b} <= {"plus", "zero"}:
                # Through a fuse they are what a source is for; on copper its own rules tell.
                continue
            if not apart or together or not table.strangers(a, b):
                continue
            if table.strangers_on(a, b, functions[0] | functions[1]):
                return a, b
    return None
