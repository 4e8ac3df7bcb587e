"""The chain of the stops in a proposal: contacts, coils and stop inputs that nothing is joined to.

Each channel is a string of its own from plus through one contact of every stop to one coil, so that
one fault leaves the other. The contacts that a welded contactor keeps open are read, and power that
comes from mains goes through the main contacts as well.
"""

from typing import NamedTuple

from msgspec.structs import replace

from vervain.electrical.feeds import voltage_fit
from vervain.electrical.mains import takes_mains
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, LogicInput
from vervain.model.machine import PinRef, PortRef
from vervain.ports.contactor_loads import load_of_contactor
from vervain.queries.connectivity import occupants, steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.what_goes import goes_at_stop
from vervain.stops.words import names_in_words
from vervain.supply.before_fuses import unfused_a
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_driven_coils import cut_driven_coils
from vervain.supply.feed_sizes import area_for, area_that_carries, rating_for
from vervain.supply.feed_sources import FeedSource, feed_sources
from vervain.supply.feed_start import hold, start_button, what_else_opens
from vervain.supply.feed_steps import NewCable, NewDevice, NewWire
from vervain.supply.feed_told import pulled_up, read_mirrors, tell_the_controller
from vervain.supply.feed_way_out import THICKEST_WITHOUT_FUSE_MM2, TO_THE_FUSE_M
from vervain.supply.feed_ways import fresh_fuses, outlets_behind
from vervain.supply.main_contacts import through_main_contacts
from vervain.supply.stop_contacts import (
    CHAIN_MM2,
    CHANNELS,
    Ends,
    free_stops,
)

# The way back of a coil, at extra-low voltage and at mains.
BACKS = ("coil-", "neutral")


class Beginning(NamedTuple):
    """Where strings begin and come back to, by what cross-section, what a fuse there is rated, and
    the devices that are added for it.
    """

    outlets: list[Ends]
    area_mm2: float
    ratings: tuple[tuple[str, float], ...] = ()
    adds: tuple[NewDevice, ...] = ()


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
        elif not cut_driven_coils(planner, stops):
            tell_the_controller(planner, stops, pulled_up(queries))
        return
    # A second string is for a second contactor, or for the second channel of an input; one for a
    # single load is no second one for what the others switch.
    shared = [told for told in coils if load_of_contactor(queries, told.plus.device) is None]
    strings = 2 if 1 in stop_inputs(queries, source) else max(len(shared), 1)
    least = min(len(contacts) for contacts in stops.values())
    count = min(2, strings, least)
    pulled = pulled_up(queries) if least > count else []
    # With one contactor every contact of a stop opens its string, but what tells a controller.
    alone = {n: ends[: -1 if pulled else None] for n, ends in stops.items()}
    used = _chain(planner, source, alone if count == 1 else stops, coils, count)
    tell_the_controller(planner, stops, pulled)
    read_mirrors(planner, source, used)
    through_main_contacts(planner, used)


def _chain(
    planner: PlanBuilder,
    source: FeedSource,
    stops: dict[str, list[Ends]],
    coils: list[Told],
    count: int,
) -> list[str]:
    """The strings of the channels as one step; the contactors that they work."""
    queries = planner.queries
    wiring = Wiring(planner, CHAIN_MM2)
    inputs = stop_inputs(queries, source)
    begun = beginnings(planner, source, coils, wiring.cables, wiring.wires)
    if begun is None:
        return []
    outlets, wiring.area_mm2 = begun.outlets, begun.area_mm2
    # With one string every contact of a stop opens it, and so does what else tells of a fault.
    opening = {**stops, **(what_else_opens(queries) if count == 1 and coils else {})}
    button = start_button(queries) if count == 1 and coils else None
    for channel in range(count):
        start, back = outlets[min(channel, len(outlets) - 1)]
        passed = [
            ends for contacts in opening.values()
            for ends in (contacts if count == 1 else contacts[channel : channel + 1])
        ] + ([button] if button is not None else [])  # fmt: skip
        for near, far in passed:
            wiring.join(start, near, "RD")
            start = far
        for told in (*coils[channel::count], *inputs.get(channel, ())):
            wiring.join(start, told.plus, "RD")
            start = told.plus
            if told.minus is not None:
                wiring.join(told.minus, back, "BK")
                back = told.minus
    held = hold(wiring, button, coils[0].plus.device, "RD") if coils else False
    worked = [told.plus.device for told in coils]
    told_of = dict.fromkeys(t.plus.device for rows in inputs.values() for t in rows)
    verb = "stops" if len(opening) == 1 else "stop"
    words = f"{names_in_words(tuple(opening))} {verb} {names_in_words((*worked, *told_of))}"
    step = wiring.step(
        words if button is None else f"{words}, {button[0].device} starts",
        _reason(count, len(coils)) + (" Let go, the button is held." if held else ""),
    )
    needs = made_by(planner, outlets[0][0].device)
    planner.add(replace(step, ratings=begun.ratings, adds=begun.adds, needs=needs))
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
) -> Beginning | None:
    """Where the strings begin: at a strip behind the fuse of what controls, at the source itself
    where wires bear all that it gives, else behind a fuse that is free, or added. None where there
    is none, which the planner's decisions then say.
    """
    outlets = outlets_behind(planner.queries, source, "control")
    if outlets:
        given_a = unfused_a(planner.queries).get(outlets[0][0], 0.0)
        carrying = area_that_carries(planner.queries, given_a)
        return Beginning(outlets, max(CHAIN_MM2, carrying or CHAIN_MM2))
    load_a = sum(told.feed.current_a or 0.0 for told in coils)
    area = area_for(planner.queries, source, load_a, None)
    if area <= THICKEST_WITHOUT_FUSE_MM2 and not source.is_battery:
        return Beginning([(source.plus, source.minus)], max(CHAIN_MM2, area))
    rating_a = rating_for(load_a)
    near, far = None, None
    adds: tuple[NewDevice, ...] = ()
    if fresh := fresh_fuses(planner.queries):
        near, far = fresh[0]
    elif rating_a and (made := planner.new_fuse(source.plus.device, rating_a)):
        added, near, far = made
        adds = (added,)
    if near is None or far is None or rating_a is None:
        planner.decisions.append(
            f"{source.plus.device} gives more than the wires of the stops bear: add a fuse."
        )
        return None
    planner.wire(source.plus, near, "RD", CHAIN_MM2, cables, wires, TO_THE_FUSE_M)
    return Beginning([(far, source.minus)], CHAIN_MM2, ((near.device, rating_a),), adds)


def made_by(planner: PlanBuilder, device: str) -> tuple[int, ...]:
    """The steps that add a device, or lead something to it."""
    return tuple(
        number
        for number, step in enumerate(planner.steps)
        if device in {added.designator for added in step.adds}
        or any(wire.b.device == device for wire in step.wires)
    )


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


def stop_inputs(queries: Queries, source: FeedSource) -> dict[int, list[Told]]:
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


def source_for(queries: Queries, coils: list[Told]) -> FeedSource | None:
    """The first source that suits all coils; where there are none, a drive's stop inputs."""
    for source in feed_sources(queries):
        if coils and all(_suits(source, told.feed) for told in coils):
            return source
        rows = [] if coils else stop_inputs(queries, source).values()
        if any(goes_at_stop(queries, told.plus.device) for found in rows for told in found):
            return source
    return None


def _suits(source: FeedSource, feed: FeedIn) -> bool:
    return not voltage_fit(source.feed.lowest_v, source.feed.highest_v, feed)
