"""What relays switch in a proposal: the feed of a load goes through a contact that an output of a
controller works already and that nothing is joined to.
"""

import re
from collections import Counter

from vervain.electrical.feeds import nominal_v
from vervain.model.base import Record
from vervain.model.electrical import FeedIn
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.ports.called_alike import are_called_alike, plain_words
from vervain.ports.switched_loads import LOADS
from vervain.queries.connectivity import host_ports, steps_from
from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWayThrough
from vervain.supply.stop_contacts import contact_ends

# What else names of relays say, and nothing of what they switch.
OF_RELAYS = frozenset({"relay", "board", "module", "channel", "ssr", "solid", "state"})


class WorkedContact(Record, frozen=True, kw_only=True):
    """A free contact of a relay, the end at the load and the one at the source, and the port of a
    controller that works it.
    """

    element: Contact
    near: PinRef
    far: PinRef
    worked_at: PortRef


class FedEnd(Record, frozen=True, kw_only=True):
    """The pin of a load by which this proposal feeds it, and what it takes, in A and V."""

    pin: PinRef
    current_a: float
    voltage_v: float
    is_mains: bool
    made_by: tuple[int, ...]


Pair = tuple[WorkedContact, FedEnd]


def plan_switched(planner: PlanBuilder) -> None:
    """Leads the feed of each load that is fed now through the relay that is called alike, or that
    is worked by an output which is; those that are left through relays that are called after
    nothing, in order, where there are enough. The builder decides about any other.
    """
    queries = planner.queries
    contacts, ends = [*free_worked_contacts(queries), *of_boards(queries)], _fed_ends(planner)
    fitting = [(c, e) for c in contacts for e in ends if _bears(c, e)]
    pairs = _by_poles(queries, fitting)
    fitting = [(c, e) for c, e in fitting if all(c != pc and e != pe for pc, pe in pairs)]
    for is_alike in (_by_name_and_number, _by_name, _by_output):
        pairs += _told_apart([pair for pair in fitting if is_alike(queries, *pair)])
        fitting = [(c, e) for c, e in fitting if all(c != pc and e != pe for pc, pe in pairs)]
    # A board's own relay that is called after something is for that, and for nothing else.
    fitting = [(c, e) for c, e in fitting if not _is_a_boards(c) or _says_nothing(c.near.port)]
    if in_order := _in_order(queries, fitting):
        pairs += in_order
    elif fitting:
        relays = names_in_words(tuple(dict.fromkeys(c.near.device for c, _ in fitting)))
        loads = names_in_words(tuple(dict.fromkeys(e.pin.device for _, e in fitting)))
        planner.decisions.append(
            f"Which of {relays} switches which of {loads} is not known: call both alike, or put "
            "the contact into the wire on Ports."
        )
    for contact, end in pairs:
        _lead_through(planner, contact, end)


def free_worked_contacts(queries: Queries) -> list[WorkedContact]:
    """The contacts that close and that nothing is joined to, of relays which an output of a
    controller works.
    """
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind not in ("solid-state relay", "relay module"):
            continue
        for element in part.inside:
            if not isinstance(element, Contact) or element.rest != "NO":
                continue
            far, near = contact_ends(name, element)
            hosts = host_ports(queries, PortRef(device=name, port=element.worked_by))
            if hosts and not any(steps_from(queries, end) for end in (far, near)):
                found.append(WorkedContact(element=element, near=near, far=far, worked_at=hosts[0]))
    return found


def of_boards(queries: Queries) -> list[WorkedContact]:
    """The relay contacts of controllers themselves that close and that nothing is joined to."""
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        for element in part.inside if part is not None and part.kind == "controller" else ():
            if not isinstance(element, Contact) or element.worked_by != "program":
                continue
            far, near = contact_ends(name, element)
            if element.rest == "NO" and not any(steps_from(queries, end) for end in (far, near)):
                port = near.port_ref
                found.append(WorkedContact(element=element, near=near, far=far, worked_at=port))
    return found


def _fed_ends(planner: PlanBuilder) -> list[FedEnd]:
    """The lines and pluses of loads that steps of this proposal lead to."""
    found = []
    for name in planner.queries.devices():
        part = planner.queries.part_of(name)
        for port in part.ports if part is not None and part.kind in LOADS else ():
            pins = [(PinRef(device=name, port=port.id, pin=pin.id), pin) for pin in port.pins]
            feeds = [(at, pin.electrical) for at, pin in pins if isinstance(pin.electrical, FeedIn)]
            current_a = max((feed.current_a or 0.0 for _, feed in feeds), default=0.0)
            # What takes nobody knows how many volts is not judged by them.
            known = [at for at, feed in feeds if feed.nominal_v or feed.middle_v]
            voltage_v = max((nominal_v(planner.queries, at) for at in known), default=0.0)
            found += [
                FedEnd(
                    pin=at, current_a=current_a, voltage_v=voltage_v,
                    is_mains=pin.function == "line", made_by=made_by,
                )
                for at, pin in pins
                if pin.function in ("line", "plus", "load+") and (made_by := planner.steps_to(at))
            ]  # fmt: skip
    return found


