"""Split coils over every order of leads, and the exchange that mends them."""

import itertools
import unittest

from tests import small
from vervain.files.demos import open_demo
from vervain.leads.direction import rotates_positive
from vervain.leads.windings import exchange_that_mends, windings_of
from vervain.model.machine import Machine, PinRef
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine

LEADS = ("BK", "GN", "RD", "BU")
WANTED = {
    PinRef(device="M1", port="LEADS", pin=lead): function
    for lead, function in zip(LEADS, ("phase A+", "phase A-", "phase B+", "phase B-"), strict=True)
}


def in_order(order: tuple[str, ...]) -> Machine:
    pins = " ".join(f"{lead}-{number}" for number, lead in enumerate(order, 1))
    return small.motor_on_driver(pins=pins)


class AllOrders(unittest.TestCase):
    def test_8_of_24_orders_run_and_one_exchange_mends_the_rest(self) -> None:
        whole = 0
        for order in itertools.permutations(LEADS):
            machine = in_order(order)
            windings = windings_of(Queries(machine), "M1")
            pairs = {frozenset(order[:2]), frozenset(order[2:])}
            runs = pairs == {frozenset(("BK", "GN")), frozenset(("RD", "BU"))}
            whole += runs
            with self.subTest(order):
                self.assertEqual(runs, not any(winding.is_split for winding in windings))
                keys = {f.rule for f in check_machine(machine).open}
                self.assertEqual(not runs, "leads.split-coil" in keys)
                if not runs:
                    first, second = exchange_that_mends(windings, WANTED)
                    swapped = [
                        {first.pin: second.pin, second.pin: first.pin}.get(x, x) for x in order
                    ]
                    mended = windings_of(Queries(in_order(tuple(swapped))), "M1")
                    self.assertFalse(any(winding.is_split for winding in mended))
        self.assertEqual(8, whole)


class TheWayRound(unittest.TestCase):
    def test_a_motor_turns_as_its_field_does(self) -> None:
        """The leads map the driver's two currents to the motor's: it turns round where the
        determinant of that map is negative.
        """
        seen = set()
        for order in itertools.permutations(LEADS):
            lands = {lead: number for number, lead in enumerate(order)}
            rows = [[0, 0], [0, 0]]
            for coil, (start, end) in enumerate((("BK", "GN"), ("RD", "BU"))):
                if lands[start] // 2 == lands[end] // 2:
                    rows[coil][lands[start] // 2] = lands[end] - lands[start]
            turns = rows[0][0] * rows[1][1] - rows[0][1] * rows[1][0]
            with self.subTest(order):
                expected = turns > 0 if turns else None
                self.assertEqual(expected, rotates_positive(Queries(in_order(order)), "M1"))
            seen.add(turns)
        self.assertEqual({-1, 0, 1}, seen)


class EightLeads(unittest.TestCase):
    def test_the_exchange_brings_each_lead_back_to_its_own_phase(self) -> None:
        machine = open_demo("glazing-gantry-as-found")
        finding = next(f for f in check_machine(machine).open if f.rule == "leads.split-coil")
        self.assertIn("WHBK and WHYE", finding.sentence)
        mended = finding.fixes[0].remedy.apply(machine)
        queries = Queries(mended)
        for winding in windings_of(queries, "M4"):
            for lead, function in zip(winding.leads, winding.functions, strict=True):
                self.assertEqual(queries.pin(lead).function, function)
