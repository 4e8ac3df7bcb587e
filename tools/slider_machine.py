"""A camera slider on a small board with radio: its lines are chosen by hand, its step modules are
wired pin by pin, a display hangs on the bus, a battery and a converter feed it.
"""

from functools import cache

from msgspec.structs import replace

from builder import slide_axis
from described_machines import wired
from drive_machines import described
from novice_machines import begun, decided
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

LINE = "3.3 V input, pulled up, for contacts to 0 V"
SLIDER = (
    "G1 battery", "F1 fuse", "S1 power", "G2 converter", "K1 board", "T1 module", "T2 module",
    "M1 motor", "M2 motor", "B1 stick", "B2 reed", "B3 reed", "P1 display", "P2 light",
    "P3 beeper", "K2 relay",
)  # fmt: skip


def slider_drafts() -> dict[str, Draft]:
    """The parts of the slider, as they are printed."""
    return {
        "board": Draft(
            kind="controller", title="Small radio board",
            pins_text="3V3 GND VIN\nGPIO4\nGPIO5\nGPIO12\nGPIO13\nGPIO14\nGPIO16\nGPIO17\nGPIO18\n"
            "GPIO19\nGPIO23\nSDA GPIO21\nSCL GPIO22\nGPIO32\nGPIO33\nGPIO34\nEN",
            roles={"GPIO4": "logic output", "GPIO32": "analogue input"},
            begins=frozenset({"GPIO18", "GPIO32"}),
            circuits={
                "/input": LINE, "GPIO18/input": LINE,
                "GPIO4/output": "3.3 V output, push-pull, 8 mA",
                "GPIO32/input": "Analogue input, 0 to 3.3 V",
            },
            numbers={"v_min_v": 5, "v_max_v": 12, "current_a": 0.2},
        ),
        "module": Draft(
            kind="stepper driver", title="Quiet step module on a carrier",
            pins_text="EN\nDIR\nSTEP\nGND\nVIO 3-5V\nVM 8-30V\nGND\nOA1\nOA2\nOB1\nOB2",
            roles={"PORT": "step and direction, from a controller"},
            circuits={"CONTROL/input": "3.3 V input that bears 5 V"},
            numbers={"v_min_v": 8, "v_max_v": 30, "current_max_peak_a": 2},
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor 0.8 A",
            pins_text="A+ black\nA- green\nB+ red\nB- blue", numbers={"current_a": 0.8},
        ),
        "display": Draft(
            kind="load", title="Display", pins_text="GND VCC SCL SDA",
            numbers={"nominal_v": 3.3, "current_a": 0.02},
        ),
        "stick": Draft(
            kind="sensor", title="Joystick", pins_text="GND\n+5V\nVRx\nVRy\nSW", drive="volts",
            numbers={"v_min_v": 3, "v_max_v": 5.5, "current_a": 0.001},
        ),
        "reed": Draft(kind="switch", title="Reed switch", pins_text="NO"),
        "battery": Draft(
            kind="battery", title="Battery", pins_text="B+ B-",
            numbers={"nominal_v": 11.1, "current_a": 10},
        ),
        "converter": Draft(
            kind="supply", title="Step-down converter", pins_text="IN+\nIN-\nOUT+\nOUT-",
            numbers={"nominal_v": 5, "current_a": 3, "v_min_v": 7, "v_max_v": 28},
        ),
        "power": Draft(kind="switch", title="Power switch", pins_text="1\n2"),
        "fuse": Draft(
            kind="fuse", title="Fuse", pins_text="1 2",
            numbers={"fuse_max_a": 10, "v_max_v": 32},
        ),
        "light": Draft(
            kind="lamp", title="Status light", pins_text="+ -",
            numbers={"nominal_v": 3.3, "current_a": 0.008},
        ),
        "beeper": Draft(
            kind="load", title="Beeper", pins_text="+ -",
            numbers={"nominal_v": 5, "current_a": 0.03},
        ),
        "relay": Draft(
            kind="relay module", title="Beeper relay", pins_text="VCC\nGND\nIN\nCOM\nNO\nNC",
            circuits={"IN/input": "3.3 V input that bears 5 V"},
            numbers={"v_min_v": 3.3, "v_max_v": 5, "current_a": 0.05},
        ),
    }  # fmt: skip


@cache
def slider_parts() -> dict[str, Part]:
    """The parts of the slider by their id."""
    return described({f"my-slider-{name}": draft for name, draft in slider_drafts().items()})


@cache
def wired_slider() -> Machine:
    """The slider, as the two proposals wire it, with what its builder decides."""
    build = begun("Described slider", slider_parts(), "my-slider", SLIDER)
    machine = wired(replace(build.machine, axes=(slide_axis("X", "M1", "B2"),)))
    return decided(machine, {"stops.limit-no": "A reed contact only closes."})
