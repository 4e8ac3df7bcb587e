"""Machines on small boards whose lines a program makes inputs or outputs: a thrower of balls with
three kinds of bridges, and an incubator with relays, a transistor and a step module.
"""

from functools import cache

from builder import Builder
from described_machines import wired
from drive_machines import described
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine

TTL = "5 V input, TTL levels"
LINE = "Line of a 3.3 V processor, pulled up"
THROWER = (
    "B1 battery Battery", "F1 fuse Fuse", "S1 main Main", "U1 nine Nine", "U2 six Six",
    "K1 board Board", "A1 single Top", "A2 single Bottom", "M1 wheel Top", "M2 wheel Bottom",
    "A3 double Feeder", "M3 feeder Feeder", "M4 servo Pan", "M5 servo Tilt", "N1 remote Remote",
    "R1 knob Speed", "R2 knob Spin", "N2 ball Ball", "H1 beeper Beeper",
)  # fmt: skip
INCUBATOR = (
    "J1 inlet Mains", "G1 twelve Supply", "G2 mist Mist", "G3 five Five", "K1 board Board",
    "K2 solid Heat", "E1 heater Heat", "F1 cutout Heat", "N1 humid Humidity", "N2 probe Eggs",
    "A1 module Turner", "M1 turner Turner", "V1 fan Fan", "K3 relays Relays", "P1 maker Mist",
    "S1 door Door", "H1 beeper Beeper", "Q1 transistor Beeper",
)  # fmt: skip


def _thrower_drafts() -> dict[str, Draft]:
    return {
        "board": Draft(
            kind="controller", title="Small board, 5 V",
            pins_text="7-12V GND\n5V 5V 5V\nGND GND GND\n"
            "D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 D22 D23\nA0 A1 A2 A3",
            numbers={"v_min_v": 7, "v_max_v": 12, "current_a": 0.1},
            circuits={
                "D2/input": "Line of a 5 V processor, pulled up",
                "A0/input": "Analogue input, 0 to 5 V",
            },
        ),
        "single": Draft(
            kind="motor bridge", title="Bridge, one way, 30 A",
            pins_text="BAT+ BAT-\nM+ M-\nSIG +5V GND", circuits={"PLUG 3/input": TTL},
            numbers={"v_min_v": 6, "v_max_v": 30, "current_a": 30},
        ),
        "double": Draft(
            kind="motor bridge", title="Double bridge, 2 A",
            pins_text="+12V GND +5V\nOUT1 OUT2\nOUT3 OUT4\nENA IN1 IN2 IN3 IN4 ENB",
            circuits={"CONTROL A/input": TTL, "CONTROL B/input": TTL},
            numbers={"v_min_v": 6, "v_max_v": 35, "current_a": 2},
        ),
        "wheel": Draft(
            kind="brushed motor", title="Throwing wheel, 24 V", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 12},
        ),
        "feeder": Draft(
            kind="brushed motor", title="Feeder, 24 V", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 1},
        ),
        "servo": Draft(
            kind="servo", title="Servo", pins_text="SIG V+ GND",
            numbers={"v_min_v": 4.8, "v_max_v": 6.8, "current_a": 1.2},
        ),
        "remote": Draft(
            kind="sensor", title="Receiver of four keys", pins_text="VCC GND OUT1 OUT2 OUT3 OUT4",
            drive="push-pull",
            numbers={"v_min_v": 3.3, "v_max_v": 5, "current_a": 0.01},
        ),
        "knob": Draft(kind="sensor", title="Potentiometer, 10 k", pins_text="1 2 3", drive="volts"),
        "battery": Draft(
            kind="battery", title="Battery, 24 V", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 40},
        ),
        "main": Draft(
            kind="switch", title="Main switch", pins_text="1 2", numbers={"contact_max_a": 50}
        ),
        "fuse": Draft(
            kind="fuse", title="Fuse", pins_text="1 2", numbers={"fuse_max_a": 40, "v_max_v": 58}
        ),
        "nine": Draft(
            kind="supply", title="Converter to 9 V", pins_text="IN+ IN-\nOUT+ OUT-",
            numbers={"nominal_v": 9, "current_a": 2, "v_min_v": 12, "v_max_v": 40},
        ),
        "six": Draft(
            kind="supply", title="Converter to 6 V", pins_text="IN+ IN-\nOUT+ OUT-",
            numbers={"nominal_v": 6, "current_a": 5, "v_min_v": 8, "v_max_v": 40},
        ),
        "ball": Draft(
            kind="sensor", title="Light barrier, 5 V", pins_text="VCC OUT GND",
            drive="push-pull",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.02},
        ),
        "beeper": Draft(
            kind="load", title="Beeper, worked by a level", pins_text="VCC I/O GND",
            numbers={"nominal_v": 5, "current_a": 0.03},
        ),
    }  # fmt: skip


