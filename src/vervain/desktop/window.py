"""The one window: stage rail, tray, stage, side column, trace strip."""

from functools import cached_property, partial
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from vervain.checks.finding import CONSEQUENCES
from vervain.desktop.background import in_background, wait_for_background
from vervain.desktop.checker import Checker
from vervain.desktop.documents import Documents
from vervain.desktop.goals import Goals
from vervain.desktop.keys_help import KEYS
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.desktop.stage_names import STAGES, home_stage
from vervain.desktop.stages.ports import PortsStage
from vervain.desktop.theme import looks, use
from vervain.desktop.widgets.jump import JumpPanel
from vervain.desktop.widgets.message_bar import MessageBar
from vervain.desktop.widgets.panes import SeparatedPane, TopBar
from vervain.desktop.widgets.proposal import ProposalList
from vervain.desktop.widgets.rail import StageRail
from vervain.desktop.widgets.side import SideColumn
from vervain.desktop.widgets.trace_strip import TraceStrip
from vervain.desktop.widgets.tray import Tray
from vervain.files.shelf import ShelfContents, read_shelf
from vervain.harness.lengths import cable_length_m
from vervain.leads.motors import measurable
from vervain.machine.groups import state_of
from vervain.machine.lanes import Place, places_of_axis
from vervain.machine.machine import Machine
from vervain.machine.part import Part
from vervain.power.feeds import feed_pins, sources_of

# A check waits for the painting, which it would slow down.
FIRST_CHECK_MS, CHECK_MS = 60, 60
JUMP_WORDS = (
    "Jump to a device, port, label …   Ctrl+K", "Jump to …   Ctrl+K", "Ctrl+K",
)  # fmt: skip

LATER_MODULES = (
    "stages.machine", "widgets.shelf", "stages.leads", "stages.supply", "stages.harness",
)  # fmt: skip


def load_stages() -> None:
    """Imports the stages that are built when they are first wanted."""
    for name in LATER_MODULES:
        import_module(f"vervain.desktop.{name}")


if TYPE_CHECKING:
    from vervain.desktop.stages.describe import DescribePage
    from vervain.desktop.stages.harness import HarnessStage
    from vervain.desktop.stages.leads import LeadsStage
    from vervain.desktop.stages.machine import MachineStage
    from vervain.desktop.stages.supply import SupplyStage
    from vervain.desktop.widgets.shelf import Shelf
    from vervain.files.device_import import Import


