"""Choosing a cable for some needs together: may they share one, which part does, at what price."""

import math
from collections.abc import Iterable
from typing import NamedTuple

from vervain.cabling.requirements import COMMON, COMPLEMENTS, PLUS, Conductor, Need
from vervain.electrical.copper import ampacity_a, resistance_ohm_m
from vervain.harness.bundles import cable_diameter_mm
from vervain.model.cable_part import CablePart
from vervain.supply.results import DROP_MOST, DROP_MOST_LOW, LOW_V
from vervain.text.units import in_area

Unit = tuple[Need, ...]
# A feed of at most this current may lie with signals.
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
SIZES_MM2 = (0.05, 0.09, 0.14, 0.25, 0.34, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0,
             25.0, 35.0, 50.0)  # fmt: skip
PLUS_COLOURS, COMMON_COLOURS = ("RD", "BN"), ("BK", "BU")


class Options(NamedTuple):
    """What the builder wants: commons shared, and so many cores left over in every cable; and the
    temperature around the cables.
    """

    share_commons: bool = False
    spare_cores: int = 0
    ambient_c: float = 40.0


class Choice(NamedTuple):
    """A cable part for a group of needs: how many cores are used, what it costs, the reason."""

    part: CablePart
    used: int
    cost: float
    why: str


def group_key(need: Need) -> tuple[str, ...]:
    """Needs of one unit stay together: those of one plug or device between two places; within one
    place those between the same two devices.
    """
    if need.places[0] == need.places[1]:
        return need.device_end.device, need.far_end.device, str(need.earth), need.service
    return (*sorted(need.places), need.device_end.device, need.device_end.port)


def may_share(group: Unit) -> bool:
    """Whether needs may lie in one cable: between the same places, and nothing that disturbs, or
    that must not go with another.
    """
    if len({group_key(need) for need in group}) == 1:
        return len({need.service == "mains" for need in group}) == 1
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
    current_a = [c.current_a for need in group if need.service == "feed" for c in need.conductors]
    return max(current_a, default=0.0) <= QUIET_A


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
    area = max(need.thinnest_mm2 for need in group)
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
    one gets the thickest that carries it; None where none does.
    """
    known = tuple(parts)
    wanted = cores_wanted(group, options)
    length_m = max(need.length_m for need in group) + LOOPS_M
    for minds_drop in (True, False) if len(group) == 1 else (True,):
        least = least_area_mm2(group, length_m, options, minds_drop)
        found = [
            Choice(
                part, wanted, round(cost_of(part, length_m) + _counts_against(part, group), 4), ""
            )
            for part in known
            if suits(part, group, wanted, least, length_m, options)
        ]
        thickest = max((choice.part.core_mm2 for choice in found), default=0.0)
        if not minds_drop:
            found = [choice for choice in found if choice.part.core_mm2 == thickest]
        if found:
            best = min(found, key=lambda choice: (choice.cost, choice.part.id))
            return best._replace(why=_why(group, best.part, wanted, options))
    return None


def suits(
    part: CablePart, group: Unit, wanted: int, least: float, length_m: float, options: Options
) -> bool:
    """Whether a part has the cores, the cross-section and the construction that a group wants."""
    thickest = min(need.thickest_mm2 for need in group)
    if len(group) > 1 and least > thickest * 1.001:
        # What one of them wants is more than the contacts of another take.
        return False
    most = max(least, thickest)
    moving = any(need.moving for need in group)
    coiled = all(need.coiled for need in group)
    services = {need.service for need in group}
    shield = bool(services & {"motor", "encoder"}) and not coiled
    if services & {"encoder"} and all(need.places[0] == need.places[1] for need in group):
        shield = False
    ribbon, earth, mains = group[0].ribbon, group[0].earth, "mains" in services
    spare = 0 if ribbon or mains or earth or part.form == "loose wires" else options.spare_cores
    enough = len(part.cores) >= wanted + spare
    if part.pairs:
        pairs = len(pairs_of(group, options)) + len(shared_commons(group, options))
        enough = enough and 2 * pairs <= len(part.cores)
    loose = part.form == "loose wires"
    single = group[0].single if len(group) == 1 else ""
    if single and part.cores != (single,):
        return False
    return (
        enough
        and least * 0.999 <= part.core_mm2 <= most * 1.001
        and (part.flexing or not moving)
        and (part.shield or not shield)
        and (part.pairs or not is_differential(group) or not shield)
        and (part.form == "coiled") == coiled
        and (part.form == "ribbon") == ribbon
        and ("GNYE" in part.cores) == ((mains and not single) or earth)
        and (part.cores == ("GNYE",)) == earth
        and (not loose or (len(part.cores) == wanted and not group[0].runs))
        and (not part.ready_made or bought_m(part, length_m) is not None)
        and (not part.plugs or all(need.plugs and need.plugs <= {*part.plugs} for need in group))
    )


def _counts_against(part: CablePart, group: Unit) -> float:
    """What speaks against a part that suits."""
    services = {need.service for need in group}
    against = MIXED if "feed" in services and services - {"feed", "motor"} else 0.0
    if "encoder" in services and part.shield and not part.pairs:
        against += UNPAIRED
    conductors = [conductor for need in group for conductor in need.conductors]
    if len(conductors) == 1 and len(part.cores) == 1:
        meant = {PLUS: PLUS_COLOURS, COMMON: COMMON_COLOURS}.get(conductors[0].kind, ())
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
