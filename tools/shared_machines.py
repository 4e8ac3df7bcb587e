"""Machines whose outputs share something: a sorting line on relays with two commons, with an
inverter, a lit button and a safety relay; a table of coils behind eight transistors.
"""

from functools import cache

from described_machines import wired
from drive_machines import PULLED_UP
from line_machines import decided
from small_board_machines import LINE, made
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine

SORTER = (
    "J1 inlet Mains", "Q1 main Main switch", "F1 breaker Breaker", "G1 supply Supply",
    "K1 board Controller", "T1 inverter Belt", "M1 motor Belt", "B1 eye Infeed", "B2 eye Outfeed",
    "Y1 valve Diverter", "S1 start Start", "S2 stop Stop", "S3 stops Emergency stop",
    "S4 cord Pull cord", "K2 relay Safety", "Q2 contactor Belt",
)  # fmt: skip
TABLE = (
    "J1 inlet Mains", "Q1 main Main switch", "G1 coils Coils", "G2 five Logic", "K1 board Board",
    "K2 eight Coils", "Y1 coil Left", "Y2 coil Right", "Y3 coil Middle", "S1 button Left",
    "S2 button Right", "S3 leaf Middle", "B1 eye Lane", "B2 eye Exit", "P1 display Score",
)  # fmt: skip


def _shared_drafts() -> dict[str, Draft]:
    return {
        "inlet": Draft(kind="connector", title="Mains inlet", pins_text="L N PE"),
        "main": Draft(
            kind="switch", title="Main switch", pins_text="1 2\n3 4", numbers={"contact_max_a": 25}
        ),
        "five": Draft(
            kind="supply", title="Supply, 5 V", pins_text="L N FG\n+V -V",
            numbers={"nominal_v": 5, "current_a": 8},
        ),
    }  # fmt: skip


def _sorter_drafts() -> dict[str, Draft]:
    return _shared_drafts() | {
        "breaker": Draft(
            kind="fuse", title="Circuit breaker", pins_text="1 2",
            numbers={"fuse_max_a": 10, "v_max_v": 250},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N PE\n+ + - -",
            numbers={"nominal_v": 24, "current_a": 5},
        ),
        "board": Draft(
            kind="controller", title="Controller with relays",
            pins_text="L+ M PE\n1M I0.0 I0.1 I0.2 I0.3 I0.4 I0.5 I0.6 I0.7\n"
            "1L Q0.0 Q0.1 Q0.2\n2L Q0.3 Q0.4 Q0.5",
            numbers={"v_min_v": 20.4, "v_max_v": 28.8, "current_a": 0.3},
            circuits={"I0.0/input": "24 V input, type 1, current sinking"},
        ),
        "inverter": Draft(
            kind="frequency inverter", title="Inverter, 230 V",
            pins_text="R S T PE\nU V W\nX1 X2 COM +24V\nRA RB RC",
            numbers={"v_min_v": 200, "v_max_v": 240, "current_a": 8},
            circuits={"CONTROL/input": PULLED_UP},
        ),
        "motor": Draft(
            kind="three-phase motor", title="Belt motor", pins_text="U1 V1 W1 PE",
            numbers={"nominal_v": 230, "current_a": 2.6},
        ),
        "eye": Draft(
            kind="sensor", title="Light barrier, PNP", pins_text="BN BU BK",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.03},
        ),
        "valve": Draft(
            kind="valve", title="Valve with a diode", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.25},
        ),
        "start": Draft(
            kind="switch", title="Start button with a lamp", pins_text="13 14\nX1 X2",
            numbers={"contact_max_a": 6},
        ),
        "stop": Draft(
            kind="switch", title="Stop button", pins_text="11 12", numbers={"contact_max_a": 6}
        ),
        "stops": Draft(
            kind="emergency stop", title="Emergency stop", pins_text="11 12\n21 22",
            numbers={"contact_max_a": 6},
        ),
        "cord": Draft(
            kind="emergency stop", title="Pull-cord switch", pins_text="11-12 21-22",
            numbers={"contact_max_a": 6},
        ),
        "relay": Draft(
            kind="relay module", title="Safety relay",
            pins_text="A1 A2\nS11 S12 S21 S22 S34\n13 14\n23 24\n41 42",
            numbers={
                "v_min_v": 20.4, "v_max_v": 26.4, "current_a": 0.1, "contact_max_a": 6,
            },
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor", pins_text="A1+ A2-\n1 2\n3 4\n5 6\n21 22",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 16},
        ),
    }  # fmt: skip


def _table_drafts() -> dict[str, Draft]:
    return _shared_drafts() | {
        "coils": Draft(
            kind="supply", title="Supply, 48 V", pins_text="L N FG\n+V -V",
            numbers={"nominal_v": 48, "current_a": 12},
        ),
        "board": Draft(
            kind="controller", title="Small board, 3.3 V",
            pins_text="VIN GND 3V3 5V\nGP0 GP1 GP2 GP3 GP4 GP5 GP6 GP7 GP8 GP9\nSDA SCL\nTX RX",
            numbers={"v_min_v": 4.7, "v_max_v": 5.3, "current_a": 0.2},
            circuits={"GP0/input": LINE},
        ),
        "eight": Draft(
            kind="relay module", title="Eight transistors",
            pins_text="V+ GND\nIN1 IN2 IN3 IN4 IN5 IN6 IN7 IN8 VCC GND\n"
            "OUT1 OUT2 OUT3 OUT4 OUT5 OUT6 OUT7 OUT8",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.002},
            circuits={
                "IN1/input": "3.3 V input that bears 5 V",
                "OUT1/output": "Low-side switch, 3 A, without a diode",
            },
        ),
        "coil": Draft(
            kind="load", title="Coil with a diode, 48 V", pins_text="+ -",
            numbers={"nominal_v": 48, "current_a": 0.8},
        ),
        "button": Draft(
            kind="switch", title="Button", pins_text="NO COM", numbers={"contact_max_a": 1}
        ),
        "leaf": Draft(
            kind="switch", title="Leaf switch", pins_text="1 2 NO", numbers={"contact_max_a": 0.5}
        ),
        "eye": Draft(
            kind="sensor", title="Light barrier, 5 V", pins_text="5V OUT GND",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.02},
        ),
        "display": Draft(
            kind="sensor", title="Display on a bus", pins_text="VCC GND SDA SCL",
            numbers={"v_min_v": 3.3, "v_max_v": 5, "current_a": 0.1},
        ),
    }  # fmt: skip


@cache
def unwired_sorter() -> Machine:
    """The sorting line before anything is joined."""
    return made("Sorting line", "sorter", _sorter_drafts(), SORTER)


@cache
def wired_sorter() -> Machine:
    """The sorting line, wired by what Vervain proposes, with what its builder decides."""
    known = {"stops.unnoticed": "One contactor.", "signals.flyback": "It has one inside."}
    return decided(wired(unwired_sorter()), known)


@cache
def unwired_coils() -> Machine:
    """The table of coils before anything is joined."""
    return made("Table of coils", "coils", _table_drafts(), TABLE)


@cache
def wired_coils() -> Machine:
    """The table of coils, wired by what Vervain proposes."""
    return wired(unwired_coils())
