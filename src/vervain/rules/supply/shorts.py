"""Rules about what joins a source's plus to its minus."""

from collections.abc import Iterator
from functools import partial

from vervain.electrical.feeds import returns_of, sources_of
from vervain.electrical.unmet_needs import natures
from vervain.electrical.ways_over_contacts import (
    is_at_a_contact,
    over_copper,
    way_over_contacts,
)
from vervain.model.electrical import FeedIn, FeedOut
from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.connectivity import (
    nets_reached,
)
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.verdicts import given_up_at_work
from vervain.text.words import in_a_row

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
    said: set[tuple[PinRef, ...]] = set()
    for plus in _pluses(queries, device):
        net = queries.net(plus)
        if net in said:
            continue
        back = next((ref for ref in returns_of(queries, plus) if ref in net), None)
        if back is None:
            continue
        said.add(net)
        path = way_over_contacts(queries, plus, [back], over_copper)
        places = tuple(dict.fromkeys(about(ref) for ref in path))
        over = list(dict.fromkeys(ref.device for ref in path if ref.device != device))
        by = f" at {', '.join(over[:3])}" if over else ""
        yield RuleOutput(
            f"{device} {plus.port} is shorted: its plus meets its minus{by}.",
            (about(plus), *places),
            at=(about(plus),),
        )


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
    id="supply.shorted-at-work",
    consequence="Damage",
    scope="device",
    title="Contacts that close together short a source",
    reason="Each of the contacts lies between other things; with all of them closed, plus meets "
    "the minus of the same source, with no load between.",
    source="Kirchhoff's laws; the contacts as they stand with every stop released and every output "
    "on.",
)
def shorted_at_work(queries: Queries, device: str) -> Iterator[RuleOutput]:
    gives_up = given_up_at_work(queries)
    pluses = _pluses(queries, device) if gives_up else []
    for plus in {queries.net(plus): plus for plus in reversed(pluses)}.values():
        way = way_over_contacts(queries, plus, returns_of(queries, plus))
        if not gives_up & {ref.device for ref in way}:
            continue
        at_contacts = [ref for ref in way if is_at_a_contact(queries, ref)]
        over = list(dict.fromkeys(ref.device for ref in at_contacts))
        # Over one contact alone the contact's own rule tells.
        if len({ref.port_ref for ref in at_contacts}) > 1:
            join = "together join" if len(over) > 1 else "joins"
            yield RuleOutput(
                f"{in_a_row(over[:3])} {join} plus and minus of {device}, with nothing to take "
                "the current.",
                (about(plus), *dict.fromkeys(map(about, way))),
                at=(about(plus),),
            )


def _pluses(queries: Queries, device: str) -> list[PinRef]:
    """The pins by which a device gives power."""
    part = queries.part_of(device)
    return [
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in (part.ports if part is not None else ())
        for pin in port.pins
        if isinstance(pin.electrical, FeedOut)
    ]


@rule(
    id="supply.switch-bridged",
    consequence="Damage",
    scope="device",
    title="A main switch or a contactor is bridged",
    reason="Both sides of a pole are joined by another way: turned off, it leaves power on.",
    source="Kirchhoff's current law; IEC 60204-1, supply disconnecting device.",
)
def switch_bridged(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    is_contactor = part is not None and part.kind == "contactor"
    if part is None or not (is_contactor or (part.is_by_hand and part.is_in_a_line)):
        return
    for element in part.inside:
        if not isinstance(element, Contact) or (is_contactor and element.rest != "NO"):
            continue
        one, two = (PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)
        if is_contactor and two in queries.net(one):
            # That its contact changes nothing is told of it as of any other.
            continue
        nets = nets_reached(queries, [one], partial(_lies_in_the_feed, queries, device))
        if any(two in net for net in nets):
            yield RuleOutput(
                f"{device} is bridged: both sides of {one.port} are joined by another way.",
                (about(one), about(two)),
                detail=one.port,
            )


def _lies_in_the_feed(queries: Queries, device: str, other: str, element: Element) -> bool:
    """Whether power comes through an element of another device whatever a contact does: a fuse, or
    a main switch.
    """
    part = queries.part_of(other)
    is_switch = part is not None and part.is_by_hand and part.is_in_a_line and other != device
    return isinstance(element, Fuse) or (is_switch and isinstance(element, Contact))


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


RULES = (short, contact_shorts, shorted_at_work, switch_bridged, same_rail)
