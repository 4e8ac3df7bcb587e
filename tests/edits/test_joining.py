"""Any two pins are joined by hand: their names as one writes them, cables and cores, judgements."""

import unittest

from tests import small
from vervain.edits.cable_edits import add_cable
from vervain.edits.pin_names import every_pin, pin_written, written
from vervain.edits.plug_edits import put_conductor
from vervain.electrical.join_judgement import judge_join
from vervain.files.demos import DEMOS, open_demo
from vervain.files.shelf import shipped_shelf
from vervain.model.machine import PinRef
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

CABLES = {part.id: part for part in shipped_shelf().cable_parts.values()}


def ref(text: str) -> PinRef:
    """A pin written "K1:IN 5:2"."""
    device, port, pin = text.split(":")
    return PinRef(device=device, port=port, pin=pin)


class Names(unittest.TestCase):
    def test_every_pin_of_the_demonstrations_is_found_as_it_is_written(self) -> None:
        for demo in DEMOS:
            machine = open_demo(demo.key)
            names = every_pin(machine)
            self.assertEqual(len(names), len(set(names)), demo.key)
            for name in names:
                with self.subTest(demo.key, name=name):
                    self.assertEqual(name, written(machine, pin_written(machine, name)))

    def test_case_dots_and_either_minus_are_taken(self) -> None:
        machine = small.bench("K1 tarn-mc5", "M1 fell-s57", "T1 fell-d72").machine
        for text in ("t1 motor a-", "T1 MOTOR A\N{MINUS SIGN}", "T1.MOTOR.A-", " T1  MOTOR  2 "):
            with self.subTest(text):
                self.assertEqual(ref("T1:MOTOR:2"), pin_written(machine, text))

    def test_what_is_no_pin_is_said(self) -> None:
        machine = small.bench("K1 tarn-mc5").machine
        for text, words in (
            ("", "No pin is named"), ("K9 X", "no device “K9”"), ("K1", "Which pin of K1"),
            ("K1 IN 5 Q", "K1 has no pin “IN 5 Q”"), ("K1 0V", "could be in"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(Problem, words):
                pin_written(machine, text)


class Joining(unittest.TestCase):
    def test_wires_between_two_ports_are_one_hookup(self) -> None:
        machine = small.bench("K1 tarn-mc5", "T1 fell-d72").machine
        for pin in ("1", "2", "3"):
            machine = put_conductor(machine, ref(f"K1:AXIS 1:{pin}"), ref(f"T1:SIGNAL:{pin}"))
        machine = put_conductor(machine, ref("T1:SIGNAL:4"), ref("K1:AXIS 1:4"))
        self.assertEqual([4], [len(hookup.conductors) for hookup in machine.hookups])
        self.assertEqual({("1", "1"), ("2", "2"), ("3", "3"), ("4", "4")}, {
            (row.a, row.b) for row in machine.hookups[0].conductors
        })  # fmt: skip
        with self.assertRaisesRegex(Problem, "joined to .* already"):
            put_conductor(machine, ref("T1:SIGNAL:2"), ref("K1:AXIS 1:2"))
        with self.assertRaisesRegex(Problem, "one pin, not two"):
            put_conductor(machine, ref("T1:SIGNAL:2"), ref("T1:SIGNAL:2"))

    def test_cores_are_the_first_that_are_free_or_the_one_that_is_named(self) -> None:
        machine = small.bench("M1 fell-s57", "T1 fell-d72").machine
        machine = add_cable(machine, CABLES["motor-4x1"], "W1")
        for lead, terminal, core in (("BK", "1", None), ("GN", "2", 4), ("RD", "3", None)):
            pins = ref(f"M1:LEADS:{lead}"), ref(f"T1:MOTOR:{terminal}")
            machine = put_conductor(machine, *pins, "W1", core)
        self.assertEqual([1, 4, 2], [row.core for row in machine.hookups[0].conductors])
        last = ref("M1:LEADS:BU"), ref("T1:MOTOR:4")
        for core, words in ((4, "Core 4 of W1 is taken"), (9, "W1 has no core 9")):
            with self.subTest(core), self.assertRaisesRegex(Problem, words):
                put_conductor(machine, *last, "W1", core)
        machine = put_conductor(machine, *last)
        self.assertEqual((4, "W1"), (len(machine.hookups[0].conductors), machine.hookups[0].cable))
        # With every core taken the next one is a wire by itself, or is refused where W1 is asked.
        spare = ref("M1:LEADS:BK"), ref("T1:MOTOR:2")
        self.assertIsNone(put_conductor(machine, *spare).hookups[1].cable)
        with self.assertRaisesRegex(Problem, "no core free"):
            put_conductor(machine, *spare, "W1")


class Judgements(unittest.TestCase):
    def test_each_verdict_has_its_reason(self) -> None:
        build = small.powered_controller()
        for device, part in (("T1", "fell-d72"), ("B1", "larkmoor-ip12"), ("M1", "fell-s57")):
            build.device(device, part, device, None)
        queries = Queries(build.machine)
        for first, second, verdict, words in (
            ("T1 SIGNAL 1", "K1 AXIS 1 1", "belongs", "gets a step output"),
            ("B1 LEADS +", "K1 IN 5 1", "belongs", "gets 24 V from G1"),
            ("M1 LEADS BK", "K1 IN 5 1", "against advice", "nothing to do on one net"),
            ("G1 OUT 1", "K1 POWER 1", "against advice", "A wire joins them already"),
            ("K1 IN 5 2", "K1 IN 5 2", "cannot be", "one pin"),
        ):
            with self.subTest(first):
                pins = (pin_written(build.machine, text) for text in (first, second))
                found = judge_join(queries, *pins)
                self.assertEqual(verdict, found.verdict, found.words)
                self.assertIn(words, found.words)
