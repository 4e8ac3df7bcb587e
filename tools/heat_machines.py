"""Machines that heat: an extruder without any controller, whose drives are worked by knobs and
switches, and a roaster whose two amplifiers share one bus.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding
from described_machines import wired
from drive_machines import PULLED_UP, described
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

EXTRUDER = (
    "X1 inlet Inlet", "Q1 main Main switch", "F1 breaker Breaker", "S1 stop Stop", "S2 start Start",
    "Q2 contactor Contactor", "K1 regulator Zone 1", "K2 regulator Zone 2", "Q3 relay Zone 1",
    "Q4 relay Zone 2", "E1 band Zone 1", "E2 band Zone 2", "B1 couple Zone 1", "B2 couple Zone 2",
    "T1 inverter Screw", "B3 knob Speed of the screw", "S3 run Run", "M1 motor Screw",
)  # fmt: skip
ROASTER = (
    "X1 inlet Inlet", "Q1 main Main switch", "F1 breaker Breaker", "K1 board Board",
    "G1 ps5 Supply", "K3 amplifier Beans", "K4 amplifier Air", "B1 couple Beans",
    "B2 couple Air", "B3 display Display", "S1 cut Cut-out", "E1 element Element",
    "S2 button Button",
)  # fmt: skip
NPN_24 = "24 V input, pulled up, for NPN and contacts to 0 V"


def heat_drafts() -> dict[str, Draft]:
    """The parts of both."""
    return {
        "inlet": Draft(kind="connector", title="Inlet", pins_text="L N PE"),
        "main": Draft(
            kind="switch", title="Main switch", pins_text="1 2\n3 4",
            numbers={"contact_max_a": 25},
        ),
        "breaker": Draft(
            kind="fuse", title="Breaker", pins_text="1 2",
            numbers={"fuse_max_a": 16, "v_max_v": 250},
        ),
        "stop": Draft(kind="emergency stop", title="Stop", pins_text="11 12 NC"),
        "start": Draft(kind="switch", title="Start button", pins_text="13 14 NO"),
        "contactor": Draft(
            kind="contactor", title="Contactor, 230 V coil",
            pins_text="A1 A2\n1 2\n3 4\n5 6\n13 14",
            numbers={"nominal_v": 230, "current_a": 0.03, "contact_max_a": 25},
        ),
        "regulator": Draft(
            kind="controller", title="Temperature regulator",
            pins_text="L N\nTC+ TC-\nSSR+ SSR-\nAL1 NO AL1 COM",
            numbers={"v_min_v": 100, "v_max_v": 240, "current_a": 0.03},
        ),
        "relay": Draft(
            kind="solid-state relay", title="Solid-state relay, 25 A", pins_text="1\n2\n3 +\n4 -",
            numbers={"v_min_v": 3, "v_max_v": 32, "current_a": 0.01, "contact_max_a": 25},
        ),
        "band": Draft(
            kind="heater", title="Band heater, 400 W", pins_text="1\n2\nPE",
            numbers={"nominal_v": 230, "current_a": 1.74},
        ),
        "couple": Draft(kind="sensor", title="Thermocouple", pins_text="T+ T-"),
        "inverter": Draft(
            kind="frequency inverter", title="Inverter",
            pins_text="L N PE U V W PE\n+10V AI1 GND\nDI1 DI2 DI3 COM +24V\nRA RB RC",
            numbers={"v_min_v": 200, "v_max_v": 240, "current_a": 7},
            circuits={"CONTROL/input": NPN_24, "ANALOG/input": "Analogue input, 0 to 10 V"},
        ),
        "knob": Draft(
            kind="sensor", title="Potentiometer", pins_text="1 +\n2 OUT\n3 -", drive="volts"
        ),
        "run": Draft(kind="switch", title="Run switch", pins_text="1 2 NO"),
        "motor": Draft(
            kind="three-phase motor", title="Motor of the screw", pins_text="U1 V1 W1 PE",
            numbers={"nominal_v": 230, "current_a": 3.2},
        ),
        "board": Draft(
            kind="controller", title="Roaster board",
            pins_text="5V\nGND\n3V3\nGND\nGPIO4\nGPIO15\nSDA\nSCL\nSCK\nMISO\nCS1\nCS2",
            roles={"GPIO4": "digital input"}, circuits={"GPIO4/input": PULLED_UP},
            numbers={"v_min_v": 4.75, "v_max_v": 5.25, "current_a": 0.3},
        ),
        "ps5": Draft(
            kind="supply", title="Supply, 5 V", pins_text="L N +V -V",
            numbers={"nominal_v": 5, "current_a": 4},
        ),
        "amplifier": Draft(
            kind="signal converter", title="Thermocouple amplifier",
            pins_text="VCC GND SCK CS SO\nT+ T-",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.002},
        ),
        "display": Draft(
            kind="sensor", title="Display", pins_text="GND VCC SCL SDA",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.02},
        ),
        "cut": Draft(
            kind="switch", title="Thermal cut-out, 250 °C", pins_text="1 2 NC",
            numbers={"contact_max_a": 10},
        ),
        "element": Draft(
            kind="heater", title="Element, 1.2 kW", pins_text="1 2 PE",
            numbers={"nominal_v": 230, "current_a": 5.2},
        ),
        "button": Draft(kind="switch", title="Button", pins_text="1 2 NO"),
    }  # fmt: skip


@cache
def heat_parts() -> dict[str, Part]:
    """The parts by their id."""
    return described({f"my-heat-{name}": draft for name, draft in heat_drafts().items()})


def _unwired(name: str, devices: tuple[str, ...]) -> Machine:
    build = Builder(Machine(name=name))
    for text in devices:
        designator, short, called = text.split(maxsplit=2)
        build.add(designator, heat_parts()[f"my-heat-{short}"], called)
    return build.machine


def unwired_extruder() -> Machine:
    """Two heated zones, each with a regulator, and a screw that one starts and sets by hand."""
    return _unwired("Described extruder", EXTRUDER)


def unwired_roaster() -> Machine:
    """A board that reads two thermocouples over one bus and a display over another."""
    return _unwired("Described roaster", ROASTER)


@cache
def wired_extruder() -> Machine:
    """The extruder, with what its builder decides."""
    known = accepted_finding("stops.unnoticed:S1:E1:E2:T1", "One contactor will do.", "2026-11-30")
    return replace(wired(unwired_extruder()), accepted=(known,))


@cache
def wired_roaster() -> Machine:
    """The roaster."""
    return wired(unwired_roaster())
