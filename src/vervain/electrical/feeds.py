"""What feeds what: the sources on a rail and the consumers that hang on them."""

from typing import Literal

from vervain.electrical.mains import mains_entries
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Contact, Diode, Element, Fuse
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Port
from vervain.queries.connectivity import nets_reached
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

PLUS_FUNCTIONS = frozenset({"plus", "load+", "coil+", "motor+"})
RETURN_FUNCTIONS = frozenset({"zero", "load-", "coil-", "motor-"})


class Source(Record, frozen=True, kw_only=True):
    """A pin that gives power, with what the part says of it."""

    pin: PinRef
    feed: FeedOut


class Consumer(Record, frozen=True, kw_only=True):
    """A pin that takes power, with what the part says of it."""

    pin: PinRef
    feed: FeedIn


@query
def sources_on_rail(queries: Queries, first: PinRef) -> tuple[Source, ...]:
    """Sources on the rail whose first pin this is; where it has none of its own, those that come
    to it through a diode, from anode to cathode.
    """
    own = own_sources(queries, first)
    if own:
        return own
    anodes = [anode for anode, _ in diodes_at(queries, first, "cathode")]
    through = (own_sources(queries, queries.rail(anode)[0]) for anode in anodes)
    return tuple(dict.fromkeys(source for found in through for source in found))


@query
def diodes_at(
    queries: Queries, first: PinRef, end: Literal["anode", "cathode"]
) -> tuple[tuple[PinRef, PinRef], ...]:
    """The diodes with this end on the rail whose first pin this is, as (anode, cathode)."""
    found = []
    for ref in queries.rail(first):
        part = queries.part_of(ref.device)
        for element in part.inside if part is not None else ():
            if isinstance(element, Diode):
                anode, cathode = (
                    PinRef(device=ref.device, port=port, pin=pin) for port, pin in element.pins
                )
                if ref == (anode if end == "anode" else cathode):
                    found.append((anode, cathode))
    return tuple(found)


def feeds_on(queries: Queries, anode: PinRef, cathode: PinRef) -> bool:
    """Whether a diode lies in a feed: a source at its anode and none at its cathode. One across a
    coil has the source at its cathode.
    """
    fed = own_sources(queries, queries.rail(anode)[0])
    return bool(fed) and not own_sources(queries, queries.rail(cathode)[0])


def rail_and_feeding(queries: Queries, pin: PinRef) -> tuple[PinRef, ...]:
    """The rail of a pin, and those that feed it through a diode."""
    rail = queries.rail(pin)
    feeding = [
        queries.rail(anode)
        for anode, cathode in diodes_at(queries, rail[0], "cathode")
        if feeds_on(queries, anode, cathode)
    ]
    return tuple(dict.fromkeys((*rail, *(ref for net in feeding for ref in net))))


@query
def own_sources(queries: Queries, first: PinRef) -> tuple[Source, ...]:
    """Sources on the rail itself whose first pin this is. Pins of one device that are joined by
    copper are one source.
    """
    found: dict[tuple[str, PinRef], Source] = {}
    for ref in queries.rail(first):
        pin = queries.pin(ref)
        if pin is not None and isinstance(pin.electrical, FeedOut):
            key = (ref.device, queries.net(ref)[0])
            found.setdefault(key, Source(pin=ref, feed=pin.electrical))
    return tuple(found.values())


@query
def consumers_on_rail(queries: Queries, first: PinRef) -> tuple[Consumer, ...]:
    """Consumers on the rail whose first pin this is, and on those that it feeds through diodes and
    through outputs that give plus.
    """
    behind = [
        queries.rail(cathode)
        for anode, cathode in diodes_at(queries, first, "anode")
        if feeds_on(queries, anode, cathode)
    ]
    behind += [queries.rail(output) for output in _outputs_on(queries, first)]
    return tuple(
        Consumer(pin=ref, feed=pin.electrical)
        for ref in dict.fromkeys((*queries.rail(first), *(ref for net in behind for ref in net)))
        if (pin := queries.pin(ref)) is not None
        and isinstance(pin.electrical, FeedIn)
        and pin.function in PLUS_FUNCTIONS
    )


def _outputs_on(queries: Queries, first: PinRef) -> tuple[PinRef, ...]:
    """The switched outputs that give on the plus of a rail: those of the ports that have it."""
    found: dict[PinRef, None] = {}
    for ref in queries.rail(first):
        port = queries.port(ref.port_ref)
        if port is None or port.kind != "switched output" or port.end != "host":
            continue
        for pin in port.pins:
            if isinstance(pin.electrical, LogicOutput) and pin.electrical.drive == "PNP":
                found[PinRef(device=ref.device, port=ref.port, pin=pin.id)] = None
    return tuple(output for output in found if output not in queries.rail(first))


