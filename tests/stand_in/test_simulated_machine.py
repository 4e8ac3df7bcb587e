"""The bench list against machines that behave as they are wired: sound ones pass every step, and
what is put wrong is found by following the list, and named.
"""

import unittest

from mistake_machines import MACHINES
from tests.sampling import seeded, some
from vervain.bench.causes import causes
from vervain.bench.checklist import bench_list
from vervain.files.demos import open_demo
from vervain.live.controller_link import Address
from vervain.model.machine import PinRef, PortRef
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.stand_in.controller import StandIn
from vervain.stand_in.faults import with_faults
from vervain.stand_in.hands import do_step
from vervain.stand_in.meter import SimulatedMeter
from vervain.stand_in.script import StandInBench
from vervain.stand_in.simulated_machine import SimulatedMachine

PLANNED = open_demo("glazing-gantry-as-planned")
# A fault, the steps that it makes fail, and words of a cause that the first of them names.
FAULTS = (
    ("cut W18.3", "input B4, home Y", "W18.3"),
    ("cut W11.1", "lock M1, direction X, distance X", "W11.1"),
    ("cut W22.3", "counts A, agree A", "W22.1, W22.2, W22.3"),
    ("cut W31.2", "output K1 OUT 1", "W31.2"),
    ("short W18.3 W18.4", "contact B4 LEADS COM, input B4, home Y", "plug at K1 IN 4"),
    ("exchange K1 IN 3 / K1 IN 4", "input B4, input B3, limit X B3, home Y", "instead of IN 4"),
    ("exchange K1 IN 4 / K1 IN 5", "input B4, input B5, input B6, limit Y B5, limit Y B6, home Y",
     "IN 3 or IN 5 instead of IN 4"),
    ("exchange K2 RELAY 1 / K2 RELAY 2", "output K1 OUT 1, output K1 OUT 2", "K1 OUT 1"),
    ("exchange T1 MOTOR / T4 MOTOR", "distance X, distance Z", "microsteps of T1"),
    ("swap T2 MOTOR 1 2", "direction Y", "One coil of M2 is the other way round"),
    ("swap T2 MOTOR 2 3", "lock M2, direction Y, distance Y", "plug at T2 MOTOR"),
    ("swap K1 WHEEL 2 3", "wheel S3", "A and B of S3 have changed places"),
    ("swap K1 ENC 1 2 3", "counts A, agree A", "A and B of B9 have changed places"),
    ("turn K1 SERVO", "feed M7 PLUG 3, amps G3 OUT 1", "not fed at M7"),
    ("turn T1 POWER", "feed T1 POWER 1, lock M1, direction X, distance X", "not fed at T1"),
    ("turn K1 IN 7", "feed B7 LEADS 1, input B7, home Z", "not fed at B7"),
    ("unplug T1 POWER", "feed T1 POWER 1, lock M1, direction X, distance X", "Fuse F1 before T1"),
    ("unplug B7 LEADS", "feed B7 LEADS 1, input B7, home Z", "not fed at B7"),
    ("shift K1 IN 4", "input B4, home Y", "one pin over"),
    ("set T1 microsteps 8", "set T1 Microsteps, distance X", ""),
    ("set F1 rating_a 4", "set F1 Fuse, rated", ""),
)  # fmt: skip


class Sound(unittest.TestCase):
    def test_machines_as_planned_pass_every_step(self) -> None:
        """Some of the machines of the mistake table; all of them with VERVAIN_ALL."""
        for name in some(seeded("benches of sound machines"), sorted(MACHINES), 6):
            machine = SimulatedMachine(MACHINES[name]())
            for step in bench_list(machine.queries):
                with self.subTest(f"{name}: {step.id}"):
                    seen = do_step(machine, step)
                    self.assertEqual("passed", seen.outcome, f"{seen.words}, not {step.see}")

    def test_a_step_leaves_the_machine_as_it_was(self) -> None:
        machine = SimulatedMachine(PLANNED)
        machine.work("B1", True)
        before = machine.lit()
        for step in bench_list(machine.queries):
            do_step(machine, step)
        self.assertEqual(before, machine.lit())


