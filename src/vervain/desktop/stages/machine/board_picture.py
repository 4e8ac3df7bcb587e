"""A board that is described, as it will lie: outline, ports at their edges, pins in order."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from vervain.catalogue.boards import extent_mm
from vervain.desktop.shared.plug_painting import PartPicture
from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks
from vervain.model.part import Board, Edge, Indicator, Part, Port

# Room for the names of ports, and beside the board, in pixels at the usual text size.
MARGIN, BESIDE, DEEP, PIN_PART = 34.0, 62.0, 10.0, 0.8
# Where the pins' names of a row across an edge stand: as those of a row along this one.
ACROSS: dict[Edge, Edge] = {"top": "left", "bottom": "left", "left": "top", "right": "top"}
# Pins nearer together than that have no room for their names.
NARROWEST_PIN = 9.0


class BoardPicture(QWidget):
    """Draws a part with an outline as large as there is room for."""

    def __init__(self, part: Part) -> None:
        super().__init__()
        self.part = part
        self.chosen: str | None = None
        self.setAccessibleName(f"{part.title}, {len(part.ports)} ports")

    def sizeHint(self) -> QSize:
        return QSize(looks.px(240), looks.px(180))

    def height_for(self, width: int) -> int:
        """How high the picture is when its board takes a width."""
        board = self.part.board or Board(width_mm=1, height_mm=1)
        scale = (width - 2 * looks.px(BESIDE)) / board.width_mm
        return round(board.height_mm * scale + 2 * looks.px(MARGIN))

    def outline(self) -> QRectF:
        """The board's outline in the widget; empty where there is no room."""
        board = self.part.board or Board(width_mm=1, height_mm=1)
        beside, margin = looks.px(BESIDE), looks.px(MARGIN)
        room_x, room_y = self.width() - 2 * beside, self.height() - 2 * margin
        scale = max(0.0, min(room_x / board.width_mm, room_y / board.height_mm))
        left = beside + (room_x - board.width_mm * scale) / 2
        return QRectF(left, margin, board.width_mm * scale, board.height_mm * scale)

    def px_per_mm(self) -> float:
        """How large a millimetre is drawn."""
        return self.outline().width() / self.part.board.width_mm if self.part.board else 0.0

    def port_box(self, port: Port) -> QRectF:
        """Where a port's row of pins is drawn: on its edge, or as far inside as it lies."""
        outline, scale = self.outline(), self.px_per_mm()
        long, deep = extent_mm(len(port.pins), port.connector) * scale, looks.px(DEEP)
        # Along the edge, and from the edge inwards.
        wide, high = (deep, long) if port.across else (long, deep)
        start = port.at_mm * scale - wide / 2
        inside = port.inset_mm * scale - (0 if port.across else high / 2)
        if port.edge in ("top", "bottom"):
            y = outline.top() + inside if port.edge == "top" else outline.bottom() - inside - high
            return QRectF(outline.left() + start, y, wide, high)
        x = outline.left() + inside if port.edge == "left" else outline.right() - inside - high
        return QRectF(x, outline.top() + start, high, wide)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        if self.part.board is not None and not self.outline().isEmpty():
            self.paint_board(painter)

    def paint_board(self, painter: QPainter) -> None:
        """Draws the outline, what lies in it, and the ports."""
        outline = self.outline()
        painter.setPen(QPen(looks.colour("faded"), 1))
        painter.setBrush(looks.colour("paper"))
        painter.drawRoundedRect(outline, 4, 4)
        self.paint_middle(painter, outline)
        self._paint_options(painter, outline)
        for edge in ("top", "bottom", "left", "right"):
            ports = [port for port in self.part.ports if port.edge == edge]
            places = {
                port.at_mm: min(p.inset_mm for p in ports if p.at_mm == port.at_mm)
                for port in ports
            }
            named = [port for port in ports if port.inset_mm == places[port.at_mm]]
            for port in ports:
                self._paint_port(painter, port)
            for number, port in enumerate(named):
                # What lies right behind another is called as that is.
                self._paint_name(painter, port, self.port_box(port), number % 2 == 1)

    def paint_middle(self, painter: QPainter, outline: QRectF) -> None:
        """Draws the name in the middle of the board."""
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(12, bold=True))
        inner = outline.adjusted(looks.px(14), looks.px(14), -looks.px(14), -looks.px(14))
        words = elided(painter, self.part.title, inner.width())
        painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_options(self, painter: QPainter, outline: QRectF) -> None:
        """The jumpers, switches and lamps where they lie, with their names."""
        scale = self.px_per_mm()
        painter.setFont(looks.font(9))
        for thing, x_mm, y_mm in self.part.marks:
            spot = outline.topLeft() + QPointF(x_mm * scale, y_mm * scale)
            box = QRectF(spot.x() - looks.px(9), spot.y() - looks.px(4), looks.px(18), looks.px(8))
            painter.setPen(QPen(looks.colour("ink"), 1))
            painter.setBrush(looks.colour("sheet"))
            if isinstance(thing, Indicator):
                box = QRectF(spot.x() - looks.px(4), box.top(), looks.px(8), looks.px(8))
                painter.drawEllipse(box)
            else:
                painter.drawRect(box)
            words = QRectF(box.right() + looks.px(4), box.top() - 4, outline.width(), 16)
            painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, thing.id)

    def _paint_port(self, painter: QPainter, port: Port) -> None:
        """A port as the row of its pins; pin 1 is larger."""
        box, count = self.port_box(port), len(port.pins)
        is_level = (port.edge in ("top", "bottom")) != port.across
        is_chosen = port.id == self.chosen
        painter.setPen(QPen(looks.colour("accent" if is_chosen else "ink"), 2 if is_chosen else 1))
        painter.setBrush(looks.colour("wash" if is_chosen else "sheet"))
        painter.drawRect(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(looks.colour("accent"))
        long, deep = (box.width(), box.height()) if is_level else (box.height(), box.width())
        step = long / count
        # Across the lower or right edge, what is at the edge is the last in the drawing.
        is_last_first = port.reversed != (port.across and port.edge in ("bottom", "right"))
        for number in range(count):
            place = count - 1 - number if is_last_first else number
            middle = (place + 0.5) * step
            spot = (
                QPointF(box.left() + middle, box.center().y())
                if is_level
                else QPointF(box.center().x(), box.top() + middle)
            )
            radius = min(step, deep) * PIN_PART / 2 * (0.7 if number else 0.9)
            painter.drawEllipse(spot, radius, radius)
            if step >= looks.px(NARROWEST_PIN):
                self._paint_pin_name(painter, port, port.pins[number].text, spot)

    def _paint_pin_name(self, painter: QPainter, port: Port, text: str, spot: QPointF) -> None:
        """A pin's name inside the board, along the pin."""
        painter.save()
        painter.setPen(looks.colour("faded"))
        painter.setFont(looks.font(8))
        painter.translate(spot)
        side_of = ACROSS[port.edge] if port.across else port.edge
        painter.rotate({"top": 90, "bottom": -90, "left": 0, "right": 0}[side_of])
        gap, long, high = looks.px(8), looks.px(40), looks.px(10)
        if side_of == "right":
            room, side = QRectF(-gap - long, -high / 2, long, high), Qt.AlignmentFlag.AlignRight
        else:
            room, side = QRectF(gap, -high / 2, long, high), Qt.AlignmentFlag.AlignLeft
        painter.drawText(room, side | Qt.AlignmentFlag.AlignVCenter, elided(painter, text, long))
        painter.restore()
        painter.setPen(Qt.PenStyle.NoPen)

    def _paint_name(self, painter: QPainter, port: Port, box: QRectF, is_second: bool) -> None:
        painter.setPen(looks.colour("accent" if port.id == self.chosen else "ink"))
        painter.setFont(looks.font(9, bold=port.id == self.chosen))
        high, gap = looks.px(13), looks.px(3)
        out, wide = (high if is_second else 0), box.width() * 2 + looks.px(14)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter
        if port.edge == "top":
            room = QRectF(box.center().x() - wide / 2, box.top() - high - gap - out, wide, high)
        elif port.edge == "bottom":
            room = QRectF(box.center().x() - wide / 2, box.bottom() + gap + out, wide, high)
        elif port.edge == "left":
            wide = looks.px(BESIDE) - gap
            room = QRectF(box.left() - gap - wide, box.center().y() - high / 2, wide, high)
            flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        else:
            wide = looks.px(BESIDE) - gap
            room = QRectF(box.right() + gap, box.center().y() - high / 2, wide, high)
            flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        words = elided(painter, port.id, room.width())
        painter.drawText(room, flags, words)


def part_picture(part: Part) -> PartPicture | BoardPicture:
    """A part as its plug, or as the board that it is."""
    return BoardPicture(part) if part.board is not None else PartPicture(part)
