"""What feeds can be taken from: the outlets of supplies and batteries, and what is left of each."""

from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from vervain.electrical.feeds import (
    Source,
    consumers_of,
    feed_pins,
    suits_current,
    voltage_fit,
    zero_pin_of,
)
from vervain.electrical.series import is_tapped, stack_of
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, FeedOut
from vervain.model.machine import PinRef
from vervain.model.part import PartKind
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_inputs import FeedInput, load_a
from vervain.supply.sizing import RELIABLE


class FeedSource(Record, frozen=True, kw_only=True):
    """An outlet of a supply, converter or battery: its plus and return, what it gives, what hangs
    on it already in A, and the input that feeds it where it is a converter.
    """

    plus: PinRef
    minus: PinRef
    feed: FeedOut
    is_battery: bool
    taken_a: float
    fed_by: PinRef | None

    @property
    def left_a(self) -> float:
        """What it can still give for long with a fifth in reserve, in A."""
        return self.feed.current_a * RELIABLE - self.taken_a


@query
def feed_sources(queries: Queries) -> tuple[FeedSource, ...]:
    """The outlets of every supply, converter and battery, in the machine's order; of those in
    series, between which nothing hangs, the plus of the uppermost, and all their volts; none that
    lies above where something hangs, which would be lifted by those below.
    """
    single = {source.plus: source for source in _outlets(queries, ("supply", "battery"))}
    stacks = {plus: _stack(queries, source) for plus, source in single.items()}
    below = {pin for pins in stacks.values() for pin in pins[1:]}
    return tuple(
        as_series([single[pin] for pin in pins if pin in single])
        for plus, pins in stacks.items()
        if pins and plus not in below
    )


def _stack(queries: Queries, source: FeedSource) -> tuple[PinRef, ...]:
    """The pluses of a source and of those in series below it; none above where something hangs."""
    stack = stack_of(queries, Source(pin=source.plus, feed=source.feed))
    if any(is_tapped(queries, upper) for upper in stack[:-1]):
        return ()
    return tuple(one.pin for one in stack)


def as_series(stack: Sequence[FeedSource]) -> FeedSource:
    """Sources in series as one, from the uppermost: their volts and their resistances add up, and
    the weakest tells how much they give.
    """
    feeds = [source.feed for source in stack]
    resistance_ohm = sum(feed.resistance_ohm or 0.0 for feed in feeds) or None
    whole = replace(
        feeds[0], nominal_v=sum(feed.nominal_v for feed in feeds),
        current_a=min(feed.current_a for feed in feeds), resistance_ohm=resistance_ohm,
    )  # fmt: skip
    return replace(stack[0], minus=stack[-1].minus, feed=whole)


@query
def board_sources(queries: Queries) -> tuple[FeedSource, ...]:
    """What controllers give besides at terminals of its own, as their 3.3 V: little, for what hangs
    on them.
    """
    return tuple(_outlets(queries, ("controller",)))


def _outlets(queries: Queries, kinds: tuple[PartKind, ...]) -> Iterator[FeedSource]:
    """The outlets of devices of some kinds that power goes out by."""
    for device in queries.devices():
        part = queries.part_of(device)
        if part is None or part.kind not in kinds:
            continue
        own = next(iter(feed_pins(queries, device)), None)
        for port in part.ports:
            for pin in port.pins:
                plus = PinRef(device=device, port=port.id, pin=pin.id)
                minus = zero_pin_of(queries, plus, None)
                is_outlet = part.kind != "controller" or port.kind == "feed out"
                if isinstance(pin.electrical, FeedOut) and minus is not None and is_outlet:
                    yield FeedSource(
                        plus=plus,
                        minus=minus,
                        feed=pin.electrical,
                        is_battery=part.kind == "battery",
                        taken_a=load_a(queries, consumers_of(queries, plus)),
                        fed_by=own,
                    )


def suits(source: FeedSource, item: FeedInput) -> bool:
    """Whether what a source gives lies in the window of an input, and is its type of current."""
    window = FeedIn(
        v_min_v=item.v_min_v, v_max_v=item.v_max_v if item.is_known else None,
        current_type=item.current_type,
    )  # fmt: skip
    fits = not voltage_fit(source.feed.lowest_v, source.feed.highest_v, window)
    return fits and suits_current(source.feed, window)


def preference(
    source: FeedSource, item: FeedInput, taken_a: float, others: frozenset[str]
) -> tuple[object, ...]:
    """Sort key among the sources that suit an input, the best first: one that has the current left,
    one that does not feed the other purpose already (motors pull a rail down that logic hangs on),
    one that lies within the window to its ends, the voltage that the input is rated at; motors take
    the highest, logic the lowest; then the one with most left. `taken_a` is what was given out
    meanwhile, `others` what it is used for.
    """
    left_a = source.left_a - taken_a
    volts = source.feed.nominal_v
    rated = abs(volts - item.nominal_v) if item.nominal_v is not None else 0.0
    is_within = item.v_min_v <= source.feed.lowest_v and source.feed.highest_v <= item.v_max_v
    return (
        left_a < item.current_a,
        bool(others - {item.purpose}),
        not is_within,
        rated,
        -volts if item.purpose == "motion" else volts,
        -left_a,
    )
