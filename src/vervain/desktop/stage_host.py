"""The stages of the window, each built when it is first wanted."""

from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMainWindow, QStackedWidget

from vervain.desktop.background import in_background
from vervain.desktop.bench_worker import BenchWorker
from vervain.desktop.cards.side_column import SideColumn
from vervain.desktop.documents.documents import Documents
from vervain.desktop.exchange import Exchange
from vervain.desktop.message import Message
from vervain.desktop.printing import Printing
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.files.part_files import shipped_shelf
from vervain.files.part_import import TakenPart, keep_taken, parts_to_take, said_of
from vervain.files.shelf import ShelfContents, read_shelf
from vervain.files.writing import write_whole
from vervain.model.part import Part
from vervain.queries.axis_places import Place
from vervain.rules.finding import Stage

# Heights of the upper and lower pane where none were kept.
HARNESS_PANES, SUPPLY_PANES, STOPS_PANES = (350, 280), (360, 250), (420, 160)
# Widths of the list and of the step.
BENCH_PANES = (260, 500)
LATER_MODULES = (
    "machine.stage", "machine.shelf", "leads.stage", "supply.stage", "stops.stage", "harness.stage",
    "bench.stage",
)  # fmt: skip


def load_stages() -> None:
    """Imports the stages that are built when they are first wanted."""
    for name in LATER_MODULES:
        import_module(f"vervain.desktop.stages.{name}")


if TYPE_CHECKING:
    from vervain.desktop.shared.live_links import LiveLinks
    from vervain.desktop.stages.bench.stage import BenchStage
    from vervain.desktop.stages.harness.stage import HarnessStage
    from vervain.desktop.stages.leads.stage import LeadsStage
    from vervain.desktop.stages.machine.describe import DescribePage
    from vervain.desktop.stages.machine.like_page import LikePage
    from vervain.desktop.stages.machine.part_page import PartPlace
    from vervain.desktop.stages.machine.shelf import Shelf
    from vervain.desktop.stages.machine.stage import MachineStage
    from vervain.desktop.stages.stops.stage import StopsStage
    from vervain.desktop.stages.supply.stage import SupplyStage


