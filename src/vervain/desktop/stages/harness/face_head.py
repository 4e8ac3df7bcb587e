"""The head of the harness table: its faces as tabs, the columns, the filter."""

from itertools import accumulate

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks


class FaceHead(QWidget):
    """Tabs in one row with the tools at its right; where that is too narrow, in two rows."""

    chosen = pyqtSignal(str)

    def __init__(self, faces: tuple[str, ...], stage: QWidget) -> None:
        super().__init__(stage)
        self.buttons: dict[str, QPushButton] = {}
        tabs = QButtonGroup(self)
        for number, name in enumerate(faces, 1):
            button = QPushButton(name)
            button.setObjectName("tab")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setToolTip(f"Ctrl+{number}")
            keys = QShortcut(QKeySequence(f"Ctrl+{number}"), stage)
            keys.activated.connect(lambda face=name: self.chosen.emit(face))
            button.clicked.connect(lambda _, face=name: self.chosen.emit(face))
            tabs.addButton(button)
            self.buttons[name] = button
        self.note = PlainLabel()
        self.note.setObjectName("faded")
        self.columns_button = QPushButton("Columns")
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter   Ctrl+F")
        self.filter.setClearButtonEnabled(True)
        self.filter.setAccessibleName("Filter rows")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 5, 12, 5)
        column.setSpacing(2)
        self._rows = QHBoxLayout(), QHBoxLayout()
        for row in self._rows:
            row.setSpacing(3)
            column.addLayout(row)
        self._laid: tuple[int, bool] | None = None
        self.scale()

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.filter.setFixedWidth(looks.px(140))
        self.fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.fit()

    def fit(self) -> None:
        """Lays the tabs and the tools as there is room."""
        buttons = list(self.buttons.values())
        shown = [button for button in buttons if not button.isHidden() or not self.isVisible()]
        widths = [button.sizeHint().width() + 3 for button in shown]
        tools = self.columns_button.sizeHint().width() + self.filter.width()
        tools += self.note.sizeHint().width() + looks.px(24)
        room = self.width() - looks.px(24)
        in_one_row = sum(widths) + tools <= room
        fitting = sum(total <= room for total in accumulate(widths))
        beside = len(buttons) if fitting == len(shown) else max(1, fitting)
        if (beside, in_one_row) != self._laid:
            self._laid = beside, in_one_row
            self._lay(buttons, beside, in_one_row)

    def _lay(self, buttons: list[QPushButton], beside: int, in_one_row: bool) -> None:
        for row in self._rows:
            while row.count():
                row.takeAt(0)
        for number, button in enumerate(buttons):
            self._rows[number >= beside].addWidget(button)
        self._rows[0].addStretch(1)
        if not in_one_row:
            self._rows[1].addStretch(1)
        for tool in (self.note, self.columns_button, self.filter):
            self._rows[not in_one_row].addWidget(tool)
