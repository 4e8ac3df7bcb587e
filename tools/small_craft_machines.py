"""Machines of crafts on small boards: a loom with solenoids, and a doser of nutrients."""

from functools import cache

from msgspec.structs import replace

from builder import accepted_finding
from described_machines import wired
from small_board_machines import made
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine

LOOM = (
    "G1 psu Supply", "K1 board Board", "K2 drv Solenoid driver", "Y1 sol Harness 1",
    "Y2 sol Harness 2", "Y3 sol Harness 3", "Y4 sol Harness 4", "Y5 sol Harness 5",
    "Y6 sol Harness 6", "M1 step Take-up", "T1 tmc Take-up driver", "B1 hall Beam position",
    "S1 stop Stop", "S2 pedal Pick pedal", "P1 lcd Display",
)  # fmt: skip
DOSER = (
    "G1 psu Supply", "G2 buck Logic", "K1 board Board", "K2 relay Pump relays",
    "M1 pump Acid pump", "M2 pump Base pump", "M3 pump Feed A pump", "M4 pump Feed B pump",
    "M5 mix Stirrer", "Y1 valve Fill valve", "B4 float Tank low", "B5 flow Flow",
)  # fmt: skip


def _loom_drafts() -> dict[str, Draft]:
    return {
        "psu": Draft(
            kind="supply",
            title="Supply 12 V 15 A",
            pins_text="L N PE +V +V -V -V",
            numbers={"nominal_v": 12, "current_a": 15},
        ),
        "board": Draft(
            kind="controller",
            title="Small board",
            pins_text=(
                "5V 3V3 GND D0 D1 D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 A0 A1 A2 A3 SDA SCL VIN"
            ),
            numbers={"v_min_v": 6.5, "v_max_v": 16, "current_a": 0.2},
            circuits={
                "5V OUT/plus": "5 V from the board, 0.3 A",
                "3V3 OUT/plus": "5 V from the board, 0.3 A",
                "D0/input": "Line of a 5 V processor, pulled up",
                "A0/input": "Line of a 5 V processor, pulled up",
            },
        ),
        "drv": Draft(
            kind="relay module",
            title="Transistor board, 8 channels",
            pins_text=(
                "VCC GND IN1 IN2 IN3 IN4 IN5 IN6 IN7 IN8\nV+ V-\nOUT1: + -\nOUT2: + -\n"
                "OUT3: + -\nOUT4: + -\nOUT5: + -\nOUT6: + -\nOUT7: + -\nOUT8: + -"
            ),
            numbers={"v_min_v": 3.3, "v_max_v": 5.5, "current_a": 0.05, "contact_max_a": 4},
            circuits={
                "IN1/input": "3.3 V input that bears 5 V",
                "OUT1/output": "Low-side switch, 3 A, without a diode",
            },
        ),
        "sol": Draft(
            kind="load",
            title="Harness solenoid 12 V",
            pins_text="RED BLACK",
            numbers={"nominal_v": 12, "current_a": 1},
        ),
        "step": Draft(
            kind="stepper motor",
            title="Take-up motor 1.5 A",
            pins_text="A+ A- B+ B-",
            numbers={"current_a": 1.5},
        ),
        "tmc": Draft(
            kind="stepper driver",
            title="Driver 2 A",
            pins_text="VMOT GND 2B 2A 1A 1B VDD GND\nEN MS1 MS2 MS3 RST SLP STEP DIR",
            numbers={"v_min_v": 8, "v_max_v": 35, "current_max_peak_a": 2},
            circuits={"CONTROL/input": "3.3 V input that bears 5 V"},
        ),
        "hall": Draft(
            kind="sensor",
            title="Hall switch, open collector",
            pins_text="VCC GND OUT",
            numbers={"v_min_v": 4.5, "v_max_v": 24},
        ),
        "pedal": Draft(
            kind="switch",
            title="Foot pedal",
            pins_text="COM NO",
            numbers={"contact_max_a": 1},
        ),
        "stop": Draft(
            kind="emergency stop",
            title="Emergency stop",
            pins_text="11 12 21 22",
            numbers={"contact_max_a": 10},
        ),
        "lcd": Draft(
            kind="sensor",
            title="Display, I2C",
            pins_text="GND VCC SDA SCL",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.05},
        ),
    }


@cache
def unwired_loom() -> Machine:
    """The loom before anything is joined."""
    return made("Loom", "loom", _loom_drafts(), LOOM)


@cache
def wired_loom() -> Machine:
    """The loom, wired by what Vervain proposes, with what its builder decides."""
    known = (
        accepted_finding("stops.restarts:S1", "One pick a step of the pedal.", "2026-12-01"),
        accepted_finding("stops.unnoticed:S1:T1", "One contact.", "2026-12-01"),
    )
    return replace(wired(unwired_loom()), accepted=known)


def _doser_drafts() -> dict[str, Draft]:
    return {
        "psu": Draft(
            kind="supply",
            title="Wall supply 12 V 5 A",
            pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 5},
        ),
        "buck": Draft(
            kind="supply",
            title="Converter 5 V 3 A",
            pins_text="VIN GND VOUT GND",
            numbers={"nominal_v": 5, "current_a": 3, "v_min_v": 7, "v_max_v": 24},
        ),
        "board": Draft(
            kind="controller",
            title="Small board",
            pins_text="3V3 GND 15 2 4 16 17 5 18 19 21 22 23 13 12 14 27 26 25 33 32 35 34 EN VIN",
            numbers={"v_min_v": 4.8, "v_max_v": 5.5, "current_a": 0.3},
            circuits={
                "3V3 OUT/plus": "3.3 V from the board, 0.2 A",
                "15/input": "Line of a 3.3 V processor, pulled up",
            },
        ),
        "relay": Draft(
            kind="relay module",
            title="Relay board, 8 channels",
            pins_text=(
                "VCC GND IN1 IN2 IN3 IN4 IN5 IN6 IN7 IN8\nK1: NO1 COM1 NC1\nK2: NO2 COM2 NC2\n"
                "K3: NO3 COM3 NC3\nK4: NO4 COM4 NC4\nK5: NO5 COM5 NC5\nK6: NO6 COM6 NC6\n"
                "K7: NO7 COM7 NC7\nK8: NO8 COM8 NC8"
            ),
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.07, "contact_max_a": 10},
            circuits={
                "IN1/input": (
                    "Input of a relay board, 5 V, on at a low level: diode, lamp and 1 kohm to 5 V"
                )
            },
        ),
        "pump": Draft(
            kind="brushed motor",
            title="Peristaltic pump 12 V",
            pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 0.6},
        ),
        "mix": Draft(
            kind="brushed motor",
            title="Stirrer 12 V",
            pins_text="RED BLACK",
            numbers={"nominal_v": 12, "current_a": 0.8},
        ),
        "float": Draft(
            kind="switch",
            title="Float switch, tank low",
            pins_text="1 2 NC",
            numbers={"contact_max_a": 0.5},
        ),
        "flow": Draft(
            kind="sensor",
            title="Flow meter, open collector",
            pins_text="VCC GND PULSE",
            numbers={"v_min_v": 4.5, "v_max_v": 18, "current_a": 0.01},
        ),
        "valve": Draft(
            kind="valve",
            title="Fill valve 12 V",
            pins_text="1 2",
            numbers={"nominal_v": 12, "current_a": 0.5},
        ),
    }


@cache
def unwired_doser() -> Machine:
    """The doser before anything is joined."""
    return made("Doser", "doser", _doser_drafts(), DOSER)


@cache
def wired_doser() -> Machine:
    """The doser, wired by what Vervain proposes."""
    return wired(unwired_doser())
