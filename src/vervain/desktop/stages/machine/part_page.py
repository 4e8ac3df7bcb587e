"""What the pages that make a part of one's own share: its names, how it is kept, the keys."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QWidget,
)

from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.stages.machine.keeping import keep_part
from vervain.desktop.theme import looks
from vervain.files.shelf import ShelfContents
from vervain.model.part import Part


@dataclass(frozen=True)
class PartPlace:
    """Where a part that is made goes: the builder's folder, the shelf as it is, who is told."""

    session: Session
    folder: Path
    shelf: Callable[[], ShelfContents]
    saved: Callable[[Part], object]
    left: Callable[[], object]


class PartPage(QWidget):
    """A page over the lanes on which a part is made; Ctrl+Enter keeps it, Esc goes back."""

    words = ""

    def __init__(self, place: PartPlace) -> None:
        super().__init__()
        self.session, self.folder, self.shelf = place.session, place.folder, place.shelf
        self.saved, self.left = place.saved, place.left
        self.title, self.maker, self.model = QLineEdit(), QLineEdit(), QLineEdit()
        self.save_button = QPushButton("Save to my parts  Ctrl+Enter")
        self.save_button.setObjectName("main")
        self.save_button.clicked.connect(lambda: self.save())
        self.leave_button = QPushButton("Back  Esc")
        self.leave_button.clicked.connect(lambda: self.left())

    def heads(self, fields: Sequence[tuple[str, QWidget]]) -> QGridLayout:
        """Fields side by side under their words; the name has twice the room."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        for at, (words, field) in enumerate(fields):
            grid.addWidget(faded(words), 0, at)
            grid.addWidget(field, 1, at)
            field.setAccessibleName(words)
            grid.setColumnStretch(at, 2 if field is self.title else isinstance(field, QLineEdit))
        return grid

    def foot(self) -> QHBoxLayout:
        """The buttons at the foot."""
        row = QHBoxLayout()
        row.addWidget(self.leave_button)
        row.addStretch(1)
        row.addWidget(self.save_button)
        return row

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), looks.colour("sheet"))

    def finished(self) -> Part | None:
        """The part as it stands; None where something is missing, after that was said."""
        return None

    def save(self) -> None:
        """Keeps the part among the builder's own; the same name again is its next revision."""
        part = self.finished()
        if part is not None:
            keep_part(self.session, part, self.shelf(), self.folder, self.saved)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if event.key() == Qt.Key.Key_Escape:
            self.left()
        elif control and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.save()
        else:
            super().keyPressEvent(event)


def make_dense(table: QTableWidget, columns: Sequence[str], name: str) -> None:
    """Low rows without numbers, under these headings; the last takes what room is left."""
    table.setHorizontalHeaderLabels(list(columns))
    table.setAccessibleName(name)
    rows, heads = table.verticalHeader(), table.horizontalHeader()
    if rows is not None and heads is not None:
        rows.hide()
        rows.setMinimumSectionSize(looks.px(22))
        rows.setDefaultSectionSize(looks.px(22))
        heads.setSectionResizeMode(len(columns) - 1, QHeaderView.ResizeMode.Stretch)
        heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)


def faded(words: str) -> PlainLabel:
    """A small faded label."""
    label = PlainLabel(words)
    label.setObjectName("faded")
    return label
