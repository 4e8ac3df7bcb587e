"""A feeder behind a guard: a safety relay, a guard switch, a breaker, brushed motors on a bridge.
Its parts are described as a builder does it, most of them by the numbers at their terminals.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding, slide_axis
from drive_machines import described, terminals
from process_machines import SOURCING, TYPE_3
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

PUSH_PULL, TTL = "5 V output, push-pull, 20 mA", "5 V input, TTL levels"
FIVE_V = "5 V from the board, 0.3 A"
TERMINALS = "A1\nA2\nS11\nS12\nS21\nS22\nS33\nS34\n13\n14\n23\n24\n41\n42"
LOGIC_24 = {"v_min_v": 20, "v_max_v": 28}


def _drafts() -> dict[str, Draft]:
    return {
        "my-safety-relay": Draft(
            kind="relay module", title="Safety relay",
            pins_text=TERMINALS,
            numbers={**LOGIC_24, "current_a": 0.1, "contact_max_a": 6},
            circuits={"STOP/input": TYPE_3, "START/input": TYPE_3},
        ),
        "my-guard-switch": Draft(
            kind="switch", title="Guard switch", pins_text="11\n12\n21\n22\n33\n34",
            numbers={"contact_max_a": 3},
        ),
        "my-curtain": Draft(
            kind="sensor", title="Light curtain",
            pins_text="1\t24V\n2\tOSSD1\n3\t0V\n4\tOSSD2\n5\tFE",
            numbers={"v_min_v": 19.2, "v_max_v": 28.8, "current_a": 0.15},
        ),
        "my-main-switch": Draft(
            kind="switch", title="Main switch, two poles", pins_text="1\n2\n3\n4",
            numbers={"contact_max_a": 25},
        ),
        "my-breaker": Draft(
            kind="fuse", title="Breaker, two poles", pins_text="1\n2\n3\n4\n13\n14",
            numbers={"fuse_max_a": 4, "v_max_v": 400},
        ),
        "my-relay": Draft(
            kind="relay module", title="Relay on a base", pins_text="A1\nA2\n11\n12\n14",
            numbers={**LOGIC_24, "current_a": 0.015, "contact_max_a": 6},
        ),
        "my-feed-motor": Draft(
            kind="brushed motor", title="Feed motor, 24 V", pins_text="M+\nM-",
            numbers={"nominal_v": 24, "current_a": 1},
        ),
        "my-twin-bridge": Draft(
            kind="motor bridge", title="Two bridges",
            pins_text=terminals(
                POWER="VM GND", MOTOR_A="OUT1 OUT2", MOTOR_B="OUT3 OUT4",
                LOGIC="5V GND PWMA DIRA PWMB DIRB",
            ),
            numbers={"v_min_v": 6, "v_max_v": 36, "current_a": 5}, circuits={"LOGIC/input": TTL},
        ),
        "my-feeder-board": Draft(
            kind="controller", title="Feeder board",
            pins_text=terminals(
                POWER="24V GND", DI_1="24V IN GND", DI_2="24V IN GND", DI_3="24V IN GND",
                DI_4="24V IN GND", DO_1="24V OUT GND", DO_2="24V OUT GND",
                BRIDGE="5V GND PWMA DIRA PWMB DIRB",
            ),
            numbers={**LOGIC_24, "current_a": 0.2},
            circuits={
                "DI 1/input": TYPE_3, "DO 1/output": SOURCING, "BRIDGE/output": PUSH_PULL,
                "BRIDGE/plus": FIVE_V,
            },
        ),
    }  # fmt: skip


@cache
def guarded_parts() -> dict[str, Part]:
    """The parts of this machine by their id."""
    return described(_drafts())


def feeder(build: Builder) -> Machine:
    """Two feed motors and a pump that turn only while the guard is shut and the stop released."""
    build.join("X4:1", "S1:1-2", "L-1")
    build.join("X4:1", "S1:3-4", "N-3")
    build.join("S1:1-2", "F1:FUSE 1", "2-1")
    build.join("S1:3-4", "F1:FUSE 2", "4-3")
    for n in (1, 2):
        build.join("F1:FUSE 1", f"G{n}:MAINS", "2-L")
        build.join("F1:FUSE 2", f"G{n}:MAINS", "4-N")
        build.join(f"X4:{n + 1}", f"G{n}:MAINS", "PE-PE")
    build.join("X4:1", "G1:OUT", "PE-2")
    build.join("G1:OUT", "X1:1", "1-+ 2-0V")
    build.join("X1:2", "K1:POWER", "+-24V 0V-GND")
    build.join("X1:3", "K2:POWER", "+-A1 0V-A2")
    for contact, out, back in (("11-12", "S11", "S12"), ("21-22", "S21", "S22")):
        first, last = contact.split("-")
        build.join("K2:STOP", f"S2:{contact}", f"{out}-{first}")
        build.join(f"S2:{contact}", f"S3:{contact}", f"{last}-{first}")
        build.join(f"S3:{contact}", "K2:STOP", f"{last}-{back}")
    build.join("K2:START", "Q1:AUX", "S33-21")
    build.join("Q1:AUX", "Q2:AUX", "22-21")
    build.join("Q2:AUX", "S4:13-14", "22-13")
    build.join("S4:13-14", "K2:START", "14-S34")
    for n, contact in ((1, "13-14"), (2, "23-24")):
        first, last = contact.split("-")
        build.join("X1:4", f"K2:{contact}", f"+-{first}")
        build.join(f"K2:{contact}", f"Q{n}:COIL", f"{last}-A1")
        build.join(f"Q{n}:COIL", "X1:4", "A2-0V")
    build.join("G2:OUT", "F2:FUSE", "1-IN")
    build.join("F2:FUSE", "Q1:MAIN", "OUT-13")
    build.join("Q1:MAIN", "Q2:MAIN", "14-13")
    build.join("Q2:MAIN", "T1:POWER", "14-VM")
    build.join("G2:OUT", "T1:POWER", "2-GND")
    build.join("K1:BRIDGE", "T1:LOGIC", "5V-5V GND-GND PWMA-PWMA DIRA-DIRA PWMB-PWMB DIRB-DIRB")
    for n, letter in ((1, "A"), (2, "B")):
        build.join(f"M{n}:LEADS", f"T1:MOTOR {letter}", "1-1 2-2")
        build.join(f"B{n}:LEADS", f"K1:DI {n}", "+-24V OUT-IN −-GND")
    build.join("F1:13-14", "K1:DI 3", "13-24V 14-IN")
    build.join("S3:33-34", "K1:DI 4", "33-24V 34-IN")
    build.join("K1:DO 1", "K3:COIL", "OUT-A1 GND-A2")
    build.join("Q2:MAIN", "K3:11-14", "14-11")
    build.join("K3:11-14", "M3:LEADS", "14-1")
    build.join("M3:LEADS", "G2:OUT", "2-2")
    axes = (slide_axis("X", "M1", "B1"), slide_axis("Y", "M2", "B2"))
    # Both supplies share a 0 V at the bridge, so that a plus of the other would feed it.
    known = accepted_finding(
        "stops.unnoticed:S2:T1", "The feed of the bridge runs in a sleeve of its own.", "2026-11-29"
    )
    return replace(build.machine, axes=axes, accepted=(known,))


def gate(build: Builder) -> Machine:
    """A lift behind a light curtain: its outputs go to a safety relay, which the stop takes the
    power of, and that of one contactor besides.
    """
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:2", "G2:MAINS", "L-L N-N PE-PE")
    build.join("X4:3", "G1:OUT", "PE-2")
    build.join("G1:OUT", "X1:1", "1-+ 2-0V")
    build.join("X1:2", "S2:11-12", "+-11")
    build.join("S2:11-12", "K2:POWER", "12-A1")
    build.join("X1:2", "K2:POWER", "0V-A2")
    build.join("X1:3", "B3:LEADS", "+-24V 0V-0V")
    build.join("X4:3", "B3:LEADS", "PE-FE")
    build.join("B3:LEADS", "K2:STOP", "OSSD1-S12 OSSD2-S22")
    build.join("K2:START", "Q1:AUX", "S33-21")
    build.join("Q1:AUX", "Q2:AUX", "22-21")
    build.join("Q2:AUX", "S4:13-14", "22-13")
    build.join("S4:13-14", "K2:START", "14-S34")
    build.join("X1:4", "S2:21-22", "+-21")
    build.join("S2:21-22", "K2:13-14", "22-13")
    build.join("X1:7", "K2:23-24", "+-23")
    for n, contact in ((1, "13-14"), (2, "23-24")):
        last = contact.split("-")[1]
        build.join(f"K2:{contact}", f"Q{n}:COIL", f"{last}-A1")
        build.join(f"Q{n}:COIL", "X1:5", "A2-0V")
    build.join("X1:6", "K1:POWER", "+-24V 0V-GND")
    build.join("B1:LEADS", "K1:DI 1", "+-24V OUT-IN −-GND")
    build.join("K1:DO 1", "K3:COIL", "OUT-A1 GND-A2")
    build.join("G2:OUT", "F2:FUSE", "1-IN")
    build.join("F2:FUSE", "Q1:MAIN", "OUT-13")
    build.join("Q1:MAIN", "Q2:MAIN", "14-13")
    build.join("Q2:MAIN", "K3:11-14", "14-11")
    build.join("K3:11-14", "M1:LEADS", "14-1")
    build.join("M1:LEADS", "G2:OUT", "2-2")
    return replace(build.machine, axes=(slide_axis("Z", "M1", "B1"),))


GATE = (
    "X4 quoin-mt4", "G1 fell-ps24", "G2 fell-ps24", "X1 quoin-ts8", "K1 my-feeder-board",
    "K2 my-safety-relay", "B3 my-curtain", "S2 larkmoor-es2", "S4 quoin-pb1", "Q1 fell-c20",
    "Q2 fell-c20", "F2 quoin-fh1", "K3 my-relay", "M1 my-feed-motor", "B1 larkmoor-ip12",
)  # fmt: skip
FEEDER = (
    "X4 quoin-mt4", "S1 my-main-switch", "F1 my-breaker", "G1 fell-ps24", "G2 fell-ps24",
    "X1 quoin-ts8", "K1 my-feeder-board", "K2 my-safety-relay", "S2 larkmoor-es2",
    "S3 my-guard-switch", "S4 quoin-pb1", "Q1 fell-c20", "Q2 fell-c20", "F2 quoin-fh1",
    "T1 my-twin-bridge", "M1 my-feed-motor", "M2 my-feed-motor", "B1 larkmoor-ip12",
    "B2 larkmoor-ip12", "K3 my-relay", "M3 my-feed-motor",
)  # fmt: skip
