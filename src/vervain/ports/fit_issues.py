"""Everything that is against a plug in a port, and what each thing would need."""

from collections.abc import Iterator

from vervain.electrical.coils import ends_of_coil, is_bare_coil
from vervain.electrical.feeds import (
    PLUS_FUNCTIONS,
    current_words,
    sources_of,
    suits_current,
    voltage_fit,
)
from vervain.electrical.levels import levels_of, supply_v
from vervain.electrical.outputs import carries_a
from vervain.model.connectors import connector_of, connector_words, missing_to_mate
from vervain.model.electrical import FeedIn, LogicOutput
from vervain.model.elements import Bridge
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import BOARD_KINDS, PartKind, Pin, Port
from vervain.ports.belonging import is_of_another_drive, partner_of_another_axis
from vervain.ports.extension import extension_length_m, short_by_m
from vervain.ports.insertions import Adapter, DiodeAt, Extension
from vervain.ports.occupancy import kept_for
from vervain.ports.shared_commons import met_at_common
from vervain.ports.signal_issues import FitIssue, contact_troubles, signal_troubles
from vervain.queries.connectivity import is_joint, occupants
from vervain.queries.device_groups import axis_with_driver
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import ports_at_one_pin
from vervain.text.name_words import name_words, says
from vervain.text.units import in_length, volts_words

# What an output for loads carries at the least; one that gives levels carries less.
LEAST_LOAD_A = 0.1
OF_CONTACTS = ("no", "nc", "com")
# What hears a string of its own, and no bus of others.
LIGHTS: tuple[PartKind, ...] = ("lamp", "load")


def troubles_of(
    queries: Queries, device_port: PortRef, host_port: PortRef, pairs: tuple[tuple[str, str], ...]
) -> Iterator[FitIssue]:
    """Everything against joining these pins, and what each would need."""
    yield from _resource_troubles(queries, device_port, host_port, pairs)
    yield from _bus_troubles(queries, device_port, host_port)
    for our_id, their_id in pairs:
        ours = PinRef(device=device_port.device, port=device_port.port, pin=our_id)
        theirs = PinRef(device=host_port.device, port=host_port.port, pin=their_id)
        mine, host = queries.pin(ours), queries.pin(theirs)
        if mine is None or host is None:
            continue
        if isinstance(mine.electrical, FeedIn) and mine.function in PLUS_FUNCTIONS:
            refusal = feed_refusal(queries, theirs, mine.electrical)
            if refusal:
                yield FitIssue(reason=refusal, refuses=True)
        if shared := _shared_by(queries, ours, theirs):
            reason = (
                f"{mine.text} is common to {' and '.join(shared)}: one output would work another's."
            )
            if mine.function == "load+":
                # What lamps have together may be either; the part was taken for one with a plus.
                reason += f" If it is their minus, write “{mine.text} −” with the part."
            yield FitIssue(reason=reason, refuses=True)
        for source, sink in ((ours, theirs), (theirs, ours)):
            yield from signal_troubles(queries, source, sink)
        if mine.function in OF_CONTACTS:
            yield from contact_troubles(queries, theirs, _leads_to_plus(queries, host_port, pairs))
    part, port = queries.part_of(device_port.device), queries.port(device_port)
    host_part, there = queries.part_of(host_port.device), queries.port(host_port)
    if part is None or port is None or host_part is None or there is None:
        return
    if _has_cable(queries, device_port):
        return
    short_m = short_by_m(queries, device_port, host_port)
    needs = missing_to_mate(part, port, host_part, there)
    if short_m:
        length_m = extension_length_m(short_m)
        yield FitIssue(
            reason=f"Its leads are {in_length(port.lead_length_m)}, "
            f"{in_length(short_m, '.2g')} too short.",
            needs=f"an extension of {in_length(length_m)}",
            adds=Extension(length_m=length_m),
        )
    elif needs:
        words = f"{connector_words(port.connector)} against {connector_words(there.connector)}."
        yield FitIssue(reason=words, needs=needs, adds=Adapter(words=needs))


def _leads_to_plus(
    queries: Queries, host_port: PortRef, pairs: tuple[tuple[str, str], ...]
) -> bool:
    """Whether the other lead of a contact comes to a plus of the port."""
    ends = (PinRef(device=host_port.device, port=host_port.port, pin=pin) for _, pin in pairs)
    return any(pin.function == "plus" for end in ends if (pin := queries.pin(end)) is not None)


