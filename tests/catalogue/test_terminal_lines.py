"""Contacts and coils however they stand on paper, the volts printed at terminals, and one choice of
levels for all inputs."""

import unittest

from msgspec.structs import replace

from shop_machines import mill_parts
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.catalogue.printed_volts import window_printed
from vervain.catalogue.terminal_lines import terminals_apart
from vervain.catalogue.told_circuits import ALL_INPUTS
from vervain.model.electrical import FeedIn
from vervain.model.elements import Contact
from vervain.model.part import Part, PartKind

PULLED_UP = "5 V input, pulled up, for contacts to 0 V"
TTL = "5 V input, TTL levels"
POLES = ("1/L1-2/T1", "3/L2-4/T2")


def described(text: str, kind: PartKind, **choices) -> Part:
    part = describe(Draft(kind=kind, title="X", pins_text=text, **choices), "my-x").part
    assert part is not None
    return part


def contacts(part: Part) -> list[tuple[str, str, str]]:
    """Each contact: its two terminals and how it rests."""
    return [(e.pins[0][1], e.pins[1][1], e.rest) for e in part.inside if isinstance(e, Contact)]


def feed(part: Part, port: str) -> tuple[float, float | None]:
    """The window of the first pin of a port that is fed."""
    found = next(p for p in part.port(port).pins if isinstance(p.electrical, FeedIn))
    return found.electrical.v_min_v, found.electrical.v_max_v


