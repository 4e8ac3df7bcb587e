"""A safety relay in a proposal: its channels through the stops, the doors and the light curtain,
its start button behind the contacts that tell a weld, its own contacts before the coils.
"""

from collections.abc import Iterator
from typing import NamedTuple

from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.model.part import Part, Port
from vervain.ports.port_wishes import opens_by_force
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewCable, NewWire
from vervain.supply.feed_stops import (
    CHANNELS,
    Ends,
    beginnings,
    contact_ends,
    free_coils,
    free_stops,
    made_by,
    mirror_of,
    source_for,
    through_main_contacts,
)


class Channel(NamedTuple):
    """One channel of a relay: what it gives for it, if it does, what it reads, and against what."""

    given: PinRef | None
    read: PinRef
    back: PinRef | None


class SafetyRelay(NamedTuple):
    """What of a safety relay nothing is joined to: channels, start input, contacts that close."""

    device: str
    channels: tuple[Channel, ...]
    start: Ends | None
    contacts: tuple[Ends, ...]


def plan_safety_relay(planner: PlanBuilder) -> None:
    """Wires the one safety relay of a machine to its stops and contactors, where all are free."""
    queries = planner.queries
    relays = list(_free_relays(queries))
    coils = free_coils(queries)
    source = source_for(queries, coils)
    if len(relays) != 1 or not coils or source is None:
        return
    relay = relays[0]
    opened = {**free_stops(queries), **_free_doors(queries)}
    curtain = next(_free_curtains(queries), None)
    if (not opened and curtain is None) or len(relay.contacts) < min(2, len(coils)):
        return
    cables: list[NewCable] = []
    wires: list[NewWire] = []
    begun = beginnings(planner, source, coils, cables, wires)
    if begun is None:
        return
    outlets, ratings, area = begun

    def wire(start: PinRef, end: PinRef, colour: str = "RD") -> None:
        planner.wire(start, end, colour, area, cables, wires)

    first, last = outlets[0], outlets[-1]
    if curtain is not None:
        plus, zero, _ = curtain
        wire(first[0], plus)
        wire(zero, first[1], "BK")
    for number, channel in enumerate(relay.channels):
        start = channel.given or first[0]
        if curtain is not None:
            outputs = curtain[2]
            start = outputs[min(number, len(outputs) - 1)]
        for contacts in opened.values():
            near, far = contacts[min(number, len(contacts) - 1)]
            if number < len(contacts):
                wire(start, near)
                start = far
        wire(start, channel.read)
        if channel.back is not None:
            wire(channel.back, first[1], "BK")
    for number, told in enumerate(coils):
        near, far = relay.contacts[number % len(relay.contacts)]
        if number < len(relay.contacts):
            wire(last[0], near)
        wire(far, told.plus)
        if told.minus is not None:
            wire(told.minus, last[1], "BK")
    worked = [told.plus.device for told in coils]
    named = (*opened, *((curtain[0].device,) if curtain is not None else ()))
    planner.add(
        FeedStep(
            words=f"{names_in_words(named)} to {relay.device}, {relay.device} to "
            f"{names_in_words(tuple(worked))}",
            reason="Each channel by contacts of its own; the relay sees when they differ.",
            cables=tuple(cables),
            wires=tuple(wires),
            ratings=ratings,
            needs=made_by(planner, first[0].device),
        )
    )
    _plan_start(planner, relay, worked)
    through_main_contacts(planner, worked)


def _plan_start(planner: PlanBuilder, relay: SafetyRelay, worked: list[str]) -> None:
    """The start button in line with the contacts that a welded contactor keeps open."""
    queries = planner.queries
    button = next(_free_buttons(queries), None)
    if relay.start is None:
        return
    if button is None:
        planner.decisions.append(f"{relay.device} wants a start button: add one.")
        return
    mirrors = [ends for name in worked if (ends := mirror_of(queries, name)) is not None]
    cables: list[NewCable] = []
    wires: list[NewWire] = []
    given, read = relay.start
    start = given
    for near, far in (*mirrors, button):
        planner.wire(start, near, "BU", 0.5, cables, wires)
        start = far
    planner.wire(start, read, "BU", 0.5, cables, wires)
    names = names_in_words(tuple(near.device for near, _ in mirrors))
    planner.add(
        FeedStep(
            words=f"{button[0].device} starts {relay.device}"
            + (f", behind {names}" if mirrors else ""),
            reason="A contactor that welded keeps the machine from starting." if mirrors
            else "It starts on purpose only.",
            cables=tuple(cables),
            wires=tuple(wires),
        )
    )  # fmt: skip


