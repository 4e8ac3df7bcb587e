"""Putting something into the selected wire: what can go there, chosen by arrows or a click."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.background import in_background
from vervain.desktop.session import Selection, Session
from vervain.edits.pin_names import written
from vervain.edits.wire_edits import ends_of_wire
from vervain.files.shelf import ShelfContents
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part
from vervain.model.problem import Problem
from vervain.ports.wire_insertions import Insertion, insert, insertions


class InsertHand(QObject):
    """Keeps the wire, what can go into it, and which of that is chosen."""

    changed = pyqtSignal()

    def __init__(self, session: Session, read_shelf: Callable[[], ShelfContents]) -> None:
        super().__init__()
        self.session, self.read_shelf = session, read_shelf
        self.wire: tuple[str, int] | None = None
        self.offers: tuple[Insertion, ...] = ()
        self.chosen = 0
        self._shelf: tuple[Part, ...] | None = None
        session.machine_changed.connect(self.leave)
        session.hand_changed.connect(self.leave)

    @property
    def is_open(self) -> bool:
        """Whether something is being put into a wire."""
        return self.wire is not None

    def start(self) -> None:
        """Begins with the wire that is selected, or that comes to the selected pin."""
        session = self.session
        wire = session.selection.conductor or self._wire_at(session.selection.pin_ref)
        if wire is None:
            session.say("Select a wire first: click the pin that it comes to.")
            return
        try:
            ends_of_wire(session.machine, *wire)
        except Problem as problem:
            session.say(str(problem))
            return
        self.wire, self.chosen = wire, 0
        if self._shelf is None:
            in_background(
                self.read_shelf, self._take_shelf, lambda problem: session.say(str(problem))
            )
        self._offer()

    def _wire_at(self, pin: PinRef | None) -> tuple[str, int] | None:
        queries = self.session.queries
        for step in queries.steps(pin) if pin is not None else ():
            hookup = queries.hookup(step.hookup)
            if hookup is not None:
                return hookup.id, hookup.conductors.index(step.conductor)
        return None

    def _take_shelf(self, contents: ShelfContents) -> None:
        self._shelf = tuple(contents.parts)
        if self.is_open:
            self._offer()

    def _refused(self, problem: Problem) -> None:
        self.session.say(str(problem))

    def _offer(self) -> None:
        assert self.wire is not None
        ends = ends_of_wire(self.session.machine, *self.wire)
        self.offers = insertions(self.session.queries, ends, self._shelf or ())
        self.changed.emit()

    def words(self) -> str:
        """The wire in words: from pin to pin."""
        if self.wire is None:
            return ""
        machine = self.session.machine
        first, second = ends_of_wire(machine, *self.wire)
        return f"{written(machine, first)} to {written(machine, second)}"

    def step(self, by: int) -> None:
        """Goes to another of what can be put in."""
        if self.offers:
            self.chosen = (self.chosen + by) % len(self.offers)
            self.changed.emit()

    def choose(self, number: int) -> None:
        """Puts one of them in."""
        self.chosen = number
        self.put_in()

    def put_in(self) -> None:
        """Puts what is chosen into the wire, as one step."""
        if self.wire is None or not self.offers:
            return
        session, wanted, (hookup, row) = self.session, self.offers[self.chosen], self.wire
        name = (
            wanted.way.near.device if wanted.way is not None else wanted.name.removeprefix("New: ")
        )
        words = f"Put {name} into the wire {self.words()}"
        before = {device.designator for device in session.machine.devices}

        def edit(machine: Machine) -> Machine:
            return insert(machine, hookup, row, wanted)

        self.wire = None
        if session.apply(words, edit):
            new = [d.designator for d in session.machine.devices if d.designator not in before]
            session.select(Selection(device=new[0] if new else name))
        self.leave()

    def leave(self) -> None:
        """Leaves the wire as it is."""
        if self.wire is not None or self.offers:
            self.wire, self.offers, self.chosen = None, (), 0
            self.changed.emit()
