"""The machines that the mistake table is made of: all of them right."""

from collections.abc import Callable
from functools import cache, partial
from pathlib import Path

from msgspec.structs import replace

from builder import Builder, slide_axis
from craft_machines import wired_brewer, wired_winch
from described_machines import (
    wired_lathe,
    wired_placer,
    wired_printer,
    wired_router,
    wired_station,
    wired_table,
)
from drive_machines import LEGS, SPINDLE, described_parts, legs, spindle
from former_machine import wired_former
from guarded_machines import FEEDER, GATE, feeder, gate, guarded_parts
from heat_machines import wired_extruder, wired_roaster
from line_machines import wired_arm, wired_filler, wired_oven
from mains_machines import wired_hoist, wired_saw, wired_watering
from novice_machines import wired_cutter, wired_dipper, wired_plant
from panel_machines import wired_headed, wired_pack, wired_panel
from process_machines import KILN, LATHE, PRESS, kiln, lathe, press, process_parts
from robot_machines import wired_lift, wired_robot
from shared_machines import wired_coils, wired_sorter
from shop_machines import wired_mill
from slider_machine import wired_slider
from small_board_machines import wired_incubator, wired_thrower
from small_craft_machines import wired_doser, wired_loom
from source_machines import unrated_engraver, wired_engraver
from stop_machines import conveyor, laser, radio_stop, safety_relay
from stopped_machines import carrier, picker, starter, station
from street_machines import wired_kart, wired_vending, wired_walker
from turned_machines import wired_door
from vehicle_machines import CART, TRANSPORTER, cart, transporter, vehicle_parts
from vervain.files.demos import open_demo
from vervain.files.part_files import decode_parts
from vervain.model.machine import Machine
from vervain.model.part import Part
from workshop_machines import analogue_rover, built_in_drivers, relays_and_switches
from yard_machines import wired_annealer, wired_dolly, wired_follower

D72 = "BK-A+ GN-A− RD-B+ BU-B−"


@cache
def own_parts() -> dict[str, Part]:
    """The parts that no shelf has."""
    path = Path(__file__).parent / "mistake_parts.toml"
    read = decode_parts(path.read_text("utf-8"), path.name).part
    described = described_parts() | process_parts() | guarded_parts() | vehicle_parts()
    return {part.id: part for part in read} | described


def _begin(name: str, *devices: str, **settings: dict[str, object]) -> Builder:
    """A machine with devices written "M1 fell-s42", shipped or own."""
    build = Builder(Machine(name=name))
    for text in devices:
        designator, part = text.split()
        if part in own_parts():
            build.add(designator, own_parts()[part], f"{part} {designator}")
        else:
            build.device(designator, part, f"{part} {designator}", None)
        last = replace(build.machine.devices[-1], settings=settings.get(designator, {}))
        build.machine = replace(build.machine, devices=(*build.machine.devices[:-1], last))
    return build


def rover() -> Machine:
    """Two wheel motors on a bridge, a receiver, a gripper servo, two bumpers, on one battery."""
    build = _begin(
        "Rover", "G1 osier-lb24", "F1 quoin-fh1", "F2 quoin-fh1", "X1 quoin-ts8", "T1 fell-hb2",
        "M1 quoin-gm12", "M2 quoin-gm12", "G2 quoin-dc6", "K1 quoin-rc8", "G3 fell-dc12",
        "K2 osier-rr3", "M3 quoin-ps20",
        T1={"duty_max": 48.0}, F1={"rating_a": 10.0}, F2={"rating_a": 5.0},
    )  # fmt: skip
    build.cable("W1", "pair-rdbk-2.5", 0.3)
    build.join("G1:OUT", "F1:FUSE", "24V-IN", "W1")
    build.cable("W2", "pair-rdbk-2.5", 0.3)
    build.join("F1:FUSE", "T1:FEED", "OUT-V", "W2")
    build.join("G1:OUT", "T1:FEED", "0V-0V", "W2", "2")
    build.cable("W3", "pair-rdbk-2.5", 0.3)
    build.join("G1:OUT", "F2:FUSE", "24V-IN", "W3")
    build.join("F2:FUSE", "X1:1", "OUT-+")
    build.join("G1:OUT", "X1:1", "0V-0V", "W3", "2")
    build.join("X1:2", "G2:IN", "+-1 0V-2")
    build.join("X1:3", "G3:IN", "+-1 0V-2")
    build.join("G2:OUT", "K1:SERVO PWR", "1-6V 2-2")
    build.join("G3:OUT", "K1:POWER", "1-1 2-2")
    build.join("X1:4", "K1:POWER", "0V-2")
    build.join("X1:5", "G2:OUT", "0V-2")
    for number in (1, 2):
        build.join(f"M{number}:LEADS", f"T1:OUT {number}", "+-M+ −-M−")
        build.join(f"K1:DRIVE {number}", f"T1:CTRL {number}", "P-P D-D 3-3")
        build.join(f"K2:CH {number}", f"K1:RADIO {number}", "S-S +-6V −-0V")
    build.join("M3:PLUG", "K1:MOTOR 3", "S-S +-6V −-3")
    return build.machine


