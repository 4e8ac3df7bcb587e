"""The glazing gantry of the invented pottery studio, as planned and as found."""

from msgspec.structs import replace

from builder import Builder, accepted_finding, at, hookup_between, without
from vervain.edits import cable_edits, common, device_edits, feed_edits, hookup_edits, route_edits
from vervain.files.part_files import shipped_shelf
from vervain.model.axis import Axis, Belt, Gear, Screw
from vervain.model.machine import (
    Alternate,
    AlternateSetting,
    CoreMark,
    Machine,
    Reel,
)
from vervain.model.place import Chain, Place, Run

PLACES = {
    "box": "Control box",
    "foot": "Gantry foot",
    "left": "Gantry left end",
    "right": "Gantry right end",
    "head": "Z head",
    "turntable": "Turntable",
    "booth": "Booth wall",
    "door": "Door",
    "wheel": "Hand wheel",
}
RUNS = (
    ("R1", "box", "foot", 1.8, False),
    ("R2", "foot", "left", 2.4, True),
    ("R3", "left", "right", 1.3, False),
    ("R4", "left", "head", 1.5, True),
    ("R5", "box", "turntable", 1.4, False),
    ("R6", "box", "booth", 2.6, False),
    ("R7", "box", "door", 0.7, False),
    ("R8", "door", "wheel", 2.0, True),
)
AXES = (
    Axis(id="X", name="carriage", travel=820, mechanism=Belt(pitch_mm=2, teeth=20), speed_max=250,
         acceleration_max=1500, home_at=30, drives=("M1",), home="B1", min_limit="B2",
         max_limit="B3"),
    Axis(id="Y", name="gantry", travel=1240, mechanism=Belt(pitch_mm=2, teeth=20), speed_max=240,
         acceleration_max=1000, home_at=40, drives=("M2", "M3"), home="B4", min_limit="B5",
         max_limit="B6"),
    Axis(id="Z", name="nozzle head", travel=180, vertical=True,
         mechanism=Screw(lead_mm=5, backlash_mm=0.04), speed_max=40, acceleration_max=400,
         home_at=160, pulls_at="max", drives=("M4",), home="B7", max_limit="B8", brake="M5",
         also=("M11",)),
    Axis(id="A", name="turntable", motion="rotary", travel=360, endless=True,
         mechanism=Gear(driving_teeth=20, driven_teeth=120), speed_max=90, acceleration_max=180,
         pulls_at="max", drives=("M6",), feedback="B9", also=("B10",)),
)  # fmt: skip
INVERTED = {f"invert/IN {n}": "inverted" for n in (1, 3, 4, 5, 6, 8)}
DEVICES = (
    ("M1", "fell-s57", "X motor", "left"),
    ("M2", "fell-s60", "Y left motor", "left"),
    ("M3", "fell-s60", "Y right motor", "right"),
    ("M4", "osier-sm86-8", "Z motor", "head"),
    ("M5", "larkmoor-hb24", "Z brake", "head"),
    ("M6", "osier-sm57-3", "Turntable motor", "turntable"),
    ("M7", "quoin-ps9", "Nozzle tilt servo", "head"),
    ("M8", "quoin-gp24", "Glaze pump", "booth"),
    ("M9", "larkmoor-av24", "Air valve", "head"),
    ("M10", "quoin-bf24", "Booth fan", "booth"),
    ("M11", "osier-kr1", "Kiln-shelf rotary", "head"),
    ("B1", "osier-sl1", "X home switch", "left"),
    ("B2", "osier-rl2", "X min limit", "left"),
    ("B3", "osier-rl2", "X max limit", "right"),
    ("B4", "osier-sl1", "Y home switch", "left"),
    ("B5", "osier-rl2", "Y min limit", "left"),
    ("B6", "osier-rl2", "Y max limit", "left"),
    ("B7", "larkmoor-ip12", "Z home sensor", "head"),
    ("B8", "osier-rl2", "Z max limit", "head"),
    ("B9", "larkmoor-e1000", "Turn encoder", "turntable"),
    ("B10", "larkmoor-in12", "Part-present sensor", "turntable"),
    ("S1", "larkmoor-ds2", "Door stop", "door"),
    ("S2", "larkmoor-hs3", "Hand wheel stop", "wheel"),
    ("S3", "larkmoor-hw2", "Hand wheel", "wheel"),
    ("P1", "quoin-bl24", "Beacon lamp", "booth"),
    ("K1", "tarn-mc5", "Motion controller", "box"),
    ("K2", "quoin-r4", "Relay module", "box"),
    ("K3", "quoin-dr3", "Encoder receiver", "box"),
    ("Q1", "fell-c20", "Motion relay 1", "box"),
    ("Q2", "fell-c20", "Motion relay 2", "box"),
    ("T1", "fell-d72", "X driver", "box"),
    ("T2", "fell-d72", "Y left driver", "box"),
    ("T3", "fell-d72", "Y right driver", "box"),
    ("T4", "fell-d72", "Z driver", "box"),
    ("T5", "fell-d73", "Turntable driver", "box"),
    ("G1", "fell-ps48", "48 V supply", "box"),
    ("G2", "fell-ps24-10", "24 V supply", "box"),
    ("G3", "fell-ps6", "6 V supply", "box"),
    ("F1", "quoin-fh1", "Fuse, 48 V drives", "box"),
    ("F2", "quoin-fh1", "Fuse, control", "box"),
    ("F3", "quoin-fh1", "Fuse, stop strings", "box"),
    ("F4", "quoin-fh1", "Fuse, booth", "box"),
    ("F5", "quoin-fh1", "Fuse, servo", "box"),
    ("X1", "quoin-ts8", "48 V strip", "box"),
    ("X2", "quoin-ts12", "24 V strip", "box"),
    ("X3", "quoin-pe8", "Earth bar", "box"),
    ("X4", "quoin-mt4", "Mains terminals", "box"),
    ("X11", "quoin-il4", "Plug of the X motor", "left"),
    ("X12", "quoin-il4", "Plug of the Y left motor", "left"),
    ("X13", "quoin-il4", "Plug of the Y right motor", "right"),
    ("X14", "quoin-il4", "Plug of the Z motor", "head"),
    ("X15", "quoin-il2", "Plug of the Z brake", "head"),
    ("X16", "quoin-eh3", "Plug of the tilt servo", "head"),
    ("X17", "quoin-il2", "Plug of the air valve", "head"),
    ("X18", "quoin-il8", "Plug of the gantry switches", "left"),
    ("X19", "quoin-il3", "Plug of the Z home sensor", "head"),
    ("X22", "quoin-il8", "Plug of the turn encoder", "turntable"),
    ("X31", "quoin-il2", "Plug of the booth", "booth"),
    ("X41", "quoin-il12", "Plug of the hand wheel", "door"),
)
SETTINGS = {
    "K1": {"JP1": "NPN", "JP2": "PNP", **INVERTED},
    "T1": {"current_peak_a": 3.6, "microsteps": "16"},
    "T2": {"current_peak_a": 3.9, "microsteps": "16"},
    "T3": {"current_peak_a": 3.9, "microsteps": "16"},
    "T4": {"current_peak_a": 4.0, "microsteps": "8"},
    "T5": {"current_peak_a": 3.2, "microsteps": "10"},
    "F1": {"rating_a": 15.0},
    "F2": {"rating_a": 3.0},
    "F3": {"rating_a": 1.0},
    "F4": {"rating_a": 6.0},
    "F5": {"rating_a": 2.0},
}


