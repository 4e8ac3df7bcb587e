"""How contacts are wired: used, bridged, in a stop chain, and what reads them."""

import unittest

from tests import small
from vervain.files.demos import open_demo
from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine
from vervain.stops.contacts import input_of, is_in_stop_chain, used_contacts

PLANNED = open_demo("glazing-gantry-as-planned")
FOUND = open_demo("glazing-gantry-as-found")


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
