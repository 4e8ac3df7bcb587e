"""Prints copied terminal by terminal: however they stand, the same board comes of them."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from vervain.catalogue.describe import Described, describe
from vervain.catalogue.drafts import Draft
from vervain.catalogue.printed_lists import printed_rows
from vervain.model.elements import Bridge, Contact
from vervain.model.part import Part, PartKind

AXIS = ("PUL+", "PUL-", "DIR+", "DIR-")
HEADED = "POWER: 24V 0V\nX: {0}\nY: {0}\nINPUTS: IN1 IN2 IN3 COM\nOUT: OUT1 OUT2 GND"
FEED, LINES = ["24V", "0V"], ["IN1", "IN2", "IN3", "COM", "OUT1", "OUT2", "GND"]
WAYS = {
    "one below the other": "\n".join(FEED + [f"{a} {p}" for a in "XY" for p in AXIS] + LINES),
    "with a hyphen": "\n".join(FEED + [f"{a}-{p}" for a in "XY" for p in AXIS] + LINES),
    "glued": "\n".join(FEED + [f"{a}{p}" for a in "XY" for p in AXIS] + LINES),
    "the axis behind": "\n".join(FEED + [f"{p} {a}" for a in "XY" for p in AXIS] + LINES),
    "in one line": " ".join(FEED + [f"{a}{p}" for a in "XY" for p in AXIS] + LINES),
    "with commas": ", ".join(FEED + [f"{a} {p}" for a in "XY" for p in AXIS] + LINES),
    "counted": "\n".join(
        f"{number} {word}"
        for number, word in enumerate(FEED + [f"{a} {p}" for a in "XY" for p in AXIS] + LINES, 1)
    ),
    "a line for each connector": "24V 0V\nX PUL+ PUL- DIR+ DIR-\nY PUL+ PUL- DIR+ DIR-\n"
    "IN1 IN2 IN3 COM\nOUT1 OUT2 GND",
    "with what it is for": "24V power\n0V power\n"
    + "\n".join(f"{a} {p} of the axis" for a in "XY" for p in AXIS)
    + "\nIN1 limit\nIN2 limit\nIN3 home\nCOM inputs\nOUT1 pump\nOUT2 lamp\nGND",
}


def described(text: str, kind: PartKind = "controller") -> Described:
    numbers = {"v_min_v": 20.0, "v_max_v": 28.0}
    return describe(Draft(kind=kind, title="Board", pins_text=text, numbers=numbers), "my-board")


def ports_of(part: Part | None) -> dict[str, tuple[str, ...]]:
    assert part is not None
    return {port.id: (port.kind, *(pin.function for pin in port.pins)) for port in part.ports}


class PrintedLists(unittest.TestCase):
    def test_however_prints_are_copied_the_same_board_comes_of_them(self) -> None:
        wanted = ports_of(described(HEADED.format(" ".join(AXIS))).part)
        self.assertEqual(8, len(wanted))
        for way, text in WAYS.items():
            found = described(text)
            with self.subTest(way):
                self.assertEqual(wanted, ports_of(found.part))
                self.assertEqual((), found.problems)

    def test_what_stands_beside_belongs_to_it(self) -> None:
        cases: dict[str, dict[str, tuple[str, ...]]] = {
            "24V\nGND\nSTEP1\nDIR1\nSTEP2\nDIR2\nGND\nHOME1\nHOME2\nGND\nTH1\nTH1\nFAN +\nFAN -": {
                "AXIS 2": ("step and direction", "step", "direction", "zero"),
                "HOME1": ("digital input", "signal", "zero"),
                "TH1": ("thermistor input", "sense 1", "sense 2"),
                "FAN": ("switched output", "plus", "load-"),
            },
            "X-STEP X-DIR X-EN\nCOM+\nX-LIM GND\n24V GND": {
                "X": ("step and direction", "step", "direction", "enable", "zero"),
                "X-LIM": ("digital input", "signal", "zero"),
                "POWER": ("feed in", "plus", "zero"),
            },
            "L\nN\nPE\nIN1\nIN2\nCOM\nQ1\nQ2": {
                "POWER": ("feed in", "line", "neutral", "pe"),
                "Q2": ("switched output", "load-", "zero"),
            },
            "24V\n0V\nOUT1 NO\nOUT1 COM\nOUT2 NO\nOUT2 COM\nIN1\nIN2\n24V\n0V": {
                "OUT2": ("relay contact", "no", "com"),
                "IN2": ("digital input", "signal", "plus", "zero"),
            },
        }
        for text, wanted in cases.items():
            found = ports_of(described(text).part)
            for port, expected in wanted.items():
                with self.subTest(text, port=port):
                    self.assertEqual(expected, found.get(port), found)

    def test_a_drive_in_one_list_has_a_feed_a_motor_and_a_control(
        self,
    ) -> None:
        driver = "ENA- ENA+ DIR- DIR+ PUL- PUL+ B- B+ A- A+ GND VCC"
        for text in (driver, driver.replace(" ", "\n")):
            kinds = [port.kind for port in described(text, "stepper driver").part.ports]
            self.assertEqual(["feed in", "motor phases", "step and direction"], kinds)
        for text in (
            "L N PE U V W FWD REV DCM AVI ACM 10V",
            "L N PE\nU V W\nFWD REV DCM\nAVI ACM 10V",
        ):
            inverter = described(text, "frequency inverter").part
            kinds = ["feed in", "motor phases", "analogue command", "drive control"]
            ports = {port.kind: port for port in inverter.ports}
            self.assertEqual(set(kinds), set(ports))
            # Each has the common beside it.
            pins = [pin.text for pin in ports["drive control"].pins]
            self.assertEqual(["FWD", "REV", "DCM"], pins)
        contacts = described("L N\nU V W\nFWD DCM\nRA RB RC", "frequency inverter").part
        self.assertEqual("relay contact", contacts.ports[-1].kind)
        slot = described("EN\nSTEP\nDIR\nGND\nVMOT\nA+\nA-\nB+\nB-", "stepper driver").part
        self.assertEqual(["driver slot"], [port.kind for port in slot.ports])

    def test_a_name_before_each_terminal_is_said_once(self) -> None:
        board = "24V GND\nRUN NO RUN COM\nIN1 IN2 GND GND\n"
        for line, port, wanted in (
            ("A B 5V GND", "ENC", ["encoder A", "encoder B", "plus", "zero"]),
            ("ENCA ENCB 5V GND", "ENC", ["encoder A", "encoder B", "plus", "zero"]),
            ("A B SG", "RS485", ["data+", "data-", "zero"]),
            ("STO1 STO2 STO COM", "STO", ["stop A+", "stop B+", "zero"]),
        ):
            made = describe(Draft(kind="controller", title="X", pins_text=board + line), "my-x")
            ports = {p.id: [pin.function for pin in p.pins] for p in made.part.ports}
            with self.subTest(line):
                self.assertEqual(wanted, ports[port])
                self.assertEqual((), made.problems)
            self.assertEqual(["no", "com"], ports["RUN"])
            self.assertEqual([["signal", "zero"]] * 2, [ports["IN1"], ports["IN2"]])

    def test_counted_commons_stand_before_what_they_serve(self) -> None:
        text = "L\nN\nPE\n24V\n0V\nX0\nX1\nC0\nY0\nY1\nC1\nY2"
        numbers = {"v_min_v": 100.0, "v_max_v": 240.0}
        draft = Draft(
            kind="controller", title="Board", pins_text=text, numbers=numbers,
            roles={"Y0": "relay contact", "Y2": "relay contact"},
        )  # fmt: skip
        part = describe(draft, "my-board").part
        ports = {port.id: port for port in part.ports}
        self.assertEqual(["Y1", "C0"], [pin.text for pin in ports["Y1"].pins])
        self.assertEqual(["no", "com"], [pin.function for pin in ports["Y2"].pins])
        self.assertEqual(["digital input"] * 2, [ports[name].kind for name in ("X0", "X1")])
        self.assertEqual(240.0, ports["POWER"].pins[0].electrical.v_max_v)
        # The outputs of a board were said to be relays: one terminal is the common of both.
        bridges = [e.pins for e in part.inside if isinstance(e, Bridge)]
        self.assertIn((("Y0", "2"), ("Y1", "2")), bridges)
        self.assertEqual(3, sum(isinstance(e, Contact) for e in part.inside))

    def test_terminals_and_leads_side_by_side_are_those_one_below_the_other(self) -> None:
        cases: tuple[tuple[PartKind, str, str], ...] = (
            ("contactor", "A1 A2 1 2 3 4 13 14", "A1\nA2\n1\n2\n3\n4\n13\n14"),
            ("contactor", "A1 A2\n1 2\n3 4", "A1\nA2\n1\n2\n3\n4"),
            ("emergency stop", "11, 12, 21, 22", "11\n12\n21\n22"),
            ("switch", "COM NO NC", "COM\nNO\nNC"),
            ("stepper motor", "A+ A- B+ B-", "A+\nA-\nB+\nB-"),
            ("stepper motor", "A+ BK A- GN B+ RD B- BU", "A+\tBK\nA-\tGN\nB+\tRD\nB-\tBU"),
            ("sensor", "BN + BU - BK OUT", "BN\t+\nBU\t-\nBK\tOUT"),
        )
        for kind, beside, below in cases:
            with self.subTest(beside):
                found, wanted = described(beside, kind), described(below, kind)
                self.assertIsNotNone(found.part)
                self.assertEqual(wanted.part, found.part)
                self.assertEqual((), found.problems)
        one = described("1 COM\n2 NO", "switch").part
        self.assertEqual(["com", "no"], [pin.function for pin in one.ports[0].pins])

    def test_connectors_by_their_names_are_one_board_however_they_stand(self) -> None:
        board = {
            "POWER": "24V GND", "HALL": "5V HU HV HW GND", "IN": "IN1 IN2 SIGNED COM",
            "RC": "S + -",
        }  # fmt: skip
        rows = [f"{name}\t{pin}" for name, pins in board.items() for pin in pins.split()]
        wanted = ports_of(described("\n".join(("port\tsignal", *rows))).part)
        below = {name: "\n".join(pins.split()) for name, pins in board.items()}
        counted = {
            name: "\n".join(f"{number} {pin}" for number, pin in enumerate(pins.split(), 1))
            for name, pins in board.items()
        }
        ways = {
            "behind a colon": "\n".join(f"{name}: {pins}" for name, pins in board.items()),
            "below a colon": "\n".join(f"{name}:\n{pins}" for name, pins in below.items()),
            "set in": "\n".join(
                name + "".join(f"\n  {pin}" for pin in pins.split()) for name, pins in board.items()
            ),
            "with a gap": "\n\n".join(f"{name}\n{pins}" for name, pins in below.items()),
            "counted": "\n".join(f"{name}\n{pins}" for name, pins in counted.items()),
            "marked": "\n".join(f"[{name}]\n{pins}" for name, pins in below.items()),
        }
        for way, text in ways.items():
            with self.subTest(way):
                self.assertEqual(wanted, ports_of(described(text).part))

    def test_connectors_without_names_lose_nothing_and_doubtful_names_are_told(self) -> None:
        drive = described("B+ B-\nU V W\n5V HU HV HW GND\nEN F/R SV COM", "servo drive").part
        pins = [pin.text for port in drive.ports for pin in port.pins]
        self.assertLessEqual(
            {"B+", "B-", "U", "V", "W", "HU", "HV", "HW", "EN", "F/R", "SV"}, {*pins}
        )
        doubtful = described("Foo\nIN4\n24V\n0V\nIN5\n24V\n0V")
        self.assertIn(
            "taken for a connector", " ".join(m for row in doubtful.rows for m in row.marks)
        )

    def test_headings_over_pins_stay_headings(self) -> None:
        for text in (
            "X AXIS\nSTEP\nDIR\nGND\nPOWER\n24V\nGND\nINPUTS\nIN1\nIN2\nGND",
            "X axis\nSTEP\nDIR\nGND\nPOWER\n24V\nGND\nJ3\nIN1\nIN2\nGND",
        ):
            kinds = [port.kind for port in described(text).part.ports]
            wanted = ["step and direction", "feed in", "digital input", "digital input"]
            self.assertEqual(wanted, kinds, text)
        outputs = described("OUT 1\n+\n-\nOUT 2\n+\n-\nPOWER\n24V\n0V")
        self.assertEqual(
            ["switched output"] * 2 + ["feed in"], [port.kind for port in outputs.part.ports]
        )

    @given(
        st.lists(
            st.sampled_from(["24V", "0V", "X", "PUL+", "IN1", "+", "NO", "TH1", "", "J2", ","])
        ),
        st.sampled_from([" ", "\n", ", "]),
    )
    def test_no_print_is_lost_nor_made_up(self, words: list[str], between: str) -> None:
        text = between.join(words)
        for row in printed_rows(text, "controller"):
            self.assertIn(row.text, [line.strip() for line in text.split("\n")])
            self.assertTrue(row.port and row.name)

    def test_a_word_that_nobody_knows_takes_no_other_with_it(self) -> None:
        for text in ("D4 D5 D6 GND\n5V GND VIN wobble", "VIN GND 5V 3V3\nD4 D5 D6 wobble"):
            made = {port.id for port in described(text).part.ports}
            self.assertLessEqual({"POWER", "D4", "D5", "D6", "5V OUT", "wobble"}, made, text)
        lost = described("D4 D5 D6 GND\nVIN 5V foo bar")
        self.assertIn("VIN, 5V are at no port", " ".join(lost.problems))


if __name__ == "__main__":
    unittest.main()
