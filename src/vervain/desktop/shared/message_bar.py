"""The message line: what happened, at the foot of the stage, with what can be done about it."""

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QBoxLayout, QFrame, QHBoxLayout, QPushButton, QWidget

from vervain.desktop.message import Message
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.replacing import leave
from vervain.desktop.theme import looks

SHOWN_MS = 6000
MOST_BESIDE = 2


class MessageBar(QFrame):
    """One message at a time; goes by itself unless it is told to stay."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("popup")
        # Beside the words, or with several buttons under them.
        self._both = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._both.setContentsMargins(12, 6, 6, 6)
        self._row = QHBoxLayout()
        self._row.addStretch(0)
        self.words = PlainLabel()
        self.words.setWordWrap(True)
        self._both.addWidget(self.words, 1)
        self._both.addLayout(self._row)
        self._buttons: list[QPushButton] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def show_message(self, message: Message) -> None:
        """Shows a message in place of the one before."""
        for button in self._buttons:
            self._row.removeWidget(button)
            leave(button)
        self._buttons = []
        self.words.setText(message.text)
        self.words.setStyleSheet(f"color: {looks.theme.bad};" if message.is_bad else "")
        for words, action in (*message.actions, ("Close", lambda: None)):
            button = QPushButton(words)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(action)
            button.clicked.connect(self.hide)
            self._row.addWidget(button)
            self._buttons.append(button)
        many = len(self._buttons) > MOST_BESIDE
        self._row.setStretch(0, 1 if many else 0)
        ways = QBoxLayout.Direction
        self._both.setDirection(ways.TopToBottom if many else ways.LeftToRight)
        self._timer.stop()
        if not message.stays:
            self._timer.start(SHOWN_MS)
        self.show()
        self.raise_()
        self.place()

    def place(self) -> None:
        """Puts the bar over the foot of the stage."""
        parent = self.parentWidget()
        if parent is None or not self.isVisible():
            return
        width = min(parent.width() - 40, looks.px(680))
        self.setFixedWidth(width)
        # The hint alone is that of words wrapped as it pleases Qt.
        least = max(button.sizeHint().height() for button in self._buttons) + 12
        height = self.heightForWidth(width) if self.hasHeightForWidth() else 0
        self.setFixedHeight(max(least, height or self.sizeHint().height()))
        foot = looks.px(88) + 10
        self.move((parent.width() - width) // 2, parent.height() - foot - self.height())
