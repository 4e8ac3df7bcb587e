"""What a list of devices or conductors would do, row by row; taken in as one step, or left."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
)

from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.desktop.theme import looks
from vervain.files.lists import Import
from vervain.model.machine import Machine

MARKS = {"taken": "＋", "there already": "＝", "left out": "✕"}
WORDS = {"taken": "is taken", "there already": "is there already", "left out": "is left out"}
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class ImportPanel(QFrame):
    """The dry run of one file."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.result: Import | None = None
        self.made_for: Machine | None = None
        self.name = ""
        self.said = PlainLabel()
        self.said.setWordWrap(True)
        self.take = QPushButton("Take them in  Enter")
        self.take.setObjectName("main")
        self.take.clicked.connect(self.carry_out)
        self.leave = QPushButton("Leave it  Esc")
        self.leave.clicked.connect(self.drop)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName("What each row does")
        top = QHBoxLayout()
        top.addWidget(self.said, 1)
        top.addWidget(self.take)
        top.addWidget(self.leave)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 6, 12, 6)
        column.addLayout(top)
        column.addWidget(self.list)
        self.hide()
        session.machine_changed.connect(self._machine_changed)

    def _machine_changed(self) -> None:
        if self.made_for is not None and self.made_for is not self.session.machine:
            self.drop()

    def show_result(self, name: str, result: Import) -> None:
        """Shows what a file would do."""
        self.result, self.made_for, self.name = result, self.session.machine, name
        self.list.clear()
        for row in result.rows:
            what = f"{MARKS[row.verdict]}  row {row.number} {WORDS[row.verdict]}: {row.words}"
            item = QListWidgetItem(what)
            item.setToolTip(plain(row.text))
            if row.verdict == "left out":
                item.setForeground(looks.colour("bad"))
            elif row.verdict == "there already":
                item.setForeground(looks.colour("faded"))
            self.list.addItem(item)
        taken, left = result.count("taken"), result.count("left out")
        already = result.count("there already")
        self.said.setText(
            f"{name}: {taken} {result.kind} would be taken in, {already} are there already, "
            f"{left} are left out. Nothing is changed yet."
        )
        self.take.setEnabled(taken > 0)
        self.list.setFixedHeight(looks.px(26) * min(8, max(2, self.list.count())))
        self.show()
        self.list.setFocus()

    def drop(self) -> None:
        """Leaves it."""
        self.result = self.made_for = None
        self.hide()

    def carry_out(self) -> None:
        """Takes the rows in, as one step."""
        result = self.result
        self.drop()
        if result is not None and result.count("taken"):
            words = f"{result.count('taken')} {result.kind} from {self.name}"
            self.session.apply(words[:70], lambda _: result.machine)

    def take_key(self, key: int) -> bool:
        """The keys while it is shown."""
        if self.result is None:
            return False
        if key in ENTER and self.take.isEnabled():
            self.carry_out()
        elif key == Qt.Key.Key_Escape:
            self.drop()
        else:
            return False
        return True
