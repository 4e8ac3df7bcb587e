"""Finding parts by words and numbers."""

import unittest

from vervain.catalogue.search import asked, search
from vervain.catalogue.shelf_groups import SHELF_HEADINGS
from vervain.files.part_files import shipped_shelf
from vervain.model.part import DESIGNATOR_LETTERS

PARTS = tuple(shipped_shelf().parts.values())


def first(text: str) -> str | None:
    found = search(PARTS, text)
    return found[0].id if found else None


class Search(unittest.TestCase):
    def test_words_and_numbers_together(self) -> None:
        for text, expected in (
            ("driver 4A 48V three phase", "fell-d73"),
            ("driver 4 A 48 V two-phase", "fell-d72"),
            ("stepper 8 leads", "osier-sm86-8"),
            ("pnp", "larkmoor-ip12"),
            ("endstop slim", "osier-sl1"),
            ("1000 lines", "larkmoor-e1000"),
            ("supply 48v 10a", "fell-ps48"),
            ("quoin bf", "quoin-bf24"),
        ):
            with self.subTest(text):
                self.assertEqual(expected, first(text))

    def test_what_no_part_can_do_is_not_found(self) -> None:
        for text in ("driver 40A", "stepper 7 leads", "fan 48v", "teapot", "9000 lines"):
            with self.subTest(text):
                self.assertIsNone(first(text))

    def test_nothing_asked_is_everything(self) -> None:
        self.assertEqual(PARTS, search(PARTS, "  "))

    def test_units_are_read_with_or_without_a_space(self) -> None:
        self.assertEqual(asked("4A 500mA 0,9 ohm"), asked("4 a 0.5 A 0.9Ω"))

    def test_every_kind_of_part_stands_under_one_heading(self) -> None:
        listed = [kind for _, kinds in SHELF_HEADINGS for kind in kinds]
        self.assertEqual(sorted(DESIGNATOR_LETTERS), sorted(listed))
