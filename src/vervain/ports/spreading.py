"""A plug of several signals over the single lines of a controller that has no port of its kind:
step and direction at two outputs, the channels of an encoder at two inputs.
"""

from collections.abc import Iterator

from msgspec.structs import replace

from vervain.edits.plug_edits import put_conductor
from vervain.electrical.feeds import sources_of, zero_pin_of
from vervain.electrical.pin_needs import needs_of_port
from vervain.electrical.unmet_needs import is_met
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.part import Part, Pin, PinFunction, Port, PortKind
from vervain.model.ways_back import forward_of
from vervain.ports.called_alike import are_called_alike, says_what_for
from vervain.ports.compatibility import mates_of
from vervain.ports.fit_issues import line_troubles, troubles_of
from vervain.ports.insertions import Addition, DividerAt, PullAt, ResistorAt, add_missing
from vervain.ports.occupancy import kept_for
from vervain.ports.rails import lower_plus, rail_for
from vervain.ports.signal_issues import FitIssue
from vervain.queries.connectivity import host_ports, occupants
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import ports_at_one_pin

# What is spread, and the ports of one line that it goes over.
SPREAD: frozenset[PortKind] = frozenset(
    {"step and direction", "bridge control", "encoder", "servo"}
)
LINES: frozenset[PortKind] = frozenset({"switched output", "digital input"})
ANALOGUE_LINES: frozenset[PortKind] = frozenset({"analogue input"})
FEEDS = ("plus", "zero")
TELLS: tuple[PinFunction, ...] = ("signal", "alarm")
FEEDS_OF_LOADS = ("load+", "load-")
# An output that carries more switches loads; a level needs none of it.
MOST_LEVEL_A = 1.0
# What an isolated input says to an output that only pulls down.
PULLS_DOWN = "It only pulls down: the current would have to come from a plus, through the diode."

Wire = tuple[PinRef, PinRef]


class Spread(Record, frozen=True, kw_only=True):
    """The wires of a plug, each from its pin to another; the ports that its signals take, in the
    order of its pins; and what has to lie before one of them.
    """

    plug: PortRef
    wires: tuple[Wire, ...]
    hosts: tuple[PortRef, ...]
    adds: tuple[tuple[PortRef, Addition], ...] = ()


def spread_of(queries: Queries, plug: PortRef) -> Spread | None:
    """How a plug goes over the single lines of the first controller that has enough of them; None
    where none has.
    """
    signals = signals_of(queries, plug)
    for board in queries.devices():
        part = queries.part_of(board)
        if signals and part is not None and part.kind == "controller" and board != plug.device:
            found = _on_board(queries, plug, signals, board)
            if found is not None:
                return found
    return None


def signals_of(queries: Queries, plug: PortRef) -> list[Pin]:
    """The pins of a plug that want a line each; none of what is not spread."""
    port = queries.port(plug)
    if port is not None and port.kind == "sensor" and not _has_feed(port):
        # A keypad: each of its rows is driven, each of its columns read.
        return [p for p in port.pins if isinstance(p.electrical, LogicInput | LogicOutput)]
    if port is not None and port.kind == "bus":
        # Lamps in a string hear what any output gives; what has more lines wants a bus.
        lines = [pin for pin in port.pins if pin.function not in (*FEEDS, "none")]
        return lines if [pin.function for pin in lines] == ["receive"] else []
    if port is not None and port.kind == "load":
        # A fan of four leads is told its speed by any output, and fed from its supply.
        return [p for p in port.pins if p.function == "pulse width" and p.electrical is not None]
    if port is None or port.kind not in SPREAD:
        return []
    needed = [f for f in mates_of(port.kind, port.kind)[0].needed if f not in FEEDS]
    return [pin for function in needed for pin in port.pins if pin.function == function]


