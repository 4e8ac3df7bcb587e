"""What a plan of cables comes to once all of them lie: those on whose way too much is lost are
taken thicker, and so are those that were there before, now that it is known how far they go.
"""

from collections.abc import Callable, Iterable
from functools import partial

from msgspec.structs import replace

from vervain.cabling.apply_plan import accept_cables
from vervain.cabling.planned_cable import PlannedCable
from vervain.cabling.selection import Options, choose_part
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_steps import cable_kind
from vervain.supply.lossy_cables import thickest_mm2, where_much_is_lost
from vervain.supply.sizing import part_of_cable
from vervain.text.units import in_area

# Each round makes what loses most a size thicker at least, and there are eighteen sizes.
MOST_ROUNDS = 18


def finished(
    machine: Machine,
    planned: Iterable[PlannedCable],
    known: Iterable[CablePart],
    options: Options,
    should_continue: Callable[[], bool] = lambda: True,
) -> tuple[PlannedCable, ...]:
    """The plan with cables as thick as what they feed wants, as far as their terminals go."""
    parts = tuple(known)
    before = Queries(machine)
    plan = tuple(planned)
    for _ in range(MOST_ROUNDS):
        laid = accept_cables(machine, plan, options)
        queries = Queries(laid)
        own = [cable.id for cable in laid.cables if before.cable(cable.id) is None]
        by_name = dict(zip(own, (cable for cable in plan if not cable.instead), strict=True))

        thicker = partial(
            _thicker, before=before, queries=queries, by_name=by_name, parts=parts, options=options
        )
        wanted = where_much_is_lost(queries, lambda *area, of=thicker: of(*area) is not None)
        if not wanted or not should_continue():
            break
        found = {name: cable for name, area in wanted.items() if (cable := thicker(name, area))}
        there = {cable.instead: cable for cable in plan if cable.instead}
        there |= {name: cable for name, cable in found.items() if name not in by_name}
        plan = (*(found.get(name, by_name[name]) for name in own), *there.values())
    return plan


def _thicker(
    name: str,
    area_mm2: float,
    *,
    before: Queries,
    queries: Queries,
    by_name: dict[str, PlannedCable],
    parts: tuple[CablePart, ...],
    options: Options,
) -> PlannedCable | None:
    """A cable of the plan, by its name, or instead of one that was there before, with cores of a
    cross-section; None where it has that, its terminals do not take it, or no part has it.
    """
    part = part_of_cable(queries, name)
    own_mm2 = part.core_mm2 if part is not None else 0.0
    if not own_mm2 < area_mm2 <= thickest_mm2(queries, name):
        return None
    if name in by_name:
        return _as_thick(by_name[name], area_mm2, parts, options)
    return _instead(before, name, area_mm2, parts)


def _as_thick(
    cable: PlannedCable, area_mm2: float, parts: tuple[CablePart, ...], options: Options
) -> PlannedCable | None:
    """A planned cable of at least a cross-section; None where none suits what is in it."""
    found = choose_part(cable.needs, parts, options._replace(least_mm2=area_mm2))
    if found is None:
        return None
    why = f"{found.why}, so thick for what is lost on the way"
    return replace(cable, part=found.part, cost=found.cost, why=why)


def _instead(
    queries: Queries, name: str, area_mm2: float, parts: tuple[CablePart, ...]
) -> PlannedCable | None:
    """A thicker cable of the same cores instead of one that was there; None where there is none."""
    part = part_of_cable(queries, name)
    if part is None or part.ready_made:
        return None
    like = [
        other for other in parts
        if other.cores == part.cores and other.core_mm2 >= area_mm2 * 0.999
        and (other.form, other.shield, other.pairs) == (part.form, part.shield, part.pairs)
        and other.flexing >= part.flexing
    ]  # fmt: skip
    found = min(like, key=lambda other: (other.core_mm2, other.id), default=None)
    if found is None and part.form == "loose wires" and not part.flexing:
        found = cable_kind(parts, part.cores, area_mm2)
    if found is None:
        return None
    why = f"{in_area(part.core_mm2)} loses too much on its way"
    return PlannedCable(part=found, needs=(), used=len(part.cores), cost=0.0, why=why, instead=name)
