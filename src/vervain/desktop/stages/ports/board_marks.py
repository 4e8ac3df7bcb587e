"""Paints what lies on a board besides its ports: jumpers, switches, driver modules, shared pins."""

from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.stages.ports.shapes import BoardShape, MarkShape, PortShape
from vervain.desktop.theme import looks
from vervain.model.colours import base_and_stripe
from vervain.model.elements import Bridge
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Indicator, IndicatorColour
from vervain.queries.connectivity import is_shared_pin, steps_from
from vervain.queries.machine_queries import Queries

# The code of each colour of a lamp (IEC 60757).
LAMP_COLOURS: dict[IndicatorColour, str] = {
    "red": "RD", "yellow": "YE", "green": "GN", "blue": "BU", "white": "WH",
}  # fmt: skip
CENTRE = Qt.AlignmentFlag.AlignCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


def paint_mark(painter: QPainter, mark: MarkShape, device: str, queries: Queries) -> None:
    """A jumper or a row of switches as it is to stand, with its name and what it stands at; a lamp
    with what it means.
    """
    if isinstance(mark.of, Indicator):
        words, value = mark.of.id, mark.of.means
        right = _paint_lamp(painter, mark.box, mark.of)
    else:
        option, drawn = mark.of, mark.of.drawn
        setting = str(queries.setting(device, option.id))
        if drawn is None:
            return
        position = drawn.positions.get(setting, "")
        if drawn.form == "jumper":
            figures = [int(c) for p in drawn.positions.values() for c in p if c.isdecimal()]
            right = _paint_jumper(painter, mark.box, position, max(figures, default=2))
        else:
            right = _paint_switches(painter, mark.box, position)
        words = option.title.partition(":")[0]
        value = f"1/{setting}" if option.id == "microsteps" else setting
    painter.setFont(looks.font(10, bold=True))
    painter.setPen(looks.colour("ink"))
    width = mark.box.right() - right - 4
    upper = QRectF(right + 4, mark.box.top(), width, mark.box.height() / 2)
    painter.drawText(upper, LEFT, elided(painter, words, width))
    painter.setFont(looks.font(10))
    painter.setPen(looks.colour("faded"))
    painter.drawText(upper.translated(0, upper.height()), LEFT, elided(painter, value, width))


def _paint_lamp(painter: QPainter, box: QRectF, lamp: Indicator) -> float:
    """A lamp in its colour; returns where the drawing ends."""
    size = looks.px(9)
    spot = QRectF(box.left(), box.center().y() - size / 2, size, size)
    painter.setPen(QPen(looks.colour("ink"), 1))
    painter.setBrush(QColor(base_and_stripe(LAMP_COLOURS[lamp.colour])[0].fill))
    painter.drawEllipse(spot)
    return spot.right()


def _paint_jumper(painter: QPainter, box: QRectF, position: str, count: int) -> float:
    """The posts, and the cap over the two that it joins; returns where the drawing ends."""
    size = looks.px(7)
    step = looks.px(10)
    y = box.center().y()
    posts = [QPointF(box.left() + size / 2 + number * step, y) for number in range(count)]
    painter.setPen(QPen(looks.colour("faded"), 1))
    painter.setBrush(looks.colour("paper"))
    for post in posts:
        painter.drawRect(QRectF(post.x() - size / 2, y - size / 2, size, size))
    joined = [int(text) - 1 for text in position.split("-") if text.isdecimal()]
    if len(joined) == 2:
        cap = QRectF(posts[joined[0]], posts[joined[1]]).adjusted(-size, -size, size, size)
        painter.setPen(QPen(looks.colour("ink"), 1.4))
        painter.setBrush(looks.colour("wash"))
        painter.drawRoundedRect(cap, 2, 2)
        painter.drawLine(posts[joined[0]], posts[joined[1]])
    return posts[-1].x() + size


def _paint_switches(painter: QPainter, box: QRectF, position: str) -> float:
    """A row of slide switches, on at the top; returns where the drawing ends."""
    width, height = looks.px(8), looks.px(16)
    left, top = box.left(), box.center().y() - height / 2
    painter.setFont(looks.font(7))
    for number, state in enumerate(position):
        slot = QRectF(left + number * (width + 2), top, width, height)
        painter.setPen(QPen(looks.colour("faded"), 1))
        painter.setBrush(looks.colour("paper"))
        painter.drawRect(slot)
        knob = QRectF(slot.left() + 1, slot.top() + 1, width - 2, height / 2 - 1)
        if state != "1":
            knob.translate(0, height / 2)
        painter.fillRect(knob, looks.colour("ink" if state == "1" else "faded"))
    return left + len(position) * (width + 2)


