"""Prints at which a first reading goes wrong: a line that looks like a name, an end that looks like
a line of the mains, a letter that looks like a phase, a channel or an axis.
"""

import unittest

from tests.catalogue.test_source_lines import ports_of
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft, drive_of
from vervain.model.electrical import FeedIn, LogicOutput
from vervain.model.elements import Bridge, Contact, Fuse
from vervain.model.part import Part, PartKind

INPUT, OUTPUT = ("digital input", "signal", "zero"), ("switched output", "load-")
THROUGH = ("terminals", "through", "through")
CHANNEL, RELAY = ("load", "load-"), ("relay contact", "no", "com", "nc")
PHASES = ("motor phases", "phase U", "phase V", "phase W", "pe")
CHANNELS = tuple(f"encoder {letter}{sign}" for letter in "ABZ" for sign in ("", "-"))


def part_of(text: str, kind: PartKind, title: str = "X", **numbers: float) -> Part:
    draft = Draft(kind=kind, title=title, pins_text=text, numbers=numbers)
    part = describe(draft, "my-x").part
    assert part is not None
    return part


CASES: tuple[tuple[PartKind, str, dict[str, tuple[str, ...]]], ...] = (
    ("relay module", "IN VCC GND\nNO COM NC", {
        "IN": ("load", "load-", "zero"), "POWER": ("feed in", "plus", "zero"), "RELAY": RELAY,
    }),
    ("relay module", "5V GND SIG\nNO COM NC", {
        "POWER": ("feed in", "plus", "zero"), "IN": ("load", "load-", "zero"), "RELAY": RELAY,
    }),
    ("relay module", "IN1 IN2 GND\nOUT1 OUT2 COM", {
        "IN1": CHANNEL, "IN2": CHANNEL, "OUT1": OUTPUT, "OUT2": OUTPUT,
        "POWER": ("feed in", "zero"), "FEED": ("feed in", "plus"),
    }),
    ("controller", "POWER: 24V GND\nPT1: + -\nPT: 5V S GND", {
        "POWER": ("feed in", "plus", "zero"), "PT1": ("thermistor input", "sense 1", "sense 2"),
        "PT": ("analogue input", "plus", "signal", "zero"),
    }),
    ("sensor", "RED BLACK YELLOW", {"LEADS": ("sensor", "plus", "zero", "signal")}),
    ("controller", "12V GND\nKEYS: R1 R2 C1 C2\nRELAY: 1 2\nCOIN: 12V GND PULSE INH", {
        "PORT": ("feed in", "plus", "zero"),
        "KEYS R1": ("switched output", "signal"), "KEYS R2": ("switched output", "signal"),
        "KEYS C1": ("digital input", "signal"), "KEYS C2": ("digital input", "signal"),
        "RELAY": ("relay contact", "com", "no"),
        "COIN PULSE": ("digital input", "signal", "plus", "zero"),
        "COIN INH": ("switched output", "signal", "plus", "zero"),
    }),
    ("controller", "12V GND\nSOIL: VCC GND AO DO\nSALT: VCC GND A\nFOG: 1 2\nA0 3V3 GND", {
        "POWER": ("feed in", "plus", "zero"),
        "SOIL": ("analogue input", "plus", "zero", "signal", "none"),
        "SALT": ("analogue input", "plus", "zero", "signal"), "FOG": INPUT,
        "A0": ("analogue input", "signal", "plus", "zero"),
    }),
    ("controller", "BAT GND\n5V 3V3 GND\nSCK MOSI MISO NSS", {
        "POWER": ("feed in", "plus", "zero"), "5V OUT": ("feed out", "plus", "zero"),
        "3V3 OUT": ("feed out", "plus"),
        "SPI": ("bus", "clock", "transmit", "receive", "select", "plus", "zero"),
    }),
    ("controller", "24V GND\nTOWER: R Y G COM\nRGB: 12V R G B\nESTOP: S1+ S1- S2+ S2-", {
        "PORT": ("feed in", "plus", "zero"),
        **{f"TOWER {c}": (*OUTPUT, "zero") for c in "RYG"},
        **{f"RGB {c}": (*OUTPUT, "plus") for c in "RGB"},
        "ESTOP": ("stop input", "stop A+", "stop A-", "stop B+", "stop B-"),
    }),
    ("controller", "L N PE\nM1: L UP DOWN N PE\nIN1 GND", {
        "MAINS": ("feed in", "line", "neutral", "pe"), "IN1": INPUT,
        "M1": ("terminals", "through", "through", "through", "through", "pe"),
    }),
    ("switch", "UP DOWN COM", {
        "COM-UP": ("contact", "com", "no"), "COM-DOWN": ("contact", "com", "no"),
    }),
    ("fuse", "1 1' 2 2'", {"FUSE 1": THROUGH, "FUSE 2": THROUGH}),
    ("fuse", "IN OUT1 OUT2", {"FUSE 1": THROUGH, "FUSE 2": THROUGH}),
    ("servo drive", "B+ B-\nU V W\nTHROTTLE: 5V SIG GND\nBRAKE: SIG GND\nKEY", {
        "B": ("feed in", "plus", "zero"),
        "MOTOR": ("motor phases", "phase U", "phase V", "phase W"),
        "THROTTLE": ("analogue command", "plus", "signal", "zero"), "BRAKE": INPUT,
        "KEY": ("feed in", "plus"),
    }),
    ("motor bridge", "VM GND\nA B\nPWM DIR GND", {
        "POWER": ("feed in", "plus", "zero"), "PLUG 2": ("bridge output", "motor+", "motor-"),
        "PLUG 3": ("bridge control", "pulse width", "direction", "zero"),
    }),
    ("three-phase motor", "U V W PE\nB+ B-", {
        "LEADS": PHASES, "BRAKE": ("load", "load+", "load-"),
    }),
    ("three-phase motor", "U V W PE\nBR+ BR-", {
        "LEADS": PHASES, "BRAKE": ("load", "load+", "load-"),
    }),
    ("switch", "3 4\nX1 X2", {"LAMP": ("load", "load+", "load-"), "3-4": ("contact", "com", "no")}),
    ("servo", "GND VCC DATA\nGND VCC DATA", {
        "IN": ("bus", "zero", "plus", "data"), "OUT": ("bus", "zero", "plus", "data"),
    }),
    ("load", "C L R", {"L": ("load", "load+", "load-"), "R": ("load", "load+", "load-")}),
    ("valve", "OPEN CLOSE COM", {
        "OPEN": ("load", "load+", "load-"), "CLOSE": ("load", "load+", "load-"),
    }),
    ("load", "CLK DIO VCC GND", {"LEADS": ("bus", "clock", "data", "plus", "zero")}),
    ("sensor", "DC12V GND COIN INH", {"LEADS": ("sensor", "plus", "zero", "signal", "enable")}),
    ("sensor", "1 BN + / 3 BU - / 4 BK OUT", {"LEADS": ("sensor", "plus", "zero", "signal")}),
    ("sensor", "3.3V GND MISO MOSI SCK SDA", {
        "LEADS": ("bus", "plus", "zero", "transmit", "receive", "clock", "select"),
    }),
    ("sensor", "VCC GND A B", {"LEADS": ("bus", "plus", "zero", "data+", "data-")}),
    ("three-phase motor", "1 U / 2 V / 3 W / 4 PE", {"LEADS": PHASES}),
    ("three-phase motor", "U V W PE\n5V 0V D+ D-", {
        "LEADS": PHASES, "ENCODER": ("bus", "plus", "zero", "data+", "data-"),
    }),
    ("stepper motor", "A A/ B B/", {
        "LEADS": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
    }),
    ("relay module", "85 86 30 87 87a", {
        "COIL": ("load", "load+", "load-"), "30-87": ("relay contact", "com", "nc", "no"),
    }),
    ("supply", "L N G V- V+", {
        "MAINS": ("feed in", "line", "neutral", "pe"), "OUT": ("feed out", "zero", "plus"),
    }),
    ("solid-state relay", "3+ 4- / 1 2", {
        "CONTROL": ("load", "load+", "load-"), "1-2": THROUGH,
    }),
    ("valve", "A1 A2\nB1 B2", {
        "A": ("load", "load+", "load-"), "B": ("load", "load+", "load-"),
    }),
    ("switch", "C NO + -", {
        "LEADS": ("contact", "com", "no"), "LAMP": ("load", "load+", "load-"),
    }),
    ("motor bridge", "VM GND\nM1+ M1-\nSTO1 STO2 STOCOM\nBRK1: + -", {
        "POWER": ("feed in", "plus", "zero"), "M1": ("bridge output", "motor+", "motor-"),
        "STOP": ("stop input", "stop A+", "stop B+", "stop A-"),
        "BRK1": ("switched output", "plus", "load-"),
    }),
    ("controller", "24V 0V\nQ1: 1 2\nM1: A B\nAD0 AGND\nDA0 AGND\n0-10V: 10V VO GND", {
        "POWER": ("feed in", "plus", "zero"), "Q1": ("relay contact", "com", "no"),
        "M1": ("bridge output", "motor+", "motor-"), "AD0": ("analogue input", "signal", "zero"),
        "DA0": ("analogue output", "signal", "zero"),
        "0-10V": ("analogue output", "plus", "signal", "zero"),
    }),
    ("controller", "5V GND\nP1 PWM\nP2 STEP X\nP3 DIR X\nP10 GND\nP11 GND", {
        "POWER": ("feed in", "plus", "zero"), "PWM": ("switched output", "signal"),
        "X": ("step and direction", "step", "direction"),
        **{f"P1{n}{out}": (kind, "signal", "zero") for n in (0, 1)
           for out, kind in (("", "digital input"), (" OUT", "switched output"))},
    }),
    ("controller", "24V 0V\nAXIS1: PUL+ PUL- DIR+ DIR- A+ A- B+ B- Z+ Z- 0V", {
        "PORT": ("feed in", "plus", "zero"),
        "AXIS1": ("step and direction", "step", "none", "direction", "none", "zero"),
        "ENC AXIS1": ("encoder", *CHANNELS, "zero"),
    }),
    ("servo drive", "L1 L2 PE\nU V W PE\nCN1: PUL+ PUL- DIR+ DIR- COM+ ALM COM-\n"
     "CN2: 5V 0V D+ D-", {
        "MAINS": ("feed in", "line", "neutral", "pe"), "MOTOR": PHASES,
        "CN1": ("step and direction", "step", "zero", "direction", "zero", "plus", "zero"),
        "ALARM CN1": ("sensor", "signal", "zero"),
        "CN2": ("bus", "plus", "zero", "data+", "data-"),
    }),
)  # fmt: skip