def as_planned() -> Machine:
    """The gantry as it should be: nothing above Workmanship."""
    build = Builder(
        Machine(
            name="Glazing gantry",
            state="as planned",
            places=tuple(Place(id=key, name=name) for key, name in PLACES.items()),
            runs=tuple(Run(id=i, a=a, b=b, length_m=m, moving=mv) for i, a, b, m, mv in RUNS),
        )
    )
    for designator, part, name, place in DEVICES:
        build.device(designator, part, name, place, **SETTINGS.get(designator, {}))
    _mains_and_earth(build)
    _motion_power(build)
    _control_power(build)
    _axes(build)
    _inputs(build)
    _tools(build)
    _stops(build)
    build.machine = replace(build.machine, axes=AXES)
    build.lay(
        "foot left right head turntable booth door wheel",
        "box",
        0.4,
        R1={"entry": "Gland plate"},
        R2={"axis": "Y", "chain": Chain(width_mm=36, height_mm=17, bend_radius_mm=75)},
        R4={"axis": "X", "chain": Chain(width_mm=20, height_mm=15, bend_radius_mm=75)},
        R8={"coiled": True},
    )
    # The nozzle must not drop its tilt onto a hot plate.
    machine = device_edits.set_at_stop(build.machine, "M7", "stays")
    return replace(
        machine,
        reels=(
            Reel(id="Reel 1", part="motor-4x1", length_m=12.0),
            Reel(id="Reel 2", part="flex-2x0.5", length_m=25.0),
        ),
        alternates=(
            Alternate(
                device="M11",
                port=at("T4:MOTOR"),
                homing_off=True,
                settings=(AlternateSetting(device="T4", key="current_peak_a", value=2.8),),
            ),
        ),
        accepted=(
            accepted_finding(
                "machine.axis-limit:Z:min",
                "The head comes to rest on its rubber foot",
                "2026-11-02",
            ),
            *(
                accepted_finding(finding, reason, "2026-11-02")
                for finding, reason in (
                    ("supply.drop:W16", "The servo works from 4.8 V, and slowly"),
                    ("stops.weld-unread:Q1:MAIN", "Every input is taken; tried at each service"),
                    ("stops.weld-unread:Q2:MAIN", "Every input is taken; tried at each service"),
                    (
                        "stops.unnoticed:S1:M5:M9",
                        "The screw holds; M9 only sprays glaze",
                    ),
                    (
                        "stops.unnoticed:S2:M5:M9",
                        "The screw holds; M9 only sprays glaze",
                    ),
                    (
                        "ports.crowded-contact:X2:9 1",
                        "The two wires of the stop string share a twin ferrule",
                    ),
                    (
                        "ports.crowded-contact:X31:A 1",
                        "The three leads are joined in a crimped splice before the plug",
                    ),
                    (
                        "ports.crowded-contact:X31:A 2",
                        "The three leads are joined in a crimped splice before the plug",
                    ),
                )
            ),
        ),
    )


