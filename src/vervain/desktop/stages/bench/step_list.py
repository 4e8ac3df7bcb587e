"""The bench list as rows: section heads, and a step a row with how it stands."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent

from vervain.bench.results import StepResult
from vervain.bench.step import BenchStep, Section
from vervain.desktop.bench_worker import BenchFigures
from vervain.desktop.shared.drawn_view import DrawnView
from vervain.desktop.shared.spoken import tell
from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks

MIDDLE = Qt.AlignmentFlag.AlignVCenter
ROW, HEAD, MARK = 38, 30, 6.0
MARKS = {"passed": ("good", "✓"), "failed": ("bad", "✕"), "again": ("doubt", "↻")}
KIND_WORDS = {
    "set": "setting", "earth": "protective earth", "short": "no short", "coils": "coils",
    "contact": "contact", "volts": "volts, nothing plugged", "feed": "volts at its plug",
    "amps": "amps", "input": "input", "counts": "counts a turn", "output": "output",
    "lock": "holds", "direction": "direction", "distance": "distance", "agree": "counts agree",
    "stop": "stops", "channel": "channel", "limit": "limit", "home": "homing",
    "unplug": "plug pulled", "wheel": "counts a turn", "values": "two values",
}  # fmt: skip


def second_line(step: BenchStep, result: StepResult, is_held: bool) -> tuple[str, str]:
    """What stands under a step's name, and in which ink: what was seen, or what kind it is."""
    kind = KIND_WORDS.get(step.kind, step.kind)
    kept = result.result
    if result.state == "again":
        return f"{kind}, to be seen again", "doubt_text"
    if kept is not None:
        seen = kept.seen or kept.note or result.state
        return f"{kind}: {seen}", "bad" if result.state == "failed" else "faded"
    if is_held:
        return f"held back: {step.held}", "doubt_text"
    return f"{kind}: {step.see}", "faded"


