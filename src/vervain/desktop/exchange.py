"""What goes out of a machine and comes into it as other files: exports, lists, door cards."""

import logging
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QFileDialog, QWidget

from vervain.desktop.background import in_background
from vervain.desktop.session import Session
from vervain.files.writing import write_whole
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

if TYPE_CHECKING:
    from vervain.files.lists import Import, Sheet
    from vervain.model.machine import Paper

log = logging.getLogger("vervain")


class Exchange(QObject):
    """Exports of a session's machine, and lists that are taken in; each on a worker."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        parts_folder: Path,
        refuse: Callable[[Problem], object],
        is_closing: Callable[[], bool],
    ) -> None:
        super().__init__(parent)
        self.parent_widget, self.session, self.parts_folder = parent, session, parts_folder
        self.refuse, self.is_closing = refuse, is_closing
        self.import_read: Callable[[str, Import], None] = lambda _name, _result: None
        self.is_exporting = False

    def export(self, form: str) -> None:
        """Asks where to, and writes the harness there; "all" is the whole set into a folder."""
        if form == "all":
            folder = QFileDialog.getExistingDirectory(self.parent_widget, "The set goes to", "")
            if folder:
                self.export_set_to(Path(folder))
            return
        if form == "orders":
            folder = QFileDialog.getExistingDirectory(self.parent_widget, "Order lists go to", "")
            if folder:
                self.order_lists_to(Path(folder))
            return
        name, _ = QFileDialog.getSaveFileName(
            self.parent_widget,
            "Export the harness",
            self._suggested_name(form),
            f"*{Path(self._suggested_name(form)).suffix}",
        )
        if name:
            self.export_to(Path(name), form)

    def _suggested_name(self, form: str) -> str:
        """A file name for an export, beside the machine file."""
        from vervain.exports.bench_set import ENDINGS, paper_stem

        session = self.session
        folder = session.path.parent if session.path else Path.home()
        ending = ENDINGS.get(form, f"harness.{form}")
        return str(folder / f"{paper_stem(session.machine)}-{ending}")

    def export_to(self, path: Path, form: str) -> None:
        """Writes the harness on a worker."""
        self.session.say("Exporting …")
        self.write_paper(form, partial(write_whole, path), path.name)

    def write_paper(
        self,
        form: str,
        write_out: Callable[[bytes], object],
        where: str,
        paper: str = "a4",
        did: str = "Exported",
    ) -> None:
        """Makes a form of the harness on a worker and hands it on; what it did, and where to, is
        said then.
        """
        machine = self.session.machine

        def write() -> "tuple[Paper, ...]":
            from vervain.exports.as_printed import papers_of
            from vervain.exports.bench_set import ENDINGS, harness_bytes
            from vervain.exports.tables import all_tables

            began = time.monotonic()
            known = Queries(machine)
            tables = all_tables(machine, known) if form not in ENDINGS else ()
            write_out(harness_bytes(machine, form, tables, paper, known))
            log.info("exported %s to %s in %.2f s", form, where, time.monotonic() - began)
            return papers_of(machine, (form,), tables)

        def done(papers: "tuple[Paper, ...]") -> None:
            self._keep(papers, where)
            self.session.say(f"{did} to {where}.")

        in_background(write, done, self.refuse)

    def _keep(self, papers: "tuple[Paper, ...]", name: str) -> None:
        """Remembers in the machine what was printed, so that it can be said what is out of date."""
        from vervain.exports.as_printed import keep_papers

        if papers:
            self.session.apply(f"Printed {name}"[:70], lambda m: keep_papers(m, papers))

    def order_lists_to(self, folder: Path) -> None:
        """Writes a list for each supplier on a worker, and tells what no list could hold."""
        machine = self.session.machine

        def write() -> str:
            from vervain.exports.bench_set import write_order_lists

            return write_order_lists(machine, folder)

        in_background(write, self.session.say, self.refuse)

    def export_set_to(self, folder: Path) -> None:
        """Writes the whole set on a worker, saying what it is at; closing the window stops it."""
        machine = self.session.machine
        said: list[str] = []

        def write() -> "tuple[int, tuple[Paper, ...]]":
            from vervain.exports.as_printed import FORM_WORDS, papers_of
            from vervain.exports.bench_set import write_set
            from vervain.exports.tables import all_tables

            def says(name: str) -> bool:
                said.append(name)
                return not self.is_closing()

            known = Queries(machine)
            tables = all_tables(machine, known)
            count = len(write_set(machine, folder, says, tables, known))
            forms = tuple(FORM_WORDS) if not self.is_closing() else ()
            return count, papers_of(machine, forms, tables)

        def tell() -> None:
            if said and self.is_exporting:
                self.session.say(f"Writing {said[-1]} …")
                QTimer.singleShot(500, tell)

        def done(result: "tuple[int, tuple[Paper, ...]]") -> None:
            count, papers = result
            self.is_exporting = False
            self._keep(papers, "the set")
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
            self.parent_widget, "Take in devices or conductors", "", "*.csv *.tsv *.txt *.xlsx"
        )
        if name:
            self.import_from(Path(name))

    def import_from(self, path: Path) -> None:
        """Reads a list on a worker, and shows row by row what it would do. Where the machine is
        edited meanwhile, it is worked out anew: nothing of the edit is lost.
        """

        def read() -> "Sheet":
            from vervain.files.lists import read_sheet

            return read_sheet(path)

        self._import_sheet(path.name, read)

    def import_pasted(self, text: str) -> None:
        """Shows row by row what pasted wires would do."""

        def read() -> "Sheet":
            from vervain.files.lists import pasted_sheet

            return pasted_sheet(text)

        self._import_sheet("What was pasted", read)

    def _import_sheet(self, name: str, read: Callable[[], "Sheet"]) -> None:
        machine, folder = self.session.machine, self.parts_folder

        def work() -> "Import":
            from vervain.files.lists import dry_run
            from vervain.files.shelf import read_shelf

            shelf = read_shelf(folder)
            return dry_run(machine, read(), shelf.parts, shelf.cable_parts)

        def show(result: "Import") -> None:
            if machine is self.session.machine:
                self.import_read(name, result)
            else:
                self._import_sheet(name, read)

        in_background(work, show, self.refuse)

    def door_cards(self) -> None:
        """Asks for a folder, and writes a door card for every board there."""
        name = QFileDialog.getExistingDirectory(self.parent_widget, "Door cards go to", "")
        if name:
            self.door_cards_to(Path(name))

    def door_cards_to(self, folder: Path) -> None:
        """Writes the door cards into a folder, one after the other between events."""
        from vervain.desktop.stages.ports.door_card import with_cards, write_door_card

        machine = self.session.machine
        waiting = list(with_cards(machine))
        if not waiting:
            self.session.say("There is no board to make a door card for.")
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
