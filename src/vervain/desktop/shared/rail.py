"""The stage rail: the stages with their findings and how much of each is settled."""

from collections.abc import Iterable
from itertools import accumulate

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from vervain.desktop.shared.spoken import tell
from vervain.desktop.shared.wire_painting import count_width, draw_count
from vervain.desktop.theme import looks
from vervain.rules.finding import CONSEQUENCES, Finding
from vervain.text.words import count_of


def counted(findings: Iterable[Finding]) -> dict[str, tuple[int, str]]:
    """How many findings each stage has, and the worst consequence among them."""
    counts: dict[str, tuple[int, str]] = {}
    for finding in findings:
        number, worst = counts.get(finding.stage, (0, finding.consequence))
        first = min(CONSEQUENCES.index(worst), CONSEQUENCES.index(finding.consequence))
        counts[finding.stage] = number + 1, CONSEQUENCES[first]
    return counts


class StageRail(QWidget):
    """One tab a stage: name, number of open findings, and a bar of what is settled."""

    chosen = pyqtSignal(str)

    def __init__(self, names: tuple[str, ...]) -> None:
        super().__init__()
        self.names = names
        self.current = names[0]
        self.counts: dict[str, tuple[int, str]] = {}
        self.settled: dict[str, float] = {}
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Stages")

    def sizeHint(self) -> QSize:
        return QSize(round(self._tabs()[-1].right()), looks.px(44))

    def _tabs(self) -> list[QRectF]:
        """The tabs: all of one width where the room of a usual window allows it, else each as wide
        as its name with a count beside it.
        """
        metrics, beside = QFontMetricsF(looks.font(13, bold=True)), looks.px(7) + count_width(10)
        least = [metrics.horizontalAdvance(name) + beside + 2 * self._pad() for name in self.names]
        alike = min(looks.px(108), 760 / len(self.names))
        widths = [alike] * len(least) if max(least) <= alike else least
        lefts = accumulate(widths, initial=0.0)
        return [
            QRectF(round(left), 0, round(left + width) - round(left), looks.px(44))
            for left, width in zip(lefts, widths, strict=False)
        ]

    def _pad(self) -> int:
        return min(looks.px(10), 10)

    def show_state(
        self, current: str, counts: dict[str, tuple[int, str]], settled: dict[str, float]
    ) -> None:
        """Takes what is to be drawn: the current stage, findings (number, worst), settled parts."""
        self.current, self.counts, self.settled = current, counts, settled
        count, worst = counts.get(current, (0, ""))
        found = count_of(count, "finding") + (f", the worst {worst}" if count else "")
        done = f"{settled.get(current, 0.0):.0%} settled"
        tell(self, f"{current}: {found}, {done}; left and right change the stage")
        self.updateGeometry()
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        height, pad, tabs = self.height(), self._pad(), self._tabs()
        for name, box in zip(self.names, tabs, strict=True):
            width = box.width()
            is_current = name == self.current
            if is_current:
                painter.fillRect(box, looks.colour("wash"))
            painter.setFont(looks.font(13, bold=is_current))
            painter.setPen(looks.colour("accent" if is_current else "ink"))
            text = QRectF(box.left() + pad, 0, width - pad, height - looks.px(8))
            painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, name)
            extent = painter.fontMetrics().horizontalAdvance(name)
            count, worst = self.counts.get(name, (0, ""))
            if count:
                right = text.left() + extent + looks.px(7) + count_width(count)
                draw_count(painter, right, text.center().y(), count, worst)
            bar = QRectF(box.left() + pad, height - looks.px(10), width - 2 * pad, looks.px(3))
            painter.fillRect(bar, looks.colour("rule"))
            bar.setWidth(bar.width() * self.settled.get(name, 0.0))
            painter.fillRect(bar, looks.colour("accent" if is_current else "faded"))
        if self.hasFocus():
            painter.setPen(looks.colour("accent"))
            number = self.names.index(self.current)
            painter.drawRect(tabs[number].adjusted(1, 1, -1, -2))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position().x()
        for name, tab in zip(self.names, self._tabs(), strict=True):
            if tab.left() <= at < tab.right():
                self.chosen.emit(name)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        number = (self.names.index(self.current) + step) % len(self.names)
        self.chosen.emit(self.names[number])
