"""The feed network against hand computation, a dense solver and Kirchhoff."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from vervain.electrical import copper
from vervain.electrical.network import Load, Network, Resistance, VoltageSource, solve
from vervain.model.problem import Problem
from vervain.text import units


def network(nodes, resistances, sources, loads) -> Network:
    return Network(
        nodes=nodes,
        resistances=tuple(
            Resistance(a=a, b=b, resistance_ohm=resistance_ohm)
            for a, b, resistance_ohm in resistances
        ),
        sources=tuple(
            VoltageSource(minus=a, plus=b, voltage_v=v, resistance_ohm=r) for a, b, v, r in sources
        ),
        loads=tuple(
            Load(plus=a, minus=b, law=law, value=value, least_v=least)
            for a, b, law, value, least in loads
        ),
    )


def one_load(law: str, value: float, least_v: float = 0.0):
    """24 V behind 1 ohm: 0.1 inside, 0.5 there, 0.4 back."""
    return solve(
        network(4, [(1, 2, 0.5), (3, 0, 0.4)], [(0, 1, 24, 0.1)], [(2, 3, law, value, least_v)])
    )


class ByHand(unittest.TestCase):
    def test_each_law(self) -> None:
        self.assertAlmostEqual(22.0, one_load("current", 2).across_v[0])
        self.assertAlmostEqual(24 * 11 / 12, one_load("resistive", 11).across_v[0])
        # v^2 - 24 v + 100 = 0 has two solutions; the higher one counts.
        self.assertAlmostEqual(12 + math.sqrt(44), one_load("power", 100).across_v[0])

    def test_a_power_that_no_voltage_gives_collapses(self) -> None:
        # E^2 / 4R = 144 W is the most.
        self.assertEqual("on", one_load("power", 143.9).status[0])
        fallen = one_load("power", 144.1)
        self.assertEqual(("collapses",), fallen.status)
        self.assertEqual((0.0,), fallen.taken_a)

    def test_below_its_least_voltage_a_load_is_off(self) -> None:
        self.assertEqual("on", one_load("current", 2, 21.99).status[0])
        self.assertEqual("too low", one_load("current", 2, 22.01).status[0])
        self.assertEqual("on", one_load("resistive", 1, 22.0).status[0])

    def test_what_has_too_little_before_anything_flows_is_off_at_once(self) -> None:
        wires = [(1, node, 0.01) for node in range(2, 42)]
        loads = [(node, 0, "power", 30.0, 20.0) for node in range(2, 42)]
        found = solve(network(42, wires, [(0, 1, 3.3, 0.1)], loads))
        self.assertEqual({"too low"}, set(found.status))
        self.assertLess(found.iterations, 5)

    def test_loads_that_all_hang_on_plus_have_no_way_back(self) -> None:
        """Their minus is joined to that of another source, which is joined to nothing else."""
        loads = [(1, 2, "resistive", 100, 0), (1, 2, "current", 0.2, 5), (1, 2, "power", 1, 5)]
        sources = [(0, 1, 24, 0.1), (2, 3, 24, 0.1)]
        self.assertEqual(("no way back",) * 3, solve(network(4, [], sources, loads)).status)
        joined = solve(network(4, [(0, 2, 0.1)], sources, loads))
        self.assertEqual(("on",) * 3, joined.status)

    def test_loads_in_a_string_carry_on(self) -> None:
        loads = [(1, 2, "resistive", 10, 0), (2, 0, "resistive", 14, 0)]
        found = solve(network(3, [], [(0, 1, 24, 1e-6)], loads))
        self.assertEqual(("on", "on"), found.status)
        self.assertAlmostEqual(10.0, found.across_v[0], places=4)

    def test_only_the_weakest_of_a_chain_is_given_up(self) -> None:
        links = [(n, n + 1, 1.0) for n in range(1, 4)]
        loads = [(2, 0, "power", 30, 0), (3, 0, "power", 30, 0), (4, 0, "power", 40, 0)]
        found = solve(network(5, links, [(0, 1, 24, 0.01)], loads))
        self.assertEqual(("on", "on", "collapses"), found.status)

    def test_shared_returns_and_chains_add_up(self) -> None:
        # Two loads of 1 A each in a chain of 1 ohm links there and back: 2 + 2, then 1 + 1 V less.
        found = solve(
            network(
                5, [(1, 2, 1), (2, 3, 1), (4, 0, 1)], [(0, 1, 24, 1e-6)],
                [(2, 4, "current", 1, 0), (3, 4, "current", 1, 0)],
            )
        )  # fmt: skip
        self.assertAlmostEqual(20, found.across_v[0], 4)
        self.assertAlmostEqual(19, found.across_v[1], 4)

    def test_islands_have_voltages_of_their_own_or_none(self) -> None:
        found = solve(
            network(
                7, [(1, 2, 1), (4, 5, 1)], [(0, 1, 24, 1), (3, 4, 6, 1)],
                [(2, 3, "current", 1, 0), (5, 3, "current", 1, 0), (6, 0, "current", 1, 0)],
            )
        )  # fmt: skip
        self.assertEqual(("no way back", "on", "not fed"), found.status)
        self.assertAlmostEqual(4, found.across_v[1])
        self.assertEqual((None, None), (found.across_v[0], found.voltage_v[6]))


@st.composite
def ladders(draw):
    """Random trees of resistances from one source, with loads of every law at their nodes."""
    count = draw(st.integers(2, 40))
    parents = [draw(st.integers(1, node - 1)) for node in range(2, count + 1)]
    ohms = draw(st.lists(st.floats(1e-3, 0.5), min_size=count, max_size=count))
    links = [(parent, node, ohms[node - 2]) for node, parent in enumerate(parents, 2)]
    laws = st.sampled_from([("current", 0.2), ("resistive", 80.0), ("power", 3.0)])
    loads = [(node, 0, *draw(laws), 0.0) for node in range(2, count + 1) if draw(st.booleans())]
    return network(count + 1, links, [(0, 1, 24, 0.05)], loads)


class AnyNetwork(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(ladders())
    def test_kirchhoff_holds_and_powers_balance(self, made) -> None:
        found = solve(made)
        self.assertLess(found.residual_a, 1e-8)
        given_w = 24 * found.given_a[0]
        heat_w = sum(
            a * a * r.resistance_ohm for a, r in zip(found.through_a, made.resistances, strict=True)
        )
        heat_w += found.given_a[0] ** 2 * 0.05
        taken_w = sum(
            a * v for a, v in zip(found.taken_a, found.across_v, strict=True) if v is not None
        )
        self.assertAlmostEqual(given_w, heat_w + taken_w, 6)

    @settings(max_examples=30, deadline=None)
    @given(ladders())
    def test_it_is_what_a_dense_solver_finds(self, made) -> None:
        found = solve(made)
        matrix = np.zeros((made.nodes, made.nodes))
        right = np.zeros(made.nodes)
        for a, b, g in (
            *((r.a, r.b, 1 / r.resistance_ohm) for r in made.resistances),
            *((s.minus, s.plus, 1 / s.resistance_ohm) for s in made.sources),
        ):
            matrix[[a, b, a, b], [a, b, b, a]] += [g, g, -g, -g]
        for source in made.sources:
            right[source.plus] += source.voltage_v / source.resistance_ohm
            right[source.minus] -= source.voltage_v / source.resistance_ohm
        for load, current_a in zip(made.loads, found.taken_a, strict=True):
            right[load.plus] -= current_a
            right[load.minus] += current_a
        dense = np.concatenate([[0.0], np.linalg.solve(matrix[1:, 1:], right[1:])])
        self.assertTrue(np.allclose(dense, found.voltage_v, atol=1e-7))


@st.composite
def wild(draw):
    """Any network at all, with values over eight decades."""
    count = draw(st.integers(2, 12))
    node = st.integers(0, count - 1)
    value = st.floats(-4, 4).map(lambda power: 10.0**power)
    pairs = st.tuples(node, node).filter(lambda pair: pair[0] != pair[1])
    links = [(*draw(pairs), draw(value)) for _ in range(draw(st.integers(0, 16)))]
    sources = [
        (*draw(pairs), draw(value), draw(st.floats(1e-3, 10)))
        for _ in range(draw(st.integers(0, 3)))
    ]
    laws = st.sampled_from(("current", "resistive", "power"))
    loads = [
        (*draw(pairs), draw(laws), draw(value), draw(st.sampled_from((0.0, 5.0))))
        for _ in range(draw(st.integers(0, 8)))
    ]
    return network(count, links, sources, loads)


class AnythingGoes(unittest.TestCase):
    def test_a_power_beside_kilovolts_is_no_less_exact(self) -> None:
        links = [(0, 1, 1e-4), (0, 2, 10.0), (0, 1, 1.0)]
        loads = [(1, 0, "power", 1.0, 0.0), (0, 2, "current", 1e4, 0.0)]
        found = solve(network(3, links, [(0, 1, 1.0, 1.0)], loads))
        self.assertEqual(("collapses", "on"), found.status)
        self.assertLess(found.residual_a, 1e-3)

    @settings(max_examples=150, deadline=None)
    @given(wild())
    def test_it_always_ends_and_never_gives_a_number_that_is_none(self, made) -> None:
        found = solve(made)
        numbers = [*found.through_a, *found.given_a, *found.taken_a]
        numbers += [v for v in (*found.voltage_v, *found.across_v) if v is not None]
        self.assertTrue(all(math.isfinite(number) for number in numbers))
        # What cannot be told apart in double precision: the largest voltage over the least ohm.
        voltage_v = max((abs(v) for v in found.voltage_v if v is not None), default=0.0)
        ohms = [
            *(r.resistance_ohm for r in made.resistances),
            *(s.resistance_ohm for s in made.sources),
            1.0,
        ]
        self.assertLess(found.residual_a, 1e-9 * max(1.0, voltage_v / min(ohms)))
        for status, current_a in zip(found.status, found.taken_a, strict=True):
            self.assertTrue(status == "on" or current_a == 0.0)


class Copper(unittest.TestCase):
    def test_cores_by_hand(self) -> None:
        for area, temperature, milliohm in (
            (0.5, 20, 39.0), (0.5, 60, 39.0 * 1.1572), (0.34, 20, 17.24 / 0.34 * 1.02),
            (16, 20, 1.21),
        ):  # fmt: skip
            found = copper.resistance_ohm_m(area, temperature)
            self.assertAlmostEqual(milliohm / 1000, found, 9)
        self.assertAlmostEqual(0.205, units.awg_mm2(24), 3)
        self.assertAlmostEqual(2.08, units.awg_mm2(14), 2)

    def test_ampacity_with_its_factors(self) -> None:
        for area, ambient, circuits, current_a in (
            (0.5, 40, 1, 7.5), (0.74, 40, 1, 7.5), (0.75, 40, 1, 8.5), (0.5, 30, 1, 7.5 * 1.15),
            (0.5, 42, 1, 7.5 * math.sqrt(28 / 30)), (0.5, 40, 10, 7.5 * 0.45),
            (0.5, 40, 99, 7.5 * 0.38),
        ):  # fmt: skip
            self.assertAlmostEqual(current_a, copper.ampacity_a(area, ambient, circuits))
        self.assertIsNone(copper.ampacity_a(0.04, 40.0))
        with self.assertRaises(Problem):
            copper.ampacity_a(0.5, 70)
