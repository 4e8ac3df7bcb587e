"""What a controller is told of the stops in a proposal: by their own contacts, by those that a
welded contactor keeps open, by a contact of a safety relay.
"""

from msgspec.structs import replace

from vervain.electrical.levels import reading_of
from vervain.model.electrical import LogicInput
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Port
from vervain.ports.called_alike import says_what_for
from vervain.queries.connectivity import occupants, steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_sources import FeedSource, feed_sources
from vervain.supply.feed_steps import FeedStep, NewCable, NewWire
from vervain.supply.feed_ways import plus_behind
from vervain.supply.stop_contacts import CHAIN_MM2, CHANNELS, Ends, free_contacts, mirror_of


def tell_the_controller(
    planner: PlanBuilder, stops: dict[str, list[Ends]], pulled: list[tuple[PinRef, PinRef]]
) -> None:
    """The last contacts of the stops in series to an input of a controller that is pulled up."""
    for entry, zero in pulled[:1]:
        wiring = Wiring(planner, CHAIN_MM2)
        wiring.string(entry, [ends[-1] for ends in stops.values()], zero, "BU")
        words = f"{names_in_words(tuple(stops))} told to {entry.device} {entry.port}"
        planner.add(wiring.step(words, "The controller stops on purpose, and waits to be started."))


def tell_of_cuts(planner: PlanBuilder) -> None:
    """Where a contact of each stop lies in the feed itself, another one of each tells a controller,
    which else would go on as soon as the stop is released.
    """
    queries = planner.queries
    names = [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "emergency stop"
    ]  # fmt: skip
    free = {name: ends for name in names if (ends := free_contacts(queries, name, "NC"))}
    if not names or len(free) < len(names) or not all(map(queries.hookups_of, names)):
        return
    if pulled := pulled_up(queries):
        tell_the_controller(planner, free, pulled)
        return
    source = next(iter(feed_sources(queries)), None)
    if source is not None:
        contacts = [ends[-1] for ends in free.values()]
        read_contacts(planner, source, contacts, "The controller waits to be started after a stop.")


def read_mirrors(planner: PlanBuilder, source: FeedSource, worked: list[str]) -> None:
    """The contacts that stay open while a contactor is welded, in series to a free input."""
    mirrors = [ends for name in worked if (ends := mirror_of(planner.queries, name)) is not None]
    if worked and len(mirrors) == len(worked):
        read_contacts(
            planner, source, mirrors, "A contactor that welds is known before the next start."
        )


def read_contacts(
    planner: PlanBuilder, source: FeedSource, contacts: list[Ends], reason: str
) -> None:
    """Leads some contacts in series to a free input of a controller, from the rail that it reads;
    nothing where no input is free.
    """
    queries = planner.queries
    entry = _free_input(queries)
    if entry is None:
        return
    at, port, limits = entry
    zero = next((pin for pin in port.pins if pin.function == "zero"), None)
    to_plus = reading_of(queries, at, limits) == "PNP"
    # Behind the fuse of what controls, where that is fed from there.
    own = [one for one in feed_sources(queries) if one.plus.device == source.plus.device]
    behind = (plus_behind(queries, one, "control") for one in (source, *own))
    plus = next((at for at in behind if at is not None), source.plus)
    end = plus if to_plus else replace(at, pin=zero.id) if zero else source.minus
    cables: list[NewCable] = []
    wires: list[NewWire] = []
    start = at
    for near, far in contacts:
        planner.wire(start, near, "BU", CHAIN_MM2, cables, wires)
        start = far
    planner.wire(start, end, "BU", CHAIN_MM2, cables, wires)
    names = names_in_words(tuple(f"{near.device} {near.port}" for near, _ in contacts))
    planner.add(
        FeedStep(
            words=f"{names} read by {at.device} {at.port}",
            reason=reason,
            cables=tuple(cables),
            wires=tuple(wires),
        )
    )


def pulled_up(queries: Queries) -> list[Ends]:
    """The free stop inputs of controllers that a contact to 0 V closes, each with its 0 V."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.kind == "controller" else ():
            zero = next((pin for pin in port.pins if pin.function == "zero"), None)
            here = next((pin for pin in port.pins if pin.function == CHANNELS[0][0]), None)
            if port.kind != "stop input" or zero is None or here is None:
                continue
            at = PinRef(device=name, port=port.id, pin=here.id)
            is_free = not occupants(queries, at.port_ref)
            entry = here.electrical
            if is_free and isinstance(entry, LogicInput) and entry.pull_up_ohm is not None:
                found.append((at, replace(at, pin=zero.id)))
    return found


def _free_input(queries: Queries) -> tuple[PinRef, Port, LogicInput] | None:
    """The last digital input of a controller that nothing is in: the first ones are the axes'. One
    that is called for something else comes only where there is no other.
    """
    found: list[tuple[PinRef, Port, LogicInput]] = []
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.kind == "controller" else ():
            ref = PortRef(device=name, port=port.id)
            if port.kind != "digital input" or occupants(queries, ref):
                continue
            for pin in port.pins:
                at = PinRef(device=name, port=port.id, pin=pin.id)
                entry = pin.electrical
                if isinstance(entry, LogicInput) and not steps_from(queries, at):
                    reads = reading_of(queries, at, entry)
                    # An open contact must leave a level, which nothing else would hold.
                    if reads == "PNP" or (reads == "NPN" and entry.pull_up_ohm is not None):
                        found.append((at, port, entry))
    return next(
        (item for item in reversed(found) if not says_what_for(item[1].id)),
        found[-1] if found else None,
    )
