"""The seedling arm on its rover base, in the invented studio's garden, as planned and as found."""

from msgspec.structs import replace

from builder import Builder, accepted_finding, at, hookup_between, with_part, without
from vervain.edits import common, device_edits, hookup_edits
from vervain.model.axis import Axis, Joint, Wheel
from vervain.model.machine import CoreMark, Machine
from vervain.model.place import Place, Run

PLACES = {
    "base": "Rover base",
    "shoulder": "Shoulder",
    "elbow": "Elbow",
    "wrist": "Wrist",
    "hand": "Gripper",
    "deck": "Deck",
}
RUNS = (
    ("R1", "base", "shoulder", 0.5, True),
    ("R2", "shoulder", "elbow", 0.6, True),
    ("R3", "elbow", "wrist", 0.5, True),
    ("R4", "wrist", "hand", 0.3, True),
    ("R5", "base", "deck", 0.4, False),
)


def _joint(number: int, name: str, travel: float, ratio: float, upright: bool = False, **roles):
    switch = f"B{number + 5}"
    return Axis(
        id=f"J{number}", name=name, motion="rotary", travel=travel, vertical=upright,
        mechanism=Joint(), gear_ratio=ratio, speed_max=50 if ratio >= 50 else 60,
        acceleration_max=120, drives=(f"M{number}",), feedback=f"B{number}", home=switch,
        min_limit=switch, max_limit=switch, **roles,
    )  # fmt: skip


AXES = (
    _joint(1, "base", 300, 20),
    _joint(2, "shoulder", 150, 50, upright=True, brake="M10"),
    _joint(3, "elbow", 160, 40),
    _joint(4, "wrist", 200, 20),
    _joint(5, "hand", 300, 15),
    Axis(id="L", name="left wheels", endless=True, mechanism=Wheel(diameter_mm=120),
         speed_max=500, drives=("M7",)),
    Axis(id="R", name="right wheels", endless=True, mechanism=Wheel(diameter_mm=120),
         speed_max=500, drives=("M8",)),
)  # fmt: skip
SPOTS = {1: "base", 2: "shoulder", 3: "elbow", 4: "wrist", 5: "wrist"}
MOTORS = {1: "fell-s57", 2: "fell-s57", 3: "fell-s57", 4: "fell-s42", 5: "fell-s42"}
CURRENTS_A = {1: 3.6, 2: 3.9, 3: 3.6, 4: 1.9, 5: 1.6}
LENGTHS_M = {1: 0.8, 2: 1.1, 3: 1.7, 4: 2.2, 5: 2.3}
NAMES = {1: "base", 2: "shoulder", 3: "elbow", 4: "wrist", 5: "hand"}
DEVICES = (
    *((f"M{n}", MOTORS[n], f"J{n} {NAMES[n]} motor", SPOTS[n]) for n in range(1, 6)),
    ("M6", "quoin-ps20", "Gripper servo", "hand"),
    ("M7", "quoin-gm12", "Left wheel motor", "base"),
    ("M8", "quoin-gm12", "Right wheel motor", "base"),
    ("M9", "larkmoor-wv24", "Water valve", "hand"),
    ("M10", "larkmoor-hb24", "Shoulder brake", "shoulder"),
    *((f"B{n}", "larkmoor-e600", f"J{n} {NAMES[n]} encoder", SPOTS[n]) for n in range(1, 6)),
    *((f"B{n + 5}", "osier-ms2", f"J{n} {NAMES[n]} switch", SPOTS[n]) for n in range(1, 6)),
    ("B11", "quoin-sm3", "Soil moisture probe", "hand"),
    ("S1", "larkmoor-es2", "Emergency stop", "deck"),
    ("K1", "larkmoor-pc12", "Arm controller", "base"),
    ("K2", "quoin-rc8", "Rover controller", "base"),
    ("K3", "osier-rr3", "Radio receiver", "deck"),
    ("Q1", "fell-c20", "Motion relay 1", "base"),
    ("Q2", "fell-c20", "Motion relay 2", "base"),
    *((f"T{n}", "fell-d36", f"J{n} driver", "base") for n in range(1, 6)),
    ("T6", "fell-hb2", "Wheel bridge", "base"),
    ("G1", "osier-lb24", "Battery", "base"),
    ("G2", "quoin-dc6", "6 V converter", "base"),
    ("G3", "fell-dc12", "12 V converter", "base"),
    ("F1", "quoin-fh1", "Fuse, joints", "base"),
    ("F2", "quoin-fh1", "Fuse, wheels", "base"),
    ("F3", "quoin-fh1", "Fuse, control", "base"),
    ("F4", "quoin-fh1", "Main fuse", "base"),
    ("X1", "quoin-hs8", "Battery strip", "base"),
    ("X2", "quoin-ts8", "Control strip", "base"),
    ("X11", "quoin-il8", "Plug of the joint switches", "shoulder"),
    *((f"X{n + 11}", "quoin-il4", f"Plug of the J{n} motor", SPOTS[n]) for n in range(1, 6)),
    ("X17", "quoin-eh3", "Plug of the gripper servo", "hand"),
)
SETTINGS = {
    "K1": {"JP1": "NPN", **{f"invert/IN {n}": "inverted" for n in range(1, 6)}},
    **{f"T{n}": {"current_peak_a": CURRENTS_A[n], "microsteps": "16"} for n in range(1, 6)},
    "T6": {"duty_max": 48.0},
    "F1": {"rating_a": 15.0},
    "F2": {"rating_a": 10.0},
    "F3": {"rating_a": 7.5},
    "F4": {"rating_a": 30.0},
}


