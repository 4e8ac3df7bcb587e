"""Small machines of the workshop's parts, each sound as it stands."""

from msgspec.structs import replace

from builder import at, bench, slide_axis
from vervain.edits.cable_edits import set_shield, set_spares
from vervain.edits.device_edits import set_setting
from vervain.model.machine import Machine


def with_settings(machine: Machine, **settings: dict[str, str | float]) -> Machine:
    for device, values in settings.items():
        for key, value in values.items():
            machine = set_setting(machine, device, key, value)
    return machine


def built_in_drivers() -> Machine:
    """A board with drivers built in, two motors, their limits, a fan; mains by an inlet."""
    build = bench(
        "X1 quoin-mi1", "G1 fell-ps24", "K1 tarn-bd4", "M1 fell-s42", "M2 fell-s42",
        "B1 osier-ms2", "B2 osier-ms2", "M3 quoin-bf24", "F1 quoin-fh1",
    )  # fmt: skip
    build.cable("W1", "mains-3x1.5", 0.5)
    build.join("X1:OUT", "G1:MAINS", "L-L N-N PE-PE", "W1")
    build.join("G1:OUT", "F1:FUSE", "24V-IN")
    build.join("F1:FUSE", "K1:POWER", "OUT-V")
    build.join("G1:OUT", "K1:POWER", "0V-0V")
    for axis, motor, switch in (("X", "M1", "B1"), ("Y", "M2", "B2")):
        build.join(f"{motor}:LEADS", f"K1:MOTOR {axis}", "BK-1 GN-2 RD-3 BU-4")
        build.join(f"{switch}:LEADS", f"K1:LIMIT {axis}", "COM-0V NC-S")
    build.join("M3:LEADS", "K1:FAN 1", "+-V −-OUT")
    axes = (slide_axis("X", "M1", "B1"), slide_axis("Y", "M2", "B2"))
    return with_settings(
        replace(build.machine, axes=axes), F1={"rating_a": 4.0},
        K1={"current_peak_a": 1.5, "invert/LIMIT X": "inverted", "invert/LIMIT Y": "inverted"},
    )  # fmt: skip


def analogue_rover() -> Machine:
    """A robot controller with a potentiometer, a thermocouple amplifier and six radio channels."""
    build = bench(
        "G1 fell-dc12", "G2 osier-lb24", "F1 quoin-fh1", "K1 quoin-rc8", "B1 quoin-pt10",
        "B2 quoin-ta1", "K2 osier-rr6", "G3 quoin-dc6",
    )  # fmt: skip
    build.join("G2:OUT", "F1:FUSE", "24V-IN")
    build.join("F1:FUSE", "G1:IN", "OUT-1")
    build.join("G2:OUT", "G1:IN", "0V-2")
    build.join("F1:FUSE", "G3:IN", "OUT-1")
    build.join("G2:OUT", "G3:IN", "0V-2")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("G3:OUT", "K1:SERVO PWR", "1-6V 2-2")
    build.join("G3:OUT", "G1:OUT", "2-2")
    build.join("B1:LEADS", "K1:ANALOGUE 1", "+-3V3 W-S −-0V")
    build.join("B2:OUT", "K1:ANALOGUE 2", "V-3V3 OUT-S 0V-0V")
    for n in (1, 2):
        build.join(f"K2:CH {n}", f"K1:RADIO {n}", "S-S +-6V −-0V")
    return with_settings(build.machine, F1={"rating_a": 3.0})


def relays_and_switches() -> Machine:
    """A transistor board and eight relays on a programmable controller."""
    build = bench(
        "G1 fell-ps24", "X4 quoin-mt4", "F1 quoin-fh1", "X1 quoin-ts12", "K1 larkmoor-pc12",
        "K2 osier-tb4", "M1 quoin-bf24", "P1 quoin-bl24", "X2 quoin-ft6", "K3 quoin-r8",
        "G2 quoin-dc5", "S1 larkmoor-wh6", "P2 quoin-bl24",
        "S2 larkmoor-es2",
    )  # fmt: skip
    build.cable("W1", "mains-3x1.5", 0.5)
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE", "W1")
    build.join("G1:OUT", "F1:FUSE", "24V-IN")
    build.join("F1:FUSE", "X1:1", "OUT-+")
    build.join("G1:OUT", "X1:1", "0V-0V")
    build.join("X4:2", "G1:OUT", "PE-0V")
    build.join("X1:2", "K1:POWER", "+-24V 0V-0V")
    build.join("X1:3", "K2:FEED", "+-V 0V-0V")
    build.join("K1:OUT 1", "K2:IN 1", "24V-S OUT-−")
    build.join("K2:OUT 1", "X2:IN", "V-1 OUT-2")
    build.join("X2:OUT", "M1:LEADS", "1-+ 2-−")
    build.join("K1:OUT 2", "P1:LEADS", "24V-+ OUT-−")
    build.join("X1:4", "G2:IN", "+-1 0V-2")
    build.join("G2:OUT", "K3:HEAD", "1-5V 2-0V")
    build.join("X1:5", "G2:OUT", "0V-2")
    build.join("K1:OUT 3", "K3:IN 1", "OUT-IN")
    build.join("X1:6", "K3:RELAY 1", "+-COM")
    build.join("K3:RELAY 1", "P2:LEADS", "NO-+")
    build.join("X1:6", "P2:LEADS", "0V-−")
    build.join("X1:7", "S1:FEED", "+-24V 0V-0V")
    build.join("X1:8", "S2:11-12", "+-11")
    build.join("X1:8", "S2:21-22", "+-21")
    build.cable("W2", "shield-2x0.25", 1.5)
    build.join("S2:11-12", "S1:STOP", "12-11", "W2", "1")
    build.join("S1:STOP", "K1:STOP", "12-A+", "W2", "2")
    build.join("S2:21-22", "K1:STOP", "22-B+")
    build.join("X1:9", "K1:STOP", "0V-A−")
    build.join("X1:9", "K1:STOP", "0V-B−")
    build.cable("W3", "pair-4x2x0.14", 1.5)
    build.join("S1:WHEEL", "K1:COUNT 1", "5V-5V A-A B-B 4-4", "W3")
    machine = build.machine
    for cable, port in (("W2", "K1:STOP"), ("W3", "K1:COUNT 1")):
        machine = set_spares(set_shield(machine, cable, (at(port),)), cable, "insulated")
    return with_settings(machine, F1={"rating_a": 4.0})
