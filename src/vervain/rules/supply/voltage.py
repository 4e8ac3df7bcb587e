"""Rules about supplies, feeds, fuses and driver currents."""

from collections.abc import Iterator

from vervain.electrical.feeds import (
    PLUS_FUNCTIONS,
    RETURN_FUNCTIONS,
    current_words,
    returns_of,
    sources_of,
    suits_current,
    voltage_fit,
    zero_pin_of,
)
from vervain.electrical.outputs import is_output_not_given, outputs_among
from vervain.electrical.series import range_against, stack_of, top_of
from vervain.electrical.unmet_needs import changes_poles, waits_for_a_feed
from vervain.model.electrical import FeedIn, FeedOut, LogicOutput
from vervain.model.machine import PinRef
from vervain.queries.connectivity import is_fuse, nets_reached, paths_from, steps_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.loads import unrated_feeds


def fed_pins(queries: Queries, device: str) -> Iterator[tuple[PinRef, FeedIn, PinRef | None]]:
    """Plus pins that take power, and the return pin of the same port."""
    part = queries.part_of(device)
    for port in part.ports if part else ():
        back = next((pin for pin in port.pins if pin.function in RETURN_FUNCTIONS), None)
        for pin in port.pins:
            if isinstance(pin.electrical, FeedIn) and pin.function in PLUS_FUNCTIONS:
                ref = PinRef(device=device, port=port.id, pin=pin.id)
                other = PinRef(device=device, port=port.id, pin=back.id) if back else None
                yield ref, pin.electrical, other


def _sources_at(queries: Queries, device: str) -> Iterator[tuple[PinRef, FeedOut]]:
    """Pins of a device that give power; of those joined by copper the first."""
    part = queries.part_of(device)
    seen: set[PinRef] = set()
    for port in part.ports if part else ():
        for pin in port.pins:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            if isinstance(pin.electrical, FeedOut) and queries.net(ref)[0] not in seen:
                seen.add(queries.net(ref)[0])
                yield ref, pin.electrical