def as_planned() -> Machine:
    """The arm as it should be: nothing above Workmanship."""
    build = Builder(
        Machine(
            name="Seedling arm",
            state="as planned",
            places=tuple(Place(id=key, name=name) for key, name in PLACES.items()),
            runs=tuple(Run(id=i, a=a, b=b, length_m=m, moving=mv) for i, a, b, m, mv in RUNS),
        )
    )
    for designator, part, name, place in DEVICES:
        build.device(designator, part, name, place, **SETTINGS.get(designator, {}))
    _battery(build)
    _joints(build)
    _rover(build)
    _stops(build)
    accepted = tuple(
        accepted_finding(finding, reason, "2026-10-20")
        for finding, reason in (
            (
                "ports.exchangeable:K2:servo-bridge control",
                "Both plugs carry flags with their port",
            ),
            ("supply.drop:W43", "The gripper works from 4.8 V"),
            (
                "ports.crowded-contact:X11:A 6",
                "The common of the switches runs on from one to the next",
            ),
        )
    )
    build.machine = replace(build.machine, axes=AXES)
    build.lay(
        "shoulder elbow wrist hand deck", "base", 0.4,
        R1={"axis": "J1"}, R2={"axis": "J2"}, R3={"axis": "J3"}, R4={"axis": "J5"},
    )  # fmt: skip
    machine = build.machine
    # The gripper keeps what it holds; the rover has a switch of its own.
    for device in ("M6", "T6"):
        machine = device_edits.set_at_stop(machine, device, "stays")
    return replace(machine, accepted=accepted)


def _wires(build: Builder, rows) -> None:
    for cable, part, length_m, a, b, pins in rows:
        build.cable(cable, part, length_m)
        build.join(a, b, pins, cable)


def _battery(build: Builder) -> None:
    """The main fuse, the strip, three fused branches, and the chain of drivers."""
    _wires(
        build,
        (
            ("W1", "wire-rd-6", 0.2, "G1:OUT", "F4:FUSE", "1-IN"),
            ("W2", "wire-rd-6", 0.2, "F4:FUSE", "X1:1", "OUT-+"),
            ("W3", "wire-bk-6", 0.4, "G1:OUT", "X1:1", "2-0V"),
            ("W4", "wire-rd-6", 0.2, "X1:2", "F1:FUSE", "+-IN"),
            ("W5", "wire-rd-6", 0.2, "X1:3", "F2:FUSE", "+-IN"),
            ("W6", "wire-rd-6", 0.2, "X1:4", "F3:FUSE", "+-IN"),
            ("W7", "wire-rd-2.5", 0.3, "F1:FUSE", "Q1:MAIN", "OUT-13"),
            ("W8", "wire-rd-2.5", 0.2, "Q1:MAIN", "Q2:MAIN", "14-13"),
            ("W9", "wire-rd-2.5", 0.4, "Q2:MAIN", "T1:FEED", "14-24V"),
            ("W10", "wire-bk-2.5", 0.5, "X1:5", "T1:FEED", "0V-2"),
            ("W61", "wire-rd-2.5", 0.4, "F2:FUSE", "T6:FEED", "OUT-V"),
            ("W62", "wire-bk-2.5", 0.5, "X1:6", "T6:FEED", "0V-2"),
            ("W63", "wire-rd-0.5", 0.3, "F3:FUSE", "X2:1", "OUT-+"),
            ("W64", "wire-bk-2.5", 0.4, "X1:7", "X2:1", "0V-0V"),
            ("W65", "pair-rdbk-0.75", 0.4, "X2:2", "K1:POWER", "+-24V 0V-0V"),
            ("W66", "pair-rdbk-0.75", 0.4, "X2:3", "G2:IN", "+-24V 0V-0V"),
            ("W67", "pair-rdbk-0.75", 0.4, "X2:4", "G3:IN", "+-24V 0V-0V"),
            ("W68", "pair-rdbk-0.75", 0.3, "G2:OUT", "K2:SERVO PWR", "1-6V 2-2"),
            ("W69", "wire-bk-0.5", 0.3, "G2:OUT", "X2:5", "2-0V"),
            ("W70", "pair-rdbk-0.75", 0.3, "G3:OUT", "K2:POWER", "1-1 2-2"),
        ),
    )
    for number in range(1, 5):
        build.cable(f"W{50 + number}", "pair-rdbk-2.5", 0.2)
        chain = (f"T{number}:NEXT", f"T{number + 1}:FEED")
        build.join(*chain, "24V-24V 2-2", f"W{50 + number}")


