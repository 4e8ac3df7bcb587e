"""What pressing a stop does, and what becomes of a fault, as values."""

from typing import Literal

from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.stops.faults import Fault
from vervain.stops.simulation import Level

# "at once": something is otherwise while the machine runs. "at the next stop": pressing shows it,
# and the machine stops all the same. "never": nothing shows it, or only that it does not stop.
Noticed = Literal["at once", "at the next stop", "never"]


class InputSeen(Record, frozen=True, kw_only=True):
    """What an input reads."""

    pin: PinRef
    level: Level


class Demand(Record, frozen=True, kw_only=True):
    """What pressing one stop does: what stays with power although it must not, the inputs that see
    it, whether power comes back on releasing it, whether a controller's stop input reads it, and
    whether any input of a controller sees it. `racing` are devices that are on or off by which
    relay is quicker, when the stop is pressed or released; `overridden` those that a start button
    switches on while the stop is pressed; `stays_at_rest` what has power then while programs hold
    nothing, by the relays `dropped`. `takes_s` is how long the relays take until all is done.
    """

    stop: str
    stays: tuple[str, ...]
    inputs: tuple[InputSeen, ...]
    restarts: bool = False
    does_nothing: bool = False
    is_read: bool = False
    is_seen: bool = False
    racing: tuple[str, ...] = ()
    overridden: tuple[str, ...] = ()
    stays_at_rest: tuple[str, ...] = ()
    dropped: tuple[str, ...] = ()
    takes_s: float = 0.0


class Verdict(Record, frozen=True, kw_only=True):
    """What becomes of one fault. `stays` are devices that a stop does not switch off any more, by
    the stop that is pressed; `restarting` the stops after which, released, the machine starts
    although it would not without the fault; `dead` what has no power while the fault is there;
    `changed` the inputs that read otherwise then.
    """

    fault: Fault
    noticed: Noticed
    stays: tuple[tuple[str, tuple[str, ...]], ...] = ()
    restarting: tuple[str, ...] = ()
    dead: tuple[str, ...] = ()
    changed: tuple[InputSeen, ...] = ()
    fuses: tuple[str, ...] = ()

    @property
    def is_dangerous(self) -> bool:
        """Whether a stop does not stop everything with it, or not for good."""
        return bool(self.stays or self.restarting)

    @property
    def rank(self) -> tuple[bool, int]:
        """Sort key: unnoticed and dangerous first."""
        return not self.is_dangerous, ("never", "at the next stop", "at once").index(self.noticed)
