"""Machines as somebody types them who has the boards on the table and no manual: a hot-wire cutter
with the drivers on its board, a watering plant on a battery, and a dipper for candles whose bath is
heated from mains.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, slide_axis
from described_machines import wired
from drive_machines import described
from vervain import api
from vervain.catalogue.drafts import Draft
from vervain.edits.note_edits import accept_finding
from vervain.model.machine import Machine
from vervain.model.part import Part

PULLED_UP = "5 V input, pulled up, for contacts to 0 V"
RELAY_IN = "Input of a relay board, 5 V, on at a low level: diode, lamp and 1 kohm to 5 V"
CUTTER = (
    "K1 board", "M1 motor", "M2 motor", "M3 motor", "M4 motor", "B1 limit", "B2 limit", "B3 limit",
    "B4 limit", "K2 switch", "E1 wire", "M5 fan", "G1 supply", "S1 stop",
)  # fmt: skip
PLANT = (
    "G1 battery", "F1 fuse", "G2 converter", "K1 board", "K2 relays", "M1 pump", "Y1 valve",
    "Y2 valve", "B1 moisture", "B2 moisture", "B3 float", "B4 flow",
)  # fmt: skip
DIPPER = (
    "K1 board", "T1 driver", "M1 motor", "Q1 relay", "E1 heater", "B1 bath", "B2 limit", "B3 limit",
    "B4 lid", "G1 supply", "M2 fan", "P1 lamp", "S1 stop", "Q2 contactor",
)  # fmt: skip
DAY = "2026-11-29"
# What the builder of the cutter decided, by the rule that asked.
DECIDED = {
    "signals.heater-cutout": "The wire is in plain sight.",
    "stops.restarts": "A contactor is on order.",
    "stops.unnoticed": "A contactor is on order.",
}


def cutter_drafts() -> dict[str, Draft]:
    """The parts of the cutter."""
    inputs = ("X-", "Y-", "U-", "V-", "E-STOP")
    return {
        "board": Draft(
            kind="controller", title="Four axis board",
            pins_text="12-24V\nGND\n\nX: 1A 1B 2A 2B\nY: 1A 1B 2A 2B\nU: 1A 1B 2A 2B\n"
            "V: 1A 1B 2A 2B\nX- : S G\nY- : S G\nU- : S G\nV- : S G\nHOTWIRE: PWM GND\n"
            "FAN: + -\nE-STOP: S G",
            numbers={"v_min_v": 12, "v_max_v": 24, "current_a": 0.3},
            circuits={
                **{f"{name}/input": PULLED_UP for name in inputs},
                "HOTWIRE/output": "5 V output, push-pull, 20 mA",
                "FAN/output": "Low-side switch, 3 A, without a diode",
            },
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor 1.7 A",
            pins_text="black A+\ngreen A-\nred B+\nblue B-", numbers={"current_a": 1.7},
        ),
        "limit": Draft(
            kind="switch", title="Micro switch", pins_text="C\nNO\nNC",
            numbers={"contact_max_a": 5},
        ),
        "switch": Draft(
            kind="relay module", title="Switching module 30 A",
            pins_text="TRIG/PWM\nGND\nVIN+\nVIN-\nOUT+\nOUT-",
            numbers={"v_min_v": 5, "v_max_v": 36},
            circuits={
                "IN/input": "Isolated input, 5 V: diode and 270 ohm",
                "OUT/output": "Low-side switch for heat, 12 A",
            },
        ),
        "wire": Draft(
            kind="heater", title="Hot wire", pins_text="1 2",
            numbers={"nominal_v": 24, "current_a": 4},
        ),
        "supply": Draft(
            kind="supply", title="Supply 24 V 15 A", pins_text="L N GND COM COM COM +V +V +V",
            numbers={"nominal_v": 24, "current_a": 15},
        ),
        "fan": Draft(
            kind="fan", title="Fan", pins_text="red\nblack",
            numbers={"nominal_v": 24, "current_a": 0.15},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="1 2", numbers={"contact_max_a": 10}
        ),
    }  # fmt: skip


def plant_drafts() -> dict[str, Draft]:
    """The parts of the watering plant."""
    return {
        "board": Draft(
            kind="controller", title="Small board",
            pins_text="VIN GND 3V3 GND\nGPIO1 GPIO2 GPIO3 GPIO4 GPIO5 GPIO6 GPIO7 GPIO8\n"
            "ADC1 ADC2 ADC3 ADC4\nSDA SCL\nEN",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.3},
            begins=frozenset({"GPIO5"}), roles={"GPIO5": "logic output"},
            circuits={
                "GPIO1/input": "3.3 V input, pulled up, for contacts to 0 V",
                "GPIO5/output": "3.3 V output, push-pull, 8 mA",
                "ADC1/input": "Analogue input, 0 to 3.3 V",
            },
        ),
        "relays": Draft(
            kind="relay module", title="Relay board, 4 channels",
            pins_text="VCC GND IN1 IN2 IN3 IN4\nNO1 COM1 NC1\nNO2 COM2 NC2\nNO3 COM3 NC3\n"
            "NO4 COM4 NC4",
            numbers={"v_min_v": 5, "v_max_v": 5.5, "current_a": 0.07, "contact_max_a": 10},
            circuits={"IN1/input": RELAY_IN},
        ),
        "moisture": Draft(
            kind="sensor", title="Moisture sensor", pins_text="VCC GND AOUT", drive="volts",
            numbers={"v_min_v": 3.3, "v_max_v": 5.5, "current_a": 0.005},
        ),
        "pump": Draft(
            kind="brushed motor", title="Pump", pins_text="red +\nblack -",
            numbers={"nominal_v": 12, "current_a": 1},
        ),
        "valve": Draft(
            kind="valve", title="Valve", pins_text="1 2",
            numbers={"nominal_v": 12, "current_a": 0.4},
        ),
        "float": Draft(
            kind="switch", title="Float switch", pins_text="1 NO\n2 COM",
            numbers={"contact_max_a": 0.5},
        ),
        "flow": Draft(
            kind="sensor", title="Flow meter", pins_text="red +\nblack -\nyellow pulses",
            drive="NPN", numbers={"v_min_v": 4.5, "v_max_v": 18, "current_a": 0.015},
        ),
        "battery": Draft(
            kind="battery", title="Battery 12 V", pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 10},
        ),
        "converter": Draft(
            kind="supply", title="Converter to 5 V", pins_text="IN+ IN- OUT+ OUT-",
            numbers={"nominal_v": 5, "current_a": 3, "v_min_v": 7, "v_max_v": 28},
        ),
        "fuse": Draft(
            kind="fuse", title="Fuse", pins_text="1 2",
            numbers={"fuse_max_a": 10, "v_max_v": 32},
        ),
    }  # fmt: skip


def dipper_drafts() -> dict[str, Draft]:
    """The parts of the dipper, each terminal in a line as it is printed."""
    return {
        "board": Draft(
            kind="controller", title="Dipper board",
            pins_text="VIN 12-24V\nGND\nX STEP\nX DIR\nX EN\nGND\nTEMP1\nTEMP1\nTEMP2\nTEMP2\n"
            "LIM1\nGND\nLIM2\nGND\nLID\nGND\n5V\nHEAT+\nHEAT-\nFAN+\nFAN-\nLAMP+\nLAMP-\nESTOP\nGND",
            circuits={
                "/input": PULLED_UP, "X/output": "5 V output, push-pull, 20 mA",
                "HEAT/output": "Open collector, 50 mA",
                "FAN/output": "Low-side switch, 3 A, without a diode",
                "LAMP/output": "Low-side switch, 3 A, without a diode",
            },
        ),
        "driver": Draft(
            kind="stepper driver", title="Driver 36",
            pins_text="PUL+\nPUL-\nDIR+\nDIR-\nENA+\nENA-\nGND\nV+ 12-36V\nA+\nA-\nB+\nB-",
        ),
        "motor": Draft(
            kind="stepper motor", title="Hoist motor 2 A", numbers={"current_a": 2},
            pins_text="A+ black\nA- green\nB+ red\nB- blue",
        ),
        "relay": Draft(
            kind="solid-state relay", title="Heater relay", numbers={"contact_max_a": 25},
            pins_text="1 24-380VAC\n2 LOAD\n3 + 3-32V\n4 -",
        ),
        "heater": Draft(
            kind="heater", title="Wax heater 800 W", pins_text="L\nN\nPE",
            numbers={"nominal_v": 230, "current_a": 3.5},
        ),
        "bath": Draft(kind="thermistor", title="Bath sensor", pins_text="1\n2"),
        "limit": Draft(
            kind="switch", title="Micro switch", pins_text="COM\nNO\nNC",
            numbers={"contact_max_a": 5},
        ),
        "lid": Draft(
            kind="switch", title="Lid switch", pins_text="1 NC BN\n2 BU",
            numbers={"contact_max_a": 1},
        ),
        "supply": Draft(
            kind="supply", title="Supply 24 V 5 A", pins_text="L\nN\nPE\nV-\nV-\nV+\nV+",
            numbers={"nominal_v": 24, "current_a": 5},
        ),
        "fan": Draft(
            kind="fan", title="Fan 24 V", pins_text="red +\nblack -",
            numbers={"nominal_v": 24, "current_a": 0.15},
        ),
        "lamp": Draft(
            kind="lamp", title="Ready lamp", pins_text="X1\nX2",
            numbers={"nominal_v": 24, "current_a": 0.02},
        ),
        "stop": Draft(kind="emergency stop", title="Stop", pins_text="11 12\n21 22"),
        "contactor": Draft(
            kind="contactor", title="Contactor 24 V",
            pins_text="A1\nA2\n1 L1\n2 T1\n3 L2\n4 T2\n13 NO\n14 NO",
            numbers={"nominal_v": 24, "current_a": 0.1, "contact_max_a": 9},
        ),
    }  # fmt: skip


@cache
def dipper_parts() -> dict[str, Part]:
    """The parts of the dipper by their id."""
    return described({f"my-dipper-{name}": draft for name, draft in dipper_drafts().items()})


@cache
def cutter_parts() -> dict[str, Part]:
    """The parts of the cutter by their id."""
    return described({f"my-cutter-{name}": draft for name, draft in cutter_drafts().items()})


@cache
def plant_parts() -> dict[str, Part]:
    """The parts of the plant by their id."""
    return described({f"my-plant-{name}": draft for name, draft in plant_drafts().items()})


def begun(name: str, parts: dict[str, Part], prefix: str, devices: tuple[str, ...]) -> Builder:
    """A machine of some described parts, each called after its part."""
    build = Builder(Machine(name=name))
    for text in devices:
        designator, short = text.split()
        part = parts[f"{prefix}-{short}"]
        build.add(designator, part, f"{part.title} {designator}")
    return build


def unwired_cutter() -> Machine:
    """Its inlet, devices and axes, with nothing joined."""
    build = begun("Described cutter", cutter_parts(), "my-cutter", CUTTER)
    build.device("X1", "quoin-mi1", "Inlet", None)
    axes = tuple(slide_axis(axis, f"M{n}", f"B{n}") for n, axis in enumerate("XYUV", 1))
    return replace(build.machine, axes=axes)


def unwired_plant() -> Machine:
    """Its devices, with nothing joined."""
    return begun("Described plant", plant_parts(), "my-plant", PLANT).machine


def unwired_dipper() -> Machine:
    """Its inlet, devices and axis, with nothing joined."""
    build = begun("Described dipper", dipper_parts(), "my-dipper", DIPPER)
    build.device("X1", "quoin-mi1", "Inlet", None)
    axis = slide_axis("X", "M1", "B2")
    return replace(build.machine, axes=(replace(axis, max_limit="B3"),))


def decided(machine: Machine, reasons: dict[str, str]) -> Machine:
    """The machine with the findings of some rules accepted, each for a reason."""
    for finding in api.check(machine).open:
        if finding.rule in reasons:
            machine = accept_finding(machine, finding, reasons[finding.rule], DAY)
    return machine


@cache
def wired_dipper() -> Machine:
    """The dipper, with a splice where three wires meet and what its builder decides."""
    machine = wired(unwired_dipper())
    for finding in api.check(machine).open:
        if finding.rule in ("ports.crowded-contact", "machine.no-home"):
            machine = finding.fixes[0].remedy.apply(machine)
    return decided(machine, {"stops.unnoticed": "A second one is on order."})


@cache
def wired_cutter() -> Machine:
    """The cutter, with what its builder decides."""
    return decided(wired(unwired_cutter()), DECIDED)


@cache
def wired_plant() -> Machine:
    """The watering plant."""
    return wired(unwired_plant())
