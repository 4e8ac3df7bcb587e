"""The loom board: the route laid flat at true scale, to lay wires along, and cut into sheets."""

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from vervain.harness.bundles import bundle_of
from vervain.harness.cable_routes import cable_route
from vervain.harness.conductors import natural_key
from vervain.harness.lengths import cable_length, slack_m
from vervain.harness.route_layout import Box, Point
from vervain.harness.route_tree import RouteNode, ring_runs, route_trees
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# How far apart branches lie, how far those of one place, and how much lies around it all, in mm.
LANE_MM, BESIDE_MM, AROUND_MM = 48.0, 6.0, 40.0
# A tie at each side of a branch, and along a stretch, in mm; by the practice of harness makers.
TIE_AT_MM, TIE_EVERY_MM = 25.0, 200.0


class BoardRun(NamedTuple):
    """A run as it lies on the board, in mm: along points, right angles between; its length with its
    slack; how thick it is with what lies in it.
    """

    run: str
    points: tuple[Point, ...]
    length_mm: float
    diameter_mm: float
    cables: tuple[str, ...]


class BoardEnd(NamedTuple):
    """A cable that ends at a place, and how much of it goes on from there: loop and ends, in m."""

    cable: str
    beyond_m: float


class BoardPlace(NamedTuple):
    """A place on the board, with the cables that end there."""

    place: str
    name: str
    at: Point
    ends: tuple[BoardEnd, ...]


class Tie(NamedTuple):
    """A tie around a run, which goes up and down there or from left to right."""

    at: Point
    is_upright: bool
    thick_mm: float


class LoomBoard(NamedTuple):
    """Everything on the board, in mm from its upper left corner; ties with whether what they hold
    goes up and down there, and how thick it is. `not_laid` are runs that close a
    ring: they lie in no tree.
    """

    runs: tuple[BoardRun, ...]
    places: tuple[BoardPlace, ...]
    ties: tuple[Tie, ...]
    width_mm: float
    height_mm: float
    not_laid: tuple[str, ...]


class BoardSheet(NamedTuple):
    """One sheet of the board: its column and row from 0, and what of the board it shows, in mm."""

    column: int
    row: int
    box: Box

    @property
    def name(self) -> str:
        """What the sheet is called: "B3" is the second row's third; after Z comes AA."""
        letters, row = "", self.row + 1
        while row > 0:
            row, place = divmod(row - 1, 26)
            letters = chr(ord("A") + place) + letters
        return f"{letters}{self.column + 1}"


@query
def loom_board(queries: Queries) -> LoomBoard:
    """The board of every tree of the route, one under the other."""
    laid = _Layer(queries)
    for tree in route_trees(queries):
        if tree.beyond:
            laid.tree(tree)
    # What branches at the root goes back a little, over the edge.
    over_mm = AROUND_MM - min((p.x for run in laid.runs for p in run.points), default=AROUND_MM)
    runs = tuple(
        run._replace(points=tuple(Point(p.x + over_mm, p.y) for p in run.points))
        for run in laid.runs
    )
    points = [point for run in runs for point in run.points]
    return LoomBoard(
        runs=runs,
        places=tuple(
            place._replace(at=Point(place.at.x + over_mm, place.at.y)) for place in laid.places
        ),
        ties=tuple(tie for run in runs for tie in _ties(run)),
        width_mm=max((p.x for p in points), default=0.0) + AROUND_MM * 2,
        height_mm=max((p.y for p in points), default=0.0) + AROUND_MM,
        not_laid=ring_runs(queries),
    )


