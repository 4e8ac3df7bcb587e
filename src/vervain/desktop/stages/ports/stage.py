"""The Ports stage: what matters most in one line, and the boards under it."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QStackedLayout, QVBoxLayout, QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.proposal_list import ProposalList
from vervain.desktop.shared.spoken import Voice
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.ports.board_view import BoardsView
from vervain.desktop.stages.ports.filling import PlacementController
from vervain.desktop.stages.ports.inserting import InsertHand
from vervain.desktop.stages.ports.settings_panel import SettingsPanel
from vervain.desktop.stages.ports.wire_hand import WireHand
from vervain.desktop.stages.ports.wire_panes import InsertOffers, WireAnswers
from vervain.edits.pin_names import written
from vervain.files.shelf import read_shelf
from vervain.ports.joins import way_from


class PortsStage(LedFocus):
    """The stage: its line, and the boards under it."""

    def __init__(
        self,
        session: Session,
        add_device: Callable[[], object],
        open_machine: Callable[[], object],
        open_demo: Callable[[], object],
        type_wire: Callable[[], object],
        parts_folder: Path,
    ) -> None:
        super().__init__()
        self.session = session
        self.line = StageLine()
        self.first_steps = []
        for words, action in (
            ("Add a device  Ctrl+Shift+A", add_device),
            ("Open a machine  Ctrl+O", open_machine),
            ("Open the demo", open_demo),
        ):
            button = self.line.add_button(QPushButton(words))
            button.clicked.connect(lambda _, act=action: act())
            self.first_steps.append(button)
        self.first_steps[0].setObjectName("main")
        self.filler = PlacementController(session)
        self.wires = WireHand(session)
        self.inserter = InsertHand(session, lambda: read_shelf(parts_folder))
        self.view = BoardsView(session, self.filler, self.wires, self.inserter)
        self.fill = self.line.add_button(QPushButton("Fill in the rest  F"))
        self.fill.clicked.connect(self.filler.start)
        self.fill.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.off = self.line.add_button(QPushButton("Take off  Del"))
        self.off.clicked.connect(self.view.carrier.unplug)
        self.pick = self.line.add_button(QPushButton("Pick up  Enter"))
        self.pick.clicked.connect(self.view.carrier.pick_up)
        wires, inserter = self.wires, self.inserter
        self.proposal_list = ProposalList(self.filler)
        self.answers, self.offers = WireAnswers(session, wires), InsertOffers(inserter)
        self.wire = self.line.add_button(QPushButton("Wire from here  J"))
        self.wire.clicked.connect(self.view.take_wire)
        self.put_in = self.line.add_button(QPushButton("Put into it  I"))
        self.put_in.clicked.connect(inserter.start)
        self.series = self.line.add_button(QPushButton("In series here  I"))
        self.series.clicked.connect(wires.put_in_series)
        self.beside = self.line.add_button(QPushButton("Beside it  B"))
        self.beside.clicked.connect(wires.put_beside)
        self.typed = self.line.add_button(QPushButton("Type it  Ctrl+J"))
        self.typed.clicked.connect(type_wire)
        self.view.typing_wanted.connect(type_wire)
        self.of_wires = self.wire, self.put_in, self.series, self.beside, self.typed
        for button in (self.off, self.pick, *self.of_wires):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.line)
        self.sheet = SettingsPanel(session)
        # Without a parent a stack shows its first widget as a window of its own.
        self.body = QStackedLayout()
        column.addLayout(self.body, 1)
        self.body.addWidget(self.view)
        self.body.addWidget(self.sheet)
        self.settings = self.line.add_button(QPushButton("Settings  S"))
        self.settings.setCheckable(True)
        self.settings.toggled.connect(self.show_settings)
        self.sheet.left.connect(lambda: self.settings.setChecked(False))
        self.view.settings_wanted.connect(lambda: self.settings.setChecked(True))
        self.lead_focus_to(self.view)
        self.line.said.connect(Voice(session, self.view).say_line)
        for signal in (session.hand_changed, session.selection_changed, session.checked):
            signal.connect(self.say_what_matters)
        session.machine_changed.connect(self.say_what_matters)
        for work in (self.filler, wires, inserter):
            work.changed.connect(self.say_what_matters)
        self.say_what_matters()

    def panes(self) -> tuple[QWidget, ...]:
        """What the side column shows of what is in hand or proposed."""
        return self.proposal_list, self.answers, self.offers

    def show_settings(self, shown: bool) -> None:
        """Changes between the boards and the settings sheet."""
        page = self.sheet if shown else self.view
        self.body.setCurrentWidget(page)
        self.lead_focus_to(page)
        page.setFocus()
        if not shown:
            self.view.arrange()
        self.say_what_matters()

    def _say_proposal(self) -> None:
        proposal = self.filler.proposal
        if proposal is None:
            self.line.say("Working out where the rest goes …", "Esc stops.")
            return
        wanted = len(self.filler.wanted)
        left = self.filler.left()
        more = f" {left} cannot all be placed: see at the right." if left else ""
        self.line.say(f"{wanted} plugs proposed.", f"Enter puts them in, Esc leaves it.{more}")

    def _show_wire_buttons(self, busy: bool) -> None:
        """The buttons for a wire in hand, or for the pin that is selected."""
        session, carrying = self.session, not self.wires.is_empty
        pin = session.selection.pin_ref
        at_pin = pin is not None and session.in_hand is None and not busy
        at_pin = at_pin and not carrying and not self.inserter.is_open
        self.wire.setVisible(at_pin)
        self.put_in.setVisible(at_pin and pin is not None and bool(session.queries.steps(pin)))
        start = self.wires.start
        is_way = start is not None and way_from(session.queries, start) is not None
        self.series.setVisible(carrying and is_way)
        self.beside.setVisible(carrying and is_way)
        self.typed.setVisible(carrying)
        if at_pin or carrying or self.inserter.is_open:
            for button in (self.pick, self.fill):
                button.hide()
        if carrying or self.inserter.is_open:
            for button in (self.off, self.settings):
                button.hide()

    def _say_wire(self) -> None:
        wires, machine = self.wires, self.session.machine
        assert wires.start is not None
        name = written(machine, wires.start)
        answer = wires.answer_of(wires.target)
        if wires.target is None:
            rest = "Looking where it can go …" if wires.is_ranking else "Arrows or a click aim."
        elif answer is not None and answer.verdict in ("against advice", "cannot be"):
            rest = f"{written(machine, wires.target)}: {wires.words_of(wires.target)}"
        else:
            rest = f"Enter joins it to {written(machine, wires.target)}, arrows try another pin."
        self.line.say(f"{name} in hand.", rest)

    def say_what_matters(self) -> None:
        """The line: what is in hand and what Enter does, else what is wrong first."""
        session = self.session
        hand, target = session.in_hand, session.target
        is_empty = not session.queries.devices()
        for button in self.first_steps:
            button.setVisible(is_empty)
        self.settings.setVisible(not is_empty)
        if self.settings.isChecked():
            for button in (self.off, self.pick, self.fill, *self.of_wires):
                button.hide()
            self.line.say(
                "Settings.", "What to set so that both agree with the wiring; S goes back."
            )
            return
        busy = self.filler.running or self.filler.proposal is not None
        self.pick.setVisible(hand is None and not is_empty and not busy)
        self.off.setVisible(not is_empty and not busy)
        self.fill.setVisible(hand is None and not busy and self.filler.waiting() > 0)
        self._show_wire_buttons(busy)
        if busy:
            self._say_proposal()
            return
        if not self.wires.is_empty:
            self._say_wire()
            return
        if self.inserter.is_open:
            self.line.say(
                f"Into the wire {self.inserter.words()}.",
                "Arrows choose at the right, Enter puts it in, Esc leaves the wire.",
            )
            return
        chosen = session.selection
        self.pick.setEnabled(chosen.device is not None)
        self.off.setEnabled(hand is not None or chosen.port is not None)
        if hand is not None:
            fit = self.view.scene.fits.get(target) if target else None
            where = target.port if target else "a port"
            if fit is None or not fit.pairs:
                reason = fit.reason if fit else ""
                rest = f"{where}: {reason} Arrows try another port, Esc puts it back."
            elif fit.verdict == "does not fit":
                rest = f"{where}: {fit.reason} Enter puts it there all the same."
            elif fit.verdict == "fits with":
                rest = f"Enter puts it into {where} with {fit.needs}; Ctrl+Enter without."
            else:
                rest = f"Enter puts it into {where}, arrows try another port."
            self.line.say(f"{hand.device} in hand.", rest)
            return
        found = session.findings(lambda f: f.stage == "Ports")
        if found and found[0].consequence == "Damage":
            more = f" {len(found)} findings at the right." if len(found) > 1 else ""
            self.line.say("Damage.", found[0].sentence + more)
            return
        to_do = session.result.to_do if session.result is not None else ()
        loose = [f for f in (*found, *to_do) if f.rule == "ports.loose"]
        if loose and not any(f.consequence != "Workmanship" for f in found):
            device = loose[0].subjects[0].device or ""
            more = f" {len(loose)} are in no port." if len(loose) > 1 else ""
            self.line.say(f"{device} is loose.", f"Pick it up in the tray with Enter.{more}")
            return
        if found:
            self.line.say(found[0].consequence + ".", found[0].sentence)
        elif session.queries.devices():
            self.line.say("", "Every device is in its port. Enter picks up what is selected.")
        else:
            self.line.say("An empty machine.")
