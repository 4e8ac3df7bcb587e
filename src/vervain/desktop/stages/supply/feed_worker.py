"""Works the feeds out on a worker for the Supply stage; only the newest machine waits."""

from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.background import in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.model.machine import Machine, PinRef
from vervain.model.problem import Problem
from vervain.queries.look import Look
from vervain.supply.earth import earth_tree
from vervain.supply.feed_tree import Branch, feed_trees
from vervain.supply.results import SupplyLoad, hours_left, supply_loads
from vervain.supply.states import STATES, State
from vervain.supply.voltage_profile import Station, along


@dataclass(frozen=True)
class Figures:
    """What was worked out for a machine: the trees and loads of every state, its earth, and
    how many hours its batteries last."""

    machine: Machine
    trees: dict[State, tuple[Branch, ...]]
    loads: dict[State, tuple[SupplyLoad, ...]]
    earth: Branch | None
    hours: dict[tuple[PinRef, State], float]


class Feeder(QObject):
    """Keeps the figures of the session's machine while they are wanted."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.figures: Figures | None = None
        self.running = False
        self._look: Look | None = None
        self._lock = Lock()

    def want(self) -> None:
        """Works the figures out, unless they are those of the machine already."""
        machine = self.session.machine
        if self.running or (self.figures is not None and self.figures.machine is machine):
            return
        self.running = True
        in_background(lambda: self._work(machine), self._take, self._refused)

    def _work(self, machine: Machine) -> Figures:
        with self._lock:
            look = self._looking_at(machine)
            return Figures(
                machine,
                {state: feed_trees(look, state) for state in STATES},
                {state: supply_loads(look, state) for state in STATES},
                earth_tree(look),
                {
                    (load.pin, state): hours
                    for state in STATES
                    for load in supply_loads(look, state)
                    if (hours := hours_left(look, load.pin, state)) is not None
                },
            )

    def _looking_at(self, machine: Machine) -> Look:
        if self._look is None:
            self._look = Look(machine)
        self._look.move_to(machine)
        return self._look

    def want_along(
        self, state: State, consumer: PinRef, show: Callable[[tuple[Station, ...]], object]
    ) -> None:
        """Works out the voltage along a feed, and shows it."""
        machine = self.session.machine

        def work() -> tuple[Station, ...]:
            with self._lock:
                return along(self._looking_at(machine), state, consumer)

        in_background(work, show, self._refused)

    def _take(self, figures: Figures) -> None:
        self.running = False
        self.figures = figures
        self.changed.emit()
        self.want()

    def _refused(self, problem: Problem) -> None:
        self.running = False
        self.session.said.emit(Message(str(problem), is_bad=True))
