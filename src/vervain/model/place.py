"""Where devices sit, the stretches of route between, and what is allowed for beside the route."""

from typing import Annotated

from msgspec import Meta

from vervain.model.base import (
    Metres,
    Name,
    Positive,
    PositiveMetres,
    PositiveMillimetres,
    Record,
)


class Place(Record, frozen=True, kw_only=True):
    """Where on the machine a device sits. `sheds_w` is the heat that a closed box gives off before
    it is too hot inside.

    Runs pass the wall of a `closed` box through entries. `inside_m` is how long a wire between two
    devices of this place is; `strain_relief` says that cables are held here.
    """

    id: Name
    name: Name
    sheds_w: Positive | None = None
    closed: bool = False
    inside_m: PositiveMetres | None = None
    strain_relief: bool = False


class Chain(Record, frozen=True, kw_only=True):
    """A drag chain: its inner width and height, and the radius that it bends at."""

    width_mm: PositiveMillimetres
    height_mm: PositiveMillimetres
    bend_radius_mm: PositiveMillimetres


class Run(Record, frozen=True, kw_only=True):
    """A stretch of route between two places. A moving one may lie in a drag chain, or be coiled;
    `axis` is what it moves with, `entry` what it passes a box's wall through.
    """

    id: Name
    a: Name
    b: Name
    length_m: Metres
    moving: bool = False
    coiled: bool = False
    chain: Chain | None = None
    axis: str | None = None
    entry: str = ""


class Allowances(Record, frozen=True, kw_only=True):
    """What a cable gets beside its route: a service loop at each end (in a closed box, elsewhere),
    a part of each moving run as slack, what termination takes at each end, the step that lengths
    are rounded up to, and the part of all lengths that is bought over.
    """

    box_loop_m: Metres = 0.3
    loop_m: Metres = 0.2
    slack_ratio: Annotated[float, Meta(ge=0, le=1)] = 0.05
    end_m: Metres = 0.05
    step_m: PositiveMetres = 0.1
    spare_ratio: Annotated[float, Meta(ge=0, le=1)] = 0.1
