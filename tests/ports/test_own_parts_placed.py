"""Machines of parts that no shelf has, which are filled in and fed by the two proposals."""

import unittest

from msgspec.structs import replace

from mistake_machines import MACHINES
from tests.rules.measuring_cases import own
from vervain import api
from vervain.edits.device_edits import add_device
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.ports.fit import fit
from vervain.ports.plugging import plug_in
from vervain.queries.connectivity import host_ports
from vervain.queries.machine_queries import Queries


def filled(name: str) -> Machine:
    """A machine of the mistake table with its wires taken off, and placed and fed by proposals."""
    bare = replace(MACHINES[name](), hookups=(), cables=())
    placed = api.apply_placements(bare, api.place(bare).placements)
    return api.apply_feeds(placed, api.plan_feeds(placed).steps)


class Filled(unittest.TestCase):
    def test_machines_are_right_after_two_keys_but_for_their_main_switch(self) -> None:
        for name in ("lathe", "kiln", "press", "spindle"):
            result = api.check(filled(name))
            with self.subTest(name):
                grave = [f.sentence for f in result.open if f.consequence != "Workmanship"]
                self.assertEqual([], grave)
                # Cables are planned by a third key.
                to_do = [f for f in result.to_do if f.rule != "harness.no-cable"]
                left = {f.subjects[0].device for f in to_do}
                self.assertLessEqual(left, {"S1"})

    def test_drives_hang_on_a_board_by_their_own_ports(self) -> None:
        machine = filled("lathe")
        for device, wanted in (("P1", "K1 LIGHTS"), ("P2", "P1 OUT")):
            at = host_ports(Queries(machine), PortRef(device=device, port="IN"))
            self.assertIn(wanted, [f"{ref.device} {ref.port}" for ref in at])
        started = host_ports(Queries(machine), PortRef(device="T1", port="START"))
        self.assertEqual("ENABLE OUT 1", started[0].port)

    def test_inputs_are_taken_as_the_contacts_in_them_rest(self) -> None:
        bare = replace(MACHINES["laser"](), hookups=(), cables=())
        plain = replace(
            bare, devices=tuple(replace(d, settings={}) if d.designator == "K1" else d
                                for d in bare.devices),
        )  # fmt: skip
        placed = api.apply_placements(plain, api.place(plain).placements)
        told = [f for f in api.check(placed).open if f.rule == "stops.invert"]
        self.assertEqual([], told)
        self.assertEqual("inverted", Queries(placed).setting("K1", "invert", "IN 3"))

    def test_outputs_go_to_what_they_are_called_after_and_not_to_coils_of_stops(self) -> None:
        queries = Queries(filled("kiln"))
        for device, port, wanted in (("K2", "CONTROL", "HEAT"), ("P1", "LEADS", "LAMP OUT")):
            with self.subTest(device):
                at = host_ports(queries, PortRef(device=device, port=port))
                self.assertEqual([wanted], [ref.port for ref in at])

    def test_a_plug_gets_from_a_strip_what_its_port_has_not(self) -> None:
        machine = filled("press")
        wrong = [f for f in api.check(machine).open if f.consequence != "Workmanship"]
        self.assertEqual([], [f.sentence for f in wrong])
        queries = Queries(machine)
        output = PinRef(device="K1", port="DO 0", pin="2")
        self.assertIn("+", [pin.text for ref in queries.net(output) if ref.device == "M1"
                            and (pin := queries.pin(ref))])  # fmt: skip
        for device, port, wanted in (("B1", "LEADS", "AI 0"), ("S3", "13-14", "DI 0")):
            with self.subTest(device):
                at = {ref.port for ref in host_ports(queries, PortRef(device=device, port=port))}
                self.assertIn(wanted, at)

    def test_a_rail_is_one_that_suits_both_ends_or_none(self) -> None:
        plug, host = PortRef(device="B1", port="LEADS"), PortRef(device="K1", port="AI 0")
        for supply, words in (
            ("fell-ps24", "fits with"), ("fell-ps48", "does not fit"), ("fell-ps6", "does not fit"),
        ):  # fmt: skip
            build = own(f"G1 {supply}", "K1 my-press-controller", "B1 my-transmitter")
            with self.subTest(supply):
                answer = fit(Queries(build.machine), plug, host)
                self.assertEqual(words, answer.verdict, answer.reason)
        build = own("G1 fell-ps24", "X1 quoin-ts8", "K1 my-press-controller", "B1 my-transmitter")
        build.join("G1:OUT", "X1:1", "1-+ 2-0V")
        answer = fit(Queries(build.machine), plug, host)
        self.assertIn("+ from X1", answer.needs)
        moved = build.machine
        for port in ("DI 0", "DI 1"):
            button = PortRef(device="S3", port="13-14")
            if port == "DI 0":
                moved = add_device(moved, api.shipped_parts()["quoin-pb1"], "Button", "S3")
            moved = plug_in(moved, button, PortRef(device="K1", port=port), complete=True)
        common = [h for h in moved.hookups if {h.a.device, h.b.device} == {"S3", "X1"}]
        self.assertEqual(1, sum(len(hookup.conductors) for hookup in common))
