"""A mill as somebody wires it in a workshop: drives that pulse, a spindle at an inverter, a coolant
pump at mains behind a relay, each part typed as it is printed.
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

PULLED_UP = "24 V input, pulled up, for NPN and contacts to 0 V"
MILL = (
    "K1 board", "T1 driver", "T2 driver", "T3 driver", "M1 motor", "M2 motor", "M3 motor",
    "G1 drives", "G2 logic", "B1 limit", "B2 limit", "B3 limit", "B4 probe", "T4 inverter",
    "M4 spindle", "M5 pump", "P1 light", "K2 relays", "S1 stop", "Q1 contactor",
)  # fmt: skip
# What the builder of the mill decided, by the rule that asked.
DECIDED = {
    "stops.unnoticed": "A second contactor is on order.",
}


def mill_drafts() -> dict[str, Draft]:
    """The parts of the mill."""
    return {
        "board": Draft(
            kind="controller", title="Mill board",
            pins_text="24V\nGND\n\nX PUL+ PUL- DIR+ DIR-\nY PUL+ PUL- DIR+ DIR-\n"
            "Z PUL+ PUL- DIR+ DIR-\n\nX LIM\nY LIM\nZ LIM\nPROBE\nESTOP\nDOOR\nCOM\n\nCOOLANT\n"
            "LIGHT\nSPINDLE ON\nGND\n\nAVI 0-10V\nAGND",
            numbers={"v_min_v": 22, "v_max_v": 26, "current_a": 0.4},
            circuits={
                "/input": PULLED_UP, "COOLANT/output": "Open collector, 50 mA",
                "LIGHT/output": "Low-side switch, 3 A, without a diode",
                "SPINDLE ON/output": "Open collector, 50 mA",
                "AVI 0-10V/output": "Analogue output, 0 to 10 V",
            },
        ),
        "driver": Draft(
            kind="stepper driver", title="Driver 80 V",
            pins_text="PUL+(5V)\nPUL-\nDIR+(5V)\nDIR-\nENA+\nENA-\nAC1 24-80V\nAC2\nA+\nA-\nB+\nB-",
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor 4 A", numbers={"current_a": 4},
            pins_text="red A+\ngreen A-\nyellow B+\nblue B-",
        ),
        "drives": Draft(
            kind="supply", title="Supply 48 V", pins_text="L\nN\nGND\nV+\nV+\nV-\nV-",
            numbers={"nominal_v": 48, "current_a": 15},
        ),
        "logic": Draft(
            kind="supply", title="Supply 24 V", pins_text="AC L\nAC N\nPE\n+V\n-V",
            numbers={"nominal_v": 24, "current_a": 3},
        ),
        "limit": Draft(
            kind="sensor", title="Proximity switch", pins_text="brown +\nblue -\nblack OUT",
            drive="NPN", numbers={"v_min_v": 6, "v_max_v": 36, "current_a": 0.01},
        ),
        "probe": Draft(kind="switch", title="Touch probe", pins_text="1 NC\n2 COM"),
        "inverter": Draft(
            kind="frequency inverter", title="Inverter 0.75 kW",
            pins_text="R\nT\nPE\nU\nV\nW\nFWD\nREV\nRST\nDCM\n10V\nAVI\nACM\nMA\nMB\nMC",
            numbers={"v_min_v": 200, "v_max_v": 250, "current_a": 5},
            circuits={"CONTROL/input": PULLED_UP},
        ),
        "spindle": Draft(
            kind="three-phase motor", title="Spindle", pins_text="U\nV\nW\nPE",
            numbers={"nominal_v": 220, "current_a": 3},
        ),
        "pump": Draft(
            kind="load", title="Coolant pump", pins_text="L\nN\nPE",
            numbers={"nominal_v": 230, "current_a": 0.6},
        ),
        "light": Draft(
            kind="lamp", title="Work light", pins_text="+\n-",
            numbers={"nominal_v": 24, "current_a": 0.5},
        ),
        "relays": Draft(
            kind="relay module", title="Relay board",
            pins_text="VCC\nGND\nIN1\nIN2\nNO1\nCOM1\nNC1\nNO2\nCOM2\nNC2",
            numbers={"v_min_v": 21, "v_max_v": 26, "current_a": 0.04, "contact_max_a": 10},
            circuits={"IN1/input": PULLED_UP},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="11-12\n21-22",
            numbers={"contact_max_a": 6},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor",
            pins_text="A1 A2\n1/L1 2/T1\n3/L2 4/T2\n5/L3 6/T3\n13 14",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 12},
        ),
    }  # fmt: skip


@cache
def mill_parts() -> dict[str, Part]:
    """The parts of the mill by their id."""
    return described({f"my-mill-{name}": draft for name, draft in mill_drafts().items()})


def unwired_mill() -> Machine:
    """Its inlet, devices and axes, with nothing joined."""
    build = begun("Described mill", mill_parts(), "my-mill", MILL)
    build.device("X1", "quoin-mi1", "Inlet", None)
    axes = tuple(slide_axis(axis, f"M{n}", f"B{n}") for n, axis in enumerate("XYZ", 1))
    return replace(build.machine, axes=axes)


@cache
def wired_mill() -> Machine:
    """The mill, with what its builder decides."""
    return decided(wired(unwired_mill()), DECIDED)
