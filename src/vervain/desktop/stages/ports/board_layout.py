"""Where everything on the boards stands: plain shapes, worked out apart from painting."""

from dataclasses import dataclass, field, replace

from PyQt6.QtCore import QPointF, QRectF

from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Option, Part, Port
from vervain.ports.occupancy import boards, lying_part, place_name
from vervain.queries.machine_queries import Queries

# Widths to try where the boards are wider than the view; under the last the view scrolls.
NARROWER_PINS = (25, 24, 23, 22)


@dataclass(frozen=True)
class Sizes:
    """Measures in pixels at the text scale in force."""

    pin: float
    bar: float
    text: float
    name: float
    gap: float
    label: float
    side: float

    @classmethod
    def at(cls, scale: float) -> "Sizes":
        """The measures at a text scale."""
        return cls(
            pin=26 * scale,
            bar=20 * scale,
            text=13 * scale,
            name=16 * scale,
            gap=10 * scale,
            label=34 * scale,
            side=78 * scale,
        )


@dataclass(frozen=True)
class PinShape:
    """A pin: the box of its bar and the box of its function's text."""

    ref: PinRef
    bar: QRectF
    text: QRectF


@dataclass(frozen=True)
class PortShape:
    """A port: connector box, pins, the boxes of its name and of who sits there, its whole frame."""

    ref: PortRef
    port: Port
    edge: str
    box: QRectF
    pins: tuple[PinShape, ...]
    name: QRectF
    label: QRectF
    frame: QRectF


@dataclass(frozen=True)
class MarkShape:
    """A jumper or a row of switches on a board, with the box of its drawing and its words."""

    option: Option
    box: QRectF


@dataclass(frozen=True)
class BoardShape:
    """A board: its outline, the box of its title, its ports, and its jumpers and switches."""

    device: str
    outline: QRectF
    title: QRectF
    ports: tuple[PortShape, ...]
    marks: tuple[MarkShape, ...] = ()


@dataclass
class Picture:
    """All boards, the names of the places that they lie in where there are several, and the size
    that they take together.
    """

    boards: list[BoardShape] = field(default_factory=list)
    captions: list[tuple[str, QRectF]] = field(default_factory=list)
    width: float = 0.0
    height: float = 0.0

    def ports(self) -> list[PortShape]:
        """Every port, board by board."""
        return [port for board in self.boards for port in board.ports]

    def shape_of(self, ref: PortRef | None) -> PortShape | None:
        """The shape of a port."""
        return next((port for port in self.ports() if port.ref == ref), None)

    def port_at(self, point: QPointF) -> PortShape | None:
        """The port whose frame holds a point."""
        return next((p for p in self.ports() if p.frame.contains(point)), None)

    def pin_at(self, point: QPointF) -> PinShape | None:
        """The pin whose bar or text holds a point."""
        for port in self.ports():
            for pin in port.pins:
                if pin.bar.contains(point) or pin.text.contains(point):
                    return pin
        return None

    def neighbour(self, ref: PortRef, dx: int, dy: int) -> PortRef | None:
        """The nearest port in a direction: what an arrow key goes to."""
        here = next((p for p in self.ports() if p.ref == ref), None)
        if here is None:
            first = self.ports()
            return first[0].ref if first else None
        centre = here.frame.center()
        best: tuple[float, PortRef] | None = None
        for port in self.ports():
            if port.ref == ref:
                continue
            other = port.frame.center()
            along = (other.x() - centre.x()) * dx + (other.y() - centre.y()) * dy
            across = abs((other.x() - centre.x()) * dy) + abs((other.y() - centre.y()) * dx)
            if along <= 4:
                continue
            cost = along + 2.5 * across
            if best is None or cost < best[0]:
                best = cost, port.ref
        return best[1] if best else None


def lay_out(
    queries: Queries, width: float, scale: float, zoom: float = 1.0, only: str | None = None
) -> Picture:
    """The boards in rows, controllers first, for a view of a width in pixels; or one of them."""
    sizes = Sizes.at(scale * zoom)
    shown = boards(queries) if only is None else (only,)
    parts = {name: part for name in shown if (part := lying_part(queries, name)) is not None}
    # A turned board keeps its scale.
    sides = [max(b.width_mm, b.height_mm) for part in parts.values() if (b := part.board)]
    widest = max(sides, default=200)
    margin = 18 * scale
    px_per_mm = max(2.2, (width - 2 * margin) / widest) * zoom
    made = _boards_of(parts, px_per_mm, sizes)
    for pin in NARROWER_PINS:
        if max((board.outline.width() for board in made), default=0) <= width - 2 * margin:
            break
        sizes = replace(sizes, pin=pin * scale * zoom, gap=6 * scale * zoom)
        made = _boards_of(parts, px_per_mm, sizes)
    picture = Picture(width=width)
    left, top, row_height = margin, 10.0, 0.0
    places = {board.device: place_name(queries, board.device) for board in made}
    several, here = len(set(places.values())) > 1, None
    for board in made:
        if several and places[board.device] != here:
            here = places[board.device]
            left, top, row_height = margin, top + row_height, 0.0
            box = QRectF(margin, top + 4, max(width, 200.0) - 2 * margin, sizes.name * 1.4)
            picture.captions.append((here or "Nowhere in particular", box))
            top = box.bottom() + 4
        part = parts[board.device]
        above = sizes.name + 6 if any(p.edge == "top" for p in part.ports) else 6
        below = sizes.label + 26 if any(p.edge == "bottom" for p in part.ports) else 26
        extent = board.outline.width()
        if left > margin and left + extent > max(width, 0) - margin + 1:
            left, top, row_height = margin, top + row_height, 0.0
        picture.boards.append(_moved(board, left, top + above))
        left += extent + 26 * scale
        picture.width = max(picture.width, left - 26 * scale + margin)
        row_height = max(row_height, above + board.outline.height() + below)
    picture.height = top + row_height + 10
    return picture


