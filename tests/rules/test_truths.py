"""Nothing wrong stays silent, nothing right is accused: small machines, and the mistake table."""

import unittest
from itertools import islice
from unittest.mock import patch

from msgspec.structs import replace

from mistake_machines import MACHINES
from mistakes import KINDS, Judge, Outcome, Sound, copper_of, why_harmless
from tests import small
from tests.rules import described_cases
from tests.rules.joined_cases import OF_ALL_KINDS, TOO_MANY, turned_by_relays, with_wire
from tests.rules.measuring_cases import loose
from tests.rules.truth_cases import FAULTY, SOUND, half_fuse, stepped
from tests.sampling import seeded, some
from tests.timing import PATIENCE_S
from vervain import api
from vervain.edits import plug_edits
from vervain.model.machine import Machine, PortRef
from vervain.queries.machine_queries import Queries
from vervain.rules.cause_memory import Tried
from vervain.rules.causes import explain, explained
from vervain.rules.engine import check_machine
from vervain.rules.finding import Finding

# How many mistakes are tried of each machine; `tools/mistakes.py` tries them all.
SAMPLE = 2


def grave(machine: Machine) -> list[Finding]:
    return [f for f in check_machine(machine).open if f.consequence != "Workmanship"]


class Rows(unittest.TestCase):
    def test_faulty_machines_speak(self) -> None:
        for words, (made, rule) in (FAULTY | described_cases.FAULTY).items():
            with self.subTest(words):
                self.assertIn(rule, {finding.rule for finding in grave(made())})

    def test_sound_machines_stay_silent(self) -> None:
        for words, made in SOUND.items():
            with self.subTest(words):
                self.assertEqual([], [finding.sentence for finding in grave(made())])

    def test_the_machines_of_the_mistake_table_are_right(self) -> None:
        for name in some(seeded("machines that are right"), list(MACHINES), 5):
            with self.subTest(name):
                self.assertEqual([], [finding.sentence for finding in grave(MACHINES[name]())])

    def test_relays_that_change_poles_hide_no_other_fault(self) -> None:
        # With every contact closed plus and 0 V would be one; each lead is at either.
        def told(machine: Machine) -> set[str]:
            return {f.key for f in grave(machine)}

        before = told(turned_by_relays(supply_pins="+-+ 0V-−"))
        self.assertFalse({key for key in before if "M9" in key or "M8" in key})
        self.assertIn("supply.polarity:M8:LEADS", told(turned_by_relays(supply_pins="+-− 0V-+")))
        self.assertTrue({key for key in told(turned_by_relays("RELAY 2 NO")) if "one-way" in key})


class Remembered(unittest.TestCase):
    def test_only_what_went_when_another_came_may_come_back_with_its_cure(self) -> None:
        tried = Tried()
        for keys in ({"old"}, {"mistake"}, {"mistake", "later"}):
            tried.begin(keys)
        self.assertTrue(tried.went_with("old", "mistake"))
        self.assertFalse(tried.went_with("old", "later"))
        self.assertFalse(tried.went_with("never", "mistake"))
        tried.begin({"mistake", "old"})
        self.assertEqual(4, tried.since["old"])


