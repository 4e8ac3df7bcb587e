"""Quantities as people type them, and nonsense refused."""

import contextlib
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from vervain.text.quantities import NotAQuantity, figure, read_quantity


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
