"""The Harness stage: the route with its bundles over the harness table with its faces."""

from collections import defaultdict
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.background import in_background
from vervain.desktop.keys_help import HARNESS
from vervain.desktop.message import Message
from vervain.desktop.session import Selection, Session
from vervain.desktop.settings import Settings
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.spoken import Voice
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.harness.cards import LabelCard, LengthCard, PlugCard, SectionCard
from vervain.desktop.stages.harness.face_head import FaceHead
from vervain.desktop.stages.harness.import_panel import ImportPanel
from vervain.desktop.stages.harness.join_line import JoinLine
from vervain.desktop.stages.harness.label_panel import LabelPanel
from vervain.desktop.stages.harness.planner_panel import CablePlanner
from vervain.desktop.stages.harness.route_view import RouteView
from vervain.desktop.stages.harness.sheet_view import SheetView
from vervain.desktop.stages.harness.table_view import FaceTable
from vervain.desktop.stages.harness.table_worker import FACES, TableWorker
from vervain.desktop.theme import looks
from vervain.files.shelf import ShelfContents, read_shelf
from vervain.harness.labels import labels
from vervain.harness.lengths import cable_length
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine, PinRef
from vervain.tables.cut_face import total_cost
from vervain.tables.sheet_face import step_to_do, steps_done
from vervain.text.units import in_length

NOTHING_YET = (
    "No conductor yet.\n\nPut a device into a port on the Ports stage; its leads appear here with "
    "their labels. Or type one below: N."
)
NO_CABLE = "No cable yet.\n\nP plans cables for what is joined; each gets its build sheet here."
NOTHING_PRINTED = (
    "Nothing printed yet.\n\nCtrl+E writes the papers; here stands what an edit made out of date."
)
NOTHING = defaultdict(
    lambda: NOTHING_YET, {"Sheets": NO_CABLE, "Cables": NO_CABLE, "Papers": NOTHING_PRINTED}
)
NOTHING_HOLDS = "No row holds all of these words.\n\nShorten the filter, or clear it."
WORKING = "Working it out …"
WAIT_MS = 60
MOST_SCALE = 1.2


