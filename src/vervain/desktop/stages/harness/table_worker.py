"""Works the faces of the harness table out on a worker; only the newest machine waits."""

from threading import Lock

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.background import in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.harness.compare import Difference, compare
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.look import Look
from vervain.supply.conductor_currents import Flowing, all_flowing
from vervain.tables.cable_face import cable_face
from vervain.tables.change_face import change_face
from vervain.tables.conductor_face import conductor_face
from vervain.tables.connector_face import connector_face
from vervain.tables.cut_face import cut_face
from vervain.tables.label_face import label_face
from vervain.tables.table_view import Face

FACES = ("Conductors", "Cables", "Connectors", "Cut list", "Labels", "Changes")


class FaceKeeper(QObject):
    """Keeps the face that is shown; the others only while they are asked for."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.name = "Conductors"
        self.faces: dict[str, tuple[Machine, Face]] = {}
        self.compared: Machine | None = None
        self.running = False
        self._looks: dict[str, Look] = {}
        self._lock = Lock()

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
        machine, name = self.session.machine, self.name
        kept = self.faces.get(name)
        if self.running or (kept is not None and kept[0] is machine):
            return
        self.running = True
        in_background(lambda: self._work(machine, name), self._take, self._refused)

    def _work(self, machine: Machine, name: str) -> tuple[Machine, str, Face]:
        with self._lock:
            look = self._looking_at("now", machine)
            return machine, name, self._made(look, machine, name)

    def _looking_at(self, which: str, machine: Machine) -> Look:
        look = self._looks.get(which)
        if look is None:
            look = self._looks[which] = Look(machine)
        look.move_to(machine)
        return look

    def _made(self, look: Look, machine: Machine, name: str) -> Face:
        if name == "Conductors":
            return conductor_face(look, self._flowing(look))
        if name == "Cables":
            return cable_face(look)
        if name == "Connectors":
            return connector_face(look)
        if name == "Cut list":
            return cut_face(look, machine.prices)
        if name == "Labels":
            return label_face(look, machine.printed)
        if self.compared is None:
            return change_face(Difference(changes=(), reprint=(), take_off=()))
        return change_face(compare(self._looking_at("before", self.compared), look))

    def _flowing(self, look: Look) -> dict[tuple[str, int], Flowing]:
        return all_flowing(look)

    def _take(self, made: tuple[Machine, str, Face]) -> None:
        machine, name, face = made
        self.running = False
        self.faces[name] = machine, face
        if name == self.name:
            self.changed.emit()
        self.want()

    def _refused(self, problem: Problem) -> None:
        self.running = False
        self.session.said.emit(Message(str(problem), is_bad=True))
