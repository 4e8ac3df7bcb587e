"""Small crafts: relays told apart by their names, motors that turn one way, lines of no circuit,
what a thermistor meets besides its input.
"""

import unittest

from msgspec.structs import replace

from craft_machines import unwired_brewer, unwired_winch, wired_brewer, wired_winch
from small_craft_machines import unwired_doser, unwired_loom
from vervain import api
from vervain.edits.plug_edits import exchange_two, put_conductor
from vervain.harness.proposing import propose_tree
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.part import Part
from vervain.ports.fit import ranked_fits
from vervain.queries.connectivity import host_ports
from vervain.queries.machine_queries import Queries


def placed(machine: Machine) -> Machine:
    return api.apply_placements(machine, api.place(machine).placements)


def feed_words(machine: Machine) -> list[str]:
    return [step.words for step in api.plan_feeds(placed(machine)).steps]


def untold(part: Part) -> Part:
    """A board of whose lines and outputs nobody has said anything."""
    signals = LogicInput | LogicOutput
    ports = tuple(
        replace(port, pins=tuple(
            replace(pin, electrical=None) if isinstance(pin.electrical, signals) else pin
            for pin in port.pins
        ))
        for port in part.ports
    )  # fmt: skip
    return replace(part, ports=ports)


class Brewer(unittest.TestCase):
    def test_relays_are_told_apart_and_those_without_a_name_go_in_order(self) -> None:
        """Boiler fits Boiler and Steam boiler; Steam fits the second alone."""
        words = feed_words(unwired_brewer())
        self.assertLessEqual(
            {"E1 1 goes through Q2 1-2", "E2 L goes through Q3 1-2", "M1 1 goes through K1 RELAY1",
             "Y1 1 goes through K1 RELAY2", "Y2 1 goes through K1 RELAY3"}, set(words),
        )  # fmt: skip
        self.assertLessEqual(
            {"F1 put into the feed of E1", "F2 put into the feed of E2"}, set(words)
        )
        # With one relay too few nobody knows which load goes without.
        machine = unwired_brewer()
        part = next(p for p in machine.parts if p.id == "my-brewer-board")
        fewer = replace(
            part, ports=tuple(p for p in part.ports if p.id != "RELAY3"),
            inside=tuple(e for e in part.inside if all(port != "RELAY3" for port, _ in e.pins)),
        )  # fmt: skip
        machine = replace(
            machine, parts=tuple(fewer if p.id == part.id else p for p in machine.parts)
        )
        self.assertFalse([w for w in feed_words(machine) if "RELAY" in w])

    def test_terminals_in_one_box_are_wired_by_the_plan(self) -> None:
        machine = propose_tree(wired_brewer())
        machine = api.apply_cables(machine, api.plan_cables(machine).cables)
        worked = [h for h in machine.hookups if h.a.device in ("Q2", "Q3") and h.b.device == "K1"]
        self.assertEqual(2, len(worked))
        self.assertTrue(all(hookup.cable for hookup in worked))
        self.assertEqual((), api.check(machine).to_do)

    def test_a_thermistor_that_meets_earth_or_another_input_is_told(self) -> None:
        sound = wired_brewer()
        for port, pin in (("POWER", "2"), ("BTN1", "1")):
            with self.subTest(port):
                other = PinRef(device="K1", port=port, pin=pin)
                joined = put_conductor(sound, PinRef(device="B2", port="LEADS", pin="1"), other)
                found = [f for f in api.check(joined).open if f.rule == "signals.thermistor"]
                self.assertEqual(["B2"], [f.subjects[0].device for f in found])


class SmallBoards(unittest.TestCase):
    def test_no_load_is_put_at_a_line_of_which_nothing_is_known(self) -> None:
        machine = unwired_loom()
        parts = [untold(p) if p.id == "my-loom-board" else p for p in machine.parts]
        machine = replace(machine, parts=tuple(parts))
        plan = api.place(machine)
        at_lines = [p.plug.device for p in plan.placements if p.host.device == "K1"]
        self.assertFalse([name for name in at_lines if name.startswith("Y")])
        told = {conflict.reason for conflict in plan.conflicts}
        self.assertIn("of K1 read or give.", " ".join(told))
        fits = ranked_fits(Queries(machine), PortRef(device="Y1", port="LEADS"))
        told = {fit.host.port: fit.reason for fit in fits if fit.host.device == "K1"}
        self.assertIn("1 A of 0.04 A", told["D3 OUT"])

    def test_a_pump_has_one_relay_and_a_module_its_input(self) -> None:
        machine = placed(unwired_doser())
        queries = Queries(machine)
        relays = [
            host_ports(queries, PortRef(device=f"M{n}", port="LEADS"))[0].port for n in range(1, 6)
        ]
        self.assertEqual(["K1", "K2", "K3", "K4", "K5"], relays)
        inputs = [host_ports(queries, PortRef(device="K2", port=f"IN{n}")) for n in range(1, 7)]
        self.assertTrue(all(hosts and hosts[0].port.endswith(" OUT") for hosts in inputs))


class Winch(unittest.TestCase):
    def test_a_brake_that_an_output_opens_goes_with_the_stop_and_has_its_diode(self) -> None:
        words = feed_words(unwired_winch())
        self.assertLessEqual({"M2 goes through K2 23-24", "R1, a diode across M2"}, set(words))
        self.assertIn("K2 33-34 read by K1 I0.7", words)
        # Up and down are held while it moves: the key starts.
        self.assertIn("S4 starts K2, behind Q2", words)
        sound = wired_winch()
        self.assertFalse([f for f in api.check(sound).open if f.consequence == "Damage"])
        turned = exchange_two(sound, PortRef(device="R1", port="WIRE"), "A", "K")
        told = {(f.rule, f.subjects[0].device) for f in api.check(turned).open}
        self.assertIn(("signals.diode-reversed", "R1"), told)
