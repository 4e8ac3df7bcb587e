"""What a pin gives or takes: power, or a signal.

Quantities are SI with the unit at the end of the name. Currents are RMS or direct unless the name
says peak.
"""

from typing import Annotated, Literal

from msgspec import Meta

from vervain.machine.record import NotNegative, Positive, Record

Reading = Literal["NPN", "PNP", "either"]


class FeedIn(Record, tag="feed in", frozen=True, kw_only=True):
    """A pin that takes power: the window it works in and the most it takes in steady use."""

    v_min_v: NotNegative
    v_max_v: Positive
    current_a: NotNegative | None = None
    polarity_free: bool = False


class FeedOut(Record, tag="feed out", frozen=True, kw_only=True):
    """A pin that gives power: nominal voltage, its tolerance as a fraction, continuous rating."""

    nominal_v: Positive
    current_a: Positive
    tolerance: Annotated[float, Meta(ge=0, lt=0.5)] = 0.02


class LogicOutput(Record, tag="logic output", frozen=True, kw_only=True):
    """A signal output. Without levels of its own, its high level is its supply less `drop_v`.

    `reference` is the zero pin that its levels are measured from, [port, pin]; where it is not
    given, the zero pin of the same port.
    """

    drive: Literal["push-pull", "NPN", "PNP"]
    high_min_v: NotNegative | None = None
    high_max_v: NotNegative | None = None
    low_max_v: NotNegative = 0.4
    drop_v: NotNegative = 0.0
    current_a: Positive | None = None
    reference: tuple[str, str] | None = None


class LogicInput(Record, tag="logic input", frozen=True, kw_only=True):
    """A signal input: V_IH, V_IL, the most it survives, and whether NPN or PNP outputs drive it.

    `reads_option` names the part's option (a jumper) that decides between NPN and PNP;
    `reference` is as for a `LogicOutput`.
    """

    high_min_v: NotNegative
    low_max_v: NotNegative
    max_v: Positive
    reads: Reading = "either"
    reads_option: str | None = None
    reference: tuple[str, str] | None = None


Electrical = FeedIn | FeedOut | LogicOutput | LogicInput
