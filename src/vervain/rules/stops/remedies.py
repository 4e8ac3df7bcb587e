"""What mends a stop: moves of single wires, offered after they were tried like every other fix."""

from itertools import takewhile

from msgspec.structs import replace

from vervain.electrical.open_ends import free_inputs
from vervain.model.electrical import FeedIn, FeedOut, LogicInput
from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import across, is_contact, joined_inside, steps_from
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.queries.walk import reached
from vervain.rules.finding import Fix
from vervain.rules.fixes import ExchangeTwo, InTurn, MoveEnd, PutConductor
from vervain.stops.chains import Chain, chains_of, pin_at
from vervain.stops.circuit import Circuit, LoadAt, port_of_worker
from vervain.stops.compiling import circuit_of
from vervain.stops.verdicts import nodes_live_after


def feed_behind_stop(queries: Queries, stop: str, staying: tuple[str, ...]) -> Fix | None:
    """Feeds the devices that keep power from behind a contact that a stop opens, where one switches
    the same source.
    """
    circuit = circuit_of(queries)
    loads = [circuit.loads[n] for n in circuit.must_go if circuit.loads[n].ref.device in staying]
    moves: list[MoveEnd] = []
    goal: PinRef | None = None
    for load in loads:
        plus = pin_at(queries, load.plus)
        steps = steps_from(queries, plus) if plus is not None else ()
        if plus is None or len(steps) != 1:
            return None
        far = steps[0].end
        if far.device in staying:
            # It hangs on another one of them, and goes with that.
            continue
        goal = _behind_stop(queries, stop, far, staying)
        if goal is None:
            return None
        moves.append(MoveEnd(kept=plus, old=far, new=goal))
    if not moves or goal is None:
        return None
    names = " and ".join(dict.fromkeys(move.kept.device for move in moves))
    words = f"feed {names} from {pin_in_words(queries, goal)}, behind the stop"
    remedy = moves[0] if len(moves) == 1 else InTurn(remedies=tuple(moves))
    return Fix(words=words, remedy=remedy)


def _behind_stop(
    queries: Queries, stop: str, fed_from: PinRef, staying: tuple[str, ...]
) -> PinRef | None:
    """A pin behind the last contact of a string of power that begins at the source of a pin, where
    no plus is left once a stop is pressed.
    """
    circuit = circuit_of(queries)
    live = nodes_live_after(queries, stop)
    source_plus = {
        number for number, source in enumerate(circuit.sources)
        if (pin := pin_at(queries, source.plus)) is not None and pin in queries.rail(fed_from)
    }  # fmt: skip
    for chain in chains_of(queries):
        # What an output works is on for what it is for alone, and so is what lies behind it.
        contacts = list(takewhile(
            lambda link: not _is_worked_by_output(queries, circuit, link.number),
            (link for link in chain.links if link.kind == "contact"),
        ))  # fmt: skip
        if chain.is_power and contacts and chain.source in source_plus:
            behind = pin_at(queries, contacts[-1].behind)
            is_off = contacts[-1].behind not in live
            if is_off and behind is not None and behind.device not in staying:
                return behind
    return None


def _is_worked_by_output(queries: Queries, circuit: Circuit, contact: int) -> bool:
    """Whether the coil of a contact, by its place, lies on an output of a controller."""
    coil = circuit.contacts[contact].coil
    outputs = {pin_at(queries, output.node) for output in circuit.outputs}
    ends = (node for load in circuit.loads if load.ref == coil for node in (load.plus, load.minus))
    pins = (pin for node in ends if (pin := pin_at(queries, node)) is not None)
    return any(outputs & {pin, *queries.net(pin)} for pin in pins)


def stop_in_plus(queries: Queries, contact: PinRef, load: LoadAt) -> Fix | None:
    """Turns the string of a coil round at its source, and the coil with it, so that a contact in
    its minus is in its plus. `contact` is the pin of the contact that lies at minus.
    """
    chain = next((chain for chain in chains_of(queries) if load.ref in chain.ends), None)
    plus, minus = pin_at(queries, load.plus), pin_at(queries, load.minus)
    backs = steps_from(queries, contact)
    if chain is None or plus is None or minus is None or len(backs) != 1:
        return None
    first = _first_wire(queries, chain, load)
    if first is None:
        return None
    (plus_end, kept), minus_end = first, backs[0].end
    moves = (
        MoveEnd(kept=kept, old=plus_end, new=minus_end),
        MoveEnd(kept=contact, old=minus_end, new=plus_end),
        ExchangeTwo(plug=port_of_worker(load.ref), first=plus.pin, second=minus.pin),
    )
    words = (
        f"turn the string round: {pin_in_words(queries, contact)} to plus, {load.ref.device} to 0 V"
    )
    return Fix(words=words, remedy=InTurn(remedies=moves))


def _first_wire(queries: Queries, chain: Chain, load: LoadAt) -> tuple[PinRef, PinRef] | None:
    """The pins of the wire with which a string leaves the rail: behind it lies its coil, and
    nothing else that is fed.
    """
    groups = (*(link.wires for link in chain.links), chain.last_wires)
    for along in (wire for group in groups for wire in group):
        start, end = pin_at(queries, along.start), pin_at(queries, along.end)
        if start is not None and end is not None:
            behind = _behind(queries, end, {start, end})
            if _fed_in(queries, behind) == {load.ref}:
                return start, end
    return None


def _behind(queries: Queries, start: PinRef, without: set[PinRef]) -> set[PinRef]:
    """Every pin that is joined to one by copper and contacts, but for one wire."""

    def beyond(pin: PinRef) -> list[PinRef]:
        steps = [step.end for step in steps_from(queries, pin) if {pin, step.end} != without]
        return [*steps, *joined_inside(queries, pin), *across(queries, pin, is_contact)]

    return set(reached([start], beyond))


def _fed_in(queries: Queries, pins: set[PinRef]) -> set[PortRef]:
    """The ports that are fed or feed at some pins."""
    return {
        ref.port_ref
        for ref in pins
        if (pin := queries.pin(ref)) is not None and isinstance(pin.electrical, FeedIn | FeedOut)
    }


def read_by_input(queries: Queries, first: PinRef, second: PinRef) -> Fix | None:
    """Joins a contact to an input that nothing is joined to: to its signal, and to its 0 V or,
    where its jumper is set so, its plus.
    """
    for signal in free_inputs(queries):
        port, pin = queries.port(signal.port_ref), queries.pin(signal)
        entry = pin.electrical if pin is not None else None
        if port is None or port.kind != "digital input" or not isinstance(entry, LogicInput):
            continue
        reads = queries.setting(signal.device, entry.reads_option) if entry.reads_option else ""
        wanted = "plus" if (reads or entry.reads) == "PNP" else "zero"
        back = next((pin.id for pin in port.pins if pin.function == wanted), None)
        if back is None:
            continue
        joins = (
            PutConductor(first=signal, second=first),
            PutConductor(first=replace(signal, pin=back), second=second),
        )
        words = f"let {signal.device} {port.id} read {first.device} {first.port}"
        return Fix(words=words, remedy=InTurn(remedies=joins))
    return None
