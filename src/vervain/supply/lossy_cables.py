"""The cables on whose way too much is lost, and how thick they would have to be."""

from collections.abc import Callable

from vervain.harness.terminations import contact_range_mm2
from vervain.queries.machine_queries import Queries
from vervain.supply.results import delivered_power
from vervain.supply.sizing import USUAL_MM2, gauges_for, part_of_cable
from vervain.supply.states import LASTING_STATES
from vervain.supply.voltage_profile import feed_path, lost_in_cables

# Of what is lost in all cables on a way, the part from which on a cable is worth its copper.
SHARE_THAT_MATTERS = 0.03
# For volts alone no core gets thicker: a shorter way or a higher voltage costs less.
MOST_FOR_VOLTS_MM2 = 10.0


def where_much_is_lost(queries: Queries, can_be: Callable[[str, float], bool]) -> dict[str, float]:
    """The cross-sections, in mm², of cables on whose way too much is lost in a lasting state: that
    of the one that costs most; where it cannot be so thick, a size more for all that matter.
    """
    found: dict[str, float] = {}
    for state in LASTING_STATES:
        for row in delivered_power(queries, state):
            names, area = gauges_for(queries, state, row) or ((), 0.0)
            areas = dict.fromkeys(names, area)
            path = feed_path(queries, state, row.pin)
            is_worth_it = area <= MOST_FOR_VOLTS_MM2
            if path is not None and not all(is_worth_it and can_be(name, area) for name in names):
                lost = lost_in_cables(queries, path)
                matters_v = SHARE_THAT_MATTERS * sum(lost.values())
                areas = {name: _next_size(queries, name) for name in lost if lost[name] > matters_v}
            for name, wanted in areas.items():
                if wanted <= MOST_FOR_VOLTS_MM2 and can_be(name, wanted):
                    found[name] = max(found.get(name, 0.0), wanted)
    return found


def thickest_mm2(queries: Queries, cable: str) -> float:
    """The thickest core, in mm², that the terminals at the ends of a cable take where known."""
    ends = [end for hookup in queries.hookups_in(cable) for end in (hookup.a, hookup.b)]
    return contact_range_mm2(queries, ends)[1]


def _next_size(queries: Queries, cable: str) -> float:
    """The usual cross-section, in mm², above that of a cable; its own where there is none."""
    part = part_of_cable(queries, cable)
    own = part.core_mm2 if part is not None else 0.0
    return next((area for area in USUAL_MM2 if area > own), own)
