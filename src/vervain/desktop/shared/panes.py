"""The panes beside the stage and the bar over everything, with their hairlines."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from vervain.desktop.theme import looks


class SeparatedPane(QWidget):
    """A pane with a hairline at its right or left edge."""

    def __init__(self, content: QWidget, width: int, line_at: str) -> None:
        super().__init__()
        self._base, self._line_at = width, line_at
        layout = QVBoxLayout(self)
        layout.setContentsMargins(
            1 if line_at == "left" else 0, 0, 1 if line_at == "right" else 0, 0
        )
        layout.addWidget(content)
        self.scale()

    def scale(self) -> None:
        """Takes the width for the text scale in force: panes grow less than the text."""
        self.setFixedWidth(round(self._base * (1 + (looks.scale - 1) * 0.6)))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), looks.colour("paper"))
        painter.setPen(looks.colour("rule"))
        x = 0 if self._line_at == "left" else self.width() - 1
        painter.drawLine(x, 0, x, self.height())


class TopBar(QWidget):
    """The bar over everything, with a hairline below."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(QRectF(self.rect()), looks.colour("paper"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
