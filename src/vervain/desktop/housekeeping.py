"""What is done between whiles, out of the way of the hand: garbage, and labels before one asks.

A full pass over all that is alive takes a tenth of a second on a large machine, and it would come
in the middle of a movement. Nearly all of it is plain values that no pass would free. So what is
alive is set aside, the automatic passes look at what is young only, and what has come since is
looked through between whiles; all of it once another machine is opened, where one waits anyway.

The first label that is shown wants to know all of them, since none may be there twice. On a plant
that takes more than a second, so they are worked out in small pieces after opening.
"""

import gc
import time
from collections.abc import Iterator

from PyQt6.QtCore import QObject, QTimer

from vervain.desktop.interface_first import quiet_s
from vervain.desktop.session import Session
from vervain.harness.labels import own_names, shared_names

INTERVAL_MS, AGAIN_MS = 20_000, 1_000
# Without a selection or an edit for so long, a pause of some frames is not felt.
QUIET_S = 2.0
# A piece of what is worked out ahead, and how long the next one waits.
PIECE_S, PIECE_MS = 0.004, 25
# Allocations before a pass over the youngest, such passes before one over the middle ones; the
# oldest are left to the timer.
THRESHOLDS = (10_000, 20, 1_000_000)


class Housekeeping(QObject):
    """Collects garbage on a timer, and wholly when another machine is opened."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.tidy)
        self.session = session
        self._ahead: Iterator[None] = iter(())
        self._pieces = QTimer(self)
        self._pieces.timeout.connect(self.work_ahead)
        session.opened.connect(self.tidy_all)
        session.opened.connect(self._begin_ahead)
        session.checked.connect(self._set_aside)
        self._is_new = True

    def begin(self) -> None:
        """Begins, once the first painting is done."""
        gc.freeze()
        gc.set_threshold(*THRESHOLDS)
        gc.enable()
        self._timer.start(INTERVAL_MS)
        self._begin_ahead()

    def _begin_ahead(self) -> None:
        self._ahead = _labels_piece_by_piece(self.session)
        self._pieces.start(PIECE_MS)

    def work_ahead(self) -> None:
        """Works out a piece of what will be asked for; ends once all is known."""
        end = time.perf_counter() + PIECE_S
        for _ in self._ahead:
            if time.perf_counter() > end:
                return
        self._pieces.stop()

    def _set_aside(self) -> None:
        """What the first, whole check leaves is kept, and would take long to look through."""
        if self._is_new:
            gc.freeze()
            self._is_new = False

    def tidy(self) -> None:
        """Looks through what has come since the last time, once the hand rests."""
        if quiet_s() < QUIET_S:
            self._timer.start(AGAIN_MS)
            return
        self._timer.start(INTERVAL_MS)
        gc.collect()
        gc.freeze()

    def tidy_all(self) -> None:
        """Looks through everything."""
        self._is_new = True
        gc.unfreeze()
        gc.collect()
        gc.freeze()


def _labels_piece_by_piece(session: Session) -> Iterator[None]:
    """Has the window's look-ups know every label; what is edited meanwhile comes as it is."""
    for hookup in session.machine.hookups:
        own_names(session.queries, hookup.id)
        yield
    shared_names(session.queries)
