"""A machine as the circuit that its stops are made of: wires, contacts, fuses, coils, sources.

Potentials are followed, not currents: a pin is at plus or at minus of a source when copper, closed
contacts and whole fuses join it. What lies in series with a load is therefore dead behind it, and a
divider is not seen; levels between are the Ports stage's.
"""

from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from vervain.model.elements import BY_HAND, HELD_BY, Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import PortKind

Wire = tuple[str, int]
# Ports whose current may work a contact.
COIL_PORTS: tuple[PortKind, ...] = ("coil", "load")
# What works contacts: a coil, a channel, a stop input; or one pin of a header.
Worker = PortRef | PinRef


def worker_order(worker: Worker) -> tuple[str, str, str]:
    """By what workers are sorted."""
    return worker.device, worker.port, worker.pin if isinstance(worker, PinRef) else ""


def port_of_worker(worker: Worker) -> PortRef:
    """The port that a worker is, or is a pin of."""
    return worker.port_ref if isinstance(worker, PinRef) else worker


def is_worked_by(contact: Contact, worker: Worker) -> bool:
    """Whether a contact of a worker's device is one that it works."""
    pin = worker.pin if isinstance(worker, PinRef) else None
    return (contact.worked_by, contact.worked_pin) == (worker.port, pin)


class ContactAt(NamedTuple):
    """A contact: its two nodes, whether it is closed at rest, and what works it: a coil of its
    device, or something else. `is_start` where it is let go once the machine runs; `is_let_go`
    where it opens by itself: held down, or a start.
    """

    a: int
    b: int
    device: str
    pins: tuple[PinRef, PinRef]
    is_nc: bool
    coil: Worker | None
    worked_by: str
    is_start: bool = False
    is_let_go: bool = False

    @property
    def is_of_button(self) -> bool:
        """Whether pressing its device moves it: a button's, the remote's of a receiver, or that of
        a light curtain.
        """
        return self.coil is None or self.worked_by in HELD_BY

    @property
    def is_of_guard(self) -> bool:
        """Whether it is a door's or a hood's: shut, and so closed, while the machine works."""
        return self.worked_by == "plunger" and not self.is_nc

    @property
    def is_by_hand(self) -> bool:
        """Whether a hand closes it: a start button, or a switch that stays on."""
        return self.coil is None and self.worked_by in BY_HAND and not self.is_nc


class ContactForces(NamedTuple):
    """What works a contact, each under which of many conditions, one bit a condition: its coil, a
    welded contact of the other kind beside it, its device pressed, the radio link of that lost,
    what starts the machine down; `welded` where it stays closed whatever works it.
    """

    coil: int
    stuck: int
    pressed: int
    unlinked: int
    started: int
    welded: int


def closed_under(contact: ContactAt, forces: ContactForces, every: int) -> int:
    """Under which of the conditions `every` a contact is closed."""
    if contact.coil is not None:
        # Mirror contacts (IEC 60947-4-1, annex F): welded, the contacts of the other kind stay.
        worked = forces.coil | forces.stuck
        if contact.worked_by in HELD_BY:
            # Held while the remote is there and not pressed, or the light passes; what is closed
            # without power opens only when the remote is there to tell it.
            worked &= forces.pressed if contact.is_nc else ~forces.pressed
            worked &= ~forces.unlinked
    elif contact.is_of_guard:
        worked = ~forces.pressed
    elif contact.is_by_hand:
        # A switch stays on; a start button is let go.
        worked = forces.started if contact.is_start else every
    else:
        worked = forces.pressed
    closed = ~worked if contact.is_nc else worked
    return (closed | forces.welded) & every


class FuseAt(NamedTuple):
    """A fuse between two nodes, with its rating in A where it is set."""

    a: int
    b: int
    device: str
    rating_a: float | None


class SourceAt(NamedTuple):
    """A source: its nodes, and the feed that it needs itself; None for mains and batteries."""

    plus: int
    minus: int
    device: str
    port: str
    feed: int | None


class LoadAt(NamedTuple):
    """Something between two nodes that works when one is at plus and the other at minus of one
    source: a coil, a channel, or the feed of a device.
    """

    plus: int
    minus: int
    ref: Worker
    kind: Literal["coil", "feed"]
    polarity_free: bool


class CoilTimes(NamedTuple):
    """How long the slowest contact of a coil takes to move once the coil has power, and once that
    is gone, in s (operate and release time, IEC 61810-1).
    """

    operate_s: float
    release_s: float


class MonitorAt(NamedTuple):
    """The logic of a safety relay, which works contacts as a coil does: its stop input, the inputs
    of the channels, that of its start button and its feed as places in the circuit; None for one
    that starts by itself, or needs no feed.
    """

    ref: PortRef
    channels: tuple[int, ...]
    start: int | None
    feed: int | None


class InputAt(NamedTuple):
    """An input of a controller: the node that it reads, the one against which, and what an open
    line reads as.
    """

    node: int
    against: int | None
    pin: PinRef
    open_reads: Literal["high", "low", "open"]
    is_stop: bool

    @property
    def is_closed_by_zero(self) -> bool:
        """Whether it is a stop input that a contact to 0 V closes: pulled up, its level goes away
        then.
        """
        return self.is_stop and self.open_reads == "high"


def read_under(
    entry: InputAt, here: tuple[int, int], against: tuple[int, int], every: int
) -> tuple[int, int]:
    """Under which of the conditions `every` an input reads high, and under which low, from those
    under which its node, and the one against which it reads, are high and low; of a stop input,
    under which it is closed, and open.
    """
    high, low = here
    if entry.against is not None:
        high &= against[1]
        return high, every & ~high
    is_open = every & ~(high | low)
    if entry.open_reads == "high":
        high |= is_open
    elif entry.open_reads == "low":
        low |= is_open
    if entry.is_closed_by_zero:
        return low, high
    return high, low


class OutputAt(NamedTuple):
    """A switched output that joins its node to a rail while it is on."""

    node: int
    rail: int
    ref: PortRef


@dataclass
class Circuit:
    """The whole; nodes are numbers, `node_of` says which pin is which."""

    node_of: dict[PinRef, int] = field(default_factory=dict)
    wires: dict[Wire, tuple[int, int]] = field(default_factory=dict)
    joints: list[tuple[int, int]] = field(default_factory=list)
    jumpers: list[tuple[int, int, str]] = field(default_factory=list)
    contacts: list[ContactAt] = field(default_factory=list)
    fuses: list[FuseAt] = field(default_factory=list)
    diodes: list[tuple[int, int]] = field(default_factory=list)
    sources: list[SourceAt] = field(default_factory=list)
    loads: list[LoadAt] = field(default_factory=list)
    inputs: list[InputAt] = field(default_factory=list)
    outputs: list[OutputAt] = field(default_factory=list)
    monitors: list[MonitorAt] = field(default_factory=list)
    # How long the contacts of each coil take to follow it, in s.
    times: dict[Worker, CoilTimes] = field(default_factory=dict)
    # Devices with a stop button, and doors, which open what is in their line.
    stops: tuple[str, ...] = ()
    guards: tuple[str, ...] = ()
    # The loads that must be dead after each stop.
    must_go: tuple[int, ...] = ()
    earth: int | None = None
    # The source that the stop circuits are fed by; -1 where there is none.
    control: int = -1

    @property
    def demanded(self) -> tuple[str, ...]:
        """What can be asked to stop the machine: stops pressed, doors opened."""
        return (*self.stops, *self.guards)
