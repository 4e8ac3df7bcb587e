"""The memory of answers: what it keeps, what it forgets, and what it does with mistakes."""

import gc
import traceback
import unittest

from tests import small
from vervain.data import data_text, replace_tables
from vervain.edits.device_edits import set_designator, set_name
from vervain.electrical.copper import ampacity_a
from vervain.files.demos import open_demo
from vervain.queries.engine import QueryCycle, query
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import Engine, check_look
from vervain.rules.registry import RULES
from vervain.rules.rule import rule

DEMO = open_demo("clay-printer-as-planned")
asked: list[str] = []


@query
def named(queries: Queries, designator: str, loud: bool = False) -> str:
    asked.append(designator)
    device = queries.device(designator)
    name = device.name if device else "nobody"
    return name.upper() if loud else name


@query
def first(queries: Queries, designator: str) -> str:
    return second(queries, designator)


@query
def second(queries: Queries, designator: str) -> str:
    return first(queries, designator)


@query
def strict(queries: Queries, designator: str) -> int:
    if "!" in named(queries, designator):
        raise ZeroDivisionError(designator)
    return 1


@query
def lenient(queries: Queries, designator: str) -> str:
    try:
        return f"fine {strict(queries, designator)}"
    except ZeroDivisionError:
        return "caught"


@query
def least_core_a(queries: Queries) -> float | None:
    queries.ambient_c()
    return ampacity_a(0.5, 40.0)


class Answers(unittest.TestCase):
    def setUp(self) -> None:
        self.queries = Queries(DEMO)
        asked.clear()

    def test_an_argument_given_by_name_counts(self) -> None:
        name = named(self.queries, "M1")
        self.assertEqual(name.upper(), named(self.queries, "M1", loud=True))
        self.assertEqual(name.upper(), named(self.queries, designator="M1", loud=True))
        self.assertEqual(["M1", "M1"], asked)
        with self.assertRaises(TypeError):
            named(self.queries, "M1", quiet=True)

    def test_a_circle_of_queries_is_told_by_name(self) -> None:
        with self.assertRaises(QueryCycle) as caught:
            first(self.queries, "M1")
        self.assertIn("first('M1',) → second('M1',)", str(caught.exception))
        self.assertTrue(named(self.queries, "M1"))

    def test_what_raised_is_kept_until_its_cause_is_gone(self) -> None:
        bad = set_name(DEMO, "M1", "Bad!")
        self.queries.move_to(bad)
        self.assertEqual("caught", lenient(self.queries, "M1"))
        frames = set()
        for _ in range(3):
            try:
                strict(self.queries, "M1")
            except ZeroDivisionError as error:
                frames.add(len(traceback.extract_tb(error.__traceback__)))
        self.assertEqual(1, len(frames), "raised again, an error does not get longer")
        self.assertEqual(1, asked.count("M1"))
        self.queries.move_to(DEMO)
        self.assertEqual("fine 1", lenient(self.queries, "M1"))
        self.queries.move_to(bad)
        self.assertEqual("caught", lenient(self.queries, "M1"))

    def test_another_table_is_another_answer(self) -> None:
        before = least_core_a(self.queries)
        table = data_text("tables/copper.toml")
        try:
            replace_tables({"copper.toml": table.replace("[0.5, 7.5]", "[0.5, 6.5]")})
            self.queries.move_to(DEMO)
            self.assertEqual((7.5, 6.5), (before, least_core_a(self.queries)))
        finally:
            replace_tables({"copper.toml": None})
        self.queries.move_to(DEMO)
        self.assertEqual(7.5, least_core_a(self.queries))

    def test_what_is_no_more_is_forgotten(self) -> None:
        engine = Engine()

        machine = small.motor_on_driver()
        engine.check(machine)
        for number in range(65):
            engine.check(set_designator(machine, "M1", f"M{100 + number}"))
        grown = engine._look.kept()
        for number in range(100):
            engine.check(set_designator(machine, "M1", f"M{300 + number}"))
        gc.collect()
        # Forgetting comes every twenty edits, so as many are left at the same distance from it.
        self.assertLess(engine._look.kept(), 1.01 * grown)


class Rules(unittest.TestCase):
    def test_a_check_that_raises_is_one_finding_and_all_others_stand(self) -> None:
        @rule(
            id="ports.broken", consequence="Damage", scope="device", title="A broken check",
            reason="r", source="s",
        )  # fmt: skip
        def broken(queries: Queries, device: str):
            if device.startswith("M"):
                raise ZeroDivisionError(device)
            yield from ()

        found = open_demo("clay-printer-as-found")
        sound = check_look(Queries(found))
        result = check_look(Queries(found), rules=(*RULES, broken))
        told = [finding for finding in result.open if finding.rule == "ports.broken"]
        self.assertEqual(1, len(told))
        self.assertIn("This check failed", told[0].sentence)
        self.assertIn("ZeroDivisionError", told[0].why)
        self.assertEqual(sound.open, tuple(f for f in result.open if f.rule != "ports.broken"))
