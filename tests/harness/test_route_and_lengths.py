"""Routes and lengths: the shortest way, every part of the sum, rounding, measured lengths."""

import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests import small
from tests.rules.harness_cases import PLACES, fan_on_a_run, routed, run
from vervain.edits import cable_edits, note_edits, route_edits
from vervain.files.demos import DEMOS, open_demo
from vervain.harness.cable_routes import cable_route, cables_of_runs, joins
from vervain.harness.lengths import cable_length, rounded_up_m
from vervain.harness.route_layout import Box, Point, lay_out_route
from vervain.harness.route_tree import ring_runs, root_place, route_trees, runs_of
from vervain.model.machine import Machine
from vervain.model.place import Place, Run
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import other_way, route_of_places


def grid(*runs: tuple[str, str, str, float]) -> Queries:
    """A machine of places a, b, c, d and runs between them."""
    places = tuple(Place(id=name, name=name.upper()) for name in "abcd")
    made = tuple(Run(id=name, a=a, b=b, length_m=m) for name, a, b, m in runs)
    return Queries(Machine(name="Grid", places=places, runs=made))


class Shortest(unittest.TestCase):
    def test_the_shortest_way_wins_even_over_more_runs(self) -> None:
        queries = grid(("R1", "a", "d", 3.0), ("R2", "a", "b", 1.0), ("R3", "b", "d", 1.9))
        route = route_of_places(queries, "a", "d")
        self.assertEqual((("R2", "R3"), 2.9), (route.runs, route.length_m))

    def test_of_equal_ways_the_one_with_fewer_runs_then_the_first_named(self) -> None:
        queries = grid(("R1", "a", "b", 1.0), ("R2", "b", "d", 1.0), ("R3", "a", "d", 2.0))
        self.assertEqual(("R3",), route_of_places(queries, "a", "d").runs)
        queries = grid(
            ("R1", "a", "c", 1.0),
            ("R2", "c", "d", 1.0),
            ("R3", "a", "b", 1.0),
            ("R4", "b", "d", 1.0),
        )
        self.assertEqual(("R1", "R2"), route_of_places(queries, "a", "d").runs)

    def test_nowhere_and_here(self) -> None:
        queries = grid(("R1", "a", "b", 1.0))
        self.assertIsNone(route_of_places(queries, "a", "d"))
        self.assertEqual((), route_of_places(queries, "a", "a").runs)
        self.assertIsNone(other_way(queries, "a", "b", "R1"))

    @given(st.lists(st.tuples(st.sampled_from("abcd"), st.sampled_from("abcd"),
                              st.integers(0, 9)), max_size=9))  # fmt: skip
    def test_no_way_is_shorter(self, ends) -> None:
        """Against the fixed point of all pairs (Floyd and Warshall)."""
        runs = [(f"R{n}", a, b, m / 10) for n, (a, b, m) in enumerate(ends) if a != b]
        queries = grid(*runs)
        far = {(x, y): 0 if x == y else 10**6 for x in "abcd" for y in "abcd"}
        for _, a, b, m in runs:
            far[a, b] = far[b, a] = min(far[a, b], round(m * 1000))
        for k in "abcd":
            for x in "abcd":
                for y in "abcd":
                    far[x, y] = min(far[x, y], far[x, k] + far[k, y])
        for x in "abcd":
            for y in "abcd":
                route = route_of_places(queries, x, y)
                told = 10**6 if route is None else round(route.length_m * 1000)
                self.assertEqual(far[x, y], told)
                if route is not None and x != y:
                    self.assertTrue(joins(queries, route.runs, (x, y)))


