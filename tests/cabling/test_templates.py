"""From an empty template to a harness: placed, routed, cabled, and nothing left to say about it."""

import unittest

from vervain.cabling.apply_plan import accept_cables
from vervain.cabling.planner import plan_cables
from vervain.cabling.selection import Options
from vervain.files.demos import TEMPLATES, open_template
from vervain.files.part_files import shipped_shelf
from vervain.harness.cable_routes import cable_route
from vervain.harness.lengths import cable_length
from vervain.harness.proposing import propose_tree
from vervain.harness.route_tree import route_trees
from vervain.model.machine import Machine
from vervain.model.references import faults_of
from vervain.ports.proposal import accept
from vervain.ports.proposing import propose
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine

PARTS = tuple(shipped_shelf().cable_parts.values())


def placed(key: str) -> Machine:
    """A template with its plugs put in and a first tree."""
    machine = open_template(key)
    return propose_tree(accept(machine, propose(machine).placements))


class Templates(unittest.TestCase):
    def test_every_device_sits_somewhere_that_a_run_leads_to(self) -> None:
        for template in TEMPLATES:
            queries = Queries(placed(template.key))
            with self.subTest(template.key):
                self.assertEqual(1, len(route_trees(queries)))
                self.assertTrue(all(queries.device(name).place for name in queries.devices()))

    def test_a_second_proposal_changes_nothing(self) -> None:
        for template in TEMPLATES:
            machine = placed(template.key)
            again = propose_tree(machine)
            with self.subTest(template.key):
                self.assertEqual(machine, again)
                self.assertEqual([], list(faults_of(again)))

    def test_joints_follow_one_another_and_move(self) -> None:
        machine = placed("five-joint-arm")
        runs = {(run.a, run.b): run for run in machine.runs}
        for before, after in (("J1", "J2"), ("J2", "J3"), ("J3", "J4"), ("J4", "J5")):
            run = runs[f"axis-{before}", f"axis-{after}"]
            self.assertEqual((True, before), (run.moving, run.axis))

    def test_planned_cables_have_lengths_and_no_finding(self) -> None:
        for template in TEMPLATES:
            machine = placed(template.key)
            for options in (Options(), Options(share_commons=True, spare_cores=1)):
                plan = plan_cables(machine, PARTS, options)
                laid = accept_cables(machine, plan.cables, options)
                queries = Queries(laid)
                with self.subTest((template.key, options)):
                    self.assertEqual((), plan.left)
                    self.assertTrue(plan.cables)
                    for cable in queries.cables():
                        self.assertEqual("", cable_route(queries, cable).missing)
                        self.assertIsNotNone(cable_length(queries, cable).cut_m)
                    said = [f.sentence for f in check_machine(laid).open if f.stage == "Harness"]
                    self.assertEqual([], said)