def _joints(build: Builder) -> None:
    for n in range(1, 6):
        plug, cable = f"X{n + 11}", f"W{n + 10}"
        build.join(f"M{n}:LEADS", f"{plug}:A", "BK-1 GN-2 RD-3 BU-4")
        build.cable(cable, "motor-4x1", LENGTHS_M[n], f"{plug}:B")
        build.join(f"{plug}:B", f"T{n}:MOTOR", "1-A+ 2-A− 3-B+ 4-B−", cable)
        _shield(build, cable, f"T{n}:MOTOR", f"{plug}:B")
        build.cable(f"W{n + 20}", "pair-4x2x0.14", LENGTHS_M[n])
        build.join(f"B{n}:LEADS", f"K1:COUNT {n}", "+-5V A-A B-B −-0V", f"W{n + 20}", "1 3 5 2")
        _shield(build, f"W{n + 20}", f"K1:COUNT {n}")
        build.cable(f"W{n + 30}", "flat-4x0.25", 0.4)
        build.join(f"K1:AXIS {n}", f"T{n}:SIGNAL", "1-1 2-2 3-3 4-4", f"W{n + 30}")
        # One common for all switches: five signals and 0 V in one cable of eight cores.
        far = SPOTS[n] == "wrist"
        if far:
            build.cable(f"W{n + 41}", "flex-2x0.5", None)
        build.join(f"B{n + 5}:LEADS", "X11:A", f"NC-{n} COM-6", f"W{n + 41}" if far else "")
    build.cable("W40", "flex-8x0.25", 1.2, "X11:B")
    build.join("X11:B", "K1:IN 1", "1-IN 6-0V", "W40", "1 6")
    for n in range(2, 6):
        build.join("X11:B", f"K1:IN {n}", f"{n}-IN", "W40", f"{n}")
    build.cable("W41", "flex-2x0.5", 1.2)
    build.join("M10:LEADS", "K1:OUT 1", "+-24V −-OUT", "W41")
    build.cable("W42", "flex-2x0.5", 2.4)
    build.join("M9:LEADS", "K1:OUT 2", "+-24V −-OUT", "W42")


def _shield(build: Builder, cable_id: str, *ports: str) -> None:
    cable = next(cable for cable in build.machine.cables if cable.id == cable_id)
    changed = replace(cable, shield_to=tuple(map(at, ports)))
    build.machine = replace(
        build.machine, cables=common.swapped(build.machine.cables, cable, changed)
    )


def _rover(build: Builder) -> None:
    build.join("M6:PLUG", "X17:A", "S-1 +-2 −-3")
    build.cable("W43", "flex-3x0.5", 2.4, "X17:B")
    build.join("X17:B", "K2:MOTOR 3", "1-S 2-6V 3-3", "W43")
    build.cable("W44", "flex-3x0.34", 2.4)
    build.join("B11:LEADS", "K2:ANALOGUE 1", "+-3V3 OUT-S −-0V", "W44")
    for number in (1, 2):
        build.join(f"M{number + 6}:LEADS", f"T6:OUT {number}", "+-M+ −-M−")
        build.cable(f"W{number + 70}", "flat-3x0.25", 0.3)
        build.join(f"K2:DRIVE {number}", f"T6:CTRL {number}", "P-P D-D 3-3", f"W{number + 70}")
    for number in (1, 2, 3):
        build.cable(f"W{number + 72}", "flex-3x0.34", 0.5)
        ends = (f"K3:CH {number}", f"K2:RADIO {number}")
        build.join(*ends, "S-S 2-6V 3-3", f"W{number + 72}")


