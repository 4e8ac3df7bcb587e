"""What was measured at a device's leads, kept in the machine file as evidence."""

from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import Name, NotNegative, Positive, Record

BODY = "body"
# All leads of a device twisted together: one reading against the body is enough.
ALL_LEADS = "all leads"


class Meter(Record, frozen=True, kw_only=True):
    """A meter: resistance of its leads, its error as fraction and in ohms, when it beeps, what
    it shows as open (IEC 60204-1, 18.3: insulation has at least 1 MΩ); and how warm the motor is.
    """

    leads_ohm: NotNegative = 0.2
    error_fraction: NotNegative = 0.01
    error_ohm: NotNegative = 0.05
    beep_below_ohm: Positive = 50.0
    open_above_ohm: Positive = 1_000_000.0
    motor_temperature_c: Annotated[float, Meta(ge=-60, le=300)] = 20.0


class Trial(Record, frozen=True, kw_only=True):
    """What a motor did with its leads in an order on A+ A- B+ B- or U V W; `day` is ISO 8601."""

    order: Annotated[tuple[str, ...], Meta(min_length=3, max_length=4)]
    saw: Literal["runs", "wrong way", "does not run", "turns freely", "holds still"]
    day: str = ""


class Reading(Record, frozen=True, kw_only=True):
    """One reading between two leads, or a lead and the body; `day` is ISO 8601."""

    a: Name
    b: Name
    saw: Literal["ohms", "open", "beep"]
    resistance_ohm: NotNegative | None = None
    day: str = ""


class SeriesTest(Record, frozen=True, kw_only=True):
    """Two windings joined in series, the shaft turned steadily, and the AC volts over both.

    Each winding is written (free end, joined end). `saw` is against one winding alone: "double",
    "nothing", or "between" (about 1.4 times).
    """

    first: tuple[Name, Name]
    second: tuple[Name, Name]
    saw: Literal["double", "nothing", "between"]
    day: str = ""
