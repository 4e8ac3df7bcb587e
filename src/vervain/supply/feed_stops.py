"""The chain of the stops in a proposal: contacts, coils and stop inputs that nothing is joined to.

Each channel is a string of its own from plus through one contact of every stop to one coil, so that
one fault leaves the other. The contacts that a welded contactor keeps open are read, and power that
comes from mains goes through the main contacts as well.
"""

from msgspec.structs import replace

from vervain.electrical.feeds import voltage_fit
from vervain.electrical.levels import reading_of
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, LogicInput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part, Port
from vervain.ports.port_wishes import says_what_for, takes_mains
from vervain.queries.connectivity import occupants, steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.what_goes import goes_at_stop
from vervain.stops.words import names_in_words
from vervain.supply.before_fuses import unfused_a
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_sizes import area_for, area_that_carries, rating_for
from vervain.supply.feed_sources import FeedSource, feed_sources
from vervain.supply.feed_steps import FeedStep, NewCable, NewWayThrough, NewWire
from vervain.supply.feed_way_out import THICKEST_WITHOUT_FUSE_MM2, TO_THE_FUSE_M
from vervain.supply.feed_ways import fresh_fuses, outlets_behind

Ends = tuple[PinRef, PinRef]
# What a chain carries are coils and inputs; thinner wires break.
CHAIN_MM2 = 0.5
# The way back of a coil, at extra-low voltage and at mains.
BACKS = ("coil-", "neutral")
CHANNELS = (("stop A+", "stop A-"), ("stop B+", "stop B-"))


class Told(Record, frozen=True, kw_only=True):
    """What a channel works: its plus, its return, and the volts that it takes."""

    plus: PinRef
    minus: PinRef | None
    feed: FeedIn


def plan_stops(planner: PlanBuilder) -> None:
    """Wires free stops to free contactors and stop inputs, where a machine has both and no safety
    relay, which they go to (see `feed_safety_relay`).
    """
    queries = planner.queries
    stops = free_stops(queries)
    coils = free_coils(queries)
    parts = [queries.part_of(name) for name in queries.devices()]
    if not stops or any(part is not None and part.is_safety_relay for part in parts):
        return
    source = source_for(queries, coils)
    if source is None:
        # Those that take mains are led from its terminals (see `feed_mains_coils`).
        coils = [told for told in coils if not takes_mains(told.feed)]
        if coils:
            names = names_in_words(tuple(told.plus.device for told in coils))
            planner.decisions.append(f"No supply gives what the coils of {names} take.")
        else:
            _tell(planner, stops, _pulled_up(queries))
        return
    # A second string is for a second contactor, or for the second channel of an input.
    strings = 2 if 1 in _stop_inputs(queries, source) else len(coils)
    least = min(len(contacts) for contacts in stops.values())
    count = min(2, strings, least)
    pulled = _pulled_up(queries) if least > count else []
    # With one contactor every contact of a stop opens its string, but what tells a controller.
    alone = {n: ends[: -1 if pulled else None] for n, ends in stops.items()}
    used = _chain(planner, source, alone if count == 1 else stops, coils, count)
    _tell(planner, stops, pulled)
    _read_mirrors(planner, source, used)
    through_main_contacts(planner, used)


def _tell(
    planner: PlanBuilder, stops: dict[str, list[Ends]], pulled: list[tuple[PinRef, PinRef]]
) -> None:
    """The last contacts of the stops in series to an input of a controller that is pulled up."""
    for entry, zero in pulled[:1]:
        wiring = Wiring(planner, CHAIN_MM2)
        wiring.string(entry, [ends[-1] for ends in stops.values()], zero, "BU")
        words = f"{names_in_words(tuple(stops))} told to {entry.device} {entry.port}"
        planner.add(wiring.step(words, "The controller stops on purpose, and waits to be started."))


def _chain(
    planner: PlanBuilder,
    source: FeedSource,
    stops: dict[str, list[Ends]],
    coils: list[Told],
    count: int,
) -> list[str]:
    """The strings of the channels as one step; the contactors that they work."""
    cables: list[NewCable] = []
    wires: list[NewWire] = []
    inputs = _stop_inputs(planner.queries, source)
    begun = beginnings(planner, source, coils, cables, wires)
    if begun is None:
        return []
    outlets, ratings, area = begun
    for channel in range(count):
        start, back = outlets[min(channel, len(outlets) - 1)]
        for contacts in stops.values():
            # With one contactor every contact of a stop opens its string.
            for near, far in contacts if count == 1 else contacts[channel : channel + 1]:
                planner.wire(start, near, "RD", area, cables, wires)
                start = far
        for told in (*coils[channel::count], *inputs.get(channel, ())):
            planner.wire(start, told.plus, "RD", area, cables, wires)
            start = told.plus
            if told.minus is not None:
                planner.wire(told.minus, back, "BK", area, cables, wires)
                back = told.minus
    worked = [told.plus.device for told in coils]
    told_of = dict.fromkeys(t.plus.device for rows in inputs.values() for t in rows)
    verb = "stops" if len(stops) == 1 else "stop"
    words = f"{names_in_words(tuple(stops))} {verb} {names_in_words((*worked, *told_of))}"
    planner.add(
        FeedStep(
            words=words,
            reason=_reason(count, len(coils)),
            cables=tuple(cables),
            wires=tuple(wires),
            ratings=ratings,
            needs=made_by(planner, outlets[0][0].device),
        )
    )
    return worked


