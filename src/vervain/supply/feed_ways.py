"""What a feed can go by: fuses, contacts and strips that nothing is joined to yet, and free outlets
behind those that are in use.
"""

from msgspec.structs import replace

from vervain.electrical.feeds import consumers_of
from vervain.model.base import Record
from vervain.model.connectors import connector_of
from vervain.model.elements import Bridge, Contact, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import Part
from vervain.ports.called_alike import is_its_name
from vervain.ports.contactor_loads import lines_of, load_of_contactor
from vervain.queries.connectivity import steps_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_inputs import Purpose, purpose_of
from vervain.supply.feed_sources import FeedSource
from vervain.supply.states import feed_table
from vervain.supply.stop_contacts import contact_ends, contacts_that_rest
from vervain.text.name_words import name_words, says

Pair = tuple[PinRef, PinRef]


class MainContact(Record, frozen=True, kw_only=True):
    """A contact of a contactor that power can go through: its ends and what it bears."""

    near: PinRef
    far: PinRef
    current_max_a: float | None
    v_max_v: float | None

    def bears(self, volts: float, current_a: float) -> bool:
        """Whether it switches a current at a voltage; what is not given is taken to be enough."""
        return (self.current_max_a is None or self.current_max_a >= current_a) and (
            self.v_max_v is None or self.v_max_v >= volts
        )


class Strip(Record, frozen=True, kw_only=True):
    """A strip with a plus and a 0 V at each terminal: one that is there, or a part to add."""

    pairs: tuple[Pair, ...]
    part: Part | None = None

    def of_device(self, designator: str) -> "Strip":
        """The same terminals at the device that the part became."""
        pairs = tuple(
            (replace(a, device=designator), replace(b, device=designator)) for a, b in self.pairs
        )
        return Strip(pairs=pairs)


def fuses_for_mains(queries: Queries) -> list[str]:
    """The fuses, or breakers, that nothing is joined to and that are called after the mains, in a
    machine that takes them; none that has the name of one load.
    """
    parts = (queries.part_of(name) for name in queries.devices())
    ports = (port for part in parts if part is not None for port in part.ports)
    if not any(pin.function == "line" for port in ports for pin in port.pins):
        return []
    of_loads = _fuses_of_loads(queries)
    return [
        name
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "fuse"
        and (device := queries.device(name)) is not None and not queries.hookups_of(name)
        and says(f"{device.name} / {part.title}", name_words().mains_fuse)
        and bears_mains(part) and name not in of_loads
    ]  # fmt: skip


@query
def _fuses_of_loads(queries: Queries) -> frozenset[str | None]:
    """The breakers and fuses at mains that have the name of one load each."""
    return frozenset(fuse_of_load(queries, load) for load in queries.devices())


@query
def fuse_of_load(queries: Queries, load: str) -> str | None:
    """The one breaker, or fuse, that bears mains and has the name of a load at mains, with a pole
    for each of its lines, and no more than its neutral wants; None where there is none.
    """
    lines = [
        pin for ref in lines_of(queries, load)
        if (pin := queries.pin(ref)) is not None
        and (port := queries.port(ref.port_ref)) is not None and port.end == "device"
    ]  # fmt: skip
    count = sum(pin.function != "neutral" for pin in lines)
    found = [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "fuse"
        and (device := queries.device(name)) is not None and not queries.hookups_of(name)
        and is_its_name(queries, load, device.name) and bears_mains(part)
        and 0 < count <= sum(isinstance(e, Fuse) for e in part.inside) <= len(lines)
    ]  # fmt: skip
    return found[0] if len(found) == 1 else None


def bears_mains(part: Part) -> bool:
    """Whether every fuse of a part breaks the volts of the mains, as far as is given."""
    fuses = (element for element in part.inside if isinstance(element, Fuse))
    return all(fuse.v_max_v is None or fuse.v_max_v >= feed_table().mains_v for fuse in fuses)


def fresh_fuses(queries: Queries) -> list[Pair]:
    """The fuses of the machine that nothing is joined to, by their two ends; none for mains."""
    found = []
    for_mains = {*fuses_for_mains(queries), *_fuses_of_loads(queries)}
    for name in queries.devices():
        part = queries.part_of(name)
        if name in for_mains:
            continue
        for element in part.inside if part is not None and part.kind == "fuse" else ():
            if isinstance(element, Fuse) and not queries.hookups_of(name):
                a, b = (PinRef(device=name, port=port, pin=pin) for port, pin in element.pins)
                found.append((a, b))
    return found


def fresh_contacts(queries: Queries) -> list[MainContact]:
    """Of each contactor the strongest contact that closes when it is worked, where both ends are
    free; none of one that is for a single load.
    """
    found = []
    for name in queries.devices():
        part = queries.part_of(name)
        if load_of_contactor(queries, name) is not None:
            continue
        best: MainContact | None = None
        for element in part.inside if part is not None and part.kind == "contactor" else ():
            if not isinstance(element, Contact) or element.rest != "NO":
                continue
            near, far = (PinRef(device=name, port=port, pin=pin) for port, pin in element.pins)
            if steps_from(queries, near) or steps_from(queries, far):
                continue
            contact = MainContact(
                near=near, far=far, current_max_a=element.current_max_a, v_max_v=element.v_max_v
            )
            if best is None or (contact.current_max_a or 0) > (best.current_max_a or 0):
                best = contact
        if best is not None:
            found.append(best)
    return found