def arm_at_plus() -> Machine:
    """Three drivers with isolated inputs whose common lies at plus, on outputs that sink."""
    build = _begin(
        "Arm, commons at plus", "G1 fell-ps24-10", "X4 quoin-mt4", "K1 sinking-board",
        "X1 quoin-hs8", "F1 quoin-fh1",
        *(f"T{n} plus-common-driver" for n in (1, 2, 3)), *(f"M{n} fell-s42" for n in (1, 2, 3)),
        *(f"B{n} osier-ms2" for n in (1, 2, 3)),
        F1={"rating_a": 7.5}, **{f"T{n}": {"current_peak_a": 1.5} for n in (1, 2, 3)},
    )  # fmt: skip
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "X1:1", "OUT-1")
    build.join("G1:OUT", "X1:1", "2-2")
    build.join("X1:2", "K1:POWER", "1-24V 2-0V")
    axes = []
    for n in (1, 2, 3):
        build.join(f"X1:{n + 2}", f"T{n}:FEED", "1-V 2-0V")
        build.cable(f"W{n}", "flat-4x0.25", 0.6)
        build.join(f"K1:AXIS {n}", f"T{n}:PULSES", "5V-COM P-PUL D-DIR E-ENA", f"W{n}")
        build.join(f"M{n}:LEADS", f"T{n}:MOTOR", D72)
        build.join(f"B{n}:LEADS", f"K1:HOME {n}", "COM-0V NC-S")
        axes.append(slide_axis(f"J{n}", f"M{n}", f"B{n}"))
    return replace(build.machine, axes=tuple(axes))


def stacked() -> Machine:
    """A motion board with driver modules pushed into its slots."""
    build = _begin(
        "Plotter, modules", "G1 fell-ps24", "X4 quoin-mt4", "F1 quoin-fh1", "K1 osier-mb4",
        *(f"T{n} tarn-pd25" for n in (1, 2, 3)), *(f"M{n} fell-s42" for n in (1, 2, 3)),
        *(f"B{n} osier-ms2" for n in (1, 2, 3)), "M4 quoin-bf24",
        F1={"rating_a": 5.0},
        K1={f"invert/LIMIT {name}": "inverted" for name in "XYZ"},
        **{f"T{n}": {"current_peak_a": 1.6} for n in (1, 2, 3)},
    )  # fmt: skip
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "K1:POWER", "OUT-1")
    build.join("G1:OUT", "K1:POWER", "2-2")
    axes = []
    feet = " ".join(f"{n}-{n}" for n in range(1, 17))
    for n, name in ((1, "X"), (2, "Y"), (3, "Z")):
        build.join(f"T{n}:FOOT", f"K1:SLOT {name}", feet)
        build.join(f"M{n}:LEADS", f"K1:{name}", D72)
        build.join(f"B{n}:LEADS", f"K1:LIMIT {name}", "COM-0V NC-S")
        axes.append(slide_axis(name, f"M{n}", f"B{n}"))
    build.join("M4:LEADS", "K1:FAN", "+-V −-OUT")
    return replace(build.machine, axes=tuple(axes))


