"""The engine re-runs only what an edit touched, and says the same as a full check."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.sampling import seeded, some
from tests.strategies import a_change, applied
from vervain.edits import axis_edits, cable_edits, device_edits, note_edits
from vervain.edits.common import without_stale_records
from vervain.files.demos import open_demo
from vervain.model.machine import LabelTemplates
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import Engine, check_machine

FOUND = open_demo("glazing-gantry-as-found")
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class Counts(unittest.TestCase):
    """How many rule runs an edit costs; never how long it takes."""

    def setUp(self) -> None:
        self.engine = Engine()
        self.full = self.engine.check(FOUND).runs

    def runs_after(self, machine) -> int:
        return self.engine.check(machine).runs

    def test_the_same_machine_costs_nothing(self) -> None:
        self.assertGreater(self.full, 1000)
        self.assertEqual(0, self.runs_after(FOUND))

    def test_an_equal_machine_costs_nothing(self) -> None:
        copied = replace(FOUND, devices=tuple(replace(d) for d in FOUND.devices))
        self.assertIsNot(copied.devices[0], FOUND.devices[0])
        self.assertEqual(0, self.runs_after(copied))

    def test_a_fuse_rating_touches_what_reads_that_device(self) -> None:
        runs = self.runs_after(device_edits.set_setting(FOUND, "F4", "rating_a", 5.0))
        self.assertGreater(runs, 0)
        # A fuse resists: what hangs behind it is worked out anew.
        self.assertLess(runs, self.full / 20)

    def test_a_name_touches_less_than_one_in_forty(self) -> None:
        self.assertLess(
            self.runs_after(device_edits.set_name(FOUND, "M9", "Valve")), self.full / 40
        )

    def test_a_label_form_touches_only_label_rules(self) -> None:
        templates = LabelTemplates(core="{cable}-{core}")
        runs = self.runs_after(note_edits.set_label_templates(FOUND, templates))
        self.assertLessEqual(runs, 4)

    def test_going_back_brings_the_old_findings_back(self) -> None:
        before = self.engine.check(FOUND).open
        self.runs_after(device_edits.remove_device(FOUND, "M4"))
        self.assertEqual(before, self.engine.check(FOUND).open)


class SameAsFull(unittest.TestCase):
    engine = Engine()

    @settings(max_examples=4, deadline=None)
    @given(st.lists(a_change(), min_size=1, max_size=5))
    def test_after_any_edits_the_findings_are_those_of_a_full_check(self, changes) -> None:
        # The engine of the example before goes back to where all begin.
        machine = FOUND
        self.engine.check(machine)
        for change in changes:
            machine = applied(machine, change)
            kept = self.engine.check(machine)
        full = check_machine(machine)
        self.assertEqual(full.open, kept.open)
        self.assertEqual(full.accepted, kept.accepted)


class Stopping(unittest.TestCase):
    def test_a_check_that_is_given_up_says_nothing_and_can_be_asked_again(self) -> None:
        engine = Engine()
        asked = iter([True, True, False])
        self.assertIsNone(engine.check(FOUND, lambda: next(asked)))
        self.assertEqual(check_machine(FOUND).open, engine.check(FOUND).open)


class Acceptance(unittest.TestCase):
    def test_an_accepted_finding_moves_over_and_back(self) -> None:
        finding = check_machine(FOUND).open[0]
        key = finding.key
        accepted = note_edits.accept_finding(FOUND, finding, "It is meant so", "2026-11-23")
        result = check_machine(accepted)
        self.assertNotIn(key, {f.key for f in result.open})
        self.assertIn(key, {f.key for f in result.accepted})
        again = check_machine(note_edits.reopen_finding(accepted, key))
        self.assertEqual(check_machine(FOUND).open, again.open)

    def test_it_follows_every_name_and_goes_with_what_it_was_about(self) -> None:
        """Every finding of the demos is accepted; then much in them is renamed, one by one."""
        demos = ("glazing-gantry-as-found", "clay-printer-as-found", "seedling-arm-as-found")
        for demo in some(seeded("accepted findings"), demos, 1):
            machine = open_demo(demo)
            for finding in check_machine(machine).open:
                machine = note_edits.accept_finding(machine, finding, "So be it", "2026-11-27")
            engine = Engine()
            self.assertEqual((), engine.check(machine).open)
            # Labels name their devices: their findings are about texts that renaming changes.
            for device in [device.designator for device in machine.devices][::3]:
                name = f"{device.rstrip('0123456789')}{int(device.lstrip(LETTERS)) + 500}"
                machine = device_edits.set_designator(machine, device, name)
            for cable in [cable.id for cable in machine.cables][::4]:
                machine = cable_edits.rename_cable(machine, cable, f"C{cable[1:]}")
            for axis in [axis.id for axis in machine.axes]:
                machine = axis_edits.rename_axis(machine, axis, f"Q{axis}", axis)
            texts = ("harness.duplicate-label", "harness.long-label", "ports.axis-name")
            left = [f.key for f in engine.check(machine).open if f.rule not in texts]
            self.assertEqual([], left, demo)

    def test_a_freed_name_is_judged_anew(self) -> None:
        result = check_machine(FOUND)
        finding = next(f for f in (*result.open, *result.to_do) if f.rule == "ports.loose")
        device = finding.about.device
        machine = note_edits.accept_finding(FOUND, finding, "Later", "2026-11-27")
        part = next(p for p in machine.parts if any(
            d.part == p.id and d.designator == device for d in machine.devices
        ))  # fmt: skip
        machine = without_stale_records(device_edits.remove_device(machine, device))
        again = device_edits.add_device(machine, part, "Another one", device)
        self.assertIn(finding.key, {f.key for f in check_machine(again).to_do})


class EarlyCutOff(unittest.TestCase):
    def test_an_equal_answer_stops_the_change(self) -> None:
        asked: list[str] = []

        @query
        def has_name(queries: Queries, designator: str) -> bool:
            asked.append("inner")
            device = queries.device(designator)
            return device is not None and bool(device.name)

        def outer(queries: Queries, designator: str) -> str:
            asked.append("outer")
            return "named" if has_name(queries, designator) else "not"

        queries = Queries(FOUND)
        self.assertEqual("named", queries.ask(outer, "M4"))
        queries.move_to(device_edits.set_name(FOUND, "M4", "Another name"))
        self.assertEqual("named", queries.ask(outer, "M4"))
        self.assertEqual(["outer", "inner", "inner"], asked)
