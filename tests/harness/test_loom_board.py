"""The loom board: every run at its true length, nothing over anything else, nothing left out."""

import unittest
from itertools import combinations, pairwise

from hypothesis import given, settings
from hypothesis import strategies as st

from vervain.exports.harness_pdf import loom_board_pdf
from vervain.files.demos import open_demo
from vervain.harness.loom_board import loom_board, sheets_of
from vervain.harness.shapes import Stroke
from vervain.model.machine import Machine
from vervain.model.place import Place, Run
from vervain.queries.machine_queries import Queries
from vervain.tables.loom_board_drawing import PT_PER_MM, draw_board_sheet

PLANNED = open_demo("glazing-gantry-as-planned")
# A tree as the place that each further place hangs on, and how long its run is, in dm.
TREES = st.lists(st.tuples(st.integers(0, 30), st.integers(1, 40)), min_size=1, max_size=14)


def tree(grown) -> Queries:
    places = tuple(Place(id=f"P{n}", name=f"Place {n}") for n in range(len(grown) + 1))
    runs = tuple(
        Run(id=f"R{n}", a=f"P{on % n}", b=f"P{n}", length_m=dm / 10, moving=dm % 3 == 0)
        for n, (on, dm) in enumerate(grown, 1)
    )
    return Queries(Machine(name="Tree", places=places, runs=runs))


def drawn_mm(points) -> float:
    return sum(abs(b.x - a.x) + abs(b.y - a.y) for a, b in pairwise(points))


def crosses(one, other) -> bool:
    """Whether an upright and a level stretch cross, ends aside."""
    for (a, b), (c, d) in ((one, other), (other, one)):
        if a.x == b.x and c.y == d.y:
            low, high = sorted((a.y, b.y))
            left, right = sorted((c.x, d.x))
            if low < c.y < high and left < a.x < right:
                return True
    return False


class Boards(unittest.TestCase):
    @settings(max_examples=120, deadline=None)
    @given(TREES)
    def test_every_run_lies_there_once_and_as_long_as_it_is(self, grown) -> None:
        queries = tree(grown)
        board = loom_board(queries)
        self.assertEqual({run.id for run in queries.runs()}, {run.run for run in board.runs})
        self.assertEqual(len(grown) + 1, len({place.place for place in board.places}))
        slack = queries.allowances().slack_ratio
        at = {place.place: place.at for place in board.places}
        for laid in board.runs:
            run = queries.run(laid.run)
            wanted = run.length_m * 1000 * (1 + slack * run.moving)
            self.assertAlmostEqual(wanted, drawn_mm(laid.points), delta=0.2)
            self.assertEqual({at[run.a], at[run.b]}, {laid.points[0], laid.points[-1]})
        self.assertTrue(all(0 < p.x < board.width_mm for run in board.runs for p in run.points))

    @settings(max_examples=120, deadline=None)
    @given(TREES)
    def test_long_runs_do_not_cross(self, grown) -> None:
        """Runs that are long enough for a way down to their own row."""
        board = loom_board(tree([(on, dm + 20) for on, dm in grown]))
        ways = [pair for run in board.runs for pair in pairwise(run.points)]
        for one, other in combinations(ways, 2):
            self.assertFalse(crosses(one, other), (one, other))

    def test_sheets_hold_every_place_and_join_at_their_marks(self) -> None:
        board = loom_board(Queries(PLANNED))
        sheets = sheets_of(board, 259, 159)
        for place in board.places:
            self.assertTrue(any(sheet.box.contains(place.at) for sheet in sheets), place.name)
        self.assertLess(len(sheets), board.width_mm / 259 * board.height_mm / 159)
        self.assertEqual(len(sheets), len({sheet.name for sheet in sheets}))
        drawing = draw_board_sheet(board, sheets[0], {sheet.name for sheet in sheets})
        level = [s for s in drawing.shapes if isinstance(s, Stroke) and s.points[0].y == 10]
        ruler = max(abs(s.points[1].x - s.points[0].x) for s in level)
        self.assertAlmostEqual(100, ruler / PT_PER_MM)
        (box,) = [place for place in board.places if place.name == "Control box"]
        self.assertIn(("W11", 0.35), [(end.cable, end.beyond_m) for end in box.ends])

    def test_a_machine_without_runs_says_so(self) -> None:
        self.assertIn(b"%PDF", loom_board_pdf(Machine(name="Empty"))[:8])
        self.assertEqual((), sheets_of(loom_board(tree([])), 100, 100))
