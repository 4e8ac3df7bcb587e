"""Rules about the lines of three-phase mains, and the motors that lie at them."""

from collections.abc import Iterator
from itertools import combinations, permutations, product

from vervain.electrical.mains import lines_of_taker, mains_entries
from vervain.electrical.unmet_needs import natures
from vervain.electrical.ways_over_contacts import is_at_a_contact, way_over_contacts
from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import PartKind
from vervain.queries.connectivity import nets_reached
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words, pin_text
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import InTurn, MoveEnd, PutConductor, Remedy
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.contacts import free_contact
from vervain.text.words import in_a_row

# What has contacts that a coil, or an input, closes and opens.
WORKED_BY_COILS: tuple[PartKind, ...] = ("contactor", "relay module", "solid-state relay")


@rule(
    id="supply.motor-lines",
    consequence="Damage",
    scope="device",
    title="What is for three lines of the mains does not have them",
    reason="The field of a motor turns only with three lines, each 120° from the next. On fewer it "
    "hums, does not start or draws twice its current, and burns; a drive trips, or its input goes.",
    source="IEC 60034-1, three-phase machines on balanced voltages; practice: single phasing.",
)
def motor_lines(queries: Queries, device: str) -> Iterator[RuleOutput]:
    lines = lines_of_taker(queries, device)
    if not any(lines.values()) or _has_a_line_each(list(lines.values())):
        return
    told = [
        f"{pin_text(queries, phase)} at {' or '.join(sorted(at)) or 'none'}"
        for phase, at in lines.items()
    ]
    yield RuleOutput(
        f"{device} does not have three lines of the mains: {in_a_row(told)}.",
        (about(device), *map(about, lines)),
        at=(about(next(iter(lines)).port_ref),),
    )


def _has_a_line_each(lines: list[frozenset[str]]) -> bool:
    """Whether each phase may have a line that no other has."""
    named = sorted(frozenset[str]().union(*lines))
    return any(
        all(line in at for line, at in zip(chosen, lines, strict=True))
        for chosen in permutations(named, len(lines))
    )


@rule(
    id="supply.lines-joined",
    consequence="Damage",
    scope="device",
    title="A line of the mains meets another, or earth",
    reason="Between two lines lie 400 V, or 208 V, and mains between a line and the rest; where "
    "they meet with no load between, a fuse blows, or a contact welds.",
    source="Kirchhoff's laws; the machine's own conductors.",
)
def lines_joined(queries: Queries, device: str) -> Iterator[RuleOutput]:
    lines, others = _poles(queries, device)
    for one, other in (*combinations(lines, 2), *product(lines, others)):
        way = _way_between(queries, one, other)
        # That neutral or earth lies on a line itself, its partners tell.
        by_copper = other in others and other in queries.net(one)
        if way and len(_worked_by_coils(queries, way)) < 2 and not by_copper:
            by = list(dict.fromkeys(ref.device for ref in way if ref.device != device))
            at = f" at {in_a_row(by[:3])}" if by else ""
            yield RuleOutput(
                f"{pin_text(queries, one)} and {pin_text(queries, other)} of {device} meet{at}.",
                tuple(dict.fromkeys(map(about, (one, other, *way)))),
                at=(about(one),),
                detail=f"{one.pin} {other.pin}",
            )


@rule(
    id="supply.not-interlocked",
    consequence="Damage",
    scope="device",
    title="Two contactors may close together, and short the mains",
    reason="Contactors that turn a motor round exchange two lines: with both closed these meet. A "
    "contact of each that opens when it closes, in the coil of the other, keeps them apart even "
    "where a contact welds or an output fails.",
    source="IEC 60204-1, interlocks between contactors that would short the mains.",
)
def not_interlocked(queries: Queries, device: str) -> Iterator[RuleOutput]:
    said: set[frozenset[str]] = set()
    for one, other in combinations(_poles(queries, device)[0], 2):
        over = _worked_by_coils(queries, _way_between(queries, one, other))
        if len(over) != 2 or frozenset(over) in said:
            continue
        said.add(frozenset(over))
        free = [(a, b) for a, b in (over, over[::-1]) if not _is_kept_off_by(queries, a, b)]
        if free:
            first, second = free[0]
            yield RuleOutput(
                f"With {in_a_row(over)} closed together {pin_text(queries, one)} and "
                f"{pin_text(queries, other)} of {device} meet: nothing in the coil of {first} "
                f"keeps it off while {second} is on.",
                tuple(about(name) for name in over),
                at=(about(first),),
                detail=" ".join(sorted(over)),
                fixes=_led_through_each_other(queries, free),
            )


