"""The main switch in a proposal: everything that a battery feeds goes through one that nothing is
joined to.
"""

from vervain.model.elements import Contact
from vervain.ports.port_wishes import is_main_switch
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_sources import feed_sources
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.feed_stops import Ends, contact_ends


def plan_main_switch(planner: PlanBuilder) -> None:
    """Leads what the only battery feeds through the only main switch of one pole."""
    queries = planner.queries
    switches = _free_main_switches(queries)
    sources = {
        source.plus for source in feed_sources(queries)
        if (part := queries.part_of(source.plus.device)) is not None and part.kind == "battery"
    }  # fmt: skip
    if len(switches) != 1 or len(sources) != 1:
        return
    (near, far), plus = switches[0], next(iter(sources))
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


def _free_main_switches(queries: Queries) -> list[Ends]:
    """The two ends of each main switch of one pole that nothing is joined to."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or queries.hookups_of(name) or not is_main_switch(queries, name):
            continue
        contacts = [element for element in part.inside if isinstance(element, Contact)]
        if len(contacts) == 1 and contacts[0].rest == "NO":
            found.append(contact_ends(name, contacts[0]))
    return found
