"""A coil winder of parts that were copied terminal by terminal, side by side or line by line."""

from functools import cache

from msgspec.structs import replace

from builder import Builder, slide_axis
from drive_machines import PULLED_UP, described
from vervain.catalogue.drafts import Draft
from vervain.model.axis import Axis, Gear
from vervain.model.machine import Machine
from vervain.model.part import Part

WINDER = (
    "K1 board", "T1 driver", "T2 driver", "M1 motor", "M2 motor", "B1 counter", "B2 limit",
    "B3 limit", "S1 stop", "S2 pedal", "G1 ps36", "G2 ps24", "Q1 relay", "P1 lamp",
)  # fmt: skip


def winder_drafts() -> dict[str, Draft]:
    """The parts of the winder."""
    return {
        "board": Draft(
            kind="controller", title="Winder board",
            pins_text="24V 0V\nX PUL+ PUL- DIR+ DIR- EN+ EN-\nY PUL+ PUL- DIR+ DIR- EN+ EN-\n"
            "IN1 IN2 IN3 IN4 IN5 IN6 24V 0V\nESTOP 0V\nOUT1 NO, OUT1 COM\nOUT2 NO, OUT2 COM",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.2},
            circuits={"IN1/input": PULLED_UP, "ESTOP/input": PULLED_UP},
        ),
        "driver": Draft(
            kind="stepper driver", title="Driver",
            pins_text="PUL+ PUL- DIR+ DIR- ENA+ ENA- GND VDC A+ A- B+ B-",
            numbers={"v_min_v": 20, "v_max_v": 50, "current_max_peak_a": 5.6},
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor", pins_text="A+ BK A- GN B+ RD B- BU",
            numbers={"current_a": 3},
        ),
        "counter": Draft(
            kind="sensor", title="Turn counter", pins_text="BN +V BU GND BK OUT", drive="NPN",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.02},
        ),
        "limit": Draft(
            kind="switch", title="Limit switch", pins_text="COM NC", numbers={"contact_max_a": 3}
        ),
        "pedal": Draft(
            kind="switch", title="Foot pedal", pins_text="COM NO", numbers={"contact_max_a": 3}
        ),
        "ps36": Draft(
            kind="supply", title="Supply 36 V", pins_text="L N PE -V -V +V +V",
            numbers={"nominal_v": 36, "current_a": 9.7},
        ),
        "ps24": Draft(
            kind="supply", title="Supply 24 V", pins_text="L N GND -V +V",
            numbers={"nominal_v": 24, "current_a": 2.5},
        ),
        "stop": Draft(kind="emergency stop", title="Stop", pins_text="11 12 21 22"),
        "relay": Draft(
            kind="contactor", title="Relay", pins_text="A1 A2 1 2 3 4 13 14 21 22",
            numbers={"nominal_v": 24, "current_a": 0.1, "contact_max_a": 9},
        ),
        "lamp": Draft(
            kind="lamp", title="Lamp", pins_text="X1 X2",
            numbers={"nominal_v": 24, "current_a": 0.02},
        ),
    }  # fmt: skip


@cache
def winder_parts() -> dict[str, Part]:
    """The parts of the winder by their id."""
    return described({f"my-winder-{name}": draft for name, draft in winder_drafts().items()})


def unwired_winder() -> Machine:
    """Its devices and axes, with nothing joined: a bobbin that turns for ever, and its guide."""
    build = Builder(Machine(name="Described winder"))
    for text in WINDER:
        designator, short = text.split()
        part = winder_parts()[f"my-winder-{short}"]
        build.add(designator, part, f"{part.title} {designator}")
    bobbin = Axis(
        id="X", name="bobbin", motion="rotary", drives=("M1",), endless=True, homing="off",
        mechanism=Gear(driving_teeth=20, driven_teeth=20), speed_max=1000,
    )  # fmt: skip
    guide = replace(slide_axis("Y", "M2", "B2"), max_limit="B3")
    return replace(build.machine, axes=(bobbin, guide))
