"""Rules about emergency stops, limits and homes."""

from collections.abc import Collection, Iterator

from vervain.electrical.ways_over_contacts import is_at_a_contact, way_over_contacts
from vervain.model.electrical import LogicOutput
from vervain.model.elements import Contact, Element
from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import neighbours_at, steps_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_axis
from vervain.rules.fixes import MoveContact, MovePins, SetSetting, TakeOut
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.compiling import circuit_of, demanded_devices
from vervain.stops.contacts import (
    UsedContact,
    free_contact,
    input_of,
    is_in_stop_chain,
    used_contacts,
)
from vervain.text.name_words import name_words, says
from vervain.text.words import in_a_row


@rule(
    id="stops.estop-no",
    consequence="Damage",
    scope="device",
    title="An emergency stop is wired NO",
    reason="Pressing it closes the channel instead of opening it, and a wire that comes off is "
    "never noticed.",
    source="ISO 13850 and IEC 60947-5-5: direct opening of NC contacts.",
)
def estop_no(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind != "emergency stop":
        return
    for contact in used_contacts(queries, device):
        if contact.rest != "NO" or not is_in_stop_chain(queries, *contact.pins):
            continue
        fix = _free_nc(queries, device, contact)
        port = contact.pins[0].port
        yield RuleOutput(
            f"{device} is wired NO: contact {port} is in a stop channel.",
            tuple(about(pin) for pin in contact.pins),
            detail=port,
            fixes=(fix,) if fix else (),
        )


def _free_nc(queries: Queries, device: str, contact: UsedContact) -> Fix | None:
    free = free_contact(queries, device)
    if free is None:
        return None
    pairs = {old.pin: new.pin for old, new in zip(contact.pins, free, strict=True)}
    remedy = MoveContact(
        device=device, old_port=contact.pins[0].port, new_port=free[0].port, pins=pairs
    )
    return Fix(words=f"move both conductors to {free[0].port}, which is NC", remedy=remedy)


@rule(
    id="stops.bridged",
    consequence="Damage",
    scope="device",
    title="A stop or a door is bridged",
    reason="A jumper or a wire joins both sides of its contact: pressing it changes nothing in "
    "that channel.",
    source="ISO 13850: no bridging of the emergency stop function.",
)
def bridged(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if device not in demanded_devices(queries):
        return
    circuit = circuit_of(queries)
    asking = {c.pins for c in circuit.contacts if c.device == device and c.coil is None}
    for contact in used_contacts(queries, device):
        if contact.pins not in asking:
            continue
        if not contact.bridged:
            round_it = _way_round(queries, contact.pins, circuit.demanded)
            if round_it:
                yield RuleOutput(
                    f"A way over {in_a_row(round_it)} bridges {contact.pins[0].port} of {device}: "
                    "pressing it changes nothing there.",
                    (*map(about, contact.pins), *map(about, round_it)),
                    detail=contact.pins[0].port,
                    consequence="Unreliable",
                )
            continue
        jumpers = [
            ref.device
            for ref in queries.net(contact.pins[0])
            if (other := queries.part_of(ref.device)) is not None and other.kind == "jumper"
        ]
        jumper = jumpers[0] if jumpers else None
        fixes = (Fix(words=f"take {jumper} out", remedy=TakeOut(device=jumper)),) if jumper else ()
        what = f"Jumper {jumper}" if jumper else "A wire"
        yield RuleOutput(
            f"{what} still bridges {device}: that channel does not stop.",
            (about(jumper or device), *(about(pin) for pin in contact.pins)),
            detail=contact.pins[0].port,
            fixes=fixes,
        )


def _way_round(
    queries: Queries, pins: tuple[PinRef, PinRef], demanded: Collection[str]
) -> list[str]:
    """The devices over whose closed contacts of stops and doors both ends of such a contact are
    joined past it; none where it alone joins them.
    """
    own = {(pin.port, pin.pin) for pin in pins}

    def passes(name: str, element: Element) -> bool:
        is_own = name == pins[0].device and set(element.pins) <= own
        rests_closed = isinstance(element, Contact) and element.rest == "NC"
        return rests_closed and name in demanded and not is_own

    way = way_over_contacts(queries, pins[0], [pins[1]], passes)
    return list(dict.fromkeys(ref.device for ref in way if is_at_a_contact(queries, ref)))


@rule(
    id="stops.limit-no",
    consequence="Unreliable",
    scope="device",
    title="A limit switch is wired NO",
    reason="A broken wire or a plug that came off looks exactly like a free axis; nobody learns "
    "of it before the axis drives through its end.",
    source="IEC 60204-1 9.4: a broken wire must lead to the safe state.",
)
def limit_no(queries: Queries, device: str) -> Iterator[RuleOutput]:
    axis = queries.axis_of(device)
    part = queries.part_of(device)
    if axis is None or part is None or part.kind != "switch":
        return
    if device not in (axis.min_limit, axis.max_limit, axis.home):
        return
    used = used_contacts(queries, device)
    if not used or any(contact.rest == "NC" for contact in used):
        return
    role = "home" if device == axis.home else "limit"
    fix = None
    free = next(
        (
            element
            for element in part.inside
            if isinstance(element, Contact) and element.rest == "NC"
        ),
        None,
    )
    old = used[0].pins[1]
    steps = steps_from(queries, old)
    if free is not None and steps:
        hookup = queries.hookup(steps[0].hookup)
        side = "a" if hookup is not None and hookup.a == old.port_ref else "b"
        remedy = MovePins(hookup=steps[0].hookup, side=side, pins={old.pin: free.pins[1][1]})
        fix = Fix(words="move the conductor from NO to NC", remedy=remedy)
    yield RuleOutput(
        f"{device}, {role} of {axis.id}, is wired NO.",
        (about(device), about_axis(axis.id)),
        fixes=(fix,) if fix else (),
    )


@rule(
    id="stops.invert",
    consequence="Won't run",
    scope="device",
    title="A switch and its invert setting disagree",
    reason="Taken the wrong way round, the controller sees an axis at its end while it is free, "
    "and free while it is at its end; or a button pressed that nobody touches.",
    source="An NC contact or NC output is on at rest, so its input is taken inverted.",
)
def invert(queries: Queries, device: str) -> Iterator[RuleOutput]:
    entry = input_of(queries, device)
    part, found = queries.part_of(device), queries.device(device)
    if entry is None or part is None or found is None:
        return
    axis = queries.axis_of(device)
    has_role = axis is not None and device in (axis.min_limit, axis.max_limit, axis.home)
    # Without an axis its name says as much.
    has_role = has_role or says(f"{found.name} / {part.title}", name_words().at_an_end)
    if not (has_role or part.kind == "switch"):
        return
    setting = queries.setting(entry.device, "invert", entry.port)
    if setting is None:
        return
    used = used_contacts(queries, device)
    if used:
        closed_at_rest = any(contact.rest == "NC" for contact in used)
    elif _is_sensor(queries, device):
        closed_at_rest = False
    else:
        return
    wanted = "inverted" if closed_at_rest else "as it is"
    # What a door or a pedal means to the program is its own; pressed at rest it means nothing.
    if setting == wanted or (not has_role and closed_at_rest):
        return
    kind = "NC" if closed_at_rest else "NO"
    yield RuleOutput(
        f"{device} is {kind}, but {entry.port} is taken {setting}.",
        (about(device), about(entry)),
        detail=entry.port,
        fixes=(
            Fix(
                words=f"take {entry.port} of {entry.device} {wanted}",
                remedy=SetSetting(device=entry.device, key=f"invert/{entry.port}", value=wanted),
            ),
        ),
    )


@rule(
    id="stops.stop-inverted",
    consequence="Damage",
    scope="device",
    title="A stop input is taken inverted",
    reason="Taken so, a pressed button, a broken wire and a plug that came off all read as a "
    "machine that may run.",
    source="IEC 60204-1 9.4 (a broken wire must lead to the safe state): a stop is read closed "
    "while the machine may run.",
)
def stop_inverted(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        ref = PortRef(device=device, port=port.id)
        if port.kind != "stop input" or not neighbours_at(queries, ref):
            continue
        if queries.setting(device, "invert", port.id) == "inverted":
            key = f"invert/{port.id}"
            remedy = SetSetting(device=device, key=key, value="as it is")
            yield RuleOutput(
                f"{device} {port.id} is taken inverted: pressed and broken read as released.",
                (about(ref),),
                detail=port.id,
                fixes=(Fix(words=f"take {port.id} of {device} as it is", remedy=remedy),),
            )


def _is_sensor(queries: Queries, device: str) -> bool:
    part = queries.part_of(device)
    return part is not None and any(
        isinstance(pin.electrical, LogicOutput) for port in part.ports for pin in port.pins
    )


RULES = (estop_no, bridged, limit_no, invert, stop_inverted)