class StageHost(QMainWindow):
    """Keeps the stages; the window around them is another idea."""

    session: Session
    settings: Settings
    documents: Documents
    exchange: Exchange
    printing: Printing
    bench_worker: BenchWorker
    side: SideColumn
    stack: QStackedWidget
    left_stack: QStackedWidget
    stage: Stage
    shelf: "Shelf"

    # A stage to go to, by its name; a part that is made wants the whole window, or gives it back.
    stage_wanted = pyqtSignal(str)
    room_wanted = pyqtSignal()
    # What is on the shelf, once it was read.
    contents = ShelfContents()

    def shelf_parts(self) -> tuple[Part, ...]:
        """The parts that can be added, one's own among them, once they were read."""
        return self.contents.parts or tuple(shipped_shelf().parts.values())

    @cached_property
    def harness(self) -> "HarnessStage":
        """The Harness stage, built when it is first wanted."""
        from vervain.desktop.stages.harness.stage import HarnessStage

        exchange = self.exchange
        acts = exchange.export, exchange.ask_import, exchange.import_pasted
        stage = HarnessStage(self.session, self.settings, *acts)
        stage.labels_panel.print_wanted.connect(self.printing.print_made)
        stage.split.setSizes(self.settings.lengths("panes/harness", HARNESS_PANES))
        self.stack.addWidget(stage)
        for card in stage.cards:
            self.side.add_below(card)
        return stage

    @cached_property
    def supply(self) -> "SupplyStage":
        """The Supply stage, built when it is first wanted."""
        from vervain.desktop.stages.supply.stage import SupplyStage

        stage = SupplyStage(self.session, self.settings.parts_folder)
        stage.split.setSizes(self.settings.lengths("panes/supply", SUPPLY_PANES))
        self.stack.addWidget(stage)
        for pane in stage.panes():
            self.side.add_above(pane)
        self.side.add_below(stage.plot)
        return stage

    @cached_property
    def leads(self) -> "LeadsStage":
        """The Leads stage, built when it is first wanted."""
        from vervain.desktop.stages.leads.stage import LeadsStage

        stage = LeadsStage(self.session, self.links)
        self.stack.addWidget(stage)
        return stage

    @cached_property
    def stops(self) -> "StopsStage":
        """The Stops stage, built when it is first wanted."""
        from vervain.desktop.stages.stops.stage import StopsStage

        stage = StopsStage(self.session)
        stage.split.setSizes(self.settings.lengths("panes/stops", STOPS_PANES))
        self.stack.addWidget(stage)
        return stage

    @cached_property
    def links(self) -> "LiveLinks":
        """What is connected: controllers, and a meter."""
        from vervain.desktop.shared.live_links import LiveLinks

        return LiveLinks(self.session)

    @cached_property
    def bench(self) -> "BenchStage":
        """The Bench stage, built when it is first wanted."""
        from vervain.desktop.stages.bench.stage import BenchStage

        stage = BenchStage(
            self.session, self.bench_worker, self.links, self.settings, self.exchange.export
        )
        stage.split.setSizes(self.settings.lengths("panes/bench", BENCH_PANES))
        self.stack.addWidget(stage)
        return stage

    @cached_property
    def machine_stage(self) -> "MachineStage":
        """The Machine stage, built when it is first wanted, with its shelf in the left pane."""
        from vervain.desktop.stages.machine.shelf import Shelf
        from vervain.desktop.stages.machine.stage import MachineStage

        documents = self.documents
        stage = MachineStage(
            self.session,
            self.describe_part,
            self.make_like,
            documents.open_template,
            documents.open_demo,
            documents.ask_open,
        )
        self.stack.addWidget(stage)
        self.shelf = Shelf(self.session, stage.hand)
        self.shelf.describe_wanted.connect(self.describe_part)
        self.shelf.like_wanted.connect(self.make_like)
        self.left_stack.addWidget(self.shelf)
        stage.view.wants_part.connect(self.look_for_part)
        self.shelf.left.connect(stage.view.setFocus)
        stage.hand.changed.connect(self._hand_on_lanes)
        stage.page_shown.connect(self.room_wanted)
        self.read_shelf()
        return stage

    def read_shelf(self) -> None:
        """Reads the part shelf on a worker, and tells what was not understood in the user's own."""
        folder = self.settings.parts_folder

        def show(contents: ShelfContents) -> None:
            self.contents = contents
            if "machine_stage" in self.__dict__:
                self.shelf.show_contents(contents)
            self.side.facts.show_shelf(contents)
            for problem in contents.problems:
                self.session.said.emit(Message(problem, is_bad=True, stays=True))

        in_background(lambda: read_shelf(folder), show, self.documents.refuse)

    def look_for_part(self, place: Place) -> None:
        """Shows the parts of the shelf that go to an empty place."""
        self.shelf.show_for(place)
        self.shelf.field.setFocus()

    def _hand_on_lanes(self) -> None:
        """The keyboard follows the hand: to the lanes with a part, back where none is left."""
        hand = self.machine_stage.hand
        if not hand.is_empty and not self.machine_stage.view.hasFocus():
            self.machine_stage.view.setFocus()
        elif hand.is_empty and hand.wanted is None and self.shelf.rows.place is not None:
            self.shelf.show_for(None)

    def describe_part(self) -> None:
        """Opens the description of a new part."""
        self.stage_wanted.emit("Machine")
        self.machine_stage.show_page(self.describing)

    @cached_property
    def describing(self) -> "DescribePage":
        """The page on which a part is described, built when it is first wanted."""
        from vervain.desktop.stages.machine.describe import DescribePage

        return DescribePage(self._part_place())

    def _part_place(self) -> "PartPlace":
        """Where the parts go that are made here."""
        from vervain.desktop.stages.machine.part_page import PartPlace

        return PartPlace(
            session=self.session,
            folder=self.settings.parts_folder,
            shelf=lambda: self.shelf.rows.contents,
            saved=self._part_saved,
            left=lambda: self.machine_stage.show_page(None),
        )

    def make_like(self) -> None:
        """Opens the figures of the selected part, or of the selected device's, for one like it."""
        self.stage_wanted.emit("Machine")
        part, shelf = self._chosen_part(), self.shelf.rows.contents
        if part is None:
            return
        self.making_like.show_part(shelf.part(part.id) or part, part.id in shelf.own_ids)
        self.machine_stage.show_page(self.making_like)

    def _chosen_part(self) -> Part | None:
        """The selected part of the shelf, or of the device; told where there is none."""
        chosen, queries = self.session.selection, self.session.queries
        self.stage_wanted.emit("Machine")
        part = queries.part_of(chosen.device) if chosen.device else None
        part = self.shelf.rows.contents.part(chosen.part) if chosen.part else part
        if part is None:
            self.session.say("Select a part on the shelf first, or a device.")
        return part

    @cached_property
    def making_like(self) -> "LikePage":
        """The page on which a part like another is made, built when it is first wanted."""
        from vervain.desktop.stages.machine.like_page import LikePage

        return LikePage(self._part_place())

    def ask_part_file(self) -> None:
        """Asks for a file, and writes the selected part, or the selected device's, into it."""
        part = self._chosen_part()
        if part is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "The part goes to", f"{part.id}.toml", "Part files (*.toml)"
        )
        if name:
            self.write_part(part, Path(name))

    def write_part(self, part: Part, path: Path) -> None:
        """Writes a part into a file of its own, on a worker."""

        def write() -> None:
            from vervain.files.part_writing import part_text

            write_whole(path, part_text(part).encode("utf-8"))

        told = f"{part.title} is in {path.name}."
        in_background(write, lambda _: self.session.say(told), self.documents.refuse)

    def ask_parts(self) -> None:
        """Asks for a part file, and says what taking it in would do."""
        name, _ = QFileDialog.getOpenFileName(self, "Take in parts", "", "Part files (*.toml)")
        if name:
            self.take_parts_in(Path(name))

    def take_parts_in(self, path: Path) -> None:
        """Reads a part file on a worker, says what would come of it, and takes it in when told."""
        self.stage_wanted.emit("Machine")
        folder = self.settings.parts_folder

        def kept(count: int) -> None:
            self.read_shelf()
            self.shelf.show_own()
            self.session.say(f"{count} parts of {path.name} are among your own.")

        def keep(taken: tuple[TakenPart, ...]) -> None:
            in_background(lambda: keep_taken(taken, folder), kept, self.documents.refuse)

        def ask(taken: tuple[TakenPart, ...]) -> None:
            words = f"{path.name}: {said_of(taken)}."
            if all(item.verdict == "there already" for item in taken):
                self.session.say(words)
                return
            actions = (("Take in", lambda: keep(taken)), ("Leave", lambda: None))
            self.session.said.emit(Message(words, actions=actions, stays=True))

        in_background(lambda: parts_to_take(path, read_shelf(folder)), ask, self.documents.refuse)

    def _part_saved(self, part: Part) -> None:
        if self.machine_stage.page is self.describing:
            self.describing.clear()
        self.machine_stage.show_page(None)
        self.read_shelf()
        self.shelf.show_own()
        if part.revision > 1:
            told = f"version {part.revision}. Machines keep the one they have until you change it"
            self.session.say(f"{part.title} is on the shelf as {told}.")
            return
        self.machine_stage.hand.take_part(part)
        self.machine_stage.leader.setFocus()
        self.session.say(f"{part.title} is among your own parts.")
