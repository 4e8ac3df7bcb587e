"""Plain shapes for paper: lines, circles, boxes and words, in the units of a layout."""

from itertools import groupby
from typing import NamedTuple

from vervain.harness.route_layout import Box, Point

INK, FADED, RULE, PAPER, WHITE = "#25232D", "#6A6674", "#DAD5CA", "#F6F3EC", "#FFFFFF"


class Stroke(NamedTuple):
    """A line through points."""

    points: tuple[Point, ...]
    width: float
    colour: str
    dashed: bool = False


class Disc(NamedTuple):
    """A circle."""

    x: float
    y: float
    r: float
    fill: str
    edge: str = FADED
    width: float = 0.6


class Frame(NamedTuple):
    """A box."""

    box: Box
    fill: str
    edge: str
    width: float = 1.0


class Words(NamedTuple):
    """A text: at its left end, or at its middle; turned by 90 degrees to run upwards."""

    x: float
    y: float
    size: float
    text: str
    colour: str = INK
    bold: bool = False
    centred: bool = False
    upwards: bool = False


class Code(NamedTuple):
    """A QR code: its upper left corner, the length of its sides, its dark cells row by row."""

    x: float
    y: float
    side: float
    cells: tuple[tuple[bool, ...], ...]

    @property
    def dark(self) -> tuple[Box, ...]:
        """The dark cells, those beside each other in one box."""
        size = self.side / len(self.cells)
        found = []
        for row, cells in enumerate(self.cells):
            column = 0
            for is_dark, group in groupby(cells):
                count = len(list(group))
                if is_dark:
                    left, top = self.x + column * size, self.y + row * size
                    found.append(Box(left, top, count * size, size))
                column += count
        return tuple(found)


Shape = Stroke | Disc | Frame | Words | Code


class Drawing(NamedTuple):
    """Shapes, and how large they are together."""

    shapes: tuple[Shape, ...]
    width: float
    height: float


def cut_words(text: str, room: float, letter: float) -> str:
    """A text shortened to about a room, for letters of about a width."""
    most = max(3, int(room / letter))
    return text if len(text) <= most else text[: most - 1] + "…"
