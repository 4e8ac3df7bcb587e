"""Choosing: a gauge for a feed, the size of a supply, a fuse between load and wire."""

import tomllib

import msgspec

from vervain.data import data_text, table_reader
from vervain.electrical.copper import ampacity_a
from vervain.model.elements import Fuse, FuseKind
from vervain.model.part import Part
from vervain.queries.machine_queries import Queries
from vervain.supply.results import DeliveredPower, drop_limit
from vervain.supply.states import State
from vervain.supply.voltage_profile import costliest_cable, feed_path

# A blade fuse should carry at most this part of its rating for long (UL 248-14).
FUSE_LOAD = 0.75
# The part of its rating that a supply should give for long, by practice.
RELIABLE = 0.8
# Gauges that are sold by the metre.
USUAL_MM2 = (
    0.14, 0.25, 0.34, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0,
)  # fmt: skip


@table_reader
def fuse_ratings() -> dict[FuseKind, tuple[float, ...]]:
    """What fuses of each kind are sold with, in A, the smallest first; data/tables/fuses.toml."""
    rows = tomllib.loads(data_text("tables/fuses.toml"))["ratings"]
    read = msgspec.convert(rows, dict[FuseKind, tuple[float, ...]])
    return {kind: tuple(sorted(ratings)) for kind, ratings in read.items()}


def ratings_of(part: Part | None) -> tuple[float, ...]:
    """The usual fuses in A that a holder takes, the smallest first."""
    kinds = [e.kind for e in (part.inside if part is not None else ()) if isinstance(e, Fuse)]
    usual = fuse_ratings()[kinds[0] if kinds else "blade"]
    option = part.option("rating_a") if part is not None else None
    if option is None:
        return ()
    least, most = option.minimum or 0.0, option.maximum or float("inf")
    return tuple(float(rating) for rating in usual if least <= rating <= most)


def gauge_for(queries: Queries, state: State, arrival: DeliveredPower) -> tuple[str, float] | None:
    """The cable that costs a consumer most, and the thinnest usual gauge with which what is lost is
    within its limit; None where thicker cores alone will not do.

    The rest of the way stays: R_new = R_old x A_old / A_new for that cable's cores alone.
    """
    path = feed_path(queries, state, arrival.pin)
    costly = costliest_cable(queries, path) if path is not None else None
    if costly is None or arrival.voltage_v is None or not arrival.source_v:
        return None
    name, lost_v = costly
    cable = queries.cable(name)
    part = queries.cable_part(cable.part) if cable else None
    if part is None:
        return None
    allowed = 0.95 * drop_limit(arrival) * arrival.source_v
    rest = (arrival.source_v - arrival.voltage_v) - lost_v
    if rest >= allowed:
        return None
    wanted = part.core_mm2 * lost_v / (allowed - rest)
    found = next((area for area in USUAL_MM2 if area >= wanted), None)
    return (name, found) if found is not None and found > part.core_mm2 else None


def gauge_for_current(current_a: float, ambient_c: float, circuits: int = 1) -> float | None:
    """The thinnest usual gauge of which each core may carry a current, at a temperature and with so
    many loaded circuits together; None where none is thick enough.
    """
    return next(
        (area for area in USUAL_MM2 if (ampacity_a(area, ambient_c, circuits) or 0.0) >= current_a),
        None,
    )


def supply_size_a(current_a: float) -> float:
    """The rating in A of a supply that gives a current for long and has a fifth in reserve."""
    return current_a / RELIABLE
