"""Ports that belong together: a channel and the counter that closes its loop, a heater's output and
its thermistor's input; and ports that carry the letter of an axis.
"""

import re

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


def names_in(text: str) -> set[str]:
    """The letters and numbers of a port: "3" of "AXIS 3", "X" of "STOP X", "Z" and "A" of "Z A"."""
    return set(re.findall(r"(?<![A-Za-z])[A-Z]\d?(?![A-Za-z])|\d+", text))


@query
def axis_lettered(queries: Queries, ref: PortRef) -> str | None:
    """The axis of the machine whose letter a port carries; None where it carries none, or two."""
    letters = {name[0] for name in names_in(ref.port) if name[0].isalpha()}
    axes = [axis for axis in queries.axes() if axis[:1] in letters]
    return axes[0] if len(axes) == 1 and len(letters) == 1 else None


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
