"""Controllers with screw terminals, as their labels are copied: lines with both their ends, outputs
that are fed apart, names before the terminals of a line; and what hangs on them."""

import unittest

from msgspec.structs import replace

from tests.catalogue.test_source_lines import ports_of
from tests.catalogue.test_terminal_lines import described
from vervain import api
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.catalogue.joined import join
from vervain.edits.device_edits import add_device
from vervain.model.electrical import FeedIn, LogicInput
from vervain.model.elements import Bridge, Contact
from vervain.model.machine import Machine, PortRef
from vervain.model.part import PartKind
from vervain.ports.fit import ranked_fits
from vervain.queries.machine_queries import Queries

INPUT, OUTPUT = ("digital input", "signal", "zero"), ("switched output", "plus", "load-")


class Labels(unittest.TestCase):
    def test_a_label_is_read_as_it_stands(self) -> None:
        cases: tuple[tuple[PartKind, str, dict[str, tuple[str, ...]]], ...] = (
            ("controller", "24V GND\nIN1+ IN1-\nIN2+ IN2-\nOUT1+ OUT1-\nAI1+ AI1-\nAO1 AGND\n"
             "ENC A+ A- B+ B-", {
                "POWER": ("feed in", "plus", "zero"), "IN1": INPUT, "IN2": INPUT, "OUT1": OUTPUT,
                "AI1": ("analogue input", "signal", "zero"),
                "AO1": ("analogue output", "signal", "zero"),
                "ENC": ("encoder", "encoder A", "encoder A-", "encoder B", "encoder B-"),
            }),
            ("controller", "DC+ DC-\nDI1+ DI1- DI2+ DI2-\nDO1+ DO1- DO2+ DO2-\nRS485+ RS485-", {
                "DC": ("feed in", "plus", "zero"), "DI1": INPUT, "DI2": INPUT, "DO1": OUTPUT,
                "DO2": OUTPUT, "RS485": ("bus", "data+", "data-"),
            }),
            ("controller", "VIN+ VIN-\nLIM1+ LIM1-\nPROBE+ PROBE-\nT0+ T0-\nSSR+ SSR-\n"
             "SERVO1 5V GND", {
                "VIN": ("feed in", "plus", "zero"), "LIM1": INPUT, "PROBE": INPUT,
                "T0": ("thermistor input", "sense 1", "sense 2"),
                "SSR": ("switched output", "signal", "zero"),
                "SERVO1": ("servo", "signal", "plus", "zero"),
            }),
            ("controller", "VIN GND\nIN1: GPIO13\nIN2: 1 2\nSTART: 1 2\nIN: 1 2", {
                "PORT": ("feed in", "plus", "zero"), "IN1": ("digital input", "signal"),
                "IN2": INPUT, "START": INPUT,
                "IN 1": ("digital input", "signal"), "IN 2": ("digital input", "signal"),
            }),
            ("controller", "L N PE\n24V: IN+ IN-\n5V OUT: + -\nTC: + -", {
                "PORT": ("feed in", "line", "neutral", "pe"), "24V": ("feed in", "plus", "zero"),
                "5V OUT": ("feed out", "plus", "zero"),
                "TC": ("transducer input", "measure+", "measure-"),
            }),
            ("signal converter", "VDD GND SCL SDA ADDR A0 A1", {
                "PORT": ("bus", "plus", "zero", "clock", "data", "none"),
                "A0": ("analogue input", "signal", "plus", "zero"),
                "A1": ("analogue input", "signal", "plus", "zero"),
            }),
            ("controller", "VCC 9-30V GND\nIN1: S G", {
                "PORT": ("feed in", "plus", "zero"), "IN1": INPUT,
            }),
            ("controller", "VIN 7-12V GND 5V", {
                "POWER": ("feed in", "plus", "zero"), "5V OUT": ("feed out", "plus"),
            }),
            ("controller", "1L+ 1M\n\nI0.0 I0.1 1M\n\nQ0.0 Q0.1 2L+ 2M\n\nAI0 AI1 2M", {
                "POWER": ("feed in", "plus", "zero"), "I0.0": INPUT, "I0.1": INPUT,
                "Q0.0": ("switched output", "load-", "plus", "zero"),
                "Q0.1": ("switched output", "load-", "plus", "zero"),
                "POWER 2L+": ("feed in", "plus", "zero"),
                "AI0": ("analogue input", "signal", "zero"),
                "AI1": ("analogue input", "signal", "zero"),
            }),
            ("controller", "L+\nM\nI1\nI2\nQ1\nQ1\nQ2\nQ2", {
                "POWER": ("feed in", "plus", "zero"),
                "I1": ("digital input", "signal", "plus", "zero"),
                "I2": ("digital input", "signal", "plus", "zero"),
                "Q1": ("relay contact", "com", "no"), "Q2": ("relay contact", "com", "no"),
            }),
            ("controller", "POWER 12-24V GND\nMOTOR A A+ A- B+ B-\nENDSTOP X SIG GND\n"
             "ENDSTOP Y SIG GND\nUART TX RX GND", {
                "POWER": ("feed in", "plus", "zero"),
                "MOTOR A": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
                "ENDSTOP X": INPUT, "ENDSTOP Y": INPUT,
                "UART": ("bus", "transmit", "receive", "zero"),
            }),
            ("controller", "PWR+ PWR-\nBED+ BED-\nTB T GND\nX-STOP 5V GND S\nXM 2B 2A 1A 1B\n"
             "Motor Y A+ A- B+ B-\nEND X MIN S GND\nPROBE PROBE GND", {
                "PWR": ("feed in", "plus", "zero"), "BED": OUTPUT,
                "TB": ("thermistor input", "sense 1", "sense 2"),
                "X-STOP": ("digital input", "plus", "zero", "signal"),
                "XM": ("motor phases", "phase B-", "phase B+", "phase A+", "phase A-"),
                "Motor Y": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
                "END X MIN": INPUT, "PROBE": INPUT,
            }),
            ("controller", "24V 0V\nPULS1+ PULS1- SIGN1+ SIGN1-\nENC A+ A- B+ B- 5V 0V\nIN1\n"
             "IN2\nCOM\nSTART STOP COM", {
                "POWER": ("feed in", "plus", "zero"),
                "AXIS 1": ("step and direction", "step", "zero", "direction", "zero"),
                "ENC": ("encoder", "encoder A", "encoder A-", "encoder B", "encoder B-", "plus",
                        "zero"),
                "IN1": INPUT, "IN2": INPUT, "START": INPUT,
                "STOP": ("stop input", "stop A+", "zero"),
            }),
            ("controller", "J1 24V 0V\nJ2 STEP DIR EN 5V\nLIM X Y COM\nRELAY1 COM NO NC", {
                "J1": ("feed in", "plus", "zero"),
                "J2": ("step and direction", "step", "direction", "enable", "plus"),
                "LIM X": INPUT, "LIM Y": INPUT, "RELAY1": ("relay contact", "com", "no", "nc"),
            }),
            ("servo drive", "MAINS L1 L2 PE\nMOTOR U V W PE\nSTO STO1 STO2 COM", {
                "MAINS": ("feed in", "line", "neutral", "pe"),
                "MOTOR": ("motor phases", "phase U", "phase V", "phase W", "pe"),
                "STO": ("stop input", "stop A+", "stop B+", "zero"),
            }),
            ("contactor", "COIL A1 A2\nMAIN 1 2 3 4\nAUX 13 14", {
                "COIL": ("coil", "coil+", "coil-"), "1-2": ("terminals", "through", "through"),
                "3-4": ("terminals", "through", "through"), "13-14": ("contact", "com", "no"),
            }),
            ("supply", "AC L N FG\nOUT OUT+ OUT-", {
                "AC": ("feed in", "line", "neutral", "pe"), "OUT": ("feed out", "plus", "zero"),
            }),
            ("servo drive", "VCC GND U V W 5V GND HA HB HC VR GND ZF EN", {
                "POWER": ("feed in", "plus", "zero"),
                "MOTOR": ("motor phases", "phase U", "phase V", "phase W"),
                "HALL": ("encoder", "plus", "zero", "hall U", "hall V", "hall W"),
                "CONTROL": ("analogue command", "signal", "zero"),
                "START": ("drive control", "direction", "enable", "zero"),
            }),
            ("motor bridge", "B+ B- M+ M- RPWM LPWM R_EN VCC GND", {
                "POWER": ("feed in", "plus", "zero"),
                "MOTOR": ("bridge output", "motor+", "motor-"),
                "CONTROL": ("bridge control", "pulse width", "direction", "enable", "zero"),
                "LOGIC": ("feed in", "plus", "zero"),
            }),
            ("frequency inverter", "L1 L2 L3 PE\nT1 T2 T3\nS1 S2 COM\n10V AI GND\nR1A R1B R1C", {
                "MAINS": ("feed in", "line", "neutral", "none", "pe"),
                "MOTOR": ("motor phases", "phase U", "phase V", "phase W"),
                "CONTROL": ("drive control", "enable", "direction", "zero"),
                "ANALOG": ("analogue command", "plus", "signal", "zero"),
                "R1A": ("relay contact", "no", "nc", "com"),
            }),
            ("frequency inverter", "R\nS\nT\nU\nV\nW\nS1\nS2\nCOM\nMA\nMB\nMC", {
                "MAINS": ("feed in", "line", "none", "neutral"),
                "MOTOR": ("motor phases", "phase U", "phase V", "phase W"),
                "CONTROL": ("drive control", "enable", "direction", "zero"),
                "RELAY": ("relay contact", "no", "nc", "com"),
            }),
            ("stepper driver", "PUL+(5V) PUL-(PUL) DIR+(5V) DIR-(DIR)\nA+ A- B+ B-\nVCC GND", {
                "CONTROL": ("step and direction", "step", "zero", "direction", "zero"),
                "MOTOR": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
                "POWER": ("feed in", "plus", "zero"),
            }),
            ("relay module", "A1 A2\nS11 S12\nS21 S22\nS33 S34\n13 14\n41 42", {
                "POWER": ("feed in", "plus", "zero"),
                "STOP": ("stop input", "plus", "stop A+", "plus", "stop B+"),
                "START": ("digital input", "plus", "signal"),
                "13-14": ("contact", "com", "no"), "41-42": ("contact", "com", "nc"),
            }),
        )  # fmt: skip
        for kind, text, wanted in cases:
            with self.subTest(text, kind=kind):
                self.assertEqual(wanted, ports_of(described(text, kind)))

    def test_what_feeds_outputs_is_fed_apart_and_lies_at_each_of_them(self) -> None:
        text = "24V 0V\n\nI0 I1 I2 COM\n\nQ0 Q1 Q2\nQL+ QM"
        part = described(text, "controller", numbers={"v_min_v": 20, "v_max_v": 28})
        feed = part.port("POWER QL+").pins[0].electrical
        self.assertEqual(FeedIn(v_min_v=20, v_max_v=28, current_a=0.0), feed)
        bars = [set(e.pins) for e in part.inside if isinstance(e, Bridge)]
        self.assertIn({("Q0", "2"), ("Q1", "2"), ("Q2", "2"), ("POWER QL+", "1")}, bars)

    def test_an_output_with_a_plus_and_a_minus_switches_what_its_circuit_says(self) -> None:
        for circuit, functions in (
            ("Low-side switch, 0.5 A, with a diode for coils", OUTPUT[1:]),
            ("High-side switch, 0.5 A, with a diode for coils", ("load-", "zero")),
        ):
            draft = Draft(
                kind="controller", title="Board", pins_text="24V GND\nLAMP: + -",
                circuits={"LAMP/output": circuit},
            )  # fmt: skip
            part = describe(draft, "my-board").part
            assert part is not None
            port = part.port("LAMP")
            assert port is not None
            self.assertEqual(functions, tuple(pin.function for pin in port.pins))

    def test_the_volts_at_step_inputs_say_which_they_take(self) -> None:
        for volts, most_v, least_ohm in (
            ("", 5.5, 270),
            ("5V", 5.5, 270),
            ("24V", 30, 3300),
            ("5-24V", 30, 2200),
        ):
            said = f" ({volts})" if volts else ""
            part = described(
                f"PU+{said}\nPU-\nDR+{said}\nDR-\nV+\nV-\nA+\nA-\nB+\nB-", "stepper driver"
            )
            entry = part.port("CONTROL").pins[0].electrical
            with self.subTest(volts):
                assert isinstance(entry, LogicInput) and entry.opto is not None
                self.assertEqual((most_v, least_ohm), (entry.max_v, entry.opto.resistance_ohm))

    def test_each_throw_of_a_selector_is_a_contact_of_its_own(self) -> None:
        for text, throws in (
            ("COM 1 2", ["1", "2"]), ("C\nX1\nX10\nX100", ["X1", "X10", "X100"]),
            ("COM UP DOWN LEFT", ["UP", "DOWN", "LEFT"]), ("L 0 R COM", ["L", "0", "R"]),
        ):  # fmt: skip
            part = described(text, "switch")
            with self.subTest(text):
                ends = [part.port(port.id).pins[1].text for port in part.ports]
                self.assertEqual(throws, ends)
                contacts = [e for e in part.inside if isinstance(e, Contact)]
                self.assertEqual(["NO"] * len(throws), [e.rest for e in contacts])
                self.assertEqual(1, sum(isinstance(e, Bridge) for e in part.inside))

    def test_the_second_output_of_a_sensor_may_stay_open(self) -> None:
        for text, first in (
            ("brown +\nwhite NC\nblue -\nblack NO", "NO"), ("VCC\nNC\nNO\nGND", "NO"),
        ):  # fmt: skip
            draft = Draft(kind="sensor", title="X", pins_text=text, drive="PNP")
            part = describe(draft, "my-x").part
            with self.subTest(text):
                outputs = {p.text: p.optional for p in part.ports[0].pins if p.function == "signal"}
                self.assertEqual({first: False, "NC": True}, outputs)

    def test_no_terminal_of_a_pole_is_lost_in_one_line(self) -> None:
        part = described("A1 A2 230V AC\n1 L1 2 T1\n3 L2 4 T2\n21 22 NC", "contactor")
        self.assertEqual(["COIL", "1/L1-2/T1", "3/L2-4/T2", "21-22"], [p.id for p in part.ports])
        breaker = described("1 2\nN N", "fuse")
        self.assertEqual(
            [["1", "2"], ["N.1", "N.2"]], [[q.id for q in p.pins] for p in breaker.ports]
        )

    def test_what_drives_a_solid_state_relay_gives_a_level_and_goes_to_its_control(self) -> None:
        regulator = described(
            "1 L\n2 N\n3 SSR+\n4 SSR-\n5 AL1\n6 AL1\n7 TC+\n8 TC-",
            "controller",
            numbers={"v_min_v": 100, "v_max_v": 240, "current_a": 0.05},
        )
        self.assertEqual("relay contact", regulator.port("AL1").kind)
        relay = described("1/L1 2/T1\n3 + 3-32V\n4 -", "solid-state relay")
        parts = {"K1": regulator, "K2": relay}
        machine = Machine(name="Regulated")
        for name, part in parts.items():
            machine = add_device(machine, replace(part, id=f"my-{name.lower()}"), name, name)
        fits = {
            f.host.port: f
            for f in ranked_fits(Queries(machine), PortRef(device="K2", port="CONTROL"))
        }
        self.assertEqual(
            ("fits", (("3", "1"), ("4", "2"))), (fits["SSR"].verdict, fits["SSR"].pairs)
        )
        # Nobody gave what the output gives: it is expected to give plus, and nothing is accused.
        board = described("24V GND\nSSR: + -\nTC1: + -", "controller")
        machine = Machine(name="Not given")
        for name, part in {"K1": board, "K2": relay}.items():
            machine = add_device(machine, replace(part, id=f"my-{name.lower()}"), name, name)
        placed = api.apply_placements(machine, api.place(machine).placements)
        self.assertEqual(1, len(placed.hookups))
        self.assertNotIn("leads.swapped", {found.rule for found in api.check(placed).open})

    def test_a_step_module_sits_in_a_slot_or_is_wired_pin_by_pin(self) -> None:
        text = "EN\nDIR\nSTEP\nGND\nVIO 3-5V\nVM 8-30V\nGND\nOA1\nOA2\nOB1\nOB2"
        draft = Draft(kind="stepper driver", title="Step module", pins_text=text)
        self.assertEqual(["PORT"], list(ports_of(describe(draft, "my-t").part)))
        wired = replace(draft, roles={"PORT": "step and direction, from a controller"})
        ports = ports_of(describe(wired, "my-t").part)
        self.assertEqual(
            ["feed in", "motor phases", "step and direction"],
            [ports[name][0] for name in ("POWER", "MOTOR", "CONTROL")],
        )

    def test_a_switch_that_turns_something_on_closes(self) -> None:
        for title, text, rest in (
            ("Power switch", "1\n2", "NO"), ("Rocker, lit", "1\n2", "NO"),
            ("End stop", "1\n2", None), ("Battery door switch", "1\n2", None),
            ("Power off button", "1\n2", None),
            ("Reed switch", "NO", "NO"), ("Power switch", "NC", "NC"),
            ("Start button", "13 14", "NO"), ("Power switch", "21\n22", "NC"),
        ):  # fmt: skip
            with self.subTest(title, text=text):
                draft = Draft(kind="switch", title=title, pins_text=text)
                contacts = [
                    e.rest for e in describe(draft, "my-s").part.inside if isinstance(e, Contact)
                ]
                self.assertEqual(rest, contacts[0] if contacts else None)

    def test_a_line_with_two_names_is_one_pin_and_the_bus_has_the_boards_volts(self) -> None:
        for text in (
            "3V3 GND VIN\nGPIO4\nSDA GPIO21\nSCL GPIO22", "VIN GND 5V GND D2 D3 A0 A1 SDA SCL",
        ):  # fmt: skip
            ports = ports_of(described(text, "controller"))
            self.assertEqual(("bus", "data", "clock", "plus", "zero"), ports["BUS"])
            self.assertNotIn("GPIO21", ports)

    def test_both_sides_of_a_feed_in_one_line_are_two_pins(self) -> None:
        cases: tuple[tuple[PartKind, str, list[str]], ...] = (
            ("battery", "B+ B-\nBalance", ["B+", "B-", "Balance"]),
            ("fan", "+ -\nTACH", ["+", "-", "TACH"]),
            ("sensor", "VCC GND\nOUT", ["VCC", "GND", "OUT"]),
            ("sensor", "+ red\n- black\nOUT white", ["+", "-", "OUT"]),
        )
        for kind, text, names in cases:
            with self.subTest(text):
                self.assertEqual(names, [row.name for row in join(text, "", kind)])

    def test_a_line_that_is_said_to_be_a_bus_is_its_one_wire(self) -> None:
        board = described(
            "VIN GND 5V GND D2 D3 D4", "controller", roles={"D4": "bus"},
            begins=frozenset({"D4"}), circuits={"D2/input": "5 V input, TTL levels"},
        )  # fmt: skip
        probe = described("red VCC\nblack GND\nyellow DATA", "sensor", drive="open collector")
        machine = Machine(name="Probe")
        for name, part in {"K1": board, "B1": probe}.items():
            machine = add_device(machine, replace(part, id=f"my-{name.lower()}"), name, name)
        hosts = [x.host.port for x in api.place(machine).placements]
        self.assertEqual(["D4"], hosts)

    def test_outputs_of_a_module_have_the_plus_of_its_loads_and_a_channel_each(self) -> None:
        module = described(
            "VCC GND\nIN1 IN2\nV+ V-\nOUT1+ OUT1-\nOUT2+ OUT2-",
            "relay module",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.02},
            circuits={
                "IN1/input": "5 V input, TTL levels",
                "OUT1/output": "Low-side switch, 3 A, without a diode",
                "OUT2/output": "Low-side switch, 3 A, without a diode",
            },
        )
        self.assertEqual(
            ["POWER", "POWER V+", "IN1", "IN2", "OUT1", "OUT2"],
            [port.id for port in module.ports],
        )
        self.assertEqual(
            {(("OUT1", "1"), ("POWER V+", "1")), (("OUT2", "1"), ("POWER V+", "1"))},
            {e.pins for e in module.inside if isinstance(e, Bridge)},
        )
        board = described(
            "VIN GND 5V GND D6 D7", "controller", roles={"D6": "logic output"},
            circuits={"D6/output": "5 V output, push-pull, 20 mA"},
        )  # fmt: skip
        pump = described("+ red\n- black", "brushed motor", numbers={"nominal_v": 12})
        machine = Machine(name="Doser")
        for name, part in {"K1": board, "K2": module, "M1": pump}.items():
            machine = add_device(machine, replace(part, id=f"my-{name.lower()}"), name, name)
        placed = {(x.plug.device, x.plug.port): x.host.port for x in api.place(machine).placements}
        self.assertEqual({("M1", "LEADS"): "OUT1", ("K2", "IN1"): "D6"}, placed)


