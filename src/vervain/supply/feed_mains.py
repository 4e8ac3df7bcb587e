"""Mains in a proposal: from the terminals where it comes in to every supply."""

from vervain.model.part import Part
from vervain.ports.port_wishes import is_main_switch, mains_coils
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_text
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_earth import bond_what_is_left, earthed_only, free_earth
from vervain.supply.feed_mains_fuses import all_taken_a, area_of_mains
from vervain.supply.feed_steps import FeedStep, NewWire
from vervain.supply.feed_stopped_mains import stopped_together
from vervain.supply.feed_two_ways import feed_two_ways, has_two_ways, relays_for_both
from vervain.supply.feed_ways import fuses_for_mains, strip_bears
from vervain.supply.mains_ways import (
    LINES,
    POLES,
    Block,
    Poles,
    blocks_of_mains,
    mains_inputs,
    poles_of,
)
from vervain.text.words import in_a_row

# What the cores of mains cables are for, by their colours (IEC 60445).
CORE_OF_POLE = dict(zip(POLES, ("BN", "BK", "GY", "BU", "GNYE"), strict=True))


def plan_mains(planner: PlanBuilder) -> None:
    """Takes mains to every supply that has none, and earth to all that wants it."""
    wanted = _without_lone_ways(planner, mains_inputs(planner.queries))
    if together := stopped_together(planner.queries, wanted):
        wanted = _behind_contactors(planner, together, wanted)
    if wanted:
        _feed_supplies(planner, wanted)
    bond_what_is_left(planner)


def _without_lone_ways(planner: PlanBuilder, wanted: list[Poles]) -> list[Poles]:
    """The mains inputs without those of loads with two ways for which there are no two relays."""
    found = []
    for poles in wanted:
        load = poles["line"].device
        if has_two_ways(planner.queries, poles) and not relays_for_both(planner.queries, load):
            planner.decisions.append(
                f"{load} has two ways, one of which is on at a time: each wants a relay of its own "
                f"that is called as {load} is."
            )
        else:
            found.append(poles)
    return found


def _behind_contactors(
    planner: PlanBuilder, together: list[Poles], wanted: list[Poles]
) -> list[Poles]:
    """Takes mains to what goes at a stop from terminals of its own, which then stand for it among
    what wants mains; all as it is where the shelf has none for so many.
    """
    part = _strip_for_mains(planner, (len(together),))
    if part is None:
        return wanted
    block = _add_terminals(
        planner, part, together[0], "Mains, off at a stop", "terminals for what goes at a stop",
        "The contactors have too few poles for each: they cut the mains of all.",
    )  # fmt: skip
    entry, *outlets = (poles_of(block, port) for port in part.ports)
    for poles, outlet in zip(together, outlets, strict=False):
        _feed_one(planner, poles, outlet, (len(planner.steps) - 1,))
    own = {pole: entry[pole] for pole in ("line", "neutral")}
    planner.stopped = {poles["line"].device: own for poles in together}
    return [entry, *(poles for poles in wanted if poles not in together)]


def _feed_supplies(planner: PlanBuilder, wanted: list[Poles]) -> None:
    apart = _apart(planner)
    blocks = blocks_of_mains(planner.queries, apart)
    needs: tuple[int, ...] = ()
    # The coils of contactors that take mains want a terminal of their own.
    coils = 1 if mains_coils(planner.queries) else 0
    three = [
        poles for poles in wanted
        if LINES[1] in poles and not has_two_ways(planner.queries, poles)
    ]  # fmt: skip
    count = len(wanted) - len(three) + coils
    # Several wires of protective earth want terminals, where nothing has a free one.
    many_earths = earthed_only(planner.queries, wanted) > 1 and free_earth(planner) is None
    if _outlets_left(blocks) < count or many_earths:
        # What is only earthed has a terminal as well, where a strip is that long.
        more = count + earthed_only(planner.queries, wanted)
        part = _strip_for_mains(planner, (more, count))
        if part is None:
            planner.decisions.append("Mains comes in by nothing yet: add terminals or an inlet.")
            return
        _add_terminals(
            planner, part, wanted[0], "Mains terminals", "terminals for mains",
            "Mains and protective earth come in there, and go on to each supply.",
        )  # fmt: skip
        needs = (len(planner.steps) - 1,)
        blocks = blocks_of_mains(planner.queries, apart)
    first = blocks[0]
    left = _to_choose(planner.queries, first.device)
    if first.is_entry and not first.protects and left:
        planner.decisions.append(
            f"Choose the {left} before {first.device}; "
            f"{first.device} {first.entry['line'].port} is left free for that."
        )
    # Terminals behind the first are fed like what hangs on them, and before it.
    inner = [block.entry for block in blocks[1:] if block.is_entry]
    outlets = [outlet for block in blocks for outlet in block.outlets]
    # What wants three lines has them where all three go on, beside what else is fed from there.
    with_all = [outlet for outlet in outlets if LINES[1] in outlet]
    for poles in three:
        if with_all:
            _feed_one(planner, poles, with_all[0], needs)
        else:
            taker = poles[LINES[0]].device
            planner.decisions.append(f"{taker} wants three lines of the mains, and one comes in.")
    single = [poles for poles in (*inner, *wanted) if poles not in three]
    for poles, outlet in zip(single, outlets, strict=False):
        if has_two_ways(planner.queries, poles):
            feed_two_ways(planner, poles, outlet, needs, area_of_mains(planner.queries))
        else:
            _feed_one(planner, poles, outlet, needs)


