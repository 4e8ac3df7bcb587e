"""Axis arithmetic against figures worked out by hand."""

import unittest

from msgspec.structs import replace

from tests import small
from vervain.files.demos import open_demo
from vervain.model.axis import Axis, BallScrew, Belt, Extruder, Gear, Joint, Rack, Screw, Wheel
from vervain.model.machine import Machine
from vervain.model.ratings import Counter
from vervain.motion.figures import count_figures, step_figures
from vervain.motion.mechanisms import MECHANISMS, holding_lead_mm, travel_per_turn
from vervain.motion.words import derived_facts, figures_line, rate_words
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine


def with_counter(machine: Machine, **values) -> Machine:
    """The machine whose controller counts encoders with other limits."""

    def change(part):
        port = part.port("ENC 1")
        changed = replace(port, counter=Counter(**values))
        return replace(part, ports=tuple(changed if p is port else p for p in part.ports))

    return small.with_part(machine, "tarn-mc5", change)


def with_axis_values(machine: Machine, axis_id: str, **values) -> Machine:
    """The machine with one axis changed."""
    axes = tuple(replace(a, **values) if a.id == axis_id else a for a in machine.axes)
    return replace(machine, axes=axes)


class Mechanisms(unittest.TestCase):
    def test_travel_of_one_turn(self) -> None:
        # By hand: pi = 3.14159265; module 2 x 15 teeth = 94.2478 mm; 11 mm hob = 34.5575 mm.
        for mechanism, expected in (
            (Screw(lead_mm=5), 5.0),
            (BallScrew(lead_mm=10), 10.0),
            (Belt(pitch_mm=2, teeth=20), 40.0),
            (Rack(module_mm=2, teeth=15), 94.2478),
            (Wheel(diameter_mm=100), 314.1593),
            (Extruder(diameter_mm=11), 34.5575),
            (Gear(driving_teeth=20, driven_teeth=120), 60.0),
            (Joint(), 360.0),
        ):
            with self.subTest(type(mechanism).__name__):
                self.assertAlmostEqual(expected, travel_per_turn(mechanism), places=4)
        self.assertEqual(8, len({type(kind.example) for kind in MECHANISMS}))

    def test_what_a_mechanism_begins_with_is_a_usual_one(self) -> None:
        # A 5 mm lead; 20 teeth of 2 mm; module 1 with 20 teeth; 1 to 3; a hob of 11, a wheel of 80.
        begun = {kind.word: round(travel_per_turn(kind.example), 2) for kind in MECHANISMS}
        self.assertEqual({
            "screw": 5.0, "ball screw": 5.0, "belt": 40.0, "rack": 62.83, "gear": 120.0,
            "joint": 360.0, "extruder": 34.56, "wheel": 251.33,
        }, begun)  # fmt: skip

    def test_rates_and_the_index_of_an_encoder_in_words(self) -> None:
        told = [rate_words(value, "Hz") for value in (999, 1000, 2400, 100_000)]
        self.assertEqual(["999 Hz", "1 kHz", "2.4 kHz", "100 kHz"], told)
        planned = open_demo("glazing-gantry-as-planned")
        facts = dict(derived_facts(Queries(planned), "A"))
        self.assertEqual("6 times a turn", facts["Index of the encoder"])
        behind = with_axis_values(planned, "A", feedback_at="axis")
        self.assertNotIn("Index of the encoder", dict(derived_facts(Queries(behind), "A")))

    def test_a_screw_holds_below_a_lead(self) -> None:
        # Mean diameter 14 mm: pi x 14 x 0.1 / cos 15 degrees = 4.553 mm.
        self.assertAlmostEqual(4.5534, holding_lead_mm(4, 16, 0.1), places=3)
        self.assertEqual(0.0, holding_lead_mm(20, 8, 0.1), "no thread left")


class Gantry(unittest.TestCase):
    """The main demo: 200 x 16 / 40 mm, and 300 x 10 x 6 / 360 degrees with 4000 counts a turn."""

    def setUp(self) -> None:
        self.machine = open_demo("glazing-gantry-as-planned")
        self.queries = Queries(self.machine)

    def test_steps(self) -> None:
        x = step_figures(self.queries, "X", "M1")
        self.assertEqual((80.0, 20_000.0, 375.0), (x.steps_per_unit, x.step_rate_hz, x.motor_rpm))
        self.assertEqual(("T1", "K1", 16), (x.driver, x.controller, x.microsteps))
        a = step_figures(self.queries, "A", "M6")
        self.assertAlmostEqual(50.0, a.steps_per_unit)
        z = step_figures(self.queries, "Z", "M4")
        self.assertAlmostEqual(0.04 * 320, z.backlash_steps)

    def test_counts_come_through_the_line_receiver(self) -> None:
        counts = count_figures(self.queries, "A")
        self.assertEqual(("K1", "ENC 1"), (counts.counted_by.device, counts.counted_by.port))
        self.assertAlmostEqual(1000 * 4 * 6 / 360, counts.counts_per_unit)
        self.assertAlmostEqual(1500, counts.channel_hz)
        on_axis = with_axis_values(self.machine, "A", feedback_at="axis")
        self.assertAlmostEqual(4000 / 360, count_figures(Queries(on_axis), "A").counts_per_unit)

    def test_a_gear_ratio_slows_the_axis(self) -> None:
        geared = with_axis_values(self.machine, "X", gear_ratio=4.0)
        self.assertAlmostEqual(320.0, step_figures(Queries(geared), "X", "M1").steps_per_unit)

    def test_limits_on_both_sides(self) -> None:
        # 80 steps a mm against 100 kHz is 1250 mm/s; the driver's 5 us are 200 kHz.
        def rules(machine: Machine) -> set[str]:
            return {f.rule for f in check_machine(machine).open if f.stage == "Machine"}

        for speed, expected in ((1250, set()), (1251, {"machine.step-rate"})):
            with self.subTest(speed):
                self.assertEqual(
                    expected, rules(with_axis_values(self.machine, "X", speed_max=speed))
                )
        fast = with_axis_values(self.machine, "X", speed_max=2501)
        self.assertEqual({"machine.step-rate", "machine.step-pulse"}, rules(fast))
        for limit, expected in ((1500, set()), (1499, {"machine.encoder-rate"})):
            slow = with_counter(self.machine, channel_max_hz=limit)
            with self.subTest(limit):
                self.assertEqual(expected, rules(slow))
        counted = with_counter(self.machine, count_max_hz=5999)
        self.assertEqual({"machine.encoder-rate"}, rules(counted))
        # 24,000 counts in 360 degrees; 2^14 is 16,384.
        for bits, expected in ((15, set()), (14, {"machine.counter-range"})):
            small_counter = with_axis_values(
                with_counter(self.machine, bits=bits), "A", endless=False, min_limit="B2",
                max_limit="B2",
            )  # fmt: skip
            with self.subTest(bits):
                self.assertEqual(expected, rules(small_counter))

    def test_what_is_missing_is_said_and_nothing_is_made_up(self) -> None:
        bare = replace(
            small.bench("M1 fell-s57").machine, axes=(Axis(id="X", name="x", drives=("M1",)),)
        )
        line = "".join(text for text, _ in figures_line(Queries(bare), "X"))
        self.assertIn("no driver yet", line)
        self.assertNotIn("steps a mm", line)
        keys = {finding.key for finding in check_machine(bare).open}
        self.assertIn("machine.no-gearing:X", keys)