class OtherLabels(unittest.TestCase):
    def test_what_each_line_of_a_label_is(self) -> None:
        """Of each part the kinds of its ports, in the order of the print."""
        for kind, text, wanted in (
            ("controller", "VCC GND\nM1+ M1-\nS1 S2\nENC1 A B VCC GND",
             {"POWER": "feed in", "M1": "bridge output", "S1": "digital input",
              "S2": "digital input", "ENC1": "encoder"}),
            ("controller", "24V 0V\nXP XD YP YD 5V\nSEL: X Y X1 X10 COM\nMPG: A+ A- B+ B- 5V 0V",
             {"POWER": "feed in", "X": "step and direction", "Y": "step and direction",
              "SEL X": "digital input", "SEL Y": "digital input", "SEL X1": "digital input",
              "SEL X10": "digital input", "MPG": "encoder"}),
            ("controller", "12-24V GND\nLIM-X LIM-Y GND\nLASER: GND PWM 24V\nAIR: V+ V-\nUSB",
             {"POWER": "feed in", "LIM-X": "digital input", "LIM-Y": "digital input",
              "LASER": "servo", "AIR": "switched output"}),
            ("controller", "5V GND\nCAN_H CAN_L GND\nSDA SCL 3V3 GND\nRGB 5V D GND\nTB TB",
             {"POWER": "feed in", "CAN": "bus", "BUS": "bus", "RGB": "bus",
              "TB": "thermistor input"}),
            ("motor bridge", "B+ B-\nM1A M1B M2A M2B\nS1 S2 5V 0V\nEN1: 5V 0V A B",
             {"B": "feed in", "M1": "bridge output", "M2": "bridge output",
              "PLUG 3": "bridge control", "EN1": "encoder"}),
            ("servo drive", "J1: VIN+ VIN-\nJ2: CANH CANL\nJ3: A B C\nJ4: HA HB HC 5V GND",
             {"J1": "feed in", "J2": "bus", "J3": "motor phases", "J4": "encoder"}),
            ("stepper driver", "PU+ PU- DR+ DR-\nPEND+ PEND- ALM+ ALM-\nA+ A- B+ B-\nAC AC",
             {"CONTROL": "step and direction", "PEND": "sensor", "ALM": "sensor",
              "MOTOR": "motor phases", "AC": "feed in"}),
            ("relay module", "VCC GND IN1 IN2\nNO1 COM1 NC1\nNO2 COM2 NC2\nJD-VCC VCC GND",
             {"POWER": "feed in", "IN": "feed in", "IN1": "load", "IN2": "load",
              "RELAY 1": "relay contact", "RELAY 2": "relay contact"}),
            ("signal converter", "GND\nOE\nSCL\nSDA\nVCC\n0: GND V+ PWM\n1: GND V+ PWM",
             {"PORT": "bus", "0": "servo", "1": "servo"}),
            ("signal converter", "VIN GND\nTX RX GND\nG V D\nG V D",
             {"POWER": "feed in", "PLUG 2": "bus", "BUS 1": "bus", "BUS 2": "bus"}),
            ("supply", "AC IN L N\nDC OUT V+ V-", {"AC IN": "feed in", "DC OUT": "feed out"}),
            ("radio receiver", "GND VCC PPM", {"PORT": "radio"}),
            ("controller", "DC12-24V GND\nFOOT: IN GND\nBEEP: + -\nKNOB: GND 5V SW DT CLK",
             {"PORT": "feed in", "FOOT": "digital input", "BEEP": "switched output",
              "KNOB": "encoder", "BUTTON KNOB": "digital input"}),
            ("controller", "24V GND\nLIMIT UP: COM NO\nALARM: COM NO\nFAN: + -",
             {"PORT": "feed in", "LIMIT UP": "digital input", "ALARM": "relay contact",
              "FAN": "switched output"}),
            ("motor bridge", "24V+ 24V-\nM1+ M1-\nIN1 IN2 0VDC",
             {"24V": "feed in", "M1": "bridge output", "PLUG 3": "bridge control"}),
        ):  # fmt: skip
            with self.subTest(text):
                part = describe(Draft(kind=kind, title="X", pins_text=text), "my-x").part
                self.assertEqual(wanted, {port.id: port.kind for port in part.ports})
