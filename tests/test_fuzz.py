"""A sample of the fuzz command (`tools/fuzz.py`), its seed printed; the whole runs for hours."""

import os
import random
import unittest

import fuzz
from vervain.edits.route_edits import change_place
from vervain.files.demos import open_demo
from vervain.model.problem import Problem
from vervain.model.validation import checked, faults_of_edit
from vervain.queries.changes import changes

# How many trials of each target fit the test run: about 90 mutants, and 110 edits.
SAMPLE = {
    "machine": 10, "parts": 20, "tables": 15, "lists": 10, "workbooks": 6, "pasted": 10,
    "labels": 10, "settings": 10, "edits": 4, "window": 1, "controller": 2, "meter": 2,
}  # fmt: skip


class Sample(unittest.TestCase):
    def test_nothing_raises_and_every_refusal_has_its_place(self) -> None:
        given = os.environ.get("VERVAIN_SEED")
        seed = int(given) if given else 11 if os.environ.get("CI") else random.randrange(10**6)
        self.assertEqual(set(SAMPLE), set(fuzz.TARGETS))
        for target, tries in SAMPLE.items():
            with self.subTest(f"{target}, VERVAIN_SEED={seed}"):
                counts, faults = fuzz.run(target, seed, tries, 120.0)
                self.assertEqual([], faults)
                self.assertEqual(0, counts[fuzz.UNPLACED])
                self.assertGreater(counts["tried"], tries // 2)

    def test_the_fuzz_would_notice(self) -> None:
        """A target that raises is told with its seed; so the sample above can fail."""

        def raises(chance: random.Random) -> str:
            raise ZeroDivisionError(str(chance.random()))

        fuzz.TARGETS["machine"], real = raises, fuzz.TARGETS["machine"]
        try:
            _, faults = fuzz.run("machine", 7, 1, 5.0)
        finally:
            fuzz.TARGETS["machine"] = real
        self.assertIn("machine --seed 7: fault: ZeroDivisionError", faults[0])


class Gate(unittest.TestCase):
    """What no file can hold is refused where it is made, and every difference has words."""

    def test_an_edit_that_no_file_can_hold_is_refused_with_its_place(self) -> None:
        from msgspec.structs import replace

        machine = open_demo("clay-printer-as-planned")
        device, run = machine.devices[0], machine.runs[0]
        for word, broken in (
            ("name", replace(machine, name="x" * 81)),
            (device.designator, replace(machine, devices=(*machine.devices, device))),
            ("designator", replace(machine, devices=(replace(device, designator="Motor-1"),))),
            ("length_m", replace(machine, runs=(replace(run, length_m=1e308), *machine.runs[1:]))),
            (
                "measured_a",
                replace(machine, devices=(replace(device, measured_a={"idle": 5e-324}),)),
            ),
            ("half a character", replace(machine, prices={"\ud800": 1.0})),
            ("cable", replace(machine, cables=machine.cables[1:])),
        ):
            with self.subTest(word), self.assertRaises(Problem) as caught:
                checked(machine, broken)
            self.assertIn(word, str(caught.exception))
        self.assertIs(machine, checked(machine, machine))

    def test_proposals_fit_their_file_whatever_the_names_are(self) -> None:
        from msgspec.structs import replace

        from vervain.harness.proposing import propose_tree

        machine = open_demo("seedling-arm-as-planned")
        axes = tuple(replace(axis, name="x" * 80, travel=1e9) for axis in machine.axes)
        bare = replace(
            machine, axes=axes, places=(), runs=(),
            devices=tuple(replace(device, place=None) for device in machine.devices),
            cables=tuple(replace(cable, runs=()) for cable in machine.cables),
        )  # fmt: skip
        grown = checked(bare, propose_tree(bare))
        self.assertGreater(len(grown.places), 3)
        with self.assertRaisesRegex(Problem, "some length"):
            change_place(grown, grown.places[0].id, inside_m=0.0)

    def test_what_was_wrong_before_can_still_be_worked_on(self) -> None:
        from msgspec.structs import replace

        machine = open_demo("clay-printer-as-planned")
        broken = replace(machine, cables=machine.cables[1:])
        self.assertEqual((), faults_of_edit(broken, replace(broken, name="Other")))

    def test_every_difference_has_words(self) -> None:
        start = open_demo("seedling-arm-as-planned")
        chance, told = random.Random(5), 0
        for _ in range(300):
            changed = fuzz.random_step(start, chance, fuzz.TEXTS)
            if changed is not None and changed != start:
                self.assertTrue(changes(start, changed))
                told += 1
        self.assertGreater(told, 60)
        self.assertEqual((), changes(start, start))
