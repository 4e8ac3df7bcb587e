"""Machines of crafts at the mains: a brewer with two boilers, and a winch for a stage."""

from functools import cache

from msgspec.structs import replace

from builder import accepted_finding
from described_machines import wired
from small_board_machines import made
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine

BREWER = (
    "W1 inlet Inlet", "Q1 main Main switch", "G1 psu Supply", "K1 board Controller",
    "Q2 ssr Boiler SSR", "Q3 ssr Steam SSR", "E1 boiler Boiler", "E2 steam Steam boiler",
    "B1 pt Boiler sensor", "B2 pt Steam sensor", "M1 pump Pump", "Y1 valve Brew valve",
    "Y2 fill Fill valve", "B3 flow Flow", "B5 probe Steam level", "S1 btn Brew button",
    "S2 btn Steam button", "F1 cut Boiler cut-out", "F2 cut Steam cut-out", "P1 led Ready lamp",
)  # fmt: skip
WINCH = (
    "W1 inlet Inlet", "Q1 main Main switch", "G1 psu Supply", "K1 plc Controller",
    "U1 vfd Hoist inverter", "M1 motor Hoist motor", "M2 brake Hoist brake", "S1 stop Stop",
    "S2 up Up button", "S3 up Down button", "B1 lim Upper limit", "B2 lim Lower limit",
    "B3 slack Slack rope", "K2 relay Safety relay", "Q2 con Hoist contactor", "P1 lamp Beacon",
    "S4 key Key switch",
)  # fmt: skip


def _brewer_drafts() -> dict[str, Draft]:
    return {
        "psu": Draft(
            kind="supply",
            title="Supply 24 V 4 A",
            pins_text="L N PE V+ V-",
            numbers={"nominal_v": 24, "current_a": 4},
        ),
        "board": Draft(
            kind="controller",
            title="Brew controller",
            pins_text=(
                "POWER: 24V GND\nPT1: + -\nPT2: + -\nFLOW: 5V S GND\nBTN1: S GND\nBTN2: S GND\n"
                "LEVEL: S GND\nSSR1: + -\nSSR2: + -\nRELAY1: COM NO\nRELAY2: COM NO\n"
                "RELAY3: COM NO\nLED: + -"
            ),
            numbers={"v_min_v": 18, "v_max_v": 30, "current_a": 0.4},
            circuits={
                "FLOW/input": "5 V input, pulled up, for contacts to 0 V",
                "BTN1/input": "5 V input, pulled up, for contacts to 0 V",
                "LEVEL/input": "5 V input, pulled up, for contacts to 0 V",
                "SSR1/output": "High-side switch, 0.5 A, with a diode for coils",
                "LED/output": "Low-side switch, 0.5 A, with a diode for coils",
            },
        ),
        "ssr": Draft(
            kind="solid-state relay",
            title="Solid-state relay 40 A, 3-32 V",
            pins_text="1 2 3+ 4-",
            numbers={"contact_max_a": 40},
        ),
        "boiler": Draft(
            kind="heater",
            title="Boiler 1800 W",
            pins_text="1 2 PE",
            numbers={"nominal_v": 230, "power_w": 1800},
        ),
        "steam": Draft(
            kind="heater",
            title="Steam boiler 1000 W",
            pins_text="L N PE",
            numbers={"nominal_v": 230, "power_w": 1000},
        ),
        "pt": Draft(
            kind="thermistor",
            title="Boiler sensor 100 kohm",
            pins_text="RED WHITE",
        ),
        "pump": Draft(
            kind="load",
            title="Vibration pump 230 V",
            pins_text="1 2",
            numbers={"nominal_v": 230, "power_w": 52},
        ),
        "valve": Draft(
            kind="valve",
            title="Three-way valve 230 V",
            pins_text="1 2 PE",
            numbers={"nominal_v": 230, "power_w": 8},
        ),
        "fill": Draft(
            kind="valve",
            title="Fill valve 230 V",
            pins_text="1 2 PE",
            numbers={"nominal_v": 230, "power_w": 8},
        ),
        "flow": Draft(
            kind="sensor",
            title="Flow meter, open collector",
            pins_text="VCC GND OUT",
            numbers={"v_min_v": 4.5, "v_max_v": 18},
        ),
        "probe": Draft(
            kind="switch",
            title="Float switch",
            pins_text="1 2 NC",
        ),
        "btn": Draft(
            kind="switch",
            title="Push button, lit",
            pins_text="1 2 NO",
            numbers={"contact_max_a": 1},
        ),
        "cut": Draft(
            kind="switch",
            title="Boiler thermostat 135 C, manual reset",
            pins_text="1 2 NC",
            numbers={"contact_max_a": 16},
        ),
        "main": Draft(
            kind="switch",
            title="Main switch, two poles",
            pins_text="1 2 3 4",
            numbers={"contact_max_a": 16},
        ),
        "inlet": Draft(
            kind="connector",
            title="Mains inlet",
            pins_text="L N PE",
        ),
        "led": Draft(
            kind="lamp",
            title="Ready lamp 24 V",
            pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.02},
        ),
    }


