"""What small edits keep and refuse, at their limits."""

import unittest

from msgspec.structs import replace

from builder import bench
from tests.rules.harness_cases import fan_on_a_run, routed, run
from vervain.edits import cable_edits, feed_edits, measurement_edits, route_edits
from vervain.model.machine import Machine
from vervain.model.measurements import Reading
from vervain.model.place import Chain
from vervain.model.problem import Problem


def two_runs(**second: object) -> Machine:
    """Two runs in line, the second with what is given."""
    other = replace(run("R2", "mid", "end", 2.0), **second)
    return routed(fan_on_a_run(), {}, run("R1", "box", "mid", 1.0), other)


class Runs(unittest.TestCase):
    def test_a_run_of_two_is_what_either_was(self) -> None:
        chain = Chain(width_mm=36, height_mm=17, bend_radius_mm=100)
        for given in (
            {"moving": True}, {"moving": True, "coiled": True}, {"moving": True, "chain": chain},
            {"moving": True, "axis": "X"}, {"entry": "gland"},
        ):  # fmt: skip
            for machine in (two_runs(**given), two_runs()):
                if machine == two_runs():
                    first = replace(machine.runs[0], **given)
                    machine = replace(machine, runs=(first, machine.runs[1]))
                (joined,) = route_edits.remove_place(machine, "mid").runs
                with self.subTest(given):
                    self.assertEqual(given, {name: getattr(joined, name) for name in given})

    def test_a_run_is_parted_within_it_only(self) -> None:
        for at_m in (0.0, 1.0):
            with self.subTest(at_m), self.assertRaisesRegex(Problem, "not within it"):
                route_edits.split_run(two_runs(), "R1", at_m, "Joint")
        parted = route_edits.split_run(two_runs(), "R1", 0.25, "Joint")
        self.assertEqual([0.25, 0.75], [r.length_m for r in parted.runs if r.id in ("R1", "R3")])


class Cables(unittest.TestCase):
    def test_lengths_on_hand_have_a_limit(self) -> None:
        machine = fan_on_a_run()
        part = machine.cable_parts[0].id
        kept = cable_edits.set_reels(machine, part, (10_000.0, 0.5))
        self.assertEqual([10_000.0, 0.5], [reel.length_m for reel in kept.reels])
        for wrong in ((10_000.5,), (0.0,), (1.0,) * 41):
            with self.subTest(wrong[0]), self.assertRaises(Problem):
                cable_edits.set_reels(machine, part, wrong)

    def test_another_gauge_is_a_part_named_as_its_likes(self) -> None:
        build = bench("G1 fell-ps24", "M1 quoin-bf24")
        build.cable("W1", "flex-2x0.5", 1.0)
        machine = feed_edits.set_gauge(build.machine, "W1", 4.0)
        made = machine.cable_parts[-1]
        self.assertEqual("Cable 2 x 4 mm2, flexing", made.title)
        self.assertEqual(4.0, made.core_mm2)
        # A second one of that gauge is the same part.
        again = feed_edits.set_gauge(machine, "W1", 4.0)
        self.assertEqual(machine.cable_parts, again.cable_parts)


class Readings(unittest.TestCase):
    def test_a_reading_moves_one_place_and_stays_at_the_ends(self) -> None:
        machine = bench("M1 fell-s42").machine
        for ohm in (1.0, 2.0, 3.0):
            reading = Reading(a="BK", b="GN", saw="ohms", resistance_ohm=ohm)
            machine = measurement_edits.add_reading(machine, "M1", reading)

        def order(number: int, by: int) -> list[float | None]:
            moved = measurement_edits.move_reading(machine, "M1", number, by)
            return [reading.resistance_ohm for reading in moved.devices[0].readings]

        self.assertEqual([1, 3, 2], order(1, 1))
        self.assertEqual([2, 1, 3], order(1, -1))
        self.assertEqual([1, 2, 3], order(0, -1))
        self.assertEqual([1, 2, 3], order(2, 1))
        with self.assertRaisesRegex(Problem, "no reading 4"):
            order(3, 1)
        with self.assertRaises(Problem):
            order(-1, 1)
