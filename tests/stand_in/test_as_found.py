"""The demonstrations as found, gone through by the bench lists of the machines as planned."""

import unittest

from as_found import DEMOS, shown

# What neither an eye nor a meter sees at a step: what wears, what runs too near its limit, what a
# controller's program is told of an input, and what shows at the device only once it moves.
BY_THE_CHECK_ALONE = {
    "machine.axis-limit", "machine.step-rate", "ports.empty-slot", "ports.loose", "ports.need",
    "signals.level", "stops.invert", "stops.no-brake", "supply.budget", "supply.drop",
    "supply.fuse", "supply.fuse-load", "supply.no-common",
}  # fmt: skip


class AsFound(unittest.TestCase):
    def test_what_is_wrong_shows_at_a_step_or_is_none_for_the_bench(self) -> None:
        for demo in DEMOS:
            found = shown(demo)
            silent = {item.finding.rule for item in found if not item.steps}
            with self.subTest(demo):
                self.assertLessEqual(silent, BY_THE_CHECK_ALONE)
                self.assertGreater(sum(bool(item.steps) for item in found), len(found) / 2)