def plus_of_output(queries: Queries, output: PinRef) -> PinRef | None:
    """What an output that switches plus gives from: the plus of its port, else what feeds its
    device.
    """
    port = queries.port(output.port_ref)
    own = next((p for p in (port.pins if port else ()) if p.function in PLUS_FUNCTIONS), None)
    if own is None:
        return main_feed_pin(queries, output.device)
    return PinRef(device=output.device, port=output.port, pin=own.id)


@query
def sources_through_outputs(queries: Queries, pin: PinRef) -> tuple[Source, ...]:
    """The sources from which outputs give plus to what hangs on a pin's net."""
    rails = (
        plus_of_output(queries, ref)
        for ref in queries.net(pin)
        if (found := queries.pin(ref)) is not None
        and isinstance(found.electrical, LogicOutput) and found.electrical.drive == "PNP"
    )  # fmt: skip
    return tuple(source for rail in rails if rail for source in sources_of(queries, rail))


def feed_pins(queries: Queries, device: str) -> tuple[PinRef, ...]:
    """The plus pins by which a device takes direct current."""
    part = queries.part_of(device)
    return tuple(
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in (part.ports if part else ())
        for pin in port.pins
        if isinstance(pin.electrical, FeedIn) and pin.function in PLUS_FUNCTIONS
    )


@query
def main_feed_pin(queries: Queries, device: str) -> PinRef | None:
    """The feed of a device with the largest rating: the one that it drives with; of a stepper
    driver, whose motor decides how much it takes, that which bears the most volts. What feeds the
    logic beside its signals is none where there is another, and never where it takes mains.
    """
    part = queries.part_of(device)
    is_driver = part is not None and part.driver is not None
    ports = part.ports if part is not None else ()
    beside = {port.id for port in ports if port.kind == "step and direction"}
    takes_mains = any(pin.function == "line" for port in ports for pin in port.pins)
    feeds = feed_pins(queries, device)

    def size(pin: PinRef) -> tuple[bool, float, float]:
        feed = _feed(queries, pin)
        is_beside = pin.port in beside
        return not is_beside, feed.most_v if is_driver else 0.0, feed.current_a or 0.0

    driving = [pin for pin in feeds if not (takes_mains and pin.port in beside)]
    return max(driving, key=size, default=None)


def bridge_feed_pin(queries: Queries, device: str) -> PinRef | None:
    """The feed that the bridges of a device drive with: the one that their ports name, else its
    main feed. None where it has no bridge.
    """
    part = queries.part_of(device)
    outputs = [port for port in (part.ports if part else ()) if port.kind == "bridge output"]
    if not outputs:
        return None
    named = {port.fed_by for port in outputs if port.fed_by is not None}
    found = [pin for pin in feed_pins(queries, device) if pin.port in named]
    return found[0] if found else main_feed_pin(queries, device)


# How far the volts of a regulated supply may lie from what it is rated at.
REGULATED = 0.05
# What a feed is reckoned at that no source comes to and whose volts are not known.
UNFED_V = 24.0


def _feed(queries: Queries, pin: PinRef) -> FeedIn:
    found = queries.pin(pin)
    assert found is not None and isinstance(found.electrical, FeedIn)
    return found.electrical


def nominal_v(queries: Queries, plus: PinRef) -> float:
    """The voltage that a feed pin's current is given for: its own, else that of its source where it
    lies in its window, else the middle of the window.
    """
    feed = _feed(queries, plus)
    if feed.nominal_v is not None:
        return feed.nominal_v
    for source in sources_of(queries, plus):
        if feed.v_min_v <= source.feed.nominal_v <= feed.most_v:
            return source.feed.nominal_v
    return feed.middle_v or UNFED_V


def sources_of(queries: Queries, pin: PinRef) -> tuple[Source, ...]:
    """The sources that a pin reaches with every fuse whole and every contact closed."""
    return sources_on_rail(queries, queries.rail(pin)[0])


def consumers_of(queries: Queries, pin: PinRef) -> tuple[Consumer, ...]:
    """The consumers that a pin reaches with every fuse whole and every contact closed."""
    return consumers_on_rail(queries, queries.rail(pin)[0])


