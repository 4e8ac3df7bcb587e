"""A machine whose motor two relays turn either way: a hen house door on a battery."""

from functools import cache

from builder import Builder
from described_machines import wired
from drive_machines import PULLED_UP, described
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

DOOR = (
    "G1 battery Battery", "F1 fuse Battery fuse", "K1 board Board", "K2 relays Door relays",
    "M1 actuator Door", "S1 reed Door open", "S2 reed Door closed", "S3 button Open",
    "S4 button Close",
)  # fmt: skip
LEVEL = "5 V output, push-pull, 20 mA"


def _drafts() -> dict[str, Draft]:
    return {
        "board": Draft(
            kind="controller", title="Small board with radio",
            pins_text="VIN GND 5V\nIN1: D13 GND\nIN2: D14 GND\nIN3: D34 GND\nIN4: D35 GND\n"
            "OUT1: D25\nOUT2: D26",
            numbers={"v_min_v": 5, "v_max_v": 16, "current_a": 0.1, "logic_v": 3.3},
            circuits={
                "IN1/input": PULLED_UP, "5V OUT/plus": "5 V from the board, 0.3 A",
                "OUT1/output": LEVEL, "OUT2/output": LEVEL,
            },
        ),
        "relays": Draft(
            kind="relay module", title="Two relays",
            pins_text="VCC GND IN1 IN2\nCOM1 NO1 NC1\nCOM2 NO2 NC2",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.08, "contact_max_a": 10},
            circuits={
                "IN1/input": "Input of a relay board, 5 V, on at a low level: diode, lamp and "
                "1 kohm to 5 V",
            },
        ),
        "actuator": Draft(
            kind="brushed motor", title="Linear actuator, 12 V", pins_text="red\nblack",
            numbers={"nominal_v": 12, "current_a": 2},
        ),
        "reed": Draft(
            kind="switch", title="Reed contact", pins_text="1 2 NO", numbers={"contact_max_a": 0.5}
        ),
        "button": Draft(
            kind="switch", title="Button", pins_text="1 2 NO", numbers={"contact_max_a": 1}
        ),
        "battery": Draft(
            kind="battery", title="Battery, 12 V", pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 20},
        ),
        "fuse": Draft(
            kind="fuse", title="Fuse", pins_text="1 2", numbers={"fuse_max_a": 5}
        ),
    }  # fmt: skip


@cache
def turned_parts() -> dict[str, Part]:
    """The parts, by their id."""
    return described({f"my-door-{name}": draft for name, draft in _drafts().items()})


def unwired_door() -> Machine:
    """A door with nothing joined yet."""
    build = Builder(Machine(name="Hen house door"))
    for row in DOOR:
        name, part, called = row.split(maxsplit=2)
        build.add(name, turned_parts()[f"my-door-{part}"], called)
    return build.machine


@cache
def wired_door() -> Machine:
    """The door, wired by what Vervain proposes."""
    return wired(unwired_door())
