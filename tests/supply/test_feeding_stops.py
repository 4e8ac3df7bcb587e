"""The chain of the stops, the contacts that tell a weld, and mains behind contactors, proposed."""

import unittest

from msgspec.structs import replace

from builder import bench
from drive_machines import described_parts
from mistake_machines import MACHINES
from tests.rules.measuring_cases import own
from vervain import api
from vervain.model.machine import Machine, PinRef
from vervain.queries.machine_queries import Queries


def steps_of(machine: Machine) -> list[str]:
    return [step.words for step in api.plan_feeds(machine).steps]


def bare(name: str, *left_out: str) -> Machine:
    """A machine without a wire, and without some of its devices."""
    machine = MACHINES[name]()
    devices = tuple(d for d in machine.devices if d.designator not in left_out)
    return replace(machine, hookups=(), cables=(), devices=devices)


class Chains(unittest.TestCase):
    def test_two_contactors_have_a_string_each_and_one_has_all_contacts(self) -> None:
        two = api.plan_feeds(bare("spindle")).steps
        chain = next(step for step in two if "stops" in step.words)
        self.assertEqual("S2 stops Q1, Q2, K1", chain.words)
        ends = {frozenset((w.a, w.b)) for w in chain.wires}
        first = PinRef(device="S2", port="11-12", pin="12")
        self.assertIn(frozenset((first, PinRef(device="Q1", port="COIL", pin="A1"))), ends)
        one = api.plan_feeds(bare("spindle", "Q2")).steps
        chain = next(step for step in one if "stops" in step.words)
        ends = {frozenset((w.a, w.b)) for w in chain.wires}
        self.assertIn("only tells the controller", chain.reason)
        told = PinRef(device="K1", port="STOP", pin="3")
        second = PinRef(device="S2", port="21-22", pin="22")
        self.assertIn(frozenset((second, told)), ends)
        alone = own("G1 fell-ps24", "S2 larkmoor-es2", "Q1 fell-c20").machine
        coil = replace(alone.parts[-1], ports=tuple(
            replace(port, pins=tuple(
                replace(pin, electrical=replace(pin.electrical, v_min_v=20, v_max_v=30))
                if pin.electrical is not None and port.kind == "coil" else pin
                for pin in port.pins
            ))
            for port in alone.parts[-1].ports
        ))  # fmt: skip
        alone = replace(alone, parts=(*alone.parts[:-1], coil))
        chain = next(step for step in api.plan_feeds(alone).steps if "stops" in step.words)
        self.assertIn("only a second one", chain.reason)
        ends = {frozenset((w.a, w.b)) for w in chain.wires}
        self.assertIn(frozenset((first, PinRef(device="S2", port="21-22", pin="21"))), ends)

    def test_drives_that_stop_by_themselves_need_no_contactor(self) -> None:
        machine = bare("lathe")
        fed = api.apply_feeds(machine, api.plan_feeds(machine).steps)
        net = Queries(fed).net(PinRef(device="S2", port="11-12", pin="12"))
        self.assertLessEqual({"T1", "T2"}, {ref.device for ref in net})
        two = Queries(fed).net(PinRef(device="S2", port="21-22", pin="22"))
        self.assertIn(PinRef(device="T2", port="STO", pin="2"), two)

    def test_mains_of_what_must_go_are_led_through_every_contactor(self) -> None:
        fed = api.apply_feeds(bare("kiln"), api.plan_feeds(bare("kiln")).steps)
        for pole in ("1-2", "3-4"):
            for name in ("Q1", "Q2"):
                with self.subTest(f"{name} {pole}"):
                    number = pole.split("-")[0]
                    ref = PinRef(device=name, port=pole, pin=number)
                    self.assertTrue(Queries(fed).steps(ref))

    def test_a_chain_on_a_strong_supply_begins_at_a_fuse(self) -> None:
        devices = ("G1 osier-lb24", "S2 larkmoor-es2", "Q1 my-contactor", "Q2 my-contactor")
        parts = {"my-contactor": described_parts()["my-contactor"]}
        for fuses, adds in (((), ["fuse"]), (("F1 quoin-fh1",), [])):
            build = bench()
            for text in (*devices, *fuses):
                designator, part = text.split()
                if part in parts:
                    build.add(designator, parts[part])
                else:
                    build.device(designator, part, "Device", None)
            plan = api.plan_feeds(build.machine)
            (chain,) = (step for step in plan.steps if "stops" in step.words)
            with self.subTest(fuses):
                self.assertEqual(adds, [added.part.kind for added in chain.adds])
                self.assertEqual("F1", chain.ratings[0][0])
                self.assertEqual("F1", chain.wires[0].b.device)

    def test_what_does_not_suit_is_left_to_the_builder(self) -> None:
        build = own("G1 fell-ps6", "S2 larkmoor-es2", "Q1 fell-c20")
        plan = api.plan_feeds(build.machine)
        self.assertIn("No supply gives what the coils of Q1 take.", plan.decisions)
        self.assertFalse(any("S2 stops" in step.words for step in plan.steps))
        build = own("G1 fell-ps24", "S2 larkmoor-es2", "Q1 fell-c20", "K2 fell-sr2")
        self.assertFalse(any("S2 stops" in words for words in steps_of(build.machine)))
        build = own("G1 fell-ps24", "S2 larkmoor-es2", "Q1 fell-c20")
        build.join("G1:OUT", "S2:11-12", "1-11")
        self.assertFalse(any("S2 stops" in words for words in steps_of(build.machine)))

    def test_a_weaker_pole_is_not_taken(self) -> None:
        machine = bare("kiln")
        weak = tuple(
            replace(part, inside=tuple(
                replace(e, current_max_a=5.0) if getattr(e, "rest", "") == "NO" else e
                for e in part.inside
            )) if part.kind == "contactor" else part
            for part in machine.parts
        )  # fmt: skip
        words = steps_of(replace(machine, parts=weak))
        self.assertFalse(any("goes through" in line for line in words))
