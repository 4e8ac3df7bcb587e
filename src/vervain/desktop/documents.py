"""Opening, saving, autosaving and exporting, all on a worker; nothing is lost on the way."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QFileDialog, QWidget

from vervain.desktop.background import in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.files.autosave import drop_autosave, keep_unsaved, left_over, write_autosave
from vervain.files.demos import DEMOS, open_demo, open_template
from vervain.files.machine_file import SUFFIX, open_machine, save_machine, write_whole
from vervain.machine.machine import Machine
from vervain.machine.problem import Problem

if TYPE_CHECKING:
    from vervain.files.device_import import Import

AUTOSAVE_MS = 2500


class Documents(QObject):
    """The files of a session."""

    def __init__(
        self, parent: QWidget, session: Session, autosaves: bool, parts_folder: Path
    ) -> None:
        super().__init__(parent)
        self.window_widget, self.parts_folder = parent, parts_folder
        self.session = session
        self.autosaves = autosaves
        self.name_changed: Callable[[], None] = lambda: None
        self.import_read: Callable[[str, Import], None] = lambda _name, _result: None
        self.is_closing = self.is_exporting = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)
        session.machine_changed.connect(self._machine_changed)

    def _machine_changed(self) -> None:
        if not self.session.is_saved:
            self._timer.start()

    def refuse(self, problem: Problem) -> None:
        """Says a problem in the message line."""
        self.session.said.emit(Message(str(problem), is_bad=True, stays=True))

    def new_machine(self) -> None:
        """Starts an empty machine."""
        self.take_machine(Machine(name="New machine"), None)
        self.session.stage_wanted.emit("Machine")

    def take_machine(self, machine: Machine, path: Path | None) -> None:
        """Shows another machine; unsaved changes of the one before are kept."""
        self._timer.stop()
        self._keep_what_is_left()
        self.session.replace_machine(machine, path)

    def _keep_what_is_left(self) -> None:
        """Keeps unsaved changes before another machine takes the window: beside their file, or
        as a file of their own where there is none yet.
        """
        session = self.session
        if session.is_saved or not self.autosaves:
            return
        machine, path = session.machine, session.path
        if path is not None:
            self.autosave()
            return

        def keep() -> Path:
            kept = keep_unsaved(machine)
            drop_autosave(None)
            return kept

        in_background(
            keep,
            lambda kept: session.said.emit(
                Message(f"“{machine.name}” was not saved; it is kept as {kept}.", stays=True)
            ),
            self.refuse,
        )

    def ask_open(self) -> None:
        """Asks for a machine file and opens it."""
        name, _ = QFileDialog.getOpenFileName(
            self.window_widget, "Open a machine", "", f"Machines (*{SUFFIX});;All files (*)"
        )
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Opens a machine file on a worker; changes that a crash left behind are taken up."""

        def read() -> tuple[Machine, Machine | None]:
            return open_machine(path), left_over(path)

        def show(found: tuple[Machine, Machine | None]) -> None:
            machine, kept = found
            self.take_machine(machine, path)
            if kept is not None:
                self.take_up(kept)

        in_background(read, show, self.refuse)

    def take_up(self, kept: Machine) -> None:
        """Takes up unsaved changes from an autosave, as one step that can be undone."""
        self.session.apply("Took up unsaved changes", lambda _: kept)
        self.session.said.emit(
            Message(
                "Unsaved changes from last time were found and taken up.",
                actions=(("Leave them", self.session.undo),),
                stays=True,
            )
        )

    def save(self) -> None:
        """Saves to the machine's file; asks for one where there is none."""
        if self.session.path is None:
            self.ask_save()
        else:
            self.save_to(self.session.path)

    def ask_save(self) -> None:
        """Asks for a file name and saves there."""
        start = str(self.session.path or f"{self.session.machine.name}{SUFFIX}".replace("/", "_"))
        name, _ = QFileDialog.getSaveFileName(
            self.window_widget, "Save the machine", start, f"Machines (*{SUFFIX})"
        )
        if name:
            path = Path(name)
            self.save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def save_to(self, path: Path) -> None:
        """Saves on a worker; the autosave goes once the file is whole."""
        machine, before = self.session.machine, self.session.path

        def write() -> None:
            save_machine(machine, path)
            drop_autosave(path)
            if before is None:
                drop_autosave(None)

        def done(_: object) -> None:
            self.session.path = path
            self.session.saved = machine
            self.name_changed()
            self.session.say(f"Saved to {path.name}.")

        in_background(write, done, self.refuse)

    def export(self, form: str) -> None:
        """Asks where to, and writes the harness there; "all" is the whole set into a folder."""
        if form == "all":
            folder = QFileDialog.getExistingDirectory(self.window_widget, "The set goes to", "")
            if folder:
                self.export_set_to(Path(folder))
            return
        name, _ = QFileDialog.getSaveFileName(
            self.window_widget,
            "Export the harness",
            self._suggested_name(form),
            f"*.{form}",
        )
        if name:
            self.export_to(Path(name), form)

    def _suggested_name(self, form: str) -> str:
        """A file name for an export, beside the machine file."""
        from vervain.files.harness_set import safe_stem

        session = self.session
        folder = session.path.parent if session.path else Path.home()
        return str(folder / f"{safe_stem(session.machine.name)}-harness.{form}")

    def export_to(self, path: Path, form: str) -> None:
        """Writes the harness on a worker."""
        machine = self.session.machine

        def write() -> None:
            from vervain.files.harness_set import harness_bytes

            write_whole(path, harness_bytes(machine, form))

        self.session.say("Exporting …")
        in_background(write, lambda _: self.session.say(f"Exported to {path.name}."), self.refuse)

    def export_set_to(self, folder: Path) -> None:
        """Writes the whole set on a worker, saying what it is at; closing the window stops it."""
        machine = self.session.machine
        said: list[str] = []

        def write() -> int:
            from vervain.files.harness_set import write_set

            def says(name: str) -> bool:
                said.append(name)
                return not self.is_closing

            return len(write_set(machine, folder, says))

        def tell() -> None:
            if said and self.is_exporting:
                self.session.say(f"Writing {said[-1]} …")
                QTimer.singleShot(500, tell)

        def done(count: int) -> None:
            self.is_exporting = False
            self.session.say(f"{count} files are in {folder.name}.")

        def refused(problem: Problem) -> None:
            self.is_exporting = False
            self.refuse(problem)

        self.is_exporting = True
        self.session.say("Writing the set …")
        QTimer.singleShot(500, tell)
        in_background(write, done, refused)

    def ask_import(self) -> None:
        """Asks for a list of devices or conductors, and shows what it would do."""
        name, _ = QFileDialog.getOpenFileName(
            self.window_widget, "Take in devices or conductors", "", "*.csv *.tsv *.txt *.xlsx"
        )
        if name:
            self.import_from(Path(name))

    def import_from(self, path: Path) -> None:
        """Reads a list on a worker, and shows row by row what it would do."""
        machine, folder = self.session.machine, self.parts_folder

        def read() -> "Import":
            from vervain.files.device_import import dry_run, read_sheet
            from vervain.files.shelf import read_shelf

            shelf = read_shelf(folder)
            return dry_run(machine, read_sheet(path), shelf.parts, shelf.cable_parts)

        in_background(read, lambda result: self.import_read(path.name, result), self.refuse)

    def door_cards(self) -> None:
        """Asks for a folder, and writes a door card for every controller there."""
        name = QFileDialog.getExistingDirectory(self.window_widget, "Door cards go to", "")
        if name:
            self.door_cards_to(Path(name))

    def door_cards_to(self, folder: Path) -> None:
        """Writes the door cards into a folder, one after the other between events."""
        from vervain.desktop.door_card import controllers, write_door_card

        machine = self.session.machine
        waiting = list(controllers(machine))
        if not waiting:
            self.session.say("There is no controller to make a door card for.")
            return
        written: list[str] = []

        def next_one() -> None:
            device = waiting.pop(0)
            try:
                written.append(write_door_card(machine, device, folder / f"{device}.pdf").name)
            except Problem as problem:
                self.refuse(problem)
                return
            if waiting:
                QTimer.singleShot(0, next_one)
            else:
                self.session.say(f"Door cards written: {', '.join(written)}.")

        next_one()

    def autosave(self) -> None:
        """Writes the autosave on a worker, if there is anything unsaved."""
        session = self.session
        if session.is_saved or not self.autosaves:
            return
        machine, path = session.machine, session.path
        in_background(lambda: write_autosave(machine, path), lambda _: None, self.refuse)

    def close(self) -> bool:
        """Keeps what was not saved in the autosave; False where even that failed, and is said."""
        self._timer.stop()
        if self.session.is_saved or not self.autosaves:
            return True
        try:
            write_autosave(self.session.machine, self.session.path)
        except Problem as problem:
            self.refuse(problem)
            return False
        return True

    def open_demo(self, key: str = DEMOS[0].key) -> None:
        """Opens a demo, the main one where none is named."""
        self.take_machine(open_demo(key), None)

    def open_template(self, key: str) -> None:
        """Begins a machine from a template: what was there is kept, as when another is opened."""
        template = open_template(key)
        self.take_machine(template, None)
        self.session.say(f"{template.name}: rename it, change it; nothing is joined yet.")
