"""Boards and terminals from their tables: ports by ranges, groups, circuits, and use of them."""

import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from builder import Builder, bench
from drive_machines import described_parts
from vervain.catalogue.board_copper import joined_names
from vervain.catalogue.boards import asked_circuits
from vervain.catalogue.circuits import circuits, circuits_for
from vervain.catalogue.describe import Described, describe
from vervain.catalogue.drafts import DESCRIBED, Draft
from vervain.catalogue.pin_words import read_function
from vervain.catalogue.port_names import MOST_PORTS, port_names
from vervain.catalogue.port_places import PortPlace
from vervain.data import replace_tables
from vervain.files.part_files import decode_parts, shipped_shelf
from vervain.files.part_writing import part_text
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Bridge, Contact, Fuse
from vervain.model.machine import Machine, PortRef
from vervain.model.part import Part
from vervain.ports.fit import ranked_fits
from vervain.ports.proposal import accept
from vervain.ports.proposing import propose
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.feeding import propose_feeds
from vervain.supply.feed_steps import carry_out

# As manuals print them: headings of all kinds, ranges, dashes, cases.
BOARD = """Connector\tPin\tSignal
PWR\t1\t+24V
PWR\t2\tGND
AXIS 1-4\t1\tSTEP
AXIS 1-4\t2\tDIR
AXIS 1-4\t3\tENA
AXIS 1-4\t4\tGND
IN 1–8\t1\t+24V
IN 1–8\t2\tIN
IN 1–8\t3\tGND
OUT1..OUT4\t1\t+24V
OUT1..OUT4\t2\tOUT
ENC X, Y\t1\t+5V
ENC X, Y\t2\tA
ENC X, Y\t3\tB
ENC X, Y\t4\tGND
"""
CIRCUITS = {
    "AXIS 1/output": "5 V output, push-pull, 20 mA",
    "IN 1/input": "24 V input, pulled up, for NPN and contacts to 0 V",
    "OUT 1/output": "Low-side switch, 0.5 A, with a diode for coils",
    "ENC X/input": "5 V input, TTL levels",
    "ENC X/plus": "5 V from the board, 0.3 A",
}
NUMBERS = {"v_min_v": 18.0, "v_max_v": 30.0, "current_a": 0.3, "step_rate_max_hz": 1e5}
DRIVER = (
    "port,pin,signal\nCTRL,1,PUL\nCTRL,2,DIR\nCTRL,3,EN\nCTRL,4,GND\nPOWER,1,V+\nPOWER,2,GND\n"
    "MOTOR,1,A+\nMOTOR,2,A-\nMOTOR,3,B+\nMOTOR,4,B-\n"
)
RELAYS = (
    "port,pin,signal\nCH 1-8,1,VCC\nCH 1-8,2,IN\nRELAY 1-8,1,NO\nRELAY 1-8,2,COM\nRELAY 1-8,3,NC"
)
SAFETY_RELAY = """port,pin,signal
POWER,A1,24V
POWER,A2,0V
STOP,S11,STOP A+
STOP,S12,STOP A-
STOP,S21,STOP B+
STOP,S22,STOP B-
START,S33,24V
START,S34,IN
13-14,13,COM
13-14,14,NO
31-32,31,COM
31-32,32,NC
"""
TABLES = (
    SAFETY_RELAY,
    BOARD, DRIVER, RELAYS, "A1\nA2\n11\n12\n13\n14", "1 +24V\n2 OUT\n3 GND", "L\nN\nPE",
)  # fmt: skip


def described(kind: str, text: str, **values) -> Described:
    return describe(Draft(kind=kind, title="Mine", pins_text=text, **values), f"my-{kind}")


def board() -> Described:
    return described("controller", BOARD, numbers=NUMBERS, circuits=CIRCUITS)


