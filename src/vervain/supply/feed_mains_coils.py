"""Contactors whose coils take mains in a proposal: through the stops and a start button, which a
contact of theirs holds.
"""

from collections.abc import Iterator

from vervain.electrical.mains import takes_mains
from vervain.ports.port_wishes import is_closed_by_hand
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_mains import Poles, mains_outlets
from vervain.supply.feed_stops import Told, free_coils, through_main_contacts
from vervain.supply.stop_contacts import Ends, contact_ends, contacts_that_rest, free_stops

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
    outlet = next(iter(mains_outlets(queries)), None)
    button = next(_start_buttons(queries), None)
    devices = [*stops, *(told.plus.device for told in coils)]
    if outlet is None or not _are_together(queries, devices):
        planner.decisions.append(
            f"The coils of {names} take mains: lead them through the stops on Ports, in a cable."
        )
        return
    wiring = Wiring(planner, MAINS_CONTROL_MM2)
    strung = [ends for contacts in stops.values() for ends in contacts]
    strung += [button] if button is not None else []
    _string(wiring, outlet, strung, coils)
    held = _hold(wiring, queries, button, coils[0])
    worked = [told.plus.device for told in coils]
    starts = f", {button[0].device} starts" if button is not None else ""
    planner.add(
        wiring.step(
            f"{names_in_words(tuple(stops))} stops {names}{starts}, at mains",
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


def _hold(wiring: Wiring, queries: Queries, button: Ends | None, coil: Told) -> bool:
    """Puts a free contact of a contactor that closes beside the start button."""
    if button is None:
        return False
    part = queries.part_of(coil.plus.device)
    for element in contacts_that_rest(part, "NO") if part is not None else ():
        ends = contact_ends(coil.plus.device, element)
        port = part.port(ends[0].port) if part is not None else None
        is_free = not any(steps_from(queries, ref) for ref in ends)
        if port is not None and port.kind == "contact" and is_free:
            wiring.join(button[0], ends[0], "BN")
            wiring.join(button[1], ends[1], "BN")
            return True
    return False


def _start_buttons(queries: Queries) -> Iterator[Ends]:
    """The contacts that a hand closes of buttons that nothing is joined to."""
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind != "switch" or queries.hookups_of(name):
            continue
        for element in contacts_that_rest(part, "NO"):
            ends = contact_ends(name, element)
            if is_closed_by_hand(part, ends[0].port):
                yield ends


def _are_together(queries: Queries, devices: list[str]) -> bool:
    """Whether devices sit in one place, so that single wires of mains may lie between them."""
    return len({found.place for name in devices if (found := queries.device(name))}) == 1
