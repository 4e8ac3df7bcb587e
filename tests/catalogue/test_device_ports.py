"""Parts with several connectors, and what measures: told from their terminals."""

import unittest

from msgspec.structs import replace

from drive_machines import terminals
from process_machines import process_parts
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.model.electrical import FeedIn
from vervain.model.elements import Bridge, Contact
from vervain.model.part import Part


def made(**typed) -> Part:
    """The part of a draft that has no problem."""
    said = describe(Draft(**{"title": "X", **typed}), "my-x")
    assert said.part is not None and not said.problems, said.problems
    return said.part


class Ports(unittest.TestCase):
    def test_one_list_may_be_several_plugs(self) -> None:
        probe = made(kind="sensor", numbers={"v_min_v": 4.5, "v_max_v": 5.5},
                     pins_text="brown GND\nred 5V\norange PWM\nblack GND\nwhite S")  # fmt: skip
        hub = made(kind="three-phase motor", pins_text="yellow U\nblue V\ngreen W\nred 5V\n"
                   "black GND\nyellow HA\nblue HB\ngreen HC")  # fmt: skip
        servo = made(kind="three-phase motor",
                     pins_text="U\nV\nW\nPE\n5V\n0V\nA+\nA-\nB+\nB-\nZ+\nZ-")  # fmt: skip
        inlet = made(kind="connector", pins_text="L\nN\nPE")
        buzzer = made(kind="load", pins_text="VCC I/O GND", numbers={"nominal_v": 5.0})
        strip = made(kind="lamp", pins_text="5V\nDIN\nGND", numbers={"nominal_v": 5.0})
        knob = made(kind="encoder", pins_text="GND + SW DT CLK",
                    numbers={"v_min_v": 3.3, "v_max_v": 5.5, "lines_per_turn": 20})  # fmt: skip
        keypad = made(kind="switch", pins_text="R1 R2 R3 C1 C2 C3")
        star = made(kind="three-phase motor", pins_text="U1 V1 W1\nW2 U2 V2\nPE")
        both = made(kind="servo drive", pins_text="DC+ DC-\nM0 A B C\nM0 5V H1 H2 H3 GND\n"
                    "M1 A B C\nM1 5V A B Z GND")  # fmt: skip
        for part, wanted in (
            (knob, {"LEADS": ("encoder", 4), "BUTTON": ("sensor", 1)}),
            (keypad, {"LEADS": ("sensor", 6)}), (star, {"LEADS": ("motor phases", 7)}),
            (both, {"DC": ("feed in", 2), "M0": ("motor phases", 3), "M0 HALL": ("encoder", 5),
                    "M1": ("motor phases", 3), "M1 ENC": ("encoder", 5)}),
            (buzzer, {"SIGNAL": ("servo", 3)}), (strip, {"LEADS": ("bus", 3)}),
            (probe, {"SERVO": ("servo", 3), "LEADS": ("sensor", 2)}),
            (hub, {"LEADS": ("motor phases", 3), "HALL": ("encoder", 5)}),
            (servo, {"LEADS": ("motor phases", 4), "ENCODER": ("encoder", 8)}),
            (inlet, {"A": ("terminals", 3), "B": ("terminals", 3)}),
        ):  # fmt: skip
            with self.subTest(part.kind):
                self.assertEqual(wanted, {p.id: (p.kind, len(p.pins)) for p in part.ports})
        # Thick leads may have the colours of thin ones; black is nearest to the other plug.
        self.assertEqual(["BN"], [p.lead for p in probe.port("SERVO").pins if p.name == "GND"])
        self.assertEqual(["line", "neutral", "pe"], [p.function for p in inlet.port("A").pins])

    def test_what_a_converter_gives_has_the_0_v_that_it_takes_but_where_it_is_isolated(
        self,
    ) -> None:
        typed = {"pins_text": "IN+\nIN-\nOUT+\nOUT-", "kind": "supply"}
        numbers = {"nominal_v": 5.0, "current_a": 3.0, "v_min_v": 7.0, "v_max_v": 28.0}
        for title, count in (("Step-down converter", 1), ("Isolated converter", 0)):
            said = describe(Draft(title=title, numbers=numbers, **typed), "my-x")
            with self.subTest(title):
                self.assertEqual(count, sum(isinstance(e, Bridge) for e in said.part.inside))

    def test_terminals_tell_what_a_port_is(self) -> None:
        for part_id, kinds in (
            ("my-servo-drive", {
                "MAINS": "feed in", "MOTOR": "motor phases", "CMD": "analogue command",
                "START": "drive control", "ENC IN": "encoder", "ENC OUT": "encoder",
                "STO": "stop input", "ALARM": "sensor",
            }),
            ("my-servo-motor", {"POWER": "motor phases", "ENC": "encoder"}),
            ("my-lights", {"IN": "bus", "OUT": "bus"}),
            ("my-amplifier", {"LEADS": "bus", "INPUT": "transducer input"}),
            ("my-weigher", {"CELL": "transducer input", "OUT": "bus"}),
            ("my-cell", {"LEADS": "transducer"}), ("my-couple", {"LEADS": "transducer"}),
            ("my-transmitter", {"LEADS": "analogue sensor"}), ("my-element", {"LEADS": "feed in"}),
            ("my-ssr", {"CONTROL": "load", "1-2": "terminals"}),
            ("my-press-controller", {"DI 0": "digital input", "DO 0": "switched output"}),
        ):  # fmt: skip
            found = {port.id: port.kind for port in process_parts()[part_id].ports}
            with self.subTest(part_id):
                self.assertEqual(kinds, {name: found.get(name) for name in kinds})

    def test_an_encoders_letters_are_channels_and_never_a_motors_phases(self) -> None:
        for kind in ("stepper driver", "servo drive"):
            rows = "port\tterminal\nMOTOR\tA+\nMOTOR\tA-\nENC\tA+\nENC\tA-\nENC\tB+\nENC\tB-"
            part = made(kind=kind, pins_text=rows)
            with self.subTest(kind):
                self.assertEqual(2, len(part.port("MOTOR").pins))
                self.assertEqual(
                    ["encoder A", "encoder A-", "encoder B", "encoder B-"],
                    [pin.function for pin in part.port("ENC").pins],
                )

    def test_two_channels_with_one_common_keep_their_names(self) -> None:
        pins = process_parts()["my-servo-drive"].port("STO").pins
        self.assertEqual(["stop A+", "stop B+", "zero"], [pin.function for pin in pins])

    def test_inputs_that_count_are_one_group_and_keep_what_is_printed(self) -> None:
        rows = "port\tterminal\nDI 0\tI0.0\nDI 0\tM\nDI 1\tI0.1\nDI 1\tM"
        said = describe(Draft(kind="controller", title="X", pins_text=rows), "my-x")
        self.assertEqual(1, len(said.groups))
        self.assertEqual("I0.1", said.part.port("DI 1").pins[0].name)
        self.assertEqual(["signal", "zero"], [p.function for p in said.part.port("DI 1").pins])

    def test_what_two_connectors_share_is_joined_and_counts_once(self) -> None:
        lights = process_parts()["my-lights"]
        self.assertIn(Bridge(pins=(("IN", "1"), ("OUT", "1"))), lights.inside)
        limits = [pin.electrical for port in lights.ports for pin in port.pins]
        fed = [feed.current_a for feed in limits if isinstance(feed, FeedIn)]
        self.assertEqual([1], fed)
        self.assertEqual("host", lights.port("OUT").end)


