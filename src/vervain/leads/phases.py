"""Which two of four windings share a phase, and which way round: told by windings in series.

Resistance cannot tell it. Two windings of one phase see the same flux: in series their voltages
add to twice one of them, or cancel; two windings of different phases are a quarter period apart
and add to sqrt(2) times one.
"""

from typing import NamedTuple

from vervain.leads.motors import leads_port
from vervain.model.elements import Winding
from vervain.model.measurements import SeriesTest
from vervain.model.part import Part
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

Ends = tuple[str, str]


class Phases(NamedTuple):
    """The windings of a motor phase by phase, each written (start, end): turned that way round,
    all windings of a phase push the same way.
    """

    first: tuple[Ends, ...]
    second: tuple[Ends, ...]


def phases_from_tests(windings: tuple[Ends, ...], tests: tuple[SeriesTest, ...]) -> Phases | None:
    """The phases of four windings, once the tests tell them; None before, or where the tests
    contradict each other.
    """
    if len(windings) != 4:
        return None
    partner = _partner_of_first(windings, tests)
    if partner is None:
        return None
    others = [winding for winding in windings[1:] if winding != partner]
    first = _turned(windings[0], partner, tests)
    second = _turned(others[0], others[1], tests)
    return Phases(first, second) if first and second else None


def next_test(
    windings: tuple[Ends, ...], tests: tuple[SeriesTest, ...]
) -> tuple[Ends, Ends] | None:
    """The next two windings to join, each (free end, joined end); None where all is told.

    At most four tests: two find the partner of the first winding, by exclusion the third needs
    none of its own, and each phase needs one for its direction.
    """
    if len(windings) != 4 or phases_from_tests(windings, tests) is not None:
        return None
    partner = _partner_of_first(windings, tests)
    if partner is None:
        for other in windings[1:]:
            if _saw(windings[0], other, tests) is None:
                return windings[0], (other[1], other[0])
        return None
    others = [winding for winding in windings[1:] if winding != partner]
    for one, two in ((windings[0], partner), (others[0], others[1])):
        if _saw(one, two, tests) is None:
            return one, (two[1], two[0])
    return None


def _same(winding: Ends, ends: Ends) -> bool:
    return set(winding) == set(ends)


def _saw(one: Ends, two: Ends, tests: tuple[SeriesTest, ...]) -> str | None:
    """What the last test of two windings showed, as if the end of one were joined to the start of
    the other: "double", "nothing" or "between".
    """
    found = None
    for test in tests:
        for a, b in ((test.first, test.second), (test.second, test.first)):
            if not (_same(one, a) and _same(two, b)):
                continue
            # Written (free, joined): in the sense of `one` its end is joined when joined == end.
            aligned = (a[1] == one[1]) == (b[1] == two[0])
            saw = test.saw
            if saw != "between" and not aligned:
                saw = "nothing" if saw == "double" else "double"
            found = saw
    return found


def _partner_of_first(windings: tuple[Ends, ...], tests: tuple[SeriesTest, ...]) -> Ends | None:
    apart = []
    for other in windings[1:]:
        saw = _saw(windings[0], other, tests)
        if saw in ("double", "nothing"):
            return other
        if saw == "between":
            apart.append(other)
    # The partner of one winding also tells that of the other two.
    rest = [winding for winding in windings[1:] if winding not in apart]
    return rest[0] if len(rest) == 1 and len(apart) == 2 else None


def _turned(one: Ends, two: Ends, tests: tuple[SeriesTest, ...]) -> tuple[Ends, ...] | None:
    saw = _saw(one, two, tests)
    if saw == "double":
        return one, two
    if saw == "nothing":
        return one, (two[1], two[0])
    return None


def windings_by_part(part: Part) -> tuple[Ends, ...]:
    """The windings of a motor as its part gives them, each from start to end."""
    return tuple(
        (element.pins[0][1], element.pins[1][1])
        for element in part.inside
        if isinstance(element, Winding)
    )


@query
def phases_of(queries: Queries, motor: str) -> Phases | None:
    """The phases of a two-phase motor: as tested, else as its part says where the measured coils
    do not contradict it; None where neither tells.
    """
    device, part = queries.device(motor), queries.part_of(motor)
    if device is None or part is None or part.stepper is None or part.stepper.phases != 2:
        return None
    coils = tuple((coil[0], coil[-1]) for coil in device.coils)
    if len(coils) == 4:
        tested = phases_from_tests(coils, device.series_tests)
        if tested is not None:
            return tested
    by_part = windings_by_part(part)
    if coils and {frozenset(c) for c in coils} != {frozenset(_outer(part, w)) for w in by_part}:
        return None
    port = leads_port(part)
    functions = {pin.id: pin.function for pin in (port.pins if port else ())}
    sides: dict[str, list[Ends]] = {"A": [], "B": []}
    for start, end in by_part:
        named = {functions.get(start, "")[-2:-1], functions.get(end, "")[-2:-1]} & {"A", "B"}
        taps = {functions.get(start, "")[-1:], functions.get(end, "")[-1:]} & {"A", "B"}
        phase = next(iter(sorted(named or taps)), None)
        if phase is not None:
            sides[phase].append((start, end))
    if not sides["A"] or not sides["B"]:
        return None
    return Phases(tuple(sides["A"]), tuple(sides["B"]))


def _outer(part: Part, winding: Ends) -> Ends:
    """The ends of the coil that a winding belongs to: a tapped coil is measured as one."""
    port = leads_port(part)
    taps = {p.id for p in (port.pins if port else ()) if p.function.startswith("centre tap")}
    start, end = winding
    for other_start, other_end in windings_by_part(part):
        if end in taps and other_start == end:
            return start, other_end
        if start in taps and other_end == start:
            return other_start, end
    return winding
