"""Where the program begins: Ctrl+C is quiet from the first line on, before anything is imported."""

import signal
import sys
from collections.abc import Sequence

CRASHED = 70


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs the command line; returns the exit status: as each command says, 2 for what cannot be
    read or written, 70 for a bug. Ctrl+C ends the process by SIGINT.
    """
    # While modules are imported there is nothing to clean up: the kernel ends the process.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    from vervain.cli import run
    from vervain.terminal import guard_streams, told_and_flushed

    guard_streams()
    signal.signal(signal.SIGINT, signal.default_int_handler)
    try:
        return told_and_flushed(lambda: run(arguments), CRASHED)
    except KeyboardInterrupt:
        signal.signal(signal.SIGINT, signal.SIG_DFL)
        signal.raise_signal(signal.SIGINT)
        return 130


if __name__ == "__main__":
    sys.exit(main())
