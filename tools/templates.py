"""The templates: axes with their parts, joined to nothing yet."""

from collections.abc import Callable

from msgspec.structs import replace

import arm
import printer
from builder import Builder
from vervain.model.axis import Axis, Belt, Screw
from vervain.model.machine import Machine


def three_axis_router() -> Machine:
    """X on a belt, Y on two belts, Z on a screw, with everything that a router needs."""
    build = Builder(Machine(name="Three-axis router"))
    for designator, name in (
        ("M1", "X motor"), ("M2", "Y left motor"), ("M3", "Y right motor"), ("M4", "Z motor"),
    ):  # fmt: skip
        build.device(designator, "fell-s60", name, None)
    for number, name in enumerate(("X home", "X max limit", "Y home", "Y max limit", "Z home"), 1):
        build.device(f"B{number}", "osier-rl2", name, None)
    for number in range(1, 5):
        build.device(f"T{number}", "fell-d72", f"Driver {number}", None)
    build.device("K1", "tarn-mc5", "Controller", None)
    build.device("S1", "larkmoor-ds2", "Emergency stop", None)
    build.device("Q1", "fell-c20", "Motion relay", None)
    build.device("G1", "fell-ps48", "48 V supply", None)
    build.device("G2", "fell-ps24", "24 V supply", None)
    build.device("F1", "quoin-fh1", "Fuse, drives", None, rating_a=15.0)
    belt = Belt(pitch_mm=3, teeth=15)
    axes = (
        Axis(id="X", name="carriage", travel=600, mechanism=belt, speed_max=150, drives=("M1",),
             home="B1", min_limit="B1", max_limit="B2"),
        Axis(id="Y", name="gantry", travel=800, mechanism=belt, speed_max=150,
             drives=("M2", "M3"), home="B3", min_limit="B3", max_limit="B4"),
        Axis(id="Z", name="spindle", travel=120, vertical=True,
             mechanism=Screw(lead_mm=4, diameter_mm=16), speed_max=30, home_at=120,
             pulls_at="max", drives=("M4",), home="B5", max_limit="B5"),
    )  # fmt: skip
    return replace(build.machine, axes=axes)


WIRING_KINDS = ("connector", "terminal strip", "jumper")


def loosened(machine: Machine, name: str, keeps: Callable[[str], bool]) -> Machine:
    """The axes and devices of a finished machine that `keeps` keeps, joined to nothing."""
    parts = {part.id: part for part in machine.parts}
    axes = tuple(axis for axis in machine.axes if all(map(keeps, axis.members)))
    devices = tuple(
        replace(device, place=None, settings={}, note="")
        for device in machine.devices
        if keeps(device.designator) and parts[device.part].kind not in WIRING_KINDS
    )
    used = {device.part for device in devices}
    return Machine(
        name=name,
        axes=axes,
        devices=devices,
        parts=tuple(part for part in machine.parts if part.id in used),
    )


ROVER = frozenset({"M6", "M7", "M8", "B11", "K2", "K3", "T6", "G1", "G3", "F2", "F4", "S1"})
NOT_ARM = frozenset({"M7", "M8", "M9", "B11", "K2", "K3", "T6", "G3", "F2"})


def template_files() -> dict[str, Machine]:
    """Every template by its file name."""
    arm_planned = arm.as_planned()
    return {
        "three-axis-router.vervain": three_axis_router(),
        "printer.vervain": loosened(printer.as_planned(), "Printer", lambda name: True),
        "five-joint-arm.vervain": loosened(
            arm_planned, "Five-joint arm", lambda name: name not in NOT_ARM
        ),
        "rover.vervain": loosened(arm_planned, "Rover", lambda name: name in ROVER),
    }
