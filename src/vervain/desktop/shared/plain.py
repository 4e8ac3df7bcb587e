"""Shown text is text: nothing that a machine, a part or a list holds is ever taken as markup.

Qt guesses whether a label's or a tip's text is markup, and then even reads the files that it names.
Every label that shows a name is a `PlainLabel`, every tip goes through `plain`; a test over the
source refuses others.
"""

import html

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel, QWidget


def plain(text: str) -> str:
    """A text for a tip, as the text that it is: escaped where it could be taken for markup."""
    if "<" not in text:
        return text
    return f"<qt>{html.escape(text)}</qt>".replace("\n", "<br>")


def set_tip(widget: QWidget, text: str) -> None:
    """Gives a widget a tip that is shown as the text that it is."""
    widget.setToolTip(plain(text))


class PlainLabel(QLabel):
    """A label that shows its text as it is."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)

    def set_tip(self, text: str) -> None:
        """Gives it a tip that is shown as the text that it is."""
        set_tip(self, text)


class ElidedLabel(PlainLabel):
    """A label of one line that ends in … where there is no room; the whole text is in its tip."""

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        metrics, room = self.fontMetrics(), self.contentsRect()
        shown = metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, room.width())
        self.set_tip(self.text() if shown != self.text() else "")
        painter = QPainter(self)
        painter.setPen(self.palette().windowText().color())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)


class MarkupLabel(QLabel):
    """A label for our own markup. Whatever comes from a machine goes in through `escaped`."""

    def __init__(self, markup: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setText(markup)


def escaped(text: str) -> str:
    """A text within markup, as the text that it is."""
    return html.escape(text)
