"""What a pin gives or takes: power, or a signal.

Quantities are SI with the unit at the end of the name. Currents are RMS or direct unless the name
says peak.
"""

import math
from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import NotNegative, Positive, Record

# From here on volts are those of the mains, of which the lowest is 100 V; spindles and heaters of
# direct current are made for up to 80 V.
MAINS_V = 100.0
Reading = Literal["NPN", "PNP", "either"]
CurrentType = Literal["DC", "AC", "either"]


class FeedIn(Record, tag="feed in", frozen=True, kw_only=True):
    """A pin that takes power: the window it works in, with no `v_max_v` where it is not known; the
    most it takes in steady use at `nominal_v` (the middle of the window where it is not given), and
    for an instant when it is switched on; `capacitance_f` is what it has to charge. `inductive` is
    a coil; `flyback` says that its way for the current after switching off is built in.
    `current_type` is what it works with, direct or alternating current.
    """

    v_min_v: NotNegative = 0.0
    v_max_v: Positive | None = None
    current_a: NotNegative | None = None
    nominal_v: Positive | None = None
    inrush_a: Positive | None = None
    capacitance_f: Positive | None = None
    polarity_free: bool = False
    inductive: bool = False
    flyback: bool = False
    current_type: CurrentType = "DC"

    @property
    def most_v(self) -> float:
        """The most that it bears, in V; without end where it is not known."""
        return math.inf if self.v_max_v is None else self.v_max_v

    @property
    def middle_v(self) -> float | None:
        """The middle of its window, in V; None where that is not known."""
        return None if self.v_max_v is None else (self.v_min_v + self.v_max_v) / 2


class FeedOut(Record, tag="feed out", frozen=True, kw_only=True):
    """A pin that gives power: nominal voltage, its tolerance as a fraction, continuous rating, the
    resistance inside, and for how long it gives its rating after its mains went (hold-up time).
    Alternating volts and amperes are RMS.
    """

    nominal_v: Positive
    current_a: Positive
    resistance_ohm: Positive | None = None
    tolerance: Annotated[float, Meta(ge=0, lt=0.5)] = 0.02
    hold_up_s: Positive | None = None
    current_type: Literal["DC", "AC"] = "DC"

    @property
    def highest_v(self) -> float:
        """The most that it gives, in V."""
        return self.nominal_v * (1 + self.tolerance)

    @property
    def lowest_v(self) -> float:
        """The least that it gives, in V."""
        return self.nominal_v * (1 - self.tolerance)


class LogicOutput(Record, tag="logic output", frozen=True, kw_only=True):
    """A signal output. Without levels of its own, its high level is its supply less `drop_v`.

    `reference` is the zero pin that its levels are measured from, [port, pin]; where it is not
    given, the zero pin of the same port. One that drives a "current" (4 to 20 mA) puts it through
    the input, and loses at least `drop_v` itself. `current_a` is what it carries for long,
    `inrush_a` for an instant, `leak_a` what still flows when it is off. `at_start` is what it does
    until the controller's program runs.
    """

    drive: Literal["push-pull", "NPN", "PNP", "current"]
    high_min_v: NotNegative | None = None
    high_max_v: NotNegative | None = None
    low_max_v: NotNegative = 0.4
    drop_v: NotNegative = 0.0
    low_min_v: float = 0.0
    current_a: Positive | None = None
    inrush_a: Positive | None = None
    leak_a: NotNegative = 0.0
    flyback: bool = False
    at_start: Literal["off", "floats", "on"] | None = None
    reference: tuple[str, str] | None = None


class Opto(Record, frozen=True, kw_only=True):
    """The light-emitting diode of an isolated input with the resistor in front of it.

    It is on for certain from `current_min_a`, and survives `current_max_a`.
    """

    forward_min_v: Positive = 1.0
    forward_max_v: Positive = 1.5
    resistance_ohm: NotNegative
    current_min_a: Positive
    current_max_a: Positive


class LogicInput(Record, tag="logic input", frozen=True, kw_only=True):
    """A signal input: V_IH, V_IL, the most it survives, and whether NPN or PNP outputs drive it.

    `reads_option` names the part's option (a jumper) that decides between NPN and PNP;
    `reference` is as for a `LogicOutput`. `pull_up_ohm` goes to `pull_up_v` on the board;
    `current_a` is what the input itself takes; `off_max_v` is the most it takes while its own
    supply is off; `termination_ohm` joins it to its complement. `active` is the level at which an
    enable input is on. `shunt_ohm` makes it an input for a current, which it reads as the voltage
    across that resistor.
    """

    high_min_v: NotNegative
    low_max_v: NotNegative
    max_v: Positive
    reads: Reading = "either"
    reads_option: str | None = None
    min_v: float = -0.5
    off_max_v: NotNegative | None = None
    current_a: NotNegative = 0.0
    pull_up_ohm: Positive | None = None
    pull_up_v: Positive | None = None
    termination_ohm: Positive | None = None
    shunt_ohm: Positive | None = None
    opto: Opto | None = None
    isolated: bool = False
    active: Literal["high", "low"] | None = None
    reference: tuple[str, str] | None = None


Electrical = FeedIn | FeedOut | LogicOutput | LogicInput
