"""A pick robot of servo drives with a safety relay at their stop inputs, and a lift of two
actuators that tell how far out they are: every part is described by what is printed on it.
"""

from functools import cache

from described_machines import wired
from drive_machines import described
from novice_machines import begun, decided
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

PNP_INPUT = "24 V input, type 1, current sinking"
ROBOT = (
    "X0 inlet", "S0 main", "G1 supply", "K1 board", "T1 drive", "T2 drive", "T3 drive", "M1 motor",
    "M2 motor", "M3 motor", "B1 belt", "B2 curtain", "B3 home", "B4 home", "B5 home", "K2 relay",
    "S1 stop", "S2 reset",
)  # fmt: skip
LIFT = (
    "G1 battery", "F1 fuse", "S1 stop", "K2 contactor", "K1 board", "T1 bridge", "T2 bridge",
    "M1 actuator", "M2 actuator", "S2 button", "S3 button", "S4 limit", "S5 limit",
)  # fmt: skip


def robot_drafts() -> dict[str, Draft]:
    """The parts of the pick robot, as they are printed."""
    axes = [f"PULS{n}+ PULS{n}- SIGN{n}+ SIGN{n}-" for n in (1, 2, 3)]
    return {
        "inlet": Draft(kind="connector", title="Inlet", pins_text="L\nN\nPE"),
        "main": Draft(kind="switch", title="Main switch", pins_text="1 2\n3 4"),
        "supply": Draft(
            kind="supply", title="Supply 24 V 5 A", pins_text="L\nN\nPE\n+24V\n+24V\n0V\n0V",
            numbers={"nominal_v": 24, "current_a": 5, "v_min_v": 100, "v_max_v": 240},
        ),
        "board": Draft(
            kind="controller", title="Motion controller",
            pins_text="\n".join((
                "24V 0V", *axes, "ENC A+ A- B+ B- 5V 0V", *(f"IN{n}" for n in range(1, 9)), "COM",
            )),
            circuits={
                "/input": PNP_INPUT, "AXIS 1/output": "5 V output, push-pull, 20 mA",
                "ENC/input": "Differential receiver, RS-422, ended with 120 ohm",
            },
            numbers={"v_min_v": 22, "v_max_v": 26, "current_a": 0.4},
        ),
        "drive": Draft(
            kind="servo drive", title="Servo drive 400 W",
            pins_text="L1\nL2\nPE\nU\nV\nW\nPE\nCN1\n1 COM+\n2 SON\n3 PULS+\n4 PULS-\n5 SIGN+\n"
            "6 SIGN-\nCN2\n1 5V\n2 0V\n3 A+\n4 A-\n5 B+\n6 B-\n7 Z+\n8 Z-\nCN3\n1 STO1\n2 STO2\n"
            "3 STO COM",
            circuits={"CN3/input": PNP_INPUT},
            numbers={"v_min_v": 200, "v_max_v": 240, "current_a": 3},
        ),
        "motor": Draft(
            kind="three-phase motor", title="Servo motor 400 W",
            pins_text="U\nV\nW\nPE\n5V\n0V\nA+\nA-\nB+\nB-\nZ+\nZ-", numbers={"current_a": 2.8},
        ),
        "belt": Draft(
            kind="encoder", title="Belt encoder", pins_text="A+\nA-\nB+\nB-\n5V\n0V",
            numbers={"v_min_v": 4.75, "v_max_v": 5.25, "current_a": 0.08},
        ),
        "curtain": Draft(
            kind="sensor", title="Light curtain",
            pins_text="brown +24V\nblue 0V\nwhite OSSD1\nblack OSSD2", drive="PNP",
            numbers={"v_min_v": 19, "v_max_v": 29, "current_a": 0.1},
        ),
        "home": Draft(
            kind="sensor", title="Home sensor", pins_text="brown +\nblue -\nblack OUT", drive="PNP",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.015},
        ),
        "relay": Draft(
            kind="relay module", title="Safety relay",
            pins_text="A1\nA2\nS11\nS12\nS21\nS22\nS33\nS34\n13\n14\n23\n24\n41\n42",
            circuits={"STOP/input": PNP_INPUT, "START/input": PNP_INPUT},
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.1},
        ),
        "stop": Draft(kind="emergency stop", title="Stop", pins_text="11 12 NC\n21 22 NC"),
        "reset": Draft(kind="switch", title="Reset button", pins_text="13 14 NO"),
    }  # fmt: skip


