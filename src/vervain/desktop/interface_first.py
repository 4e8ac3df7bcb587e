"""The interface thread goes first: what works in the background stands still while it has events.

Python lets one thread run at a time. A worker that computes makes every call of the interface
thread wait for its turn, so that what takes 50 ms alone takes 150 ms beside it. So whoever begins
something on the interface thread claims it for a moment, and the worker asks here between steps.
"""

import time

from PyQt6.QtCore import QThread

# How long an edit or a selection is seen to at the most, until all is painted.
CLAIM_S = 0.12
# The same of a stage, which may have to be made first.
OPENING_S = 1.0
# The longest that a worker waits at once: an interface that is never idle must not starve it.
PATIENCE_S, STEP_S = 0.4, 0.02

_until = 0.0


def claim(seconds: float = CLAIM_S) -> None:
    """Lets workers stand still for so long from now; only where an event loop runs that paints."""
    global _until
    thread = QThread.currentThread()
    if thread is not None and thread.loopLevel():
        _until = max(_until, time.monotonic() + seconds)


def settled() -> None:
    """What was claimed for long is done: only what is painted of it is still seen to."""
    global _until
    _until = min(_until, time.monotonic() + CLAIM_S)


def quiet_s() -> float:
    """How long nothing was claimed any more; 0 while something is."""
    return max(0.0, time.monotonic() - _until)


def let_the_interface_go_first() -> None:
    """Waits, on a worker, while the interface thread is claimed."""
    patience = PATIENCE_S
    while patience > 0 and _until > time.monotonic():
        time.sleep(STEP_S)
        patience -= STEP_S
