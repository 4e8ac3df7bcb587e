"""Machines whose boards have a name before each connector: a printer with a board at its tool head,
a mill with a hand wheel and closed loops, an engraver on a power pack without a contactor.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding
from described_machines import wired
from drive_machines import PULLED_UP, described
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

FAN_OUT = "Low-side switch, 0.5 A, with a diode for coils"
TO_ZERO = "3.3 V input, pulled up, for contacts to 0 V"
HEADED = (
    "X1 inlet Inlet", "F1 fuse Inlet fuse", "Q1 main Mains switch", "G1 ps24 Supply",
    "K1 printer Board", "K2 head Tool head", "M1 motor X", "M2 motor Y", "M3 motor Z left",
    "M4 motor Z right", "M5 motor Extruder", "E1 cartridge Hot end", "B1 thermistor Hot end",
    "E2 bed Bed", "B2 thermistor Bed", "M6 fan Part", "M7 fan Hot end", "M8 fan Board",
    "B3 gate X end", "B4 gate Y end", "B5 probe Z probe", "P1 ring Lights", "F2 cut Hot end",
    "F3 cut Bed",
)  # fmt: skip
PANEL = (
    "X1 inlet Inlet", "Q1 main Main switch", "F1 breaker Breaker", "G1 ps48 Motors",
    "G2 ps24 Control", "S1 stop Stop", "Q2 contactor Motors", "K1 motion Control",
    "S2 wheel Hand wheel", "T1 driver X", "T2 driver Y", "M1 servo X", "M2 servo Y",
    "B1 near X home", "B2 near Y home", "M3 extractor Dust", "Q3 small Dust",
)  # fmt: skip
PACK = (
    "G1 pack Power pack", "S1 key Key", "S2 button Stop", "K1 engraver Board", "M1 small-motor X",
    "M2 small-motor Y", "E1 laser Laser", "S3 limit X limit", "S4 limit Y limit", "S5 lid Lid",
    "M3 pump Air", "M4 fan Exhaust",
)  # fmt: skip


def _printer_drafts() -> dict[str, Draft]:
    return {
        "printer": Draft(
            kind="controller", title="Printer board",
            pins_text="VIN + -\nBED + -\nXM: A1 A2 B1 B2\nYM: A1 A2 B1 B2\nZM1: A1 A2 B1 B2\n"
            "ZM2: A1 A2 B1 B2\nX-STOP S G 5V\nY-STOP S G 5V\nTB TB\nCAN: 24V GND H L\n"
            "FAN0 + -\nUSB",
            numbers={"v_min_v": 12, "v_max_v": 28, "current_a": 0.5, "step_rate_max_hz": 1e5},
            circuits={
                "X-STOP/input": TO_ZERO, "BED/output": "Low-side switch for heat, 12 A",
                "FAN0/output": FAN_OUT,
            },
        ),
        "head": Draft(
            kind="controller", title="Tool head board",
            pins_text="24V GND CANH CANL\nEM 1A 1B 2A 2B\nHE + -\nTH TH\nFAN1 + -\nFAN2 + -\n"
            "PROBE 5V SIG GND\nRGB 5V D GND\nXES S GND",
            numbers={"v_min_v": 12, "v_max_v": 28, "current_a": 0.2, "step_rate_max_hz": 1e5},
            circuits={
                "PROBE/input": TO_ZERO, "XES/input": TO_ZERO, "FAN1/output": FAN_OUT,
                "HE/output": "Low-side switch for heat, 12 A",
            },
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor", pins_text="A1 A2 B1 B2",
            numbers={"current_a": 1.4, "resistance_ohm": 2, "steps_per_turn": 200},
        ),
        "probe": Draft(
            kind="sensor", title="Inductive probe", drive="NPN",
            pins_text="brown VCC\nblue GND\nblack OUT",
            numbers={"v_min_v": 5, "v_max_v": 30, "current_a": 0.01},
        ),
        "cartridge": Draft(
            kind="heater", title="Cartridge, 50 W", pins_text="1 2",
            numbers={"nominal_v": 24, "current_a": 2.1},
        ),
        "bed": Draft(
            kind="heater", title="Bed, 24 V", pins_text="1 2",
            numbers={"nominal_v": 24, "current_a": 8},
        ),
        "thermistor": Draft(kind="thermistor", title="Thermistor", pins_text="1 2"),
        "cut": Draft(
            kind="switch", title="Thermal cut-out", pins_text="1 2 NC",
            numbers={"contact_max_a": 10},
        ),
        "gate": Draft(
            kind="sensor", title="Light gate", pins_text="VCC GND SIG", drive="push-pull",
            numbers={"v_min_v": 3.3, "v_max_v": 5.5, "current_a": 0.02},
        ),
        "ring": Draft(
            kind="lamp", title="Ring of lights", pins_text="5V DIN GND",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.15},
        ),
        "fan": Draft(
            kind="fan", title="Fan", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.15},
        ),
        "ps24": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N PE -V -V +V +V",
            numbers={"nominal_v": 24, "current_a": 15},
        ),
        "fuse": Draft(
            kind="fuse", title="Fuse of the inlet", pins_text="1 2",
            numbers={"fuse_max_a": 10, "v_max_v": 250},
        ),
    }  # fmt: skip


def _panel_drafts() -> dict[str, Draft]:
    return {
        "inlet": Draft(kind="connector", title="Inlet", pins_text="L N PE"),
        "main": Draft(
            kind="switch", title="Main switch", pins_text="1 2 3 4",
            numbers={"contact_max_a": 16},
        ),
        "breaker": Draft(
            kind="fuse", title="Breaker", pins_text="1 2",
            numbers={"fuse_max_a": 16, "v_max_v": 250},
        ),
        "motion": Draft(
            kind="controller", title="Motion control",
            pins_text="24V 0V\nXP XD YP YD ZP ZD 5V\nDI1 DI2 DI3 DI4 DI5 DI6 DI7 DI8 COM\n"
            "DO1 DO2 24V\nMPG: A+ A- B+ B- 5V 0V\nSEL: X Y Z X1 X10 COM",
            numbers={"v_min_v": 18, "v_max_v": 30, "current_a": 0.4, "step_rate_max_hz": 2e5},
            circuits={
                "X/output": "5 V output, push-pull, 20 mA", "DI1/input": PULLED_UP,
                "SEL X/input": PULLED_UP, "DO1/output": FAN_OUT,
            },
        ),
        "wheel": Draft(
            kind="hand wheel", title="Hand wheel", drive="push-pull",
            pins_text="A green\nB white\n/A violet\n/B violet-black\n5V red\n0V black\nX yellow\n"
            "Y yellow-black\nZ brown\nX1 grey\nX10 grey-black\nCOM orange",
            numbers={"v_min_v": 4.75, "v_max_v": 5.25, "current_a": 0.06, "lines_per_turn": 100},
        ),
        "driver": Draft(
            kind="stepper driver", title="Driver that closes the loop",
            pins_text="PU+ PU- DR+ DR- MF+ MF-\nPEND+ PEND- ALM+ ALM-\nA+ A- B+ B-\n"
            "EB+ EB- EA+ EA- VCC GND\nAC AC",
            numbers={"v_min_v": 24, "v_max_v": 80, "current_max_peak_a": 8},
            circuits={
                "CONTROL/input": "Isolated input, 5 V: diode and 270 ohm",
                "ENCODER/input": "Differential receiver, RS-422, ended with 120 ohm",
                "ENCODER/plus": "5 V from the board, 0.3 A", "ALM/output": "Open collector, 50 mA",
                "PEND/output": "Open collector, 50 mA",
            },
        ),
        "servo": Draft(
            kind="stepper motor", title="Motor with encoder",
            pins_text="A+ red\nA- green\nB+ yellow\nB- blue\nVCC red\nGND white\nEA+ black\n"
            "EA- blue\nEB+ yellow\nEB- green",
            numbers={"current_a": 4.2, "resistance_ohm": 0.8, "steps_per_turn": 200},
        ),
        "ps48": Draft(
            kind="supply", title="Supply, 48 V", pins_text="L N PE V- V- V+ V+",
            numbers={"nominal_v": 48, "current_a": 10},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="11 12\n21 22",
            numbers={"contact_max_a": 6},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor", pins_text="A1 A2\n1 2\n3 4\n5 6\n21 22",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 20},
        ),
        "near": Draft(
            kind="sensor", title="Proximity switch", pins_text="BN +\nBU -\nBK NO", drive="NPN",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.015},
        ),
        "extractor": Draft(
            kind="load", title="Dust extractor", pins_text="L N PE",
            numbers={"nominal_v": 230, "current_a": 5},
        ),
        "small": Draft(
            kind="contactor", title="Small contactor", pins_text="A1+ A2-\n1 2\n3 4",
            numbers={"nominal_v": 24, "current_a": 0.1, "contact_max_a": 16},
        ),
    }  # fmt: skip


def _pack_drafts() -> dict[str, Draft]:
    return {
        "engraver": Draft(
            kind="controller", title="Engraver board",
            pins_text="12-24V GND\nX: 2B 2A 1A 1B\nY: 2B 2A 1A 1B\nLASER: GND PWM 24V\n"
            "LIM-X LIM-Y GND\nDOOR GND\nAIR: V+ V-\nFAN: V+ V-",
            numbers={"v_min_v": 12, "v_max_v": 24.5, "current_a": 0.3, "step_rate_max_hz": 1e5},
            circuits={
                "LIM-X/input": "5 V input, pulled up, for contacts to 0 V",
                "DOOR/input": "5 V input, pulled up, for contacts to 0 V",
                "LASER/output": "5 V output, push-pull, 20 mA",
                "AIR/output": "Low-side switch, 3 A, without a diode", "FAN/output": FAN_OUT,
            },
        ),
        "small-motor": Draft(
            kind="stepper motor", title="Small motor", pins_text="1 A+\n3 A-\n4 B+\n6 B-",
            numbers={"current_a": 1.2, "resistance_ohm": 2.4, "steps_per_turn": 200},
        ),
        "laser": Draft(
            kind="load", title="Laser module, 10 W", pins_text="red 24V\nblack GND\nyellow PWM",
            numbers={"nominal_v": 24, "current_a": 2.0},
        ),
        "limit": Draft(kind="switch", title="Micro switch", pins_text="C NC"),
        "lid": Draft(kind="switch", title="Lid switch", pins_text="COM NO NC"),
        "button": Draft(
            kind="emergency stop", title="Stop", pins_text="NC NC", numbers={"contact_max_a": 10}
        ),
        "key": Draft(
            kind="switch", title="Key switch", pins_text="1 2", numbers={"contact_max_a": 10}
        ),
        "pump": Draft(
            kind="load", title="Air pump", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.8},
        ),
        "pack": Draft(
            kind="supply", title="Power pack, 24 V", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 6},
        ),
    }  # fmt: skip


@cache
def panel_parts() -> dict[str, Part]:
    """The parts by their id."""
    drafts = {**_printer_drafts(), **_panel_drafts(), **_pack_drafts()}
    return described({f"my-panel-{name}": draft for name, draft in drafts.items()})


def _unwired(name: str, devices: tuple[str, ...]) -> Machine:
    build = Builder(Machine(name=name))
    for text in devices:
        designator, short, called = text.split(maxsplit=2)
        build.add(designator, panel_parts()[f"my-panel-{short}"], called)
    return build.machine


def unwired_headed() -> Machine:
    """A printer with a second board at its tool head, each heater with its own thermistor."""
    return _unwired("Described tool head", HEADED)


def unwired_panel() -> Machine:
    """A mill of closed loops with a hand wheel, and a dust extractor on a contactor of its own."""
    return _unwired("Described hand wheel", PANEL)


def unwired_pack() -> Machine:
    """An engraver that a power pack feeds, with a key switch and a stop without a contactor."""
    return _unwired("Described pack", PACK)


@cache
def wired_headed() -> Machine:
    """The printer."""
    return wired(unwired_headed())


@cache
def wired_panel() -> Machine:
    """The mill, with what its builder decides."""
    known = (
        accepted_finding("stops.unnoticed:S1:T1:T2", "One contactor will do.", "2026-11-30"),
        accepted_finding("stops.restarts:S1", "Drives wait for pulses.", "2026-11-30"),
    )
    return replace(wired(unwired_panel()), accepted=known)


@cache
def wired_pack() -> Machine:
    """The engraver, with what its builder decides."""
    known = accepted_finding("stops.unnoticed:S2:K1:E1", "A small stop will do.", "2026-11-30")
    return replace(wired(unwired_pack()), accepted=(known,))
