"""Choosing a cable for some needs together: may they share one, which part does, at what price."""

import math
from collections.abc import Iterable
from typing import NamedTuple

from vervain.cabling.requirements import (
    COMMON,
    COMPLEMENTS,
    EARTH,
    LINE,
    NEUTRAL,
    PLUS,
    Conductor,
    Need,
)
from vervain.electrical.copper import ampacity_a, resistance_ohm_m
from vervain.harness.bundles import cable_diameter_mm
from vervain.model.cable_part import CablePart
from vervain.supply.feed_steps import cable_kind
from vervain.supply.results import DROP_MOST, DROP_MOST_LOW, LOW_V
from vervain.supply.sizing import USUAL_MM2
from vervain.text.units import in_area

Unit = tuple[Need, ...]
# What carries at most this current may lie with others.
QUIET_A = 1.0
# What a feed may lose in one planned cable, both ways: of what it may lose in all where that goes
# between places, for others and its own leads lie before and behind; of its nominal voltage on each
# of the many short wires within one.
OF_ALL, DROP_INSIDE = 0.5, 0.005
# What a cable costs beside its copper, in metres of a single core: cutting, two ends, labels.
HANDLING, SHEATH_M, CORE_M, SHIELD_M, FLEXING_M = 6.0, 1.0, 0.5, 1.5, 0.4
# What it counts against a plan when a feed lies with signals, when an encoder has a shield but no
# pairs, and when a single wire has a colour that means something else.
MIXED, UNPAIRED, MISCOLOURED = 4.0, 3.0, 0.5
LOOPS_M = 0.6
# Any colour that says nothing; from what cross-section on wires go without a sheath between places.
PLAIN, HEAVY_MM2 = ("WH",), 4.0
SIZES_MM2 = (0.05, 0.09, *USUAL_MM2)
# What the core of each kind of conductor should be coloured, the best first: green-yellow is earth
# and nothing else, blue a neutral (IEC 60445); the rest by practice.
COLOURS_OF = {
    EARTH: ("GNYE",), NEUTRAL: ("BU",), LINE: ("BN", "BK", "GY"),
    PLUS: ("RD", "BN"), COMMON: ("BU", "BK", "WH"),
}  # fmt: skip


class Options(NamedTuple):
    """What the builder wants: commons shared, and so many cores left over in every cable; the
    temperature around the cables, and the thinnest core in mm².
    """

    share_commons: bool = False
    spare_cores: int = 0
    ambient_c: float = 40.0
    least_mm2: float = 0.0


class Choice(NamedTuple):
    """A cable part for a group of needs: how many cores are used, what it costs, the reason."""

    part: CablePart
    used: int
    cost: float
    why: str


def group_key(need: Need) -> tuple[str, ...]:
    """Needs of one unit stay together: those of one plug or device between two places, or of the
    poles of two devices; within one place those between the same two devices.
    """
    if need.places[0] == need.places[1]:
        return need.device_end.device, need.far_end.device, str(need.earth), need.service
    if need.at_poles and need.service == "mains":
        return (*sorted(need.places), *sorted((need.device_end.device, need.far_end.device)))
    return (*sorted(need.places), need.device_end.device, need.device_end.port)


def may_share(group: Unit) -> bool:
    """Whether needs may lie in one cable: between the same places, and nothing that disturbs, or
    that must not go with another.
    """
    if len({group_key(need) for need in group}) == 1:
        # The earth of a plug goes with its mains, or with its motor.
        return len({need.service == "mains" for need in group if not need.earth}) <= 1
    if len({frozenset(need.places) for need in group}) > 1 or any(n.ribbon for n in group):
        return False
    if any(need.places[0] == need.places[1] or need.earth for need in group):
        return False
    services = {need.service for need in group}
    if services & {"mains"}:
        return False
    if all(need.coiled for need in group):
        # One coiled lead to what is held in the hand.
        return "motor" not in services
    if "stop" in services:
        return services == {"stop"}
    if "motor" in services:
        motors = {group_key(need) for need in group if need.service == "motor"}
        same = len({need.axis for need in group}) == 1 and bool(group[0].axis)
        return len(motors) == 1 and same and services == {"motor", "feed"}
    return max((c.current_a for need in group for c in need.conductors), default=0.0) <= QUIET_A


