"""The cutting plan: which piece comes from which reel or length, in the order of cutting, as rows
and drawn to scale.
"""

from vervain.harness.cutting import Cut
from vervain.harness.route_layout import Box
from vervain.harness.shapes import FADED, INK, PAPER, WHITE, Drawing, Frame, Shape, Words, cut_words
from vervain.harness.shopping import SPARE, cutting_of, pieces_by_part
from vervain.model.base import Record
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_length, shown_length

TOP, ROW, HIGH, NAMES = 20.0, 34.0, 15.0, 8.0
# How wide a letter of a piece's name is; where that has no room, its length alone, or nothing.
LETTER = 5.2
MOST_BARS = 14


class CuttingRow(Record, frozen=True, kw_only=True):
    """One reel or length: the cable, what is cut from, its pieces in order, what is left in m."""

    cable: str
    source: str
    length_m: float
    pieces: tuple[tuple[str, float], ...]
    left_m: float

    @property
    def words(self) -> str:
        """The pieces in order: "W11 5.2, W12 5.1"."""
        return ", ".join(f"{name} {length_m:g}" for name, length_m in self.pieces)


@query
def cutting_rows(queries: Queries) -> tuple[CuttingRow, ...]:
    """Every reel and length that something is cut from, of cables sold in lengths, or on reels."""
    found = []
    for part_id in pieces_by_part(queries):
        part = queries.cable_part(part_id)
        on_reels = any(reel.part == part_id for reel in queries.reels())
        if part is None or part.ready_made or not (part.stock_m or on_reels):
            continue
        for cut in cutting_of(queries, part_id).cuts:
            found.append(
                CuttingRow(
                    cable=part.title, source=_source(cut), length_m=cut.length_m,
                    # What is spare is cut last: it is what is left over.
                    pieces=tuple(sorted(cut.pieces, key=lambda piece: piece[0] == SPARE)),
                    left_m=round(cut.left_m, 3),
                )
            )  # fmt: skip
    return tuple(found)


def _source(cut: Cut) -> str:
    return cut.reel or f"{in_length(cut.length_m)}, to buy"


def draw_cutting(queries: Queries, width: float = 760.0) -> tuple[Drawing, ...]:
    """Each reel and length as a bar to scale with its pieces in order, the longest bar as wide as
    the page; some to a page.
    """
    rows = cutting_rows(queries)
    longest_m = max((row.length_m for row in rows), default=1.0)
    scale = width / longest_m
    pages = [rows[n : n + MOST_BARS] for n in range(0, len(rows), MOST_BARS)]
    return tuple(_page(page, scale, width) for page in pages)


def _page(rows: tuple[CuttingRow, ...], scale: float, width: float) -> Drawing:
    shapes: list[Shape] = []
    for number, row in enumerate(rows):
        y = TOP + number * ROW
        title = f"{row.cable}  ·  {row.source}  ·  {in_length(row.left_m)} left"
        shapes.append(Words(0, y - 4, 9, cut_words(title, width, LETTER), INK, True))
        shapes.append(Frame(Box(0, y, row.length_m * scale, HIGH), WHITE, FADED, 0.8))
        x = 0.0
        for name, length_m in row.pieces:
            long = length_m * scale
            fill = WHITE if name == SPARE else PAPER
            shapes.append(Frame(Box(x, y, long, HIGH), fill, INK, 0.8))
            shown = f"{shown_length(length_m):g}"
            told = (f"{name} {shown}", name, shown)
            text = next((words for words in told if len(words) * LETTER < long), "")
            if text:
                shapes.append(Words(x + long / 2, y + HIGH - 4, NAMES, text, INK, False, True))
            x += long
    return Drawing(tuple(shapes), width, TOP + len(rows) * ROW)
