"""A ranked list in the side column: where what is in hand can go, each place with its reason."""

from dataclasses import dataclass

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks

MIDDLE = Qt.AlignmentFlag.AlignVCenter
WRAPPED = int(Qt.TextFlag.TextWordWrap)


@dataclass(frozen=True)
class AnswerRow:
    """One place: its name, its answer in a word or two, and the reason under it."""

    name: str
    tag: str
    reason: str
    is_target: bool = False
    is_sure: bool = True


class AnswerList(QWidget):
    """Rows with numbers; a click on one is told as `chosen`."""

    chosen = pyqtSignal(int)

    def __init__(self, lines: int = 1) -> None:
        super().__init__()
        self.title = self.count = self.foot = ""
        self.rows: tuple[AnswerRow, ...] = ()
        self.first_number = 1
        self._lines = lines
        self.hide()

    def show_rows(
        self, title: str, count: str, rows: tuple[AnswerRow, ...], foot: str = ""
    ) -> None:
        """Shows rows under a title; what is to be said of the rest stands at the foot."""
        self.title, self.count, self.rows, self.foot = title, count, rows, foot
        self.setAccessibleName(title)
        self.setAccessibleDescription(
            ". ".join(f"{row.name}: {row.tag}, {row.reason}" for row in rows)
        )
        self.show()
        self.updateGeometry()
        self.update()

    def row_height(self) -> int:
        """How high a row is, in pixels."""
        return looks.px(26 + 16 * self._lines)

    def _foot_height(self) -> int:
        return looks.px(42) if self.foot else 2

    def sizeHint(self) -> QSize:
        return QSize(
            200, looks.px(28) + len(self.rows) * self.row_height() + self._foot_height() + 2
        )

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(0, 0, self.width(), looks.px(24))
        painter.setFont(looks.font(11))
        extent = painter.fontMetrics().horizontalAdvance(self.count) + looks.px(8)
        painter.setPen(looks.colour("faded"))
        painter.drawText(head, Qt.AlignmentFlag.AlignRight | MIDDLE, self.count)
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        painter.drawText(head, MIDDLE, elided(painter, self.title, head.width() - extent))
        top, height = float(looks.px(26)), self.row_height()
        room = len(self.rows) * height + self._foot_height()
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRoundedRect(QRectF(0.5, top, self.width() - 1, room), 3, 3)
        for number, row in enumerate(self.rows):
            self._paint_row(painter, QRectF(1, top, self.width() - 2, height), number, row)
            top += height
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        box = QRectF(10, top + 4, self.width() - 20, self._foot_height() - 6)
        painter.drawText(box, WRAPPED, self.foot)

    def _paint_row(self, painter: QPainter, box: QRectF, number: int, row: AnswerRow) -> None:
        if row.is_target:
            painter.fillRect(box, looks.colour("wash"))
            painter.fillRect(QRectF(0, box.top(), 3, box.height()), looks.colour("accent"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        upper = QRectF(box.left() + 10, box.top() + 3, box.width() - 20, looks.px(19))
        painter.setPen(looks.colour("accent"))
        painter.setFont(looks.font(12, bold=True))
        painter.drawText(upper, MIDDLE, f"{self.first_number + number}")
        inset = looks.px(16)
        tag_width = self._paint_tag(painter, upper, row)
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        room = upper.width() - inset - tag_width - 6
        painter.drawText(upper.adjusted(inset, 0, 0, 0), MIDDLE, elided(painter, row.name, room))
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour("faded"))
        high = looks.px(15 * self._lines + 2)
        lower = QRectF(upper.left() + inset, upper.bottom(), upper.width() - inset, high)
        if self._lines == 1:
            painter.drawText(lower, MIDDLE, elided(painter, row.reason, lower.width()))
        else:
            room = lower.width() * self._lines * 0.92
            painter.drawText(lower, WRAPPED, elided(painter, row.reason, room))

    def _paint_tag(self, painter: QPainter, upper: QRectF, row: AnswerRow) -> float:
        """The answer in its box at the right; returns how wide it is."""
        if not row.tag:
            return 0.0
        painter.setFont(looks.font(10.5, bold=True))
        wanted = painter.fontMetrics().horizontalAdvance(row.tag) + looks.px(10)
        extent = min(wanted, upper.width() * 0.62)
        tag = QRectF(upper.right() - extent, upper.top() + 2, extent, upper.height() - 3)
        pen = QPen(looks.colour("accent"), 1)
        if not row.is_sure:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(tag, 3, 3)
        words = elided(painter, row.tag, extent - 4)
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)
        return extent

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        number = int((event.position().y() - looks.px(26)) // self.row_height())
        if 0 <= number < len(self.rows):
            self.chosen.emit(number)