class Measuring(unittest.TestCase):
    def test_two_wires_are_a_loop_where_the_builder_says_so(self) -> None:
        rows = {"kind": "sensor", "title": "X", "pins_text": "1\t+\n2\t-"}
        refused = describe(Draft(**rows), "my-x")
        self.assertIn("4 to 20 mA", " ".join(refused.problems))
        part = made(kind="sensor", pins_text="1\t+\n2\t-", drive="current", numbers={"v_max_v": 30})
        self.assertEqual("current", part.port("LEADS").pin("2").electrical.drive)
        with_zero = made(kind="sensor", pins_text="+\n-\nIOUT", drive="current")
        self.assertEqual(["plus", "zero", "signal"],
                         [pin.function for pin in with_zero.port("LEADS").pins])  # fmt: skip

    def test_a_load_for_mains_is_fed_by_line_and_neutral(self) -> None:
        for volts, functions in (
            (230, ["line", "neutral"]), (24, ["load+", "load-"]), (80, ["load+", "load-"]),
        ):  # fmt: skip
            part = made(kind="heater", pins_text="1\n2", numbers={"nominal_v": volts})
            with self.subTest(volts):
                self.assertEqual(functions, [pin.function for pin in part.port("LEADS").pins])

    def test_a_solid_state_relay_by_its_terminals(self) -> None:
        for rows in ("1\n2\n3\n4", "1\n2\nA1+\nA2-", "1/L1\n2/T1\nA1\nA2"):
            part = made(kind="solid-state relay", pins_text=rows, numbers={"v_max_v": 32})
            contact = next(e for e in part.inside if isinstance(e, Contact))
            with self.subTest(rows):
                self.assertEqual(("CONTROL", "AC"), (contact.worked_by, contact.switches))
        rows = "1\n2\n3\n4\n5\n6\nA1\nA2"
        three = made(kind="solid-state relay", pins_text=rows, numbers={"v_max_v": 32})
        self.assertEqual(["CONTROL", "1-2", "3-4", "5-6"], [port.id for port in three.ports])
        lacking = describe(Draft(kind="solid-state relay", title="X", pins_text="1\n2"), "my-x")
        self.assertIn("control input", " ".join(lacking.problems))

    def test_what_an_output_loses_follows_from_its_volts(self) -> None:
        for least_v, most_v, drop_v in ((3, 5.5, 0.4), (4.5, 24, 0.4), (6, 36, 2.0), (10, 30, 2.0)):
            numbers = {"v_min_v": least_v, "v_max_v": most_v}
            part = made(kind="sensor", pins_text="1\tVCC\n2\tGND\n3\tOUT", numbers=numbers)
            with self.subTest(most_v):
                self.assertEqual(drop_v, part.port("LEADS").pin("3").electrical.drop_v)

    def test_a_part_without_a_name_is_called_after_its_kind(self) -> None:
        for kind, rows in (("contactor", "A1\nA2\n1\n2"), ("heater", "1\n2")):
            said = describe(Draft(kind=kind, title=" ", pins_text=rows), "my-x")
            with self.subTest(kind):
                self.assertEqual(f"My {kind}", said.part.title)
                self.assertIn("no name", " ".join(said.problems))
                self.assertEqual("Y", made_as("Y", kind, rows).title)