def goes_over_lines(queries: Queries, plug: PortRef) -> bool:
    """Whether a plug has several signals and nothing else, so that single lines are for it: a
    keypad's.
    """
    port = queries.port(plug)
    is_plain = port is not None and port.kind == "sensor" and not _has_feed(port)
    return is_plain and len(signals_of(queries, plug)) > 1


def _has_feed(port: Port) -> bool:
    """Whether a port has a plus or a 0 V."""
    return any(pin.function in FEEDS for pin in port.pins)


def rest_of(queries: Queries, plug: PortRef, board: str) -> Spread | None:
    """How the signals of a plug that is in a line already, and needs more than that has, go over
    others of the same controller: the direction of a drive. None where it needs none, or there is
    no line.
    """
    port, part = queries.port(plug), queries.part_of(plug.device)
    if port is None or part is None:
        return None
    lacking = _lacking(queries, plug, part, port)
    if not lacking and port.kind == "drive control":
        # One way is enough for a drive, both are of more use where a line is left.
        lacking = [
            pin for pin in port.pins
            if pin.function == "direction" and isinstance(pin.electrical, LogicInput)
            and not queries.steps(PinRef(device=plug.device, port=plug.port, pin=pin.id))
        ]  # fmt: skip
    return _over_lines(queries, plug, lacking, board) if lacking else None


def told_beside(queries: Queries, plug: PortRef) -> Spread | None:
    """How what a driver tells by a plug of its own goes to the alarm of the port by which it is
    commanded; None where that has none that is free.
    """
    port, part = queries.port(plug), queries.part_of(plug.device)
    tells = [p for p in (port.pins if port is not None else ()) if p.function in TELLS]
    commands = [
        PortRef(device=plug.device, port=own.id)
        for own in (part.ports if part is not None else ())
        if own.kind == "step and direction" and own.end == "device"
    ]  # fmt: skip
    for host in (ref for command in commands for ref in host_ports(queries, command)):
        there = queries.port(host)
        for pin in there.pins if there is not None and len(tells) == 1 else ():
            ours = PinRef(device=plug.device, port=plug.port, pin=tells[0].id)
            at = PinRef(device=host.device, port=host.port, pin=pin.id)
            if pin.function != "alarm" or queries.steps(at) or there is None or port is None:
                continue
            if any(issue.refuses for issue in line_troubles(queries, ours, at)):
                continue
            wires = [(ours, at)]
            back = next((p for p in there.pins if forward_of(there, p) == pin), None)
            zero = next((p for p in port.pins if p.function == "zero"), None)
            if back is not None and zero is not None:
                wires.append((replace(ours, pin=zero.id), replace(at, pin=back.id)))
            return Spread(plug=plug, wires=tuple(wires), hosts=(host,))
    return None


def held_high(queries: Queries, plug: PortRef, host: PortRef) -> Spread | None:
    """How what enables a bridge lies at the plus of its signals, so that it may work whenever it
    has power; None where it enables itself, or there is no such plus.
    """
    port, part = queries.port(plug), queries.part_of(plug.device)
    if port is None or part is None or port.kind != "bridge control":
        return None
    wires: list[Wire] = []
    for pin in _lacking(queries, plug, part, port):
        ours = PinRef(device=plug.device, port=plug.port, pin=pin.id)
        plus = _plus_for(queries, ours, (host,)) if pin.function == "enable" else None
        if plus is not None:
            wires.append((ours, plus))
    return Spread(plug=plug, wires=tuple(wires), hosts=(host,)) if wires else None


def _lacking(queries: Queries, plug: PortRef, part: Part, port: Port) -> list[Pin]:
    """The signals of a plug that are joined to nothing, and needed."""
    needs = needs_of_port(part, port)
    return [
        pin for pin in port.pins
        if isinstance(pin.electrical, LogicInput | LogicOutput)
        and not queries.steps(at := PinRef(device=plug.device, port=plug.port, pin=pin.id))
        and any(pin.function in need.functions and not is_met(queries, need, at) for need in needs)
    ]  # fmt: skip