class Contacts(unittest.TestCase):
    def test_a_stop_has_its_channels_however_they_are_written(self) -> None:
        two = [("11", "12", "NC"), ("21", "22", "NC")]
        for text in (
            "11\n12\n21\n22", "11 12\n21 22", "11-12\n21-22", "11/12, 21/22", "11 12 21 22",
            "NC 11-12\nNC 21-22", "NC1: 11-12 NC2: 21-22", "11 NC\n12 NC\n21 NC\n22 NC",
            "contact 11 12\ncontact 21 22", "red 11\nblack 12\nblue 21\nwhite 22",
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(two, contacts(described(text, "emergency stop")))
        for text in ("NC 1 2\nNO 3 4", "1 NC\n2 NC\n3 NO\n4 NO", "1 N.C.\n2\n3 N.O.\n4"):
            with self.subTest(text):
                found = contacts(described(text, "emergency stop"))
                self.assertEqual([("1", "2", "NC"), ("3", "4", "NO")], found)

    def test_two_ends_and_what_they_do_are_a_contact(self) -> None:
        for text in ("1 2 NO", "NO NO", "1\n2 NO", "3 4 NO", "13 14 NO"):
            with self.subTest(text):
                self.assertEqual(
                    ["NO"], [rest for _, _, rest in contacts(described(text, "switch"))]
                )
        both = described("1 2 NC, 3 4 NO", "switch")
        self.assertEqual([("1", "2", "NC"), ("3", "4", "NO")], contacts(both))
        self.assertEqual(["contact", "contact"], [port.kind for port in both.ports])
        for text, ports in (
            ("A1+ A2-\n11 12 14\n21 22 24", ["COIL", "11-14", "21-24"]),
            ("A1 A2\nCOM NO NC", ["COIL", "RELAY"]),
        ):
            self.assertEqual(ports, [port.id for port in described(text, "relay module").ports])

    def test_a_cut_out_lies_in_the_feed_of_a_heater(self) -> None:
        draft = Draft(kind="switch", title="Thermal cut-out", pins_text="1 2 NC")
        part = describe(draft, "my-x").part
        self.assertEqual(("terminals", "through"), (part.ports[0].kind, part.ports[0].end))
        self.assertEqual("heat", part.inside[0].worked_by)
        alike = describe(replace(draft, pins_text="A\nA"), "my-x")
        self.assertIn("two leads", alike.problems[-1])

    def test_no_pole_of_a_contactor_is_lost(self) -> None:
        for text in (
            "A1\nA2\n1 L1\n2 T1\n3 L2\n4 T2\n13 NO\n14 NO",
            "1/L1 2/T1\n3/L2 4/T2\n13 14\nA1 A2",
            "A1 A2\n1 L1\n3 L2\n13 NO\n2 T1\n4 T2\n14 NO",
        ):
            with self.subTest(text):
                ports = [port.id for port in described(text, "contactor").ports]
                self.assertEqual(["COIL", *POLES, "13-14"], ports)
        bare = described("coil A1\ncoil A2\nL1-T1, L2-T2, L3-T3", "contactor")
        self.assertEqual(["COIL", "L1-T1", "L2-T2", "L3-T3"], [port.id for port in bare.ports])

    def test_a_switch_by_words_and_by_figures(self) -> None:
        for text in ("COM NO NC", "COM NO\nNC", "1 COM\n2 NO\n3 NC"):
            with self.subTest(text):
                rests = [rest for *_, rest in contacts(described(text, "switch"))]
                self.assertEqual(["NC", "NO"], sorted(rests))
        both = contacts(described("13 14 NO\n21 22 NC", "switch"))
        self.assertEqual([("13", "14", "NO"), ("21", "22", "NC")], both)

    def test_a_table_stays_a_table(self) -> None:
        for text in ("pin\tfunction\n11\tNC\n12\tCOM", "pin,function\n11,NC\n12,COM"):
            with self.subTest(text):
                self.assertEqual(text, terminals_apart(text))

    def test_a_solid_state_relay_by_its_words_with_the_volts_that_start_it(self) -> None:
        for text, pole in (
            ("1 24-380VAC\n2 LOAD\n3 + 3-32V\n4 -", "1-2"),
            ("IN+ 3-32V\nIN-\nAC1\nAC2", "AC1-AC2"), ("~\n~\n+ 3-32V\n-", "~.1-~.2"),
            ("1~ 2~\n3+ 3-32VDC\n4-", "1~-2~"),
        ):  # fmt: skip
            with self.subTest(text):
                part = described(text, "solid-state relay")
                self.assertEqual({"CONTROL", pole}, {port.id for port in part.ports})
                self.assertEqual((3.0, 32.0), feed(part, "CONTROL"))

    def test_a_line_that_is_read_in_part_is_marked(self) -> None:
        said = describe(Draft(kind="contactor", title="X", pins_text="A1 A2 FOO\n13 14"), "my-x")
        marks = [mark for row in said.rows for mark in row.marks]
        self.assertTrue(said.problems or any("of this line is read" in mark for mark in marks))


class Volts(unittest.TestCase):
    def test_windows_behind_the_name_of_a_plus(self) -> None:
        for text, window in (
            ("12-24V", (12, 24)), ("VIN 12-24V", (12, 24)), ("VIN (12 to 24 V DC)", (12, 24)),
            ("V+ 4.5...5.5V", (4.5, 5.5)), ("0-10V", None), ("24-12V", None), ("IN4", None),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(window, window_printed(text))
        rows = "GND\nIN1\nIN2\nIN3\nCOM\nOUT1\nOUT2\nGND"
        for first in ("VIN 12-24V", "VIN (12-24V DC)", "12-24V", "V+ 12-24VDC"):
            with self.subTest(first):
                board = described(f"{first}\n{rows}", "controller")
                self.assertEqual(2, len(board.port("POWER").pins))
                self.assertEqual((12.0, 24.0), feed(board, "POWER"))
        # Five volts behind a name are a terminal of their own.
        small = described("VIN 5V GND\nD1 D2 D3 D4", "controller")
        self.assertIn("5V", [pin.text for port in small.ports for pin in port.pins])

    def test_each_output_has_its_own_two_terminals(self) -> None:
        text = "VIN\nGND\nLIM1\nGND\nLIM2\nGND\nLID\nGND\n5V\nHEAT+\nHEAT-\nFAN+\nFAN-\nSTOP\nGND"
        ports = {p.id: [x.text for x in p.pins] for p in described(text, "controller").ports}
        self.assertEqual(["HEAT+", "HEAT-"], ports["HEAT"])
        self.assertEqual(["LID", "GND"], ports["LID"])
        self.assertEqual(["5V"], ports["5V OUT"])


class Lists(unittest.TestCase):
    def test_words_of_a_boards_own_are_lines_and_say_what_they_are_of(self) -> None:
        board = mill_parts()["my-mill-board"]
        kinds = {port.id: port.kind for port in board.ports}
        self.assertEqual(
            {"POWER": "feed in", "X LIM": "digital input", "ESTOP": "stop input",
             "LIGHT": "switched output", "SPINDLE ON": "switched output",
             "AVI 0-10V": "analogue output", "Z": "step and direction"},
            {name: kinds[name] for name in ("POWER", "X LIM", "ESTOP", "LIGHT", "SPINDLE ON",
                                            "AVI 0-10V", "Z")},
        )  # fmt: skip
        self.assertEqual(["LIGHT", "GND"], [pin.text for pin in board.port("LIGHT").pins])
        driver = mill_parts()["my-mill-driver"]
        power = driver.port("POWER").pins
        self.assertEqual(["AC1 24-80V", "AC2"], [pin.text for pin in power])
        self.assertTrue(power[0].electrical.polarity_free)
        steps = {pin.text: pin.function for pin in driver.port("CONTROL").pins}
        self.assertEqual("step", steps["PUL+"])
        # A word that nobody knows among many that are known.
        text = "24V\nGND\nIN1\nIN2\nIN3\nCOM\nFROB\nOUT1\nOUT2\nGND"
        names = [x.text for p in described(text, "controller").ports for x in p.pins]
        self.assertIn("FROB", names)

    def test_a_small_board_by_its_rows_of_pins(self) -> None:
        text = "VIN\n5V\n3V3\nGND\nGND\nD2 ~D3 D4 ~D5\nA0 A1 A2 A3\nRESET\nAREF"
        ports = {p.id: [x.text for x in p.pins] for p in described(text, "controller").ports}
        self.assertEqual(["VIN", "GND", "GND"], ports["POWER"])
        self.assertEqual([["5V"], ["3V3"]], [ports["5V OUT"], ports["3V3 OUT"]])
        self.assertLessEqual({"D2", "~D3", "~D5", "A0", "A3", "RESET", "AREF"}, set(ports))
        line = described(text, "controller").port("D4").pins
        self.assertEqual(["D4", "5V", "GND"], [pin.text for pin in line])
        given = described(text, "controller").port("5V OUT").pins[0].electrical
        self.assertEqual((5.0, 0.3), (given.nominal_v, given.current_a))
        # What feeds the board itself is no plus of its lines.
        below = described("VIN\n5V\nGND\nD2\nD3\nA0\nA1", "controller")
        self.assertEqual(["D2", "GND"], [pin.text for pin in below.port("D2").pins])

    def test_an_inverter_listed_as_one(self) -> None:
        listed = "R\nT\nPE\nU\nV\nW\nFWD\nREV\nRST\nDCM\n10V\nAVI\nACM\n{0}A\n{0}B\n{0}C"
        for relay in "RTM":
            with self.subTest(relay):
                part = described(listed.format(relay), "frequency inverter")
                ports = {port.id: [pin.function for pin in port.pins] for port in part.ports}
                self.assertEqual(["line", "neutral", "pe"], ports["MAINS"])
                self.assertEqual(["phase U", "phase V", "phase W"], ports["MOTOR"])
                self.assertEqual(["no", "nc", "com"], ports["RELAY"])
                self.assertEqual(["plus", "signal", "zero"], ports["ANALOG"])

    def test_motors_and_drivers_that_are_worked_coil_by_coil_are_not_known(self) -> None:
        leads = "blue 1\npink 2\nyellow 3\norange 4\nred 5"
        for kind, text in (
            ("stepper motor", leads),
            ("stepper driver", "IN1\nIN2\nIN3\nGND\nA\nB"),
        ):
            with self.subTest(kind):
                said = describe(Draft(kind=kind, title="X", pins_text=text), "my-x")
                self.assertIn("not known", " ".join(said.problems))

    def test_what_comes_to_no_port_is_told(self) -> None:
        text = "R\nT\nPE\nU\nV\nW\nFWD\nREV\nRST\nDCM\n10V\nAVI\nACM\nRA\nRB\nRC"
        said = describe(Draft(kind="servo drive", title="X", pins_text=text), "my-x")
        self.assertIn("RA, RB are at no port", " ".join(said.problems))
        # What once broke off: a pin of the letter of an axis that nothing else is of.
        odd = "24V 0V\nXP+ XP- XD+ XD-\nOUT1 A GND\nIN1 IN2 IN3 COM\nA B"
        self.assertIsNotNone(describe(Draft(kind="controller", title="X", pins_text=odd), "my-x"))


class AllInputs(unittest.TestCase):
    def test_one_choice_is_that_of_every_input_that_has_none(self) -> None:
        text = "VIN\nGND\nLIM1\nGND\nLIM2\nGND\nLID\nGND\nPROBE\nGND"
        draft = Draft(kind="controller", title="X", pins_text=text)
        asked = describe(draft, "my-x").unknown
        self.assertEqual(3, len(asked))
        every = describe(replace(draft, circuits={ALL_INPUTS: PULLED_UP}), "my-x")
        self.assertEqual((), every.unknown)
        own = replace(draft, circuits={ALL_INPUTS: PULLED_UP, "LID/input": TTL, "PROBE/input": ""})
        said = describe(own, "my-x")
        self.assertEqual(("PROBE",), said.unknown)
        circuits = {port.id: port.pins[0].electrical for port in said.part.ports}
        self.assertNotEqual(circuits["LIM1"], circuits["LID"])
        self.assertIsNotNone(circuits["LIM2"])
