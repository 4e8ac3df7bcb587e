"""The order of leads, how windings are used, and colours merged, in the real window."""

import json

from PyQt6.QtCore import Qt

from tests.desktop.case import WindowCase
from tests.desktop.test_leads import KEY, LeadsCase
from vervain.desktop.session import Selection
from vervain.edits.measurement_edits import add_reading, remove_reading, set_coils, set_meter
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.files.problems import FileProblem
from vervain.leads.motors import order_at_driver
from vervain.model.machine import Machine
from vervain.model.measurements import Meter, Reading
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries


class Order(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(Selection(device="M1"))
        self.window.show_stage("Leads")
        self.keys(self.window.leads.measuring.field, "r")
        self.panel = self.window.leads.order

    def order(self) -> tuple[str, ...]:
        return order_at_driver(self.session.queries, "M1")[1]

    def test_a_motor_that_buzzes_is_put_right_in_two_exchanges(self) -> None:
        start = self.order()
        self.assertIn("What does it do", self.panel.words.text())
        self.keys(self.panel, "3")
        self.assertIn("Exchange GN at A− with RD at B+", self.panel.words.text())
        self.assertIn("Power off first", self.panel.more.text())
        self.keys(self.panel, KEY.Key_Return)
        self.assertEqual(("BK", "RD", "GN", "BU"), self.order())
        self.keys(self.panel, "3", KEY.Key_Return, "2")
        self.assertIn("4 of 24", self.panel.more.text())
        running = self.order()
        self.keys(self.panel, KEY.Key_Return, "1")
        self.assertEqual({running[0], running[1]}, set(self.order()[:2]))
        self.assertIn("The order is right", self.panel.words.text())
        self.assertEqual(4, len(self.session.queries.device("M1").trials))
        while self.session.at:
            self.session.undo()
        self.assertEqual(start, self.order())

    def test_measured_coils_are_known_to_it_and_it_advises_what_the_checks_do(self) -> None:
        self.session.apply("Coils", lambda m: set_coils(m, "M1", (("BK", "RD"), ("GN", "BU"))))
        self.assertIn("By the coils that were measured", self.panel.more.text())
        self.until(lambda: "leads.split-coil:M1" in self.finding_keys())
        finding = next(f for f in self.session.findings() if f.key == "leads.split-coil:M1")
        self.keys(self.panel, KEY.Key_Return)
        self.assertEqual(
            order_at_driver(Queries(finding.fixes[0].remedy.apply(self.before())), "M1")[1],
            self.order(),
        )
        self.assertNotIn("leads.split-coil:M1", self.finding_keys())
        self.keys(self.panel, "3")
        self.assertIn("measured coils lie right", self.panel.more.text())

    def before(self) -> Machine:
        """The machine before the last edit."""
        return self.session.steps[self.session.at - 1].machine

    def test_windings_that_are_split_among_joined_leads_are_put_right_first(self) -> None:
        self.session.select(Selection(device="M4"))
        self.until(lambda: "leads.split-coil:M4" in self.finding_keys())
        self.assertIn("Exchange WHBK and WHYE of M4", self.panel.words.text())
        self.keys(self.panel, KEY.Key_Return)
        self.assertNotIn("leads.split-coil:M4", self.finding_keys())
        self.assertIn("What does it do", self.panel.words.text())

    def test_a_loose_contact_is_noticed(self) -> None:
        self.keys(self.panel, "13")
        self.assertIn("contradicts", self.panel.words.text())
        self.assertIn("loose contact", self.panel.more.text())

    def test_what_the_motor_did_is_believed_by_the_checks(self) -> None:
        # The leads lie as the part says, and it does not run: the part's colours are not this
        # motor's, and no finding may send the leads back.
        self.keys(self.panel, "3", KEY.Key_Return, "1")
        self.assertNotIn("leads.split-coil:M1", self.finding_keys())

    def test_it_holds_but_never_moves(self) -> None:
        self.keys(self.panel, "5")
        self.assertIn("step and direction", self.panel.more.text())
        self.assertIn("24 of 24", self.panel.more.text())

    def test_no_holding_torque_asks_to_check_first(self) -> None:
        self.keys(self.panel, "4")
        self.assertIn("Check first", self.panel.more.text())
        self.panel.begin_again()
        self.assertEqual((), self.session.queries.device("M1").trials)

    def test_when_no_pairing_runs_the_order_is_not_the_fault(self) -> None:
        self.keys(self.panel, "3", KEY.Key_Return, "3", KEY.Key_Return, "3")
        self.assertIn("not the fault", self.panel.words.text())

    def test_a_motor_on_no_driver_says_where_to_go(self) -> None:
        self.session.select(Selection(device="M11"))
        self.assertIn("not on all terminals", self.panel.words.text())
        self.session.select(Selection(device="B1"))
        self.assertIs(self.window.leads.merge_page, self.window.leads.body.currentWidget())


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


class ThreePhaseOrder(WindowCase):
    def test_a_three_phase_motor_is_turned_round_by_two_of_its_leads(self) -> None:
        self.session.select(Selection(device="M6"))
        self.window.show_stage("Leads")
        self.settle()
        self.keys(self.window.leads.measuring.field, "r")
        panel = self.window.leads.order
        self.assertIn("6 of 6 orders", panel.more.text())
        self.keys(panel, "2", KEY.Key_Return)
        self.assertEqual(("WH", "RD", "BK"), order_at_driver(self.session.queries, "M6")[1])
        self.keys(panel, "1")
        self.assertIn("order is right", panel.words.text())
        self.assertEqual(2, len(self.session.queries.device("M6").trials))


class Corrections(LeadsCase):
    """The list of readings, and the body."""

    def read(self, *answers: str) -> None:
        for answer in answers:
            self.keys(
                self.stage.measuring.field,
                answer,
                *((KEY.Key_Return,) if answer[0].isdigit() else ()),
            )
            self.answered()

    def readings(self) -> list[str]:
        found = self.session.queries.device("M1").readings
        return [f"{r.a}-{r.b} {r.resistance_ohm or r.saw}" for r in found]

    def test_a_reading_is_corrected_in_its_place_moved_and_taken_back(self) -> None:
        self.read("o", "1.1", "1.3")
        before = self.readings()
        self.keys(self.field, KEY.Key_Up)
        self.keys(self.stage.measuring.read, KEY.Key_Up, KEY.Key_Return)
        self.assertIn("Correct 2", self.stage.measuring.step.text())
        self.read("1.2")
        self.assertEqual([before[0], before[1].replace("1.1", "1.2"), before[2]], self.readings())
        self.stage.measuring.read.setCurrentRow(2)
        self.keys(self.stage.measuring.read, (KEY.Key_Up, Qt.KeyboardModifier.ControlModifier))
        self.answered()
        self.assertEqual(before[2], self.readings()[1])
        self.stage.measuring.read.setCurrentRow(0)
        self.keys(self.stage.measuring.read, KEY.Key_Delete)
        self.answered()
        self.assertEqual(2, len(self.readings()))
        self.session.undo()
        self.assertEqual(3, len(self.readings()))

    def test_a_lead_is_probed_against_the_body_and_escape_goes_back(self) -> None:
        self.keys(self.field, "b")
        self.assertEqual(("all leads", "body"), self.stage.measuring.pair.pair)
        self.keys(self.field, "bb")
        self.assertEqual(("GN", "body"), self.stage.measuring.pair.pair)
        self.keys(self.field, KEY.Key_Escape)
        self.assertNotIn("body", self.stage.measuring.pair.pair)
        self.keys(self.field, "bb")
        self.read("0.4")
        self.assertEqual(["BK-body 0.4"], self.readings())
        self.assertIn("do not power", self.stage.measuring.result.text())


class Use(WindowCase):
    demo = "glazing-gantry-as-planned"

    def setUp(self) -> None:
        super().setUp()
        self.session.select(Selection(device="M4"))
        self.window.show_stage("Leads")
        self.stage = self.window.leads
        self.field = self.stage.measuring.field
        self.settle()
        self.keys(self.field, "u")
        self.panel = self.stage.use

    def test_another_use_is_wired_by_keys_and_the_checks_follow(self) -> None:
        self.assertIn("Wired: parallel. 3 A", self.panel.words.text())
        self.keys(self.panel, KEY.Key_Down, KEY.Key_Return)
        self.assertIn("Wired: series. 1.5 A", self.panel.words.text())
        self.assertIn("supply.driver-current:M4:T4:over", self.finding_keys())
        self.session.undo()
        self.assertEqual(set(), self.finding_keys())
        self.keys(self.panel, "u")
        self.assertIs(self.stage.scroller, self.stage.body.currentWidget())

    def test_eight_leads_are_told_apart_by_windings_in_series(self) -> None:
        coils = (("RD", "WHBK"), ("BK", "WHRD"), ("YE", "WHYE"), ("BU", "WHBU"))
        self.session.apply("Coils", lambda m: set_coils(m, "M4", coils))
        self.assertTrue(self.panel.answers[0].isVisible())
        self.assertIn("Join WHBK to BK", self.panel.words.text())
        self.keys(self.panel, "3", "1", "2", "1")
        self.assertEqual((), tuple(self.panel.table.uses)[3:])
        self.assertTrue(self.panel.table.isVisible())
        self.assertFalse(self.panel.answers[0].isVisible())
        self.keys(self.panel, "1", KEY.Key_Return)
        self.assertIn("Wired: half coil", self.panel.words.text())
        tests = self.session.queries.device("M4").series_tests
        self.assertEqual(["between", "double", "nothing"], [test.saw for test in tests])

    def test_a_motor_of_four_leads_has_no_choice(self) -> None:
        self.session.select(Selection(device="M1"))
        self.assertFalse(self.stage.using.isVisible())
        self.assertFalse(self.stage.using.isChecked())


class Merge(WindowCase):
    def rows(self, device: str):
        self.session.select(Selection(device=device))
        self.window.show_stage("Leads")
        self.settle()
        self.stage = self.window.leads
        self.field = self.stage.measuring.field
        return self.stage.merge.plug.rows

    def test_a_reversed_plug_is_marked_pin_by_pin_until_it_is_turned(self) -> None:
        rows = self.rows("M7")
        self.assertIs(self.stage.merge_page, self.stage.body.currentWidget())
        self.assertEqual(["OG", "BN", "RD"], [row.colour for row in rows])
        self.assertIn("signal lies on plus", rows[0].marks[0])
        self.assertIn("Plus lies on the signal", rows[2].marks[0])
        finding = next(f for f in self.session.findings() if f.rule == "signals.power-on-signal")
        self.session.apply("Turn", finding.fixes[0].remedy.apply)
        self.settle()
        self.assertEqual([], [mark for row in self.stage.merge.plug.rows for mark in row.marks])
        self.assertIn("agree", self.stage.merge.words.text())

    def test_only_what_has_no_direction_may_change_places(self) -> None:
        for device, free in (("B1", True), ("B3", False), ("M9", True), ("M10", False)):
            with self.subTest(device):
                self.rows(device)
                self.assertEqual(free, self.stage.merge.plug.free)

    def test_channels_and_complements_are_told_apart(self) -> None:
        words = [row.words for row in self.rows("B9")]
        self.assertIn("channel A, complement", words)
        self.session.select(Selection(device="M1"))
        self.settle()
        self.assertIs(self.stage.scroller, self.stage.body.currentWidget())


class Printed(LeadsCase):
    def test_printed_colours_are_taken_and_marked_as_not_measured(self) -> None:
        self.keys(self.field, "p")
        device = self.session.queries.device("M1")
        self.assertEqual((("BK", "GN"), ("RD", "BU")), device.coils)
        self.assertTrue(device.coils_printed)
        self.assertIn("not measured", self.stage.line.words.text())
        again = decode_machine(encode_machine(self.session.machine), "again")
        self.assertEqual(self.session.machine, again)
