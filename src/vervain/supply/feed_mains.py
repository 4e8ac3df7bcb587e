"""Mains and protective earth in a proposal: from the terminals where they come in to every supply,
metal with an earth terminal bonded, 0 V joined to earth once.
"""

from collections.abc import Collection
from typing import NamedTuple

from vervain.electrical.feeds import gives_alternating
from vervain.electrical.fuse_kinds import behaviour_of, core_for_fuse_a
from vervain.electrical.mains import MOTOR_PHASES
from vervain.model.elements import Contact, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import Part, Port
from vervain.ports.contactor_loads import motors_for_mains
from vervain.ports.port_wishes import is_main_switch, mains_coils
from vervain.queries.connectivity import drivers_of, steps_from
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_text
from vervain.supply.earth import earth_pins, earth_root
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWire
from vervain.supply.feed_stopped_mains import stopped_together
from vervain.supply.feed_two_ways import feed_two_ways, has_two_ways, relays_for_both
from vervain.supply.feed_ways import fuses_for_mains, strip_bears
from vervain.supply.mains_load import mains_current_a, mains_through_a
from vervain.supply.sizing import gauge_for_current, ratings_of
from vervain.text.words import in_a_row

# The line, neutral and earth pins of a port; of three lines each by its number.
Poles = dict[str, PinRef]
LINES = ("line", "line 2", "line 3")
POLES = (*LINES, "neutral", "pe")
# What the cores of mains cables are for, by their colours (IEC 60445).
CORE_OF_POLE = dict(zip(POLES, ("BN", "BK", "GY", "BU", "GNYE"), strict=True))
# By practice for what a machine's supplies take, behind a fuse of 10 or 16 A.
MAINS_MM2 = 1.5
EARTH_MM2 = 2.5


def plan_mains(planner: PlanBuilder) -> None:
    """Takes mains to every supply that has none, and earth to all that wants it."""
    wanted = _without_lone_ways(planner, mains_inputs(planner.queries))
    if together := stopped_together(planner.queries, wanted):
        wanted = _behind_contactors(planner, together, wanted)
    if wanted:
        _feed_supplies(planner, wanted)
    _bond_what_is_left(planner)


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
    added = planner.new_device(part, "Mains, off at a stop", together[0]["line"].device)
    planner.add(
        FeedStep(
            words=f"{added.designator}, terminals for what goes at a stop",
            reason="The contactors have too few poles for each: they cut the mains of all.",
            adds=(added,),
        )
    )
    entry, *outlets = (_poles(added.designator, port) for port in part.ports)
    for poles, outlet in zip(together, outlets, strict=False):
        _feed_one(planner, poles, outlet, (len(planner.steps) - 1,))
    own = {pole: entry[pole] for pole in ("line", "neutral")}
    planner.stopped = {poles["line"].device: own for poles in together}
    return [entry, *(poles for poles in wanted if poles not in together)]


def _poles(device: str, port: Port) -> Poles:
    """The line, neutral and earth pins of a port, the phases of a motor as the lines they want."""
    found: Poles = {}
    lines = iter(LINES)
    for pin in port.pins:
        of_a_motor = port.end == "device" and pin.function in MOTOR_PHASES
        is_line = pin.function == "line" or of_a_motor
        name = next(lines, None) if is_line else pin.function
        if name in POLES:
            found[name] = PinRef(device=device, port=port.id, pin=pin.id)
    return found


def mains_inputs(queries: Queries) -> list[Poles]:
    """The mains inputs that no terminal reaches, pole by pole; none of coils, which are worked, and
    of motors those that nothing drives.
    """
    found = []
    for device in queries.devices():
        part, is_driven = queries.part_of(device), device not in motors_for_mains(queries)
        for port in part.ports if part else ():
            skipped = port.kind == "coil" or (port.kind == "motor phases" and is_driven)
            poles = _poles(device, port) if not skipped else {}
            if port.end == "device" and "line" in poles and not _reaches_inlet(queries, poles):
                found.append(poles)
    return found


def _reaches_inlet(queries: Queries, poles: Poles) -> bool:
    return any(
        (port := queries.port(ref.port_ref)) is not None
        and port.end != "device"
        and (pin := queries.pin(ref)) is not None
        and pin.function == "line"
        for ref in queries.rail(poles["line"])
    )


class Block(NamedTuple):
    """Terminals by which mains goes on: where it comes in, and the free ones where it goes out.
    `is_entry` says that nothing comes to where it comes in; `protects` that a fuse or a switch lies
    between.
    """

    device: str
    entry: Poles
    is_entry: bool
    outlets: tuple[Poles, ...]
    protects: bool


