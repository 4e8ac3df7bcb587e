"""What to look at when a step fails: the causes of the design, and the measurement between them."""

import unittest
from functools import cache

from mistake_machines import MACHINES
from tests.bench.test_results import PLANNED, listed, seen, states
from tests.sampling import seeded, some
from vervain.bench.cause_table import trouble_table
from vervain.bench.causes import Cause, causes, host_of
from vervain.bench.checklist import bench_list
from vervain.bench.troubleshooting import (
    Split,
    left_over,
    next_split,
    splits,
    symptom_step,
    symptoms_of,
)
from vervain.files.demos import open_demo
from vervain.model.machine import Machine
from vervain.model.part import PartKind
from vervain.model.subject import Subject
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine

FOUND = open_demo("glazing-gantry-as-found")


@cache
def looked_at(machine_id: int) -> tuple:
    """The look-ups, findings and steps of a machine, worked out once."""
    machine = KNOWN[machine_id]
    queries, findings = Queries(machine), check_machine(machine).open
    return queries, findings, bench_list(queries, findings)


KNOWN: dict[int, Machine] = {}


def causes_of(machine: Machine, step_id: str) -> list[str]:
    KNOWN[id(machine)] = machine
    queries, findings, steps = looked_at(id(machine))
    step = next(step for step in steps if step.id == step_id)
    return [cause.what for cause in causes(queries, step, steps, states(machine), findings)]


class Causes(unittest.TestCase):
    def test_an_open_finding_there_comes_first_and_one_elsewhere_not_at_all(self) -> None:
        self.assertEqual("B4 and B10 both sit in IN 4.", causes_of(FOUND, "input B4")[0])
        self.assertFalse([c for c in causes_of(FOUND, "input B1") if "IN 4" in c and "B10" in c])
        self.assertNotIn("B4 and B10 both sit in IN 4.", causes_of(FOUND, "earth K1"))

    def test_the_way_of_the_design_is_named_to_the_last_plug(self) -> None:
        found = "\n".join(causes_of(PLANNED, "input B4"))
        for words in (
            "The plug at K1 IN 4", "IN 3 or IN 5 instead of IN 4", "X18 is not together",
            "W18.3, W18.4: broken", "B4.NC, B4.COM", "B4 Y home switch itself",
            "K1 IN 4 itself is dead", "Reads NPN is set otherwise",
        ):  # fmt: skip
            self.assertIn(words, found)
        counted = "\n".join(causes_of(PLANNED, "counts A"))
        for words in ("K3 Encoder receiver itself", "W26.1", "W22.1", "X22", "A and B of B9"):
            self.assertIn(words, counted)
        self.assertNotIn("K3 is at K1", counted)
        self.assertIn("B6 is at K1 IN 5 as well", causes_of(PLANNED, "input B5"))
        moved = "\n".join(causes_of(PLANNED, "lock M2"))
        for words in ("T2 is not enabled", "T2 is not fed at", "Fuse F1 before T2", "X12"):
            self.assertIn(words, moved)

    def test_fuses_are_those_before_the_device_and_no_others(self) -> None:
        for step, fuses in (("lock M2", ["F1"]), ("feed B7 LEADS 1", ["F2"])):
            found = [what for what in causes_of(PLANNED, step) if what.startswith("Fuse ")]
            self.assertEqual(fuses, [what.split()[1] for what in found], step)

    def test_an_earlier_step_there_that_failed_is_a_cause_and_one_elsewhere_is_not(self) -> None:
        machine = seen(PLANNED, "coils M2", "coils M1", outcome="failed")
        found = [what for what in causes_of(machine, "lock M2") if "failed" in what]
        self.assertEqual(1, len(found))
        self.assertIn("Plug of M2", found[0])

    def test_likely_and_quick_goes_before_rare_and_slow(self) -> None:
        machine, steps = PLANNED, listed(PLANNED)
        found = causes(Queries(machine), steps["input B4"])
        ranks = [cause.weight / cause.time_min for cause in found]
        self.assertEqual(sorted(ranks, reverse=True), ranks)
        self.assertEqual(len(found), len({cause.id for cause in found}))

    def test_every_step_and_symptom_of_a_machine_has_a_cause_in_whole_words(self) -> None:
        for name in some(seeded("causes of steps"), sorted(MACHINES), 6):
            queries = Queries(MACHINES[name]())
            steps = bench_list(queries)
            asked = list(steps) + [
                symptom_step(queries, symptom, device, steps)
                for device in queries.devices()
                for symptom in symptoms_of(queries, device)
            ]
            for step in asked:
                found = causes(queries, step, steps)
                with self.subTest(f"{name}: {step.id}"):
                    self.assertTrue(found or step.kind in ("set", "channel", "contact"))
                    for cause in found:
                        self.assertNotIn("{", cause.what + cause.test)
                        self.assertTrue(cause.what.strip() and cause.test.strip())

    def test_the_table_names_kinds_that_there_are(self) -> None:
        table = trouble_table()
        ids = {symptom.id for symptom in table.symptom}
        named = {kind for known in table.cause for kind in known.of} - ids
        named |= {symptom.like for symptom in table.symptom}
        kinds: set[str] = set()
        # These have them all; the others are asked only where one of them changes.
        for name in dict.fromkeys(("built in", "lathe", "gantry", "hoist", *MACHINES)):
            if named <= kinds:
                break
            kinds |= {step.kind for step in bench_list(Queries(MACHINES[name]()))}
        for known in table.cause:
            self.assertLessEqual(set(known.of), ids | kinds, known.what)
        for symptom in table.symptom:
            self.assertIn(symptom.like, kinds)
            self.assertLessEqual(set(symptom.parts), set(PartKind.__args__))


