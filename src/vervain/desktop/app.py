"""Starts the application: settings, the machine to show, the window; and the net under it all."""

import gc
import sys
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from vervain.data import FOLDER
from vervain.desktop.housekeeping import Housekeeping
from vervain.desktop.kept_view import keep_view, restore_view
from vervain.desktop.message import Message
from vervain.desktop.safety_net import SafetyNet
from vervain.desktop.settings import Settings
from vervain.desktop.theme import use
from vervain.desktop.window import Window
from vervain.files.demos import open_demo
from vervain.files.log import start_log
from vervain.files.machine_file import decode_machine
from vervain.files.problems import FileProblem
from vervain.files.reading import FileStamp, is_there, read_stamped
from vervain.model.machine import Machine
from vervain.text.units import use_units

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
    application.setWindowIcon(QIcon(str(FOLDER / "desktop/vervain.svg")))
    application.setStyle("Fusion")
    return application


def run_window(
    path: Path | None,
    unread: Sequence[FileProblem] = (),
    verbose: bool = False,
    demo: str | None = None,
) -> int:
    """Opens the window on a file, else on a demo, else on the last machine, else on an empty one
    with the ways to begin; tells which own tables could not be read. `verbose` shows the log on
    standard error. Returns the exit status.
    """
    # Nothing built before the first painting is garbage; collecting meanwhile only costs time.
    gc.disable()
    unlogged = start_log(verbose)
    application = make_application()
    settings = Settings()
    use(settings.theme(), settings.scale())
    use_units(settings.units())
    if path is None and demo is None:
        # A last machine that is gone meanwhile is no error of anybody: one begins anew.
        path = next((recent for recent in settings.recent()[:1] if is_there(recent)), None)
    machine, stamp, problem = _first_machine(path, demo)
    window = Window(machine, path if problem is None else None, settings, stamp=stamp)
    SafetyNet(window.session, window.documents).spread()
    restore_view(window)
    window.show()
    if problem is not None and path is not None:
        window.documents.refuse_opening(path, problem)
    else:
        QTimer.singleShot(0, window.documents.unsaved.look_for)
    for table in unread:
        window.session.said.emit(Message(str(table), is_bad=True, stays=True))
    if unlogged:
        window.session.said.emit(Message(unlogged, is_bad=True, stays=True))
    window.closing.connect(lambda: keep_view(window))
    housekeeping = Housekeeping(window.session)
    QTimer.singleShot(0, housekeeping.begin)
    return application.exec()


def _first_machine(
    path: Path | None, demo: str | None
) -> tuple[Machine, FileStamp | None, FileProblem | None]:
    if demo is not None:
        return open_demo(demo), None, None
    if path is None:
        return Machine(name="New machine"), None, None
    try:
        data, stamp = read_stamped(path)
        return decode_machine(data, str(path)), stamp, None
    except FileProblem as problem:
        return Machine(name="New machine"), None, problem
