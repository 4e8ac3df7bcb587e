"""The line at the head of a stage: what matters most now, and a handful of buttons."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from vervain.desktop.theme import looks


class StageLine(QWidget):
    """A sentence at the left, buttons at the right."""

    def __init__(self) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 4, 12, 4)
        layout.setSpacing(8)
        self.words = QLabel()
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.words.setMinimumWidth(80)
        self.words.setWordWrap(True)
        layout.addWidget(self.words, 1)
        self.buttons = QHBoxLayout()
        self.buttons.setSpacing(6)
        layout.addLayout(self.buttons)
        self.setMinimumHeight(looks.px(41))

    def add_button(self, button: QPushButton) -> QPushButton:
        """Adds a button at the right."""
        self.buttons.addWidget(button)
        return button

    def say(self, strong: str, rest: str = "") -> None:
        """Shows a sentence; its first part in bold accent."""
        accent = looks.theme.accent
        first = f'<b style="color:{accent}">{escaped(strong)}</b>' if strong else ""
        self.words.setText(f"{first}&nbsp; {escaped(rest)}" if strong else escaped(rest))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), looks.colour("sheet"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)


def escaped(text: str) -> str:
    """Text made safe for rich text labels."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