class MistakeTable(unittest.TestCase):
    """A sample of the table, another each run; the seed is printed and can be set again."""

    def test_single_mistakes_are_noticed_told_once_and_mended(self) -> None:
        choice, outcomes = seeded("mistake table"), list[tuple[str, Outcome]]()
        for name in some(choice, sorted(MACHINES), 5):
            sound = Sound(MACHINES[name]())
            judge = Judge(sound)
            # Settings that nothing contradicts are told by the settings sheet alone.
            mistakes = [m for m in sound.mistakes() if m.kind in KINDS[:5]]
            choice.shuffle(mistakes)
            found = (m for m in mistakes if not sound.is_harmless(m))
            outcomes += [(name, judge.outcome(mistake)) for mistake in islice(found, SAMPLE)]
        silent = [
            o.mistake.words
            for name, o in outcomes
            if not o.is_noticed and why_harmless(name, o.mistake) is None
        ]
        outcomes = [outcome for _, outcome in outcomes]
        unmended = [o.mistake.words for o in outcomes if o.is_noticed and not o.heals]
        self.assertGreater(len(outcomes), 9)
        # Of all of them 99 % are noticed: of 15, three silent ones are less likely than 1 in 1000.
        self.assertLessEqual(len(silent), 2, silent)
        self.assertLessEqual(len(unmended), 4, unmended)
        many = sorted(outcome.told for outcome in outcomes if outcome.is_noticed)
        self.assertEqual(1, many[len(many) // 2])


class Causes(unittest.TestCase):
    def explained(self, machine: Machine) -> list[Finding]:
        queries, result = Queries(machine), check_machine(machine)
        open_now = explained(result, explain(queries, result, budget_s=PATIENCE_S)).open
        self.assertIs(machine, queries.machine)
        return [finding for finding in open_now if finding.consequence != "Workmanship"]

    def test_a_plug_that_is_turned_is_one_finding_with_one_change(self) -> None:
        turned = (
            ("gantry", "K1", "AXIS 2"), ("gantry", "K1", "IN 2"), ("plugged", "K1", "IN 7"),
            ("described engraver", "X1", "OUT"), ("engraver without figures", "K1", "X"),
        )  # fmt: skip
        for name, device, plug in some(seeded("turned plugs"), turned, 2):
            right = MACHINES[name]()
            wrong = plug_edits.turn_plug(right, PortRef(device=device, port=plug))
            with self.subTest(plug):
                self.assertGreaterEqual(len(grave(wrong)), 1)
                told = self.explained(wrong)
                self.assertEqual(1, len(told), [f.sentence for f in told])
                self.assertEqual([], grave(told[0].fixes[0].remedy.apply(wrong)))
                self.assertEqual(len(grave(wrong)), 1 + len(told[0].explains))

    def test_a_plug_one_pin_off_gets_its_lost_conductor_back(self) -> None:
        right = MACHINES["plugged"]()
        wrong = plug_edits.shift_plug(right, PortRef(device="T1", port="SIGNAL"), 1)
        told = self.explained(wrong)
        self.assertIn("one pin", told[0].sentence)
        mended = told[0].fixes[0].remedy.apply(wrong)
        self.assertEqual([], grave(mended))
        self.assertEqual(
            {h.id: sorted((c.a, c.b) for c in h.conductors) for h in right.hookups},
            {h.id: sorted((c.a, c.b) for c in h.conductors) for h in mended.hookups},
        )

    def test_a_wire_goes_back_to_where_its_likes_have_theirs(self) -> None:
        # The machine says at once of its stop what a builder must decide, once it has power again.
        right = replace(MACHINES["transporter"](), accepted=())
        before = {f.key for f in grave(right)}
        self.assertTrue(before)
        rows = (
            ("Q1:1-2", "T1:POWER", "2", "join T1 POWER B+ to Q1 1-2 2"),
            ("K1:OC 2", "T1:START", "1", "join T1 START F/R to K1 OC 2 OUT"),
            ("X1:3", "S1:11-12", "1", "join S1 11-12 11 to X1 3 +"),
            ("K1:DI 3", "S1:21-22", "2", "join S1 21-22 22 to K1 DI 3 IN"),
        )
        for a, b, pin, words in some(seeded("wires that go back"), list(rows), 2):
            wrong = replace(loose("transporter", a, b, pin)(), accepted=())
            with self.subTest(words):
                told = [f for f in self.explained(wrong) if f.key not in before]
                self.assertEqual([words], [fix.words for f in told for fix in f.fixes])
                mended = told[0].fixes[0].remedy.apply(wrong)
                self.assertEqual(before, {f.key for f in grave(mended)})

    def test_a_wire_of_a_contact_comes_back_to_the_rail_of_the_right_volts(self) -> None:
        right = replace(MACHINES["described slider"](), accepted=())
        before = {f.key for f in grave(right)}
        # The reed has no contact that opens: that is told before, and again once it is joined.
        self.assertEqual({"stops.limit-no:B2"}, before)
        line = next(h.b.port for h in right.hookups if h.a.device == "B2")
        for a, b, pin, words in (
            ("B2:LEADS", f"K1:{line}", "2", r"join B2 LEADS 2 to K1 GPIO\d+ GND"),
            ("X2:4", "K2:RELAY", "1", "join K2 RELAY COM to X2 4 +"),
        ):
            wrong = replace(loose("described slider", a, b, pin)(), accepted=())
            with self.subTest(words):
                told = [f for f in self.explained(wrong) if f.key not in before]
                fixes = [fix.words for f in told for fix in f.fixes]
                self.assertRegex(" / ".join(fixes), f"^{words}$".replace("+$", r"\+$"))
                self.assertEqual(
                    before, {f.key for f in grave(told[0].fixes[0].remedy.apply(wrong))}
                )

    def test_a_wire_at_the_wrong_rail_is_found_behind_the_contact_that_hangs_on_it(self) -> None:
        wrong = plug_edits.turn_plug(MACHINES["gate"](), PortRef(device="X1", port="7"))
        told = self.explained(wrong)
        self.assertEqual("turn the plug in X1 7 round", told[0].fixes[0].words)

    def test_a_wire_too_many_is_told_once_and_taken_off(self) -> None:
        for name, first, second in some(seeded("wires too many"), TOO_MANY, 3):
            right, wrong = MACHINES[name](), with_wire(name, first, second)
            with self.subTest(f"{first} {second}"):
                told = self.explained(wrong)
                self.assertEqual(1, len(told), [f.sentence for f in told])
                self.assertIn("a wire too many", told[0].sentence)
                self.assertEqual(copper_of(Queries(right)), copper_of(
                    Queries(told[0].fixes[0].remedy.apply(wrong))
                ))  # fmt: skip

    def test_the_first_change_mends_a_mistake_whatever_its_kind(self) -> None:
        for name, words in some(seeded("mistakes of all kinds"), OF_ALL_KINDS, 2):
            sound = Sound(MACHINES[name]())
            mistake = next(found for found in sound.mistakes() if found.words == words)
            with self.subTest(words), patch("mistakes.BUDGET_S", PATIENCE_S):
                outcome = Judge(sound).outcome(mistake)
                self.assertTrue(outcome.is_right)
                self.assertEqual(1, outcome.told)
                self.assertTrue(outcome.heals, outcome.fixes)

    def test_every_mistake_of_these_kinds_can_still_be_made(self) -> None:
        # What is proposed changes, and a row with it: that shall not be seen by chance only.
        for name in dict.fromkeys(name for name, _ in OF_ALL_KINDS):
            made = {found.words for found in Sound(MACHINES[name]()).mistakes()}
            asked = {words for machine, words in OF_ALL_KINDS if machine == name}
            self.assertEqual(set(), asked - made, name)

    def test_two_mistakes_are_two_findings(self) -> None:
        right = MACHINES["gantry"]()
        wrong = plug_edits.turn_plug(right, PortRef(device="T1", port="SIGNAL"))
        wrong = plug_edits.exchange_two(wrong, PortRef(device="M2", port="LEADS"), "GN", "RD")
        told = self.explained(wrong)
        self.assertEqual(2, len(told), [f.sentence for f in told])

    def test_a_fix_that_brings_something_as_bad_is_not_offered(self) -> None:
        # Of a driver that is set too low for its motor, what the motor wants is too hot for it.
        right = MACHINES["stacked"]()
        wrong = small.with_setting(right, "T1", "current_peak_a", 0.5)
        for finding in self.explained(wrong):
            for fix in finding.fixes:
                left = {f.key for f in grave(fix.remedy.apply(wrong))}
                self.assertNotIn(finding.key, left)
                self.assertEqual(set(), left - {f.key for f in grave(wrong)})


class Unfinished(unittest.TestCase):
    def test_what_nothing_is_joined_to_is_to_do_and_not_wrong(self) -> None:
        template = api.open_template("three-axis-router")
        result = api.check(template)
        self.assertEqual([], [f for f in result.open if f.stage in ("Ports", "Supply", "Stops")])
        self.assertGreater(len(result.to_do), 10)

    def test_a_plug_that_is_begun_is_a_finding(self) -> None:
        begun = stepped("1-1")
        self.assertEqual(["T1"], [f.about.device for f in grave(begun) if f.rule == "ports.need"])
        self.assertTrue(any(f.rule == "ports.half-joined" for f in grave(half_fuse())))
