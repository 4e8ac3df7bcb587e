"""A machine of 200 devices: laid out, drawn, checked and listed; and a real window under Xvfb."""

import shutil
import sys
import tempfile
import unittest
from ctypes.util import find_library

from PyQt6.QtWidgets import QPushButton

from large import large_machine
from tests import ROOT
from tests.desktop.case import WindowCase
from tests.desktop.real_display import on_a_display
from vervain.desktop.session import Selection
from vervain.edits.device_edits import set_name
from vervain.rules.engine import Engine
from vervain.rules.finding import STAGES


class Large(WindowCase):
    def test_200_devices_are_shown_and_worked_on(self) -> None:
        machine = large_machine(200)
        self.assertGreaterEqual(len(machine.devices), 200)
        window = self.open(machine)
        view = window.ports.view
        self.assertGreater(len(view.picture.ports()), 200)
        last = view.picture.ports()[-1].ref
        window.session.select(Selection(device=last.device, port=last.port))
        view.show_port(last)
        seen = view.verticalScrollBar().value()
        self.assertGreater(seen, view.viewport().height())
        window.take_in_hand("B1")
        self.assertIsNotNone(window.session.target)
        window.show_stage("Harness")
        self.until(lambda: len(window.harness.table.faces.rows) > 600)

    def test_large_text_cuts_no_button(self) -> None:
        self.window.resize(1280, 800)
        self.window.appearance.set_scale(1.5)
        for name in STAGES:
            self.window.show_stage(name)
            self.settle()
            for button in self.window.stack.currentWidget().findChildren(QPushButton):
                if button.isVisible() and button.text():
                    need = button.fontMetrics().horizontalAdvance(button.text())
                    self.assertGreater(button.width(), need, f"{name}: {button.text()}")

    def test_one_edit_costs_a_small_part_of_a_full_check(self) -> None:
        engine = Engine()
        machine = large_machine(200)
        full = engine.check(machine).runs
        one = engine.check(set_name(machine, "M7", "Another name")).runs
        self.assertLess(one, full / 100)


@unittest.skipUnless(shutil.which("Xvfb"), "Xvfb is not installed")
class RealDisplay(unittest.TestCase):
    def test_the_window_opens_on_a_display_and_closes(self) -> None:
        code = (
            "from PyQt6.QtCore import QTimer; from vervain.desktop import app\n"
            "application = app.make_application()\n"
            "def shut():\n"
            "    window = application.activeWindow() or application.topLevelWidgets()[0]\n"
            "    print(type(window.window()).__name__, window.window().isVisible())\n"
            "    application.closeAllWindows()\n"
            "QTimer.singleShot(1500, shut)\n"
            "raise SystemExit(app.run_window(None, demo='glazing-gantry-as-found'))"
        )
        done = on_a_display(self, [sys.executable, "-c", code])
        self.assertIn("Window True", done.stdout)

    @unittest.skipUnless(find_library("Xtst"), "the X test extension is not installed")
    def test_wires_and_plugs_are_dragged_by_the_servers_own_mouse(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            script = str(ROOT / "tests/desktop/real_mouse.py")
            done = on_a_display(self, [sys.executable, script, f"{folder}/s.ini"])
        self.assertEqual("wire True\nplug True\nstop True\n", done.stdout)
