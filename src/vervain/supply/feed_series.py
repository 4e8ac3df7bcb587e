"""Batteries in series in a proposal: where something takes more volts than any source gives, and so
many alike batteries that nothing is joined to give it together.
"""

from itertools import pairwise

from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_inputs import FeedInput, unfed_inputs
from vervain.supply.feed_sizes import area_for, rating_for
from vervain.supply.feed_sources import FeedSource, as_series, feed_sources, suits


def plan_series(planner: PlanBuilder) -> None:
    """Joins alike batteries to one of more volts, for what no source feeds as they are."""
    queries = planner.queries
    wanted = [item for item in unfed_inputs(queries) if item.is_known]
    for cells in _alike_and_loose(queries):
        whole = as_series(cells[::-1])
        others = [source for source in feed_sources(queries) if source not in cells]
        served = [item for item in wanted if suits(whole, item) and not _is_served(others, item)]
        # What one of them feeds alone says that they are not meant to be joined.
        alone = [item for item in wanted if suits(cells[0], item) and not _is_served(others, item)]
        if served and not alone:
            _join(planner, cells, served)
            return


def _alike_and_loose(queries: Queries) -> list[list[FeedSource]]:
    """The batteries of one part each that nothing is joined to, two at least."""
    found: dict[str, list[FeedSource]] = {}
    for source in feed_sources(queries):
        device = queries.device(source.plus.device)
        if source.is_battery and device is not None and not queries.hookups_of(device.designator):
            found.setdefault(device.part, []).append(source)
    return [cells for cells in found.values() if len(cells) > 1]


def _is_served(sources: list[FeedSource], item: FeedInput) -> bool:
    return any(s.plus.device not in item.feeds and suits(s, item) for s in sources)


def _join(planner: PlanBuilder, cells: list[FeedSource], served: list[FeedInput]) -> None:
    """The links from the plus of each battery to the minus of the next, which carry everything."""
    taken_a = sum(item.current_a for item in served)
    area = area_for(planner.queries, as_series(cells[::-1]), taken_a, rating_for(taken_a))
    wiring = Wiring(planner, area)
    for lower, upper in pairwise(cells):
        wiring.join(lower.plus, upper.minus, "RD")
    volts = sum(cell.feed.nominal_v for cell in cells)
    names = names_in_words(tuple(cell.plus.device for cell in cells))
    takes = names_in_words(tuple(dict.fromkeys(item.plus.device for item in served)))
    planner.add(
        wiring.step(
            f"{names} in series",
            f"{volts:g} V together, which {takes} takes."
            if len(served) == 1
            else f"{volts:g} V together, which {takes} take.",
        )
    )
