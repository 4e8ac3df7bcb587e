"""Where everything of the feed trees stands: sources left, consumers in rows at the right."""

from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF

from vervain.model.machine import PinRef
from vervain.supply.feed_tree import Branch

# In pixels at 100 %.
ROW, SOURCE_WIDTH, SOURCE_HEIGHT, PILL_HEIGHT, STRIP_WIDTH = 20, 62, 42, 18, 15
INDENT, GAP, EDGE, TOP = 12, 12, 14, 26
HOP, HOP_LEAST, TEXTS = 76, 62, 310


@dataclass(frozen=True)
class FeedShape:
    """A place of a tree where it is drawn; `y` is the height of its line."""

    branch: Branch
    box: QRectF
    y: float


@dataclass(frozen=True)
class FeedLine:
    """The conductors into a place: a polyline, and the branch that they lead to."""

    branch: Branch
    points: tuple[QPointF, ...]


@dataclass
class FeedPicture:
    """Everything, and how large it is; `rows` are the consumers from above."""

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


def depth_of(branch: Branch) -> int:
    """How many fuses, contacts and strips lie one behind the other, at most."""
    own = 0 if branch.kind in ("source", "device", "earth", "unfed") else 1
    return own + max((depth_of(item) for item in branch.branches), default=0)


def lay_out_feeds(trees: tuple[Branch, ...], width: float, scale: float) -> FeedPicture:
    """The trees one under the other, for a view of a width in pixels."""
    placer = _Placer(trees, width, scale)
    for tree in trees:
        placer.place_tree(tree)
    placer.picture.height = placer.top + GAP * scale
    return placer.picture


class _Placer:
    def __init__(self, trees: tuple[Branch, ...], width: float, scale: float) -> None:
        self.scale = scale
        self.top = TOP * scale
        deepest = max((depth_of(tree) for tree in trees), default=0)
        self.start = (EDGE + SOURCE_WIDTH + 20) * scale
        # Hops want 76 px each, 62 at least; the texts of the rows 330.
        least = self.start + deepest * HOP_LEAST * scale + 6 * scale
        self.width = max(width, least + TEXTS * scale)
        wanted = self.start + deepest * HOP * scale + 6 * scale
        self.rows_left = max(least, min(wanted, self.width - (TEXTS + 30) * scale))
        self.picture = FeedPicture(width=self.width)
        self.step = (self.rows_left - self.start) / max(1, deepest)
        self.picture.rows_left = self.rows_left

    def place_tree(self, tree: Branch) -> None:
        """A source with everything that hangs on it."""
        scale, top = self.scale, self.top
        kids = [self._place(branch, 0, 0) for branch in tree.branches]
        wanted = SOURCE_HEIGHT * scale
        if self.top - top < wanted:
            self.top = top + wanted
        y = (kids[0].y + kids[-1].y) / 2 if kids else top + SOURCE_HEIGHT * scale / 2
        y = min(max(y, top + SOURCE_HEIGHT * scale / 2), self.top)
        height = SOURCE_HEIGHT * scale
        box = QRectF(EDGE * scale, y - height / 2, SOURCE_WIDTH * scale, height)
        self.picture.shapes.append(FeedShape(tree, box, y))
        if tree.kind != "unfed":
            self._join(box.right(), y, kids)
        self.top += GAP * scale

    def _place(self, branch: Branch, depth: int, indent: int) -> FeedShape:
        if branch.kind == "device":
            return self._row(branch, depth, indent)
        kids = [self._place(item, depth + 1, indent) for item in branch.branches]
        scale = self.scale
        y = (kids[0].y + kids[-1].y) / 2
        left = self.start + depth * self.step
        if branch.kind == "strip":
            upper, lower = kids[0].y - 9 * scale, kids[-1].y + 9 * scale
            box = QRectF(
                left + self.step * 0.35, upper, STRIP_WIDTH * scale, max(18 * scale, lower - upper)
            )
        else:
            height = PILL_HEIGHT * scale
            box = QRectF(left, y - height / 2, self.step - 14 * scale, height)
        shape = FeedShape(branch, box, y)
        self.picture.shapes.append(shape)
        self._join(box.right(), y, kids, straight=branch.kind == "strip")
        return shape

    def _row(self, branch: Branch, depth: int, indent: int) -> FeedShape:
        scale = self.scale
        left = self.rows_left + indent * INDENT * scale
        box = QRectF(left, self.top, self.width - left, ROW * scale)
        y = box.center().y()
        self.top += ROW * scale
        shape = FeedShape(branch, box, y)
        self.picture.rows.append(shape)
        for item in branch.branches:
            below = self._place(item, depth, indent + 1)
            start = QPointF(left + 3 * scale, y)
            self.picture.lines.append(
                FeedLine(
                    below.branch,
                    (start, QPointF(start.x(), below.y), QPointF(below.box.left(), below.y)),
                )
            )
        return shape

    def _join(self, right: float, y: float, kids: list[FeedShape], straight: bool = False) -> None:
        """The lines from a place to those behind it: a common trunk, or straight from a strip."""
        trunk = right + 9 * self.scale
        for kid in kids:
            end = QPointF(kid.box.left(), kid.y)
            if straight or abs(kid.y - y) < 0.5:
                points: tuple[QPointF, ...] = (QPointF(right, kid.y), end)
            else:
                points = (QPointF(right, y), QPointF(trunk, y), QPointF(trunk, kid.y), end)
            self.picture.lines.append(FeedLine(kid.branch, points))