# A small board by the rows of pins at its edges: what feeds it and what it gives, wherever it is.
ROWS = (
    ("D13 3V3 AREF A0 A1 A2 A3 5V RST GND VIN\nD12 D11 D10 D9 D8 D7 D6 D5 D4 D3 D2 GND RST D0 D1",
     ("VIN", "GND", "GND"), {"3V3 OUT": ("3V3",), "5V OUT": ("5V",), "RST": ("RST",)}, "D7", True),
    ("5V 3V3 GND D0 D1 D2 D3 A0 A1 SDA SCL VIN", ("VIN", "GND"),
     {"5V OUT": ("5V",), "3V3 OUT": ("3V3",), "BUS": ("SDA", "SCL", "5V", "GND")}, "D3", True),
    ("GND 3V3 EN D34 D35 D32 D33 D25 VIN GND\nD23 TX0 RX0 D21 D5 D4 D2", ("VIN", "GND", "GND"),
     {"3V3 OUT": ("3V3",), "SERIAL 0": ("TX", "RX"), "EN": ("EN",)}, "D21", True),
    ("3V3 GND 15 2 4 16 17 5 18 VIN", ("VIN", "GND"), {"3V3 OUT": ("3V3",)}, "16", True),
    ("24V GND 1 2 3 4 5 6 7 8", ("24V", "GND"), {}, "3", False),
)  # fmt: skip