@rule(
    id="supply.voltage",
    consequence="Damage",
    scope="device",
    title="The feed is outside the device's window",
    reason="Above its window a device is destroyed; below it, it does not start or drops out.",
    source="The part's own limits against the source's nominal voltage and tolerance.",
)
def voltage(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, feed, back in fed_pins(queries, device):
        for source in sources_of(queries, ref):
            low, high = range_against(queries, source, back)
            verdict = voltage_fit(low, high, feed)
            name = source.pin.device
            if verdict == "too high":
                yield RuleOutput(
                    f"{device} gets up to {high:.4g} V from {name}; it takes at most "
                    f"{feed.most_v:g} V.",
                    (about(ref), about(name)),
                    at=(about(name),),
                    detail=f"{ref.port} over",
                    value=high,
                    limit=feed.v_max_v,
                    unit="V",
                )
            elif verdict == "too low":
                yield RuleOutput(
                    f"{device} gets as little as {low:.4g} V from {name}; it needs at least "
                    f"{feed.v_min_v:g} V.",
                    (about(ref), about(name)),
                    at=(about(name),),
                    detail=f"{ref.port} under",
                    value=low,
                    limit=feed.v_min_v,
                    unit="V",
                    over=False,
                    consequence="Won't run",
                )


@rule(
    id="supply.current-type",
    consequence="Damage",
    scope="device",
    title="A device gets the other type of current",
    reason="A coil for alternating current has little resistance of its own: on direct current it "
    "draws several times as much and burns. Electronics for direct current see each half-wave the "
    "wrong way round, and 1.41 times the volts at its peak.",
    source="Z = sqrt(R² + (2 pi f L)²) of a coil, R alone at 0 Hz; peak = sqrt2 · RMS.",
)
def current_type(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, feed, _ in fed_pins(queries, device):
        for source in sources_of(queries, ref):
            if suits_current(source.feed, feed):
                continue
            yield RuleOutput(
                f"{device} {ref.port} gets {current_words(source.feed)} from "
                f"{source.pin.device}; it takes {current_words(feed)}.",
                (about(ref), about(source.pin)),
                at=(about(source.pin.device),),
                detail=ref.port,
            )


@rule(
    id="supply.unfed",
    consequence="Won't run",
    scope="device",
    title="A device gets no power",
    reason="Nothing on its plus conductor leads to a supply, even with every fuse whole and "
    "every contact closed.",
    source="The machine's own conductors.",
)
def unfed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, _, back in fed_pins(queries, device):
        port = queries.port(ref.port_ref)
        giving = _gives_plus_too(queries, back) if back is not None else None
        if giving is not None and sources_of(queries, ref):
            yield RuleOutput(
                f"{device} {ref.port} gets no power: {giving.device} {giving.port} gives plus to "
                "its minus.",
                (about(ref), about(giving)),
                detail=ref.port,
            )
            continue
        joined = steps_from(queries, ref) or (back is not None and steps_from(queries, back))
        if port is None or (not joined and (port.optional or port.kind != "feed in")):
            continue
        lands = any(way.lands for way in paths_from(queries, ref))
        # Volts on the return, or on a signal, are told as what they are.
        others = (
            PinRef(device=device, port=port.id, pin=pin.id)
            for pin in port.pins
            if pin.id == ref.pin
            or pin.function in RETURN_FUNCTIONS
            or not isinstance(pin.electrical, FeedIn | None)
        )
        if any(sources_of(queries, other) for other in others):
            continue
        if _switched_on(queries, ref) or is_driven(queries, ref):
            continue
        if lands or port.kind == "feed in":
            yield RuleOutput(
                f"{device} {ref.port} gets no power.",
                (about(ref), *map(about, _passed_on(queries, ref))),
                detail=ref.port,
                unfinished=not joined or waits_for_a_feed(queries, ref),
            )


def _gives_plus_too(queries: Queries, back: PinRef) -> PinRef | None:
    """An output that gives plus, where a load's minus lies on nothing but that."""
    net = queries.net(back)
    found = [(ref, pin) for ref in net if (pin := queries.pin(ref)) is not None]
    if any(pin.function == "zero" for _, pin in found):
        return None
    return next(
        (
            ref
            for ref, pin in found
            if isinstance(pin.electrical, LogicOutput) and pin.electrical.drive == "PNP"
            and ref.device != back.device
        ),
        None,
    )  # fmt: skip


def _passed_on(queries: Queries, ref: PinRef) -> list[str]:
    """The fuses and strips by which a pin is fed, where a feed that does not come may be lost."""
    nets = nets_reached(queries, [ref], is_fuse)
    names = dict.fromkeys(other.device for net in nets for other in net)
    parts = {name: queries.part_of(name) for name in names}
    passed = ("terminal strip", "fuse")
    return [n for n, part in parts.items() if part is not None and part.kind in passed][:4]


def is_driven(queries: Queries, lead: PinRef) -> bool:
    """Whether a bridge drives a motor's lead, or contacts that change poles: what it gives is
    judged there; or an output of which nobody gave what it gives.
    """
    for ref in queries.net(lead):
        port, pin = queries.port(ref.port_ref), queries.pin(ref)
        if port is None or pin is None:
            continue
        if port.kind == "bridge output" or is_output_not_given(port, pin):
            return True
        if changes_poles(queries, ref):
            return True
    return False


def _switched_on(queries: Queries, plus: PinRef) -> bool:
    """Whether an output that gives plus feeds a load, a sensor's own as well."""
    return any(o.drive != "NPN" for o in outputs_among(queries, queries.rail(plus)))


@rule(
    id="supply.two-sources",
    consequence="Damage",
    scope="device",
    title="Two supplies are joined plus to plus",
    reason="The higher one feeds back into the lower, whose regulation was not made for it.",
    source="Derivation: one rail, two regulated sources without decoupling.",
)
def two_sources(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, _ in _sources_at(queries, device):
        own = (device, queries.net(ref)[0])
        others = [
            s for s in sources_of(queries, ref) if (s.pin.device, queries.net(s.pin)[0]) != own
        ]
        if others and ref == min([ref, *(s.pin for s in others)], key=pin_order):
            names = " and ".join([device, *(source.pin.device for source in others)])
            yield RuleOutput(
                f"{names} are joined plus to plus.",
                (about(ref), *(about(source.pin) for source in others)),
                detail=ref.port,
            )


@rule(
    id="supply.in-series",
    consequence="Damage",
    scope="device",
    title="The 0 V of a supply lies on the plus of another",
    reason="Everything that the one feeds is lifted by the volts of the other: its signals, and "
    "whatever else is joined to its 0 V. On purpose it is so only where something takes both.",
    source="Kirchhoff's voltage law: sources in series add up.",
)
def in_series(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for plus, _ in _sources_at(queries, device):
        for zero in returns_of(queries, plus):
            if not queries.net(zero)[1:] or plus in queries.net(zero):
                continue
            below = next(
                (
                    ref for ref in queries.net(zero)
                    if ref.device != device and (pin := queries.pin(ref)) is not None
                    and isinstance(pin.electrical, FeedOut)
                    and not any(back in queries.net(zero) for back in returns_of(queries, ref))
                ),
                None,
            )  # fmt: skip
            if below is not None and not _takes_both(queries, plus, below):
                yield RuleOutput(
                    f"0 V of {device} {plus.port} lies on the plus of {below.device} "
                    f"{below.port}, and nothing takes the volts of both.",
                    (about(zero), about(below)),
                    at=(about(zero),),
                )


def _takes_both(queries: Queries, upper: PinRef, lower: PinRef) -> bool:
    """Whether something is fed from the plus of one source, or of one above it, and has its way
    back to the 0 V of the other, or of one below.
    """
    at = next((s for s in sources_of(queries, upper) if s.pin == upper), None)
    stack = stack_of(queries, top_of(queries, at)) if at is not None else ()
    pins = [source.pin for source in stack]
    if upper not in pins or lower not in pins:
        return False
    above, below = pins[: pins.index(upper) + 1], pins[pins.index(lower) :]
    backs = {
        ref for pin in below for back in returns_of(queries, pin) for ref in queries.rail(back)
    }
    fed = {ref for pin in above for ref in queries.rail(pin)}
    return any(
        (pin := queries.pin(ref)) is not None
        and isinstance(pin.electrical, FeedIn)
        and zero_pin_of(queries, ref, None) in backs
        for ref in fed
    )


def pin_order(ref: PinRef) -> tuple[str, str, str]:
    """What pins are put in order by: device, port, pin."""
    return ref.device, ref.port, ref.pin


@rule(
    id="supply.no-rating",
    consequence="Workmanship",
    scope="device",
    title="A rating is not given",
    reason="Without the current that a device takes, its supply cannot be added up.",
    source="The part's own data.",
)
def no_rating(queries: Queries, device: str) -> Iterator[RuleOutput]:
    fed = {ref for ref, _, _ in fed_pins(queries, device)}
    unrated = [ref for ref in unrated_feeds(queries, device) if ref in fed]
    if unrated:
        # Said once for a device: its alike channels have one data sheet.
        ports = list(dict.fromkeys(ref.port for ref in unrated))
        more = f" at {ports[0]} and {len(ports) - 1} more" if len(ports) > 1 else ""
        yield RuleOutput(
            f"How much current {device} takes{more} is not given.",
            tuple(map(about, unrated)),
            detail=ports[0],
        )


RULES = (
    voltage,
    current_type,
    unfed,
    two_sources,
    in_series,
    no_rating,
)
