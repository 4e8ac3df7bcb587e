"""The route of each cable: the places that its ends come to, and the runs between."""

from vervain.model.base import Record
from vervain.model.machine import Hookup, PortRef
from vervain.model.part import SEATED, WIRED_IN_PLACE, PartKind
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import lead_shortage_mm, place_of, route_of_places

# What has terminals and no leads: it is wired within one place as well.
WITH_TERMINALS: tuple[PartKind, ...] = (
    "contactor", "solid-state relay", "relay module", "three-phase motor", "emergency stop",
)  # fmt: skip


class CableRoute(Record, frozen=True, kw_only=True):
    """Where a cable runs: the places of its ends, the runs between, and what is not known.

    `missing` says in words why there is no whole route; "" where there is one.
    """

    places: tuple[str, ...] = ()
    runs: tuple[str, ...] = ()
    missing: str = ""


@query
def cable_ports(queries: Queries, cable_id: str) -> tuple[PortRef, ...]:
    """Every port that a cable's cores come to, in the order of the hookups."""
    return tuple(
        dict.fromkeys(
            end for hookup in queries.hookups_in(cable_id) for end in (hookup.a, hookup.b)
        )
    )


@query
def cable_route(queries: Queries, cable_id: str) -> CableRoute:
    """The route of a cable: the runs that it is given, else the shortest between its ends; where
    it comes to more than two places, the shortest ways from the first to each.
    """
    cable = queries.cable(cable_id)
    ports = cable_ports(queries, cable_id)
    return _route(queries, ports, cable.runs if cable else ())


@query
def lead_route(queries: Queries, hookup_id: str) -> CableRoute:
    """The route of a device's own leads that are joined without a cable."""
    hookup = queries.hookup(hookup_id)
    return _route(queries, (hookup.a, hookup.b), ()) if hookup else CableRoute(missing="not joined")


def _route(queries: Queries, ports: tuple[PortRef, ...], given: tuple[str, ...]) -> CableRoute:
    if not ports:
        return CableRoute(missing="joined to nothing")
    for ref in ports:
        if place_of(queries, ref.device) is None:
            return CableRoute(runs=given, missing=f"{ref.device} has no place")
    places = tuple(dict.fromkeys(place_of(queries, ref.device) or "" for ref in ports))
    runs: dict[str, None] = {}
    if given:
        runs = dict.fromkeys(given)
        if not joins(queries, given, places):
            return CableRoute(places=places, runs=given, missing="its runs do not join its ends")
    else:
        for place in places[1:]:
            route = route_of_places(queries, places[0], place)
            if route is None:
                first, last = (queries.place(name) for name in (places[0], place))
                names = f"{first.name if first else ''} to {last.name if last else ''}"
                return CableRoute(places=places, missing=f"no run leads from {names}")
            runs |= dict.fromkeys(route.runs)
    return CableRoute(places=places, runs=tuple(runs))


def joins(queries: Queries, runs: tuple[str, ...], places: tuple[str, ...]) -> bool:
    """Whether runs hold together and come to every one of some places."""
    ends = [{run.a, run.b} for name in runs if (run := queries.run(name)) is not None]
    if len(ends) < len(runs) or not ends:
        return False
    reached = ends.pop(0)
    while True:
        touching = [pair for pair in ends if pair & reached]
        if not touching:
            break
        for pair in touching:
            reached |= pair
            ends.remove(pair)
    return not ends and set(places) <= reached


@query
def cables_of_runs(queries: Queries) -> dict[str, tuple[str, ...]]:
    """The cables that lie in each run, in the machine's order."""
    found: dict[str, list[str]] = {}
    for cable_id in queries.cables():
        for run in cable_route(queries, cable_id).runs:
            found.setdefault(run, []).append(cable_id)
    return {run: tuple(cables) for run, cables in found.items()}


@query
def leads_of_runs(queries: Queries) -> dict[str, tuple[str, ...]]:
    """The hookups of devices' own leads that lie in each run."""
    found: dict[str, list[str]] = {}
    for hookup_id in queries.hookups():
        hookup = queries.hookup(hookup_id)
        if hookup is not None and hookup.cable is None and lead_side(queries, hookup) is not None:
            for run in lead_route(queries, hookup_id).runs:
                found.setdefault(run, []).append(hookup_id)
    return {run: tuple(hookups) for run, hookups in found.items()}


def lead_side(queries: Queries, hookup: Hookup) -> PortRef | None:
    """The end of a hookup whose device's own leads make it; boards have no leads. What sits in a
    line, as a cut-out does, may have leads as well.
    """
    for end in (hookup.a, hookup.b):
        port, part = queries.port(end), queries.part_of(end.device)
        if port is not None and port.end == "device" and part is not None and part.board is None:
            return end
    for end in (hookup.a, hookup.b):
        port = queries.port(end)
        if port is not None and port.end == "through" and port.lead_length_m:
            return end
    return None


@query
def wants_cable(queries: Queries, hookup_id: str) -> bool:
    """Whether a hookup without a cable is made by no lead: both ends are ports of boards or
    connectors, or the leads are too short for their way.
    """
    hookup = queries.hookup(hookup_id)
    if hookup is None or hookup.cable is not None:
        return False
    ports = [queries.port(end) for end in (hookup.a, hookup.b)]
    if any(port is None or port.kind in SEATED for port in ports):
        return False
    side = lead_side(queries, hookup)
    if side is None:
        # A splice or a jumper beside its terminal needs no cable.
        parts = [queries.part_of(end.device) for end in (hookup.a, hookup.b)]
        return not any(part is None or part.kind in WIRED_IN_PLACE for part in parts)
    port, part = queries.port(side), queries.part_of(side.device)
    runs = lead_route(queries, hookup_id).runs
    if port is None or part is None:
        return False
    if port.lead_length_m <= 0 and part.kind in WITH_TERMINALS:
        return True
    if not runs:
        # Leads of which nobody said how long they are reach within one place at best.
        places = {place_of(queries, end.device) for end in (hookup.a, hookup.b)}
        return port.lead_length_m <= 0 and (len(places) > 1 or None in places)
    return port.lead_length_m <= 0 or lead_shortage_mm(queries, port.lead_length_m, runs) > 0
