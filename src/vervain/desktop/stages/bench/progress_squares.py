"""All steps as small squares, section by section: how far the bench is, at one look."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from vervain.desktop.bench_worker import BenchFigures
from vervain.desktop.shared.wire_painting import draw_triangle, elided
from vervain.desktop.theme import looks

SQUARE, GAP, BETWEEN = 8.0, 1.0, 9.0
COLOURS = {"passed": "good", "failed": "bad", "again": "doubt"}


class ProgressSquares(QWidget):
    """A square a step, in the colour of how it stands; a failed one is crossed, one to be seen
    again is hollow. A click goes to it.
    """

    chose = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.figures: BenchFigures | None = None
        self.at = 0
        self.setAccessibleName("Progress")

    def sizeHint(self) -> QSize:
        return QSize(200, looks.px(42))

    def show_steps(self, figures: BenchFigures | None, at: int) -> None:
        """Takes the steps, and the number of the one that is shown."""
        self.figures, self.at = figures, at
        self.setFixedHeight(looks.px(42))
        if figures is not None:
            words = f"{figures.count('passed')} of {len(figures.steps)} steps passed"
            self.setAccessibleDescription(words)
        self.update()

    def boxes(self) -> list[QRectF]:
        """The square of each step."""
        steps = self.figures.steps if self.figures else ()
        sections = len({step.section for step in steps})
        room = self.width() - 2 * looks.px(16) - (sections - 1) * looks.px(BETWEEN)
        pitch = min(looks.px(SQUARE + GAP), room / max(1, len(steps)))
        found, left, section = [], float(looks.px(16)), steps[0].section if steps else ""
        for step in steps:
            if step.section != section:
                section = step.section
                left += looks.px(BETWEEN)
            found.append(QRectF(left, looks.px(7), max(1.0, pitch - GAP), looks.px(SQUARE)))
            left += pitch
        return found

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
        if self.figures is None:
            return
        spans: dict[str, list[float]] = {}
        for number, (step, box) in enumerate(zip(self.figures.steps, self.boxes(), strict=True)):
            state = self.figures.state(step).state
            colour = looks.colour(COLOURS.get(state, "rule"))
            if state == "again":
                painter.setPen(QPen(colour, 1.4))
                painter.drawRect(box.adjusted(0.7, 0.7, -0.7, -0.7))
            else:
                painter.fillRect(box, colour)
            if state == "failed":
                painter.setPen(QPen(looks.colour("sheet"), 1))
                painter.drawLine(box.topLeft(), box.bottomRight())
                painter.drawLine(box.topRight(), box.bottomLeft())
            if number == self.at:
                tip = QPointF(box.center().x(), box.bottom() + looks.px(2))
                painter.setBrush(looks.colour("accent"))
                draw_triangle(painter, tip, looks.px(4), "up")
            span = spans.setdefault(step.section, [box.left(), box.right()])
            span[1] = box.right()
        self._paint_names(painter, spans)

    def _paint_names(self, painter: QPainter, spans: dict[str, list[float]]) -> None:
        """The sections' names under their squares, as far as there is room before the next."""
        here = self.figures.steps[self.at].section if self.figures and self.figures.steps else ""
        starts = [span[0] for span in spans.values()] + [self.width() - 4.0]
        free = 0.0
        for number, (section, span) in enumerate(spans.items()):
            painter.setFont(looks.font(10.5, bold=section == here))
            painter.setPen(looks.colour("ink" if section == here else "faded"))
            # A long name over few squares begins further left, where the one before leaves room.
            wanted = painter.fontMetrics().horizontalAdvance(section) + 8
            left = max(free, min(span[0], starts[number + 1] - wanted))
            room = starts[number + 1] - left - 4
            free = left + min(wanted, room) + looks.px(8)
            box = QRectF(left, looks.px(22), room, looks.px(16))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, elided(painter, section, room))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        x = event.position().x()
        boxes = self.boxes()
        if boxes:
            near = min(range(len(boxes)), key=lambda n: abs(boxes[n].center().x() - x))
            self.chose.emit(near)
