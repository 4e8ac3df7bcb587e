"""Where everything on a board stands: its ports at their true edges and in their true order."""

from PyQt6.QtCore import QRectF

from vervain.desktop.stages.ports.shapes import (
    BoardShape,
    MarkShape,
    PinShape,
    PortShape,
    Sizes,
)
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part, Port


def board_of(name: str, part: Part, px_per_mm: float, sizes: Sizes) -> BoardShape:
    """A device as a board at the origin."""
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
