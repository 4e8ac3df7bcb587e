"""How long a cable is cut: route, loops, slack and ends, each part by itself."""

from typing import Literal

from vervain.harness.cable_routes import cable_route
from vervain.model.base import Record
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# From terminal to terminal of one device, round its corner.
LINK_M = 0.1
PartKind = Literal["run", "inside", "loop", "slack", "end"]


class LengthPart(Record, frozen=True, kw_only=True):
    """One part of a cable's length: what it is, where, in m."""

    kind: PartKind
    where: str
    length_m: float


class CableLength(Record, frozen=True, kw_only=True):
    """How a cable's length comes about. `cut_m` is the sum rounded up; None where the route is not
    known, and `missing` says why. A measured length goes before it.
    """

    parts: tuple[LengthPart, ...] = ()
    cut_m: float | None = None
    measured_m: float | None = None
    missing: str = ""

    @property
    def used_m(self) -> float | None:
        """The length that counts."""
        return self.measured_m if self.measured_m is not None else self.cut_m

    def of(self, *kinds: PartKind) -> float:
        """The sum of the parts of some kinds, in m."""
        return sum(part.length_m for part in self.parts if part.kind in kinds)


def rounded_up_m(length_m: float, step_m: float) -> float:
    """A length in whole millimetres, up to the next multiple of a step; a multiple stays."""
    millimetres, step = round(length_m * 1000), max(1, round(step_m * 1000))
    return -(-millimetres // step) * step / 1000


def _is_link(queries: Queries, cable_id: str) -> bool:
    """Whether a cable joins terminals of one device."""
    joined = queries.hookups_in(cable_id)
    return bool(joined) and all(hookup.a.device == hookup.b.device for hookup in joined)


@query
def cable_length(queries: Queries, cable_id: str) -> CableLength:
    """The length of a cable in its parts: the runs of its route, a service loop at each place that
    it ends at, slack for what moves, and what is stripped and crimped at each end.
    """
    cable = queries.cable(cable_id)
    measured = cable.length_m if cable else None
    route = cable_route(queries, cable_id)
    if route.missing:
        return CableLength(measured_m=measured, missing=route.missing)
    allowed = queries.allowances()
    parts: list[LengthPart] = []
    if not route.runs:
        place = queries.place(route.places[0])
        inside_m = place.inside_m if place is not None else None
        if _is_link(queries, cable_id):
            inside_m = min(LINK_M, inside_m or LINK_M)
        if place is None or inside_m is None:
            name = place.name if place else route.places[0]
            missing = f"both ends are in {name}, which has no usual length inside"
            return CableLength(measured_m=measured, missing=missing)
        parts.append(LengthPart(kind="inside", where=place.id, length_m=inside_m))
    parts += _along(queries, route.runs)
    for name in route.places:
        place = queries.place(name)
        if route.runs:
            loop_m = allowed.box_loop_m if place is not None and place.closed else allowed.loop_m
            parts.append(LengthPart(kind="loop", where=name, length_m=loop_m))
        parts.append(LengthPart(kind="end", where=name, length_m=allowed.end_m))
    if len(route.places) == 1:
        parts.append(LengthPart(kind="end", where=route.places[0], length_m=allowed.end_m))
    shown = tuple(part for part in parts if part.length_m > 0)
    total_m = sum(part.length_m for part in shown)
    return CableLength(
        parts=shown, cut_m=rounded_up_m(total_m, allowed.step_m), measured_m=measured
    )


def _along(queries: Queries, runs: tuple[str, ...]) -> list[LengthPart]:
    found = []
    for name in runs:
        run = queries.run(name)
        if run is None:
            continue
        found.append(LengthPart(kind="run", where=name, length_m=run.length_m))
        slack = slack_m(queries, name)
        if slack:
            found.append(LengthPart(kind="slack", where=name, length_m=slack))
    return found


@query
def slack_m(queries: Queries, run_id: str) -> float:
    """What cables get over the length of a run because it moves, in m."""
    run = queries.run(run_id)
    return run.length_m * queries.allowances().slack_ratio if run and run.moving else 0.0


@query
def cable_length_m(queries: Queries, cable_id: str) -> float | None:
    """The length of a cable that counts: measured, else worked out; None where neither is known."""
    return cable_length(queries, cable_id).used_m
