"""What was seen at the bench: judged, kept under new names, asked again after an edit."""

import tempfile
import unittest
from datetime import datetime
from pathlib import Path

from msgspec.structs import replace

from tests import small
from vervain.bench.causes import causes
from vervain.bench.checklist import bench_list
from vervain.bench.judging import judge, read_values
from vervain.bench.photos import keep_photo, photo_path
from vervain.bench.results import StepResult, make_result, step_results
from vervain.bench.step import BenchStep, Window
from vervain.edits.axis_edits import rename_axis
from vervain.edits.bench_edits import forget_result, keep_result
from vervain.edits.common import without_stale_records
from vervain.edits.device_edits import remove_device, set_designator, set_setting
from vervain.exports.as_printed import paper_states, papers_of
from vervain.exports.bench_report import bench_report_html, report_tables
from vervain.exports.stamp import fingerprint_of
from vervain.exports.tables import all_tables
from vervain.files.demos import open_demo
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine
from vervain.text.quantities import NotAQuantity

PLANNED = open_demo("glazing-gantry-as-planned")
NOON = datetime(2031, 5, 4, 12, 0)


def listed(machine: Machine) -> dict[str, BenchStep]:
    return {step.id: step for step in bench_list(Queries(machine))}


def seen(machine: Machine, *ids: str, outcome="passed") -> Machine:
    steps = listed(machine)
    for name in ids:
        result = make_result(Queries(machine), steps[name], outcome, "7 V", "ok", (), NOON)
        machine = keep_result(machine, result)
    return machine


def states(machine: Machine) -> dict[str, StepResult]:
    return step_results(Queries(machine), bench_list(Queries(machine)))


class Windows(unittest.TestCase):
    def test_a_reading_is_judged_at_both_ends_and_against_the_others(self) -> None:
        volts, ohms = Window(unit="V", least=22.8, most=25.2), Window(unit="Ω", alike_ratio=0.1)
        for window, text, outcome, wrong in (
            (volts, "22.8", "passed", ""), (volts, "25,2 V", "passed", ""),
            (volts, "22.7", "failed", "less than 22.8 V"),
            (volts, "25.3 V", "failed", "more than 25.2 V"),
            (volts, "-24", "failed", "less than 22.8 V"),
            (ohms, "1.6 1.45", "passed", ""), (ohms, "1.6; 1.6 ohm; 1.43", "failed", "alike"),
            (Window(unit="Ω", least=1000), "OL", "passed", ""),
            (Window(unit="Ω", least=1000), "2.2k", "passed", ""),
            (Window(unit="Ω", most=0.5), "open", "failed", "more than 0.5 Ω"),
            (Window(unit="A", most=2), "950 mA", "passed", ""),
            (Window(unit="mm", least=99, most=101), "10 cm", "passed", ""),
        ):  # fmt: skip
            with self.subTest(text):
                found = judge(window, text)
                self.assertEqual(outcome, found.outcome)
                self.assertIn(wrong, found.wrong)

    def test_what_is_no_number_of_the_unit_is_refused(self) -> None:
        for unit, text in (("V", ""), ("V", "3 A"), ("Ω", "red"), ("counts", "1 2 x"), ("V", "OL")):
            with self.subTest(text), self.assertRaises(NotAQuantity):
                read_values(unit, text)


class Kept(unittest.TestCase):
    def test_what_was_seen_goes_through_the_file_and_leaves_the_fingerprint(self) -> None:
        machine = replace(seen(PLANNED, "volts G2 OUT 1"), author="Wren")
        again = decode_machine(encode_machine(machine), "there.vervain")
        result = states(again)["volts G2 OUT 1"]
        self.assertEqual(("passed", "passed, 7 V"), (result.state, result.words))
        self.assertEqual("2031-05-04T12:00", result.result.time)
        self.assertEqual(fingerprint_of(replace(PLANNED, author="Wren")), fingerprint_of(machine))

    def test_new_names_keep_it_and_freed_names_do_not_get_it(self) -> None:
        machine = seen(PLANNED, "lock M2", "stop S1", "direction Y", "input B4")
        for edit in (
            lambda m: set_designator(m, "M2", "M22"), lambda m: rename_axis(m, "Y", "V", "Y"),
            lambda m: set_designator(m, "B4", "B44"), lambda m: set_designator(m, "T2", "T22"),
        ):  # fmt: skip
            machine = edit(machine)
        after = states(machine)
        for name in ("lock M22", "direction V", "input B44", "stop S1"):
            with self.subTest(name):
                self.assertEqual("passed", after[name].state)
        gone = without_stale_records(remove_device(machine, "B44"))
        self.assertFalse(any(r.name == "input B44" for r in gone.bench_results))
        self.assertTrue(any(r.name == "lock M22" for r in gone.bench_results))

    def test_an_edit_asks_again_only_for_what_it_touches_and_says_why(self) -> None:
        names = ("set T1 Current, peak", "lock M1", "input B10", "stop S1")
        machine = seen(PLANNED, *names)
        after = states(set_setting(machine, "T1", "current_peak_a", 2.8))
        self.assertEqual(
            ["again", "passed", "passed", "passed"], [after[name].state for name in names]
        )
        self.assertIn("Then it was to see: 3.6 A peak", after["set T1 Current, peak"].reason)
        self.assertEqual("", after["set T1 Current, peak"].words)

    def test_what_a_step_named_and_went_is_asked_again_with_its_old_name(self) -> None:
        machine = seen(PLANNED, "output K1 OUT 1")
        self.assertIn("P1", listed(PLANNED)["output K1 OUT 1"].see)
        gone = without_stale_records(remove_device(machine, "P1"))
        after = states(gone)["output K1 OUT 1"]
        self.assertEqual("again", after.state)
        self.assertIn("P1: it lights", after.reason)

    def test_the_last_result_of_a_step_is_the_one_and_can_be_taken_back(self) -> None:
        machine = seen(seen(PLANNED, "lock M1", outcome="failed"), "lock M1")
        self.assertEqual(1, len(machine.bench_results))
        self.assertEqual("passed", states(machine)["lock M1"].state)
        back = forget_result(machine, machine.bench_results[0])
        self.assertEqual("", states(back)["lock M1"].state)

    def test_names_that_are_signs_of_a_pattern_or_of_a_place_holder_do_no_harm(self) -> None:
        machine = replace(small.motor_on_driver(), name="{0} (x) \\d")
        device = machine.devices[0]
        machine = replace(
            machine, devices=(replace(device, name="{1} .* {9}"), *machine.devices[1:])
        )
        names = [step.id for step in bench_list(Queries(machine))]
        self.assertTrue(names)
        after = states(seen(machine, *names))
        self.assertEqual({"passed"}, {result.state for result in after.values()})