def shared_commons(group: Unit, options: Options) -> dict[frozenset[str], float]:
    """The nets of which one core is enough for several signals, each with the current that adds up
    in it. Stop channels, motors and feeds never share.
    """
    if not options.share_commons or len(group) < 2:
        return {}
    if any(need.service not in ("signal", "encoder") for need in group):
        return {}
    counted: dict[frozenset[str], list[float]] = {}
    for need in group:
        for conductor in need.conductors:
            if may_be_common(conductor):
                counted.setdefault(net_key(conductor.net), []).append(conductor.current_a)
    return {key: sum(current_a) for key, current_a in counted.items() if len(current_a) > 1}


def may_be_common(conductor: Conductor) -> bool:
    """Whether a conductor is a supply or a return, of which one core may serve several."""
    return conductor.kind in (COMMON, PLUS) and not conductor.line


def net_key(net: Iterable[object]) -> frozenset[str]:
    """What tells nets apart."""
    return frozenset(str(pin) for pin in net)


def own_conductors(group: Unit, options: Options) -> list[tuple[Need, Conductor]]:
    """The conductors that get a core of their own: all but those of a shared common."""
    commons = shared_commons(group, options)
    return [
        (need, conductor)
        for need in group
        for conductor in need.conductors
        if not (may_be_common(conductor) and net_key(conductor.net) in commons)
    ]


def cores_wanted(group: Unit, options: Options) -> int:
    """How many cores a group takes: n switches of two leads with a shared common n + 1."""
    return len(own_conductors(group, options)) + len(shared_commons(group, options))


def are_pair(one: Conductor, other: Conductor) -> bool:
    """Whether two conductors belong into one twisted pair: a line with its complement, or a plus
    with its return.
    """
    if one.line or other.line:
        return one.line == other.line and one.line in COMPLEMENTS
    return {one.kind, other.kind} == {PLUS, COMMON}


def pairs_of(group: Unit, options: Options) -> list[list[tuple[Need, Conductor]]]:
    """The conductors in the pairs that they belong to; a single signal has a pair for itself."""
    waiting = own_conductors(group, options)
    found = []
    while waiting:
        need, conductor = waiting.pop(0)
        pair = [(need, conductor)]
        for other in waiting:
            if other[0] is need and are_pair(conductor, other[1]):
                pair.append(other)
                waiting.remove(other)
                break
        found.append(pair)
    return found


def is_differential(group: Unit) -> bool:
    """Whether any line comes with its complement."""
    return any(
        len(set(lines)) < len(lines)
        for need in group
        if (lines := [conductor.line for conductor in need.conductors if conductor.line])
    )