class Faults(unittest.TestCase):
    def test_what_is_wrong_is_found_by_the_list_and_named(self) -> None:
        queries = Queries(PLANNED)
        steps = bench_list(queries)
        for line, wanted, cause in some(seeded("faults of the bench"), FAULTS, 12):
            faulty = with_faults(PLANNED, [line])
            machine = SimulatedMachine(faulty.machine, faulty.touching, PLANNED)
            failed = [step for step in steps if do_step(machine, step).outcome == "failed"]
            with self.subTest(line):
                self.assertEqual(wanted, ", ".join(step.id for step in failed))
                named = [found.what for found in causes(queries, failed[0], steps)]
                self.assertTrue(not cause or any(cause in what for what in named), named)

    def test_a_supply_without_mains_gives_nothing(self) -> None:
        faulty = with_faults(PLANNED, ["unplug G2 MAINS"])
        machine = SimulatedMachine(faulty.machine, faulty.touching, PLANNED)
        step = next(s for s in bench_list(Queries(PLANNED)) if s.id == "volts G2 OUT 1")
        self.assertEqual("failed", do_step(machine, step).outcome)
        self.assertFalse(machine.lit()[PortRef(device="K1", port="STOP")])

    def test_lines_that_are_no_fault_are_refused_with_a_way_out(self) -> None:
        for line, words in (
            ("melt K1", "There are: cut"), ("cut W99", "W99"), ("short W18.3", "As in: short"),
            ("exchange K1 IN 4", "As in: exchange"), ("turn K1 IN 44", "It has"),
            ("swap K1 IN 4 1 9", "It has 1, 2, 3"), ("set T1 microsteps 7", "Choose"),
            ("set F1 rating_a much", "no number"), ("unplug Z1 A", "Z1"), ("set T1", "As in: set"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaises(Problem) as caught:
                with_faults(PLANNED, [line])
            self.assertIn(words, f"{caught.exception.what} {caught.exception.remedy}")

    def test_a_wire_cut_twice_is_told_and_labels_stay_those_of_the_design(self) -> None:
        with self.assertRaises(Problem):
            with_faults(PLANNED, ["cut W18.3", "cut W18.3"])
        both = with_faults(PLANNED, ["cut W18.3", "cut W18.4"]).machine
        count = sum(len(hookup.conductors) for hookup in PLANNED.hookups)
        self.assertEqual(count - 2, sum(len(hookup.conductors) for hookup in both.hookups))


class Scripts(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = StandInBench(PLANNED, [])
        self.meter = SimulatedMeter(self.bench.stand_in, Address("127.0.0.1", 0))
        self.bench.meter = self.meter

    def lit(self, port: str) -> bool:
        return self.bench.stand_in.machine.lit()[PortRef(device="K1", port=port)]

    def test_lines_work_switches_outputs_axes_probes_and_faults(self) -> None:
        do = self.bench.do
        self.assertTrue(self.lit("IN 4"))
        do("work B4")
        self.assertFalse(self.lit("IN 4"))
        do("cut W18.3")
        do("release B4")
        self.assertFalse(self.lit("IN 4"))
        do("mend")
        self.assertTrue(self.lit("IN 4"))
        do("switch K1 OUT 1 on")
        self.assertIn("M8", self.bench.stand_in.machine.powered())
        do("switch K1 OUT 1 off")
        self.assertNotIn("M8", self.bench.stand_in.machine.powered())
        self.assertEqual("A moved by 12", do("send A 12"))
        do("wheel S3 -0.5")
        self.assertIn("K1 ENC 1 800", do("look"))
        self.assertIn("K1 WHEEL -200", do("look"))
        do("probe G2 OUT 24V / G2 OUT 0V")
        self.assertAlmostEqual(24, self.meter.shown("V"), delta=0.3)
        self.assertIn("meter: 23.9", do("look"))

    def test_a_line_that_is_not_understood_changes_nothing(self) -> None:
        for line in ("wrok B4", "send X ten", "wheel S3 round", "send Q 1", "probe G2",
                     "switch K1 OUT 1", "work Z9", "cut W99", "work S1 9 9"):  # fmt: skip
            with self.subTest(line), self.assertRaises(Problem):
                self.bench.do(line)
        self.assertEqual([], self.bench.faults)

    def test_probes_in_the_air_show_nothing_and_open(self) -> None:
        meter = SimulatedMeter(StandIn(SimulatedMachine(PLANNED)), Address("127.0.0.1", 0))
        self.assertEqual((0.0, 9.9e37), (meter.shown("V"), meter.shown("Ω")))
        meter.probes = (
            PinRef(device="M1", port="LEADS", pin="BK"),
            PinRef(device="M1", port="LEADS", pin="RD"),
        )
        self.assertEqual(9.9e37, meter.shown("Ω"))