def _is_a_boards(contact: WorkedContact) -> bool:
    """Whether a contact is that of a relay on a controller itself."""
    return contact.near.device == contact.worked_at.device


def _says_nothing(port: str) -> bool:
    """Whether the name of a port tells nothing of what it switches: RELAY1."""
    return {*plain_words(port)} <= OF_RELAYS


def _is_for_anything(queries: Queries, contact: WorkedContact) -> bool:
    """Whether the name of a relay does not say what it switches."""
    relay = contact.near.device
    if _is_a_boards(contact):
        return _says_nothing(contact.near.port)
    device, part = queries.device(relay), queries.part_of(relay)
    if device is None or part is None:
        return False
    return {*plain_words(device.name)} <= {*plain_words(part.kind), *OF_RELAYS}


def _by_poles(queries: Queries, fitting: list[Pair]) -> list[Pair]:
    """A relay of several poles, which one input works, with a load of as many lines that is called
    alike: pole by pole. None where either has another one.
    """
    poles: dict[str, dict[WorkedContact, None]] = {}
    lines: dict[str, dict[FedEnd, None]] = {}
    for contact, end in fitting:
        if _by_name(queries, contact, end):
            poles.setdefault(contact.near.device, {})[contact] = None
            lines.setdefault(end.pin.device, {})[end] = None
    alike = {
        (relay, load) for c, e in fitting if _by_name(queries, c, e)
        for relay, load in [(c.near.device, e.pin.device)]
        if len(poles[relay]) == len(lines[load]) > 1
    }  # fmt: skip
    found: list[Pair] = []
    for relay, load in sorted(alike):
        is_only = sum(relay == r or load == other for r, other in alike) == 1
        works = {contact.element.worked_by for contact in poles[relay]}
        if is_only and len(works) == 1:
            found += zip(poles[relay], lines[load], strict=True)
    return found


def _told_apart(pairs: list[Pair]) -> list[Pair]:
    """The pairs of which one has no other partner, one after the other: of Boiler and Steam boiler
    the relay Steam is for the second, and so the relay Boiler for the first.
    """
    found: list[Pair] = []
    while True:
        contacts, ends = Counter(c for c, _ in pairs), Counter(e for _, e in pairs)
        alone = [pair for pair in pairs if contacts[pair[0]] == 1 or ends[pair[1]] == 1]
        # Two relays that are both for one load only, or two loads, tell nothing apart.
        sure = [
            (c, e) for c, e in alone
            if sum(c == other for other, _ in alone) == 1 == sum(e == other for _, other in alone)
        ]  # fmt: skip
        if not sure:
            return found
        found += sure
        pairs = [(c, e) for c, e in pairs if all(c != sc and e != se for sc, se in sure)]


def _in_order(queries: Queries, pairs: list[Pair]) -> list[Pair]:
    """Loads with relays of one device that are called after nothing, one after the other: which is
    which is told to the program. None where there are too few, or where one has a name.
    """
    contacts = list(dict.fromkeys(contact for contact, _ in pairs))
    ends = list(dict.fromkeys(end for _, end in pairs))
    of_one = len({contact.near.device for contact in contacts}) == 1
    if not of_one or len(ends) > len(contacts) or len(pairs) < len(contacts) * len(ends):
        return []
    if not all(_is_for_anything(queries, contact) for contact in contacts):
        return []
    return list(zip(contacts, ends, strict=False))


def _by_name(queries: Queries, contact: WorkedContact, end: FedEnd) -> bool:
    relay = queries.device(contact.near.device)
    return (
        relay is not None
        and not _is_a_boards(contact)
        and are_called_alike(queries, end.pin.device, relay.name)
    )


def _by_name_and_number(queries: Queries, contact: WorkedContact, end: FedEnd) -> bool:
    """Whether a relay is called as a load is, and counted alike: Zone 2 and Zone 2."""
    relay, load = queries.device(contact.near.device), queries.device(end.pin.device)
    if relay is None or load is None or not _by_name(queries, contact, end):
        return False
    numbers = [re.findall(r"\d+", device.name) for device in (relay, load)]
    return bool(numbers[0]) and numbers[0] == numbers[1]


def _by_output(queries: Queries, contact: WorkedContact, end: FedEnd) -> bool:
    return are_called_alike(queries, end.pin.device, contact.worked_at.port)


def _bears(contact: WorkedContact, end: FedEnd) -> bool:
    """Whether a contact may switch a load."""
    element = contact.element
    if element.switches is not None and (element.switches == "AC") != end.is_mains:
        return False
    if element.v_max_v is not None and element.v_max_v < end.voltage_v:
        return False
    return element.current_max_a is None or element.current_max_a >= end.current_a


def _lead_through(planner: PlanBuilder, contact: WorkedContact, end: FedEnd) -> None:
    pin = planner.queries.pin(end.pin)
    host = contact.worked_at
    planner.add(
        FeedStep(
            words=f"{end.pin.device} {pin.text if pin is not None else end.pin.pin} goes through "
            f"{contact.near.device} {contact.near.port}",
            reason=f"{host.device} {host.port} turns it on and off.",
            through=(
                NewWayThrough(
                    near_end=end.pin, near=contact.near, far=contact.far, is_at_source=True
                ),
            ),
            needs=end.made_by,
        )
    )
