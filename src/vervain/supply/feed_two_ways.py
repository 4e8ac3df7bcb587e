"""Loads at mains with two ways in a proposal: valves and blinds that one line opens and another
closes. Each way is led through a relay of its own; where there is none they get no mains at all.
"""

from vervain.model.machine import PinRef
from vervain.ports.called_alike import are_called_alike
from vervain.ports.switched_loads import LOADS
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_text
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewCable, NewWire
from vervain.supply.feed_switched import WorkedContact, free_worked_contacts, of_boards
from vervain.text.words import in_a_row

Poles = dict[str, PinRef]
WAYS = ("line", "line 2")


def has_two_ways(queries: Queries, poles: Poles) -> bool:
    """Whether a load has two lines of the mains and a neutral: one of the two is on at a time."""
    part = queries.part_of(poles["line"].device)
    is_load = part is not None and part.kind in LOADS
    return is_load and set(poles) - {"pe"} == {*WAYS, "neutral"}


def relays_for_both(queries: Queries, load: str) -> list[WorkedContact]:
    """A free contact of a relay for each way of a load, of those that are called as it is; none
    where there are not two of them.
    """
    called = [
        contact for contact in (*free_worked_contacts(queries), *of_boards(queries))
        if are_called_alike(queries, load, _name_of(queries, contact))
    ]  # fmt: skip
    return called[: len(WAYS)] if len(called) >= len(WAYS) else []


def _name_of(queries: Queries, contact: WorkedContact) -> str:
    """What a relay is called after, or the output that works it."""
    device = queries.device(contact.near.device)
    name = device.name if device is not None else ""
    return f"{name} {contact.worked_at.port} {contact.near.port}"


def feed_two_ways(
    planner: PlanBuilder, poles: Poles, outlet: Poles, needs: tuple[int, ...], area_mm2: float
) -> None:
    """The neutral and the earth of a load from an outlet, and each of its ways from there through a
    relay, in wires of a cross-section.
    """
    load = poles["line"].device
    cables: list[NewCable] = []
    wires: list[NewWire] = []
    told = []
    for way, contact in zip(WAYS, relays_for_both(planner.queries, load), strict=False):
        planner.wire(outlet["line"], contact.far, "BN", area_mm2, cables, wires)
        planner.wire(contact.near, poles[way], "BN", area_mm2, cables, wires)
        where = f"{contact.near.device} {contact.near.port}"
        told.append(f"{pin_text(planner.queries, poles[way])} through {where}")
    for pole, colour in (("neutral", "BU"), ("pe", "GNYE")):
        if pole in poles and pole in outlet:
            planner.wire(outlet[pole], poles[pole], colour, area_mm2, cables, wires)
    planner.add(
        FeedStep(
            words=f"{load} gets mains from {outlet['line'].device} {outlet['line'].port}, "
            f"{in_a_row(told)}",
            reason="Of its two ways one is on at a time.",
            cables=tuple(cables),
            wires=tuple(wires),
            needs=needs,
        )
    )
