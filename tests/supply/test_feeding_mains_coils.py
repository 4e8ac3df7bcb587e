"""Contactors whose coils take mains, from no wire at all: through the stops and a start button."""

import unittest

from msgspec.structs import replace

from line_machines import unwired_oven, wired_filler
from tests.supply.test_feeding_safety_relay import at, grave, wired
from vervain import api
from vervain.edits.device_edits import remove_device, set_setting
from vervain.edits.plug_edits import put_conductor
from vervain.edits.route_edits import add_place
from vervain.electrical.fuse_kinds import fuse_of
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands
from vervain.supply.mains_load import mains_current_a, mains_through_a
from vervain.supply.results import supply_loads


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


class MainsFuses(unittest.TestCase):
    def test_a_fuse_in_the_mains_carries_what_hangs_on_it(self) -> None:
        machine, plan = wired(unwired_oven())
        self.assertIn("X1 with a fuse of 8 A", [step.words for step in plan.steps])
        small = set_setting(machine, "X1", "rating_a", 6.3)
        (told,) = [f for f in api.check(small).open if f.rule == "supply.fuse-load"]
        # 6.5 A of the heat, 0.1 of the fan, 0.05 each of regulator and coil, 0.02 of the lamp.
        self.assertEqual("X1 carries 6.72 A of its 6.3 A.", told.sentence)
        self.assertEqual(["fit a 8 A fuse"], [fix.words for fix in told.fixes])
        healed = told.fixes[0].remedy.apply(small)
        self.assertEqual([], [f for f in api.check(healed).open if f.rule == "supply.fuse-load"])

    def test_what_the_builder_set_stays_and_what_no_fuse_carries_is_told(self) -> None:
        chosen = set_setting(unwired_oven(), "X1", "rating_a", 4.0)
        machine, plan = wired(chosen)
        self.assertEqual(4.0, Queries(machine).setting("X1", "rating_a"))
        self.assertIn("supply.fuse-load", grave(machine))
        hot = tuple(
            replace(part, ports=tuple(
                replace(port, pins=tuple(
                    replace(pin, electrical=replace(pin.electrical, current_a=12.0))
                    if pin.function == "line" and port.kind == "feed in" else pin
                    for pin in port.pins
                )) for port in part.ports
            )) if part.id == "my-oven-element" else part
            for part in chosen.parts
        )  # fmt: skip
        _, plan = wired(replace(chosen, parts=hot))
        self.assertIn("12.2 A come through X1, which takes no fuse for that.", plan.decisions)

    def test_a_supply_takes_from_the_mains_what_it_gives_and_loses(self) -> None:
        queries = Queries(wired_filler())
        watts = max(load.watts for load in supply_loads(queries, "everything"))
        self.assertAlmostEqual(watts / 0.85 / 0.6 / 230, mains_current_a(queries, "G1"), places=3)
        self.assertEqual(8.0, mains_current_a(queries, "T1"))
        through = mains_through_a(queries, "X1", fuse_of(queries, "X1"))
        self.assertAlmostEqual(8.0 + mains_current_a(queries, "G1"), through, places=6)
