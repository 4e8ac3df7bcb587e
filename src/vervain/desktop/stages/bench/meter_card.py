"""What the bench meter shows, in large figures, to be taken by one key."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from vervain.desktop.shared.live_links import FUNCTION_WORDS, LiveLinks, reading_words
from vervain.desktop.shared.plain import ElidedLabel, PlainLabel
from vervain.desktop.theme import looks


class MeterCard(QFrame):
    """The reading, what is measured, and “Take it”."""

    taken = pyqtSignal()

    def __init__(self, links: LiveLinks) -> None:
        super().__init__()
        self.links = links
        self.setObjectName("card")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(2)
        self.title, self.state = PlainLabel("Bench meter"), ElidedLabel()
        self.title.setObjectName("head")
        self.state.setObjectName("faded")
        self.value, self.take = PlainLabel(), QPushButton("Take  Space")
        self.take.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.take.clicked.connect(self.taken.emit)
        line = QHBoxLayout()
        line.addWidget(self.value, 1)
        line.addWidget(self.take)
        for widget in (self.title, self.state):
            column.addWidget(widget)
        column.addLayout(line)
        links.changed.connect(self.refresh)
        links.meter_read.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Shows what the meter shows now."""
        links = self.links
        self.setVisible(links.meter is not None)
        reading = links.reading
        self.value.setText(reading_words(reading))
        self.value.setStyleSheet(f"font-size: {looks.px(20)}px; font-weight: bold;")
        self.value.setAccessibleDescription(reading_words(reading))
        what = FUNCTION_WORDS.get(reading.unit, "") if reading is not None else ""
        self.state.setText(", ".join(filter(None, (links.meter_state.words, what))))
        self.take.setEnabled(reading is not None)
