"""Where the route is drawn: a tree from the box outwards, to scale, a section over each run."""

from dataclasses import dataclass, field
from typing import NamedTuple

from vervain.harness.bundles import Bundle, bundle_of
from vervain.harness.route_tree import RouteNode, devices_at, ring_runs, route_trees
from vervain.queries.machine_queries import Queries

# In pixels at 100 %, which are also the units of a printed drawing.
EDGE, BOX_WIDTH, NODE, ROW_TEXT, ROW_GAP, HEAD = 14, 48, 11, 34, 3, 26
NAME_WIDTH, LAST_LEAST, LAST_MOST, SECTION_MOST, PLAIN_RUN = 104, 70, 190, 60, 96
LETTER_PX, SMALL_LETTER_PX = 7.2, 6.0
MOST_PX_PER_MM, MOST_PX_PER_M, LEAST_PX_PER_M = 2.6, 150.0, 4.0


class Point(NamedTuple):
    """A point; x to the right, y down."""

    x: float
    y: float


class Box(NamedTuple):
    """A box by its upper left corner and its size."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """The right edge."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """The lower edge."""
        return self.y + self.height

    @property
    def centre(self) -> Point:
        """The middle."""
        return Point(self.x + self.width / 2, self.y + self.height / 2)

    @property
    def is_empty(self) -> bool:
        """Whether nothing is in it."""
        return self.width <= 0 or self.height <= 0

    def contains(self, point: Point, by: float = 0.0) -> bool:
        """Whether a point lies in it, or so near."""
        inside = self.x - by <= point.x <= self.right + by
        return not self.is_empty and inside and self.y - by <= point.y <= self.bottom + by


NOWHERE = Box(0.0, 0.0, 0.0, 0.0)


@dataclass(frozen=True)
class PlaceShape:
    """A place: the box that is clicked, and how much room its name has at each side."""

    place: str
    node: Box
    is_last: bool
    is_root: bool


@dataclass(frozen=True)
class RunShape:
    """A run from left to right, and the box of its cross-section (empty where nothing lies in it).

    A run that closes a ring is drawn between two nodes by itself.
    """

    run: str
    start: Point
    end: Point
    section: Box
    branch_from: Point | None = None
    is_ring: bool = False

    @property
    def hit_box(self) -> Box:
        """Where a click means this run: the line with its texts."""
        return Box(self.start.x, self.start.y - 9, self.end.x - self.start.x, 40)


@dataclass
class RoutePicture:
    """Everything, how large it is, and its two scales."""

    places: list[PlaceShape] = field(default_factory=list)
    runs: list[RunShape] = field(default_factory=list)
    width: float = 0.0
    height: float = 0.0
    px_per_m: float = 1.0
    px_per_mm: float = 1.0

    def at(self, point: Point) -> PlaceShape | RunShape | None:
        """What stands at a point."""
        for place in self.places:
            if place.node.contains(point, 5):
                return place
        for run in self.runs:
            if run.section.contains(point) or run.hit_box.contains(point):
                return run
        return None

    def place(self, name: str | None) -> PlaceShape | None:
        """The shape of a place."""
        return next((shape for shape in self.places if shape.place == name), None)

    def run(self, name: str | None) -> RunShape | None:
        """The shape of a run."""
        return next((shape for shape in self.runs if shape.run == name), None)


@dataclass
class _Row:
    """Runs one behind the other: the node that the row branches from, and the nodes along it."""

    start: str
    nodes: list[RouteNode] = field(default_factory=list)


def last_width(queries: Queries, place: str) -> float:
    """How much room the name of a place at the end of a row and its devices want, at 100 %."""
    found = queries.place(place)
    names = devices_at(queries).get(place, ())
    wanted = max(
        len(found.name) * LETTER_PX if found else 0.0,
        sum(len(name) + 1 for name in names) * SMALL_LETTER_PX,
    )
    return min(LAST_MOST, max(LAST_LEAST, wanted + 16))


def _rows_of(tree: RouteNode, reach: dict[str, float]) -> list[_Row]:
    """The rows of a tree from above: the longest way straight on, the others below it."""
    found: list[_Row] = []

    def follow(node: RouteNode, start: str) -> None:
        row = _Row(start)
        found.append(row)
        branches: list[tuple[RouteNode, str]] = []
        here: RouteNode | None = node
        while here is not None:
            row.nodes.append(here)
            onward = max(here.beyond, key=lambda item: reach[item.place], default=None)
            branches += [(item, here.place) for item in here.beyond if item is not onward]
            here = onward
        for item, parent in branches:
            follow(item, parent)

    for child in sorted(tree.beyond, key=lambda item: -reach[item.place]):
        follow(child, tree.place)
    return found


class _Placer:
    def __init__(self, queries: Queries, width: float, scale: float) -> None:
        self.queries, self.scale, self.width = queries, scale, width
        self.bundles: dict[str, Bundle] = {
            run.id: bundle_of(queries, run.id) for run in queries.runs()
        }
        self.reach: dict[str, float] = {}
        self.picture = RoutePicture()
        self.x: dict[str, float] = {}
        self.y: dict[str, float] = {}
        sizes = [max(self._section_mm(run.id)) for run in queries.runs()]
        largest = max(sizes, default=0.0) or 1.0
        self.picture.px_per_mm = min(MOST_PX_PER_MM, SECTION_MOST / largest) * scale

    def _section_mm(self, run: str) -> tuple[float, float]:
        found = self.queries.run(run)
        chain = found.chain if found else None
        if chain is not None:
            return chain.width_mm, chain.height_mm
        diameter = self.bundles[run].diameter_mm
        return diameter, diameter

    def _section_px(self, run: str) -> tuple[float, float]:
        width, height = self._section_mm(run)
        return width * self.picture.px_per_mm, height * self.picture.px_per_mm

    def _extent(self, run: str, px_per_m: float) -> float:
        found = self.queries.run(run)
        wanted = (found.length_m if found else 0.0) * px_per_m
        section = self._section_px(run)[0]
        room = section + NAME_WIDTH * self.scale if section else PLAIN_RUN * self.scale
        return max(wanted, room)

    def _measure(self, node: RouteNode) -> float:
        """How far a node's branches reach, in m."""
        run = self.queries.run(node.run)
        onward = max((self._measure(child) for child in node.beyond), default=0.0)
        self.reach[node.place] = onward + (run.length_m if run else 0.0)
        return self.reach[node.place]

    def place_all(self) -> RoutePicture:
        trees = route_trees(self.queries)
        for tree in trees:
            self._measure(tree)
        rows = [(tree, _rows_of(tree, self.reach)) for tree in trees]
        start = (EDGE + BOX_WIDTH) * self.scale
        room = self.width - start - 6 * self.scale
        longest = max((self.reach[tree.place] for tree in trees), default=0.0) or 1.0
        px_per_m = min(MOST_PX_PER_M * self.scale, room / longest)
        while px_per_m > LEAST_PX_PER_M and self._widest(rows, px_per_m) > room:
            px_per_m *= 0.95
        self.picture.px_per_m = px_per_m
        top = HEAD * self.scale
        for number, (tree, of_tree) in enumerate(rows):
            top = self._place_tree(tree, of_tree, top, number == 0) + 8 * self.scale
        self._rings()
        self.picture.height = top
        start = (EDGE + BOX_WIDTH) * self.scale
        wanted = start + self._widest(rows, px_per_m)
        self.picture.width = wanted if wanted > self.width + 2 else self.width
        return self.picture

    def _widest(self, rows: list[tuple[RouteNode, list[_Row]]], px_per_m: float) -> float:
        widest = 0.0
        for tree, of_tree in rows:
            far = {tree.place: 0.0}
            for row in of_tree:
                x = far[row.start]
                for node in row.nodes:
                    x += self._extent(node.run, px_per_m)
                    far[node.place] = x
                end = row.nodes[-1].place
                widest = max(widest, x + last_width(self.queries, end) * self.scale)
        return widest

    def _place_tree(self, tree: RouteNode, rows: list[_Row], top: float, is_root: bool) -> float:
        scale = self.scale
        left = EDGE * scale
        edge = left + BOX_WIDTH * scale
        self.x[tree.place] = edge
        y = top
        for band in self._bands(rows):
            nodes = [node for row in band for node in row.nodes]
            over = max((self._section_px(node.run)[1] for node in nodes), default=0.0)
            line = y + max(over, 18 * scale) + 10 * scale
            for row in band:
                self._place_row(row, line)
            y = line + (ROW_TEXT + ROW_GAP) * scale
        bottom = max(y - ROW_GAP * scale, top + 64 * scale)
        node = Box(left, top - 4 * scale, BOX_WIDTH * scale, bottom - top + 4 * scale)
        self.picture.places.insert(
            0 if is_root else len(self.picture.places),
            PlaceShape(tree.place, node, is_last=not rows, is_root=True),
        )
        self.y[tree.place] = node.centre.y
        return bottom

    def _bands(self, rows: list[_Row]) -> list[list[_Row]]:
        """Rows that have room beside each other share a band; a branch lies below its parent."""
        bands: list[list[_Row]] = []
        taken: list[list[tuple[float, float]]] = []
        band_of: dict[str, int] = {}
        far = dict(self.x)
        for row in rows:
            left = x = far[row.start]
            for node in row.nodes:
                x += self._extent(node.run, self.picture.px_per_m)
                far[node.place] = x
            right = x + last_width(self.queries, row.nodes[-1].place) * self.scale
            first = band_of.get(row.start, -1) + 1
            spot = next(
                (
                    number
                    for number in range(first, len(bands))
                    if all(right <= low - 8 or left >= high + 8 for low, high in taken[number])
                ),
                len(bands),
            )
            if spot == len(bands):
                bands.append([])
                taken.append([])
            bands[spot].append(row)
            taken[spot].append((left, right))
            for node in row.nodes:
                band_of[node.place] = spot
        return bands

    def _place_row(self, row: _Row, line: float) -> None:
        half = NODE * self.scale / 2
        x = self.x[row.start]
        branches = Point(x, self.y[row.start]) if row.start in self.y else None
        for number, node in enumerate(row.nodes):
            end = x + self._extent(node.run, self.picture.px_per_m)
            width, height = self._section_px(node.run)
            section = NOWHERE
            if self.bundles[node.run].strands:
                middle = (x + end) / 2
                section = Box(middle - width / 2, line - 9 * self.scale - height, width, height)
            self.picture.runs.append(
                RunShape(
                    node.run,
                    Point(x, line),
                    Point(end, line),
                    section,
                    branch_from=branches if number == 0 else None,
                )
            )
            last = number == len(row.nodes) - 1
            box = Box(end - half, line - half, 2 * half, 2 * half)
            self.picture.places.append(PlaceShape(node.place, box, is_last=last, is_root=False))
            self.x[node.place], self.y[node.place] = end, line
            x = end

    def _rings(self) -> None:
        """Runs that close a ring, straight between the nodes that they join."""
        for name in ring_runs(self.queries):
            run = self.queries.run(name)
            ends = [self.picture.place(end) for end in ((run.a, run.b) if run else ())]
            if len(ends) == 2 and ends[0] is not None and ends[1] is not None:
                first, second = sorted(
                    (shape.node.centre for shape in ends if shape), key=lambda point: point.x
                )
                self.picture.runs.append(RunShape(name, first, second, NOWHERE, is_ring=True))


def lay_out_route(queries: Queries, width: float, scale: float) -> RoutePicture:
    """The route for a view of a width in pixels."""
    return _Placer(queries, width, scale).place_all()
