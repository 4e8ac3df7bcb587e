"""Starts the application: settings, the machine to show, the window; and the net under it all."""

import gc
import sys
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication

from vervain.desktop.housekeeping import Housekeeping
from vervain.desktop.message import Message
from vervain.desktop.settings import Settings
from vervain.desktop.theme import use
from vervain.desktop.window import Window
from vervain.files.autosave import left_over, write_autosave
from vervain.files.demos import DEMOS, open_demo
from vervain.files.machine_file import open_machine
from vervain.files.problems import FileProblem
from vervain.machine.machine import Machine
from vervain.machine.problem import Problem

LOCK_S = 0.0005
# PyQt deletes an application that nothing in Python refers to.
_kept: list[QApplication] = []


def make_application() -> QApplication:
    """The one QApplication, with its name and style."""
    found = QApplication.instance()
    if isinstance(found, QApplication):
        return found
    QApplication.setHighDpiScaleFactorRoundingPolicy(
        Qt.HighDpiScaleFactorRoundingPolicy.PassThrough
    )
    # A worker lets the window's thread have Python's lock after this long, not after 5 ms.
    sys.setswitchinterval(LOCK_S)
    application = QApplication(["vervain"])
    _kept.append(application)
    application.setApplicationName("Vervain")
    application.setDesktopFileName("vervain")
    application.setStyle("Fusion")
    return application


def run_window(path: Path | None, unread: Sequence[FileProblem] = ()) -> int:
    """Opens the window on a file, or on the demo, and tells which own tables could not be read;
    returns the exit status.
    """
    # Nothing built before the first painting is garbage; collecting meanwhile only costs time.
    gc.disable()
    application = make_application()
    settings = Settings()
    use(settings.theme(), settings.scale())
    machine, problem = _first_machine(path)
    window = Window(machine, path if problem is None else None, settings)
    _catch_bugs(window)
    window.resize(1280, 800)
    window.show()
    if problem is not None:
        window.documents.refuse(problem)
    else:
        kept = left_over(path)
        if kept is not None:
            window.documents.take_up(kept)
    for table in unread:
        window.session.said.emit(Message(str(table), is_bad=True, stays=True))
    housekeeping = Housekeeping(window.session)
    QTimer.singleShot(0, housekeeping.begin)
    return application.exec()


def _first_machine(path: Path | None) -> tuple[Machine, FileProblem | None]:
    if path is None:
        return open_demo(DEMOS[0].key), None
    try:
        return open_machine(path), None
    except FileProblem as problem:
        return Machine(name="New machine"), problem


def log_path() -> Path:
    """Where bugs are written down."""
    import platformdirs

    return Path(platformdirs.user_log_dir("vervain")) / "vervain.log"


def _catch_bugs(window: Window) -> None:
    """A bug first saves the machine, then says what happened and where the log is."""

    def caught(
        kind: type[BaseException], error: BaseException, where: TracebackType | None
    ) -> None:
        import logging
        import traceback

        log = log_path()
        log.parent.mkdir(parents=True, exist_ok=True)
        logging.basicConfig(filename=log, format="%(asctime)s %(message)s", level=logging.WARNING)
        text = "".join(traceback.format_exception(kind, error, where))
        logging.getLogger("vervain").error("%s", text)
        sys.stderr.write(text)
        session = window.session
        try:
            write_autosave(session.machine, session.path)
            kept = "Your machine is kept in its autosave."
        except Problem as problem:
            kept = f"The autosave failed too: {problem}"
        session.said.emit(
            Message(
                f"Something went wrong in Vervain. {kept} Details are in {log}.",
                is_bad=True,
                stays=True,
            )
        )

    sys.excepthook = caught
