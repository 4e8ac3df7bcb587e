"""Opening, saving, autosaving and exporting, all on a worker; nothing is lost on the way."""

from collections.abc import Callable
from pathlib import Path

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

AUTOSAVE_MS = 2500


class Documents(QObject):
    """The files of a session."""

    def __init__(self, parent: QWidget, session: Session, autosaves: bool) -> None:
        super().__init__(parent)
        self.window_widget = parent
        self.session = session
        self.autosaves = autosaves
        self.name_changed: Callable[[], None] = lambda: None
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
        """Asks where to, and writes the tables there."""
        name, _ = QFileDialog.getSaveFileName(
            self.window_widget,
            "Export the harness table",
            self._suggested_name(form),
            f"*.{form}",
        )
        if name:
            self.export_to(Path(name), form)

    def _suggested_name(self, form: str) -> str:
        """A file name for an export, beside the machine file."""
        session = self.session
        folder = session.path.parent if session.path else Path.home()
        kept = "".join(c if c.isalnum() or c in "-_ " else "_" for c in session.machine.name)
        return str(folder / f"{kept.strip() or 'machine'}-harness.{form}")

    def export_to(self, path: Path, form: str) -> None:
        """Writes the tables on a worker."""
        machine = self.session.machine

        def write() -> None:
            from vervain.files.export import csv_bytes, table_json, xlsx_bytes
            from vervain.files.tables import all_tables

            tables = all_tables(machine)
            if form == "csv":
                data = csv_bytes(tables[0])
            else:
                data = xlsx_bytes(tables) if form == "xlsx" else table_json(machine, tables)
            write_whole(path, data)

        self.session.say("Exporting …")
        in_background(write, lambda _: self.session.say(f"Exported to {path.name}."), self.refuse)

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
