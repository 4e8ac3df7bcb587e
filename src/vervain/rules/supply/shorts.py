"""Rules about what joins a source's plus to its minus."""

from collections.abc import Iterator

from vervain.electrical.feeds import returns_of, sources_of
from vervain.electrical.unmet_needs import natures
from vervain.model.electrical import FeedIn, FeedOut
from vervain.model.elements import Bridge, Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.connectivity import across, fitted_bridges, nets_reached
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import path_to, reached
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule

BACK = ("zero", "load-", "coil-", "motor-")


@rule(
    id="supply.short",
    consequence="Damage",
    scope="device",
    title="A source is shorted",
    reason="Its plus meets its minus over copper alone: whatever it can give flows there, until a "
    "fuse blows, an outlet limits or a core glows.",
    source="Kirchhoff's laws; the machine's own conductors.",
)
def short(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    said: set[tuple[PinRef, ...]] = set()
    for port in part.ports if part else ():
        for pin in port.pins:
            plus = PinRef(device=device, port=port.id, pin=pin.id)
            net = queries.net(plus)
            if not isinstance(pin.electrical, FeedOut) or net in said:
                continue
            back = next((ref for ref in returns_of(queries, plus) if ref in net), None)
            if back is None:
                continue
            said.add(net)
            path = _copper_path(queries, plus, back)
            places = tuple(dict.fromkeys(about(ref) for ref in path))
            over = list(dict.fromkeys(ref.device for ref in path if ref.device != device))
            by = f" at {', '.join(over[:3])}" if over else ""
            yield RuleOutput(
                f"{device} {port.id} is shorted: its plus meets its minus{by}.",
                (about(plus), *places),
                at=(about(plus),),
            )


def _copper_path(queries: Queries, start: PinRef, goal: PinRef) -> list[PinRef]:
    """The pins from one to another over conductors and fitted bridges."""

    def passes(device: str, element: object) -> bool:
        return isinstance(element, Bridge) and element in fitted_bridges(queries, device)

    def beside(pin: PinRef) -> Iterator[PinRef]:
        yield from (step.end for step in queries.steps(pin))
        yield from across(queries, pin, passes)

    return path_to(goal, reached([start], beside))


@rule(
    id="supply.contact-shorts",
    consequence="Damage",
    scope="device",
    title="A contact shorts a source when it closes",
    reason="One side of the contact lies on plus, the other on the minus of the same source, with "
    "no load between.",
    source="Kirchhoff's laws; the machine's own conductors.",
)
def contact_shorts(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Contact | Fuse):
            continue
        a, b = (PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)

        def passes(_: str, beyond: Element, here: Element = element) -> bool:
            return isinstance(beyond, Fuse) and beyond is not here

        sides = {
            pin: [ref for net in nets_reached(queries, [pin], passes) for ref in net]
            for pin in (a, b)
        }
        for one, other in ((a, b), (b, a)):
            if one in queries.net(other):
                continue
            there = set(sides[other])
            source = next(
                (
                    ref
                    for ref in sides[one]
                    if (pin := queries.pin(ref)) is not None
                    and isinstance(pin.electrical, FeedOut)
                    and there & set(returns_of(queries, ref))
                ),
                None,
            )
            if source is not None:
                yield RuleOutput(
                    f"{device} lies between plus and minus of {source.device} with nothing to "
                    "take the current.",
                    (about(one), about(other), about(source)),
                    at=(about(one),),
                )


@rule(
    id="supply.switch-bridged",
    consequence="Damage",
    scope="device",
    title="A main switch is bridged",
    reason="Both sides of a pole are joined by another way: turned off, it leaves power on.",
    source="Kirchhoff's current law; IEC 60204-1, supply disconnecting device.",
)
def switch_bridged(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or not (part.is_by_hand and part.is_in_a_line):
        return
    for element in part.inside:
        if not isinstance(element, Contact):
            continue
        one, two = (PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)
        nets = nets_reached(queries, [one], lambda _, other: isinstance(other, Fuse))
        if any(two in net for net in nets):
            yield RuleOutput(
                f"{device} is bridged: both sides of {one.port} are joined by another way.",
                (about(one), about(two)),
                detail=one.port,
            )


@rule(
    id="supply.same-rail",
    consequence="Won't run",
    scope="device",
    title="Both leads of a load are on one rail",
    reason="A load does its work by the voltage between its leads; with both on plus, or both on "
    "0 V, there is none.",
    source="Kirchhoff's laws; the machine's own conductors.",
)
def same_rail(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        feed = next((pin for pin in port.pins if isinstance(pin.electrical, FeedIn)), None)
        back = next((pin for pin in port.pins if pin.function in BACK), None)
        if feed is None or back is None or port.end != "device":
            continue
        plus = PinRef(device=device, port=port.id, pin=feed.id)
        minus = PinRef(device=device, port=port.id, pin=back.id)
        one, two = _rails_at(queries, plus), _rails_at(queries, minus)
        joined = bool(queries.steps(plus)) and minus in _joined_for_good(queries, plus)
        both = one & two if len(one) == len(two) == 1 else frozenset()
        only_plus = _only_plus(queries, plus, minus)
        if joined or both or only_plus:
            where = next(iter(both), "plus, whatever closes" if only_plus else "one net")
            yield RuleOutput(
                f"Both leads of {device} {port.id} are on {where}: nothing flows.",
                (about(plus), about(minus)),
                at=(about(plus),),
            )


def _only_plus(queries: Queries, plus: PinRef, minus: PinRef) -> bool:
    """Whether contacts and fuses bring both leads to plus, and neither to a 0 V."""
    rail, sources = queries.rail(plus), sources_of(queries, plus)
    backs = {back for source in sources for back in returns_of(queries, source.pin)}
    return minus in rail and bool(sources) and backs.isdisjoint(rail)


def _joined_for_good(queries: Queries, at: PinRef) -> tuple[PinRef, ...]:
    """The pins that are joined to one by copper, fuses and stop contacts, which rest closed. Relays
    that turn a motor round rest with both its ends on one rail, and are not passed.
    """

    def passes(device: str, element: Element) -> bool:
        part = queries.part_of(device)
        is_stop = part is not None and part.kind == "emergency stop"
        return isinstance(element, Fuse) or (
            is_stop and isinstance(element, Contact) and element.rest == "NC"
        )

    return tuple(ref for net in nets_reached(queries, [at], passes) for ref in net)


def _rails_at(queries: Queries, at: PinRef) -> frozenset[str]:
    """Which rails a pin is on for good: the plus of which source, or the 0 V of which."""
    found = set()
    for ref in _joined_for_good(queries, at):
        is_a = natures(queries, ref)
        if "source" in is_a:
            found.add(f"plus of {ref.device}")
        if "return" in is_a:
            found.add(f"0 V of {ref.device}")
    return frozenset(found)


RULES = (short, contact_shorts, switch_bridged, same_rail)