class OddPrints(unittest.TestCase):
    def test_no_line_of_a_small_board_has_the_feed_that_it_happens_to_stand_beside(self) -> None:
        for text, power, others, line, is_line in ROWS:
            with self.subTest(text):
                part = part_of(text, "controller")
                found = {port.id: tuple(pin.text for pin in port.pins) for port in part.ports}
                self.assertEqual(power, found["POWER"])
                self.assertEqual(others, {name: found[name] for name in others})
                self.assertEqual(is_line, f"{line} OUT" in found)

    def test_a_name_says_the_volts_and_how_an_output_switches(self) -> None:
        relay = part_of("1 2 3+ 4-", "solid-state relay", "Relay 40 A, 3-32 V").port("CONTROL")
        feed = relay.pins[0].electrical
        assert isinstance(feed, FeedIn)
        self.assertEqual((3.0, 32.0), (feed.v_min_v, feed.v_max_v))
        meter = Draft(kind="sensor", title="Flow meter, open collector", numbers={"v_max_v": 18})
        self.assertEqual("NPN", drive_of(meter))
        cut = part_of("1 2 NC", "switch", "Boiler thermostat, manual reset")
        self.assertEqual(["heat"], [e.worked_by for e in cut.inside if isinstance(e, Contact)])

    def test_each_is_what_its_neighbours_make_of_it(self) -> None:
        for kind, text, wanted in CASES:
            with self.subTest(text, kind=kind):
                self.assertEqual(wanted, ports_of(part_of(text, kind)))

    def test_no_load_below_the_mains_has_a_line(self) -> None:
        pins = [p.function for port in part_of("C L R", "load", nominal_v=16).ports
                for p in port.pins]  # fmt: skip
        self.assertNotIn("line", pins)
        # Both ways of a blind's motor are lines, and its N is none.
        blind = part_of("UP DOWN N PE", "load", nominal_v=230).ports[0]
        self.assertEqual(["line", "line", "neutral", "pe"], [p.function for p in blind.pins])

    def test_a_switch_does_what_its_name_says(self) -> None:
        for title, wanted in (("Stop button", "nc"), ("Reed switch", "no"), ("Rain gauge", "no")):
            (port,) = part_of("1 2", "switch", title).ports
            self.assertEqual(["com", wanted], [pin.function for pin in port.pins], title)
        asked = describe(Draft(kind="switch", title="Float switch", pins_text="1 2"), "my-x")
        self.assertEqual(1, len(asked.problems))

    def test_an_overload_relay_lets_its_motor_through_and_opens_once_it_trips(self) -> None:
        for kind in ("switch", "fuse"):
            part = part_of("1 2 3 4 5 6\n95 96\n97 98", kind, "Overload relay")
            contacts = {
                e.pins[0][0]: (e.rest, e.worked_by) for e in part.inside if isinstance(e, Contact)
            }
            self.assertEqual({"95-96": ("NC", "trip"), "97-98": ("NO", "trip")}, contacts)
            through = [e for e in part.inside if isinstance(e, Bridge | Fuse)]
            self.assertEqual(3, len(through))

    def test_volts_in_a_name_are_those_of_its_lamp_and_of_its_brake(self) -> None:
        for text, title, kind, port in (
            ("3 4\nX1 X2", "Button, lit, 24 V", "switch", "LAMP"),
            ("U V W PE\nB+ B-", "Motor with brake 24 V", "three-phase motor", "BRAKE"),
        ):
            feed = part_of(text, kind, title, nominal_v=230).port(port).pins[0].electrical
            assert isinstance(feed, FeedIn)
            self.assertEqual(24.0, feed.nominal_v)
        unsaid = part_of("U V W PE\nB+ B-", "three-phase motor", nominal_v=230)
        feed = unsaid.port("BRAKE").pins[0].electrical
        assert isinstance(feed, FeedIn)
        self.assertEqual((None, None), (feed.nominal_v, feed.v_max_v))

    def test_what_works_at_5_v_drives_both_ways_unless_somebody_chose(self) -> None:
        for most_v, chosen, drive in (
            (5.5, None, "push-pull"), (30.0, None, "PNP"), (5.5, "NPN", "NPN"),
        ):  # fmt: skip
            draft = Draft(kind="sensor", title="X", pins_text="VCC GND OUT", drive=chosen,
                          numbers={"v_max_v": most_v})  # fmt: skip
            self.assertEqual(drive, drive_of(draft))
            part = describe(draft, "my-x").part
            assert part is not None and isinstance(part.ports[0].pins[2].electrical, LogicOutput)
            self.assertEqual(drive, part.ports[0].pins[2].electrical.drive)
        self.assertEqual("volts", drive_of(Draft(kind="sensor", title="Potentiometer")))

    def test_one_of_two_outputs_is_used_by_what_it_gives(self) -> None:
        for drive, used in (("volts", "AO"), ("push-pull", "DO")):
            draft = Draft(kind="sensor", title="X", pins_text="VCC GND DO AO", drive=drive)
            pins = describe(draft, "my-x").part.ports[0].pins
            self.assertEqual([used], [pin.name for pin in pins if pin.function == "signal"])
