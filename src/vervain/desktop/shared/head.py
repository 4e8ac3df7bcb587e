"""The head of the window: the stages, the machine's name with the last step, and Jump."""

from PyQt6 import sip
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.session import Session
from vervain.desktop.shared.panes import TopBar
from vervain.desktop.shared.plain import plain
from vervain.desktop.shared.rail import StageRail
from vervain.desktop.theme import looks

JUMP_WORDS = (
    "Jump to a device, port, label …   Ctrl+K", "Jump to …   Ctrl+K", "Ctrl+K",
)  # fmt: skip
LONGEST_STEP = 44


class NameField(QLineEdit):
    """The machine's name, or what else stands on its papers, while it is changed. Enter keeps it,
    Esc leaves it.
    """

    left = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


class Head(TopBar):
    """What stands over everything."""

    # What was changed, name, state, revision or author, and what it is now.
    taken = pyqtSignal(str, str)

    def __init__(self, stages: tuple[str, ...]) -> None:
        super().__init__()
        self.rail = StageRail(stages)
        self.name, self.last_step = QPushButton(), QPushButton()
        # A long name gives way instead of pushing over the stages; it is whole in the tip.
        self.name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.name.setObjectName("flat")
        self.name.setAccessibleName("Machine menu")
        self.field = NameField()
        self.changing = "name"
        # What had the keyboard before the field took it, to give it back.
        self.before: QWidget | None = None
        self.field.hide()
        self.field.returnPressed.connect(self._take)
        self.field.left.connect(self.show_name)
        self.field.editingFinished.connect(self.show_name)
        self.last_step.setObjectName("flat")
        self.last_step.setStyleSheet("text-align: left; padding: 0;")
        self.last_step.setToolTip("All steps (Ctrl+H)")
        self.jump_button = QPushButton(JUMP_WORDS[0])
        self.jump_button.setStyleSheet("text-align: left;")
        names = QVBoxLayout()
        names.setSpacing(0)
        names.addStretch(1)
        names.addWidget(self.name)
        names.addWidget(self.field)
        names.addWidget(self.last_step)
        names.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 12, 1)
        row.setSpacing(12)
        row.addWidget(self.rail)
        row.addLayout(names, 1)
        row.addWidget(self.jump_button)

    def show_session(self, session: Session) -> str:
        """Shows the machine's name and the last step; gives the window's title."""
        machine = session.machine
        state = f"  {machine.state}" if machine.state else ""
        state += f"  {machine.revision}" if machine.revision else ""
        mark = "" if session.is_saved else "  · not saved"
        self.name.setText(f"{machine.name}{state}{mark}  ▾".replace("&", "&&"))
        self.name.setToolTip(plain(machine.name))
        words = session.steps[session.at].words if session.at else "Nothing changed yet"
        shown = words if len(words) < LONGEST_STEP else words[: LONGEST_STEP - 1] + "…"
        self.last_step.setText(f"{shown}   Ctrl+Z" if session.at else shown)
        return f"{machine.name}{state} – Vervain"

    def change(self, what: str, text: str, most: int) -> None:
        """Lets the name, or what else stands on the papers, be changed in the name's place."""
        self.changing, self.before = what, QApplication.focusWidget()
        self.field.setMaxLength(most)
        self.field.setAccessibleName(f"{what.capitalize()} of the machine")
        hint = f"{what.capitalize()}, on every print"
        self.field.setPlaceholderText("http://bench/gantry.html" if what == "page" else hint)
        self.field.setText(text)
        self.name.hide()
        self.field.show()
        self.field.setFocus()
        self.field.selectAll()

    def show_name(self) -> None:
        """Goes back from the field to the name, and gives the keyboard back if it has it."""
        before, self.before = self.before, None
        if before is not None and self.field.hasFocus() and not sip.isdeleted(before):
            before.setFocus()
        self.field.hide()
        self.name.show()

    def _take(self) -> None:
        text = self.field.text()
        self.show_name()
        self.taken.emit(self.changing, text)

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.name.setStyleSheet(
            f"text-align: left; padding: 0; font-weight: bold; color: {looks.theme.ink};"
        )
        self.rail.updateGeometry()
        self.rail.setFixedSize(self.rail.sizeHint())

    def fit(self, width: int) -> None:
        """Gives the jump button as many words as the names beside it leave room for."""
        room = width - self.rail.width() - looks.px(210)
        wanted = 0
        for words in JUMP_WORDS:
            self.jump_button.setText(words)
            wanted = self.jump_button.sizeHint().width()
            if wanted <= room:
                break
        self.jump_button.setFixedWidth(wanted)
