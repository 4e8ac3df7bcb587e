"""Sources in series: where the minus of one lies on the plus of another, their volts add up
(Kirchhoff's voltage law).
"""

from collections.abc import Iterator

from vervain.electrical.feeds import Source, returns_of, zero_pin_of
from vervain.model.electrical import FeedOut
from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries

# More cells than this in a string are no machine's.
MOST_STACKED = 24


def stack_of(queries: Queries, top: Source, back: PinRef | None = None) -> tuple[Source, ...]:
    """A source and those below it, down to the one whose minus is a return pin, or on which no
    further one lies.
    """
    goal = set(queries.rail(back)) if back is not None else set()
    found = [top]
    for _ in range(MOST_STACKED):
        returns = returns_of(queries, found[-1].pin)
        if not returns or returns[0] in goal:
            break
        # By copper only: a contact that closes to plus makes a short, and no stack.
        seen = {source.pin for source in found}
        below = [source for source in _giving(queries, returns[0]) if source.pin not in seen]
        if len(below) != 1:
            break
        found.append(below[0])
    return tuple(found)


def range_against(queries: Queries, source: Source, back: PinRef | None) -> tuple[float, float]:
    """The lowest and highest voltage of a source against a return pin: its own, and that of the
    sources below it where its minus lies on the plus of another.
    """
    feeds = [one.feed for one in stack_of(queries, source, back)]
    return sum(feed.lowest_v for feed in feeds), sum(feed.highest_v for feed in feeds)


def return_of_string(queries: Queries, top: Source) -> PinRef | None:
    """Where the current of a source comes back: at its own minus, or at that of the lowest below
    it, where nothing hangs between.
    """
    stack = stack_of(queries, top)
    is_one = not any(is_tapped(queries, upper) for upper in stack[:-1])
    return zero_pin_of(queries, stack[-1 if is_one else 0].pin, None)


def lies_below(queries: Queries, source: Source) -> bool:
    """Whether a source carries another in series, with nothing between: what protects the whole
    string protects it.
    """
    above = _next_above(queries, source)
    return above is not None and not is_tapped(queries, above)


def links_of(queries: Queries, top: Source) -> tuple[PinRef, ...]:
    """The pluses by which the sources below one are joined to those above them."""
    return tuple(source.pin for source in stack_of(queries, top)[1:])


def nominal_in_series_v(queries: Queries, top: Source) -> float:
    """What a source gives with those below it, in V."""
    return sum(source.feed.nominal_v for source in stack_of(queries, top))


def top_of(queries: Queries, source: Source) -> Source:
    """The uppermost of the sources that lie on one another, and this one among them."""
    seen = {source.pin}
    for _ in range(MOST_STACKED):
        above = _next_above(queries, source)
        if above is None or above.pin in seen:
            break
        source = above
        seen.add(source.pin)
    return source


def _next_above(queries: Queries, source: Source) -> Source | None:
    """The source whose minus lies on the plus of this one."""
    refs = (ref for ref in queries.net(source.pin) if ref.device != source.pin.device)
    return next((up for ref in refs if (up := _given_above(queries, ref)) is not None), None)


def _given_above(queries: Queries, back: PinRef) -> Source | None:
    """The source of which a pin is the return."""
    port, pin = queries.port(back.port_ref), queries.pin(back)
    if port is None or pin is None or pin.function != "zero":
        return None
    for other in port.pins:
        if isinstance(other.electrical, FeedOut):
            ref = PinRef(device=back.device, port=back.port, pin=other.id)
            return Source(pin=ref, feed=other.electrical)
    return None


def is_tapped(queries: Queries, upper: Source) -> bool:
    """Whether anything hangs between a source and the one below it."""
    backs = returns_of(queries, upper.pin)
    between = (ref for back in backs for ref in queries.net(back) if ref not in backs)
    return any(
        (pin := queries.pin(ref)) is not None
        and pin.function != "through"
        and not isinstance(pin.electrical, FeedOut)
        for ref in between
    )


def _giving(queries: Queries, pin: PinRef) -> Iterator[Source]:
    for ref in queries.net(pin):
        found = queries.pin(ref)
        if found is not None and isinstance(found.electrical, FeedOut):
            yield Source(pin=ref, feed=found.electrical)
