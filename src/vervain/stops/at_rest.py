"""What runs without being told to: when the supplies come back, and while nothing switches it."""

from vervain.model.electrical import LogicInput
from vervain.model.part import Part, PartKind
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.stops.compiling import circuit_of
from vervain.stops.simulation import Conditions
from vervain.stops.verdicts import stop_judge
from vervain.stops.what_goes import goes_at_stop, stop_table

# What moves by itself once it has power, whatever a stop does with it.
MOVES: tuple[PartKind, ...] = ("brushed motor", "three-phase motor")


@query
def starting_by_itself(queries: Queries) -> tuple[str, ...]:
    """What would run as soon as the supplies come back: tools and motors that no controller and no
    drive has to be told to turn, with every start button let go and controllers doing nothing yet.
    """
    circuit = circuit_of(queries)
    if not circuit.must_go:
        return ()
    judge = stop_judge(queries)
    idle = frozenset(output.ref.device for output in circuit.outputs)
    settled = judge.simulator.settle(Conditions(started=False, off=idle))
    running = judge.names(judge.moves(settled))
    kinds = stop_table()["named_kinds"]
    return tuple(
        name
        for name in running
        if (part := queries.part_of(name)) and part.kind in kinds and not _is_told(part)
    )


@query
def on_only_at_rest(queries: Queries) -> tuple[str, ...]:
    """What heats or moves and has power while controllers do nothing yet, and none while they
    switch everything on.
    """
    circuit = circuit_of(queries)
    if not any(contact.is_nc and contact.coil is not None for contact in circuit.contacts):
        return ()
    judge = stop_judge(queries)
    idle = frozenset(output.ref.device for output in circuit.outputs)
    rest = judge.simulator.settle(Conditions(off=idle))
    names = judge.names(rest.on - judge.at_work.on)
    return tuple(
        name
        for name in names
        if goes_at_stop(queries, name)
        or ((part := queries.part_of(name)) is not None and part.kind in MOVES)
    )


def _is_told(part: Part) -> bool:
    """Whether a part has inputs that tell it to work."""
    return any(isinstance(pin.electrical, LogicInput) for port in part.ports for pin in port.pins)
