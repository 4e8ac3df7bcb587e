"""How contacts are wired: used, bridged, in a stop chain, and what reads them."""

import unittest

from tests import small
from tests.stops.circuits import wired
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.catalogue.part_doubts import doubts
from vervain.files.demos import open_demo
from vervain.model.machine import Machine, PinRef
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine
from vervain.stops.contacts import input_of, is_in_stop_chain, used_contacts

SHIELD = (
    """port,pin,signal
FOOT D,1,GND
"""
    + "".join(f"FOOT D,{n},D{n}\n" for n in range(2, 10))
    + """FOOT A,1,5V
FOOT A,2,GND
RELAY 1-2,1,NO
RELAY 1-2,2,COM
RELAY 1-2,3,NC
"""
)
STACKED = """
G2 OUT.1 - K1 POWER.VIN
G2 OUT.2 - K1 POWER.0V
G1 OUT.24V - S1 11-12.11
S1 11-12.12 - K2 RELAY 1.COM
K2 RELAY 1.NO - Q1 COIL.A1
Q1 COIL.A2 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
K2 FOOT A.1 - K1 HEAD A.1
K2 FOOT A.2 - K1 HEAD A.2
"""
PLANNED = open_demo("glazing-gantry-as-planned")
FOUND = open_demo("glazing-gantry-as-found")


def stacked(worked_by: str, *pins: int) -> Machine:
    """A contactor behind relay 1 of a described shield, of whose foot these pins are joined."""
    made = describe(Draft(
        kind="relay module", title="Shield", pins_text=SHIELD, settings_text=worked_by,
        numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.2},
        circuits={"FOOT D/input": "5 V input, CMOS levels"},
    ), "shield")  # fmt: skip
    feet = "".join(f"K2 FOOT D.{pin} - K1 HEAD D.{pin}\n" for pin in pins)
    devices = "G1 fell-ps24", "G2 fell-ps12", "K1 tarn-uc5", "S1 larkmoor-es2", "Q1 fell-c20"
    return wired(STACKED + feet, *devices, "T1 fell-d36", own={"K2": made.part})


class Contacts(unittest.TestCase):
    def test_inputs_through_series_connectors_and_sensors(self) -> None:
        queries = Queries(PLANNED)
        for device, port in (
            ("B1", "IN 1"), ("B2", "IN 8"), ("B5", "IN 5"), ("B6", "IN 5"), ("B7", "IN 7"),
            ("B8", "IN 6"), ("B10", "IN 2"), ("M4", None), ("G1", None),
        ):  # fmt: skip
            found = input_of(queries, device)
            with self.subTest(device):
                self.assertEqual(port, found.port if found else None)

    def test_which_contacts_are_used_and_how(self) -> None:
        for machine, device, expected in (
            (PLANNED, "S2", [("11-12", "NC", False), ("21-22", "NC", False)]),
            (FOUND, "S2", [("11-12", "NC", False), ("23-24", "NO", True)]),
            (PLANNED, "B3", [("LEADS", "NC", False)]),
            (FOUND, "B3", [("LEADS", "NO", False)]),
            (FOUND, "M4", []),
        ):
            found = used_contacts(Queries(machine), device)
            with self.subTest(device):
                self.assertEqual(expected, [(c.pins[0].port, c.rest, c.bridged) for c in found])

    def test_a_contact_to_a_lamp_is_in_no_stop_chain(self) -> None:
        build = small.bench("S1 larkmoor-hs3", "P1 quoin-bl24", "G1 fell-ps24")
        build.join("G1:OUT", "S1:23-24", "1-23")
        build.join("S1:23-24", "P1:LEADS", "24-1")
        queries = Queries(build.machine)
        pins = [PinRef(device="S1", port="23-24", pin=pin) for pin in ("23", "24")]
        self.assertFalse(is_in_stop_chain(queries, *pins))
        keys = {finding.rule for finding in check_machine(build.machine).open}
        self.assertNotIn("stops.estop-no", keys)

    def test_a_pin_of_the_foot_of_a_shield_works_its_relay(self) -> None:
        for words, pins, never_closes in (
            ("RELAY 1: worked by FOOT D.D4", (1, 4), False),
            ("RELAY 1: worked by D4", (1, 5), True),
            ("RELAY 1: worked by D4\nRELAY 2: worked by D5", (1, 4), False),
            # Nobody said which pin: told at the part, and nothing is claimed of the string.
            ("", (1, 5), False),
        ):
            machine = stacked(words, *pins)
            keys = {finding.rule for finding in check_machine(machine).open}
            with self.subTest(words, pins=pins):
                self.assertEqual(never_closes, "stops.never-closes" in keys)
                told = any(
                    "foot" in d.what and d.where == "RELAY 1" for d in doubts(machine.parts[-1])
                )
                self.assertEqual(not words, told)

    def test_two_stops_in_series_are_one_chain(self) -> None:
        build = small.bench("S1 larkmoor-hs3", "S2 larkmoor-hs3", "Q1 fell-c20", "G1 fell-ps24")
        build.join("G1:OUT", "S1:23-24", "1-23")
        build.join("S1:23-24", "S2:11-12", "24-11")
        build.join("S2:11-12", "Q1:COIL", "12-A1")
        queries = Queries(build.machine)
        pins = [PinRef(device="S1", port="23-24", pin=pin) for pin in ("23", "24")]
        self.assertTrue(is_in_stop_chain(queries, *pins))
        keys = {finding.key for finding in check_machine(build.machine).open}
        self.assertIn("stops.estop-no:S1:23-24", keys)
