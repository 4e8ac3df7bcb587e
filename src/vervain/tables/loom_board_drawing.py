"""The loom board as plain shapes: an overview, and its sheets at true scale."""

from collections.abc import Callable
from itertools import pairwise

from vervain.harness.loom_board import BoardPlace, BoardRun, BoardSheet, LoomBoard, Tie
from vervain.harness.route_layout import Box, Point
from vervain.harness.shapes import (
    FADED,
    INK,
    PAPER,
    RULE,
    WHITE,
    Disc,
    Drawing,
    Frame,
    Shape,
    Stroke,
    Words,
    cut_words,
)
from vervain.text.units import in_length

# Points of print to a millimetre, and what of a sheet lies around its part of the board, in mm:
# over it stands its name, around it goes what is cut away or lies under the next sheet.
PT_PER_MM, EDGE_MM, TITLE_MM = 72 / 25.4, 6.0, 8.0
MARK_MM, RULER_MM, THINNEST_MM = 8.0, 100.0, 1.2
NAME_PT, SMALL_PT, LETTER = 9.0, 7.0, 0.55
MOST_NAMES, AROUND_NAMES_MM, LEAST_NAME = 14, 30.0, 150.0
# On the overview, which is not to scale downwards, points to a mm at the most.
DOWN_PT = 0.9
# Where a point of the board lies on a sheet.
Placed = Callable[[Point], Point]


def draw_board_sheet(board: LoomBoard, sheet: BoardSheet, others: set[str]) -> Drawing:
    """One sheet at true scale: printed without fitting it to the page, its ruler is 100 mm long.
    `others` are the names of all sheets.
    """
    scale = PT_PER_MM
    shapes: list[Shape] = []

    def at(point: Point) -> Point:
        return Point(
            (point.x - sheet.box.x + EDGE_MM) * scale,
            (point.y - sheet.box.y + EDGE_MM + TITLE_MM) * scale,
        )

    seen = Box(sheet.box.x - EDGE_MM, sheet.box.y - EDGE_MM, sheet.box.width + 2 * EDGE_MM,
               sheet.box.height + 2 * EDGE_MM)  # fmt: skip
    for run in board.runs:
        _run(shapes, run, seen, at, scale)
    for tie in board.ties:
        if seen.contains(tie.at):
            _tie(shapes, tie, at(tie.at), scale)
    for place in board.places:
        if seen.contains(place.at):
            meeting = [run.diameter_mm for run in board.runs if place.at in run.points]
            _place(shapes, place, sheet, at, max(meeting, default=THINNEST_MM))
    _marks(shapes, sheet, others, at)
    width = (sheet.box.width + 2 * EDGE_MM) * scale
    return Drawing(tuple(shapes), width, (sheet.box.height + 2 * EDGE_MM + TITLE_MM) * scale)


def draw_board_overview(
    board: LoomBoard, sheets: tuple[BoardSheet, ...], width: float, height: float
) -> Drawing:
    """The whole board small, with the sheets where they lie and what is laid by hand."""
    across = width / board.width_mm
    down = min(DOWN_PT, (height - 60) / board.height_mm)
    shapes: list[Shape] = []
    for sheet in sheets:
        box = Box(sheet.box.x * across, sheet.box.y * down, sheet.box.width * across,
                  sheet.box.height * down)  # fmt: skip
        shapes.append(Frame(box, PAPER, RULE, 0.6))
        shapes.append(Words(box.x + 3, box.bottom - 3, SMALL_PT, sheet.name, FADED))
    for run in board.runs:
        points = tuple(Point(p.x * across, p.y * down) for p in run.points)
        shapes.append(Stroke(points, max(1.0, run.diameter_mm * across), INK))
    for place in board.places:
        x, y = place.at.x * across, place.at.y * down
        shapes.append(Disc(x, y, 2.4, WHITE, INK, 0.8))
        name = cut_words(place.name, 90, SMALL_PT * LETTER)
        left = min(x + 4, width - len(name) * SMALL_PT * LETTER)
        shapes.append(Words(left, y - 5, SMALL_PT, name))
    told = [
        f"{in_length(board.width_mm / 1000, '.2f')} × "
        f"{in_length(board.height_mm / 1000, '.2f')}, {len(sheets)} sheets. "
        "Print them at 100 %, not fitted to the page: the ruler on each is 100 mm.",
        "Where sheets are missing the run goes straight on: leave the gap, a sheet is "
        f"{sheets[0].box.width:g} × {sheets[0].box.height:g} mm." if sheets else "",
        f"Not on the board, for they close a ring: {', '.join(board.not_laid)}."
        if board.not_laid else "",
    ]  # fmt: skip
    y = board.height_mm * down + 16
    for line in filter(None, told):
        shapes.append(Words(0, y, 8.5, line))
        y += 12
    return Drawing(tuple(shapes), width, y)


def _run(shapes: list[Shape], run: BoardRun, seen: Box, at: Placed, scale: float) -> None:
    """The stretches of a run that are seen, as thick as what lies in it, and what that is."""
    thick = max(THINNEST_MM, run.diameter_mm) * scale
    for number, (a, b) in enumerate(pairwise(run.points)):
        is_last = number == len(run.points) - 2
        half = 0.0 if is_last else max(THINNEST_MM, run.diameter_mm) / 2
        cut = _clipped(a, _beyond(a, b, half), seen)
        if cut is None:
            continue
        ends = at(cut[0]), at(cut[1])
        shapes.append(Stroke(ends, thick + 1.2, INK))
        shapes.append(Stroke(ends, thick, PAPER))
        if not is_last or abs(cut[1].x - cut[0].x) < 2 * AROUND_NAMES_MM:
            continue
        left = min(ends[0].x, ends[1].x) + AROUND_NAMES_MM / 2 * scale
        names = ", ".join(run.cables[:MOST_NAMES]) + (" …" if len(run.cables) > MOST_NAMES else "")
        room = abs(ends[1].x - ends[0].x) - AROUND_NAMES_MM * scale
        told = f"{run.run}, {run.length_mm:g} mm, {run.diameter_mm:.2g} mm thick: {names}"
        words = cut_words(told, room, SMALL_PT * LETTER)
        shapes.append(Words(left, ends[0].y + thick / 2 + 9, SMALL_PT, words, FADED))