def shield() -> Machine:
    """A small controller with a motor shield on its headers, and two motors on that."""
    build = _begin(
        "Rover on a shield", "G1 fell-ps12", "X4 quoin-mt4", "F1 quoin-fh1", "K1 tarn-uc5",
        "T1 osier-mh2", "M1 quoin-gm12", "M2 quoin-gm12", F1={"rating_a": 5.0},
    )  # fmt: skip
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:2", "G1:OUT", "PE-2")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "T1:VM", "OUT-1")
    build.join("G1:OUT", "T1:VM", "2-2")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    for name, count in (("D", 9), ("A", 6)):
        pins = " ".join(f"{n}-{n}" for n in range(1, count + 1))
        build.join(f"T1:FOOT {name}", f"K1:HEAD {name}", pins)
    build.join("M1:LEADS", "T1:M1", "+-1 −-2")
    build.join("M2:LEADS", "T1:M2", "+-1 −-2")
    return build.machine


def pendant() -> Machine:
    """A controller with a hand wheel, a selector for its axis, and a stop in two channels."""
    build = _begin(
        "Lathe with pendant", "G1 fell-ps24", "G2 fell-ps48", "X4 quoin-mt4", "K1 tarn-mc5",
        "T1 fell-d72", "M1 fell-s57", "B1 osier-rl2", "S1 larkmoor-hw2", "S2 axis-selector",
        "S3 larkmoor-ds2", "Q1 fell-c20", "Q2 fell-c20", "F1 quoin-fh1",
        F1={"rating_a": 5.0}, K1={"invert/IN 8": "inverted"}, T1={"current_peak_a": 3.5},
    )  # fmt: skip
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:2", "G2:MAINS", "L-L N-N PE-PE")
    build.join("X4:3", "K1:POWER", "PE-PE")
    build.join("X4:4", "G1:OUT", "PE-2")
    build.join("G1:OUT", "K1:POWER", "1-24V 2-0V")
    build.join("G2:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "Q1:MAIN", "OUT-13")
    build.join("Q1:MAIN", "Q2:MAIN", "14-13")
    build.join("Q2:MAIN", "T1:POWER", "14-1")
    build.join("G2:OUT", "T1:POWER", "2-2")
    build.join("K1:AXIS 1", "T1:SIGNAL", "1-1 2-2 3-3 4-4")
    build.join("M1:LEADS", "T1:MOTOR", D72)
    build.join("B1:LEADS", "K1:IN 8", "COM-1 NC-2")
    build.join("S1:LEADS", "K1:WHEEL", "+-1 A-A B-B −-4")
    build.join("K1:IN 1", "Q1:AUX", "3-21")
    build.join("Q1:AUX", "Q2:AUX", "22-21")
    build.join("Q2:AUX", "K1:IN 1", "22-2")
    build.join("S2:TERMINALS", "K1:IN 5", "C-1 X-2")
    build.join("S2:TERMINALS", "K1:IN 6", "Y-2")
    build.join("S2:TERMINALS", "K1:IN 7", "Z-2")
    for number, (contact, channel) in enumerate((("11-12", "A"), ("21-22", "B")), 1):
        first, last = contact.split("-")
        build.join("G1:OUT", f"S3:{contact}", f"1-{first}")
        build.join(f"S3:{contact}", f"Q{number}:COIL", f"{last}-A1")
        build.join(f"Q{number}:COIL", "G1:OUT", "A2-2")
        build.join(f"Q{number}:COIL", "K1:STOP", f"A1-{channel}+ A2-{channel}−")
    return replace(build.machine, axes=(slide_axis("X", "M1", "B1"),))


def mains_box() -> Machine:
    """A box with a main switch, a fuse in L, an earth bar, three supplies and their loads."""
    build = _begin(
        "Box", "X4 quoin-mt4", "S1 main-switch", "X3 quoin-pe8", "G1 fell-ps24",
        "G2 fell-ps48", "G3 fell-ps6", "M1 quoin-bf24", "P1 quoin-bl24", "F2 quoin-fh1",
        F2={"rating_a": 2.0},
    )  # fmt: skip
    build.join("X4:1", "S1:IN", "L-L N-N")
    build.join("X4:1", "X3:1", "PE-1")
    for number in (1, 2, 3):
        build.join("S1:OUT", f"G{number}:MAINS", "L-L N-N")
        build.join(f"X3:{number + 1}", f"G{number}:MAINS", "1-PE")
    build.join("G1:OUT", "F2:FUSE", "1-IN")
    build.join("F2:FUSE", "M1:LEADS", "OUT-1")
    build.join("F2:FUSE", "P1:LEADS", "OUT-1")
    build.join("G1:OUT", "M1:LEADS", "2-2")
    build.join("G1:OUT", "P1:LEADS", "2-2")
    return build.machine


def plugged_everywhere() -> Machine:
    """Two axes whose every lead goes through in-line connectors, every feed over a strip."""
    build = _begin(
        "Table, plugged", "X4 quoin-mt4", "G1 fell-ps48", "G2 fell-ps24", "K1 tarn-mc5",
        "X1 quoin-ts8", "X2 quoin-ts8", "F1 quoin-fh1",
        *(f"T{n} fell-d72" for n in (1, 2)), *(f"M{n} fell-s57" for n in (1, 2)),
        "B1 larkmoor-ip12", "B2 osier-rl2", "X11 quoin-il4", "X12 quoin-il4", "X13 quoin-il3",
        "X14 quoin-il2", "P1 quoin-bl24", "X15 quoin-il2",
        F1={"rating_a": 10.0}, K1={"invert/IN 8": "inverted"},
        T1={"current_peak_a": 3.5}, T2={"current_peak_a": 3.5},
    )  # fmt: skip
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:2", "G2:MAINS", "L-L N-N PE-PE")
    build.join("X4:3", "K1:POWER", "PE-PE")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "X1:1", "OUT-+")
    build.join("G1:OUT", "X1:1", "2-0V")
    build.join("G2:OUT", "X2:1", "1-+ 2-0V")
    build.join("X2:2", "K1:POWER", "+-24V 0V-0V")
    for n in (1, 2):
        build.join(f"X1:{n + 1}", f"T{n}:POWER", "+-1 0V-2")
        build.join(f"K1:AXIS {n}", f"T{n}:SIGNAL", "1-1 2-2 3-3 4-4")
        build.join(f"M{n}:LEADS", f"X1{n}:A", "BK-1 GN-2 RD-3 BU-4")
        build.join(f"X1{n}:B", f"T{n}:MOTOR", "1-1 2-2 3-3 4-4")
    build.join("B1:LEADS", "X13:A", "+-1 OUT-2 −-3")
    build.join("X13:B", "K1:IN 7", "1-1 2-2 3-3")
    build.join("B2:LEADS", "X14:A", "COM-1 NC-2")
    build.join("X14:B", "K1:IN 8", "1-1 2-2")
    build.join("P1:LEADS", "X15:A", "1-1 2-2")
    build.join("X15:B", "K1:OUT 1", "1-1 2-2")
    axes = (slide_axis("X", "M1", "B1"), slide_axis("Y", "M2", "B2"))
    return replace(build.machine, axes=axes)


