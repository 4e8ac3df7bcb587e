"""Every single fault of the stops: each wire cut, wires shorted that lie together, to the rails and
to earth, plugs pulled, contacts welded, jumpers, sources and controllers lost.
"""

from collections.abc import Iterator
from itertools import combinations, pairwise
from typing import Literal

from vervain.model.base import Record
from vervain.model.connectors import connector_of
from vervain.model.machine import PinRef, PortRef, ends_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.stops.chains import wires_along
from vervain.stops.circuit import Circuit, Wire, port_of_worker
from vervain.stops.compiling import circuit_of
from vervain.stops.nearness import are_safe_terminals, could_touch_rail, is_within_a_box
from vervain.stops.simulation import Conditions

FaultKind = Literal[
    "cut", "short", "to plus", "to minus", "to earth", "unplugged", "welded", "jumper missing",
    "source lost", "controller off", "link lost",
]  # fmt: skip


class Fault(Record, frozen=True, kw_only=True):
    """One fault: what is the matter, with which wires, plug or device. `together` says why two
    wires may touch: the cable, plug or strip that they share.
    """

    kind: FaultKind
    wires: tuple[Wire, ...] = ()
    plug: PortRef | None = None
    device: str = ""
    contact: int = -1
    source: int = -1
    together: str = ""


@query
def stop_wires(queries: Queries) -> frozenset[Wire]:
    """The wires that belong to the stops: those at stop devices, at coils that work contacts, at
    contacts of such coils, at stop inputs, and at what lies in line with them.
    """
    circuit = circuit_of(queries)
    pins = _stop_pins(queries, circuit)
    nets = {queries.net(pin) for pin in pins}
    found = set()
    for wire in circuit.wires:
        hookup = queries.hookup(wire[0])
        if hookup is None:
            continue
        ends = ends_of(hookup, hookup.conductors[wire[1]])
        at_stop = any(end in pins for end in ends)
        in_line = queries.net(ends[0]) in nets and not _is_rail(queries, ends[0])
        if at_stop or in_line:
            found.add(wire)
    return frozenset(found)


@query
def faulty_wires(queries: Queries) -> frozenset[Wire]:
    """The wires whose faults are tried: those of the stops, and every one that is drawn."""
    return stop_wires(queries) | wires_along(queries)


def _stop_pins(queries: Queries, circuit: Circuit) -> frozenset[PinRef]:
    """The pins of stop contacts, of coils, of the contacts that they work, and of stop inputs."""
    coils = {contact.coil for contact in circuit.contacts if contact.coil is not None}
    pins: set[PinRef] = set()
    for contact in circuit.contacts:
        by_button = contact.device in circuit.stops and contact.is_of_button
        by_door = contact.device in circuit.guards and contact.is_of_guard
        if by_button or by_door or contact.is_start or contact.coil is not None:
            pins |= set(contact.pins)
    for entry in circuit.inputs:
        if entry.is_stop:
            port = queries.port(entry.pin.port_ref)
            pins |= {
                PinRef(device=entry.pin.device, port=entry.pin.port, pin=pin.id)
                for pin in (port.pins if port else ())
            }
    for coil in coils:
        port = queries.port(port_of_worker(coil))
        pins |= {coil} if isinstance(coil, PinRef) else {
            PinRef(device=coil.device, port=coil.port, pin=pin.id)
            for pin in (port.pins if port else ())
        }  # fmt: skip
    return frozenset(pins)


def _is_rail(queries: Queries, pin: PinRef) -> bool:
    """Whether a pin lies on the plus or the minus of a source by copper."""
    kinds = {"feed out"}
    return any(
        (port := queries.port(ref.port_ref)) is not None and port.kind in kinds
        for ref in queries.net(pin)
    )


@query
def single_faults(queries: Queries) -> tuple[Fault, ...]:
    """Every single fault of the stops' wires and of what they join."""
    circuit, wires = circuit_of(queries), faulty_wires(queries)
    return (
        *(Fault(kind="cut", wires=(wire,)) for wire in sorted(wires)),
        *_shorts(queries, wires),
        *_to_rails(queries, circuit, wires),
        *_pulled(queries, wires),
        *_welded(circuit),
        *(
            Fault(kind="jumper missing", device=name)
            for name in sorted({name for _, _, name in circuit.jumpers})
        ),
        *(
            Fault(kind="source lost", source=number, device=source.device)
            for number, source in enumerate(circuit.sources)
        ),
        *(
            Fault(kind="controller off", device=name)
            for name in sorted(
                {entry.pin.device for entry in circuit.inputs if entry.is_stop}
                - {monitor.ref.device for monitor in circuit.monitors}
            )
        ),
        *(
            Fault(kind="link lost", device=name)
            for name in sorted({c.device for c in circuit.contacts if c.worked_by == "radio"})
        ),
    )