def made_as(title: str, kind: str, rows: str) -> Part:
    """The part of a draft with a name."""
    return describe(Draft(kind=kind, title=title, pins_text=rows), "my-x").part


def ports_of(part: Part) -> dict[str, tuple[str, list[str]]]:
    """Each port of a part: its kind, and the functions of its pins."""
    return {port.id: (port.kind, [pin.function for pin in port.pins]) for port in part.ports}


class MotorsThatTellWhereTheyStand(unittest.TestCase):
    def test_one_list_of_leads_is_two_plugs(self) -> None:
        phases = ["phase U", "phase V", "phase W"]
        halls = ["plus", "zero", "hall U", "hall V", "hall W"]
        hub = made(
            kind="three-phase motor", numbers={"nominal_v": 36, "current_a": 7},
            pins_text="U\tYE\nV\tGN\nW\tBU\nHall 5V\tRD\nHall GND\tBK\n"
            "Hall A\tYE\nHall B\tGN\nHall C\tBU",
        )  # fmt: skip
        self.assertEqual(
            {"LEADS": ("motor phases", phases), "HALL": ("encoder", halls)}, ports_of(hub)
        )
        plus = hub.port("HALL").pins[0].electrical
        self.assertLess(plus.v_max_v, 6, "the volts of its name, not those of the motor")
        for leads in (
            "M1\tRD\nGND\tBK\nC1\tYE\nC2\tGN\nVCC\tBU\nM2\tWH",
            "M+\nM-\nENC VCC\nENC GND\nA\nB", "M+\nM-\nVCC\nGND\nA\nB",
        ):  # fmt: skip
            gear = made(kind="brushed motor", pins_text=leads, numbers={"nominal_v": 12})
            with self.subTest(leads):
                ports = ports_of(gear)
                self.assertEqual(("bridge motor", ["motor+", "motor-"]), ports["LEADS"])
                self.assertEqual("encoder", ports["ENCODER"][0])
                self.assertEqual(
                    {"plus", "zero", "encoder A", "encoder B"}, set(ports["ENCODER"][1])
                )
                self.assertIsNone(
                    next(p for p in gear.port("ENCODER").pins if p.function == "plus").electrical
                )

    def test_a_drive_that_is_fed_by_a_battery(self) -> None:
        rows = terminals(
            POWER="B+ B-", MOTOR="MA MB MC", HALL="REF+ HA HB HC REF-", CTRL="VR EN F/R BK COM",
            FG="FG COM", RC="S GND",
        )  # fmt: skip
        pulled_up = "5 V input, pulled up, for contacts to 0 V"
        part = made(
            kind="servo drive", pins_text=rows, numbers={"v_min_v": 24, "v_max_v": 48},
            circuits={"CTRL/input": "Analogue input, 0 to 5 V", "START/input": pulled_up},
        )  # fmt: skip
        ports = ports_of(part)
        self.assertEqual(("feed in", ["plus", "zero"]), ports["POWER"])
        self.assertEqual(("motor phases", ["phase U", "phase V", "phase W"]), ports["MOTOR"])
        self.assertEqual("encoder", ports["HALL"][0])
        # One common, which both plugs have a wire at.
        self.assertEqual(("analogue command", ["signal", "none", "zero"]), ports["CTRL"])
        self.assertEqual(("drive control", ["enable", "direction", "zero"]), ports["START"])
        self.assertEqual(("sensor", "servo"), (ports["FG"][0], ports["RC"][0]))
        joined = [set(e.pins) for e in part.inside if isinstance(e, Bridge)]
        battery_minus = ("POWER", "2")
        self.assertTrue(
            any({battery_minus, ("CTRL", "3"), ("START", "3")} <= pins for pins in joined),
            "what is not isolated is measured from the minus of the battery",
        )

    def test_the_common_of_a_contact_is_none_of_inputs(self) -> None:
        rows = "port\tterminal\nIN\tFWD\nIN\tREV\nIN\tCOM\nFAULT\tNO\nFAULT\tCOM"
        part = made(
            kind="frequency inverter", pins_text=rows,
            circuits={"IN/input": "24 V input, pulled up, for NPN and contacts to 0 V"},
        )  # fmt: skip
        self.assertFalse([e for e in part.inside if isinstance(e, Bridge)])


