"""Contactors that are for one load in a proposal: its mains go through their poles."""

from vervain.model.machine import PinRef
from vervain.ports.contactor_loads import contactor_of_load, lines_of
from vervain.queries.connectivity import steps_from
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.feed_stops import free_pole


def plan_contactors(planner: PlanBuilder) -> None:
    """Leads what each load at mains takes through the free poles of the contactor that is called
    after it: its lines first, and its neutral where a pole is left.
    """
    for load in planner.queries.devices():
        contactor = contactor_of_load(planner.queries, load)
        if contactor is None:
            continue
        ways: list[NewWayThrough] = []
        taken: set[PinRef] = set()
        led: list[int] = []
        for end in lines_of(planner.queries, load):
            pole = free_pole(planner.queries, contactor, end, taken)
            if pole is not None and steps_from(planner.queries, end):
                near, far = pole
                taken.add(near)
                ways.append(NewWayThrough(near_end=end, near=far, far=near, is_at_source=True))
                led += planner.steps_to(end)
        if ways:
            planner.add(
                FeedStep(
                    words=f"{load} goes through {contactor}",
                    reason=f"{contactor} is called after it, and turns it on and off.",
                    through=tuple(ways),
                    needs=tuple(dict.fromkeys(led)),
                )
            )
