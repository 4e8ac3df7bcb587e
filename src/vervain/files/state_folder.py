"""Where Vervain keeps what is its own: autosaves, versions, marks, the log."""

import hashlib
import os
import tempfile
from pathlib import Path

from vervain.files.writing import shortened


def state_folder() -> Path:
    """The user's state folder."""
    import platformdirs

    return Path(platformdirs.user_state_dir("vervain"))


def last_resort_folder() -> Path:
    """Where work is kept when neither its own folder nor the state folder can be written."""
    return Path(tempfile.gettempdir()) / f"vervain-{os.getuid()}"


def log_path() -> Path:
    """Where Vervain writes down what it did and what went wrong."""
    import platformdirs

    return Path(platformdirs.user_log_dir("vervain")) / "vervain.log"


def own_name(path: Path) -> str:
    """A file name in the state folder for something of a file: readable, and one for each path."""
    whole = os.path.abspath(path)  # noqa: PTH100 - a link's own place, not where it leads
    return f"{shortened(path.name, 120)}-{hashlib.sha256(os.fsencode(whole)).hexdigest()[:12]}"


def shown_path(path: Path) -> str:
    """A path as text that any file can hold: bytes that are not UTF-8 as escapes."""
    return os.fsencode(path).decode("utf-8", "backslashreplace")
