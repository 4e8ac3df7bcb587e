"""Ports that belong together: a channel and the counter that closes its loop, a heater's output and
its thermistor's input.
"""

from vervain.model.machine import PortRef
from vervain.queries.connectivity import motors_of, neighbours_at
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


@query
def axes_at(queries: Queries, ref: PortRef) -> frozenset[str]:
    """The axes of what is joined to a port, a driver's by the motors on it."""
    found: set[str] = set()
    for seat in neighbours_at(queries, ref):
        for name in (seat.device, *motors_of(queries, seat.device)):
            axis = queries.axis_of(name)
            if axis is not None:
                found.add(axis.id)
    return frozenset(found)


def partner_ports(queries: Queries, ref: PortRef) -> tuple[PortRef, ...]:
    """The ports of the same device that a port belongs with, whichever of them says so."""
    port, part = queries.port(ref), queries.part_of(ref.device)
    if port is None or part is None:
        return ()
    return tuple(
        PortRef(device=ref.device, port=other.id)
        for other in part.ports
        if other.id != port.id and (other.id == port.belongs_to or other.belongs_to == port.id)
    )


@query
def partner_of_another_axis(
    queries: Queries, ref: PortRef, axis: str
) -> tuple[PortRef, str] | None:
    """The port that a port belongs with, where something of another axis than this is joined to it;
    with that axis.
    """
    for other in partner_ports(queries, ref):
        axes = axes_at(queries, other)
        if axes and axis not in axes:
            return other, min(axes)
    return None
