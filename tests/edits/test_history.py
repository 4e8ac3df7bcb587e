"""Edits, undo, redo, saving, loading and being killed, in any order."""

import tempfile
import unittest
from pathlib import Path

from hypothesis import settings
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule
from msgspec.structs import replace

from tests import small
from tests.strategies import a_change, applied
from vervain.edits import cable_edits, device_edits, hookup_edits, note_edits
from vervain.files.autosave import Seat, autosave_path, drop_autosave, left_over, write_autosave
from vervain.files.demos import open_demo
from vervain.files.machine_file import decode_machine, encode_machine, open_machine, save_machine
from vervain.model.machine import Alternate, AlternateSetting, Conductor, PortRef
from vervain.model.problem import Problem
from vervain.model.references import faults_of

START = open_demo("glazing-gantry-as-found")


class History(RuleBasedStateMachine):
    """A list of machines with a place in it, a file, and an autosave beside it."""

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.path = Path(self.folder.name) / "machine.vervain"
        save_machine(START, self.path)
        self.saved = START
        self.machines = [START]
        self.at = 0

    def teardown(self) -> None:
        self.folder.cleanup()

    @rule(change=a_change())
    def edit(self, change) -> None:
        changed = applied(self.machines[self.at], change)
        del self.machines[self.at + 1 :]
        self.machines.append(changed)
        self.at += 1
        write_autosave(changed, Seat(self.path))

    @precondition(lambda self: self.at > 0)
    @rule()
    def undo(self) -> None:
        self.at -= 1
        write_autosave(self.machines[self.at], Seat(self.path))

    @precondition(lambda self: self.at + 1 < len(self.machines))
    @rule()
    def redo(self) -> None:
        self.at += 1
        write_autosave(self.machines[self.at], Seat(self.path))

    @rule()
    def save(self) -> None:
        self.saved = self.machines[self.at]
        save_machine(self.saved, self.path)
        drop_autosave(Seat(self.path))
        assert not autosave_path(self.path).exists()

    @rule()
    def kill_and_open(self) -> None:
        """What a fresh start finds: the saved file, and the unsaved machine beside it."""
        current = self.machines[self.at]
        kept = left_over(self.path)
        found = kept.machine if kept else None
        assert found == current or (found is None and current == self.saved)

    @invariant()
    def the_machine_is_valid_and_survives_its_file(self) -> None:
        machine = self.machines[self.at]
        assert not list(faults_of(machine))
        data = encode_machine(machine)
        assert decode_machine(data, "x") == machine
        assert encode_machine(decode_machine(data, "x")) == data

    @invariant()
    def the_file_is_the_saved_machine(self) -> None:
        assert open_machine(self.path) == self.saved


TestHistory = History.TestCase
TestHistory.settings = settings(max_examples=4, stateful_step_count=12, deadline=None)


class Refusals(unittest.TestCase):
    """Edits that make no sense say so, with a remedy, and change nothing."""

    def test_each_is_refused_in_words(self) -> None:
        m = START
        port = PortRef(device="B1", port="LEADS")
        for words, edit in (
            ("taken", lambda: device_edits.set_designator(m, "M4", "M3")),
            ("not a designator", lambda: device_edits.set_designator(m, "M4", "motor 4")),
            ("no device", lambda: device_edits.set_name(m, "M77", "x")),
            ("1 to 80", lambda: device_edits.set_name(m, "M4", "   ")),
            (
                "between 0.5 and 7.2",
                lambda: device_edits.set_setting(m, "T1", "current_peak_a", 9.0),
            ),
            ("no setting", lambda: device_edits.set_setting(m, "T1", "colour", "red")),
            ("number", lambda: device_edits.set_setting(m, "T1", "current_peak_a", "much")),
            ("cannot be", lambda: device_edits.set_setting(m, "K1", "JP1", "both")),
            ("not a length", lambda: cable_edits.set_cable(m, "W14", -1.0, "")),
            ("not a length", lambda: cable_edits.set_cable(m, "W14", 1e9, "")),
            ("no cable", lambda: cable_edits.set_cable(m, "W999", 1.0, "")),
            ("80 characters", lambda: cable_edits.set_core_label(m, "W14", 1, "x" * 81)),
            ("at least one conductor", lambda: hookup_edits.add_hookup(m, port, port, ())),
            (
                "no hookup",
                lambda: hookup_edits.set_conductors(m, "H999", (Conductor(a="1", b="1"),)),
            ),
            ("reason is needed", lambda: note_edits.accept_finding(m, "x", "  ", "2026-11-23")),
        ):
            with self.subTest(words), self.assertRaises(Problem) as caught:
                edit()
            self.assertIn(words, str(caught.exception))


class Designators(unittest.TestCase):
    def test_letters_follow_the_class_and_numbers_fill_gaps(self) -> None:
        machine = small.bench("M1 fell-s57", "M3 fell-s57").machine
        part = machine.parts[0]
        added = device_edits.add_device(machine, part, "Motor")
        self.assertEqual("M2", added.devices[-1].designator)
        self.assertEqual(1, len(added.parts))

    def test_renaming_follows_everywhere(self) -> None:
        renamed = device_edits.set_designator(START, "T4", "T44")
        text = encode_machine(renamed).decode()
        self.assertNotIn('"T4"', text)
        self.assertEqual(START, device_edits.set_designator(renamed, "T44", "T4"))

    def test_removing_leaves_no_reference(self) -> None:
        for device in START.devices:
            removed = device_edits.remove_device(START, device.designator)
            with self.subTest(device.designator):
                self.assertEqual([], list(faults_of(removed)))

    def test_what_an_alternate_sets_goes_with_its_device(self) -> None:
        port = PortRef(device="K1", port="IN 7")
        sets = AlternateSetting(device="T1", key="microsteps", value="8")
        machine = replace(START, alternates=(Alternate(device="B9", port=port, settings=(sets,)),))
        left = device_edits.remove_device(machine, "T1").alternates
        self.assertEqual([("B9", ())], [(item.device, item.settings) for item in left])

    def test_a_cable_is_at_most_a_thousand_metres_long(self) -> None:
        cable = START.cables[0].id
        self.assertTrue(cable_edits.set_cable(START, cable, 1000.0, ""))
        for length_m in (0.0, -1.0, 1000.1, float("nan")):
            with self.subTest(length_m), self.assertRaises(Problem):
                cable_edits.set_cable(START, cable, length_m, "")
