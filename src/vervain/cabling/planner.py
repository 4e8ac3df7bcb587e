"""The cable planner: which conductors go into which cables, with the least cost, and why.

What one plug or one device needs stays together. Between two places these units are divided into
groups that may share a cable; within one place each has its own wires. Up to nine units every
division is weighed (dynamic programming over subsets: the optimum of the cost); more are joined two
by two, each time the two groups that save most.
"""

from collections.abc import Callable, Iterable

from msgspec.structs import replace

from vervain.cabling.finish import finished
from vervain.cabling.planned_cable import PlannedCable
from vervain.cabling.requirements import Need, needs, wires_without_sheath
from vervain.cabling.selection import (
    Choice,
    Options,
    Unit,
    choose_part,
    group_key,
    is_differential,
    least_area_mm2,
    may_share,
)
from vervain.edits.cable_edits import remove_cable
from vervain.model.base import Record
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_area
from vervain.text.words import count_of

MOST_EXACT = 9


class CablePlan(Record, frozen=True, kw_only=True):
    """What is proposed; `left` are hookups that no part serves, each with the reason; `exact` tells
    whether no other division costs less.
    """

    cables: tuple[PlannedCable, ...]
    left: tuple[tuple[str, str], ...]
    exact: bool


def plan_cables(
    machine: Machine,
    parts: Iterable[CablePart],
    options: Options = Options(),  # noqa: B008 - a value that nobody can change
    should_continue: Callable[[], bool] = lambda: True,
) -> CablePlan:
    """A cable for everything that wants one. The same machine gives the same plan."""
    without_sheath = wires_without_sheath(Queries(machine))
    queries = Queries(_without(machine, without_sheath.values()))
    options = options._replace(ambient_c=machine.ambient_c)
    known = sorted(parts, key=lambda part: part.id)
    by_places: dict[frozenset[str], list[Unit]] = {}
    for unit in units(needs(queries)):
        by_places.setdefault(frozenset(unit[0].places), []).append(unit)
    cables: list[PlannedCable] = []
    left: list[tuple[str, str]] = []
    exact = True
    for places, group in by_places.items():
        if not should_continue():
            break
        memory: dict[tuple[str, ...], Choice | None] = {}

        def choice(
            some: Unit,
            memory: dict[tuple[str, ...], Choice | None] = memory,
        ) -> Choice | None:
            key = tuple(need.hookup for need in some)
            if key not in memory:
                is_plain = may_share(some) and not any(need.of_couple for need in some)
                memory[key] = choose_part(some, known, options) if is_plain else None
            return memory[key]

        whole = [one for unit in group for one in _divided(unit, choice)]
        left += [
            (need.hookup, _why_not(need, options)) for u in whole if choice(u) is None for need in u
        ]
        fitting = [unit for unit in whole if choice(unit) is not None]
        inside = fitting[:0] if len(places) > 1 else fitting
        if inside:
            division = [*inside]
        elif len(fitting) <= MOST_EXACT:
            division = best_division(fitting, choice)
        else:
            division = joined_division(fitting, choice)
            exact = False
        for some in division:
            found = choice(some)
            if found is not None:
                off = dict.fromkeys(
                    without_sheath[n.hookup] for n in some if n.hookup in without_sheath
                )
                why = f"{found.why}, with the sheath that mains want there" if off else found.why
                cables.append(
                    PlannedCable(
                        part=found.part, needs=some, used=found.used, cost=found.cost, why=why,
                        takes_off=tuple(off),
                    )
                )  # fmt: skip
    made = finished(machine, cables, known, options, should_continue)
    bare = tuple(row for row in left if row[0] not in without_sheath)
    return CablePlan(cables=made, left=bare, exact=exact)


def _without(machine: Machine, cables: Iterable[str]) -> Machine:
    for name in dict.fromkeys(cables):
        machine = remove_cable(machine, name)
    return machine


def units(found: tuple[Need, ...]) -> list[Unit]:
    """Needs that stay together: one plug's, or within a place those of two devices."""
    by_key: dict[tuple[str, ...], list[Need]] = {}
    for need in found:
        by_key.setdefault(group_key(need), []).append(need)
    return [tuple(group) for group in by_key.values()]


def _divided(unit: Unit, choice: "Chooser") -> list[Unit]:
    """A unit whole where a part serves it, else need by need."""
    return [unit] if choice(unit) is not None else [(need,) for need in unit]


def _why_not(need: Need, options: Options) -> str:
    if need.of_couple:
        return (
            "a thermocouple goes on in its own two metals (IEC 60584-3): describe such a cable "
            "(part files), and lay it by hand"
        )
    least = least_area_mm2((need,), need.length_m, options, minds_drop=False)
    unfused = least_area_mm2(
        (replace(need, fused_a=0.0),), need.length_m, options, minds_drop=False
    )
    remedy = "describe one (part files), or lay one by hand"
    if unfused < least:
        remedy = f"put a smaller fuse before it than {need.fused_a:g} A"
    if least > need.thickest_mm2 * 1.001:
        takes = in_area(need.thickest_mm2)
        return f"it wants {in_area(least)}, its contacts take {takes}: {remedy}"
    count = len(need.conductors)
    words = [f"{count_of(count, 'core')} of {in_area(least)}"]
    words += ["flexing"] if need.moving else []
    words += ["in pairs"] if is_differential((need,)) else []
    words += ["with a shield"] if need.service in ("motor", "encoder") else []
    return f"no cable part has {', '.join(words)}: {remedy}"


Chooser = Callable[[Unit], Choice | None]


def best_division(group: list[Unit], choice: Chooser) -> list[Unit]:
    """The division into cables that costs least; of equal ones that with fewer cables first."""
    count = len(group)
    every = (1 << count) - 1
    best: dict[int, tuple[float, int, int]] = {0: (0.0, 0, 0)}
    for taken in range(1, every + 1):
        first = taken & -taken
        rest = taken ^ first
        some = rest
        found: tuple[float, int, int] | None = None
        while True:
            part = some | first
            picked = _together(group, part)
            chosen = choice(picked)
            if chosen is not None:
                before = best[taken ^ part]
                cost = (round(before[0] + chosen.cost, 6), before[1] + 1, part)
                if found is None or cost < found:
                    found = cost
            if some == 0:
                break
            some = (some - 1) & rest
        assert found is not None
        best[taken] = found
    division = []
    taken = every
    while taken:
        part = best[taken][2]
        division.append(_together(group, part))
        taken ^= part
    return division


def _together(group: list[Unit], part: int) -> Unit:
    """The needs of the units that a set names, bit by bit."""
    return tuple(need for n, unit in enumerate(group) if part >> n & 1 for need in unit)


def joined_division(group: list[Unit], choice: Chooser) -> list[Unit]:
    """A good division: from a cable each, always the two groups that save most are joined."""
    order = {need.hookup: n for n, need in enumerate(need for unit in group for need in unit)}
    division = list(group)
    while True:
        best: tuple[float, int, int] | None = None
        for second in range(1, len(division)):
            for first in range(second):
                both = _merged(division[first], division[second], order)
                together = choice(both)
                one, other = choice(division[first]), choice(division[second])
                if together is None or one is None or other is None:
                    continue
                saved = round(one.cost + other.cost - together.cost, 6)
                if saved > 0 and (best is None or saved > best[0]):
                    best = saved, first, second
        if best is None:
            return division
        _, first, second = best
        division[first] = _merged(division[first], division[second], order)
        del division[second]


def _merged(one: Unit, other: Unit, order: dict[str, int]) -> Unit:
    return tuple(sorted((*one, *other), key=lambda need: order[need.hookup]))
