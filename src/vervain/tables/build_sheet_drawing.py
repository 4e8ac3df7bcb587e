"""The build sheet of a cable as plain shapes for a page: both ends drawn core by core, what is made
at each, what is done in which order, with boxes to tick.
"""

from urllib.parse import quote

from msgspec.structs import replace

from vervain.harness.build_sheet import BuildSheet, SheetEnd, SheetRow
from vervain.harness.label_layout import qr_cells
from vervain.harness.route_layout import Box, Point
from vervain.harness.shapes import (
    FADED,
    INK,
    PAPER,
    RULE,
    WHITE,
    Code,
    Drawing,
    Frame,
    Shape,
    Stroke,
    Words,
    cut_words,
)
from vervain.model.colours import base_and_stripe, is_colour
from vervain.text.units import in_length

WIDTH = 780.0
# The drawn part: where it begins, how high it may be, how far apart cores lie at the most.
TOP, ROOM, PITCH = 104.0, 190.0, 24.0
SHEATH = (300.0, 480.0)
PLUG, LABEL = 54.0, 62.0
# The table: where columns begin, and how far apart its rows lie at the most.
COLUMNS = (
    ("Core", 0), ("Colour", 62), ("At A", 98), ("Strip", 182), ("Ends in", 214), ("Tool", 314),
    ("At B", 404), ("Strip", 488), ("Ends in", 522), ("Tool", 622), ("Cut, made, tested", 698),
)  # fmt: skip
FACTS = (0.0, 290.0, 520.0, 640.0)
# How wide a letter is, of its size; in a running text, which has capitals, wider.
ROW, TABLE_ROOM, LETTER, RUNNING = 13.0, 168.0, 0.55, 0.6
TICKS, TICK = 3, 9.0
WIRES_A_PAGE = 34
# The code at the right, under the head.
CODE, BELOW_HEAD = 50.0, 28.0


def draw_build_sheet(sheet: BuildSheet, page: str = "") -> Drawing:
    """The sheet, `WIDTH` wide; with a code that opens it on the page for the phone, where that has
    an address.
    """
    shapes: list[Shape] = []
    _head(shapes, sheet, WIDTH - CODE - 8 if page else WIDTH)
    if page:
        link = f"{page}#{quote(sheet.cable)}"
        shapes.append(Code(WIDTH - CODE, BELOW_HEAD, CODE, qr_cells(link)))
    pitch = min(PITCH, ROOM / len(sheet.rows))
    foot = _ends(shapes, sheet, pitch)
    y = _table(shapes, sheet.rows, foot + 26)
    y += 22
    shapes.append(Words(0, y, 10, "In this order", INK, True))
    for number, step in enumerate(sheet.steps, 1):
        for line in _lines(f"{number}  {step}", WIDTH / (8 * RUNNING)):
            y += 12
            shapes.append(Words(0, y, 8, line))
    return Drawing(tuple(shapes), WIDTH, y + 10)


def draw_single_wires(sheets: tuple[BuildSheet, ...]) -> tuple[Drawing, ...]:
    """The wires of one core, which need no picture: a row each with its length, some to a page."""
    found = []
    for start in range(0, len(sheets), WIRES_A_PAGE):
        page = sheets[start : start + WIRES_A_PAGE]
        shapes: list[Shape] = [Words(0, 16, 18, "Single wires", INK, True)]
        rows = []
        for sheet in page:
            (row,) = sheet.rows
            length = in_length(sheet.length_m) if sheet.length_m is not None else "no length"
            labelled = replace(row.a, label=f"{row.a.label}  {length}")
            rows.append(replace(row, a=labelled))
        foot = _table(shapes, tuple(rows), 40, ROW * WIRES_A_PAGE)
        found.append(Drawing(tuple(shapes), WIDTH, foot + 10))
    return tuple(found)


def _head(shapes: list[Shape], sheet: BuildSheet, right: float) -> None:
    shapes.append(Words(0, 16, 18, sheet.cable, INK, True))
    title = f"{sheet.a.title} to {sheet.b.title}"
    shapes.append(Words(18 * 0.7 * len(sheet.cable) + 14, 16, 12, cut_words(title, 560, 6.4)))
    shapes.append(Stroke((Point(0, 24), Point(WIDTH, 24)), 0.8, INK))
    bounds = (*FACTS, right)
    for number, (name, value) in enumerate(sheet.facts):
        x, room = bounds[number], bounds[number + 1] - bounds[number] - 8
        shapes.append(Words(x, 38, 8, name, FADED))
        shapes.append(Words(x, 50, 8, cut_words(value, room, 8 * LETTER)))
    for side, name, x in ((sheet.a, "A", 0.0), (sheet.b, "B", 520.0)):
        room = min(250.0, right - x)
        words = cut_words(f"End {name}: {side.title}", room, 11 * 0.58)
        shapes.append(Words(x, 74, 11, words, INK, True))
        shapes.append(Words(x, 87, 7.5, cut_words(side.words, 250, 7.5 * LETTER), FADED))


