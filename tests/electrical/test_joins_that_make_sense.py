"""Which two pins a conductor may join, what mains has nothing to do at, and which outputs drive
against each other: both sides of each condition.
"""

import dataclasses
import unittest

from msgspec.structs import replace

from tests.ports.test_small_boards import TTL, made
from tests.ports.test_spreading import at
from vervain.edits.device_edits import add_device
from vervain.edits.plug_edits import put_conductor
from vervain.electrical.mains import is_not_for_mains
from vervain.electrical.open_ends import may_be_joined
from vervain.model.electrical import LogicOutput
from vervain.model.machine import Machine, PortRef
from vervain.model.part import Part, PartKind
from vervain.ports.fit import fit
from vervain.queries.machine_queries import Queries
from vervain.rules.registry import RULE_BY_ID
from vervain.stops.contacts import is_wired_against_itself
from vervain.stops.faults import Fault, conditions_of
from vervain.stops.verdicts import circuit_of


def machine_of(*parts: tuple[str, PartKind, str]) -> Machine:
    """A machine of described parts: designator, kind, terminals."""
    machine = Machine(name="Bench")
    for name, kind, text in parts:
        part = replace(made(text, kind), id=f"my-{name.lower()}")
        machine = add_device(machine, part, name, name)
    return machine


class Joins(unittest.TestCase):
    def test_two_rest_contacts_of_one_device_go_in_a_row_while_both_ends_are_free(self) -> None:
        stop = machine_of(("S1", "emergency stop", "11 12\n21 22"), ("K1", "controller", BOARD))
        ends = at("S1:11-12:12"), at("S1:21-22:21")
        self.assertTrue(may_be_joined(Queries(stop), *ends))
        for end in ends:
            taken = put_conductor(stop, end, at("K1:IN1:1"))
            with self.subTest(end.pin):
                self.assertFalse(may_be_joined(Queries(taken), *ends))
        self.assertFalse(may_be_joined(Queries(stop), at("S1:11-12:11"), at("S1:11-12:12")))

    def test_two_inputs_that_nothing_drives_need_no_wire(self) -> None:
        queries = Queries(machine_of(("K1", "controller", BOARD)))
        self.assertFalse(may_be_joined(queries, at("K1:D2:1"), at("K1:D3:1")))

    def test_a_contact_is_joined_neither_across_its_load_nor_to_earth(self) -> None:
        machine = machine_of(
            ("K1", "controller", "24V GND\nRELAY1: NO COM"), ("H1", "lamp", "+ -"),
            ("J1", "connector", "L N PE"), ("G1", "supply", "L N PE V- V+"),
        )  # fmt: skip
        common = at("K1:RELAY1:2")
        self.assertTrue(may_be_joined(Queries(machine), common, at("H1:LEADS:2")))
        joined = put_conductor(machine, at("K1:RELAY1:1"), at("H1:LEADS:1"))
        for end, may in (("H1:LEADS:2", False), ("G1:OUT:2", True), ("J1:A:PE", False)):
            with self.subTest(end):
                self.assertEqual(may, may_be_joined(Queries(joined), common, at(end)))

    def test_what_may_be_at_mains_and_what_never(self) -> None:
        queries = Queries(machine_of(
            ("E1", "load", "1 2"), ("M1", "three-phase motor", "U V W"),
            ("K1", "controller", BOARD), ("X1", "connector", "1 2"), ("S1", "switch", "1 2 NO"),
        ))  # fmt: skip
        for pin, never in (
            ("E1:LEADS:1", False), ("K1:D2:1", True), ("K1:POWER:1", False), ("X1:A:1", False),
            ("S1:LEADS:1", False),
        ):  # fmt: skip
            with self.subTest(pin):
                self.assertEqual(never, is_not_for_mains(queries, at(pin)))


PULLED_UP = "Line of a 5 V processor, pulled up"
BOARD = "VIN GND\nD2 D3\nIN1 IN2 GND"
OUTPUTS = RULE_BY_ID["ports.outputs-against"]


def with_output(part: Part, drive: str, port: str) -> Part:
    """A part with an output of a kind at the signal of a port."""
    output = LogicOutput(drive=drive, low_max_v=0.4, high_max_v=5.0, current_a=0.02)
    return replace(part, ports=tuple(
        replace(p, pins=tuple(
            replace(pin, electrical=output) if pin.function == "signal" else pin for pin in p.pins
        )) if p.id == port else p for p in part.ports
    ))  # fmt: skip