def _bus_troubles(queries: Queries, device_port: PortRef, host_port: PortRef) -> Iterator[FitIssue]:
    """What speaks over another bus than the port is for: by clock and select lines, over two wires
    with a clock, or without any.
    """
    ours, theirs = queries.port(device_port), queries.port(host_port)
    if ours is None or theirs is None or ours.kind != "bus" or theirs.kind != "bus":
        return
    part, host = queries.part_of(device_port.device), queries.part_of(host_port.device)
    if part is not None and host is not None and (part.kind in LIGHTS) != (host.kind in LIGHTS):
        other = host if part.kind in LIGHTS else part
        named = f"{other.title} {host_port.port}"
        if other.kind not in BOARD_KINDS or (
            other.kind == "signal converter" and not says(named, name_words().lights)
        ):
            reason = f"{device_port.device} and {host_port.device} are no parts of one string."
            yield FitIssue(reason=reason, refuses=True)
    mine, there = bus_words(ours), bus_words(theirs)
    if mine and there and mine != there:
        yield FitIssue(reason=f"It is {there}; {device_port.device} is on {mine}.", refuses=True)


def bus_words(port: Port) -> str:
    """Which bus a port is of, in words; "" where its pins do not say: lines of data alone may be
    those of one wire, or of a serial port.
    """
    functions = {pin.function for pin in port.pins}
    if "clock" in functions:
        is_selected = bool(functions & {"select", "transmit", "receive"})
        return "a bus with select lines" if is_selected else "a bus of a clock and a data line"
    return "a bus of two wires in opposition" if functions & {"data+", "data-"} else ""


def _shared_by(queries: Queries, ours: PinRef, theirs: PinRef) -> tuple[str, ...]:
    """The other plugs of a device whose common a port would switch: lamps with one lead together,
    at contacts of relays or at outputs that switch plus.
    """
    port, host, part = (
        queries.port(ours.port_ref), queries.port(theirs.port_ref), queries.part_of(ours.device)
    )  # fmt: skip
    pin = queries.pin(theirs)
    if port is None or port.kind != "load" or host is None or pin is None or part is None:
        return ()
    is_switched = isinstance(pin.electrical, LogicOutput) or (
        host.kind == "relay contact" and pin.function in ("no", "nc")
    )
    at = (ours.port, ours.pin)
    joined = [element.pins for element in part.inside if isinstance(element, Bridge)]
    others = {other for pins in joined if at in pins for other, _ in pins} - {ours.port}
    return tuple(sorted(others)) if is_switched else ()


def _has_cable(queries: Queries, plug: PortRef) -> bool:
    """Whether a plug is in an in-line connector or on a cable, and does not meet the port."""
    for name in queries.cables():
        cable = queries.cable(name)
        if cable is not None and cable.attached_to == plug:
            return True
    return any(
        hookup.cable is not None
        or any(is_joint(queries, end.device) for end in (hookup.a, hookup.b))
        for hookup in queries.hookups_of(plug.device)
        if plug in (hookup.a, hookup.b)
    )


def line_troubles(queries: Queries, ours: PinRef, theirs: PinRef) -> Iterator[FitIssue]:
    """Everything against a signal of a plug at a line, whatever else the plug needs."""
    mine, host = queries.pin(ours), queries.pin(theirs)
    if mine is not None and host is not None:
        yield from _lacking_abilities(mine, host)
    for source, sink in ((ours, theirs), (theirs, ours)):
        yield from signal_troubles(queries, source, sink)


def _lacking_abilities(mine: Pin, host: Pin) -> Iterator[FitIssue]:
    """What a pin wants of a controller's that this cannot do."""
    lacking = [w for w in mine.wants if host.abilities is not None and w not in host.abilities]
    if lacking:
        yield FitIssue(reason=f"It needs {' and '.join(lacking)}.", refuses=True)


def _takes_what_nobody_says(queries: Queries, plug: PortRef) -> bool:
    """Whether a plug is that of a coil or another load of which no current is given; what controls
    a relay of semiconductors takes little.
    """
    port, part = queries.port(plug), queries.part_of(plug.device)
    is_load = port is not None and port.kind in ("load", "coil")
    feeds = [pin.electrical for pin in (port.pins if port is not None and is_load else ())]
    is_control = part is not None and part.kind == "solid-state relay"
    return not is_control and any(
        isinstance(feed, FeedIn) and feed.current_a is None for feed in feeds
    )


def _bare_coil(queries: Queries, plug: PortRef) -> Iterator[FitIssue]:
    """What a coil wants across it at an output that has no way for its current."""
    part, port = queries.part_of(plug.device), queries.port(plug)
    ends = ends_of_coil(part, port) if part is not None and port is not None else None
    if ends is not None:
        plus, back = (PinRef(device=plug.device, port=plug.port, pin=end.id) for end in ends)
        yield FitIssue(
            reason="It is a coil, and the output has no way for its current.",
            needs="a diode across it", adds=DiodeAt(back=back, plus=plus),
        )  # fmt: skip


