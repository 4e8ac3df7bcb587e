"""Machines of a yard: three lines to a heater, relays and buttons of heavy loads, what a stick and
a row of eyes give.
"""

import unittest

from msgspec.structs import replace

from builder import Builder
from mistake_machines import MACHINES
from tests.catalogue.test_terminal_lines import described
from vervain import api
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft, drive_told, volts_told
from vervain.edits.plug_edits import exchange_two, put_conductor
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.queries.machine_queries import Queries
from yard_machines import unwired_annealer, unwired_follower

HIGH_SIDE = "High-side switch, 3 A, with a diode for coils"


def truck() -> Machine:
    """A board for vehicles with heavy loads: a fan with its relay, a horn with its button."""
    build = Builder(Machine(name="Truck"))
    for name, kind, title, pins, numbers in (
        ("G1", "battery", "Battery", "+ -", {"nominal_v": 12, "current_a": 100}),
        ("K1", "controller", "Board", "VBAT GND\nIN1 IN2 GND\nOUT1 OUT2",
         {"v_min_v": 8, "v_max_v": 32, "current_a": 0.3}),
        ("P1", "fan", "Cooler fan, 12 V", "+ -", {"nominal_v": 12, "current_a": 9}),
        ("K2", "contactor", "Relay, 40 A", "30 87 85 86",
         {"nominal_v": 12, "current_a": 0.15, "contact_max_a": 40}),
        ("H1", "load", "Horn, 12 V", "+ -", {"nominal_v": 12, "current_a": 8}),
        ("S1", "switch", "Push button", "3 4", {"contact_max_a": 10}),
    ):  # fmt: skip
        circuits = {"IN1/input": "12 V input, for contacts to plus", "OUT1/output": HIGH_SIDE}
        draft = Draft(kind=kind, title=title, pins_text=pins, numbers=numbers)
        if kind == "controller":
            draft = replace(draft, circuits=circuits)
        part = describe(draft, "x").part
        assert part is not None
        called = {"K2": "Fan relay", "S1": "Horn", "H1": "Horn"}.get(name, title)
        build.add(name, replace(part, id=f"my-{name.lower()}"), called)
    return build.machine


class Heavy(unittest.TestCase):
    def test_a_relay_works_the_load_that_it_is_called_after_and_a_button_what_no_output_bears(
        self,
    ) -> None:
        machine = truck()
        proposal = api.place(machine)
        to = {row.plug.device: row.host.device for row in proposal.placements if row.host}
        self.assertEqual("K1", to["K2"])
        self.assertNotIn("S1", to)
        placed = api.apply_placements(machine, proposal.placements)
        plan = api.plan_feeds(placed)
        words = [step.words for step in plan.steps]
        for wanted in ("P1 goes through K2", "H1 goes through S1"):
            self.assertIn(wanted, words)
        # The holder of the fuse takes what all of it wants.
        fed = Queries(api.apply_feeds(placed, plan.steps))
        fuse = next(d for d in fed.machine.devices if d.designator.startswith("F"))
        self.assertGreaterEqual(fuse.settings["rating_a"] * 0.75, 17.0)


class ThreeLines(unittest.TestCase):
    def test_each_line_of_a_heater_has_its_pole_of_relay_breaker_and_contactor(self) -> None:
        bare = unwired_annealer()
        placed = api.apply_placements(bare, api.place(bare).placements)
        words = [step.words for step in api.plan_feeds(placed).steps]
        # A lamp of one line has nothing of a breaker of three poles; a limiter stops the coil.
        for wanted in (
            "E1 U goes through K2 L1-T1", "E1 V goes through K2 L2-T2",
            "E1 W goes through K2 L3-T3", "E1 U goes through K1 1/L1-2/T1",
            "E1 goes through F1", "S3, S1, S2 stop K1, S4 starts, at mains",
        ):  # fmt: skip
            with self.subTest(wanted):
                self.assertIn(wanted, words)

    def test_two_lines_that_meet_over_a_stop_are_told(self) -> None:
        machine = MACHINES["annealer"]()
        ends = (PinRef(device="S3", port="11-12", pin="12"),
                PinRef(device="Q1", port="5/L3-6/T3", pin="6/T3"))  # fmt: skip
        found = api.check(put_conductor(machine, *ends)).open
        self.assertIn("supply.lines-joined", {finding.rule for finding in found})


class WhatSensorsGive(unittest.TestCase):
    def test_the_name_says_what_an_output_drives(self) -> None:
        for title, drive, volts in (
            ("Oil level, 0.5 to 4.5 V", "volts", 4.5), ("Distance, 0-10 V", "volts", 10.0),
            ("Pressure, 4-20 mA", "current", None), ("Level, 0…20 mA", "current", None),
            ("Proximity, 10 to 30 V", None, None), ("Eye, 3-5 V", None, None),
            ("Barrier NPN, 12-24 V", "NPN", None), ("Analog gauge", "volts", None),
            ("NPN or PNP", None, None),
        ):  # fmt: skip
            with self.subTest(title):
                self.assertEqual((drive, volts), (drive_told("sensor", title), volts_told(title)))

    def test_both_axes_of_a_stick_and_its_button_have_a_line_each(self) -> None:
        machine = MACHINES["dolly"]()
        queries = Queries(machine)
        lands = {
            port: {ref.port for step in queries.steps(PinRef(device="R1", port=port, pin=pin))
                   for ref in [step.end]}
            for port, pin in (("LEADS", "3"), ("VRY", "4"), ("BUTTON", "5"))
        }  # fmt: skip
        # What gives 5 V comes to a line of 3.3 V by a divider, at whichever plug it is.
        self.assertEqual(({"IN"}, {"IN"}), (lands["LEADS"], lands["VRY"]))
        self.assertTrue(next(iter(lands["BUTTON"])).startswith("GPIO"))

    def test_an_eye_of_a_row_that_nothing_reads_is_told(self) -> None:
        placed = api.place(unwired_follower()).placements
        at_work = [row for row in placed if (row.plug.device, row.plug.port) != ("B1", "S3")]
        machine = api.apply_placements(unwired_follower(), at_work)
        found = [f.sentence for f in api.check(machine).open if f.rule == "leads.signal-open"]
        self.assertEqual(["S3 of B1 goes nowhere."], found)

    def test_a_buzzer_the_wrong_way_round_at_an_output_is_told(self) -> None:
        leads = PortRef(device="H1", port="LEADS")
        turned = exchange_two(MACHINES["line follower"](), leads, "1", "2")
        told = [f for f in api.check(turned).open if f.rule == "supply.polarity"]
        self.assertEqual(1, len(told))
        mended = api.check(api.apply_fix(turned, told[0].fixes[0])).open
        self.assertEqual([], [f.rule for f in mended if f.consequence != "Workmanship"])

    def test_the_coils_of_a_valve_share_the_common_that_is_printed(self) -> None:
        for pins, ports in (
            ("A COM B", {"A", "B"}), ("1A COM 1B", {"1A", "1B"}),
            ("SOL1 COM SOL2", {"SOL1", "SOL2"}), ("A+ A- B+ B-", {"A", "B"}),
        ):  # fmt: skip
            part = described(pins, "valve", numbers={"nominal_v": 24, "current_a": 0.4})
            with self.subTest(pins):
                self.assertEqual(ports, {port.id for port in part.ports})


if __name__ == "__main__":
    unittest.main()
