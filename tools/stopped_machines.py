"""Machines of which much goes at a stop: a picker with three servo drives behind one contactor, a
starter with its breaker and its overload relay, a carrier with a safety relay and brakes; and a
field station, which nothing stops.
"""

from functools import cache

from msgspec.structs import replace

from builder import accepted_finding
from described_machines import wired
from small_board_machines import made
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine

I24 = "24 V input, type 3, current sinking"
TO_0_V = "5 V input, pulled up, for contacts to 0 V"
HIGH_SIDE = "High-side switch, 0.5 A, with a diode for coils"
LOW_SIDE = "Low-side switch, 3 A, without a diode"
FIVE = "5 V from the board, 0.3 A"
PICKER = (
    "J1 inlet Mains", "F1 breaker Mains", "Q1 contactor Drives", "G1 supply Supply",
    "K1 motion Motion", "T1 drive Arm 1", "T2 drive Arm 2", "T3 drive Arm 3", "M1 motor Arm 1",
    "M2 motor Arm 2", "M3 motor Arm 3", "S1 stop Stop",
)  # fmt: skip
STARTER = (
    "J1 inlet Mains", "S1 isolator Main", "F1 breaker Compressor", "Q1 contactor Compressor",
    "F2 overload Compressor", "M1 motor Compressor", "G1 supply Supply", "S2 start Start",
    "S3 halt Halt", "S4 stop Emergency",
)  # fmt: skip
CARRIER = (
    "B1 battery Battery", "F1 fuse Main", "F2 small Control", "Q1 contactor Drive",
    "A1 drive Drive", "M1 motor Left", "M2 motor Right", "Y1 brake Left", "Y2 brake Right",
    "N1 encoder Left", "N2 encoder Right", "N3 scanner Scanner", "S1 bumper Bumper", "S2 stop Stop",
    "K1 relay Safety", "K2 board Vehicle", "P1 sounder Sounder", "S3 reset Reset",
)  # fmt: skip
STATION = (
    "B1 battery Battery", "F1 fuse Main", "K1 board Field", "N1 soil Bed 1", "N2 soil Bed 2",
    "N3 vane Vane", "S1 cups Wind", "Y1 valve Bed 1", "Y2 valve Bed 2", "M1 window Window",
    "K2 relay Well", "P1 pump Well",
)  # fmt: skip


def _picker_drafts() -> dict[str, Draft]:
    axis = "PUL+ PUL- DIR+ DIR- EN+ EN- ALM+ ALM- A+ A- B+ B- Z+ Z- 0V"
    return {
        "inlet": Draft(kind="connector", title="Mains inlet", pins_text="L N PE"),
        "breaker": Draft(
            kind="fuse", title="Breaker, two poles", pins_text="1 2 3 4",
            numbers={"fuse_max_a": 20, "v_max_v": 240},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor, two poles",
            pins_text="A1 A2\n1L1 2T1 3L2 4T2\n21NC 22NC",
            numbers={"nominal_v": 24, "current_a": 0.12, "contact_max_a": 25},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N PE\n+ -",
            numbers={"nominal_v": 24, "current_a": 4},
        ),
        "motion": Draft(
            kind="controller", title="Motion controller",
            pins_text=f"24V 0V PE\nAXIS1: {axis}\nAXIS2: {axis}\nAXIS3: {axis}\nIN1 IN2 IN3 0V",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.6, "step_rate_max_hz": 5e5},
            circuits={
                **{f"AXIS{n}/output": "5 V output, push-pull, 20 mA" for n in (1, 2, 3)},
                "IN1/input": "24 V input, pulled up, for NPN and contacts to 0 V",
            },
        ),
        "drive": Draft(
            kind="servo drive", title="Servo drive, 200 W",
            pins_text="L1 L2 PE\nU V W PE\n"
            "CN1: PUL+ PUL- DIR+ DIR- SON COM+ ALM COM- OA+ OA- OB+ OB- OZ+ OZ-\n"
            "CN2: 5V 0V D+ D-",
            numbers={"v_min_v": 200, "v_max_v": 240, "current_a": 2.2},
            circuits={"ALARM CN1/output": "Open collector, 50 mA"},
        ),
        "motor": Draft(
            kind="three-phase motor", title="Servo motor, 200 W",
            pins_text="U V W PE\n5V 0V D+ D-", numbers={"nominal_v": 230, "current_a": 1.6},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="11 12 21 22",
            numbers={"contact_max_a": 6},
        ),
    }  # fmt: skip


