"""The Bench with live inputs and a meter: the window against the stand-ins, faults in them too."""

import time
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.desktop.test_bench_stage import BenchCase
from tests.listening import HERE, free_port
from tests.timing import least_s
from vervain.desktop.session import Selection
from vervain.live.controller_link import Address
from vervain.model.machine import PortRef
from vervain.stand_in.controller import SimulatedController
from vervain.stand_in.meter import SimulatedMeter
from vervain.stand_in.script import StandInBench

KEY, LEFT = Qt.Key, Qt.MouseButton.LeftButton
OUT_1 = PortRef(device="K1", port="OUT 1")


class LiveCase(BenchCase):
    def setUp(self) -> None:
        super().setUp()
        self.bench = StandInBench(self.session.machine, [])
        self.port, self.meter_port = free_port(), free_port()
        self.controller = self.serve()
        self.bench.meter = SimulatedMeter(self.bench.stand_in, Address(HERE, self.meter_port))
        self.bench.meter.open()
        self.addCleanup(self.bench.meter.close)
        self.live = self.stage.live

    def serve(self) -> SimulatedController:
        controller = SimulatedController(self.bench.stand_in, "K1", Address(HERE, self.port))
        controller.open()
        self.addCleanup(controller.close)
        return controller

    def connect(self) -> None:
        """By the key, the fields and Enter, as a builder would."""
        self.keys(self.stage.list, "c")
        panel = self.live.connections
        for name, port in (("K1", self.port), ("", self.meter_port)):
            panel.fields[name].setText(f"{HERE}:{port}")
            self.keys(panel.fields[name], KEY.Key_Return)
        self.keys(panel, KEY.Key_Escape)
        self.until(lambda: self.live.links.is_live("K1") and self.live.links.reading is not None)

    def wait(self, seconds: float) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            QApplication.processEvents()
            time.sleep(0.005)

    def watched(self) -> str:
        return self.stage.page.watched.text()


