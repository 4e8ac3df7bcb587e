"""The ladder: a bar for every supply and state, with its consumers, against 80 % and 100 %."""

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.stages.supply.feed_worker import Figures
from vervain.desktop.theme import looks
from vervain.queries.machine_queries import Queries
from vervain.supply.results import SupplyLoad, source_name
from vervain.supply.sizing import RELIABLE
from vervain.supply.states import STATE_WORDS, STATES, State

RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
# In pixels at 100 %: the head, a bar of the state shown, one of the others, between supplies.
HEAD, TALL, THIN, BETWEEN = 26, 22, 12, 10
NAMES, STATE_NAMES, PAST_FULL = 78, 96, 1.22


class Ladder(QWidget):
    """Paints the bars; a click on a segment selects its device."""

    chose = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.figures: Figures | None = None
        self.queries: Queries | None = None
        self.state: State = "everything"
        self.selected: str | None = None
        self._segments: list[tuple[QRectF, str]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Load of each supply, state by state")

    def show_figures(
        self, figures: Figures | None, queries: Queries, state: State, selected: str | None
    ) -> None:
        """Shows other figures."""
        self.figures, self.queries, self.state, self.selected = figures, queries, state, selected
        self.setFixedHeight(self.sizeHint().height())
        self.setMinimumWidth(looks.px(560))
        self.update()

    def _shown(self) -> list[SupplyLoad]:
        if self.figures is None:
            return []
        return list(self.figures.loads[self.state])

    def sizeHint(self) -> QSize:
        count = len(self._shown())
        each = TALL + THIN * (len(STATES) - 1) + BETWEEN
        return QSize(400, looks.px(HEAD + each * count + 4))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._segments = []
        if self.figures is None or self.queries is None or not self._shown():
            return
        px = looks.px
        left = px(16 + NAMES + STATE_NAMES)
        full = (self.width() - left - px(70)) / PAST_FULL
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(12.5, bold=True))
        title = QRectF(px(16), px(3), left + full * 0.6, px(20))
        painter.drawText(title, LEFT, "Load of each supply, state by state")
        self._paint_marks(painter, left, full)
        top = float(px(HEAD))
        each = px(TALL) + px(THIN) * (len(STATES) - 1) + px(BETWEEN)
        for load in self._shown():
            if event is None or event.rect().intersects(QRect(0, round(top), self.width(), each)):
                self._paint_supply(painter, load, left, full, top)
            top += each

    def _paint_marks(self, painter: QPainter, left: float, full: float) -> None:
        px = looks.px
        for part, words, style in (
            (RELIABLE, "80 %", Qt.PenStyle.DashLine),
            (1.0, "100 %", Qt.PenStyle.SolidLine),
        ):
            x = left + full * part
            painter.setPen(looks.colour("faded" if part < 1 else "ink"))
            painter.setFont(looks.font(10.5, bold=part == 1))
            box = QRectF(x - px(30), px(3), px(60), px(20))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
            pen = QPen(looks.colour("faded" if part < 1 else "ink"), 1 if part < 1 else 1.6)
            pen.setStyle(style)
            painter.setPen(pen)
            painter.drawLine(QPointF(x, px(HEAD)), QPointF(x, self.height() - px(4)))

    def _paint_supply(
        self, painter: QPainter, load: SupplyLoad, left: float, full: float, top: float
    ) -> None:
        px = looks.px
        start = top
        assert self.queries is not None and self.figures is not None
        for state in STATES:
            shown = state == self.state
            height = px(TALL if shown else THIN)
            found = next((x for x in self.figures.loads[state] if x.pin == load.pin), None)
            name = QRectF(left - px(STATE_NAMES + 6), top, px(STATE_NAMES), height)
            painter.setFont(looks.font(11 if shown else 10, bold=shown))
            painter.setPen(looks.colour("accent" if shown else "faded"))
            painter.drawText(name, RIGHT, STATE_WORDS[state])
            if found is not None:
                self._paint_bar(painter, found, QRectF(left, top, full, height), shown, state)
            top += height
        over = load.fraction > 1
        painter.setFont(looks.font(13, bold=True))
        painter.setPen(looks.colour("bad" if over else "ink"))
        width = px(NAMES)
        line = px(18)
        painter.drawText(
            QRectF(px(16), start, width, line), LEFT,
            elided(painter, source_name(self.queries, load.pin), width),
        )  # fmt: skip
        part = QRectF(px(16), start + line * 1.9, width, line)
        painter.drawText(part, LEFT, f"{load.fraction:.0%}")
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour("faded"))
        words = f"{load.nominal_v:g} V, {load.rated_a:g} A"
        painter.drawText(QRectF(px(16), start + line, width, line), LEFT, words)
        painter.setPen(looks.colour("rule"))
        foot = top + px(BETWEEN) / 2
        painter.drawLine(QPointF(px(16), foot), QPointF(self.width() - px(16), foot))

    def _paint_bar(
        self, painter: QPainter, load: SupplyLoad, box: QRectF, shown: bool, state: State
    ) -> None:
        px = looks.px
        most = (self.width() - box.left() - px(62)) / box.width()
        extent = box.width() * min(load.fraction, most)
        over = load.fraction > 1
        inner = box.adjusted(0, px(2), 0, -px(2)) if shown else box.adjusted(0, px(3), 0, -px(3))
        bar = QRectF(inner.left(), inner.top(), extent, inner.height())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.fillRect(bar, looks.colour("rule"))
        if shown and load.current_a > 0:
            self._paint_shares(painter, load, bar)
        if over:
            painter.setPen(QPen(looks.colour("bad"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(box.left() + box.width(), inner.top(), 0, 0).united(
                QRectF(box.left() + box.width(), inner.top(), extent - box.width(), inner.height())
            ))  # fmt: skip
        painter.setFont(looks.font(11.5 if shown else 10, bold=shown))
        painter.setPen(looks.colour("bad" if over else "ink" if shown else "faded"))
        words = QRectF(bar.right() + px(6), box.top(), px(60), box.height())
        told = f"{load.current_a:.1f} A" if load.current_a >= 0.05 else "0 A"
        hours = self.figures.hours.get((load.pin, state)) if self.figures is not None else None
        if hours is not None:
            told = f"{told} · {hours:.1f} h" if hours < 100 else told
        painter.fillRect(
            QRectF(words.left() - 2, words.top() + 2, px(8), words.height() - 4),
            looks.colour("sheet"),
        )
        painter.drawText(words.adjusted(0, 0, px(60), 0), LEFT, told)

    def _paint_shares(self, painter: QPainter, load: SupplyLoad, bar: QRectF) -> None:
        """The consumers in a bar, largest first; the selected one in the accent's wash."""
        left = bar.left()
        total = sum(current_a for _, current_a in load.shares) or 1.0
        painter.setFont(looks.font(10))
        for number, (device, current_a) in enumerate(load.shares):
            width = bar.width() * current_a / total
            box = QRectF(left, bar.top(), width, bar.height())
            left += width
            self._segments.append((box, device))
            chosen = device == self.selected
            shade = "wash" if chosen else "rule" if number % 2 else "paper"
            painter.fillRect(box, looks.colour(shade))
            painter.setPen(QPen(looks.colour("accent" if chosen else "faded"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            metrics = painter.fontMetrics()
            for words in (f"{device}  {current_a:.2f} A", device):
                if metrics.horizontalAdvance(words) < width - 4:
                    painter.setPen(looks.colour("ink"))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
                    break

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for box, device in self._segments:
            if box.contains(event.position()):
                self.chose.emit(device)
                return
