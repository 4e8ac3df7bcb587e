"""The log: one file that never grows beyond its bound; without a place for it, standard error."""

import logging
from logging.handlers import RotatingFileHandler

from vervain.files.state_folder import log_path

MOST_BYTES, MOST_OLD = 1_000_000, 3
FORM = "%(asctime)s %(levelname)s %(message)s"


def start_log(verbose: bool = False) -> str:
    """Begins writing the log; tells in words where that is not possible. `verbose` writes it to
    standard error as well.
    """
    log = logging.getLogger("vervain")
    if any(not isinstance(handler, logging.NullHandler) for handler in log.handlers):
        return ""
    log.setLevel(logging.INFO)
    log.propagate = False
    problem = ""
    path = log_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(
            path, maxBytes=MOST_BYTES, backupCount=MOST_OLD, encoding="utf-8",
            errors="backslashreplace",
        )  # fmt: skip
    except OSError as error:
        problem = f"No log can be written to {path}: {error.strerror or error}."
        handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter(FORM))
    log.addHandler(handler)
    if verbose and not problem:
        show_log()
    # A full disk must not make a second error out of the first.
    logging.raiseExceptions = False
    return problem


def show_log() -> None:
    """Writes the log to standard error: all that a command does, which may run beside a window
    whose file it must not turn over.
    """
    log = logging.getLogger("vervain")
    log.setLevel(logging.INFO)
    log.propagate = False
    shown = logging.StreamHandler()
    shown.setFormatter(logging.Formatter(FORM))
    log.addHandler(shown)
