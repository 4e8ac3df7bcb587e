"""What changed between two versions, and which labels are printed again."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests import small
from vervain.edits import cable_edits, device_edits, feed_edits, hookup_edits
from vervain.files.demos import open_demo
from vervain.harness.compare import compare
from vervain.harness.label_layout import (
    Line,
    SheetForm,
    Square,
    Style,
    Text,
    check_sheet,
    lay_out_label,
    on_sheets,
    qr_cells,
)
from vervain.harness.label_texts import LabelText, changed_labels, label_texts
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

PLANNED = open_demo("glazing-gantry-as-planned")


def kinds(new: Machine, old: Machine = PLANNED) -> dict[str, int]:
    found = compare(Queries(old), Queries(new))
    counted = {kind: found.count(kind) for kind in ("added", "removed", "moved", "changed")}
    return {kind: count for kind, count in counted.items() if count}


class Changes(unittest.TestCase):
    def test_the_same_machine_differs_in_nothing(self) -> None:
        found = compare(Queries(PLANNED), Queries(PLANNED))
        self.assertEqual(((), (), ()), (found.changes, found.reprint, found.take_off))

    def test_one_device_added_touches_no_other_label(self) -> None:
        build = small.Builder(PLANNED)
        build.device("B11", "osier-rl2", "Lid switch", "door")
        build.cable("W90", "flex-2x0.5", 1.0)
        build.join("B11:LEADS", "X2:11", "COM-+ NC-0V", "W90")
        found = compare(Queries(PLANNED), Queries(build.machine))
        self.assertEqual({"added": 2}, kinds(build.machine))
        # Two cores and the cable, both ends each.
        self.assertEqual((6, ()), (len(found.reprint), found.take_off))
        self.assertTrue(all(text.startswith("W90") for text in found.reprint))

    def test_a_core_on_another_pin_has_moved(self) -> None:
        hookup = next(h for h in PLANNED.hookups if h.cable == "W14")
        machine = hookup_edits.exchange_pins(PLANNED, hookup.id, "b", "1", "2")
        found = compare(Queries(PLANNED), Queries(machine))
        self.assertEqual({"moved": 2}, kinds(machine))
        self.assertEqual({"W14.1", "W14.2"}, {change.label for change in found.changes})

    def test_another_gauge_is_a_change_in_place(self) -> None:
        machine = feed_edits.set_gauge(PLANNED, "W31", 1.5)
        self.assertEqual({"changed": 2}, kinds(machine))

    def test_a_device_taken_out_takes_its_conductors_and_the_leads_into_it(self) -> None:
        self.assertEqual({"removed": 12}, kinds(device_edits.remove_device(PLANNED, "X14")))

    def test_there_and_back_is_the_mirror(self) -> None:
        found = open_demo("glazing-gantry-as-found")
        ways = kinds(found), kinds(PLANNED, found)
        self.assertEqual(ways[0]["added"], ways[1]["removed"])
        self.assertEqual(ways[0]["removed"], ways[1]["added"])
        self.assertEqual(ways[0]["moved"], ways[1]["moved"])
        there, back = (
            compare(Queries(PLANNED), Queries(found)),
            compare(Queries(found), Queries(PLANNED)),
        )
        self.assertEqual(there.reprint, back.take_off)


class Printed(unittest.TestCase):
    def test_only_what_changed_is_printed_again(self) -> None:
        texts = label_texts(Queries(PLANNED))
        done = tuple(text.content for text in texts)
        machine = cable_edits.mark_printed(PLANNED, done)
        self.assertEqual((), changed_labels(label_texts(Queries(machine)), machine.printed))
        machine = cable_edits.set_core_label(machine, "W14", 2, "Z A minus")
        again = changed_labels(label_texts(Queries(machine)), machine.printed)
        self.assertEqual({"Z A minus"}, {text.text for text in again})

    def test_both_ends_of_every_core_and_cable(self) -> None:
        texts = label_texts(Queries(PLANNED))
        mine = [text for text in texts if text.cable == "W14"]
        self.assertEqual(2, sum(text.owner == "cable" for text in mine))
        self.assertEqual(8, sum(text.owner == "core" for text in mine))
        self.assertEqual("at T4 A−", next(t.at for t in mine if t.text == "W14.2"))
        self.assertIn("to X14 2, M4 WHRD WHBK", {t.to for t in mine if t.text == "W14.2"})


def measure(text: str, size: float, bold: bool) -> float:
    """A made-up font: every letter 0.6 of the size wide."""
    return len(text) * size * 0.6


TEXT = LabelText(
    owner="core", text="W14.2", at="at T4 A−", to="to X14 2, M4 WHRD WHBK", cable="W14"
)


def made(style: Style, text: LabelText = TEXT, size=None):
    return lay_out_label(text, style, 2.0, "Gantry", measure, size)


class Laid(unittest.TestCase):
    def test_a_flag_has_two_equal_wings_around_the_cable(self) -> None:
        label = made(Style("flag", 12.0))
        texts = [shape for shape in label.shapes if isinstance(shape, Text)]
        half = len(texts) // 2
        folds = sorted(shape.x1 for shape in label.shapes if isinstance(shape, Line))
        # The cable of 2 mm and 1 mm of air.
        self.assertAlmostEqual(3.1416 * 2 + 1, folds[1] - folds[0], 3)
        for first, second in zip(texts[:half], texts[half:], strict=True):
            self.assertAlmostEqual(folds[1], second.x - first.x, 2)
            self.assertEqual(first.text, second.text)

    @given(
        st.sampled_from([6.0, 9.0, 12.0, 18.0, 24.0]),
        st.sampled_from(["flag", "wrap", "sleeve"]),
        st.booleans(),
        st.text(min_size=1, max_size=80),
    )
    def test_everything_printed_lies_on_the_tape(self, tape, form, details, text) -> None:
        label = made(Style(form, tape, details), LabelText(owner="core", text=text, at="a", to="b"))
        for shape in label.shapes:
            if isinstance(shape, Text):
                self.assertGreaterEqual(shape.y - shape.size, -0.5)
                self.assertLessEqual(shape.y, tape)
                right = shape.x + measure(shape.text, shape.size, shape.bold)
                self.assertLessEqual(right, label.width + 1e-6)

    def test_narrow_tape_leaves_lines_out_rather_than_small_letters(self) -> None:
        for tape, lines in ((6.0, 1), (9.0, 3), (12.0, 3), (24.0, 3)):
            label = made(Style("sleeve", tape))
            texts = [shape for shape in label.shapes if isinstance(shape, Text)]
            with self.subTest(tape):
                self.assertEqual(lines, len(texts))
                self.assertTrue(all(shape.size >= 1.5 for shape in texts))

    def test_a_code_needs_cells_that_can_be_read(self) -> None:
        label = made(Style("sleeve", 24.0, qr=True))
        cells = [shape for shape in label.shapes if isinstance(shape, Square)]
        self.assertEqual(sum(map(sum, qr_cells("W14.2 Gantry"))), len(cells))
        self.assertTrue(all(cell.side >= 0.33 for cell in cells))
        with self.assertRaisesRegex(Problem, "not read"):
            made(Style("sleeve", 6.0, qr=True))

    def test_a_long_text_is_fitted_into_its_cell(self) -> None:
        long = LabelText(owner="core", text="W" * 70, at="at " + "x" * 70, to="to " + "y" * 70)
        label = made(Style("wrap", None), long, (40.0, 12.0))
        self.assertEqual(40.0, label.width)
        for shape in label.shapes:
            if isinstance(shape, Text):
                right = shape.x + measure(shape.text, shape.size, shape.bold)
                self.assertLessEqual(right, 40.0)
                self.assertTrue(shape.text.endswith("…"))

    def test_sheets_are_filled_row_by_row_page_by_page(self) -> None:
        sheet = SheetForm("A4", 2, 3, 10, 20, 5, 0)
        self.assertEqual((92.5, 257 / 3), sheet.label_mm)
        placed = on_sheets((made(Style("wrap", None)),) * 7, sheet)
        self.assertEqual([0, 0, 0, 0, 0, 0, 1], [item.page for item in placed])
        self.assertEqual([(10, 20), (107.5, 20)], [(p.x, p.y) for p in placed[:2]])

    def test_a_sheet_without_room_is_refused(self) -> None:
        for sheet in (SheetForm("A4", 12, 60), SheetForm("A3"), SheetForm("A4", 0, 9),
                      SheetForm("A4", 3, 9, 200)):  # fmt: skip
            with self.subTest(sheet), self.assertRaises(Problem):
                check_sheet(sheet)
