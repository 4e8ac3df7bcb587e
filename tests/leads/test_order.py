"""The lead-order fixer over all 24 orders: at most two exchanges run, one more turns it round."""

import itertools
import unittest

from vervain.files.demos import open_demo
from vervain.leads.lead_order import exchanged, next_step, pairing
from vervain.leads.motors import order_at_driver
from vervain.leads.three_phase_order import next_three
from vervain.model.measurements import Trial
from vervain.queries.machine_queries import Queries

LEADS = ("a", "b", "c", "d")
TRUE = (("a", "b"), ("c", "d"))


def does(order: tuple[str, ...]) -> str:
    """What a motor with the coils a-b and c-d does: the sign of the turn is the sign of the
    winding sequence on A+ A- B+ B-.
    """
    if pairing(order) != frozenset(map(frozenset, TRUE)):
        return "does not run"
    sign = 1 if order.index("a") < order.index("b") else -1
    sign *= 1 if order.index("c") < order.index("d") else -1
    sign *= 1 if order.index("a") < 2 else -1
    return "runs" if sign > 0 else "wrong way"


def fix(order: tuple[str, ...]) -> tuple[list[str], int]:
    """Follows the fixer from an order; what was seen, and how many exchanges it took."""
    trials: list[Trial] = []
    swaps = 0
    for _ in range(8):
        saw = does(order)
        trials.append(Trial(order=order, saw=saw))
        step = next_step(order, tuple(trials))
        if step.advice != "swap":
            break
        order = exchanged(order, *step.swap)
        swaps += 1
    return [trial.saw for trial in trials], swaps


class AllOrders(unittest.TestCase):
    def test_8_run_4_each_way_and_16_do_not(self) -> None:
        seen = [does(order) for order in itertools.permutations(LEADS)]
        self.assertEqual((4, 4, 16), tuple(map(seen.count, ("runs", "wrong way", "does not run"))))

    def test_two_exchanges_at_most_reach_a_running_order_and_one_more_its_direction(self) -> None:
        first_helped = 0
        for order in itertools.permutations(LEADS):
            seen, swaps = fix(order)
            with self.subTest(order):
                self.assertEqual("runs", seen[-1])
                until_it_runs = next(n for n, saw in enumerate(seen) if saw != "does not run")
                self.assertLessEqual(until_it_runs, 2)
                self.assertLessEqual(swaps, until_it_runs + 1)
                if seen[0] == "does not run":
                    first_helped += until_it_runs == 1
        self.assertEqual(8, first_helped)

    def test_each_pairing_that_fails_takes_eight_orders(self) -> None:
        order = ("a", "c", "b", "d")
        trials = (Trial(order=order, saw="does not run"),)
        self.assertEqual((24, 16), (next_step(order, ()).left, next_step(order, trials).left))

    def test_when_all_three_fail_the_order_is_not_the_fault(self) -> None:
        trials = tuple(
            Trial(order=order, saw="does not run")
            for order in (("a", "b", "c", "d"), ("a", "c", "b", "d"), ("a", "d", "c", "b"))
        )
        step = next_step(("a", "b", "c", "d"), trials)
        self.assertEqual(("not the order", 0), (step.advice, step.left))

    def test_known_coils_need_one_exchange_at_most_to_run(self) -> None:
        known = frozenset(map(frozenset, TRUE))
        for order in itertools.permutations(LEADS):
            step = next_step(order, (), known)
            after = exchanged(order, *step.swap) if step.swap else order
            with self.subTest(order):
                self.assertEqual(known, pairing(after))
                self.assertEqual(step.swap is not None, step.by_coils)
            dead = Trial(order=after, saw="does not run")
            self.assertEqual(("not the order", 0), (
                (found := next_step(after, (dead,), known)).advice, found.left,
            ))  # fmt: skip

    def test_orders_that_may_be_right_are_counted(self) -> None:
        order = ("a", "b", "c", "d")
        for saw, left in (("runs", 4), ("wrong way", 4), ("does not run", 16)):
            self.assertEqual(left, next_step(order, (Trial(order=order, saw=saw),)).left)
        for saw, left in (("runs", 6), ("wrong way", 6), ("does not run", 36)):
            trial = Trial(order=("u", "v", "w"), saw=saw)
            found = next_three(("u", "v", "w"), ThreePhases.WINDINGS, (trial,))
            self.assertEqual((left, 48), (found.left, found.total))
        trial = Trial(order=("u", "v", "w"), saw="runs")
        self.assertEqual(3, next_three(("u", "v", "w"), (), (trial,)).left)

    def test_what_cannot_both_be_is_a_contradiction(self) -> None:
        order, turned = ("a", "b", "c", "d"), ("b", "a", "c", "d")
        for trials in (
            ((order, "runs"), (order, "does not run")),
            ((order, "runs"), (turned, "runs")),
            ((order, "runs"), (turned, "does not run")),
        ):
            seen = tuple(Trial(order=o, saw=saw) for o, saw in trials)
            with self.subTest(trials):
                self.assertEqual("contradiction", next_step(trials[-1][0], seen).advice)
        three = (("u", "v", "w"), "runs"), (("v", "u", "w"), "runs")
        seen = tuple(Trial(order=o, saw=saw) for o, saw in three)
        self.assertEqual("contradiction", next_three(("v", "u", "w"), (), seen).advice)

    def test_turning_freely_removes_no_order(self) -> None:
        trials = (Trial(order=LEADS, saw="turns freely"),)
        step = next_step(LEADS, trials)
        self.assertEqual(("check first", 24), (step.advice, step.left))


