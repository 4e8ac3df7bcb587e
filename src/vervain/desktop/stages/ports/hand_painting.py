"""Paints what is in hand over the boards: a plug with its colours, or the end of a wire."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

from vervain.desktop.shared.wire_painting import draw_bar
from vervain.desktop.stages.ports.shapes import Picture, PinShape, PortShape
from vervain.desktop.theme import looks
from vervain.edits.pin_names import written
from vervain.model.machine import PortRef

if TYPE_CHECKING:
    from vervain.desktop.stages.ports.board_view import BoardsView

MIDDLE = Qt.AlignmentFlag.AlignVCenter


def _card(painter: QPainter, box: QRectF) -> None:
    """A card with a shadow: what is being carried."""
    shadow = looks.colour("ink")
    shadow.setAlphaF(0.18)
    painter.fillRect(box.translated(4, 4), shadow)
    painter.setPen(QPen(looks.colour("ink"), 1.2))
    painter.setBrush(looks.colour("sheet"))
    painter.drawRoundedRect(box, 3, 3)


def paint_plug(painter: QPainter, view: "BoardsView", hand: PortRef) -> None:
    """The card of the plug that is carried: at the mouse, else above the port it would go into."""
    queries = view.session.queries
    device, port = queries.device(hand.device), queries.port(hand)
    shape = view.picture.shape_of(view.session.target)
    if device is None or port is None:
        return
    width, height = looks.px(168), looks.px(34)
    if view.pointer is not None:
        corner = view.pointer + QPointF(14, 14)
    elif shape is not None:
        corner = _free_corner(view.picture, shape, width, height + looks.px(22))
    else:
        corner = view.at(QPointF(20, 20))
    box = QRectF(corner.x(), corner.y(), width, height)
    _card(painter, box)
    painter.setFont(looks.font(12, bold=True))
    metrics = painter.fontMetrics()
    text = metrics.elidedText(
        f"{device.designator}  {device.name}", Qt.TextElideMode.ElideRight, int(width - 16)
    )
    painter.drawText(box.adjusted(8, 0, -8, 0), MIDDLE, text)
    side = looks.px(22)
    left = box.center().x() - side * min(len(port.pins), 8) / 2
    for number, pin in enumerate(port.pins[:8]):
        bar = QRectF(left + number * side, box.bottom() + 2, side - 1, looks.px(18))
        draw_bar(painter, bar, pin.lead, text=pin.lead or pin.text)


def _free_corner(picture: Picture, shape: PortShape, width: float, height: float) -> QPointF:
    """Where a card of a size near a port covers no other port."""
    up = shape.edge == "bottom"
    y = shape.frame.top() - height - looks.px(18) if up else shape.frame.bottom() + 8
    start = min(shape.frame.center().x() - width / 2, picture.width - width - 8)
    for shift in range(0, 600, 30):
        for x in (start - shift, start + shift):
            box = QRectF(x, y, width, height)
            inside = 6 <= x <= picture.width - width - 6
            if inside and not any(p.frame.intersects(box) for p in picture.ports()):
                return box.topLeft()
    return QPointF(max(6, start), max(6, y))


def paint_wire(painter: QPainter, view: "BoardsView") -> None:
    """The wire in hand: from its pin to the mouse, else to the pin that it would go to."""
    start = view.picture.pin_shape(view.wires.start)
    if start is None or view.wires.start is None:
        return
    target = view.picture.pin_shape(view.wires.target)
    if view.pointer is not None:
        goal = view.pointer
    elif target is not None:
        goal = target.bar.center()
    else:
        return
    _line(painter, start, goal)
    words = f"from {written(view.session.machine, view.wires.start)}"
    painter.setFont(looks.font(11, bold=True))
    width = painter.fontMetrics().horizontalAdvance(words) + looks.px(14)
    if view.pointer is not None:
        corner = goal + QPointF(14, 14)
    else:
        corner = (start.bar.center() + goal) / 2 - QPointF(width / 2, -looks.px(12))
    box = QRectF(corner.x(), corner.y(), width, looks.px(22))
    _card(painter, box)
    painter.setPen(looks.colour("ink"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _line(painter: QPainter, start: PinShape, goal: QPointF) -> None:
    """A wire that hangs a little between two points."""
    first = start.bar.center()
    sag = QPointF(0, min(60.0, 18 + abs(goal.x() - first.x()) * 0.15))
    path = QPainterPath(first)
    path.cubicTo(first + sag, goal + sag, goal)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(looks.colour("ink"), looks.px(5)))
    painter.drawPath(path)
    painter.setPen(QPen(looks.colour("sheet"), looks.px(3)))
    painter.drawPath(path)
