"""The lead-order fixer over all 24 orders: at most two exchanges run, one more turns it round."""

import itertools
import unittest

from vervain.files.demos import open_demo
from vervain.leads.motors import order_at_driver
from vervain.leads.order import exchanged, next_step, orders_left, pairing
from vervain.machine.evidence import Trial
from vervain.machine.look import Look

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
        self.assertEqual((24, 16), (orders_left(order, ()), orders_left(order, trials)))

    def test_when_all_three_fail_the_order_is_not_the_fault(self) -> None:
        trials = tuple(
            Trial(order=order, saw="does not run")
            for order in (("a", "b", "c", "d"), ("a", "c", "b", "d"), ("a", "d", "c", "b"))
        )
        step = next_step(("a", "b", "c", "d"), trials)
        self.assertEqual(("not the order", 0), (step.advice, step.left))

    def test_turning_freely_removes_no_order(self) -> None:
        trials = (Trial(order=LEADS, saw="turns freely"),)
        step = next_step(LEADS, trials)
        self.assertEqual(("check first", 24), (step.advice, step.left))


class OnTheMachine(unittest.TestCase):
    def test_the_order_at_the_drivers_terminals(self) -> None:
        look = Look(open_demo("glazing-gantry-as-found"))
        port, order = order_at_driver(look, "M4")
        self.assertEqual("T4", port.device)
        self.assertEqual(("RD+BK", "WHRD+WHYE", "YE+BU", "WHBK+WHBU"), order)
        self.assertEqual(("BK", "GN", "RD", "BU"), order_at_driver(look, "M1")[1])
        self.assertIsNone(order_at_driver(look, "M6"))
        self.assertIsNone(order_at_driver(look, "M11"))