@cache
def unwired_brewer() -> Machine:
    """The brewer before anything is joined."""
    return made("Brewer", "brewer", _brewer_drafts(), BREWER)


@cache
def wired_brewer() -> Machine:
    """The brewer, wired by what Vervain proposes."""
    return wired(unwired_brewer())


def _winch_drafts() -> dict[str, Draft]:
    return {
        "inlet": Draft(
            kind="connector",
            title="Mains inlet 400 V",
            pins_text="L1 L2 L3 N PE",
        ),
        "main": Draft(
            kind="switch",
            title="Main switch, three poles",
            pins_text="1L1 2T1 3L2 4T2 5L3 6T3",
            numbers={"contact_max_a": 25},
        ),
        "vfd": Draft(
            kind="frequency inverter",
            title="Inverter 400 V 2.2 kW",
            pins_text="L1 L2 L3 PE U V W PE\nDCM FWD REV MI1 MI2 RST 24V\nRA RB RC",
            numbers={"v_min_v": 360, "v_max_v": 440, "current_a": 6},
            circuits={"CONTROL/input": "24 V input, type 3, current sinking"},
        ),
        "motor": Draft(
            kind="three-phase motor",
            title="Hoist motor 400 V 1.5 kW",
            pins_text="U V W PE",
            numbers={"nominal_v": 400, "current_a": 3.6},
        ),
        "brake": Draft(
            kind="brake",
            title="Holding brake 24 V",
            pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.8},
        ),
        "psu": Draft(
            kind="supply",
            title="Supply 24 V 5 A",
            pins_text="L N PE +24V 0V",
            numbers={"nominal_v": 24, "current_a": 5},
        ),
        "plc": Draft(
            kind="controller",
            title="Small controller 24 V",
            pins_text="L+ M\nI0.0 I0.1 I0.2 I0.3 I0.4 I0.5 I0.6 I0.7\nQ0.0 Q0.1 Q0.2 Q0.3",
            numbers={"v_min_v": 20.4, "v_max_v": 28.8, "current_a": 0.3},
            circuits={
                "I0.0/input": "24 V input, type 3, current sinking",
                "Q0.0/output": "High-side switch, 3 A, with a diode for coils",
            },
        ),
        "lim": Draft(
            kind="switch",
            title="Limit switch, roller",
            pins_text="11 12 23 24",
            numbers={"contact_max_a": 6},
        ),
        "up": Draft(
            kind="switch",
            title="Up button",
            pins_text="3 4",
            numbers={"contact_max_a": 6},
        ),
        "stop": Draft(
            kind="emergency stop",
            title="Emergency stop",
            pins_text="11 12 21 22",
            numbers={"contact_max_a": 6},
        ),
        "relay": Draft(
            kind="relay module",
            title="Safety relay",
            pins_text="A1 A2 S11 S12 S21 S22 S34 13 14 23 24 33 34",
            numbers={"v_min_v": 20, "v_max_v": 28, "contact_max_a": 6},
        ),
        "con": Draft(
            kind="contactor",
            title="Contactor 24 V, 12 A",
            pins_text="A1 A2 1L1 2T1 3L2 4T2 5L3 6T3 13NO 14NO 21NC 22NC",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 12},
        ),
        "key": Draft(
            kind="switch",
            title="Key switch",
            pins_text="13 14",
            numbers={"contact_max_a": 6},
        ),
        "lamp": Draft(
            kind="lamp",
            title="Beacon 24 V",
            pins_text="X1 X2",
            numbers={"nominal_v": 24, "current_a": 0.1},
        ),
        "slack": Draft(
            kind="switch",
            title="Slack rope switch",
            pins_text="11 12",
            numbers={"contact_max_a": 6},
        ),
    }


@cache
def unwired_winch() -> Machine:
    """The winch before anything is joined."""
    return made("Stage winch", "winch", _winch_drafts(), WINCH)


@cache
def wired_winch() -> Machine:
    """The winch, wired by what Vervain proposes, with what its builder decides."""
    known = (accepted_finding("stops.unnoticed:S1:M2", "One contact of the relay.", "2026-12-01"),)
    return replace(wired(unwired_winch()), accepted=known)
