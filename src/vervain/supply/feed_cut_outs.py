"""Cut-outs in a proposal: what opens by heat goes into the feed of a heater that has none."""

import re

from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWayThrough


def shared_words(first: str, second: str) -> int:
    """How many words of three letters or more two texts share."""
    one, two = (set(re.findall(r"\w{3,}", text.casefold())) for text in (first, second))
    return len(one & two)


def is_cut_out(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is an end of a contact that heat opens."""
    part = queries.part_of(ref.device)
    return any(
        isinstance(element, Contact)
        and element.worked_by == "heat"
        and (ref.port, ref.pin) in element.pins
        for element in (part.inside if part else ())
    )


def plan_cut_outs(planner: PlanBuilder) -> None:
    """Leads the feed of each heater that is wired and has no cut-out through one that nothing is
    joined to: the one whose name is most like the heater's.
    """
    free = _fresh_cut_outs(planner.queries)
    bare = _bare_heaters(planner.queries)
    heaters = [name for name, _ in bare]
    for heater, wired in bare:
        if not free:
            return
        named = {name: device.name for name in (heater, *(near.device for near, _ in free))
                 if (device := planner.queries.device(name)) is not None}  # fmt: skip
        best = max(free, key=lambda pair: shared_words(named[pair[0].device], named[heater]))
        others = [name for name in heaters if name != heater]
        if _is_more_like(planner.queries, best[0].device, heater, others):
            # It has the name of another heater, for which it waits.
            continue
        free.remove(best)
        way = NewWayThrough(near_end=wired, near=best[1], far=best[0])
        planner.add(
            FeedStep(
                words=f"{best[0].device} put into the feed of {heater}",
                reason="A transistor that melts shut heats on; the cut-out opens by itself.",
                through=(way,),
            )
        )


def _is_more_like(queries: Queries, cut_out: str, heater: str, others: list[str]) -> bool:
    """Whether a cut-out is called as another heater is, and not as this one."""
    names = {
        name: device.name if (device := queries.device(name)) is not None else ""
        for name in (cut_out, heater, *others)
    }
    own = shared_words(names[cut_out], names[heater])
    return any(shared_words(names[cut_out], names[name]) > own for name in others)


def _fresh_cut_outs(queries: Queries) -> list[tuple[PinRef, PinRef]]:
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        for element in part.inside if part is not None and not queries.hookups_of(name) else ():
            if isinstance(element, Contact) and element.worked_by == "heat":
                a, b = (PinRef(device=name, port=port, pin=pin) for port, pin in element.pins)
                found.append((a, b))
    return found


def _bare_heaters(queries: Queries) -> list[tuple[str, PinRef]]:
    """The heaters that are wired and have no cut-out, each with the pin that its feed comes to."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and part.kind == "heater" else ():
            pins = [PinRef(device=name, port=port.id, pin=pin.id) for pin in port.pins]
            wired = [pin for pin in pins if steps_from(queries, pin)]
            if wired and not any(is_cut_out(queries, r) for p in pins for r in queries.net(p)):
                found.append((name, wired[0]))
    return found
