"""What is for one load at mains in a proposal: its mains go through the poles of what protects it,
and of its contactor.
"""

from collections.abc import Callable

from vervain.electrical.feeds import feed_pins
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.ports.called_alike import are_called_alike
from vervain.ports.contactor_loads import (
    contactor_of_load,
    lines_of,
    motors_for_mains,
    worked_ends_of,
)
from vervain.ports.hand_switched import switch_of_load
from vervain.ports.port_wishes import is_main_switch
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.feed_ways import fuse_of_load
from vervain.supply.main_contacts import free_pole
from vervain.supply.stop_contacts import contact_ends, contacts_that_rest

OfLoad = Callable[[Queries, str], str | None]
EndsOf = Callable[[Queries, str], list[PinRef]]


def plan_contactors(planner: PlanBuilder) -> None:
    """Leads what each load at mains takes through the free poles of what protects it, and of the
    contactor that is called after it: its lines first, and its neutral where a pole is left.
    """
    _lead_through(planner, fuse_of_load, "is called after it, and protects its wires")
    _lead_through(planner, _protection_of, "protects it")
    _lead_through(
        planner, contactor_of_load, "is called after it, and turns it on and off", worked_ends_of
    )
    _lead_through(planner, _overload_of, "trips where it takes too much for long")
    for load in planner.before.devices():
        _by_hand(planner, load)


def _by_hand(planner: PlanBuilder, load: str) -> None:
    """Leads the feed of a load through the switch that a hand works it with."""
    switch = switch_of_load(planner.before, load)
    part = planner.queries.part_of(switch.device) if switch is not None else None
    ends = next(
        (
            pair for element in (contacts_that_rest(part, "NO") if part is not None else ())
            if switch is not None
            and (pair := contact_ends(switch.device, element))[0].port == switch.port
        ),
        None,
    )  # fmt: skip
    pluses = [pin for pin in feed_pins(planner.queries, load) if planner.steps_to(pin)]
    if ends is None or len(pluses) != 1:
        return
    far, near = ends
    planner.add(
        FeedStep(
            words=f"{load} goes through {far.device}",
            reason=f"{far.device} is called after it, and nothing else would work it.",
            through=(NewWayThrough(near_end=pluses[0], near=near, far=far, is_at_source=True),),
            needs=planner.steps_to(pluses[0]),
        )
    )


def _overload_of(queries: Queries, load: str) -> str | None:
    """The overload relay that is called after a motor; else the only one, of one motor."""
    return _of_motor(queries, load, [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "switch"
        and any(isinstance(e, Contact) and e.worked_by == "trip" for e in part.inside)
    ])  # fmt: skip


def _protection_of(queries: Queries, load: str) -> str | None:
    """The switch in a line that is called after a motor; else the only one, of one motor."""
    return _of_motor(queries, load, [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.is_by_hand and part.is_in_a_line
        and not queries.hookups_of(name) and not is_main_switch(queries, name)
    ])  # fmt: skip


def _of_motor(queries: Queries, load: str, switches: list[str]) -> str | None:
    """Of what may lie in the line of a motor that which is called after it; else the only one, of
    one motor.
    """
    motors = motors_for_mains(queries)
    if load not in motors:
        return None
    alike = [
        name for name in switches
        if (device := queries.device(name)) is not None
        and are_called_alike(queries, load, device.name)
    ]  # fmt: skip
    found = alike or (switches if len(motors) == 1 else [])
    return found[0] if len(found) == 1 else None


def _lead_through(
    planner: PlanBuilder, of_load: OfLoad, what_it_does: str, ends_of: EndsOf = lines_of
) -> None:
    # What lies in the line of which load is decided before any of it is joined.
    pairs = [(load, of_load(planner.before, load)) for load in planner.queries.devices()]
    for load, name in pairs:
        if name is None:
            continue
        ways: list[NewWayThrough] = []
        taken: set[PinRef] = set()
        led: list[int] = []
        for end in ends_of(planner.queries, load):
            pole = free_pole(planner.queries, name, end, taken)
            if pole is not None and steps_from(planner.queries, end):
                near, far = pole
                taken.add(near)
                ways.append(NewWayThrough(near_end=end, near=far, far=near, is_at_source=True))
                led += planner.steps_to(end)
        if ways:
            planner.add(
                FeedStep(
                    words=f"{load} goes through {name}",
                    reason=f"{name} {what_it_does}.",
                    through=tuple(ways),
                    needs=tuple(dict.fromkeys(led)),
                )
            )
