"""Ports of a board that end at one pin of its processor: of these one can be used."""

from vervain.model.elements import Bridge
from vervain.model.machine import PortRef
from vervain.queries.connectivity import occupants
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


@query
def ports_at_one_pin(queries: Queries, host: PortRef) -> tuple[tuple[str, PortRef], ...]:
    """The other ports at a pin of the processor where a port ends, each with the pin's name."""
    part = queries.part_of(host.device)
    found: dict[tuple[str, PortRef], None] = {}
    for element in part.inside if part is not None else ():
        ports = {port for port, _ in element.pins} if isinstance(element, Bridge) else set()
        if isinstance(element, Bridge) and element.name and host.port in ports:
            for other in sorted(ports - {host.port}):
                found[(element.name, PortRef(device=host.device, port=other))] = None
    return tuple(found)


@query
def taken_as(queries: Queries, host: PortRef) -> PortRef | None:
    """The other port at a free port's pin of the processor that something is in; None where there
    is none.
    """
    if occupants(queries, host):
        return None
    others = (other for _, other in ports_at_one_pin(queries, host))
    return next((other for other in others if occupants(queries, other)), None)
