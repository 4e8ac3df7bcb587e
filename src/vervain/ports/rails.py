"""Where a plug gets the plus, or the 0 V, that the port it goes into does not have: many boards
have a screw for a signal, and its supply comes from a strip.
"""

from collections.abc import Iterator

from vervain.electrical.feeds import voltage_fit, zero_pin_of
from vervain.model.electrical import FeedIn, FeedOut, LogicInput
from vervain.model.machine import PinRef
from vervain.queries.connectivity import steps_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Supplies that a strip, or a plug, is fed from; what a board gives is its own port's.
GIVING = ("supply", "battery")


@query
def rail_for(queries: Queries, board: str, ours: PinRef, function: str) -> PinRef | None:
    """A pin with plus, or with 0 V, for a device's pin whose signal goes to a board: of the supply
    that the board works with, or would, at a free terminal of a strip where there is one. None
    where no supply suits both.
    """
    for outlet in _outlets(queries, board, ours):
        zero = zero_pin_of(queries, outlet, None)
        wanted = outlet if function == "plus" else zero
        if wanted is not None:
            return _terminal(queries, wanted) or wanted
    return None


@query
def lower_plus(queries: Queries, board: str, ours: PinRef, entry: PinRef) -> PinRef | None:
    """A plus that a board gives besides, for a device whose output would be too high for an input
    of it else: one that suits the device, and of which the output swings within what the input
    bears and reads. None where the board gives none.
    """
    mine, there, part = queries.pin(ours), queries.pin(entry), queries.part_of(board)
    taken = mine.electrical if mine is not None else None
    reads = there.electrical if there is not None else None
    if not isinstance(taken, FeedIn) or not isinstance(reads, LogicInput) or part is None:
        return None
    for port in part.ports:
        for pin in port.pins if port.kind == "feed out" else ():
            feed = pin.electrical
            if (
                isinstance(feed, FeedOut)
                and not voltage_fit(feed.lowest_v, feed.highest_v, taken)
                and reads.high_min_v < feed.lowest_v
                and feed.highest_v <= reads.max_v
                and (taken.current_a or 0.0) <= feed.current_a
            ):
                return PinRef(device=board, port=port.id, pin=pin.id)
    return None


def is_at_a_strip(queries: Queries, ours: PinRef) -> bool:
    """Whether a wire leads from a device's pin to a strip, where it stays when the plug moves."""
    return any(
        (part := queries.part_of(step.end.device)) is not None and part.kind == "terminal strip"
        for step in steps_from(queries, ours)
    )


def _outlets(queries: Queries, board: str, ours: PinRef) -> Iterator[PinRef]:
    """The outlets of supplies that suit both ends, those that feed the board first; last what the
    board gives itself.
    """
    fed = {pin for feed in _feeds(queries, board) for pin in queries.rail(feed)}
    found: list[tuple[bool, int, PinRef]] = []
    for order, device in enumerate(queries.devices()):
        part = queries.part_of(device)
        for port in part.ports if part is not None and part.kind in GIVING else ():
            for pin in port.pins:
                here = PinRef(device=device, port=port.id, pin=pin.id)
                if isinstance(pin.electrical, FeedOut) and _suits(queries, pin.electrical, board,
                                                                  ours):  # fmt: skip
                    found.append((here not in fed, order, here))
    yield from (here for _, _, here in sorted(found, key=lambda item: item[:2]))
    yield from _given_by(queries, board, ours)


def _is_a_module(queries: Queries, board: str) -> bool:
    """Whether a board is a module that only switches loads."""
    part = queries.part_of(board)
    return part is not None and part.kind == "relay module"


def _given_by(queries: Queries, board: str, ours: PinRef) -> Iterator[PinRef]:
    """The pluses that a controller gives at ports of their own, where they suit a device."""
    part, port = queries.part_of(board), queries.port(ours.port_ref)
    taken = [pin.electrical for pin in (port.pins if port else ())]
    windows = [feed for feed in taken if isinstance(feed, FeedIn)]
    is_controller = part is not None and part.kind == "controller"
    for own in part.ports if part is not None and is_controller and windows else ():
        for pin in own.pins if own.kind == "feed out" else ():
            feed = pin.electrical
            if isinstance(feed, FeedOut) and all(
                voltage_fit(feed.lowest_v, feed.highest_v, window) == ""
                and (window.current_a or 0.0) <= feed.current_a
                for window in windows
            ):
                yield PinRef(device=board, port=own.id, pin=pin.id)


def _feeds(queries: Queries, board: str) -> tuple[PinRef, ...]:
    part = queries.part_of(board)
    return tuple(
        PinRef(device=board, port=port.id, pin=pin.id)
        for port in (part.ports if part else ())
        for pin in port.pins
        if isinstance(pin.electrical, FeedIn) and pin.function == "plus"
    )


def _suits(queries: Queries, outlet: FeedOut, board: str, ours: PinRef) -> bool:
    """Whether a supply's volts are within what the board takes, and what the device does; a servo
    has its power from anywhere.
    """
    port = queries.port(ours.port_ref)
    wanted = [pin.electrical for pin in (port.pins if port else ())]
    if port is not None and port.kind != "servo":
        wanted += [pin.electrical for ref in _feeds(queries, board) if (pin := queries.pin(ref))]
    windows = [feed for feed in wanted if isinstance(feed, FeedIn)]
    by_pulses = any(p.function == "pulse width" for p in (port.pins if port else ()))
    if port is not None and port.kind == "load" and (by_pulses or _is_a_module(queries, board)):
        # A module passes on to its loads whatever these are for; a fan that is told its speed has
        # its power from its own supply.
        windows = [pin.electrical for pin in port.pins if isinstance(pin.electrical, FeedIn)]
    return bool(windows) and all(
        voltage_fit(outlet.lowest_v, outlet.highest_v, feed) == "" for feed in windows
    )


def _terminal(queries: Queries, pin: PinRef) -> PinRef | None:
    """A terminal of a strip on the rail of a pin, a free one where there is one."""
    terminals = [
        ref
        for ref in queries.rail(pin)
        if (part := queries.part_of(ref.device)) is not None and part.kind == "terminal strip"
    ]
    return min(terminals, key=lambda ref: len(steps_from(queries, ref)), default=None)
