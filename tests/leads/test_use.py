"""Winding use: figures, wiring for each use, and the test that tells the phases of eight leads."""

import itertools
import math
import unittest

from msgspec.structs import replace

from tests import small
from vervain.edits.measurement_edits import add_series_test, set_coils
from vervain.leads.direction import (
    DIRECTIONS,
    direction_of,
    possible_directions,
    set_direction,
)
from vervain.leads.phases import next_test, phases_from_tests, phases_of
from vervain.leads.rewiring import use_windings
from vervain.leads.winding_connection import (
    USES,
    left_open,
    motor_use,
    use_of,
    uses_of,
    wired_use,
)
from vervain.model.machine import Machine
from vervain.model.measurements import SeriesTest
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine

EIGHT = "RD-1 BK-1 WHRD-2 WHBK-2 YE-3 BU-3 WHYE-4 WHBU-4"


def eight(pins: str = EIGHT) -> Machine:
    """The eight-lead motor (1.2 ohm, 3.4 mH a winding; 3 A in parallel) on a driver."""
    return motor("osier-sm86-8", pins)


def six(pins: str = "BK-1 GN-2 RD-3 BU-4") -> Machine:
    """The six-lead motor (1.3 ohm, 2.1 mH a half coil; 2 A unipolar) on a driver."""
    return motor("osier-sm57-6", pins)


def motor(part: str, pins: str) -> Machine:
    build = small.bench(f"M1 {part}", "T1 fell-d72")
    build.join("M1:LEADS", "T1:MOTOR", pins)
    return build.machine


def rules(machine: Machine) -> set[str]:
    return {f.rule for f in check_machine(machine).open if f.stage == "Leads"}