class Names(unittest.TestCase):
    def test_one_name_stands_for_several_ports(self) -> None:
        for text, names in (
            ("IN 1-3", ("IN 1", "IN 2", "IN 3")), ("IN1..IN3", ("IN 1", "IN 2", "IN 3")),
            ("OUT 2 to 4", ("OUT 2", "OUT 3", "OUT 4")),
            ("AXIS X, Y, Z", ("AXIS X", "AXIS Y", "AXIS Z")),
            ("X, Y", ("X", "Y")), ("IN 1–2", ("IN 1", "IN 2")), ("1-3", ("1", "2", "3")),
            ("IN 3-1", ("IN 3-1",)),
            ("I/O 1-2", ("I/O 1", "I/O 2")), ("IN1, 2", ("IN 1", "IN 2")),
            ("11-12", ("11", "12")), ("POWER", ("POWER",)), ("", ("",)),
            ("IN 1-999", ("IN 1-999",)),
        ):  # fmt: skip
            self.assertEqual(names, port_names(text), text)

    @given(st.text(max_size=40))
    def test_any_text_names_at_least_one_port_and_not_too_many(self, text: str) -> None:
        names = port_names(text)
        self.assertTrue(1 <= len(names) <= MOST_PORTS)
        self.assertEqual(len(names), len(set(names)))


