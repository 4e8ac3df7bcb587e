"""Machines with drives and sensors that no shelf has: a spindle on an inverter, a bus. Their
parts are described as a builder does it: by the table of pins, a few numbers, and circuits.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, slide_axis
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

D72 = "BK-A+ GN-A− RD-B+ BU-B−"
PULLED_UP = "24 V input, pulled up, for NPN and contacts to 0 V"
FIVE_V = "5 V from the board, 0.3 A"


def terminals(**blocks: str) -> str:
    """A table of two columns: the terminal block, and what is printed at each terminal."""
    rows = [
        f"{name.replace('_', ' ')}\t{pin}" for name, pins in blocks.items() for pin in pins.split()
    ]
    return "\n".join(("port\tterminal", *rows))


def _drafts() -> dict[str, Draft]:
    axes = {f"AXIS_{n}": "STEP DIR ENA GND" for n in (1, 2)}
    inputs = {f"DI_{n}": "DI GND" for n in (1, 2, 3, 4)}
    return {
        "my-inverter": Draft(
            kind="frequency inverter",
            title="Spindle inverter, 230 V",
            pins_text=terminals(
                MAINS="L N PE", MOTOR="U V W PE", CTRL="FWD REV COM", SPEED="10V AI 0V",
                FAULT="NO COM NC",
            ),
            numbers={"v_min_v": 195, "v_max_v": 250, "current_a": 10},
            circuits={"CTRL/input": PULLED_UP, "SPEED/input": "Analogue input, 0 to 10 V"},
        ),
        "my-spindle": Draft(
            kind="three-phase motor", title="Spindle, 220 V 400 Hz", pins_text="U\nV\nW\nPE",
            numbers={"nominal_v": 220, "current_a": 7},
        ),
        "my-contactor": Draft(
            kind="contactor", title="Contactor, 24 V coil, three poles",
            pins_text="A1\nA2\n1\n2\n3\n4\n5\n6\n21\n22",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 20},
        ),
        "my-router-board": Draft(
            kind="controller",
            title="Router board with an analogue output and a relay",
            pins_text=terminals(
                POWER="+24V GND", **axes, **inputs, AO_1="AO GND", RELAY_1="NO COM"
            )
            + "".join(f"\nSTOP\tSTOP {channel}" for channel in ("A+", "A-", "B+", "B-")),
            numbers={"v_min_v": 18, "v_max_v": 30, "current_a": 0.5, "step_rate_max_hz": 1e5},
            circuits={
                "AXIS 1/output": "5 V output, push-pull, 20 mA", "DI 1/input": PULLED_UP,
                "AO 1/output": "Analogue output, 0 to 10 V",
                "STOP/input": "24 V input, type 3, current sinking",
            },
        ),
        "my-robot-board": Draft(
            kind="controller",
            title="Robot board with three buses",
            pins_text="port\tpin\n" + "\n".join(
                f"{port}\t{pin}"
                for port, pins in (
                    ("POWER", ("+24V", "GND")), ("CAN", ("CAN H", "CAN L", "GND")),
                    ("SERIAL", ("5V", "TX", "RX", "GND")), ("I2C", ("5V", "SDA", "SCL", "GND")),
                    ("5V OUT", ("5V", "GND")),
                )
                for pin in pins
            ),
            numbers={"v_min_v": 18, "v_max_v": 30, "current_a": 0.5},
            roles={"5V OUT": "power out"},
            circuits={"SERIAL/plus": FIVE_V, "I2C/plus": FIVE_V},
        ),
        "my-bus-drive": Draft(
            kind="motor bridge",
            title="Drive on a bus",
            pins_text="port\tpin\n" + "\n".join(
                f"{port}\t{pin}"
                for port, pins in (
                    ("POWER", ("V+", "GND")), ("CAN IN", ("CAN H", "CAN L", "GND")),
                    ("CAN OUT", ("CAN H", "CAN L", "GND")), ("MOTOR", ("M+", "M-")),
                )
                for pin in pins
            ),
            numbers={"v_min_v": 18, "v_max_v": 30, "current_a": 5},
        ),
        "my-tilt-sensor": Draft(
            kind="sensor", title="Tilt sensor", pins_text="VCC\nGND\nSCL\nSDA",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.01},
        ),
        "my-ranger": Draft(
            kind="sensor", title="Distance sensor", pins_text="VCC\nGND\nTX\nRX",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.1},
        ),
    }  # fmt: skip


@cache
def described_parts() -> dict[str, Part]:
    """The parts of these machines by their id."""
    return described(_drafts())


def described(drafts: dict[str, Draft]) -> dict[str, Part]:
    """The parts of drafts. Raises `ValueError` where one is not whole."""
    found = {}
    for part_id, draft in drafts.items():
        said = describe(draft, part_id)
        if said.part is None or said.problems or said.unknown:
            raise ValueError(f"{part_id}: {said.problems or said.unknown}")
        found[part_id] = said.part
    return found


def spindle(build: Builder) -> Machine:
    """Two axes and a spindle on an inverter, both with power only while the stop is released."""
    build.join("X4:1", "S1:IN", "L-L N-N")
    for number, device in ((2, "G1"), (3, "G2")):
        build.join("S1:OUT", f"{device}:MAINS", "L-L N-N")
        build.join(f"X4:{number}", f"{device}:MAINS", "PE-PE")
    build.join("X4:1", "G1:OUT", "PE-2")
    for pole, pin in (("1-2", "L"), ("3-4", "N")):
        first, last = pole.split("-")
        build.join("S1:OUT", f"Q1:{pole}", f"{pin}-{first}")
        build.join(f"Q1:{pole}", f"Q2:{pole}", f"{last}-{first}")
        build.join(f"Q2:{pole}", "T3:MAINS", f"{last}-{pin}")
    build.join("X4:4", "T3:MAINS", "PE-PE")
    build.join("T3:MOTOR", "M3:LEADS", "U-U V-V W-W PE-PE")
    build.join("G1:OUT", "K1:POWER", "1-+24V 2-GND")
    build.join("G2:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "Q1:5-6", "OUT-5")
    build.join("Q1:5-6", "Q2:5-6", "6-5")
    for n in (1, 2):
        build.join("Q2:5-6", f"T{n}:POWER", "6-1")
        build.join("G2:OUT", f"T{n}:POWER", "2-2")
        build.join(f"K1:AXIS {n}", f"T{n}:SIGNAL", "STEP-1 DIR-2 ENA-3 GND-4")
        build.join(f"M{n}:LEADS", f"T{n}:MOTOR", D72)
        build.join(f"B{n}:LEADS", f"K1:DI {n}", "COM-GND NC-DI")
        contact, first, last = (("11-12", "11", "12"), ("21-22", "21", "22"))[n - 1]
        coil = f"Q{n}:COIL"
        build.join("G1:OUT", f"S2:{contact}", f"1-{first}")
        build.join(f"S2:{contact}", coil, f"{last}-A1")
        build.join(coil, "G1:OUT", "A2-2")
        build.join(coil, "K1:STOP", "A1-1 A2-2" if n == 1 else "A1-3 A2-4")
    build.join("K1:DI 4", "Q1:21-22", "DI-21")
    build.join("Q1:21-22", "Q2:21-22", "22-21")
    build.join("Q2:21-22", "K1:DI 4", "22-GND")
    build.join("K1:AO 1", "T3:SPEED", "AO-AI GND-0V")
    build.join("K1:RELAY 1", "T3:CTRL", "NO-FWD COM-COM")
    build.join("T3:FAULT", "K1:DI 3", "COM-GND NC-DI")
    return replace(build.machine, axes=(slide_axis("X", "M1", "B1"), slide_axis("Y", "M2", "B2")))


def legs(build: Builder) -> Machine:
    """Three drives one after the other on a bus, and two sensors with buses of their own."""
    build.join("G1:OUT", "F1:FUSE", "24V-IN")
    build.join("F1:FUSE", "X1:1", "OUT-+")
    build.join("G1:OUT", "X1:1", "0V-0V")
    build.join("X1:2", "K1:POWER", "+-+24V 0V-GND")
    for n in (1, 2, 3):
        build.join(f"X1:{n + 2}", f"T{n}:POWER", "+-V+ 0V-GND")
        build.join(f"M{n}:LEADS", f"T{n}:MOTOR", "+-M+ −-M-")
    for here, there in (("K1:CAN", "T1:CAN IN"), ("T1:CAN OUT", "T2:CAN IN"),
                        ("T2:CAN OUT", "T3:CAN IN")):  # fmt: skip
        build.join(here, there, "1-1 2-2 3-3")
    build.join("B1:LEADS", "K1:I2C", "VCC-5V GND-GND SDA-SDA SCL-SCL")
    build.join("B2:LEADS", "K1:SERIAL", "VCC-5V GND-GND TX-RX RX-TX")
    return build.machine


SPINDLE = (
    "X4 quoin-mt4", "S1 main-switch", "G1 fell-ps24", "G2 fell-ps48", "K1 my-router-board",
    "F1 quoin-fh1", "T1 fell-d72", "T2 fell-d72", "M1 fell-s57", "M2 fell-s57", "B1 osier-rl2",
    "B2 osier-rl2", "T3 my-inverter", "M3 my-spindle", "S2 larkmoor-ds2", "Q1 my-contactor",
    "Q2 my-contactor",
)  # fmt: skip
LEGS = (
    "G1 osier-lb24", "F1 quoin-fh1", "X1 quoin-ts8", "K1 my-robot-board", "T1 my-bus-drive",
    "T2 my-bus-drive", "T3 my-bus-drive", "M1 quoin-gp24", "M2 quoin-gp24", "M3 quoin-gp24",
    "B1 my-tilt-sensor", "B2 my-ranger",
)  # fmt: skip