def _blocks(queries: Queries, apart: Collection[str] = ()) -> list[Block]:
    """What mains comes in by and goes on from, besides switches and some terminals that stand
    apart; an inlet first.
    """
    found = []
    for device in queries.devices():
        part = queries.part_of(device)
        if part is None or part.kind == "switch" or device in apart:
            continue
        ports = [_poles(device, port) for port in part.ports if port.end != "device"]
        whole = [poles for poles in ports if "line" in poles and {"neutral", LINES[1]} & set(poles)]
        if not whole:
            continue
        is_free = [not any(steps_from(queries, ref) for ref in poles.values()) for poles in whole]
        outlets = tuple(poles for poles, free in zip(whole[1:], is_free[1:], strict=True) if free)
        protects = any(isinstance(element, Fuse | Contact) for element in part.inside)
        found.append(Block(device, whole[0], is_free[0], outlets, protects))
    return sorted(found, key=lambda block: not block.protects)


def _feed_supplies(planner: PlanBuilder, wanted: list[Poles]) -> None:
    apart = _apart(planner)
    blocks = _blocks(planner.queries, apart)
    needs: tuple[int, ...] = ()
    # The coils of contactors that take mains want a terminal of their own.
    coils = 1 if mains_coils(planner.queries) else 0
    three = [
        poles for poles in wanted
        if LINES[1] in poles and not has_two_ways(planner.queries, poles)
    ]  # fmt: skip
    count = len(wanted) - len(three) + coils
    # Several wires of protective earth want terminals, where nothing has a free one.
    many_earths = _earthed_only(planner.queries, wanted) > 1 and _free_earth(planner) is None
    if _outlets_left(blocks) < count or many_earths:
        # What is only earthed has a terminal as well, where a strip is that long.
        more = count + _earthed_only(planner.queries, wanted)
        part = _strip_for_mains(planner, (more, count))
        if part is None:
            planner.decisions.append("Mains comes in by nothing yet: add terminals or an inlet.")
            return
        added = planner.new_device(part, "Mains terminals", wanted[0]["line"].device)
        planner.add(
            FeedStep(
                words=f"{added.designator}, terminals for mains",
                reason="Mains and protective earth come in there, and go on to each supply.",
                adds=(added,),
            )
        )
        needs = (len(planner.steps) - 1,)
        blocks = _blocks(planner.queries, apart)
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
            feed_two_ways(planner, poles, outlet, needs, _area_of_mains(planner.queries))
        else:
            _feed_one(planner, poles, outlet, needs)


def _strip_for_mains(planner: PlanBuilder, counts: tuple[int, ...]) -> Part | None:
    """Terminals of the shelf for so many ways beside that where mains comes in, or else for fewer;
    such as bear what everything takes and the cores behind its fuse, where there are any.
    """
    long_enough = [p for n in counts for p in planner.shelf if _is_mains_strip(p, n + 1)]
    current_a, area_mm2 = _all_taken_a(planner.queries), _area_of_mains(planner.queries)
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


def rate_mains_fuses(planner: PlanBuilder) -> None:
    """Gives the fuses in the mains the rating that what hangs on them wants, where nobody has set
    it; says where none is that large.
    """
    queries = planner.queries
    for device in queries.devices():
        part, found = queries.part_of(device), queries.device(device)
        fuses = [e for e in (part.inside if part is not None else ()) if isinstance(e, Fuse)]
        current_a = sum(mains_through_a(queries, device, fuse) for fuse in fuses[:1])
        rating = queries.setting(device, "rating_a")
        wanted_a = current_a / behaviour_of(queries, device).load_ratio
        if not isinstance(rating, int | float) or wanted_a <= rating:
            continue
        suited = next((r for r in ratings_of(part) if r >= wanted_a), None)
        is_set = found is not None and "rating_a" in found.settings
        if suited is None:
            planner.decisions.append(
                f"{current_a:.3g} A come through {device}, which takes no fuse for that."
            )
        elif not is_set:
            planner.add(
                FeedStep(
                    words=f"{device} with a fuse of {suited:g} A",
                    reason=f"{current_a:.3g} A come through it for long.",
                    ratings=((device, suited),),
                )
            )


def area_for_mains_fuse(queries: Queries) -> float | None:
    """The thinnest gauge that the fuse of the mains protects, by what everything takes; None where
    there is no such fuse, or no gauge is thick enough.
    """
    fuse = next(iter(fuses_for_mains(queries)), None)
    if fuse is None:
        return None
    behaviour = behaviour_of(queries, fuse)
    wanted_a = _all_taken_a(queries)
    ratings = [r for r in ratings_of(queries.part_of(fuse)) if r >= wanted_a / behaviour.load_ratio]
    is_set = queries.setting(fuse, "rating_a")
    least_a = is_set if isinstance(is_set, int | float) else 0.0
    rating_a = max(least_a, min(ratings, default=wanted_a))
    return gauge_for_current(core_for_fuse_a(behaviour, rating_a), queries.ambient_c())


def _all_taken_a(queries: Queries) -> float:
    """What everything takes from the mains for long, in A; what a drive turns, by the drive."""
    takers = (name for name in queries.devices() if not drivers_of(queries, name))
    return sum(mains_current_a(queries, name) for name in takers)


def _area_of_mains(queries: Queries) -> float:
    """The cross-section of the cores that mains goes on in, in mm²."""
    return max(MAINS_MM2, area_for_mains_fuse(queries) or MAINS_MM2)


