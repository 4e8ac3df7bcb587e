"""A board that is described, as it will lie: outline, ports at their edges, pins in order."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from vervain.desktop.shared.plug_painting import PartPicture
from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks
from vervain.model.part import Part, Port

MARGIN, DEEP, PIN_PART = 34.0, 10.0, 0.8


class BoardPicture(QWidget):
    """Draws a part with an outline as large as there is room for."""

    def __init__(self, part: Part) -> None:
        super().__init__()
        self.part = part
        self.setAccessibleName(f"{part.title}, {len(part.ports)} ports")

    def sizeHint(self) -> QSize:
        return QSize(looks.px(240), looks.px(180))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        board = self.part.board
        if board is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        margin = looks.px(MARGIN)
        room_x, room_y = self.width() - 2 * margin, self.height() - 2 * margin
        scale = min(room_x / board.width_mm, room_y / board.height_mm)
        if scale <= 0:
            return
        outline = QRectF(margin, margin, board.width_mm * scale, board.height_mm * scale)
        painter.setPen(QPen(looks.colour("faded"), 1))
        painter.setBrush(looks.colour("paper"))
        painter.drawRoundedRect(outline, 4, 4)
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(12, bold=True))
        inner = outline.adjusted(looks.px(14), looks.px(14), -looks.px(14), -looks.px(14))
        words = elided(painter, self.part.title, inner.width())
        painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, words)
        for edge in ("top", "bottom", "left", "right"):
            ports = [port for port in self.part.ports if port.edge == edge]
            for number, port in enumerate(ports):
                self._paint_port(painter, port, outline, scale, number % 2 == 1)

    def _paint_port(
        self, painter: QPainter, port: Port, outline: QRectF, scale: float, is_second: bool
    ) -> None:
        """A port as the row of its pins, its name outside of the edge, every second one further
        out; pin 1 is larger.
        """
        long, deep = len(port.pins) * 5.0 * scale, looks.px(DEEP)
        at, count = port.at_mm * scale - long / 2, len(port.pins)
        across = port.edge in ("top", "bottom")
        if across:
            y = outline.top() - deep / 2 if port.edge == "top" else outline.bottom() - deep / 2
            box = QRectF(outline.left() + at, y, long, deep)
        else:
            x = outline.left() - deep / 2 if port.edge == "left" else outline.right() - deep / 2
            box = QRectF(x, outline.top() + at, deep, long)
        painter.setPen(QPen(looks.colour("ink"), 1))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRect(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(looks.colour("accent"))
        step = long / count
        for number in range(count):
            middle = (number + 0.5) * step
            spot = (
                QPointF(box.left() + middle, box.center().y())
                if across
                else QPointF(box.center().x(), box.top() + middle)
            )
            radius = min(step, deep) * PIN_PART / 2 * (0.7 if number else 0.9)
            painter.drawEllipse(spot, radius, radius)
        self._paint_name(painter, port, box, is_second)

    def _paint_name(self, painter: QPainter, port: Port, box: QRectF, is_second: bool) -> None:
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(9))
        high, gap = looks.px(13), looks.px(3)
        out, wide = (high if is_second else 0), box.width() * 2 + looks.px(14)
        if port.edge == "top":
            room = QRectF(box.center().x() - wide / 2, box.top() - high - gap - out, wide, high)
        elif port.edge == "bottom":
            room = QRectF(box.center().x() - wide / 2, box.bottom() + gap + out, wide, high)
        elif port.edge == "left":
            room = QRectF(0, box.center().y() - high / 2, box.left() - gap, high)
        else:
            wide = self.width() - box.right() - gap
            room = QRectF(box.right() + gap, box.center().y() - high / 2, wide, high)
        words = elided(painter, port.id, room.width())
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)


def part_picture(part: Part) -> PartPicture | BoardPicture:
    """A part as its plug, or as the board that it is."""
    return BoardPicture(part) if part.board is not None else PartPicture(part)