def _resource_troubles(
    queries: Queries, device_port: PortRef, host_port: PortRef, pairs: tuple[tuple[str, str], ...]
) -> Iterator[FitIssue]:
    """What the port cannot give: abilities, current, a pin of its own, freedom from a jumper."""
    ours, theirs = queries.port(device_port), queries.port(host_port)
    part = queries.part_of(host_port.device)
    if ours is None or theirs is None or part is None:
        return
    wanted_a = sum(
        p.electrical.current_a or 0 for p in ours.pins if isinstance(p.electrical, FeedIn)
    )
    contact = connector_of(theirs.connector)
    most_a = contact.contact_max_a if contact else None
    if theirs.kind == "switched output" and most_a is not None and wanted_a > most_a:
        reason = f"It takes {wanted_a:.3g} A; a contact there carries {most_a:g} A."
        yield FitIssue(reason=reason, refuses=True)
    for our_id, their_id in pairs:
        mine, host = ours.pin(our_id), theirs.pin(their_id)
        if mine is None or host is None:
            continue
        yield from _lacking_abilities(mine, host)
        output = host.electrical
        there = PinRef(device=host_port.device, port=host_port.port, pin=their_id)
        if isinstance(mine.electrical, FeedIn) and isinstance(output, LogicOutput):
            yield from _too_few_volts(queries, there, output, mine.electrical)
        limit = carries_a(queries, there)
        if mine.function == "receive":
            # It is told something there, and fed beside.
            limit = None
        if theirs.kind == "switched output" and limit is not None and wanted_a > limit:
            yield FitIssue(reason=f"It takes {wanted_a:.3g} A of {limit:g} A.", refuses=True)
        elif (
            isinstance(output, LogicOutput)
            and limit is not None
            and limit < LEAST_LOAD_A
            and _takes_what_nobody_says(queries, device_port)
        ):
            reason = f"How much it takes is not given; the output carries {limit:g} A."
            yield FitIssue(reason=reason, refuses=True)
    if is_bare_coil(queries, device_port, host_port):
        yield from _bare_coil(queries, device_port)
    axis = axis_with_driver(queries, device_port.device)
    other = partner_of_another_axis(queries, host_port, axis) if axis is not None else None
    if other is not None:
        reason = f"It belongs with {other[0].port}, where {other[1]} is."
        yield FitIssue(reason=reason, refuses=True)
    if of_another := is_of_another_drive(queries, device_port, host_port):
        yield FitIssue(reason=of_another, refuses=True)
    if (met := met_at_common(queries, device_port, host_port)) is not None:
        reason = f"Its common is that of {met.device}, which has a feed of its own."
        yield FitIssue(reason=reason, refuses=True)
    shared = _shared_with(queries, device_port, host_port)
    if shared:
        yield FitIssue(reason=shared, refuses=True)
    kept = kept_for(queries, host_port)
    if kept:
        yield FitIssue(reason=f"It is kept free for {kept}.", needs=f"it given up for {kept}")
    for item in theirs.reserved:
        option = part.option(item.option)
        if queries.setting(host_port.device, item.option) == item.value and option is not None:
            free = next((c for c in option.choices if c != item.value), "")
            yield FitIssue(
                reason=f"{option.title} {item.value}.",
                needs=f"{item.option} {free}",
                option=(item.option, free),
            )


def _too_few_volts(
    queries: Queries, there: PinRef, output: LogicOutput, takes: FeedIn
) -> Iterator[FitIssue]:
    """What is against a load at an output that gives a level: other volts than it takes."""
    levels = levels_of(output, supply_v(queries, there))
    if output.drive != "push-pull" or levels.high_max_v is None or takes.v_max_v is None:
        return
    if voltage_fit(levels.high_max_v, levels.high_max_v, takes):
        window = volts_words(takes.v_min_v, takes.v_max_v)
        reason = f"It gives {levels.high_max_v:.3g} V; the load takes {window}."
        yield FitIssue(reason=reason, refuses=True)


def _shared_with(queries: Queries, device_port: PortRef, host_port: PortRef) -> str:
    """Which used port the pins of a host port are shared with, in words."""
    for name, other in ports_at_one_pin(queries, host_port):
        users = [user for user in occupants(queries, other) if user != device_port]
        if users:
            return f"It shares {name} with {other.port}, where {users[0].device} sits."
    return ""


def feed_refusal(queries: Queries, host_pin: PinRef, wants: FeedIn) -> str:
    """Why what a pin gives is not for a feed, by its current or its volts; "" where it is."""
    for source in sources_of(queries, host_pin):
        if not suits_current(source.feed, wants):
            return f"{current_words(source.feed)} there; it takes {current_words(wants)}."
        verdict = voltage_fit(source.feed.lowest_v, source.feed.highest_v, wants)
        if verdict == "too high":
            most = f"up to {source.feed.highest_v:.4g} V there"
            return f"{most}; it takes at most {wants.most_v:g} V."
        if verdict == "too low":
            least = f"as little as {source.feed.lowest_v:.4g} V there"
            return f"{least}; it needs at least {wants.v_min_v:g} V."
    return ""