def fresh_stop_contacts(queries: Queries) -> list[MainContact]:
    """Of each stop a contact that opens and that nothing is joined to, where stops have nothing
    else to work that takes power away: no contactor, no safety relay, no stop input of a drive.
    """
    parts = [queries.part_of(name) for name in queries.devices()]
    works = any(
        part is not None
        and (
            part.is_safety_relay
            or (part.kind != "controller" and any(port.kind == "stop input" for port in part.ports))
        )
        for part in parts
    )
    works = works or any(
        part is not None and part.kind == "contactor" and load_of_contactor(queries, name) is None
        for name, part in zip(queries.devices(), parts, strict=True)
    )
    found = []
    for name, part in zip(queries.devices(), parts, strict=True):
        if works or part is None or part.kind != "emergency stop":
            continue
        opens = contacts_that_rest(part, "NC")
        free = [e for e in opens if not any(steps_from(queries, r) for r in contact_ends(name, e))]
        if not free:
            return []
        near, far = contact_ends(name, free[0])
        found.append(
            MainContact(
                near=near, far=far,
                current_max_a=free[0].current_max_a or 0.0, v_max_v=free[0].v_max_v,
            )
        )  # fmt: skip
    return found


def strip_pairs(part: Part, designator: str) -> tuple[Pair, ...]:
    """The plus and 0 V of each terminal of a strip, of its largest bar."""
    if part.kind != "terminal strip":
        return ()
    bars = [set(e.pins) for e in part.inside if isinstance(e, Bridge) and e.when is None]
    pairs: list[tuple[int, Pair]] = []
    for port in part.ports:
        plus = next((p for p in port.pins if p.function == "plus"), None)
        zero = next((p for p in port.pins if p.function == "zero"), None)
        if plus is None or zero is None:
            continue
        bar = next((n for n, pins in enumerate(bars) if (port.id, plus.id) in pins), -1)
        a, b = (PinRef(device=designator, port=port.id, pin=pin.id) for pin in (plus, zero))
        pairs.append((bar, (a, b)))
    numbers = [number for number, _ in pairs]
    largest = max(numbers, key=numbers.count, default=-1)
    return tuple(pair for number, pair in pairs if number == largest)


def strip_bears(part: Part, current_a: float, area_mm2: float) -> bool:
    """Whether a strip bears a current in its bars and in the terminal where it comes in, and takes
    a core of that cross-section; what is not given is taken to be enough.
    """
    if part.bar_max_a is not None and part.bar_max_a < current_a:
        return False
    for port in part.ports:
        connector = connector_of(port.connector)
        if connector is None:
            continue
        most_a, takes = connector.contact_max_a, connector.takes_mm2
        if most_a is not None and most_a < current_a:
            return False
        if takes is not None and takes[1] < area_mm2:
            return False
    return True


def fresh_strip(
    queries: Queries, shelf: tuple[Part, ...], count: int, current_a: float, area_mm2: float
) -> Strip | None:
    """A strip of at least so many terminals that bears a current and takes a core: one of the
    machine that nothing is joined to, else the smallest part of the machine or of a shelf; None
    where there is none.
    """
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or queries.hookups_of(name):
            continue
        pairs = strip_pairs(part, name)
        if len(pairs) >= count and strip_bears(part, current_a, area_mm2):
            return Strip(pairs=pairs)
    known = {part.id: part for part in (*queries.machine.parts, *shelf)}
    fitting = [
        (len(pairs), part.bar_max_a or 0.0, part)
        for part in known.values()
        if len(pairs := strip_pairs(part, "")) >= count and strip_bears(part, current_a, area_mm2)
    ]
    if not fitting:
        return None
    part = min(fitting, key=lambda row: row[:2])[2]
    return Strip(pairs=strip_pairs(part, ""), part=part)


def outlets_behind(queries: Queries, source: FeedSource, purpose: Purpose) -> list[Pair]:
    """The free terminals of strips from which what serves one purpose is fed from a source."""
    fed = {
        taker.pin
        for taker in consumers_of(queries, source.plus)
        if purpose_of(queries, taker.pin.device) == purpose
    }
    return [
        (plus, minus)
        for name in queries.devices()
        for plus, minus in free_pairs(queries, name)
        if fed & set(queries.net(plus)) and source.minus in queries.rail(minus)
    ]


def plus_behind(queries: Queries, source: FeedSource, purpose: Purpose) -> PinRef | None:
    """The plus of a strip from which what serves one purpose is fed from a source, the one to which
    the fewest wires come; None where there is no strip.
    """
    fed = {
        taker.pin
        for taker in consumers_of(queries, source.plus)
        if purpose_of(queries, taker.pin.device) == purpose
    }
    found = [
        plus
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        for plus, _ in strip_pairs(part, name)
        if fed & set(queries.net(plus))
    ]
    return min(found, key=lambda plus: len(steps_from(queries, plus)), default=None)


def free_pairs(queries: Queries, device: str) -> list[Pair]:
    """The terminals of a strip at which neither plus nor 0 V is taken."""
    part = queries.part_of(device)
    return [
        (plus, minus)
        for plus, minus in (strip_pairs(part, device) if part is not None else ())
        if not steps_from(queries, plus) and not steps_from(queries, minus)
    ]