def _on_board(queries: Queries, plug: PortRef, signals: list[Pin], board: str) -> Spread | None:
    """A plug over the lines of one controller, with its 0 V and its plus; None where one lacks."""
    port = queries.port(plug)
    spread = _over_lines(queries, plug, signals, board)
    if spread is None or port is None:
        return None
    spread, lower = _with_lower_plus(queries, plug, spread)
    wires = list(spread.wires)
    feeds = [pin for pin in port.pins if pin.function in (*FEEDS, *FEEDS_OF_LOADS)]
    plus: PinRef | None = None
    # The plus first: what a supply gives goes back to it.
    for pin in sorted(feeds, key=lambda pin: pin.function not in ("plus", "load+")):
        ours = PinRef(device=plug.device, port=plug.port, pin=pin.id)
        forward = forward_of(port, pin)
        if pin.function in ("plus", "load+"):
            end = plus = lower or _plus_for(queries, ours, spread.hosts)
        elif forward is not None and forward.function not in FEEDS:
            at = next((b for a, b in spread.wires if a.pin == forward.id), None)
            if at is None:
                # The minus of a signal that stays open.
                continue
            end = zero_pin_of(queries, at, None)
        else:
            end = zero_pin_of(queries, plus or spread.wires[0][1], None)
        if end is None:
            return None
        wires.append((ours, end))
    return replace(spread, wires=tuple(wires))


def _with_lower_plus(
    queries: Queries, plug: PortRef, spread: Spread
) -> tuple[Spread, PinRef | None]:
    """A spread without dividers, and the plus that the board gives besides by which it needs none;
    as it is, and None, where there is no such plus.
    """
    port = queries.port(plug)
    high = {at for at, addition in spread.adds if isinstance(addition, DividerAt)}
    plus = next((p for p in (port.pins if port else ()) if p.function == "plus"), None)
    if not high or plus is None:
        return spread, None
    ours = PinRef(device=plug.device, port=plug.port, pin=plus.id)
    entries = [line for _, line in spread.wires if line.port_ref in high]
    found = {lower_plus(queries, line.device, ours, line) for line in entries}
    lower = found.pop() if len(found) == 1 else None
    if lower is None:
        return spread, None
    kept = tuple(row for row in spread.adds if not isinstance(row[1], DividerAt))
    return replace(spread, adds=kept), lower


def _over_lines(queries: Queries, plug: PortRef, signals: list[Pin], board: str) -> Spread | None:
    """Each signal of a plug at the first free line of a controller that suits it."""
    port = queries.port(plug)
    is_analogue = port is not None and port.kind == "analogue sensor"
    kinds = ANALOGUE_LINES if is_analogue else LINES
    lines = list(free_lines(queries, board, kinds, plug))
    wires: list[Wire] = []
    adds: list[tuple[PortRef, Addition]] = []
    for pin in signals:
        ours = PinRef(device=plug.device, port=plug.port, pin=pin.id)
        own = [line for line in lines if _is_printed_so(pin, line)]
        others = [line for line in lines if line not in own]
        answers = ((line, _additions(queries, ours, line)) for line in (*own, *others))
        line, added = next(((at, found) for at, found in answers if found is not None), (None, ()))
        if line is None:
            return None
        beside = {other for _, other in ports_at_one_pin(queries, line.port_ref)}
        lines = [at for at in lines if at != line and at.port_ref not in beside]
        wires.append((ours, line))
        adds += [(line.port_ref, addition) for addition in added or ()]
    hosts = tuple(line.port_ref for _, line in wires)
    return Spread(plug=plug, wires=tuple(wires), hosts=hosts, adds=tuple(adds))


def _is_printed_so(pin: Pin, line: PinRef) -> bool:
    """Whether a line of a connector is called as a pin is: KEYS R1 and R1."""
    *before, last = line.port.split()
    return bool(before) and last.casefold() == pin.text.casefold()


