"""The one window: stage rail, tray, stage, side column, trace strip."""

from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, QUrl, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QDesktopServices,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.appearance import Appearance
from vervain.desktop.background import PATIENCE_S, in_background, wait_for_background
from vervain.desktop.bench_worker import BenchWorker
from vervain.desktop.cards.side_column import SideColumn
from vervain.desktop.checker import Checker
from vervain.desktop.commands import Goals
from vervain.desktop.documents.documents import Documents
from vervain.desktop.exchange import Exchange
from vervain.desktop.file_drop import FileDrop
from vervain.desktop.interface_first import OPENING_S, claim, settled
from vervain.desktop.machine_menu import MachineMenu
from vervain.desktop.printing import Printing
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.desktop.shared.head import Head
from vervain.desktop.shared.help_panel import HelpPanel
from vervain.desktop.shared.jump import JumpPanel
from vervain.desktop.shared.message_bar import MessageBar
from vervain.desktop.shared.panes import SeparatedPane
from vervain.desktop.shared.rail import counted
from vervain.desktop.shared.trace_strip import TraceStrip
from vervain.desktop.shared.tray import Tray
from vervain.desktop.stage_host import StageHost, load_stages
from vervain.desktop.stages.ports.stage import PortsStage
from vervain.desktop.theme import looks
from vervain.desktop.window_keys import WindowKeys
from vervain.files.autosave import LeftOver
from vervain.files.reading import FileStamp
from vervain.model.machine import Machine
from vervain.rules.finding import STAGES, Stage
from vervain.tables.progress import settled_fractions

# A check waits for the painting, which it would slow down.
FIRST_CHECK_MS, CHECK_MS = 60, 60
if TYPE_CHECKING:
    from vervain.desktop.documents.versions_panel import VersionsPanel
    from vervain.desktop.guide_panel import GuidePanel
    from vervain.files.lists import Import