def mains_outlets(planner: PlanBuilder) -> list[Poles]:
    """The free terminals of mains by which something may be fed, and that no stop cuts off."""
    blocks = _blocks(planner.queries, _apart(planner))
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
    kind = planner.cable_of(colours, _area_of_mains(planner.queries))
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


def _earthed_only(queries: Queries, wanted: list[Poles]) -> int:
    """How many devices have an earth terminal and get no mains: motors, metal, and the 0 V."""
    fed = {poles["line"].device for poles in wanted}
    earthed = (
        name for name in queries.devices()
        if earth_pins(queries, name) and name not in fed and not _has_line(queries, name)
    )  # fmt: skip
    return 1 + sum(1 for _ in earthed)


def _is_mains_strip(part: Part, count: int) -> bool:
    ports = [p for p in part.ports if {"line", "neutral", "pe"} <= {q.function for q in p.pins}]
    return part.kind == "terminal strip" and len(ports) >= count


def _free_earth(planner: PlanBuilder) -> PinRef | None:
    """A free terminal of protective earth, at a bar or where it comes in."""
    queries, root = planner.queries, earth_root(planner.queries)
    if root is None:
        return None
    net = set(queries.net(root))
    for device in queries.devices():
        part = queries.part_of(device)
        if part is not None and part.kind == "terminal strip":
            for pin in earth_pins(queries, device):
                if pin in net and not steps_from(queries, pin):
                    return pin
    return None


def _earth_where_mains_goes_on(queries: Queries) -> PinRef | None:
    """The protective earth of what mains comes in by, beside the wire that goes on from there."""
    root = earth_root(queries)
    for pin in queries.net(root) if root is not None else ():
        part, port = queries.part_of(pin.device), queries.port(pin.port_ref)
        goes_on = part is not None and part.kind == "connector" and bool(steps_from(queries, pin))
        if goes_on and port is not None and port.end != "device":
            return pin
    return None


def _join(planner: PlanBuilder, start: PinRef, end: PinRef, words: str, reason: str) -> None:
    """A green-yellow wire."""
    part = planner.cable_of(("GNYE",), EARTH_MM2)
    cable = planner.new_cable(part, start.device, end.device)
    needs = tuple(
        number
        for number, step in enumerate(planner.steps)
        if {start.device, end.device} & {added.designator for added in step.adds}
    )
    planner.add(
        FeedStep(
            words=words, reason=reason, cables=(cable,), needs=needs,
            wires=(NewWire(a=start, b=end, cable=cable.id, core=1),),
        )
    )  # fmt: skip


def _bond_what_is_left(planner: PlanBuilder) -> None:
    """Bonds what has an earth terminal that nothing is joined to."""
    root = earth_root(planner.queries)
    if root is None or not any(
        _has_line(planner.queries, ref.device) for ref in planner.queries.net(root)
    ):
        return
    for device in planner.queries.devices():
        pins, queries = earth_pins(planner.queries, device), planner.queries
        part = queries.part_of(device)
        if not pins or part is None or part.kind == "terminal strip":
            continue
        net = set(queries.net(root))
        goal = _earth_of_its_drive(queries, device, net) or _free_earth(planner)
        if any(pin in net for pin in pins) or goal is None:
            continue
        _join(
            planner, goal, pins[0], f"{device} bonded at {goal.device}",
            "Metal that mains could touch is earthed.",
        )  # fmt: skip


def _earth_of_its_drive(queries: Queries, motor: str, net: set[PinRef]) -> PinRef | None:
    """A free earth terminal of the drive that a motor is on, where the drive is earthed: the wire
    goes with those of the motor.
    """
    return next(
        (
            pin
            for drive in drivers_of(queries, motor)
            for pin in earth_pins(queries, drive)
            if pin in net and not steps_from(queries, pin)
        ),
        None,
    )


def _has_line(queries: Queries, device: str) -> bool:
    part = queries.part_of(device)
    return any(pin.function == "line" for port in (part.ports if part else ()) for pin in port.pins)


def join_zero_once(planner: PlanBuilder) -> None:
    """Joins 0 V of the first supply on mains to protective earth, unless it is already."""
    queries = planner.queries
    goal, root = _free_earth(planner) or _earth_where_mains_goes_on(queries), earth_root(queries)
    for device in queries.devices():
        part = queries.part_of(device)
        if part is None or part.kind != "supply" or not _has_line(queries, device):
            continue
        zero = next(
            (
                PinRef(device=device, port=port.id, pin=pin.id)
                for port in part.ports
                if port.kind == "feed out" and not gives_alternating(port)
                for pin in port.pins
                if pin.function == "zero"
            ),
            None,
        )
        if zero is None or goal is None or root is None:
            continue
        if root not in queries.net(zero) and steps_from(queries, zero):
            _join(
                planner, goal, zero, f"0 V of {device} joined to earth at {goal.device}",
                "Joined once, an earth fault blows a fuse instead of bridging a switch.",
            )  # fmt: skip
        return