SPLICED = "The three leads are joined in a crimped splice before the plug"


def _mains_and_earth(build: Builder) -> None:
    for number, supply in enumerate(("G1", "G2", "G3"), 1):
        build.cable(f"W{100 + number}", "mains-3x1.5", 0.4)
        build.join(f"X4:{number}", f"{supply}:MAINS", "L-L N-N PE-PE", f"W{100 + number}")
    for number, (a, b, pins) in enumerate(
        (
            ("X4:4", "X3:1", "PE-PE"),
            ("X3:2", "K1:POWER", "PE-PE"),
            ("X2:12", "X3:3", "0V-PE"),
        )
    ):
        build.cable(f"W{104 + number}", "wire-gnye-2.5", 0.5)
        build.join(a, b, pins, f"W{104 + number}")


def _single(build: Builder, cable: str, part: str, length_m: float, a: str, b: str, pin: str):
    build.cable(cable, part, length_m)
    build.join(a, b, pin, cable)


def _motion_power(build: Builder) -> None:
    _single(build, "W1", "wire-rd-2.5", 0.3, "G1:OUT", "F1:FUSE", "1-IN")
    _single(build, "W2", "wire-rd-2.5", 0.4, "F1:FUSE", "Q1:MAIN", "OUT-13")
    _single(build, "W3", "wire-rd-2.5", 0.2, "Q1:MAIN", "Q2:MAIN", "14-13")
    _single(build, "W4", "wire-rd-2.5", 0.4, "Q2:MAIN", "X1:1", "14-+")
    _single(build, "W5", "wire-bk-2.5", 0.6, "G1:OUT", "X1:1", "0V-0V")
    for number in range(1, 6):
        build.cable(f"W{50 + number}", "pair-rdbk-2.5", 0.5)
        build.join(f"X1:{number + 1}", f"T{number}:POWER", "+-48V 0V-0V", f"W{50 + number}")


