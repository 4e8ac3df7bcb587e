"""Which machine files are open: a locked mark each, so that a second window knows of the first.

A mark lies in the user's state folder and is locked while its window lives; a kill frees it. Marks
are known on one computer: what happens on another is seen by the file's content alone.
"""

import contextlib
import fcntl
import json
import os
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from vervain.files.state_folder import own_name, shown_path, state_folder
from vervain.files.writing import is_locked

MOST_BYTES = 4000


class OpenElsewhere(NamedTuple):
    """Another window that has the same file open: its process, and since when (ISO 8601)."""

    process: int
    since: str


class OpenMark:
    """A mark that is held; `release` gives it back."""

    def __init__(self, handle: int) -> None:
        self._handle = handle

    def release(self) -> None:
        """Lets others open the file as the first."""
        if self._handle >= 0:
            with contextlib.suppress(OSError):
                os.close(self._handle)
            self._handle = -1


def marks_folder() -> Path:
    """Where the marks lie."""
    return state_folder() / "open"


def mark_open(subject: Path | str) -> OpenMark | OpenElsewhere:
    """Marks a file, or the token of a machine without one, as open here; tells who has it open
    where it is marked already. Where no marks can be kept, nobody knows of anybody.
    """
    place = _place(subject)
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(place, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    except (OSError, ValueError):
        return OpenMark(-1)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        found = _read(handle)
        os.close(handle)
        return found
    except OSError:
        os.close(handle)
        return OpenMark(-1)
    written = {
        "process": os.getpid(),
        "since": datetime.now(UTC).isoformat(timespec="seconds"),
        "of": shown_path(subject) if isinstance(subject, Path) else subject,
    }
    with contextlib.suppress(OSError):
        os.ftruncate(handle, 0)
        os.pwrite(handle, json.dumps(written).encode(), 0)
    return OpenMark(handle)


def is_marked(subject: Path | str) -> bool:
    """Whether a window has it open."""
    return is_locked(_place(subject))


def _place(subject: Path | str) -> Path:
    if isinstance(subject, str):
        return marks_folder() / f"{subject}.mark"
    return marks_folder() / f"{own_name(_followed(subject))}.mark"


def _followed(path: Path) -> Path:
    try:
        return path.resolve()
    except (OSError, RuntimeError):
        return path


def _read(handle: int) -> OpenElsewhere:
    try:
        found = json.loads(os.pread(handle, MOST_BYTES, 0))
        return OpenElsewhere(int(found["process"]), str(found["since"]))
    except (OSError, ValueError, KeyError, TypeError):
        return OpenElsewhere(0, "")
