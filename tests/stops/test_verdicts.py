"""Stops: what pressing does, what becomes of single faults, against answers worked out by hand."""

import random
import unittest

from msgspec.structs import replace

from builder import Builder
from described_machines import wired_placer
from mistake_machines import MACHINES
from tests.catalogue.test_device_ports import made
from tests.stops.circuits import (
    BASE,
    FEEDBACK,
    PENDANT,
    PENDANT_BESIDE,
    PENDANT_IN_SERIES,
    PROGRAM_ONLY,
    boxed,
    by_contactor,
    by_radio,
    holding,
    in_mains,
    one_channel,
    read_channels,
    torque_off,
    two_channels,
    wired,
)
from tests.stops.nodal import Nodal, random_circuit, random_conditions
from vervain.files.demos import open_demo
from vervain.harness.labels import labels
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.queries.machine_queries import Queries
from vervain.stops.at_once import settle_all
from vervain.stops.circuit import Circuit, CoilTimes, LoadAt, SourceAt
from vervain.stops.compiling import circuit_of
from vervain.stops.faults import conditions_of, single_faults
from vervain.stops.following import Clock
from vervain.stops.outcomes import Verdict
from vervain.stops.simulation import Conditions, Settled, Simulator
from vervain.stops.verdicts import second_faults, stop_demands, stop_judge, stop_verdicts
from vervain.stops.words import demand_words, fault_words, power_words, seen_words


def told(machine: Machine) -> dict[str, Verdict]:
    queries = Queries(machine)
    names = labels(queries)
    return {
        fault_words(queries, verdict.fault, lambda wire: names[wire].at_a): verdict
        for verdict in stop_verdicts(queries)
    }


# Fault, what it does to the stop, when it is noticed; each worked out on paper.
ONE = (
    ("W1.1 cut", "safe", "at once"), ("W1.2 cut", "safe", "at once"),
    ("W1.1 touches W1.2, in W1", "stays", "never"),
    ("W1.2 touches plus", "stays", "never"),
    ("W1.1 touches 0 V", "safe", "at once"), ("W1.2 touches 0 V", "safe", "at once"),
    ("S1 11-12 stays closed", "stays", "never"), ("Q1 MAIN stays closed", "stays", "never"),
    ("G1 lost", "safe", "at once"),
)  # fmt: skip
TWO = (
    ("W1.1 cut", "safe", "at once"), ("W2.2 cut", "safe", "at once"),
    ("W1.1 touches W1.2, in W1", "safe", "never"), ("S1 21-22 stays closed", "safe", "never"),
    ("W2.2 touches plus", "safe", "never"), ("Q1 MAIN stays closed", "safe", "never"),
    ("Q2 MAIN stays closed", "safe", "never"), ("T1.24V touches plus", "stays", "never"),
    ("W1.2 touches 0 V", "safe", "at once"),
)  # fmt: skip
READ = (
    ("W1.1 touches W1.2, in W1", "safe", "at the next stop"),
    ("S1 11-12 stays closed", "safe", "at the next stop"),
    ("W2.2 touches plus", "safe", "at the next stop"),
    ("W1.2 cut", "safe", "at once"), ("Q1 MAIN stays closed", "safe", "never"),
)  # fmt: skip
BY_CONTACTOR = (
    ("Q1 MAIN stays closed", "stays", "never"), ("G1.L cut", "safe", "at once"),
    ("X4 lost", "safe", "at once"), ("G2 lost", "safe", "at once"),
)  # fmt: skip
FED_BACK = (
    ("Q1 MAIN stays closed", "safe", "at the next stop"), ("Q1.22 cut", "safe", "at the next stop"),
    ("Q2 MAIN stays closed", "safe", "at the next stop"),
)  # fmt: skip
HOLDING = (
    ("W1.1 cut", "safe", "at once"), ("S3.14 touches plus", "stays", "never"),
    ("K2 RELAY 1 stays closed", "restarts", "at the next stop"),
    ("Q1 MAIN stays closed", "stays", "never"),
    ("W1.1 touches W1.2, in W1", "stays", "never"),
    ("S3 13-14 stays closed", "restarts", "at the next stop"),
)  # fmt: skip
# One channel opens in plus, the other in 0 V, and the start button must be let go.
SAFETY_RELAY = (
    ("S2 13-14 stays closed", "safe", "at once"), ("W1.1 cut", "safe", "at once"),
    ("W1.1 touches W1.2, in W1", "safe", "at the next stop"),
    ("W2.1 touches 0 V", "safe", "at the next stop"), ("W2.1 touches plus", "safe", "at once"),
    ("Q1 MAIN stays closed", "safe", "at once"), ("K9 13-14 stays closed", "safe", "at once"),
    ("S1 21-22 stays closed", "safe", "at the next stop"),
)  # fmt: skip
DOORS = (
    ("S2 LEADS stays closed", "stays", "never"), ("S1 11-12 stays closed", "stays", "never"),
)  # fmt: skip
SERIES = (
    ("W1.1 cut", "safe", "at once"), ("W1.1 touches W1.2, in W1", "stays", "never"),
    ("S1 11-12 stays closed", "stays", "never"), ("S2 11-12 stays closed", "stays", "never"),
    ("W1.2 touches plus", "stays", "never"), ("W1.1 touches plus", "stays", "never"),
)  # fmt: skip


