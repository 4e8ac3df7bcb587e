"""Labels laid out in millimetres: what is printed where, on sheets of labels or on a tape.

A label is a list of shapes with its upper left corner at 0, 0; y runs down. Nothing here knows of a
printer: `measure` gives the width of a text in mm, so that the letters fit whatever prints them.
"""

from collections.abc import Callable
from typing import Literal, NamedTuple

from vervain.harness.label_texts import LabelText
from vervain.model.problem import Problem

LabelForm = Literal["flag", "wrap", "sleeve"]
Measure = Callable[[str, float, bool], float]
TAPES_MM = (6.0, 9.0, 12.0, 18.0, 24.0)
PAPERS_MM: dict[str, tuple[float, float]] = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
# A tape prints on about three quarters of its height; letters of less than 1.5 mm are not read.
TAPE_PRINTS, SMALLEST_MM, LARGEST_MM, LEADING = 0.76, 1.5, 4.2, 1.25
PAD_MM, GAP_MM = 1.2, 1.0
# A QR code with cells of less than this is not read from tape.
QR_CELL_MM = 0.33


class Text(NamedTuple):
    """A text by the left end of its baseline, its size in mm from top to bottom of its letters."""

    x: float
    y: float
    size: float
    text: str
    bold: bool = False


class Line(NamedTuple):
    """A hairline; where it is dashed, a fold or the edge of a cable."""

    x1: float
    y1: float
    x2: float
    y2: float
    dashed: bool = False


class Square(NamedTuple):
    """A filled square: a cell of a QR code."""

    x: float
    y: float
    side: float


Shape = Text | Line | Square


class Label(NamedTuple):
    """One label as it is printed: its size in mm and its shapes."""

    width: float
    height: float
    shapes: tuple[Shape, ...]
    content: str


class Style(NamedTuple):
    """How labels are made: the form, the tape's height in mm (None on sheets), with the second
    line, with a QR code, around what diameter where it is not known by the cable.
    """

    form: LabelForm = "flag"
    tape_mm: float | None = 12.0
    details: bool = True
    qr: bool = False


class SheetForm(NamedTuple):
    """A sheet of labels: the paper, how many across and down, margins and gaps in mm."""

    paper: str = "A4"
    across: int = 3
    down: int = 9
    margin_x: float = 7.0
    margin_y: float = 15.0
    gap_x: float = 2.5
    gap_y: float = 0.0

    @property
    def label_mm(self) -> tuple[float, float]:
        """The size of one label."""
        width, height = PAPERS_MM[self.paper]
        return (
            (width - 2 * self.margin_x - (self.across - 1) * self.gap_x) / self.across,
            (height - 2 * self.margin_y - (self.down - 1) * self.gap_y) / self.down,
        )


class Placed(NamedTuple):
    """A label on a page, by its upper left corner in mm."""

    page: int
    x: float
    y: float
    label: Label


def check_sheet(sheet: SheetForm) -> None:
    """Raises `Problem` where a sheet has no room for its labels."""
    if sheet.paper not in PAPERS_MM:
        raise Problem(f"“{sheet.paper}” is no paper.", remedy="Choose A4 or Letter.")
    if not (1 <= sheet.across <= 12 and 1 <= sheet.down <= 60):
        raise Problem("A sheet has 1 to 12 labels across and 1 to 60 down.")
    numbers = (sheet.margin_x, sheet.margin_y, sheet.gap_x, sheet.gap_y)
    if any(not 0 <= number <= 100 for number in numbers):
        raise Problem("Margins and gaps are 0 to 100 mm.")
    width, height = sheet.label_mm
    if width < 10 or height < 5:
        raise Problem(
            f"These labels would be {width:.1f} × {height:.1f} mm.",
            remedy="Take fewer across or down, or smaller margins.",
        )


def lay_out_label(
    text: LabelText,
    style: Style,
    diameter_mm: float,
    machine: str,
    measure: Measure,
    size_mm: tuple[float, float] | None = None,
) -> Label:
    """A label. On tape it is as long as its text wants; on a sheet it has the size of its cell.

    A flag is printed twice, on both of its wings, with the cable between; a wrap once at its
    beginning, the clear rest goes round it; a sleeve is slipped over and printed once.
    """  # fmt: skip
    height = size_mm[1] if size_mm is not None else (style.tape_mm or 12.0)
    around = 3.1416 * diameter_mm + GAP_MM
    most = None
    if size_mm is not None:
        wings = 2 if style.form == "flag" else 1
        clear = 0.0 if style.form == "sleeve" else around
        most = max(8.0, (size_mm[0] - clear) / wings)
    wing = _wing(text, style, height, most, machine, measure)
    shapes: list[Shape] = list(wing.shapes)
    width = wing.width
    if style.form == "flag":
        shapes += _moved(wing.shapes, wing.width + around)
        for x in (wing.width, wing.width + around):
            shapes.append(Line(x, 0.0, x, height, True))
        width = 2 * wing.width + around
    elif style.form == "wrap":
        shapes.append(Line(wing.width, 0.0, wing.width, height, True))
        width = wing.width + around
    if size_mm is not None:
        width = size_mm[0]
    return Label(round(width, 3), height, tuple(shapes), text.content)


