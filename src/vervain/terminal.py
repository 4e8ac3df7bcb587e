"""Standard output and error as a careful program has them: whoever reads may go away, the disk may
be full, the encoding may be poor, and nothing that a machine holds steers the terminal.
"""

import io
import os
import re
import sys
import traceback
from collections.abc import Callable
from typing import Any, TextIO

from vervain.model.problem import Problem

CANNOT_WRITE = 2
# Control characters, and the marks that turn the direction of text round.
STEERING = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]")


def shown(text: str) -> str:
    """Text that a terminal only shows: control characters as `\\x1b`, the line break and the tab as
    they are.
    """
    return STEERING.sub(lambda match: ascii(match.group())[1:-1], text)


class CannotWrite(Problem):
    """Standard output takes nothing more: a full disk, or it is closed."""


class GuardedText(io.TextIOBase):
    """A text stream whose reader may go away: then the rest is thrown away, and the command still
    ends with its own status. `buffer` takes bytes.
    """

    def __init__(self, stream: TextIO | None) -> None:
        super().__init__()
        self._stream = stream
        self._is_gone = False
        self.buffer = _GuardedBytes(self)

    @property
    def is_terminal(self) -> bool:
        """Whether a terminal shows it."""
        return self._stream is not None and self._stream.isatty()

    def isatty(self) -> bool:
        return self.is_terminal

    def fileno(self) -> int:
        if self._stream is None:
            raise OSError("it is closed")
        return self._stream.fileno()

    def writable(self) -> bool:
        return True

    def write(self, text: str) -> int:
        """Writes text. Raises `CannotWrite` where nothing more goes in."""
        self._guarded(lambda stream: stream.write(shown(text)))
        return len(text)

    def write_bytes(self, data: bytes) -> None:
        """Writes bytes as they are, but to a terminal as text that only shows."""
        if self.is_terminal or not hasattr(self._stream, "buffer"):
            self.write(data.decode("utf-8", "backslashreplace"))
            return

        def put(stream: Any) -> None:
            stream.flush()
            stream.buffer.write(data)

        self._guarded(put)

    def flush(self) -> None:
        if self._stream is not None:
            self._guarded(lambda stream: stream.flush())

    def _guarded(self, act: Callable[[Any], object]) -> None:
        if self._is_gone:
            return
        if self._stream is None:
            raise CannotWrite("Standard output is closed.")
        try:
            act(self._stream)
        except BrokenPipeError:
            self.give_up()
        except OSError as error:
            self.give_up()
            raise CannotWrite(
                f"Standard output cannot be written: {error.strerror or error}."
            ) from None

    def give_up(self) -> None:
        """Throws away whatever is written from now on, also what Python flushes at its end."""
        self._is_gone = True
        if self._stream is not None:
            nowhere = os.open(os.devnull, os.O_WRONLY)
            os.dup2(nowhere, self._stream.fileno())
            os.close(nowhere)


class _GuardedBytes:
    """The bytes of a guarded stream."""

    def __init__(self, text: GuardedText) -> None:
        self._text = text

    def write(self, data: bytes) -> int:
        self._text.write_bytes(data)
        return len(data)

    def flush(self) -> None:
        self._text.flush()


def guard_streams() -> None:
    """Puts guarded streams in place of standard output and error."""
    for name in ("stdout", "stderr"):
        stream = getattr(sys, name)
        if isinstance(stream, GuardedText):
            continue
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
        setattr(sys, name, GuardedText(stream))


def told_and_flushed(run: Callable[[], int], crashed: int) -> int:
    """Runs a command and flushes what it printed; its status, or `crashed` for a bug, which is
    told on standard error.
    """
    try:
        status = run()
        sys.stdout.flush()
    except SystemExit as ended:
        status = ended.code if isinstance(ended.code, int) else CANNOT_WRITE
    except Problem as problem:
        status = CANNOT_WRITE
        _tell(f"{problem}\n")
    except Exception:
        status = crashed
        _tell(f"{traceback.format_exc()}This is a bug in Vervain; nothing was half written.\n")
    return status


def _tell(text: str) -> None:
    try:
        sys.stderr.write(text)
        sys.stderr.flush()
    except Problem:
        return
