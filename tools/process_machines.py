"""Machines that measure and regulate: a kiln, a press, a lathe with servo drives. Their parts are
described as a builder does it, by tables, numbers and circuits.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, slide_axis
from drive_machines import FIVE_V, PULLED_UP, described, terminals
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

LOW_SIDE = "Low-side switch, 3 A, without a diode"
SOURCING = "High-side switch, 0.5 A, with a diode for coils"
TYPE_3 = "24 V input, type 3, current sinking"
RECEIVER = "Differential receiver, RS-422, ended with 120 ohm"
STOP = "".join(f"\nSTOP\tSTOP {channel}" for channel in ("A+", "A-", "B+", "B-"))
DIFFERENTIAL = "Differential driver, RS-422"


def _drafts() -> dict[str, Draft]:
    return {
        "my-ssr": Draft(
            kind="solid-state relay", title="Solid-state relay, 25 A", pins_text="1\n2\nA1+\nA2-",
            numbers={"v_min_v": 3, "v_max_v": 32, "current_a": 0.012, "contact_max_a": 25},
        ),
        "my-element": Draft(
            kind="heater", title="Kiln element, 230 V 1.4 kW", pins_text="1\n2\nPE",
            numbers={"nominal_v": 230, "current_a": 6},
        ),
        "my-couple": Draft(
            kind="sensor", title="Thermocouple, type K", pins_text="T+\nT-",
            colours_text="T+ green\nT- white", lead_length_m=1.5,
        ),
        "my-amplifier": Draft(
            kind="sensor", title="Thermocouple amplifier",
            pins_text="VCC\nGND\nSCK\nCS\nSO\nT+\nT-",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.002},
        ),
        "my-kiln-board": Draft(
            kind="controller", title="Kiln board",
            pins_text="port\tpin\n" + "\n".join(
                f"{port}\t{pin}"
                for port, pins in (
                    ("POWER", "24V GND"), ("SPI", "5V SCK MISO CS GND"), ("HEAT", "24V OUT"),
                    ("DOOR", "IN GND"), ("CONTACTORS", "IN GND"), ("LAMP OUT", "24V OUT"),
                )
                for pin in pins.split()
            ) + STOP,
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.2},
            circuits={
                "SPI/plus": FIVE_V, "HEAT/output": LOW_SIDE, "LAMP OUT/output": LOW_SIDE,
                "DOOR/input": PULLED_UP, "CONTACTORS/input": PULLED_UP, "STOP/input": TYPE_3,
            },
        ),
        "my-transmitter": Draft(
            kind="sensor", title="Pressure transmitter", pins_text="1\t+\n2\t-", drive="current",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.02},
        ),
        "my-cell": Draft(kind="sensor", title="Load cell", pins_text="E+\nE-\nS+\nS-"),
        "my-weigher": Draft(
            kind="signal converter", title="Load cell amplifier",
            pins_text=terminals(CELL="E+ E- S+ S-", OUT="VCC GND DT SCK"),
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.002},
            roles={"OUT": "bus, from a controller"},
        ),
        "my-press-controller": Draft(
            kind="controller", title="Press controller",
            pins_text=terminals(
                POWER="L+ M", DI_0="I0 M", DI_1="I1 M", DI_2="I2 M", AI_0="AI0 M",
                DO_0="L+ Q0 M", DO_1="L+ Q1 M",
            ) + "\n" + "\n".join(f"WEIGH\t{pin}" for pin in ("5V", "DT", "SCK", "GND")) + STOP,
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.2},
            circuits={
                "STOP/input": TYPE_3, "DI 0/input": TYPE_3,
                "AI 0/input": "Analogue input, 4 to 20 mA",
                "DO 0/output": SOURCING, "DO 1/output": SOURCING, "WEIGH/plus": FIVE_V,
            },
        ),
        "my-lathe-board": Draft(
            kind="controller", title="Lathe board with analogue outputs",
            pins_text=terminals(
                POWER="+24V GND", AO_1="AO GND", AO_2="AO GND", ENABLE_OUT_1="DO GND",
                ENABLE_OUT_2="DO GND", READY_IN_1="DI GND", READY_IN_2="DI GND", HOME_IN_1="DI GND",
                HOME_IN_2="DI GND", LIGHTS="DATA GND",
            ) + "\n" + "\n".join(
                f"ENC {n}\t{pin}" for n in (1, 2) for pin in ("A+", "A-", "B+", "B-", "GND")
            ) + STOP,
            numbers={"v_min_v": 18, "v_max_v": 30, "current_a": 0.3},
            circuits={
                "AO 1/output": "Analogue output, −10 to 10 V", "STOP/input": TYPE_3,
                "ENABLE OUT 1/output": SOURCING, "READY IN 1/input": PULLED_UP,
                "HOME IN 1/input": PULLED_UP, "ENC 1/input": RECEIVER,
            },
        ),
        "my-servo-drive": Draft(
            kind="servo drive", title="Servo drive, 230 V",
            pins_text=terminals(
                MAINS="L N PE", MOTOR="U V W PE", CMD="REF+ REF- EN COM",
                ENC_IN="A+ A- B+ B- 5V 0V", ENC_OUT="A+ A- B+ B- GND", STO="STO1 STO2 COM",
                ALARM="ALM+ ALM-",
            ),
            numbers={"v_min_v": 195, "v_max_v": 250, "current_a": 4},
            circuits={
                "CMD/input": "Analogue input, −10 to 10 V", "START/input": TYPE_3,
                "ENC IN/input": RECEIVER, "ENC IN/plus": FIVE_V, "ENC OUT/output": DIFFERENTIAL,
                "STO/input": TYPE_3, "ALARM/output": "Open collector, 50 mA",
            },
        ),
        "my-servo-motor": Draft(
            kind="three-phase motor", title="Servo motor with an encoder",
            pins_text=terminals(POWER="U V W PE", ENC="A+ A- B+ B- 5V 0V"),
            numbers={"nominal_v": 220, "current_a": 3},
        ),
        "my-lights": Draft(
            kind="lamp", title="Strip of lights, 5 V",
            pins_text="port\tpin\n" + "\n".join(
                f"{port}\t{pin}"
                for port, pins in (("IN", "5V DIN GND"), ("OUT", "5V DOUT GND"))
                for pin in pins.split()
            ),
            numbers={"nominal_v": 5, "current_a": 1},
        ),
    }  # fmt: skip


@cache
def process_parts() -> dict[str, Part]:
    """The parts of these machines by their id."""
    return described(_drafts())


def kiln(build: Builder) -> Machine:
    """An element behind a solid-state relay and two contactors; a thermocouple on its amplifier."""
    build.join("X4:1", "S1:IN", "L-L N-N")
    build.join("S1:OUT", "G1:MAINS", "L-L N-N")
    build.join("X4:2", "G1:MAINS", "PE-PE")
    build.join("X4:3", "E1:LEADS", "PE-PE")
    build.join("X4:1", "G1:OUT", "PE-2")
    for pole, pin in (("1-2", "L"), ("3-4", "N")):
        first, last = pole.split("-")
        build.join("S1:OUT", f"Q1:{pole}", f"{pin}-{first}")
        build.join(f"Q1:{pole}", f"Q2:{pole}", f"{last}-{first}")
    build.join("Q2:1-2", "F1:LEADS", "2-1")
    build.join("F1:LEADS", "K2:1-2", "2-1")
    build.join("K2:1-2", "E1:LEADS", "2-1")
    build.join("Q2:3-4", "E1:LEADS", "4-2")
    build.join("G1:OUT", "K1:POWER", "1-24V 2-GND")
    build.join("K1:HEAT", "K2:CONTROL", "24V-A1+ OUT-A2-")
    build.join("K1:LAMP OUT", "P1:LEADS", "24V-+ OUT-−")
    build.join("B2:LEADS", "K1:DOOR", "COM-GND NC-IN")
    build.join("K3:LEADS", "K1:SPI", "VCC-5V GND-GND SCK-SCK CS-CS SO-MISO")
    build.join("B1:LEADS", "K3:INPUT", "1-6 2-7")
    for n, contact in ((1, "11-12"), (2, "21-22")):
        first, last = contact.split("-")
        build.join("G1:OUT", f"S2:{contact}", f"1-{first}")
        build.join(f"S2:{contact}", f"Q{n}:COIL", f"{last}-A1")
        build.join(f"Q{n}:COIL", "G1:OUT", "A2-2")
        build.join(f"Q{n}:COIL", "K1:STOP", "A1-1 A2-2" if n == 1 else "A1-3 A2-4")
    build.join("K1:CONTACTORS", "Q1:21-22", "IN-21")
    build.join("Q1:21-22", "Q2:21-22", "22-21")
    build.join("Q2:21-22", "K1:CONTACTORS", "22-GND")
    return build.machine


def press(build: Builder) -> Machine:
    """Two valves behind two contactors, a pressure as a current, a force from a load cell."""
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:1", "G1:OUT", "PE-2")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "X1:1", "OUT-+")
    build.join("G1:OUT", "X1:1", "2-0V")
    build.join("X1:2", "K1:POWER", "+-L+ 0V-M")
    build.join("X1:3", "B1:LEADS", "+-1")
    build.join("B1:LEADS", "K1:AI 0", "2-AI0")
    for n in (0, 1):
        build.join("X1:4", f"S{n + 3}:13-14", "+-13")
        build.join(f"S{n + 3}:13-14", f"K1:DI {n}", f"14-I{n}")
        poles = ("1-2", "3-4")[n]
        first, last = poles.split("-")
        build.join(f"K1:DO {n}", f"Q1:{poles}", f"Q{n}-{first}")
        build.join(f"Q1:{poles}", f"M{n + 1}:LEADS", f"{last}-+")
        build.join(f"M{n + 1}:LEADS", f"Q2:{poles}", f"−-{first}")
        build.join(f"Q2:{poles}", f"K1:DO {n}", f"{last}-M")
    build.join("K2:OUT", "K1:WEIGH", "VCC-5V GND-GND DT-DT SCK-SCK")
    build.join("B2:LEADS", "K2:CELL", "1-1 2-2 3-3 4-4")
    for n, contact in ((1, "11-12"), (2, "21-22")):
        first, last = contact.split("-")
        build.join("X1:5", f"S2:{contact}", f"+-{first}")
        build.join(f"S2:{contact}", f"Q{n}:COIL", f"{last}-A1")
        build.join(f"Q{n}:COIL", "X1:6", "A2-0V")
        build.join(f"Q{n}:COIL", "K1:STOP", "A1-1 A2-2" if n == 1 else "A1-3 A2-4")
    build.join("X1:7", "Q1:21-22", "+-21")
    build.join("Q1:21-22", "Q2:21-22", "22-21")
    build.join("Q2:21-22", "K1:DI 2", "22-I2")
    return build.machine


def lathe(build: Builder) -> Machine:
    """Two servo drives told by ±10 V, with encoders there and back; lights that pass data on."""
    build.join("X4:1", "S1:IN", "L-L N-N")
    for number, device in ((2, "G1"), (3, "T1"), (4, "T2")):
        build.join("S1:OUT", f"{device}:MAINS", "L-L N-N")
        build.join(f"X4:{number}", f"{device}:MAINS", "PE-PE")
    build.join("X4:1", "G1:OUT", "PE-2")
    build.join("G1:OUT", "X1:1", "1-+ 2-0V")
    build.join("X1:2", "K1:POWER", "+-+24V 0V-GND")
    build.join("X1:3", "G2:IN", "+-1 0V-2")
    for n in (1, 2):
        drive = f"T{n}"
        build.join(f"K1:AO {n}", f"{drive}:CMD", "1-1 2-2")
        build.join(f"K1:ENABLE OUT {n}", f"{drive}:START", "DO-EN GND-COM")
        build.join(f"{drive}:ALARM", f"K1:READY IN {n}", "1-1 2-2")
        build.join(f"{drive}:ENC OUT", f"K1:ENC {n}", "1-1 2-2 3-3 4-4 5-5")
        build.join(f"M{n}:POWER", f"{drive}:MOTOR", "U-U V-V W-W PE-PE")
        build.join(f"M{n}:ENC", f"{drive}:ENC IN", "1-1 2-2 3-3 4-4 5-5 6-6")
        build.join(f"B{n}:LEADS", f"K1:HOME IN {n}", "COM-GND NC-DI")
        contact, first, last = (("11-12", "11", "12"), ("21-22", "21", "22"))[n - 1]
        build.join("X1:4", f"S2:{contact}", f"+-{first}")
        build.join(f"S2:{contact}", "T1:STO", f"{last}-STO{n}")
        build.join("T1:STO", "T2:STO", f"STO{n}-STO{n}")
        build.join(f"{drive}:STO", "X1:5", "COM-0V")
        build.join("T2:STO", "K1:STOP", f"STO{n}-{2 * n - 1}")
        build.join("K1:STOP", "X1:6", f"{2 * n}-0V")
    build.join("G2:OUT", "P1:IN", "1-5V 2-GND")
    build.join("K1:LIGHTS", "P1:IN", "DATA-DIN GND-GND")
    build.join("P1:OUT", "P2:IN", "5V-5V DOUT-DIN GND-GND")
    return replace(build.machine, axes=(slide_axis("X", "M1", "B1"), slide_axis("Z", "M2", "B2")))


KILN = (
    "X4 quoin-mt4", "S1 main-switch", "G1 fell-ps24", "K1 my-kiln-board", "K2 my-ssr",
    "E1 my-element", "F1 quoin-tc120", "B1 my-couple", "K3 my-amplifier", "B2 osier-ms2",
    "P1 quoin-bl24", "S2 larkmoor-es2", "Q1 my-contactor", "Q2 my-contactor",
)  # fmt: skip
PRESS = (
    "X4 quoin-mt4", "G1 fell-ps24", "F1 quoin-fh1", "X1 quoin-ts8", "K1 my-press-controller",
    "B1 my-transmitter", "S3 quoin-pb1", "S4 quoin-pb1", "M1 larkmoor-av24", "M2 larkmoor-av24",
    "K2 my-weigher", "B2 my-cell", "S2 larkmoor-es2", "Q1 my-contactor", "Q2 my-contactor",
)  # fmt: skip
LATHE = (
    "X4 quoin-mt4", "S1 main-switch", "G1 fell-ps24", "X1 quoin-ts8", "K1 my-lathe-board",
    "G2 quoin-dc5", "T1 my-servo-drive", "T2 my-servo-drive", "M1 my-servo-motor",
    "M2 my-servo-motor", "B1 osier-rl2", "B2 osier-rl2", "S2 larkmoor-es2", "P1 my-lights",
    "P2 my-lights",
)  # fmt: skip
