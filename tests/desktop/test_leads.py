"""The Leads stage: a motor is measured with one hand, kept, undone, believed by the checks."""

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from tests.desktop.case import WindowCase
from vervain.desktop.background import wait_for_background
from vervain.desktop.session import Selection
from vervain.desktop.stages.leads.picture import lay_out
from vervain.desktop.theme import looks
from vervain.model.machine import Machine
from vervain.model.measurements import Meter

KEY = Qt.Key


class LeadsCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(Selection(device="M1"))
        self.window.show_stage("Leads")
        self.stage = self.window.leads
        self.field = self.stage.measuring.field
        self.answered()

    def answered(self) -> None:
        self.until(lambda: self.stage.measuring.finding is not None)
        wait_for_background()
        QApplication.processEvents()

    def measure(self, pairs: set[frozenset[str]]) -> None:
        """Answers what is asked until nothing more is."""
        for _ in range(12):
            self.answered()
            if self.stage.measuring.finding.next_pair is None:
                return
            conducts = frozenset(self.stage.measuring.finding.next_pair) in pairs
            self.keys(
                self.stage.measuring.field, *(("1.1", KEY.Key_Return) if conducts else ("o",))
            )
        self.fail("it goes on asking")

    def click(self, *leads: str) -> None:
        """Clicks leads on the circle."""
        circle = self.stage.measuring.circle
        spots = lay_out(circle.leads, circle.width(), circle.height(), looks.scale)
        for lead in leads:
            spot = next(spot for spot in spots if spot.lead == lead)
            QTest.mouseClick(circle, Qt.MouseButton.LeftButton, pos=spot.bar.center().toPoint())