def paint_slot(painter: QPainter, shape: PortShape, module: str, turned: bool) -> None:
    """A driver slot: its socket strips, and the module in it with its corner mark at pin 1."""
    box = shape.box
    painter.setPen(QPen(looks.colour("faded"), 1))
    painter.setBrush(looks.colour("paper"))
    painter.drawRoundedRect(box, 2, 2)
    strip = looks.px(5)
    rows = (
        QRectF(box.left() + 3, box.top() + 3, box.width() - 6, strip),
        QRectF(box.left() + 3, box.bottom() - 3 - strip, box.width() - 6, strip),
    )
    painter.setBrush(looks.colour("rule"))
    painter.setPen(Qt.PenStyle.NoPen)
    for row in rows:
        painter.drawRect(row)
    if not module:
        painter.setPen(QPen(looks.colour("rule"), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(6, strip + 5, -6, -strip - 5))
        return
    body = box.adjusted(5, 5, -5, -5)
    painter.setPen(QPen(looks.colour("bad" if turned else "ink"), 1.4))
    painter.setBrush(looks.colour("sheet"))
    painter.drawRect(body)
    corner = body.bottomRight() if turned else body.topLeft()
    sign = -1 if turned else 1
    mark = looks.px(8) * sign
    path = QPainterPath(corner)
    path.lineTo(corner + QPointF(mark, 0))
    path.lineTo(corner + QPointF(0, mark))
    path.closeSubpath()
    painter.fillPath(path, looks.colour("bad" if turned else "ink"))
    painter.setFont(looks.font(11, bold=True))
    painter.setPen(looks.colour("bad" if turned else "ink"))
    painter.drawText(body, CENTRE, module)


def paint_shared(
    painter: QPainter, board: BoardShape, queries: Queries, chosen: PortRef | None
) -> None:
    """Thin arcs between ports that share a pin of the processor, and between parallel sockets."""
    part = queries.part_of(board.device)
    shapes = {shape.ref.port: shape for shape in board.ports}
    for element in part.inside if part else ():
        if not isinstance(element, Bridge) or not element.name:
            continue
        pins = [PinRef(device=board.device, port=port, pin=pin) for port, pin in element.pins]
        used = [pin for pin in pins if steps_from(queries, pin) and not is_shared_pin(queries, pin)]
        points = [point for pin in pins if (point := _inner_end(shapes, pin)) is not None]
        is_bad = len({pin.port for pin in used}) > 1
        if not is_bad and _are_in_line([shapes[pin.port] for pin in pins if pin.port in shapes]):
            continue
        is_chosen = chosen is not None and chosen in {pin.port_ref for pin in pins}
        for first, second in pairwise(points):
            _arc(painter, board.outline, first, second, is_bad, element.name if is_chosen else "")
    by_slot: dict[str, list[PortShape]] = {}
    for shape in board.ports:
        if shape.port.needs is not None:
            by_slot.setdefault(shape.port.needs, []).append(shape)
    for twins in by_slot.values():
        for one, two in pairwise(twins):
            _parallel(painter, one, two)


def _are_in_line(shapes: list[PortShape]) -> bool:
    """Whether ports lie one behind the other at one place, which says that they belong together."""
    return len({(shape.edge, shape.port.at_mm) for shape in shapes}) == 1


def _inner_end(shapes: dict[str, PortShape], pin: PinRef) -> QPointF | None:
    """Where a pin's trace leaves its port towards the middle of the board."""
    shape = shapes.get(pin.port)
    found = next((p for p in shape.pins if p.ref == pin), None) if shape else None
    if shape is None or found is None:
        return None
    if shape.edge in ("top", "bottom"):
        y = shape.name.bottom() if shape.edge == "top" else shape.name.top()
        return QPointF(found.bar.center().x(), y)
    x = shape.box.right() if shape.edge == "left" else shape.box.left()
    return QPointF(x, found.bar.center().y())


def _arc(
    painter: QPainter, outline: QRectF, first: QPointF, second: QPointF, is_bad: bool, name: str
) -> None:
    middle = (first + second) / 2
    bend = middle + (outline.center() - middle) * 0.55
    path = QPainterPath(first)
    path.quadTo(bend, second)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(looks.colour("bad" if is_bad else "faded"), 1.6 if is_bad else 1.0))
    painter.drawPath(path)
    if name or is_bad:
        painter.setFont(looks.font(10))
        at = path.pointAtPercent(0.5)
        text = name or "shared"
        width = painter.fontMetrics().horizontalAdvance(text) + 8
        box = QRectF(at.x() - width / 2, at.y() - looks.px(8), width, looks.px(15))
        painter.fillRect(box, looks.colour("sheet"))
        painter.drawText(box, CENTRE, text)


def _parallel(painter: QPainter, one: PortShape, two: PortShape) -> None:
    """Two sockets of the same outputs: a double line from one to the other."""
    painter.setPen(QPen(looks.colour("faded"), 1))
    if one.edge in ("left", "right"):
        x = one.box.left() - 4 if one.edge == "right" else one.box.right() + 4
        for shift in (0, 3):
            start = QPointF(x - shift, one.box.bottom() - 4)
            painter.drawLine(start, QPointF(x - shift, two.box.top() + 4))
        return
    y = one.name.bottom() + 2 if one.edge == "top" else one.name.top() - 2
    for shift in (0, 3):
        painter.drawLine(QPointF(one.box.right(), y + shift), QPointF(two.box.left(), y + shift))
