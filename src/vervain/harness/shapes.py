"""Plain shapes for paper: lines, circles, boxes and words, in the units of a layout."""

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


Shape = Stroke | Disc | Frame | Words


class Drawing(NamedTuple):
    """Shapes, and how large they are together."""

    shapes: tuple[Shape, ...]
    width: float
    height: float


def cut_words(text: str, room: float, letter: float) -> str:
    """A text shortened to about a room, for letters of about a width."""
    most = max(3, int(room / letter))
    return text if len(text) <= most else text[: most - 1] + "…"
