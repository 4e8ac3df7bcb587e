"""The Leads stage: a motor is measured with one hand, kept, undone, believed by the checks."""

import json

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLineEdit

from tests.desktop.case import WindowCase
from vervain.desktop.background import wait_for_background
from vervain.desktop.session import Selection
from vervain.desktop.stages.leads_picture import lay_out
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.files.problems import FileProblem
from vervain.leads.motors import order_at_driver
from vervain.machine.edits import add_reading, remove_reading, set_coils, set_meter
from vervain.machine.evidence import Meter, Reading
from vervain.machine.machine import Machine
from vervain.machine.problem import Problem

KEY = Qt.Key


class Measuring(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(Selection(device="M1"))
        self.window.show_stage("Leads")
        self.stage = self.window.leads
        self.answered()

    def answered(self) -> None:
        self.until(lambda: self.stage.finding is not None)
        wait_for_background()
        QApplication.processEvents()

    def measure(self, pairs: set[frozenset[str]]) -> None:
        """Answers what is asked until nothing more is."""
        for _ in range(12):
            self.answered()
            if self.stage.finding.next_pair is None:
                return
            conducts = frozenset(self.stage.finding.next_pair) in pairs
            self.keys(self.stage.field, *(("1.1", KEY.Key_Return) if conducts else ("o",)))
        self.fail("it goes on asking")

    def test_a_builder_who_knows_nothing_finds_the_pairs_of_four_leads(self) -> None:
        truth = {frozenset(("BK", "RD")), frozenset(("GN", "BU"))}
        self.measure(truth)
        self.assertLessEqual(len(self.session.look.device("M1").readings), 4)
        self.assertIn("BK–RD, GN–BU", self.stage.result.text())
        self.assertIn("agrees with the datasheet", self.stage.result.text())
        self.keys(self.stage.field, "t")
        self.assertEqual((("BK", "RD"), ("GN", "BU")), self.session.look.device("M1").coils)
        keys = self.finding_keys()
        self.assertIn("leads.split-coil:M1", keys)
        finding = next(f for f in self.session.findings() if f.key == "leads.split-coil:M1")
        self.assertIn("readings of", finding.why)
        mended = finding.fixes[0].remedy.apply(self.session.machine)
        self.session.apply("Mend", lambda _: mended)
        self.assertNotIn("leads.split-coil:M1", self.finding_keys())
        self.stage.forget_coils()
        self.assertEqual((), self.session.look.device("M1").coils)

    def test_backspace_takes_one_back_and_undo_brings_it_again(self) -> None:
        first = self.stage.finding.next_pair
        self.keys(self.stage.field, "o")
        self.answered()
        self.assertNotEqual(first, self.stage.finding.next_pair)
        self.keys(self.stage.field, KEY.Key_Backspace)
        self.answered()
        self.assertEqual(first, self.stage.finding.next_pair)
        self.session.undo()
        self.assertEqual(1, len(self.session.look.device("M1").readings))

    def test_nonsense_is_refused_in_words(self) -> None:
        for text, word in (("lots", "not a number"), ("-3", "not negative"), ("3 V", "not in")):
            self.stage.field.setText(text)
            self.keys(self.stage.field, KEY.Key_Return)
            with self.subTest(text):
                self.assertIn(word, self.said[-1])
        self.assertEqual((), self.session.look.device("M1").readings)
        self.stage.field.clear()
        self.keys(self.stage.field, "t")
        self.assertIn("Not certain yet", self.said[-1])

    def test_units_and_prefixes_are_taken(self) -> None:
        self.keys(self.stage.field, "1400 mohm", KEY.Key_Return)
        self.assertAlmostEqual(1.4, self.session.look.device("M1").readings[0].resistance_ohm)

    def test_another_motor_is_turned_to(self) -> None:
        self.session.select(Selection(device="M4"))
        self.answered()
        self.assertEqual(8, len(self.stage.circle.leads))
        self.assertIn("M4", self.stage.line.words.text())
        self.session.select(Selection(device="K1"))
        self.assertEqual("M4", self.stage.question.device)

    def test_a_machine_without_motors_says_so(self) -> None:
        window = self.open(Machine(name="New"))
        window.show_stage("Leads")
        self.assertIn("No motor to measure", window.leads.line.words.text())
        self.assertFalse(window.leads.field.isEnabled())

    def test_nothing_overlaps_at_150_percent(self) -> None:
        self.window.set_scale(1.5)
        QApplication.processEvents()
        stage = self.stage
        parts = (stage.left, stage.circle, stage.beliefs, stage.result)
        boxes = [part.geometry() for part in parts]
        for number, one in enumerate(boxes):
            for other in boxes[number + 1 :]:
                self.assertFalse(one.intersects(other), (one, other))
        self.window.set_scale(1.0)

    def test_the_circle_keeps_its_leads_apart_and_inside(self) -> None:
        for count, scale in ((3, 1.0), (8, 1.0), (8, 1.5)):
            leads = tuple(f"L{n}" for n in range(count))
            spots = lay_out(leads, 480 * scale, 400 * scale, scale)
            for number, one in enumerate(spots):
                self.assertGreaterEqual(one.bar.left(), 0)
                self.assertGreaterEqual(one.bar.top(), 0)
                for other in spots[number + 1 :]:
                    self.assertFalse(one.bar.intersects(other.bar))


class MeterFacts(WindowCase):
    def field(self, name: str) -> QLineEdit:
        QApplication.processEvents()
        return next(
            field
            for field in self.window.side.facts.findChildren(QLineEdit)
            if field.accessibleName() == name and field.isVisible()
        )

    def test_the_meter_and_the_motors_warmth_are_set_in_the_card(self) -> None:
        self.session.select(Selection(device="M1"))
        for name, text, value in (
            ("Meter's own leads", "300 mohm", lambda m: m.leads_ohm),
            ("Motor is at", "45 °C", lambda m: m.motor_temperature_c),
        ):
            field = self.field(name)
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            self.assertNotEqual(value(Meter()), value(self.session.machine.meter))
        self.assertEqual((0.3, 45.0), (
            self.session.machine.meter.leads_ohm,
            self.session.machine.meter.motor_temperature_c,
        ))  # fmt: skip

    def test_what_no_meter_has_is_refused(self) -> None:
        self.session.select(Selection(device="M1"))
        for name, text, word in (
            ("Meter's own leads", "-1", "between 0 and 10"),
            ("Motor is at", "900", "between -40 and 150"),
            ("Motor is at", "hot", "not a number"),
        ):
            field = self.field(name)
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            with self.subTest(text):
                self.assertIn(word, self.said[-1])
        self.assertEqual(Meter(), self.session.machine.meter)


class Order(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(Selection(device="M1"))
        self.window.show_stage("Leads")
        self.keys(self.window.leads.field, "r")
        self.panel = self.window.leads.order

    def order(self) -> tuple[str, ...]:
        return order_at_driver(self.session.look, "M1")[1]

    def test_a_motor_that_buzzes_is_put_right_in_two_exchanges(self) -> None:
        start = self.order()
        self.assertIn("What does it do", self.panel.words.text())
        self.keys(self.panel, "3")
        self.assertIn("Exchange GN at A− with RD at B+", self.panel.words.text())
        self.assertIn("Power off first", self.panel.more.text())
        self.keys(self.panel, KEY.Key_Return)
        self.assertEqual(("BK", "RD", "GN", "BU"), self.order())
        self.keys(self.panel, "3", KEY.Key_Return, "2")
        self.assertIn("8 of 24", self.panel.more.text())
        running = self.order()
        self.keys(self.panel, KEY.Key_Return, "1")
        self.assertEqual({running[0], running[1]}, set(self.order()[:2]))
        self.assertIn("The order is right", self.panel.words.text())
        self.assertEqual(4, len(self.session.look.device("M1").trials))
        while self.session.at:
            self.session.undo()
        self.assertEqual(start, self.order())

    def test_no_holding_torque_asks_to_check_first(self) -> None:
        self.keys(self.panel, "4")
        self.assertIn("Check first", self.panel.more.text())
        self.panel.begin_again()
        self.assertEqual((), self.session.look.device("M1").trials)

    def test_when_no_pairing_runs_the_order_is_not_the_fault(self) -> None:
        self.keys(self.panel, "3", KEY.Key_Return, "3", KEY.Key_Return, "3")
        self.assertIn("not the fault", self.panel.words.text())

    def test_a_motor_on_no_driver_says_where_to_go(self) -> None:
        self.session.select(Selection(device="M11"))
        self.assertIn("not on the four terminals", self.panel.words.text())
        self.session.select(Selection(device="M6"))
        self.assertFalse(self.window.leads.wrong.isVisible())
        self.assertIs(self.window.leads.scroller, self.window.leads.body.currentWidget())


class Evidence(WindowCase):
    def test_readings_live_in_the_file_and_name_real_leads(self) -> None:
        machine = self.session.machine
        reading = Reading(a="RD", b="WHRD", saw="ohms", resistance_ohm=1.4, day="2026-11-23")
        machine = add_reading(machine, "M4", reading)
        machine = set_coils(set_meter(machine, Meter(leads_ohm=0.3)), "M4", (("RD", "WHRD"),))
        data = encode_machine(machine)
        self.assertEqual(machine, decode_machine(data, "x"))
        document = json.loads(data)
        four = next(d for d in document["devices"] if d["designator"] == "M4")
        four["readings"][0]["a"] = "XX"
        with self.assertRaises(FileProblem) as caught:
            decode_machine(json.dumps(document).encode(), "x")
        self.assertIn("XX", str(caught.exception))

    def test_a_second_reading_of_a_pair_stands_beside_the_first(self) -> None:
        machine = self.session.machine
        for ohms in (1.0, 2.0):
            machine = add_reading(
                machine, "M4", Reading(a="RD", b="BK", saw="ohms", resistance_ohm=ohms)
            )
        self.assertEqual(
            [1.0, 2.0], [r.resistance_ohm for d in machine.devices for r in d.readings]
        )
        machine = remove_reading(machine, "M4", 1)
        self.assertEqual(self.session.machine, remove_reading(machine, "M4", 0))
        with self.assertRaises(Problem):
            remove_reading(machine, "M4", 5)
        with self.assertRaises(Problem):
            add_reading(machine, "M4", Reading(a="RD", b="RD", saw="open"))
