"""Paints the small things: their pins, and what lies between them, drawn as it is made."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.stages.ports.block_layout import is_named
from vervain.desktop.stages.ports.board_painting import (
    Scene,
    paint_frame,
    paint_pin,
    paint_pin_text,
)
from vervain.desktop.stages.ports.shapes import BoardShape, InsideShape, PortShape
from vervain.desktop.theme import looks
from vervain.model.elements import Bridge, Contact, Diode, Fuse, Resistor, Winding
from vervain.ports.adapters import ohms
from vervain.ports.occupancy import is_conflict
from vervain.queries.connectivity import host_ports, neighbours_at
from vervain.queries.machine_queries import Queries

CENTRE = Qt.AlignmentFlag.AlignCenter
MIDDLE = Qt.AlignmentFlag.AlignVCenter


def paint_block(painter: QPainter, block: BoardShape, scene: Scene, seen: QRectF) -> None:
    """One small thing with its ports; ports outside of what is seen are left out."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    chosen = scene.selected_device == block.device
    painter.setPen(QPen(looks.colour("accent" if chosen else "rule"), 1.6 if chosen else 1))
    painter.setBrush(looks.colour("paper"))
    painter.drawRoundedRect(block.outline, 3, 3)
    device, part = scene.queries.device(block.device), scene.queries.part_of(block.device)
    if device is not None:
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(12, bold=True))
        painter.drawText(block.title, MIDDLE, block.device)
        left = painter.fontMetrics().horizontalAdvance(block.device) + looks.px(8)
        room = block.title.adjusted(left, 0, 0, 0)
        painter.setPen(looks.colour("faded"))
        painter.setFont(looks.font(11))
        painter.drawText(room, MIDDLE, elided(painter, device.name, room.width()))
    for item in block.inside:
        if item.box.intersects(seen):
            _paint_inside(painter, item, block.device, scene.queries)
    for port in block.ports:
        if port.frame.intersects(seen):
            _paint_port(painter, port, scene, part is not None and is_named(part, port.port))


def _paint_port(painter: QPainter, shape: PortShape, scene: Scene, named: bool) -> None:
    fit = scene.fits.get(shape.ref)
    conflict = is_conflict(scene.queries, shape.ref)
    paint_frame(painter, shape, scene, fit, conflict)
    offered = fit is not None and fit.verdict != "does not fit"
    for pin in shape.pins:
        paint_pin(painter, pin.ref, pin.bar, scene, scene.carrying and not offered, conflict)
        paint_pin_text(painter, shape, pin.ref, pin.text, scene)
    if named:
        painter.setFont(looks.font(10, bold=True))
        painter.setPen(looks.colour("ink"))
        painter.drawText(shape.name, CENTRE, elided(painter, shape.port.id, shape.name.width()))
    words = where_it_goes(scene.queries, shape)
    if words:
        painter.setFont(looks.font(9.5))
        painter.setPen(looks.colour("faded"))
        painter.drawText(shape.label, CENTRE, elided(painter, words, shape.label.width()))


def where_it_goes(queries: Queries, shape: PortShape) -> str:
    """Where a port's conductors lead: the port that it sits in, else the devices at its ends."""
    hosts = host_ports(queries, shape.ref) if shape.port.end == "device" else ()
    if hosts:
        return ", ".join(f"{ref.device} {ref.port}" for ref in hosts)
    return " ".join(dict.fromkeys(ref.device for ref in neighbours_at(queries, shape.ref)))


def _paint_inside(painter: QPainter, item: InsideShape, device: str, queries: Queries) -> None:
    """What lies between pins, in the row under them."""
    element, box = item.element, item.box
    painter.setPen(QPen(looks.colour("ink"), 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if isinstance(element, Bridge):
        y = box.center().y()
        painter.setPen(QPen(looks.colour("faded"), 1))
        for x in item.posts:
            painter.drawLine(QPointF(x, item.foot), QPointF(x, y))
        painter.setPen(QPen(looks.colour("faded"), 2))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        return
    middle = box.center()
    if isinstance(element, Contact):
        _paint_contact(painter, box, element.rest)
    elif isinstance(element, Fuse):
        rating = queries.setting(device, "rating_a")
        _paint_body(painter, box, f"{rating:g} A" if isinstance(rating, int | float) else "fuse")
    elif isinstance(element, Resistor):
        _paint_body(painter, box, ohms(element.resistance_ohm), square=True)
    elif isinstance(element, Diode):
        size = min(looks.px(5), box.height() / 2)
        y = middle.y()
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        # The tip points at the cathode, which is the second pin.
        way = 1.0 if item.posts[0] <= item.posts[-1] else -1.0
        tip, back = middle + QPointF(size * way, 0), middle - QPointF(size * way, 0)
        painter.setBrush(looks.colour("ink"))
        painter.drawPolygon(QPolygonF([tip, back + QPointF(0, size), back - QPointF(0, size)]))
        painter.drawLine(tip + QPointF(0, size), tip - QPointF(0, size))
    elif isinstance(element, Winding):
        count = max(2, int(box.width() // looks.px(8)))
        step = box.width() / count
        for number in range(count):
            arc = QRectF(box.left() + number * step, box.top() - step / 2 + 3, step, step)
            painter.drawArc(arc, 180 * 16, 180 * 16)


def _paint_contact(painter: QPainter, box: QRectF, rest: str) -> None:
    """Two posts with their bridge: under them and touching at NC, lifted off at NO."""
    y, rise = box.top() + looks.px(5), looks.px(4)
    left, right = QPointF(box.left() + 2, y), QPointF(box.right() - 2, y)
    painter.setPen(QPen(looks.colour("ink"), 1.2))
    for post in (left, right):
        painter.drawLine(post, post - QPointF(0, rise))
    painter.setPen(QPen(looks.colour("ink"), 2.2))
    if rest == "NC":
        painter.drawLine(left, right)
    else:
        painter.drawLine(left + QPointF(1, 0), right + QPointF(-2, looks.px(4)))


def _paint_body(painter: QPainter, box: QRectF, words: str, square: bool = False) -> None:
    """A body with its figure between two short ends."""
    y = box.center().y()
    painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
    painter.setFont(looks.font(9))
    wanted = painter.fontMetrics().horizontalAdvance(words) + looks.px(6)
    extent = min(max(wanted, box.width() * 0.4), max(box.width() + looks.px(16), 20))
    body = QRectF(box.center().x() - extent / 2, box.top(), extent, box.height())
    painter.setBrush(looks.colour("sheet"))
    radius = 1.0 if square else body.height() / 2
    painter.drawRoundedRect(body, radius, radius)
    painter.drawText(body, CENTRE, words)
