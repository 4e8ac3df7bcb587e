"""Lanes, drivers in slots, versions of parts, readings: small facts that other things rely on."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests import small
from vervain.edits import axis_edits, device_edits, measurement_edits
from vervain.files.demos import open_demo
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.leads.merge import merge_rows, mergeable
from vervain.leads.motors import open_windings, printed_coils
from vervain.leads.rewiring import use_windings
from vervain.model.axis import Axis, Belt, Gear, Joint, Screw
from vervain.model.machine import Machine
from vervain.model.measurements import Reading, SeriesTest
from vervain.model.problem import Problem
from vervain.model.references import faults_of
from vervain.queries.changes import changes
from vervain.queries.connectivity import drivers_of, motors_of
from vervain.queries.device_groups import axis_with_driver, groups
from vervain.queries.machine_queries import Queries

GANTRY = open_demo("glazing-gantry-as-planned")
PRINTER = open_demo("clay-printer-as-planned")
ARM = open_demo("seedling-arm-as-planned")
AXES = ("X", "Y", "Z", "A")
DEVICES = ("M1", "M4", "M5", "B1", "B7", "B9", "B10", "T1", "K1")


def an_axis_edit():
    """One edit of axes or roles as a function of the machine."""
    axis, device = st.sampled_from(AXES), st.sampled_from(DEVICES)
    role = st.sampled_from(("drive", "feedback", "home", "min_limit", "max_limit", "brake", "also"))
    mechanism = st.sampled_from(
        (None, Screw(lead_mm=4), Belt(pitch_mm=2, teeth=16), Joint(),
         Gear(driving_teeth=1, driven_teeth=9))
    )  # fmt: skip
    return st.one_of(
        st.tuples(axis, role, device).map(lambda t: lambda m: axis_edits.put_in_role(m, *t)),
        device.map(lambda d: lambda m: axis_edits.take_from_roles(m, d)),
        axis.map(lambda a: lambda m: axis_edits.duplicate_axis(m, a)[0]),
        axis.map(lambda a: lambda m: axis_edits.remove_axis(m, a)),
        axis.map(lambda a: lambda m: axis_edits.mirror_motor(m, a)[0]),
        device.map(lambda d: lambda m: axis_edits.duplicate_device(m, d)[0]),
        st.tuples(axis, st.integers(-3, 3)).map(lambda t: lambda m: axis_edits.move_axis(m, *t)),
        st.tuples(axis, mechanism).map(lambda t: lambda m: axis_edits.set_mechanism(m, *t)),
        st.tuples(axis, st.floats(allow_nan=True)).map(
            lambda t: lambda m: axis_edits.set_axis_number(m, t[0], "travel", t[1])
        ),
        st.tuples(axis, st.text(max_size=10)).map(
            lambda t: lambda m: axis_edits.rename_axis(m, t[0], t[1], "renamed")
        ),
        device.map(lambda d: lambda m: device_edits.remove_device(m, d)),
        st.sampled_from(("half coil", "series", "parallel")).map(
            lambda kind: lambda m: use_windings(m, "M4", kind)
        ),
    )


class AnyEdits(unittest.TestCase):
    @given(st.lists(an_axis_edit(), max_size=8))
    def test_whatever_is_done_to_axes_the_machine_stays_whole_and_can_be_kept(self, acts) -> None:
        machine = GANTRY
        for act in acts:
            try:
                machine = act(machine)
            except Problem:
                continue
        self.assertEqual([], list(faults_of(machine)))
        self.assertEqual(machine, decode_machine(encode_machine(machine), "again"))
        names = [device.designator for device in machine.devices]
        self.assertEqual(len(names), len(set(names)))
        for axis in machine.axes:
            self.assertLessEqual(set(axis.members), set(names))
        Queries(machine).ask(lambda queries: groups(queries))


class Drivers(unittest.TestCase):
    def test_a_module_in_a_slot_drives_what_sits_in_the_ports_of_the_slot(self) -> None:
        queries = Queries(PRINTER)
        self.assertEqual(("T3",), drivers_of(queries, "M3"))
        self.assertEqual(("T3",), drivers_of(queries, "M4"))
        self.assertEqual({"M3", "M4"}, set(motors_of(queries, "T3")))
        self.assertEqual("Z", axis_with_driver(queries, "T3"))
        self.assertEqual("E", axis_with_driver(queries, "T4"))

    def test_a_driver_of_its_own_drives_its_motor(self) -> None:
        queries = Queries(ARM)
        self.assertEqual((("T2",), ("M2",)), (drivers_of(queries, "M2"), motors_of(queries, "T2")))
        self.assertEqual((), drivers_of(queries, "B1"))
        self.assertIsNone(axis_with_driver(queries, "K1"))


class Merging(unittest.TestCase):
    def test_planned_demos_have_nothing_to_mark(self) -> None:
        for machine in (GANTRY, PRINTER, ARM):
            queries = Queries(machine)
            for device in mergeable(queries):
                rows = merge_rows(queries, device)
                doubled = [mark for row in rows for mark in row.marks if "twice" not in mark]
                with self.subTest(f"{machine.name}: {device}"):
                    self.assertTrue(rows)
                    self.assertEqual([], doubled)

    def test_where_a_lead_lands_is_told_through_plugs(self) -> None:
        rows = merge_rows(Queries(GANTRY), "M7")
        self.assertEqual(["K1 SERVO S", "K1 SERVO 0V S", "K1 SERVO 6V"], [r.lands for r in rows])

    def test_printed_coils_are_those_of_the_part(self) -> None:
        queries = Queries(
            small.bench("M1 osier-sm57-6", "M2 osier-sm86-3-6", "M3 fell-s57").machine
        )
        self.assertEqual((("BK", "YE", "GN"), ("RD", "WH", "BU")), printed_coils(queries, "M1"))
        self.assertEqual(3, len(open_windings(queries, "M2")))
        self.assertEqual((), open_windings(queries, "M3"))


class Evidence(unittest.TestCase):
    def setUp(self) -> None:
        self.machine = GANTRY
        for ohms in (1.0, 2.0, 3.0):
            reading = Reading(a="RD", b="BK", saw="ohms", resistance_ohm=ohms)
            self.machine = measurement_edits.add_reading(self.machine, "M4", reading)

    def ohms(self, machine: Machine) -> list[float]:
        return [r.resistance_ohm for r in device_edits.find_device(machine, "M4").readings]

    def test_readings_move_and_are_corrected_in_place(self) -> None:
        self.assertEqual(
            [2, 1, 3], self.ohms(measurement_edits.move_reading(self.machine, "M4", 1, -1))
        )
        self.assertEqual(
            [2, 3, 1], self.ohms(measurement_edits.move_reading(self.machine, "M4", 0, 9))
        )
        better = Reading(a="RD", b="BK", saw="ohms", resistance_ohm=9.0)
        self.assertEqual(
            [1, 9, 3], self.ohms(measurement_edits.replace_reading(self.machine, "M4", 1, better))
        )
        for act in (
            lambda: measurement_edits.move_reading(self.machine, "M4", 3, 1),
            lambda: measurement_edits.replace_reading(self.machine, "M4", -1, better),
            lambda: measurement_edits.add_series_test(
                self.machine,
                "M4",
                SeriesTest(first=("RD", "BK"), second=("BK", "YE"), saw="double"),
            ),
        ):
            with self.assertRaises(Problem):
                act()

    def test_changes_are_told_in_words(self) -> None:
        test = SeriesTest(first=("RD", "WHRD"), second=("WHBK", "BK"), saw="double")
        tested = measurement_edits.add_series_test(GANTRY, "M4", test)
        self.assertIn("Windings in series at M4: 0 → 1 tests", changes(GANTRY, tested))
        self.assertEqual(GANTRY, measurement_edits.clear_series_tests(tested, "M4"))

    def test_a_file_that_names_leads_which_are_not_there_is_refused(self) -> None:
        test = SeriesTest(first=("RD", "XX"), second=("WHBK", "BK"), saw="double")
        wrong = measurement_edits.add_series_test(GANTRY, "M4", test)
        self.assertTrue(any("XX" in fault.what for fault in faults_of(wrong)))


class AxisValue(unittest.TestCase):
    def test_members_come_once_and_in_the_order_of_the_roles(self) -> None:
        axis = Axis(id="X", name="x", drives=("M1", "M2"), home="B1", min_limit="B1", also=("B9",))
        self.assertEqual(("M1", "M2", "B1", "B9"), axis.members)
        self.assertEqual(("mm", "°"), (axis.unit, Axis(id="A", name="a", motion="rotary").unit))
