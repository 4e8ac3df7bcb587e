"""The channels of a bridge with several motors: which of them work nothing."""

from vervain.model.machine import PortRef
from vervain.model.part import Port
from vervain.queries.connectivity import occupants
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


@query
def works_nothing(queries: Queries, plug: PortRef) -> bool:
    """Whether a control of a bridge is that of an output without a motor, CONTROL B of MOTOR B,
    while another output of the bridge has one.
    """
    port, part = queries.port(plug), queries.part_of(plug.device)
    if port is None or part is None or port.kind != "bridge control":
        return False
    outputs = [other for other in part.ports if other.kind == "bridge output"]
    own = [other for other in outputs if _mark(other) == _mark(port)]
    used = [
        other for other in outputs
        if occupants(queries, PortRef(device=plug.device, port=other.id))
    ]  # fmt: skip
    return len(outputs) > 1 and len(own) == 1 and bool(used) and own[0] not in used


def _mark(port: Port) -> str:
    """By what a port is told from those that are called as it is: B of MOTOR B."""
    return port.id.rpartition(" ")[2]