def _ends(shapes: list[Shape], sheet: BuildSheet, pitch: float) -> float:
    """Both ends with the sheath between; returns where the drawing ends."""
    count = len(sheet.rows)
    foot = TOP + count * pitch
    middle, high = TOP + count * pitch / 2, min(34.0, max(12.0, count * pitch * 0.5))
    size = min(8.5, pitch * 0.75)
    for left in (True, False):
        x = 60.0 if left else WIDTH - 60.0 - PLUG
        shapes.append(Frame(Box(x, TOP - 4, PLUG, count * pitch + 8), PAPER, FADED, 0.8))
    for number, row in enumerate(sheet.rows):
        y = TOP + (number + 0.5) * pitch
        into = middle + (number - (count - 1) / 2) * (high - 6) / max(count, 2)
        for end, left in ((row.a, True), (row.b, False)):
            _core(shapes, row, end, left, y, into, size)
    sheath = Box(SHEATH[0], middle - high / 2, SHEATH[1] - SHEATH[0], high)
    shapes.append(Frame(sheath, "#5B5866", INK, 0.8))
    length = in_length(sheet.length_m) if sheet.length_m is not None else "no length"
    text = f"{sheet.cable}   {length}   {sheet.cable}"
    shapes.append(Words(WIDTH / 2, middle + 3.5, min(10, high - 3), text, WHITE, True, True))
    off = f"sheath off {sheet.a.sheath_off_mm:g} mm at A, {sheet.b.sheath_off_mm:g} mm at B"
    if len(sheet.rows) > 1:
        shapes.append(Words(WIDTH / 2, TOP - 4, 8, off, FADED, False, True))
    if sheet.shield:
        foot += 12
        shapes.append(Words(WIDTH / 2, foot, 8, sheet.shield, INK, True, True))
    return foot


def _core(
    shapes: list[Shape], row: SheetRow, end: SheetEnd, left: bool, y: float, into: float,
    size: float,
) -> None:  # fmt: skip
    """One end of a core: its place at the plug, its label, its colour into the sheath."""
    plug = 60.0 if left else WIDTH - 60.0 - PLUG
    inner, sign = (plug + PLUG, 1) if left else (plug, -1)
    bend, sheath = (SHEATH[0] - 40, SHEATH[0]) if left else (SHEATH[1] + 40, SHEATH[1])
    way = (Point(inner, y), Point(bend, y), Point(sheath, into))
    width = min(5.0, size * 0.6)
    shapes.append(Stroke(way, width + 1.2, INK))
    if row.colour and is_colour(row.colour):
        base, stripe = base_and_stripe(row.colour)
        shapes.append(Stroke(way, width, base.fill))
        if stripe is not None:
            shapes.append(Stroke(way, width * 0.4, stripe.fill))
    else:
        shapes.append(Stroke(way, width, WHITE))
    name = cut_words(end.place.rpartition(" ")[2], PLUG - 6, size * 0.6)
    shapes.append(Words(plug + PLUG / 2, y + size * 0.35, size, name, INK, True, True))
    box_x = inner + sign * 22 - (0 if left else LABEL)
    shapes.append(Frame(Box(box_x, y - size * 0.8, LABEL, size * 1.6), WHITE, INK, 0.6))
    label = cut_words(end.label, LABEL - 4, size * 0.6)
    shapes.append(Words(box_x + LABEL / 2, y + size * 0.35, size, label, INK, True, True))
    code_x = box_x + LABEL + 14 if left else box_x - 14
    shapes.append(Words(code_x, y - width, size * 0.85, row.colour or "", INK, False, True))


def _table(
    shapes: list[Shape], rows: tuple[SheetRow, ...], top: float, room: float = TABLE_ROOM
) -> float:
    """What is made at each end of each core; returns where the table ends."""
    pitch = min(ROW, room / len(rows))
    size = min(7.5, pitch * 0.62)
    for name, at in COLUMNS:
        shapes.append(Words(at, top, 7.5, name, FADED, True))
    shapes.append(Stroke((Point(0, top + 4), Point(WIDTH, top + 4)), 0.8, INK))
    y = top + 4
    for row in rows:
        y += pitch
        cells = (
            row.a.label, row.colour or "", *_end_cells(row.a), *_end_cells(row.b)
        )  # fmt: skip
        bounds = [at for _, at in COLUMNS] + [WIDTH]
        for number, text in enumerate(cells):
            room = bounds[number + 1] - bounds[number] - 3
            words = cut_words(text, room, size * LETTER)
            bold = number == 0
            shapes.append(Words(bounds[number], y - pitch * 0.28, size, words, INK, bold))
        for tick in range(TICKS):
            box = Box(COLUMNS[-1][1] + tick * (TICK + 4), y - pitch * 0.28 - 6, TICK, TICK * 0.8)
            shapes.append(Frame(box, WHITE, INK, 0.6))
        shapes.append(Stroke((Point(0, y), Point(WIDTH, y)), 0.4, RULE))
    return y


def _end_cells(end: SheetEnd) -> tuple[str, str, str, str]:
    strip = f"{end.strip_mm:g} mm" if end.strip_mm is not None else "–"
    place = f"{end.place}, on to {end.goes_on}" if end.goes_on else end.place
    return place, strip, end.ends_in, end.tool


def _lines(text: str, most: float) -> list[str]:
    """A text in lines of so many letters at the most."""
    lines, line = [], ""
    for word in text.split(" "):
        if line and len(line) + 1 + len(word) > most:
            lines.append(line)
            line = "    " + word
        else:
            line = f"{line} {word}" if line else word
    return [*lines, line]
