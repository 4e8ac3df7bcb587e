"""What the coil finder needs to know of a device on the machine."""

from vervain.leads.datasheet import Datasheet
from vervain.machine.look import Look, query
from vervain.machine.part import Part, Port, Winding

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
def measurable(look: Look) -> tuple[str, ...]:
    """The devices whose coils can be found with a meter, in the machine's order."""
    found = []
    for designator in look.devices():
        part = look.part_of(designator)
        if part is not None and part.stepper is not None and leads_port(part) is not None:
            found.append(designator)
    return tuple(found)


@query
def leads_of(look: Look, designator: str) -> tuple[str, ...]:
    """The leads of a motor by the ids of their pins."""
    part = look.part_of(designator)
    port = leads_port(part) if part else None
    return tuple(pin.id for pin in port.pins) if port else ()


@query
def datasheet_of(look: Look, designator: str) -> Datasheet | None:
    """What the part says of the motor's kind and of one winding."""
    part = look.part_of(designator)
    if part is None or part.stepper is None:
        return None
    kind = KIND_BY_LEADS.get((part.stepper.phases, len(leads_of(look, designator))))
    if kind is None:
        return None
    ohms = [e.resistance_ohm for e in part.inside if isinstance(e, Winding)]
    # Three terminals show two thirds of a delta's winding; the catalogue's unit is that reading.
    scale = 2 / 3 if kind == "three-phase" else 1.0
    return Datasheet(kind=kind, winding_ohm=ohms[0] * scale if ohms else None)