def sheets_of(board: LoomBoard, width_mm: float, height_mm: float) -> tuple[BoardSheet, ...]:
    """The sheets of the board, row by row. One on which nothing lies, or only a stretch that runs
    straight through, is left out: the gap is measured instead.
    """
    near = AROUND_MM / 2
    spots = {point for run in board.runs for point in run.points}
    spots |= {
        Point(place.at.x + x, place.at.y + y)
        for place in board.places for x in (-near, near) for y in (-near, near)
    }  # fmt: skip
    cells = {(int(spot.y // height_mm), int(spot.x // width_mm)) for spot in spots}
    return tuple(
        BoardSheet(column, row, Box(column * width_mm, row * height_mm, width_mm, height_mm))
        for row, column in sorted(cells)
        if row >= 0 and column >= 0
    )


class _Layer:
    """Lays trees out: the longest way straight on, each branch below what lies right of it."""

    def __init__(self, queries: Queries) -> None:
        self.queries = queries
        self.runs: list[BoardRun] = []
        self.places: list[BoardPlace] = []
        self.ends = _ends(queries)
        self.next_mm = AROUND_MM

    def tree(self, tree: RouteNode) -> None:
        """Lays a tree under what is laid already."""
        at = Point(AROUND_MM, self.next_mm)
        self.next_mm += LANE_MM
        self._place(tree.place, at)
        self._beyond(tree, at)

    def _beyond(self, node: RouteNode, at: Point) -> None:
        """What lies beyond a place: its longest way straight on, the other ways below."""
        branches: list[tuple[Point, RouteNode]] = []
        while node.beyond:
            first, *others = sorted(node.beyond, key=self._reach_mm, reverse=True)
            branches += [(at, other) for other in others]
            end = Point(at.x + self._length_mm(first.run), at.y)
            self._lay(first.run, (at, end))
            self._place(first.place, end)
            node, at = first, end
        # From the right to the left: what branches further left goes below, and crosses nothing.
        back: dict[Point, float] = {}
        for start, branch in reversed(branches):
            thick_mm = bundle_of(self.queries, branch.run).diameter_mm
            beside_mm = back.get(start, 0.0) + BESIDE_MM + thick_mm / 2
            back[start] = beside_mm + thick_mm / 2
            self._branch(branch, start, beside_mm)

    def _branch(self, branch: RouteNode, start: Point, beside_mm: float) -> None:
        length_mm = self._length_mm(branch.run)
        back_mm = min(beside_mm, length_mm / 2)
        x, left_mm = start.x - back_mm, length_mm - back_mm
        leg_mm = min(self.next_mm - start.y, left_mm)
        corner = Point(x, start.y + leg_mm)
        end = Point(x + left_mm - leg_mm, corner.y)
        self.next_mm = max(self.next_mm, corner.y) + LANE_MM
        turns = dict.fromkeys((start, Point(x, start.y), corner, end))
        self._lay(branch.run, tuple(turns))
        self._place(branch.place, end)
        self._beyond(branch, end)

    def _reach_mm(self, node: RouteNode) -> float:
        beyond = max((self._reach_mm(other) for other in node.beyond), default=0.0)
        return self._length_mm(node.run) + beyond

    def _length_mm(self, run_id: str) -> float:
        run = self.queries.run(run_id)
        if run is None:
            return 0.0
        return round((run.length_m + slack_m(self.queries, run_id)) * 1000, 1)

    def _lay(self, run_id: str, points: tuple[Point, ...]) -> None:
        bundle = bundle_of(self.queries, run_id)
        names = tuple(strand.name for strand in bundle.strands)
        self.runs.append(
            BoardRun(run_id, points, self._length_mm(run_id), bundle.diameter_mm, names)
        )

    def _place(self, place_id: str, at: Point) -> None:
        place = self.queries.place(place_id)
        name = place.name if place is not None else place_id
        self.places.append(BoardPlace(place_id, name, at, tuple(self.ends.get(place_id, ()))))


def _ends(queries: Queries) -> dict[str, list[BoardEnd]]:
    """The cables that end at each place, and how much of each goes on there: its loop, its end."""
    found: dict[str, list[BoardEnd]] = {}
    for cable in sorted(queries.cables(), key=natural_key):
        route = cable_route(queries, cable)
        for name in route.places if route.runs else ():
            parts = cable_length(queries, cable).parts
            beyond_m = sum(
                part.length_m for part in parts
                if part.where == name and part.kind in ("loop", "end")
            )  # fmt: skip
            found.setdefault(name, []).append(BoardEnd(cable, round(beyond_m, 3)))
    return found


def _ties(run: BoardRun) -> Iterator[Tie]:
    """Where a run is tied: at each of its ends, and along it."""
    if len(run.cables) < 2:
        return
    spots = {TIE_AT_MM, run.length_mm - TIE_AT_MM}
    between_mm = run.length_mm - 2 * TIE_AT_MM
    count = max(1, math.ceil(between_mm / TIE_EVERY_MM))
    spots |= {TIE_AT_MM + between_mm * n / count for n in range(1, count)}
    for spot_mm in sorted(spot for spot in spots if 0 < spot < run.length_mm):
        at, is_upright = _along(run.points, spot_mm)
        yield Tie(at, is_upright, run.diameter_mm)


def _along(points: tuple[Point, ...], spot_mm: float) -> tuple[Point, bool]:
    """The point so far along a way of right angles, and whether it goes up or down there."""
    left_mm = spot_mm
    for a, b in pairwise(points):
        step_mm = abs(b.x - a.x) + abs(b.y - a.y)
        if left_mm <= step_mm and step_mm:
            part = left_mm / step_mm
            at = Point(a.x + (b.x - a.x) * part, a.y + (b.y - a.y) * part)
            return at, a.x == b.x
        left_mm -= step_mm
    return points[-1], False
