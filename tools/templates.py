"""The templates: axes with their parts, joined to nothing yet."""

from msgspec.structs import replace

from builder import Builder
from vervain.machine.axis import Axis, Belt, Screw
from vervain.machine.machine import Machine


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
        Axis(id="Z", name="spindle", travel=120, vertical=True, mechanism=Screw(lead_mm=5),
             speed_max=30, home_at=120, pulls_at="max", drives=("M4",), home="B5",
             max_limit="B5"),
    )  # fmt: skip
    return replace(build.machine, axes=axes)


def template_files() -> dict[str, Machine]:
    """Every template by its file name."""
    return {"three-axis-router.vervain": three_axis_router()}
