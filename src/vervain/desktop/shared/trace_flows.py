"""What flows along the traced path: worked out on a worker, shown once it is known."""

from threading import Lock

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from vervain.desktop.background import in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.harness.trace import Trace
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.look import Look
from vervain.supply.conductor_currents import Flowing, flowing_in

# The currents wait for the painting, which their worker would slow down.
WAIT_MS = 80
Key = tuple[str, int]


class TraceFlows(QObject):
    """Keeps the currents of the conductors that were asked for last."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.flowing: dict[Key, Flowing] = {}
        self._known_for: Machine | None = None
        self._wanted: tuple[Key, ...] = ()
        self._running = False
        self._look: Look | None = None
        self._lock = Lock()
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
        if self._running or not self._wanted:
            return
        machine, keys = self.session.machine, self._wanted
        self._running = True
        in_background(lambda: self._work(machine, keys), self._take, self._refused)

    def _work(self, machine: Machine, keys: tuple[Key, ...]) -> tuple[Machine, dict[Key, Flowing]]:
        with self._lock:
            if self._look is None:
                self._look = Look(machine)
            self._look.move_to(machine)
            found = {key: flowing_in(self._look, *key) for key in keys}
        nothing = Flowing(0.0, 0.0)
        return machine, {key: flow or nothing for key, flow in found.items()}

    def _take(self, made: tuple[Machine, dict[Key, Flowing]]) -> None:
        machine, found = made
        self._running = False
        if machine is self.session.machine:
            if self._known_for is not machine:
                self.flowing = {}
            self._known_for = machine
            self.flowing |= found
            self.changed.emit()
        if any(key not in self.flowing for key in self._wanted):
            self._timer.start(WAIT_MS)

    def _refused(self, problem: Problem) -> None:
        self._running = False
        self.session.said.emit(Message(str(problem), is_bad=True))
