"""What relays switch: loads at mains that wait for a relay, and the channels that will switch them
or have something at their contacts.
"""

from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import PartKind
from vervain.ports.called_alike import are_called_alike, is_its_name
from vervain.queries.connectivity import occupants
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# What a program turns on and off by its feed; a tool's source is started by an input of its own.
LOADS: tuple[PartKind, ...] = (
    "heater", "lamp", "valve", "fan", "load", "brushed motor", "brake",
)  # fmt: skip


@query
def loads_at_mains(queries: Queries) -> tuple[str, ...]:
    """The loads for mains that nothing is joined to yet."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind not in LOADS or queries.hookups_of(name):
            continue
        if any(pin.function == "line" for port in part.ports for pin in port.pins):
            found.append(name)
    return tuple(found)


@query
def channels_for_mains(queries: Queries) -> tuple[PortRef, ...]:
    """The inputs of relay modules that will switch what waits: as many as there are loads for which
    no solid-state relay is there, of those whose contact nothing is joined to, the last ones first.
    """
    solid = [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "solid-state relay"
    ]  # fmt: skip
    count = len(loads_at_mains(queries)) - len(solid)
    free: list[PortRef] = []
    for name in queries.devices():
        part = queries.part_of(name)
        for element in part.inside if part is not None and part.kind == "relay module" else ():
            if not isinstance(element, Contact) or element.rest != "NO":
                continue
            ends = (PinRef(device=name, port=port, pin=pin) for port, pin in element.pins)
            if not any(map(queries.steps, ends)):
                free.append(PortRef(device=name, port=element.worked_by))
    return tuple(reversed(free))[: max(count, 0)]


def is_kept_for_mains(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a contact waits for a load at mains that is called as its relay is, and a plug is of
    another one.
    """
    part = queries.part_of(host.device)
    worked_by = {
        element.worked_by for element in (part.inside if part is not None else ())
        if isinstance(element, Contact) and host.port in {port for port, _ in element.pins}
    }  # fmt: skip
    waits = {ref.port for ref in channels_for_mains(queries) if ref.device == host.device}
    loads = loads_at_mains(queries)
    device = queries.device(host.device)
    if "program" in worked_by and plug.device not in loads:
        # The relay of a board itself.
        return not is_its_name(queries, plug.device, host.port) and any(
            is_its_name(queries, load, host.port) for load in loads
        )
    return (
        plug.device not in loads and bool(worked_by & waits) and device is not None
        and any(are_called_alike(queries, load, device.name) for load in loads)
        and not are_called_alike(queries, plug.device, device.name)
    )  # fmt: skip


def works_what_is_used(queries: Queries, ref: PortRef) -> bool:
    """Whether a channel works a contact or an output that something already sits at."""
    part = queries.part_of(ref.device)
    output = part.output_worked_by(ref.port) if part is not None else None
    if output is not None:
        return bool(occupants(queries, PortRef(device=ref.device, port=output.id)))
    return any(
        isinstance(element, Contact)
        and element.worked_by == ref.port
        and any(
            occupants(queries, PortRef(device=ref.device, port=port)) for port, _ in element.pins
        )
        for element in (part.inside if part else ())
    )