def _incubator_drafts() -> dict[str, Draft]:
    return {
        "board": Draft(
            kind="controller", title="Small board, 3.3 V",
            pins_text="5V GND\n3V3 EN\nIO4 IO5 IO13 IO14 IO16 IO17 IO18 IO19 IO23 IO25\n"
            "SDA SCL\nIO26 IO27",
            numbers={"v_min_v": 4.7, "v_max_v": 5.3, "current_a": 0.3},
            roles={"IO26": "bus"}, begins=frozenset({"IO27"}),
            circuits={
                "IO4/input": LINE, "IO27/input": LINE,
            },
        ),
        "solid": Draft(
            kind="solid-state relay", title="Solid-state relay", pins_text="1 ~ 2 ~\n3 + 4 -",
            numbers={"v_min_v": 3, "v_max_v": 32, "current_a": 0.007, "contact_max_a": 10},
        ),
        "heater": Draft(
            kind="heater", title="Heater, 230 V", pins_text="L N PE",
            numbers={"nominal_v": 230, "current_a": 0.65},
        ),
        "cutout": Draft(
            kind="switch", title="Thermal cut-out, 60 °C", pins_text="1 2",
            numbers={"contact_max_a": 10},
        ),
        "humid": Draft(
            kind="sensor", title="Humidity sensor", pins_text="VIN GND SCL SDA",
            numbers={"v_min_v": 3.3, "v_max_v": 5, "current_a": 0.01},
        ),
        "probe": Draft(
            kind="sensor", title="Thermometer on one wire", pins_text="VDD GND DQ",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.01},
        ),
        "module": Draft(
            kind="stepper driver", title="Step module",
            pins_text="EN MS1 MS2 MS3 RST SLP STEP DIR\nVMOT GND 2B 2A 1A 1B VDD GND",
            numbers={"v_min_v": 8, "v_max_v": 35, "current_max_peak_a": 1.5},
            circuits={"CONTROL/input": "3.3 V input that bears 5 V"},
        ),
        "turner": Draft(
            kind="stepper motor", title="Stepper, 0.8 A", pins_text="A+ A- B+ B-",
            numbers={"current_a": 0.8},
        ),
        "fan": Draft(
            kind="fan", title="Fan, 12 V", pins_text="GND +12V TACHO PWM",
            numbers={"nominal_v": 12, "current_a": 0.3},
        ),
        "relays": Draft(
            kind="relay module", title="Two relays",
            pins_text="VCC GND IN1 IN2\nNO1 COM1 NC1\nNO2 COM2 NC2",
            numbers={"v_min_v": 4.75, "v_max_v": 5.25, "current_a": 0.07, "contact_max_a": 10},
            circuits={
                "IN1/input": "Input of a relay board, 5 V, on at a low level: diode, lamp and "
                "1 kohm to 5 V",
            },
        ),
        "transistor": Draft(
            kind="relay module", title="Transistor module",
            pins_text="VCC GND SIG\nV+ V-\nOUT+ OUT-",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.005},
            circuits={
                "IN/input": "3.3 V input that bears 5 V",
                "OUT/output": "Low-side switch, 3 A, without a diode",
            },
        ),
        "maker": Draft(
            kind="load", title="Mist maker, 24 V", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.8},
        ),
        "twelve": Draft(
            kind="supply", title="Supply, 12 V", pins_text="L N PE\nV+ V-",
            numbers={"nominal_v": 12, "current_a": 5},
        ),
        "mist": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N PE\nV+ V-",
            numbers={"nominal_v": 24, "current_a": 2},
        ),
        "five": Draft(
            kind="supply", title="Converter to 5 V", pins_text="IN+ IN-\nOUT+ OUT-",
            numbers={"nominal_v": 5, "current_a": 3, "v_min_v": 7, "v_max_v": 30},
        ),
        "inlet": Draft(kind="connector", title="Mains inlet", pins_text="L N PE"),
        "door": Draft(
            kind="switch", title="Door switch", pins_text="COM NO NC",
            numbers={"contact_max_a": 3},
        ),
        "beeper": Draft(
            kind="load", title="Beeper, 5 V", pins_text="+ -",
            numbers={"nominal_v": 5, "current_a": 0.03},
        ),
    }  # fmt: skip


def made(name: str, mark: str, drafts: dict[str, Draft], rows: tuple[str, ...]) -> Machine:
    """A machine of described parts, a row each with designator, part and name."""
    parts = described({f"my-{mark}-{part}": draft for part, draft in drafts.items()})
    build = Builder(Machine(name=name))
    for row in rows:
        designator, part, called = row.split(maxsplit=2)
        build.add(designator, parts[f"my-{mark}-{part}"], called)
    return build.machine


@cache
def unwired_thrower() -> Machine:
    """The thrower before anything is joined."""
    return made("Ball thrower", "thrower", _thrower_drafts(), THROWER)


@cache
def wired_thrower() -> Machine:
    """The thrower, wired by what Vervain proposes."""
    return wired(unwired_thrower())


@cache
def unwired_incubator() -> Machine:
    """The incubator before anything is joined."""
    return made("Incubator", "incubator", _incubator_drafts(), INCUBATOR)


@cache
def wired_incubator() -> Machine:
    """The incubator, wired by what Vervain proposes."""
    return wired(unwired_incubator())
