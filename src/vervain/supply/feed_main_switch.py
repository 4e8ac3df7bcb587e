"""The main switch in a proposal: everything that a battery feeds, or that mains comes to, goes
through one that nothing is joined to.
"""

from vervain.electrical.mains import mains_entries
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.ports.port_wishes import is_main_switch
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_sources import feed_sources
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.stop_contacts import Ends, contact_ends

POLES = ("line", "neutral")


def plan_main_switch(planner: PlanBuilder) -> None:
    """Leads what the only battery feeds through the only main switch of one pole, and what comes
    from the mains through the only one of two.
    """
    _in_battery(planner)
    _in_mains(planner)


def _in_battery(planner: PlanBuilder) -> None:
    queries = planner.queries
    switches = _free_main_switches(queries, 1)
    sources = {
        source.plus for source in feed_sources(queries)
        if (part := queries.part_of(source.plus.device)) is not None and part.kind == "battery"
    }  # fmt: skip
    if len(switches) != 1 or len(sources) != 1:
        return
    (near, far), plus = switches[0][0], next(iter(sources))
    made_by = planner.steps_to(plus)
    if made_by and len(steps_from(queries, plus)) == len(made_by):
        planner.add(
            FeedStep(
                words=f"{plus.device} goes through {near.device}",
                reason=f"It turns off everything that {plus.device} feeds.",
                through=(NewWayThrough(near_end=plus, near=near, far=far),),
                needs=made_by,
            )
        )


def _in_mains(planner: PlanBuilder) -> None:
    """Both poles of the one cable by which mains goes on from where it comes in."""
    queries = planner.queries
    switches = _free_main_switches(queries, 2)
    ends: dict[str, list[PinRef]] = {pole: [] for pole in POLES}
    for ref in mains_entries(queries):
        pin = queries.pin(ref)
        if pin is not None and pin.function in POLES and steps_from(queries, ref):
            ends[pin.function].append(ref)
    is_one_cable = all(
        len(found) == 1 and len(steps_from(queries, found[0])) == 1 for found in ends.values()
    )
    if len(switches) != 1 or not is_one_cable:
        return
    starts = [ends[pole][0] for pole in POLES]
    planner.add(
        FeedStep(
            words=f"mains from {starts[0].device} goes through {switches[0][0][0].device}",
            reason="It turns off the whole machine, both poles at once.",
            through=tuple(
                NewWayThrough(near_end=start, near=near, far=far)
                for start, (near, far) in zip(starts, switches[0], strict=True)
            ),
            needs=tuple(dict.fromkeys(n for start in starts for n in planner.steps_to(start))),
        )
    )


def _free_main_switches(queries: Queries, poles: int) -> list[list[Ends]]:
    """The ends of the poles of each main switch of so many that nothing is joined to."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or queries.hookups_of(name) or not is_main_switch(queries, name):
            continue
        contacts = [element for element in part.inside if isinstance(element, Contact)]
        if len(contacts) == poles and all(contact.rest == "NO" for contact in contacts):
            found.append([contact_ends(name, contact) for contact in contacts])
    return found
