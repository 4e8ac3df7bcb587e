"""Pull-ups and fuses against hand computation."""

import math
import unittest

from vervain.electrical.fuse_kinds import BEHAVIOURS, fuse_limit_a
from vervain.electrical.pull_up import pull_up_window


class PullUps(unittest.TestCase):
    def window(self, **more) -> tuple[float, float]:
        given = {
            "supply_v": (4.75, 5.25), "low_v": 0.4, "sink_a": 0.008, "high_min_v": 2.0,
            "leak_a": 10e-6,
        }  # fmt: skip
        return pull_up_window(**{**given, **more})

    def test_the_output_pulls_down_and_the_input_sees_a_high(self) -> None:
        smallest, largest = self.window()
        self.assertAlmostEqual((5.25 - 0.4) / 0.008, smallest)
        self.assertAlmostEqual((4.75 - 2.0) / 10e-6, largest)
        with_input = self.window(input_a=0.001)
        self.assertAlmostEqual((5.25 - 0.4) / 0.007, with_input[0])
        self.assertAlmostEqual((4.75 - 2.0) / (10e-6 + 0.001), with_input[1])

    def test_in_time(self) -> None:
        # 100 pF to 2 V of 4.75 V within 1 us: t / (C ln(4.75 / 2.75)).
        self.assertAlmostEqual(18_297, self.window(rise=(100e-12, 1e-6))[1], delta=1)

    def test_limits_that_nothing_meets(self) -> None:
        self.assertEqual(math.inf, self.window(sink_a=0.001, input_a=0.001)[0])
        self.assertEqual(math.inf, self.window(leak_a=0.0)[1])
        self.assertEqual(0.0, self.window(high_min_v=4.75)[1])


class Fuses(unittest.TestCase):
    def test_the_largest_that_protects_a_core_by_what_each_kind_lets_through(self) -> None:
        """I_n <= I_z and I_2 <= 1.45 I_z, with I_2 of 1.35, 2.1, 1.6 and 1.45 times I_n."""
        for kind, limit_a in (
            ("blade", 10.0), ("IEC 60127", 6.905), ("gG", 9.063), ("breaker", 10.0),
        ):  # fmt: skip
            with self.subTest(kind):
                self.assertAlmostEqual(limit_a, fuse_limit_a(BEHAVIOURS[kind], 10.0), places=2)
        self.assertEqual((0.75, 1.0, 1.0, 1.0), tuple(b.load_ratio for b in BEHAVIOURS.values()))
