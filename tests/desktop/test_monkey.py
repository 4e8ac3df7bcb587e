"""A monkey at keyboard and mouse: whatever is pressed, nothing breaks, all can be undone."""

import random
from unittest import mock

from fuzz_window import ROUTE_KEYS, play
from tests.desktop.case import WindowCase
from tests.sampling import IS_WHOLE
from vervain.desktop.session import Selection
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.model.references import faults_of


class MonkeyCase(WindowCase):
    more_keys = ()

    def setUp(self) -> None:
        super().setUp()
        for dialog in ("getOpenFileName", "getSaveFileName"):
            patch = mock.patch(f"PyQt6.QtWidgets.QFileDialog.{dialog}", return_value=("", ""))
            patch.start()
            self.addCleanup(patch.stop)
        printer = mock.patch("vervain.desktop.printing.ask_printer", return_value=False)
        printer.start()
        self.addCleanup(printer.stop)
        folder = mock.patch("PyQt6.QtWidgets.QFileDialog.getExistingDirectory", return_value="")
        folder.start()
        self.addCleanup(folder.stop)

    def play(self, seed: int, moves: int) -> None:
        play(self.window, random.Random(seed), moves, self.more_keys)


class Monkey(MonkeyCase):
    def test_nothing_breaks_and_the_machine_stays_whole(self) -> None:
        for seed in (1, 2, 3) if IS_WHOLE else (1,):
            self.play(seed, 110)
            machine = self.session.machine
            self.assertEqual([], list(faults_of(machine)))
            self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
            self.settle()

    def test_everything_it_did_can_be_undone(self) -> None:
        first = self.session.machine
        self.play(7, 130)
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
        for seed in (11, 12) if IS_WHOLE else (11,):
            self.window.machine_stage.view.setFocus()
            self.play(seed, 110)
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
            self.play(seed, 90)
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
            self.play(seed, 100)
            machine = self.session.machine
            self.assertEqual([], list(faults_of(machine)))
            self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
            self.settle()


class OnTheRoute(MonkeyCase):
    more_keys = ROUTE_KEYS

    def test_nothing_breaks_on_the_harness_stage(self) -> None:
        self.window.show_stage("Harness")
        self.settle()
        for seed, widget in ((41, "route"), (42, "table"), (43, "route")):
            getattr(self.window.harness, widget).setFocus()
            self.session.select(Selection(place="foot"))
            self.play(seed, 110)
            machine = self.session.machine
            self.assertEqual([], list(faults_of(machine)))
            self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
            self.settle()
