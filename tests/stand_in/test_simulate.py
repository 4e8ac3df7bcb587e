"""`vervain simulate`, by lines and in its small window."""

import io
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests import ROOT
from tests.listening import HERE, free_port
from vervain.desktop.app import make_application
from vervain.desktop.stand_in_window import StandInWindow
from vervain.entry import main
from vervain.files.demos import open_demo
from vervain.live.controller_link import Address
from vervain.model.machine import PortRef
from vervain.stand_in.meter import SimulatedMeter
from vervain.stand_in.script import StandInBench

FILE = ROOT / "src/vervain/data/demos/glazing-gantry-as-planned.vervain"
LEFT = Qt.MouseButton.LeftButton


class Command(unittest.TestCase):
    def run_with(self, lines: str, *more: str) -> tuple[int, str]:
        ports = ["--port", str(free_port()), "--meter-port", str(free_port())]
        with redirect_stdout(io.StringIO()) as out, mock.patch("sys.stdin", io.StringIO(lines)):
            status = main(["simulate", str(FILE), *ports, *more])
        return status, out.getvalue()

    def test_lines_are_done_one_after_the_other_and_mistakes_are_told(self) -> None:
        status, said = self.run_with("look\nwork B4  # by hand\nwrok B1\nlook\nquit\nlook\n")
        self.assertEqual(0, status)
        self.assertIn("K1 by Modbus/TCP at 127.0.0.1", said)
        self.assertIn("“wrok B1” is not understood.", said)
        lit = [line for line in said.splitlines() if line.startswith("lit:")]
        self.assertEqual(2, len(lit))
        self.assertIn("K1 IN 4", lit[0])
        self.assertNotIn("K1 IN 4", lit[1])

    def test_faults_and_a_script_come_first(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            script = Path(folder) / "first.txt"
            script.write_text("work B1\nhelp\n", "utf-8")
            status, said = self.run_with("look\n", "--fault", "cut W18.3", "--script", str(script))
        self.assertEqual(0, status)
        self.assertIn("mend", said)
        self.assertNotIn("K1 IN 4", said.split("lit:")[1])
        self.assertNotIn("K1 IN 1,", said.split("lit:")[1])

    def test_a_fault_that_is_none_ends_it_with_a_word(self) -> None:
        status, said = self.run_with("look\n", "--fault", "melt K1")
        self.assertEqual((2, ""), (status, said))


class SmallWindow(unittest.TestCase):
    def setUp(self) -> None:
        make_application()
        self.bench = StandInBench(open_demo("glazing-gantry-as-planned"), [])
        self.bench.meter = SimulatedMeter(self.bench.stand_in, Address(HERE, 0))
        self.closed: list[bool] = []
        self.window = StandInWindow(self.bench, "here", lambda: self.closed.append(True))
        self.window.show()
        self.addCleanup(self.window.close)

    def lit(self, port: str) -> bool:
        return self.bench.stand_in.machine.lit()[PortRef(device="K1", port=port)]

    def test_a_click_works_a_switch_and_a_fault_is_typed_and_mended(self) -> None:
        window = self.window
        QTest.mouseClick(window.switches["B4"], LEFT)
        self.assertFalse(self.lit("IN 4"))
        QTest.mouseClick(window.switches["B4"], LEFT)
        self.assertTrue(self.lit("IN 4"))
        QTest.keyClicks(window.fault, "cut W18.3")
        QTest.keyClick(window.fault, Qt.Key.Key_Return)
        self.assertFalse(self.lit("IN 4"))
        self.assertIn("Faults: cut W18.3", window.lamps.text())
        QTest.keyClicks(window.fault, "cut W99")
        QTest.keyClick(window.fault, Qt.Key.Key_Return)
        self.assertIn("W99", window.said.text())
        self.assertEqual("cut W99", window.fault.text())
        QTest.mouseClick(window.mend, LEFT)
        self.assertTrue(self.lit("IN 4"))

    def test_axes_are_sent_probes_put_and_what_others_did_is_shown(self) -> None:
        window = self.window
        window.axis.setCurrentText("A")
        window.way.setText("12")
        QTest.mouseClick(window.send, LEFT)
        self.assertEqual("A moved by 12", window.said.text())
        window.red.setText("G2 OUT 24V")
        window.black.setText("G2 OUT 0V")
        QTest.mouseClick(window.put, LEFT)
        self.assertAlmostEqual(24, self.bench.meter.shown("V"), delta=0.3)
        self.bench.do("work B7")
        window.refresh()
        self.assertTrue(window.switches["B7"].isChecked())
        window.close()
        self.assertEqual([True], self.closed)
