"""What a described board has inside: what is joined on it, and the contacts of its relays."""

import re
from collections.abc import Iterator, Mapping

from vervain.catalogue.board_draft import BoardDraft
from vervain.catalogue.board_limits import FOR_LOGIC
from vervain.catalogue.boards import CONTACTS, circuit_keys, passed_on
from vervain.catalogue.circuits import circuit_named
from vervain.catalogue.lines_apart import OF_RELAYS
from vervain.catalogue.port_groups import PortGroup
from vervain.catalogue.port_roles import BUS_FUNCTIONS
from vervain.catalogue.processor_lines import pins_in_common
from vervain.model.electrical import LogicInput
from vervain.model.elements import Bridge, Contact, Element, PinAt
from vervain.model.part import PartKind, PinFunction, Port, is_safety_relay
from vervain.model.ways_back import is_return_of

# What works the contacts of a part that has neither a coil nor a foot.
WORKED_ALONE: dict[PartKind, str] = {
    "radio receiver": "radio", "frequency inverter": "fault", "servo drive": "fault",
    "tool power source": "arc", "signal converter": "fault",
    "controller": "program",
}  # fmt: skip
FEEDS: tuple[PinFunction, ...] = ("plus", "zero", "pe")
# A 0 V that is printed as one; a common, COM, may be anybody's.
IS_GROUND = re.compile(r"^(?:[DS]?GND|0\s?V)\d?$", re.I)


def joined_names(
    groups: tuple[PortGroup, ...], circuits: Mapping[str, str], is_isolated: bool = False
) -> tuple[str, ...]:
    """The names of pins that are offered as joined on the board: 0 V, earth, the pluses of one
    name, the lines of a bus that goes on from a second socket, the 0 V of what is not isolated with
    that of the feed, and the plus of loads with its plus. `is_isolated` is of a converter.
    """
    passed = [name for group in groups for name in passed_on(group, groups)]
    grounds = _grounds(groups, circuits) | ({} if is_isolated else _through(groups))
    return tuple(dict.fromkeys((*_several(groups), *grounds, *passed)))


def joined_with(groups: tuple[PortGroup, ...], name: str) -> str:
    """What else a pin that is joined on the board is joined with, where that has another name: the
    0 V that a converter takes; "" of all others.
    """
    if name not in _through(groups):
        return ""
    taken = (
        pin.name for group in groups if group.role.kind == "feed in"
        for pin in group.pins if pin.function == "zero" and pin.name != name
    )  # fmt: skip
    return next(taken, "")


def called_isolated(title: str) -> bool:
    """Whether a converter of a name has no copper from what it takes to what it gives."""
    return re.search(r"\bisolated\b", title, re.I) is not None and "non" not in title.casefold()


def _through(groups: tuple[PortGroup, ...]) -> dict[str, tuple[str, ...]]:
    """The 0 V that a converter gives, which is that it takes, whatever it is called; each with its
    ports.
    """
    kinds = {group.role.kind for group in groups}
    if kinds != {"feed in", "feed out"}:
        return {}
    zeros = {
        kind: {
            pin.name: group.ports for group in groups if group.role.kind == kind
            for pin in group.pins if pin.function == "zero"
        }
        for kind in ("feed in", "feed out")
    }  # fmt: skip
    return zeros["feed out"] if zeros["feed in"] else {}


def _several(groups: tuple[PortGroup, ...]) -> tuple[str, ...]:
    """The names of feeds and of bus lines that are there several times."""
    count: dict[str, int] = {}
    # What a converter takes is not what it gives, whatever both are called.
    taken, given = (
        {p.name for g in groups if g.role.kind == kind for p in g.pins if p.function == "plus"}
        for kind in ("feed in", "feed out")
    )
    for group in groups:
        for pin in group.pins:
            if pin.function == "plus" and pin.name in taken & given:
                continue
            on_bus = _goes_to_all(group, pin.function)
            # One terminal for the contacts of several relays.
            shared = pin.function == "com" and OF_RELAYS.match(pin.name)
            if on_bus or shared or pin.function in FEEDS:
                count[pin.name] = count.get(pin.name, 0) + len(group.ports)
    return tuple(name for name, number in count.items() if number > 1)


def _goes_to_all(group: PortGroup, function: PinFunction) -> bool:
    """Whether a line of a bus is that of every socket: not so a serial line, which goes from one
    to one, where no clock is beside it.
    """
    clocked = any(pin.function in ("clock", "select") for pin in group.pins)
    is_serial = function in ("transmit", "receive") and not clocked
    return group.role.kind == "bus" and function in BUS_FUNCTIONS and not is_serial


def _grounds(
    groups: tuple[PortGroup, ...], circuits: Mapping[str, str]
) -> dict[str, tuple[str, ...]]:
    """The names of 0 V that inputs and outputs have which are not isolated, each with the ports of
    these: their levels are measured from the 0 V of the feed, whatever is printed at theirs.
    """
    found: dict[str, tuple[str, ...]] = {}
    if not any(
        group.role.kind == "feed in" and group.function(number) == "zero"
        for group in groups
        for number in range(len(group.pins))
    ):
        # What mains feed has no 0 V that anything could be measured from.
        return found
    for group in groups:
        known = [circuit_named(circuits.get(key, "")) for key in circuit_keys(group)]
        limits = [circuit.electrical for circuit in known if circuit is not None]
        # Of what nothing is given an output, and whatever is printed GND, is expected to have the
        # way back of the board.
        is_told = bool(limits) or group.role.kind == "switched output"
        if any(isinstance(e, LogicInput) and e.isolated for e in limits):
            continue
        for port_id, names in zip(group.ports, group.names, strict=True):
            for number, name in enumerate(names):
                # The minus of a pair of its own, ALM+ and ALM−, is that of a transistor apart; of
                # pulses, XP+ and XP−, it is as low as the 0 V while they are given.
                is_apart = group.role.end == "device" and any(is_return_of(name, o) for o in names)
                expected = is_told or (group.role.end == "host" and IS_GROUND.match(name))
                if group.function(number) == "zero" and not is_apart and expected:
                    found[name] = (*found.get(name, ()), port_id)
    return found


