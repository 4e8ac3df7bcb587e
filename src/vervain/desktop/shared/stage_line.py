"""The line at the head of a stage: what matters most now, and a handful of buttons."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.shared.plain import MarkupLabel, escaped
from vervain.desktop.theme import looks

# What the sentence wants beside the buttons; with less the buttons go under it.
NARROWEST_WORDS = 230
GAP = 6


class StageLine(QWidget):
    """A sentence at the left, buttons at the right; where that is too narrow, under it, in as many
    rows as they need.
    """

    # The sentence without markup.
    said = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        layout = self.row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        layout.setContentsMargins(16, 4, 12, 4)
        layout.setSpacing(8)
        self.words = MarkupLabel()
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.words.setMinimumWidth(80)
        self.words.setWordWrap(True)
        layout.addWidget(self.words, 1)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(GAP)
        layout.addLayout(self.rows)
        self.buttons: list[QPushButton] = []
        self._shown_rows: list[list[QPushButton]] = []
        self._are_under = False
        self.setMinimumHeight(looks.px(41))

    def add_button(self, button: QPushButton) -> QPushButton:
        """Adds a button at the right."""
        button.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
        self.buttons.append(button)
        button.setParent(self)
        self._lay([self.buttons], under=False)
        return button

    def fit_in(self) -> None:
        """Puts the buttons beside the sentence or under it, as there is room."""
        wide = {b: b.sizeHint().width() + GAP for b in self.buttons if not b.isHidden()}
        beside = self.width() >= sum(wide.values()) + looks.px(NARROWEST_WORDS)
        ways = QBoxLayout.Direction
        self.row.setDirection(ways.LeftToRight if beside or not wide else ways.TopToBottom)
        margins = self.row.contentsMargins()
        room = self.width() - margins.left() - margins.right()
        rows: list[list[QPushButton]] = [[]]
        left = room
        for button in self.buttons:
            if not beside and rows[-1] and wide.get(button, 0) > left + GAP:
                rows.append([])
                left = room
            rows[-1].append(button)
            left -= wide.get(button, 0)
        self._lay(rows, under=not beside)

    def _lay(self, rows: list[list[QPushButton]], under: bool) -> None:
        """Puts the buttons into rows; those under the sentence begin at the left."""
        if rows == self._shown_rows and under == self._are_under:
            return
        self._shown_rows, self._are_under = [list(row) for row in rows], under
        while (item := self.rows.takeAt(0)) is not None:
            old = item.layout()
            while old is not None and old.count():
                old.takeAt(0)
        for row in rows:
            line = QHBoxLayout()
            line.setSpacing(GAP)
            for button in row:
                line.addWidget(button)
            line.addStretch(1 if under else 0)
            self.rows.addLayout(line)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.fit_in()

    def say(self, strong: str, rest: str = "") -> None:
        """Shows a sentence; its first part in bold accent."""
        self.said.emit(f"{strong} {rest}".strip())
        accent = looks.theme.accent
        first = f'<b style="color:{accent}">{escaped(strong)}</b>' if strong else ""
        self.words.setText(f"{first}&nbsp; {escaped(rest)}" if strong else escaped(rest))
        self.fit_in()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