class HarnessStage(LedFocus):
    """The stage: its line, panels that open under it, the route, the table."""

    def __init__(
        self,
        session: Session,
        settings: Settings,
        export: Callable[[str], object],
        take_in: Callable[[], object],
        take_pasted: Callable[[str], object],
    ) -> None:
        super().__init__()
        self.session, self.settings = session, settings
        self._export, self._take_in = export, take_in
        self._shelf: ShelfContents | None = None
        self.keeper = TableWorker(session)
        self.line = StageLine()
        self.route = RouteView(session)
        self.line.said.connect(Voice(session, self.route).say_line)
        self.table = FaceTable(session, self.keeper, settings, self.cable_parts)
        self.planner = CablePlanner(session, self.cable_parts)
        self.importing = ImportPanel(session)
        self.cards: tuple[QWidget, ...] = (
            SectionCard(session), LabelCard(session), LengthCard(session), PlugCard(session),
        )  # fmt: skip
        self.labels_panel = LabelPanel(session, self.chosen_labels)
        self.menu = ContextMenu(session, self.table, HARNESS)
        self.join_line = JoinLine(session, self.table)
        self.join_line.pasted.connect(take_pasted)
        self.join_button = self._button("New wire  N", self.new_wire)
        self.tree_button = self._button("First tree  T", self.propose_tree)
        self.plan_button = self._button("Plan cables  P", self.planner.start)
        self.print_button = self._button("Labels  L", self.toggle_labels)
        self.done_button = self._button("Step done  D", self.table.tick_next)
        self.export_button = self._button("Export  Ctrl+E", self.open_export)
        self.head = FaceHead(FACES, self)
        self.head.chosen.connect(self.show_face)
        self.buttons, self.filter = self.head.buttons, self.head.filter
        self.buttons["Conductors"].setChecked(True)
        self.buttons["Changes"].hide()
        self.head.columns_button.clicked.connect(self.open_columns)
        self.filter.textChanged.connect(self._filter)
        self.filter.returnPressed.connect(self.table.setFocus)
        self.empty = PlainLabel(NOTHING_YET)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setObjectName("faded")
        lower = QWidget()
        column = QVBoxLayout(lower)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.head)
        # Without a parent a stack shows its first widget as a window of its own.
        self.body = QStackedLayout()
        column.addLayout(self.body, 1)
        self.body.addWidget(self.table)
        self.body.addWidget(self.empty)
        column.addWidget(self.join_line)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.sheet = SheetView(session)
        self.upper = QStackedWidget()
        self.upper.addWidget(self.route)
        self.upper.addWidget(self.sheet)
        self.split.addWidget(self.upper)
        self.split.addWidget(lower)
        self.split.setStretchFactor(0, 1)
        self.split.setStretchFactor(1, 1)
        self.split.setChildrenCollapsible(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(self.line)
        outer.addWidget(self.labels_panel)
        outer.addWidget(self.planner)
        outer.addWidget(self.importing)
        outer.addWidget(self.split, 1)
        self.lead_focus_to(self.table)
        self._want_timer = QTimer(self)
        self._want_timer.setSingleShot(True)
        self._want_timer.timeout.connect(self._want)
        session.machine_changed.connect(lambda: self._want_timer.start(WAIT_MS))
        session.checked.connect(self.say_what_matters)
        session.selection_changed.connect(self.say_what_matters)
        self.keeper.changed.connect(self.refresh)
        self.table.arranged.connect(self.refresh)
        self.route.hand_changed.connect(self.say_what_matters)
        self.planner.changed.connect(self.say_what_matters)
        self.refresh()

    # Building.

    def _button(self, words: str, act: Callable[[], object]) -> QPushButton:
        button = self.line.add_button(QPushButton(words))
        button.clicked.connect(lambda: act())
        return button

    def cable_parts(self) -> dict[str, CablePart]:
        """The cable parts to choose from: the machine's own before the shelf's."""
        if self._shelf is None:
            self._shelf = read_shelf(self.settings.parts_folder)
        shelf = {part.id: part for part in self._shelf.cable_parts}
        return {**shelf, **{part.id: part for part in self.session.machine.cable_parts}}

    # What is shown.

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._want()

    def _want(self) -> None:
        if self.isVisible():
            self.keeper.want()

    def show_face(self, name: str) -> None:
        """Goes to another face of the table."""
        self.buttons[name].setChecked(True)
        self.keeper.show(name)

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.table.fit_rows()
        self.table.fit_columns()
        self.route.arrange()
        self.join_line.scale()
        self.head.scale()
        self.refresh()

    def _filter(self, text: str) -> None:
        self.table.faces.set_filter(text)
        self.table.follow_selection()
        self.refresh()

    def refresh(self) -> None:
        """The counts on the tabs, and the table or what stands in its place."""
        for name, button in self.buttons.items():
            kept = self.keeper.faces.get(name)
            button.setText(f"{name}  {kept[1].total}" if kept else name)
        face = self.keeper.face
        shown = len(self.table.faces.rows)
        if face is None:
            self.empty.setText(WORKING)
        else:
            self.empty.setText(NOTHING_HOLDS if face.rows else NOTHING[face.name])
        self._show_upper()
        self.body.setCurrentWidget(self.table if shown and face is not None else self.empty)
        self.head.note.setText("")
        named = face.name if face is not None else "Conductors"
        # Large text leaves no room for a line that is not used.
        wanted = looks.scale <= MOST_SCALE or self.join_line.is_open
        has_pins = bool(self.session.queries.devices())
        self.join_line.setVisible(named == "Conductors" and has_pins and wanted)
        if face is not None and face.name == "Cut list" and self.session.machine.prices:
            cost, unknown = total_cost(face)
            without = f", {unknown} without a price" if unknown else ""
            money = f"{cost:.2f} {self.session.machine.currency}".strip()
            self.head.note.setText(f"{money} in all{without}  ")
        elif face is not None and shown != len(face.rows):
            self.head.note.setText(f"{shown} of {len(face.rows)} rows  ")
        self.head.fit()
        self.say_what_matters()

    def _show_upper(self) -> None:
        """Over the table the route, or the sheet of the cable that is traced."""
        sheets = self.shows_sheets
        self.upper.setCurrentWidget(self.sheet if sheets else self.route)
        self.done_button.setVisible(sheets)
        if sheets:
            self.sheet.show_cable(self.route.traced_cable())

    def say_what_matters(self) -> None:
        """The line: what is in hand, else the worst of the stage, else what the keys do."""
        if self.route.say_hand(self.line) or self.planner.say(self.line):
            return
        self.tree_button.setVisible(not self.session.queries.runs())
        self._show_upper()
        if self.shows_sheets and self._say_making():
            return
        found = self.session.findings(lambda f: f.stage == "Harness")
        queries, chosen = self.session.queries, self.session.selection
        cable = self.route.traced_cable()
        if not (found and found[0].consequence != "Workmanship") and self._say_what_is_first():
            return
        if found and not chosen.run and not chosen.place:
            self.line.say(found[0].sentence, found[0].fixes[0].words if found[0].fixes else "")
        elif chosen.run is not None and queries.run(chosen.run) is not None:
            way = f"W lays {cable} through it or not, " if cable else ""
            words = f"{way}M lets it move or not, D divides it, Del takes it away."
            self.line.say(f"{chosen.run}:", words)
        elif chosen.place is not None and (place := queries.place(chosen.place)) is not None:
            words = "N adds a place beyond it, J joins it to another, H holds the cables there."
            self.line.say(f"{place.name}:", words)
        elif cable is not None:
            length = cable_length(queries, cable)
            known = in_length(length.used_m) if length.used_m is not None else length.missing
            self.line.say(f"{cable}:", f"{known}. Enter in the table changes a cell.")
        else:
            self.line.say("", "Arrows trace a row; Enter changes a cell, in all selected rows.")

    def _say_what_is_first(self) -> bool:
        """What comes before all lengths: places, and cables for what has none; whether any does."""
        session = self.session
        if not session.queries.runs():
            self.line.say("No place yet.", "T proposes a first tree, N makes a place by itself.")
            return True
        to_do = session.result.to_do if session.result is not None else ()
        bare = sum(finding.rule == "harness.no-cable" for finding in to_do)
        if not bare or session.selection.run or session.selection.place:
            return False
        words = f"{bare} plugs have no cable yet." if bare > 1 else "One plug has no cable yet."
        self.line.say(words, "P plans cables for what has none.")
        return True

    def _say_making(self) -> bool:
        """How far the chosen cable is, and all of them; whether there is one."""
        cable, face = self.route.traced_cable(), self.keeper.face
        row = next((row for row in face.rows if row.cable == cable), None) if face else None
        if face is None or row is None:
            return False
        done, of = steps_done(face)
        step = step_to_do(face, row)
        words = f"D: {step}. " if step else "Everything of it is done. "
        self.line.say(f"{cable}:", f"{words}{done} of {of} steps of all cables are done.")
        return True

    # Going to things.

    def go_to_label(self, text: str) -> bool:
        """Selects the conductor that carries a label."""
        wanted = text.strip().casefold()
        for key, entry in labels(self.session.queries).items():
            if wanted in (entry.at_a.casefold(), entry.at_b.casefold()):
                if self.filter.text() and self.table.faces.position_of(key) is None:
                    self.filter.clear()
                self.session.select(Selection(conductor=key))
                return True
        return False

    def chosen_labels(self) -> set[str]:
        """The cables of the rows that are selected, where more than one is."""
        rows = self.table.chosen_rows()
        return {row.cable for row in rows if row.cable} if len(rows) > 1 else set()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event is None:
            return
        acts: dict[int, Callable[[], object]] = {
            Qt.Key.Key_P: self.planner.start,
            Qt.Key.Key_L: self.toggle_labels,
            Qt.Key.Key_C: self.open_columns,
            Qt.Key.Key_N: self.new_wire,
            Qt.Key.Key_T: self.propose_tree,
            Qt.Key.Key_D: self.step_done,
        }
        if event.key() == Qt.Key.Key_Escape and self.labels_panel.isVisible():
            self.labels_panel.hide()
        elif self.planner.take_key(event.key()) or self.importing.take_key(event.key()):
            return
        elif event.key() in acts and not event.modifiers():
            acts[event.key()]()
        else:
            super().keyPressEvent(event)

    def propose_tree(self) -> None:
        """A first tree from the axes, where no run is laid yet; the keyboard goes there."""
        if not self.session.queries.runs():
            self.route.setFocus()
            self.route.hand.propose()

    def new_wire(self, start: PinRef | None = None) -> None:
        """Goes to the line that makes a wire from pin to pin; perhaps from one that is known."""
        self.show_face("Conductors")
        self.join_line.show()
        self.join_line.open(self.cable_parts(), start)
        self.refresh()

    def step_done(self) -> None:
        """Ticks the next step of the selected cables, on the face Sheets."""
        if self.shows_sheets:
            self.table.tick_next()

    @property
    def shows_sheets(self) -> bool:
        """Whether the build sheets are shown."""
        return self.keeper.name == "Sheets"

    def toggle_labels(self) -> None:
        """Opens or closes the panel that prints labels."""
        self.labels_panel.setVisible(not self.labels_panel.isVisible())
        if self.labels_panel.isVisible():
            self.show_face("Labels")
            self.labels_panel.open()

    def open_columns(self) -> None:
        """Lets the builder choose the columns of the face; the choice is kept."""
        face = self.keeper.face
        if face is None:
            return
        menu = QMenu(self)
        chosen = self.table.chosen_columns(face)
        for column in face.columns:
            action = menu.addAction(column.title)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(column.key in chosen)
                action.toggled.connect(
                    lambda shown, key=column.key: self.table.choose_column(key, shown)
                )
        button = self.head.columns_button
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def open_export(self) -> None:
        """Asks for the form of the export, then where to."""
        menu = QMenu(self)
        for form, words in (
            ("pdf", "Harness as PDF: route, sections, every table …"),
            ("sheets", "Build sheets, a page for each cable (PDF) …"),
            ("board", "Loom board at true scale, in sheets to join (PDF) …"),
            ("html", "One page for the phone at the bench (HTML) …"),
            ("xlsx", "Workbook, one sheet a face …"),
            ("csv", "Conductors as CSV …"),
            ("json", "All tables as JSON …"),
            ("orders", "Order lists, one a supplier (CSV) …"),
            ("all", "The whole set into a folder …"),
        ):
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(lambda _, form=form: self._export(form))
        face = self.keeper.face
        action = menu.addAction(f"{face.name} as CSV, as shown …") if face is not None else None
        if action is not None:
            action.triggered.connect(self.ask_face_export)
        menu.addSeparator()
        action = menu.addAction("Take in devices or conductors (CSV, XLSX) …")
        if action is not None:
            action.triggered.connect(lambda: self._take_in())
        action = menu.addAction("Compare with another version …")
        if action is not None:
            action.triggered.connect(self.ask_compare)
        button = self.export_button
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def ask_face_export(self) -> None:
        """Asks where the face that is shown goes to."""
        face = self.keeper.face
        if face is None:
            return
        name, _ = QFileDialog.getSaveFileName(self, face.name, f"{face.name.lower()}.csv", "*.csv")
        if name:
            self.export_face(Path(name))

    def export_face(self, path: Path) -> None:
        """Writes the face that is shown, its rows as filtered and sorted, on a worker."""
        face = self.keeper.face
        if face is None:
            return
        shown = face._replace(rows=tuple(self.table.faces.rows))

        def write() -> None:
            from vervain.exports.formats import csv_bytes
            from vervain.exports.tables import face_table
            from vervain.files.writing import write_whole

            write_whole(path, csv_bytes(face_table(shown)))

        in_background(
            write,
            lambda _: self.session.say(f"{len(shown.rows)} rows are in {path.name}."),
            lambda problem: self.session.said.emit(Message(str(problem), is_bad=True, stays=True)),
        )

    def ask_compare(self) -> None:
        """Asks for another version of the machine, and shows what changed."""
        name, _ = QFileDialog.getOpenFileName(self, "Compare with", "", "*.vervain")
        if name:
            self.compare_with(Path(name))

    def compare_with(self, path: Path) -> None:
        """Reads another version on a worker, and shows what changed since."""
        from vervain.files.machine_file import open_machine

        def show(machine: Machine) -> None:
            self.keeper.compare_with(machine)
            self.buttons["Changes"].show()
            self.show_face("Changes")

        in_background(
            lambda: open_machine(path),
            show,
            lambda problem: self.session.said.emit(Message(str(problem), is_bad=True, stays=True)),
        )
