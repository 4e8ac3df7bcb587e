"""What lies on a plus before the first fuse: in a short it gets all that the source can give."""

from collections.abc import Iterator

from vervain.model.electrical import FeedOut
from vervain.model.machine import PinRef
from vervain.queries.connectivity import steps_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.step import Step
from vervain.queries.walk import reached
from vervain.supply.network_model import inside_links


def leads_to_a_fuse(queries: Queries, step: Step) -> bool:
    """Whether a conductor goes to a fuse."""
    part = queries.part_of(step.end.device)
    return part is not None and part.kind == "fuse"


def before_fuses(queries: Queries, start: PinRef) -> Iterator[PinRef]:
    """The pins on a plus up to the first fuse, through copper and contacts."""

    def beyond(here: PinRef) -> Iterator[PinRef]:
        steps = steps_from(queries, here)
        yield from (step.end for step in steps if not leads_to_a_fuse(queries, step))
        for link in inside_links(queries, here.device):
            if here in (link.a, link.b) and link.kind in ("copper", "contact"):
                yield link.b if here == link.a else link.a

    yield from reached([start], beyond)


@query
def unfused_a(queries: Queries) -> dict[PinRef, float]:
    """What the source before each pin without a fuse can give, in A: of several the most."""
    found: dict[PinRef, float] = {}
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part is not None and part.kind in ("supply", "battery") else ():
            for pin in port.pins:
                if isinstance(pin.electrical, FeedOut):
                    at = PinRef(device=device, port=port.id, pin=pin.id)
                    for ref in before_fuses(queries, at):
                        found[ref] = max(found.get(ref, 0.0), pin.electrical.current_a)
    return found
