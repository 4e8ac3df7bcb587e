"""A safety relay in a proposal: its channels through the stops, the doors and the light curtain,
its start button behind the contacts that tell a weld, its own contacts before the coils.
"""

from collections.abc import Iterator
from typing import NamedTuple

from msgspec.structs import replace

from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.model.part import Part, Port
from vervain.ports.port_wishes import opens_by_force
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.what_goes import goes_at_stop
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_sources import FeedSource
from vervain.supply.feed_stopped_loads import lead_loads_through
from vervain.supply.feed_stops import (
    Told,
    beginnings,
    free_coils,
    made_by,
    source_for,
    stop_inputs,
)
from vervain.supply.feed_told import read_contacts
from vervain.supply.main_contacts import through_main_contacts
from vervain.supply.stop_contacts import (
    CHAIN_MM2,
    CHANNELS,
    Ends,
    contact_ends,
    contacts_that_rest,
    free_stops,
    mirror_of,
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


class Curtain(NamedTuple):
    """A light curtain that nothing is joined to: its feed, and its safety outputs."""

    plus: PinRef
    zero: PinRef
    outputs: tuple[PinRef, ...]


class Line(NamedTuple):
    """What the channels of a relay go through: the contacts of each stop and door in it, and the
    outputs of a light curtain that they begin at.
    """

    contacts: dict[str, list[Ends]]
    curtain: Curtain | None

    @property
    def names(self) -> tuple[str, ...]:
        """The devices in it."""
        return (*self.contacts, *((self.curtain.plus.device,) if self.curtain else ()))


def plan_safety_relay(planner: PlanBuilder) -> None:
    """Wires the one safety relay of a machine to its stops, its contactors and the stop inputs of
    its drives, where all are free.
    """
    queries = planner.queries
    relays = list(_free_relays(queries))
    coils = free_coils(queries)
    source = source_for(queries, coils)
    if len(relays) != 1 or source is None:
        return
    relay = relays[0]
    behind = _behind_contacts(queries, relay, coils, source)
    line = Line(
        {**free_stops(queries), **_free_doors(queries)}, next(_free_curtains(queries), None)
    )
    if not line.names or not any(behind) or len(relay.contacts) < min(2, len(coils)):
        return
    wiring = Wiring(planner, CHAIN_MM2)
    begun = beginnings(planner, source, coils, wiring.cables, wiring.wires)
    if begun is None:
        return
    outlets, wiring.area_mm2 = begun.outlets, begun.area_mm2
    _wire_channels(wiring, relay, line, outlets[0])
    _wire_behind(wiring, relay, behind, outlets[-1])
    worked = [told.plus.device for told in coils]
    names = tuple(dict.fromkeys(told.plus.device for rows in behind for told in rows))
    words = (
        f"{names_in_words(line.names)} to {relay.device}, {relay.device} to {names_in_words(names)}"
    )
    needs = made_by(planner, outlets[0][0].device)
    step = wiring.step(words, _worth(relay, line))
    planner.add(replace(step, ratings=begun.ratings, adds=begun.adds, needs=needs))
    _plan_start(planner, relay, worked, wiring.area_mm2)
    spare = [ends for ends, rows in zip(relay.contacts, behind, strict=True) if not rows]
    spare = lead_loads_through(planner, spare)
    _tell_the_board(planner, relay, source, spare)
    through_main_contacts(planner, worked)


def _wire_channels(wiring: Wiring, relay: SafetyRelay, line: Line, outlet: Ends) -> None:
    """Each channel from what gives it through one contact of every stop and door to its input."""
    plus, zero = outlet
    if line.curtain is not None:
        wiring.join(plus, line.curtain.plus, "RD")
        wiring.join(line.curtain.zero, zero, "BK")
    for number, channel in enumerate(relay.channels):
        start = channel.given or plus
        if line.curtain is not None:
            outputs = line.curtain.outputs
            start = outputs[min(number, len(outputs) - 1)]
        passed = [ends[number] for ends in line.contacts.values() if number < len(ends)]
        wiring.string(start, passed, channel.read, "RD")
        if channel.back is not None:
            wiring.join(channel.back, zero, "BK")


def _behind_contacts(
    queries: Queries, relay: SafetyRelay, coils: list[Told], source: FeedSource
) -> list[list[Told]]:
    """What hangs behind each contact of a relay: the coils in turn, and of the drives that must
    stop one channel each.
    """
    behind: list[list[Told]] = [[] for _ in relay.contacts]
    if not behind:
        return []
    for number, told in enumerate(coils):
        behind[number % len(behind)].append(told)
    for channel, rows in stop_inputs(queries, source).items():
        behind[channel % len(behind)] += [
            told for told in rows
            if told.plus.device != relay.device and goes_at_stop(queries, told.plus.device)
        ]  # fmt: skip
    return behind


def _wire_behind(
    wiring: Wiring, relay: SafetyRelay, behind: list[list[Told]], outlet: Ends
) -> None:
    """Each coil and stop input behind its contact, one after the other, and back."""
    plus, back = outlet
    for (near, start), rows in zip(relay.contacts, behind, strict=True):
        if rows:
            wiring.join(plus, near, "RD")
        for told in rows:
            wiring.join(start, told.plus, "RD")
            start = told.plus
            if told.minus is not None:
                wiring.join(told.minus, back, "BK")
                back = told.minus


def _worth(relay: SafetyRelay, line: Line) -> str:
    """What the channels are worth: those that no contact of a stop lies in see nothing of it."""
    count = len(relay.channels)
    short = tuple(name for name, ends in line.contacts.items() if len(ends) < count)
    if count == 1:
        return "One channel: a contact that sticks is not seen."
    if not short:
        return "Each channel by contacts of its own; the relay sees when they differ."
    has = "has" if len(short) == 1 else "have"
    return f"{names_in_words(short)} {has} one contact: only the first channel opens."


def _plan_start(
    planner: PlanBuilder, relay: SafetyRelay, worked: list[str], area_mm2: float
) -> None:
    """The start button in line with the contacts that a welded contactor keeps open."""
    queries = planner.queries
    button = next(_free_buttons(queries), None)
    if relay.start is None:
        return
    if button is None:
        planner.decisions.append(f"{relay.device} wants a start button: add one.")
        return
    mirrors = [ends for name in worked if (ends := mirror_of(queries, name)) is not None]
    wiring = Wiring(planner, area_mm2)
    given, read = relay.start
    wiring.string(given, (*mirrors, button), read, "BU")
    names = names_in_words(tuple(near.device for near, _ in mirrors))
    words = f"{button[0].device} starts {relay.device}" + (f", behind {names}" if mirrors else "")
    planner.add(
        wiring.step(
            words,
            "A contactor that welded keeps the machine from starting." if mirrors
            else "It starts on purpose only.",
        )
    )  # fmt: skip


def _tell_the_board(
    planner: PlanBuilder, relay: SafetyRelay, source: FeedSource, spare: list[Ends]
) -> None:
    """A contact of the relay that nothing hangs behind, to an input of the controller: one that
    opens when it stops, else one that closes.
    """
    queries = planner.queries
    part = queries.part_of(relay.device)
    closing = [
        contact_ends(relay.device, element)
        for element in (contacts_that_rest(part, "NC") if part is not None else ())
    ]
    free = [
        ends for ends in (*spare, *closing) if not any(steps_from(queries, ref) for ref in ends)
    ]
    if free:
        read_contacts(
            planner, source, free[:1], "The controller is told, and starts again on purpose only."
        )


def _free_relays(queries: Queries) -> Iterator[SafetyRelay]:
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.is_safety_relay else ():
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
    # What has S34 alone takes what is given to a channel: S11.
    given = next(
        (
            PinRef(device=name, port=at.id, pin=pin.id)
            for at in (port, *(p for p in part.ports if p.kind == "stop input"))
            for pin in at.pins if pin.function == "plus"
        ),
        None,
    )  # fmt: skip
    read = next((pin for pin in port.pins if isinstance(pin.electrical, LogicInput)), None)
    if given is None or read is None:
        return None
    return given, PinRef(device=name, port=port.id, pin=read.id)


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


def _free_curtains(queries: Queries) -> Iterator[Curtain]:
    """The light curtains that nothing is joined to."""
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
                yield Curtain(at["plus"][0], at["zero"][0], tuple(outputs))


def _free_buttons(queries: Queries) -> Iterator[Ends]:
    """The contacts that a hand closes of switches that nothing is joined to."""
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind != "switch":
            continue
        for element in part.inside:
            port = part.port(element.pins[0][0]) if isinstance(element, Contact) else None
            if (
                isinstance(element, Contact) and port is not None and port.kind == "contact"
                and (element.rest, element.worked_by) == ("NO", "hand")
                and _is_free(queries, name, port)
            ):  # fmt: skip
                yield contact_ends(name, element)
