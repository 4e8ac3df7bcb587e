"""Rules about what protects the feeds: fuses that are missing or cannot blow, protective earth."""

from collections.abc import Collection, Iterable, Iterator

from vervain.electrical.feeds import (
    PLUS_FUNCTIONS,
    Source,
    downstream_pins,
    sources_of,
    zero_pin_of,
)
from vervain.electrical.fuse_kinds import BLADE_V, behaviour_of, fuse_limit_a, fuse_of
from vervain.electrical.series import lies_below, links_of, nominal_in_series_v
from vervain.harness.lengths import cable_length_m
from vervain.model.electrical import FeedIn, FeedOut
from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.connectivity import nets_reached, steps_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_cable
from vervain.rules.fixes import SetSetting
from vervain.rules.rule import RuleOutput, rule
from vervain.rules.supply.voltage import pin_order
from vervain.supply.before_fuses import before_fuses, leads_to_a_fuse
from vervain.supply.core_limits import core_limit_a
from vervain.supply.inrush import CURRENT_LIMIT_FACTOR
from vervain.supply.mains_load import mains_through_a
from vervain.supply.sizing import ratings_of
from vervain.supply.voltage_profile import feed_path
from vervain.text.units import in_area
from vervain.text.words import in_a_row

# A conductor this short may lead to its fuse without one, kept apart from others (IEC 60204-1
# 7.2.8 has up to 3 m where it is laid safe from shorts; in a builder's box it seldom is).
MOST_UNFUSED_M = 0.5
BATTERY = "A battery gives many times its rating in a short."


def _outlets(queries: Queries, device: str) -> Iterator[tuple[PinRef, FeedOut]]:
    """The pins that give power, of those that are one copper the first."""
    part, seen = queries.part_of(device), set[PinRef]()
    for port in part.ports if part else ():
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            if isinstance(pin.electrical, FeedOut) and at not in seen:
                seen.update(queries.net(at))
                yield at, pin.electrical


def _unfused(queries: Queries, start: PinRef) -> Iterator[str]:
    """The cables on a plus up to the first fuse, but for a short one that leads to it."""
    for pin in before_fuses(queries, start):
        for step in steps_from(queries, pin):
            hookup = queries.hookup(step.hookup)
            cable = hookup.cable if hookup is not None else None
            if cable is None:
                continue
            is_short = (cable_length_m(queries, cable) or 1.0) <= MOST_UNFUSED_M
            if not (is_short and leads_to_a_fuse(queries, step)):
                yield cable


