"""The figures of a label that a kind of part is asked for, side by side."""

from collections.abc import Mapping
from typing import NamedTuple

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from vervain.catalogue.drafts import (
    DESCRIBED,
    DRIVE_WORDS,
    DRIVES,
    HAS_DRIVE,
    RATED_WORDS,
    Drive,
    Number,
)
from vervain.desktop.shared.replacing import leave
from vervain.desktop.stages.machine.part_page import faded
from vervain.model.part import BOARD_KINDS, PartKind
from vervain.model.ratings import Rated
from vervain.text.quantities import NotAQuantity, read_number_in, read_quantity
from vervain.text.units import read_length_m

LEADS_LONG = Number("lead_length_m", "Leads are long", "m")
SIZE = (
    Number("board_width_mm", "Board is wide", "mm"),
    Number("board_height_mm", "Board is high", "mm"),
)

MOST = 1e9


class Figures(NamedTuple):
    """What was typed: numbers by key, and what of it was not understood."""

    numbers: dict[str, float]
    wrong: list[str]


def _read(text: str, unit: str) -> float:
    """A number in its unit. Raises `NotAQuantity`."""
    if unit == "mm":
        return read_number_in(text, unit)
    return read_length_m(text) if unit == "m" else read_quantity(text, unit)


class NumberFields(QWidget):
    """A field for each number of a kind; what was typed for one stays for the next."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(8)
        self.fields: dict[str, tuple[QLineEdit, str]] = {}
        # What is asked for, in the order in which it stands there.
        self.asked: tuple[QWidget, ...] = ()
        self.drive_box, self.rated_box = QComboBox(self), QComboBox(self)
        self.is_drive_chosen = False
        for drive in DRIVES:
            self.drive_box.addItem(DRIVE_WORDS.get(drive, drive), drive)
        self.drive_box.activated.connect(self._drive_chosen)
        self.drive_box.setAccessibleName("Output")
        self.rated_box.addItem("choose …")
        self.rated_box.addItems(list(RATED_WORDS.values()))
        self.rated_box.setAccessibleName("The current is for")
        for box in (self.drive_box, self.rated_box):
            box.hide()
            box.currentTextChanged.connect(lambda _: self.changed.emit())

    def ask(self, kind: PartKind) -> None:
        """Asks for the numbers of a kind; those with the same key are kept."""
        kept = {key: field.text() for key, (field, _) in self.fields.items()}
        while (item := self.grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget in (self.drive_box, self.rated_box):
                widget.hide()
            elif widget is not None:
                leave(widget)
        self.fields.clear()
        shown: list[tuple[str, QWidget]] = []
        numbers = (*DESCRIBED[kind], *(SIZE if kind in BOARD_KINDS else (LEADS_LONG,)))
        for number in numbers:
            field = QLineEdit(kept.get(number.key, ""))
            field.setPlaceholderText(number.unit or "number")
            field.setAccessibleName(number.words)
            field.textChanged.connect(lambda _: self.changed.emit())
            self.fields[number.key] = field, number.unit
            shown.append((number.words, field))
        if kind in HAS_DRIVE:
            shown.append(("Output", self.drive_box))
        if kind == "stepper motor":
            shown.append(("of 6 or 8 leads, for", self.rated_box))
        self.asked = tuple(widget for _, widget in shown)
        for at, (words, widget) in enumerate(shown):
            self.grid.addWidget(faded(words), 0, at)
            self.grid.addWidget(widget, 1, at)
            widget.show()

    def read(self) -> Figures:
        """The numbers, in their units."""
        found = Figures({}, [])
        for key, (field, unit) in self.fields.items():
            text, words = field.text().strip(), field.accessibleName()
            if not text:
                continue
            try:
                value = _read(text, unit)
            except NotAQuantity as problem:
                found.wrong.append(f"{words}: {problem}")
                continue
            if 0 <= value <= MOST:
                found.numbers[key] = value
            else:
                found.wrong.append(f"{words}: “{text}” cannot be.")
        return found

    def clear(self) -> None:
        """Forgets what was typed and chosen."""
        self.is_drive_chosen = False
        for field, _ in self.fields.values():
            field.clear()

    def _drive_chosen(self) -> None:
        self.is_drive_chosen = True
        self.changed.emit()

    def choose_drive(self, drive: Drive) -> None:
        """Sets what the output of a sensor drives to."""
        self.is_drive_chosen = True
        self.drive_box.setCurrentIndex(DRIVES.index(drive))

    def show_drive(self, drive: Drive) -> None:
        """Shows what an output usually drives, while nobody has chosen it."""
        if not self.is_drive_chosen:
            self.drive_box.blockSignals(True)
            self.drive_box.setCurrentIndex(DRIVES.index(drive))
            self.drive_box.blockSignals(False)

    def show_told(self, told: Mapping[str, float]) -> None:
        """Shows, in fields that are empty, the numbers that the name of the part tells."""
        for key, (field, unit) in self.fields.items():
            said = f"{told[key]:g} {unit}, by its name" if key in told else unit or "number"
            field.setPlaceholderText(said)

    @property
    def drive(self) -> Drive | None:
        """What the output of a sensor drives to; None where nobody chose it."""
        if not self.is_drive_chosen:
            return None
        return next(drive for drive in DRIVES if drive == self.drive_box.currentData())

    @property
    def rated(self) -> Rated | None:
        """What a motor's current is given for."""
        words = self.rated_box.currentText()
        return next((use for use, said in RATED_WORDS.items() if said == words), None)
