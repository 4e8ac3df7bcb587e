"""The line at the head of a stage: what matters most now, and a handful of buttons."""

from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QWidget,
)

from vervain.desktop.shared.plain import MarkupLabel, escaped
from vervain.desktop.theme import looks

# What the sentence wants beside the buttons; with less the buttons go under it.
NARROWEST_WORDS = 230


class StageLine(QWidget):
    """A sentence at the left, buttons at the right; where that is too narrow, under it."""

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
        self.buttons = QHBoxLayout()
        self.buttons.setSpacing(6)
        layout.addLayout(self.buttons)
        self.buttons.addStretch(0)
        self.setMinimumHeight(looks.px(41))

    def add_button(self, button: QPushButton) -> QPushButton:
        """Adds a button at the right."""
        button.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
        self.buttons.insertWidget(self.buttons.count() - 1, button)
        return button

    def fit_in(self) -> None:
        """Puts the buttons beside the sentence or under it, as there is room."""
        shown = [
            widget
            for number in range(self.buttons.count())
            if (item := self.buttons.itemAt(number)) is not None
            and (widget := item.widget()) is not None
            and not widget.isHidden()
        ]
        wanted = sum(widget.sizeHint().width() + 6 for widget in shown)
        beside = self.width() >= wanted + looks.px(NARROWEST_WORDS)
        ways = QBoxLayout.Direction
        self.row.setDirection(ways.LeftToRight if beside or not shown else ways.TopToBottom)
        self.buttons.setStretch(self.buttons.count() - 1, 0 if beside else 1)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.fit_in()

    def say(self, strong: str, rest: str = "") -> None:
        """Shows a sentence; its first part in bold accent."""
        accent = looks.theme.accent
        first = f'<b style="color:{accent}">{escaped(strong)}</b>' if strong else ""
        self.words.setText(f"{first}&nbsp; {escaped(rest)}" if strong else escaped(rest))
        self.fit_in()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