class WhatGivesAndWhatTakes(unittest.TestCase):
    def test_batteries_and_converters_by_what_is_printed(self) -> None:
        figures = {"nominal_v": 24, "current_a": 5, "v_min_v": 30, "v_max_v": 60}
        battery = made(kind="battery", pins_text="B+\nB-", numbers=figures)
        self.assertEqual("feed out", battery.ports[0].kind)
        rows = "port\tterminal\nIN\tIN+\nIN\tIN-\nOUT\tOUT+\nOUT\tOUT-"
        converter = made(kind="supply", pins_text=rows, numbers=figures)
        fed, gives = (converter.port(name).pins[0].electrical for name in ("IN", "OUT"))
        self.assertEqual((30, 60, None), (fed.v_min_v, fed.v_max_v, fed.current_a))
        self.assertEqual((24, 5), (gives.nominal_v, gives.current_a))

    def test_what_a_connector_is_called_says_nothing_of_a_pin(self) -> None:
        rows = "port\tterminal\nPOWER\t24V\nPOWER\tXYZ"
        said = describe(Draft(kind="controller", title="X", pins_text=rows), "my-x")
        self.assertEqual(["plus", "none"], [pin.function for pin in said.part.ports[0].pins])

    def test_a_sensor_of_24_v_with_a_voltage_gives_10_v(self) -> None:
        for numbers, gives_v in (
            ({"v_min_v": 15, "v_max_v": 30}, 10), ({"v_min_v": 4, "v_max_v": 6}, None),
            ({"v_min_v": 15, "v_max_v": 30, "gives_max_v": 5}, 5),
        ):  # fmt: skip
            part = made(kind="sensor", drive="volts", pins_text="+\n-\nOUT", numbers=numbers)
            out = next(p.electrical for p in part.ports[0].pins if p.function == "signal")
            self.assertEqual(gives_v, out.high_max_v)


