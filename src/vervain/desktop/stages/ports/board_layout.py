"""Where everything on a board stands: its ports at their true edges and in their true order."""

from dataclasses import dataclass
from dataclasses import replace as dataclass_replace
from itertools import groupby

from msgspec.structs import replace
from PyQt6.QtCore import QRectF

from vervain.desktop.stages.ports.shapes import (
    BoardShape,
    MarkShape,
    PinShape,
    PortShape,
    Sizes,
    moved_port,
)
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part, Port


@dataclass
class _Lane:
    """Ports of one edge that lie equally far inside it: their spans along it, the room that they
    take inwards, and how far from the edge they begin.
    """

    ports: list[Port]
    inset: float
    spans: list[tuple[float, float]]
    depth: float
    away: float = 0.0


def board_of(name: str, part: Part, px_per_mm: float, sizes: Sizes) -> BoardShape:
    """A device as a board at the origin."""
    assert part.board is not None
    lanes = {edge: _lanes(part, edge, px_per_mm, sizes) for edge in ("top", "bottom")}
    head, foot = (_taken(lanes[edge], 10.0) for edge in ("top", "bottom"))
    for edge in ("left", "right"):
        lanes[edge] = _lanes(part, edge, px_per_mm, sizes, start=head)
    from_left, from_right = (_taken(lanes[edge], 14.0) for edge in ("left", "right"))
    title_height = sizes.name * 3.2
    ends = {edge: [lane.spans[-1][1] for lane in lanes[edge]] for edge in lanes}
    width = max(
        part.board.width_mm * px_per_mm,
        from_left + from_right + sizes.side * 1.6,
        *(end + 8 for end in (*ends["top"], *ends["bottom"])),
    )
    height = max(
        part.board.height_mm * px_per_mm,
        head + title_height + foot,
        *(end + foot for end in (*ends["left"], *ends["right"])),
    )
    outline = QRectF(0, 0, width, height)
    ports = tuple(
        _port_shape(name, port, edge, start, lane.away, outline, sizes)
        for edge in ("top", "bottom", "left", "right")
        for lane in lanes[edge]
        for port, (start, _) in zip(lane.ports, lane.spans, strict=True)
    )
    title = QRectF(from_left, head + 4, width - from_left - from_right, title_height)
    marks = _marks(part, outline, title, sizes)
    return BoardShape(device=name, outline=outline, title=title, ports=ports, marks=marks)


def _lanes(
    part: Part, edge: str, px_per_mm: float, sizes: Sizes, start: float = 4.0
) -> list[_Lane]:
    """The ports of an edge in lanes, from the edge inwards, none over another."""
    is_level = edge in ("top", "bottom")
    gap = sizes.gap * 0.5 if is_level else sizes.gap
    ports = sorted((p for p in part.ports if p.edge == edge), key=lambda p: p.inset_mm)
    found: list[_Lane] = []
    for inset_mm, group in groupby(ports, key=lambda port: port.inset_mm):
        members = sorted(group, key=lambda port: port.at_mm)
        long = [_along(port, is_level, sizes) for port in members]
        at = [port.at_mm * px_per_mm for port in members]
        wanted = [(middle if is_level else max(start, middle), extent)
                  for middle, extent in zip(at, long, strict=True)]  # fmt: skip
        depth = max(_depth(port, is_level, sizes) for port in members)
        if inset_mm:
            depth += _label_room(edge, sizes)
        found.append(_Lane(members, inset_mm * px_per_mm, _spread(wanted, gap, start), depth))
    reached = 0.0
    for lane in found:
        lane.away = max(lane.inset, reached)
        reached = lane.away + lane.depth
    return found


def _taken(lanes: list[_Lane], none: float) -> float:
    """How much of a board the ports of an edge take."""
    return lanes[-1].away + lanes[-1].depth if lanes else none


def _along(port: Port, is_level: bool, sizes: Sizes) -> float:
    """How much of its edge a port takes."""
    if port.across:
        return sizes.side * 2.1 if is_level else _band(sizes) + sizes.name + 6
    return _extent(port, sizes) if is_level else _height(port, sizes)


def _depth(port: Port, is_level: bool, sizes: Sizes) -> float:
    """How far a port reaches inside from its edge."""
    if port.across:
        return _height(port, sizes) + 10 if is_level else _extent(port, sizes) + 18
    return _band(sizes) if is_level else sizes.side * 2.2


def _label_room(edge: str, sizes: Sizes) -> float:
    """What who sits at a port needs towards the edge; at the edge itself it stands outside."""
    return {"top": sizes.name + 8, "bottom": sizes.label + 6}.get(edge, 8.0)


def _band(sizes: Sizes) -> float:
    return sizes.bar + sizes.text + sizes.name + 8


def _port_shape(
    name: str, port: Port, edge: str, start: float, away: float, outline: QRectF, sizes: Sizes
) -> PortShape:
    """A port where it lies: at its edge, or moved inside; across it as one of the edge beside."""
    is_level = edge in ("top", "bottom")
    if not port.across:
        inwards = away + _label_room(edge, sizes) if port.inset_mm else 0.0
        inwards = -inwards if edge in ("bottom", "right") else inwards
        if is_level:
            shape = _port_across(name, port, edge, start, outline.height(), sizes)
            return moved_port(shape, 0, inwards)
        return moved_port(_port_down(name, port, edge, start, outline.width(), sizes), inwards, 0)
    # Pin 1 is at the edge: the last in the drawing at the lower and the right one.
    drawn = replace(port, reversed=port.reversed != (edge in ("bottom", "right")))
    if is_level:
        shape = _port_down(name, drawn, "left", 0, outline.width(), sizes)
        top = away + 6 if edge == "top" else outline.height() - away - 6 - shape.box.height()
        return moved_port(dataclass_replace(shape, port=port), start + 8, top)
    shape = _port_across(name, drawn, "top", 0, outline.height(), sizes)
    left = away + 8 if edge == "left" else outline.width() - away - 8 - shape.frame.width()
    return moved_port(dataclass_replace(shape, port=port), left, start + sizes.name + 12)


def _marks(part: Part, outline: QRectF, title: QRectF, sizes: Sizes) -> tuple[MarkShape, ...]:
    """The jumpers, switches and lamps where they lie, kept off the title and in the free middle."""
    assert part.board is not None
    found: list[MarkShape] = []
    for thing, x_mm, y_mm in part.marks:
        width, height = sizes.pin * 4.2, sizes.name * 1.7
        x = x_mm / part.board.width_mm * outline.width()
        y = y_mm / part.board.height_mm * outline.height()
        left = min(max(x - width / 4, title.left()), max(title.left(), title.right() - width))
        lowest = max((mark.box.bottom() + 3 for mark in found), default=title.bottom() + 2)
        top = y if abs(y - title.center().y()) > title.height() else title.bottom() + 2
        box = QRectF(left, top, width, height)
        if box.top() < title.bottom():
            box.moveTop(title.bottom() + 2)
        if any(box.intersects(mark.box) for mark in found):
            box.moveTop(lowest)
        found.append(MarkShape(thing, box))
    return tuple(found)


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