def _starter_drafts() -> dict[str, Draft]:
    poles = "1/L1 2/T1 3/L2 4/T2 5/L3 6/T3"
    return {
        "inlet": Draft(kind="connector", title="Mains inlet", pins_text="L1 L2 L3 N PE"),
        "isolator": Draft(
            kind="switch", title="Main switch", pins_text="L1 T1 L2 T2 L3 T3",
            numbers={"contact_max_a": 25},
        ),
        "breaker": Draft(
            kind="fuse", title="Breaker, three poles", pins_text="1 2 3 4 5 6",
            numbers={"fuse_max_a": 16, "v_max_v": 400},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor", pins_text=f"A1 A2\n{poles}\n13 14",
            numbers={"nominal_v": 24, "current_a": 0.15, "contact_max_a": 18},
        ),
        "overload": Draft(
            kind="switch", title="Overload relay", pins_text=f"{poles}\n95 96\n97 98",
            numbers={"contact_max_a": 6},
        ),
        "motor": Draft(
            kind="three-phase motor", title="Compressor motor", pins_text="1 U / 2 V / 3 W / 4 PE",
            numbers={"nominal_v": 400, "current_a": 6},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N G V- V+",
            numbers={"nominal_v": 24, "current_a": 2},
        ),
        "start": Draft(
            kind="switch", title="Start button", pins_text="3 4", numbers={"contact_max_a": 6}
        ),
        "halt": Draft(
            kind="switch", title="Stop button", pins_text="1 2", numbers={"contact_max_a": 6}
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="11 12 21 22",
            numbers={"contact_max_a": 6},
        ),
    }  # fmt: skip


def _carrier_drafts() -> dict[str, Draft]:
    return {
        "battery": Draft(
            kind="battery", title="Battery, 24 V, 40 Ah", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 90},
        ),
        "fuse": Draft(
            kind="fuse", title="Main fuse, 50 A", pins_text="1 2",
            numbers={"fuse_max_a": 50, "v_max_v": 58},
        ),
        "small": Draft(
            kind="fuse", title="Control fuse, 10 A", pins_text="1 2",
            numbers={"fuse_max_a": 10, "v_max_v": 58},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor, 80 A", pins_text="A1 A2\n1 2",
            numbers={"nominal_v": 24, "current_a": 0.45, "contact_max_a": 80},
        ),
        "drive": Draft(
            kind="motor bridge", title="Drive for two motors",
            pins_text="VIN GND\nM1+ M1-\nM2+ M2-\nENC1: 5V GND A B\nENC2: 5V GND A B\n"
            "CAN: H L GND\nSTO1 STO2 STOCOM\nBRK1 + -\nBRK2 + -",
            numbers={"v_min_v": 18, "v_max_v": 36, "current_a": 30},
            circuits={
                "STOP/input": I24, "ENC1/input": TO_0_V, "ENC1/plus": FIVE, "BRK1/output": LOW_SIDE,
            },
        ),
        "motor": Draft(
            kind="brushed motor", title="Wheel motor", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 12},
        ),
        "brake": Draft(
            kind="brake", title="Wheel brake", pins_text="1 2",
            numbers={"nominal_v": 24, "current_a": 0.4},
        ),
        "encoder": Draft(
            kind="encoder", title="Encoder, 500 lines", pins_text="5V GND A B", drive="push-pull",
            numbers={"lines_per_turn": 500, "v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.05},
        ),
        "scanner": Draft(
            kind="sensor", title="Safety scanner", drive="PNP",
            pins_text="BN 24V / BU 0V / WH OSSD1 / YE OSSD2 / GN RESET / PK WARN",
            numbers={"v_min_v": 19, "v_max_v": 30, "current_a": 0.3},
        ),
        "bumper": Draft(
            kind="switch", title="Bumper", pins_text="NC NC", numbers={"contact_max_a": 1}
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="11 12 21 22",
            numbers={"contact_max_a": 6},
        ),
        "relay": Draft(
            kind="relay module", title="Safety relay",
            pins_text="A1 A2\nS11 S12 S21 S22\nS34\n13 14 23 24\n31 32",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.15, "contact_max_a": 6},
        ),
        "board": Draft(
            kind="controller", title="Vehicle controller",
            pins_text="24V 0V\nCAN: CANH CANL GND\nDI1 DI2 DI3 DI4\nDO1 DO2 DO3 DO4",
            numbers={"v_min_v": 9, "v_max_v": 36, "current_a": 2},
            circuits={"DI1/input": I24, "DO1/output": HIGH_SIDE},
        ),
        "sounder": Draft(
            kind="load", title="Sounder", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.2},
        ),
        "reset": Draft(
            kind="switch", title="Reset button", pins_text="3 4", numbers={"contact_max_a": 3}
        ),
    }  # fmt: skip


