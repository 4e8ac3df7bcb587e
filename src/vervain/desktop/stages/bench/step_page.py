"""One step in letters that can be read at arm's length: what to do, what to see, what was seen."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from vervain.bench.results import StepResult
from vervain.bench.step import BenchStep
from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.stages.bench.where_picture import WherePicture
from vervain.desktop.theme import looks
from vervain.model.bench_result import LONGEST_NOTE, LONGEST_SEEN

# Narrower than this the buttons stand in two rows.
NARROW = 400
HEADLINE_PX, LONG_HEADLINE_PX, LONG_HEADLINE = 23, 18, 90


def wrapped(name: str = "") -> PlainLabel:
    """A label that wraps, with a name for the style sheet."""
    label = PlainLabel()
    label.setWordWrap(True)
    label.setObjectName(name)
    return label


class EnterField(QLineEdit):
    """A field whose Enter is its own: the step that is shown then is not left by it."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        super().keyPressEvent(event)
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()


class SeenCard(QFrame):
    """A title over large words, in a frame."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("card")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(2)
        self.title, self.words, self.more = PlainLabel(title), wrapped(), wrapped("faded")
        self.title.setObjectName("faded")
        for label in (self.title, self.words, self.more):
            column.addWidget(label)
        column.addStretch(1)

    def show_words(self, words: str, more: str = "", ink: str = "ink") -> None:
        """Shows large words in an ink, and more under them."""
        self.words.setText(words)
        shade = getattr(looks.theme, ink)
        self.words.setStyleSheet(f"color: {shade}; font-size: {looks.px(15)}px; font-weight: bold;")
        self.more.setText(more)
        self.more.setVisible(bool(more))


class StepPage(QScrollArea):
    """The chosen step. What is done with it is told by signals; the stage carries it out."""

    passed = pyqtSignal()
    failed = pyqtSignal()
    read = pyqtSignal(str)
    noted = pyqtSignal(str)
    anyway = pyqtSignal()
    left = pyqtSignal()
    photo_wanted = pyqtSignal()
    switch_wanted = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setAccessibleName("The step to do")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        body.setObjectName("blank")
        self.setWidget(body)
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(18, 12, 18, 14)
        self.column.setSpacing(8)
        self.number, self.headline, self.place = wrapped(), wrapped(), wrapped("faded")
        self.where = WherePicture(session)
        self.to_see, self.seen = SeenCard("To see"), SeenCard("Seen")
        self.held, self.again, self.why = wrapped(), wrapped(), wrapped("faded")
        self._build_buttons()
        self.cards = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self.cards.setSpacing(8)
        self.cards.addWidget(self.to_see, 1)
        self.cards.addWidget(self.seen, 1)
        held_row = QHBoxLayout()
        held_row.addWidget(self.held, 1)
        held_row.addWidget(self.do_anyway, 0, Qt.AlignmentFlag.AlignTop)
        for item in (self.number, self.headline, self.place, self.where):
            self.column.addWidget(item)
        self.column.addLayout(held_row)
        self.column.addWidget(self.again)
        self.column.addLayout(self.cards)
        self.column.addWidget(self.watched)
        self.column.addWidget(self.switch_button)
        self.column.addWidget(self.field)
        self.column.addLayout(self.buttons)
        self.column.addWidget(self.note)
        self.column.addWidget(self.why)

    def _build_buttons(self) -> None:
        self.buttons = QGridLayout()
        self.buttons.setSpacing(8)
        self.pass_button, self.fail_button = QPushButton("Pass  P"), QPushButton("Fail  F")
        self.note_button, self.photo_button = QPushButton("Note  N"), QPushButton("Photo …")
        for button, signal in (
            (self.pass_button, self.passed), (self.fail_button, self.failed),
            (self.note_button, None), (self.photo_button, self.photo_wanted),
        ):  # fmt: skip
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            if signal is not None:
                button.clicked.connect(signal.emit)
        self.note_button.clicked.connect(self.write_note)
        self.field, self.note = EnterField(), EnterField()
        self.field.setMaxLength(LONGEST_SEEN)
        self.field.returnPressed.connect(lambda: self.read.emit(self.field.text()))
        self.note.setMaxLength(LONGEST_NOTE)
        self.note.setPlaceholderText("A note; Enter keeps it")
        self.note.setAccessibleName("Note")
        self.note.returnPressed.connect(self._keep_note)
        self.switch_button = QPushButton("Switch it on for 2 s  O")
        self.switch_button.clicked.connect(self.switch_wanted.emit)
        self.switch_button.hide()
        self.watched = wrapped()
        self.watched.hide()
        self.do_anyway = QPushButton("Do it anyway  A")
        self.do_anyway.clicked.connect(self.anyway.emit)

    def _lay_buttons(self) -> None:
        """In one row, or where that is too narrow in two."""
        room = self.viewport()
        is_narrow = room is not None and room.width() < looks.px(NARROW)
        shown = self.pass_button, self.fail_button, self.note_button, self.photo_button
        for number, button in enumerate(shown):
            row, column = divmod(number, 2) if is_narrow else (0, number)
            self.buttons.addWidget(button, row, column)
        self.cards.setDirection(
            QBoxLayout.Direction.TopToBottom if is_narrow else QBoxLayout.Direction.LeftToRight
        )

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay_buttons()

    def show_step(
        self, step: BenchStep | None, number: int, count: int, result: StepResult, is_held: bool
    ) -> None:
        """Shows a step, how it stands, and whether it is held back."""
        body = self.widget()
        if body is not None:
            body.setVisible(step is not None)
        if step is None:
            return
        self._lay_buttons()
        for widget in (*self._shown_buttons(), self.to_see, self.seen, self.field, self.why):
            widget.show()
        self.scale_words(step)
        self.number.setText(f"Step {number} of {count}, {step.section.lower()}")
        self.headline.setText(f"{step.do}.")
        self.setAccessibleDescription(self.headline.text())
        self.place.setText(f"At {step.place}." if step.place else "")
        self.place.setVisible(bool(step.place))
        self.where.show_step(step)
        self.to_see.show_words(f"{step.see[:1].upper()}{step.see[1:]}")
        self._show_seen(result)
        self.held.setText(f"Held back: {step.held}" if is_held else "")
        self.held.setVisible(is_held)
        self.do_anyway.setVisible(is_held)
        self.again.setText(f"An edit touched it. {result.reason}")
        self.again.setVisible(result.state == "again")
        self.why.setText(step.why)
        self._show_field(step, is_held)
        kept = result.result
        self.note.setText(kept.note if kept is not None else "")
        self.note.setVisible(bool(self.note.text()))
        for button in (self.pass_button, self.fail_button):
            button.setEnabled(not is_held)
        bar = self.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)

    def show_watched(self, words: str) -> None:
        """Shows what the live inputs do while the step waits."""
        self.watched.setText(f"Now: {words}" if words else "")
        self.watched.setVisible(bool(words))
        self.watched.setStyleSheet(
            f"color: {looks.theme.accent}; font-size: {looks.px(15)}px; font-weight: bold;"
        )

    def show_switch(self, is_shown: bool) -> None:
        """Shows the button that switches the output of the step, where that can be done."""
        self.switch_button.setVisible(is_shown)

    def show_symptom(self, symptom: BenchStep) -> None:
        """Shows what a builder sees of a device, in place of a step."""
        self.scale_words(symptom)
        self.number.setText("Looking for a fault  ·  Esc leaves it")
        self.headline.setText(f"{symptom.do}: {symptom.see[:1].lower()}{symptom.see[1:]}.")
        self.place.setText(f"At {symptom.place}." if symptom.place else "")
        self.where.show_step(symptom)
        for widget in (*self._of_steps(), self.held, self.do_anyway, self.again, self.note):
            widget.hide()

    def _shown_buttons(self) -> tuple[QPushButton, ...]:
        return self.pass_button, self.fail_button, self.note_button, self.photo_button

    def _of_steps(self) -> tuple[QWidget, ...]:
        """What only a step has."""
        buttons = self._shown_buttons()
        return (
            *buttons,
            self.switch_button,
            self.watched,
            self.to_see,
            self.seen,
            self.field,
            self.why,
        )

    def scale_words(self, step: BenchStep) -> None:
        """Takes the text scale and the theme in force."""
        size = LONG_HEADLINE_PX if len(step.do) > LONG_HEADLINE else HEADLINE_PX
        self.headline.setStyleSheet(f"font-size: {looks.px(size)}px; font-weight: bold;")
        self.number.setStyleSheet(f"color: {looks.theme.accent}; font-weight: bold;")
        for label in (self.held, self.again):
            label.setStyleSheet(f"color: {looks.theme.doubt_text};")
        self.place.setStyleSheet(f"font-size: {looks.px(14)}px;")
        for button in (self.pass_button, self.fail_button, self.note_button, self.photo_button):
            button.setMinimumHeight(looks.px(42))
            button.setStyleSheet(f"font-size: {looks.px(14)}px; font-weight: bold;")
        self.field.setMinimumHeight(looks.px(36))
        self.field.setStyleSheet(f"font-size: {looks.px(16)}px;")

    def _show_seen(self, result: StepResult) -> None:
        kept = result.result
        if kept is None:
            self.seen.show_words("–", "not seen yet", "faded")
            return
        told = kept.seen or ("as it should" if kept.outcome == "passed" else "not as it should")
        when = ", ".join(filter(None, (kept.time.replace("T", " "), kept.by)))
        photos = f"{len(kept.photos)} photo{'s' * (len(kept.photos) != 1)}" if kept.photos else ""
        ink = {"passed": "good", "failed": "bad"}.get(result.state, "doubt_text")
        word = {"passed": "Passed", "failed": "Failed"}.get(result.state, "Before the edit")
        self.seen.show_words(told, ", ".join(filter(None, (word, when, photos))), ink)

    def _show_field(self, step: BenchStep, is_held: bool) -> None:
        window = step.window
        self.field.clear()
        self.field.setVisible(window is not None)
        self.field.setEnabled(not is_held)
        if window is not None:
            several = ", several parted by blanks" if window.alike_ratio is not None else ""
            self.field.setPlaceholderText(f"Reading in {window.unit}{several}; Enter judges it")
            self.field.setAccessibleName(f"Reading in {window.unit}")

    def begin_reading(self, text: str) -> bool:
        """Lets a reading be typed, whose first letter is there; False where none is asked for."""
        if self.field.isHidden() or not self.field.isEnabled():
            return False
        self.field.setFocus()
        self.field.setText(text)
        return True

    def write_note(self) -> None:
        """Lets the note be written."""
        self.note.show()
        self.note.setFocus()

    def _keep_note(self) -> None:
        self.noted.emit(self.note.text())
