"""Coils: what is switched off with a current that wants to go on."""

from vervain.electrical.feeds import RETURN_FUNCTIONS
from vervain.model.electrical import FeedIn, LogicOutput
from vervain.model.machine import PortRef
from vervain.model.part import Part, PartKind, Pin, Port
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Kinds of parts that are coils, whatever is given of them.
COILS: tuple[PartKind, ...] = ("contactor", "valve", "brake", "brushed motor")


def ends_of_coil(part: Part, port: Port) -> tuple[Pin, Pin] | None:
    """The plus and the return of a coil at a port; None where there is none, or one that lets its
    current through by itself.
    """
    feed = next((pin for pin in port.pins if isinstance(pin.electrical, FeedIn)), None)
    back = next((pin for pin in port.pins if pin.function in RETURN_FUNCTIONS), None)
    if feed is None or back is None or not isinstance(feed.electrical, FeedIn):
        return None
    is_coil = feed.electrical.inductive or port.kind == "coil" or part.kind in COILS
    return (
        (feed, back) if port.end == "device" and is_coil and not feed.electrical.flyback else None
    )


@query
def is_bare_coil(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a coil would hang on an output that has no way for its current when it goes off."""
    part, ours, theirs = queries.part_of(plug.device), queries.port(plug), queries.port(host)
    if part is None or ours is None or ends_of_coil(part, ours) is None:
        return False
    outputs = [pin.electrical for pin in (theirs.pins if theirs else ())]
    return any(isinstance(found, LogicOutput) and not found.flyback for found in outputs)
