"""Machines on controllers that have single lines and no port for a driver, a servo or an encoder: a
filling line on a controller with screw terminals, and an arm of servos on a small board; and an
oven whose regulator, stop and contactor are all at mains.
"""

from functools import cache

from msgspec.structs import replace

from builder import slide_axis
from described_machines import wired
from drive_machines import described
from novice_machines import begun, decided
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

SINKING = "24 V input, type 3, current sinking"
FILLER = (
    "G1 supply", "K1 controller", "B1 eye", "B2 eye", "B3 level", "B4 belt", "B5 scale", "Y1 valve",
    "Y2 valve", "T1 inverter", "M1 conveyor", "T2 driver", "M2 piston", "P1 tower", "S2 start",
    "S3 halt", "S4 mode", "S1 stop", "K2 safety", "Q1 contactor", "Q2 contactor", "B6 level",
)  # fmt: skip
ARM = ("G1 supply", "G2 converter", "K1 board", "M1 servo", "M2 servo", "M3 servo", "B1 stick")

OVEN = (
    "K1 regulator", "K2 relay", "B1 couple", "E1 element", "Q1 contactor", "P1 lamp", "S1 stop",
    "S2 start", "M1 fan",
)  # fmt: skip


def filler_drafts() -> dict[str, Draft]:
    """The parts of the filling line, as their labels are copied."""
    return {
        "supply": Draft(
            kind="supply", title="Supply 24 V 5 A", pins_text="L N PE\n+ + - -",
            numbers={"nominal_v": 24, "current_a": 5},
        ),
        "controller": Draft(
            kind="controller", title="Controller, twelve inputs, eight outputs",
            pins_text="24V 0V\n\nI0 I1 I2 I3 I4 I5 I6 I7 I8 I9 I10 I11 COM\n\n"
            "Q0 Q1 Q2 Q3 Q4 Q5 Q6 Q7\nQL+ QM\n\nAI0+ AI0-\nAI1+ AI1-\nAQ0 AGND",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.2},
            circuits={
                "/input": SINKING,
                "Q0/output": "High-side switch, 0.5 A, with a diode for coils",
                "AI0/input": "Analogue input, 0 to 10 V",
                "AQ0/output": "Analogue output, 0 to 10 V",
            },
        ),
        "eye": Draft(
            kind="sensor", title="Light barrier with two outputs",
            pins_text="brown +\nwhite NC\nblue -\nblack NO", drive="PNP",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.03},
        ),
        "level": Draft(
            kind="sensor", title="Proximity switch", pins_text="BN L+\nBU L-\nBK OUT", drive="PNP",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.01},
        ),
        "belt": Draft(
            kind="encoder", title="Encoder of the belt",
            pins_text="brown 10-30V\nblue 0V\nblack A\nwhite B\norange Z", drive="push-pull",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.06},
        ),
        "scale": Draft(
            kind="sensor", title="Weighing transmitter", pins_text="+24V\n0V\nOUT", drive="volts",
            numbers={"v_min_v": 18, "v_max_v": 28, "current_a": 0.08},
        ),
        "valve": Draft(
            kind="valve", title="Filling valve", pins_text="1\n2",
            numbers={"nominal_v": 24, "current_a": 0.35},
        ),
        "inverter": Draft(
            kind="frequency inverter", title="Inverter of the conveyor",
            pins_text="L1 N PE\nU V W PE\nDI1 DI2 DI3 COM\n10V AI GND\nR1A R1B R1C",
            numbers={"v_min_v": 200, "v_max_v": 250, "current_a": 8},
            circuits={"CONTROL/input": SINKING},
        ),
        "conveyor": Draft(
            kind="three-phase motor", title="Motor of the conveyor", pins_text="U1 V1 W1 PE",
            numbers={"nominal_v": 230, "current_a": 3},
        ),
        "driver": Draft(
            kind="stepper driver", title="Driver of the piston",
            pins_text="PU+ (24V)\nPU-\nDR+ (24V)\nDR-\nMF+ (24V)\nMF-\nV+\nV-\nA+\nA-\nB+\nB-",
            numbers={"v_min_v": 20, "v_max_v": 50, "current_max_peak_a": 5.6},
        ),
        "piston": Draft(
            kind="stepper motor", title="Motor of the piston",
            pins_text="A+ black\nA- green\nB+ red\nB- blue", numbers={"current_a": 1.5},
        ),
        "tower": Draft(
            kind="lamp", title="Light tower", pins_text="red R\nyellow Y\ngreen G\nblack COM",
            numbers={"nominal_v": 24, "current_a": 0.1},
        ),
        "start": Draft(
            kind="switch", title="Start button", pins_text="13 14", numbers={"contact_max_a": 3},
        ),
        "halt": Draft(
            kind="switch", title="Halt button", pins_text="11 12", numbers={"contact_max_a": 3},
        ),
        "mode": Draft(kind="switch", title="Selector by hand or by itself", pins_text="COM 1 2"),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="11 12\n21 22",
            numbers={"contact_max_a": 6},
        ),
        "safety": Draft(
            kind="relay module", title="Safety relay",
            pins_text="A1 A2\nS11 S12\nS21 S22\nS33 S34\n13 14\n23 24\n41 42",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.1, "contact_max_a": 6},
            circuits={"/input": SINKING},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor",
            pins_text="A1 A2\n1 L1 2 T1\n3 L2 4 T2\n5 L3 6 T3\n21 22 NC",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 12},
        ),
    }  # fmt: skip


