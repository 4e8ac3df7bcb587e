"""Bundles by their formulas, and cross-sections in which nothing overlaps."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rules.harness_cases import cabled, chain
from vervain.files.demos import open_demo
from vervain.harness.bundles import (
    around,
    bundle_diameter_mm,
    bundle_of,
    cable_diameter_mm,
    insulated_mm,
)
from vervain.harness.fittings import (
    chain_for,
    ferrule_for,
    fittings,
    gland_for,
    heat_shrink_for,
    ring_for,
    sleeve_for,
)
from vervain.harness.packing import packed_in_box, packed_round
from vervain.model.cable_part import CablePart
from vervain.queries.machine_queries import Queries

DIAMETERS = st.lists(st.floats(0.8, 20), min_size=1, max_size=24).map(tuple)


def apart(circles) -> float:
    """The least gap between any two circles; negative where they overlap."""
    gaps = [
        math.hypot(a.x - b.x, a.y - b.y) - a.r - b.r
        for n, a in enumerate(circles)
        for b in circles[:n]
    ]
    return min(gaps, default=0.0)


class Figures(unittest.TestCase):
    def test_one_cable_is_its_own_bundle(self) -> None:
        self.assertEqual(7.9, bundle_diameter_mm((7.9,)))
        self.assertEqual(0, bundle_diameter_mm(()))

    def test_the_larger_of_both_formulas(self) -> None:
        # Two of 10: 1.2 sqrt(200) = 16.97 is less than 20.
        self.assertEqual(20.0, bundle_diameter_mm((10.0, 10.0)))
        # Four of 10: 1.2 sqrt(400) = 24.
        self.assertAlmostEqual(24.0, bundle_diameter_mm((10.0,) * 4))
        # A thick and a thin one: 1.2 sqrt(101), more than their sum.
        self.assertAlmostEqual(12.06, bundle_diameter_mm((1.0, 10.0)), 2)

    def test_fill_is_area_against_the_chain_s_inside(self) -> None:
        bundle = bundle_of(Queries(cabled(4, 10, chain(40, 20))), "R1")
        self.assertAlmostEqual(4 * math.pi / 4 * 100 / 800, bundle.fill, 4)

    def test_a_diameter_that_is_not_given_is_estimated_and_says_so(self) -> None:
        part = CablePart(id="x", title="x", cores=("WH", "BN", "GN", "YE"), core_mm2=0.5)
        # Four cores of 1.9 mm: 2.414 x 1.9, and 0.7 mm of sheath on each side.
        diameter, estimated = cable_diameter_mm(part)
        self.assertTrue(estimated)
        self.assertAlmostEqual(2.414 * 1.9 + 1.4, diameter)
        self.assertEqual((2.2, 2.4), (insulated_mm(0.6), insulated_mm(1.0)))

    def test_circles_around_equal_ones_grow_with_their_number(self) -> None:
        sizes = [around(count, 1.0) for count in range(1, 60)]
        self.assertEqual(sorted(sizes), sizes)
        for count, size in enumerate(sizes, 1):
            self.assertGreaterEqual(size**2, count)

    def test_many_equal_circles_lie_at_78_per_cent(self) -> None:
        for count in (13, 20, 50):
            self.assertAlmostEqual(1 / 1.13**2, count / around(count, 1.0) ** 2)

    def test_a_device_s_own_leads_lie_in_the_bundle(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-planned"))
        self.assertNotIn("B5", [s.name for s in bundle_of(queries, "R1").strands])
        leads = [
            s for run in queries.runs() for s in bundle_of(queries, run.id).strands if s.is_lead
        ]
        self.assertTrue(all(strand.estimated for strand in leads))


class Fitted(unittest.TestCase):
    def test_the_smallest_size_that_closes_around(self) -> None:
        for chooser, diameter, expected in (
            (sleeve_for, 7.0, "4"), (sleeve_for, 7.1, "6"), (sleeve_for, 60, None),
            (gland_for, 6.5, "M12"), (gland_for, 6.6, "M16"), (gland_for, 2.9, None),
            (heat_shrink_for, 5.4, "6"), (heat_shrink_for, 5.5, "9"),
        ):  # fmt: skip
            with self.subTest((chooser.__name__, diameter)):
                self.assertEqual(expected, chooser(diameter))

    def test_ferrules_have_the_standard_s_colours_from_half_a_square_up(self) -> None:
        """DIN 46228-4: 0.5 white, 0.75 grey, 1 red, 1.5 black, 2.5 blue."""
        colours = [ferrule_for(area).colour for area in (0.5, 0.75, 1.0, 1.5, 2.5, 4, 6, 10)]
        self.assertEqual(["WH", "GY", "RD", "BK", "BU", "GY", "YE", "RD"], colours)
        self.assertEqual((True, False), (ferrule_for(0.5).standard, ferrule_for(0.25).standard))
        self.assertEqual(0.34, ferrule_for(0.3).area_mm2)
        self.assertIsNone(ferrule_for(20))

    def test_rings_by_stud_and_wire(self) -> None:
        self.assertIn("M6", ring_for("M6", 6.0))
        self.assertIsNone(ring_for("M3", 6.0))

    @given(st.floats(1, 3000), st.floats(1, 30), st.floats(10, 200))
    def test_a_chosen_chain_keeps_every_limit(self, area, thickest, radius) -> None:
        found = chain_for(area, thickest, radius)
        if found is not None:
            table = fittings()
            self.assertLessEqual(area, table.chain_fill * found.width_mm * found.height_mm)
            self.assertLessEqual(thickest, table.chain_height * found.height_mm)
            self.assertLessEqual(radius, found.bend_radius_mm)


class Packed(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(DIAMETERS)
    def test_nothing_overlaps_in_a_bundle(self, diameters) -> None:
        packing = packed_round(diameters)
        self.assertEqual([d / 2 for d in diameters], [c.r for c in packing.circles])
        self.assertGreater(apart(packing.circles), -1e-5)
        for circle in packing.circles:
            self.assertLessEqual(math.hypot(circle.x, circle.y) + circle.r, packing.outer.r + 1e-6)

    @settings(max_examples=60, deadline=None)
    @given(DIAMETERS, st.floats(20, 60))
    def test_nothing_overlaps_in_a_chain(self, diameters, width) -> None:
        circles = packed_in_box(diameters, width)
        self.assertGreater(apart(circles), -1e-5)
        for circle, diameter in zip(circles, diameters, strict=True):
            self.assertEqual(diameter / 2, circle.r)
            self.assertGreaterEqual(circle.y, circle.r - 1e-6)
            self.assertTrue(circle.r - 1e-6 <= circle.x <= width - circle.r + 1e-6)

    def test_packings_are_tight_and_the_same_every_time(self) -> None:
        for count in (2, 3, 4, 7, 12, 19):
            packing = packed_round((10.0,) * count)
            with self.subTest(count):
                self.assertLess(packing.outer.r * 2, 1.2 * around(count, 10.0))
                packed_round.cache_clear()
                self.assertEqual(packing, packed_round((10.0,) * count))

    def test_hundreds_of_circles_are_laid_quickly_and_none_is_lost(self) -> None:
        diameters = tuple(2.0 + n % 5 for n in range(400))
        packing = packed_round(diameters)
        self.assertEqual(400, len(packing.circles))
        self.assertGreater(apart(packing.circles), -1e-5)
        self.assertEqual((), packed_round(()).circles)
        self.assertEqual((), packed_in_box((), 20))
