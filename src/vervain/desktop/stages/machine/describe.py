"""Describing a part: its pin table and its colour list, joined into a drawn plug as one types."""

from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import get_args

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QColor, QKeyEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from vervain.catalogue.describe import Described, describe
from vervain.catalogue.drafts import DESCRIBED, Draft, drive_of, presets, told_by_title, usual_of
from vervain.desktop.background import in_background
from vervain.desktop.shared.jump import Command, JumpPanel
from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.desktop.stages.machine.board_editor import Places
from vervain.desktop.stages.machine.drawing_column import DrawingColumn
from vervain.desktop.stages.machine.group_panel import GroupPanel
from vervain.desktop.stages.machine.number_fields import LEADS_LONG, SIZE, NumberFields
from vervain.desktop.stages.machine.part_page import PartPage, PartPlace, make_dense
from vervain.desktop.stages.machine.try_strip import TryStrip
from vervain.desktop.theme import looks
from vervain.files.own_words import remember_word
from vervain.files.reading import read_bytes
from vervain.model.part import BOARD_KINDS, Part, PartKind, PinFunction

PAUSE_MS = 120
PINS_EXAMPLE = "1\t+24 V\n2\tOUT\n3\tGND"
BOARD_EXAMPLE = "24V 0V\nX PUL+ PUL- DIR+ DIR-\nIN1 IN2 IN3 COM\nOUT1 OUT2 GND"
SETTINGS_EXAMPLE = "JP1 on IN 1-4: NPN 1-2, PNP 2-3 = NPN"
SETTINGS_HELP = (
    "One line a setting. Jumpers: “JP1 on IN 1-4: NPN 1-2, PNP 2-3 = NPN”. Switches: “microsteps: "
    "1 000, 2 100, 4 010 = 2”. Numbers: “current: 0.3 to 4.2 A = 2”. What it joins: “JP3: 5V 1-2 "
    "joins 5V VS, 6V 2-3 joins 6V VS”. What it takes: “JA on SLOT A: on its own, as X 1-2 follows "
    "SLOT X”, “JS: fitted 1-2 bridges STOP, removed”. One processor pin at two ports: “shared "
    "pin 14: LIMIT Z.IN, SPINDLE.PWM”. A fuse: “fuse F1 10 A: POWER.V to OUT.V”."
)
EMPTY = "Type or paste the rows: the pin, then what it is for. Colours may follow later."
EMPTY_BOARD = "Copy what is printed at the terminals, one below the other or plug by plug."
NO_PLUGS = "Its plugs are not said: no ferrule or contact is counted for them."
USUAL = "With figures alone it gets the usual leads, as they stand there in grey."
COLOURS_EXAMPLE = "1\tbrown\n2\tblack\n3\tblue"
WIDTHS = (40, 100, 112, 52)
MOST_WRAPPED = 48
# How the rows and columns of the bench share its room, for a plug and for a board.
STRETCHES = {
    False: ((3, 3), (2, 3), (0, 4), (0, 0)),
    True: ((5, 5), (2, 6), (0, 6), (0, 6)),
}
COLUMNS = ("Pin", "In the manual", "Taken as  Enter", "Colour", "What is wrong")