class Reports(unittest.TestCase):
    def test_the_report_sums_up_and_names_what_failed(self) -> None:
        machine = seen(seen(PLANNED, "lock M1"), "input B4", outcome="failed")
        queries = Queries(machine)
        total, wrong, _, steps = report_tables(queries, check_machine(machine))
        row = dict(zip(total.names, total.rows[-1], strict=True))
        self.assertEqual((1, 1), (row["Passed"], row["Failed"]))
        self.assertEqual(len(steps.rows), row["Steps"])
        self.assertEqual(row["Steps"], sum(row[k] for k in (
            "Passed", "Failed", "To be seen again", "Held back", "Open")))  # fmt: skip
        self.assertEqual(["Work B4 Y home switch by hand"], [r[3] for r in wrong.rows])
        page = bench_report_html(machine).decode()
        self.assertIn("Bench report of Glazing gantry", page)
        self.assertIn("2031-05-04 12:00", page)

    def test_what_was_seen_makes_no_paper_old(self) -> None:
        machine = replace(PLANNED, papers=papers_of(PLANNED, ("pdf",), all_tables(PLANNED)))
        after = seen(machine, "lock M1", "input B4")
        self.assertEqual(["as printed"], [state.words for state in paper_states(after)])


class Photos(unittest.TestCase):
    def test_photos_are_kept_beside_the_file_never_over_another_and_open_nothing_else(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            file, step = folder / "bed.vervain", listed(PLANNED)["lock M1"]
            photo = folder / "p.JPG"
            photo.write_bytes(b"jpeg")
            kept = [keep_photo(photo, file, step) for _ in range(2)]
            self.assertEqual(["bed photos/lock-M1-1.jpg", "bed photos/lock-M1-2.jpg"], kept)
            self.assertEqual(b"jpeg", photo_path(kept[1], file).read_bytes())
            for bad in ("../p.jpg", "/etc/passwd", "/etc/x.png", "bed photos/run.desktop"):
                self.assertIsNone(photo_path(bad, file), bad)
            for bad in (folder / "x.txt", folder / "not-there.jpg"):
                with self.assertRaises(Problem):
                    keep_photo(bad, file, step)


class Calibration(unittest.TestCase):
    def test_three_values_of_a_stick_rise_with_neutral_in_the_middle(self) -> None:
        stick = Window(unit="µs", form="low, neutral, high")
        for text, outcome, wrong in (
            ("1100 1500 1900", "passed", ""), ("1000 1640 2000", "passed", ""),
            ("1000 1660 2000", "failed", "66%"),
            ("1100 1100 1900", "failed", "not rising"), ("1900 1500 1100", "failed", "not rising"),
            ("1100 1800 1900", "failed", "88%"),
            ("1100 1900", "failed", "three values"),
        ):  # fmt: skip
            with self.subTest(text):
                found = judge(stick, text)
                self.assertEqual(outcome, found.outcome)
                self.assertIn(wrong, found.wrong)
        two = Window(unit="", form="two that differ")
        self.assertEqual(
            ["passed", "failed", "failed"],
            [judge(two, x).outcome for x in ("21 33", "21 21", "21")],
        )

    def test_a_measured_way_says_the_microsteps_or_the_steps_a_unit(self) -> None:
        queries, step = Queries(PLANNED), listed(PLANNED)["distance X"]
        for seen_mm, words in (
            ("820 mm", "T1 makes 8 microsteps, not 16"),
            ("205 mm", "T1 makes 32 microsteps, not 16"),
            ("400 mm", "82 steps a mm instead of 80"),
        ):
            result = make_result(queries, step, "failed", seen_mm)
            kept = {step.id: StepResult("failed", result)}
            with self.subTest(seen_mm):
                self.assertEqual(words, causes(queries, step, (step,), kept)[0].what)