class OnTheMachine(unittest.TestCase):
    def test_the_order_at_the_drivers_terminals(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-found"))
        port, order = order_at_driver(queries, "M4")
        self.assertEqual("T4", port.device)
        self.assertEqual(("RD+BK", "WHRD+WHYE", "YE+BU", "WHBK+WHBU"), order)
        self.assertEqual(("BK", "GN", "RD", "BU"), order_at_driver(queries, "M1")[1])
        self.assertEqual(("RD", "WH", "BK"), order_at_driver(queries, "M6")[1])
        self.assertIsNone(order_at_driver(queries, "M11"))


class ThreePhases(unittest.TestCase):
    """All 6 orders of three leads, and all 48 of three windings in star."""

    WINDINGS = (("u", "x"), ("v", "y"), ("w", "z"))

    def does(self, order: tuple[str, ...], truth) -> str:
        """By the true start of each winding: all the same way round, else the torque cancels."""
        starts = [lead in truth for lead in order]
        if len(set(starts)) > 1:
            return "does not run"
        phases = [next(n for n, w in enumerate(self.WINDINGS) if lead in w) for lead in order]
        return "runs" if phases in ([0, 1, 2], [1, 2, 0], [2, 0, 1]) else "wrong way"

    def fix(self, order, truth, windings) -> tuple[list[str], int]:
        trials: list[Trial] = []
        swaps = 0
        for _ in range(8):
            trials.append(Trial(order=order, saw=self.does(order, truth)))
            step = next_three(order, windings, tuple(trials))
            if step.exchange is None:
                break
            first, second = step.exchange
            pair = {first: second, second: first}
            order = tuple(pair.get(lead, lead) for lead in order)
            swaps += 1
        return [trial.saw for trial in trials], swaps

    def test_three_leads_need_one_exchange_at_most(self) -> None:
        for order in itertools.permutations("uvw"):
            seen, swaps = self.fix(order, {"u", "v", "w"}, ())
            self.assertEqual(("runs", True), (seen[-1], swaps <= 1))

    def test_six_leads_run_in_12_of_48_and_need_three_turns_and_a_direction(self) -> None:
        seen_first, counts = [], []
        for ends in itertools.product(*self.WINDINGS):
            for order in itertools.permutations(ends):
                seen, swaps = self.fix(order, {"u", "y", "w"}, self.WINDINGS)
                self.assertEqual("runs", seen[-1])
                seen_first.append(seen[0] != "does not run")
                counts.append(swaps)
        self.assertEqual((48, 12), (len(seen_first), sum(seen_first)))
        self.assertLessEqual(max(counts), 4)

    def test_each_way_round_that_fails_takes_twelve_orders(self) -> None:
        orders = [("u", "v", "w"), ("x", "v", "w"), ("u", "y", "w"), ("y", "u", "w")]
        left = []
        for count in range(len(orders) + 1):
            trials = tuple(Trial(order=order, saw="does not run") for order in orders[:count])
            left.append(next_three(orders[0], self.WINDINGS, trials).left)
        self.assertEqual([48, 36, 24, 12, 12], left)

    def test_turning_freely_and_nothing_that_runs(self) -> None:
        freely = (Trial(order=("u", "v", "w"), saw="turns freely"),)
        self.assertEqual("check first", next_three(("u", "v", "w"), (), freely).advice)
        dead = (Trial(order=("u", "v", "w"), saw="does not run"),)
        self.assertEqual("not the order", next_three(("u", "v", "w"), (), dead).advice)
