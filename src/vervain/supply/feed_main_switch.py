"""The main switch and the fuse of the mains in a proposal: everything that a battery feeds, or that
mains comes to, goes through those that nothing is joined to.
"""

from math import inf

from msgspec.structs import replace

from vervain.electrical.feeds import consumers_of, downstream_pins
from vervain.electrical.mains import THREE, mains_entries
from vervain.model.elements import Contact, Fuse
from vervain.model.machine import PinRef
from vervain.ports.port_wishes import has_no_feed, is_main_switch
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import place_of
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_inputs import load_a
from vervain.supply.feed_sizes import rating_for
from vervain.supply.feed_sources import feed_sources
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.feed_ways import fuses_for_mains
from vervain.supply.results import DROP_MOST
from vervain.supply.stop_contacts import Ends, contact_ends

POLES = ("line", "neutral")


def plan_main_switch(planner: PlanBuilder) -> None:
    """Leads what the only battery feeds through the only main switch of one pole, and what comes
    from the mains through the only one of two.
    """
    _in_battery(planner)
    _fuse_in_mains(planner)
    _in_mains(planner)


def _in_battery(planner: PlanBuilder) -> None:
    queries = planner.queries
    switches = _free_main_switches(queries, 1)
    sources = {
        source.plus for source in feed_sources(queries)
        if (part := queries.part_of(source.plus.device)) is not None and has_no_feed(part)
    }  # fmt: skip
    if len(switches) != 1 or len(sources) != 1:
        return
    (near, far), plus = switches[0][0], next(iter(sources))
    made_by = planner.steps_to(plus)
    if not made_by:
        return
    most_a = _carries_a(queries, near)
    taken_a = load_a(queries, consumers_of(queries, plus))
    only = _only_way(queries, plus)
    start, whose = only or plus, f"everything that {plus.device} feeds"
    if most_a is not None and most_a < taken_a:
        lighter = _way_that_it_bears(queries, plus, most_a)
        if lighter is None:
            planner.decisions.append(
                f"{near.device} carries {most_a:g} A; {plus.device} gives {taken_a:.3g} A: let it "
                "work a contactor, or take one that carries more."
            )
            return
        start, whose = lighter, f"what {lighter.device} feeds, and carries no more"
    through = NewWayThrough(near_end=start, near=near, far=far)
    step = FeedStep(
        words=f"{start.device} goes through {near.device}",
        reason=f"It turns off {whose}.",
        through=(through,),
        needs=planner.steps_to(start),
    )
    if start == plus and place_of(queries, near.device) != place_of(queries, plus.device):
        step = _behind_a_fuse(planner, step, through, taken_a)
    planner.add(step)


def _behind_a_fuse(
    planner: PlanBuilder, step: FeedStep, through: NewWayThrough, taken_a: float
) -> FeedStep:
    """The step with a fuse at the battery before the switch, which lies away from it: nothing else
    protects the wires there. A supply limits its current by itself.
    """
    start = through.near_end
    part = planner.queries.part_of(start.device)
    is_battery = part is not None and part.kind == "battery"
    rating = rating_for(taken_a * (1 + DROP_MOST)) if is_battery else None
    made = planner.new_fuse(start.device, rating) if rating is not None else None
    if made is None or rating is None:
        return step
    added, near, far = made
    return replace(
        step,
        words=f"{start.device} goes through {added.designator}, {rating:g} A, and "
        f"{through.near.device}",
        reason=f"{step.reason} The fuse protects the wires to {through.near.device}.",
        adds=(added,),
        through=(through, NewWayThrough(near_end=start, near=near, far=far)),
        ratings=((added.designator, rating),),
    )


def _carries_a(queries: Queries, end: PinRef) -> float | None:
    """What the contact carries that has a pin as one of its ends, in A."""
    part = queries.part_of(end.device)
    for element in part.inside if part is not None else ():
        if isinstance(element, Contact) and (end.port, end.pin) in element.pins:
            return element.current_max_a
    return None


def _only_way(queries: Queries, plus: PinRef) -> PinRef | None:
    """The far end of the fuse by which everything leaves a source; None where more leads off it."""
    steps = steps_from(queries, plus)
    part = queries.part_of(steps[0].end.device) if len(steps) == 1 else None
    if part is None or part.kind != "fuse":
        return None
    return _way_that_it_bears(queries, plus, inf)