def is_supply_return(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is the return of a supply, converter or battery, not of a board's regulator."""
    pin, port, part = queries.pin(ref), queries.port(ref.port_ref), queries.part_of(ref.device)
    return (
        pin is not None
        and port is not None
        and part is not None
        and part.kind in ("supply", "battery")
        and pin.function == "zero"
        and any(isinstance(other.electrical, FeedOut) for other in port.pins)
    )


def steady_current_a(queries: Queries, port: PortRef) -> float:
    """What a device takes in all at a port, in A; 0 where its part does not say."""
    found = queries.port(port)
    return sum(
        pin.electrical.current_a or 0.0
        for pin in (found.pins if found else ())
        if isinstance(pin.electrical, FeedIn)
    )


def zero_pin_of(queries: Queries, pin: PinRef, reference: tuple[str, str] | None) -> PinRef | None:
    """The pin that the levels of a signal pin are measured from: the one named, else the zero pin
    of its port, else the first zero pin of the device. What switches or reads is no reference. What
    gives a current by two wires has its way back through the input that reads it.
    """
    if reference is not None:
        return PinRef(device=pin.device, port=reference[0], pin=reference[1])
    port, part = queries.port(pin.port_ref), queries.part_of(pin.device)
    for found in (*((port,) if port else ()), *(part.ports if part else ())):
        for other in found.pins:
            is_signal = isinstance(other.electrical, LogicInput | LogicOutput)
            if other.function in RETURN_FUNCTIONS and not is_signal:
                return PinRef(device=pin.device, port=found.id, pin=other.id)
    return loop_end(queries, pin)


def loop_end(queries: Queries, pin: PinRef) -> PinRef | None:
    """The other end of a loop of 4 to 20 mA at a pin's port, where that has one and no 0 V."""
    port = queries.port(pin.port_ref)
    pins = port.pins if port else ()
    if any(other.function in RETURN_FUNCTIONS for other in pins):
        return None
    return next(
        (
            PinRef(device=pin.device, port=pin.port, pin=other.id)
            for other in pins
            if isinstance(other.electrical, LogicOutput) and other.electrical.drive == "current"
        ),
        None,
    )


def lowest_plus(queries: Queries, device: str) -> PinRef | None:
    """The plus pin of the lowest voltage that a device gives: its logic's."""
    part = queries.part_of(device)
    given = [
        (pin.electrical.nominal_v, PinRef(device=device, port=port.id, pin=pin.id))
        for port in (part.ports if part else ())
        for pin in port.pins
        if isinstance(pin.electrical, FeedOut)
    ]
    return min(given, key=lambda item: item[0])[1] if given else None


def returns_of(queries: Queries, plus: PinRef) -> tuple[PinRef, ...]:
    """The pins by which the current of a source comes back: the zero pins beside its plus."""
    port = queries.port(plus.port_ref)
    return tuple(
        PinRef(device=plus.device, port=plus.port, pin=pin.id)
        for pin in (port.pins if port else ())
        if pin.function == "zero"
    )


@query
def downstream_pins(queries: Queries, fuse: str) -> tuple[PinRef, ...]:
    """Pins behind a fuse up to the next fuse: what its rating has to protect.

    The side that reaches a source without this fuse is its feed; the other side is behind it.
    """
    part = queries.part_of(fuse)
    element = next((e for e in (part.inside if part else ()) if isinstance(e, Fuse)), None)
    if element is None:
        return ()
    sides = [PinRef(device=fuse, port=port, pin=pin) for port, pin in element.pins]
    fed = [
        any(_gives_power(queries, pin) for pin in _reached(queries, side, fuse)) for side in sides
    ]
    if fed[0] == fed[1]:
        return ()
    return _reached(queries, sides[1] if fed[0] else sides[0], None)


def _gives_power(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is that of a source, or the line of what brings mains in."""
    pin = queries.pin(ref)
    is_line = pin is not None and pin.function == "line" and ref in mains_entries(queries)
    return is_line or (pin is not None and isinstance(pin.electrical, FeedOut))


def _reached(queries: Queries, start: PinRef, but_for: str | None) -> tuple[PinRef, ...]:
    """Pins reached through conductors and contacts; with `but_for` through fuses of other devices
    too, without it through no fuse.
    """

    def passes(device: str, element: Element) -> bool:
        other_fuse = isinstance(element, Fuse) and but_for is not None and device != but_for
        return isinstance(element, Contact) or other_fuse

    return tuple(pin for net in nets_reached(queries, [start], passes) for pin in net)


def suits_current(gives: FeedOut, takes: FeedIn) -> bool:
    """Whether what a source gives, direct or alternating current, is what an input works with."""
    return takes.current_type in (gives.current_type, "either")


def gives_alternating(port: Port) -> bool:
    """Whether a port gives alternating current, which has no plus and no 0 V."""
    feeds = (pin.electrical for pin in port.pins)
    return any(isinstance(feed, FeedOut) and feed.current_type == "AC" for feed in feeds)


def current_words(feed: FeedIn | FeedOut) -> str:
    """The type of current that something gives or takes, in words."""
    words = {"DC": "direct current", "AC": "alternating current", "either": "either current"}
    return words[feed.current_type]


def voltage_fit(low_v: float, high_v: float, takes: FeedIn) -> Literal["", "too high", "too low"]:
    """Whether what arrives, at the least and at the most, is within a device's window. Windows are
    given by rated volts, "12 to 24 V": a source that is rated within one, and holds its volts as a
    regulated supply does, is meant by it (IEC 61131-2 lets inputs of 24 V bear −15 to +20 %).
    """
    rated_v, spread_v = (low_v + high_v) / 2, (high_v - low_v) / 2
    if spread_v <= REGULATED * rated_v and takes.v_min_v <= rated_v <= takes.most_v:
        return ""
    if high_v > takes.most_v:
        return "too high"
    return "too low" if low_v < takes.v_min_v else ""
