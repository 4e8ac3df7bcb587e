"""The figures of the feeds as one reads them: what each supply gives to whom, and what arrives."""

from vervain.electrical.feeds import (
    Source,
    sources_of,
    sources_through_outputs,
    zero_pin_of,
)
from vervain.electrical.network import Status
from vervain.electrical.series import stack_of
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.model.part import PartKind
from vervain.ports.switched_loads import LOADS
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.network_model import LinkKind
from vervain.supply.solution import LoadResult, solved_feeds
from vervain.supply.states import State

# Logic, servos and encoders bear less loss than motors and lamps.
DELICATE: tuple[PartKind, ...] = (
    "controller", "servo", "encoder", "signal converter", "radio receiver", "hand wheel",
)  # fmt: skip


# Figures end here: what changes less than that changes nothing for whoever reads them.
AMPS_DIGITS, VOLTS_DIGITS = 4, 3


class DeliveredPower(Record, frozen=True, kw_only=True):
    """What a consumer takes at one pin and what is left of its supply's voltage there. `lost` is
    plus and return together, as a fraction of the supply's voltage; `voltage_sensitive` are
    logic, servos and encoders, plain loads whatever only works by its power.
    """

    pin: PinRef
    source: PinRef | None
    current_a: float
    wanted_a: float
    voltage_v: float | None
    source_v: float | None
    nominal_v: float
    least_v: float
    most_v: float
    status: Status
    by: str
    voltage_sensitive: bool = False
    is_plain_load: bool = False

    @property
    def lost(self) -> float | None:
        """The fraction of the supply's voltage that does not arrive."""
        if self.voltage_v is None or not self.source_v:
            return None
        return (self.source_v - self.voltage_v) / self.source_v


class Current(Record, frozen=True, kw_only=True):
    """The current in one conductor, fuse, contact or bar, whichever way it flows."""

    kind: LinkKind
    number: int
    a: PinRef
    b: PinRef
    current_a: float


class SupplyLoad(Record, frozen=True, kw_only=True):
    """What a source gives in one state, of what it may, and to whom: (device, A), largest first."""

    pin: PinRef
    nominal_v: float
    rated_a: float
    current_a: float
    voltage_v: float
    shares: tuple[tuple[str, float], ...]
    drops_out: bool = False

    @property
    def fraction(self) -> float:
        """The part of its rating."""
        return self.current_a / self.rated_a

    @property
    def watts(self) -> float:
        """What it gives at its terminals."""
        return self.current_a * self.voltage_v


@query
def delivered_power(queries: Queries, state: State) -> tuple[DeliveredPower, ...]:
    """Every consumer's pin in a state, in the order of the machine."""
    solved = solved_feeds(queries, state)
    sources = {
        queries.net(given.source_model.plus)[0]: given.source_model for given in solved.given
    }
    rows: dict[PinRef, list[LoadResult]] = {}
    for fed in solved.fed:
        rows.setdefault(fed.demand.plus, []).append(fed)
    found = []
    for pin, feds in rows.items():
        first = feds[0]
        given_by = sources_of(queries, pin) or sources_through_outputs(queries, pin)
        source, source_model = next(
            ((s, given) for s in given_by if (given := sources.get(queries.net(s.pin)[0]))),
            (None, None),
        )
        found.append(
            DeliveredPower(
                pin=pin,
                source=source_model.plus if source_model else None,
                current_a=round(sum(fed.current_a for fed in feds), AMPS_DIGITS),
                wanted_a=round(sum(fed.demand.current_a for fed in feds), AMPS_DIGITS),
                voltage_v=None if first.voltage_v is None else round(first.voltage_v, VOLTS_DIGITS),
                source_v=_given_v(queries, source, pin) if source is not None else None,
                nominal_v=first.demand.nominal_v,
                least_v=max(fed.demand.least_v for fed in feds),
                most_v=min(fed.demand.most_v for fed in feds),
                status=first.status,
                by=" and ".join(dict.fromkeys(fed.demand.by for fed in feds)),
                voltage_sensitive=_is_of(queries, pin.device, DELICATE),
                is_plain_load=_is_of(queries, pin.device, LOADS),
            )
        )
    order = {device: number for number, device in enumerate(queries.devices())}
    return tuple(sorted(found, key=lambda row: order.get(row.pin.device, 0)))