class Sums(unittest.TestCase):
    def test_every_part_of_the_mock_up_s_cable(self) -> None:
        """W14 of the gantry: 5.7 m of route, loops 0.5, slack 5 % of 3.9, ends 0.1: 6.495."""
        length = cable_length(Queries(open_demo("glazing-gantry-as-planned")), "W14")
        parts = [
            round(length.of(*kinds), 3) for kinds in (("run",), ("loop",), ("slack",), ("end",))
        ]
        self.assertEqual([5.7, 0.5, 0.195, 0.1], parts)
        self.assertEqual(6.5, length.cut_m)
        self.assertEqual({"R1", "R2", "R4"}, {p.where for p in length.parts if p.kind == "run"})

    def test_rounding_is_in_whole_millimetres_and_leaves_a_multiple(self) -> None:
        for length_m, step_m, expected in (
            (6.495, 0.1, 6.5), (6.5, 0.1, 6.5), (6.5000004, 0.1, 6.5), (6.501, 0.1, 6.6),
            (0.3, 0.1, 0.3), (0.1 + 0.2, 0.1, 0.3), (2.34, 0.25, 2.5), (1.0, 0.001, 1.0),
        ):  # fmt: skip
            with self.subTest(length_m):
                self.assertEqual(expected, rounded_up_m(length_m, step_m))

    @given(st.integers(0, 99_999), st.integers(1, 999))
    def test_rounded_up_is_the_next_multiple(self, millimetres: int, step: int) -> None:
        found = round(rounded_up_m(millimetres / 1000, step / 1000) * 1000)
        self.assertEqual(0, found % step)
        self.assertTrue(millimetres <= found < millimetres + step)

    def test_a_measured_length_wins_and_the_route_is_still_told(self) -> None:
        length = cable_length(Queries(fan_on_a_run(7.25)), "W1")
        self.assertEqual((7.25, 2.6), (length.used_m, length.cut_m))

    def test_allowances_are_the_builder_s(self) -> None:
        machine = route_edits.set_allowances(
            fan_on_a_run(moving=True), box_loop_m=1.0, loop_m=0.0, slack_ratio=0.5, end_m=0.0,
            step_m=0.001,
        )  # fmt: skip
        self.assertEqual(4.0, cable_length(Queries(machine), "W1").cut_m)

    def test_a_wire_within_a_place_takes_its_usual_length_and_two_ends(self) -> None:
        machine = routed(fan_on_a_run(), {"M1": "box"}, run())
        self.assertEqual(0.5, cable_length(Queries(machine), "W1").cut_m)
        exact = route_edits.set_allowances(machine, step_m=0.001, end_m=0.07)
        self.assertEqual(0.54, cable_length(Queries(exact), "W1").cut_m)

    def test_a_cable_to_three_places_is_as_long_as_all_its_runs(self) -> None:
        build = small.bench("G1 fell-ps24", "M1 quoin-bf24", "M2 quoin-bf24")
        build.cable("W1", "flex-3x0.5", None)
        build.join("G1:OUT", "M1:LEADS", "1-+", "W1", "1")
        build.join("G1:OUT", "M2:LEADS", "1-+", "W1", "2")
        machine = routed(
            build.machine, {"G1": "box", "M1": "mid", "M2": "end"},
            run("R1", "box", "mid", 1.0), run("R2", "box", "end", 2.0),
        )  # fmt: skip
        length = cable_length(Queries(machine), "W1")
        self.assertEqual(3.0, length.of("run"))
        # Loops 0.3 and twice 0.2, three ends of 0.05.
        self.assertEqual(3.9, length.cut_m)

    def test_laid_by_hand_and_back_to_the_shortest(self) -> None:
        machine = routed(
            fan_on_a_run(), {}, run("R1", "box", "end"),
            run("R2", "box", "mid"), run("R3", "mid", "end"),
        )  # fmt: skip
        self.assertEqual(("R1",), cable_route(Queries(machine), "W1").runs)
        machine = cable_edits.set_cable_runs(machine, "W1", ("R2", "R3"))
        self.assertEqual({"R2": ("W1",), "R3": ("W1",)}, cables_of_runs(Queries(machine)))
        machine = route_edits.remove_run(machine, "R3")
        self.assertEqual(("R1",), cable_route(Queries(machine), "W1").runs)