def _shorts(queries: Queries, wires: frozenset[Wire]) -> Iterator[Fault]:
    """Wires that share a cable, or sit in neighbouring contacts of one plug."""
    cables: dict[str, list[Wire]] = {}
    plugs: dict[PortRef, dict[str, Wire]] = {}
    for wire in sorted(wires):
        hookup = queries.hookup(wire[0])
        if hookup is None:
            continue
        if hookup.cable:
            cables.setdefault(hookup.cable, []).append(wire)
        for pin in ends_of(hookup, hookup.conductors[wire[1]]):
            plugs.setdefault(pin.port_ref, {}).setdefault(pin.pin, wire)
    told: set[frozenset[Wire]] = set()
    for cable, members in cables.items():
        for pair in combinations(members, 2):
            told.add(frozenset(pair))
            yield Fault(kind="short", wires=pair, together=cable)
    for ref, at in plugs.items():
        port = queries.port(ref)
        pins = [] if port is None or are_safe_terminals(queries, ref) else [p.id for p in port.pins]
        for first, second in pairwise(pins):
            if first not in at or second not in at:
                continue
            pair = (at[first], at[second])
            if pair[0] != pair[1] and frozenset(pair) not in told:
                told.add(frozenset(pair))
                yield Fault(kind="short", wires=pair, together=f"{ref.device} {ref.port}")


def _to_rails(queries: Queries, circuit: Circuit, wires: frozenset[Wire]) -> Iterator[Fault]:
    """Wires that touch a rail of the stops, or earth."""
    kinds: list[FaultKind] = ["to plus", "to minus"] if circuit.control >= 0 else []
    if circuit.earth is not None:
        kinds.append("to earth")
    for wire in sorted(wires):
        if is_within_a_box(queries, wire):
            continue
        for kind in kinds:
            if kind == "to earth" or could_touch_rail(queries, wire, kind == "to plus"):
                yield Fault(kind=kind, wires=(wire,))


def _pulled(queries: Queries, wires: frozenset[Wire]) -> Iterator[Fault]:
    """Plugs that can be pulled with several of the wires; terminals are not pulled."""
    found: dict[PortRef, list[Wire]] = {}
    for wire in sorted(wires):
        hookup = queries.hookup(wire[0])
        for ref in (hookup.a, hookup.b) if hookup else ():
            found.setdefault(ref, []).append(wire)
    for ref, members in found.items():
        port = queries.port(ref)
        kind = connector_of(port.connector) if port else None
        if kind is not None and not kind.family.takes_wires:
            yield Fault(kind="unplugged", plug=ref, wires=tuple(members))


def _welded(circuit: Circuit) -> Iterator[Fault]:
    """Contacts that carry power weld; those of a stop, a door, a start button may stick closed."""
    for number, contact in enumerate(circuit.contacts):
        by_button = contact.device in circuit.stops and contact.coil is None and contact.is_nc
        by_coil = contact.coil is not None and not contact.is_nc
        by_door = contact.device in circuit.guards and contact.is_of_guard
        if by_button or by_coil or by_door or contact.is_start:
            yield Fault(kind="welded", device=contact.device, contact=number)


def is_in(circuit: Circuit, fault: Fault) -> bool:
    """Whether what a fault is about is still there in a circuit: its wires, its contact, its
    source; these go by numbers, which are others once the machine is another.
    """
    contacts, sources = circuit.contacts, circuit.sources
    has_contact = fault.contact < 0 or (
        fault.contact < len(contacts) and contacts[fault.contact].device == fault.device
    )
    has_source = fault.source < 0 or (
        fault.source < len(sources) and sources[fault.source].device == fault.device
    )
    return has_contact and has_source and all(wire in circuit.wires for wire in fault.wires)


def conditions_of(circuit: Circuit, *faults: Fault) -> Conditions:
    """The conditions under which a circuit is with some faults."""
    cut: set[Wire] = set()
    joined: set[tuple[int, int]] = set()
    welded: set[int] = set()
    out: set[str] = set()
    lost: set[int] = set()
    off: set[str] = set()
    links: set[str] = set()
    for fault in faults:
        ends = [circuit.wires[wire][0] for wire in fault.wires if wire in circuit.wires]
        match fault.kind:
            case "cut" | "unplugged":
                cut |= set(fault.wires)
            case "short" if len(ends) == 2:
                joined.add((ends[0], ends[1]))
            case "to plus" | "to minus" if ends:
                source = circuit.sources[circuit.control]
                joined.add((ends[0], source.plus if fault.kind == "to plus" else source.minus))
            case "to earth" if ends and circuit.earth is not None:
                joined.add((ends[0], circuit.earth))
            case "welded":
                welded.add(fault.contact)
            case "jumper missing":
                out.add(fault.device)
            case "source lost":
                lost.add(fault.source)
            case "controller off":
                off.add(fault.device)
            case "link lost":
                links.add(fault.device)
            case _:
                pass
    return Conditions(
        cut=frozenset(cut), joined=frozenset(joined), welded=frozenset(welded),
        without_jumpers=frozenset(out), lost_sources=frozenset(lost), off=frozenset(off),
        without_link=frozenset(links),
    )  # fmt: skip