class Live(LiveCase):
    def test_a_step_passes_by_itself_when_its_lamp_answers_alone(self) -> None:
        self.go_to("input B4")
        self.connect()
        self.wait(0.1)
        self.bench.do("work B4")
        self.until(lambda: self.state("input B4") == "passed")
        self.assertEqual("IN 4 goes out", self.session.machine.bench_results[-1].seen)
        self.assertEqual("input B5", self.stage.step.id)
        self.assertEqual("K1", self.live.lamps.device)

    def test_another_lamp_is_told_and_nothing_passes(self) -> None:
        self.go_to("input B3")
        self.bench.do("exchange K1 IN 3 / K1 IN 4")
        self.connect()
        self.wait(0.1)
        self.bench.do("work B3")
        self.until(lambda: "IN 4 changed instead" in self.watched())
        self.assertEqual("", self.state("input B3"))
        self.keys(self.stage.list, "f")
        self.until(lambda: bool(self.stage.causes.causes))
        self.assertTrue(any("IN 4 instead of" in c.what for c in self.stage.causes.left))

    def test_space_takes_what_the_meter_and_the_counter_show(self) -> None:
        self.go_to("volts G2 OUT 1")
        self.connect()
        self.bench.do("probe G2 OUT 24V / G2 OUT 0V")
        self.until(lambda: abs(self.live.links.reading.value - 24) < 0.5)
        self.assertIn("23.96 V", self.live.meter.value.text())
        self.keys(self.stage.list, KEY.Key_Space)
        self.assertEqual("passed", self.state("volts G2 OUT 1"))
        self.go_to("coils M1")
        self.until(lambda: self.live.links.reading.unit == "Ω")
        self.go_to("counts A")
        self.until(lambda: self.live.watch.count() == 0)
        self.bench.do("send A 60")
        self.until(lambda: "+4 000 counts" in self.watched())
        self.keys(self.stage.list, KEY.Key_Space)
        self.assertEqual("passed", self.state("counts A"))

    def test_an_output_is_on_for_a_moment_and_off_when_its_step_is_left(self) -> None:
        self.go_to("output K1 OUT 1")
        self.assertFalse(self.stage.page.switch_button.isVisible())
        self.connect()
        self.until(lambda: self.stage.page.switch_button.isVisible())
        machine = self.bench.stand_in.machine
        QTest.mouseClick(self.stage.page.switch_button, LEFT)
        self.until(lambda: OUT_1 in machine.on)
        self.until(lambda: OUT_1 not in machine.on)
        # Nothing but the leaving takes it off as soon as that.
        with mock.patch("vervain.desktop.stages.bench.live_side.ARMED_S", 20.0):
            for leave in (
                lambda: self.go_to("lock M1"), lambda: self.window.show_stage("Ports"),
                self.live.links.close,
            ):  # fmt: skip
                self.window.show_stage("Bench")
                self.go_to("output K1 OUT 1")
                self.keys(self.stage.list, "o")
                self.until(lambda: OUT_1 in machine.on)
                began = time.monotonic()
                leave()
                self.until(lambda: OUT_1 not in machine.on)
                self.assertLess(time.monotonic() - began, 10.0)

    def test_a_lost_controller_is_told_its_lamps_go_and_it_comes_back(self) -> None:
        self.go_to("input B4")
        self.connect()
        self.controller.close()
        self.until(lambda: not self.live.links.is_live("K1"))
        self.assertEqual({}, self.live.links.histories["K1"].lamps)
        # What changed while nobody saw it proves nothing.
        self.bench.do("work B4")
        self.controller = self.serve()
        self.until(lambda: self.live.links.is_live("K1"))
        self.wait(0.6)
        self.assertEqual("", self.state("input B4"))

    def test_the_address_is_kept_with_the_machine_and_a_bad_one_is_told(self) -> None:
        self.connect()
        self.assertEqual(f"{HERE}:{self.port}", self.session.queries.device("K1").address)
        self.keys(self.stage.list, "c")
        panel = self.live.connections
        QTest.mouseClick(panel.buttons["K1"], LEFT)
        self.assertEqual({}, self.live.links.links)
        panel.fields["K1"].setText("bench:many")
        QTest.mouseClick(panel.buttons["K1"], LEFT)
        self.assertIn("is no address", self.said[-1])
        self.assertEqual({}, self.live.links.links)

    def test_the_map_is_changed_and_read_by_at_once(self) -> None:
        self.connect()
        self.keys(self.stage.list, "c")
        panel = self.live.connections
        QTest.mouseClick(panel.maps["K1"], LEFT)
        panel.map.setPlainText("IN 4  discrete input 99999")
        QTest.mouseClick(panel.keep, LEFT)
        self.assertIn("line 1", self.said[-1])
        panel.map.setPlainText("IN 4  discrete input 4\nENC 1  input register 0, 2 words")
        QTest.mouseClick(panel.keep, LEFT)
        self.assertEqual(2, len(self.session.queries.part_of("K1").live))
        self.until(lambda: self.live.lamps.ports() == ["IN 4", "ENC 1"])
        self.until(lambda: self.live.links.histories["K1"].lamps == {"IN 4": True})

    def test_forty_reads_a_second_leave_the_interface_free(self) -> None:
        self.go_to("input B4")

        def longest_usual_gap_s() -> float:
            gaps, before = [], time.monotonic()
            end = before + 2
            while time.monotonic() < end:
                QApplication.processEvents()
                now = time.monotonic()
                gaps.append(now - before)
                before = now
                time.sleep(0.001)
            return sorted(gaps)[int(len(gaps) * 0.99)]

        # A busy machine makes everybody wait: so long without reads as well.
        idle_s = longest_usual_gap_s()
        self.connect()
        limit_s = max(0.1, 3 * idle_s)
        self.assertLess(least_s(longest_usual_gap_s, limit_s), limit_s)


class LeadsWithMeter(LiveCase):
    def test_the_coil_finder_takes_what_the_meter_shows(self) -> None:
        self.go_to("coils M1")
        self.connect()
        self.session.select(Selection(device="M1"))
        self.window.show_stage("Leads")
        page = self.window.leads.measuring
        self.until(lambda: page.finding is not None and page.finding.next_pair is not None)
        a, b = page.finding.next_pair
        self.bench.do(f"probe M1 LEADS {a} / M1 LEADS {b}")
        self.until(
            lambda: self.live.links.reading.unit == "Ω" and self.live.links.reading.value < 1e6
        )
        self.assertIn("Space takes it", page.field.placeholderText())
        self.keys(page.field, KEY.Key_Space)
        readings = self.session.queries.device("M1").readings
        self.assertEqual((a, b, "ohms"), (readings[0].a, readings[0].b, readings[0].saw))
        self.live.links.leave_meter()
        self.keys(page.field, KEY.Key_Space)
        self.assertIn("No meter shows ohms", self.said[-1])
        self.assertEqual(1, len(self.session.queries.device("M1").readings))
