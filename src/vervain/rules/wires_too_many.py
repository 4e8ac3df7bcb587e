"""Wires that join what has nothing to do with each other, and that nothing needs."""

from collections.abc import Collection, Iterable, Iterator
from itertools import islice, pairwise, product

from vervain.electrical.feeds import feed_pins
from vervain.model.machine import PinRef
from vervain.model.subject import Subject
from vervain.queries.connectivity import across, is_contact, is_fuse, joined_inside
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.queries.walk import path_to, reached
from vervain.rules.finding import Finding, Fix, about
from vervain.rules.fixes import TakeConductor

Wire = tuple[PinRef, PinRef]
# What tells of pins on one rail that do not belong there.
JOINED = frozenset({
    "ports.partner", "ports.inputs-joined", "ports.outputs-joined", "ports.outputs-against",
    "signals.output-on-rail", "signals.supply-on-input", "supply.short", "supply.same-rail",
    "supply.in-series", "supply.fuse-bridged", "supply.switch-bridged", "supply.two-sources",
    "supply.shorted-at-work", "signals.bus-on-rail", "signals.bridge-on-rail",
})  # fmt: skip
# An input that lies on a rail itself.
UNCHANGING = "signals.unchanging"
# What a stop leaves on, which may have power past its contacts.
KEEPS_POWER = "stops.power-stays"
MOST_WIRES, MOST_PLACES = 16, 60


def wires_too_many(
    queries: Queries, finding: Finding, places: Iterable[PinRef]
) -> Iterator[tuple[str, Fix, tuple[Subject, ...]]]:
    """The wires, one after the other, that may be one too many behind a finding: what it would be,
    and the fix that takes it off. First those by which pins that it names are joined that do not
    belong together, then those near its `places` whose ends both have another wire.
    """
    wires: dict[frozenset[PinRef], Wire] = {}
    for wire in (*_between(queries, finding), *_beside_others(queries, places)):
        wires.setdefault(frozenset(wire), wire)
    for one, other in islice(wires.values(), MOST_WIRES):
        words = f"{pin_in_words(queries, one)} and {pin_in_words(queries, other)}"
        fix = Fix(
            words=f"take off the wire between {words}",
            remedy=TakeConductor(first=one, second=other),
        )
        yield f"There is a wire too many between {words}.", fix, (about(one), about(other))


def _between(queries: Queries, finding: Finding) -> Iterator[Wire]:
    """The wires on the ways between the pins that a finding says are joined, or by which power
    comes to where it tells that there is some.
    """
    pins = [
        PinRef(device=subject.device, port=subject.port, pin=subject.pin)
        for subject in finding.subjects
        if subject.device and subject.port and subject.pin
    ]
    if finding.rule in JOINED:
        for first, second in product(pins, pins):
            if first != second and second in queries.rail(first):
                yield from _wires_on_the_way(queries, first, second)
    elif finding.rule == UNCHANGING:
        yield from _wires_to_a_rail(queries, pins[0], ("plus", "zero"))
    elif finding.rule == KEEPS_POWER:
        for subject in finding.at:
            feeds = feed_pins(queries, subject.device or "")
            # What an output switches has its power from the feed of its host.
            hosts = {step.end.device for feed in feeds for step in queries.steps(feed)}
            for feed in (
                *feeds,
                *(pin for host in sorted(hosts) for pin in feed_pins(queries, host)),
            ):
                yield from _wires_to_a_rail(queries, feed, ("plus",))


def _beside_others(queries: Queries, places: Iterable[PinRef]) -> Iterator[Wire]:
    """The wires at some pins, and at those that these are joined to, of which each end has another
    wire: where one is too many, both had theirs before it came.
    """
    for place in islice(places, MOST_PLACES):
        for at in (place, *(step.end for step in queries.steps(place))):
            for step in queries.steps(at):
                if _has_another(queries, at) and _has_another(queries, step.end):
                    yield at, step.end


def _has_another(queries: Queries, pin: PinRef) -> bool:
    """Whether more than one wire comes to a pin, or to what is joined with it inside."""
    beside = sum(len(queries.steps(other)) for other in joined_inside(queries, pin))
    return len(queries.steps(pin)) + beside > 1


def _wires_to_a_rail(queries: Queries, pin: PinRef, functions: Collection[str]) -> Iterator[Wire]:
    """The conductors on the shortest way, over whole fuses, from a pin to what has one of some
    functions and gives power or takes it back, of which each end has another conductor.
    """

    def beside(at: PinRef) -> tuple[PinRef, ...]:
        through = across(queries, at, is_fuse)
        return (*(step.end for step in queries.steps(at)), *joined_inside(queries, at), *through)

    found = reached([pin], beside)
    for ref in found:
        at_it = queries.pin(ref)
        if ref.device != pin.device and at_it is not None and at_it.function in functions:
            for wire in _wires_among(queries, path_to(ref, found)):
                if all(_has_another(queries, end) for end in wire):
                    yield wire
            return


def _wires_on_the_way(queries: Queries, first: PinRef, second: PinRef) -> Iterator[Wire]:
    """The conductors on the shortest way from one pin to another, through fuses and contacts."""

    def beside(pin: PinRef) -> tuple[PinRef, ...]:
        return (
            *(step.end for step in queries.steps(pin)),
            *joined_inside(queries, pin),
            *across(queries, pin, lambda device, e: is_contact(device, e) or is_fuse(device, e)),
        )

    yield from _wires_among(queries, path_to(second, reached([first], beside)))


def _wires_among(queries: Queries, path: Iterable[PinRef]) -> Iterator[Wire]:
    for here, there in pairwise(path):
        if there in {step.end for step in queries.steps(here)}:
            yield here, there
