"""Rules about how the strings of the stops are made, beyond what pressing them does."""

from collections.abc import Iterator

from vervain.model.electrical import LogicInput
from vervain.model.elements import Contact, Element, Fuse, PinAt
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Pin
from vervain.queries.connectivity import (
    across,
    is_contact,
    joined_inside,
    nets_reached,
    paths_from,
)
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.queries.walk import reached
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import ExchangeTwo
from vervain.rules.rule import RuleOutput, rule
from vervain.rules.stops.remedies import read_by_input, stop_in_plus
from vervain.stops.chains import Chain, chains_of, devices_in_strings, pin_at
from vervain.stops.circuit import Circuit, Worker
from vervain.stops.compiling import circuit_of, stop_devices
from vervain.stops.contacts import (
    free_contact,
    is_wired_against_itself,
    mirrors_of,
    used_contacts,
)
from vervain.stops.verdicts import (
    channels_never_opened,
    moves_at_work,
    stop_demand,
    stop_verdicts,
    strings_at_work,
)
from vervain.stops.words import demand_words, names_in_words, worker_in_words

# Where the two channels of a stop come in.
CHANNEL_ENTRIES = ("stop A+", "stop B+")


@rule(
    id="stops.never-closes",
    consequence="Won't run",
    scope="device",
    title="A string of the stops is open although nothing is pressed",
    reason="The coil at its end never picks up, or the input never sees its stop closed: the "
    "machine does not start.",
    source="The strings as they come to rest with every stop released and every button of a start "
    "pressed.",
)
def never_closes(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if device not in devices_in_strings(queries):
        return
    circuit = circuit_of(queries)
    for chain in chains_of(queries):
        if chain.is_power or not chain.ends or chain.ends[0].device != device:
            continue
        stops = {link.device for link in chain.all_links} & set(circuit.stops)
        if any(is_wired_against_itself(queries, stop) for stop in stops):
            # A stop that is NO or bridged is told by itself, and mended first.
            continue
        opened = _open_links(queries, circuit, chain)
        if opened:
            where = names_in_words(opened)
            yield RuleOutput(
                f"{worker_in_words(queries, chain.ends[0])} never gets what it waits for: {where} "
                f"{'is' if len(opened) == 1 else 'are'} open at rest.",
                (about(chain.ends[0]), *(about(name) for name in opened)),
                detail=worker_in_words(queries, chain.ends[0]),
            )


def _open_links(queries: Queries, circuit: Circuit, chain: Chain) -> tuple[str, ...]:
    """The contacts that keep a string open; none where it closes, or lacks something else."""
    works, closed, works_if_closed = strings_at_work(queries)
    numbers = [n for n, load in enumerate(circuit.loads) if load.ref in chain.ends]
    if not numbers or any(n in works for n in numbers):
        return ()
    if not any(n in works_if_closed for n in numbers):
        return ()
    links = [
        link for link in chain.all_links
        if link.kind == "contact" and link.number not in closed
    ]  # fmt: skip
    return tuple(dict.fromkeys(link.device for link in links))


@rule(
    id="stops.not-told",
    consequence="Unreliable",
    scope="device",
    title="The controller is not told of a stop",
    reason="The power goes and the program runs on: it counts steps that nobody makes, and when "
    "the power comes back the axes are elsewhere than it believes, and may start at full speed.",
    source="IEC 60204-1, emergency stop (a reset must not restart); steps are counted, not "
    "measured.",
)
def not_told(queries: Queries, device: str) -> Iterator[RuleOutput]:
    demand = stop_demand(queries, device)
    if demand is None or demand.is_seen or demand.restarts or demand.does_nothing or demand.stays:
        return
    boards = tuple(name for name in queries.devices() if _counts_steps(queries, name))
    if boards:
        free = free_contact(queries, device)
        fix = read_by_input(queries, free[0], free[1]) if free is not None else None
        done = demand_words(circuit_of(queries), device)
        yield RuleOutput(
            f"{done}: the power goes, and {names_in_words(boards)} "
            f"{'is' if len(boards) == 1 else 'are'} told nothing of it.",
            (about(device), *(about(name) for name in boards)),
            fixes=(fix,) if fix else (),
        )


def _counts_steps(queries: Queries, device: str) -> bool:
    part = queries.part_of(device)
    if part is None or part.kind != "controller":
        return False
    return any(port.kind == "digital input" for port in part.ports) and any(
        port.kind in ("step and direction", "driver slot") for port in part.ports
    )


@rule(
    id="stops.channel-idle",
    consequence="Unreliable",
    scope="device",
    title="No stop opens one of the channels",
    reason="Two channels are there so that one still stops the machine when the other fails. One "
    "that is always closed never will, and nothing shows it.",
    source="ISO 13849-1:2015 6.2.6 (a single fault must not lose the function); every stop is "
    "pressed in the simulation. No category is claimed.",
)
def channel_idle(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if device not in devices_in_strings(queries):
        return
    for pin in channels_never_opened(queries):
        if pin.device == device:
            yield RuleOutput(
                f"{pin_in_words(queries, pin)} stays closed whatever stop is pressed.",
                (about(pin),),
                detail=f"{pin.port} {pin.pin}",
            )


@rule(
    id="stops.minus-side",
    consequence="Unreliable",
    scope="device",
    title="A stop's contact is on the minus side of its coil",
    reason="One wire that touches the frame bridges the contact where the minus is earthed: the "
    "coil holds, pressed or not. On the plus side the same fault blows the fuse.",
    source="IEC 60204-1 9.4.3.1: contacts between the plus and the coil, the other end of the "
    "coil at the earthed conductor.",
)
def minus_side(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    is_relay = part is not None and part.is_safety_relay and device in devices_in_strings(queries)
    if device not in stop_devices(queries) and not is_relay:
        return
    circuit = circuit_of(queries)
    # Between two lines of the mains there is no minus.
    sources = {
        pin for s in circuit.sources
        if (pin := pin_at(queries, s.minus)) is not None
        and ((found := queries.pin(pin)) is None or found.function != "line")
    }  # fmt: skip
    # A bare coil pulls either way round: what lies at the minus may be either end.
    coils = {
        pin: load
        for load in circuit.loads
        if load.kind == "coil"
        for end in (load.minus, load.plus)
        if (pin := pin_at(queries, end)) is not None
    }

    for contact in used_contacts(queries, device):
        if contact.bridged:
            continue
        own = tuple((pin.port, pin.pin) for pin in contact.pins)

        def passes(other: str, element: Element, own: tuple[PinAt, ...] = own) -> bool:
            is_own = other == device and set(element.pins) <= set(own)
            return isinstance(element, Contact | Fuse) and not is_own

        sides = [
            frozenset(ref for net in nets_reached(queries, [pin], passes) for ref in net)
            for pin in contact.pins
        ]
        for here, there in (sides, sides[::-1]):
            held = [ref for pin, ref in coils.items() if pin in there]
            if held and sources & here and not sources & there:
                at_minus = contact.pins[0] if here is sides[0] else contact.pins[1]
                fix = stop_in_plus(queries, at_minus, held[0])
                coil = held[0].ref.device
                yield RuleOutput(
                    f"{device} {contact.pins[0].port} switches the minus of {coil}.",
                    (*(about(pin) for pin in contact.pins), about(coil)),
                    detail=contact.pins[0].port,
                    fixes=(fix,) if fix else (),
                )


@rule(
    id="stops.weld-unread",
    consequence="Unreliable",
    scope="device",
    title="Nobody would notice that a contactor stays closed",
    reason="One welded contactor of two still lets the machine stop, and nothing shows it: the "
    "day the other one welds, it does not. Its own NC contact stays open then; an input, or the "
    "circuit of the start button, that reads it makes the first one known.",
    source="ISO 13849-1:2015 6.2.6 and IEC 60947-4-1 annex F (mirror contacts); every contact is "
    "welded in the simulation. No category is claimed.",
)
def weld_unread(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if device not in devices_in_strings(queries):
        return
    circuit = circuit_of(queries)
    in_power = {
        link.number
        for chain in chains_of(queries)
        for link in chain.links
        if chain.is_power and link.kind == "contact" and link.device == device
    }
    if not in_power or not moves_at_work(queries):
        return
    welds = [
        circuit.contacts[verdict.fault.contact]
        for verdict in stop_verdicts(queries)
        if verdict.fault.kind == "welded" and verdict.fault.contact in in_power
        and verdict.noticed == "never" and not verdict.is_dangerous
    ]  # fmt: skip
    # The poles of one contactor have one contact that tells of them all.
    for coil, weld in {weld.coil: weld for weld in reversed(welds)}.items():
        if coil is None:
            continue
        mirror = free_contact(queries, device, coil)
        if mirror is not None and not set(mirror) & set(weld.pins):
            fix = read_by_input(queries, mirror[0], mirror[1])
            yield RuleOutput(
                f"{device} could weld unnoticed: nothing reads its NC contact {mirror[0].port}.",
                (about(weld.pins[0]), *(about(pin) for pin in mirror)),
                detail=weld.pins[0].port,
                fixes=(fix,) if fix else (),
            )
        elif mirror is None and (used := _read_mirrors(queries, device, coil)):
            yield RuleOutput(
                f"{device} could weld unnoticed: whether its NC contact {used[0][0].port} opens "
                "or not, nothing goes otherwise.",
                (about(weld.pins[0]), *(about(pin) for pin in used[0])),
                detail=weld.pins[0].port,
            )


def _read_mirrors(queries: Queries, device: str, coil: Worker) -> list[tuple[PinRef, PinRef]]:
    """The NC contacts that a coil works, joined at both ends, and from which a wire leads to the
    port of an input.
    """
    return [
        pair
        for pair in mirrors_of(queries, device, coil)
        if all(queries.steps(end) for end in pair)
        and any(
            isinstance(pin.electrical, LogicInput)
            for end in pair
            for path in paths_from(queries, end)
            if (port := queries.port(path.end.port_ref)) is not None
            for pin in port.pins
        )
    ]


@rule(
    id="stops.channels-crossed",
    consequence="Won't run",
    scope="device",
    title="What one channel gives comes back at the other",
    reason="A safety relay gives each channel a feed of its own, to know when the two touch. What "
    "comes back at the other channel is taken for that, and it never closes.",
    source="The prints of its terminals: S12 belongs to S11, and S22 to S21.",
)
def channels_crossed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part is not None and part.is_safety_relay else ():
        gives = {pin.text[:-1]: pin for pin in port.pins if pin.function == "plus"}
        takes = {pin.text[:-1]: pin for pin in port.pins if pin.function in CHANNEL_ENTRIES}
        if port.kind != "stop input" or len(gives) < 2 or set(gives) != set(takes):
            continue
        plug = PortRef(device=device, port=port.id)
        met = {
            stem: [s for s, pin in takes.items() if _comes_back_at(queries, plug, own, pin)]
            for stem, own in gives.items()
        }
        if any(stem in back for stem, back in met.items()) or not all(map(bool, met.values())):
            continue
        (first, one), (second, other) = list(takes.items())[:2]
        told = f"{gives[first].text} of {device} comes back at {other.text}, and "
        words = f"exchange {one.text} and {other.text} at {device} {port.id}"
        remedy = ExchangeTwo(plug=plug, first=one.id, second=other.id)
        yield RuleOutput(
            f"{told}{gives[second].text} at {one.text}: {device} never closes.",
            tuple(about(PinRef(device=device, port=port.id, pin=p.id)) for p in (one, other)),
            at=(about(plug),),
            fixes=(Fix(words=words, remedy=remedy),),
        )


def _comes_back_at(queries: Queries, plug: PortRef, given: Pin, taken: Pin) -> bool:
    """Whether what a pin of a plug gives comes back at another one, by wires and the contacts of
    other devices: the relay may have one plus behind several of its terminals.
    """
    start = PinRef(device=plug.device, port=plug.port, pin=given.id)
    end = PinRef(device=plug.device, port=plug.port, pin=taken.id)

    def beyond(at: PinRef) -> Iterator[PinRef]:
        if at == start or at.device != plug.device:
            yield from (step.end for step in queries.steps(at))
        if at.device != plug.device:
            yield from (*joined_inside(queries, at), *across(queries, at, is_contact))

    return end in reached([start], beyond)


RULES = (never_closes, not_told, channel_idle, minus_side, weld_unread, channels_crossed)