class DescribePage(PartPage):
    """Two texts at the left, the plug at the right, every row with its marks below."""

    words = "Describing a part."

    def __init__(self, place: PartPlace) -> None:
        super().__init__(place)
        self.described: Described | None = None
        self.kind = QComboBox(self)
        self.kind.addItems(list(DESCRIBED))
        self.kind.setAccessibleName("Kind")
        self.figures = NumberFields()
        self.pins, self.colours = QPlainTextEdit(), QPlainTextEdit()
        self.settings = QPlainTextEdit()
        self.groups = GroupPanel()
        self.groups.changed.connect(self.refresh)
        self.preset = QComboBox(self)
        self.problems = PlainLabel()
        self.problems.setWordWrap(True)
        self.table = QTableWidget(0, len(COLUMNS))
        self.drawing = DrawingColumn()
        self.tried = TryStrip(self.shelf)
        self._is_board: bool | None = None
        self.asking: JumpPanel | None = None
        # Where ports of a board were put by hand.
        self.places: Places = {}
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE_MS)
        self._timer.timeout.connect(self.refresh)
        self._build()
        self._ask_figures()
        self.refresh()

    def _build(self) -> None:
        # At large text the page needs more room than the stage has: then it scrolls.
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        scroller, inside = QScrollArea(), QWidget()
        scroller.setWidgetResizable(True)
        scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroller.setWidget(inside)
        whole.addWidget(scroller)
        inside.setObjectName("blank")
        column = QVBoxLayout(inside)
        column.setContentsMargins(16, 10, 16, 10)
        column.setSpacing(8)
        names = ("Name", self.title), ("Maker", self.maker), ("Model", self.model)
        column.addLayout(self.heads((("Kind", self.kind), *names)))
        column.addWidget(self.figures)
        self.bench = QGridLayout()
        self.bench.setSpacing(10)
        column.addLayout(self.bench, 1)
        column.addWidget(self.problems)
        self._prepare_table()
        self._make_texts()
        self._lay_out(is_board=False)
        column.addWidget(self.tried)
        column.addLayout(self.foot())
        self.kind.currentTextChanged.connect(self._kind_changed)
        for field in (self.title, self.maker, self.model):
            field.textChanged.connect(self._changed)
        self.figures.changed.connect(self._changed)
        self.drawing.placed.connect(self._take_places)
        self.drawing.chosen.connect(self.tried.show_port)
        self.drawing.wide_wanted.connect(lambda: self._field("board_width_mm").setFocus())
        self.drawing.refused.connect(self.session.say)

    def _ask_figures(self) -> None:
        """Asks for the figures of the kind; Tab goes to them from the model."""
        self.figures.ask(self._kind())
        order = (self.model, *self.figures.asked)
        for before, after in pairwise(order):
            QWidget.setTabOrder(before, after)

    def _make_texts(self) -> None:
        """The texts under their heads, and what stands beside the drawing."""
        self.pins_box = self._text("From the manual", self.pins, "Take the rows from a CSV file")
        self.colours_box = self._text("Colours", self.colours, "Take the rows from a CSV file")
        self.settings_box = self._text("Settings and inside", self.settings, "")
        self.settings.setPlaceholderText(SETTINGS_EXAMPLE)
        self.settings.setToolTip(plain(SETTINGS_HELP))
        self._fill_presets()
        policy = QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        self.preset.setSizeAdjustPolicy(policy)
        self.preset.setMinimumContentsLength(10)
        self.preset.setAccessibleName("Begin with")
        self.preset.activated.connect(self._take_preset)
        self.drawing.head.insertWidget(0, self.preset, 1)

    def _lay_out(self, is_board: bool) -> None:
        """A board is drawn large over its texts, with its groups beside it; a plug stands beside
        its texts, over its rows.
        """
        if self._is_board == is_board:
            return
        self._is_board = is_board
        while self.bench.takeAt(0) is not None:
            pass
        if is_board:
            self.bench.addWidget(self.pins_box, 0, 0)
            self.bench.addWidget(self.settings_box, 1, 0)
            self.bench.addWidget(self.drawing, 0, 1, 1, 2)
            self.bench.addWidget(self.table, 1, 1, 1, 2)
            self.bench.addWidget(self.groups, 0, 3, 2, 1)
        else:
            self.bench.addWidget(self.pins_box, 0, 0)
            self.bench.addWidget(self.colours_box, 0, 1)
            self.bench.addWidget(self.drawing, 0, 2)
            self.bench.addWidget(self.table, 1, 0, 1, 3)
        for at, (rows, columns) in enumerate(STRETCHES[is_board]):
            self.bench.setRowStretch(at, rows)
            self.bench.setColumnStretch(at, columns)
        for widget in (self.groups, self.settings_box, self.tried):
            widget.setVisible(is_board)
        self.colours_box.setVisible(not is_board)

    def _text(self, words: str, edit: QPlainTextEdit, csv: str) -> QWidget:
        """A text under its head, with a button that takes it from a file."""
        holder = QWidget()
        part = QVBoxLayout(holder)
        part.setContentsMargins(0, 0, 0, 0)
        part.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(bold(words), 1)
        if csv:
            button = QPushButton("CSV …")
            button.setToolTip(plain(csv))
            button.clicked.connect(lambda: self.ask_csv(edit))
            head.addWidget(button)
        part.addLayout(head)
        edit.setTabChangesFocus(True)
        edit.setTabStopDistance(looks.px(44))
        edit.setAccessibleName(words)
        edit.textChanged.connect(self._changed)
        edit.installEventFilter(self)
        edit.setMinimumHeight(looks.px(54 if edit is self.settings else 120))
        part.addWidget(edit, 1)
        return holder

    def _prepare_table(self) -> None:
        make_dense(self.table, COLUMNS, "Rows")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.activated.connect(lambda at: self.ask_function(at.row()))
        self.table.setMinimumHeight(looks.px(110))
        for column, width in enumerate(WIDTHS):
            self.table.setColumnWidth(column, looks.px(width))

    def _fill_presets(self) -> None:
        self.preset.clear()
        self.preset.addItem("Begin with a standard …")
        for preset in presets():
            self.preset.addItem(preset.title)

    # What is asked.

    def _kind_changed(self) -> None:
        self._ask_figures()
        self._changed()

    def _field(self, key: str) -> QLineEdit:
        return self.figures.fields[key][0]

    def _take_places(self, places: Places) -> None:
        """Takes where the ports of the board lie now, and draws them there at once."""
        self.places = dict(places)
        self.groups.forget_places()
        self.refresh()

    def _kind(self) -> PartKind:
        return next(kind for kind in DESCRIBED if kind == self.kind.currentText())

    def _take_preset(self, at: int) -> None:
        """Writes a preset into the two texts; both can be undone there."""
        if at <= 0:
            return
        preset = presets()[at - 1]
        if preset.kind:
            self.kind.setCurrentText(preset.kind)
        if preset.drive is not None:
            self.figures.choose_drive(preset.drive)
        pins, colours = preset.texts
        if pins:
            write_over(self.pins, pins)
        write_over(self.colours, colours)
        self.preset.setCurrentIndex(0)

    def ask_csv(self, edit: QPlainTextEdit) -> None:
        """Asks for a CSV file and takes its rows."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Take rows from", "", "Tables (*.csv *.tsv *.txt);;All files (*)"
        )
        if name:
            self.take_csv(edit, Path(name))

    def take_csv(self, edit: QPlainTextEdit, path: Path) -> None:
        """Takes the rows of a file, read on a worker; a file that is no text is told."""

        def read() -> str:
            data = read_bytes(path)
            for encoding in (
                "utf-8-sig",
                "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "",
            ):
                try:
                    return data.decode(encoding) if encoding else ""
                except UnicodeDecodeError:
                    continue
            return ""

        def show(text: str) -> None:
            if not text.strip() or "\0" in text:
                self.session.say(f"{path.name} holds no text that can be read as rows.")
            else:
                write_over(edit, text)

        in_background(read, show, lambda problem: self.session.say(str(problem)))

    def ask_function(self, row: int) -> None:
        """Asks what the word of a row means; the answer is kept for the next manual."""
        rows = self.described.rows if self.described is not None else ()
        if not 0 <= row < len(rows) or not rows[row].name:
            return
        word, kind = rows[row].name, self._kind()
        answers = [
            Command("function", name, partial(self._remember, word, name, kind))
            for name in get_args(PinFunction)
        ]
        if self.asking is not None:
            self.asking.deleteLater()
        self.asking = JumpPanel(
            self.window() or self, lambda: answers, f"“{word}” is, on a {kind} …"
        )
        self.asking.open()

    def _remember(self, word: str, function: PinFunction, kind: PartKind) -> None:
        def kept(_: object) -> None:
            self.session.say(f"“{word}” is {function} on a {kind}, from now on.")
            self.refresh()

        in_background(
            lambda: remember_word(self.folder.parent / "tables", word, function, kind),
            kept,
            lambda problem: self.session.say(str(problem)),
        )

    # What follows.

    def _changed(self) -> None:
        self._timer.start()

    def draft(self) -> tuple[Draft, list[str]]:
        """What was typed so far, and what of it was not understood."""
        numbers, wrong = self.figures.read()
        width_mm, height_mm = (numbers.pop(number.key, 0.0) for number in SIZE)
        draft = Draft(
            kind=self._kind(),
            title=self.title.text()[:80],
            maker=self.maker.text()[:80],
            model=self.model.text()[:80],
            pins_text=self.pins.toPlainText(),
            colours_text=self.colours.toPlainText(),
            drive=self.figures.drive,
            lead_length_m=numbers.pop(LEADS_LONG.key, 0.0),
            numbers={key: value for key, value in numbers.items() if value},
            rated=self.figures.rated,
            roles=dict(self.groups.roles),
            circuits=dict(self.groups.circuits),
            apart=frozenset(self.groups.apart),
            begins=frozenset(self.groups.begins),
            connectors=dict(self.groups.connectors),
            places={**self.places, **self.groups.places},
            size_mm=(width_mm, height_mm) if width_mm and height_mm else None,
            settings_text=self.settings.toPlainText(),
        )
        return draft, [*wrong, *self.groups.wrong]

    def refresh(self) -> None:
        """Joins what was typed, and draws it."""
        self._timer.stop()
        draft, wrong = self.draft()
        self.described = describe(draft, "draft")
        self.figures.show_drive(drive_of(draft))
        self.figures.show_told(told_by_title(draft))
        rows = self.described.rows
        empty = not rows
        is_board = draft.kind in BOARD_KINDS
        self._lay_out(is_board)
        usual = usual_of(draft.kind)
        examples = usual.texts if usual else (PINS_EXAMPLE, COLOURS_EXAMPLE)
        self.pins.setPlaceholderText(BOARD_EXAMPLE if is_board else examples[0])
        self.colours.setPlaceholderText(examples[1])
        self.groups.show_groups(draft.kind, self.described.groups, draft.title)
        words = [*wrong, *(() if empty else self.described.problems)]
        if self.described.unknown:
            words.append(f"Levels not known yet: {', '.join(self.described.unknown)}.")
        if self.described.groups and not any(draft.connectors.values()):
            words.append(NO_PLUGS)
        if empty:
            words = [EMPTY_BOARD if is_board else EMPTY, *((USUAL,) if usual else ())]
        self.problems.setText("  ".join(words))
        colour = looks.theme.faded if empty else looks.theme.doubt_text
        self.problems.setStyleSheet(f"color: {colour};")
        self.problems.setVisible(bool(words))
        self.table.setColumnWidth(0, looks.px(86 if is_board else WIDTHS[0]))
        self.table.setRowCount(len(rows))
        part = self.described.part
        at_pin = (
            {pin.text: pin.function for port in part.ports for pin in port.pins} if part else {}
        )
        for at, row in enumerate(rows):
            function = row.function if row.function != "none" else at_pin.get(row.name, "none")
            taken = function or "not known" if row.is_used else "not used"
            pin = f"{row.port} {row.pin}".strip()
            cells = (pin, row.name, taken, row.colour or "", " ".join(row.marks))
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(plain(row.text))
                if row.marks and column == len(cells) - 1:
                    item.setForeground(QColor(looks.theme.doubt_text))
                self.table.setItem(at, column, item)
        if len(rows) <= MOST_WRAPPED:
            self.table.resizeRowsToContents()
        part = self.described.part
        self.save_button.setEnabled(part is not None and bool(draft.title.strip()) and not wrong)
        self.drawing.show_part(part, self.described.groups)
        self.tried.show_part(part)
        if part is not None:
            self.groups.show_places(part)

    def finished(self) -> Part | None:
        self.refresh()
        draft, wrong = self.draft()
        if wrong or not draft.title.strip():
            self.session.say(wrong[0] if wrong else "Give the part a name first.")
            self.title.setFocus()
            return None
        part = describe(draft, "draft").part
        if part is None:
            self.session.say("It has no pin yet.")
        return part

    def begin(self) -> None:
        """Puts the keyboard into the name."""
        self.title.setFocus()

    def clear(self) -> None:
        """Forgets what was typed, for the next part."""
        for field in (self.title, self.maker, self.model):
            field.clear()
        self.figures.clear()
        for text in (self.pins, self.colours, self.settings):
            text.clear()
        self.places = {}
        self.groups.clear()
        self.refresh()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
            if control and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.save()
                return True
        return super().eventFilter(watched, event)


def write_over(edit: QPlainTextEdit, text: str) -> None:
    """Replaces the text of an editor so that its own undo takes it back."""
    cursor = edit.textCursor()
    cursor.select(cursor.SelectionType.Document)
    cursor.insertText(text)


def bold(words: str) -> PlainLabel:
    """A small bold label."""
    label = PlainLabel(words)
    label.setObjectName("head")
    return label
