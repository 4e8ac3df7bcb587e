"""Works the feeds out on a worker for the Supply stage; only the newest machine waits."""

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.model.machine import Machine, PinRef
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.supply.earth import earth_tree
from vervain.supply.feed_inputs import unfed_inputs
from vervain.supply.feed_tree import FeedTree, feed_trees
from vervain.supply.mains_tree import mains_tree
from vervain.supply.mains_ways import mains_inputs
from vervain.supply.results import SupplyLoad, hours_left, supply_loads
from vervain.supply.states import STATES, State
from vervain.supply.voltage_profile import ProfilePoint, along

Stations = tuple[ProfilePoint, ...]
Show = Callable[[Stations], object]


@dataclass(frozen=True)
class Figures:
    """What was worked out for a machine: the trees and loads of every state, its mains and its
    earth, how many hours its batteries last, and how many inputs have to be fed."""

    machine: Machine
    trees: dict[State, tuple[FeedTree, ...]]
    loads: dict[State, tuple[SupplyLoad, ...]]
    others: tuple[FeedTree, ...]
    hours: dict[tuple[PinRef, State], float]
    waiting: int


class FeedWorker(QObject):
    """Keeps the figures of the session's machine while they are wanted."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.figures: Figures | None = None
        self._work = LatestWork(session.analysis, _figures)
        self._work.done.connect(self._take)
        self._work.failed.connect(self._refused)
        self._wanted: tuple[State, PinRef, Show] | None = None
        self._along = LatestWork(session.analysis, self._profile)
        self._along.done.connect(self._show_profile)
        self._along.failed.connect(self._refused)

    def want(self) -> None:
        """Works the figures out, unless they are those of the machine already."""
        machine = self.session.machine
        if self.figures is None or self.figures.machine is not machine:
            self._work.ask(machine)

    def want_along(self, state: State, consumer: PinRef, show: Show) -> None:
        """Works out the voltage along a feed, and shows it."""
        self._wanted = state, consumer, show
        self._along.ask(self.session.machine)

    def _profile(
        self, queries: Queries, should_continue: ShouldContinue
    ) -> tuple[Show, Stations] | None:
        wanted = self._wanted
        return (wanted[2], along(queries, wanted[0], wanted[1])) if wanted else None

    def _show_profile(self, machine: Machine, made: tuple[Show, Stations]) -> None:
        if machine is self.session.machine:
            made[0](made[1])

    def _take(self, machine: Machine, figures: Figures) -> None:
        if machine is self.session.machine:
            self.figures = figures
            self.changed.emit()

    def _refused(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))


def _figures(queries: Queries, should_continue: ShouldContinue) -> Figures | None:
    trees, loads = {}, {}
    for state in STATES:
        if not should_continue():
            return None
        trees[state], loads[state] = feed_trees(queries, state), supply_loads(queries, state)
    hours = {
        (load.pin, state): left
        for state in STATES
        for load in loads[state]
        if (left := hours_left(queries, load.pin, state)) is not None
    }
    waiting = len(unfed_inputs(queries)) + len(mains_inputs(queries))
    others = tuple(t for t in (mains_tree(queries), earth_tree(queries)) if t is not None)
    return Figures(queries.machine, trees, loads, others, hours, waiting)
