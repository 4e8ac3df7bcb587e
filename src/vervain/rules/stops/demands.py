"""Rules about what a stop does when it is pressed, and what nobody would notice before."""

from collections.abc import Iterator

from vervain.electrical.levels import READ_BY_CONTACTS
from vervain.harness.labels import conductor_labels
from vervain.model.machine import ends_of
from vervain.model.subject import Subject
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about, about_cable
from vervain.rules.rule import RuleOutput, rule
from vervain.rules.stops.remedies import feed_behind_stop
from vervain.stops.at_rest import on_only_at_rest, starting_by_itself
from vervain.stops.circuit import Wire
from vervain.stops.compiling import circuit_of, demanded_devices, stop_devices
from vervain.stops.contacts import free_contact, is_wired_against_itself, used_contacts
from vervain.stops.outcomes import Demand, Verdict
from vervain.stops.verdicts import demand_of, moves_at_work, stop_demand, stop_verdicts
from vervain.stops.what_goes import stop_table
from vervain.stops.words import demand_words, fault_words, names_in_words

MOST_TOLD = 3


@rule(
    id="stops.power-stays",
    consequence="Damage",
    scope="device",
    title="A stop leaves power on what moves",
    reason="What only a program holds still moves when the program errs. A stop takes the power "
    "away from whatever could hurt somebody, by contacts.",
    source="IEC 60204-1, emergency stop: stop category 0 or 1, by hardware; ISO 13850.",
)
def power_stays(queries: Queries, device: str) -> Iterator[RuleOutput]:
    demand = stop_demand(queries, device)
    if demand is not None and not demand.stays and demand.stays_at_rest:
        yield _stays_at_rest(queries, demand)
    if demand is None or not demand.stays:
        return
    names = names_in_words(demand.stays)
    fix = feed_behind_stop(queries, device, demand.stays)
    done = demand_words(circuit_of(queries), device)
    program = " Only the program hears of it." if demand.is_seen else ""
    yield RuleOutput(
        f"{done}: {names} keep{'s' if len(demand.stays) == 1 else ''} power.{program}",
        (about(device), *(about(name) for name in demand.stays)),
        at=tuple(about(name) for name in demand.stays),
        fixes=(fix,) if fix else (),
    )


def _stays_at_rest(queries: Queries, demand: Demand) -> RuleOutput:
    """What keeps power by a contact that closes while a program holds its relay no more."""
    names, relays = names_in_words(demand.stays_at_rest), names_in_words(demand.dropped)
    done = demand_words(circuit_of(queries), demand.stop)
    return RuleOutput(
        f"{done}: {names} {'has' if len(demand.stays_at_rest) == 1 else 'have'} power as soon as "
        f"the program lets go of {relays}.",
        (about(demand.stop), *map(about, (*demand.stays_at_rest, *demand.dropped))),
        at=tuple(map(about, demand.stays_at_rest)),
    )


@rule(
    id="stops.does-nothing",
    consequence="Damage",
    scope="device",
    title="A stop or a door does nothing",
    reason="Pressing or opening it switches nothing off and no input reads it.",
    source="ISO 13850: an emergency stop is there to stop; ISO 14119, interlocking of guards.",
)
def does_nothing(queries: Queries, device: str) -> Iterator[RuleOutput]:
    demand = demand_of(queries, device)
    if demand is None or not demand.does_nothing or not moves_at_work(queries):
        return
    if queries.hookups_of(device) and (
        device in stop_devices(queries) or _opens_a_line(queries, device)
    ):
        done = demand_words(circuit_of(queries), device)
        yield RuleOutput(f"{done}: nothing changes.", (about(device),))


def _opens_a_line(queries: Queries, door: str) -> bool:
    """Whether a contact of a door opens, and no input reads it, of whatever levels: what closes
    while it is shut may be a button that somebody called so.
    """
    used = used_contacts(queries, door)
    ports = (queries.port(ref.port_ref) for c in used for at in c.pins for ref in queries.rail(at))
    is_read = any(p is not None and p.end == "host" and p.kind in READ_BY_CONTACTS for p in ports)
    return not is_read and any(contact.rest == "NC" for contact in used)


@rule(
    id="stops.restarts",
    consequence="Unreliable",
    scope="device",
    title="Releasing the stop starts the machine",
    reason="Whoever lets the button go may still have a hand in it. After a stop the power comes "
    "back only by a button of its own, or when a controller that read the stop is told to go on.",
    source="ISO 13850 and IEC 60204-1, emergency stop: resetting must not restart.",
)
def restarts(queries: Queries, device: str) -> Iterator[RuleOutput]:
    demand = stop_demand(queries, device)
    if demand is not None and demand.restarts:
        told = "only a program hears of it" if demand.is_seen else "nothing was told of the stop"
        yield RuleOutput(
            f"{device} released: power comes back at once, and {told}.", (about(device),)
        )