class Boards(unittest.TestCase):
    def test_a_manuals_table_becomes_ports_in_groups(self) -> None:
        made = board()
        self.assertEqual(((), ()), (made.problems, made.unknown))
        self.assertEqual(
            ["PWR", "AXIS 1 to AXIS 4", "IN 1 to IN 8", "OUT 1 to OUT 4", "ENC X and ENC Y"],
            [group.words for group in made.groups],
        )
        self.assertEqual(
            ["feed in", "step and direction", "digital input", "switched output", "encoder"],
            [group.role.kind for group in made.groups],
        )
        part = made.part
        self.assertEqual(19, len(part.ports))
        edges = {port.edge for port in part.ports}
        self.assertEqual({"left", "top", "bottom", "right"}, edges)
        for edge in edges:
            here = sorted((p for p in part.ports if p.edge == edge), key=lambda p: p.at_mm)
            for one, two in pairwise(here):
                self.assertGreaterEqual(
                    two.at_mm - one.at_mm, (len(one.pins) + len(two.pins)) * 2.5, one.id
                )
        self.assertIsInstance(part.port("IN 5").pins[1].electrical, LogicInput)
        self.assertIsInstance(part.port("OUT 2").pins[1].electrical, LogicOutput)
        self.assertEqual("load-", part.port("OUT 2").pins[1].function)
        self.assertIsInstance(part.port("PWR").pins[0].electrical, FeedIn)
        self.assertIsInstance(part.port("ENC Y").pins[0].electrical, FeedOut)
        self.assertEqual("encoder A", part.port("ENC Y").pins[1].function)
        bridges = [e for e in part.inside if isinstance(e, Bridge)]
        self.assertEqual([13, 15, 2], [len(bridge.pins) for bridge in bridges])

    def test_what_is_not_chosen_stays_unknown_and_what_is_apart_is_not_joined(self) -> None:
        bare = described("controller", BOARD, numbers=NUMBERS, apart=frozenset({"GND"}))
        self.assertIn("IN 1 to IN 8", bare.unknown)
        self.assertIsNone(bare.part.port("IN 1").pins[1].electrical)
        self.assertEqual(("+24V", "GND", "+5V"), joined_names(bare.groups, {}))
        self.assertEqual(2, sum(isinstance(e, Bridge) for e in bare.part.inside))
        inputs = next(g for g in bare.groups if g.key == "IN 1")
        self.assertEqual(
            ("IN 1/input",), asked_circuits("controller", inputs, bare.groups), "its plus is fed"
        )

    def test_ports_that_nobody_placed_lie_beyond_those_that_somebody_did(self) -> None:
        rows = "port\tpin\n" + "\n".join(f"DI {n}\t{p}" for n in (1, 2) for p in ("DI", "GND"))
        place = PortPlace(edge="bottom", at_mm=40)
        draft = Draft(kind="controller", title="X", pins_text=rows, places={"DI 1": place})
        part = describe(draft, "my-x").part
        self.assertEqual(40, part.port("DI 1").at_mm)
        half = 6.0
        self.assertEqual("bottom", part.port("DI 2").edge)
        self.assertGreaterEqual(part.port("DI 2").at_mm - half, 40 + half)

    def test_a_group_is_what_the_builder_says(self) -> None:
        roles = {"OUT 1": "analogue input", "IN 1": "servo output"}
        made = described("controller", BOARD, roles=roles)
        kinds = {port.id: port.kind for port in made.part.ports}
        self.assertEqual(("analogue input", "servo"), (kinds["OUT 3"], kinds["IN 8"]))
        self.assertEqual("signal", made.part.port("OUT 1").pins[1].function)

    def test_own_boards_are_placed_fed_and_checked_like_those_of_the_shelf(self) -> None:
        driver = described(
            "stepper driver", DRIVER, circuits={"CTRL/input": "5 V input, TTL levels"},
            numbers={"v_min_v": 20, "v_max_v": 60, "current_max_peak_a": 5.6},
        ).part  # fmt: skip
        self.assertEqual(["current_peak_a", "microsteps"], [o.id for o in driver.options])
        build = Builder(Machine(name="Own"))
        build.add("K1", board().part, "Board")
        for number in (1, 2):
            build.add(f"T{number}", driver, f"Driver {number}")
            build.device(f"M{number}", "fell-s57", f"Motor {number}", None)
        for name, part in (
            ("B1", "larkmoor-in12"), ("B2", "osier-ms2"), ("B5", "larkmoor-e600"),
            ("M3", "larkmoor-av24"), ("G1", "fell-ps48"), ("G2", "fell-ps24"), ("F1", "quoin-fh1"),
        ):  # fmt: skip
            build.device(name, part, name, None)
        proposal = propose(build.machine)
        self.assertEqual(((), 8), (proposal.conflicts, len(proposal.placements)))
        machine = accept(build.machine, proposal.placements)
        shelf = shipped_shelf()
        for step in propose_feeds(machine, tuple(shelf.parts.values())).steps:
            machine = carry_out(machine, step)
        found = check_look(Queries(machine))
        grave = [f for f in found.open if f.consequence != "Workmanship"]
        self.assertEqual([], [f.sentence for f in grave])

    def test_a_bridge_is_judged_by_what_its_outputs_give_and_fed_by_its_motors(self) -> None:
        table = "port,pin,signal\nFEED,1,V+\nFEED,2,GND\nMOTOR 1-2,1,M+\nMOTOR 1-2,2,M-"
        numbers = {"v_min_v": 6, "v_max_v": 30, "current_a": 0.2}
        bridge = described("motor bridge", table, numbers=numbers).part
        self.assertEqual(0.2, bridge.port("MOTOR 2").current_max_a)
        self.assertIsNone(bridge.port("FEED").pins[0].electrical.current_a)
        build = Builder(Machine(name="Own"))
        build.add("T1", bridge, "Bridge")
        for name, part in (("G1", "fell-ps12"), ("M1", "quoin-gm12")):
            build.device(name, part, name, None)
        build.join("G1:OUT", "T1:FEED", "1-1 2-2")
        build.join("M1:LEADS", "T1:MOTOR 1", "1-1 2-2")
        rules = {finding.rule for finding in check_look(Queries(build.machine)).open}
        self.assertIn("supply.bridge-current", rules)
        self.assertNotIn("supply.no-rating", rules)

    def test_a_pnp_sensor_is_refused_where_the_circuit_reads_npn(self) -> None:
        build = Builder(Machine(name="Own"))
        build.add("K1", board().part, "Board")
        build.device("B1", "larkmoor-ip12", "PNP", None)
        reasons = " ".join(c.words for c in propose(build.machine).conflicts)
        self.assertIn("B1", reasons)


