"""How boards and blocks are laid out: place by place, the boards in rows, then the small things."""

from dataclasses import dataclass, replace

from PyQt6.QtCore import QRectF

from vervain.desktop.stages.ports.block_layout import block_of
from vervain.desktop.stages.ports.board_layout import board_of
from vervain.desktop.stages.ports.shapes import BoardShape, Picture, Sizes, moved
from vervain.model.part import Part
from vervain.ports.occupancy import boards, lying_part, place_name, small_things
from vervain.queries.machine_queries import Queries

# Widths to try where the boards are wider than the view; under the last the view scrolls.
NARROWER_PINS = (25, 24, 23, 22)
WIDEST_BLOCK_PINS = 24


def lay_out(
    queries: Queries, width: float, scale: float, zoom: float = 1.0, only: str | None = None
) -> Picture:
    """The boards in rows, controllers first, and the small things under them, for a view of a width
    in pixels; or one board alone.
    """
    margin = 18 * scale
    room = width - 2 * margin
    small = small_things(queries) if only is None else ()
    shown = [name for name in boards(queries) if name not in small] if only is None else [only]
    parts = {name: part for name in shown if (part := lying_part(queries, name)) is not None}
    made, sizes = _fitting(parts, room, scale, zoom)
    blocks = _blocks_of(queries, small, Sizes.at(scale * zoom), room)
    parts |= {name: part for name in small if (part := queries.part_of(name)) is not None}
    flow = _Flow(Picture(width=width), margin, width, scale, sizes)
    places = {
        shape.device: "" if only else place_name(queries, shape.device)
        for shape in (*made, *blocks)
    }
    order = [place.name for place in queries.places()]
    several = len(set(places.values())) > 1
    for place in sorted(set(places.values()), key=lambda p: order.index(p) if p else len(order)):
        if several:
            flow.caption(place or "Nowhere in particular")
        for shape in made:
            if places[shape.device] == place:
                flow.put(shape, parts[shape.device])
        flow.next_row()
        for shape in blocks:
            if places[shape.device] == place:
                flow.put(shape, parts[shape.device])
        flow.next_row()
    flow.picture.height = flow.top + 10
    return flow.picture


def _fitting(
    parts: dict[str, Part], room: float, scale: float, zoom: float
) -> tuple[list[BoardShape], Sizes]:
    """The boards at the origin with the widest pins at which they fit, and the measures taken."""
    sizes = Sizes.at(scale * zoom)
    # A turned board keeps its scale.
    sides = [max(b.width_mm, b.height_mm) for part in parts.values() if (b := part.board)]
    px_per_mm = max(2.2, room / max(sides, default=200)) * zoom
    made = _boards_of(parts, px_per_mm, sizes)
    for pin in NARROWER_PINS:
        if max((board.outline.width() for board in made), default=0) <= room:
            break
        sizes = replace(sizes, pin=pin * scale * zoom, gap=6 * scale * zoom)
        made = _boards_of(parts, px_per_mm, sizes)
    return made, sizes


def _blocks_of(
    queries: Queries, names: tuple[str, ...], sizes: Sizes, room: float
) -> list[BoardShape]:
    """The small things at the origin; devices of one part are worked out once."""
    widest = max(min(room, WIDEST_BLOCK_PINS * sizes.pin), 10 * sizes.pin)
    known: dict[int, BoardShape] = {}
    made = []
    for name in names:
        part = queries.part_of(name)
        if part is not None:
            if id(part) not in known:
                known[id(part)] = block_of(name, part, sizes, widest)
            made.append(replace(known[id(part)], device=name))
    return made


def _boards_of(parts: dict[str, Part], px_per_mm: float, sizes: Sizes) -> list[BoardShape]:
    """The boards at the origin; devices of one part are worked out once."""
    known: dict[int, BoardShape] = {}
    made = []
    for name, part in parts.items():
        if id(part) not in known:
            known[id(part)] = board_of(name, part, px_per_mm, sizes)
        made.append(replace(known[id(part)], device=name))
    return made


@dataclass
class _Flow:
    """Puts shapes side by side, and into the next row where there is no room left."""

    picture: Picture
    margin: float
    width: float
    scale: float
    sizes: Sizes

    def __post_init__(self) -> None:
        self.left, self.top, self.row = self.margin, 10.0, 0.0

    def next_row(self) -> None:
        """Goes below everything that was put."""
        if self.left > self.margin:
            self.left, self.top, self.row = self.margin, self.top + self.row, 0.0

    def caption(self, words: str) -> None:
        """The name of a place above what is put next."""
        self.next_row()
        extent = max(self.width, 200.0) - 2 * self.margin
        box = QRectF(self.margin, self.top + 4, extent, self.sizes.name * 1.4)
        self.picture.captions.append((words, box))
        self.top = box.bottom() + 4

    def put(self, shape: BoardShape, part: Part) -> None:
        """Puts one shape."""
        edges = set() if shape.is_block else {port.edge for port in part.ports}
        above = self.sizes.name + 6 if "top" in edges else 6
        below = self.sizes.label + 26 if "bottom" in edges else 26
        apart = 26 * self.scale
        if shape.is_block:
            below = apart = 10 * self.scale
        extent = shape.outline.width()
        if self.left > self.margin and self.left + extent > self.width - self.margin + 1:
            self.next_row()
        self.picture.boards.append(moved(shape, self.left, self.top + above))
        self.left += extent + apart
        self.picture.width = max(self.picture.width, self.left - apart + self.margin)
        self.row = max(self.row, above + shape.outline.height() + below)