@rule(
    id="supply.fuse-missing",
    consequence="Damage",
    scope="device",
    title="No fuse protects a conductor",
    reason="In a short a supply gives all that it can, and a battery far more. A conductor that "
    "may carry less than that glows before anything stops it.",
    source="I_z of the conductor against what its source can give; at every reduction of "
    "cross-section (IEC 60364-4-43, data/tables/copper.toml). The local code rules.",
)
def fuse_missing(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind not in ("supply", "battery"):
        return
    for pin, feed in _outlets(queries, device):
        if lies_below(queries, Source(pin=pin, feed=feed)):
            continue
        thin: tuple[float, str] | None = None
        for cable in _unfused(queries, pin):
            carries = core_limit_a(queries, cable)
            if carries is not None and (thin is None or carries < thin[0]):
                thin = carries, cable
        if thin is None or (part.kind == "supply" and feed.current_a <= thin[0]):
            continue
        gives = feed.current_a
        yield RuleOutput(
            f"No fuse stands between {device} and {thin[1]}.",
            (about(pin), about_cable(thin[1])),
            detail=pin.port,
            value=gives,
            limit=thin[0],
            unit="A",
            why=BATTERY if part.kind == "battery" else "",
        )


@rule(
    id="supply.fuse-asleep",
    consequence="Unreliable",
    scope="device",
    title="A fuse cannot blow",
    reason="A regulated supply limits its current. Where it gives less than what blows the fuse, a "
    "short feeds on quietly, through a conductor that may carry less than the supply gives.",
    source="I_2 of the fuse's kind (blade 1.35 I_n, gG 1.6, IEC 60127 2.1,"
    " breakers 1.45) against "
    "1.1 x the supply's rating; I_z of the thinnest conductor "
    "behind the fuse.",
)
def fuse_asleep(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part, rating = queries.part_of(device), queries.setting(device, "rating_a")
    elements = [e for e in (part.inside if part else ()) if isinstance(e, Fuse)]
    behind = downstream_pins(queries, device)
    if not elements or not behind or not isinstance(rating, int | float):
        return
    sources = [s for s in sources_of(queries, behind[0]) if _limits(queries, s.pin.device)]
    if not sources:
        return
    gives = CURRENT_LIMIT_FACTOR * max(source.feed.current_a for source in sources)
    factor = behaviour_of(queries, device).fusing_ratio
    if factor * rating <= gives:
        return
    thinnest = min(
        (
            carries
            for ref in behind
            for step in steps_from(queries, ref)
            if (hookup := queries.hookup(step.hookup)) is not None
            and hookup.cable is not None
            and (carries := core_limit_a(queries, hookup.cable)) is not None
        ),
        default=None,
    )
    # A fuse above its wire is another rule's finding already.
    if thinnest is not None and rating <= thinnest < gives / CURRENT_LIMIT_FACTOR:
        yield RuleOutput(
            f"{device} cannot blow: {sources[0].pin.device} limits before.",
            (about(device), about(sources[0].pin.device)),
            value=round(factor * rating, 2),
            limit=round(gives, 2),
            unit="A",
        )


@rule(
    id="supply.fuse-loop",
    consequence="Unreliable",
    scope="device",
    title="A short at the end of a line does not blow its fuse",
    reason="Long thin conductors let a short at their far end draw so little that the fuse takes "
    "it for a load: the spot goes on glowing.",
    source="Rated voltage / loop resistance of plus and return (IEC 60228 class 5 at 60 °C, "
    "contacts, fuses) against I_2 of the fuse's kind (blade 1.35 I_n, gG 1.6, IEC 60127 2.1,"
    " breakers 1.45).",
)
def fuse_loop(queries: Queries, device: str) -> Iterator[RuleOutput]:
    rating = queries.setting(device, "rating_a")
    behind = downstream_pins(queries, device)
    if not behind or not isinstance(rating, int | float):
        return
    least: tuple[float, PinRef] | None = None
    for ref in behind:
        pin = queries.pin(ref)
        if pin is None or not isinstance(pin.electrical, FeedIn):
            continue
        short_a = _short_a(queries, device, ref)
        if short_a is not None and (least is None or short_a < least[0]):
            least = short_a, ref
    if least is None:
        return
    short_a, end = least
    behaviour = behaviour_of(queries, device)
    if behaviour.fusing_ratio * rating <= short_a:
        return
    load_a = _load_a(queries, behind)
    suited = [
        r
        for r in ratings_of(queries.part_of(device))
        if load_a <= behaviour.load_ratio * r and behaviour.fusing_ratio * r <= short_a
    ]
    fixes: tuple[Fix, ...] = ()
    if suited:
        remedy = SetSetting(device=device, key="rating_a", value=float(suited[-1]))
        fixes = (Fix(words=f"fit a {suited[-1]:g} A fuse", remedy=remedy),)
    yield RuleOutput(
        f"A short at {end.device} draws {short_a:.2g} A: {device} does not blow.",
        (about(device), about(end)),
        at=(about(device),),
        value=round(behaviour.fusing_ratio * rating, 2),
        limit=round(short_a, 2),
        unit="A",
        fixes=fixes,
    )


def _short_a(queries: Queries, fuse: str, consumer: PinRef) -> float | None:
    """What a short at a consumer draws through a fuse, in A: the source's voltage over the loop.
    None where nothing feeds it, or its way does not go through the fuse.
    """
    path = feed_path(queries, "everything", consumer)
    if path is None or not any(flow.link.owner == fuse for flow, _ in path.out):
        return None
    loop_ohm = sum(flow.link.resistance_ohm for flow in path.flows)
    sources = sources_of(queries, consumer)
    volts = max((nominal_in_series_v(queries, source) for source in sources), default=0.0)
    return volts / loop_ohm if loop_ohm > 0 and volts else None


def _load_a(queries: Queries, behind: Iterable[PinRef]) -> float:
    """What the consumers behind a fuse are rated to take together, in A."""
    return sum(
        pin.electrical.current_a or 0.0
        for ref in behind
        if (pin := queries.pin(ref)) is not None
        and isinstance(pin.electrical, FeedIn)
        and pin.function in PLUS_FUNCTIONS
    )


def _limits(queries: Queries, device: str) -> bool:
    part = queries.part_of(device)
    return part is not None and part.kind == "supply"


def _best_return(queries: Queries, plus: PinRef) -> tuple[float, str, float] | None:
    """The conductor by which a load's current goes back: the thickest at any pin that is joined
    with its minus inside it, as (carries in A, cable, mm2). In a short of the load it carries what
    the fuse lets through, as the plus does. None where nothing is fed there or a gauge is unknown.
    """
    pin = queries.pin(plus)
    if pin is None or not isinstance(pin.electrical, FeedIn) or pin.function not in PLUS_FUNCTIONS:
        return None
    minus = zero_pin_of(queries, plus, None)
    joined = [ref for ref in queries.net(minus) if ref.device == plus.device] if minus else []
    found: list[tuple[float, str, float]] = []
    for ref in joined:
        for step in steps_from(queries, ref):
            hookup = queries.hookup(step.hookup)
            cable = queries.cable(hookup.cable) if hookup and hookup.cable else None
            part = queries.cable_part(cable.part) if cable else None
            carries = core_limit_a(queries, cable.id) if cable else None
            if cable is None or part is None or carries is None:
                return None
            found.append((carries, cable.id, part.core_mm2))
    return max(found, default=None)


def _limits_at(
    queries: Queries, ref: PinRef, ends: Collection[PinRef]
) -> Iterator[tuple[float, str, float]]:
    """Of each cable from a pin to one of some ends what a core carries in A, its name, and the
    cross-section in mm2.
    """
    for step in steps_from(queries, ref):
        hookup = queries.hookup(step.hookup)
        cable = queries.cable(hookup.cable) if hookup and hookup.cable else None
        part = queries.cable_part(cable.part) if cable else None
        carries = core_limit_a(queries, cable.id) if cable else None
        if cable is not None and part is not None and carries is not None and step.end in ends:
            yield carries, cable.id, part.core_mm2


@rule(
    id="supply.fuse",
    consequence="Damage",
    scope="device",
    title="A fuse is larger than its wire",
    reason="In a short the wire must outlast the fuse. A wire that may carry less than the fuse's "
    "rating burns first.",
    source="I_n <= I_z and I_2 <= 1.45 I_z (IEC 60364-4-43); I_z of PVC "
    "cores at 40 °C, data/tables/copper.toml; the local code rules.",
)
def fuse(queries: Queries, device: str) -> Iterator[RuleOutput]:
    rating = queries.setting(device, "rating_a")
    behind = set(downstream_pins(queries, device))
    if not behind or not isinstance(rating, int | float):
        return
    found = [
        limit for ref in sorted(behind, key=pin_order) for limit in _limits_at(queries, ref, behind)
    ]
    for source in sources_of(queries, min(behind, key=pin_order)):
        # Through the links of a string of batteries goes what goes through its fuse.
        for plus in links_of(queries, source):
            found += _limits_at(queries, plus, queries.net(plus))
    thinnest = min(found, key=lambda limit: limit[0], default=None)
    for ref in behind:
        back = _best_return(queries, ref)
        if back is not None and (thinnest is None or back[0] < thinnest[0]):
            thinnest = back
    behaviour = behaviour_of(queries, device)
    if thinnest is None or rating <= fuse_limit_a(behaviour, thinnest[0]):
        return
    link = fuse_of(queries, device)
    load = max(_load_a(queries, behind), mains_through_a(queries, device, link) if link else 0.0)
    suited = [
        r
        for r in ratings_of(queries.part_of(device))
        if load <= behaviour.load_ratio * r and r <= fuse_limit_a(behaviour, thinnest[0])
    ]
    fixes: tuple[Fix, ...] = ()
    if suited:
        words = f"fit a {suited[0]:g} A fuse: {load:.3g} A is {load / suited[0]:.0%} of it"
        remedy = SetSetting(device=device, key="rating_a", value=float(suited[0]))
        fixes = (Fix(words=words, remedy=remedy),)
    yield RuleOutput(
        f"{device} is larger than {thinnest[1]} can carry.",
        (about(device), about_cable(thinnest[1])),
        value=float(rating),
        limit=round(fuse_limit_a(behaviour, thinnest[0]), 2),
        unit="A",
        why=f"{thinnest[1]} has {in_area(thinnest[2])}.",
        fixes=fixes,
    )


@rule(
    id="supply.fuse-voltage",
    consequence="Damage",
    scope="device",
    title="A fuse cannot break what it is in",
    reason="Above its voltage the arc in a blown fuse does not go out, and above its breaking "
    "capacity it bursts: the fault goes on feeding.",
    source="The fuse's own voltage and breaking capacity; blade fuses 32 V (ISO 8820-3) where the "
    "part does not say more.",
)
def fuse_voltage(queries: Queries, device: str) -> Iterator[RuleOutput]:
    found = fuse_of(queries, device)
    if found is None:
        return
    ends = [PinRef(device=device, port=port, pin=pin) for port, pin in found.pins]
    most_v = found.v_max_v or (BLADE_V if found.kind == "blade" else None)
    sources = {source.pin: source for end in ends for source in sources_of(queries, end)}
    for source in list(sources.values())[:1]:
        high_v = source.feed.nominal_v
        if most_v is not None and high_v > most_v:
            yield RuleOutput(
                f"{device} breaks {most_v:g} V at most; {source.pin.device} gives {high_v:g} V.",
                (about(device), about(source.pin)),
                detail="volts",
                value=high_v,
                limit=most_v,
                unit="V",
            )
        inside_ohm = source.feed.resistance_ohm
        if found.breaking_a is None or not inside_ohm or _limits(queries, source.pin.device):
            continue
        fault_a = source.feed.highest_v / inside_ohm
        if fault_a > found.breaking_a:
            yield RuleOutput(
                f"{source.pin.device} gives {fault_a:.3g} A in a short; {device} breaks "
                f"{found.breaking_a:g} A.",
                (about(device), about(source.pin)),
                detail="breaking",
                value=round(fault_a, 1),
                limit=found.breaking_a,
                unit="A",
            )


@rule(
    id="supply.fuse-bridged",
    consequence="Damage",
    scope="device",
    title="A fuse is bridged",
    reason="Both its sides are joined by another way: the current goes round it, and nothing blows "
    "when a wire behind it is shorted.",
    source="Kirchhoff's current law.",
)
def fuse_bridged(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Fuse):
            continue
        one, two = (PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)
        nets = nets_reached(queries, [one], lambda name, e: _is_main_pole(queries, name, e))
        if any(two in net for net in nets):
            yield RuleOutput(
                f"{device} is bridged: both its sides are joined by another way.",
                (about(one), about(two)),
                detail=one.port,
            )
            continue

        def passes(name: str, other: Element, here: Element = element) -> bool:
            is_other = isinstance(other, Fuse) and (name != device or other != here)
            return is_other or _is_main_pole(queries, name, other)

        beside = [net for net in nets_reached(queries, [one], passes) if two in net]
        fuses = sorted({ref.device for net in beside for ref in net if _is_fuse(queries, ref)})
        if beside and device == fuses[0]:
            yield RuleOutput(
                f"{in_a_row(fuses)} lie side by side: together they let the sum of all through.",
                tuple(about(name) for name in fuses),
                detail=one.port,
                consequence="Unreliable",
            )


def _is_fuse(queries: Queries, ref: PinRef) -> bool:
    part = queries.part_of(ref.device)
    return part is not None and part.kind == "fuse"


def _is_main_pole(queries: Queries, name: str, element: Element) -> bool:
    """Whether an element is a pole of a switch in a line, which is closed while there is power."""
    part = queries.part_of(name)
    is_switch = part is not None and part.is_by_hand and part.is_in_a_line
    return is_switch and isinstance(element, Contact)


RULES = (
    fuse_bridged,
    fuse_missing,
    fuse_voltage,
    fuse_asleep,
    fuse_loop,
    fuse,
)