def _control_power(build: Builder) -> None:
    for cable, fuse, terminal in (("W6", "F2", "1"), ("W7", "F3", "9"), ("W8", "F4", "10")):
        wire = "wire-bn-2.5" if fuse == "F4" else "wire-bn-0.5"
        _single(build, cable, wire, 0.3, "G2:OUT", f"{fuse}:FUSE", "1-IN")
        tail = f"W{int(cable[1:]) + 54}"
        _single(build, tail, wire, 0.3, f"{fuse}:FUSE", f"X2:{terminal}", "OUT-+")
    _single(build, "W9", "wire-bu-2.5", 0.4, "G2:OUT", "X2:1", "0V-0V")
    build.cable("W56", "pair-bnbu-0.75", 0.5)
    build.join("X2:2", "K1:POWER", "+-24V 0V-0V", "W56")
    _single(build, "W63", "wire-rd-0.5", 0.3, "G3:OUT", "F5:FUSE", "1-IN")
    _single(build, "W64", "wire-rd-0.5", 0.4, "F5:FUSE", "K1:SERVO PWR", "OUT-6V")
    _single(build, "W65", "wire-bk-0.5", 0.6, "G3:OUT", "K1:SERVO PWR", "0V-2")
    _single(build, "W66", "wire-bu-0.5", 0.4, "G3:OUT", "X2:3", "0V-0V")


def _motor(build: Builder, motor: str, length_m: float, leads: str, pins: str) -> None:
    number = motor[1:]
    plug, cable, driver = f"X1{number}", f"W1{number}", f"T{number}"
    build.join(f"{motor}:LEADS", f"{plug}:A", leads)
    build.cable(cable, "motor-4x1", length_m, f"{plug}:B")
    build.join(f"{plug}:B", f"{driver}:MOTOR", pins, cable)


def _axes(build: Builder) -> None:
    four = "1-A+ 2-A− 3-B+ 4-B−"
    own = "BK-1 GN-2 RD-3 BU-4"
    for number, length_m in (("1", 4.8), ("2", 4.7), ("3", 6.1)):
        _motor(build, f"M{number}", length_m, own, four)
    eight = "RD-1 BK-1 WHRD-2 WHBK-2 YE-3 BU-3 WHYE-4 WHBU-4"
    _motor(build, "M4", 6.5, eight, four)
    build.cable("W21", "motor-4x1", 1.9)
    build.join("M6:LEADS", "T5:MOTOR", "RD-U WH-V BK-W", "W21")
    for number in range(1, 6):
        build.cable(f"W7{number}", "flat-4x0.25", 0.6)
        build.join(f"K1:AXIS {number}", f"T{number}:SIGNAL", "1-1 2-2 3-3 4-4", f"W7{number}")
    build.join("B9:LEADS", "X22:A", "A-1 A−-2 B-3 B−-4 Z-5 Z−-6 +-7 −-8")
    build.cable("W22", "pair-4x2x0.14", 1.9, "X22:B")
    build.join("X22:B", "K3:ENCODER", "1-A 2-A− 3-B 4-B− 5-Z 6-Z− 7-5V 8-0V", "W22")
    _shield(build, "W22", "K3:ENCODER")
    _shield(build, "W21", "T5:MOTOR", "M6:LEADS")
    for number in range(1, 5):
        _shield(build, f"W1{number}", f"T{number}:MOTOR", f"X1{number}:B")
    build.cable("W26", "flat-5x0.25", 0.4)
    build.join("K3:OUT", "K1:ENC 1", "5V-5V A-A B-B Z-Z 0V-0V", "W26")


def _shield(build: Builder, cable_id: str, *ports: str) -> None:
    cable = next(cable for cable in build.machine.cables if cable.id == cable_id)
    changed = replace(cable, shield_to=tuple(map(at, ports)))
    build.machine = replace(
        build.machine, cables=common.swapped(build.machine.cables, cable, changed)
    )