class Figures(unittest.TestCase):
    def test_each_use_by_hand(self) -> None:
        # rules.md: half coil R, L, I_u; series 2R, 4L, I_u/sqrt2; parallel R/2, L, I_u*sqrt2.
        for kind, ohm, henry, current in (
            ("half coil", 1.0, 0.002, 2.0),
            ("series", 2.0, 0.008, 1.41421),
            ("parallel", 0.5, 0.002, 2.82843),
        ):
            use = use_of(kind, 2.0, 1.0, 0.002)
            with self.subTest(kind):
                self.assertEqual((ohm, henry), (use.resistance_ohm, use.inductance_h))
                self.assertAlmostEqual(current, use.current_a, places=5)
                # Equal heat in what is wound: P = I^2 R is the same for every use.
                heat = use.current_a**2 * use.resistance_ohm
                self.assertAlmostEqual(4.0, heat)

    def test_the_rating_is_that_of_the_wiring(self) -> None:
        # 3 A in parallel is 2.1213 A a winding and 1.5 A in series.
        for pins, kind, current in (
            (EIGHT, "parallel", 3.0),
            ("RD-1 WHRD-2 YE-3 WHYE-4", "half coil", 3 / math.sqrt(2)),
        ):
            queries = Queries(eight(pins))
            with self.subTest(kind):
                self.assertEqual(kind, wired_use(queries, "M1"))
                self.assertAlmostEqual(current, motor_use(queries, "M1").current_a)
        series = Queries(use_windings(eight(), "M1", "series"))
        self.assertAlmostEqual(1.5, motor_use(series, "M1").current_a)
        self.assertAlmostEqual(2.4, motor_use(series, "M1").resistance_ohm)

    def test_a_current_given_as_wired_leaves_the_windings_their_figures(self) -> None:
        machine = use_windings(eight(), "M1", "series")
        part = machine.parts[0]
        stepper = replace(part.stepper, rated="as wired", current_a=2.0)
        other = tuple(replace(p, stepper=stepper) if p.id == part.id else p for p in machine.parts)
        use = motor_use(Queries(replace(machine, parts=other)), "M1")
        self.assertEqual("osier-sm86-8", part.id)
        self.assertEqual((2.0, 2.4), (use.current_a, use.resistance_ohm))
        self.assertAlmostEqual(4 * 0.0034, use.inductance_h)

    def test_three_phases_are_reckoned_between_two_terminals(self) -> None:
        # 0.5 ohm, 3.1 mH and 4 A a winding: 2 R in star; 2/3 R and sqrt(3) of the current in delta.
        for pins, joints, use in (
            ("RD-1 YE-2 BU-3", "WHRD-WHYE WHYE-WHBU", ("star", 1.0, 0.0062, 4.0)),
            ("RD-1 WHYE-1 YE-2 WHBU-2 BU-3 WHRD-3", "", ("delta", 1 / 3, 0.0031 / 1.5, 6.9282)),
        ):
            build = small.bench("M1 osier-sm86-3-6", "T1 fell-d73")
            build.join("M1:LEADS", "T1:MOTOR", pins)
            if joints:
                build.join("M1:LEADS", "M1:LEADS", joints)
            found = motor_use(Queries(build.machine), "M1")
            with self.subTest(use[0]):
                self.assertEqual(use[0], found.kind)
                for is_, should in zip(
                    (found.resistance_ohm, found.inductance_h, found.current_a),
                    use[1:],
                    strict=True,
                ):
                    self.assertAlmostEqual(should, is_, 4)

    def test_a_reversed_winding_has_no_inductance_left(self) -> None:
        turned = eight("RD-1 BK-2 WHRD-2 WHBK-1 YE-3 BU-3 WHYE-4 WHBU-4")
        use = motor_use(Queries(turned), "M1")
        self.assertEqual((0.6, 0.0), (use.resistance_ohm, use.inductance_h))

    def test_the_checks_hold_the_driver_against_the_use(self) -> None:
        machine = small.with_setting(eight(), "T1", "current_peak_a", 4.0)
        self.assertNotIn("supply.driver-current:M1:T1:over", keys(machine))
        series = use_windings(machine, "M1", "series")
        self.assertIn("supply.driver-current:M1:T1:over", keys(series))

    def test_turned_by_its_leads_every_winding_of_a_phase_is_turned(self) -> None:
        machines = {kind: use_windings(eight(), "M1", kind) for kind in USES}
        machines |= {f"{kind} of six": use_windings(six(), "M1", kind) for kind in USES[:2]}
        machines["four"] = motor("fell-s57", "BK-1 GN-2 RD-3 BU-4")
        machines["phases exchanged"] = motor("fell-s57", "BK-3 GN-4 RD-1 BU-2")
        for words, machine in machines.items():
            queries = Queries(machine)
            now = direction_of(queries, "M1")
            other = "forward" if now != "forward" else "reversed by its leads"
            turned = set_direction(machine, "M1", other)
            with self.subTest(words):
                # No controller steps it here, so there is nothing to set in one.
                self.assertEqual(DIRECTIONS[:2], possible_directions(queries, "M1"))
                self.assertEqual(other, direction_of(Queries(turned), "M1"))
                self.assertEqual(wired_use(queries, "M1"), wired_use(Queries(turned), "M1"))
                self.assertEqual(rules(machine), rules(turned))
                again = set_direction(turned, "M1", now)
                self.assertEqual(now, direction_of(Queries(again), "M1"))

    def test_six_leads_allow_two_uses_and_a_single_coil_none(self) -> None:
        self.assertEqual(["half coil", "series"], [u.kind for u in uses_of(Queries(six()), "M1")])
        self.assertEqual((), uses_of(Queries(motor("fell-s57", "BK-1 GN-2 RD-3 BU-4")), "M1"))


def keys(machine: Machine) -> set[str]:
    return {finding.key for finding in check_machine(machine).open}


