"""Where everything of the feed trees stands: sources left, consumers in rows at the right."""

from collections import defaultdict
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF

from vervain.model.machine import PinRef
from vervain.supply.feed_tree import ROOTS, ROWS, Branch, FeedTree

# In pixels at 100 %.
ROW, SOURCE_WIDTH, SOURCE_HEIGHT, PILL_HEIGHT, STRIP_WIDTH = 20, 62, 42, 18, 15
INDENT, DEEPEST_INDENT, GAP, EDGE, TOP = 12, 12, 12, 14, 26
HOP, HOP_LEAST, TEXTS = 76, 62, 310


@dataclass(frozen=True)
class FeedShape:
    """A place of a tree where it is drawn; `y` is the height of its line. `tree` and `number` say
    which place it is.
    """

    branch: Branch
    tree: int
    number: int
    box: QRectF
    y: float


@dataclass(frozen=True)
class FeedLine:
    """The conductors into a place: a polyline, the branch that they lead to, and whether they are
    of the mains.
    """

    branch: Branch
    points: tuple[QPointF, ...]
    is_of_mains: bool = False


@dataclass
class FeedPicture:
    """Everything, and how large it is; `rows` are the consumers from above."""

    trees: tuple[FeedTree, ...] = ()
    shapes: list[FeedShape] = field(default_factory=list)
    rows: list[FeedShape] = field(default_factory=list)
    lines: list[FeedLine] = field(default_factory=list)
    width: float = 0.0
    height: float = 0.0
    rows_left: float = 0.0

    def at(self, point: QPointF) -> FeedShape | None:
        """What stands at a point; a consumer's whole row counts."""
        for shape in self.shapes:
            if shape.box.contains(point):
                return shape
        for row in self.rows:
            if row.box.contains(point):
                return row
        return None

    def of_pin(self, pin: PinRef) -> FeedShape | None:
        """The shape that a pin belongs to."""
        return next((s for s in (*self.rows, *self.shapes) if s.branch.pin == pin), None)

    def before(self, shape: FeedShape) -> FeedShape | None:
        """The shape that one hangs on."""
        wanted = shape.tree, self.trees[shape.tree].hanging_on()[shape.number]
        return next((s for s in (*self.shapes, *self.rows) if (s.tree, s.number) == wanted), None)

    def behind(self, shape: FeedShape) -> list[FeedShape]:
        """The shapes that hang directly on one, from above."""
        above = self.trees[shape.tree].hanging_on()
        shapes = (s for s in (*self.shapes, *self.rows) if s.tree == shape.tree)
        found = [s for s in shapes if above[s.number] == shape.number]
        return sorted(found, key=lambda s: s.number)


def hops_before(tree: FeedTree) -> list[int]:
    """How many fuses, contacts and strips lie before each place."""
    found: list[int] = []
    for number in tree.hanging_on():
        if number is None:
            found.append(0)
        else:
            passed = tree.branches[number].kind not in (*ROOTS, *ROWS)
            found.append(found[number] + passed)
    return found


def lay_out_feeds(trees: tuple[FeedTree, ...], width: float, scale: float) -> FeedPicture:
    """The trees one under the other, for a view of a width in pixels."""
    placer = _Placer(trees, width, scale)
    for number in range(len(trees)):
        placer.place_tree(number)
    placer.picture.height = placer.top + GAP * scale
    return placer.picture


