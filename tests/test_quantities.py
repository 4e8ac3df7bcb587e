"""Quantities as people type them, and nonsense refused."""

import contextlib
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from vervain.electrical.copper import read_area_mm2
from vervain.text.quantities import NotAQuantity, figure, read_quantity
from vervain.text.units import ALL_UNITS, figure_and_limit, in_area, in_length, use_units


class Reading(unittest.TestCase):
    def test_what_people_write(self) -> None:
        for text, unit, expected in (
            ("2.1 A", "A", 2.1),
            ("250 mA", "A", 0.25),
            ("250mA", "A", 0.25),
            ("3", "A", 3.0),
            ("2,5 A", "A", 2.5),
            ("1.4", "ohm", 1.4),
            ("1.4 ohm", "ohm", 1.4),
            ("4.7 kohm", "ohm", 4700.0),
            ("4k7", "ohm", None),
            ("6.5 m", "m", 6.5),
            ("650 cm", "m", 6.5),
            ("1200 mm", "m", 1.2),
            ("21 ft", "m", 6.4008),
            ('10 "', "m", 0.254),
            ("1/2 in", "m", 0.0127),
            ("1 3/4 in", "m", 0.04445),
            ("−3 V", "V", -3.0),
            ("1/0 in", "m", None),
            ("6.5 kg", "m", None),
            ("much", "m", None),
            ("", "A", None),
            ("nan", "A", None),
            ("inf", "A", None),
            ("2 V", "A", None),
            ("1.2.3", "A", None),
        ):
            with self.subTest(text):
                if expected is None:
                    with self.assertRaises(NotAQuantity) as caught:
                        read_quantity(text, unit)
                    self.assertTrue(str(caught.exception).endswith("."))
                else:
                    self.assertAlmostEqual(expected, read_quantity(text, unit), places=9)

    @given(st.floats(1e-6, 1e6), st.sampled_from(("A", "V", "m")))
    def test_a_figure_reads_back_to_three_digits(self, value: float, unit: str) -> None:
        text = figure(value, unit).replace(" ", "")
        self.assertAlmostEqual(1.0, read_quantity(text, unit) / value, delta=0.006)

    @given(st.text(max_size=12), st.sampled_from(("A", "m", "ohm")))
    def test_any_text_gives_a_number_or_is_refused(self, text: str, unit: str) -> None:
        with contextlib.suppress(NotAQuantity):
            self.assertTrue(math.isfinite(read_quantity(text, unit)))


class Shown(unittest.TestCase):
    def test_lengths_and_gauges_in_the_units_that_were_chosen(self) -> None:
        self.addCleanup(use_units, ALL_UNITS[0])
        shown = {"metres and mm²": ("2.31 m", "1.5 mm²", "5 of 4 m"),
                 "feet and AWG": ("7.58 ft", "≈ AWG 16", "16.4 of 13.1 ft")}  # fmt: skip
        for units in ALL_UNITS:
            use_units(units)
            words = (in_length(2.31), in_area(1.5), figure_and_limit(5, 4, "m"))
            with self.subTest(units):
                self.assertEqual(shown[units], words)
        # What the trade takes for each other, and a core that has its gauge.
        for area_mm2, words in (
            (0.14, "≈ AWG 26"), (0.25, "≈ AWG 24"), (0.34, "AWG 22"), (0.5, "AWG 20"),
            (0.75, "≈ AWG 18"), (2.5, "≈ AWG 14"), (6, "≈ AWG 10"), (1.309, "AWG 16"),
            (53.5, "AWG 0"), (67.4, "AWG 2/0"),
        ):  # fmt: skip
            with self.subTest(area_mm2):
                self.assertEqual(words, in_area(area_mm2))
                read = read_area_mm2(words)
                self.assertEqual(words.removeprefix("≈ "), in_area(read).removeprefix("≈ "))
        self.assertAlmostEqual(2.081, read_area_mm2("14"), 3)
        self.assertEqual(1.5, read_area_mm2("1.5 mm²"))
        use_units(ALL_UNITS[0])
        self.assertEqual(14, read_area_mm2("14"))
