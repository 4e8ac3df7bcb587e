"""What the Harness rules say and propose beside firing: the words, the figures, the ways out."""

import unittest

from tests import small
from tests.rules.findings import found
from tests.rules.harness_cases import (
    ROOMY,
    cabled,
    chain,
    encoder_on,
    fan_on_a_run,
    held,
    jointed,
    part_of,
    reached,
    routed,
    run,
    side_by_side,
    with_unknown_bend,
)
from vervain.edits import cable_edits, route_edits
from vervain.harness.bundles import bundle_of
from vervain.harness.lengths import cable_length
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine


class Chains(unittest.TestCase):
    def test_a_full_chain_says_how_full_and_which_chain_would_do(self) -> None:
        finding = found(cabled(6, 5.1, chain(12, 12)), "harness.chain-full")[0]
        self.assertEqual("R1", finding.subjects[0].run)
        self.assertEqual((85.1, 60.0, "%"), (finding.value, finding.limit, finding.unit))
        # 122.6 mm2 want 204.3 mm2 inside and a bend of 38 mm: 20 x 15 is the first that has both.
        self.assertIn("20 × 15 mm, radius 48: 41% full", finding.fixes[0].words)

    def test_a_second_way_takes_a_cable_out_of_a_full_chain(self) -> None:
        machine = cabled(6, 5.1, chain(12, 16))
        second = run("R2", "box", "mid"), run("R3", "mid", "end", 0.1)
        machine = routed(machine, {}, *machine.runs, *second)
        fixes = found(machine, "harness.chain-full")[0].fixes
        self.assertEqual("lay W1 through R2, R3", fixes[1].words)
        mended = fixes[1].remedy.apply(machine)
        self.assertEqual(5, len(bundle_of(Queries(mended), "R1").strands))
        self.assertEqual([], found(mended, "harness.chain-full"))

    def test_ten_diameters_where_no_bend_radius_is_given(self) -> None:
        self.assertEqual([], found(with_unknown_bend(50), "harness.bend-radius"))
        finding = found(with_unknown_bend(49.9), "harness.bend-radius")[0]
        self.assertIn("10 diameters", finding.why)
        self.assertFalse(finding.over)

    def test_an_empty_chain_is_no_matter(self) -> None:
        machine = cable_edits.remove_cable(cabled(1, 9.5, chain(10, 10)), "W1")
        machine = routed(machine, {"M1": "box"}, *machine.runs)
        self.assertFalse([f for f in check_machine(machine).open if f.rule.startswith("harness.c")])


class Lengths(unittest.TestCase):
    def test_a_short_cable_is_cut_anew_from_its_route(self) -> None:
        machine = fan_on_a_run(1.5)
        finding = found(machine, "harness.short-cable")[0]
        self.assertEqual((1.5, 2.1), (finding.value, finding.limit))
        mended = finding.fixes[0].remedy.apply(machine)
        # 2 m, a loop of 0.3 in the box and 0.2 outside, two ends of 0.05.
        self.assertEqual(2.6, cable_length(Queries(mended), "W1").used_m)

    def test_slack_of_a_moving_run_belongs_to_the_path(self) -> None:
        self.assertTrue(found(fan_on_a_run(2.19, moving=True), "harness.short-cable"))
        self.assertFalse(found(fan_on_a_run(2.2, moving=True), "harness.short-cable"))

    def test_a_lead_that_is_too_short_gets_an_extension_that_reaches(self) -> None:
        machine = reached(0.5)
        finding = found(machine, "harness.short-lead")[0]
        mended = finding.fixes[0].remedy.apply(machine)
        self.assertEqual([], found(mended, "harness.short-lead"))
        self.assertTrue(any(d.name == "Extension of B1" for d in mended.devices))

    def test_a_missing_length_says_what_is_not_known(self) -> None:
        cases = (
            (route_edits.put_device(fan_on_a_run(), "M1", None), "M1 has no place"),
            (routed(fan_on_a_run(), {}), "no run leads from Box to End"),
            (route_edits.change_place(
                routed(fan_on_a_run(), {"M1": "box"}), "box", inside_m=None),
             "both ends are in Box"),
        )  # fmt: skip
        for machine, words in cases:
            with self.subTest(words):
                self.assertIn(words, found(machine, "harness.no-length")[0].why)


class Held(unittest.TestCase):
    def test_one_finding_a_place_and_the_box_holds_by_its_glands(self) -> None:
        findings = found(held(False), "harness.strain-relief")
        self.assertEqual(["Nothing holds the cables of R1 at End."],
                         [finding.sentence for finding in findings])  # fmt: skip
        self.assertEqual([], found(held(False, moving=False), "harness.strain-relief"))

    def test_a_joint_between_two_axes_is_none_that_moves(self) -> None:
        self.assertEqual([], found(jointed(moving=True), "harness.joint-moves"))
        clamped = route_edits.change_place(
            jointed(moving=True, axis="X"), "mid", strain_relief=True
        )
        self.assertEqual([], found(clamped, "harness.joint-moves"))


class Cores(unittest.TestCase):
    def test_a_pair_may_hold_a_line_with_its_complement_or_a_return(self) -> None:
        self.assertEqual([], found(encoder_on("3 4 1"), "harness.pair-mixed"))
        finding = found(encoder_on("1 7 8"), "harness.pair-mixed")[0]
        self.assertEqual([7, 8], [subject.core for subject in finding.subjects])

    def test_a_flexing_twin_keeps_cores_and_size(self) -> None:
        machine = fan_on_a_run(cable="flat-2x0.25", moving=True)
        fix = found(machine, "harness.fixed-cable")[0].fixes[0]
        part = part_of(fix.remedy.apply(machine), "W1")
        self.assertEqual((True, 0.25, ("WH", "BN")), (part.flexing, part.core_mm2, part.cores))

    def test_the_encoder_is_told_once_not_by_two_rules(self) -> None:
        rules = [f.rule for f in check_machine(side_by_side(False)).open]
        self.assertEqual(1, rules.count("harness.motor-encoder"))
        self.assertNotIn("harness.beside-motor", rules)

    def test_a_chain_at_its_limit_is_silent_and_so_is_a_lone_fan(self) -> None:
        for machine in (cabled(6, 5.1, ROOMY), fan_on_a_run(), small.cabled_fan()):
            rules = {f.rule for f in check_machine(machine).open if f.stage == "Harness"}
            self.assertEqual(set(), rules - {"harness.strain-relief"})
