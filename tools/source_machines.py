"""A laser engraver of described parts, on an inlet, whose tube has a power source of its own; with
the figures of its parts, and with those of its supplies alone.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding, slide_axis
from described_machines import wired
from drive_machines import described
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

PULLED_UP = "5 V input, pulled up, for contacts to 0 V"
FROM_BOARD = "5 V from the board, 0.3 A"
ENGRAVER = (
    "K1 board", "T3 tube", "T1 driver", "T2 driver", "M1 motor", "M2 motor", "B1 slot", "B2 slot",
    "B3 flow", "B4 lid", "Q2 relay", "P1 lamp", "G1 ps24", "G2 ps36", "S1 stop", "Q1 contactor",
)  # fmt: skip
INLET = "X1 quoin-mi1"
DRIVERS = ("T1", "T2")


def engraver_drafts() -> dict[str, Draft]:
    """The parts of the engraver."""
    limits = [f"LIMITS {axis}{end}" for axis in "XY" for end in "-+"]
    return {
        "board": Draft(
            kind="controller", title="Engraver board",
            pins_text="POWER: 24V GND\nX: PUL+ PUL- DIR+ DIR-\nY: PUL+ PUL- DIR+ DIR-\n"
            "LASER: L-ON G PWM\nLIMITS: 5V GND X- X+ Y- Y+\nWATER: WP GND\nLID: DOOR GND\n"
            "ESTOP: ESTOP GND\nOUT: 24V OUT1 OUT2 GND",
            numbers={"v_min_v": 22, "v_max_v": 26, "current_a": 0.5},
            circuits={
                "X/output": "5 V output, push-pull, 20 mA",
                "LASER L-ON/output": "Open collector, 50 mA",
                "LASER PWM/output": "5 V output, push-pull, 20 mA",
                "OUT1/output": "Low-side switch, 0.5 A, with a diode for coils",
                **{f"{name}/input": PULLED_UP for name in ("WATER", "LID", "ESTOP", *limits)},
                **{f"{name}/plus": FROM_BOARD for name in limits},
            },
        ),
        "tube": Draft(
            kind="tool power source", title="Tube supply, 60 W",
            pins_text="MAINS: L N PE\nCONTROL: TH TL WP G IN 5V\nTUBE: HV+ L-",
            numbers={"v_min_v": 200, "v_max_v": 250, "current_a": 3.5},
            circuits={
                "CONTROL/input": "5 V input, TTL levels",
                "START TH/input": "5 V input, TTL levels",
                "START TL/input": PULLED_UP, "PERMIT/input": PULLED_UP,
            },
        ),
        "driver": Draft(
            kind="stepper driver", title="Driver",
            pins_text="PUL+ PUL- DIR+ DIR- ENA+ ENA- GND VDC A+ A- B+ B-",
            numbers={"v_min_v": 20, "v_max_v": 50, "current_max_peak_a": 3.5},
            circuits={"CONTROL/input": "Isolated input, 5 V: diode and 270 ohm"},
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor", pins_text="A+ red A- green B+ yellow B- blue",
            numbers={"current_a": 2.5},
        ),
        "slot": Draft(
            kind="sensor", title="Slot sensor", pins_text="VCC GND OUT", drive="NPN",
            numbers={"v_min_v": 4.5, "v_max_v": 24, "current_a": 0.02},
        ),
        "flow": Draft(
            kind="switch", title="Water flow switch", pins_text="1 NO\n2 COM",
            numbers={"contact_max_a": 0.5},
        ),
        "lid": Draft(
            kind="switch", title="Lid switch", pins_text="11 12 21 22",
            numbers={"contact_max_a": 3},
        ),
        "relay": Draft(
            kind="solid-state relay", title="Relay of the extractor", pins_text="A1+ A2- 1 2",
            numbers={"v_min_v": 3, "v_max_v": 32, "current_a": 0.01, "contact_max_a": 10},
        ),
        "lamp": Draft(
            kind="lamp", title="Lamp", pins_text="X1 X2",
            numbers={"nominal_v": 24, "current_a": 0.02},
        ),
        "ps24": Draft(
            kind="supply", title="Supply 24 V", pins_text="L N PE -V +V",
            numbers={"nominal_v": 24, "current_a": 2.5},
        ),
        "ps36": Draft(
            kind="supply", title="Supply 36 V", pins_text="L N PE -V -V +V +V",
            numbers={"nominal_v": 36, "current_a": 9.7},
        ),
        "stop": Draft(kind="emergency stop", title="Stop", pins_text="11 12 21 22"),
        "contactor": Draft(
            kind="contactor", title="Contactor", pins_text="A1 A2 1 2 3 4 5 6 13 14 21 22",
            numbers={"nominal_v": 24, "current_a": 0.1, "contact_max_a": 9},
        ),
    }  # fmt: skip


def without_figures(draft: Draft) -> Draft:
    """A draft as one who has no data sheet types it; what a supply gives is printed at it."""
    return draft if draft.kind == "supply" else replace(draft, numbers={})


@cache
def engraver_parts(has_figures: bool = True) -> dict[str, Part]:
    """The parts of the engraver by their id."""
    drafts = engraver_drafts()
    if not has_figures:
        drafts = {name: without_figures(draft) for name, draft in drafts.items()}
    return described({f"my-engraver-{name}": draft for name, draft in drafts.items()})


def unwired_engraver(has_figures: bool = True) -> Machine:
    """Its devices and axes, with nothing joined."""
    build = Builder(Machine(name="Described engraver"))
    inlet, shipped = INLET.split()
    build.device(inlet, shipped, "Inlet", None)
    for text in ENGRAVER:
        designator, short = text.split()
        part = engraver_parts(has_figures)[f"my-engraver-{short}"]
        build.add(designator, part, f"{part.title} {designator}")
    axes = (slide_axis("X", "M1", "B1"), slide_axis("Y", "M2", "B2"))
    return replace(build.machine, axes=axes)


@cache
def wired_engraver() -> Machine:
    """The engraver, with what its builder decides."""
    known = accepted_finding(
        "stops.unnoticed:S1:T1:T2:T3", "One contactor; a second one is on order.", "2026-11-29"
    )
    machine = wired(unwired_engraver())
    devices = tuple(
        replace(device, settings={"current_peak_a": 3.5})
        if device.designator in DRIVERS
        else device
        for device in machine.devices
    )
    return replace(machine, devices=devices, accepted=(known,))


@cache
def unrated_engraver() -> Machine:
    """The engraver wired alike, of parts whose figures nobody typed."""
    machine, unrated = wired(unwired_engraver()), engraver_parts(has_figures=False)
    parts = tuple(unrated.get(part.id, part) for part in machine.parts)
    return replace(machine, parts=parts, accepted=wired_engraver().accepted)
