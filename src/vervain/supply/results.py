"""The figures of the feeds as one reads them: what each supply gives to whom, and what arrives."""

from vervain.electrical.feeds import sources_of
from vervain.electrical.network import Status
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.look import Look
from vervain.supply.network_model import LinkKind
from vervain.supply.solution import Fed, feeding
from vervain.supply.states import State

# Logic, servos and encoders bear less loss than motors and lamps.
DELICATE = ("controller", "servo", "encoder", "signal converter", "radio receiver", "hand wheel")


# Figures end here: what changes less than that changes nothing for whoever reads them.
AMPS_DIGITS, VOLTS_DIGITS = 4, 3


class Arrival(Record, frozen=True, kw_only=True):
    """What a consumer takes at one pin and what is left of its supply's voltage there. `lost` is
    plus and return together, as a fraction of the supply's voltage; `delicate` are logic, servos
    and encoders.
    """

    pin: PinRef
    source: PinRef | None
    amps: float
    wanted_a: float
    volts: float | None
    source_v: float | None
    nominal_v: float
    least_v: float
    most_v: float
    status: Status
    by: str
    delicate: bool = False

    @property
    def lost(self) -> float | None:
        """The fraction of the supply's voltage that does not arrive."""
        if self.volts is None or not self.source_v:
            return None
        return (self.source_v - self.volts) / self.source_v


class Current(Record, frozen=True, kw_only=True):
    """The current in one conductor, fuse, contact or bar, whichever way it flows."""

    kind: LinkKind
    number: int
    a: PinRef
    b: PinRef
    amps: float


class SupplyLoad(Record, frozen=True, kw_only=True):
    """What a source gives in one state, of what it may, and to whom: (device, A), largest first."""

    pin: PinRef
    nominal_v: float
    rated_a: float
    amps: float
    volts: float
    shares: tuple[tuple[str, float], ...]
    drops_out: bool = False

    @property
    def fraction(self) -> float:
        """The part of its rating."""
        return self.amps / self.rated_a

    @property
    def watts(self) -> float:
        """What it gives at its terminals."""
        return self.amps * self.volts


@query
def arrivals(look: Look, state: State) -> tuple[Arrival, ...]:
    """Every consumer's pin in a state, in the order of the machine."""
    solved = feeding(look, state)
    sources = {look.net(given.giver.plus)[0]: given.giver for given in solved.given}
    rows: dict[PinRef, list[Fed]] = {}
    for fed in solved.fed:
        rows.setdefault(fed.take.plus, []).append(fed)
    found = []
    for pin, feds in rows.items():
        first = feds[0]
        giver = next(
            (g for s in sources_of(look, pin) if (g := sources.get(look.net(s.pin)[0]))), None
        )
        found.append(
            Arrival(
                pin=pin,
                source=giver.plus if giver else None,
                amps=round(sum(fed.amps for fed in feds), AMPS_DIGITS),
                wanted_a=round(sum(fed.take.amps for fed in feds), AMPS_DIGITS),
                volts=None if first.volts is None else round(first.volts, VOLTS_DIGITS),
                source_v=giver.volts if giver else None,
                nominal_v=first.take.nominal_v,
                least_v=max(fed.take.least_v for fed in feds),
                most_v=min(fed.take.most_v for fed in feds),
                status=first.status,
                by=" and ".join(dict.fromkeys(fed.take.by for fed in feds)),
                delicate=_is_delicate(look, pin.device),
            )
        )
    order = {device: number for number, device in enumerate(look.devices())}
    return tuple(sorted(found, key=lambda row: order.get(row.pin.device, 0)))


def _is_delicate(look: Look, device: str) -> bool:
    part = look.part_of(device)
    return part is not None and part.kind in DELICATE


@query
def currents_of(look: Look, owner: str, state: State) -> tuple[Current, ...]:
    """The currents in the conductors of a hookup, or inside a device."""
    return tuple(
        Current(
            kind=flow.link.kind, number=flow.link.number, a=flow.link.a, b=flow.link.b,
            amps=round(abs(flow.amps), AMPS_DIGITS),
        )
        for flow in feeding(look, state).by_owner.get(owner, ())
    )  # fmt: skip


@query
def supply_loads(look: Look, state: State) -> tuple[SupplyLoad, ...]:
    """Every source that something hangs on: supplies and batteries, then the outlets of boards."""
    shares: dict[PinRef, dict[str, float]] = {}
    for row in arrivals(look, state):
        if row.source is not None and row.amps > 0:
            of_source = shares.setdefault(row.source, {})
            of_source[row.pin.device] = of_source.get(row.pin.device, 0.0) + row.amps
    found = []
    for given in feeding(look, state).given:
        giver = given.giver
        idle = given.amps < 0.01 * giver.current_max_a and giver.plus not in shares
        if idle and not _is_supply(look, giver.plus.device):
            continue
        listed = sorted(shares.get(giver.plus, {}).items(), key=lambda item: (-item[1], item[0]))
        found.append(
            SupplyLoad(
                pin=giver.plus, nominal_v=giver.volts, rated_a=giver.current_max_a,
                amps=round(given.amps, AMPS_DIGITS), volts=round(given.volts, VOLTS_DIGITS),
                shares=tuple(listed),
                drops_out=given.drops_out,
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda row: not _is_supply(look, row.pin.device)))


def _is_supply(look: Look, device: str) -> bool:
    part = look.part_of(device)
    return part is not None and part.kind in ("supply", "battery")


@query
def hours_left(look: Look, pin: PinRef, state: State) -> float | None:
    """How long a full battery lasts in a state, in hours: capacity / current. None where it is no
    battery, its capacity is not given, or nothing is taken.
    """
    part = look.part_of(pin.device)
    load = next((row for row in supply_loads(look, state) if row.pin == pin), None)
    if part is None or part.battery is None or load is None or load.amps <= 0:
        return None
    return part.battery.capacity_ah / load.amps


def source_name(look: Look, pin: PinRef | None) -> str:
    """A source in words: the supply, or the board with its outlet's voltage."""
    if pin is None:
        return "nothing"
    if _is_supply(look, pin.device):
        return pin.device
    found = look.pin(pin)
    return f"{pin.device} {found.text if found else pin.port}"


# Over these fractions a drop is Unreliable: the stricter one up to 12 V, and for what is delicate.
DROP_MOST, DROP_MOST_LOW = 0.05, 0.03
LOW_V = 12.0


def drop_limit(arrival: Arrival) -> float:
    """The fraction of the voltage that may be lost on the way."""
    volts = arrival.source_v or arrival.nominal_v
    return DROP_MOST_LOW if volts <= LOW_V or arrival.delicate else DROP_MOST
