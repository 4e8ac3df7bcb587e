"""A monkey at keyboard and mouse of the real window, for the tests and for hours on demand."""

import random
import sys
import tempfile
import traceback
from pathlib import Path
from types import TracebackType
from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from vervain.desktop.app import make_application
from vervain.desktop.background import wait_for_background
from vervain.desktop.pictures import settle
from vervain.desktop.settings import Settings
from vervain.desktop.window import Window
from vervain.files.machine_file import decode_machine, proven_bytes
from vervain.model.machine import Machine
from vervain.rules.finding import STAGES

KEY = Qt.Key
NONE, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier
CONTROL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
KEYS = (
    *((key, NONE) for key in (
        KEY.Key_Up, KEY.Key_Down, KEY.Key_Left, KEY.Key_Right, KEY.Key_Return, KEY.Key_Escape,
        KEY.Key_Delete, KEY.Key_Backspace, KEY.Key_Space, KEY.Key_Tab, KEY.Key_Home, KEY.Key_End,
        KEY.Key_PageDown, KEY.Key_F1, KEY.Key_F6, KEY.Key_O, KEY.Key_S, KEY.Key_T, KEY.Key_C,
        KEY.Key_1, KEY.Key_Plus, KEY.Key_Minus, KEY.Key_0, KEY.Key_A, KEY.Key_B, KEY.Key_D,
        KEY.Key_M, KEY.Key_P, KEY.Key_R, KEY.Key_U, KEY.Key_2, KEY.Key_3, KEY.Key_G, KEY.Key_X,
        KEY.Key_W, KEY.Key_Z,
    )),
    *((key, SHIFT) for key in (KEY.Key_Up, KEY.Key_Down, KEY.Key_Left, KEY.Key_Right)),
    *((key, CONTROL) for key in (
        KEY.Key_Up, KEY.Key_Down, KEY.Key_Left, KEY.Key_Right, KEY.Key_Z, KEY.Key_Y, KEY.Key_K,
        KEY.Key_L, KEY.Key_F, KEY.Key_H,
    )),
    *((key, ALT) for key in (
        KEY.Key_1, KEY.Key_2, KEY.Key_3, KEY.Key_4, KEY.Key_5, KEY.Key_Return,
    )),
)  # fmt: skip
ROUTE_KEYS = (
    *((getattr(KEY, f"Key_{letter}"), NONE) for letter in "NJHLTDMWP" * 3),
    *((getattr(KEY, f"Key_{number}"), CONTROL) for number in (1, 2, 3, 4, 5, 6) * 2),
)


def play(window: Window, chance: random.Random, moves: int, more_keys: tuple = ()) -> None:
    """So many random moves: keys of the window, and clicks anywhere in it."""
    keys = (*KEYS, *more_keys)
    window.activateWindow()
    for _ in range(moves):
        if chance.random() < 0.25:
            size = window.size()
            point = QPoint(chance.randrange(size.width()), chance.randrange(size.height()))
            target = window.childAt(point) or window
            if target.metaObject().className() == "QComboBox":
                continue
            QTest.mouseClick(target, Qt.MouseButton.LeftButton, pos=target.mapFrom(window, point))
        else:
            key, modifier = chance.choice(keys)
            QTest.keyClick(window.focusWidget() or window, key, modifier)
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()
        if chance.random() < 0.1:
            QApplication.processEvents()
    wait_for_background()
    QApplication.processEvents()


def play_on(machine: Machine, chance: random.Random, moves: int) -> None:
    """Plays on every stage of a window of its own. Raises the first error that a slot, a worker or
    painting raised, and where the machine could then not be saved.
    """
    make_application()
    errors: list[BaseException] = []

    def caught(
        kind: type[BaseException], error: BaseException, where: TracebackType | None
    ) -> None:
        errors.append(error.with_traceback(where))

    dialogs = ("getOpenFileName", "getSaveFileName")
    with tempfile.TemporaryDirectory() as folder, mock.patch("sys.excepthook", caught):
        patches = [
            mock.patch(f"PyQt6.QtWidgets.QFileDialog.{name}", return_value=("", ""))
            for name in dialogs
        ]
        patches.append(
            mock.patch("PyQt6.QtWidgets.QFileDialog.getExistingDirectory", return_value="")
        )
        # A dialog of the system waits for a hand.
        patches.append(mock.patch("vervain.desktop.printing.ask_printer", return_value=False))
        for patch in patches:
            patch.start()
        window = Window(machine, None, Settings(Path(folder) / "s.ini"), autosaves=False)
        try:
            window.resize(1280, 800)
            window.show()
            settle(window)
            for stage in STAGES:
                window.show_stage(stage)
                play(window, chance, moves, ROUTE_KEYS if stage == "Harness" else ())
                data = proven_bytes(window.session.machine, stage)
                assert decode_machine(data, stage) == window.session.machine
        finally:
            window.close()
            window.deleteLater()
            QApplication.processEvents()
            for patch in patches:
                patch.stop()
    if errors:
        sys.stderr.write("".join(traceback.format_exception(errors[0])))
        raise errors[0]