def _free_relays(queries: Queries) -> Iterator[SafetyRelay]:
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.kind == "relay module" else ():
            if part is not None and port.kind == "stop input" and _is_free(queries, name, port):
                channels = tuple(_channels(name, port))
                closing = [
                    element
                    for element in part.inside
                    if isinstance(element, Contact)
                    and (element.worked_by, element.rest) == (port.id, "NO")
                ]
                ends = [contact_ends(name, element) for element in closing]
                contacts = tuple(
                    pair for pair in ends if not any(steps_from(queries, ref) for ref in pair)
                )
                start = _start(queries, name, part, closing)
                yield SafetyRelay(name, channels, start, contacts)


def _channels(name: str, port: Port) -> Iterator[Channel]:
    """The channels of a stop input: what it gives stands before what it reads."""
    given = [PinRef(device=name, port=port.id, pin=p.id) for p in port.pins if p.function == "plus"]
    for number, (plus, minus) in enumerate(CHANNELS):
        read = next((pin for pin in port.pins if pin.function == plus), None)
        back = next((pin for pin in port.pins if pin.function == minus), None)
        if read is not None:
            yield Channel(
                given[min(number, len(given) - 1)] if given else None,
                PinRef(device=name, port=port.id, pin=read.id),
                PinRef(device=name, port=port.id, pin=back.id) if back is not None else None,
            )


def _start(queries: Queries, name: str, part: Part, contacts: list[Contact]) -> Ends | None:
    """What a relay gives its start button, and where it reads it; None where that is taken."""
    port = next((p for c in contacts if c.started_by and (p := part.port(c.started_by))), None)
    if port is None or not _is_free(queries, name, port):
        return None
    given = next((pin for pin in port.pins if pin.function == "plus"), None)
    read = next((pin for pin in port.pins if isinstance(pin.electrical, LogicInput)), None)
    if given is None or read is None:
        return None
    here = [PinRef(device=name, port=port.id, pin=pin.id) for pin in (given, read)]
    return here[0], here[1]


def _is_free(queries: Queries, name: str, port: Port) -> bool:
    return not any(
        steps_from(queries, PinRef(device=name, port=port.id, pin=pin.id)) for pin in port.pins
    )


def _free_doors(queries: Queries) -> dict[str, list[Ends]]:
    """The contacts that open by force of each guard switch, where nothing is joined to them."""
    found: dict[str, list[Ends]] = {}
    for name in queries.devices():
        part = queries.part_of(name)
        contacts = [
            contact_ends(name, element)
            for element in (part.inside if part is not None else ())
            if isinstance(element, Contact) and element.rest == "NC"
            and part is not None and opens_by_force(part, element.pins[0][0])
        ]  # fmt: skip
        if contacts and not any(steps_from(queries, ref) for ends in contacts for ref in ends):
            found[name] = contacts
    return found


def _free_curtains(queries: Queries) -> Iterator[tuple[PinRef, PinRef, list[PinRef]]]:
    """The plus, the 0 V and the safety outputs of each light curtain that nothing is joined to."""
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.kind == "sensor" else ():
            if port.kind != "stop contacts":
                continue
            at = {
                function: [
                    PinRef(device=name, port=port.id, pin=pin.id)
                    for pin in port.pins if pin.function == function
                ]
                for function in ("plus", "zero")
            }  # fmt: skip
            outputs = [
                PinRef(device=name, port=port.id, pin=pin.id)
                for pin in port.pins if isinstance(pin.electrical, LogicOutput)
            ]  # fmt: skip
            taken = any(steps_from(queries, ref) for ref in (*at["plus"], *at["zero"], *outputs))
            if at["plus"] and at["zero"] and outputs and not taken:
                yield at["plus"][0], at["zero"][0], outputs


def _free_buttons(queries: Queries) -> Iterator[Ends]:
    """The contacts that a hand closes of switches that nothing is joined to."""
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind != "switch" or queries.hookups_of(name):
            continue
        for element in part.inside:
            port = part.port(element.pins[0][0]) if isinstance(element, Contact) else None
            if (
                isinstance(element, Contact) and port is not None and port.kind == "contact"
                and (element.rest, element.worked_by) == ("NO", "hand")
            ):  # fmt: skip
                yield contact_ends(name, element)
