"""What one sees at a port: the colours at each pin, and who sits there."""

from vervain.model.base import Record
from vervain.model.machine import Hookup, PinRef, PortRef, ends_of
from vervain.model.orientation import as_it_lies
from vervain.model.part import Part
from vervain.queries.connectivity import (
    SHARED_FUNCTIONS,
    host_ports,
    neighbours_at,
    occupants,
    paths_from,
    steps_from,
)
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import reached

# Ports that several may hang on: what they carry is judged elsewhere. An output that drives two
# inputs drives both; an input with two outputs knows neither.
SHARED_KINDS = (
    "feed out", "relay contact", "stop input", "switched output", "bridge output", "servo",
)  # fmt: skip

# The order of what is drawn beside the boards.
DRAWN_BESIDE = (
    "supply", "battery", "fuse", "terminal strip", "contactor", "solid-state relay",
    "emergency stop", "switch", "jumper", "resistor", "diode", "connector",
)  # fmt: skip


class Seen(Record, frozen=True, kw_only=True):
    """One conductor at a pin: its colour at this end, and which conductor it is."""

    colour: str | None
    hookup: str
    row: int


@query
def seen_at(queries: Queries, pin: PinRef) -> tuple[Seen, ...]:
    """The conductors at a pin with the colour one sees there: the core's where a cable arrives,
    else the lead's.
    """
    found = []
    for step in steps_from(queries, pin):
        hookup = queries.hookup(step.hookup)
        if hookup is None:
            continue
        row = hookup.conductors.index(step.conductor)
        cable = queries.cable(hookup.cable) if hookup.cable else None
        part = queries.cable_part(cable.part) if cable else None
        core = step.conductor.core
        colour = None
        if part is not None and core is not None and core <= len(part.cores):
            colour = part.cores[core - 1]
        elif cable is None:
            ends = (queries.pin(step.end), queries.pin(step.start))
            colour = next((end.lead for end in ends if end is not None and end.lead), None)
        found.append(Seen(colour=colour, hookup=step.hookup, row=row))
    return tuple(found)


def colour_of(queries: Queries, hookup_id: str, row: int) -> str | None:
    """The colour of a conductor: its core's, else that of the lead that it is."""
    hookup = queries.hookup(hookup_id)
    if hookup is None or row >= len(hookup.conductors):
        return None
    conductor = hookup.conductors[row]
    cable = queries.cable(hookup.cable) if hookup.cable else None
    part = queries.cable_part(cable.part) if cable else None
    if part is not None and conductor.core is not None and conductor.core <= len(part.cores):
        return part.cores[conductor.core - 1]
    ends = (queries.pin(ref) for ref in ends_of(hookup, conductor))
    return next((end.lead for end in ends if end is not None and end.lead), None)


@query
def far_colours(queries: Queries, pin: PinRef) -> tuple[str | None, ...]:
    """The colours at the far end of what is joined to a pin: the leads of the devices there."""
    found = []
    for way in paths_from(queries, pin):
        end = queries.pin(way.end)
        lead = end.lead if end is not None else None
        if lead is None and len(way.steps) == 1:
            lead = next((item.colour for item in seen_at(queries, pin)), None)
        found.append(lead)
    return tuple(found)


@query
def lying_part(queries: Queries, designator: str) -> Part | None:
    """The part of a device with its board as it lies on the bench."""
    device, part = queries.device(designator), queries.part_of(designator)
    if device is None or part is None:
        return None
    return as_it_lies(part, device.turned_deg, device.turned_over)


@query
def alternates_at(queries: Queries, ref: PortRef) -> tuple[str, ...]:
    """The devices that can take over a port by swapping a plug."""
    return tuple(item.device for item in queries.alternates() if item.port == ref)


@query
def who_sits_at(queries: Queries, ref: PortRef) -> tuple[str, ...]:
    """The devices at a port, by designator; a switch in series with one that is there counts."""
    seated = occupants(queries, ref)
    plugs = [item for item in seated if (port := queries.port(item)) and port.end == "device"]
    found = dict.fromkeys(item.device for item in plugs or seated)
    if not found and _is_only_shared(queries, ref):
        found = dict.fromkeys(item.device for item in neighbours_at(queries, ref))
    for device in list(found):
        for other in _in_series(queries, device):
            found[other] = None
    return tuple(sorted(found, key=_designator_key))


def _is_only_shared(queries: Queries, ref: PortRef) -> bool:
    port = queries.port(ref)
    return port is not None and (
        port.end == "device" or all(pin.function in SHARED_FUNCTIONS for pin in port.pins)
    )


