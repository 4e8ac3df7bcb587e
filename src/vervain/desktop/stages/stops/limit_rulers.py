"""The axes as rulers with their limits and homes where they act."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QWidget

from vervain.desktop.shared.plain import set_tip
from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks
from vervain.tables.limit_rows import EndSwitch, LimitRow

HIGH, LOW, LEAST_WIDE = 66, 28, 124


class LimitRulers(QWidget):
    """All axes side by side; filled marks open when they act or are sensors, hollow ones are
    NO, a dashed one is an end without a limit.
    """

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[LimitRow, ...] = ()
        self.is_low = False
        self.setAccessibleName("Limits and homes")

    def show_rows(self, rows: tuple[LimitRow, ...]) -> None:
        """Shows the ends of other axes."""
        self.rows = rows
        self.setVisible(bool(rows))
        self.setAccessibleDescription("; ".join(f"{r.axis}: {', '.join(_told(r))}" for r in rows))
        set_tip(self, "\n".join(f"{r.axis}: {', '.join(_told(r))}" for r in rows))
        self._fit()

    def set_low(self, is_low: bool) -> None:
        """Shows the rulers without their words, which the tip then holds."""
        if is_low != self.is_low:
            self.is_low = is_low
            self._fit()

    def _fit(self) -> None:
        self.setFixedHeight(looks.px(LOW if self.is_low else HIGH))
        self.setMinimumWidth(looks.px(16 + LEAST_WIDE * len(self.rows)))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        if not self.rows:
            return
        wide = (self.width() - looks.px(16)) / len(self.rows)
        for number, row in enumerate(self.rows):
            box = QRectF(looks.px(16) + number * wide, 0, wide - looks.px(12), self.height())
            _paint_row(painter, row, box)
            if not self.is_low:
                _paint_told(painter, row, box)


class RulerStrip(QScrollArea):
    """The rulers in a strip, scrolled sideways where there are many axes."""

    def __init__(self) -> None:
        super().__init__()
        self.rulers = LimitRulers()
        self.setWidget(self.rulers)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Limits and homes")

    def show_rows(self, rows: tuple[LimitRow, ...]) -> None:
        """Shows the ends of other axes."""
        self.rulers.show_rows(rows)
        self.setVisible(bool(rows))
        self._fit()

    def set_low(self, is_low: bool) -> None:
        """Shows the rulers without their words."""
        self.rulers.set_low(is_low)
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Turning the wheel goes along the axes."""
        bar = self.horizontalScrollBar()
        if event is not None and bar is not None:
            bar.setValue(bar.value() - event.angleDelta().y() - event.angleDelta().x())

    def _fit(self) -> None:
        bar = self.horizontalScrollBar()
        is_wide = self.rulers.minimumWidth() > self.width()
        more = bar.sizeHint().height() if bar is not None and is_wide else 0
        self.setFixedHeight(self.rulers.height() + more)


def _told(row: LimitRow) -> list[str]:
    """What acts at the axis, in words; what is missing as well."""
    if row.endless:
        return ["turns without end"]
    found = []
    for words, switch in (("min", row.minimum), ("max", row.maximum), ("home", row.home)):
        if switch is not None:
            found.append(f"{words} {switch.words}")
        elif words != "home":
            found.append(f"no limit at {words}")
    return found


def _paint_row(painter: QPainter, row: LimitRow, box: QRectF) -> None:
    painter.setFont(looks.font(13, bold=True))
    painter.setPen(looks.colour("ink"))
    painter.drawText(QPointF(box.left(), looks.px(20)), row.axis)
    name = painter.fontMetrics().horizontalAdvance(row.axis)
    left, right = box.left() + name + looks.px(12), box.right() - looks.px(8)
    y = looks.px(16)
    painter.setPen(QPen(looks.colour("ink"), 3))
    painter.drawLine(QPointF(left, y), QPointF(right, y))
    if not row.endless:
        _paint_mark(painter, QPointF(left, y), row.minimum)
        _paint_mark(painter, QPointF(right, y), row.maximum)
        if row.home is not None:
            share = 0.0
            if row.home_at is not None and row.travel:
                share = min(1.0, max(0.0, row.home_at / row.travel))
            at = QPointF(left + (right - left) * share, y)
            painter.setBrush(looks.colour("accent"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawEllipse(at, looks.px(3), looks.px(3))


def _paint_told(painter: QPainter, row: LimitRow, box: QRectF) -> None:
    """What acts at each end, in words below the ruler."""
    painter.setFont(looks.font(9))
    top = looks.px(26)
    for words in _told(row)[:3]:
        painter.setPen(looks.colour("doubt" if words.startswith("no limit") else "faded"))
        line = QRectF(box.left(), top, box.width(), looks.px(13))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, elided(painter, words, line.width()))
        top += looks.px(13)


def _paint_mark(painter: QPainter, tip: QPointF, switch: EndSwitch | None) -> None:
    """A triangle over an end: filled for NC and sensors, hollow for NO, dashed where none is."""
    size = looks.px(6)
    shape = QPolygonF([tip, tip + QPointF(-size, -size * 1.6), tip + QPointF(size, -size * 1.6)])
    pen = QPen(looks.colour("ink" if switch is not None else "doubt"), 1.2)
    if switch is None:
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    filled = switch is not None and switch.made in ("NC", "sensor")
    painter.setBrush(looks.colour("ink") if filled else looks.colour("sheet"))
    painter.drawPolygon(shape)
