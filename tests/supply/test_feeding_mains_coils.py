"""Contactors whose coils take mains, from no wire at all: through the stops and a start button."""

import unittest

from msgspec.structs import replace

from line_machines import unwired_oven
from tests.supply.test_feeding_safety_relay import at, grave, wired
from vervain.edits.device_edits import remove_device
from vervain.edits.plug_edits import put_conductor
from vervain.edits.route_edits import add_place
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands


class AtMains(unittest.TestCase):
    def test_two_keys_wire_an_oven_that_stops_and_starts_on_purpose(self) -> None:
        machine, plan = wired(unwired_oven())
        # Its stop has one contact, which may stick.
        self.assertEqual(["stops.unnoticed"], grave(machine))
        self.assertIn("S1 stops Q1, S2 starts, at mains", [step.words for step in plan.steps])
        (demand,) = stop_demands(Queries(machine))
        self.assertEqual(((), False, False), (demand.stays, demand.restarts, demand.does_nothing))
        queries = Queries(machine)
        # The contact that holds lies beside the button, and both poles before the heat.
        self.assertIn(at("Q1:13-14:13"), queries.net(at("S2:13-14:13")))
        self.assertIn(at("Q1:13-14:14"), queries.net(at("Q1:COIL:A1")))
        self.assertIn(at("Q1:3/L2-4/T2:4/T2"), queries.net(at("E1:LEADS:2")))
        self.assertNotIn(at("X2:1:1"), queries.net(at("E1:LEADS:1")))
        # A wire of mains inside a box is brown or blue, and 0.75 mm2 at least.
        hookup = next(h for h in machine.hookups if at("S1:1-2:2").port_ref in (h.a, h.b))
        cable = next(c for c in machine.cables if c.id == hookup.cable)
        part = next(p for p in machine.cable_parts if p.id == cable.part)
        self.assertEqual((("BN",), 0.75), (part.cores, part.core_mm2))

    def test_without_a_button_it_starts_by_itself_which_is_told(self) -> None:
        machine, plan = wired(remove_device(unwired_oven(), "S2"))
        self.assertIn("S1 stops Q1, at mains", [step.words for step in plan.steps])
        (demand,) = stop_demands(Queries(machine))
        self.assertEqual(((), True), (demand.stays, demand.restarts))
        self.assertIn("stops.restarts", grave(machine))

    def test_mains_between_two_places_is_left_to_the_builder(self) -> None:
        machine = add_place(add_place(unwired_oven(), "Box"), "Panel")
        box, panel = (place.id for place in machine.places[-2:])
        placed = tuple(
            replace(d, place=panel if d.designator == "S1" else box) for d in machine.devices
        )
        _, plan = wired(replace(machine, devices=placed))
        self.assertIn(
            "The coils of Q1 take mains: lead them through the stops on Ports, in a cable.",
            plan.decisions,
        )

    def test_a_wire_past_the_stop_is_told(self) -> None:
        machine, _ = wired(unwired_oven())
        past = put_conductor(machine, at("S1:1-2:1"), at("S1:1-2:2"))
        self.assertNotEqual([], grave(past))
        (demand,) = stop_demands(Queries(past))
        self.assertIn("E1", demand.stays)