def _in_series(queries: Queries, device: str) -> list[str]:
    """Switches whose contact is joined straight to this switch's contact."""
    part = queries.part_of(device)
    if part is None or part.kind != "switch":
        return []
    found = []
    for port in part.ports:
        for pin in port.pins:
            for step in steps_from(queries, PinRef(device=device, port=port.id, pin=pin.id)):
                other = queries.part_of(step.end.device)
                if other is not None and other.kind == "switch":
                    found.append(step.end.device)
    return found


def _designator_key(designator: str) -> tuple[str, int]:
    letters = designator.rstrip("0123456789")
    return letters, int(designator[len(letters) :] or 0)


@query
def is_conflict(queries: Queries, ref: PortRef) -> bool:
    """Whether more devices take a port than it is for."""
    port = queries.port(ref)
    if port is None or port.end != "host":
        return False
    if port.kind in ("feed out", "relay contact", "stop input"):
        return False
    return len({item.device for item in occupants(queries, ref)}) > port.holds


@query
def boards(queries: Queries) -> tuple[str, ...]:
    """The devices that are drawn as boards, place by place: those with ports that something is
    plugged into, and terminal strips in use.
    """
    found = []
    for designator in queries.devices():
        part = queries.part_of(designator)
        if part is None or part.board is None:
            continue
        plugged = any(port.end == "host" and port.kind != "feed out" for port in part.ports)
        if plugged or (part.kind == "terminal strip" and queries.hookups_of(designator)):
            found.append(designator)
    return tuple(sorted(found, key=lambda name: _board_key(queries, name)))


@query
def stacks(queries: Queries) -> tuple[tuple[str, ...], ...]:
    """The boards, those that are stacked on another together with it, the lowest first."""
    under: dict[str, str] = {}
    for name in boards(queries):
        part = queries.part_of(name)
        for port in part.ports if part else ():
            if port.kind == "header" and port.end == "device":
                for host in host_ports(queries, PortRef(device=name, port=port.id)):
                    under.setdefault(name, host.device)
    found: dict[str, list[str]] = {}
    for name in boards(queries):
        way = reached([name], lambda here: [under[here]] if here in under else [])
        found.setdefault(list(way)[-1], []).append(name)
    return tuple(
        tuple(sorted(names, key=lambda name: name != lowest)) for lowest, names in found.items()
    )


@query
def small_things(queries: Queries) -> tuple[str, ...]:
    """The devices with pins that are drawn small beside the boards: strips, fuses, contacts,
    supplies, connectors first, then everything else that has leads.
    """
    drawn = set(boards(queries))
    found = [
        name
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        and part.ports
        and (name not in drawn or part.kind == "terminal strip")
    ]

    def key(name: str) -> tuple[int, tuple[str, int]]:
        part = queries.part_of(name)
        kind = part.kind if part is not None else ""
        first = DRAWN_BESIDE.index(kind) if kind in DRAWN_BESIDE else len(DRAWN_BESIDE)
        return first, _designator_key(name)

    return tuple(sorted(found, key=key))


def kept_for(queries: Queries, ref: PortRef) -> str:
    """What a port is kept free for; "" where it is not kept."""
    device = queries.device(ref.device)
    return device.kept_ports.get(ref.port, "") if device is not None else ""


def place_name(queries: Queries, designator: str) -> str:
    """The name of the place where a device sits; "" where none is given."""
    device = queries.device(designator)
    return next((p.name for p in queries.places() if device and p.id == device.place), "")


def _board_key(queries: Queries, designator: str) -> tuple[int, int, tuple[str, int]]:
    part, names = queries.part_of(designator), [place.name for place in queries.places()]
    order = ("controller", "relay module", "signal converter", "stepper driver")
    last = len(order) + (part is not None and part.kind == "terminal strip")
    kind = part.kind if part else ""
    place = place_name(queries, designator)
    at = names.index(place) if place in names else len(names)
    return at, order.index(kind) if kind in order else last, _designator_key(designator)


@query
def is_turned_round(queries: Queries, host: PortRef, device: str) -> bool:
    """Whether what a device has in a host port sits first pin on last, all along."""
    for hookup in queries.hookups_of(device):
        if host in (hookup.a, hookup.b) and device in (hookup.a.device, hookup.b.device):
            return joins_turned(queries, hookup)
    return False


def joins_turned(queries: Queries, hookup: Hookup) -> bool:
    """Whether a hookup of two ports of one size joins first pin to last, all along."""
    ports = queries.port(hookup.a), queries.port(hookup.b)
    if ports[0] is None or ports[1] is None or len(ports[0].pins) != len(ports[1].pins):
        return False
    turned = {a.id: b.id for a, b in zip(ports[0].pins, reversed(ports[1].pins), strict=True)}
    rows = hookup.conductors
    return len(rows) > 1 and all(turned.get(row.a) == row.b for row in rows)
