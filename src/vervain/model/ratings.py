"""Ratings of whole parts: motors, drivers, controllers, encoders and what counts them."""

from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import NotNegative, Positive, Record


class Counter(Record, frozen=True, kw_only=True):
    """What an encoder input can count: the highest frequency of one channel, the highest count
    rate, how far apart edges of both channels must be, how many counts it makes of one line, and
    how many bits its counter has; `signed` where half of its counts are below zero.
    """

    channel_max_hz: Positive | None = None
    count_max_hz: Positive | None = None
    edge_min_s: Positive | None = None
    decoding: Literal[1, 2, 4] = 4
    bits: Annotated[int, Meta(ge=8, le=64)] = 32
    signed: bool = False


Rated = Literal["as wired", "unipolar", "half coil", "series", "parallel"]


class Stepper(Record, frozen=True, kw_only=True):
    """Stepper motor: number of phases, rated current per phase where it is known, steps per turn.

    `rated` is the use of the windings that the current is given for; "as wired" where the maker
    gives it for the use that the motor is bought for.
    """

    phases: Literal[2, 3]
    current_a: Positive | None = None
    rated: Rated = "as wired"
    steps_per_turn: Annotated[int, Meta(ge=4)] = 200


class Driver(Record, frozen=True, kw_only=True):
    """Stepper driver: phases, the highest peak current it can be set to, how long a step pulse must
    at least be high and low, which edge of it makes the step, and how long the direction must stand
    before that edge and after it, and enable before the first step. `on_ohm` is the
    resistance of its switches in the way of one phase, `bare_w` the heat that it sheds without a
    heat sink. `standby_a` is what it takes with its motor released, `hold_ratio` the part of its
    current that it holds with. `trip_v_per_a` is what its trip reference measures for each ampere,
    peak or RMS as `trip_of` says.
    """

    phases: Literal[2, 3]
    current_max_peak_a: Positive | None = None
    step_high_min_s: Positive | None = None
    step_low_min_s: Positive | None = None
    step_edge: Literal["rising", "falling"] = "rising"
    direction_setup_s: Positive | None = None
    direction_hold_s: Positive | None = None
    enable_delay_s: Positive | None = None
    standby_a: NotNegative = 0.05
    on_ohm: Positive | None = None
    bare_w: Positive | None = None
    hold_ratio: Annotated[float, Meta(gt=0, le=1)] = 1.0
    trip_v_per_a: Positive | None = None
    trip_of: Literal["peak", "RMS"] = "peak"


class Controller(Record, frozen=True, kw_only=True):
    """Controller: the highest step rate of one axis, and how long its direction and enable stand
    before and after a step, where it has no option for them.
    """

    step_rate_max_hz: Positive
    direction_setup_s: Positive | None = None
    direction_hold_s: Positive | None = None
    enable_delay_s: Positive | None = None


class Battery(Record, frozen=True, kw_only=True):
    """Battery: what it holds from full to empty, and the voltage at which it has to be off."""

    capacity_ah: Positive
    cut_off_v: Positive


class EncoderRating(Record, frozen=True, kw_only=True):
    """Encoder: lines per turn of one channel (PPR), never counts; the highest frequency of one
    channel that its electronics follow; how far its channels may be from 90° of phase.
    """

    lines_per_turn: Annotated[int, Meta(ge=1)]
    channel_max_hz: Positive | None = None
    phase_tolerance_deg: Annotated[float, Meta(ge=0, lt=90)] = 0.0
