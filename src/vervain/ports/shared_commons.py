"""Contacts with one common: what a drive reads has the drive's own plus, or its 0 V, at it, and
nothing else may lie there.
"""

from vervain.model.elements import Bridge
from vervain.model.machine import PortRef
from vervain.model.part import PortKind
from vervain.queries.connectivity import occupants
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# What gives a contact its own plus, or reads it against its own 0 V.
READ_APART: tuple[PortKind, ...] = ("drive control", "digital input", "stop input")


@query
def with_its_common(queries: Queries, host: PortRef) -> tuple[PortRef, ...]:
    """The other contacts of a part that have the common of one."""
    part, port = queries.part_of(host.device), queries.port(host)
    if part is None or port is None or port.kind != "relay contact":
        return ()
    own = {(port.id, pin.id) for pin in port.pins if pin.function == "com"}
    ports = dict.fromkeys(
        other
        for element in part.inside
        if isinstance(element, Bridge) and own & set(element.pins)
        for other, _ in element.pins if other != port.id
    )  # fmt: skip
    return tuple(PortRef(device=host.device, port=name) for name in ports)


def others_at_common(queries: Queries, host: PortRef) -> tuple[PortRef, ...]:
    """The plugs at the other contacts of a part that have the common of one."""
    return tuple(
        plug for other in with_its_common(queries, host) for plug in occupants(queries, other)
    )


def met_at_common(queries: Queries, plug: PortRef, host: PortRef) -> PortRef | None:
    """The plug that one would meet at the common of a contact although each has a feed of its own:
    a drive's start and a lamp, or the starts of two drives. None where there is none.
    """
    ours = _is_read_apart(queries, plug)
    for other in others_at_common(queries, host):
        theirs = _is_read_apart(queries, other)
        if other.device != plug.device and (ours or theirs):
            return other
    return None


def _is_read_apart(queries: Queries, plug: PortRef) -> bool:
    port = queries.port(plug)
    return port is not None and port.kind in READ_APART
