"""What the cores of a cable carry, and what they may: the one answer that rules, planner, fuses and
profiles ask for.
"""

import math

from vervain.electrical.copper import ampacity_a
from vervain.model.machine import PinRef, ends_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.loads import driver_rms_a
from vervain.supply.results import currents_of
from vervain.supply.states import LASTING_STATES

# Less than this loads no core, in A.
LEAST_A = 0.01


@query
def core_currents(queries: Queries, cable_id: str) -> tuple[tuple[int, float], ...]:
    """The largest lasting current in A of each core of a cable that carries one, by its number; the
    leads of a driven motor count with their peak, at which one phase may stand.
    """
    current_a: dict[int, float] = {}
    hookups = {hookup.id: hookup for hookup in queries.hookups_in(cable_id)}
    for state in LASTING_STATES:
        for hookup in hookups.values():
            for current in currents_of(queries, hookup.id, state):
                core = hookup.conductors[current.number].core
                if core is not None:
                    current_a[core] = max(current_a.get(core, 0.0), abs(current.current_a))
    for hookup in hookups.values():
        for conductor in hookup.conductors:
            peak = max((_peak_a(queries, ref) for ref in ends_of(hookup, conductor)), default=0.0)
            if conductor.core is not None and peak:
                current_a[conductor.core] = max(current_a.get(conductor.core, 0.0), peak)
    return tuple(sorted((core, value) for core, value in current_a.items() if value > LEAST_A))


def _peak_a(queries: Queries, ref: PinRef) -> float:
    """The peak current of a driver's motor terminal; 0 elsewhere."""
    pin, port = queries.pin(ref), queries.port(ref.port_ref)
    if pin is None or port is None or port.end != "host" or not pin.function.startswith("phase"):
        return 0.0
    return (driver_rms_a(queries, ref.device) or 0.0) * math.sqrt(2)


@query
def loaded_circuits(queries: Queries, cable_id: str) -> int:
    """How many circuits of a cable carry current together, each of two cores; one at least."""
    return max(1, (len(core_currents(queries, cable_id)) + 1) // 2)


@query
def core_limit_a(queries: Queries, cable_id: str) -> float | None:
    """What one core of a cable may carry in A, at the machine's temperature and with the circuits
    that are loaded in the cable; None where its cross-section is not known or in no table.
    """
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if part is None:
        return None
    return ampacity_a(part.core_mm2, queries.ambient_c(), loaded_circuits(queries, cable_id))