def _station_drafts() -> dict[str, Draft]:
    return {
        "battery": Draft(
            kind="battery", title="Battery, 12 V, 26 Ah", pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 26},
        ),
        "fuse": Draft(
            kind="fuse", title="Fuse", pins_text="1 2", numbers={"fuse_max_a": 20, "v_max_v": 32}
        ),
        "board": Draft(
            kind="controller", title="Field controller",
            pins_text="12V GND\nRS485: A B\nAI1 GND\nDI1 GND\nDI2 GND\nOUT1 + -\nOUT2 + -\nOUT3 + -"
            "\nM1: A B",
            numbers={"v_min_v": 10, "v_max_v": 16, "current_a": 0.2},
            circuits={
                "AI1/input": "Analogue input, 0 to 5 V", "DI1/input": TO_0_V,
                "OUT1/output": LOW_SIDE,
            },
        ),
        "soil": Draft(
            kind="sensor", title="Soil probe",
            pins_text="BROWN VCC / BLACK GND / YELLOW A / BLUE B",
            numbers={"v_min_v": 5, "v_max_v": 30, "current_a": 0.02},
        ),
        "vane": Draft(
            kind="sensor", title="Wind vane", pins_text="VCC GND OUT", drive="volts",
            numbers={"v_min_v": 9, "v_max_v": 24, "current_a": 0.02, "gives_max_v": 5},
        ),
        "cups": Draft(kind="switch", title="Reed switch of the cups", pins_text="1 2"),
        "valve": Draft(
            kind="valve", title="Valve, 12 V", pins_text="1 2",
            numbers={"nominal_v": 12, "current_a": 0.4},
        ),
        "window": Draft(
            kind="brushed motor", title="Window opener", pins_text="BROWN BLUE",
            numbers={"nominal_v": 12, "current_a": 2.5},
        ),
        "relay": Draft(
            kind="relay module", title="Relay for cars", pins_text="85 86 30 87 87a",
            numbers={"v_min_v": 9, "v_max_v": 15, "current_a": 0.15, "contact_max_a": 30},
        ),
        "pump": Draft(
            kind="load", title="Well pump", pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 5},
        ),
    }  # fmt: skip


def unwired_picker() -> Machine:
    """The picker, of which nothing is joined yet."""
    return made("Picker", "picker", _picker_drafts(), PICKER)


def unwired_starter() -> Machine:
    """The starter, of which nothing is joined yet."""
    return made("Starter", "starter", _starter_drafts(), STARTER)


def unwired_carrier() -> Machine:
    """The carrier, of which nothing is joined yet."""
    return made("Carrier", "carrier", _carrier_drafts(), CARRIER)


def unwired_station() -> Machine:
    """The field station, of which nothing is joined yet."""
    return made("Station", "station", _station_drafts(), STATION)


@cache
def picker() -> Machine:
    """The picker, wired by what Vervain proposes, and with what its builder decides."""
    known = (
        accepted_finding("stops.restarts:S1", "Its program waits to be started.", "2026-12-01"),
        accepted_finding("stops.unnoticed:S1:T1:T2:T3", "One contactor.", "2026-12-01"),
    )
    return replace(wired(unwired_picker()), accepted=known)


@cache
def starter() -> Machine:
    """The starter, wired by what Vervain proposes."""
    return wired(unwired_starter())


@cache
def carrier() -> Machine:
    """The carrier, wired by what Vervain proposes."""
    return wired(unwired_carrier())


@cache
def station() -> Machine:
    """The field station, wired by what Vervain proposes."""
    return wired(unwired_station())