def least_area_mm2(
    group: Unit, length_m: float, options: Options, minds_drop: bool = True
) -> float:
    """The thinnest core that carries the peak currents of a group and what the fuse before it lets
    through, and, where one minds it, loses no more than it may.
    """
    commons = shared_commons(group, options)
    most = max(
        [c.current_a for need in group for c in need.conductors]
        + [need.fused_a for need in group]
        + list(commons.values()),
        default=0.0,
    )
    area = max(options.least_mm2, *(need.thinnest_mm2 for need in group))
    loaded = sum(conductor.current_a > 0 for need in group for conductor in need.conductors)
    circuits = max(1, (loaded + 1) // 2)
    for size in SIZES_MM2:
        carries = ampacity_a(size, options.ambient_c, circuits) or 0.0
        if size < area * 0.999 or carries < most:
            continue
        if not minds_drop or all(_lost(need, size, length_m) for need in group):
            return size
    return SIZES_MM2[-1]


def _lost(need: Need, size_mm2: float, length_m: float) -> bool:
    """Whether what is fed loses no more than it may in cores of a size: a supply's consumer, or a
    sensor, a servo, a lamp of a controller. What a drive gives its motor is its own.
    """
    if need.service in ("motor", "mains") or need.voltage_v <= 0:
        return True
    most = DROP_MOST_LOW if need.voltage_v <= LOW_V else DROP_MOST
    part = DROP_INSIDE if need.places[0] == need.places[1] else OF_ALL * most
    current_a = max(conductor.current_a for conductor in need.conductors)
    return 2 * current_a * resistance_ohm_m(size_mm2) * length_m <= part * need.voltage_v


def choose_part(group: Unit, parts: Iterable[CablePart], options: Options) -> Choice | None:
    """The cheapest part that does for a group. Where every one of them loses too much, a group of
    one gets the thickest that carries it, and where none is so thick, single wires of it; None
    where nothing does.
    """
    known = tuple(parts)
    wanted = cores_wanted(group, options)
    length_m = max(need.length_m for need in group) + LOOPS_M
    with_drop = least_area_mm2(group, length_m, options)
    # The thinnest core, what is offered, and whether the thickest of it is taken.
    attempts = [(with_drop, known, False)]
    if len(group) == 1:
        carries = least_area_mm2(group, length_m, options, minds_drop=False)
        attempts.append((with_drop, _single_wires(group[0], known, with_drop), False))
        attempts.append((carries, (*known, *_single_wires(group[0], known, carries)), True))
    for least, offered, takes_thickest in attempts:
        found = [
            Choice(
                part, wanted, round(cost_of(part, length_m) + _counts_against(part, group), 4), ""
            )
            for part in offered
            if suits(part, group, wanted, least, length_m, options)
        ]
        if takes_thickest and found:
            thickest = max(choice.part.core_mm2 for choice in found)
            found = [choice for choice in found if choice.part.core_mm2 == thickest]
        if found:
            best = min(found, key=lambda choice: (choice.cost, choice.part.id))
            return best._replace(why=_why(group, best.part, wanted, options))
    return None


def _single_wires(
    need: Need, known: tuple[CablePart, ...], area_mm2: float
) -> tuple[CablePart, ...]:
    """The wire, or the pair of wires, of a cross-section in the colours of a need's conductors."""
    if len(need.conductors) > 2:
        return ()
    cores = tuple(COLOURS_OF.get(item.kind, PLAIN)[0] for item in need.conductors)
    return (cable_kind(known, cores, area_mm2),) if len(set(cores)) == len(cores) else ()


def suits(
    part: CablePart, group: Unit, wanted: int, least: float, length_m: float, options: Options
) -> bool:
    """Whether a part has the cores, the cross-section and the construction that a group wants."""
    most = min(need.thickest_mm2 for need in group)
    moving = any(need.moving for need in group)
    coiled = all(need.coiled for need in group)
    services = {need.service for need in group}
    shield = bool(services & {"motor", "encoder"}) and not coiled
    if services & {"encoder"} and all(need.places[0] == need.places[1] for need in group):
        shield = False
    ribbon = group[0].ribbon
    if any(need.single and part.cores != (need.single,) for need in group):
        return False
    return (
        _has_cores(part, group, wanted, options)
        and least * 0.999 <= part.core_mm2 <= most * 1.001
        and (part.flexing or not moving)
        and (part.shield or not shield)
        and (part.pairs or not is_differential(group) or not shield)
        and (part.form == "coiled") == coiled
        and (part.form == "ribbon") == ribbon
        and (part.form != "loose wires" or _may_be_loose(part, group, wanted))
        and (not part.ready_made or bought_m(part, length_m) is not None)
        and (not part.plugs or all(need.plugs and need.plugs <= {*part.plugs} for need in group))
    )


def _has_cores(part: CablePart, group: Unit, wanted: int, options: Options) -> bool:
    """Whether a part has as many cores as a group wants, and one for earth where it wants one and
    nowhere else; mains between two terminals have it besides.
    """
    earths = sum(item.kind == EARTH for need in group for item in need.conductors)
    is_mains = any(need.service == "mains" for need in group)
    has_earth = "GNYE" in part.cores
    if earths > 1 or has_earth != (earths == 1 or (is_mains and not group[0].single)):
        return False
    others = len(part.cores) - has_earth
    if (others == 0) != (wanted == earths):
        return False
    plain = group[0].ribbon or is_mains or earths or part.form == "loose wires"
    spare = 0 if plain else options.spare_cores
    enough = others >= wanted - earths + spare
    if part.pairs:
        pairs = len(pairs_of(group, options)) + len(shared_commons(group, options))
        enough = enough and 2 * pairs <= len(part.cores)
    return enough


def _may_be_loose(part: CablePart, group: Unit, wanted: int) -> bool:
    """Whether single wires may serve a group: within a place, or an earth alone; what is thicker
    than cables with a sheath are, and is no mains, on any way.
    """
    between = bool(group[0].runs)
    is_earth = all(need.earth for need in group)
    is_heavy = part.core_mm2 >= HEAVY_MM2 and not any(n.service == "mains" for n in group)
    return len(part.cores) == wanted and (not between or is_earth or is_heavy)


def _counts_against(part: CablePart, group: Unit) -> float:
    """What speaks against a part that suits."""
    services = {need.service for need in group}
    against = MIXED if "feed" in services and services - {"feed", "motor"} else 0.0
    if "encoder" in services and part.shield and not part.pairs:
        against += UNPAIRED
    conductors = [conductor for need in group for conductor in need.conductors]
    if len(conductors) == 1 and len(part.cores) == 1:
        meant = COLOURS_OF.get(conductors[0].kind, ())
        against += MISCOLOURED if part.cores[0] not in meant else 0.0
    return against


def bought_m(part: CablePart, length_m: float) -> float | None:
    """The length that a ready-made lead is bought in; any where the part gives none."""
    if not part.stock_m:
        return length_m
    return next((stock for stock in sorted(part.stock_m) if stock >= length_m), None)


def cost_of(part: CablePart, length_m: float) -> float:
    """What a cable costs, in metres of a thin single core: handling, and by the metre its copper,
    sheath, shield and flexing.
    """
    per_m = SHEATH_M if part.form != "loose wires" else 0.2
    per_m += len(part.cores) * (CORE_M + 0.3 * math.sqrt(part.core_mm2))
    per_m += SHIELD_M * part.shield + FLEXING_M * part.flexing
    per_m += cable_diameter_mm(part)[0] * 0.02
    return round(HANDLING + per_m * length_m, 4)


def _why(group: Unit, part: CablePart, wanted: int, options: Options) -> str:
    """Why this part, in the order of what decided."""
    words = [f"{wanted} of {len(part.cores)} cores" if len(part.cores) > 1 else "single wire"]
    if any(need.coiled for need in group):
        words.append("coiled")
    elif any(need.moving for need in group):
        words.append("flexing, for it moves")
    if any(need.service == "motor" for need in group):
        words.append("shielded against the chopped current")
    elif part.shield:
        words.append("shielded, in pairs" if part.pairs else "shielded")
    current_a = max((c.current_a for need in group for c in need.conductors), default=0.0)
    fused = max(need.fused_a for need in group)
    if fused:
        words.append(f"{in_area(part.core_mm2)} behind a fuse of {fused:g} A")
    elif current_a >= 0.05:
        words.append(f"{in_area(part.core_mm2)} for {current_a:.3g} A")
    commons = shared_commons(group, options)
    for key, total in commons.items():
        count = sum(
            net_key(c.net) == key and may_be_common(c) for need in group for c in need.conductors
        )
        words.append(
            f"one core is the common of {count} and carries {total:.3g} A; if it breaks, all "
            f"{count} are lost"
        )
    return ", ".join(words)
