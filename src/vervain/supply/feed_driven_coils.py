"""Coils of contactors that an output of a controller works, in a proposal: the stops lie in their
wires, so that the contactor drops whatever the controller does.
"""

from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.stop_contacts import Ends


def cut_driven_coils(planner: PlanBuilder, stops: dict[str, list[Ends]]) -> bool:
    """Leads the plus of each contactor's coil that an output works through the free contacts of the
    stops, each coil through those of a channel of its own as far as there are so many; whether
    there is such a coil.
    """
    coils = _driven_coils(planner.queries)
    channels = min((len(contacts) for contacts in stops.values()), default=0)
    for number, plus in enumerate(coils[:channels]):
        through = tuple(
            NewWayThrough(near_end=plus, near=far, far=near)
            for near, far in (contacts[number] for contacts in stops.values())
        )
        names = names_in_words(tuple(stops))
        planner.add(
            FeedStep(
                words=f"{names} {'stops' if len(stops) == 1 else 'stop'} {plus.device}",
                reason=f"{plus.device} drops at a stop, whatever the controller does.",
                through=through,
                needs=planner.steps_to(plus),
            )
        )
    return bool(coils)


def _driven_coils(queries: Queries) -> list[PinRef]:
    """The plus of each contactor's coil to which one wire comes."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.kind == "contactor" else ():
            plus = next((pin for pin in port.pins if isinstance(pin.electrical, FeedIn)), None)
            if port.kind != "coil" or plus is None:
                continue
            at = PinRef(device=name, port=port.id, pin=plus.id)
            if len(steps_from(queries, at)) == 1:
                found.append(at)
    return found