class Measuring(LeadsCase):
    def test_a_builder_who_knows_nothing_finds_the_pairs_of_four_leads(self) -> None:
        truth = {frozenset(("BK", "RD")), frozenset(("GN", "BU"))}
        self.measure(truth)
        readings = self.session.queries.device("M1").readings
        self.assertLessEqual(len(readings), 5)
        self.assertEqual(("all leads", "body"), (readings[-1].a, readings[-1].b))
        self.assertIn("BK–RD, GN–BU", self.stage.measuring.result.text())
        self.assertIn("agrees with the datasheet", self.stage.measuring.result.text())
        self.keys(self.field, "t")
        self.assertEqual((("BK", "RD"), ("GN", "BU")), self.session.queries.device("M1").coils)
        keys = self.finding_keys()
        self.assertIn("leads.split-coil:M1", keys)
        finding = next(f for f in self.session.findings() if f.key == "leads.split-coil:M1")
        self.assertIn("readings of", finding.why)
        mended = finding.fixes[0].remedy.apply(self.session.machine)
        self.session.apply("Mend", lambda _: mended)
        self.assertNotIn("leads.split-coil:M1", self.finding_keys())
        self.stage.measuring.forget_coils()
        self.assertEqual((), self.session.queries.device("M1").coils)

    def test_any_pair_is_read_at_any_time_by_circle_and_by_key(self) -> None:
        asked = self.stage.measuring.finding.next_pair
        self.click("GN", "BU")
        self.assertEqual(("GN", "BU"), self.stage.measuring.pair.pair)
        self.keys(self.field, KEY.Key_Left)
        self.assertEqual(("BK", "BU"), self.stage.measuring.pair.pair)
        self.keys(self.field, (KEY.Key_Right, Qt.KeyboardModifier.ShiftModifier))
        self.assertEqual(("BK", "GN"), self.stage.measuring.pair.pair)
        self.keys(self.field, KEY.Key_Escape)
        self.assertEqual(asked, self.stage.measuring.pair.pair)
        self.measure({frozenset(("BK", "RD")), frozenset(("GN", "BU"))})
        before = len(self.session.queries.device("M1").readings)
        self.click("BU", "RD")
        self.keys(self.field, "9", KEY.Key_Return)
        self.answered()
        reading = self.session.queries.device("M1").readings[before]
        self.assertEqual(("BU", "RD", 9.0), (reading.a, reading.b, reading.resistance_ohm))
        # What now contradicts the others is asked for again, and nothing is kept before.
        self.assertEqual({"BU", "RD"}, set(self.stage.measuring.finding.next_pair))
        self.keys(self.field, "t")
        self.assertIn("Not certain yet", self.said[-1])

    def test_backspace_takes_one_back_and_undo_brings_it_again(self) -> None:
        first = self.stage.measuring.finding.next_pair
        self.keys(self.field, "o")
        self.answered()
        self.assertNotEqual(first, self.stage.measuring.finding.next_pair)
        self.keys(self.field, KEY.Key_Backspace)
        self.answered()
        self.assertEqual(first, self.stage.measuring.finding.next_pair)
        self.session.undo()
        self.assertEqual(1, len(self.session.queries.device("M1").readings))

    def test_nonsense_is_refused_in_words(self) -> None:
        for text, word in (("lots", "not a number"), ("-3", "not negative"), ("3 V", "not in")):
            self.stage.measuring.field.setText(text)
            self.keys(self.field, KEY.Key_Return)
            with self.subTest(text):
                self.assertIn(word, self.said[-1])
        self.assertEqual((), self.session.queries.device("M1").readings)
        self.stage.measuring.field.clear()
        self.keys(self.field, "t")
        self.assertIn("Not certain yet", self.said[-1])

    def test_units_and_prefixes_are_taken(self) -> None:
        self.keys(self.field, "1400 mohm", KEY.Key_Return)
        self.assertAlmostEqual(1.4, self.session.queries.device("M1").readings[0].resistance_ohm)

    def test_another_motor_is_turned_to(self) -> None:
        self.session.select(Selection(device="M4"))
        self.answered()
        self.assertEqual(8, len(self.stage.measuring.circle.leads))
        self.assertIn("M4", self.stage.line.words.text())
        self.session.select(Selection(device="K1"))
        self.assertEqual("M4", self.stage.measuring.question.device)

    def test_a_machine_without_motors_says_so(self) -> None:
        window = self.open(Machine(name="New"))
        window.show_stage("Leads")
        self.assertIn("No motor to measure", window.leads.line.words.text())
        self.assertFalse(window.leads.measuring.field.isEnabled())

    def test_nothing_overlaps_at_150_percent(self) -> None:
        self.window.appearance.set_scale(1.5)
        QApplication.processEvents()
        stage = self.stage
        parts = (
            stage.measuring.left,
            stage.measuring.circle,
            stage.measuring.beliefs,
            stage.measuring.result,
        )
        boxes = [part.geometry() for part in parts]
        for number, one in enumerate(boxes):
            for other in boxes[number + 1 :]:
                self.assertFalse(one.intersects(other), (one, other))
        self.window.appearance.set_scale(1.0)

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
    def setUp(self) -> None:
        super().setUp()
        self.window.show_stage("Leads")

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
            ("Meter's error", "2 %", lambda m: m.error_fraction),
            ("Open above", "2 Mohm", lambda m: m.open_above_ohm),
        ):
            field = self.field(name)
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            self.assertNotEqual(value(Meter()), value(self.session.machine.meter))
        meter = self.session.machine.meter
        self.assertEqual(
            (0.3, 45.0, 0.02, 2e6),
            (
                meter.leads_ohm,
                meter.motor_temperature_c,
                meter.error_fraction,
                meter.open_above_ohm,
            ),
        )
        # The meter goes with the builder to the next machine, the warmth of a motor does not.
        self.window.documents.new_machine()
        self.assertEqual(replace(meter, motor_temperature_c=20.0), self.session.machine.meter)

    def test_the_error_is_learnt_from_a_resistor(self) -> None:
        # 10 ohm shows 10.75: 0.2 are the leads, 0.05 its least step, 0.5 are 5 %.
        self.session.select(Selection(device="M1"))
        self.keys(self.field("Known resistor"), "10 shows 10.75", KEY.Key_Return)
        self.assertAlmostEqual(0.05, self.session.machine.meter.error_fraction)
        for text, word in (("10", "10 shows 10.3"), ("10 shows 40", "another resistor")):
            self.keys(self.field("Known resistor"), text, KEY.Key_Return)
            self.assertIn(word, self.said[-1])
        self.assertAlmostEqual(0.05, self.session.machine.meter.error_fraction)

    def test_what_no_meter_has_is_refused(self) -> None:
        self.session.select(Selection(device="M1"))
        for name, text, word in (
            ("Meter's own leads", "-1", "between 0 and 10"),
            ("Motor is at", "900", "between -40 and 150"),
            ("Motor is at", "hot", "not a number"),
            ("Meter's error", "40 %", "between 0 and 20"),
        ):
            field = self.field(name)
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            with self.subTest(text):
                self.assertIn(word, self.said[-1])
        self.assertEqual(Meter(), self.session.machine.meter)
