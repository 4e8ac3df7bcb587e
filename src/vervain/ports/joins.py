"""Where the end of a wire could go: an answer for every pin, the best first."""

from collections.abc import Callable

from vervain.electrical.join_judgement import Judgement, Verdict, judge_join
from vervain.electrical.open_ends import open_ends
from vervain.model.base import Record
from vervain.model.electrical import FeedOut
from vervain.model.elements import Bridge, Contact, Diode, Fuse, Resistor
from vervain.model.machine import PinRef, PortRef
from vervain.ports.compatibility import hosts_of
from vervain.queries.connectivity import steps_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# What the plus of a stop comes from.
POWERS = frozenset({"supply", "battery", "terminal strip"})


class PinAnswer(Record, frozen=True, kw_only=True):
    """What a pin says to the end of a wire. `rank` sorts answers, the best first."""

    pin: PinRef
    verdict: Verdict
    words: str
    rank: tuple[int, ...] = ()


def join_answers(
    queries: Queries, start: PinRef, should_continue: Callable[[], bool] = lambda: True
) -> tuple[PinAnswer, ...] | None:
    """What every pin but the one that a wire starts from says to its other end, ranked; None where
    `should_continue` said no meanwhile.
    """
    found: list[PinAnswer] = []
    beside = _ports_of_the_plug(queries, start)
    for device in queries.devices():
        if not should_continue():
            return None
        part = queries.part_of(device)
        open_here = set(open_ends(queries, device))
        for port in part.ports if part else ():
            for pin in port.pins:
                ref = PinRef(device=device, port=port.id, pin=pin.id)
                if ref == start or pin.function == "none":
                    continue
                answer = judge_join(queries, start, ref)
                rank = _rank(queries, start, ref, answer, beside, ref in open_here)
                found.append(
                    PinAnswer(pin=ref, verdict=answer.verdict, words=answer.words, rank=rank)
                )
    return tuple(sorted(found, key=lambda answer: answer.rank))


def _ports_of_the_plug(queries: Queries, start: PinRef) -> frozenset[PortRef]:
    """The ports that the other conductors of the plug at a pin go to."""
    port = queries.port(start.port_ref)
    return frozenset(
        step.end.port_ref
        for pin in (port.pins if port else ())
        for step in steps_from(queries, PinRef(device=start.device, port=start.port, pin=pin.id))
    )


def _rank(
    queries: Queries,
    start: PinRef,
    ref: PinRef,
    answer: Judgement,
    beside: frozenset[PortRef],
    waits: bool,
) -> tuple[int, ...]:
    """What a used port needs comes first, then ends that wait for a wire, then ports that may stay
    empty, then what is only possible. Within each: where the rest of the plug goes, what serves
    both ways, free pins, pins of one axis and of one place.
    """
    mates = _are_mates(queries, start, ref)
    if answer.verdict == "belongs":
        group = {"own": 0, "other": 0, "unused": 1 if mates else 3}[answer.urgency]
    else:
        likely = waits or mates
        group = {"may be": 1 if likely else 2, "against advice": 4, "cannot be": 5}[answer.verdict]
    one, two = queries.device(start.device), queries.device(ref.device)
    axis, other_axis = queries.axis_of(start.device), queries.axis_of(ref.device)
    pin, ours = queries.pin(ref), queries.pin(start)
    return (
        group,
        ref.device == start.device,
        ref.port_ref not in beside,
        not waits and not mates,
        bool(steps_from(queries, ref)),
        pin is None or ours is None or pin.function != ours.function,
        axis is None or other_axis is None or axis.id != other_axis.id,
        one is None or two is None or one.place != two.place,
    )


def _are_mates(queries: Queries, start: PinRef, ref: PinRef) -> bool:
    """Whether the ports of two pins are made for each other; what opens by a stop also goes to
    coils, and to where plus comes from.
    """
    ours, theirs = queries.port(start.port_ref), queries.port(ref.port_ref)
    pin = queries.pin(ref)
    if ours is None or theirs is None or pin is None:
        return False
    if theirs.kind in hosts_of(ours.kind) or ours.kind in hosts_of(theirs.kind):
        return True
    if "stop contacts" not in (ours.kind, theirs.kind):
        return False
    part = queries.part_of(ref.device)
    gives = isinstance(pin.electrical, FeedOut) and part is not None and part.kind in POWERS
    return theirs.kind == "coil" or gives


class WayThrough(Record, frozen=True, kw_only=True):
    """Two free pins of a device between which a wire can be led, and what lies there in a word."""

    near: PinRef
    far: PinRef
    words: str


@query
def ways_through(queries: Queries, device: str) -> tuple[WayThrough, ...]:
    """The ways in which a wire can be led through a device: over a contact, a fuse, a resistor, a
    diode, along a bar, from one face of a connector to the other. Only where nothing is joined to
    any of its ends yet.
    """
    part, found = queries.part_of(device), []
    for element in part.inside if part else ():
        if isinstance(element, Bridge):
            if element.when is not None or element.name:
                continue
            words = "bar" if len(element.pins) > 2 else "way"
        elif isinstance(element, Contact):
            words = f"{element.rest} contact"
        elif isinstance(element, Fuse | Resistor | Diode):
            words = type(element).__name__.lower()
        else:
            continue
        refs = [PinRef(device=device, port=port, pin=pin) for port, pin in element.pins]
        taken = [ref for ref in refs if steps_from(queries, ref)]
        if not taken:
            found.append(WayThrough(near=refs[0], far=refs[1], words=words))
    return tuple(found)


def way_from(queries: Queries, pin: PinRef) -> WayThrough | None:
    """The way through a device that begins at a pin; None where there is none, or its other end is
    taken.
    """
    for way in ways_through(queries, pin.device):
        if way.near == pin:
            return way
        if way.far == pin:
            return WayThrough(near=way.far, far=way.near, words=way.words)
    return None


def across_from(queries: Queries, pin: PinRef) -> PinRef | None:
    """The other end of the contact, fuse, resistor or diode that a pin is an end of."""
    part, here = queries.part_of(pin.device), (pin.port, pin.pin)
    for element in part.inside if part else ():
        if isinstance(element, Contact | Fuse | Resistor | Diode) and here in element.pins:
            port, other = next(at for at in element.pins if at != here)
            return PinRef(device=pin.device, port=port, pin=other)
    return None
