"""Where the program begins: Ctrl+C is quiet from the first line on, before anything is imported."""

import os
import signal
import sys
import threading
from collections.abc import Sequence

CRASHED = 70
AGAIN_S = 0.01


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs the command line; returns the exit status: as each command says, 2 for what cannot be
    read or written, 70 for a bug. Ctrl+C ends the process by SIGINT.
    """
    # While modules are imported there is nothing to clean up: the kernel ends the process.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    from vervain.cli import run
    from vervain.terminal import guard_streams, told_and_flushed

    guard_streams()
    sys.unraisablehook = _again_where_it_counts
    signal.signal(signal.SIGINT, signal.default_int_handler)
    try:
        return told_and_flushed(lambda: run(arguments), CRASHED)
    except KeyboardInterrupt:
        signal.signal(signal.SIGINT, signal.SIG_DFL)
        signal.raise_signal(signal.SIGINT)
        return 130


def _again_where_it_counts(lost: "sys.UnraisableHookArgs") -> None:
    """Sends Ctrl+C once more, a moment later, that fell into a callback of Python's own, and would
    be printed and forgotten. Anything else is told as usual.
    """
    if issubclass(lost.exc_type, KeyboardInterrupt):
        again = threading.Timer(AGAIN_S, os.kill, (os.getpid(), signal.SIGINT))
        again.daemon = True
        again.start()
    else:
        sys.__unraisablehook__(lost)


if __name__ == "__main__":
    sys.exit(main())