def _wing(
    text: LabelText, style: Style, height: float, most: float | None, machine: str, measure: Measure
) -> Label:
    """The printed part of a label."""
    prints = height * TAPE_PRINTS
    top = (height - prints) / 2
    left = PAD_MM
    shapes: list[Shape] = []
    if style.qr:
        cells = qr_cells(f"{text.text} {machine}")
        cell = min(prints / len(cells), 0.6)
        if cell < QR_CELL_MM:
            raise Problem(
                f"A QR code on {height:g} mm has cells of {cell:.2f} mm; they are not read.",
                remedy="Take a wider tape or larger labels, or leave the code out.",
            )
        offset = top + (prints - cell * len(cells)) / 2
        shapes += [
            Square(round(left + column * cell, 3), round(offset + row * cell, 3), round(cell, 4))
            for row, line in enumerate(cells)
            for column, dark in enumerate(line)
            if dark
        ]
        left += cell * len(cells) + GAP_MM
    lines = _lines(text, style, prints)
    widest = 0.0
    room = most - left - PAD_MM if most is not None else None
    heights = [size * LEADING for _, size, _ in lines]
    y = top + (prints - sum(heights)) / 2
    for words, size, bold in lines:
        extent = measure(words, size, bold)
        if room is not None and extent > room:
            size = max(SMALLEST_MM * 0.7, size * room / extent)
            words = _shortened(words, size, bold, room, measure)
            extent = measure(words, size, bold)
        y += size * LEADING
        shapes.append(Text(round(left, 3), round(y - size * 0.3, 3), round(size, 3), words, bold))
        widest = max(widest, extent)
    return Label(left + widest + PAD_MM, height, tuple(shapes), text.content)


def _lines(text: LabelText, style: Style, prints: float) -> list[tuple[str, float, bool]]:
    """The lines with their sizes: the label large, where it sits and goes to as room allows."""
    details = [words for words in (text.at, text.to) if words] if style.details else []
    while details and prints / (LEADING * (1.6 + len(details))) < SMALLEST_MM:
        details.pop(0)
    small = min(prints / (LEADING * (1.6 + len(details))), LARGEST_MM / 1.6)
    large = small * 1.6 if details else min(prints / LEADING, LARGEST_MM)
    return [(text.text, large, True), *((words, small, False) for words in details)]


def _shortened(words: str, size: float, bold: bool, room: float, measure: Measure) -> str:
    """A text with an ellipsis, where it does not fit even in the smallest letters."""
    shown = words
    while len(shown) > 2 and measure(shown, size, bold) > room:
        shown = shown[:-2].rstrip("…") + "…"
    return shown


def _moved(shapes: tuple[Shape, ...], by: float) -> list[Shape]:
    """Shapes moved to the right."""
    found: list[Shape] = []
    for shape in shapes:
        if isinstance(shape, Line):
            found.append(shape._replace(x1=shape.x1 + by, x2=shape.x2 + by))
        else:
            found.append(shape._replace(x=round(shape.x + by, 3)))
    return found


def qr_cells(text: str) -> tuple[tuple[bool, ...], ...]:
    """The dark cells of the smallest QR code (ISO/IEC 18004) that holds a text, without its margin;
    error correction M, which stands 15 % of dirt.
    """
    import segno

    code = segno.make(text, error="m", micro=False, boost_error=False)
    return tuple(tuple(bool(cell) for cell in row) for row in code.matrix)


def on_sheets(labels: tuple[Label, ...], sheet: SheetForm) -> tuple[Placed, ...]:
    """Labels cell by cell, row by row, page by page."""
    width, height = sheet.label_mm
    each = sheet.across * sheet.down
    found = []
    for number, label in enumerate(labels):
        page, at = divmod(number, each)
        row, column = divmod(at, sheet.across)
        x = sheet.margin_x + column * (width + sheet.gap_x)
        y = sheet.margin_y + row * (height + sheet.gap_y)
        found.append(Placed(page, round(x, 3), round(y, 3), label))
    return tuple(found)