class Outputs(unittest.TestCase):
    def told(self, drives: tuple[str, str], kind: PartKind, text: str, port: str) -> bool:
        """Whether two outputs on one wire are told."""
        machine = Machine(name="Bench")
        for name, drive in zip(("A1", "A2"), drives, strict=True):
            part = replace(with_output(made(text, kind), drive, port), id=f"my-{name.lower()}")
            machine = add_device(machine, part, name, name)
        signal = {p.function: p.id for p in machine.parts[0].port(port).pins}["signal"]
        ends = (at(f"{name}:{port}:{signal}") for name in ("A1", "A2"))
        queries = Queries(put_conductor(machine, *ends))
        return any(any(queries.ask(OUTPUTS.check, name)) for name in ("A1", "A2"))

    def test_which_outputs_on_one_wire_are_told(self) -> None:
        sensor: tuple[PartKind, str, str] = ("sensor", "VCC GND OUT", "LEADS")
        board: tuple[PartKind, str, str] = ("controller", BOARD, "D2 OUT")
        for drives, at_what, is_told in (
            (("push-pull", "push-pull"), sensor, True), (("NPN", "PNP"), sensor, True),
            (("NPN", "NPN"), sensor, False), (("NPN", "NPN"), board, True),
        ):  # fmt: skip
            with self.subTest(drives, at=at_what[0]):
                self.assertEqual(is_told, self.told(drives, *at_what))


class PulledUp(unittest.TestCase):
    def sensor_at_a_line(self, drive: str, line: str) -> Machine:
        """A sensor at a line of a processor, not wired yet."""
        board = replace(made("7-12V GND\n5V GND\nD2 D3", D2=line), id="my-k1")
        sensor = with_output(made("VCC GND OUT", "sensor"), drive, "LEADS")
        return add_device(
            add_device(Machine(name="Bench"), board, "K1", "K1"),
            replace(sensor, id="b"),
            "B1",
            "B1",
        )

    def test_what_only_gives_high_is_told_at_a_line_that_is_pulled_up(self) -> None:
        rule, (pulled, bare) = RULE_BY_ID["signals.unchanging"], (PULLED_UP, TTL)
        for drive, line, is_told in (
            ("PNP", pulled, True), ("PNP", bare, False), ("push-pull", pulled, False),
            ("NPN", pulled, False),
        ):  # fmt: skip
            with self.subTest(drive, line=line):
                machine = self.sensor_at_a_line(drive, line)
                ports = PortRef(device="B1", port="LEADS"), PortRef(device="K1", port="D2")
                refused = "pulled up" in fit(Queries(machine), *ports).reason
                self.assertEqual(is_told, refused)
                wired = put_conductor(machine, at("B1:LEADS:3"), at("K1:D2:1"))
                told = [
                    *Queries(wired).ask(rule.check, "K1"),
                    *Queries(wired).ask(rule.check, "B1"),
                ]
                self.assertEqual(is_told, bool(told))
                for finding in told:
                    mended = Queries(finding.fixes[0].remedy.apply(wired))
                    self.assertFalse(any(mended.ask(rule.check, "B1")))


class Stops(unittest.TestCase):
    def test_one_contact_that_is_bridged_is_enough(self) -> None:
        stop = machine_of(
            ("S1", "emergency stop", "11 12\n21 22"), ("Q1", "contactor", "A1 A2\n1 2"),
            ("G1", "supply", "IN+ IN-\nOUT+ OUT-"),
        )  # fmt: skip
        for a, b in (("G1:OUT:1", "S1:11-12:11"), ("S1:11-12:12", "S1:21-22:21"),
                     ("S1:21-22:22", "Q1:COIL:A1"), ("Q1:COIL:A2", "G1:OUT:2")):  # fmt: skip
            stop = put_conductor(stop, at(a), at(b))
        self.assertFalse(is_wired_against_itself(Queries(stop), "S1"))
        over = put_conductor(stop, at("S1:11-12:11"), at("S1:11-12:12"))
        self.assertTrue(is_wired_against_itself(Queries(over), "S1"))

    def test_a_fault_to_earth_is_one_where_there_is_earth(self) -> None:
        queries = Queries(machine_of(("G1", "supply", "IN+ IN-\nOUT+ OUT-"),
                                     ("H1", "lamp", "+ -")))  # fmt: skip
        wired = put_conductor(queries.machine, at("G1:OUT:1"), at("H1:LEADS:1"))
        circuit = circuit_of(Queries(wired))
        wire = next(iter(circuit.wires))
        fault = Fault(kind="to earth", wires=(wire,))
        self.assertIsNone(circuit.earth)
        self.assertEqual(conditions_of(circuit), conditions_of(circuit, fault))
        earthed = dataclasses.replace(circuit, earth=0)
        self.assertNotEqual(conditions_of(earthed), conditions_of(earthed, fault))