def _way_that_it_bears(queries: Queries, plus: PinRef, most_a: float) -> PinRef | None:
    """The far end of the fuse, of those that a source leads to, behind which the most is taken that
    a contact still carries.
    """
    found: list[tuple[float, str, PinRef]] = []
    for step in steps_from(queries, plus):
        behind = set(downstream_pins(queries, step.end.device))
        ends = [ref for ref in behind if ref.device == step.end.device and queries.steps(ref)]
        takers = tuple(taker for taker in consumers_of(queries, plus) if taker.pin in behind)
        taken_a = load_a(queries, takers)
        if len(ends) == 1 and len(queries.steps(ends[0])) == 1 and taken_a <= most_a:
            found.append((taken_a, str(ends[0]), ends[0]))
    return max(found)[2] if found else None


def _in_mains(planner: PlanBuilder) -> None:
    """Both poles of the one cable by which mains goes on from where it comes in, or all three lines
    there.
    """
    queries = planner.queries
    starts = _where_mains_comes_in(queries)
    lines = _lines_that_go_on(queries)
    for ends, poles in ((starts, "both poles"), (lines, "all three lines")):
        switches = _free_main_switches(queries, len(ends)) if ends else []
        if len(switches) == 1:
            reason = f"It turns off the whole machine, {poles} at once."
            _lead_through(planner, ends, switches[0], reason)
            return


def _lines_that_go_on(queries: Queries) -> list[PinRef]:
    """The three lines of the mains where they lead on from; none where one leads on from two
    places.
    """
    ends = [
        ref for ref in sorted(mains_entries(queries), key=str)
        if (pin := queries.pin(ref)) is not None and pin.function == "line"
        and steps_from(queries, ref)
    ]  # fmt: skip
    names = {pin.text for ref in ends if (pin := queries.pin(ref)) is not None}
    return ends if len(ends) == len(names) == THREE else []


def _fuse_in_mains(planner: PlanBuilder) -> None:
    """The line, or both poles, through the one fuse, or breaker, for mains."""
    fuses = fuses_for_mains(planner.queries)
    starts = _where_mains_comes_in(planner.queries)
    if len(fuses) == 1 and starts:
        part = planner.queries.part_of(fuses[0])
        poles = [
            contact_ends(fuses[0], element)
            for element in (part.inside if part is not None else ())
            if isinstance(element, Fuse)
        ]
        reason = "It protects the wires of the mains, and what hangs on them."
        _lead_through(planner, starts, poles, reason)


def _lead_through(
    planner: PlanBuilder, starts: list[PinRef], poles: list[Ends], reason: str
) -> None:
    """Proposes that mains goes through poles, the line first."""
    planner.add(
        FeedStep(
            words=f"Mains from {starts[0].device} goes through {poles[0][0].device}",
            reason=reason,
            through=tuple(
                NewWayThrough(near_end=start, near=near, far=far)
                for start, (near, far) in zip(starts, poles, strict=False)
            ),
            needs=tuple(dict.fromkeys(n for start in starts for n in planner.steps_to(start))),
        )
    )


def _where_mains_comes_in(queries: Queries) -> list[PinRef]:
    """The line and the neutral where one cable leads on from; none where several do."""
    ends: dict[str, list[PinRef]] = {pole: [] for pole in POLES}
    for ref in mains_entries(queries):
        pin = queries.pin(ref)
        if pin is not None and pin.function in POLES and steps_from(queries, ref):
            ends[pin.function].append(ref)
    is_one_cable = all(
        len(found) == 1 and len(steps_from(queries, found[0])) == 1 for found in ends.values()
    )
    return [ends[pole][0] for pole in POLES] if is_one_cable else []


def _free_main_switches(queries: Queries, poles: int) -> list[list[Ends]]:
    """The ends of the poles of each main switch of so many that nothing is joined to."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or queries.hookups_of(name) or not is_main_switch(queries, name):
            continue
        is_in_a_line = part.is_in_a_line
        auxiliary = {port.id for port in part.ports if is_in_a_line and port.end != "through"}
        contacts = [
            element for element in part.inside
            if isinstance(element, Contact) and not auxiliary & {port for port, _ in element.pins}
        ]  # fmt: skip
        if len(contacts) == poles and all(contact.rest == "NO" for contact in contacts):
            found.append([contact_ends(name, contact) for contact in contacts])
    return found