def _beyond(a: Point, b: Point, by_mm: float) -> Point:
    """The end of a stretch, so far beyond: corners are filled."""
    turn_x, turn_y = (b.x > a.x) - (b.x < a.x), (b.y > a.y) - (b.y < a.y)
    return Point(b.x + turn_x * by_mm, b.y + turn_y * by_mm)


def _clipped(a: Point, b: Point, box: Box) -> tuple[Point, Point] | None:
    """What of a level or upright stretch lies in a box."""
    if a.y == b.y:
        if not box.y <= a.y <= box.bottom:
            return None
        first, last = sorted((a.x, b.x))
        first, last = max(first, box.x), min(last, box.right)
        return (Point(first, a.y), Point(last, a.y)) if first < last else None
    if not box.x <= a.x <= box.right:
        return None
    first, last = sorted((a.y, b.y))
    first, last = max(first, box.y), min(last, box.bottom)
    return (Point(a.x, first), Point(a.x, last)) if first < last else None


def _tie(shapes: list[Shape], tie: Tie, point: Point, scale: float) -> None:
    """A tie: two strokes across what it holds."""
    half = max(THINNEST_MM, tie.thick_mm) * scale / 2 + 3
    for beside in (-1.5, 1.5):
        x, y = (half, beside) if tie.is_upright else (beside, half)
        dx, dy = (-half, beside) if tie.is_upright else (beside, -half)
        ends = Point(point.x + x, point.y + y), Point(point.x + dx, point.y + dy)
        shapes.append(Stroke(ends, 1.0, INK))


def _place(
    shapes: list[Shape], place: BoardPlace, sheet: BoardSheet, at: Placed, thick_mm: float
) -> None:
    """A place with its name and the cables that end there, over the run."""
    point = at(place.at)
    shapes.append(Disc(point.x, point.y, 7.0, WHITE, INK, 1.4))
    shapes.append(Disc(point.x, point.y, 1.2, INK, INK))
    right = at(Point(sheet.box.right, sheet.box.y)).x
    x = min(point.x, right - LEAST_NAME)
    room = right - x
    y = point.y - thick_mm * PT_PER_MM / 2 - 6
    for line in reversed(_ending(place, room)):
        shapes.append(Words(x, y, SMALL_PT, line))
        y -= SMALL_PT + 2
    shapes.append(Words(x, y, NAME_PT, cut_words(place.name, room, NAME_PT * 0.62), INK, True))


def _ending(place: BoardPlace, room: float) -> list[str]:
    """The cables that end at a place, by how much of them goes on from there."""
    by_length: dict[float, list[str]] = {}
    for end in place.ends:
        by_length.setdefault(end.beyond_m, []).append(end.cable)
    lines = []
    for beyond_m, cables in sorted(by_length.items()):
        ends = "ends" if len(cables) == 1 else "end"
        words = f"{', '.join(cables)} {ends}, {in_length(beyond_m)} beyond"
        if len(words) * SMALL_PT * LETTER > room:
            half = len(cables) // 2
            lines.append(cut_words(", ".join(cables[:half]) + ",", room, SMALL_PT * LETTER))
            words = f"{', '.join(cables[half:])} end, {in_length(beyond_m)} beyond"
        lines.append(cut_words(words, room, SMALL_PT * LETTER))
    return lines


def _marks(shapes: list[Shape], sheet: BoardSheet, others: set[str], at: Placed) -> None:
    """Crosses at the corners, which meet those of the sheets beside; the name; a ruler."""
    box = sheet.box
    for x in (box.x, box.right):
        for y in (box.y, box.bottom):
            for dx, dy in ((MARK_MM / 2, 0.0), (0.0, MARK_MM / 2)):
                ends = at(Point(x - dx, y - dy)), at(Point(x + dx, y + dy))
                shapes.append(Stroke(ends, 0.5, INK))
    beside = [
        f"{word} {name}"
        for word, name in (
            ("left", BoardSheet(sheet.column - 1, sheet.row, box).name if sheet.column else ""),
            ("right", BoardSheet(sheet.column + 1, sheet.row, box).name),
            ("over it", BoardSheet(sheet.column, sheet.row - 1, box).name if sheet.row else ""),
            ("under it", BoardSheet(sheet.column, sheet.row + 1, box).name),
        )
        if name in others
    ]
    shapes.append(Words(0, 11, 13, f"Sheet {sheet.name}", INK, True))
    place = f"from {box.x:g} mm, {box.y:g} mm down" + (f"; {', '.join(beside)}" if beside else "")
    shapes.append(Words(80, 11, SMALL_PT + 1, place, FADED))
    right = (box.width + 2 * EDGE_MM) * PT_PER_MM
    start = right - RULER_MM * PT_PER_MM
    shapes.append(Stroke((Point(start, 10), Point(right, 10)), 1.0, INK))
    for tenth in range(11):
        x = start + tenth * RULER_MM / 10 * PT_PER_MM
        shapes.append(Stroke((Point(x, 10), Point(x, 6 if tenth % 5 else 3)), 0.6, INK))
    shapes.append(Words(start - 32, 10, SMALL_PT, "100 mm", FADED))
