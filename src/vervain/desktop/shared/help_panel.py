"""What F1 shows: what the selected port is, and the keys."""

from PyQt6.QtWidgets import QFrame, QGridLayout, QWidget

from vervain.desktop.keys_help import KEYS
from vervain.desktop.shared.plain import MarkupLabel, escaped
from vervain.desktop.theme import looks


class HelpPanel(QFrame):
    """Words about one thing over the list of keys."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("popup")
        self.text = MarkupLabel()
        self.text.setWordWrap(True)
        QGridLayout(self).addWidget(self.text)
        self.hide()

    def explain(self, words: str) -> None:
        """Shows the words, as they are, over the keys."""
        first = f"<b>{escaped(words)}</b><br><br>" if words else ""
        self.text.setText(first + KEYS)
        width = looks.px(560)
        self.setFixedWidth(width)
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move((parent.width() - width) // 2, looks.px(90))
        self.show()
        self.raise_()
