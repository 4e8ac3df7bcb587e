"""Jump: one field for devices, ports, labels, findings, actions."""

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks

MOST_SHOWN = 120


@dataclass(frozen=True)
class Command:
    """Something to jump to: its kind, its words, and what happens."""

    kind: str
    words: str
    go: Callable[[], object]


def matching(goals: list[Command], text: str) -> list[Command]:
    """Goals that hold every word of the text; those that begin with it come first, then those that
    have it as a word of their own.
    """
    words = text.casefold().split()
    if not words:
        return goals
    found = [g for g in goals if all(w in f"{g.words} {g.kind}".casefold() for w in words)]
    start = text.strip().casefold()

    def rank(goal: Command) -> tuple[bool, bool, int]:
        shown = goal.words.casefold()
        whole = set(words) <= set(shown.replace(",", " ").split())
        return not shown.startswith(start), not whole, len(shown)

    return sorted(found, key=rank)


class JumpPanel(QFrame):
    """A field with the goals that match below it; Enter goes, Escape closes."""

    def __init__(self, parent: QWidget, goals: Callable[[], list[Command]], hint: str) -> None:
        super().__init__(parent)
        self.setObjectName("popup")
        self._over, self._goals = parent, goals
        self.found: list[Command] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        self.field = QLineEdit()
        self.field.setPlaceholderText(hint)
        self.field.setAccessibleName("Jump to")
        self.list = QListWidget()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.none = PlainLabel("Nothing of that name.")
        self.none.setObjectName("faded")
        column.addWidget(self.field)
        column.addWidget(self.list)
        column.addWidget(self.none)
        self.field.textChanged.connect(self._search)
        self.field.installEventFilter(self)
        self._all: list[Command] = []
        self.list.itemClicked.connect(self._go)
        self.hide()

    def open(self, text: str = "") -> None:
        """Shows the panel over the window, with a text to search for, and takes the keyboard."""
        width = looks.px(460)
        self._all = self._goals()
        self.setGeometry(
            max(0, self._over.width() - width - 12), looks.px(44), width, looks.px(360)
        )
        self.field.setText(text)
        self._search(text)
        self.show()
        self.raise_()
        self.field.setFocus()

    def _search(self, text: str) -> None:
        self.found = matching(self._all, text)[:MOST_SHOWN]
        self.list.clear()
        for goal in self.found:
            self.list.addItem(QListWidgetItem(f"{goal.words}   ·  {goal.kind}"))
        self.list.setCurrentRow(0)
        rows = max(1, min(len(self.found), 14))
        self.resize(self.width(), looks.px(52) + rows * (self.list.sizeHintForRow(0) + 2))
        self.list.setVisible(bool(self.found))
        self.none.setVisible(not self.found)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.FocusOut and watched is self.field:
            self.hide()
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self.hide()
                self._over.setFocus()
                return True
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                row = self.list.currentRow() + step
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, row)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._go()
                return True
        return super().eventFilter(watched, event)

    def _go(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.found):
            goal = self.found[row]
            self.hide()
            goal.go()
