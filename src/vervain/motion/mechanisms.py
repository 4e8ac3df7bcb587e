"""How far an axis goes in one turn of its screw, pulley, pinion, wheel or joint."""

import math
from typing import NamedTuple

from vervain.model.axis import (
    Axis,
    BallScrew,
    Belt,
    Extruder,
    Gear,
    Joint,
    Mechanism,
    Rack,
    Screw,
    Wheel,
)


class MechanismKind(NamedTuple):
    """A kind of mechanism: its word, one to start with, and its numbers as (field, words, unit)."""

    word: str
    example: Mechanism
    numbers: tuple[tuple[str, str, str], ...]


MECHANISMS: tuple[MechanismKind, ...] = (
    MechanismKind(
        "screw",
        Screw(lead_mm=5.0),
        (
            ("lead_mm", "Lead, a turn", "mm"),
            ("diameter_mm", "Diameter", "mm"),
            ("backlash_mm", "Backlash", "mm"),
        ),
    ),
    MechanismKind(
        "ball screw",
        BallScrew(lead_mm=5.0),
        (("lead_mm", "Lead, a turn", "mm"), ("backlash_mm", "Backlash", "mm")),
    ),
    MechanismKind(
        "belt",
        Belt(pitch_mm=2.0, teeth=20),
        (("pitch_mm", "Belt pitch", "mm"), ("teeth", "Pulley teeth", "")),
    ),
    MechanismKind(
        "rack",
        Rack(module_mm=1.0, teeth=20),
        (("module_mm", "Module", "mm"), ("teeth", "Pinion teeth", "")),
    ),
    MechanismKind(
        "gear",
        Gear(driving_teeth=20, driven_teeth=60),
        (("driving_teeth", "Driving teeth", ""), ("driven_teeth", "Driven teeth", "")),
    ),
    MechanismKind("joint", Joint(), ()),
    MechanismKind(
        "extruder", Extruder(diameter_mm=11.0), (("diameter_mm", "Bites at diameter", "mm"),)
    ),
    MechanismKind("wheel", Wheel(diameter_mm=80.0), (("diameter_mm", "Wheel diameter", "mm"),)),
)


def mechanism_kind(mechanism: Mechanism) -> MechanismKind:
    """The kind that a mechanism is of."""
    return next(kind for kind in MECHANISMS if type(kind.example) is type(mechanism))


def travel_per_turn(mechanism: Mechanism) -> float:
    """Millimetres (degrees for gear and joint) of one turn, the gear ratio left out.

    Screw: its lead. Belt: pitch times teeth. Rack: pi times module times teeth (pitch circle).
    Wheel and extruder: pi times diameter. Gear: 360° times driving over driven teeth. Joint: 360°.
    """
    match mechanism:
        case Screw(lead_mm=lead_mm):
            return lead_mm
        case Belt(pitch_mm=pitch_mm, teeth=teeth):
            return pitch_mm * teeth
        case Rack(module_mm=module_mm, teeth=teeth):
            return math.pi * module_mm * teeth
        case Wheel(diameter_mm=diameter_mm) | Extruder(diameter_mm=diameter_mm):
            return math.pi * diameter_mm
        case Gear(driving_teeth=driving_teeth, driven_teeth=driven_teeth):
            return 360.0 * driving_teeth / driven_teeth
        case Joint():
            return 360.0


def holding_lead_mm(lead_mm: float, diameter_mm: float, friction: float) -> float:
    """The lead below which a trapezoidal screw does not turn back under its load, in mm.

    The nut slides back where the lead angle is above the angle of friction: lead / (pi d2) against
    friction / cos 15°, for the half angle of 15° of ISO 2901; d2 = d - P/2 (ISO 2904), the whole
    lead taken as the pitch P, which for several starts is on the safe side.
    """
    mean_mm = max(0.0, diameter_mm - lead_mm / 2)
    return math.pi * mean_mm * friction / math.cos(math.radians(15))


def travel_per_motor_turn(axis: Axis) -> float | None:
    """Millimetres or degrees of one turn of the motor; None where the mechanism is not given."""
    if axis.mechanism is None:
        return None
    return travel_per_turn(axis.mechanism) / axis.gear_ratio
