"""Axes: what moves, what makes it move, and the devices in the axis's roles.

Positions and travel are in millimetres, or degrees where the axis is rotary; speeds in those a
second.
"""

from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import Name, NotNegative, Positive, Record

Teeth = Annotated[int, Meta(ge=1, le=10_000)]
Homing = Literal["as wired", "on", "off"]
Role = Literal["drive", "feedback", "home", "min_limit", "max_limit", "brake", "also"]
ROLES: tuple[Role, ...] = ("drive", "feedback", "home", "min_limit", "max_limit", "brake", "also")
ROLE_WORDS: dict[str, str] = {
    "drive": "motor",
    "feedback": "feedback",
    "home": "home",
    "min_limit": "min limit",
    "max_limit": "max limit",
    "brake": "brake",
    "also": "also here",
}
# Which kinds of part can fill a role.
ROLE_KINDS: dict[str, tuple[str, ...]] = {
    "drive": ("stepper motor", "servo", "brushed motor", "three-phase motor"),
    "feedback": ("encoder",),
    "home": ("switch", "sensor"),
    "min_limit": ("switch", "sensor"),
    "max_limit": ("switch", "sensor"),
    "brake": ("brake",),
    "also": (
        "sensor",
        "switch",
        "encoder",
        "load",
        "stepper motor",
        "brushed motor",
        "servo",
        "three-phase motor",
    ),
}


class Screw(Record, tag="screw", frozen=True, kw_only=True):
    """A screw: how far its nut goes in one turn (pitch times starts), its backlash and diameter."""

    lead_mm: Positive
    backlash_mm: NotNegative | None = None
    diameter_mm: Positive | None = None


class BallScrew(Screw, tag="ball screw", frozen=True, kw_only=True):
    """A screw whose nut runs on balls, with so little friction that it never holds by itself."""


class Belt(Record, tag="belt", frozen=True, kw_only=True):
    """A toothed belt on a pulley."""

    pitch_mm: Positive
    teeth: Teeth


class Rack(Record, tag="rack", frozen=True, kw_only=True):
    """A pinion on a rack."""

    module_mm: Positive
    teeth: Teeth


class Wheel(Record, tag="wheel", frozen=True, kw_only=True):
    """A wheel on the ground."""

    diameter_mm: Positive


class Extruder(Record, tag="extruder", frozen=True, kw_only=True):
    """A driven wheel or roller that feeds material: its diameter where it bites."""

    diameter_mm: Positive


class Gear(Record, tag="gear", frozen=True, kw_only=True):
    """A gear or belt pair that turns the axis."""

    driving_teeth: Teeth
    driven_teeth: Teeth


class Joint(Record, tag="joint", frozen=True, kw_only=True):
    """A joint that the motor turns, through the axis's gear ratio alone."""


Mechanism = Screw | BallScrew | Belt | Rack | Wheel | Extruder | Gear | Joint
ROTARY_MECHANISMS = (Gear, Joint)


class Axis(Record, frozen=True, kw_only=True):
    """An axis and the devices in its roles.

    `gear_ratio` is how often the motor turns for one turn of the screw, pulley, pinion or joint.
    `home_at` is where the home switch acts, `pulls_at` the end that the motors sit at,
    `feedback_at` whether the encoder turns with the motor or with the axis itself. `homing` is what
    the controller is set to, where that is not what the wiring says; `faces` how two motors of the
    axis stand to each other. `torque_nm` is what each of its motors gives while the axis moves,
    `moved_kg` what a linear axis carries along.
    """

    id: Annotated[str, Meta(min_length=1, max_length=8)]
    name: Name
    motion: Literal["linear", "rotary"] = "linear"
    travel: Positive | None = None
    endless: bool = False
    vertical: bool = False
    mechanism: Mechanism | None = None
    gear_ratio: Positive = 1.0
    speed_max: Positive | None = None
    acceleration_max: Positive | None = None
    torque_nm: Positive | None = None
    moved_kg: Positive | None = None
    home_at: float | None = None
    pulls_at: Literal["min", "max"] = "min"
    feedback_at: Literal["motor", "axis"] = "motor"
    homing: Homing = "as wired"
    faces: Literal["", "same way", "each other"] = ""
    drives: tuple[str, ...] = ()
    feedback: str | None = None
    home: str | None = None
    min_limit: str | None = None
    max_limit: str | None = None
    brake: str | None = None
    also: tuple[str, ...] = ()

    @property
    def members(self) -> tuple[str, ...]:
        """Designators in the axis's roles, in the order of the roles, each once."""
        roles = (self.home, self.min_limit, self.max_limit, self.brake, self.feedback)
        listed = (*self.drives, *(role for role in roles if role), *self.also)
        return tuple(dict.fromkeys(listed))

    @property
    def unit(self) -> str:
        """The unit of positions on this axis."""
        return "mm" if self.motion == "linear" else "°"
