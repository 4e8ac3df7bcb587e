"""The Ports stage: what matters most in one line, and the boards under it."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QStackedLayout, QVBoxLayout, QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stage_names import home_stage
from vervain.desktop.stages.ports.board_view import BoardsView
from vervain.desktop.stages.ports.filling import PlacementController
from vervain.desktop.stages.ports.settings_panel import SettingsPanel


class PortsStage(QWidget):
    """The stage: its line, and the boards under it."""

    def __init__(
        self,
        session: Session,
        add_device: Callable[[], object],
        open_machine: Callable[[], object],
        open_demo: Callable[[], object],
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
        self.view = BoardsView(session, self.filler)
        self.fill = self.line.add_button(QPushButton("Fill in the rest  F"))
        self.fill.clicked.connect(self.filler.start)
        self.fill.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.off = self.line.add_button(QPushButton("Take off  Del"))
        self.off.clicked.connect(self.view.carrier.unplug)
        self.pick = self.line.add_button(QPushButton("Pick up  Enter"))
        self.pick.clicked.connect(self.view.carrier.pick_up)
        for button in (self.off, self.pick):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.line)
        self.sheet = SettingsPanel(session)
        self.body = QStackedLayout()
        self.body.addWidget(self.view)
        self.body.addWidget(self.sheet)
        column.addLayout(self.body, 1)
        self.settings = self.line.add_button(QPushButton("Settings  S"))
        self.settings.setCheckable(True)
        self.settings.toggled.connect(self.show_settings)
        self.sheet.left.connect(lambda: self.settings.setChecked(False))
        self.view.settings_wanted.connect(lambda: self.settings.setChecked(True))
        self.setFocusProxy(self.view)
        for signal in (session.hand_changed, session.selection_changed, session.checked):
            signal.connect(self.say_what_matters)
        session.machine_changed.connect(self.say_what_matters)
        self.filler.changed.connect(self.say_what_matters)
        self.say_what_matters()

    def show_settings(self, shown: bool) -> None:
        """Changes between the boards and the settings sheet."""
        page = self.sheet if shown else self.view
        self.body.setCurrentWidget(page)
        self.setFocusProxy(page)
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
        left = sum(len(conflict.plugs) for conflict in proposal.conflicts)
        more = f" {left} cannot all be placed: see at the right." if left else ""
        self.line.say(f"{wanted} plugs proposed.", f"Enter puts them in, Esc leaves it.{more}")

    def say_what_matters(self) -> None:
        """The line: what is in hand and what Enter does, else what is wrong first."""
        session = self.session
        hand, target = session.in_hand, session.target
        is_empty = not session.queries.devices()
        for button in self.first_steps:
            button.setVisible(is_empty)
        self.settings.setVisible(not is_empty)
        if self.settings.isChecked():
            for button in (self.off, self.pick, self.fill):
                button.hide()
            self.line.say(
                "Settings.", "What to set so that both agree with the wiring; S goes back."
            )
            return
        busy = self.filler.running or self.filler.proposal is not None
        self.pick.setVisible(hand is None and not is_empty and not busy)
        self.off.setVisible(not is_empty and not busy)
        self.fill.setVisible(hand is None and not busy and self.filler.loose > 0)
        if busy:
            self._say_proposal()
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
        found = session.findings(lambda f: home_stage(f) == "Ports")
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
