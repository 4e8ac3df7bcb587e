"""Runs functions on worker threads and brings their results back to the interface thread.

Files are written by one queue, in order: the newest comes last. Everything else has a thread of its
own. No thread keeps the program alive: reading from what never answers cannot hold the window.
"""

import queue
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.model.problem import Problem

Work = Callable[[], Any]
# So long closing waits for work that only reads or computes.
PATIENCE_S = 4.0


class _Reply(QObject):
    done = pyqtSignal(object)
    refused = pyqtSignal(object)
    broken = pyqtSignal(object)


_waiting: set[_Reply] = set()
_running: set[threading.Thread] = set()
_lock = threading.Lock()


def in_background(
    function: Work, done: Callable[[Any], object], refused: Callable[[Problem], object]
) -> None:
    """Calls a function on a worker; then `done` with its result, or `refused` with its problem."""
    reply = _reply(done, refused)

    def work() -> None:
        try:
            _answer(function, reply)
        finally:
            with _lock:
                _running.discard(thread)

    thread = threading.Thread(target=work, daemon=True)
    with _lock:
        _running.add(thread)
    thread.start()


_others: list[Callable[[float], bool]] = []


def watch_thread(wait: Callable[[float], bool]) -> None:
    """Lets `wait_for_background` wait for another thread as well."""
    _others.append(wait)


class FileQueue:
    """One thread that does what writes files, one after the other."""

    def __init__(self) -> None:
        self._tasks: queue.SimpleQueue[tuple[Work, _Reply]] = queue.SimpleQueue()
        self._open = 0
        self._idle = threading.Condition()
        self._thread: threading.Thread | None = None

    def put(
        self, function: Work, done: Callable[[Any], object], refused: Callable[[Problem], object]
    ) -> None:
        """Does a function after everything that was put before; then as `in_background`."""
        with self._idle:
            self._open += 1
        self._tasks.put((function, _reply(done, refused)))
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, daemon=True)
            self._thread.start()

    def wait(self, seconds: float = 3600.0) -> bool:
        """Waits until everything is written; False where that takes longer."""
        with self._idle:
            return self._idle.wait_for(lambda: self._open == 0, seconds)

    def _work(self) -> None:
        while True:
            function, reply = self._tasks.get()
            try:
                _answer(function, reply)
            finally:
                with self._idle:
                    self._open -= 1
                    self._idle.notify_all()


files = FileQueue()


def wait_for_background(seconds: float = 3600.0) -> bool:
    """Waits until nothing runs on a worker any more, and everything is written; False where that
    takes longer.
    """
    end = time.monotonic() + seconds
    while True:
        with _lock:
            threads = tuple(_running)
        if not threads:
            waits = (files.wait, *_others)
            return all(wait(max(0.0, end - time.monotonic())) for wait in waits)
        for thread in threads:
            thread.join(max(0.0, end - time.monotonic()))
        if time.monotonic() >= end:
            return False


def _reply(done: Callable[[Any], object], refused: Callable[[Problem], object]) -> _Reply:
    """What carries a result to the thread that asks, and is kept until then."""
    reply = _Reply()
    _waiting.add(reply)

    def forget(_: object) -> None:
        _waiting.discard(reply)

    def raise_here(error: Exception) -> None:
        # Whoever asked goes on as after a refusal; the safety net tells of the bug.
        refused(Problem(f"It could not be done ({type(error).__name__})."))
        raise error

    reply.done.connect(done)
    reply.refused.connect(refused)
    for signal in (reply.done, reply.refused, reply.broken):
        signal.connect(forget)
    reply.broken.connect(raise_here)
    return reply


def tell(signal: Any, *values: object) -> None:
    """Emits a signal from a worker; where whoever would hear it is gone, as at the end of the
    program, nobody does.
    """
    with suppress(RuntimeError):
        signal.emit(*values)


def _answer(function: Work, reply: _Reply) -> None:
    name, value = _outcome(function)
    # At the end of the program the carrier itself is gone.
    with suppress(RuntimeError):
        tell(getattr(reply, name), value)


def _outcome(function: Work) -> tuple[str, object]:
    """What a function came to: the name of the signal that tells it, and its value."""
    try:
        return "done", function()
    except Problem as problem:
        return "refused", problem
    except Exception as error:
        return "broken", error
