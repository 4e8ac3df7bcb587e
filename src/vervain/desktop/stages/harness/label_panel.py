"""The panel that makes labels: their text, what they go onto, where they are written."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
)

from vervain.desktop.background import in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks
from vervain.edits.cable_edits import mark_printed
from vervain.edits.note_edits import set_label_templates
from vervain.files.writing import write_whole
from vervain.harness.label_layout import PAPERS_MM, TAPES_MM, SheetForm, Style
from vervain.harness.label_templates import FIELDS, check_templates
from vervain.model.machine import LabelTemplates
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

FORMS = {"Flag": "flag", "Wrap": "wrap", "Sleeve": "sleeve"}
OWNERS = {
    "cores and cables": frozenset({"core", "cable"}),
    "cores": frozenset({"core"}),
    "cables": frozenset({"cable"}),
}


class LabelPanel(QFrame):
    """What the labels say, what they are printed on, and the buttons that write them."""

    # What is printed, its sheet ("" for a tape), and what makes it and hands it on.
    print_wanted = pyqtSignal(str, str, object)

    def __init__(self, session: Session, chosen: Callable[[], set[str]]) -> None:
        super().__init__()
        self.session, self.chosen = session, chosen
        self.core_template, self.lead_template = QLineEdit(), QLineEdit()
        self.form, self.onto, self.owners = QComboBox(self), QComboBox(self), QComboBox(self)
        self.form.addItems(FORMS)
        self.onto.addItems([f"Tape {size:g} mm" for size in TAPES_MM])
        self.onto.addItems([f"Sheet {name}" for name in PAPERS_MM])
        self.onto.setCurrentText("Tape 12 mm")
        self.owners.addItems(OWNERS)
        self.grid_text = QLineEdit("3 × 9, 7 × 15, 2.5 × 0")
        self.grid_text.setToolTip("Across × down, margins, gaps in mm")
        self.details = QCheckBox("Both ends")
        self.details.setToolTip("A second and third line: where it sits, where the other end is")
        self.details.setChecked(True)
        self.qr = QCheckBox("QR code")
        self.only_changed = QCheckBox("Only the changed")
        self.only_changed.setChecked(True)
        self.said = PlainLabel("Counting …")
        self.said.setObjectName("faded")
        self._asked = 0
        self._build()
        self.hide()

    def _build(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 6, 12, 6)
        grid.setVerticalSpacing(4)
        first, kinds, ticks, last = (QHBoxLayout() for _ in range(4))
        for line in (first, kinds, ticks, last):
            line.setSpacing(6)
        self.options = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self.options.addLayout(kinds)
        self.options.addLayout(ticks, 1)
        for title, field in (("Cores", self.core_template), ("Leads", self.lead_template)):
            first.addWidget(PlainLabel(title))
            first.addWidget(field, 1)
            field.returnPressed.connect(self.take_templates)
            field.setToolTip("Fields: " + ", ".join(f"{{{name}}}" for name in FIELDS))
            field.setAccessibleName(f"Label form of {title.lower()}")
        take = QPushButton("Label anew")
        take.clicked.connect(self.take_templates)
        first.addWidget(take)
        for box, name in ((self.form, "Label kind"), (self.onto, "Onto"), (self.owners, "Of")):
            box.setAccessibleName(name)
            box.currentTextChanged.connect(self.refresh)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            kinds.addWidget(box)
        self.grid_text.setAccessibleName("Sheet: across × down, margins, gaps")
        self.grid_text.editingFinished.connect(self.refresh)
        kinds.addWidget(self.grid_text)
        kinds.addStretch(1)
        for tick in (self.details, self.qr, self.only_changed):
            tick.toggled.connect(self.refresh)
            ticks.addWidget(tick)
        ticks.addStretch(1)
        self.said.setWordWrap(True)
        last.addWidget(self.said, 1)
        for form in ("pdf", "svg", "csv"):
            button = QPushButton(form.upper())
            button.setToolTip(f"Write the labels as {form.upper()}")
            button.clicked.connect(lambda _, form=form: self.ask(form))
            last.addWidget(button)
        self.print_button = QPushButton("Print …")
        self.print_button.setToolTip("Print the labels by the system's dialog")
        self.print_button.clicked.connect(self._ask_printer)
        last.addWidget(self.print_button)
        self.options.setSpacing(10)
        grid.addLayout(first, 0, 0)
        grid.addLayout(self.options, 1, 0)
        grid.addLayout(last, 2, 0)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Where kinds and ticks have no room beside each other, the ticks go under them."""
        parts = (self.form, self.onto, self.owners, self.grid_text)
        ticks = (self.details, self.qr, self.only_changed)
        wide = sum(w.sizeHint().width() + 6 for w in (*parts, *ticks) if not w.isHidden())
        ways = QBoxLayout.Direction
        fits = wide + looks.px(40) <= self.width()
        self.options.setDirection(ways.LeftToRight if fits else ways.TopToBottom)

    def open(self) -> None:
        """Shows the forms in force."""
        templates = self.session.machine.label_templates
        self.core_template.setText(templates.core)
        self.lead_template.setText(templates.lead)
        self.refresh()
        self.core_template.setFocus()

    def take_templates(self) -> None:
        """Takes the label forms, or says what is wrong with them."""
        wanted = LabelTemplates(core=self.core_template.text(), lead=self.lead_template.text())
        try:
            check_templates(wanted)
        except Problem as problem:
            self.session.say(str(problem))
            return
        words = f"Label form: {wanted.core}"
        self.session.apply(words, lambda machine: set_label_templates(machine, wanted))
        self.refresh()

    def label_style(self) -> Style:
        """What is chosen."""
        onto = self.onto.currentText()
        tape = float(onto.split()[1]) if onto.startswith("Tape") else None
        form = FORMS[self.form.currentText()]
        return Style(form, tape, self.details.isChecked(), self.qr.isChecked())  # type: ignore[arg-type]

    def sheet(self) -> SheetForm:
        """The sheet of labels as it is typed. Raises `Problem` where it is not understood."""
        onto = self.onto.currentText()
        paper = onto.removeprefix("Sheet ") if onto.startswith("Sheet") else "A4"
        try:
            pairs = [
                [float(number) for number in part.replace("x", "×").split("×")]
                for part in self.grid_text.text().split(",")
            ]
            (across, down), (margin_x, margin_y), (gap_x, gap_y) = pairs
            sheet = SheetForm(paper, int(across), int(down), margin_x, margin_y, gap_x, gap_y)
        except (ValueError, OverflowError):
            raise Problem(
                "The sheet is not understood.",
                remedy="Write across × down, margins, gaps: “3 × 9, 7 × 15, 2.5 × 0”.",
            ) from None
        return sheet

    def refresh(self) -> None:
        """How many labels these are."""
        self.grid_text.setVisible(self.onto.currentText().startswith("Sheet"))
        if not self.isVisible():
            return
        machine, cables = self.session.machine, self.chosen()
        owners, only_changed = OWNERS[self.owners.currentText()], self.only_changed.isChecked()
        self._asked += 1
        asked, style = self._asked, self.label_style()
        try:
            sheet = self.sheet() if style.tape_mm is None else SheetForm()
        except Problem:
            # A sheet that is still being typed.
            return

        def count() -> tuple[int, str]:
            from vervain.exports.label_files import lay_out_labels, stock_words, wanted_labels

            queries = Queries(machine)
            texts = wanted_labels(queries, machine, owners, only_changed, cables)
            laid = lay_out_labels(queries, machine.name, texts, style, sheet)
            return len(texts), stock_words(laid, style, sheet)

        def show(counted: tuple[int, str]) -> None:
            if asked != self._asked:
                return
            number, stock = counted
            some = " of the selected rows" if cables else ""
            changed = " that changed since the last print" if only_changed else ""
            words = f"{number} labels{changed}{some}, {stock}."
            self.said.setText(f"{words} PDF is at true size: print at 100 %.")

        in_background(count, show, self._refuse)

    def ask(self, form: str) -> None:
        """Asks where to, and writes the labels there."""
        name, _ = QFileDialog.getSaveFileName(self, "Labels go to", f"labels.{form}", f"*.{form}")
        if name:
            self.write(Path(name), form)

    def _ask_printer(self) -> None:
        """Asks for a printer for the labels."""
        sheet = self.onto.currentText().startswith("Sheet")
        paper = self.onto.currentText().split()[1] if sheet else ""

        def hand_over(write_out: Callable[[bytes], object], where: str) -> None:
            self.make("pdf", lambda files: write_out(files[0]), where)

        self.print_wanted.emit("Labels", paper, hand_over)

    def write(self, path: Path, form: str) -> None:
        """Writes the labels; further files are numbered."""

        def write_out(files: tuple[bytes, ...]) -> None:
            for number, data in enumerate(files):
                name = path if number == 0 else path.with_stem(f"{path.stem}-{number + 1}")
                write_whole(name, data)

        self.make(form, write_out, path.name)

    def make(self, form: str, write_out: Callable[[tuple[bytes, ...]], object], where: str) -> None:
        """Makes the labels on a worker, hands them on, and keeps that they were printed."""
        from vervain.exports.label_files import label_set

        machine, style, cables = self.session.machine, self.label_style(), self.chosen()
        owners, changed = OWNERS[self.owners.currentText()], self.only_changed.isChecked()
        try:
            sheet = self.sheet() if style.tape_mm is None else SheetForm()
        except Problem as problem:
            self._refuse(problem)
            return

        def work() -> tuple[int, tuple[str, ...]]:
            queries = Queries(machine)
            made = label_set(queries, machine, owners, changed, cables, style, sheet, form)
            if not made.texts:
                raise Problem("No label changed since the last print.")
            write_out(made.files)
            return len(made.texts), made.printed

        def done(result: tuple[int, tuple[str, ...]]) -> None:
            count, printed = result
            if form != "csv" or printed:
                words = f"{count} labels printed"
                self.session.apply(words, lambda m: mark_printed(m, printed))
            self.session.say(f"{count} labels went to {where}.")
            self.refresh()

        in_background(work, done, self._refuse)

    def _refuse(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))
