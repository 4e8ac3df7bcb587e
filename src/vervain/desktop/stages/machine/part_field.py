"""The field in which a part of the shelf is looked for."""

from collections.abc import Sequence
from typing import Protocol

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLineEdit

# The keys that go through the rows and take one, from the field as well.
TAKING = frozenset((Qt.Key.Key_Return, Qt.Key.Key_Enter))
ROW_KEYS = TAKING | {
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown,
}  # fmt: skip


class Rows(Protocol):
    """The rows below the field, which take its arrows and its Enter."""

    @property
    def rows(self) -> Sequence[object]: ...

    def keyPressEvent(self, event: QKeyEvent | None) -> None: ...


class PartField(QLineEdit):
    """What is looked for; the arrows go through what was found, Enter takes it, Esc leaves."""

    left = pyqtSignal()
    nothing_found = pyqtSignal()

    def __init__(self, rows: Rows) -> None:
        super().__init__()
        self.rows = rows
        self.setClearButtonEnabled(True)
        self.setAccessibleName("Find parts")
        self.setToolTip("Words and numbers: “driver 4 A 48 V three phase”")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in TAKING and not self.rows.rows:
            self.nothing_found.emit()
        elif event.key() in ROW_KEYS:
            self.rows.keyPressEvent(event)
        elif event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)
