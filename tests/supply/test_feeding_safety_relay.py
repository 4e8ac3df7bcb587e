"""Machines with a safety relay, from no wire at all: placed, fed, and asked whether they stop."""

import unittest

from msgspec.structs import replace

from mistake_machines import MACHINES
from tests.rules.measuring_cases import own
from vervain import api
from vervain.edits.device_edits import remove_device
from vervain.model.machine import Machine, PinRef
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands


def wired(machine: Machine) -> tuple[Machine, api.FeedPlan]:
    """A machine of which only the devices are known, by the two keys of a builder."""
    bare = replace(machine, hookups=(), cables=(), accepted=())
    placed = api.apply_placements(bare, api.place(bare).placements)
    plan = api.plan_feeds(placed)
    return api.apply_feeds(placed, plan.steps), plan


def grave(machine: Machine) -> list[str]:
    return sorted({f.rule for f in api.check(machine).open if f.consequence != "Workmanship"})


def at(text: str) -> PinRef:
    device, port, pin = text.split(":")
    return PinRef(device=device, port=port, pin=pin)


class Proposed(unittest.TestCase):
    def test_two_keys_lead_from_no_wire_to_a_machine_that_stops(self) -> None:
        for name, stops, left in (
            # Both supplies share a 0 V: a plus that touches the bridge would feed it.
            ("feeder", {"S2", "S3"}, ["stops.unnoticed"]),
            ("gate", {"S2", "B3"}, []),
            ("safety relay", {"S1"}, []),
        ):
            with self.subTest(name):
                machine, _ = wired(MACHINES[name]())
                self.assertEqual(left, grave(machine))
                demands = {d.stop: d for d in stop_demands(Queries(machine))}
                self.assertEqual(stops, set(demands))
                for demand in demands.values():
                    self.assertEqual(((), False), (demand.stays, demand.restarts))

    def test_a_battery_vehicle_is_wired_but_for_what_its_builder_decides(self) -> None:
        machine, plan = wired(MACHINES["transporter"]())
        left = ["stops.restarts", "stops.unnoticed"]
        self.assertEqual(left, grave(machine))
        power = next(step for step in plan.steps if "Q1" in step.words)
        self.assertEqual(["quoin-sb4"], [added.part.id for added in power.adds])
        self.assertIn("25 A", power.words)
        # What the stop's coil takes is counted where the converter is fed.
        self.assertIn("G1 to F2, 1 A", [step.words for step in plan.steps])

    def test_the_button_lies_behind_the_contacts_that_tell_a_weld(self) -> None:
        machine, _ = wired(MACHINES["feeder"]())
        queries = Queries(machine)
        self.assertIn(at("Q1:AUX:21"), queries.net(at("K2:START:1")))
        self.assertIn(at("Q2:AUX:22"), queries.net(at("S4:13-14:13")))
        self.assertIn(at("K2:START:2"), queries.net(at("S4:13-14:14")))

    def test_the_outputs_of_a_light_curtain_go_through_the_stop(self) -> None:
        queries = Queries(wired(MACHINES["gate"]())[0])
        for output, contact, reads in (("2", "11-12", "2"), ("4", "21-22", "4")):
            near, far = contact.split("-")
            self.assertIn(at(f"S2:{contact}:{near}"), queries.net(at(f"B3:LEADS:{output}")))
            self.assertIn(at(f"K2:STOP:{reads}"), queries.net(at(f"S2:{contact}:{far}")))

    def test_what_is_missing_is_asked_for_and_what_is_wired_is_left(self) -> None:
        without = remove_device(MACHINES["feeder"](), "S4")
        self.assertIn("K2 wants a start button: add one.", wired(without)[1].decisions)
        build = own("G1 fell-ps24", "S1 larkmoor-es2", "K2 fell-sr2", "Q1 fell-c20", "Q2 fell-c20")
        build.join("G1:OUT", "K2:STOP", "1-1")
        words = [step.words for step in api.plan_feeds(build.machine).steps]
        self.assertFalse(any("to K2, K2 to" in line for line in words))

    def test_the_contacts_of_a_door_and_the_button_wait_for_the_relay(self) -> None:
        bare = replace(MACHINES["feeder"](), hookups=(), cables=())
        placed = {(p.plug.device, p.plug.port) for p in api.place(bare).placements}
        self.assertIn(("S3", "33-34"), placed)
        self.assertFalse({("S3", "11-12"), ("S3", "21-22"), ("S4", "13-14")} & placed)
        motors = {p.plug.device: p.host for p in api.place(bare).placements}
        self.assertEqual({"T1"}, {motors["M1"].device, motors["M2"].device})
        self.assertEqual("K3", motors["M3"].device)