def _boards_of(parts: dict[str, Part], px_per_mm: float, sizes: Sizes) -> list[BoardShape]:
    """The boards at the origin; devices of one part are worked out once."""
    known: dict[int, BoardShape] = {}
    made = []
    for name, part in parts.items():
        if id(part) not in known:
            known[id(part)] = _board(name, part, px_per_mm, sizes)
        made.append(replace(known[id(part)], device=name))
    return made


def _board(name: str, part: Part, px_per_mm: float, sizes: Sizes) -> BoardShape:
    assert part.board is not None
    by_edge = {
        edge: sorted((p for p in part.ports if p.edge == edge), key=lambda p: p.at_mm)
        for edge in ("top", "right", "bottom", "left")
    }
    across = {
        edge: _spread(
            [(port.at_mm * px_per_mm, _extent(port, sizes)) for port in by_edge[edge]],
            sizes.gap * 0.5,
        )
        for edge in ("top", "bottom")
    }
    band = sizes.bar + sizes.text + sizes.name + 8
    head = band if by_edge["top"] else 10
    foot = band if by_edge["bottom"] else 10
    down = {
        edge: _spread(
            [(max(head, port.at_mm * px_per_mm), _height(port, sizes)) for port in by_edge[edge]],
            sizes.gap,
            start=head,
        )
        for edge in ("left", "right")
    }
    title_height = sizes.name * 3.2
    inset = sizes.side * 2.2 if by_edge["left"] else 14.0
    taken_right = sizes.side * 2.2 if by_edge["right"] else 14.0
    width = max(
        [
            part.board.width_mm * px_per_mm,
            inset + taken_right + sizes.side * 1.6,
            *(e + 8 for _, e in _ends(across)),
        ]
    )
    height = max(
        [
            part.board.height_mm * px_per_mm,
            head + title_height + foot,
            *(e + foot for _, e in _ends(down)),
        ]
    )
    outline = QRectF(0, 0, width, height)
    ports: list[PortShape] = []
    for edge in ("top", "bottom"):
        for port, (start, _) in zip(by_edge[edge], across[edge], strict=True):
            ports.append(_port_across(name, port, edge, start, height, sizes))
    for edge in ("left", "right"):
        for port, (start, _) in zip(by_edge[edge], down[edge], strict=True):
            ports.append(_port_down(name, port, edge, start, width, sizes))
    title = QRectF(inset, head + 4, width - inset - taken_right, title_height)
    marks = _marks(part, outline, title, sizes)
    return BoardShape(device=name, outline=outline, title=title, ports=tuple(ports), marks=marks)


def _marks(part: Part, outline: QRectF, title: QRectF, sizes: Sizes) -> tuple[MarkShape, ...]:
    """The jumpers and switches where they lie, kept off the title and inside the free middle."""
    assert part.board is not None
    found: list[MarkShape] = []
    for option in part.options:
        if option.drawn is None:
            continue
        width, height = sizes.pin * 4.2, sizes.name * 1.7
        x = option.drawn.x_mm / part.board.width_mm * outline.width()
        y = option.drawn.y_mm / part.board.height_mm * outline.height()
        left = min(max(x - width / 4, title.left()), max(title.left(), title.right() - width))
        lowest = max((mark.box.bottom() + 3 for mark in found), default=title.bottom() + 2)
        top = y if abs(y - title.center().y()) > title.height() else title.bottom() + 2
        box = QRectF(left, top, width, height)
        if box.top() < title.bottom():
            box.moveTop(title.bottom() + 2)
        if any(box.intersects(mark.box) for mark in found):
            box.moveTop(lowest)
        found.append(MarkShape(option, box))
    return tuple(found)


def _ends(placed: dict[str, list[tuple[float, float]]]) -> list[tuple[float, float]]:
    return [spans[-1] for spans in placed.values() if spans]


def is_slot(port: Port) -> bool:
    """Whether a port is drawn as a slot for a module, without its pins one by one."""
    return port.kind == "driver slot"


def _extent(port: Port, sizes: Sizes) -> float:
    if is_slot(port):
        return sizes.pin * 2.1
    return max(len(port.pins) * sizes.pin + 4, sizes.pin * 2.1)