def _joined_pins(
    draft: BoardDraft, ports: tuple[Port, ...], name: str, feeds: list[Port]
) -> tuple[tuple[str, str], ...]:
    """The pins of a name that are one copper, with the pin of the feed where that is theirs: of
    several feeds outputs have their plus from the one that is not for the logic.
    """
    through = {} if draft.is_isolated else _through(draft.groups)
    grounds = (through | _grounds(draft.groups, draft.circuits)).get(name, ())
    # What is called alike by itself is joined; another 0 V only where nothing isolates it.
    passed = any(name in passed_on(group, draft.groups) for group in draft.groups)
    within = None if passed or name in _several(draft.groups) else grounds
    # The common of a relay's contact may be called as that of inputs is.
    pins = tuple(
        (port.id, pin.id)
        for port in ports
        for pin in port.pins
        if pin.name == name and (within is None or port.id in within)
        and (pin.function in FEEDS or pin.function in BUS_FUNCTIONS or OF_RELAYS.match(name))
    )  # fmt: skip
    wanted = {function for function, has in (("zero", grounds), ("plus", passed)) if has}
    feed = next((port for port in feeds if passed and not _is_for_logic(port)), None)
    own = [
        (port.id, pin.id) for port in ([feed] if feed is not None else feeds[:1])
        for pin in port.pins if pin.function in wanted and pin.name != name
    ]  # fmt: skip
    return (*pins, *own)


def _is_for_logic(feed: Port) -> bool:
    """Whether a feed is what the logic of a board is fed with, by the name of its plus."""
    return any(pin.function == "plus" and FOR_LOGIC.match(pin.text) for pin in feed.pins)


def _commons_of_contacts(
    groups: tuple[PortGroup, ...], ports: tuple[Port, ...]
) -> Iterator[Bridge]:
    """The common of outputs that were said to be relays: one terminal, beside each of them."""
    for group in groups:
        if group.role.kind not in CONTACTS or not group.is_of_outputs:
            continue
        at: dict[str, list[PinAt]] = {}
        for port in ports:
            if port.id in group.ports:
                for pin in port.pins:
                    if pin.function == "com":
                        at.setdefault(pin.name or pin.id, []).append((port.id, pin.id))
        yield from (Bridge(pins=tuple(pins)) for pins in at.values() if len(pins) > 1)


def board_inside(
    draft: BoardDraft, ports: tuple[Port, ...], workers: Mapping[str, PinAt]
) -> tuple[Element, ...]:
    """Copper between pins of one name, and the contacts of relays: each worked by the pin that
    `workers` has for its port, else by its channel.
    """
    found: list[Element] = []
    feeds = [p for p in ports if p.kind == "feed in" and p.end == "device"]
    for name in joined_names(draft.groups, draft.circuits, draft.is_isolated):
        pins = _joined_pins(draft, ports, name, feeds)
        if name not in draft.apart and len(pins) > 1:
            found.append(Bridge(pins=pins))
    found += _commons_of_contacts(draft.groups, ports)
    found += pins_in_common(draft, ports)
    is_safety = is_safety_relay(draft.kind, (port.kind for port in ports))
    if is_safety:
        found += _given_on(ports)
    channels = [port.id for port in ports if port.kind == "load"]
    # A relay with a stop input is a safety relay: that works every contact, and a button at an
    # input starts it.
    stop_input = next((port.id for port in ports if port.kind == "stop input"), None)
    start_input = next((port.id for port in ports if port.kind == "digital input"), None)
    foot = next((port.id for port in ports if port.kind == "header" and port.end == "device"), None)
    contacts = [port for port in ports if port.kind in CONTACTS]
    carries_a = draft.numbers.get("contact_max_a") or None
    for number, port in enumerate(contacts):
        alone = WORKED_ALONE.get(draft.kind, "hand")
        works = channels[number] if number < len(channels) else foot or alone
        works = stop_input if is_safety and stop_input else works
        works, worked_pin = workers.get(port.id, (works, None))
        common = next((pin.id for pin in port.pins if pin.function == "com"), None)
        for pin in port.pins:
            if common is not None and pin.function in ("nc", "no"):
                found.append(
                    Contact(
                        pins=((port.id, common), (port.id, pin.id)),
                        rest="NC" if pin.function == "nc" else "NO",
                        worked_by=works,
                        worked_pin=worked_pin,
                        started_by=start_input if is_safety else None,
                        current_max_a=carries_a,
                    )
                )
    return tuple(found)


def _given_on(ports: tuple[Port, ...]) -> Iterator[Bridge]:
    """Copper from the feed of a safety relay to what it gives its channels and its start button."""
    feed = next((port for port in ports if port.kind == "feed in"), None)
    for function in ("plus", "zero"):
        own = [pin for pin in (feed.pins if feed else ()) if pin.function == function]
        given = [
            (port.id, pin.id)
            for port in ports
            if port.kind in ("stop input", "digital input")
            for pin in port.pins
            if pin.function == function and not (own and pin.name == own[0].name)
        ]
        if feed is not None and own and given:
            yield Bridge(pins=((feed.id, own[0].id), *given))