V5 = {"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.05}


class SmallBoards(unittest.TestCase):
    def test_lines_of_a_controller_are_ports_of_their_own(self) -> None:
        board = Draft(
            kind="controller", title="X", numbers={"v_min_v": 6, "v_max_v": 20},
            pins_text=terminals(
                POWER="VIN GND 5V", DIGITAL="D2 D3 D4", ANALOG="A0 A1 A2",
                GPIO="3V3 5V GND GPIO2 GPIO3 GPIO4",
                LIMITS="X+ X- Y+ GND", SPINDLE="PWM 0-10V GND", MOTOR="A+ A- B+ B-",
            ),
        )  # fmt: skip
        ports = ports_of(describe(board, "my-x").part)
        for name, kind, functions in (
            ("D3", "digital input", ["signal"]), ("A1", "analogue input", ["signal"]),
            ("GPIO3", "digital input", ["signal"]),
            ("GPIO OUT", "feed out", ["plus", "plus", "zero"]),
            ("LIMITS X-", "digital input", ["signal", "zero"]),
            ("SPINDLE 0-10V", "analogue output", ["signal", "zero"]),
            ("MOTOR", "motor phases", ["phase A+", "phase A-", "phase B+", "phase B-"]),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual((kind, functions), ports.get(name))
        power = describe(board, "my-x").part.port("POWER")
        self.assertIsNone(power.pins[2].electrical, "5 V is none of 6 to 20 V")

    def test_boards_as_printers_and_routers_have_them(self) -> None:
        board = Draft(
            kind="controller", title="X", numbers={"v_min_v": 12, "v_max_v": 24},
            pins_text=terminals(
                POWER="24V COM", HE0="+ -", BED="+ -", FAN0="+ -", TH0="SIG GND",
                INPUTS="X0 X1 COM", AVI="AVI ACM", MPG="A+ A- B+ B- 5V GND ESTOP",
                X_MIN="SIG GND 5V", Y_MIN="SIG GND 5V", Z_MAX="SIG GND 5V",
            ),
        )  # fmt: skip
        said = describe(board, "my-x")
        self.assertIn(("X MIN", "Y MIN"), [group.ports for group in said.groups])
        self.assertIn("Z MAX", said.unknown)
        # The plus of its loads is that of its feed: nobody is asked for it.
        self.assertIn(
            {("POWER", "1"), ("HE0", "1"), ("BED", "1"), ("FAN0", "1")},
            [set(e.pins) for e in said.part.inside if isinstance(e, Bridge)],
        )
        hot = replace(board, circuits={"HE0/output": "Low-side switch for heat, 12 A"})
        self.assertNotIn("HE0", describe(hot, "my-x").unknown)
        ports = ports_of(said.part)
        for name in ("HE0", "BED", "FAN0"):
            self.assertEqual(("switched output", ["plus", "load-"]), ports[name])
        self.assertEqual("thermistor input", ports["TH0"][0])
        self.assertEqual(("feed in", ["plus", "zero"]), ports["POWER"])
        self.assertEqual(("digital input", ["signal", "zero"]), ports["INPUTS X1"])
        self.assertIn(
            {("INPUTS X0", "2"), ("INPUTS X1", "2"), ("POWER", "2")},
            [set(e.pins) for e in said.part.inside if isinstance(e, Bridge)],
        )
        self.assertEqual(("analogue output", ["signal", "zero"]), ports["AVI"])
        self.assertEqual("encoder", ports["MPG"][0])

    def test_the_terminals_of_an_inverter(self) -> None:
        said = describe(Draft(
            kind="frequency inverter", title="X", numbers={"v_min_v": 200, "v_max_v": 240},
            pins_text=terminals(
                MAINS="R S T PE", MOTOR="U V W", BRAKE="P+ PB", DIGITAL="S1 S2 S3 DCM",
                ANALOG="10V AVI ACM", RELAY="RA RB RC", COMM="RS+ RS-",
            ),
        ), "my-x")  # fmt: skip
        ports = ports_of(said.part)
        for name, kind, functions in (
            ("MAINS", "feed in", ["line", "none", "neutral", "pe"]),
            ("BRAKE", "terminals", ["none", "none"]),
            ("DIGITAL", "drive control", ["enable", "direction", "none", "zero"]),
            ("ANALOG", "analogue command", ["plus", "signal", "zero"]),
            ("RELAY", "relay contact", ["no", "nc", "com"]), ("COMM", "bus", ["data+", "data-"]),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual((kind, functions), ports[name])

    def test_plain_numbers_at_a_stop_are_contacts_that_open(self) -> None:
        stop = made(kind="emergency stop", pins_text="1\n2\n3\n4", numbers={"contact_max_a": 5})
        self.assertEqual({"NC"}, {e.rest for e in stop.inside if isinstance(e, Contact)})

    def test_a_switch_that_is_fed_is_a_sensor(self) -> None:
        said = describe(Draft(kind="switch", title="X", pins_text="VCC\nGND\nSIG"), "my-x")
        self.assertIn("describe it as one", said.problems[0])

    def test_a_switching_module(self) -> None:
        relay = ports_of(made(
            kind="relay module", numbers={**V5, "contact_max_a": 10},
            pins_text=terminals(IN="VCC GND IN", OUT="COM NO NC"),
        ))  # fmt: skip
        self.assertEqual(("load", ["load-"]), relay["IN"])
        self.assertEqual(("feed in", ["plus", "zero"]), relay["IN POWER"])
        self.assertEqual("relay contact", relay["OUT"][0])
        switch = ports_of(made(
            kind="relay module", numbers=V5,
            pins_text=terminals(IN="SIG VCC GND", POWER="VIN GND", OUT="V+ V-"),
        ))  # fmt: skip
        self.assertEqual(("switched output", ["plus", "load-"]), switch["OUT"])

    def test_what_is_printed_at_small_parts(self) -> None:
        for kind, pins, functions in (
            ("sensor", "VCC TRIG ECHO GND", ["plus", "enable", "signal", "zero"]),
            ("sensor", "5-24V GND PULSE", ["plus", "zero", "signal"]),
            ("sensor", "24V 0V 0-10V", ["plus", "zero", "signal"]),
            ("sensor", "24V 0V 4-20mA", ["plus", "zero", "signal"]),
            ("encoder", "CLK DT SW + GND", ["encoder A", "encoder B", "plus", "zero"]),
            ("sensor", "V G S", ["plus", "zero", "signal"]),
            ("sensor", "6-36V GND NO", ["plus", "zero", "signal"]),
            ("sensor", "GND 5V CONTROL ZMIN", ["zero", "plus", "enable", "signal"]),
            ("fan", "GND +12V TACH PWM", ["load-", "load+", "signal", "pulse width"]),
            ("lamp", "+12V R G B", ["load+", "load-"]),
            ("lamp", "COM RED GREEN BUZZER", ["load+", "load-"]),
            ("lamp", "0V RED GREEN BUZZER", ["load-", "load+"]),
        ):
            with self.subTest(pins):
                part = made(kind=kind, pins_text="\n".join(pins.split()), numbers=V5)
                self.assertEqual(functions, [pin.function for pin in part.ports[0].pins])
        actuator = made(
            kind="brushed motor", numbers={"nominal_v": 12, "current_a": 3},
            pins_text="M+\nM-\nPOT+\nPOT OUT\nPOT-",
        )  # fmt: skip
        self.assertEqual(("analogue sensor", ["plus", "signal", "zero"]), ports_of(actuator)["POT"])
        self.assertIsNone(actuator.port("POT").pins[0].electrical)