class Terminals(unittest.TestCase):
    def kinds(self, part: Part) -> dict[str, str]:
        return {port.id: port.kind for port in part.ports}

    def contacts(self, part: Part) -> list[tuple[str, str, str]]:
        return [(e.pins[0][1], e.pins[1][1], e.rest) for e in part.inside if isinstance(e, Contact)]

    def test_a_contactor_and_a_stop_by_the_numbers_on_them(self) -> None:
        numbers = {"nominal_v": 24.0, "current_a": 0.2, "contact_max_a": 25.0}
        made = described("contactor", "A1\nA2\n1/L1\n2/T1\n13\n14\n21\n22", numbers=numbers)
        self.assertEqual((), made.problems)
        self.assertEqual(
            {"COIL": "coil", "1/L1-2/T1": "terminals", "13-14": "contact", "21-22": "contact"},
            self.kinds(made.part),
        )
        self.assertEqual(
            [("1/L1", "2/T1", "NO"), ("13", "14", "NO"), ("21", "22", "NC")],
            self.contacts(made.part),
        )
        coil = made.part.port("COIL").pins[0].electrical
        self.assertEqual((20.4, 26.4), (round(coil.v_min_v, 2), round(coil.v_max_v, 2)))
        stop = described("emergency stop", "11\n12\n21\n22\n33\n34\n41\n42\n44")
        self.assertEqual(
            [("11", "12", "NC"), ("21", "22", "NC"), ("33", "34", "NO"), ("41", "42", "NC"),
             ("41", "44", "NO")],
            self.contacts(stop.part),
        )  # fmt: skip
        self.assertIn("numbered so: 5", described("emergency stop", "11\n12\n5").problems[-1])
        self.assertIn("has a coil", described("contactor", "13\n14").problems[-1])

    def test_relays_are_worked_by_their_own_channel(self) -> None:
        part = described("relay module", RELAYS, numbers={"contact_max_a": 8.0}).part
        works = {e.pins[0][0]: e.worked_by for e in part.inside if isinstance(e, Contact)}
        self.assertEqual({f"RELAY {n}": f"CH {n}" for n in range(1, 9)}, works)

    def test_a_relay_with_a_stop_input_is_a_safety_relay(self) -> None:
        found = described("relay module", SAFETY_RELAY, numbers={"contact_max_a": 6.0})
        self.assertEqual((), found.problems)
        contacts = [e for e in found.part.inside if isinstance(e, Contact)]
        self.assertEqual([("13-14", "STOP", "START"), ("31-32", "STOP", "START")],
                         [(e.pins[0][0], e.worked_by, e.started_by) for e in contacts])  # fmt: skip
        self.assertEqual(["NO", "NC"], [e.rest for e in contacts])

    def test_a_shield_goes_pin_on_pin_and_carries_its_header_on(self) -> None:
        names = ["GND", *(f"D{n}" for n in range(2, 10))]
        rows = [f"{port},{n},{name}" for port in ("FOOT", "TOP") for n, name in enumerate(names, 1)]
        text = "\n".join(["port,pin,signal", *rows, "RELAY 1,1,NO", "RELAY 1,2,COM"])
        part = described("relay module", text).part
        self.assertEqual([("FOOT", "header", "device", 9), ("TOP", "header", "host", 9)],
                         [(p.id, p.kind, p.end, len(p.pins)) for p in part.ports[:2]])  # fmt: skip
        build = bench("K1 tarn-uc5", "T1 osier-mh2")
        build.add("K2", part)
        machine = build.machine
        foot = PortRef(device="K2", port="FOOT")
        fits = {f.host.port: f.verdict for f in ranked_fits(Queries(machine), foot)}
        self.assertEqual("fits", fits["HEAD D"])
        self.assertEqual("fits", fits["TOP D"], "one board on the other")
        self.assertEqual("does not fit", fits["HEAD A"])
        # Filled in, each foot of a shield is on its own header, and what it turns gets its pulses.
        placed = accept(machine, propose(machine).placements)
        told = [
            f for f in check_look(Queries(placed)).open if f.rule in ("ports.foot", "ports.need")
        ]
        self.assertEqual([], [f.sentence for f in told if "FOOT" in f.sentence])

    def test_fuses_connectors_strips_and_thermistors(self) -> None:
        fuses = described("fuse", "1\n2\n3\n4", numbers={"fuse_max_a": 10.0}).part
        self.assertEqual(2, sum(isinstance(e, Fuse) for e in fuses.inside))
        self.assertEqual(10.0, fuses.options[0].maximum)
        self.assertIn("in pairs", described("fuse", "1\n2\n3").problems[-1])
        joint = described("connector", "1\n2\n3").part
        self.assertEqual(("A", "B"), tuple(port.id for port in joint.ports))
        self.assertEqual(3, len(joint.inside))
        strip = described("terminal strip", "port,pin,signal\n1-6,1,+\n1-6,2,0V",
                          numbers={"bar_max_a": 24.0}).part  # fmt: skip
        self.assertEqual([6, 6], [len(e.pins) for e in strip.inside])
        self.assertEqual(24.0, strip.bar_max_a)
        warm = described("thermistor", "1 white\n2 white").part
        self.assertEqual(["sense 1", "sense 2"], [pin.function for pin in warm.ports[0].pins])

    def test_whatever_is_described_is_a_part_file_that_is_read_again(self) -> None:
        for kind in DESCRIBED:
            for text in TABLES:
                part = described(kind, text, numbers=NUMBERS | {"nominal_v": 24.0}).part
                if part is not None:
                    with self.subTest(kind=kind, text=text[:20]):
                        again = decode_parts(part_text(part), "own.toml").part
                        self.assertEqual([part], list(again))


