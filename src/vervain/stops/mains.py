"""Where mains comes into a machine, seen from what takes it."""

from collections.abc import Collection, Iterator
from itertools import combinations
from typing import NamedTuple

from vervain.electrical.mains import lines_of_taker, mains_entries
from vervain.model.elements import Bridge, Contact, Element, Fuse
from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import nets_reached
from vervain.queries.machine_queries import Queries
from vervain.stops.circuit import COIL_PORTS, Worker


class MainsLoad(NamedTuple):
    """What takes mains: its port, the two pins that it takes it by, and the pairs of pins where it
    comes in for them. `works` says that it is a coil. A three-phase motor is three of them, one
    between every two of its phases.
    """

    at: PortRef
    line: PinRef
    back: PinRef
    entries: tuple[tuple[PinRef, PinRef], ...]
    works: bool = False
    is_three_phase: bool = False


def mains_loads(queries: Queries, workers: Collection[Worker]) -> Iterator[MainsLoad]:
    """Everything that mains comes to."""
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part else ():
            poles = {pin.function: pin for pin in port.pins}
            if port.end != "device" or not {"line", "neutral"} <= poles.keys():
                continue
            line = PinRef(device=device, port=port.id, pin=poles["line"].id)
            neutral = PinRef(device=device, port=port.id, pin=poles["neutral"].id)
            works = port.kind in COIL_PORTS and line.port_ref in workers
            entry = mains_entry(queries, line, neutral)
            if entry is None and works:
                entry = mains_entry(queries, line, neutral, by_buttons=True)
            if entry is not None:
                yield MainsLoad(line.port_ref, line, neutral, (entry,), works)
        yield from _between_phases(queries, device)


def _between_phases(queries: Queries, motor: str) -> Iterator[MainsLoad]:
    """The windings of a three-phase motor at the mains, each between two of its phases, which have
    any two of the lines that come in together.
    """
    phases = [phase for phase, lines in lines_of_taker(queries, motor).items() if lines]
    for one, other in combinations(phases, 2):
        roots = [
            root
            for phase in (one, other)
            for root in _ends(queries, phase, "line", by_buttons=True)
        ]
        at_entry = {root: root.port_ref for root in reversed(roots)}
        entries = tuple((a, b) for a, b in combinations(at_entry, 2) if at_entry[a] == at_entry[b])
        yield MainsLoad(one.port_ref, one, other, entries, is_three_phase=True)


def mains_entry(
    queries: Queries, line: PinRef, neutral: PinRef, by_buttons: bool = False
) -> tuple[PinRef, PinRef] | None:
    """Where mains comes in for a device: by what brings it into the machine, else the farthest line
    and neutral, through fuses and contacts that a coil or a stop works, `by_buttons` through those
    that a hand closes as well. A switch by hand is on while the machine is at work.
    """
    backs = _ends(queries, neutral, "neutral", by_buttons)
    farthest = reversed(_ends(queries, line, "line", by_buttons))
    # What hangs beside it behind a contact is as far away, and brings nothing.
    entries = mains_entries(queries)
    for root in sorted(farthest, key=lambda ref: ref not in entries):
        back = next((ref for ref in backs if ref.port_ref == root.port_ref), None)
        if back is not None:
            return root, back
    return None


def _ends(queries: Queries, start: PinRef, function: str, by_buttons: bool = False) -> list[PinRef]:
    """The pins for one pole of the mains where it comes in or goes on, nearest to a pin first."""

    def passes(device: str, element: Element) -> bool:
        if isinstance(element, Contact):
            part = queries.part_of(device)
            is_button = by_buttons and part is not None and part.kind == "switch"
            return is_button or element.worked_by != "hand" or element.rest == "NC"
        return isinstance(element, Fuse | Bridge)

    return [
        ref
        for net in nets_reached(queries, [start], passes)
        for ref in net
        if (pin := queries.pin(ref)) is not None and pin.function == function
        and (port := queries.port(ref.port_ref)) is not None and port.end != "device"
    ]  # fmt: skip
