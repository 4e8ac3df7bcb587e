"""Terminals as manuals print them, messy on purpose: alike connectors are one, no line is lost."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from vervain.catalogue.describe import Described, describe
from vervain.catalogue.drafts import Draft
from vervain.catalogue.manual import is_manual

CONTROLLER = """Rev C terminal assignment

J1 - Main power (pluggable screw terminal, 5.08 mm)
1   VIN   12...30 V DC
2   GND
J2..J5  Axis X, Y, Z, A
1) STEP+
2) STEP-
3) DIR+
4) DIR-
5) EN
J6-J13 inputs, opto isolated
1) VCC 24V out, 100mA max
2) SIG
3) GND
J14, J15, J16  outputs OC 500 mA
1 V+
2 OUT
J17 E-STOP
1 ESTOP
2 GND
J18 encoder
1 5V
2 A
3 /A
4 B
5 /B
6 Z
7 GND
"""
DRIVER = """Signal terminal P1:
PUL+ (5V)   Pulse signal
PUL−        Pulse signal
DIR+        direction
DIR-
Power terminal P2:
GND
+V    20-50VDC
A+, A-   motor phase A
B+, B-   motor phase B
"""
RELAYS = """Pin;Name;Description
1;VCC;5 V supply
2;GND;ground
3;IN1;relay 1 trigger, low
4;IN2;relay 2 trigger, low
K1: NO1 COM1 NC1
K2: NO2 COM2 NC2
"""
BRIDGE = """| Connector | Pin | Label | Function |
|---|---|---|---|
| PWR | 1 | VM | motor supply 6–24V |
| PWR | 2 | GND | power ground |
| OUT A | 1 | AO1 | motor A |
| OUT A | 2 | AO2 | motor A |
| CTRL | 1 | PWMA | speed A |
| CTRL | 2 | AIN1 | direction A |
| CTRL | 3 | STBY | standby |
| CTRL | 4 | GND | logic ground |
"""
SUPPLY = """TB1
L   AC/L
N   AC/N
FG  frame ground
-V  DC output common
+V  DC output
"""
KINDS = {
    "controller": CONTROLLER, "stepper driver": DRIVER, "relay module": RELAYS,
    "motor bridge": BRIDGE, "supply": SUPPLY,
}  # fmt: skip


def made(kind: str, text: str) -> Described:
    return describe(Draft(kind=kind, title="Mine", pins_text=text), "my-part")


def groups(found: Described) -> dict[str, str]:
    return {group.words: group.role.words for group in found.groups}


class Manuals(unittest.TestCase):
    def test_a_controller_with_its_headings(self) -> None:
        found = made("controller", CONTROLLER)
        self.assertEqual(
            {"POWER J1": "power in", "AXIS X to AXIS A": "step and direction, to a driver",
             "INPUT J6 to INPUT J13": "digital input",
             "OUTPUT J14 to OUTPUT J16": "switched output", "E-STOP J17": "stop input",
             "ENCODER J18": "encoder input"},
            groups(found),
        )  # fmt: skip
        self.assertEqual(
            ["Rev C terminal assignment"], [r.text for r in found.rows if not r.is_used]
        )
        self.assertEqual([], [mark for row in found.rows for mark in row.marks])
        self.assertEqual(18, len(found.part.ports))

    def test_connectors_that_serve_several_things_are_told_apart(self) -> None:
        driver = groups(made("stepper driver", DRIVER))
        self.assertEqual({"power in", "motor", "step and direction, from a controller"},
                         set(driver.values()))  # fmt: skip
        relays = made("relay module", RELAYS)
        self.assertEqual(["PORT", "IN1", "IN2", "K1", "K2"], [p.id for p in relays.part.ports])
        contacts = [e.worked_by for e in relays.part.inside if hasattr(e, "worked_by")]
        self.assertEqual(["IN1", "IN1", "IN2", "IN2"], contacts)
        bridge = made("motor bridge", BRIDGE)
        self.assertEqual(["pulse width", "direction", "enable", "zero"],
                         [pin.function for pin in bridge.part.port("CTRL").pins])  # fmt: skip
        supply = made("supply", SUPPLY)
        self.assertEqual({"MAINS TB1": "feed in", "TB1": "feed out"},
                         {port.id: port.kind for port in supply.part.ports})  # fmt: skip

    @settings(max_examples=60, deadline=None)
    @given(st.sampled_from(sorted(KINDS)), st.randoms(use_true_random=False))
    def test_other_separators_numbers_and_dashes_say_the_same(self, kind, chance) -> None:
        lines = KINDS[kind].splitlines()
        if "|" in KINDS[kind] or ";" in KINDS[kind]:
            return
        mark = chance.choice((")", ".", ":", " -", "\t"))
        told = [line.replace(") ", f"{mark} ", 1) if line[:1].isdigit() else line for line in lines]
        told = [
            line.replace("-", chance.choice("-−–")) if line[:1] != "J" else line for line in told
        ]
        text = chance.choice(("\n", "\r\n", "\n\n")).join(told)
        self.assertEqual(groups(made(kind, KINDS[kind])), groups(made(kind, text)))

    @settings(max_examples=60, deadline=None)
    @given(st.text(max_size=300), st.sampled_from(sorted(KINDS)))
    def test_no_text_breaks_it_and_no_line_is_lost(self, text: str, kind: str) -> None:
        found = made(kind, text)
        if is_manual(text, kind):
            told = {row.text for row in found.rows}
            self.assertTrue(told)

    def test_a_table_of_one_connector_is_no_manual(self) -> None:
        self.assertFalse(is_manual("1\t+24 V\n2\tOUT\n3\tGND", "controller"))
