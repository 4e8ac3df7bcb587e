"""The copper of a machine as a network: what does not change from state to state.

Every pin is a node. A conductor is the core both of whose ends are contacts; inside a part copper,
fuses, closed contacts, resistors and switched outputs join pins.
"""

from collections import defaultdict
from collections.abc import Iterator
from itertools import pairwise
from typing import Literal

from vervain.electrical.copper import resistance_ohm_m
from vervain.electrical.feeds import (
    feeds_on,
    main_feed_pin,
    nominal_v,
    plus_of_output,
    zero_pin_of,
)
from vervain.electrical.turned_motors import contacts_left_at_rest
from vervain.harness.lengths import cable_length_m
from vervain.model.base import Record
from vervain.model.electrical import FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Bridge, Contact, Diode, Fuse, Resistor
from vervain.model.machine import Hookup, PinRef, ends_of
from vervain.model.part import Part, Port
from vervain.queries.connectivity import fitted_bridges
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import reached
from vervain.supply.states import feed_table

LinkKind = Literal["conductor", "copper", "fuse", "contact", "resistor", "output"]
# A device's own lead, where the part does not give its cross-section.
LEAD_MM2 = 0.25


class Link(Record, frozen=True, kw_only=True):
    """What joins two pins, and its resistance. A conductor is named by hookup and row, all else by
    its device and its number there.
    """

    kind: LinkKind
    a: PinRef
    b: PinRef
    resistance_ohm: float
    owner: str
    number: int


class SourceModel(Record, frozen=True, kw_only=True):
    """A source: its pins, its voltage without load and its resistance. `by` and `by_minus` are the
    pins that feed it, at about `by_v`, where it makes its voltage of another one;
    `limits` says that it drops out when it is asked for far too much.
    """

    plus: PinRef
    minus: PinRef
    voltage_v: float
    resistance_ohm: float
    current_max_a: float
    by: PinRef | None = None
    by_minus: PinRef | None = None
    by_v: float = 1.0
    limits: bool = True


def core_ohm(queries: Queries, hookup: Hookup, row: int) -> float:
    """Resistance of one conductor at its working temperature, with the contacts at both ends."""
    table = feed_table()
    length_m, area = _length_and_area(queries, hookup)
    if area is None or hookup.conductors[row].core is None:
        area = _lead_area(queries, hookup) or area or LEAD_MM2
    return 2 * table.contact_ohm / max(1.0, area) + length_m * resistance_ohm_m(area)


def conductor_length_m(queries: Queries, hookup_id: str) -> float:
    """How long the conductors of a hookup are taken to be, one way."""
    hookup = queries.hookup(hookup_id)
    return _length_and_area(queries, hookup)[0] if hookup is not None else 0.0


def _length_and_area(queries: Queries, hookup: Hookup) -> tuple[float, float | None]:
    cable = queries.cable(hookup.cable) if hookup.cable else None
    if cable is not None:
        part = queries.cable_part(cable.part)
        known_m = cable_length_m(queries, cable.id)
        length_m = feed_table().assumed_length_m if known_m is None else known_m
        return length_m, part.core_mm2 if part else None
    leads = [port.lead_length_m for ref in (hookup.a, hookup.b) if (port := queries.port(ref))]
    return max(leads, default=0.0), None


def _lead_area(queries: Queries, hookup: Hookup) -> float | None:
    areas = [
        port.lead_mm2
        for ref in (hookup.a, hookup.b)
        if (port := queries.port(ref)) is not None and port.lead_mm2 is not None
    ]
    return min(areas, default=None)


# Nothing on a bench has less or more than this; numbers beyond it are no help to the solver.
LEAST_OHM, MOST_OHM = 1e-6, 1e9


def _sane(resistance_ohm: float) -> float:
    return min(max(resistance_ohm, LEAST_OHM), MOST_OHM)


@query
def conductor_links(queries: Queries, hookup_id: str) -> tuple[Link, ...]:
    """The conductors of a hookup."""
    hookup = queries.hookup(hookup_id)
    found = []
    for row, conductor in enumerate(hookup.conductors if hookup else ()):
        assert hookup is not None
        a, b = ends_of(hookup, conductor)
        resistance_ohm = _sane(core_ohm(queries, hookup, row))
        found.append(
            Link(
                kind="conductor",
                a=a,
                b=b,
                resistance_ohm=resistance_ohm,
                owner=hookup_id,
                number=row,
            )
        )
    return tuple(found)


@query
def inside_links(queries: Queries, device: str) -> tuple[Link, ...]:
    """What joins the pins of a device inside: in the order of its part."""
    part = queries.part_of(device)
    if part is None:
        return ()
    return tuple(
        Link(kind=kind, a=a, b=b, resistance_ohm=_sane(resistance_ohm), owner=device, number=number)
        for number, (kind, a, b, resistance_ohm) in enumerate(_inside(queries, device, part))
    )


@query
def copper_group(queries: Queries, pin: PinRef) -> tuple[PinRef, ...]:
    """The pins of a device that are one piece of copper inside with this one, itself first."""
    joined: dict[PinRef, list[PinRef]] = defaultdict(list)
    for link in inside_links(queries, pin.device):
        if link.kind == "copper":
            joined[link.a].append(link.b)
            joined[link.b].append(link.a)
    return tuple(reached([pin], lambda here: joined.get(here, [])))