def _led_through_each_other(queries: Queries, contactors: list[tuple[str, str]]) -> tuple[Fix, ...]:
    """The wire of each contactor's coil led through a free contact that the other opens; none where
    a contactor has no such contact, or a coil has not one wire.
    """
    remedies: list[Remedy] = []
    told: list[str] = []
    for contactor, other in contactors:
        contact = free_contact(queries, other)
        coil = next(iter(_coil_pins(queries, contactor)), None)
        steps = queries.steps(coil) if coil is not None else ()
        if contact is None or coil is None or len(steps) != 1:
            return ()
        near, far = contact
        remedies += [
            MoveEnd(kept=steps[0].end, old=coil, new=near), PutConductor(first=far, second=coil),
        ]  # fmt: skip
        told.append(f"{pin_in_words(queries, coil)} through {other} {near.port}")
    return (Fix(words=f"lead {in_a_row(told)}", remedy=InTurn(remedies=tuple(remedies))),)


def _coil_pins(queries: Queries, contactor: str) -> list[PinRef]:
    """The pins of a contactor's coil, that by which it is worked first."""
    part = queries.part_of(contactor)
    return [
        PinRef(device=contactor, port=port.id, pin=pin.id)
        for port in (part.ports if part is not None else ()) if port.kind == "coil"
        for pin in port.pins
    ]  # fmt: skip


def _poles(queries: Queries, device: str) -> tuple[list[PinRef], list[PinRef]]:
    """The lines by which a device brings mains in, and its neutral and earth; one pin for each
    print.
    """
    lines: dict[str, PinRef] = {}
    others: dict[str, PinRef] = {}
    for ref in sorted(mains_entries(queries), key=str):
        pin = queries.pin(ref)
        if ref.device == device and pin is not None:
            (lines if pin.function == "line" else others).setdefault(pin.text, ref)
    return list(lines.values()), list(others.values())


def _way_between(queries: Queries, one: PinRef, other: PinRef) -> list[PinRef]:
    """The pins on the way between two lines while every contactor is closed, and so is every
    contact that opens by a hand, a door or by what trips.
    """

    def passes(device: str, element: Element) -> bool:
        if isinstance(element, Contact):
            part = queries.part_of(device)
            is_of_a_coil = part is not None and part.kind in WORKED_BY_COILS
            return element.rest == "NO" or not is_of_a_coil
        return isinstance(element, Fuse)

    return way_over_contacts(queries, one, [other], passes)


def _worked_by_coils(queries: Queries, way: list[PinRef]) -> list[str]:
    """The contactors and relays over whose contacts a way leads."""
    return list(
        dict.fromkeys(
            ref.device for ref in way
            if is_at_a_contact(queries, ref) and (part := queries.part_of(ref.device))
            and part.kind in WORKED_BY_COILS
        )
    )  # fmt: skip


def _is_kept_off_by(queries: Queries, contactor: str, other: str) -> bool:
    """Whether the coil of a contactor loses its feed by a contact that another one opens."""

    def passes(device: str, element: Element) -> bool:
        if isinstance(element, Contact):
            return not (device == other and element.rest == "NC")
        return isinstance(element, Fuse)

    for at in _coil_pins(queries, contactor):
        here = {ref for net in nets_reached(queries, [at], passes) for ref in net}
        beyond = set(queries.rail(at)) - here
        cut_off = any(_feeds(queries, ref) for ref in beyond)
        if not queries.steps(at) or (cut_off and not any(_feeds(queries, r) for r in here)):
            return True
    return False


def _feeds(queries: Queries, ref: PinRef) -> bool:
    """Whether a coil gets its current from a pin, or gives it back there."""
    is_a = natures(queries, ref)
    return bool(is_a & {"source", "return", "logic output"}) or ref in mains_entries(queries)


RULES = (motor_lines, lines_joined, not_interlocked)
