"""Choosing: a gauge for a feed, the size of a supply, a fuse between load and wire."""

import tomllib

import msgspec

from vervain.data import data_text, table_reader
from vervain.electrical.copper import ampacity_a
from vervain.model.cable_part import CablePart
from vervain.model.elements import Fuse, FuseKind
from vervain.model.part import Part
from vervain.queries.machine_queries import Queries
from vervain.supply.results import DeliveredPower, drop_limit
from vervain.supply.states import State
from vervain.supply.voltage_profile import costliest, feed_path, lost_in_cables

# A blade fuse should carry at most this part of its rating for long (UL 248-14).
FUSE_LOAD = 0.75
# The part of its rating that a supply should give for long, by practice.
RELIABLE = 0.8
# Gauges that are sold by the metre.
USUAL_MM2 = (
    0.14, 0.25, 0.34, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0,
    95.0, 120.0,
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


def gauges_for(
    queries: Queries, state: State, arrival: DeliveredPower
) -> tuple[tuple[str, ...], float] | None:
    """The cable that costs a consumer most, else all those on its way, and the thinnest usual gauge
    with which what is lost is within its limit; None where thicker cores alone will not do.

    The rest of the way stays: R_new = R_old x A_old / A_new for the cores of those cables.
    """
    path = feed_path(queries, state, arrival.pin)
    if path is None or arrival.voltage_v is None or not arrival.source_v:
        return None
    if arrival.lost is None or arrival.lost <= drop_limit(arrival):
        return None
    allowed_v = 0.95 * drop_limit(arrival) * arrival.source_v
    lost = lost_in_cables(queries, path)
    areas = {name: part.core_mm2 for name in lost if (part := part_of_cable(queries, name))}
    first = costliest(lost)
    for names in ((first[0],) if first else (), tuple(areas)):
        rest_v = arrival.source_v - arrival.voltage_v - sum(lost[name] for name in names)
        for area in USUAL_MM2:
            thinner = tuple(name for name in names if areas.get(name, area) < area)
            left_v = sum(lost[n] * min(1.0, areas.get(n, area) / area) for n in names)
            if thinner and rest_v + left_v <= allowed_v:
                return thinner, area
    return None


def part_of_cable(queries: Queries, name: str) -> CablePart | None:
    """The part of a cable; None where there is no such cable, or nobody knows what it is."""
    cable = queries.cable(name)
    return queries.cable_part(cable.part) if cable is not None else None


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
