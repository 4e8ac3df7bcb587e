"""The clay printer of the invented pottery studio, as planned and as found."""

from msgspec.structs import replace

from builder import Builder, accepted_finding, at, hookup_between, with_part, without
from vervain.edits import common, device_edits, hookup_edits
from vervain.model.axis import Axis, Belt, Extruder, Screw
from vervain.model.machine import CoreMark, Machine
from vervain.model.place import Place, Run

PLACES = {
    "box": "Base box",
    "frame": "Frame top",
    "bed": "Drying bed",
    "carriage": "Extruder carriage",
}
RUNS = (
    ("R1", "box", "frame", 0.6, False),
    ("R2", "frame", "carriage", 0.7, True),
    ("R3", "box", "bed", 0.5, True),
)
BELT = Belt(pitch_mm=2, teeth=20)
AXES = (
    Axis(id="X", name="carriage", travel=300, mechanism=BELT, speed_max=120,
         acceleration_max=1000, drives=("M1",), home="B1", min_limit="B1"),
    Axis(id="Y", name="bed", travel=300, mechanism=BELT, speed_max=120, acceleration_max=800,
         drives=("M2",), home="B2", min_limit="B2"),
    Axis(id="Z", name="gantry", travel=400, vertical=True, mechanism=Screw(lead_mm=8,
         backlash_mm=0.05), speed_max=15, faces="each other", drives=("M3", "M4"), home="B3",
         min_limit="B3"),
    Axis(id="E", name="auger", endless=True, mechanism=Extruder(diameter_mm=8), gear_ratio=5,
         speed_max=20, drives=("M5",)),
)  # fmt: skip
DEVICES = (
    ("M1", "fell-s42", "X motor", "frame"),
    ("M2", "fell-s42", "Y motor", "box"),
    ("M3", "fell-s42s", "Z left motor", "box"),
    ("M4", "fell-s42s", "Z right motor", "box"),
    ("M5", "fell-s42", "Auger motor", "carriage"),
    ("M6", "quoin-cf12", "Part-cooling fan", "carriage"),
    ("E1", "osier-hb300", "Drying bed", "bed"),
    ("E2", "osier-ha40", "Hot-air heater", "carriage"),
    ("B1", "osier-ms2", "X endstop", "frame"),
    ("B2", "osier-ms2", "Y endstop", "box"),
    ("B3", "larkmoor-ip8", "Z sensor", "carriage"),
    ("B4", "quoin-th100", "Bed thermistor", "bed"),
    ("B5", "quoin-th100", "Hot-air thermistor", "carriage"),
    ("K1", "tarn-pb5", "Printer board", "box"),
    ("T1", "tarn-pd25", "X driver", "box"),
    ("T2", "tarn-pd25", "Y driver", "box"),
    ("T3", "tarn-pd25", "Z driver", "box"),
    ("T4", "tarn-pd25", "Auger driver", "box"),
    ("G1", "fell-ps12", "12 V supply", "box"),
    ("B6", "quoin-tc120", "Cut-out of the bed", "bed"),
    ("B7", "quoin-tc120", "Cut-out of the heater", "carriage"),
    ("F1", "quoin-fh1", "Fuse, logic", "box"),
    ("F2", "quoin-fh1", "Fuse, motors and heat", "box"),
    ("S1", "larkmoor-es2", "Emergency stop", "box"),
    ("S2", "quoin-pb1", "Start button", "box"),
    ("Q1", "fell-c30", "Contactor, motors and heat", "box"),
    ("X1", "quoin-mt4", "Mains terminals", "box"),
    ("X2", "quoin-ts8", "Control strip", "box"),
    ("X11", "quoin-il4", "Plug of the auger motor", "carriage"),
    ("X12", "quoin-il3", "Plug of the Z sensor", "carriage"),
    ("X13", "quoin-il2", "Plug of the cooling fan", "carriage"),
    ("X14", "quoin-il2", "Plug of the hot-air thermistor", "carriage"),
)
SETTINGS = {
    "K1": {
        "rating_a": 5.0,
        "invert/STOP X": "inverted",
        "invert/STOP Y": "inverted",
        "invert/PROBE": "inverted",
    },
    "T1": {"current_peak_a": 1.8, "microsteps": "16"},
    "T2": {"current_peak_a": 1.8, "microsteps": "16"},
    "T3": {"current_peak_a": 1.8, "microsteps": "16"},
    "T4": {"current_peak_a": 1.6, "microsteps": "16"},
    "F1": {"rating_a": 1.0},
    "F2": {"rating_a": 25.0},
}
FOUR = "BK-1 GN-2 RD-3 BU-4"
SOFT = "After homing the controller keeps inside the travel; slow belt, soft stop"
REASONS = {
    "machine.axis-limit:X:max": SOFT,
    "machine.axis-limit:Y:max": SOFT,
    "machine.axis-limit:Z:max": "The screws end in a plain shaft: the nuts run off without harm",
    "supply.drop:W3": "The bed only warms up slower; the motors hold well at 11.5 V",
    "stops.unnoticed:S1:E1:E2:T1:T2:T3:T4": "The mains plug is in reach; nothing here crushes",
    "stops.no-brake:Z": "The gantry is light: its two motors hold it at rest",
    "supply.drop:W15": "The hot air only warms up slower",
    "ports.reversible:K1:0V": "A dot of paint at pin 1 of each slot and module",
}