TORQUE_OFF = (
    ("S1 11-12 stays closed", "safe", "at the next stop"), ("W1.1 cut", "safe", "at once"),
    ("W2.1 touches W2.2, in W2", "safe", "at the next stop"),
)  # fmt: skip
RADIO = (
    ("radio link of K9 lost", "safe", "at once"), ("K9.24V cut", "safe", "at once"),
    ("W1.1 touches W1.2, in W1", "stays", "never"), ("K9 13-14 stays closed", "stays", "never"),
)  # fmt: skip
RADIO_UNHELD = (
    ("radio link of K9 lost", "stays", "never"), ("K9.24V cut", "stays", "never"),
)  # fmt: skip


def placer_with_a_tool() -> Machine:
    """The placer with a cutter behind its contactor, which no controller tells to turn."""
    build = Builder(wired_placer())
    volts = {"nominal_v": 24.0, "current_a": 1.0}
    part = replace(made(kind="load", pins_text="+\n-", numbers=volts), title="Cutter")
    build.add("P9", part, "Cutter")
    build.join("P9:LEADS", "Q1:1-2", "1-2")
    build.join("P9:LEADS", "G1:OUT", "2-2")
    return build.machine


class Potentials(unittest.TestCase):
    def test_random_circuits_settle_as_currents_and_voltages_say(self) -> None:
        seed = random.randrange(10**6)
        compared = 0
        for number in range(2000):
            chance = random.Random(f"{seed} {number}")
            circuit = random_circuit(chance)
            conditions = random_conditions(chance, circuit)
            wanted = Nodal(circuit, conditions).settle()
            found = Simulator(circuit).settle(conditions)
            # Which comes first, a fuse that blows or a source that gives up, is not asked.
            if wanted is None or found.races or (found.down and circuit.fuses):
                continue
            compared += 1
            with self.subTest(seed=seed, number=number):
                self.assertEqual(wanted, (found.on, found.levels, found.blown, found.down))
        self.assertGreater(compared, 1000)

    def test_many_at_once_come_to_what_each_comes_to_alone(self) -> None:
        seed = random.randrange(10**6)
        for number in range(120):
            chance = random.Random(f"{seed} {number}")
            circuit = random_circuit(chance)
            simulator = Simulator(circuit)
            rests: list[Settled] | None = None
            for _ in range(2):
                tried = [random_conditions(chance, circuit) for _ in range(8)]
                alone = [
                    simulator.settle(conditions, rests[n] if rests else None)
                    for n, conditions in enumerate(tried)
                ]
                with self.subTest(seed=seed, number=number):
                    self.assertEqual(alone, settle_all(simulator, tried, rests))
                rests = alone
        for machine in (MACHINES["safety relay"](), open_demo("clay-printer-as-found")):
            queries = Queries(machine)
            judge = stop_judge(queries)
            tried = [conditions_of(judge.circuit, fault) for fault in single_faults(queries)]
            alone = [judge.simulator.settle(conditions) for conditions in tried]
            self.assertEqual(alone, settle_all(judge.simulator, tried))

    def test_supplies_wake_each_other_in_a_row_and_never_in_a_circle(self) -> None:
        # The first is there, feeds the second, that the third; the last two feed each other.
        plus, fed_by = (1, 2, 3, 4, 5), (None, 0, 1, 4, 3)
        loads = [LoadAt(at, 0, PortRef(device=f"G{at}", port="IN"), "feed", False) for at in plus]
        sources = [SourceAt(at, 0, f"G{at}", "OUT", n) for at, n in zip(plus, fed_by, strict=True)]
        nodes = {PinRef(device="X", port="X", pin=str(n)): n for n in range(6)}
        simulator = Simulator(Circuit(node_of=nodes, loads=loads, sources=sources))
        at_work = simulator.settle(Conditions())
        self.assertEqual({0, 1, 2}, at_work.on)
        lost = simulator.settle(Conditions(lost_sources=frozenset({1})), at_work)
        self.assertEqual({0}, lost.on)

    def test_each_relay_takes_its_own_time(self) -> None:
        slow, quick = (PortRef(device=name, port="COIL") for name in ("Q1", "Q2"))
        clock = Clock({slow: CoilTimes(0.03, 0.02), quick: CoilTimes(0.01, 0.005)})
        both, none = frozenset({slow, quick}), frozenset()
        self.assertEqual({quick}, clock(none, both), "the quick one is first")
        self.assertEqual(both, clock(frozenset({quick}), both))
        self.assertEqual(0.03, clock.passed_s)
        # What is called back before its time was up never moved.
        self.assertEqual({slow}, clock(both, frozenset({slow})))
        self.assertAlmostEqual(0.035, clock.passed_s)
        for machine, takes_s in ((one_channel(), 0.02), (MACHINES["safety relay"](), 0.035)):
            demand = next(d for d in stop_demands(Queries(machine)) if d.stop == "S1")
            self.assertAlmostEqual(takes_s, demand.takes_s)

    def test_a_light_curtain_that_is_reached_into_stops_the_machine_for_good(self) -> None:
        queries = Queries(MACHINES["gate"]())
        curtain = next(d for d in stop_demands(queries) if d.stop == "B3")
        self.assertEqual(((), False), (curtain.stays, curtain.restarts))
        self.assertEqual("K2 STOP S12 open, K2 STOP S22 open", seen_words(queries, curtain.inputs))
        self.assertEqual("B3 interrupted", demand_words(circuit_of(queries), "B3"))
        found = told(queries.machine)
        # Without its supply it holds nothing: the relay opens, and that is seen at once.
        verdict = found["B3.24V cut"]
        self.assertEqual(((), "at once"), (verdict.stays, verdict.noticed))