class Wiring(unittest.TestCase):
    def test_every_use_can_be_reached_from_every_other_without_a_finding(self) -> None:
        for make, kinds in (
            (eight, ("half coil", "series", "parallel")),
            (six, ("half coil", "series")),
        ):
            for first, second in itertools.product(kinds, repeat=2):
                machine = use_windings(use_windings(make(), "M1", first), "M1", second)
                queries = Queries(machine)
                with self.subTest(f"{make.__name__}: {first}, {second}"):
                    self.assertEqual(second, wired_use(queries, "M1"))
                    self.assertEqual(set(), rules(machine))

    def test_taps_and_idle_windings_are_left_to_insulate(self) -> None:
        self.assertEqual(("YE", "WH"), left_open(Queries(six()), "M1"))
        half = Queries(use_windings(eight(), "M1", "half coil"))
        self.assertEqual(("BK", "WHBK", "BU", "WHBU"), left_open(half, "M1"))

    def test_a_reversed_winding_is_damage_in_parallel_and_in_series(self) -> None:
        parallel = eight("RD-1 BK-2 WHRD-2 WHBK-1 YE-3 BU-3 WHYE-4 WHBU-4")
        self.assertIn("leads.winding-reversed", rules(parallel))
        build = small.bench("M1 osier-sm86-8", "T1 fell-d72")
        build.join("M1:LEADS", "T1:MOTOR", "RD-1 BK-2 YE-3 WHBU-4")
        build.join("M1:LEADS", "M1:LEADS", "WHRD-WHBK WHYE-BU")
        self.assertIn("leads.winding-reversed", rules(build.machine))

    def test_a_connected_tap_is_found(self) -> None:
        machine = six("BK-1 YE-2 GN-2 RD-3 BU-4")
        self.assertIn("leads.tap-connected", rules(machine))

    def test_a_motor_in_no_port_is_refused_with_a_remedy(self) -> None:
        with self.assertRaises(Problem) as refused:
            use_windings(small.bench("M1 osier-sm86-8").machine, "M1", "series")
        self.assertIn("Put the motor", refused.exception.remedy)


class SeriesTests(unittest.TestCase):
    """Every way four windings can be paired and turned is told, in at most four tests."""

    WINDINGS = (("1", "2"), ("3", "4"), ("5", "6"), ("7", "8"))

    def test_every_motor_is_told(self) -> None:
        counts = []
        for partner in (1, 2, 3):
            others = [n for n in (1, 2, 3) if n != partner]
            for turned in itertools.product((1, -1), repeat=4):
                phase = {0: 0, partner: 0, others[0]: 1, others[1]: 1}
                tests: tuple[SeriesTest, ...] = ()
                while (pair := next_test(self.WINDINGS, tests)) is not None:
                    tests = (*tests, self.saw(pair, phase, turned))
                    self.assertLessEqual(len(tests), 4)
                counts.append(len(tests))
                found = phases_from_tests(self.WINDINGS, tests)
                self.check(found, phase, turned)
        self.assertEqual((2, 4), (min(counts), max(counts)))

    def saw(self, pair, phase, turned) -> SeriesTest:
        first, second = (self.number(ends) for ends in pair)
        if phase[first] != phase[second]:
            seen = "between"
        else:
            # Current flows free -> joined -> joined -> free: the second one against its writing.
            sense = self.sense(pair[0], turned) * -self.sense(pair[1], turned)
            seen = "double" if sense > 0 else "nothing"
        return SeriesTest(first=pair[0], second=pair[1], saw=seen)

    def number(self, ends) -> int:
        return next(n for n, w in enumerate(self.WINDINGS) if set(w) == set(ends))

    def sense(self, ends, turned) -> int:
        number = self.number(ends)
        return turned[number] * (1 if ends == self.WINDINGS[number] else -1)

    def check(self, found, phase, turned) -> None:
        for windings in found:
            numbers = [self.number(ends) for ends in windings]
            self.assertEqual(phase[numbers[0]], phase[numbers[1]])
            self.assertEqual(self.sense(windings[0], turned), self.sense(windings[1], turned))

    def test_tests_beat_the_part_and_contradicting_coils_leave_it_open(self) -> None:
        machine = set_coils(
            eight(), "M1", (("RD", "WHBK"), ("BK", "WHRD"), ("YE", "WHYE"), ("BU", "WHBU"))
        )
        self.assertIsNone(phases_of(Queries(machine), "M1"))
        for first, second, seen in (
            (("RD", "WHBK"), ("WHRD", "BK"), "double"),
            (("YE", "WHYE"), ("WHBU", "BU"), "nothing"),
        ):
            machine = add_series_test(
                machine, "M1", SeriesTest(first=first, second=second, saw=seen)
            )
        phases = phases_of(Queries(machine), "M1")
        self.assertEqual((("RD", "WHBK"), ("BK", "WHRD")), phases.first)
        self.assertEqual((("YE", "WHYE"), ("WHBU", "BU")), phases.second)