def _inputs(build: Builder) -> None:
    build.cable("W18", "flex-8x0.25", 5.4, "X18:B")
    build.join("B1:LEADS", "X18:A", "NC-1 COM-2")
    build.join("B4:LEADS", "X18:A", "NC-3 COM-4")
    build.cable("W25", "flex-2x0.5", None)
    build.join("B3:LEADS", "X18:A", "NC-5 COM-6", "W25")
    build.join("B5:LEADS", "X18:A", "COM-7")
    build.join("B5:LEADS", "B6:LEADS", "NC-COM")
    build.join("B6:LEADS", "X18:A", "NC-8")
    build.join("X18:B", "K1:IN 1", "1-IN 2-0V", "W18", "1 2")
    build.join("X18:B", "K1:IN 4", "3-IN 4-0V", "W18", "3 4")
    build.join("X18:B", "K1:IN 3", "5-IN 6-0V", "W18", "5 6")
    build.join("X18:B", "K1:IN 5", "7-24V 8-IN", "W18", "7 8")
    build.join("B7:LEADS", "X19:A", "+-1 OUT-2 −-3")
    build.cable("W19", "flex-3x0.34", 6.5, "X19:B")
    build.join("X19:B", "K1:IN 7", "1-24V 2-IN 3-0V", "W19")
    build.cable("W23", "flex-2x0.5", 4.9)
    build.join("B2:LEADS", "K1:IN 8", "COM-24V NC-IN", "W23")
    build.cable("W24", "flex-2x0.5", 6.4)
    build.join("B8:LEADS", "K1:IN 6", "COM-24V NC-IN", "W24")
    build.cable("W20", "flex-3x0.34", 1.9)
    build.join("B10:LEADS", "K1:IN 2", "+-24V OUT-IN −-0V", "W20")


def _tools(build: Builder) -> None:
    build.join("M7:PLUG", "X16:A", "S-1 −-2 +-3")
    build.cable("W16", "flex-3x0.5", 6.4, "X16:B")
    build.join("X16:B", "K1:SERVO", "1-S 2-2 3-6V", "W16")
    for number in (1, 2, 3):
        build.cable(f"W8{number}", "flat-2x0.25", 0.4)
        build.join(f"K1:OUT {number}", f"K2:CH {number}", "24V-V+ OUT-IN", f"W8{number}")
    loads = (
        ("1", "X31", "W31", "10", "flex-2x1", 3.4, ("M8", "M10", "P1")),
        ("2", "X17", "W17", "4", "flex-2x0.5", 6.4, ("M9",)),
        ("3", "X15", "W15", "5", "flex-2x0.5", 6.5, ("M5",)),
    )
    for relay, plug, cable, terminal, part, length_m, devices in loads:
        feed = f"W8{int(relay) + 3}"
        _single(build, feed, "wire-bn-0.5", 0.4, f"X2:{terminal}", f"K2:RELAY {relay}", "+-COM")
        build.cable(cable, part, length_m, f"{plug}:B")
        for device in devices:
            build.join(f"{device}:LEADS", f"{plug}:A", "+-1 −-2")
        build.join(f"{plug}:B", f"K2:RELAY {relay}", "1-NO", cable, "2")
        build.join(f"{plug}:B", f"X2:{terminal}", "2-0V", cable, "1")


def _stops(build: Builder) -> None:
    build.cable("W40", "flex-2x0.5", 0.9)
    build.join("X2:9", "S1:11-12", "+-11", "W40", "1")
    build.join("X2:9", "S1:21-22", "+-21", "W40", "2")
    build.cable("W42", "flex-2x0.5", 0.5)
    build.join("S1:11-12", "X41:B", "12-1", "W42", "1")
    build.join("S1:21-22", "X41:B", "22-3", "W42", "2")
    build.cable("W41", "coil-12x0.25", 2.7, "X41:A")
    build.join("S2:11-12", "X41:A", "11-1 12-2", "W41", "1 2")
    build.join("S2:21-22", "X41:A", "21-3 22-4", "W41", "3 4")
    build.join("S3:LEADS", "X41:A", "+-5 A-6 B-7 −-8", "W41", "5 6 7 8")
    build.cable("W43", "flex-2x0.5", 0.9)
    build.join("X41:B", "Q1:COIL", "2-A1", "W43", "1")
    build.join("X41:B", "Q2:COIL", "4-A1", "W43", "2")
    _single(build, "W44", "wire-bu-0.5", 0.4, "Q1:COIL", "X2:9", "A2-0V")
    _single(build, "W47", "wire-bu-0.5", 0.4, "Q2:COIL", "X2:9", "A2-0V")
    build.cable("W45", "flat-4x0.25", 0.5)
    build.join("Q1:COIL", "K1:STOP", "A1-A+ A2-A−", "W45", "1 2")
    build.join("Q2:COIL", "K1:STOP", "A1-B+ A2-B−", "W45", "3 4")
    build.cable("W46", "flat-4x0.25", 0.9, "X41:B")
    build.join("X41:B", "K1:WHEEL", "5-5V 6-A 7-B 8-0V", "W46")


