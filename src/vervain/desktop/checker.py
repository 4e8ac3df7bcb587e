"""Checks machines on a worker thread; only the newest one waits."""

from PyQt6.QtCore import QMutex, QObject, QThread, QWaitCondition, pyqtSignal

from vervain.model.machine import Machine


class Checker(QThread):
    """A worker that keeps an engine; `done` carries the machine and its result."""

    done = pyqtSignal(object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._lock = QMutex()
        self._wake = QWaitCondition()
        self._waiting: Machine | None = None
        self._stopping = False

    def submit(self, machine: Machine) -> None:
        """Asks for a check; one that is under way for an older machine is given up."""
        self._lock.lock()
        self._waiting = machine
        self._wake.wakeOne()
        self._lock.unlock()
        if not self.isRunning():
            self.start(QThread.Priority.LowPriority)

    def stop(self) -> None:
        """Ends the worker and waits for it."""
        self._lock.lock()
        self._stopping = True
        self._wake.wakeOne()
        self._lock.unlock()
        self.wait()

    def run(self) -> None:
        from vervain.rules.engine import Engine

        engine = Engine()
        while True:
            self._lock.lock()
            while self._waiting is None and not self._stopping:
                self._wake.wait(self._lock)
            machine, self._waiting = self._waiting, None
            self._lock.unlock()
            if self._stopping or machine is None:
                return
            result = engine.check(machine, lambda: self._waiting is None and not self._stopping)
            if result is not None:
                self.done.emit(machine, result)