def as_planned() -> Machine:
    """The printer as it should be: nothing above Workmanship."""
    build = Builder(
        Machine(
            name="Clay printer",
            state="as planned",
            places=tuple(Place(id=key, name=name) for key, name in PLACES.items()),
            runs=tuple(Run(id=i, a=a, b=b, length_m=m, moving=mv) for i, a, b, m, mv in RUNS),
        )
    )
    for designator, part, name, place in DEVICES:
        build.device(designator, part, name, place, **SETTINGS.get(designator, {}))
    _power(build)
    _drives(build)
    _inputs(build)
    _heat(build)
    _stop(build)
    accepted = tuple(
        accepted_finding(finding, reason, "2026-10-12") for finding, reason in REASONS.items()
    )
    build.machine = replace(build.machine, axes=AXES)
    build.lay("frame bed carriage", "box", 0.4, R2={"axis": "X"}, R3={"axis": "Y"})
    return replace(build.machine, accepted=accepted)


def _power(build: Builder) -> None:
    build.cable("W101", "mains-3x1.5", 0.4)
    build.join("X1:1", "G1:MAINS", "L-L N-N PE-PE", "W101")
    build.cable("W7", "wire-gnye-2.5", 0.4)
    build.join("G1:OUT", "X1:1", "2-PE", "W7")
    for cable, part, length_m, a, b, pin in (
        ("W1", "wire-rd-6", 0.3, "G1:OUT", "F2:FUSE", "1-IN"),
        ("W2", "wire-rd-6", 0.3, "F2:FUSE", "Q1:MAIN", "OUT-1"),
        ("W8", "wire-rd-6", 0.3, "Q1:MAIN", "K1:MOTORS", "2-1"),
        ("W3", "wire-bk-6", 0.5, "G1:OUT", "K1:MOTORS", "2-2"),
        ("W4", "wire-rd-0.5", 0.3, "G1:OUT", "F1:FUSE", "1-IN"),
        ("W5", "wire-rd-0.5", 0.3, "F1:FUSE", "X2:1", "OUT-+"),
        ("W6", "wire-bk-0.5", 0.5, "G1:OUT", "X2:1", "2-0V"),
        ("W9", "pair-rdbk-0.5", 0.3, "X2:2", "K1:LOGIC", "+-1 0V-2"),
    ):
        build.cable(cable, part, length_m)
        build.join(a, b, pin, cable)


def _stop(build: Builder) -> None:
    """The stop opens the line of the contactor's coil, which holds itself once it was started;
    the board is told by the stop's other contact.
    """
    for cable, part, a, b, pin in (
        ("W31", "wire-rd-0.5", "X2:3", "S1:11-12", "+-11"),
        ("W32", "wire-rd-0.5", "S1:11-12", "S2:13-14", "12-13"),
        ("W33", "wire-rd-0.5", "S2:13-14", "Q1:COIL", "14-A1"),
        ("W34", "wire-rd-0.5", "S2:13-14", "Q1:HOLD", "13-13"),
        ("W35", "wire-rd-0.5", "Q1:HOLD", "Q1:COIL", "14-A1"),
        ("W36", "wire-bk-0.5", "Q1:COIL", "X2:3", "A2-0V"),
    ):
        build.cable(cable, part, 0.4)
        build.join(a, b, pin, cable)
    build.cable("W37", "flex-2x0.5", 0.5)
    build.join("K1:PROBE", "S1:21-22", "S-21 0V-22", "W37")


def _drives(build: Builder) -> None:
    for driver, slot in (("T1", "X"), ("T2", "Y"), ("T3", "Z"), ("T4", "E0")):
        build.join(f"{driver}:FOOT", f"K1:SLOT {slot}", " ".join(f"{n}-{n}" for n in range(1, 17)))
    for motor, port in (("M1", "X"), ("M2", "Y"), ("M3", "Z A")):
        build.join(f"{motor}:LEADS", f"K1:{port}", FOUR)
    # The right screw turns the other way round: its motor stands mirrored, so phase A is turned.
    build.join("M4:LEADS", "K1:Z B", "BK-2 GN-1 RD-3 BU-4")
    build.join("M5:LEADS", "X11:A", FOUR)
    build.cable("W11", "motor-4x0.5", 1.8, "X11:B")
    build.join("X11:B", "K1:E0", "1-1 2-2 3-3 4-4", "W11")
    cable = next(cable for cable in build.machine.cables if cable.id == "W11")
    shielded = replace(cable, shield_to=(at("K1:E0"), at("X11:B")))
    build.machine = replace(
        build.machine, cables=common.swapped(build.machine.cables, cable, shielded)
    )