def _height(port: Port, sizes: Sizes) -> float:
    if is_slot(port):
        return sizes.bar + sizes.text + 6
    return max(len(port.pins) * sizes.bar, sizes.name * 2.2) + 2


def _spread(
    wanted: list[tuple[float, float]], gap: float, start: float = 4.0
) -> list[tuple[float, float]]:
    """Spans (begin, end) for (middle, extent) pairs in order, pushed apart where they overlap."""
    spans = []
    reached = start - gap
    for middle, extent in wanted:
        begin = max(middle - extent / 2, reached + gap)
        reached = begin + extent
        spans.append((begin, reached))
    return spans


def _port_across(
    name: str, port: Port, edge: str, start: float, height: float, sizes: Sizes
) -> PortShape:
    ref = PortRef(device=name, port=port.id)
    extent = _extent(port, sizes)
    used = sizes.pin * 2 if is_slot(port) else len(port.pins) * sizes.pin
    left = start + (extent - used) / 2
    if edge == "top":
        bar_top, text_top = -5.0, -5.0 + sizes.bar
        box = QRectF(left - 2, -7, used + 4, sizes.bar + sizes.text + 6)
        name_box = QRectF(start - 8, box.bottom() + 1, extent + 16, sizes.name)
        label = QRectF(start - 4, -7 - sizes.name - 4, extent + 8, sizes.name)
        frame = QRectF(start - 3, label.top() - 1, extent + 6, name_box.bottom() - label.top() + 3)
    else:
        bar_top = height + 5 - sizes.bar
        text_top = bar_top - sizes.text - 2
        box = QRectF(left - 2, bar_top - 2, used + 4, sizes.bar + 4)
        name_box = QRectF(start - 8, text_top - sizes.name, extent + 16, sizes.name)
        label = QRectF(start - 1, box.bottom() + 3, extent + 2, sizes.label)
        frame = QRectF(
            start - 3, name_box.top() - 1, extent + 6, label.bottom() - name_box.top() + 1
        )
    pins = []
    order = list(reversed(port.pins)) if port.reversed else list(port.pins)
    for number, pin in enumerate(() if is_slot(port) else order):
        x = left + number * sizes.pin
        pins.append(
            PinShape(
                ref=PinRef(device=name, port=port.id, pin=pin.id),
                bar=QRectF(x + 1, bar_top, sizes.pin - 2, sizes.bar),
                text=QRectF(x - 2, text_top, sizes.pin + 4, sizes.text),
            )
        )
    return PortShape(ref, port, edge, box, tuple(pins), name_box, label, frame)


def _port_down(
    name: str, port: Port, edge: str, start: float, width: float, sizes: Sizes
) -> PortShape:
    ref = PortRef(device=name, port=port.id)
    bar_width = sizes.pin + 4
    used = sizes.bar + sizes.text + 4 if is_slot(port) else len(port.pins) * sizes.bar
    if edge == "left":
        box = QRectF(-5, start, sizes.side, used)
        bar_left, text_left = -4.0, -4.0 + bar_width + 3
        name_left = box.right() + 8
    else:
        box = QRectF(width + 5 - sizes.side, start, sizes.side, used)
        bar_left = width + 4 - bar_width
        text_left = box.left() + 3
        name_left = box.left() - 8 - sizes.side
    name_box = QRectF(name_left, start, sizes.side, sizes.name)
    label = QRectF(name_left, start + sizes.name, sizes.side, sizes.name)
    frame = box.united(name_box).united(label).adjusted(-2, -2, 2, 2)
    text_width = sizes.side - bar_width - 8
    pins = []
    order = list(reversed(port.pins)) if port.reversed else list(port.pins)
    for number, pin in enumerate(() if is_slot(port) else order):
        y = start + number * sizes.bar
        pins.append(
            PinShape(
                ref=PinRef(device=name, port=port.id, pin=pin.id),
                bar=QRectF(bar_left, y + 1, bar_width, sizes.bar - 2),
                text=QRectF(text_left, y, text_width, sizes.bar),
            )
        )
    return PortShape(ref, port, edge, box, tuple(pins), name_box, label, frame)


def _moved(board: BoardShape, dx: float, dy: float) -> BoardShape:
    """A board where it stands, with its ports as those of its device."""
    name = board.device

    def box(rect: QRectF) -> QRectF:
        return rect.translated(dx, dy)

    def named(ref: PinRef) -> PinRef:
        return ref if ref.device == name else PinRef(device=name, port=ref.port, pin=ref.pin)

    return BoardShape(
        device=board.device,
        outline=box(board.outline),
        title=box(board.title),
        ports=tuple(
            PortShape(
                ref=PortRef(device=name, port=port.ref.port),
                port=port.port,
                edge=port.edge,
                box=box(port.box),
                pins=tuple(PinShape(named(p.ref), box(p.bar), box(p.text)) for p in port.pins),
                name=box(port.name),
                label=box(port.label),
                frame=box(port.frame),
            )
            for port in board.ports
        ),
        marks=tuple(MarkShape(mark.option, box(mark.box)) for mark in board.marks),
    )