class Window(QMainWindow):
    """The window of one machine."""

    shelf: "Shelf"

    def __init__(
        self, machine: Machine, path: Path | None, settings: Settings, autosaves: bool = True
    ) -> None:
        super().__init__()
        self.settings = settings
        self.session = Session(machine, path)
        self.documents = Documents(self, self.session, autosaves, settings.parts_folder)
        self.documents.import_read = self._show_import
        self.documents.name_changed = self._show_name
        self.goals = Goals(self)
        self.checker = Checker(self)
        self.checker.done.connect(self.session.take_result)
        self._build()
        self._connect()
        self.show_stage("Ports" if machine.devices or machine.axes else "Machine")
        self._show_name()
        # A check waits for the painting, which it would slow down.
        self._check_timer = QTimer(self)
        self._check_timer.setSingleShot(True)
        self._check_timer.timeout.connect(lambda: self.checker.submit(self.session.machine))
        self._check_timer.start(FIRST_CHECK_MS)

    # Building.

    def _build(self) -> None:
        session = self.session
        self.rail = StageRail(STAGES)
        self.name, self.last_step = QLabel(), QPushButton()
        self.name.setTextFormat(Qt.TextFormat.PlainText)
        # A long name gives way instead of pushing over the stages; it is whole in the tip.
        self.name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.name.setObjectName("head")
        self.last_step.setObjectName("flat")
        self.last_step.setStyleSheet("text-align: left; padding: 0;")
        self.last_step.setToolTip("All steps (Ctrl+H)")
        self.jump_button = QPushButton(JUMP_WORDS[0])
        self.jump_button.setStyleSheet("text-align: left;")
        bar = TopBar()
        top = QHBoxLayout(bar)
        top.setContentsMargins(0, 0, 12, 1)
        top.setSpacing(12)
        names = QVBoxLayout()
        names.setSpacing(0)
        names.addStretch(1)
        names.addWidget(self.name)
        names.addWidget(self.last_step)
        names.addStretch(1)
        top.addWidget(self.rail)
        top.addLayout(names, 1)
        top.addWidget(self.jump_button)
        self.tray = Tray(session)
        self.side = SideColumn(session)
        self.strip = TraceStrip(session)
        self.ports = PortsStage(
            session, self.choose_part, self.documents.ask_open, self.documents.open_demo
        )
        self.side.add_proposal(ProposalList(self.ports.filler))
        self.stack = QStackedWidget()
        self.stack.addWidget(self.ports)
        self.left_stack = QStackedWidget()
        self.left_stack.addWidget(self.tray)
        self.left_pane = SeparatedPane(self.left_stack, 230, "right")
        self.right_pane = SeparatedPane(self.side, 290, "left")
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.left_pane)
        middle.addWidget(self.stack, 1)
        middle.addWidget(self.right_pane)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(bar)
        column.addLayout(middle, 1)
        column.addWidget(self.strip)
        self.setCentralWidget(centre)
        self.messages = MessageBar(self)
        self.jump = JumpPanel(
            self, self.goals.everything, "Device, port, label, finding, part to add, action"
        )
        self.history = JumpPanel(self, self.goals.steps, "A step to go back to")
        self.help = self._help_panel()
        self.setMinimumSize(960, 600)
        self._scale()

    def _help_panel(self) -> QFrame:
        panel = QFrame(self)
        panel.setObjectName("popup")
        grid = QGridLayout(panel)
        self.help_text = QLabel()
        self.help_text.setTextFormat(Qt.TextFormat.RichText)
        self.help_text.setWordWrap(True)
        grid.addWidget(self.help_text)
        panel.hide()
        return panel

    def _connect(self) -> None:
        session = self.session
        self.rail.chosen.connect(self.show_stage)
        self.jump_button.clicked.connect(lambda: self.jump.open())
        self.last_step.clicked.connect(lambda: self.history.open())
        self.tray.picked_up.connect(self.take_in_hand)
        self.strip.traced.connect(self.trace_label)
        session.machine_changed.connect(self._machine_changed)
        session.checked.connect(self._show_rail)
        session.checked.connect(self._load_stages)
        session.selection_changed.connect(self._follow_finding)
        session.stage_wanted.connect(self.show_stage)
        session.card_wanted.connect(self.side.facts.take_keyboard)
        session.said.connect(self.messages.show_message)
        for keys, action in (
            *(
                (f"Alt+{number}", partial(self.show_stage, name))
                for number, name in enumerate(STAGES, 1)
            ),
            ("Ctrl+K", lambda: self.jump.open()),
            ("Ctrl+L", self._focus_trace),
            ("Ctrl+Z", session.undo),
            ("Ctrl+Shift+Z", session.redo),
            ("Ctrl+Y", session.redo),
            ("Ctrl+H", lambda: self.history.open()),
            ("Ctrl+O", self.documents.ask_open),
            ("Ctrl+N", self.documents.new_machine),
            ("Ctrl+Shift+A", self.choose_part),
            ("Ctrl+S", self.documents.save),
            ("Ctrl+Shift+S", self.documents.ask_save),
            ("Ctrl+E", self.open_export),
            ("Ctrl+F", self._focus_filter),
            ("Ctrl++", lambda: self.set_scale(looks.scale + 0.1)),
            ("Ctrl+=", lambda: self.set_scale(looks.scale + 0.1)),
            ("Ctrl+-", lambda: self.set_scale(looks.scale - 0.1)),
            ("Alt+Return", self.do_fix),
            ("F6", self.next_pane),
            ("F1", self.explain),
        ):
            QShortcut(QKeySequence(keys), self).activated.connect(lambda do=action: do())
        self.installEventFilter(self)

    # What is shown.

    @cached_property
    def harness(self) -> "HarnessStage":
        """The Harness stage, built when it is first wanted."""
        from vervain.desktop.stages.harness import HarnessStage

        documents = self.documents
        stage = HarnessStage(self.session, self.settings, documents.export, documents.ask_import)
        self.stack.addWidget(stage)
        for card in stage.cards:
            self.side.add_below(card)
        return stage

    @cached_property
    def supply(self) -> "SupplyStage":
        """The Supply stage, built when it is first wanted."""
        from vervain.desktop.stages.supply import SupplyStage

        stage = SupplyStage(self.session)
        self.stack.addWidget(stage)
        self.side.add_below(stage.plot)
        return stage

    @cached_property
    def leads(self) -> "LeadsStage":
        """The Leads stage, built when it is first wanted."""
        from vervain.desktop.stages.leads import LeadsStage

        stage = LeadsStage(self.session)
        self.stack.addWidget(stage)
        return stage

    @cached_property
    def machine_stage(self) -> "MachineStage":
        """The Machine stage, built when it is first wanted, with its shelf in the left pane."""
        from vervain.desktop.stages.machine import MachineStage
        from vervain.desktop.widgets.shelf import Shelf

        documents = self.documents
        stage = MachineStage(
            self.session,
            self.describe_part,
            documents.open_template,
            documents.open_demo,
            documents.ask_open,
        )
        self.stack.addWidget(stage)
        self.shelf = Shelf(self.session, stage.hand)
        self.shelf.describe_wanted.connect(self.describe_part)
        self.left_stack.addWidget(self.shelf)
        stage.view.wants_part.connect(self.look_for_part)
        stage.hand.changed.connect(self._hand_on_lanes)
        self.read_shelf()
        return stage

    def read_shelf(self) -> None:
        """Reads the part shelf on a worker, and tells what was not understood in the user's own."""
        folder = self.settings.parts_folder

        def show(contents: ShelfContents) -> None:
            self.shelf.show_contents(contents)
            self.side.facts.show_shelf(contents)
            for problem in contents.problems:
                self.session.said.emit(Message(problem, is_bad=True, stays=True))

        in_background(lambda: read_shelf(folder), show, self.documents.refuse)

    def look_for_part(self, place: Place) -> None:
        """Shows the parts of the shelf that go to an empty place."""
        self.shelf.show_for(place)
        self.shelf.setFocus()

    def _hand_on_lanes(self) -> None:
        """The keyboard follows the hand: to the lanes with a part, back where none is left."""
        hand = self.machine_stage.hand
        if not hand.is_empty and not self.machine_stage.view.hasFocus():
            self.machine_stage.view.setFocus()
        elif hand.is_empty and hand.wanted is None and self.shelf.rows.place is not None:
            self.shelf.show_for(None)

    def describe_part(self) -> None:
        """Opens the description of a new part."""
        self.show_stage("Machine")
        self.machine_stage.show_page(self.describing)

    @cached_property
    def describing(self) -> "DescribePage":
        """The page on which a part is described, built when it is first wanted."""
        from vervain.desktop.stages.describe import DescribePage

        stage = self.machine_stage
        return DescribePage(
            self.session,
            self.settings.parts_folder,
            lambda: self.shelf.rows.contents,
            self._part_saved,
            lambda: stage.show_page(None),
        )

    def _part_saved(self, part: Part) -> None:
        self.describing.clear()
        self.machine_stage.show_page(None)
        self.read_shelf()
        self.shelf.show_own()
        version = f", version {part.revision}" if part.revision > 1 else ""
        self.session.say(
            f"{part.title}{version} is among your own parts, at the foot of the shelf."
        )

    def _load_stages(self) -> None:
        """Imports what the other stages need on a worker, so that going there does not wait."""
        self.session.checked.disconnect(self._load_stages)
        in_background(load_stages, lambda _: None, self.documents.refuse)

    def show_stage(self, name: str) -> None:
        """Goes to a stage."""
        stages = {"Leads": "leads", "Ports": "ports", "Supply": "supply", "Harness": "harness"}
        self.stack.setCurrentWidget(getattr(self, stages.get(name, "machine_stage")))
        self.left_stack.setCurrentWidget(self.shelf if name == "Machine" else self.tray)
        self.stage = name
        self.side.findings.stage = name
        self.side.findings.refresh()
        self._show_rail()
        self.stack.currentWidget().setFocus()

    def _machine_changed(self) -> None:
        self._check_timer.start(CHECK_MS)
        self._show_name()

    def _show_name(self) -> None:
        session = self.session
        machine = session.machine
        state = f"  {machine.state}" if machine.state else ""
        mark = "" if session.is_saved else "  · not saved"
        self.name.setText(f"{machine.name}{state}{mark}")
        self.name.setToolTip(machine.name)
        words = session.steps[session.at].words if session.at else "Nothing changed yet"
        shown = words if len(words) < 44 else words[:43] + "…"
        self.last_step.setText(f"{shown}   Ctrl+Z" if session.at else shown)
        self.setWindowTitle(f"{machine.name}{state} – Vervain")

    def _show_rail(self) -> None:
        counts: dict[str, tuple[int, str]] = {}
        for finding in self.session.findings():
            stage = home_stage(finding)
            number, worst = counts.get(stage, (0, finding.consequence))
            first = min(CONSEQUENCES.index(worst), CONSEQUENCES.index(finding.consequence))
            counts[stage] = number + 1, CONSEQUENCES[first]
        self.rail.show_state(self.stage, counts, self._settled())

    def _settled(self) -> dict[str, float]:
        look = self.session.look
        names = look.devices()
        wired = sum(state_of(look, name) == "wired" for name in names)
        cables = look.cables()
        known = sum(cable_length_m(look, name) is not None for name in cables)
        motors = [device for name in measurable(look) if (device := look.device(name))]
        measured = sum(bool(device.coils) for device in motors)
        axes = [axis for name in look.axes() if (axis := look.axis(name))]
        roles = [place for axis in axes for place in places_of_axis(axis)]
        filled = sum(place.device is not None for place in roles)
        return {
            "Machine": filled / len(roles) if roles else 0.0,
            "Leads": measured / len(motors) if motors else 0.0,
            "Ports": wired / len(names) if names else 0.0,
            "Supply": self._fed(names),
            "Harness": known / len(cables) if cables else 0.0,
        }

    def _fed(self, names: tuple[str, ...]) -> float:
        """The part of the feeds that lead to a supply."""
        look = self.session.look
        feeds = [pin for name in names for pin in feed_pins(look, name)]
        return sum(bool(sources_of(look, pin)) for pin in feeds) / len(feeds) if feeds else 0.0

    def _follow_finding(self) -> None:
        key = self.session.selection.finding
        for finding in self.session.findings():
            if finding.key == key:
                wanted = home_stage(finding)
                if wanted in STAGES and wanted != self.stage:
                    self.show_stage(wanted)

    def _scale(self) -> None:
        self.left_pane.scale()
        self.right_pane.scale()
        self.strip.left.setFixedWidth(self.left_pane.width())
        self.strip.setFixedHeight(looks.px(88))
        self.rail.updateGeometry()
        self.rail.setFixedSize(self.rail.sizeHint())
        self._fit_jump()
        self.tray.list.refresh()
        self.ports.view.arrange()
        self.ports.say_what_matters()
        for built in ("leads", "harness", "machine_stage"):
            if built in self.__dict__:
                self.__dict__[built].scale()

    def set_scale(self, scale: float) -> None:
        """Sets the text scale, 80 to 200 %."""
        scale = max(0.8, min(2.0, round(scale, 2)))
        use(looks.theme, scale)
        self.settings.keep_scale(scale)
        self._scale()

    def set_theme(self, name: str) -> None:
        """Sets the theme: paper, night, or as the desktop."""
        self.settings.keep_theme(name)
        use(self.settings.theme(), looks.scale)
        self._scale()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_jump()
        self.messages.place()

    def _fit_jump(self) -> None:
        """The jump button with as many words as the names beside it leave room for."""
        room = self.width() - self.rail.width() - looks.px(210)
        for words in JUMP_WORDS:
            self.jump_button.setText(words)
            wanted = self.jump_button.sizeHint().width()
            if wanted <= room:
                break
        self.jump_button.setFixedWidth(wanted)

    # Keys and gestures.

    def take_in_hand(self, designator: str) -> None:
        """Takes a device's plug in hand on the Ports stage, the device itself on Harness."""
        if self.stage == "Harness":
            self.harness.route.setFocus()
            self.harness.route.hand.take_device(designator)
            return
        self.show_stage("Ports")
        self.ports.view.carrier.take(designator)
        self.ports.view.setFocus()

    def do_fix(self) -> None:
        """Does the fix of the open finding."""
        card = self.side.findings.open_card()
        if card is not None:
            card.do_fix()

    def next_pane(self) -> None:
        """Moves the keyboard to the next pane."""
        left = self.shelf if self.stage == "Machine" else self.tray.list
        panes = (self.rail, left, self.stack.currentWidget(), self.side, self.strip.field)
        focus = self.focusWidget()
        at = (
            next(
                (n for n, pane in enumerate(panes) if pane is focus or pane.isAncestorOf(focus)), -1
            )
            if focus is not None
            else -1
        )
        following = panes[(at + 1) % len(panes)]
        if following is self.side and self.side.findings.cards:
            self.side.findings.cards[0].setFocus()
        else:
            following.setFocus()

    def _focus_trace(self) -> None:
        self.strip.field.setFocus()
        self.strip.field.selectAll()

    def _focus_filter(self) -> None:
        fields = {"Harness": lambda: self.harness.filter, "Machine": lambda: self.shelf.field}
        field = fields.get(self.stage, lambda: self.tray.field)()
        field.setFocus()
        field.selectAll()

    def open_export(self) -> None:
        """Opens the choice of exports on the Harness stage."""
        self.show_stage("Harness")
        self.harness.open_export()

    def explain(self) -> None:
        """Explains what is selected, and the keys."""
        if self.help.isVisible():
            self.help.hide()
            return
        ref = self.session.selection.port_ref
        first = f"<b>{self.ports.view.port_words(ref)}</b><br><br>" if ref else ""
        self.help_text.setText(first + KEYS)
        width = looks.px(560)
        self.help.setFixedWidth(width)
        self.help.adjustSize()
        self.help.move((self.width() - width) // 2, looks.px(90))
        self.help.show()
        self.help.raise_()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.MouseButtonPress:
            self.help.hide()
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.help.hide()
            self.jump.hide()
            self.history.hide()
        super().keyPressEvent(event)

    def trace_label(self, text: str) -> None:
        """Selects the conductor with a label, or says that there is none."""
        if not text.strip():
            return
        if not self.harness.go_to_label(text):
            self.session.say(f"No conductor carries the label “{text.strip()}”.")

    def _show_import(self, name: str, result: "Import") -> None:
        """Shows what a list would do, on the Harness stage."""
        self.show_stage("Harness")
        self.harness.importing.show_result(name, result)

    def choose_part(self) -> None:
        """Opens Jump at the parts that can be added."""
        self.jump.open("Add ")

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Closes without asking: what was not saved is kept in the autosave."""
        self.documents.is_closing = True
        if not self.documents.close():
            self.documents.is_closing = False
            if event is not None:
                event.ignore()
            return
        self._check_timer.stop()
        self.checker.stop()
        wait_for_background()
        super().closeEvent(event)
