"""What an output of a controller works and a stop must take away, in a proposal: a contact that the
stop opens lies between the two.
"""

from vervain.electrical.coils import ends_of_coil
from vervain.model.electrical import FeedIn
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.ports.adapters import flyback_part
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.what_goes import goes_at_stop
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWayThrough, NewWire
from vervain.supply.stop_contacts import Ends


def lead_loads_through(planner: PlanBuilder, spare: list[Ends]) -> list[Ends]:
    """Leads the plus of each load that an output gives, and that must go with the stop, through
    one of the spare contacts of a safety relay; gives those that are left. A brake that a program
    alone holds shut opens when the program errs.
    """
    left = list(spare)
    for end, current_a in _worked_pluses(planner.queries):
        ends = next((e for e in left if _bears(planner.queries, e, current_a)), None)
        if ends is None:
            continue
        left.remove(ends)
        far, near = ends
        planner.add(
            FeedStep(
                words=f"{end.device} goes through {near.device} {near.port}",
                reason="The stop takes it away, whatever the program does.",
                through=(NewWayThrough(near_end=end, near=near, far=far, is_at_source=True),),
            )
        )
        _put_a_diode_across(planner, end)
    return left


def _put_a_diode_across(planner: PlanBuilder, plus: PinRef) -> None:
    """A diode across a coil that a contact now cuts off from the one in its output; none for what
    is no coil, or has one.
    """
    part, port = planner.queries.part_of(plus.device), planner.queries.port(plus.port_ref)
    ends = ends_of_coil(part, port) if part is not None and port is not None else None
    if ends is None:
        return
    made = planner.new_device(flyback_part(), f"Flyback diode of {plus.device}", plus.device)
    (wire,) = made.part.ports
    anode, cathode = (PinRef(device=made.designator, port=wire.id, pin=pin.id) for pin in wire.pins)
    back = PinRef(device=plus.device, port=plus.port, pin=ends[1].id)
    planner.add(
        FeedStep(
            words=f"{made.designator}, a diode across {plus.device}",
            reason="Its current goes round by it when the contact opens.",
            adds=(made,),
            wires=(NewWire(a=anode, b=back), NewWire(a=cathode, b=plus)),
            needs=(len(planner.steps) - 1,),
        )
    )


def _worked_pluses(queries: Queries) -> list[tuple[PinRef, float]]:
    """The pluses of what must go with the stop that hang at an output which gives plus, each with
    what it takes, in A.
    """
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part is not None and goes_at_stop(queries, name) else ():
            for pin in port.pins:
                ref = PinRef(device=name, port=port.id, pin=pin.id)
                if isinstance(pin.electrical, FeedIn) and _hangs_at_an_output(queries, ref):
                    found.append((ref, pin.electrical.current_a or 0.0))
    return found


def _hangs_at_an_output(queries: Queries, plus: PinRef) -> bool:
    """Whether the one wire at a plus comes from an output of a controller."""
    steps = steps_from(queries, plus)
    if len(steps) != 1:
        return False
    there, port = queries.pin(steps[0].end), queries.port(steps[0].end.port_ref)
    is_output = port is not None and port.end == "host" and port.kind == "switched output"
    return is_output and there is not None and there.function != "plus"


def _bears(queries: Queries, ends: Ends, current_a: float) -> bool:
    """Whether the contact between two ends may switch a current."""
    part = queries.part_of(ends[0].device)
    pins = {(end.port, end.pin) for end in ends}
    contacts = (
        e for e in (part.inside if part else ()) if isinstance(e, Contact) and pins == {*e.pins}
    )
    most_a = next((contact.current_max_a for contact in contacts), None)
    return most_a is None or most_a >= current_a
