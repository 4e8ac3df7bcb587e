"""Conductors that may be missing: between ends that nothing is joined to, or from one to a rail."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator
from itertools import combinations, islice

from msgspec.structs import replace

from vervain.electrical.feeds import sources_of
from vervain.electrical.levels import READ_BY_CONTACTS
from vervain.electrical.open_ends import (
    dead_pins,
    ends_of_contacts_side_by_side,
    free_lines,
    is_connector,
    is_strip,
    may_be_joined,
    open_ends,
    rail_pins,
    strip_pins,
)
from vervain.electrical.unmet_needs import natures, open_end
from vervain.electrical.ways_over_contacts import is_at_a_contact
from vervain.model.electrical import LogicInput
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import PartKind
from vervain.model.subject import Subject
from vervain.queries.connectivity import across, is_contact
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.rules.finding import Finding, Fix, about
from vervain.rules.fixes import PutConductor

# What takes its current from a rail.
FED = frozenset({
    "plus", "zero", "line", "neutral", "pe", "load+", "load-", "coil+", "coil-", "motor+", "motor-",
})  # fmt: skip
# What has several contacts that are often fed alike.
RELAYS: tuple[PartKind, ...] = ("relay module", "contactor")
# How many pins of a plug, and nets along contacts, are looked at.
MOST_PINS, MOST_NETS = 12, 5
# How many ends that nothing is joined to are tried with each other.
MOST_ENDS = 16
# How many wires between ends that findings tell of come before all others.
MOST_BETWEEN = 4


def _is_read(queries: Queries, pin: PinRef) -> bool:
    """Whether a pin is one that is read."""
    found = queries.pin(pin)
    return found is not None and isinstance(found.electrical, LogicInput)


def _net_by_net(queries: Queries, goals: Iterable[PinRef]) -> Iterator[PinRef]:
    """Pins in their order, but one of each net before further ones of the same: what does not help
    at one pin of a rail seldom does at the next.
    """
    seen: set[PinRef] = set()
    further: list[PinRef] = []
    for goal in goals:
        if goal in seen:
            further.append(goal)
        else:
            seen |= {goal, *queries.net(goal)}
            yield goal
    yield from further


class MissingConductors:
    """The conductors that one machine may lack."""

    def __init__(self, queries: Queries) -> None:
        self.queries = queries

    def needed_at(self, plug: PortRef, trying: Queries) -> list[Fix]:
        """What the devices at a plug lack in the machine that is tried: the conductors for it."""
        port = trying.port(plug)
        devices = {plug.device}
        for pin in port.pins if port else ():
            here = PinRef(device=plug.device, port=plug.port, pin=pin.id)
            devices |= {p.device for p in trying.net(here)}
        found: list[Fix] = []
        free = [
            PinRef(device=plug.device, port=plug.port, pin=pin.id)
            for pin in (port.pins if port else ())
            if not trying.steps(PinRef(device=plug.device, port=plug.port, pin=pin.id))
        ]
        for pin_ref in free:
            # What lay beside the others at their far end comes before what is open elsewhere.
            own = trying.pin(pin_ref)
            for end in self._beside(pin_ref, trying):
                there = trying.pin(end)
                same = own is not None and there is not None and own.function == there.function
                if same and may_be_joined(trying, end, pin_ref):
                    found.append(self._join(end, pin_ref))
        for device in sorted(devices):
            for end in open_ends(trying, device):
                for pin_ref in free:
                    if end.port_ref != plug and may_be_joined(trying, end, pin_ref):
                        found.append(self._join(end, pin_ref))
        return list(dict.fromkeys(found))[:MOST_ENDS]

    def between(self, pins: Collection[PinRef]) -> list[Fix]:
        """Two of some pins that nothing comes to, joined: both tell of one wire."""
        bare = [pin for pin in pins if not self.queries.steps(pin)]
        pairs = ((a, b) for a, b in combinations(bare, 2) if a.device != b.device)
        found = (self._join(a, b) for a, b in pairs if may_be_joined(self.queries, a, b))
        return list(islice(found, MOST_BETWEEN))

    def where_it_hung_over(
        self, plug: PortRef, by: int, ends: Collection[PinRef], trying: Queries
    ) -> list[Fix]:
        """What may have come off a plug that sat one pin off, in the machine in which it was moved
        by that: an end that nothing comes to, at the pin that is bare now.
        """
        port = trying.port(plug)
        if port is None:
            return []
        bare = PinRef(device=plug.device, port=plug.port, pin=port.pins[0 if by > 0 else -1].id)
        return [
            self._join(end, bare)
            for end in ends
            if end.port_ref != plug and not trying.steps(bare) and not trying.steps(end)
            and may_be_joined(trying, end, bare)
        ]  # fmt: skip

    def _join(self, first: PinRef, second: PinRef) -> Fix:
        names = [pin_in_words(self.queries, ref) for ref in (first, second)]
        words = f"join {names[0]} to {names[1]}"
        return Fix(words=words, remedy=PutConductor(first=first, second=second))

    def put_back(
        self, finding: Finding, named: dict[PortRef, set[str]]
    ) -> Iterator[tuple[Fix, tuple[Subject, ...]]]:
        """A conductor between two ends that nothing is joined to, or from one to a rail."""
        queries = self.queries
        # What the finding itself is about comes before what only lies on its rail.
        own = [
            PinRef(device=s.device, port=s.port, pin=s.pin)
            for s in (*finding.at, *finding.subjects)
            if s.device is not None and s.port is not None and s.pin is not None
        ]
        near_own = [end for at in own for end in (at, open_end(queries, at))]
        near = dict.fromkeys(near_own)
        for ref, pins in named.items():
            port = queries.port(ref)
            for pin in port.pins if port else ():
                here = PinRef(device=ref.device, port=ref.port, pin=pin.id)
                if pins and pin.id not in pins:
                    continue
                for member in queries.rail(here):
                    near |= dict.fromkeys(
                        end for end in open_ends(queries, member.device)
                        if end in queries.rail(here)
                    )  # fmt: skip
                near |= dict.fromkeys(ref for ref in queries.net(here) if is_strip(queries, ref))
        ends = [end for device in queries.devices() for end in open_ends(queries, device)]
        waiting = set(ends)
        waiting_at: dict[str, list[PinRef]] = defaultdict(list)
        for end in ends:
            if is_at_a_contact(queries, end):
                waiting_at[end.device].append(end)
        strips, sources = strip_pins(queries), rail_pins(queries)
        ends += [pin for pin in dead_pins(queries) if pin not in ends]
        lines = free_lines(queries)
        # What the finding is about comes first, and of it what nothing is joined to; of a contact
        # that changes over what closes, for that is used oftener.
        named_ends = set(near_own)
        opens = {e for e in near if (at := queries.pin(e)) is not None and at.function == "nc"}
        open_first = sorted(
            near, key=lambda e: (e not in named_ends, bool(queries.steps(e)), e in opens)
        )
        for end in open_first[:MOST_ENDS]:
            part = queries.part_of(end.device)
            is_fuse = part is not None and part.kind == "fuse"
            # A fuse is joined to what it protects from, a load to the strip beside it.
            rails = (*sources, *strips) if is_fuse else (*strips, *sources)
            # What lies behind an in-line connector is what is fed through it.
            behind = [queries.pin(ref) for ref in queries.net(end)[:MOST_PINS]]
            is_fed = is_fuse or any(pin is not None and pin.function in FED for pin in behind)
            common = (*rails, *ends, *lines) if is_fed else (*ends, *rails, *lines)
            beside = self._beside(end, queries)
            near_by = (
                # Two open contacts of one device are more likely in a row than anything else.
                *(e for e in waiting_at[end.device] if e.port != end.port),
                *self._as_its_likes(end, queries),
                # What goes through one in-line connector goes through it with all its leads.
                *(pin for pin in beside if is_connector(queries, pin)),
                # An input that nothing is joined to at the far end waits for a conductor.
                *(pin for pin in beside if pin in waiting and _is_read(queries, pin)),
                *(
                    self._own_source(end, queries)
                    if is_fed or is_at_a_contact(queries, end)
                    else ()
                ),
                *self._over(end, queries),
                *(ends_of_contacts_side_by_side(queries) if is_fed else ()),
                *beside,
            )
            for goal in _net_by_net(queries, dict.fromkeys((*near_by, *common))):
                if may_be_joined(queries, end, goal):
                    subjects = (*finding.subjects, about(end))
                    yield self._join(end, goal), subjects

    def _as_its_likes(self, end: PinRef, queries: Queries) -> Iterator[PinRef]:
        """What is joined to the same pin of other devices of the same part; first what is alike
        there and free.
        """
        own = queries.device(end.device)
        taken: dict[PinRef, None] = {}
        for name in queries.devices():
            other = queries.device(name)
            if own is not None and other is not None and other.part == own.part and other != own:
                taken |= {step.end: None for step in queries.steps(replace(end, device=name))}
        for ref in taken:
            part, port = queries.part_of(ref.device), queries.port(ref.port_ref)
            for alike in part.ports if part is not None and port is not None else ():
                free = PinRef(device=ref.device, port=alike.id, pin=ref.pin)
                is_alike = port is not None and alike.kind == port.kind and alike.pin(ref.pin)
                if is_alike and not queries.steps(free):
                    yield free
        yield from taken
        yield from self._as_contacts_beside(end, queries)

    def _as_contacts_beside(self, end: PinRef, queries: Queries) -> Iterator[PinRef]:
        """Where plus comes from to the same ends of a relay's other contacts."""
        part, pin, own = queries.part_of(end.device), queries.pin(end), queries.port(end.port_ref)
        if part is None or pin is None or own is None or part.kind not in RELAYS:
            return
        for port in part.ports:
            if port.id == end.port or port.kind != own.kind:
                continue
            for other in port.pins:
                there = PinRef(device=end.device, port=port.id, pin=other.id)
                if other.function == pin.function and sources_of(queries, there):
                    yield from (step.end for step in queries.steps(there))

    def _own_source(self, end: PinRef, queries: Queries) -> tuple[PinRef, ...]:
        """The pins of the source that the rest of an end's circuit lies on: by the other leads of
        its port, what is across its contacts, and the loads there.
        """
        here = list(dict.fromkeys((end, *queries.net(end)[:MOST_PINS])))
        seen = set(here)
        for _ in range(MOST_NETS):
            beyond: list[PinRef] = []
            for pin in here:
                port = queries.port(pin.port_ref)
                mates = port.pins if port is not None and port.kind not in READ_BY_CONTACTS else ()
                pairs = [replace(pin, pin=p.id) for p in mates if p.function in FED]
                beyond += (*pairs, *across(queries, pin, is_contact))
            here = []
            for pin in beyond:
                if pin in seen:
                    continue
                for member in queries.rail(pin):
                    if natures(queries, member) & {"source", "return"}:
                        source = queries.port(member.port_ref)
                        return tuple(
                            replace(member, pin=p.id) for p in (source.pins if source else ())
                        )
                    if member not in seen:
                        seen.add(member)
                        here.append(member)
        return ()

    def _over(self, end: PinRef, queries: Queries) -> Iterator[PinRef]:
        """The far pins of contacts that end where the far pin of an end's own contact does: what
        would lie over them, as the contact that holds a coil lies over its start button.
        """

        for far in across(queries, end, is_contact):
            for member in queries.net(far):
                if member != far:
                    yield from across(queries, member, is_contact)

    def _beside(self, end: PinRef, queries: Queries) -> list[PinRef]:
        """The pins of the ports that the other conductors of an end's plug go to, those that
        nothing is joined to first.
        """
        port = queries.port(end.port_ref)
        found: dict[PinRef, None] = {}
        for pin in port.pins if port else ():
            here = PinRef(device=end.device, port=end.port, pin=pin.id)
            for step in queries.steps(here):
                there = queries.port(step.end.port_ref)
                found |= {replace(step.end, pin=p.id): None for p in (there.pins if there else ())}
        return sorted(found, key=lambda ref: bool(queries.steps(ref)))
