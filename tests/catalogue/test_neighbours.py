"""Parts as they are printed, where a name alone says too little: what stands beside it tells."""

import unittest

from described_machines import placer_parts, table_parts, unwired_table
from tests.catalogue.test_device_ports import made
from vervain import api
from vervain.model.electrical import LogicOutput
from vervain.model.elements import Bridge, Contact
from vervain.model.machine import PortRef
from vervain.model.part import Part
from vervain.ports.port_wishes import may_go
from vervain.queries.machine_queries import Queries


def functions(part: Part) -> dict[str, list[str]]:
    return {port.id: [pin.function for pin in port.pins] for port in part.ports}


class Told(unittest.TestCase):
    def test_what_a_pin_is_its_neighbours_tell(self) -> None:
        volts = {"v_min_v": 10.0, "v_max_v": 30.0, "nominal_v": 24.0}
        for kind, printed, port, wanted in (
            ("sensor", "BN\nBU\nBK", "LEADS", ["plus", "zero", "signal"]),
            ("sensor", "BN\nBU\nBK\nWH", "LEADS", ["plus", "zero", "signal", "signal"]),
            ("supply", "L\nN\nGND\nV-\nV+", "MAINS", ["line", "neutral", "pe"]),
            ("supply", "L\nN\nGND\nV+", "PORT", ["zero", "plus"]),
            ("supply", "AC/L\nAC/N\nFG\nCOM\n+V", "PORT", ["zero", "plus"]),
            ("valve", "red\nred", "LEADS", ["load+", "load-"]),
            ("fan", "black\nred", "LEADS", ["load-", "load+"]),
            ("emergency stop", "NC1\nNC1\nNC2\nNC2", "NC1.1-NC1.2", ["com", "nc"]),
            ("emergency stop", "NC1\nNC2\nNO1\nNO2", "NO1-NO2", ["com", "no"]),
            ("switch", "L in\nL out\nN in\nN out", "N in-N out", ["through", "through"]),
        ):
            with self.subTest(printed, kind=kind):
                part = made(kind=kind, pins_text=printed, numbers=volts)
                self.assertEqual(wanted, functions(part)[port])

    def test_colours_that_are_no_switchs_are_asked_for(self) -> None:
        for printed in ("BN\nBU\nGN", "BN\nBU\nBK\nBK", "red\nblack\nwhite"):
            with self.subTest(printed), self.assertRaises(AssertionError):
                made(kind="sensor", pins_text=printed)

    def test_contacts_may_say_what_they_do(self) -> None:
        contactor = table_parts()["my-table-contactor"]
        rests = {e.pins[0][0]: e.rest for e in contactor.inside if isinstance(e, Contact)}
        self.assertEqual(("NO", "NC"), (rests["13NO-14NO"], rests["21NC-22NC"]))


class Boards(unittest.TestCase):
    def test_a_driver_tells_of_itself_by_a_pair_that_is_apart(self) -> None:
        driver = table_parts()["my-table-driver"]
        alarm = driver.port("ALARM")
        self.assertEqual(("sensor", "device"), (alarm.kind, alarm.end))
        self.assertIsInstance(alarm.pins[0].electrical, LogicOutput)
        self.assertNotIn("alarm", functions(driver)["CONTROL"])
        joined = [at for e in driver.inside if isinstance(e, Bridge) for at in e.pins]
        self.assertNotIn(("ALARM", "2"), joined)

    def test_two_terminals_of_one_name_are_an_input_or_tell_something(self) -> None:
        source = functions(table_parts()["my-table-source"])
        self.assertEqual((["signal", "zero"], ["com", "no"]), (source["START"], source["OK"]))

    def test_beside_where_a_board_is_fed_plus_and_minus_are_for_loads(self) -> None:
        board = placer_parts()["my-placer-board"]
        kinds = {port.id: port.kind for port in board.ports}
        self.assertEqual("feed in", kinds["PWR IN"])
        self.assertEqual({"switched output"}, {kinds[n] for n in ("VAC1", "VAC2", "PUMP")})

    def test_an_alarm_starts_nothing(self) -> None:
        machine = unwired_table()
        queries, alarm = Queries(machine), PortRef(device="T1", port="ALARM")
        self.assertFalse(may_go(queries, alarm, PortRef(device="P1", port="START")))
        placed = {p.plug: p.host for p in api.place(machine).placements}
        self.assertTrue(placed[alarm].port.startswith("INPUTS"))
        # It takes no plus where the inputs give one.
        self.assertEqual("K1", placed[alarm].device)