Joined = tuple[LinkKind, PinRef, PinRef, float]


def _inside(queries: Queries, device: str, part: Part) -> Iterator[Joined]:
    table, at_rest = feed_table(), contacts_left_at_rest(queries, device)
    for place, element in enumerate(part.inside):
        refs = [PinRef(device=device, port=port, pin=pin) for port, pin in element.pins]
        if isinstance(element, Bridge):
            if element in fitted_bridges(queries, device):
                for a, b in pairwise(refs):
                    yield "copper", a, b, table.bar_ohm
        elif isinstance(element, Fuse):
            rating = queries.setting(device, "rating_a")
            current_a = float(rating) if isinstance(rating, int | float) and rating > 0 else 1.0
            yield "fuse", refs[0], refs[1], table.fuse_drop_v / current_a
        elif isinstance(element, Contact) and _is_closed(part, element, place in at_rest):
            yield "contact", refs[0], refs[1], _closed_ohm(element)
        elif isinstance(element, Diode) and feeds_on(queries, refs[0], refs[1]):
            yield "contact", refs[0], refs[1], table.diode_drop_v / element.current_a
        elif isinstance(element, Resistor):
            yield "resistor", refs[0], refs[1], element.resistance_ohm
    for port in part.ports:
        yield from _outputs(queries, device, port)
        yield from _shunts(queries, device, port)


def _closed_ohm(contact: Contact) -> float:
    """What a closed contact resists: one for more amperes less."""
    table = feed_table()
    if contact.current_max_a is None:
        return table.closed_ohm
    return min(table.closed_ohm, table.closed_drop_v / contact.current_max_a)


def _is_closed(part: Part, contact: Contact, is_at_rest: bool = False) -> bool:
    """At work: what a coil of the same part or a controller's program works is worked, but for what
    is left at rest, and a switch that rests open is on; a changeover, a selector, a stop and all
    else stand at rest.
    """
    worked = part.port(contact.worked_by) is not None or contact.worked_by == "program"
    if part.kind == "switch" and contact.worked_by == "hand" and contact.rest == "NO":
        others = [e for e in part.inside if isinstance(e, Contact) and e is not contact]
        worked = not any(set(other.pins) & set(contact.pins) for other in others)
    return (contact.rest == "NC") != (worked and not is_at_rest)


def _outputs(queries: Queries, device: str, port: Port) -> Iterator[Joined]:
    """Switched outputs that are on: to 0 V where they sink, to plus where they source."""
    if port.kind != "switched output" or port.end != "host":
        return
    for pin in port.pins:
        output = pin.electrical
        if not isinstance(output, LogicOutput):
            continue
        ref = PinRef(device=device, port=port.id, pin=pin.id)
        resistance_ohm = feed_table().output_ohm
        if output.drop_v and output.current_a:
            resistance_ohm = output.drop_v / output.current_a
        if output.drive == "PNP":
            rail = plus_of_output(queries, ref)
            if rail is not None:
                yield "output", rail, ref, resistance_ohm
        else:
            zero = _zero_of(queries, device, output)
            if zero is not None:
                yield "output", ref, zero, resistance_ohm


def _shunts(queries: Queries, device: str, port: Port) -> Iterator[Joined]:
    """The resistors by which inputs read a current."""
    for pin in port.pins:
        if isinstance(pin.electrical, LogicInput) and pin.electrical.shunt_ohm is not None:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            zero = zero_pin_of(queries, ref, pin.electrical.reference)
            if zero is not None:
                yield "resistor", ref, zero, pin.electrical.shunt_ohm


def _zero_of(queries: Queries, device: str, output: LogicOutput) -> PinRef | None:
    """The 0 V that a sinking output sinks to: the one named, else the first of the device."""
    if output.reference is not None:
        return PinRef(device=device, port=output.reference[0], pin=output.reference[1])
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            if pin.function == "zero":
                return PinRef(device=device, port=port.id, pin=pin.id)
    return None


@query
def givers_of(queries: Queries, device: str) -> tuple[SourceModel, ...]:
    """The sources of a device; pins joined by copper are one. A source of a device that is fed
    itself stands on that feed.
    """
    part = queries.part_of(device)
    found: list[SourceModel] = []
    seen: set[PinRef] = set()
    fed = main_feed_pin(queries, device)
    back = zero_pin_of(queries, fed, None) if fed else None
    for port in part.ports if part else ():
        for pin in port.pins:
            feed, plus = pin.electrical, PinRef(device=device, port=port.id, pin=pin.id)
            if not isinstance(feed, FeedOut) or queries.net(plus)[0] in seen:
                continue
            seen.add(queries.net(plus)[0])
            minus = zero_pin_of(queries, plus, None)
            if minus is None:
                continue
            resistance_ohm = feed.resistance_ohm
            if resistance_ohm is None:
                resistance_ohm = feed_table().source_drop * feed.nominal_v / feed.current_a
            found.append(
                SourceModel(
                    plus=plus, minus=minus, voltage_v=feed.nominal_v,
                    resistance_ohm=_sane(resistance_ohm),
                    current_max_a=feed.current_a, by=fed, by_minus=back,
                    by_v=nominal_v(queries, fed) if fed else 1.0,
                    limits=part is not None and part.kind != "battery",
                )
            )  # fmt: skip
    return tuple(found)