class Window(StageHost):
    """The window of one machine."""

    closing = pyqtSignal()

    def __init__(
        self,
        machine: Machine,
        path: Path | None,
        settings: Settings,
        autosaves: bool = True,
        stamp: FileStamp | None = None,
    ) -> None:
        super().__init__()
        self.stage_wanted.connect(self.show_stage)
        self.room_wanted.connect(self.give_room)
        self.settings = settings
        self.session = Session(machine, path)
        self.documents = Documents(self, self.session, settings, autosaves, stamp)
        self.appearance = Appearance(settings, self.session, self._scale)
        self.exchange = Exchange(
            self,
            self.session,
            settings.parts_folder,
            self.documents.refuse,
            lambda: self.documents.is_closing,
        )
        self.exchange.import_read = self._show_import
        self.printing = Printing(self.exchange)
        self.documents.compare_wanted = self.compare_with
        self.documents.unsaved.look_wanted = self.look_at
        self.documents.name_changed = self._show_name
        self.goals = Goals(self)
        self.check = Checker(self.session)
        self.bench_worker = BenchWorker(self.session)
        self._build()
        self._connect()
        self.show_stage("Ports" if machine.devices or machine.axes else "Machine")
        self._show_name()
        # A check waits for the painting, which it would slow down.
        self._check_timer = QTimer(self)
        self._check_timer.setSingleShot(True)
        self._check_timer.timeout.connect(lambda: self.check.ask(self.session.machine))
        self._check_timer.start(FIRST_CHECK_MS)

    # Building.

    def _build(self) -> None:
        session = self.session
        self.head = Head(STAGES)
        self.tray = Tray(session, self.bench_worker)
        self.side = SideColumn(session)
        self.strip = TraceStrip(session)
        self.ports = PortsStage(
            session,
            self.choose_part,
            self.documents.ask_open,
            self.documents.open_demo,
            self.type_wire,
            self.settings.parts_folder,
        )
        for pane in self.ports.panes():
            self.side.add_above(pane)
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
        column.addWidget(self.head)
        column.addLayout(middle, 1)
        column.addWidget(self.strip)
        self.setCentralWidget(centre)
        self.messages = MessageBar(self)
        self.jump = JumpPanel(
            self, self.goals.everything, "Device, port, label, finding, part to add, action"
        )
        self.history = JumpPanel(self, self.goals.steps, "A step to go back to")
        self.help = HelpPanel(self, session)
        self.all_keys = JumpPanel(self, self.goals.keys, "A key, or what you want to do")
        self.keys = WindowKeys(self, self.head, self.tray, self.strip)
        self.menu = MachineMenu(self, self.goals, self.head, self.settings)
        self.setAcceptDrops(True)
        self.drop = FileDrop(
            self.exchange.import_from, self.take_parts_in, self.documents.open_path
        )
        self.setMinimumSize(960, 600)
        self._scale()

    def _connect(self) -> None:
        session = self.session
        self.head.rail.chosen.connect(self.show_stage)
        self.head.jump_button.clicked.connect(lambda: self.jump.open())
        self.head.last_step.clicked.connect(lambda: self.history.open())
        self.tray.picked_up.connect(self.take_in_hand)
        self.strip.traced.connect(self.trace_label)
        session.machine_changed.connect(self._machine_changed)
        session.checked.connect(self._show_rail)
        self.bench_worker.changed.connect(self._show_rail)
        session.checked.connect(self._load_stages)
        session.selection_changed.connect(self._follow_finding)
        session.stage_wanted.connect(self.show_stage)
        session.card_wanted.connect(self.side.facts.take_keyboard)
        session.fact_wanted.connect(self.side.facts.take_keyboard)
        session.said.connect(self.messages.show_message)
        stages = enumerate(STAGES, 1)
        self.keys.bind((
            *((f"Alt+{number}", partial(self.show_stage, name)) for number, name in stages),
            ("Ctrl+K", lambda: self.jump.open()),
            ("Ctrl+J", self.type_wire),
            ("Ctrl+Z", session.undo),
            ("Ctrl+Shift+Z", session.redo),
            ("Ctrl+Y", session.redo),
            ("Ctrl+H", lambda: self.history.open()),
            ("Ctrl+Shift+H", self.open_versions),
            ("Ctrl+O", self.documents.ask_open),
            ("Ctrl+N", self.documents.new_machine),
            ("Ctrl+Shift+A", self.choose_part),
            ("Ctrl+S", self.documents.save),
            ("Ctrl+Shift+S", self.documents.ask_save),
            ("Ctrl+E", self.open_export),
            ("Ctrl+P", lambda: self.printing.open_below(self.head.name)),
            ("Ctrl++", partial(self.appearance.make_larger, 0.1)),
            ("Ctrl+=", partial(self.appearance.make_larger, 0.1)),
            ("Ctrl+-", partial(self.appearance.make_larger, -0.1)),
            ("Alt+Return", self.do_fix),
            ("F2", self.menu.rename),
            ("Alt+M", self.menu.open),
            ("F1", self.explain),
            ("Shift+F1", self.open_guide),
        ))  # fmt: skip
        self.installEventFilter(self)

    # What is shown.

    @cached_property
    def versions(self) -> "VersionsPanel":
        """The versions of the file and unsaved work, built when they are first wanted."""
        from vervain.desktop.documents.versions_panel import VersionsPanel

        return VersionsPanel(self, self.session, self.documents, self.settings, self.compare_with)

    def type_wire(self) -> None:
        """Goes to the line where a wire is typed, from the pin that is in hand or selected."""
        start = self.ports.wires.start
        self.ports.wires.take(None)
        self.show_stage("Harness")
        self.harness.new_wire(start)

    def open_versions(self) -> None:
        """Shows the versions of the file."""
        self.versions.open()

    def look_at(self, kept: LeftOver) -> None:
        """Shows what unsaved work that was found holds."""
        self.versions.look_at(kept)

    def compare_with(self, path: Path) -> None:
        """Shows on Harness what differs from another version of the machine."""
        self.show_stage("Harness")
        self.harness.compare_with(path)

    def _load_stages(self) -> None:
        """Imports what the other stages need on a worker, so that going there does not wait."""
        self.session.checked.disconnect(self._load_stages)
        in_background(load_stages, lambda _: None, self.documents.refuse)
        if not self.contents.parts:
            self.read_shelf()

    def show_stage(self, name: Stage) -> None:
        """Goes to a stage."""
        claim(OPENING_S)
        stages = {
            "Leads": "leads", "Ports": "ports", "Supply": "supply", "Stops": "stops",
            "Harness": "harness", "Bench": "bench",
        }  # fmt: skip
        self.stack.setCurrentWidget(getattr(self, stages.get(name, "machine_stage")))
        self.left_stack.setCurrentWidget(self.shelf if name == "Machine" else self.tray)
        self.stage = name
        self.bench_worker.is_shown = name == "Bench"
        self.side.findings.stage = name
        self.side.findings.refresh()
        self.side.facts.show_for(name)
        self.give_room()
        self._show_rail()
        shown = self.stack.currentWidget()
        if shown is not None:
            shown.setFocus()
        settled()

    def give_room(self) -> None:
        """A part that is made has the whole window: what is told of the machine makes way."""
        making = self.stage == "Machine" and self.machine_stage.page is not None
        for pane in (self.left_pane, self.right_pane, self.strip):
            pane.setVisible(not making)

    def _machine_changed(self) -> None:
        self._check_timer.start(CHECK_MS)
        self._show_name()

    def _show_name(self) -> None:
        self.setWindowTitle(self.head.show_session(self.session))

    def _show_rail(self) -> None:
        settled = settled_fractions(self.session.queries)
        settled["Bench"] = self.bench_worker.fraction
        self.head.rail.show_state(self.stage, counted(self.session.findings()), settled)

    def _follow_finding(self) -> None:
        for finding in self.session.chosen_findings():
            if finding.stage in STAGES and finding.stage != self.stage:
                self.show_stage(finding.stage)

    def _scale(self) -> None:
        self.left_pane.scale()
        self.right_pane.scale()
        self.strip.left.setFixedWidth(self.left_pane.width())
        self.strip.setFixedHeight(looks.px(88))
        self.head.scale()
        self.head.fit(self.width())
        self.tray.list.refresh()
        self.ports.view.arrange()
        self.ports.say_what_matters()
        for built in ("leads", "harness", "stops", "bench", "machine_stage"):
            if built in self.__dict__:
                self.__dict__[built].scale()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.head.fit(self.width())
        self.messages.place()

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

    def open_export(self) -> None:
        """Opens the choice of exports on the Harness stage."""
        self.show_stage("Harness")
        self.harness.open_export()

    def explain(self) -> None:
        """Explains what is under the mouse, else what is selected; again: every key."""
        if self.help.isVisible():
            self.help.hide()
            self.all_keys.open()
            return
        view, more = self.ports.view, ""
        if self.stage == "Ports":
            view.select_under_mouse()
            ref = self.session.selection.port_ref
            more = view.port_words(ref) if ref is not None else ""
        self.help.explain(self.keys.area(), more)

    @cached_property
    def guide(self) -> "GuidePanel":
        """The guide to a stage, built when it is first wanted."""
        from vervain.desktop.guide_panel import GuidePanel

        return GuidePanel(self)

    def open_guide(self) -> None:
        """Shows the guide to the stage."""
        self.help.hide()
        self.guide.open(self.stage)

    def tell_about(self) -> None:
        """Says what the program is, and under which licences."""
        from vervain.desktop import about

        self.help.tell(f"Vervain {about.version()}".strip(), about.LINES, about.packages())

    def open_own_folder(self) -> None:
        """Opens the builder's own folder of parts and tables in the desktop's file manager."""
        folder = self.settings.parts_folder.parent
        folder.mkdir(parents=True, exist_ok=True)
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(folder))):
            self.session.say(f"Parts lie in {folder / 'parts'}, tables in {folder / 'tables'}.")

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.MouseButtonPress:
            self.help.hide()
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.help.hide()
            if "versions" in self.__dict__:
                self.versions.hide()
            for panel in (self.jump, self.history, self.all_keys):
                panel.hide()
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

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None:
            self.drop.enter(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is not None:
            self.drop.take(event)

    def event(self, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.UpdateRequest:
            # All that is to be painted comes now.
            claim()
        return super().event(event)

    def changeEvent(self, event: QEvent | None) -> None:
        """Coming back to the window looks whether the file was changed meanwhile."""
        super().changeEvent(event)
        is_activation = event is not None and event.type() == QEvent.Type.ActivationChange
        if is_activation and self.isActiveWindow():
            self.documents.watch.look()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Closes without asking: what was not saved is kept in the autosave."""
        self.documents.is_closing = True
        if not self.documents.close():
            self.documents.is_closing = False
            if event is not None:
                event.ignore()
            return
        self.closing.emit()
        if "links" in self.__dict__:
            self.links.close()
        self._check_timer.stop()
        self.session.analysis.stop()
        # What only reads or computes may go on as it likes: nothing keeps the window open.
        wait_for_background(PATIENCE_S)
        super().closeEvent(event)
