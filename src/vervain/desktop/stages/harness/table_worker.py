"""Works the faces of the harness table out on a worker; only the newest machine waits."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.harness.compare import Difference, compare
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.supply.conductor_currents import all_flowing
from vervain.tables.cable_face import cable_face
from vervain.tables.change_face import change_face
from vervain.tables.conductor_face import conductor_face
from vervain.tables.connector_face import connector_face
from vervain.tables.cut_face import cut_face
from vervain.tables.label_face import label_face
from vervain.tables.sheet_face import sheet_face
from vervain.tables.table_view import Face

FACES = (
    "Conductors", "Cables", "Connectors", "Cut list", "Labels", "Sheets", "Papers", "Changes",
)  # fmt: skip


class TableWorker(QObject):
    """Keeps the face that is shown; the others only while they are asked for."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.name = "Conductors"
        self.faces: dict[str, tuple[Machine, Face]] = {}
        self.compared: Machine | None = None
        self._before: Queries | None = None
        self._work = LatestWork(session.analysis, self._made)
        self._work.done.connect(self._take)
        self._work.failed.connect(self._refused)

    @property
    def face(self) -> Face | None:
        """The face that is shown, of the newest machine that it was worked out for."""
        kept = self.faces.get(self.name)
        return kept[1] if kept else None

    def show(self, name: str) -> None:
        """Goes to another face."""
        self.name = name
        self.changed.emit()
        self.want()

    def compare_with(self, machine: Machine | None) -> None:
        """Compares with another version of the machine from now on."""
        self.compared = machine
        self.faces.pop("Changes", None)

    def want(self) -> None:
        """Works the face out, unless it is that of the machine already."""
        kept = self.faces.get(self.name)
        if kept is None or kept[0] is not self.session.machine:
            self._work.ask(self.session.machine)

    def _made(self, queries: Queries, should_continue: ShouldContinue) -> tuple[str, Face]:
        name, machine = self.name, queries.machine
        makers: dict[str, Callable[[], Face]] = {
            "Conductors": lambda: conductor_face(queries, all_flowing(queries)),
            "Cables": lambda: cable_face(queries),
            "Connectors": lambda: connector_face(queries),
            "Cut list": lambda: cut_face(queries, machine),
            "Labels": lambda: label_face(queries, machine.printed),
            "Sheets": lambda: sheet_face(queries),
            "Papers": lambda: _papers(queries),
            "Changes": lambda: change_face(self._difference(queries)),
        }
        return name, makers[name]()

    def _difference(self, queries: Queries) -> Difference:
        if self.compared is None:
            return Difference(changes=(), reprint=(), take_off=())
        if self._before is None:
            self._before = Queries(self.compared)
        self._before.move_to(self.compared)
        return compare(self._before, queries)

    def _take(self, machine: Machine, made: tuple[str, Face]) -> None:
        name, face = made
        if machine is not self.session.machine:
            self.want()
            return
        self.faces[name] = machine, face
        if name == self.name:
            self.changed.emit()
        else:
            self.want()

    def _refused(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))


def _papers(queries: Queries) -> Face:
    """The face Papers; what it takes is read where it is first shown."""
    from vervain.exports.as_printed import paper_face

    return paper_face(queries.machine, queries)
