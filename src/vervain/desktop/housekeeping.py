"""Keeps Python's collection of garbage out of the way of the hand.

A full pass over all that is alive takes a tenth of a second on a large machine, and it would come
in the middle of a movement. Nearly all of it is plain values that no pass would free. So what is
alive is set aside, the automatic passes look at what is young only, and what has come since is
looked through between whiles; all of it once another machine is opened, where one waits anyway.
"""

import gc

from PyQt6.QtCore import QObject, QTimer

from vervain.desktop.session import Session

INTERVAL_MS = 20_000
# Allocations before a pass over the youngest, such passes before one over the middle ones; the
# oldest are left to the timer.
THRESHOLDS = (10_000, 20, 1_000_000)


class Housekeeping(QObject):
    """Collects garbage on a timer, and wholly when another machine is opened."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.tidy)
        session.opened.connect(self.tidy_all)
        session.checked.connect(self._set_aside)
        self._is_new = True

    def begin(self) -> None:
        """Begins, once the first painting is done."""
        gc.freeze()
        gc.set_threshold(*THRESHOLDS)
        gc.enable()
        self._timer.start(INTERVAL_MS)

    def _set_aside(self) -> None:
        """What the first, whole check leaves is kept, and would take long to look through."""
        if self._is_new:
            gc.freeze()
            self._is_new = False

    def tidy(self) -> None:
        """Looks through what has come since the last time."""
        gc.collect()
        gc.freeze()

    def tidy_all(self) -> None:
        """Looks through everything."""
        self._is_new = True
        gc.unfreeze()
        gc.collect()
        gc.freeze()