class Verdicts(unittest.TestCase):
    def test_single_faults_are_what_they_come_to_on_paper(self) -> None:
        circuits = {
            "one channel": (one_channel(), ONE), "two": (two_channels(), TWO),
            "two, read": (read_channels(), READ),
            "mains by a contactor": (by_contactor(), BY_CONTACTOR),
            "fed back": (read_channels(FEEDBACK), FED_BACK),
            "self-holding": (holding(), HOLDING),
            "torque off": (torque_off(), TORQUE_OFF), "by radio": (by_radio(), RADIO),
            "by radio, not held": (by_radio("NC"), RADIO_UNHELD),
            "safety relay": (MACHINES["safety relay"](), SAFETY_RELAY),
            "doors": (MACHINES["laser"](), DOORS),
            "pendant in series": (wired(PENDANT_IN_SERIES, *PENDANT), SERIES),
        }  # fmt: skip
        for name, (machine, rows) in circuits.items():
            found = told(machine)
            for fault, outcome, noticed in rows:
                with self.subTest(f"{name}: {fault}"):
                    verdict = found[fault]
                    self.assertEqual(outcome == "stays", bool(verdict.stays))
                    self.assertEqual(outcome == "restarts", bool(verdict.restarting))
                    self.assertEqual(noticed, verdict.noticed)

    def test_what_pressing_and_releasing_does(self) -> None:
        program = wired(PROGRAM_ONLY, *BASE[:2], "T1 fell-d36", "K1 tarn-mc5")
        beside = wired(PENDANT_BESIDE, *PENDANT)
        for machine, stop, stays, restarts, is_read in (
            (one_channel(), "S1", (), True, False),
            (read_channels(), "S1", (), False, True),
            (holding(), "S1", (), False, False),
            (by_contactor(), "S1", (), True, False),
            (in_mains(), "S1", (), True, False),
            (torque_off(), "S1", (), True, False),
            (program, "S1", ("T1",), False, True),
            (beside, "S1", ("T1",), False, False),
            (beside, "S2", ("T1",), False, False),
            (one_channel(may_stay="T1"), "S1", (), False, False),
            # A board that loses its power begins its program anew; a tool without one starts.
            (wired_placer(), "S1", (), False, False),
            (placer_with_a_tool(), "S1", (), True, False),
        ):  # fmt: skip
            demand = next(d for d in stop_demands(Queries(machine)) if d.stop == stop)
            with self.subTest(stop=stop, name=machine.name):
                self.assertEqual((stays, restarts, is_read),
                                 (demand.stays, demand.restarts, demand.is_read))  # fmt: skip
        self.assertTrue(
            all(d.does_nothing for d in stop_demands(Queries(beside))), "each alone changes nothing"
        )

    def test_in_a_closed_box_no_wire_is_supposed_to_touch_a_rail(self) -> None:
        found = told(boxed(read_channels()))
        self.assertNotIn("T1.24V touches plus", found)
        self.assertIn("W1.2 touches plus", found)
        self.assertNotIn("W1.1 touches plus", found, "it is plus")
        self.assertFalse([v for v in found.values() if v.is_dangerous])

    def test_a_second_fault_beside_one_that_nobody_noticed(self) -> None:
        queries = Queries(two_channels())
        names = labels(queries)
        words = lambda fault: fault_words(queries, fault, lambda w: names[w].at_a)  # noqa: E731
        first = told(queries.machine)["S1 11-12 stays closed"].fault
        both = {words(verdict.fault) for verdict in second_faults(queries, first)}
        self.assertLessEqual({"S1 21-22 stays closed", "W2.1 touches W2.2, in W2"}, both)
        self.assertNotIn("W2.1 cut", both)
        self.assertEqual((), second_faults(queries, first, should_continue=lambda: False))

    def test_a_blown_fuse_and_what_is_seen_are_told_in_words(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-planned"))
        found = stop_verdicts(queries)
        blown = next(v for v in found if v.fuses)
        self.assertIn("blows", power_words(blown))
        cut = next(v for v in found if any(seen.pin.port == "STOP" for seen in v.changed))
        self.assertIn("K1 STOP", seen_words(queries, cut.changed))
        # The worst comes first: in the planned gantry its brake and its air alone.
        worst = [v for v in found if v.is_dangerous and v.noticed == "never"]
        self.assertEqual({("M5",), ("M9",)}, {left for v in worst for _, left in v.stays})
        self.assertEqual(list(found[: len(worst)]), worst)

    def test_as_found_a_short_in_the_hand_wheels_cable_defeats_its_stop(self) -> None:
        found = told(open_demo("glazing-gantry-as-found"))
        verdict = found["W41.1 touches W41.2, in W41"]
        self.assertIn(("S2", ("M5", "M9", "T1", "T2", "T3", "T4", "T5")), verdict.stays)
        self.assertEqual("never", verdict.noticed)