class _Placer:
    def __init__(self, trees: tuple[FeedTree, ...], width: float, scale: float) -> None:
        self.scale = scale
        self.top = TOP * scale
        self.trees = trees
        self.hops = [hops_before(tree) for tree in trees]
        deepest = max((hops for before in self.hops for hops in before), default=0)
        self.start = (EDGE + SOURCE_WIDTH + 20) * scale
        # Hops want 76 px each, 62 at least; the texts of the rows 330.
        least = self.start + deepest * HOP_LEAST * scale + 6 * scale
        self.width = max(width, least + TEXTS * scale)
        wanted = self.start + deepest * HOP * scale + 6 * scale
        self.rows_left = max(least, min(wanted, self.width - (TEXTS + 30) * scale))
        self.picture = FeedPicture(trees, width=self.width)
        self.step = (self.rows_left - self.start) / max(1, deepest)
        self.picture.rows_left = self.rows_left

    def place_tree(self, tree: int) -> None:
        """A source with everything that hangs on it: first the rows from above, then from the
        innermost what stands before them.
        """
        top, branches = self.top, self.trees[tree].branches
        above = self.trees[tree].hanging_on()
        behind: dict[int | None, list[FeedShape]] = defaultdict(list)
        placed: dict[int, FeedShape] = {}
        for number, branch in enumerate(branches):
            if branch.kind in ROWS:
                placed[number] = self._row(tree, number)
        for number in range(len(branches) - 1, -1, -1):
            hanging = behind[number][::-1]
            if number == 0:
                self._source(tree, hanging, top)
                continue
            if number in placed:
                self._join_row(placed[number], hanging)
            else:
                placed[number] = self._place(tree, number, hanging)
            behind[above[number]].append(placed[number])
        self.top += GAP * self.scale

    def _source(self, tree: int, behind: list[FeedShape], top: float) -> None:
        scale, branch = self.scale, self.trees[tree].source
        height = SOURCE_HEIGHT * scale
        self.top = max(self.top, top + height)
        y = (behind[0].y + behind[-1].y) / 2 if behind else top + height / 2
        y = min(max(y, top + height / 2), self.top)
        box = QRectF(EDGE * scale, y - height / 2, SOURCE_WIDTH * scale, height)
        self.picture.shapes.append(FeedShape(branch, tree, 0, box, y))
        if branch.kind != "unfed":
            self._join(box.right(), y, behind)

    def _place(self, tree: int, number: int, behind: list[FeedShape]) -> FeedShape:
        """A fuse, contact or strip, in the middle of what it feeds."""
        branch, scale = self.trees[tree].branches[number], self.scale
        y = (behind[0].y + behind[-1].y) / 2
        left = self.start + self.hops[tree][number] * self.step
        if branch.kind == "strip":
            upper, lower = behind[0].y - 9 * scale, behind[-1].y + 9 * scale
            box = QRectF(
                left + self.step * 0.35, upper, STRIP_WIDTH * scale, max(18 * scale, lower - upper)
            )
        else:
            height = PILL_HEIGHT * scale
            box = QRectF(left, y - height / 2, self.step - 14 * scale, height)
        shape = FeedShape(branch, tree, number, box, y)
        self.picture.shapes.append(shape)
        self._join(box.right(), y, behind, straight=branch.kind == "strip")
        return shape

    def _row(self, tree: int, number: int) -> FeedShape:
        """A consumer, set in by how many consumers it is chained behind."""
        scale, branch = self.scale, self.trees[tree].branches[number]
        indent = branch.depth - 1 - self.hops[tree][number]
        left = self.rows_left + min(indent, DEEPEST_INDENT) * INDENT * scale
        box = QRectF(left, self.top, self.width - left, ROW * scale)
        self.top += ROW * scale
        shape = FeedShape(branch, tree, number, box, box.center().y())
        self.picture.rows.append(shape)
        return shape

    def _join_row(self, row: FeedShape, behind: list[FeedShape]) -> None:
        """The lines from a consumer to those that are chained behind it."""
        start = QPointF(row.box.left() + 3 * self.scale, row.y)
        for below in behind:
            end = QPointF(below.box.left(), below.y)
            points = (start, QPointF(start.x(), below.y), end)
            self.picture.lines.append(self._line(below, points))

    def _join(self, right: float, y: float, kids: list[FeedShape], straight: bool = False) -> None:
        """The lines from a place to those behind it: a common trunk, or straight from a strip."""
        trunk = right + 9 * self.scale
        for kid in kids:
            end = QPointF(kid.box.left(), kid.y)
            if straight or abs(kid.y - y) < 0.5:
                points: tuple[QPointF, ...] = (QPointF(right, kid.y), end)
            else:
                points = (QPointF(right, y), QPointF(trunk, y), QPointF(trunk, kid.y), end)
            self.picture.lines.append(self._line(kid, points))

    def _line(self, to: FeedShape, points: tuple[QPointF, ...]) -> FeedLine:
        return FeedLine(to.branch, points, self.trees[to.tree].source.kind == "mains")