def spindle_machine() -> Machine:
    """A router whose spindle turns on an inverter."""
    on = {"enable/AXIS 1": "high", "enable/AXIS 2": "high"}
    inverted = {f"invert/DI {n}": "inverted" for n in (1, 2, 3, 4)}
    current = {"current_peak_a": 3.5}
    build = _begin(
        "Router with spindle", *SPINDLE, F1={"rating_a": 10.0}, T1=current, T2=current,
        K1={**on, **inverted},
    )  # fmt: skip
    return spindle(build)


def walker() -> Machine:
    """A walker whose drives hang one after the other on a bus."""
    return legs(_begin("Walker", *LEGS, F1={"rating_a": 15.0}))


def kiln_machine() -> Machine:
    """A kiln with a solid-state relay and a thermocouple."""
    return kiln(_begin("Kiln", *KILN, K1={"invert/DOOR": "inverted"}))


def press_machine() -> Machine:
    """A press with valves, a pressure transmitter and a load cell."""
    return press(_begin("Press", *PRESS, F1={"rating_a": 3.0}))


def lathe_machine() -> Machine:
    """A lathe with two servo drives."""
    inverted = {f"invert/HOME IN {n}": "inverted" for n in (1, 2)}
    return lathe(_begin("Lathe", *LATHE, K1=inverted))


