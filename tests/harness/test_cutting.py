"""Cutting: the least that can be bought, against exhaustive search; bounds that hold."""

import random
import unittest
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from vervain.harness import cutting
from vervain.harness.cutting import Piece, Stock, cutting_plan, least_cover_mm


def pieces(*lengths_m: float) -> list[Piece]:
    return [Piece(f"W{n}", length) for n, length in enumerate(lengths_m, 1)]


def least_bought(lengths: list[int], sizes: list[int], reels: list[int]) -> int:
    """Every way to cut, tried: the least length in mm that must be bought."""
    best = 10**9

    def go(number: int, left: list[int], bought: int) -> None:
        nonlocal best
        if bought >= best:
            return
        if number == len(lengths):
            best = bought
            return
        length, seen = lengths[number], set()
        for spot, room in enumerate(left):
            if room >= length and room not in seen:
                seen.add(room)
                go(number + 1, [*left[:spot], room - length, *left[spot + 1 :]], bought)
        for size in sizes:
            if size >= length:
                go(number + 1, [*left, size - length], bought + size)

    go(0, list(reels), 0)
    return best


def is_sound(case: unittest.TestCase, plan, wanted: list[Piece]) -> None:
    """Every piece is cut once, and nothing is longer than what it is cut from."""
    taken = sorted(piece for cut in plan.cuts for piece in cut.pieces)
    expected = sorted(tuple(piece) for piece in wanted if piece.name not in plan.too_long)
    case.assertEqual(expected, taken)
    for cut in plan.cuts:
        used = sum(round(length * 1000) for _, length in cut.pieces)
        case.assertEqual(round(cut.length_m * 1000) - used, round(cut.left_m * 1000))
        case.assertGreaterEqual(cut.left_m, 0)
    bought = sum(cut.length_m for cut in plan.cuts if not cut.reel)
    case.assertAlmostEqual(bought, plan.bought_m)


class Least(unittest.TestCase):
    def test_as_good_as_trying_everything(self) -> None:
        """60 random small instances; the note tells of 200."""
        chance = random.Random(11)
        for _ in range(60):
            sizes = sorted(chance.sample([3000, 5000, 7000, 10000, 12500], chance.randint(1, 3)))
            reels = [chance.randint(1000, 9000) for _ in range(chance.randint(0, 2))]
            lengths = sorted(
                (chance.randint(300, min(6000, sizes[-1])) for _ in range(chance.randint(2, 7))),
                reverse=True,
            )
            wanted = pieces(*(length / 1000 for length in lengths))
            stock = [Stock(size / 1000) for size in sizes]
            stock += [Stock(reel / 1000, f"Reel {n}") for n, reel in enumerate(reels)]
            plan = cutting_plan(wanted, stock)
            with self.subTest((lengths, sizes, reels)):
                is_sound(self, plan, wanted)
                self.assertEqual(least_bought(lengths, sizes, reels), round(plan.bought_m * 1000))
                self.assertTrue(plan.exact)

    def test_first_fit_is_beaten_where_it_wastes(self) -> None:
        """Pieces of 4, 4, 3, 3, 3, 3 from lengths of 10: filling the longest first takes 3."""
        plan = cutting_plan(pieces(4, 4, 3, 3, 3, 3), [Stock(10)])
        self.assertEqual((20.0, True), (plan.bought_m, plan.exact))

    def test_a_reel_that_is_there_is_used_before_anything_is_bought(self) -> None:
        plan = cutting_plan(pieces(2, 3), [Stock(5), Stock(5.5, "Reel 1")])
        self.assertEqual((0.0, ["Reel 1"]), (plan.bought_m, [cut.reel for cut in plan.cuts]))
        self.assertEqual(0.5, plan.cuts[0].left_m)

    def test_what_is_longer_than_anything_is_named(self) -> None:
        plan = cutting_plan(pieces(2, 30), [Stock(10)])
        self.assertEqual((("W2",), 10.0), (plan.too_long, plan.bought_m))
        is_sound(self, plan, pieces(2, 30))

    def test_by_the_metre_nothing_is_left(self) -> None:
        plan = cutting_plan(pieces(2.5, 1.25), [])
        self.assertEqual((3.75, 0.0), (plan.bought_m, plan.left_m))
        self.assertEqual((), cutting_plan((), [Stock(5)]).cuts)

    def test_without_the_solver_the_bound_is_told_and_holds(self) -> None:
        with mock.patch.object(cutting, "MOST_VARIABLES", 0):
            plan = cutting_plan(pieces(4, 4, 3, 3, 3, 3), [Stock(10)])
            short = cutting_plan(pieces(9, 4), [Stock(5), Stock(10)])
        self.assertEqual((30.0, 20.0, False), (plan.bought_m, plan.bound_m, plan.exact))
        is_sound(self, plan, pieces(4, 4, 3, 3, 3, 3))
        # What is left over for the last comes from the shortest length that covers it.
        self.assertEqual([5.0, 10.0], sorted(cut.length_m for cut in short.cuts))

    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(st.integers(1, 9000), min_size=1, max_size=40),
        st.sets(st.sampled_from([2500, 5000, 10000, 25000]), min_size=1),
    )
    def test_any_plan_is_sound_and_its_bound_below_it(self, lengths, sizes) -> None:
        wanted = pieces(*(length / 1000 for length in lengths))
        with mock.patch.object(cutting, "TIME_LIMIT_S", 0.2):
            plan = cutting_plan(wanted, [Stock(size / 1000) for size in sizes])
        is_sound(self, plan, wanted)
        self.assertLessEqual(plan.bound_m, plan.bought_m)
        fitting = sum(length for length in lengths if length <= max(sizes))
        self.assertGreaterEqual(round(plan.bound_m * 1000), fitting)

    def test_the_same_pieces_give_the_same_plan(self) -> None:
        wanted = pieces(*(1 + n % 7 / 3 for n in range(30)))
        plans = {repr(cutting_plan(wanted, [Stock(10), Stock(25)])) for _ in range(3)}
        self.assertEqual(1, len(plans))

    @settings(max_examples=25, deadline=None)
    @given(st.integers(1, 60_000), st.sets(st.integers(2000, 9000), min_size=1, max_size=3))
    def test_a_cover_is_reached_by_lengths_and_none_smaller_is(self, total, sizes) -> None:
        found = least_cover_mm(total, sorted(sizes))
        reachable = {0}
        for _ in range(60_000 // min(sizes) + 1):
            grown = {a + b for a in reachable for b in sizes if a < total} | reachable
            if grown == reachable:
                break
            reachable = grown
        self.assertEqual(min(length for length in reachable if length >= total), found)