def _add_terminals(
    planner: PlanBuilder, part: Part, near: Poles, name: str, words: str, reason: str
) -> str:
    """Adds terminals for mains beside what takes it, and gives their designator."""
    added = planner.new_device(part, name, near["line"].device)
    planner.add(FeedStep(words=f"{added.designator}, {words}", reason=reason, adds=(added,)))
    return added.designator


def _strip_for_mains(planner: PlanBuilder, counts: tuple[int, ...]) -> Part | None:
    """Terminals of the shelf for so many ways beside that where mains comes in, or else for fewer;
    such as bear what everything takes and the cores behind its fuse, where there are any.
    """
    long_enough = [p for n in counts for p in planner.shelf if _is_mains_strip(p, n + 1)]
    current_a, area_mm2 = all_taken_a(planner.queries), area_of_mains(planner.queries)
    strong = (part for part in long_enough if strip_bears(part, current_a, area_mm2))
    return next(strong, next(iter(long_enough), None))


def _to_choose(queries: Queries, first: str) -> str:
    """What the way from the plug to the first terminals for mains lacks, in words."""
    part = queries.part_of(first)
    has_switch = any(is_main_switch(queries, name) for name in queries.devices())
    wanted = [
        *(["inlet"] if part is None or part.kind != "connector" else []),
        *(["main switch"] if not has_switch else []),
        *(["fuse"] if not fuses_for_mains(queries) else []),
    ]
    return in_a_row(wanted)


def mains_outlets(planner: PlanBuilder) -> list[Poles]:
    """The free terminals of mains by which something may be fed, and that no stop cuts off."""
    blocks = blocks_of_mains(planner.queries, _apart(planner))
    return [outlet for block in blocks for outlet in block.outlets]


def _apart(planner: PlanBuilder) -> set[str]:
    """The terminals of what goes at a stop."""
    return {ref.device for poles in planner.stopped.values() for ref in poles.values()}


def _outlets_left(blocks: list[Block]) -> int:
    """How many outlets are left for what is fed, once each block has its own mains."""
    inner = sum(block.is_entry for block in blocks[1:])
    return sum(len(block.outlets) for block in blocks) - inner


def _feed_one(planner: PlanBuilder, poles: Poles, outlet: Poles, needs: tuple[int, ...]) -> None:
    """L, N and protective earth from an outlet to what takes mains."""
    used = [pole for pole in POLES if pole in poles and pole in outlet]
    cores = used if LINES[1] in used else ["line", "neutral", "pe"]
    colours = tuple(CORE_OF_POLE[pole] for pole in cores)
    kind = planner.cable_of(colours, area_of_mains(planner.queries))
    taker, giver = poles["line"].device, outlet["line"].device
    cable = planner.new_cable(kind, giver, taker)
    wires = tuple(
        NewWire(a=outlet[pole], b=poles[pole], cable=cable.id, core=cores.index(pole) + 1)
        for pole in used
    )
    told = in_a_row([
        "protective earth" if pole == "pe" else pin_text(planner.queries, outlet[pole])
        for pole in used
    ])  # fmt: skip
    planner.add(
        FeedStep(
            words=f"{taker} gets mains from {giver} {outlet['line'].port}",
            reason=f"{told} in one cable.",
            cables=(cable,),
            wires=wires,
            needs=needs,
        )
    )


def _is_mains_strip(part: Part, count: int) -> bool:
    ports = [p for p in part.ports if {"line", "neutral", "pe"} <= {q.function for q in p.pins}]
    return part.kind == "terminal strip" and len(ports) >= count
