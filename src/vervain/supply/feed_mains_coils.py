"""Contactors whose coils take mains in a proposal: through the stops and a start button, which a
contact of theirs holds.
"""

from vervain.electrical.mains import takes_mains
from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_mains import mains_outlets
from vervain.supply.feed_mains_fuses import area_for_mains_fuse
from vervain.supply.feed_start import hold, start_button, what_else_opens
from vervain.supply.feed_stops import Told, free_coils
from vervain.supply.main_contacts import through_main_contacts
from vervain.supply.mains_ways import Poles
from vervain.supply.stop_contacts import Ends, free_stops

# The least of a mains wire inside a box (IEC 60204-1, table 5).
MAINS_CONTROL_MM2 = 0.75


def plan_mains_coils(planner: PlanBuilder) -> None:
    """Wires the coils that take mains, where a machine has stops that nothing is joined to."""
    queries = planner.queries
    coils = [told for told in free_coils(queries) if takes_mains(told.feed)]
    stops = free_stops(queries)
    if not coils or not stops:
        return
    names = names_in_words(tuple(told.plus.device for told in coils))
    outlet = next(iter(mains_outlets(planner)), None)
    button = start_button(queries)
    devices = [*stops, *(told.plus.device for told in coils)]
    if outlet is None or not _are_together(queries, devices):
        planner.decisions.append(
            f"The coils of {names} take mains: lead them through the stops on Ports, in a cable."
        )
        return
    # What has no fuse of its own is protected by that of the mains.
    wiring = Wiring(planner, max(MAINS_CONTROL_MM2, area_for_mains_fuse(queries) or 0.0))
    opening = {**stops, **what_else_opens(queries)}
    strung = [ends for contacts in opening.values() for ends in contacts]
    strung += [button] if button is not None else []
    _string(wiring, outlet, strung, coils)
    held = hold(wiring, button, coils[0].plus.device, "BN")
    worked = [told.plus.device for told in coils]
    verb = "stops" if len(opening) == 1 else "stop"
    starts = f", {button[0].device} starts" if button is not None else ""
    planner.add(
        wiring.step(
            f"{names_in_words(tuple(opening))} {verb} {names}{starts}, at mains",
            "Let go, the button is held until a stop opens." if held
            else "Only a button that is held keeps it from starting by itself.",
        )
    )  # fmt: skip
    through_main_contacts(planner, worked)


def _string(wiring: Wiring, outlet: Poles, strung: list[Ends], coils: list[Told]) -> None:
    """The line through contacts to the coils, side by side, and their neutral back."""
    wiring.string(outlet["line"], strung, coils[0].plus, "BN")
    back = outlet["neutral"]
    for number, told in enumerate(coils):
        if number:
            wiring.join(coils[number - 1].plus, told.plus, "BN")
        if told.minus is not None:
            wiring.join(told.minus, back, "BU")
            back = told.minus


def _are_together(queries: Queries, devices: list[str]) -> bool:
    """Whether devices sit in one place, so that single wires of mains may lie between them."""
    return len({found.place for name in devices if (found := queries.device(name))}) == 1
