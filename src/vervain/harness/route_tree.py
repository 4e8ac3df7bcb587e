"""The route as a tree: from the box outwards, each place under the run that leads to it."""

from collections import Counter

from vervain.model.base import Record
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import ways_on

# What sits where the control is.
CONTROL_KINDS = (
    "controller",
    "stepper driver",
    "supply",
    "motor bridge",
    "frequency inverter",
    "servo drive",
    "tool power source",
    "relay module",
)


class RouteNode(Record, frozen=True, kw_only=True):
    """A place, the run that leads to it ("" at a root), and the places beyond it."""

    place: str
    run: str = ""
    beyond: "tuple[RouteNode, ...]" = ()


@query
def root_place(queries: Queries) -> str | None:
    """The place with most controllers, drivers and supplies; else the first with a run."""
    count: Counter[str] = Counter()
    for designator in queries.devices():
        device, part = queries.device(designator), queries.part_of(designator)
        if device is not None and device.place and part and part.kind in CONTROL_KINDS:
            count[device.place] += 1
    places = [place.id for place in queries.places()]
    if not places:
        return None
    return max(places, key=lambda name: (count[name], -places.index(name)))


@query
def route_trees(queries: Queries) -> tuple[RouteNode, ...]:
    """The trees: that of the root first, then of places which no run joins to it. A run that would
    close a ring is in none of them (`ring_runs`).
    """
    root = root_place(queries)
    if root is None:
        return ()
    seen: set[str] = set()
    trees = []
    for place in (root, *(other.id for other in queries.places())):
        if place not in seen:
            trees.append(_grown(queries, place, seen))
    return tuple(trees)


def _grown(queries: Queries, start: str, seen: set[str]) -> RouteNode:
    """Breadth first, so that each place hangs on the fewest runs."""
    ways = ways_on(queries)
    seen.add(start)
    children: dict[str, list[tuple[str, str]]] = {}
    waiting = [start]
    while waiting:
        here = waiting.pop(0)
        for run, there in ways.get(here, ()):
            if there not in seen:
                seen.add(there)
                children.setdefault(here, []).append((run, there))
                waiting.append(there)

    def node(place: str, run: str) -> RouteNode:
        beyond = tuple(node(there, by) for by, there in children.get(place, ()))
        return RouteNode(place=place, run=run, beyond=beyond)

    return node(start, "")


def runs_of(node: RouteNode) -> tuple[str, ...]:
    """Every run of a tree, from its root outwards."""
    own = (node.run,) if node.run else ()
    return (*own, *(run for child in node.beyond for run in runs_of(child)))


@query
def ring_runs(queries: Queries) -> tuple[str, ...]:
    """The runs that are in no tree: second ways between places."""
    laid = {run for tree in route_trees(queries) for run in runs_of(tree)}
    return tuple(run.id for run in queries.runs() if run.id not in laid)


@query
def devices_at(queries: Queries) -> dict[str, tuple[str, ...]]:
    """The devices by the place that they sit at; under "" those that sit nowhere."""
    found: dict[str, list[str]] = {}
    for designator in queries.devices():
        device = queries.device(designator)
        if device is not None:
            found.setdefault(device.place or "", []).append(designator)
    return {place: tuple(names) for place, names in found.items()}
