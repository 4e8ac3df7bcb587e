"""Plans of cables for machines that were wired by proposals and got their places afterwards, as a
builder goes from stage to stage: nothing is left out, and no cable brings a finding.
"""

import unittest

from mistake_machines import MACHINES
from tests.sampling import seeded, some
from vervain import api
from vervain.edits.route_edits import change_run
from vervain.harness.proposing import propose_tree
from vervain.model.machine import Machine, PinRef, ends_of
from vervain.queries.machine_queries import Queries

# Contacts or outputs that take no core which the fuse before them wants: told with what to do.
TOO_MUCH_FUSE = ("analogue", "shield", "walker")
# A core is as thick as it goes.
KNOWN = ("rover", "walking robot")
TRIED = tuple(name for name in MACHINES if name not in KNOWN)


def said(machine: Machine) -> set[tuple[str, str]]:
    return {(found.rule, found.sentence) for found in api.check(machine).open}


def not_of_earth(machine: Machine) -> list[str]:
    """The conductors in green-yellow cores neither end of which is an earth."""
    queries = Queries(machine)
    found = []
    for hookup in machine.hookups:
        cable = queries.cable(hookup.cable) if hookup.cable else None
        part = queries.cable_part(cable.part) if cable else None
        for row in hookup.conductors if part else ():
            is_earth = any(queries.pin(end).function == "pe" for end in ends_of(hookup, row))
            if row.core and part.cores[row.core - 1] == "GNYE" and not is_earth:
                found.append(f"{hookup.id} {hookup.a.device} {hookup.b.device}")
    return found


class OwnPlans(unittest.TestCase):
    def test_a_plan_leaves_nothing_out_and_brings_no_finding(self) -> None:
        for name in some(seeded("own plans"), TRIED, 6):
            machine = propose_tree(MACHINES[name]())
            plan = api.plan_cables(machine)
            cabled = api.apply_cables(machine, plan.cables)
            with self.subTest(name):
                self.assertEqual(set(), said(cabled) - said(machine))
                self.assertEqual([], not_of_earth(cabled))
                # Copper would measure where it begins, and not where the couple ends.
                left = [why for _, why in plan.left if "its own two metals" not in why]
                if name in TOO_MUCH_FUSE:
                    self.assertTrue(all("smaller fuse" in why for why in left), left)
                else:
                    self.assertEqual([], left)

    def test_an_earth_goes_in_its_green_yellow_core_with_the_mains_of_its_plug(self) -> None:
        machine = propose_tree(MACHINES["kiln"]())
        queries = Queries(api.apply_cables(machine, api.plan_cables(machine).cables))
        at_heater = [h for h in queries.hookups_of("E1") if h.cable]
        colours = {}
        for hookup in at_heater:
            part = queries.cable_part(queries.cable(hookup.cable).part)
            for row in hookup.conductors:
                end = hookup.a if hookup.a.device == "E1" else hookup.b
                pin = row.a if hookup.a.device == "E1" else row.b
                found = queries.pin(PinRef(device="E1", port=end.port, pin=pin))
                colours[found.function] = part.cores[row.core - 1]
        self.assertEqual(1, len({hookup.cable for hookup in at_heater}))
        self.assertEqual("GNYE", colours.pop("pe"))
        self.assertNotIn("GNYE", colours.values())
        self.assertEqual("BU", colours["neutral"])

    def test_a_thermocouple_is_not_led_on_in_copper(self) -> None:
        machine = propose_tree(MACHINES["annealer"]())
        plan = api.plan_cables(machine)
        couples = [h.id for h in machine.hookups if "B1" in (h.a.device, h.b.device)]
        self.assertEqual(couples, [hookup for hookup, _ in plan.left])
        self.assertIn("its own two metals", plan.left[0][1])

    def test_a_wire_that_was_there_is_taken_thicker_for_a_longer_way(self) -> None:
        machine = propose_tree(MACHINES["described pack"]())
        for run in machine.runs:
            machine = change_run(machine, run.id, length_m=3.0)
        plan = api.plan_cables(machine)
        thicker = {cable.instead: cable for cable in plan.cables if cable.instead}
        self.assertTrue(thicker)
        before, after = Queries(machine), Queries(api.apply_cables(machine, plan.cables))
        for name in thicker:
            areas = [q.cable_part(q.cable(name).part).core_mm2 for q in (before, after)]
            with self.subTest(name):
                self.assertLess(*areas)
                self.assertIn("loses too much", thicker[name].why)


if __name__ == "__main__":
    unittest.main()
