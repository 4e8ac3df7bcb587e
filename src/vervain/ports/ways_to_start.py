"""A source that is started at a high level or at a low one: one of its inputs is enough."""

from vervain.electrical.unmet_needs import is_started
from vervain.model.machine import PortRef
from vervain.ports.fit import ranked_fits
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


@query
def start_to_join(queries: Queries, device: str) -> str | None:
    """Of several inputs of which one starts a device, that which is to be joined: the one that goes
    into most ports of the machine as they are. None where one is joined, or none is asked.
    """
    part = queries.part_of(device)
    ways = [
        PortRef(device=device, port=port.id)
        for port in (part.ports if part else ())
        if port.kind == "drive control" and port.end == "device" and port.optional
    ]
    if not ways or any(is_started(queries, way) for way in ways):
        return None
    return max(ways, key=lambda way: _fitting(queries, way)).port


def _fitting(queries: Queries, way: PortRef) -> int:
    return sum(fit.verdict == "fits" for fit in ranked_fits(queries, way))