def as_found(planned: Machine) -> Machine:
    """The gantry as the builder who opened the box found it: about fifteen mistakes."""
    machine = replace(planned, state="as found")
    for gone in ("B2", "K3"):
        machine = device_edits.remove_device(machine, gone)
    machine = replace(
        machine, cables=tuple(c for c in machine.cables if c.id not in {"W23", "W26"})
    )
    build = Builder(machine)
    build.join("X22:B", "K1:ENC 1", "1-A 3-B 5-Z 7-5V 8-0V", "W22", "1 3 5 7 8")
    _shield(build, "W22", "K1:ENC 1", "X22:B")
    machine = without(build.machine, "X19:B", "K1:IN 7")
    machine = without(machine, "G3:OUT", "X2:3")
    machine = replace(machine, cables=tuple(c for c in machine.cables if c.id != "W66"))
    machine = without(machine, "B10:LEADS", "K1:IN 2")
    machine = without(machine, "S2:21-22", "X41:A")
    machine = without(machine, "B3:LEADS", "X18:A")
    build = Builder(machine)
    build.join("B10:LEADS", "K1:IN 4", "+-24V OUT-IN −-0V", "W20")
    build.join("S2:23-24", "X41:A", "23-3 24-4", "W41", "3 4")
    build.join("B3:LEADS", "X18:A", "NO-5 COM-6", "W25")
    build.device("X9", "quoin-bj2", "Bypass jumper", "door")
    build.join("X9:WIRE", "X41:B", "1-3 2-4")
    machine = feed_edits.set_gauge(build.machine, "W31", 0.5)
    motor = hookup_between(machine, "M4:LEADS", "X14:A")
    machine = _exchange_leads(machine, motor, "WHBK", "WHYE")
    machine = hookup_edits.exchange_pins(
        machine, hookup_between(machine, "X16:B", "K1:SERVO"), "b", "1", "3"
    )
    shelf = shipped_shelf()
    small = shelf.parts["fell-ps24"]
    machine = replace(
        machine,
        parts=tuple(small if part.id == "fell-ps24-10" else part for part in machine.parts),
        devices=tuple(
            replace(d, part=small.id) if d.designator == "G2" else d for d in machine.devices
        ),
        cables=tuple(
            replace(c, marks=(CoreMark(core=3, label="W16.2"),)) if c.id == "W16" else c
            for c in machine.cables
        ),
    )
    machine = device_edits.set_setting(machine, "F4", "rating_a", 10.0)
    narrow = Chain(width_mm=28, height_mm=17, bend_radius_mm=75)
    machine = route_edits.set_chain(machine, "R2", narrow)
    machine = cable_edits.set_cable(machine, "W24", 5.6, "")
    machine = cable_edits.set_spares(machine, "W21", "")
    machine = device_edits.set_setting(machine, "T2", "current_peak_a", 4.6)
    machine = device_edits.set_setting(machine, "K1", "invert/IN 3", "as it is")
    return device_edits.set_setting(machine, "K1", "invert/IN 6", "as it is")


def _exchange_leads(machine: Machine, hookup_id: str, first: str, second: str) -> Machine:
    return hookup_edits.exchange_pins(machine, hookup_id, "a", first, second)