def cause(side: str, weight: float) -> Cause:
    return Cause(
        id=side, what=side, test="t", weight=weight, time_min=1, stage="Ports", at=Subject(),
        side=side,
    )  # fmt: skip


class Splits(unittest.TestCase):
    def test_the_measurement_that_halves_what_is_left_is_asked_first(self) -> None:
        left = (cause("device", 1), cause("way", 1), cause("host", 2), cause("feed", 0.1))
        half = Split(id="half", do="", see="", good=("device", "way"), bad=("host", "feed"))
        quarter = Split(id="q", do="", see="", good=("way", "host", "feed"), bad=("device",))
        slow = Split(id="slow", do="", see="", good=half.good, bad=half.bad, time_min=3)
        self.assertEqual(half, next_split(left, (quarter, slow, half), {}))
        self.assertEqual(quarter, next_split(left, (quarter, slow), {}))
        # What is left lies on one side alone: nothing more to ask there.
        after = left_over(left, (half, quarter), {"half": "bad"}, set())
        self.assertEqual(["host", "feed"], [c.id for c in after])
        self.assertIsNone(next_split(after, (half, quarter), {"half": "bad"}))

    def test_answers_lead_to_the_side_where_the_fault_is(self) -> None:
        # A fault on each side in turn; the measurements answer as they would.
        queries, step = Queries(PLANNED), listed(PLANNED)["lock M2"]
        asked = splits(queries, step)
        self.assertEqual("T2", host_of(queries, step).device)
        for side in ("device", "way", "host", "feed"):
            found, answers = causes(queries, step), {}
            while split := next_split(left_over(found, asked, answers, set()), asked, answers):
                answers[split.id] = "good" if side in split.good else "bad"
            left = left_over(found, asked, answers, set())
            with self.subTest(side):
                self.assertIn(side, {c.side for c in left})
                self.assertLess(len(left), len(found))

    def test_only_contacts_are_bridged_and_only_what_is_fed_is_measured(self) -> None:
        queries, steps = Queries(PLANNED), listed(PLANNED)
        self.assertIn("host", {s.id for s in splits(queries, steps["input B4"])})
        self.assertNotIn("host", {s.id for s in splits(queries, steps["counts A"])})
        self.assertNotIn("fed", {s.id for s in splits(queries, steps["input B4"])})
        self.assertIn("4.75 to 5.25 V", {s.see for s in splits(queries, steps["counts A"])})
