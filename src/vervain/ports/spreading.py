"""A plug of several signals over the single lines of a controller that has no port of its kind:
step and direction at two outputs, the channels of an encoder at two inputs.
"""

from collections.abc import Iterator

from vervain.edits.plug_edits import put_conductor
from vervain.electrical.feeds import zero_pin_of
from vervain.model.base import Record
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.part import Pin, PortKind
from vervain.model.ways_back import forward_of
from vervain.ports.compatibility import mates_of
from vervain.ports.fit_issues import troubles_of
from vervain.ports.insertions import Addition, DividerAt, PullUpAt, ResistorAt, add_missing
from vervain.ports.occupancy import kept_for
from vervain.ports.port_wishes import says_what_for
from vervain.ports.rails import rail_for
from vervain.queries.connectivity import occupants
from vervain.queries.machine_queries import Queries

# What is spread, and the ports of one line that it goes over.
SPREAD: frozenset[PortKind] = frozenset({"step and direction", "bridge control", "encoder"})
LINES: frozenset[PortKind] = frozenset({"switched output", "digital input"})
FEEDS = ("plus", "zero")
# An output that carries more switches loads; a level needs none of it.
MOST_LEVEL_A = 1.0

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
    port = queries.port(plug)
    if port is None or port.kind not in SPREAD:
        return None
    needed = [f for f in mates_of(port.kind, port.kind)[0].needed if f not in FEEDS]
    signals = [pin for function in needed for pin in port.pins if pin.function == function]
    for board in queries.devices():
        part = queries.part_of(board)
        if signals and part is not None and part.kind == "controller" and board != plug.device:
            found = _on_board(queries, plug, signals, board)
            if found is not None:
                return found
    return None


def _on_board(queries: Queries, plug: PortRef, signals: list[Pin], board: str) -> Spread | None:
    """A plug over the lines of one controller: each signal at the first free line that suits it,
    its minus at the 0 V of that, or the other way round where the line only pulls down.
    """
    port = queries.port(plug)
    lines = list(_free_lines(queries, board))
    wires: list[Wire] = []
    adds: list[tuple[PortRef, Addition]] = []
    hosts: list[PortRef] = []
    for pin in signals:
        ours = PinRef(device=plug.device, port=plug.port, pin=pin.id)
        answers = ((line, _additions(queries, ours, line)) for line in lines)
        line, added = next(((at, found) for at, found in answers if found is not None), (None, ()))
        if line is None:
            return None
        lines.remove(line)
        hosts.append(line.port_ref)
        wires.append((ours, line))
        adds += [(line.port_ref, addition) for addition in added or ()]
    assert port is not None
    for pin in port.pins:
        ours = PinRef(device=plug.device, port=plug.port, pin=pin.id)
        if pin.function == "zero":
            forward = forward_of(port, pin)
            at = next((b for a, b in wires if forward is not None and a.pin == forward.id), None)
            if forward is not None and at is None:
                # The minus of a signal that stays open.
                continue
            end = zero_pin_of(queries, at or wires[0][1], None)
        elif pin.function == "plus":
            end = _plus_for(queries, ours, hosts)
        else:
            continue
        if end is None:
            return None
        wires.append((ours, end))
    return Spread(plug=plug, wires=tuple(wires), hosts=tuple(hosts), adds=tuple(adds))


def _free_lines(queries: Queries, board: str) -> Iterator[PinRef]:
    """The lines of a controller that nothing sits at, that are called after nothing and kept for
    nothing; those that give a level before those that switch loads.
    """
    part = queries.part_of(board)
    found: list[tuple[bool, PinRef]] = []
    for port in part.ports if part is not None else ():
        ref = PortRef(device=board, port=port.id)
        signals = [p for p in port.pins if isinstance(p.electrical, LogicInput | LogicOutput)]
        if port.end != "host" or port.kind not in LINES or len(signals) != 1:
            continue
        limits = signals[0].electrical
        heavy = isinstance(limits, LogicOutput) and (limits.current_a or 0.0) > MOST_LEVEL_A
        taken = occupants(queries, ref) or kept_for(queries, ref) or says_what_for(port.id)
        if not taken and not heavy:
            at = PinRef(device=board, port=port.id, pin=signals[0].id)
            found.append((signals[0].function == "load-", at))
    yield from (at for _, at in sorted(found, key=lambda item: item[0]))


def _additions(queries: Queries, ours: PinRef, line: PinRef) -> tuple[Addition, ...] | None:
    """What has to lie between a signal and a line; None where they do not go together."""
    mine, there = queries.pin(ours), queries.pin(line)
    reads, gives = (
        [isinstance(pin.electrical, kind) for pin in (mine, there) if pin is not None]
        for kind in (LogicInput, LogicOutput)
    )
    if mine is None or there is None or sorted(zip(reads, gives, strict=True)) != [
        (False, True), (True, False),
    ]:  # fmt: skip
        return None
    pulls_down = isinstance(there.electrical, LogicOutput) and there.electrical.drive == "NPN"
    if pulls_down and isinstance(mine.electrical, LogicInput) and mine.electrical.isolated:
        # Its current would have to come from a plus, through the diode, into the output.
        return None
    issues = tuple(troubles_of(queries, ours.port_ref, line.port_ref, ((ours.pin, line.pin),)))
    if any(issue.refuses or issue.option is not None for issue in issues):
        return None
    between = (ResistorAt, DividerAt, PullUpAt)
    return tuple(issue.adds for issue in issues if isinstance(issue.adds, between))


def _plus_for(queries: Queries, ours: PinRef, hosts: list[PortRef]) -> PinRef | None:
    """Where a plug gets its plus: at a port that its signals take, else from the supply that suits
    both ends.
    """
    for host in hosts:
        issues = []
        port = queries.port(host)
        for pin in port.pins if port is not None else ():
            if pin.function == "plus":
                issues = list(troubles_of(queries, ours.port_ref, host, ((ours.pin, pin.id),)))
                if not any(issue.refuses for issue in issues):
                    return PinRef(device=host.device, port=host.port, pin=pin.id)
    return rail_for(queries, hosts[0].device, ours, "plus")


def put_spread(machine: Machine, spread: Spread) -> Machine:
    """The machine with the wires of a spread, and what lies in them."""
    for ours, theirs in spread.wires:
        machine = put_conductor(machine, ours, theirs)
    for host, addition in spread.adds:
        machine = add_missing(machine, spread.plug, host, (addition,), None)
    return machine
