"""What speaks for a plug in one port rather than another, besides that it fits: names, chains."""

import re

from vervain.electrical.mains import takes_mains
from vervain.model.electrical import FeedIn
from vervain.model.elements import Bridge, Contact
from vervain.model.machine import PortRef
from vervain.model.part import DRIVE_KINDS, Part, PortKind
from vervain.ports.called_alike import are_called_alike
from vervain.ports.contactor_loads import load_of_contactor
from vervain.ports.fit import ranked_fits
from vervain.ports.switched_loads import (
    LOADS,
    channels_for_mains,
    is_kept_for_mains,
    loads_at_mains,
)
from vervain.queries.connectivity import neighbours_at
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.text.name_words import name_words, says

# Ports by which a board commands drives.
COMMANDS: frozenset[PortKind] = frozenset(
    {"step and direction", "driver slot", "bridge control", "analogue output", "bus"}
)


def is_named_for(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a port is called after what a device is, or is called: LAMP OUT and a lamp; or after
    what a relay will switch.
    """
    behind = loads_at_mains(queries) if plug in channels_for_mains(queries) else ()
    return _has_one_print(plug, host) or any(
        are_called_alike(queries, name, host.port) for name in (plug.device, *behind)
    )


def _has_one_print(plug: PortRef, host: PortRef) -> bool:
    """Whether a contact is called as the last word of a port is: COM-N and PAD N."""
    own = re.split(r"[\s-]", plug.port)[-1]
    *before, last = host.port.split()
    return bool(before) and not own.isdecimal() and own.casefold() == last.casefold()


@query
def is_of_stops(queries: Queries, plug: PortRef) -> bool:
    """Whether a plug is the coil of a contactor in a machine with a stop that nothing is joined to,
    which will work it, not an output, unless it is called after one load; a contact of a guard
    switch in one with a stop input that nothing is joined to, which will read it; or that of the
    first button in one with a safety relay, or a contactor at mains, that nothing starts yet.
    """
    ours, port = queries.part_of(plug.device), queries.port(plug)
    free = _free_stop_inputs(queries)
    relays = [
        ref.device for ref in free
        if (part := queries.part_of(ref.device)) is not None and part.is_safety_relay
    ]  # fmt: skip
    if ours is not None and opens_by_force(ours, plug.port):
        # At a relay it lies in the strings of the stops; else each stop that waits takes an input.
        return bool(relays) or len(free) > len(_waiting_stops(queries))
    if ours is not None and is_closed_by_hand(ours, plug.port):
        first = start_button_port(queries)
        is_first = first is not None and first.device == plug.device
        return (bool(relays) or _starts_at_mains(queries)) and is_first
    if ours is None or ours.kind != "contactor" or port is None or port.kind != "coil":
        return False
    return bool(_waiting_stops(queries)) and not _works_a_load(queries, plug)


def _works_a_load(queries: Queries, coil: PortRef) -> bool:
    """Whether a coil is of a contactor for one load, and a controller has what works it."""
    is_for_one = load_of_contactor(queries, coil.device) is not None
    return is_for_one and any(
        answer.verdict != "does not fit" for answer in ranked_fits(queries, coil)
    )


@query
def mains_coils(queries: Queries) -> tuple[str, ...]:
    """The contactors with a coil for mains that nothing is joined to."""
    return tuple(
        name
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "contactor"
        and any(
            port.kind == "coil" and isinstance(pin.electrical, FeedIn)
            and takes_mains(pin.electrical)
            and not neighbours_at(queries, PortRef(device=name, port=port.id))
            for port in part.ports for pin in port.pins
        )
    )  # fmt: skip


def _starts_at_mains(queries: Queries) -> bool:
    """Whether a contactor at mains waits for its stop, and with it for its start button."""
    return bool(mains_coils(queries) and _waiting_stops(queries))


def _waiting_stops(queries: Queries) -> list[str]:
    """The emergency stops that nothing is joined to."""
    return [
        name
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        and part.kind == "emergency stop"
        and not queries.hookups_of(name)
    ]


def _free_stop_inputs(queries: Queries) -> list[PortRef]:
    """The stop inputs that nothing is joined to."""
    return [
        ref
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        for port in part.ports
        if port.kind == "stop input"
        and not neighbours_at(queries, ref := PortRef(device=name, port=port.id))
    ]


@query
def start_button_port(queries: Queries) -> PortRef | None:
    """The contact that a hand closes of a button that nothing is joined to: of one that is called
    so, else of the first.
    """
    found = [
        PortRef(device=name, port=port.id)
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None and not is_main_switch(queries, name)
        for port in part.ports
        if is_closed_by_hand(part, port.id)
        and not neighbours_at(queries, PortRef(device=name, port=port.id))
    ]
    called = (
        ref for ref in found
        if (device := queries.device(ref.device)) is not None
        and (part := queries.part_of(ref.device)) is not None
        and says(f"{device.name} / {part.title}", name_words().starts)
    )  # fmt: skip
    plain = (
        ref for ref in found
        if not _is_called_as_a_load(queries, ref.device)
        and not _is_called(queries, ref.device, name_words().pedal)
        and not _is_called(queries, ref.device, name_words().commands)
    )  # fmt: skip
    return next(called, next(plain, None))


def _is_called(queries: Queries, designator: str, words: tuple[str, ...]) -> bool:
    """Whether a switch is called as what works only while it is held is: nothing holds it then."""
    device, part = queries.device(designator), queries.part_of(designator)
    named = f"{device.name} / {part.title}" if device is not None and part is not None else ""
    return says(named, words)


def is_closed_by_hand(part: Part, port: str) -> bool:
    """Whether a port is the contact of a button that a hand closes; a selector, with several throws
    on one common, is none.
    """
    found = part.port(port)
    is_contact = part.kind == "switch" and found is not None and found.kind == "contact"
    shared = {pin for element in part.inside if isinstance(element, Bridge) for pin in element.pins}
    return is_contact and any(
        isinstance(element, Contact)
        and element.pins[0][0] == port
        and element.pins[0] not in shared
        and (element.rest, element.worked_by) == ("NO", "hand")
        for element in part.inside
    )


def opens_by_force(part: Part, port: str) -> bool:
    """Whether a port is one of several contacts of a guard switch that open with the door."""
    ports = {
        element.pins[0][0]
        for element in part.inside
        if isinstance(element, Contact) and (element.rest, element.worked_by) == ("NC", "plunger")
    }
    return part.kind == "switch" and len(ports) > 1 and port in ports


def is_unlike(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a brushed motor that moves an axis would turn one way alone, without a bridge."""
    ours, theirs = queries.port(plug), queries.port(host)
    return (
        ours is not None and theirs is not None
        and ours.kind == "bridge motor" and theirs.kind != "bridge output"
        and queries.axis_of(plug.device) is not None
    )  # fmt: skip


def is_main_switch(queries: Queries, designator: str) -> bool:
    """Whether a switch is called what turns power on and off: it goes into a feed, to no input."""
    device, part = queries.device(designator), queries.part_of(designator)
    if device is None or part is None or part.kind != "switch":
        return False
    name, words = f"{device.name} / {part.title}", name_words()
    if says(name, words.main_switch):
        return True
    return says(name, words.battery_switch) and any(
        has_no_feed(part) for other in queries.devices() if (part := queries.part_of(other))
    )


def has_no_feed(part: Part) -> bool:
    """Whether a part gives power and nothing that is drawn feeds it: a battery, a power pack."""
    is_pack = part.kind == "supply" and all(port.kind != "feed in" for port in part.ports)
    return part.kind == "battery" or is_pack


def tells_something(queries: Queries, host: PortRef) -> bool:
    """Whether a port is a contact that tells of its device and switches no load: that of a drive,
    or one that is called an alarm.
    """
    part, port = queries.part_of(host.device), queries.port(host)
    if part is None or port is None or port.kind not in ("relay contact", "contact"):
        return False
    return part.kind in DRIVE_KINDS or says(port.id, name_words().alarm)


def tells_of_its_drive(queries: Queries, plug: PortRef) -> bool:
    """Whether a plug is by what a driver or a drive tells of itself: an alarm, pulses."""
    part, port = queries.part_of(plug.device), queries.port(plug)
    if part is None or port is None:
        return False
    if part.kind == "signal converter":
        return port.kind == "contact"
    return part.kind in ("stepper driver", *DRIVE_KINDS) and port.kind in ("sensor", "contact")


def may_go(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a plug is proposed for a port that it fits: what a driver tells of itself is for what
    commands drives, where it starts nothing; a safety relay is started by a button; a bus goes on
    in its order.
    """
    ours, driver, part = (
        queries.port(plug),
        queries.part_of(plug.device),
        queries.part_of(host.device),
    )
    theirs = queries.port(host)
    if tells_something(queries, host) and (driver is None or driver.kind != "lamp"):
        # By hand anything may be put there.
        return False
    if part is not None and part.is_safety_relay and theirs and theirs.kind == "digital input":
        # What starts it is pressed, and closes then.
        return driver is not None and is_closed_by_hand(driver, plug.port)
    if theirs is not None and theirs.end == "device":
        return _is_for_hands(queries, plug, host)
    if is_kept_for_mains(queries, plug, host) or _is_for_a_load(queries, plug, host):
        return False
    tells = tells_of_its_drive(queries, plug) and ours is not None and ours.kind == "sensor"
    commands = part is None or any(port.kind in COMMANDS for port in part.ports)
    if tells and not commands and not _is_joined(queries, plug.device, host.device):
        return False
    return _may_follow(queries, plug, host)


def _is_for_a_load(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a switch is called as a load is, and not as the input of a drive: that of a horn is
    for no brake.
    """
    ours, part, theirs = queries.port(plug), queries.part_of(host.device), queries.port(host)
    if ours is None or part is None or theirs is None:
        return False
    is_input = part.kind in DRIVE_KINDS and theirs.kind == "digital input"
    if ours.kind != "contact" or not is_input or are_called_alike(queries, plug.device, host.port):
        return False
    return _is_called_as_a_load(queries, plug.device)


def _is_called_as_a_load(queries: Queries, switch: str) -> bool:
    """Whether a switch is called as some load of the machine is."""
    device = queries.device(switch)
    return device is not None and any(
        (part := queries.part_of(name)) is not None and part.kind in LOADS
        and are_called_alike(queries, name, device.name)
        for name in queries.devices()
    )  # fmt: skip


def _is_for_hands(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a knob or a switch goes to the drive itself: a hand works it, and no board of the
    machine commands the drive there.
    """
    ours, part, theirs = queries.port(plug), queries.part_of(plug.device), queries.port(host)
    if ours is None or part is None or theirs is None:
        return False
    has_feed = {"plus", "zero"} <= {pin.function for pin in theirs.pins}
    by_knob = ours.kind == "analogue sensor" and has_feed
    if not by_knob and not is_closed_by_hand(part, plug.port):
        return False
    # A board that reads the switch, or commands the drive, does so.
    return all(
        answer.verdict == "does not fit" or (at := queries.port(answer.host)) is None
        or at.end == "device" or tells_something(queries, answer.host)
        for ref in (plug, host)
        for answer in ranked_fits(queries, ref)
    )  # fmt: skip


def _is_joined(queries: Queries, driver: str, board: str) -> bool:
    """Whether a driver is commanded by the single lines of a board."""
    part = queries.part_of(driver)
    return any(
        ref.device == board
        for port in (part.ports if part is not None else ())
        if port.kind in COMMANDS
        for ref in neighbours_at(queries, PortRef(device=driver, port=port.id))
    )


def _may_follow(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a plug may go into a socket by which a bus goes on: that of a device before it which
    hears the bus, so that a chain begins at its head and closes no ring.
    """
    port, part = queries.port(host), queries.part_of(host.device)
    if port is None or part is None or port.kind != "bus":
        return True
    goes_on = any(other.kind == "bus" and other.end == "device" for other in part.ports)
    order = queries.devices()
    return not goes_on or order.index(host.device) < order.index(plug.device)
