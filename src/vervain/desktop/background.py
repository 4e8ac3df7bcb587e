"""Runs a function on a worker thread and brings its result back to the interface thread."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from vervain.machine.problem import Problem


class _Reply(QObject):
    done = pyqtSignal(object)
    refused = pyqtSignal(object)
    broken = pyqtSignal(object)


class _Task(QRunnable):
    def __init__(self, function: Callable[[], Any], reply: _Reply) -> None:
        super().__init__()
        self.function = function
        self.reply = reply

    def run(self) -> None:
        try:
            result = self.function()
        except Problem as problem:
            self.reply.refused.emit(problem)
        except Exception as error:
            self.reply.broken.emit(error)
        else:
            self.reply.done.emit(result)


_waiting: set[_Reply] = set()


def in_background(
    function: Callable[[], Any],
    done: Callable[[Any], object],
    refused: Callable[[Problem], object],
) -> None:
    """Calls a function on a worker; then `done` with its result, or `refused` with its problem."""
    reply = _Reply()
    _waiting.add(reply)

    def forget(_: object) -> None:
        _waiting.discard(reply)

    def raise_here(error: Exception) -> None:
        raise error

    reply.done.connect(done)
    reply.refused.connect(refused)
    for signal in (reply.done, reply.refused, reply.broken):
        signal.connect(forget)
    reply.broken.connect(raise_here)
    pool = QThreadPool.globalInstance()
    assert pool is not None
    pool.start(_Task(function, reply))


def wait_for_background() -> None:
    """Waits until nothing runs on a worker any more; for closing and for tests."""
    pool = QThreadPool.globalInstance()
    if pool is not None:
        pool.waitForDone()