class StepList(DrawnView):
    """Rows that arrows and clicks choose from; `chose` tells the number of the step."""

    chose = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__("Bench steps")
        self.figures: BenchFigures | None = None
        self.names: dict[str, str] = {}
        self.anyway: set[str] = set()
        self.at = 0
        self._tops: list[tuple[float, int | None, Section | None]] = []
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_steps(
        self, figures: BenchFigures | None, names: dict[str, str], anyway: set[str]
    ) -> None:
        """Takes the steps, the names of the devices, and which steps are done though held back."""
        self.figures, self.names, self.anyway = figures, names, anyway
        self.arrange()

    def arrange(self) -> None:
        """Lays the rows out at the scale in force."""
        self._tops = []
        top, section = 0.0, None
        for number, step in enumerate(self.figures.steps if self.figures else ()):
            if step.section != section:
                section = step.section
                self._tops.append((top, None, section))
                top += looks.px(HEAD)
            self._tops.append((top, number, section))
            top += looks.px(ROW)
        self.set_extent(0, top)

    def choose(self, number: int) -> None:
        """Marks a step, and brings it into sight."""
        self.at = number
        bar, area = self.verticalScrollBar(), self.viewport()
        top = next((y for y, step, _ in self._tops if step == number), None)
        if bar is not None and area is not None and top is not None:
            room, row = area.height(), looks.px(ROW)
            if top < bar.value() or top + row > bar.value() + room:
                bar.setValue(round(top - room / 3))
        step = self.figures.steps[number] if self.figures and self.figures.steps else None
        tell(self, f"{number + 1}. {step.do}: {step.see}" if step else "")
        self.repaint_soon()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.arrange()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        area = self.viewport()
        if area is None:
            return
        painter = QPainter(area)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(area.rect(), looks.colour("sheet"))
        figures, offset, width = self.figures, self.offset().y(), area.width()
        for top, number, section in self._tops:
            y = top - offset
            if y > area.height() or y + looks.px(ROW) < 0 or figures is None:
                continue
            if number is None:
                self._paint_head(painter, QRectF(0, y, width, looks.px(HEAD)), section or "")
            else:
                box = QRectF(0, y, width, looks.px(ROW))
                self._paint_step(painter, box, figures, number)

    def _paint_head(self, painter: QPainter, box: QRectF, section: str) -> None:
        figures = self.figures
        steps = [s for s in figures.steps if s.section == section] if figures else []
        passed = sum(figures.state(s).state == "passed" for s in steps) if figures else 0
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        inner = box.adjusted(looks.px(16), looks.px(6), -looks.px(10), 0)
        painter.drawText(inner, MIDDLE, section)
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        painter.drawText(inner, MIDDLE | Qt.AlignmentFlag.AlignRight, f"{passed} of {len(steps)}")

    def _paint_step(
        self, painter: QPainter, box: QRectF, figures: BenchFigures, number: int
    ) -> None:
        step, is_chosen = figures.steps[number], number == self.at
        result = figures.state(step)
        is_held = bool(step.held) and step.id not in self.anyway
        if is_chosen:
            painter.fillRect(box, looks.colour("wash"))
            painter.fillRect(QRectF(0, box.top(), 3, box.height()), looks.colour("accent"))
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.drawLine(
            QPointF(box.left() + looks.px(16), round(box.bottom()) - 0.5),
            QPointF(box.right() - looks.px(8), round(box.bottom()) - 0.5),
        )
        first = QRectF(box.left(), box.top() + looks.px(3), box.width(), looks.px(17))
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        column = QRectF(first.left(), first.top(), looks.px(34), first.height())
        painter.drawText(column, MIDDLE | Qt.AlignmentFlag.AlignRight, str(number + 1))
        centre = QPointF(box.left() + looks.px(46), first.center().y())
        draw_state(painter, centre, result.state, is_held and result.result is None)
        left = box.left() + looks.px(58)
        room = box.right() - left - looks.px(8)
        painter.setFont(looks.font(12, bold=is_chosen))
        painter.setPen(looks.colour("accent" if is_chosen else "ink"))
        title = self._title(step)
        painter.drawText(
            QRectF(left, first.top(), room, first.height()), MIDDLE, elided(painter, title, room)
        )
        words, ink = second_line(step, result, is_held)
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour(ink))
        painter.drawText(
            QRectF(left, first.bottom() - 1, room, looks.px(15)), MIDDLE,
            elided(painter, words, room),
        )  # fmt: skip

    def _title(self, step: BenchStep) -> str:
        name = self.names.get(step.subject)
        return f"{step.subject} {name}" if name else step.subject

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.figures is None:
            return
        area, last = self.viewport(), len(self.figures.steps) - 1
        page = max(1, area.height() // looks.px(ROW) - 1) if area is not None else 1
        moves = {
            Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: page,
            Qt.Key.Key_PageUp: -page, Qt.Key.Key_Home: -last, Qt.Key.Key_End: last,
        }  # fmt: skip
        move = moves.get(Qt.Key(event.key()))
        if move is None:
            event.ignore()
            return
        self.chose.emit(max(0, min(last, self.at + move)))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        y = event.position().y() + self.offset().y()
        for top, number, _ in self._tops:
            if number is not None and top <= y < top + looks.px(ROW):
                self.chose.emit(number)


def draw_state(painter: QPainter, centre: QPointF, state: str, is_held: bool) -> None:
    """The mark of a step: an empty ring, a filled disc with what came of it, two bars where it is
    held back.
    """
    radius = looks.px(MARK)
    colour, letter = MARKS.get(state, ("faded", ""))
    if is_held:
        colour, letter = "doubt", "Ⅱ"
    is_filled = bool(letter) and not is_held
    painter.setPen(QPen(looks.colour(colour), 1.2))
    painter.setBrush(looks.colour(colour if is_filled else "sheet"))
    painter.drawEllipse(centre, radius, radius)
    painter.setFont(looks.font(9, bold=True))
    painter.setPen(looks.colour("sheet" if is_filled else colour))
    box = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)
