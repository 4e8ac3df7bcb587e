"""Describing a part: its pin table and its colour list, joined into a drawn plug as one types."""

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QColor, QKeyEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from vervain.catalogue.boards import BOARD_KINDS
from vervain.catalogue.describe import (
    DESCRIBED,
    DRIVES,
    HAS_DRIVE,
    RATED_WORDS,
    Described,
    Draft,
    Drive,
    describe,
    presets,
)
from vervain.desktop.background import in_background
from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.desktop.shared.plug_painting import PartPicture
from vervain.desktop.stages.machine.board_picture import BoardPicture, part_picture
from vervain.desktop.stages.machine.group_panel import GroupPanel
from vervain.desktop.stages.machine.part_page import PartPage, PartPlace, faded, make_dense
from vervain.desktop.theme import looks
from vervain.files.reading import read_bytes
from vervain.model.part import Part, PartKind
from vervain.model.ratings import Rated

PAUSE_MS = 120
PINS_EXAMPLE = "1\t+24 V\n2\tOUT\n3\tGND"
BOARD_EXAMPLE = "port\tpin\tsignal\nIN 1-8\t1\t24V\nIN 1-8\t2\tIN\nIN 1-8\t3\t0V"
COLOURS_EXAMPLE = "1\tbrown\n2\tblack\n3\tblue"
WIDTHS = (40, 100, 76, 52)
MOST_WRAPPED = 48
COLUMNS = ("Pin", "In the manual", "Taken as", "Colour", "What is wrong")


