"""Wires from pin to pin: what every pin answers, what a wire is led through, what would come."""

import random
import unittest

from builder import Builder
from vervain.edits.pin_names import pin_written
from vervain.edits.plug_edits import put_conductor, take_conductor_off
from vervain.edits.wire_edits import ends_of_wire, put_beside
from vervain.electrical.join_judgement import judge_join
from vervain.files.demos import open_demo
from vervain.files.part_files import shipped_shelf
from vervain.model.machine import Machine
from vervain.ports.joins import across_from, join_answers, way_from, ways_through
from vervain.ports.wire_insertions import feed_side, insert, insertions
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.join_trial import try_join

ARM = open_demo("seedling-arm-as-planned")


def supply_and_strip() -> Machine:
    """A 24 V supply and a 48 V one, a strip, two fuses, two valves, a driver; one wire from the
    24 V to the strip.
    """
    build = Builder(Machine(name="Bench"))
    for name, part in (
        ("G1", "fell-ps24"), ("G2", "fell-ps48"), ("X1", "quoin-ts8"), ("F1", "quoin-fh1"),
        ("F2", "quoin-fh1"), ("M1", "larkmoor-av24"), ("M2", "larkmoor-av24"), ("T1", "fell-d72"),
    ):  # fmt: skip
        build.device(name, part, name, None)
    build.cable("W1", "pair-rdbk-2.5", 0.5)
    build.join("G1:OUT", "X1:1", "1-+ 2-0V", "W1")
    return build.machine


class Answers(unittest.TestCase):
    def test_a_wire_that_was_taken_off_finds_its_way_back(self) -> None:
        rows = [(h.id, row) for h in ARM.hookups for row in range(len(h.conductors))]
        found = 0
        for hookup, row in random.Random(5).sample(rows, 24):
            start, end = ends_of_wire(ARM, hookup, row)
            queries = Queries(take_conductor_off(ARM, hookup, row))
            answers = join_answers(queries, start) or ()
            right = {*queries.net(end), end}
            found += any(answer.pin in right for answer in answers[:5])
        self.assertGreaterEqual(found, 22)

    def test_what_a_wire_means_for_both_ends(self) -> None:
        machine = supply_and_strip()
        for first, second, verdict, words in (
            ("G2 OUT 48V", "T1 POWER 48V", "belongs", "T1 POWER 48V gets 48 V from G2"),
            ("X1 5 +", "M1 LEADS +", "belongs", "gets 24 V from G1"),
            ("M1 LEADS −", "X1 5 0V", "belongs", "gets its way back to G1"),
            ("G2 OUT 48V", "M1 LEADS +", "against advice", "takes 21.6 to 26.4 V, not 48 V"),
            ("G1 OUT 24V", "G2 OUT 48V", "against advice", "plus to plus"),
            ("G2 OUT 48V", "X1 8 +", "against advice", "plus to plus"),
            ("G1 OUT 24V", "X1 1 +", "against advice", "A wire joins them already"),
            ("G1 OUT 24V", "X1 2 +", "may be", "one net already"),
            ("G1 MAINS L", "X1 3 +", "against advice", "nothing to do on one net"),
            ("X1 3 +", "X1 3 +", "cannot be", "one pin, not two"),
        ):
            with self.subTest(f"{first} to {second}"):
                ends = (pin_written(machine, text) for text in (first, second))
                found = judge_join(Queries(machine), *ends)
                self.assertEqual((verdict, True), (found.verdict, words in found.words), found)

    def test_trying_a_wire_tells_what_it_heals_and_what_it_brings(self) -> None:
        machine = supply_and_strip()
        queries = Queries(machine)
        before = check_look(queries)
        assert before is not None
        line = pin_written(machine, "G1 MAINS L")
        bad = try_join(queries, before, line, pin_written(machine, "X1 3 +"))
        self.assertIn("Damage", bad.words)
        wanted = pin_written(ARM, "M10 LEADS +")
        step = Queries(ARM).steps(wanted)[0]
        hookup = next(h for h in ARM.hookups if h.id == step.hookup)
        off = Queries(take_conductor_off(ARM, hookup.id, hookup.conductors.index(step.conductor)))
        good = try_join(off, check_look(off), step.start, step.end)
        self.assertTrue(good.clears)
        self.assertEqual((), good.brings)
        self.assertEqual((), off.steps(wanted), "it was only tried")
        self.assertIsNone(try_join(queries, before, line, line))


class Through(unittest.TestCase):
    def setUp(self) -> None:
        self.machine = supply_and_strip()
        self.wire = self.machine.hookups[0].id, 0
        self.source, self.strip = ends_of_wire(self.machine, *self.wire)

    def test_a_fuse_goes_in_at_the_source_and_the_rest_keeps_cable_and_core(self) -> None:
        self.assertEqual(self.source, feed_side(self.machine, *self.wire))
        queries = Queries(self.machine)
        offers = insertions(queries, (self.source, self.strip), shipped_shelf().parts.values())
        fuse = next(offer for offer in offers if offer.name.startswith("F2"))
        changed = Queries(insert(self.machine, *self.wire, fuse))
        (near,) = changed.steps(self.source)
        self.assertEqual("F2", near.end.device)
        self.assertIsNone(near.conductor.core)
        far = across_from(changed, near.end)
        (rest,) = changed.steps(far)
        self.assertEqual(self.strip, rest.end)
        self.assertEqual(("W1", 1), (changed.hookup(rest.hookup).cable, rest.conductor.core))
        new = next(offer for offer in offers if offer.part and offer.part.kind == "fuse")
        made = insert(self.machine, *self.wire, new).devices[-1]
        self.assertEqual("F3", made.designator)

    def test_only_what_nothing_is_joined_to_is_offered(self) -> None:
        queries = Queries(self.machine)
        self.assertEqual((), ways_through(queries, "X1"), "its bars carry 24 V and 0 V")
        names = [o.name for o in insertions(queries, (self.source, self.strip))]
        self.assertEqual(["F1 IN to OUT", "F2 IN to OUT"], names)
        machine = put_conductor(
            self.machine, pin_written(self.machine, "F1 OUT"), pin_written(self.machine, "M1 +")
        )
        self.assertEqual((), ways_through(Queries(machine), "F1"))
        self.assertIsNone(way_from(Queries(machine), pin_written(machine, "F1 IN")))

    def test_beside_joins_end_to_end(self) -> None:
        machine = self.machine
        pins = [pin_written(machine, f"{name} {end}") for name in ("F1", "F2") for end in
                ("IN", "OUT")]  # fmt: skip
        queries = Queries(put_beside(machine, (pins[0], pins[1]), (pins[2], pins[3])))
        self.assertIn(pins[2], queries.net(pins[0]))
        self.assertIn(pins[3], queries.net(pins[1]))
        self.assertNotIn(pins[1], queries.net(pins[0]))