def feeder_machine() -> Machine:
    """A feeder behind a guard, with a safety relay and brushed motors."""
    fuses = {"F1": {"rating_a": 2.0}, "F2": {"rating_a": 5.0}}
    return feeder(_begin("Feeder", *FEEDER, **fuses))


def gate_machine() -> Machine:
    """A lift behind a light curtain."""
    return gate(_begin("Gate", *GATE, F2={"rating_a": 3.0}))


def transporter_machine() -> Machine:
    """A transporter on two brushless hub motors."""
    fuses = {"F1": {"rating_a": 30.0}, "F2": {"rating_a": 5.0}}
    return transporter(_begin("Transporter", *TRANSPORTER, **fuses))


MACHINES: dict[str, Callable[[], Machine]] = {
    "gantry": partial(open_demo, "glazing-gantry-as-planned"),
    "arm": partial(open_demo, "seedling-arm-as-planned"),
    "printer": partial(open_demo, "clay-printer-as-planned"),
    "rover": rover,
    "arm at plus": arm_at_plus,
    "stacked": stacked,
    "pendant": pendant,
    "mains box": mains_box,
    "plugged": plugged_everywhere,
    "built in": built_in_drivers,
    "analogue": analogue_rover,
    "relays": relays_and_switches,
    "radio stop": radio_stop,
    "belt": conveyor,
    "laser": lambda: laser(own_parts()["laser-supply"]),
    "safety relay": safety_relay,
    "shield": shield,
    "spindle": spindle_machine,
    "walker": walker,
    "kiln": kiln_machine,
    "press": press_machine,
    "lathe": lathe_machine,
    "feeder": feeder_machine,
    "gate": gate_machine,
    "transporter": transporter_machine,
    "described router": wired_router,
    "described printer": wired_printer,
    "described table": wired_table,
    "described placer": wired_placer,
    "described lathe": wired_lathe,
    "described station": wired_station,
    "described engraver": wired_engraver,
    "engraver without figures": unrated_engraver,
    "described cutter": wired_cutter,
    "described dipper": wired_dipper,
    "described mill": wired_mill,
    "described filling line": wired_filler,
    "described servo arm": wired_arm,
    "described oven": wired_oven,
    "described slider": wired_slider,
    "pick robot": wired_robot,
    "lift": wired_lift,
    "described extruder": wired_extruder,
    "described roaster": wired_roaster,
    "described plant": wired_plant,
    "described tool head": wired_headed,
    "described hand wheel": wired_panel,
    "described pack": wired_pack,
    "described door": wired_door,
    "described saw": wired_saw,
    "hoist": wired_hoist,
    "described former": wired_former,
    "described watering": wired_watering,
    "described thrower": wired_thrower,
    "described incubator": wired_incubator,
    "annealer": wired_annealer,
    "brewer": wired_brewer,
    "doser": wired_doser,
    "loom": wired_loom,
    "winch": wired_winch,
    "dolly": wired_dolly,
    "line follower": wired_follower,
    "kart": wired_kart,
    "walking robot": wired_walker,
    "vending machine": wired_vending,
    "picker": picker,
    "starter": starter,
    "carrier": carrier,
    "field station": station,
    "sorting line": wired_sorter,
    "table of coils": wired_coils,
    "cart": lambda: cart(_begin("Cart", *CART, F1={"rating_a": 10.0})),
}
