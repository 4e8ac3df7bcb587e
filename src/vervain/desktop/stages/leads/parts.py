"""Parts of the Leads stage: the pair to probe in large letters, the field, how sure."""

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QLineEdit, QListWidget, QWidget

from vervain.desktop.shared.wire_painting import draw_bar, elided
from vervain.desktop.theme import looks

# A longer name of a lead is written smaller.
LONG_LEAD = 6
MIDDLE = Qt.AlignmentFlag.AlignVCenter
STEPS: dict[int, int] = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}


class Beliefs(QWidget):
    """How sure: a bar for each surviving explanation, in words."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[str, float]] = []
        self.setMinimumHeight(looks.px(142))

    def show_rows(self, rows: list[tuple[str, float]]) -> None:
        """Takes (words, probability), the likeliest first."""
        self.rows = rows
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        top = 0.0
        for number, (words, probability) in enumerate(self.rows):
            line = QRectF(0, top, self.width(), looks.px(17))
            painter.setPen(looks.colour("ink"))
            painter.setFont(looks.font(11, bold=number == 0))
            share = f"{probability:.0%}" if probability >= 0.005 else "< 1 %"
            extent = painter.fontMetrics().horizontalAdvance(share) + 8
            painter.drawText(line, MIDDLE, elided(painter, words, line.width() - extent))
            painter.drawText(line, MIDDLE | Qt.AlignmentFlag.AlignRight, share)
            bar = QRectF(0, line.bottom() + 1, self.width(), looks.px(5))
            painter.fillRect(bar, looks.colour("rule"))
            bar.setWidth(bar.width() * probability)
            painter.fillRect(bar, looks.colour("accent"))
            top += looks.px(28)


class ProbePair(QWidget):
    """The two leads to probe, in large letters over bars in their colours."""

    def __init__(self) -> None:
        super().__init__()
        self.pair: tuple[str, str] | None = None
        self.colours: dict[str, str | None] = {}
        self.setFixedHeight(looks.px(58))

    def show_pair(self, pair: tuple[str, str] | None, colours: dict[str, str | None]) -> None:
        """Takes the pair, or None where nothing more is to be probed."""
        self.pair, self.colours = pair, colours
        self.setAccessibleName(f"Probe {pair[0]} and {pair[1]}" if pair else "Nothing to probe")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(looks.colour("ink"))
        if self.pair is None:
            painter.setFont(looks.font(17, bold=True))
            painter.drawText(QRectF(self.rect()), MIDDLE, "Nothing more to probe")
            return
        left = 0.0
        for number, lead in enumerate(self.pair):
            painter.setPen(looks.colour("ink"))
            painter.setFont(looks.font(25 if len(lead) < LONG_LEAD else 18, bold=True))
            extent = max(looks.px(46), painter.fontMetrics().horizontalAdvance(lead))
            painter.drawText(QRectF(left, 0, extent, looks.px(34)), MIDDLE, lead)
            bar = QRectF(left, looks.px(38), extent, looks.px(13))
            draw_bar(painter, bar, self.colours.get(lead), letters=False)
            left += extent + looks.px(9)
            if number == 0:
                painter.setFont(looks.font(15))
                painter.drawText(QRectF(left, 0, looks.px(36), looks.px(34)), MIDDLE, "and")
                left += looks.px(40)


class ReadingField(QLineEdit):
    """Takes ohms; "o" means open, "s" short, Space what a meter shows, "t" keeps the coils, "r"
    opens the order fixer, Backspace takes one back; Left and Right change the first lead of the
    pair, with Shift the second."""

    saw = pyqtSignal(str)
    keeps = pyqtSignal()
    runs_wrong = pyqtSignal()
    takes_back = pyqtSignal()
    takes_meter = pyqtSignal()
    used_how = pyqtSignal()
    to_body = pyqtSignal()
    steps = pyqtSignal(int, int)
    as_printed = pyqtSignal()
    goes_to_list = pyqtSignal()
    leaves = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.show_meter("")
        self.setAccessibleName("Reading")
        self.returnPressed.connect(lambda: self.saw.emit(self.text()))

    def show_meter(self, words: str) -> None:
        """Shows what a meter that is connected shows, which Space takes."""
        self.setPlaceholderText(f"{words}: Space takes it" if words else "Ω, o or s")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        letter = "" if self.text() else event.text().casefold()
        if not self.text() and event.key() == Qt.Key.Key_Backspace:
            self.takes_back.emit()
        elif letter == " ":
            self.takes_meter.emit()
        elif letter == "o":
            self.saw.emit("open")
        elif letter == "s":
            self.saw.emit("beep")
        elif letter == "r":
            self.runs_wrong.emit()
        elif letter == "t":
            self.keeps.emit()
        elif letter == "u":
            self.used_how.emit()
        elif letter == "p":
            self.as_printed.emit()
        elif letter == "b":
            self.to_body.emit()
        elif not self.text() and event.key() in STEPS:
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.steps.emit(1 if shift else 0, STEPS[event.key()])
        elif event.key() == Qt.Key.Key_Up:
            self.goes_to_list.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self.leaves.emit()
        else:
            super().keyPressEvent(event)


class ReadingList(QListWidget):
    """What was read so far. Enter corrects a reading, Del takes it back, Ctrl+arrows move it."""

    corrects = pyqtSignal(int)
    removed = pyqtSignal(int)
    moved = pyqtSignal(int, int)
    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Readings so far")
        self.setToolTip("Enter corrects, Del takes back, Ctrl+Up and Ctrl+Down move a reading")
        self.itemDoubleClicked.connect(lambda _: self.corrects.emit(self.currentRow()))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        row, key = self.currentRow(), event.key()
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if row >= 0 and control and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.moved.emit(row, -1 if key == Qt.Key.Key_Up else 1)
        elif row >= 0 and key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.removed.emit(row)
        elif row >= 0 and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.corrects.emit(row)
        elif key == Qt.Key.Key_Escape or (key == Qt.Key.Key_Down and row == self.count() - 1):
            self.left.emit()
        else:
            super().keyPressEvent(event)
