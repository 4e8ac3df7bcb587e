"""What the coil finder needs to know of a device on the machine."""

from vervain.leads.datasheet import Datasheet
from vervain.model.elements import Winding
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part, Port
from vervain.queries.connectivity import driver_ports_of, paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

TWO_PHASES = ("phase A+", "phase A-", "phase B+", "phase B-")
THREE_PHASES = ("phase U", "phase V", "phase W")
KIND_BY_LEADS = {
    (2, 4): "two coils",
    (2, 5): "common",
    (2, 6): "two tapped coils",
    (2, 8): "four windings",
    (3, 3): "three-phase",
    (3, 4): "star with neutral",
    (3, 6): "three windings",
}


def leads_port(part: Part) -> Port | None:
    """The port with the flying leads of a motor."""
    return next((p for p in part.ports if p.kind == "motor phases" and p.end == "device"), None)


@query
def measurable(queries: Queries) -> tuple[str, ...]:
    """The devices whose coils can be found with a meter, in the machine's order."""
    found = []
    for designator in queries.devices():
        part = queries.part_of(designator)
        if part is not None and part.stepper is not None and leads_port(part) is not None:
            found.append(designator)
    return tuple(found)


@query
def leads_of(queries: Queries, designator: str) -> tuple[str, ...]:
    """The leads of a motor by the ids of their pins."""
    part = queries.part_of(designator)
    port = leads_port(part) if part else None
    return tuple(pin.id for pin in port.pins) if port else ()


@query
def datasheet_of(queries: Queries, designator: str) -> Datasheet | None:
    """What the part says of the motor's kind and of one winding."""
    part = queries.part_of(designator)
    if part is None or part.stepper is None:
        return None
    kind = KIND_BY_LEADS.get((part.stepper.phases, len(leads_of(queries, designator))))
    if kind is None:
        return None
    ohms = [
        e.resistance_ohm
        for e in part.inside
        if isinstance(e, Winding) and e.resistance_ohm is not None
    ]
    # Three terminals show two thirds of a delta's winding; the catalogue's unit is that reading.
    scale = 2 / 3 if kind == "three-phase" else 1.0
    return Datasheet(kind=kind, winding_ohm=ohms[0] * scale if ohms else None)


@query
def order_at_driver(queries: Queries, designator: str) -> tuple[PortRef, tuple[str, ...]] | None:
    """The driver port of a motor, and what lies on its A+ A- B+ B-, or its U V W: the leads' names,
    several at one terminal joined by "+". None where a terminal is free, or drivers are several.
    """
    ports = driver_ports_of(queries, designator)
    if len(ports) != 1:
        return None
    port = queries.port(ports[0])
    order = []
    part = queries.part_of(designator)
    three = part is not None and part.stepper is not None and part.stepper.phases == 3
    for function in THREE_PHASES if three else TWO_PHASES:
        pin = next((p for p in (port.pins if port else ()) if p.function == function), None)
        if pin is None:
            return None
        ref = PinRef(device=ports[0].device, port=ports[0].port, pin=pin.id)
        leads = [way.end.pin for way in paths_from(queries, ref) if way.end.device == designator]
        if not leads:
            return None
        order.append("+".join(leads))
    return ports[0], tuple(order)


@query
def printed_coils(queries: Queries, designator: str) -> tuple[tuple[str, ...], ...]:
    """The coils that the part's colours say: windings with a tap in common are one coil."""
    part = queries.part_of(designator)
    coils: list[tuple[str, ...]] = []
    for element in part.inside if part else ():
        if not isinstance(element, Winding):
            continue
        start, end = element.pins[0][1], element.pins[1][1]
        joined = next((n for n, coil in enumerate(coils) if coil[-1] == start), None)
        if joined is None:
            coils.append((start, end))
        else:
            coils[joined] = (*coils[joined], end)
    return tuple(coils)


@query
def open_windings(queries: Queries, designator: str) -> tuple[tuple[str, str], ...]:
    """The windings of a three-phase motor whose both ends are led out, as measured, else as its
    part says; none where its three leads share their windings.
    """
    device, part = queries.device(designator), queries.part_of(designator)
    if device is None or part is None or part.stepper is None or part.stepper.phases != 3:
        return ()
    coils = device.coils or printed_coils(queries, designator)
    pairs = tuple((coil[0], coil[-1]) for coil in coils)
    named = [lead for pair in pairs for lead in pair]
    return pairs if len(pairs) == 3 and len(set(named)) == 6 else ()