def _inputs(build: Builder) -> None:
    build.join("B1:LEADS", "K1:STOP X", "COM-0V NC-S")
    build.join("B2:LEADS", "K1:STOP Y", "COM-0V NC-S")
    build.join("B3:LEADS", "X12:A", "+-1 OUT-2 −-3")
    build.cable("W12", "flex-3x0.34", 1.8, "X12:B")
    build.join("X12:B", "K1:STOP Z", "1-5V 2-S 3-0V", "W12")


def _heat(build: Builder) -> None:
    build.join("E1:LEADS", "B6:LEADS", "1-2")
    build.join("B6:LEADS", "K1:BED", "1-V")
    build.join("E1:LEADS", "K1:BED", "2-OUT")
    build.join("B4:LEADS", "K1:TH 1", "1-1 2-2")
    build.cable("W15", "flex-2x0.5", 1.8)
    build.join("E2:LEADS", "B7:LEADS", "1-2")
    build.join("B7:LEADS", "K1:HEAT", "1-VF", "W15")
    build.join("E2:LEADS", "K1:HEAT", "2-OUT", "W15", "2")
    build.join("M6:LEADS", "X13:A", "+-1 −-2")
    build.cable("W13", "flex-2x0.5", 1.8, "X13:B")
    build.join("X13:B", "K1:FAN 1", "1-VF 2-OUT", "W13")
    build.join("B5:LEADS", "X14:A", "1-1 2-2")
    build.cable("W14", "flex-2x0.5", 1.8, "X14:B")
    build.join("X14:B", "K1:TH 2", "1-1 2-2", "W14")


def _stop_as_found(machine: Machine) -> Machine:
    """The stop in the coil's 0 V, the start button bridged, and the board not told."""
    for a, b in (("X2:3", "S1:11-12"), ("S1:11-12", "S2:13-14"), ("Q1:COIL", "X2:3"),
                 ("K1:PROBE", "S1:21-22")):  # fmt: skip
        machine = without(machine, a, b)
    machine = replace(machine, cables=tuple(c for c in machine.cables if c.id != "W37"))
    build = Builder(machine)
    build.join("X2:3", "S2:13-14", "+-13", "W31")
    build.join("Q1:COIL", "S1:11-12", "A2-11", "W32")
    build.join("S1:11-12", "X2:3", "12-0V", "W36")
    build.cable("W38", "wire-rd-0.5", 0.4)
    build.join("S2:13-14", "Q1:HOLD", "13-14", "W38")
    return build.machine


def as_found(planned: Machine) -> Machine:
    """The printer as it was put together in an evening: a dozen mistakes."""
    # Nobody had looked at the stop yet.
    accepted = tuple(a for a in planned.accepted if a.rule != "stops.unnoticed")
    machine = replace(planned, state="as found", accepted=accepted)
    machine = without(machine, "X11:B", "K1:E0")
    machine = without(machine, "B1:LEADS", "K1:STOP X")
    for a, b in (("E1", "BED"), ("B6", "BED"), ("E2", "HEAT"), ("B7", "HEAT")):
        machine = without(machine, f"{a}:LEADS", f"K1:{b}")
    machine = without(machine, "X14:B", "K1:TH 2")
    machine = _stop_as_found(machine)
    build = Builder(machine)
    build.join("X11:B", "K1:E1", "1-1 2-2 3-3 4-4", "W11")
    build.join("B1:LEADS", "K1:STOP X", "COM-0V NC-5V")
    build.join("B6:LEADS", "K1:HEAT", "1-VF")
    build.join("E1:LEADS", "K1:HEAT", "2-OUT")
    build.join("B7:LEADS", "K1:BED", "1-V", "W15")
    build.join("E2:LEADS", "K1:BED", "2-OUT", "W15", "2")
    machine = with_part(build.machine, "B3", "larkmoor-ip12")
    for a, b, side, first, second in (
        ("M2:LEADS", "K1:Y", "a", "GN", "RD"),
        ("X13:B", "K1:FAN 1", "b", "1", "2"),
    ):
        machine = hookup_edits.exchange_pins(
            machine, hookup_between(machine, a, b), side, first, second
        )
    for cable_id in ("W1", "W2", "W8"):
        cable = next(cable for cable in machine.cables if cable.id == cable_id)
        thin = replace(cable, part="wire-rd-4")
        machine = replace(machine, cables=common.swapped(machine.cables, cable, thin))
    machine = Builder(machine).with_cable_part("wire-rd-4")
    cable = next(cable for cable in machine.cables if cable.id == "W13")
    marked = replace(cable, marks=(CoreMark(core=1, label="W12.1"),))
    machine = replace(
        machine,
        cables=common.swapped(machine.cables, cable, marked),
        cable_parts=tuple(p for p in machine.cable_parts if p.id != "wire-rd-6"),
    )
    machine = device_edits.set_setting(machine, "T1", "current_peak_a", 2.4)
    return device_edits.set_setting(machine, "K1", "invert/STOP Y", "as it is")
