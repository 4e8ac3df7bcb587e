"""What flows along the traced path: worked out on a worker, shown once it is known."""

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.harness.trace import Trace
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.supply.conductor_currents import ConductorCurrent, conductor_current

# The currents wait for the painting, which their worker would slow down.
WAIT_MS = 80
Key = tuple[str, int]


class TraceFlows(QObject):
    """Keeps the currents of the conductors that were asked for last."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.flowing: dict[Key, ConductorCurrent] = {}
        self._known_for: Machine | None = None
        self._wanted: tuple[Key, ...] = ()
        self._work = LatestWork(session.analysis, self._found)
        self._work.done.connect(self._take)
        self._work.failed.connect(self._refused)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._start)

    def want(self, trace: Trace | None) -> None:
        """Asks for the currents along a trace of the session's machine."""
        self._wanted = tuple((s.hookup, s.row) for s in trace.stretches) if trace else ()
        if self._known_for is not self.session.machine:
            self.flowing = {}
        if any(key not in self.flowing for key in self._wanted):
            self._timer.start(WAIT_MS)

    def _start(self) -> None:
        if self._wanted:
            self._work.ask(self.session.machine)

    def _found(
        self, queries: Queries, should_continue: ShouldContinue
    ) -> dict[Key, ConductorCurrent]:
        nothing = ConductorCurrent(0.0, 0.0)
        return {key: conductor_current(queries, *key) or nothing for key in self._wanted}

    def _take(self, machine: Machine, found: dict[Key, ConductorCurrent]) -> None:
        if machine is self.session.machine:
            if self._known_for is not machine:
                self.flowing = {}
            self._known_for = machine
            self.flowing |= found
            self.changed.emit()
        if any(key not in self.flowing for key in self._wanted):
            self._timer.start(WAIT_MS)

    def _refused(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))
