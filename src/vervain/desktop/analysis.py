"""Everything that is worked out of a machine, on one thread with one memory of answers.

Checks, feeds, tables and currents read the same answers, so an edit's figures are worked out once.
Only the newest machine waits; what was asked of an older one is given up, and its result is never
shown as that of a newer one.
"""

import logging
import threading
import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.background import tell, watch_thread
from vervain.desktop.interface_first import let_the_interface_go_first
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

log = logging.getLogger("vervain")
ShouldContinue = Callable[[], bool]
Work = Callable[[Queries, ShouldContinue], Any]


class LatestWork(QObject):
    """One kind of result: `ask` for it of a machine, and `done` brings the machine and the result.

    Work that gives None because it was told to stop is begun again, unless a newer machine waits.
    A refusal or a bug comes as `failed`; the work can be asked for again afterwards. With
    `gives_way`, other work that waits goes first.
    """

    done = pyqtSignal(object, object)
    failed = pyqtSignal(object)

    def __init__(self, analysis: "Analysis", work: Work, gives_way: bool = False) -> None:
        super().__init__()
        self._analysis = analysis
        self.work, self.gives_way = work, gives_way

    def ask(self, machine: Machine) -> None:
        """Works it out for a machine, in place of whatever machine it was asked of before."""
        self._analysis.put(self, machine)

    @property
    def is_running(self) -> bool:
        """Whether it waits or is being worked out."""
        return self._analysis.is_busy_with(self)

    def give_up(self) -> None:
        """Leaves it, whether it waits or is being worked out."""
        self._analysis.take_away(self)


class Analysis:
    """The one thread, and the one memory that all of it shares."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._waiting: dict[LatestWork, Machine] = {}
        self._current: LatestWork | None = None
        self._given_up = self._stopping = False
        self._look: Queries | None = None
        self._thread: threading.Thread | None = None
        self.count = 0

    def put(self, work: LatestWork, machine: Machine) -> None:
        """Lets work wait for its turn with a machine."""
        with self._changed:
            if self._stopping:
                return
            self._waiting[work] = machine
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, daemon=True)
                self._thread.start()
                watch_thread(self.wait)
            self._changed.notify_all()

    def take_away(self, work: LatestWork) -> None:
        """Lets work wait no more, and gives it up where it is under way."""
        with self._changed:
            self._waiting.pop(work, None)
            if self._current is work:
                self._given_up = True

    def is_busy_with(self, work: LatestWork) -> bool:
        """Whether work waits or is under way."""
        with self._changed:
            return work in self._waiting or (self._current is work and not self._given_up)

    def wait(self, seconds: float) -> bool:
        """Waits until nothing waits or is under way; False where that takes longer."""
        with self._changed:
            return self._changed.wait_for(
                lambda: self._stopping or (not self._waiting and self._current is None), seconds
            )

    def stop(self) -> None:
        """Ends the thread; what is under way is given up as soon as it asks."""
        with self._changed:
            self._stopping = True
            self._waiting.clear()
            self._changed.notify_all()
        if self._thread is not None:
            self._thread.join(2.0)

    def _run(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._stopping or bool(self._waiting))
                if self._stopping:
                    return
                work = min(self._waiting, key=lambda item: item.gives_way)
                machine = self._waiting.pop(work)
                self._current, self._given_up = work, False
            try:
                self._do(work, machine)
            finally:
                with self._changed:
                    self._current = None
                    self._changed.notify_all()

    def _should_continue(self, work: LatestWork) -> bool:
        let_the_interface_go_first()
        with self._changed:
            is_others_turn = work.gives_way and any(not w.gives_way for w in self._waiting)
            is_old = work in self._waiting
            return not (self._stopping or self._given_up or is_old or is_others_turn)

    def _do(self, work: LatestWork, machine: Machine) -> None:
        began = time.monotonic()
        try:
            if self._look is None:
                self._look = Queries(machine)
                self._look.before_each = let_the_interface_go_first
                self.count += 1
            self._look.move_to(machine)
            result = work.work(self._look, lambda: self._should_continue(work))
        except Problem as problem:
            tell(work.failed, problem)
            return
        except Exception as error:
            log.exception("working something out failed")
            # What was being worked out may be half there.
            self._look = None
            words = f"Something could not be worked out ({type(error).__name__}). See the log."
            tell(work.failed, Problem(words))
            return
        if time.monotonic() - began > 1.0:
            log.info("an analysis took %.1f s", time.monotonic() - began)
        if result is None:
            with self._changed:
                if not self._stopping and not self._given_up:
                    self._waiting.setdefault(work, machine)
            return
        if not self._given_up:
            tell(work.done, machine, result)
