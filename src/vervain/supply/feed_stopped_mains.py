"""Which of what takes mains has them together behind the contactors of the stops: where there is
more of it than these have poles.
"""

from vervain.model.machine import PinRef
from vervain.ports.contactor_loads import contactor_of_load, load_of_contactor
from vervain.queries.machine_queries import Queries
from vervain.stops.what_goes import goes_at_stop
from vervain.supply.feed_stops import free_coils
from vervain.supply.main_contacts import free_poles, pole_bears
from vervain.supply.mains_load import mains_current_a
from vervain.supply.stop_contacts import free_stops

Poles = dict[str, PinRef]


def stopped_together(queries: Queries, wanted: list[Poles]) -> list[Poles]:
    """The inputs of one line and a neutral, of those that want mains, of what must go at a stop,
    where each contactor that the stops will work has fewer poles than there are of them, and one
    for all; none elsewhere.
    """
    goes = [
        poles for poles in wanted
        if set(poles) <= {"line", "neutral", "pe"} and goes_at_stop(queries, poles["line"].device)
        and contactor_of_load(queries, poles["line"].device) is None
    ]  # fmt: skip
    worked = [
        told.plus.device for told in free_coils(queries)
        if load_of_contactor(queries, told.plus.device) is None
    ]  # fmt: skip
    if len(goes) < 2 or not worked or not (free_stops(queries) or _has_safety_relay(queries)):
        return []
    taken_a = sum(mains_current_a(queries, poles["line"].device) for poles in goes)
    for name in worked:
        bearing = [pole for pole, _ in free_poles(queries, name) if pole_bears(pole, taken_a)]
        if not 0 < len(bearing) < len(goes):
            return []
    return goes


def _has_safety_relay(queries: Queries) -> bool:
    parts = map(queries.part_of, queries.devices())
    return any(part is not None and part.is_safety_relay for part in parts)
