"""The feeds of machines: who takes what, the network's figures, the tree, and changes of it."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests import ROOT, small
from tests.rules import supply_cases as cases
from tests.rules.truth_cases import motor_on_a_board
from tests.small import at
from tests.test_cli import run
from vervain.edits.axis_edits import set_axis_number
from vervain.edits.feed_edits import set_gauge, set_measured_currents
from vervain.electrical.copper import ampacity_a, resistance_ohm_m
from vervain.files.demos import DEMOS, open_demo
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.files.problems import FileProblem
from vervain.harness.cable_routes import cable_route
from vervain.model.machine import Machine, PinRef
from vervain.model.problem import Problem
from vervain.model.references import faults_of
from vervain.motion.figures import step_figures
from vervain.ports.occupancy import colour_of
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine
from vervain.supply.earth import earth_tree
from vervain.supply.feed_tree import FeedTree, feed_trees
from vervain.supply.inrush import Inrush, melting_a2s
from vervain.supply.loads import demands_in
from vervain.supply.measured import measured_text, read_measured
from vervain.supply.results import delivered_power, drop_limit, hours_left, supply_loads
from vervain.supply.rewiring import (
    bond,
    feed_from,
    fuse_for,
    join_negatives,
    put_fuse,
    take_feed_off,
)
from vervain.supply.sizing import USUAL_MM2, gauges_for
from vervain.supply.solution import solved_feeds
from vervain.supply.states import STATES
from vervain.supply.voltage_profile import along, feed_path

ARM = open_demo("seedling-arm-as-planned")
DEMO = ROOT / "src/vervain/data/demos/glazing-gantry-as-found.vervain"
GANTRY = open_demo("glazing-gantry-as-planned")


def pin(port: str, number: str) -> PinRef:
    ref = at(port)
    return PinRef(device=ref.device, port=ref.port, pin=number)


def arrival(machine: Machine, device: str, state="everything"):
    return next(row for row in delivered_power(Queries(machine), state) if row.pin.device == device)


class Figures(unittest.TestCase):
    def test_a_feed_by_hand(self) -> None:
        row = arrival(cases.pump(2.0, length_m=3.0), "M1")
        resistance_ohm = 2 * (3.0 * resistance_ohm_m(0.5) + 2 * 0.002) + 0.005 * 24 / 5
        self.assertAlmostEqual(24 - 2.0 * resistance_ohm, row.voltage_v, 3)
        self.assertAlmostEqual(2.0 * resistance_ohm / 24, row.lost, 4)

    def test_every_demo_in_every_state_obeys_kirchhoff(self) -> None:
        for demo in DEMOS:
            queries = Queries(open_demo(demo.key))
            for state in STATES:
                with self.subTest(f"{demo.key} {state}"):
                    self.assertLess(solved_feeds(queries, state).residual_a, 1e-8)

    def test_what_a_supply_gives_is_what_its_consumers_take(self) -> None:
        for load in supply_loads(Queries(GANTRY), "everything"):
            with self.subTest(load.pin.device):
                self.assertAlmostEqual(load.current_a, sum(a for _, a in load.shares), 2)

    def test_a_chain_adds_up_and_sags_along(self) -> None:
        voltage_v = [arrival(ARM, f"T{number}", "moving").voltage_v for number in range(1, 6)]
        self.assertEqual(sorted(voltage_v, reverse=True), voltage_v)
        path = feed_path(Queries(ARM), "moving", pin("T5:FEED", "1"))
        flows = [flow for flow, _ in path.out if flow.link.kind == "conductor"]
        current_a = [round(abs(flow.current_a), 6) for flow in flows]
        self.assertEqual(sorted(current_a, reverse=True), current_a)
        taken = sum(arrival(ARM, f"T{number}", "moving").current_a for number in range(1, 6))
        self.assertAlmostEqual(taken, current_a[-5], 2)

    def test_a_converter_takes_what_it_gives(self) -> None:
        queries = Queries(ARM)
        given = next(g for g in supply_loads(queries, "moving") if g.pin.device == "G2")
        row = arrival(ARM, "G2", "moving")
        self.assertAlmostEqual(given.watts / 0.85, row.voltage_v * row.current_a, 1)

    def test_a_shorted_outlet_drops_out_and_the_rest_runs_on(self) -> None:
        found = open_demo("clay-printer-as-found")
        outlet = next(g for g in supply_loads(Queries(found), "moving") if g.pin.device == "K1")
        self.assertTrue(outlet.drops_out)
        self.assertIn(arrival(found, "B3", "moving").status, ("not fed", "too low"))
        self.assertEqual("on", arrival(found, "K1", "moving").status)


class Taking(unittest.TestCase):
    def current_a(self, machine: Machine, device: str, state) -> tuple[float, str]:
        take = demands_in(Queries(machine), device, state)[0]
        return take.current_a, take.by

    def test_a_driver_by_its_state(self) -> None:
        # X: 3.6 A peak is 2.546 A RMS; 0.9 ohm a phase, at 80 °C 1.2358 times that.
        rms = 3.6 / math.sqrt(2)
        part = next(p for p in GANTRY.parts if p.id == "fell-s57")
        hot = part.inside[0].resistance_ohm * (1 + 0.00393 * 60)
        for state, current_a in (
            ("idle", 0.05),
            ("holding", 2 * (rms / 2) ** 2 * hot / 0.9 / 48 + 0.05),
            ("moving", 2 / 3 * rms),
        ):
            with self.subTest(state):
                self.assertAlmostEqual(current_a, self.current_a(GANTRY, "T1", state)[0], 6)
        self.assertIn("rule of thumb", self.current_a(GANTRY, "T1", "moving")[1])

    def test_a_driver_turns_its_motor_with_the_torque_that_is_given(self) -> None:
        # 0.8 N m at the motor's speed, and what the windings shed: no rule of thumb any more.
        machine = set_axis_number(GANTRY, "X", "torque_nm", 0.8)
        rpm = step_figures(Queries(machine), "X", "M1").motor_rpm
        part = next(p for p in GANTRY.parts if p.id == "fell-s57")
        hot = part.inside[0].resistance_ohm * (1 + 0.00393 * 60)
        copper_w = 2 * (3.6 / math.sqrt(2)) ** 2 * hot
        shaft_w = 0.8 * rpm / 60 * 2 * math.pi
        current_a, by = self.current_a(machine, "T1", "moving")
        self.assertAlmostEqual((copper_w + shaft_w) / 0.9 / 48 + 0.05, current_a, 6)
        self.assertIn("at the shaft", by)

    def test_three_phases_shed_three_halves_of_what_lies_between_two_leads(self) -> None:
        # In star R_tt = 2 R: 3 I^2 R = 1.5 I^2 R_tt, and the same in delta, where R_tt = 2/3 R.
        rms, hot = 3.2 / math.sqrt(2), 2 / 3 * 1.4 * (1 + 0.00393 * 60)
        holding = self.current_a(GANTRY, "T5", "holding")[0]
        self.assertAlmostEqual(1.5 * (rms / 2) ** 2 * hot / 0.9 / 48 + 0.05, holding, 3)

    def test_a_bridge_passes_its_motors_on_and_starts_at_standstill(self) -> None:
        moving, by = self.current_a(ARM, "T6", "moving")
        start, _ = self.current_a(ARM, "T6", "start")
        self.assertIn("M7 and M8", by)
        self.assertGreaterEqual(start, moving)
        # A board with a feed of its own for its bridges: 1 A / 0.9 there, its rating at the other.
        board = Queries(motor_on_a_board("fell-ps24", 1.0))
        takes = {d.plus.port: d.current_a for d in demands_in(board, "K1", "moving")}
        self.assertEqual({"POWER": 0.25, "MOTOR PWR": 1 / 0.9}, takes)

    def test_a_measured_current_is_believed(self) -> None:
        machine = set_measured_currents(GANTRY, "T1", read_measured("moving 0.9 A; hold 300 mA"))
        self.assertEqual((0.9, "measured"), self.current_a(machine, "T1", "moving"))
        self.assertEqual((0.3, "measured"), self.current_a(machine, "T1", "holding"))
        self.assertEqual(
            "holding 0.3 A, moving 0.9 A",
            measured_text(
                machine.devices[[d.designator for d in machine.devices].index("T1")].measured_a
            ),
        )
        self.assertEqual(machine, decode_machine(encode_machine(machine), "m"))
        flying = set_measured_currents(GANTRY, "T1", {"flying": 2.0})
        with self.assertRaisesRegex(FileProblem, "flying"):
            decode_machine(encode_machine(flying), "m")
        for nonsense in ("flying 2 A", "moving much", "moving 1e9 A", "moving -1 A"):
            with self.subTest(nonsense), self.assertRaises(Problem):
                read_measured(nonsense)


def devices_of(tree: FeedTree) -> list[str]:
    return [branch.label for branch in tree.branches]


# Loads chained one behind the other: a strip of lamps, a bus of drives, many times over.
LONG_CHAIN = 1000


class Trees(unittest.TestCase):
    def test_the_gantrys_48_v(self) -> None:
        tree = feed_trees(Queries(GANTRY), "everything")[0]
        self.assertEqual(
            ["G1", "F1 15 A", "Q1", "Q2", "X1", "T1", "T2", "T3", "T4", "T5"], devices_of(tree)
        )

    def test_a_chain_hangs_one_behind_the_other(self) -> None:
        depths = {b.device: b.depth for b in feed_trees(Queries(ARM), "moving")[0].branches}
        self.assertEqual(4, depths["T5"] - depths["T1"])

    def test_a_chain_of_five_thousand_loads_is_only_long(self) -> None:
        build = small.bench("G1 fell-ps24")
        for number in range(1, LONG_CHAIN + 1):
            build.device(f"T{number}", "fell-d36", f"Driver {number}", None)
            before = f"T{number - 1}:NEXT" if number > 1 else "G1:OUT"
            build.join(before, f"T{number}:FEED", "1-1 2-2")
        little = tuple(replace(d, measured_a={"holding": 0.0001}) for d in build.machine.devices)
        tree = feed_trees(Queries(replace(build.machine, devices=little)), "holding")[0]
        self.assertEqual(LONG_CHAIN, tree.branches[-1].depth)
        self.assertEqual(LONG_CHAIN, len(tree.consumers()))
        self.assertEqual([f"T{LONG_CHAIN}"], [row.pin.device for row in tree.consumers(LONG_CHAIN)])

    def test_every_fed_consumer_is_in_exactly_one_tree(self) -> None:
        for demo in DEMOS:
            queries = Queries(open_demo(demo.key))
            pins = [a.pin for t in feed_trees(queries, "everything") for a in t.consumers()]
            fed = {
                r.pin.device
                for r in delivered_power(queries, "everything")
                if (r.voltage_v or 0) > 1
            }
            with self.subTest(demo.key):
                self.assertEqual(len(pins), len(set(pins)))
                self.assertEqual(set(), fed - {pin.device for pin in pins})


class Rewiring(unittest.TestCase):
    def test_a_consumer_is_fed_from_another_strip(self) -> None:
        motor = pin("M8:LEADS", "1")
        moved = feed_from(GANTRY, motor, pin("X2:6", "1"))
        self.assertEqual([], list(faults_of(moved)))
        path = feed_path(Queries(moved), "everything", motor)
        self.assertIn("F2", [flow.link.owner for flow in path.flows])
        added = moved.cables[-1]
        self.assertEqual("pair", added.part[:4])
        self.assertEqual(added.runs, cable_route(Queries(moved), added.id).runs)
        self.assertTrue(added.runs, "its way tells its length")

    def test_a_driver_is_chained_behind_another(self) -> None:
        machine = small.bench("G1 fell-ps24", "T1 fell-d36", "T2 fell-d36").machine
        machine = feed_from(machine, pin("T1:FEED", "1"), pin("G1:OUT", "1"))
        machine = feed_from(machine, pin("T2:FEED", "1"), pin("T1:FEED", "1"))
        self.assertEqual(
            [("G1", ["T1", "T2"])],
            [(t.source.label, devices_of(t)[1:]) for t in feed_trees(Queries(machine), "holding")],
        )
        with self.assertRaisesRegex(Problem, "itself"):
            feed_from(machine, pin("T1:FEED", "1"), pin("T1:NEXT", "1"))
        with self.assertRaisesRegex(Problem, "feeds on"):
            feed_from(
                small.bench("M1 quoin-gp24", "T1 fell-d72").machine,
                pin("M1:LEADS", "1"),
                pin("T1:POWER", "1"),
            )

    def test_a_fuse_goes_into_the_plus_with_a_rating_from_its_window(self) -> None:
        plain = cases.pump(2.8)
        fused = put_fuse(plain, pin("M1:LEADS", "1"), 2.8)
        self.assertEqual(4.0, Queries(fused).setting("F1", "rating_a"))
        self.assertEqual(
            ["G1", "F1 4 A", "M1"], devices_of(feed_trees(Queries(fused), "everything")[0])
        )
        self.assertEqual(
            set(),
            {f.rule for f in check_machine(fused).open}
            & {"supply.fuse", "supply.fuse-load", "supply.unfed"},
        )
        for load_a, area, rating in ((2.8, 0.5, 4), (5.62, 0.5, 7.5), (5.63, 0.5, None)):
            with self.subTest(load_a):
                self.assertEqual(rating, fuse_for(load_a, ampacity_a(area, 40.0)))
        with self.assertRaisesRegex(Problem, "No fuse suits"):
            put_fuse(cases.pump(7.0), pin("M1:LEADS", "1"), 7.0)

    def test_negatives_are_joined_once(self) -> None:
        machine = small.bench("G1 fell-ps24", "G2 fell-ps6").machine
        joined = join_negatives(machine, pin("G1:OUT", "1"), pin("G2:OUT", "1"))
        self.assertIn(pin("G2:OUT", "2"), Queries(joined).net(pin("G1:OUT", "2")))
        with self.assertRaisesRegex(Problem, "already"):
            join_negatives(joined, pin("G1:OUT", "1"), pin("G2:OUT", "1"))

    def test_a_feed_taken_off_leaves_no_empty_cable(self) -> None:
        bare = take_feed_off(cases.pump(), pin("M1:LEADS", "1"))
        self.assertEqual(((), ()), (bare.hookups, bare.cables))

    def test_a_gauge_keeps_everything_else_of_a_cable(self) -> None:
        thick = set_gauge(GANTRY, "W14", 1.5)
        before, after = (
            Queries(m).cable_part(Queries(m).cable("W14").part) for m in (GANTRY, thick)
        )
        self.assertEqual(before.cores, after.cores)
        self.assertEqual((before.shield, before.flexing), (after.shield, after.flexing))
        self.assertEqual(1.5, after.core_mm2)
        self.assertEqual(GANTRY.cables, set_gauge(thick, "W14", before.core_mm2).cables)
        for nonsense in (0, -1, 1e6):
            with self.subTest(nonsense), self.assertRaises(Problem):
                set_gauge(GANTRY, "W14", nonsense)


class FromTheShell(unittest.TestCase):
    def test_the_table_is_printed_for_a_state(self) -> None:
        status, out, _ = run("supply", DEMO, "--state", "moving")
        self.assertEqual(0, status)
        self.assertIn("Moving:", out)
        self.assertRegex(out, r"G1 +9\.\d+ of 12\.5 A")
        self.assertRegex(out, r"T1 POWER +1\.7\d+ A +4\d\.\d+ of 48 V of G1")


class Unfed(unittest.TestCase):
    def test_what_nothing_feeds_stands_by_itself_and_can_be_fed_from_there(self) -> None:
        machine = small.bench("G1 fell-ps24", "M1 quoin-gp24").machine
        trees = feed_trees(Queries(machine), "everything")
        self.assertEqual(["source", "unfed"], [tree.source.kind for tree in trees])
        fed = feed_from(machine, trees[1].branches[1].pin, trees[0].source.pin)
        trees = feed_trees(Queries(fed), "everything")
        self.assertEqual(["G1", "M1"], devices_of(trees[0]))
        self.assertEqual(1, len(trees))


class Along(unittest.TestCase):
    def test_the_voltage_falls_from_station_to_station(self) -> None:
        stations = along(Queries(ARM), "moving", pin("T5:FEED", "1"))
        self.assertEqual(
            ["G1", "X1", "T1", "T2", "T3", "T4", "T5"], [station.device for station in stations]
        )
        voltage_v = [station.volts_v for station in stations]
        metres = [station.metres_m for station in stations]
        self.assertEqual((sorted(voltage_v, reverse=True), sorted(metres)), (voltage_v, metres))
        self.assertAlmostEqual(arrival(ARM, "T5", "moving").voltage_v, voltage_v[-1], 3)
        self.assertEqual((), along(Queries(ARM), "moving", pin("M1:LEADS", "BK")))

    def test_metres_are_those_of_the_cables(self) -> None:
        stations = along(Queries(cases.pump(length_m=3.0)), "everything", pin("M1:LEADS", "1"))
        self.assertEqual([0.0, 3.0], [station.metres_m for station in stations])


class Choosing(unittest.TestCase):
    def test_the_gauge_that_is_proposed_is_the_thinnest_that_holds(self) -> None:
        for length_m in (5.0, 9.0, 14.0):
            machine = cases.pump(length_m=length_m)
            row = arrival(machine, "M1")
            (cable,), area = gauges_for(Queries(machine), "everything", row)
            with self.subTest(length_m):
                self.assertEqual("W1", cable)
                better = arrival(set_gauge(machine, "W1", area), "M1")
                self.assertLessEqual(better.lost, drop_limit(better))
                thinner = USUAL_MM2[USUAL_MM2.index(area) - 1]
                worse = arrival(set_gauge(machine, "W1", thinner), "M1")
                self.assertGreater(worse.lost, 0.94 * drop_limit(worse))

    def test_what_thicker_cores_cannot_mend_gets_no_proposal(self) -> None:
        near = cases.pump(length_m=0.2)
        self.assertIsNone(gauges_for(Queries(near), "everything", arrival(near, "M1")))

    def test_a_battery_lasts_by_what_is_taken(self) -> None:
        queries = Queries(ARM)
        load = next(g for g in supply_loads(queries, "idle") if g.pin.device == "G1")
        self.assertAlmostEqual(20 / load.current_a, hours_left(queries, load.pin, "idle"))
        self.assertLess(
            hours_left(queries, load.pin, "moving"), hours_left(queries, load.pin, "idle")
        )
        mains = supply_loads(Queries(GANTRY), "idle")[0]
        self.assertIsNone(hours_left(Queries(GANTRY), mains.pin, "idle"))


class SwitchingOn(unittest.TestCase):
    def test_a_supply_that_limits_charges_slowly_a_battery_at_once(self) -> None:
        free = Inrush(capacitance_f=2e-3, voltage_v=48, loop_ohm=0.1)
        self.assertAlmostEqual(480, free.peak_a)
        self.assertAlmostEqual(2e-3 * 48**2 / 0.2, free.energy_a2s)
        held = Inrush(capacitance_f=2e-3, voltage_v=48, loop_ohm=0.1, limit_a=13.75, load_a=1.75)
        self.assertAlmostEqual(13.75, held.peak_a)
        self.assertAlmostEqual(2e-3 * 48 / 12, held.charge_s)
        self.assertAlmostEqual(13.75**2 * 2e-3 * 48 / 12, held.energy_a2s)
        stuck = Inrush(capacitance_f=2e-3, voltage_v=48, loop_ohm=0.1, limit_a=5, load_a=5)
        self.assertEqual(math.inf, stuck.charge_s)

    def test_a_capacitor_is_full_after_three_times_rc(self) -> None:
        free = Inrush(capacitance_f=2e-3, voltage_v=48, loop_ohm=0.1)
        self.assertAlmostEqual(3 * 0.1 * 2e-3, free.charge_s)

    def test_twelve_volts_are_low_but_for_plain_loads_and_more_is_not(self) -> None:
        row = replace(delivered_power(Queries(GANTRY), "moving")[0], voltage_sensitive=False)
        self.assertEqual(0.05, drop_limit(replace(row, source_v=12.0, is_plain_load=True)))
        row = replace(row, is_plain_load=False, least_v=0.0)
        self.assertEqual(0.05, drop_limit(replace(row, source_v=12.0, least_v=9.6)))
        self.assertEqual(0.03, drop_limit(replace(row, source_v=12.0, least_v=9.7)))
        limits = [drop_limit(replace(row, source_v=v)) for v in (11.9, 12.0, 12.1)]
        self.assertEqual([0.03, 0.03, 0.05], limits)
        self.assertEqual(0.03, drop_limit(replace(row, source_v=48.0, voltage_sensitive=True)))

    def test_the_smaller_row_of_the_fuse_table_counts(self) -> None:
        self.assertEqual((13, 13, None), (melting_a2s(4), melting_a2s(4.5), melting_a2s(0.1)))


class Earth(unittest.TestCase):
    def names(self, machine: Machine) -> dict[str, str]:
        tree = earth_tree(Queries(machine))
        return {branch.device: branch.note for branch in tree.branches[1:]} if tree else {}

    def test_every_metal_supply_of_the_gantry_is_bonded(self) -> None:
        found = self.names(GANTRY)
        self.assertEqual({"bonded"}, {found[name] for name in ("G1", "G2", "G3", "X3", "K1")})
        self.assertEqual("X4", earth_tree(Queries(GANTRY)).source.device)

    def test_a_bond_that_is_taken_off_takes_what_hangs_behind_it_along(self) -> None:
        bar = next(h for h in GANTRY.hookups if {h.a.device, h.b.device} == {"X4", "X3"})
        cut = replace(GANTRY, hookups=tuple(h for h in GANTRY.hookups if h is not bar))
        found = self.names(cut)
        self.assertEqual({"not bonded"}, {found[name] for name in ("X3", "K1")})
        self.assertEqual("bonded", found["G1"])

    def test_what_is_not_bonded_is_bonded_to_a_free_terminal(self) -> None:
        bar = next(h for h in GANTRY.hookups if {h.a.device, h.b.device} == {"X4", "X3"})
        cut = replace(GANTRY, hookups=tuple(h for h in GANTRY.hookups if h is not bar))
        tree = earth_tree(Queries(cut))
        loose = next(b for b in tree.branches if b.device == "X3")
        mended = bond(cut, loose.pin, tree.source.pin)
        self.assertEqual("bonded", self.names(mended)["X3"])
        self.assertEqual([], list(faults_of(mended)))
        added = mended.hookups[-1]
        self.assertEqual("GNYE", colour_of(Queries(mended), added.id, 0))
        with self.assertRaisesRegex(Problem, "already"):
            bond(mended, loose.pin, tree.source.pin)

    def test_without_earth_there_is_no_tree(self) -> None:
        self.assertIsNone(earth_tree(Queries(small.bench("M1 quoin-gp24").machine)))


class Converters(unittest.TestCase):
    def test_one_behind_another_dies_with_it(self) -> None:
        build = small.bench("G1 osier-lb24", "G2 fell-dc12", "K1 quoin-rc8", "B1 quoin-sm3")
        build.join("G1:OUT", "G2:IN", "1-1 2-2")
        build.join("G2:OUT", "K1:POWER", "1-1 2-2")
        build.join("B1:LEADS", "K1:ANALOGUE 1", "+-3V3 OUT-S −-0V")
        machine = build.machine
        self.assertEqual("on", arrival(machine, "B1").status)
        power = [h for h in machine.hookups if h.a.device == "G1"]
        dead = replace(machine, hookups=tuple(h for h in machine.hookups if h not in power))
        for device in ("G2", "K1", "B1"):
            with self.subTest(device):
                rows = [
                    r
                    for r in delivered_power(Queries(dead), "everything")
                    if r.pin.device == device
                ]
                self.assertTrue(all(row.status != "on" for row in rows))

    def test_a_chain_of_converters_conserves_power(self) -> None:
        build = small.bench("G1 osier-lb24", "G2 fell-dc12", "M1 quoin-cf12")
        build.join("G1:OUT", "G2:IN", "1-1 2-2")
        build.join("G2:OUT", "M1:LEADS", "1-1 2-2")
        queries = Queries(build.machine)
        loads = {load.pin.device: load for load in supply_loads(queries, "everything")}
        self.assertAlmostEqual(loads["G2"].watts / 0.85, loads["G1"].watts, 2)


class AnyDemo(unittest.TestCase):
    @settings(max_examples=12, deadline=None)
    @given(st.data())
    def test_whatever_is_fed_from_wherever_the_machine_stays_whole(self, data) -> None:
        machine = data.draw(st.sampled_from([GANTRY, ARM]))
        for _ in range(3):
            trees = feed_trees(Queries(machine), "everything")
            places = [b for tree in trees for b in tree.branches]
            consumer = data.draw(st.sampled_from([b for b in places if b.arrival is not None]))
            goal = data.draw(st.sampled_from(places))
            try:
                machine = feed_from(machine, consumer.pin, goal.pin)
            except Problem:
                continue
            self.assertEqual([], list(faults_of(machine)))
            self.assertEqual(machine, decode_machine(encode_machine(machine), "m"))
            self.assertLess(solved_feeds(Queries(machine), "everything").residual_a, 1e-7)
