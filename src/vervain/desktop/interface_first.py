"""The interface thread goes first: what works in the background stands still while it has events.

Python lets one thread run at a time. A worker that computes makes every call of the interface
thread wait for its turn, so that what takes 50 ms alone takes 150 ms beside it. So the worker asks
here between two steps, and waits until the event loop has nothing left to do.
"""

import threading

from PyQt6.QtCore import QAbstractEventDispatcher, QThread

# The longest that a worker waits at once: an interface that is never idle must not starve it.
PATIENCE_S = 0.1

_idle = threading.Event()
_idle.set()


def watch_the_event_loop() -> None:
    """From now on the events of this thread go first. Called once, by the interface thread."""
    dispatcher = QAbstractEventDispatcher.instance()
    thread = QThread.currentThread()
    if dispatcher is None or thread is None:
        return

    def woken() -> None:
        # Outside of a loop nobody would tell that there is nothing left to do.
        if thread.loopLevel():
            _idle.clear()

    dispatcher.awake.connect(woken)
    dispatcher.aboutToBlock.connect(_idle.set)


def let_the_interface_go_first() -> None:
    """Waits, on a worker, while the interface thread is busy."""
    if not _idle.is_set():
        _idle.wait(PATIENCE_S)
