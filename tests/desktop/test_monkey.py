"""A monkey at keyboard and mouse: whatever is pressed, nothing breaks, all can be undone."""

import random
from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.desktop.case import WindowCase
from vervain.desktop.background import wait_for_background
from vervain.desktop.session import Selection
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.machine.integrity import faults_of

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


class MonkeyCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        for dialog in ("getOpenFileName", "getSaveFileName"):
            patch = mock.patch(f"PyQt6.QtWidgets.QFileDialog.{dialog}", return_value=("", ""))
            patch.start()
            self.addCleanup(patch.stop)

    def play(self, seed: int, moves: int) -> None:
        chance = random.Random(seed)
        self.window.activateWindow()
        for _ in range(moves):
            if chance.random() < 0.25:
                size = self.window.size()
                point = QPoint(chance.randrange(size.width()), chance.randrange(size.height()))
                target = self.window.childAt(point) or self.window
                if target.metaObject().className() == "QComboBox":
                    continue
                QTest.mouseClick(
                    target, Qt.MouseButton.LeftButton, pos=target.mapFrom(self.window, point)
                )
            else:
                key, modifier = chance.choice(KEYS)
                QTest.keyClick(self.window.focusWidget() or self.window, key, modifier)
            popup = QApplication.activePopupWidget()
            if popup is not None:
                popup.close()
            if chance.random() < 0.1:
                QApplication.processEvents()
        wait_for_background()
        QApplication.processEvents()


class Monkey(MonkeyCase):
    def test_nothing_breaks_and_the_machine_stays_whole(self) -> None:
        for seed in (1, 2, 3):
            self.play(seed, 160)
            machine = self.session.machine
            self.assertEqual([], list(faults_of(machine)))
            self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
            self.settle()

    def test_everything_it_did_can_be_undone(self) -> None:
        first = self.session.machine
        self.play(7, 200)
        steps = len(self.session.steps)
        while self.session.at > 0:
            self.session.undo()
        if self.session.steps[0].machine is first:
            self.assertEqual(first, self.session.machine)
        self.assertGreaterEqual(steps, 1)
        for _ in range(steps):
            self.session.redo()
        self.assertEqual(len(self.session.steps) - 1, self.session.at)


class OnThePrinter(MonkeyCase):
    demo = "clay-printer-as-found"

    def test_nothing_breaks_on_the_machine_stage(self) -> None:
        self.window.show_stage("Machine")
        self.settle()
        for seed in (11, 12):
            self.window.machine_stage.view.setFocus()
            self.play(seed, 160)
            machine = self.session.machine
            self.assertEqual([], list(faults_of(machine)))
            self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
            self.settle()


class OnTheArm(MonkeyCase):
    demo = "seedling-arm-as-found"

    def test_nothing_breaks_on_the_leads_stage(self) -> None:
        for seed, device in ((21, "M3"), (22, "B1")):
            self.session.select(Selection(device=device))
            self.window.show_stage("Leads")
            self.play(seed, 120)
            self.assertEqual([], list(faults_of(self.session.machine)))
            self.settle()


class OnTheFeeds(MonkeyCase):
    demo = "seedling-arm-as-found"

    def test_nothing_breaks_on_the_supply_stage(self) -> None:
        self.window.show_stage("Supply")
        self.settle()
        for seed in (31, 32):
            self.window.supply.view.setFocus()
            self.session.select(Selection(device="T3"))
            self.play(seed, 140)
            machine = self.session.machine
            self.assertEqual([], list(faults_of(machine)))
            self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
            self.settle()


class OnTheRoute(MonkeyCase):
    def test_nothing_breaks_on_the_harness_stage(self) -> None:
        letters = tuple((getattr(KEY, f"Key_{letter}"), NONE) for letter in "NJHLTDMWP")
        faces = tuple((getattr(KEY, f"Key_{number}"), CONTROL) for number in range(1, 7))
        self.window.show_stage("Harness")
        self.settle()
        with mock.patch(f"{__name__}.KEYS", (*KEYS, *letters * 3, *faces * 2)):
            for seed, widget in ((41, "route"), (42, "table"), (43, "route")):
                getattr(self.window.harness, widget).setFocus()
                self.session.select(Selection(place="foot"))
                self.play(seed, 160)
                machine = self.session.machine
                self.assertEqual([], list(faults_of(machine)))
                self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
                self.settle()