def arm_drafts() -> dict[str, Draft]:
    """The parts of the arm."""
    return {
        "supply": Draft(
            kind="supply", title="Supply 12 V 5 A", pins_text="L N PE V- V+",
            numbers={"nominal_v": 12, "current_a": 5},
        ),
        "converter": Draft(
            kind="supply", title="Converter 5 V", pins_text="IN+ IN- OUT+ OUT-",
            numbers={"nominal_v": 5, "current_a": 4, "v_min_v": 6, "v_max_v": 24},
        ),
        "board": Draft(
            kind="controller", title="Small board",
            pins_text="VIN\n5V\nGND\nGP0 GP1 GP2 GP3 GP4 GP5\nA0 A1 A2",
            roles={"GP0": "logic output"},
            numbers={"v_min_v": 5, "v_max_v": 12, "current_a": 0.1},
            circuits={
                "GP0/output": "3.3 V output, push-pull, 8 mA",
                "A0/input": "Analogue input, 0 to 5 V", "5V OUT/plus": "5 V from the board, 0.3 A",
            },
        ),
        "servo": Draft(
            kind="servo", title="Servo", pins_text="brown -\nred +\norange S",
            numbers={"v_min_v": 4.8, "v_max_v": 6, "current_a": 0.8},
        ),
        "stick": Draft(
            kind="sensor", title="Two axes by hand", pins_text="GND\n+5V\nVRX\nVRY", drive="volts",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.001},
        ),
    }  # fmt: skip


def oven_drafts() -> dict[str, Draft]:
    """The parts of the oven, whose coil, lamp and fan are made for mains."""
    return {
        "regulator": Draft(
            kind="controller", title="Regulator",
            pins_text="1 L\n2 N\n3 SSR+\n4 SSR-\n5 AL1\n6 AL1\n7 TC+\n8 TC-",
            numbers={"v_min_v": 100, "v_max_v": 240, "current_a": 0.05},
        ),
        "relay": Draft(
            kind="solid-state relay", title="Relay of the heat",
            pins_text="1/L1 2/T1\n3 + 3-32V\n4 -",
            numbers={"current_a": 0.01, "contact_max_a": 40},
        ),
        "couple": Draft(kind="sensor", title="Thermocouple", pins_text="TC+ green\nTC- white"),
        "element": Draft(
            kind="heater", title="Element of the heat", pins_text="1\n2",
            numbers={"nominal_v": 230, "current_a": 6.5},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor",
            pins_text="A1 A2 230V AC\n1 L1\n2 T1\n3 L2\n4 T2\n13 14 NO",
            numbers={"nominal_v": 230, "current_a": 0.05, "contact_max_a": 25},
        ),
        "lamp": Draft(
            kind="lamp", title="Lamp", pins_text="L N",
            numbers={"nominal_v": 230, "current_a": 0.02},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="NC 1 2",
            numbers={"contact_max_a": 6},
        ),
        "start": Draft(
            kind="switch", title="Start button", pins_text="13 14", numbers={"contact_max_a": 6},
        ),
        "fan": Draft(
            kind="fan", title="Fan", pins_text="blue N\nbrown L\ngreen-yellow PE",
            numbers={"nominal_v": 230, "current_a": 0.1},
        ),
    }  # fmt: skip


@cache
def filler_parts() -> dict[str, Part]:
    """The parts of the filling line by their id."""
    return described({f"my-filler-{name}": draft for name, draft in filler_drafts().items()})


@cache
def arm_parts() -> dict[str, Part]:
    """The parts of the arm by their id."""
    return described({f"my-arm-{name}": draft for name, draft in arm_drafts().items()})


@cache
def oven_parts() -> dict[str, Part]:
    """The parts of the oven by their id."""
    return described({f"my-oven-{name}": draft for name, draft in oven_drafts().items()})


def unwired_filler() -> Machine:
    """Its inlet, devices and axis, with nothing joined."""
    build = begun("Described filling line", filler_parts(), "my-filler", FILLER)
    build.device("X1", "quoin-mi1", "Inlet", None)
    return replace(build.machine, axes=(slide_axis("P", "M2", "B6"),))


def unwired_arm() -> Machine:
    """Its inlet and devices, with nothing joined."""
    build = begun("Described arm", arm_parts(), "my-arm", ARM)
    build.device("X1", "quoin-mi1", "Inlet", None)
    return build.machine


def unwired_oven() -> Machine:
    """Its inlet and devices, with nothing joined."""
    build = begun("Described oven", oven_parts(), "my-oven", OVEN)
    build.device("X1", "quoin-mi1", "Inlet", None)
    return build.machine


@cache
def wired_filler() -> Machine:
    """The filling line, with what its builder decides."""
    return decided(wired(unwired_filler()), {"stops.unnoticed": "The valves close by springs."})


@cache
def wired_arm() -> Machine:
    """The arm of servos."""
    return wired(unwired_arm())


@cache
def wired_oven() -> Machine:
    """The oven, with what its builder decides."""
    return decided(wired(unwired_oven()), {"stops.unnoticed": "Its stop has one contact."})
