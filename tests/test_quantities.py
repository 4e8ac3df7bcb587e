"""Quantities as people type them, and nonsense refused."""

import contextlib
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from vervain.quantities import NotAQuantity, awg_area_mm2, figure, read_area_mm2, read_quantity


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

    def test_cross_sections(self) -> None:
        for text, expected in (
            ("0.5", 0.5),
            ("0.5mm2", 0.5),
            ("0,75 mm²", 0.75),
            ("20 AWG", 0.5176),
            ("awg 26", 0.1288),
        ):
            with self.subTest(text):
                self.assertAlmostEqual(expected, read_area_mm2(text), places=3)
        for text in ("thick", "-1", "2 m", "AWG"):
            with self.subTest(text), self.assertRaises(NotAQuantity):
                read_area_mm2(text)

    def test_awg_against_the_definition(self) -> None:
        # ASTM B258: No. 36 is 0.127 mm, No. 0000 (-3) is 11.684 mm across.
        self.assertAlmostEqual(math.pi / 4 * 0.127**2, awg_area_mm2(36), places=9)
        self.assertAlmostEqual(math.pi / 4 * 11.684**2, awg_area_mm2(-3), places=6)

    @given(st.floats(1e-6, 1e6), st.sampled_from(("A", "V", "m")))
    def test_a_figure_reads_back_to_three_digits(self, value: float, unit: str) -> None:
        text = figure(value, unit).replace(" ", "")
        self.assertAlmostEqual(1.0, read_quantity(text, unit) / value, delta=0.006)

    @given(st.text(max_size=12), st.sampled_from(("A", "m", "ohm")))
    def test_any_text_gives_a_number_or_is_refused(self, text: str, unit: str) -> None:
        with contextlib.suppress(NotAQuantity):
            self.assertTrue(math.isfinite(read_quantity(text, unit)))
