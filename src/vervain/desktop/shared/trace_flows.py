"""What flows along the traced path, and which stops it belongs to: worked out on a worker, shown
once it is known.
"""

from typing import NamedTuple

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.harness.trace import Trace
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.supply.conductor_currents import ConductorCurrent, conductor_current
from vervain.tables.stop_rows import string_words

# The currents wait for the painting, which their worker would slow down.
WAIT_MS = 80
Key = tuple[str, int]


class Along(NamedTuple):
    """What is known of a conductor: its current, and the string of the stops that it is in."""

    current: ConductorCurrent
    string: str


class TraceFlows(QObject):
    """Keeps what is known of the conductors that were asked for last."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.along: dict[Key, Along] = {}
        self._known_for: Machine | None = None
        self._wanted: tuple[Key, ...] = ()
        self._work = LatestWork(session.analysis, self._found)
        self._work.done.connect(self._take)
        self._work.failed.connect(self._refused)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._start)

    def want(self, trace: Trace | None) -> None:
        """Asks for what is along a trace of the session's machine."""
        self._wanted = tuple((s.hookup, s.row) for s in trace.stretches) if trace else ()
        if self._known_for is not self.session.machine:
            self.along = {}
        if any(key not in self.along for key in self._wanted):
            self._timer.start(WAIT_MS)

    def _start(self) -> None:
        if self._wanted:
            self._work.ask(self.session.machine)

    def _found(self, queries: Queries, should_continue: ShouldContinue) -> dict[Key, Along]:
        nothing = ConductorCurrent(0.0, 0.0)
        return {
            key: Along(conductor_current(queries, *key) or nothing, string_words(queries, key))
            for key in self._wanted
        }

    def _take(self, machine: Machine, found: dict[Key, Along]) -> None:
        if machine is self.session.machine:
            if self._known_for is not machine:
                self.along = {}
            self._known_for = machine
            self.along |= found
            self.changed.emit()
        if any(key not in self.along for key in self._wanted):
            self._timer.start(WAIT_MS)

    def _refused(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))
