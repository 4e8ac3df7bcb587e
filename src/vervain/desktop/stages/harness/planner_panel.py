"""The cable planner in the window: what is proposed, ticked or not, made as one step."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
)

from vervain.desktop.background import in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.theme import looks
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.text.words import count_of

if TYPE_CHECKING:
    from vervain.cabling.planned_cable import PlannedCable
    from vervain.cabling.planner import CablePlan
    from vervain.cabling.selection import Options

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


def _in_words(cable: "PlannedCable") -> str:
    if cable.instead:
        return f"{cable.part.title} as {cable.instead}"
    ends = dict.fromkeys(need.device_end.device for need in cable.needs)
    fars = dict.fromkeys(need.far_end.device for need in cable.needs)
    off = f", instead of {', '.join(cable.takes_off)}" if cable.takes_off else ""
    return f"{cable.part.title} for {', '.join(ends)} to {', '.join(fars)}{off}"


class CablePlanner(QFrame):
    """Asks for a plan on a worker, shows it, and carries out what is ticked."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parts: Callable[[], dict[str, CablePart]]) -> None:
        super().__init__()
        self.session, self.parts = session, parts
        self.plan: CablePlan | None = None
        self.made_for: Machine | None = None
        self.running = self._stopped = False
        self.commons = QCheckBox("Share commons")
        self.commons.setToolTip("n switches on n + 1 cores instead of 2 n")
        self.spare = QCheckBox("A spare core in each")
        for box in (self.commons, self.spare):
            box.toggled.connect(self.start)
        self.make = QPushButton("Make them  Enter")
        self.make.setObjectName("main")
        self.make.clicked.connect(self.carry_out)
        self.leave = QPushButton("Leave it  Esc")
        self.leave.clicked.connect(self.drop)
        self.said = PlainLabel()
        self.said.setWordWrap(True)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Planned cables")
        top = QHBoxLayout()
        top.addWidget(self.said, 1)
        for widget in (self.commons, self.spare, self.make, self.leave):
            top.addWidget(widget)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 6, 12, 6)
        column.addLayout(top)
        column.addWidget(self.list)
        self.hide()
        session.machine_changed.connect(self._machine_changed)

    def _options(self) -> "Options":
        from vervain.cabling.selection import Options

        return Options(self.commons.isChecked(), int(self.spare.isChecked()))

    def _machine_changed(self) -> None:
        if self.made_for is not None and self.made_for is not self.session.machine:
            self.drop()

    def start(self) -> None:
        """Works a plan out on a worker."""
        if self.running:
            return
        from vervain.cabling.planner import plan_cables

        machine, options = self.session.machine, self._options()
        parts = tuple(self.parts().values())
        self.running, self._stopped = True, False
        self.changed.emit()
        in_background(
            lambda: plan_cables(machine, parts, options, lambda: not self._stopped),
            lambda plan: self._show(machine, plan),
            self._refused,
        )

    def _refused(self, problem: Problem) -> None:
        self.running = False
        self.session.said.emit(Message(str(problem), is_bad=True))
        self.changed.emit()

    def _show(self, machine: Machine, plan: "CablePlan | None") -> None:
        self.running = False
        if plan is None or self._stopped or machine is not self.session.machine:
            self.changed.emit()
            return
        if not plan.cables and not plan.left:
            self.session.say("Everything that wants a cable has one.")
            self.drop()
            return
        self.plan, self.made_for = plan, machine
        self.list.clear()
        for cable in plan.cables:
            item = QListWidgetItem(f"{_in_words(cable)}\n    {cable.why}")
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        for hookup, why in plan.left:
            found = self.session.queries.hookup(hookup)
            where = f"{found.a.device} to {found.b.device}" if found else hookup
            item = QListWidgetItem(f"{where}: {why}")
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsUserCheckable)
            item.setForeground(looks.colour("bad"))
            self.list.addItem(item)
        count = sum(len(cable.needs) for cable in plan.cables)
        best = "" if plan.exact else " A good division, not proven the best."
        self.said.setText(f"{len(plan.cables)} cables for {count} hookups.{best}")
        self.make.setEnabled(bool(plan.cables))
        rows = min(5, max(2, self.list.count()))
        self.list.setFixedHeight(looks.px(38) * rows)
        self.show()
        if self.list.count():
            self.list.setCurrentRow(0)
        self.list.setFocus()
        self.changed.emit()

    def drop(self) -> None:
        """Leaves the plan."""
        self._stopped = True
        self.plan = self.made_for = None
        self.hide()
        self.changed.emit()

    def wanted(self) -> "tuple[PlannedCable, ...]":
        """The planned cables that are ticked."""
        cables = self.plan.cables if self.plan is not None else ()
        found = []
        for number, cable in enumerate(cables):
            item = self.list.item(number)
            if item is not None and item.checkState() == Qt.CheckState.Checked:
                found.append(cable)
        return tuple(found)

    def carry_out(self) -> None:
        """Makes the cables that are ticked, as one step."""
        from vervain.cabling.apply_plan import accept_cables

        wanted, options = self.wanted(), self._options()
        self.drop()
        if wanted:
            words = f"{count_of(len(wanted), 'cable')} planned"
            self.session.apply(words, lambda machine: accept_cables(machine, wanted, options))

    def say(self, line: StageLine) -> bool:
        """Says what the planner is at, if it is at anything."""
        if self.running:
            line.say("Planning cables …", "Esc stops.")
            return True
        if self.plan is not None:
            line.say("Planned:", "Space ticks a cable, Enter makes those ticked, Esc leaves it.")
            return True
        return False

    def take_key(self, key: int) -> bool:
        """The keys while a plan is shown, or worked out."""
        if self.plan is None and not self.running:
            return False
        if key in ENTER and self.plan is not None:
            self.carry_out()
        elif key == Qt.Key.Key_Escape:
            self.drop()
        else:
            return False
        return True