def _given_v(queries: Queries, source: Source, pin: PinRef) -> float:
    """What a source gives a consumer, in V: its own, and that of those in series below it."""
    stack = stack_of(queries, source, zero_pin_of(queries, pin, None))
    return sum(one.feed.nominal_v for one in stack)


def _is_of(queries: Queries, device: str, kinds: tuple[PartKind, ...]) -> bool:
    part = queries.part_of(device)
    return part is not None and part.kind in kinds


@query
def currents_of(queries: Queries, owner: str, state: State) -> tuple[Current, ...]:
    """The currents in the conductors of a hookup, or inside a device."""
    return tuple(
        Current(
            kind=flow.link.kind, number=flow.link.number, a=flow.link.a, b=flow.link.b,
            current_a=round(abs(flow.current_a), AMPS_DIGITS),
        )
        for flow in solved_feeds(queries, state).by_owner.get(owner, ())
    )  # fmt: skip


@query
def supply_loads(queries: Queries, state: State) -> tuple[SupplyLoad, ...]:
    """Every source that something hangs on: supplies and batteries, then the outlets of boards."""
    shares: dict[PinRef, dict[str, float]] = {}
    for row in delivered_power(queries, state):
        if row.source is not None and row.current_a > 0:
            of_source = shares.setdefault(row.source, {})
            of_source[row.pin.device] = of_source.get(row.pin.device, 0.0) + row.current_a
    found = []
    for given in solved_feeds(queries, state).given:
        source_model = given.source_model
        idle = (
            given.current_a < 0.01 * source_model.current_max_a and source_model.plus not in shares
        )
        if idle and not _is_supply(queries, source_model.plus.device):
            continue
        listed = sorted(
            shares.get(source_model.plus, {}).items(), key=lambda item: (-item[1], item[0])
        )
        found.append(
            SupplyLoad(
                pin=source_model.plus, nominal_v=source_model.voltage_v,
                rated_a=source_model.current_max_a,
                current_a=round(given.current_a, AMPS_DIGITS),
                voltage_v=round(given.voltage_v, VOLTS_DIGITS),
                shares=tuple(listed),
                drops_out=given.drops_out,
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda row: not _is_supply(queries, row.pin.device)))


def _is_supply(queries: Queries, device: str) -> bool:
    part = queries.part_of(device)
    return part is not None and part.kind in ("supply", "battery")


@query
def hours_left(queries: Queries, pin: PinRef, state: State) -> float | None:
    """How long a full battery lasts in a state, in hours: capacity / current. None where it is no
    battery, its capacity is not given, or nothing is taken.
    """
    part = queries.part_of(pin.device)
    load = next((row for row in supply_loads(queries, state) if row.pin == pin), None)
    if part is None or part.battery is None or load is None or load.current_a <= 0:
        return None
    return part.battery.capacity_ah / load.current_a


def source_name(queries: Queries, pin: PinRef | None) -> str:
    """A source in words: the supply, or the board with its outlet's voltage."""
    if pin is None:
        return "nothing"
    if _is_supply(queries, pin.device):
        return pin.device
    found = queries.pin(pin)
    return f"{pin.device} {found.text if found else pin.port}"


# Over these fractions a drop is Unreliable: the stricter one up to 12 V, and for what is delicate;
# the other one for a plain load at 12 V as well, for a battery itself gives and takes more, and for
# what is made to work from so much of its voltage on.
DROP_MOST, DROP_MOST_LOW = 0.05, 0.03
LOW_V = 12.0
WITH_RESERVE = 0.8


def drop_limit(arrival: DeliveredPower) -> float:
    """The fraction of the voltage that may be lost on the way."""
    voltage_v = arrival.source_v or arrival.nominal_v
    has_reserve = 0.0 < arrival.least_v <= WITH_RESERVE * voltage_v
    is_low = voltage_v <= LOW_V or arrival.voltage_sensitive
    return DROP_MOST_LOW if is_low and not (arrival.is_plain_load or has_reserve) else DROP_MOST