class Trees(unittest.TestCase):
    def test_every_run_of_a_demo_is_drawn_once(self) -> None:
        for demo in DEMOS:
            queries = Queries(open_demo(demo.key))
            drawn = [r for tree in route_trees(queries) for r in runs_of(tree)] + list(
                ring_runs(queries)
            )
            with self.subTest(demo.key):
                self.assertEqual(sorted(run.id for run in queries.runs()), sorted(drawn))

    def test_the_box_is_where_the_control_is(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-planned"))
        self.assertEqual("box", root_place(queries))
        self.assertIsNone(root_place(Queries(Machine(name="Empty"))))

    def test_a_ring_is_opened_and_an_island_stands_by_itself(self) -> None:
        queries = grid(("R1", "a", "b", 1.0), ("R2", "b", "c", 1.0), ("R3", "c", "a", 1.0))
        self.assertEqual(2, len(route_trees(queries)))
        self.assertEqual(("R2",), ring_runs(queries))


class Edited(unittest.TestCase):
    def setUp(self) -> None:
        self.machine = routed(
            fan_on_a_run(), {}, run("R1", "box", "mid", 1.0), run("R2", "mid", "end", 2.0)
        )

    def test_a_place_between_two_runs_goes_and_they_become_one(self) -> None:
        machine = route_edits.remove_place(self.machine, "mid")
        self.assertEqual([("R1", 3.0)], [(r.id, r.length_m) for r in machine.runs])
        self.assertEqual(("R1",), cable_route(Queries(machine), "W1").runs)

    def test_a_place_with_devices_goes_with_its_runs(self) -> None:
        machine = route_edits.remove_place(self.machine, "end")
        self.assertEqual(["R1"], [r.id for r in machine.runs])
        self.assertIsNone(Queries(machine).device("M1").place)

    def test_a_place_between_two_runs_where_something_sits_is_not_merged_away(self) -> None:
        machine = route_edits.put_device(self.machine, "M1", "mid")
        machine = route_edits.remove_place(machine, "mid")
        self.assertEqual(((), None), (machine.runs, Queries(machine).device("M1").place))

    def test_dividing_a_run_keeps_lengths_and_ways_by_hand(self) -> None:
        machine = cable_edits.set_cable_runs(self.machine, "W1", ("R1", "R2"))
        before = cable_length(Queries(machine), "W1").cut_m
        machine = route_edits.split_run(machine, "R2", 0.5, "Joint")
        self.assertEqual(("R1", "R2", "R3"), Queries(machine).cable("W1").runs)
        self.assertEqual(before, cable_length(Queries(machine), "W1").cut_m)

    def test_a_fixed_run_has_no_chain_and_a_chain_makes_it_move(self) -> None:
        machine = route_edits.change_run(self.machine, "R2", coiled=True)
        self.assertTrue(Queries(machine).run("R2").moving)
        machine = route_edits.change_run(machine, "R2", moving=False)
        self.assertFalse(Queries(machine).run("R2").coiled)

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        for edit, words in (
            (lambda m: route_edits.add_run(m, "box", "box", 1), "two different places"),
            (lambda m: route_edits.add_run(m, "mid", "box", 1), "joins Middle and Box already"),
            (lambda m: route_edits.add_run(m, "box", "end", -1), "not a length"),
            (lambda m: route_edits.change_run(m, "R1", length_m=1001), "not a length"),
            (lambda m: route_edits.add_place(m, "  box "), None),
            (lambda m: route_edits.add_place(m, "Box"), "already"),
            (lambda m: route_edits.add_place(m, ""), "1 to 80"),
            (lambda m: route_edits.split_run(m, "R1", 1.0, "X"), "not within it"),
            (lambda m: route_edits.set_allowances(m, slack_ratio=1.5), "0 to 100 %"),
            (lambda m: cable_edits.set_cable_runs(m, "W1", ("R9",)), "no run R9"),
            (lambda m: cable_edits.rename_cable(m, "W1", ""), "1 to 80"),
            (lambda m: route_edits.remove_place(m, "nowhere"), "no place nowhere"),
        ):
            if words is None:
                continue
            with self.subTest(words), self.assertRaisesRegex(route_edits.Problem, words):
                edit(self.machine)

    def test_renaming_a_cable_keeps_what_it_carries(self) -> None:
        machine = cable_edits.rename_cable(self.machine, "W1", "FAN")
        self.assertEqual("FAN", machine.hookups[0].cable)
        self.assertEqual(2, len(cable_edits.used_cores(machine, "FAN")))

    def test_a_cable_with_too_few_cores_is_refused(self) -> None:
        one = replace(self.machine.cable_parts[0], id="one", cores=("BK",))
        with self.assertRaisesRegex(cable_edits.Problem, "uses core 2"):
            cable_edits.set_cable_part(self.machine, "W1", one)

    def test_the_axis_of_a_run_follows_its_name(self) -> None:
        from vervain.edits import axis_edits

        machine = axis_edits.add_axis(self.machine, "X")
        machine = route_edits.change_run(machine, "R1", axis="X")
        machine = axis_edits.rename_axis(machine, "X", "U", "carriage")
        self.assertEqual("U", Queries(machine).run("R1").axis)
        self.assertIsNone(Queries(axis_edits.remove_axis(machine, "U")).run("R1").axis)

    def test_places_of_the_cases_are_named_once(self) -> None:
        self.assertEqual(len(PLACES), len({place.name for place in PLACES}))
        self.assertEqual({}, dict(note_edits.set_prices(self.machine, {"x": None}).prices))


class Drawn(unittest.TestCase):
    """The route as it is laid out for the window and for paper."""

    def test_runs_end_in_the_middle_of_their_places_and_nothing_lies_over_a_line(self) -> None:
        for demo in DEMOS:
            for scale in (1.0, 1.5):
                picture = lay_out_route(Queries(open_demo(demo.key)), 760.0 * scale, scale)
                lines = sorted({run.start.y for run in picture.runs if not run.is_ring})
                with self.subTest(demo.key, scale=scale):
                    for run in picture.runs:
                        ends = [p for p in picture.places if p.node.centre == run.end]
                        self.assertTrue(ends or run.is_ring, run.run)
                        self.assertFalse(run.section.width < 0 or run.section.height < 0)
                    for place in picture.places:
                        if not place.is_root:
                            self.assertEqual((11 * scale, 11 * scale), place.node[2:])
                    for run in picture.runs:
                        above = [line for line in lines if line < run.start.y]
                        if above and not run.section.is_empty:
                            self.assertGreater(run.section.y, above[-1] + 20 * scale)
                    self.assertTrue(all(b - a >= 34 * scale for a, b in pairwise(lines)))

    def test_a_box_without_width_or_height_is_empty(self) -> None:
        self.assertTrue(Box(1, 1, 0, 5).is_empty and Box(1, 1, 5, 0).is_empty)
        self.assertFalse(Box(1, 1, 5, 5).is_empty)
        self.assertFalse(Box(0, 0, 0, 9).contains(Point(0, 3)))
        self.assertTrue(Box(0, 0, 4, 9).contains(Point(4, 9)))
        self.assertFalse(Box(0, 0, 4, 9).contains(Point(4.5, 9)))
        self.assertTrue(Box(0, 0, 4, 9).contains(Point(4.5, 9), by=1))