def _stops(build: Builder) -> None:
    _wires(
        build,
        (
            ("W80", "flex-2x0.5", 0.6, "X2:6", "S1:11-12", "+-11"),
            ("W81", "flex-2x0.5", 0.6, "X2:7", "S1:21-22", "+-21"),
            ("W84", "wire-bk-0.5", 0.4, "Q1:COIL", "X2:8", "A2-0V"),
            ("W85", "wire-bk-0.5", 0.4, "Q2:COIL", "X2:8", "A2-0V"),
            # What the relays' NC contacts say: both dropped, or one of them stays closed.
            ("W86", "wire-rd-0.5", 0.4, "K1:IN 6", "Q1:AUX", "IN-21"),
            ("W87", "wire-rd-0.5", 0.2, "Q1:AUX", "Q2:AUX", "22-21"),
            ("W88", "wire-bk-0.5", 0.4, "Q2:AUX", "K1:IN 6", "22-0V"),
        ),
    )
    build.join("S1:11-12", "Q1:COIL", "12-A1", "W80", "2")
    build.join("S1:21-22", "Q2:COIL", "22-A1", "W81", "2")
    build.cable("W82", "flex-2x0.5", 0.5)
    build.join("Q1:COIL", "K1:STOP", "A1-A+ A2-A−", "W82")
    build.cable("W83", "flex-2x0.5", 0.5)
    build.join("Q2:COIL", "K1:STOP", "A1-B+ A2-B−", "W83")


def as_found(planned: Machine) -> Machine:
    """The arm as it came back from its first season: a dozen mistakes."""
    machine = replace(planned, state="as found")
    machine = without(machine, "X11:B", "K1:IN 5")
    machine = without(machine, "G2:OUT", "X2:5")
    machine = replace(machine, cables=tuple(c for c in machine.cables if c.id != "W69"))
    machine = without(machine, "B4:LEADS", "K1:COUNT 4")
    machine = with_part(machine, "B11", "quoin-sm5")
    machine = without(machine, "S1:21-22", "Q2:COIL")
    machine = without(machine, "X2:7", "S1:21-22")
    machine = with_part(machine, "S1", "larkmoor-es1")
    # The shoulder's brake was taken off when it stuck.
    machine = device_edits.remove_device(machine, "M10")
    # A driver was changed in the field and fed from the strip; nothing reads the relays any more.
    for a, b in (("T4:NEXT", "T5:FEED"), ("K1:IN 6", "Q1:AUX"), ("Q1:AUX", "Q2:AUX"),
                 ("Q2:AUX", "K1:IN 6")):  # fmt: skip
        machine = without(machine, a, b)
    gone = ("W41", "W54", "W86", "W87", "W88")
    machine = replace(machine, cables=tuple(c for c in machine.cables if c.id not in gone))
    build = Builder(machine)
    build.cable("W55", "pair-rdbk-2.5", 0.4)
    build.join("X1:8", "T5:FEED", "+-24V 0V-2", "W55")
    build.join("X11:B", "K1:IN 4", "5-IN", "W40", "5")
    build.join("X2:7", "S1:13-14", "+-13", "W81", "1")
    build.join("S1:13-14", "Q2:COIL", "14-A1", "W81", "2")
    machine = build.machine
    for a, b, side, first, second in (
        ("M3:LEADS", "X14:A", "a", "GN", "BU"),
        ("X17:B", "K2:MOTOR 3", "b", "1", "2"),
    ):
        machine = hookup_edits.exchange_pins(
            machine, hookup_between(machine, a, b), side, first, second
        )
    cable = next(cable for cable in machine.cables if cable.id == "W40")
    marked = replace(cable, marks=(CoreMark(core=3, label="W40.2"),))
    machine = replace(machine, cables=common.swapped(machine.cables, cable, marked))
    for device, key, value in (
        ("F2", "rating_a", 20.0),
        ("T6", "duty_max", 100.0),
        ("T4", "current_peak_a", 3.0),
        ("T2", "microsteps", "32"),
        ("K1", "invert/IN 3", "as it is"),
    ):
        machine = device_edits.set_setting(machine, device, key, value)
    j2 = next(axis for axis in machine.axes if axis.id == "J2")
    faster = replace(j2, speed_max=360)
    return replace(machine, axes=common.swapped(machine.axes, j2, faster))
