"""The Stops stage: does the machine really stop, and what if a wire breaks?"""

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from vervain.desktop.keys_help import STOPS
from vervain.desktop.session import Session
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.plain import ElidedLabel, PlainLabel
from vervain.desktop.shared.spoken import Voice
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.stops.fault_table import FaultTable
from vervain.desktop.stages.stops.limit_rulers import RulerStrip
from vervain.desktop.stages.stops.stop_view import StopsView, Tool
from vervain.desktop.stages.stops.stop_worker import StopFigures, StopWorker
from vervain.desktop.theme import looks
from vervain.stops.faults import is_in
from vervain.stops.simulation import Settled
from vervain.stops.words import demand_words, input_words, names_in_words

WAIT_MS = 60
TOOLS: dict[Tool, str] = {
    "press": "Press  P", "cut": "Cut  C", "short": "Short  S", "unplug": "Unplug  U",
    "weld": "Weld  W",
}  # fmt: skip
MOST_TOLD = 2
NO_CLAIM = "No performance category is claimed."


class StopsStage(LedFocus):
    """The stage: its line with the tools, the strings, what follows in large words, the faults, the
    ends of the axes.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.line = StageLine()
        self.tools = QButtonGroup(self)
        self.buttons: dict[Tool, QPushButton] = {}
        self.worker = StopWorker(session)
        self.view = StopsView(session, self.worker)
        self.menu = ContextMenu(session, self.view, STOPS)
        self.voice = Voice(session, self.view, self._spoken)
        self.line.said.connect(self.voice.say_line)
        self.view.went.connect(self.voice.tell_soon)
        for tool, words in TOOLS.items():
            button = self.line.add_button(QPushButton(words))
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, chosen=tool: self.view.set_tool(chosen))
            self.tools.addButton(button)
            self.buttons[tool] = button
        self.mend = self.line.add_button(QPushButton("Mend  M"))
        self.mend.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.mend.clicked.connect(self.view.mend)
        self.answers = [(PlainLabel(title), ElidedLabel(), ElidedLabel()) for title in (
            "The controller sees", "Motion power", "Noticed",
        )]  # fmt: skip
        self.faults = FaultTable()
        self.faults.chose.connect(self._show_fault)
        self.faults.wants_second.connect(self._second_wanted)
        self.worker.found_second.connect(self._second_found)
        self.rulers = RulerStrip()
        self.split = QSplitter(Qt.Orientation.Vertical)
        upper = QWidget()
        column = QVBoxLayout(upper)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.view, 1)
        self.answer_row = self._answer_row()
        column.addWidget(self.answer_row)
        self.split.addWidget(upper)
        self.split.addWidget(self.faults)
        self.split.setStretchFactor(0, 3)
        self.split.setStretchFactor(1, 2)
        self.split.setChildrenCollapsible(False)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.line)
        whole.addWidget(self.split, 1)
        whole.addWidget(self.rulers)
        self.lead_focus_to(self.view)
        self.view.tried.connect(self._say)
        self.worker.changed.connect(self._figures_changed)
        self._want_timer = QTimer(self)
        self._want_timer.setSingleShot(True)
        self._want_timer.timeout.connect(self._want)
        session.machine_changed.connect(lambda: self._want_timer.start(WAIT_MS))
        session.opened.connect(self._forget)
        self.view.set_tool("press")

    def _answer_row(self) -> QWidget:
        """What follows, in large words: what is seen, what goes, whether it is noticed."""
        row = QWidget()
        row.setObjectName("answers")
        line = QHBoxLayout(row)
        line.setContentsMargins(16, 6, 16, 6)
        line.setSpacing(24)
        for title, words, more in self.answers:
            title.setObjectName("faded")
            more.setObjectName("faded")
            words.setObjectName("answer")
            part = QVBoxLayout()
            part.setSpacing(0)
            for label in (title, words, more):
                part.addWidget(label)
            line.addLayout(part, 1)
        return row

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._want()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        # Where room is scarce, the strings and the faults need it more than what is at each end.
        self.rulers.set_low(self.height() < looks.px(560))

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.view.arrange()
        self._say()

    def _want(self) -> None:
        if self.isVisible():
            self.worker.want()

    def _forget(self) -> None:
        """Another machine was opened: what was tried on the last one goes."""
        self.view.faults, self.view.chosen = [], -1
        self.view.mend()

    def _figures_changed(self) -> None:
        figures = self.worker.figures
        if figures is None:
            return
        # What was cut, shorted or welded stays so while it is still there.
        self.view.faults = [f for f in self.view.faults if is_in(figures.circuit, f)]
        self.view.arrange()
        if self.faults.after.isChecked():
            # What was found after some faults was found on another machine.
            self.faults.after.setChecked(False)
        self.faults.show_rows(figures.rows)
        self.faults.setVisible(bool(figures.circuit.stops))
        self.answer_row.setVisible(bool(figures.circuit.stops))
        self.rulers.show_rows(figures.limits)
        self._say()

    def _show_fault(self, number: int) -> None:
        figures, second = self.worker.figures, self.worker.second
        if second is not None and number < len(second.verdicts):
            self.view.try_faults(*second.first, second.verdicts[number].fault)
        elif figures is not None and number < len(figures.verdicts):
            self.view.try_faults(figures.verdicts[number].fault)

    def _second_wanted(self, is_wanted: bool) -> None:
        figures = self.worker.figures
        if not is_wanted:
            self.worker.leave_second()
            if figures is not None:
                self.faults.show_rows(figures.rows)
            return
        if not self.view.faults:
            self.session.say("Break something first: cut a wire, or choose a fault in the table.")
            self.faults.after.setChecked(False)
            return
        self.faults.show_rows((), "… trying every second fault")
        self.worker.want_second(tuple(self.view.faults))

    def _second_found(self) -> None:
        second = self.worker.second
        if second is not None and self.faults.after.isChecked():
            words = self.view.fault_words()
            self.faults.show_rows(second.rows, ", ".join(words[: len(second.first)]))

    # What is said.

    def _spoken(self) -> str:
        """What is chosen in the picture, and what follows of what was tried."""
        follows = [f"{title.text()}: {words.text()}" for title, words, _ in self.answers
                   if words.text()]  # fmt: skip
        return ". ".join(filter(None, (self.view.chosen_words(), *follows)))

    def _say(self) -> None:
        view, figures, settled = self.view, self.worker.figures, self.view.settled
        self.buttons[view.tool].setChecked(True)
        self.mend.setEnabled(bool(view.faults or view.conditions.pressed))
        if figures is None or settled is None:
            self.line.say("Stops.", NO_CLAIM)
            return
        for button in self.buttons.values():
            button.setEnabled(bool(figures.circuit.stops))
        if not figures.circuit.stops:
            self.line.say("No emergency stop yet.", "Nothing stops this machine but its mains.")
            return
        pressed = sorted(view.conditions.pressed)
        done = [demand_words(figures.circuit, name) for name in pressed]
        broken = view.fault_words()
        done += broken if len(broken) <= MOST_TOLD else [f"{len(broken)} faults"]
        if view.first_wire is not None:
            first = figures.labels.get(view.first_wire, "")
            self.line.say(f"{first} touches …", "Choose the other wire; S or a click.")
        elif done:
            self.line.say(f"{', '.join(done)}.", "M mends and releases everything.")
        else:
            self.line.say("At work.", f"Press, cut, short what you like. {NO_CLAIM}")
        for (_, words, more), (text, told, colour) in zip(
            self.answers, self._answers(figures, settled), strict=True
        ):
            words.setText(text)
            more.setText(told)
            shade = getattr(looks.theme, colour)
            words.setStyleSheet(f"color: {shade}; font-size: {looks.px(17)}px; font-weight: bold;")

    def _answers(
        self, figures: StopFigures, settled: Settled
    ) -> tuple[tuple[str, str, str], tuple[str, str, str], tuple[str, str, str]]:
        """What the controller sees, what becomes of the power, whether it is noticed: each in a
        word, with more about it, and its colour.
        """
        judge, circuit, view = figures.judge, figures.circuit, self.view
        entries = judge.inputs_seen(settled)
        told = [input_words(self.session.queries, entry) for entry in entries]
        if len({entry.pin.device for entry in entries}) == 1:
            # Of one controller its name says nothing.
            told = [words.removeprefix(f"{entries[0].pin.device} ") for words in told]
        reads = any(
            judge.inputs_seen(pressed) != judge.inputs_seen(judge.at_work)
            for pressed in judge.pressed.values()
        )
        if told:
            seen = (told[0], ", ".join(told[1:3]), "ink")
        elif reads:
            closed = any(entry.is_stop for entry in circuit.inputs)
            seen = ("all closed" if closed else "no stop", "the machine may run", "ink")
        else:
            seen = ("nothing", "no input reads a stop", "doubt_text")
        left = judge.names(judge.moves(settled))
        must = judge.names(frozenset(circuit.must_go))
        if not left:
            power = ("gone", names_in_words(must) or "nothing must go", "good")
        elif view.conditions.pressed & set(circuit.stops):
            power = ("stays", f"at {names_in_words(left)}", "bad")
        elif len(left) < len(must):
            gone = tuple(name for name in must if name not in left)
            power = ("partly gone", f"not at {names_in_words(gone)}", "doubt_text")
        else:
            power = ("on", names_in_words(must), "ink")
        if not view.faults:
            return seen, power, ("", "nothing is broken", "faded")
        verdict = judge.verdict(*view.faults)
        noticed = {
            "at once": ("at once", "before the next stop", "good"),
            "at the next stop": ("at the next stop", "which still stops", "doubt_text"),
            "never": ("no", "nothing shows it", "bad" if verdict.stays else "doubt_text"),
        }[verdict.noticed]
        if verdict.stays:
            stops = ", ".join(name for name, _ in verdict.stays)
            noticed = (noticed[0], f"{stops} would not stop {names_in_words(verdict.stays[0][1])}",
                       noticed[2])  # fmt: skip
        return seen, power, noticed
