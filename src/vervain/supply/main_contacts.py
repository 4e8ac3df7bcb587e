"""The main contacts of contactors in a proposal: mains of what goes at a stop go through those that
are free.
"""

from collections.abc import Collection, Iterator

from vervain.model.electrical import FeedIn
from vervain.model.elements import Bridge, Contact, Fuse
from vervain.model.machine import PinRef
from vervain.ports.contactor_loads import contactor_of_load, load_of_contactor
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.what_goes import goes_at_stop
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.mains_load import mains_current_a
from vervain.supply.stop_contacts import Ends, contacts_that_rest


def free_poles(queries: Queries, name: str) -> Iterator[tuple[Contact | Fuse | Bridge, Ends]]:
    """What mains is led through in a contactor, a breaker or an overload relay, and nothing is
    joined to, with its ends: main contacts, fuses, the heaters of an overload relay.
    """
    part = queries.part_of(name)
    closing = contacts_that_rest(part, "NO") if part is not None else []
    straight = [
        e for e in (part.inside if part is not None else ()) if isinstance(e, Fuse | Bridge)
    ]
    for element in (*closing, *straight):
        first, last = element.pins[0], element.pins[-1]
        ends = (
            PinRef(device=name, port=first[0], pin=first[1]),
            PinRef(device=name, port=last[0], pin=last[1]),
        )
        port = part.port(ends[0].port) if part is not None else None
        is_main = port is not None and port.kind == "terminals"
        if is_main and not any(steps_from(queries, ref) for ref in ends):
            yield element, ends


def pole_bears(pole: Contact | Fuse | Bridge, current_a: float) -> bool:
    """Whether a pole carries a current, in A; what is not given is taken to be enough."""
    most_a = pole.current_max_a if isinstance(pole, Contact) else None
    return most_a is None or most_a >= current_a


def free_pole(
    queries: Queries,
    name: str,
    end: PinRef,
    taken: Collection[PinRef] = (),
    current_a: float | None = None,
) -> Ends | None:
    """A main contact of a contactor that nothing is joined to and that carries a current, in A, or
    what a load takes at a pin; none of those that are taken.
    """
    feed = _feed_beside(queries, end)
    wanted_a = current_a or (feed.current_a if feed is not None else None) or 0.0
    for element, ends in free_poles(queries, name):
        if pole_bears(element, wanted_a) and ends[0] not in taken:
            return ends
    return None


def through_main_contacts(planner: PlanBuilder, worked: list[str]) -> None:
    """Leads the line of what must go at a stop, and has mains, through free poles; its neutral too
    where poles are left for it. What has its mains from terminals of its own has them led there.
    """
    queries, stopped = planner.queries, planner.stopped
    ends = [
        (pin.function, PinRef(device=device, port=port.id, pin=pin.id), None)
        for device in queries.devices()
        if (part := queries.part_of(device)) is not None
        and device not in stopped and goes_at_stop(queries, device)
        for port in part.ports
        for pin in port.pins
    ]  # fmt: skip
    taken_a = sum(mains_current_a(queries, name) for name in stopped)
    together = {
        (function, end, taken_a) for poles in stopped.values() for function, end in poles.items()
    }
    for wanted in ("line", "neutral"):
        for function, end, current_a in (*sorted(together, key=str), *ends):
            if function == wanted:
                _pole(planner, end, worked, current_a)


def _pole(planner: PlanBuilder, end: PinRef, worked: list[str], current_a: float | None) -> None:
    """Leads one wire of mains through a pole of each contactor."""
    if not steps_from(planner.queries, end):
        return
    pin = planner.queries.pin(end)
    if contactor_of_load(planner.queries, end.device) is not None:
        return
    worked = [name for name in worked if load_of_contactor(planner.queries, name) is None]
    poles = [
        ends for name in worked
        if (ends := free_pole(planner.queries, name, end, current_a=current_a)) is not None
    ]  # fmt: skip
    if not worked or len(poles) < len(worked):
        return
    led = planner.steps_to(end)
    through = tuple(
        NewWayThrough(near_end=end, near=far, far=near, is_at_source=True) for near, far in poles
    )
    names = names_in_words(tuple(f"{near.device} {near.port}" for near, _ in poles))
    for way in through:
        planner.add(
            FeedStep(
                words=f"{end.device} {pin.text if pin is not None else end.pin} goes through "
                f"{way.near.device} {way.near.port}",
                reason=f"At a stop its mains are cut: {names}.",
                through=(way,),
                needs=led,
            )
        )


def _feed_beside(queries: Queries, end: PinRef) -> FeedIn | None:
    """What a device takes at the port of a pin."""
    port = queries.port(end.port_ref)
    feeds = [pin.electrical for pin in (port.pins if port is not None else ())]
    return next((feed for feed in feeds if isinstance(feed, FeedIn)), None)
