"""Routes: how a lead gets from one place of the machine to another, along its runs."""

import heapq

from vervain.model.base import Record
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Kept over of a device's own leads for the loop in the box and the stripped ends.
SPARE_M = 0.15


class Route(Record, frozen=True, kw_only=True):
    """The runs from place to place in order, their length together, and whether one moves."""

    runs: tuple[str, ...] = ()
    length_m: float = 0.0
    moving: bool = False


@query
def ways_on(queries: Queries) -> dict[str, tuple[tuple[str, str], ...]]:
    """The runs that leave each place, each with the place that it leads to."""
    found: dict[str, list[tuple[str, str]]] = {}
    for run in queries.runs():
        found.setdefault(run.a, []).append((run.id, run.b))
        found.setdefault(run.b, []).append((run.id, run.a))
    return {place: tuple(ways) for place, ways in found.items()}


@query
def route_of_places(queries: Queries, first: str, second: str) -> Route | None:
    """The shortest way between two places (Dijkstra); None where no run leads there. Of equally
    long ones it is that with fewer runs, then the one whose runs are named first.
    """
    return _shortest(queries, first, second, "")


def _shortest(queries: Queries, first: str, second: str, without: str) -> Route | None:
    waiting: list[tuple[int, int, tuple[str, ...], str]] = [(0, 0, (), first)]
    done: set[str] = set()
    ways = ways_on(queries)
    while waiting:
        millimetres, count, runs, here = heapq.heappop(waiting)
        if here == second:
            return Route(
                runs=runs,
                length_m=millimetres / 1000,
                moving=any((run := queries.run(name)) is not None and run.moving for name in runs),
            )
        if here in done:
            continue
        done.add(here)
        for name, there in ways.get(here, ()):
            run = queries.run(name)
            if run is not None and there not in done and name != without:
                longer = millimetres + round(run.length_m * 1000)
                heapq.heappush(waiting, (longer, count + 1, (*runs, name), there))
    return None


@query
def other_way(queries: Queries, first: str, second: str, without: str) -> Route | None:
    """The shortest way between two places that leaves one run out."""
    return _shortest(queries, first, second, without)


@query
def route_between(queries: Queries, first: str, second: str) -> Route | None:
    """The shortest way between the places of two devices; None where a place is not given, or no
    run leads there.
    """
    starts, goal = place_of(queries, first), place_of(queries, second)
    if starts is None or goal is None:
        return None
    return route_of_places(queries, starts, goal)


def place_of(queries: Queries, designator: str) -> str | None:
    """The place that a device sits at."""
    found = queries.device(designator)
    return found.place if found else None


def lead_shortage_mm(queries: Queries, lead_length_m: float, runs: tuple[str, ...]) -> int:
    """How much leads lack on their way through runs, with what is kept over for the ends, in whole
    millimetres; 0 where they reach, or their length is not known.
    """
    if lead_length_m <= 0 or not runs:
        return 0
    way_mm = sum(millimetres(run.length_m) for name in runs if (run := queries.run(name)))
    return max(0, way_mm + millimetres(SPARE_M) - millimetres(lead_length_m))


def millimetres(length_m: float) -> int:
    """A length in whole millimetres, in which lengths are compared."""
    return round(length_m * 1000)