def _reason(strings: int, contactors: int) -> str:
    """What the strings are worth, without a word too many: one contactor bears no fault."""
    if contactors == 1:
        more = "; the second string only tells the controller" if strings > 1 else ""
        return f"One contactor, which may weld: only a second one would bear a fault{more}."
    if strings == 1:
        return "One string: a stop with two contacts would leave a second one."
    return "Two strings, each by a contact of its own: one fault leaves the other."


def beginnings(
    planner: PlanBuilder,
    source: FeedSource,
    coils: list[Told],
    cables: list[NewCable],
    wires: list[NewWire],
) -> tuple[list[Ends], tuple[tuple[str, float], ...], float] | None:
    """Where the strings begin and come back to, what a fuse there is rated, and the cross-section:
    a strip behind the fuse of what controls, the source itself where wires bear all that it gives,
    else a fuse that is free. None where there is none, which the planner's decisions then say.
    """
    outlets = outlets_behind(planner.queries, source, "control")
    if outlets:
        given_a = unfused_a(planner.queries).get(outlets[0][0], 0.0)
        carrying = area_that_carries(planner.queries, given_a)
        return outlets, (), max(CHAIN_MM2, carrying or CHAIN_MM2)
    load_a = sum(told.feed.current_a or 0.0 for told in coils)
    area = area_for(planner.queries, source, load_a, None)
    if area <= THICKEST_WITHOUT_FUSE_MM2 and not source.is_battery:
        return [(source.plus, source.minus)], (), max(CHAIN_MM2, area)
    fuse, rating_a = next(iter(fresh_fuses(planner.queries)), None), rating_for(load_a)
    if fuse is None or rating_a is None:
        planner.decisions.append(
            f"{source.plus.device} gives more than the wires of the stops bear: add a fuse."
        )
        return None
    planner.wire(source.plus, fuse[0], "RD", CHAIN_MM2, cables, wires, TO_THE_FUSE_M)
    return [(fuse[1], source.minus)], ((fuse[0].device, rating_a),), CHAIN_MM2


def made_by(planner: PlanBuilder, device: str) -> tuple[int, ...]:
    """The steps that add a device, or lead something to it."""
    return tuple(
        number
        for number, step in enumerate(planner.steps)
        if device in {added.designator for added in step.adds}
        or any(wire.b.device == device for wire in step.wires)
    )


def free_stops(queries: Queries) -> dict[str, list[Ends]]:
    """The contacts that open of each emergency stop, where nothing is joined to any of them."""
    found = {}
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind != "emergency stop" or queries.hookups_of(name):
            continue
        contacts = [contact_ends(name, element) for element in contacts_that_rest(part, "NC")]
        if contacts:
            found[name] = contacts
    return found


