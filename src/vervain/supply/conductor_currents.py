"""What flows in each conductor with everything on, and what it loses on its way."""

from typing import NamedTuple

from vervain.model.machine import PinRef, ends_of
from vervain.queries.connectivity import paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.loads import driver_rms_a
from vervain.supply.network_model import core_ohm
from vervain.supply.results import currents_of


class ConductorCurrent(NamedTuple):
    """The current in A (RMS in motor phases) and the drop along the conductor in V."""

    current_a: float
    drop_v: float


@query
def conductor_current(queries: Queries, hookup_id: str, row: int) -> ConductorCurrent | None:
    """The current of one conductor: of a motor's phase what its driver is set to, RMS; of a feed
    what the network gives with everything on; None where nothing is known.
    """
    hookup = queries.hookup(hookup_id)
    if hookup is None:
        return None
    current_a = _phase_a(queries, hookup_id, row)
    if current_a is None:
        found = [
            c.current_a for c in currents_of(queries, hookup_id, "everything") if c.number == row
        ]
        current_a = found[0] if found else None
    if current_a is None:
        return None
    return ConductorCurrent(current_a, round(current_a * core_ohm(queries, hookup, row), 3))


def _phase_a(queries: Queries, hookup_id: str, row: int) -> float | None:
    hookup = queries.hookup(hookup_id)
    for pin in ends_of(hookup, hookup.conductors[row]) if hookup else ():
        for ref in (pin, *(way.end for way in paths_from(queries, pin))):
            current_a = _driver_a(queries, ref)
            if current_a is not None:
                return current_a
    return None


@query
def _driver_a(queries: Queries, pin: PinRef) -> float | None:
    port, found = queries.port(pin.port_ref), queries.pin(pin)
    is_phase = found is not None and found.function.startswith("phase")
    if port is None or not is_phase or port.kind != "motor phases" or port.end != "host":
        return None
    current_a = driver_rms_a(queries, pin.device)
    return round(current_a, 3) if current_a is not None else None


def all_flowing(queries: Queries) -> dict[tuple[str, int], ConductorCurrent]:
    """Every conductor of which the current is known; solves the feed network once."""
    found = {}
    for hookup_id in queries.hookups():
        hookup = queries.hookup(hookup_id)
        for row in range(len(hookup.conductors) if hookup else 0):
            flowing = conductor_current(queries, hookup_id, row)
            if flowing is not None:
                found[hookup_id, row] = flowing
    return found
