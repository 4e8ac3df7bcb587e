"""What an edit changed, in words."""

import unittest

from hypothesis import given, settings

from tests.strategies import a_change, applied
from vervain.edits import cable_edits, device_edits, hookup_edits
from vervain.files.demos import open_demo
from vervain.model.machine import PortRef
from vervain.ports.plugging import plug_in, unplug
from vervain.queries.changes import changes
from vervain.rules.engine import check_machine

FOUND = open_demo("glazing-gantry-as-found")


class Words(unittest.TestCase):
    def test_each_kind_of_edit(self) -> None:
        b7, b8 = PortRef(device="B7", port="LEADS"), PortRef(device="B8", port="LEADS")
        motor = next(h.id for h in FOUND.hookups if h.a.device == "M4")
        for edit, words in (
            (lambda m: device_edits.remove_device(m, "X9"), ("X9 is taken out",)),
            (lambda m: device_edits.set_name(m, "M4", "Lift"), ("M4 is called “Lift”",)),
            (
                lambda m: device_edits.set_setting(m, "F4", "rating_a", 6.0),
                ("F4: Fuse, rated 10 → 6 A",),
            ),
            (
                lambda m: device_edits.set_setting(m, "K1", "invert/IN 7", "inverted"),
                ("K1: Input is taken at IN 7 as it is → inverted",),
            ),
            (
                lambda m: hookup_edits.exchange_pins(m, motor, "a", "WHBK", "WHYE"),
                ("X14 at M4 LEADS: WHYE → WHBK", "X14 at M4 LEADS: WHBK → WHYE"),
            ),
            (
                lambda m: plug_in(m, b7, PortRef(device="K1", port="IN 7")),
                ("X19 B is joined to K1 IN 7",),
            ),
            (lambda m: unplug(m, b8), ("B8 LEADS is taken off K1 IN 6",)),
            (lambda m: cable_edits.set_cable(m, "W14", 7, ""), ("Length of W14: not given → 7 m",)),
            (lambda m: cable_edits.set_shield(m, "W22", ()), ("Shield of W22 joined at nowhere",)),
            (
                lambda m: cable_edits.set_core_label(m, "W14", 1, "X"),
                ("Labels written on cores of W14 change",),
            ),
            (
                lambda m: hookup_edits.move_port(
                    m, "S2", "23-24", "21-22", {"23": "21", "24": "22"}
                ),
                ("S2 23-24 → S2 21-22",),
            ),
        ):
            with self.subTest(words[0]):
                found = changes(FOUND, edit(FOUND))
                for text in words:
                    self.assertIn(text, found)

    def test_every_fix_of_the_demo_says_what_it_changes(self) -> None:
        for finding in check_machine(FOUND).open:
            for fix in finding.fixes:
                with self.subTest(fix.words):
                    self.assertTrue(changes(FOUND, fix.remedy.apply(FOUND)))

    @settings(max_examples=60, deadline=None)
    @given(a_change())
    def test_no_difference_says_nothing_and_a_difference_something(self, change) -> None:
        after = applied(FOUND, change)
        self.assertEqual((), changes(after, after))
        if after != FOUND and change[0][0] != "form":
            self.assertTrue(changes(FOUND, after))