def lift_drafts() -> dict[str, Draft]:
    """The parts of the lift, as they are printed."""
    board = {
        "/input": "5 V input, pulled up, for contacts to 0 V",
        "D2/output": "5 V output, push-pull, 20 mA", "A0/input": "Analogue input, 0 to 5 V",
    }  # fmt: skip
    return {
        "battery": Draft(
            kind="battery", title="Battery 12 V", pins_text="+\n-",
            numbers={"nominal_v": 12, "current_a": 60},
        ),
        "fuse": Draft(
            kind="fuse", title="Blade fuse", pins_text="1\n2",
            numbers={"fuse_max_a": 40, "v_max_v": 32},
        ),
        "stop": Draft(kind="emergency stop", title="Mushroom", pins_text="1 2 NC\n3 4 NC"),
        "contactor": Draft(
            kind="contactor", title="Contactor 12 V", pins_text="A1\nA2\n1\n2",
            numbers={"nominal_v": 12, "current_a": 0.4},
        ),
        "board": Draft(
            kind="controller", title="Lift board",
            pins_text="\n".join((
                "VIN\nGND\n5V\nGND", *(f"D{n}" for n in range(2, 13)), "A0\nA1\nA2\nA3",
            )),
            roles={"D2": "logic output", "D8": "digital input", "A0": "analogue input"},
            begins=frozenset({"D8"}), circuits=board,
            numbers={"v_min_v": 7, "v_max_v": 14, "current_a": 0.15},
        ),
        "bridge": Draft(
            kind="motor bridge", title="Bridge 30 A",
            pins_text="B+\nB-\nM+\nM-\nRPWM\nLPWM\nR_EN\nL_EN\nR_IS\nL_IS\nVCC\nGND",
            circuits={"CONTROL/input": "5 V input, TTL levels"},
            numbers={"v_min_v": 6, "v_max_v": 27, "current_a": 30},
        ),
        "actuator": Draft(
            kind="brushed motor", title="Linear actuator",
            pins_text="red M+\nblack M-\nyellow 5V\nwhite WIPER\nblue GND",
            numbers={"nominal_v": 12, "current_a": 5},
        ),
        "button": Draft(kind="switch", title="Button", pins_text="13 14 NO"),
        "limit": Draft(kind="switch", title="Limit", pins_text="COM NC NO"),
    }  # fmt: skip


@cache
def robot_parts() -> dict[str, Part]:
    """The parts of the pick robot, by id."""
    return described({f"my-robot-{name}": draft for name, draft in robot_drafts().items()})


@cache
def lift_parts() -> dict[str, Part]:
    """The parts of the lift, by id."""
    return described({f"my-lift-{name}": draft for name, draft in lift_drafts().items()})


def unwired_robot() -> Machine:
    """The pick robot with nothing joined."""
    return begun("Pick robot", robot_parts(), "my-robot", ROBOT).machine


def unwired_lift() -> Machine:
    """The lift with nothing joined."""
    return begun("Lift", lift_parts(), "my-lift", LIFT).machine


@cache
def wired_robot() -> Machine:
    """The pick robot by the two proposals."""
    return wired(unwired_robot())


@cache
def wired_lift() -> Machine:
    """The lift by the two proposals; what its one contactor cannot do is decided."""
    return decided(wired(unwired_lift()), {
        "stops.unnoticed": "A second contactor is on order.",
        "stops.restarts": "The board waits for a button after every start.",
        "supply.drop": "They still lift at 11.5 V.",
    })  # fmt: skip
