"""A part as one sees it: its plug or its leads, pin by pin, with functions and colours."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from vervain.desktop.shared.wire_painting import draw_bar, draw_triangle, elided
from vervain.desktop.theme import looks
from vervain.leads.merge import polarity_free
from vervain.model.connectors import connector_words
from vervain.model.part import Part, Port

MIDDLE, RIGHT = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
ROW, MOST_ROWS = 20.0, 24
POLARITY_FREE = "either way round"


def shown_port(part: Part) -> Port | None:
    """The port that a part is known by: the one with leads of its own, else its first."""
    led = [port for port in part.ports if any(pin.lead for pin in port.pins)]
    return next(iter(led or part.ports), None)


class PartPicture(QWidget):
    """The drawn plug of a part; rows in pin order, pin 1 marked, colours as bars."""

    def __init__(self, part: Part) -> None:
        super().__init__()
        self.part = part
        self.port = shown_port(part)
        self.setAccessibleName(f"Leads of {part.title}")

    def sizeHint(self) -> QSize:
        rows = min(MOST_ROWS, len(self.port.pins)) if self.port else 0
        return QSize(looks.px(220), looks.px(ROW * rows + 22))

    def minimumSizeHint(self) -> QSize:
        return QSize(looks.px(110), self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        port = self.port
        if port is None:
            return
        painter = QPainter(self)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        row = looks.px(ROW)
        body = QRectF(looks.px(6), looks.px(4), self.width() * 0.42, row * len(port.pins) + 4)
        painter.setPen(QPen(looks.colour("ink"), 1))
        painter.setBrush(looks.colour("paper"))
        painter.drawRect(body)
        leads = any(pin.lead for pin in port.pins)
        for number, pin in enumerate(port.pins[:MOST_ROWS]):
            top = body.top() + 2 + number * row
            line = QRectF(body.left() + looks.px(12), top, body.width() - looks.px(18), row)
            painter.setFont(looks.font(11, bold=True))
            painter.setPen(looks.colour("faded"))
            if pin.id not in (pin.text, pin.lead):
                number_box = line.adjusted(looks.px(4), 0, 0, 0)
                painter.drawText(number_box, int(MIDDLE), pin.id)
                extent = painter.fontMetrics().horizontalAdvance(pin.id) + looks.px(8)
                line.setLeft(line.left() + extent)
            painter.setFont(looks.font(11))
            painter.setPen(looks.colour("ink"))
            words = elided(painter, pin.text, line.width())
            painter.drawText(line, int(MIDDLE | RIGHT), words)
            bar = QRectF(body.right(), top + 3, self.width() - body.right() - looks.px(8), row - 6)
            if pin.lead:
                draw_bar(painter, bar, pin.lead)
            elif leads:
                painter.setPen(looks.colour("faded"))
                painter.drawText(bar.adjusted(looks.px(6), 0, 0, 0), int(MIDDLE), "no lead")
            else:
                painter.setPen(QPen(looks.colour("ink"), 1))
                painter.drawRect(QRectF(body.right() - looks.px(4), top + row / 2 - 4, 8, 8))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tip = QPointF(body.left() + looks.px(8), body.top() + 2 + row / 2)
        draw_triangle(painter, tip, looks.px(4), "left")
        painter.setFont(looks.font(10))
        painter.setPen(looks.colour("faded"))
        below = QRectF(body.left(), body.bottom() + 1, self.width() - body.left(), looks.px(15))
        words = connector_words(port.connector) if port.connector or leads else port.kind
        if polarity_free(self.part, port):
            words = f"{words}, {POLARITY_FREE}"
        painter.drawText(below, int(MIDDLE), elided(painter, words, below.width()))