class DescribePage(PartPage):
    """Two texts at the left, the plug at the right, every row with its marks below."""

    words = "Describing a part."

    def __init__(self, place: PartPlace) -> None:
        super().__init__(place)
        self.described: Described | None = None
        self.kind = QComboBox()
        self.kind.addItems(list(DESCRIBED))
        self.kind.setAccessibleName("Kind")
        self.length = QLineEdit()
        self.drive = QComboBox()
        self.drive.addItems(list(DRIVES))
        self.drive.setCurrentText("PNP")
        self.rated = QComboBox()
        self.rated.addItem("choose …")
        self.rated.addItems(list(RATED_WORDS.values()))
        self.rated.setAccessibleName("The current is for")
        self.numbers: dict[str, tuple[QLineEdit, str]] = {}
        self.pins, self.colours = QPlainTextEdit(), QPlainTextEdit()
        self.groups = GroupPanel()
        self.groups.changed.connect(self.refresh)
        self.preset = QComboBox()
        self.problems = PlainLabel()
        self.problems.setWordWrap(True)
        self.table = QTableWidget(0, len(COLUMNS))
        self.picture: PartPicture | BoardPicture | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE_MS)
        self._timer.timeout.connect(self.refresh)
        self._build()
        self._ask_numbers()
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
        self.asked = QGridLayout()
        self.asked.setHorizontalSpacing(8)
        column.addLayout(self.asked)
        self.page_column, self.texts = column, self._texts()
        column.addLayout(self.texts, 3)
        column.addWidget(self.problems)
        self._prepare_table()
        column.addWidget(self.table, 2)
        column.addLayout(self.foot())
        self.kind.currentTextChanged.connect(self._kind_changed)
        for field in (self.title, self.maker, self.model):
            field.textChanged.connect(self._changed)
        self.drive.currentTextChanged.connect(self._changed)
        self.rated.currentTextChanged.connect(self._changed)
        self.length.textChanged.connect(self._changed)

    def _texts(self) -> QHBoxLayout:
        """The pin table, the colour list and the plug, side by side."""
        row = QHBoxLayout()
        row.setSpacing(10)
        for words, edit, example, name in (
            ("Pin table", self.pins, PINS_EXAMPLE, "Pin table"),
            ("Colour list", self.colours, COLOURS_EXAMPLE, "Colour list"),
        ):
            part = QVBoxLayout()
            part.setSpacing(4)
            head = QHBoxLayout()
            head.addWidget(bold(words), 1)
            button = QPushButton("CSV …")
            button.setToolTip("Take the rows from a CSV file")
            button.clicked.connect(lambda _, to=edit: self.ask_csv(to))
            head.addWidget(button)
            part.addLayout(head)
            edit.setPlaceholderText(example)
            edit.setTabChangesFocus(True)
            edit.setTabStopDistance(looks.px(44))
            edit.setAccessibleName(name)
            edit.textChanged.connect(self._changed)
            edit.installEventFilter(self)
            edit.setMinimumHeight(looks.px(120))
            part.addWidget(edit, 1)
            holder = QWidget()
            holder.setLayout(part)
            part.setContentsMargins(0, 0, 0, 0)
            if edit is self.colours:
                # A board has groups of ports where leads have colours.
                self.second = QStackedWidget()
                self.second.addWidget(holder)
                self.second.addWidget(self.groups)
                row.addWidget(self.second, 3)
            else:
                row.addWidget(holder, 3)
        right = QVBoxLayout()
        right.setSpacing(4)
        self._fill_presets()
        policy = QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        self.preset.setSizeAdjustPolicy(policy)
        self.preset.setMinimumContentsLength(10)
        self.preset.setAccessibleName("Begin with")
        self.preset.activated.connect(self._take_preset)
        right.addWidget(self.preset)
        self.plug = QScrollArea()
        self.plug.setWidgetResizable(True)
        right.addWidget(self.plug, 1)
        row.addLayout(right, 4)
        return row

    def _prepare_table(self) -> None:
        make_dense(self.table, COLUMNS, "Rows")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
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
        self._ask_numbers()
        self._changed()

    def _ask_numbers(self) -> None:
        """The numbers that this kind of part is asked for; those with the same key are kept."""
        kept = {key: field.text() for key, (field, _) in self.numbers.items()}
        while (item := self.asked.takeAt(0)) is not None:
            widget = item.widget()
            if widget in (self.drive, self.length, self.rated):
                widget.setParent(None)
            elif widget is not None:
                widget.hide()
                widget.deleteLater()
        self.numbers.clear()
        fields: list[tuple[str, QWidget]] = []
        for number in DESCRIBED[self._kind()]:
            field = QLineEdit(kept.get(number.key, ""))
            field.setPlaceholderText(number.unit or "number")
            field.setAccessibleName(number.words)
            field.textChanged.connect(self._changed)
            self.numbers[number.key] = field, number.unit
            fields.append((number.words, field))
        if self._kind() in HAS_DRIVE:
            fields.append(("Output", self.drive))
            self.drive.setAccessibleName("Output")
        if self._kind() == "stepper motor":
            fields.append(("of 6 or 8 leads, for", self.rated))
        if self._kind() not in BOARD_KINDS:
            fields.append(("Leads are long", self.length))
        self.length.setPlaceholderText("m")
        self.length.setAccessibleName("Leads are long")
        for at, (words, widget) in enumerate(fields):
            self.asked.addWidget(faded(words), 0, at)
            self.asked.addWidget(widget, 1, at)
            widget.show()

    def _kind(self) -> PartKind:
        return next(kind for kind in DESCRIBED if kind == self.kind.currentText())

    def _drive(self) -> Drive:
        return next(drive for drive in DRIVES if drive == self.drive.currentText())

    def _rated(self) -> Rated | None:
        words = self.rated.currentText()
        return next((use for use, said in RATED_WORDS.items() if said == words), None)

    def _take_preset(self, at: int) -> None:
        """Writes a preset into the two texts; both can be undone there."""
        if at <= 0:
            return
        preset = presets()[at - 1]
        if preset.kind:
            self.kind.setCurrentText(preset.kind)
        if preset.pins:
            write_over(self.pins, "\n".join(row.replace(" | ", "\t") for row in preset.pins))
        write_over(self.colours, "\n".join(row.replace(" | ", "\t") for row in preset.colours))
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

    # What follows.

    def _changed(self) -> None:
        self._timer.start()

    def draft(self) -> tuple[Draft, list[str]]:
        """What was typed so far, and which numbers were not understood."""
        from vervain.text.quantities import NotAQuantity, read_quantity

        wrong: list[str] = []
        numbers: dict[str, float] = {}

        def read(field: QLineEdit, unit: str, words: str) -> float | None:
            if not field.text().strip():
                return None
            try:
                value = read_quantity(field.text(), unit)
            except NotAQuantity as problem:
                wrong.append(f"{words}: {problem}")
                return None
            if value < 0 or value > 1e9:
                wrong.append(f"{words}: “{field.text()}” cannot be.")
                return None
            return value

        for key, (field, unit) in self.numbers.items():
            value = read(field, unit, field.accessibleName())
            if value:
                numbers[key] = value
        length_m = read(self.length, "m", "Leads are long")
        draft = Draft(
            kind=self._kind(),
            title=self.title.text()[:80],
            maker=self.maker.text()[:80],
            model=self.model.text()[:80],
            pins_text=self.pins.toPlainText(),
            colours_text=self.colours.toPlainText(),
            drive=self._drive(),
            lead_length_m=length_m or 0.0,
            numbers=numbers,
            rated=self._rated(),
            roles=dict(self.groups.roles),
            circuits=dict(self.groups.circuits),
            apart=frozenset(self.groups.apart),
            connectors=dict(self.groups.connectors),
        )
        return draft, wrong

    def refresh(self) -> None:
        """Joins what was typed, and draws it."""
        self._timer.stop()
        draft, wrong = self.draft()
        self.described = describe(draft, "draft")
        rows = self.described.rows
        empty = not rows
        is_board = draft.kind in BOARD_KINDS
        self.second.setCurrentWidget(self.groups if is_board else self.second.widget(0))
        # A board's groups say more than its rows.
        self.page_column.setStretchFactor(self.texts, 6 if is_board else 3)
        self.texts.setStretchFactor(self.second, 4 if is_board else 3)
        self.pins.setPlaceholderText(BOARD_EXAMPLE if is_board else PINS_EXAMPLE)
        self.groups.show_groups(draft.kind, self.described.groups)
        words = [*wrong, *(() if empty else self.described.problems)]
        if self.described.unknown:
            words.append(f"Not known yet: what {', '.join(self.described.unknown)} bear and give.")
        if empty:
            words = [
                "Type or paste the rows: the pin, then what it is for. Colours may follow later."
            ]
        self.problems.setText("  ".join(words))
        colour = looks.theme.faded if empty else looks.theme.doubt_text
        self.problems.setStyleSheet(f"color: {colour};")
        self.problems.setVisible(bool(words))
        self.table.setColumnWidth(0, looks.px(86 if is_board else WIDTHS[0]))
        self.table.setRowCount(len(rows))
        for at, row in enumerate(rows):
            taken = row.function or "not known" if row.is_used else "not used"
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
        self.picture = part_picture(part) if part is not None else None
        self.plug.setWidget(self.picture or blank())

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
        for field in (self.title, self.maker, self.model, self.length):
            field.clear()
        for number, _ in self.numbers.values():
            number.clear()
        self.pins.clear()
        self.colours.clear()
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


def blank() -> QFrame:
    """An empty place for the plug."""
    frame = QFrame()
    frame.setObjectName("blank")
    return frame


def bold(words: str) -> PlainLabel:
    """A small bold label."""
    label = PlainLabel(words)
    label.setObjectName("head")
    return label