@rule(
    id="stops.unnoticed",
    consequence="Unreliable",
    scope="device",
    title="A single fault would defeat a stop unnoticed",
    reason="A fault that changes nothing while the machine runs waits there until the stop is "
    "needed. Two channels that are read apart, and separate cables, let it show at once.",
    source="Every single fault is simulated; ISO 13849-1:2015 6.2.6 (a single fault must not lose "
    "the function, and is noticed where that can be done). No category is claimed.",
)
def unnoticed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if device not in demanded_devices(queries):
        return
    circuit = circuit_of(queries)
    # What defeats a stop is told there; a door in the same line has nothing to add.
    others = set() if device in circuit.stops else set(circuit.stops)
    found = [
        verdict
        for verdict in stop_verdicts(queries)
        if verdict.fault.kind != "link lost"
        and verdict.noticed == "never"
        and any(stop == device for stop, _ in verdict.stays)
        and not any(stop in others for stop, _ in verdict.stays)
    ]
    is_stop = device in circuit.stops
    if not found or (is_stop and is_wired_against_itself(queries, device)):
        # A contact that is bridged or closes is told, and mended, first.
        return

    def label(wire: Wire) -> str:
        entry = conductor_labels(queries, *wire)
        return entry.at_a if entry is not None else wire[0]

    left_on = {name for v in found for stop, left in v.stays if stop == device for name in left}
    kept = tuple(name for name in queries.devices() if name in left_on)
    told = [fault_words(queries, verdict.fault, label) for verdict in found[:MOST_TOLD]]
    more = f", and {len(found) - MOST_TOLD} more" if len(found) > MOST_TOLD else ""
    count = f"{len(found)} single faults" if len(found) > 1 else "One single fault"
    left = names_in_words(kept)
    what = f"let {device} leave {left} on" if is_stop else f"leave {left} on with {device} open"
    free = free_contact(queries, device) if is_stop else None
    channel = f" Its contact {free[0].port} is free for a second channel." if free else ""
    yield RuleOutput(
        f"{count} would {what}, unnoticed before: {'; '.join(told)}{more}.{channel}",
        (about(device), *dict.fromkeys(_subjects(queries, found))),
        at=tuple(about(name) for name in kept),
    )


def _subjects(queries: Queries, verdicts: list[Verdict]) -> Iterator[Subject]:
    """The wires of the first faults: their cores, or where they are joined."""
    for verdict in verdicts[:MOST_TOLD]:
        for hookup_id, row in verdict.fault.wires[:2]:
            hookup = queries.hookup(hookup_id)
            if hookup is None:
                continue
            conductor = hookup.conductors[row]
            if hookup.cable:
                yield about_cable(hookup.cable, conductor.core)
            else:
                yield about(ends_of(hookup, conductor)[0])


@rule(
    id="stops.link-lost",
    consequence="Damage",
    scope="device",
    title="A lost radio link leaves the stop without effect",
    reason="Out of reach, with a flat battery or a dead receiver nobody can stop the machine, and "
    "nothing tells. A receiver for a stop holds its contacts closed, and opens them when it hears "
    "nothing.",
    source="IEC 60204-1, cableless control: losing the link stops the machine. The link and the "
    "receiver's feed are taken away in the simulation.",
)
def link_lost(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if device not in stop_devices(queries):
        return
    for verdict in stop_verdicts(queries):
        kept = [names for stop, names in verdict.stays if stop == device]
        if verdict.fault.kind == "link lost" and verdict.fault.device == device and kept:
            yield RuleOutput(
                f"{device} without its remote: {names_in_words(kept[0])} keep"
                f"{'s' if len(kept[0]) == 1 else ''} power, pressed or "
                "not.",
                (about(device), *(about(name) for name in kept[0])),
            )


@rule(
    id="stops.race",
    consequence="Unreliable",
    scope="device",
    title="What a stop does depends on which relay is quicker",
    reason="Relays drop and pick up within 5 to 30 ms of each other, otherwise each day: what wins "
    "today loses when one is warm or worn.",
    source="Every coil is let follow first, and last, in the simulation; a sound circuit comes to "
    "rest alike.",
)
def race(queries: Queries, device: str) -> Iterator[RuleOutput]:
    demand = stop_demand(queries, device)
    if demand is not None and demand.racing:
        names = names_in_words(demand.racing)
        yield RuleOutput(
            f"{device} pressed or released: which of {names} are on depends on which relay is "
            "quicker.",
            (about(device), *(about(name) for name in demand.racing)),
        )


@rule(
    id="stops.start-overrides",
    consequence="Damage",
    scope="device",
    title="The start button works although a stop is pressed",
    reason="A stop goes before everything else: while it is pressed, nothing may start the "
    "machine, whoever leans on the other button.",
    source="ISO 13850: the emergency stop overrides all other functions; both are pressed in the "
    "simulation.",
)
def start_overrides(queries: Queries, device: str) -> Iterator[RuleOutput]:
    demand = stop_demand(queries, device)
    if demand is not None and demand.overridden:
        yield RuleOutput(
            f"{device} pressed: the start button switches {names_in_words(demand.overridden)} on "
            "all the same.",
            (about(device), *(about(name) for name in demand.overridden)),
        )


@rule(
    id="stops.power-return",
    consequence="Unreliable",
    scope="device",
    title="A tool starts by itself when power comes back",
    reason="After a power cut, or when somebody pushes the plug in, it turns at once: its switch "
    "is still on. A contactor that holds itself drops with the power, and waits for its button.",
    source="IEC 60204-1 7.5 and ISO 12100 (unexpected start-up): the return of power must not "
    "start a machine.",
)
def power_return(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind not in stop_table()["named_kinds"]:
        return
    if queries.hookups_of(device) and device in starting_by_itself(queries):
        yield RuleOutput(
            f"{device} runs as soon as power comes back: nothing waits for a start button.",
            (about(device),),
        )


@rule(
    id="stops.on-at-rest",
    consequence="Damage",
    scope="device",
    title="What heats or moves is on while nothing switches it",
    reason="It hangs on a contact that is closed at rest: it has power before the controller runs "
    "and whenever its output is off, and none when the program switches it on.",
    source="Contacts by their state at rest (IEC 60947-1); ISO 12100, unexpected start-up.",
)
def on_at_rest(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if queries.hookups_of(device) and device in on_only_at_rest(queries):
        yield RuleOutput(
            f"{device} is on while its relay is off, and off while it is on.", (about(device),)
        )


RULES = (
    power_stays,
    does_nothing,
    restarts,
    unnoticed,
    link_lost,
    race,
    start_overrides,
    power_return,
    on_at_rest,
)