class Circuits(unittest.TestCase):
    def test_each_has_a_source_and_is_of_its_kind(self) -> None:
        for pins, kind in (("input", LogicInput), ("output", LogicOutput), ("plus", FeedOut)):
            self.assertGreater(len(circuits_for(pins)), 3)
            for circuit in circuits_for(pins):
                self.assertIsInstance(circuit.electrical, kind, circuit.title)
                self.assertTrue(circuit.source.endswith("."), circuit.title)

    def test_an_own_table_with_one_title_twice_is_refused(self) -> None:
        self.addCleanup(replace_tables, {"circuits.toml": None})
        row = (
            '[[circuit]]\ntitle = "Mine"\npins = "plus"\nelectrical = { type = "feed out", '
            "nominal_v = 5, current_a = 1 }\n"
        )
        replace_tables({"circuits.toml": row})
        self.assertEqual(["Mine"], [circuit.title for circuit in circuits()])
        replace_tables({"circuits.toml": row + row})
        with self.assertRaisesRegex(ValueError, "one title"):
            circuits()


class DrivesAndBuses(unittest.TestCase):
    def test_terminals_tell_what_a_port_is(self) -> None:
        parts = described_parts()
        for part_id, kinds in (
            ("my-inverter", {
                "MAINS": "feed in", "MOTOR": "motor phases", "CTRL": "drive control",
                "SPEED": "analogue command", "FAULT": "relay contact",
            }),
            ("my-router-board", {"DI 2": "digital input", "AO 1": "analogue output"}),
            ("my-robot-board", {"CAN": "bus", "SERIAL": "bus", "I2C": "bus", "5V OUT": "feed out"}),
            ("my-tilt-sensor", {"LEADS": "bus"}), ("my-spindle", {"LEADS": "motor phases"}),
        ):  # fmt: skip
            for port, kind in kinds.items():
                with self.subTest(f"{part_id} {port}"):
                    self.assertEqual(kind, parts[part_id].port(port).kind)
        drive = parts["my-bus-drive"]
        ends = [(port.id, port.end) for port in drive.ports if port.kind == "bus"]
        self.assertEqual([("CAN IN", "device"), ("CAN OUT", "host")], ends)
        self.assertIn(Bridge(pins=(("CAN IN", "1"), ("CAN OUT", "1"))), drive.inside)
        inverter = parts["my-inverter"]
        self.assertEqual(["enable", "direction", "zero"],
                         [pin.function for pin in inverter.port("CTRL").pins])  # fmt: skip
        self.assertEqual((195, 250), (
            inverter.port("MAINS").pins[0].electrical.v_min_v,
            inverter.port("MAINS").pins[0].electrical.v_max_v,
        ))  # fmt: skip
        told = {element.worked_by for element in inverter.inside if isinstance(element, Contact)}
        self.assertEqual({"fault"}, told)

    def test_what_a_controller_sends_a_device_hears(self) -> None:
        for kind, word, function in (
            ("controller", "MOSI", "transmit"), ("sensor", "MOSI", "receive"),
            ("sensor", "TXD", "transmit"), ("frequency inverter", "RUN", "enable"),
            ("controller", "RUN", None), ("stepper driver", "CLK", "step"),
        ):  # fmt: skip
            with self.subTest(f"{kind} {word}"):
                self.assertEqual(function, read_function(word, kind))