def free_coils(queries: Queries) -> list[Told]:
    """The coils of contactors that nothing is joined to."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.kind == "contactor" else ():
            plus = next((p for p in port.pins if isinstance(p.electrical, FeedIn)), None)
            minus = next((p for p in port.pins if p.function in BACKS), None)
            if port.kind != "coil" or plus is None or minus is None:
                continue
            ends = [PinRef(device=name, port=port.id, pin=pin.id) for pin in (plus, minus)]
            feed = plus.electrical
            if isinstance(feed, FeedIn) and not any(steps_from(queries, ref) for ref in ends):
                found.append(Told(plus=ends[0], minus=ends[1], feed=feed))
    return found


def _stop_inputs(queries: Queries, source: FeedSource) -> dict[int, list[Told]]:
    """The stop inputs of controllers and drives that nothing is joined to and that read the volts
    of a source, by their channel.
    """
    found: dict[int, list[Told]] = {}
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None else ():
            ref = PortRef(device=name, port=port.id)
            if port.kind != "stop input" or port.end != "host" or occupants(queries, ref):
                continue
            zero = next((pin for pin in port.pins if pin.function == "zero"), None)
            for channel, (plus, minus) in enumerate(CHANNELS):
                here = next((pin for pin in port.pins if pin.function == plus), None)
                back = next((pin for pin in port.pins if pin.function == minus), zero)
                entry = here.electrical if here is not None else None
                if here is None or not isinstance(entry, LogicInput):
                    continue
                feed = FeedIn(v_min_v=entry.high_min_v, v_max_v=entry.max_v)
                if _suits(source, feed) and entry.pull_up_ohm is None:
                    at = PinRef(device=name, port=port.id, pin=here.id)
                    minus_at = replace(at, pin=back.id) if back is not None else None
                    if channel and back is zero:
                        minus_at = None
                    row = Told(plus=at, minus=minus_at, feed=feed)
                    found.setdefault(channel, []).append(row)
    return found


def _pulled_up(queries: Queries) -> list[Ends]:
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


def _read_mirrors(planner: PlanBuilder, source: FeedSource, worked: list[str]) -> None:
    """The contacts that stay open while a contactor is welded, in series to a free input."""
    queries = planner.queries
    mirrors = [ends for name in worked if (ends := mirror_of(queries, name)) is not None]
    entry = _free_input(queries)
    if not worked or len(mirrors) < len(worked) or entry is None:
        return
    at, port, limits = entry
    zero = next((pin for pin in port.pins if pin.function == "zero"), None)
    to_plus = reading_of(queries, at, limits) == "PNP"
    end = source.plus if to_plus else replace(at, pin=zero.id) if zero else source.minus
    cables: list[NewCable] = []
    wires: list[NewWire] = []
    start = at
    for near, far in mirrors:
        planner.wire(start, near, "BU", CHAIN_MM2, cables, wires)
        start = far
    planner.wire(start, end, "BU", CHAIN_MM2, cables, wires)
    names = names_in_words(tuple(f"{near.device} {near.port}" for near, _ in mirrors))
    planner.add(
        FeedStep(
            words=f"{names} read by {at.device} {at.port}",
            reason="A contactor that welds is known before the next start.",
            cables=tuple(cables),
            wires=tuple(wires),
        )
    )


def mirror_of(queries: Queries, name: str) -> Ends | None:
    """The ends of a contactor's free contact that opens while it is worked; None where there is
    none.
    """
    part = queries.part_of(name)
    for element in contacts_that_rest(part, "NC") if part is not None else ():
        ends = contact_ends(name, element)
        if not any(steps_from(queries, ref) for ref in ends):
            return ends
    return None


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


def through_main_contacts(planner: PlanBuilder, worked: list[str]) -> None:
    """Leads the line of what must go at a stop, and has mains, through free poles; its neutral too
    where poles are left for it.
    """
    ends = [
        (pin.function, PinRef(device=device, port=port.id, pin=pin.id))
        for device in planner.queries.devices()
        if (part := planner.queries.part_of(device)) is not None
        and goes_at_stop(planner.queries, device)
        for port in part.ports
        for pin in port.pins
    ]
    for wanted in ("line", "neutral"):
        for function, end in ends:
            if function == wanted:
                _pole(planner, end, worked)


def _pole(planner: PlanBuilder, end: PinRef, worked: list[str]) -> None:
    """Leads one wire of mains through a pole of each contactor."""
    if not steps_from(planner.queries, end):
        return
    pin = planner.queries.pin(end)
    feed = _feed_beside(planner.queries, end)
    current_a = (feed.current_a if feed is not None else None) or 0.0
    poles = [
        ends
        for name in worked
        if (ends := _free_pole(planner.queries, name, current_a)) is not None
    ]
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


def _free_pole(queries: Queries, name: str, current_a: float) -> Ends | None:
    """A main contact that nothing is joined to and that carries a current."""
    part = queries.part_of(name)
    for element in contacts_that_rest(part, "NO") if part is not None else ():
        ends = contact_ends(name, element)
        port = part.port(ends[0].port) if part is not None else None
        bears = element.current_max_a is None or element.current_max_a >= current_a
        if port is None or port.kind != "terminals" or not bears:
            continue
        if not any(steps_from(queries, ref) for ref in ends):
            return ends
    return None


def source_for(queries: Queries, coils: list[Told]) -> FeedSource | None:
    """The first source that suits all coils; where there are none, a drive's stop inputs."""
    for source in feed_sources(queries):
        if coils and all(_suits(source, told.feed) for told in coils):
            return source
        rows = [] if coils else _stop_inputs(queries, source).values()
        if any(goes_at_stop(queries, told.plus.device) for found in rows for told in found):
            return source
    return None


def _suits(source: FeedSource, feed: FeedIn) -> bool:
    return not voltage_fit(source.feed.lowest_v, source.feed.highest_v, feed)


def contacts_that_rest(part: Part, rest: str) -> list[Contact]:
    """The contacts of a part that rest so, NC or NO."""
    return [e for e in part.inside if isinstance(e, Contact) and e.rest == rest]


def contact_ends(device: str, element: Contact) -> Ends:
    """The two pins of a contact of a device."""
    (a_port, a_pin), (b_port, b_pin) = element.pins
    return (
        PinRef(device=device, port=a_port, pin=a_pin),
        PinRef(device=device, port=b_port, pin=b_pin),
    )