def free_lines(
    queries: Queries, board: str, kinds: frozenset[PortKind], plug: PortRef
) -> Iterator[PinRef]:
    """The lines of some kinds of a controller that nothing sits at, that are called after nothing
    else than the device of a plug, and kept for nothing; those called after it first, then those
    that give a level, before those that switch loads.
    """
    part = queries.part_of(board)
    found: list[tuple[bool, bool, PinRef]] = []
    for port in part.ports if part is not None else ():
        ref = PortRef(device=board, port=port.id)
        signals = [p for p in port.pins if isinstance(p.electrical, LogicInput | LogicOutput)]
        if port.end != "host" or port.kind not in kinds or len(signals) != 1:
            continue
        limits = signals[0].electrical
        heavy = isinstance(limits, LogicOutput) and (limits.current_a or 0.0) > MOST_LEVEL_A
        here = (ref, *(other for _, other in ports_at_one_pin(queries, ref)))
        taken = any(occupants(queries, at) or kept_for(queries, at) for at in here)
        is_its = are_called_alike(queries, plug.device, port.id)
        taken = taken or (says_what_for(port.id) and not is_its)
        if not taken and not heavy:
            at = PinRef(device=board, port=port.id, pin=signals[0].id)
            found.append((not is_its, signals[0].function == "load-", at))
    yield from (at for *_, at in sorted(found, key=lambda item: item[:2]))


def issues_at(queries: Queries, ours: PinRef, line: PinRef) -> tuple[FitIssue, ...] | None:
    """What is against a signal at a line; None where it is none of its kind: what is read goes to
    what gives, and the other way round.
    """
    mine, there = queries.pin(ours), queries.pin(line)
    if mine is None or there is None:
        return None
    ends = (mine.electrical, there.electrical)
    if not (
        any(isinstance(end, LogicInput) for end in ends)
        and any(isinstance(end, LogicOutput) for end in ends)
    ):
        return None
    pulls_down = isinstance(there.electrical, LogicOutput) and there.electrical.drive == "NPN"
    if pulls_down and isinstance(mine.electrical, LogicInput) and mine.electrical.isolated:
        return (FitIssue(reason=PULLS_DOWN, refuses=True),)
    return tuple(line_troubles(queries, ours, line))


def _additions(queries: Queries, ours: PinRef, line: PinRef) -> tuple[Addition, ...] | None:
    """What has to lie between a signal and a line; None where they do not go together."""
    issues = issues_at(queries, ours, line)
    if issues is None or any(issue.refuses or issue.option is not None for issue in issues):
        return None
    between = (ResistorAt, DividerAt, PullAt)
    return tuple(issue.adds for issue in issues if isinstance(issue.adds, between))


def _plus_for(queries: Queries, ours: PinRef, hosts: tuple[PortRef, ...]) -> PinRef | None:
    """Where a plug gets its plus: at a port that its signals take, where that gives as much as it
    takes, else from the supply that suits both ends.
    """
    pin = queries.pin(ours)
    taken = pin.electrical if pin is not None else None
    wanted_a = taken.current_a or 0.0 if isinstance(taken, FeedIn) else 0.0
    for host in hosts:
        port = queries.port(host)
        for there in port.pins if port is not None else ():
            at = PinRef(device=host.device, port=host.port, pin=there.id)
            sources = sources_of(queries, at) if there.function == "plus" else ()
            gives_a = sum(source.feed.current_a for source in sources)
            pairs = ((ours.pin, there.id),)
            if gives_a > wanted_a and not any(
                issue.refuses for issue in troubles_of(queries, ours.port_ref, host, pairs)
            ):
                return at
    return rail_for(queries, hosts[0].device, ours, "plus")


def put_spread(machine: Machine, spread: Spread) -> Machine:
    """The machine with the wires of a spread, and what lies in them."""
    for ours, theirs in spread.wires:
        machine = put_conductor(machine, ours, theirs)
    for host, addition in spread.adds:
        machine = add_missing(machine, spread.plug, host, (addition,), None)
    return machine
