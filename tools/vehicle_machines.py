"""A transporter on two hub motors, brushless, and a cart on gear motors with encoders. Their parts
are described as a builder does it, by what is printed at their terminals and leads.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding
from drive_machines import described, terminals
from process_machines import SOURCING, TYPE_3
from vervain.catalogue.drafts import Draft
from vervain.model.axis import Axis, Wheel
from vervain.model.machine import Machine
from vervain.model.part import Part

PULLED_UP_5 = "5 V input, pulled up, for contacts to 0 V"
SPEED_IN, SPEED_OUT = "Analogue input, 0 to 5 V", "Analogue output, 0 to 5 V"
OPEN_COLLECTOR, FIVE_V = "Open collector, 50 mA", "5 V from the board, 0.3 A"
LEVEL_IN, PUSH_PULL = "Analogue input, 0 to 10 V", "5 V output, push-pull, 20 mA"


def _drafts() -> dict[str, Draft]:
    return {
        "my-hub-motor": Draft(
            kind="three-phase motor", title="Hub motor, 36 V, Hall sensors",
            pins_text="U\tyellow\nV\tgreen\nW\tblue\nHall 5V\tred\nHall GND\tblack\n"
            "Hall A\tyellow\nHall B\tgreen\nHall C\tblue",
            numbers={"nominal_v": 36, "current_a": 7},
        ),
        "my-hub-drive": Draft(
            kind="servo drive", title="Brushless drive, 36 V 10 A",
            pins_text=terminals(
                POWER="B+ B-", MOTOR="MA MB MC", HALL="REF+ HU HV HW REF-",
                CTRL="VR EN F/R COM", FG="FG COM",
            ),
            numbers={"v_min_v": 24, "v_max_v": 48, "current_a": 8},
            circuits={
                "HALL/input": PULLED_UP_5, "HALL/plus": FIVE_V, "CTRL/input": SPEED_IN,
                "START/input": PULLED_UP_5, "FG/output": OPEN_COLLECTOR,
            },
        ),
        "my-traction-battery": Draft(
            kind="battery", title="Battery, 36 V 12 Ah", pins_text="B+\nB-",
            numbers={"nominal_v": 36, "current_a": 25},
        ),
        "my-converter-24": Draft(
            kind="supply", title="Converter, 36 V to 24 V 5 A",
            pins_text=terminals(IN="IN+ IN-", OUT="OUT+ OUT-"),
            numbers={"nominal_v": 24, "current_a": 5, "v_min_v": 30, "v_max_v": 60},
        ),
        "my-main-fuse": Draft(
            kind="fuse", title="Bolted fuse holder", pins_text="1\n2",
            numbers={"fuse_max_a": 60, "v_max_v": 58},
        ),
        "my-level-ranger": Draft(
            kind="sensor", title="Ranger, 0 to 10 V", drive="volts",
            pins_text="1\tBN\t24V\n3\tBU\t0V\n2\tWH\tOUT",
            numbers={"v_min_v": 15, "v_max_v": 30, "current_a": 0.04},
        ),
        "my-bumper": Draft(
            kind="switch", title="Bumper edge", pins_text="NC\tBN\nCOM\tWH",
            numbers={"contact_max_a": 0.5},
        ),
        "my-horn": Draft(
            kind="load", title="Horn, 24 V", pins_text="+\tRD\n-\tBK",
            numbers={"nominal_v": 24, "current_a": 0.2},
        ),
        "my-transport-board": Draft(
            kind="controller", title="Transporter board",
            pins_text=terminals(
                POWER="24V GND", AO_1="AO GND", AO_2="AO GND", AI_1="24V AI GND",
                AI_2="24V AI GND", DI_1="24V IN", DI_2="24V IN", DI_3="24V IN",
                DO_1="OUT GND", OC_1="OUT GND", OC_2="OUT GND", OC_3="OUT GND", OC_4="OUT GND",
                FREQ_1="FI GND", FREQ_2="FI GND",
            ),
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.4},
            roles={"FREQ 1": "digital input"},
            circuits={
                "AO 1/output": SPEED_OUT, "AI 1/input": LEVEL_IN, "DI 1/input": TYPE_3,
                "DO 1/output": SOURCING, "OC 1/output": OPEN_COLLECTOR, "FREQ 1/input": PULLED_UP_5,
            },
        ),
        "my-gear-motor": Draft(
            kind="brushed motor", title="Gear motor with an encoder, 12 V",
            pins_text="M+\tRD\nM-\tBK\nENC VCC\tBU\nENC GND\tGN\nA\tYE\nB\tWH",
            numbers={"nominal_v": 12, "current_a": 1.5},
        ),
        "my-micro": Draft(
            kind="controller", title="Small controller, 5 V",
            pins_text=terminals(
                POWER="VIN GND", IN="D2 D3 D10 D11 D12", OUT="D4 D5 D6 D7 D8 D9 D44",
                I2C="5V SDA SCL GND",
            ),
            numbers={"v_min_v": 7, "v_max_v": 15, "current_a": 0.1},
            circuits={
                "D2/input": "5 V input, CMOS levels", "OUT D4/output": PUSH_PULL,
                "I2C/plus": FIVE_V,
            },
        ),
        "my-cart-battery": Draft(
            kind="battery", title="Battery, 12 V 7 Ah", pins_text="B+\nB-",
            numbers={"nominal_v": 12, "current_a": 15},
        ),
        "my-converter-5": Draft(
            kind="supply", title="Converter, 12 V to 5 V 3 A",
            pins_text=terminals(IN="IN+ GND", OUT="OUT+ GND"),
            numbers={"nominal_v": 5, "current_a": 3, "v_min_v": 8, "v_max_v": 24},
        ),
        "my-echo-ranger": Draft(
            kind="sensor", title="Ranger by echo", drive="push-pull",
            pins_text="VCC\nTRIG\nECHO\nGND",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.02},
        ),
        "my-attitude": Draft(
            kind="sensor", title="Attitude sensor", pins_text="VCC\nGND\nSCL\nSDA\nINT",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.01},
        ),
        "my-relay-board": Draft(
            kind="relay module", title="Relay board, one channel",
            pins_text=terminals(IN="VCC GND IN", OUT="COM NO NC"),
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.07, "contact_max_a": 10},
            circuits={"IN/input": "5 V input, TTL levels"},
        ),
        "my-arm-servo": Draft(
            kind="servo", title="Servo, 5 V", pins_text="GND\tBN\n5V\tRD\nPWM\tOG",
            numbers={"v_min_v": 4.5, "v_max_v": 6, "current_a": 0.8},
        ),
        "my-head-lamp": Draft(
            kind="lamp", title="Head lamp, 12 V", pins_text="+\tRD\n-\tBK",
            numbers={"nominal_v": 12, "current_a": 0.5},
        ),
    }  # fmt: skip


@cache
def vehicle_parts() -> dict[str, Part]:
    """The parts of these machines by their id."""
    return described(_drafts())


def transporter(build: Builder) -> Machine:
    """Two wheels with brushless motors, behind one contactor that the stop opens."""
    build.join("G1:PORT", "F1:FUSE", "B+-1")
    build.join("F1:FUSE", "Q1:1-2", "2-1")
    for n in (1, 2):
        build.join("Q1:1-2", f"T{n}:POWER", "2-B+")
        build.join("G1:PORT", f"T{n}:POWER", "2-2")
    build.join("G1:PORT", "F2:FUSE", "B+-IN")
    build.join("F2:FUSE", "G2:IN", "OUT-IN+")
    build.join("G1:PORT", "G2:IN", "2-2")
    build.join("G2:OUT", "X1:1", "1-+ 2-0V")
    build.join("X1:2", "K1:POWER", "+-24V 0V-GND")
    build.join("X1:3", "S1:11-12", "+-11")
    build.join("S1:11-12", "Q1:COIL", "12-A1")
    build.join("Q1:COIL", "X1:3", "A2-0V")
    build.join("K1:DI 3", "S1:21-22", "24V-21 IN-22")
    for n, bumper in ((1, "S2"), (2, "S3")):
        build.join(f"M{n}:LEADS", f"T{n}:MOTOR", "U-MA V-MB W-MC")
        build.join(
            f"M{n}:HALL",
            f"T{n}:HALL",
            "4-1 6-2 7-3 8-4 5-5",
        )
        build.join(f"K1:AO {n}", f"T{n}:CTRL", "AO-VR GND-COM")
        build.join(f"K1:OC {2 * n - 1}", f"T{n}:START", "OUT-EN GND-COM")
        build.join(f"K1:OC {2 * n}", f"T{n}:START", "OUT-F/R")
        build.join(f"K1:FREQ {n}", f"T{n}:FG", "FI-FG GND-COM")
        build.join(f"B{n}:LEADS", f"K1:AI {n}", "24V-24V OUT-AI 0V-GND")
        build.join(f"{bumper}:LEADS", f"K1:DI {n}", "COM-24V NC-IN")
    build.join("P1:LEADS", "K1:DO 1", "1-OUT 2-GND")
    axes = tuple(
        Axis(
            id=name, name=f"{name} wheel", mechanism=Wheel(diameter_mm=165), drives=(motor,),
            endless=True,
        )
        for name, motor in (("L", "M1"), ("R", "M2"))
    )  # fmt: skip
    known = (
        accepted_finding("stops.restarts:S1", "The board keeps the drives off.", "2026-11-29"),
        accepted_finding(
            "stops.unnoticed:S1:T1:T2", "One contactor; somebody walks beside it.", "2026-11-29"
        ),
    )
    return replace(build.machine, axes=axes, accepted=known)


def cart(build: Builder) -> Machine:
    """Two gear motors with encoders on a bridge, at the plain pins of a small controller."""
    build.join("G1:PORT", "F1:FUSE", "B+-IN")
    build.join("F1:FUSE", "X1:1", "OUT-+")
    build.join("G1:PORT", "X1:1", "2-0V")
    build.join("X1:2", "T1:POWER", "+-VM 0V-GND")
    build.join("X1:3", "K1:POWER", "+-VIN 0V-GND")
    build.join("X1:4", "G2:IN", "+-1 0V-2")
    build.join("G2:OUT", "X2:1", "1-+ 2-0V")
    build.join("X2:2", "T1:LOGIC", "+-5V 0V-GND")
    for pin, line in (("D4", "PWMA"), ("D5", "DIRA"), ("D6", "PWMB"), ("D7", "DIRB")):
        build.join(f"K1:OUT {pin}", "T1:LOGIC", f"{pin}-{line}")
    for n, letter, a, b in ((1, "A", "D2", "D3"), (2, "B", "D10", "D11")):
        build.join(f"M{n}:LEADS", f"T1:MOTOR {letter}", "1-1 2-2")
        build.join(f"X2:{n + 2}", f"M{n}:ENCODER", "+-3 0V-4")
        build.join(f"M{n}:ENCODER", f"K1:{a}", f"5-{a}")
        build.join(f"M{n}:ENCODER", f"K1:{b}", f"6-{b}")
    build.join("X2:5", "B1:LEADS", "+-VCC 0V-GND")
    build.join("K1:OUT D8", "B1:LEADS", "D8-TRIG")
    build.join("B1:LEADS", "K1:D12", "ECHO-D12")
    build.join("B2:LEADS", "K1:I2C", "VCC-5V GND-GND SCL-SCL SDA-SDA")
    build.join("X2:6", "K3:IN POWER", "+-VCC 0V-GND")
    build.join("K1:OUT D9", "K3:IN", "D9-IN")
    build.join("X1:5", "K3:OUT", "+-COM")
    build.join("K3:OUT", "P1:LEADS", "NO-1")
    build.join("P1:LEADS", "X1:5", "2-0V")
    build.join("X2:7", "M3:LEADS", "+-5V 0V-GND")
    build.join("K1:OUT D44", "M3:LEADS", "D44-PWM")
    return build.machine


CART = (
    "G1 my-cart-battery", "F1 quoin-fh1", "X1 quoin-ts8", "X2 quoin-ts8", "G2 my-converter-5",
    "K1 my-micro", "T1 my-twin-bridge", "M1 my-gear-motor", "M2 my-gear-motor",
    "B1 my-echo-ranger", "B2 my-attitude", "K3 my-relay-board", "P1 my-head-lamp",
    "M3 my-arm-servo",
)  # fmt: skip
TRANSPORTER = (
    "G1 my-traction-battery", "F1 my-main-fuse", "F2 quoin-fh1", "G2 my-converter-24",
    "X1 quoin-ts8", "K1 my-transport-board", "S1 larkmoor-es2", "Q1 my-contactor",
    "T1 my-hub-drive", "T2 my-hub-drive", "M1 my-hub-motor", "M2 my-hub-motor",
    "B1 my-level-ranger", "B2 my-level-ranger", "S2 my-bumper", "S3 my-bumper", "P1 my-horn",
)  # fmt: skip
