"""Where the windings of a motor end up: on which phase terminals of its driver."""

from itertools import combinations

from vervain.leads.lead_order import Pairing, truths_left
from vervain.leads.motors import leads_port, order_at_driver, printed_coils
from vervain.model.base import Record
from vervain.model.elements import Winding
from vervain.model.machine import PinRef
from vervain.model.measurements import Trial
from vervain.model.ways_back import signal_of
from vervain.queries.connectivity import terminal_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

Coils = tuple[tuple[str, ...], ...]


class WindingEnds(Record, frozen=True, kw_only=True):
    """One winding: its two leads and the driver terminals that they reach."""

    leads: tuple[PinRef, PinRef]
    terminals: tuple[PinRef | None, PinRef | None]
    functions: tuple[str, str]

    @property
    def is_split(self) -> bool:
        """Both ends are joined, and not to the two terminals of one phase."""
        first, second = self.functions
        return bool(first and second) and signal_of(first) != signal_of(second)


@query
def windings_of(queries: Queries, motor: str) -> tuple[WindingEnds, ...]:
    """Every winding of a motor, with the driver terminals that its leads reach."""
    found = []
    for leads in _pairs_of_leads(queries, motor):
        terminals = tuple(terminal_of(queries, lead) for lead in leads)
        functions = tuple(
            pin.function if terminal and (pin := queries.pin(terminal)) else ""
            for terminal in terminals
        )
        found.append(
            WindingEnds(
                leads=leads,
                terminals=(terminals[0], terminals[1]),
                functions=(functions[0], functions[1]),
            )
        )
    return tuple(found)


def tried_coils(trials: tuple[Trial, ...], printed: Coils) -> Coils | None:
    """The coils of four leads by what a motor did in orders of them: `printed` while that may be
    so; else the pairing that is left, none where several are. None where nothing was tried, or
    what was seen contradicts itself.
    """
    trials = tuple(t for t in trials if len(t.order) == 4 and not any("+" in x for x in t.order))
    if not trials:
        return None
    pairings = {truth.pairs for truth in truths_left(trials[-1].order, trials)}
    if not pairings:
        return None
    if frozenset(frozenset(coil) for coil in printed) in pairings:
        return printed
    if len(pairings) > 1:
        return ()
    found = sorted(tuple(sorted(pair)) for pair in next(iter(pairings)))
    return tuple((pair[0], pair[1]) for pair in found)


@query
def measured_pairing(queries: Queries, motor: str) -> Pairing | None:
    """Which two of a motor's four terminals at its driver share a coil, by its measured coils and
    the leads that are joined to each other; None where that was not measured, or is no pairing.
    """
    device, where = queries.device(motor), order_at_driver(queries, motor)
    part = queries.part_of(motor)
    port = leads_port(part) if part else None
    if device is None or port is None or where is None or not device.coils:
        return None
    if device.coils_printed or len(where[1]) != 4:
        return None
    together = [set(coil) for coil in device.coils]
    for lead in (pin.id for pin in port.pins):
        at = PinRef(device=motor, port=port.id, pin=lead)
        together += [{lead, s.end.pin} for s in queries.steps(at) if s.end.port_ref == at.port_ref]
    return _paired(where[1], together)


def _paired(order: tuple[str, ...], together: list[set[str]]) -> Pairing | None:
    reach = {entry: set(entry.split("+")) for entry in order}
    for _ in together:
        for leads in reach.values():
            for group in together:
                if leads & group:
                    leads |= group
    shared = frozenset(
        frozenset(other for other in order if reach[other] & reach[entry]) for entry in order
    )
    return shared if len(shared) == 2 and all(len(pair) == 2 for pair in shared) else None


def _pairs_of_leads(queries: Queries, motor: str) -> list[tuple[PinRef, PinRef]]:
    """The ends of each winding: as measured, where it was; else as the part says, unless what the
    motor did says otherwise.
    """
    device, part = queries.device(motor), queries.part_of(motor)
    if device is None or part is None:
        return []
    port = next((p for p in part.ports if p.kind == "motor phases" and p.end == "device"), None)
    coils = device.coils
    if not coils or device.coils_printed:
        tried = tried_coils(device.trials, device.coils or printed_coils(queries, motor))
        if tried == ():
            return []
        coils = tried or device.coils
    if coils and port is not None:
        return [
            (
                PinRef(device=motor, port=port.id, pin=coil[0]),
                PinRef(device=motor, port=port.id, pin=coil[-1]),
            )
            for coil in coils
        ]
    return [
        (
            PinRef(device=motor, port=element.pins[0][0], pin=element.pins[0][1]),
            PinRef(device=motor, port=element.pins[1][0], pin=element.pins[1][1]),
        )
        for element in part.inside
        if isinstance(element, Winding)
    ]


def exchange_that_mends(
    windings: tuple[WindingEnds, ...], wanted: dict[PinRef, str]
) -> tuple[PinRef, PinRef] | None:
    """Two leads whose exchange leaves no winding split; None where one exchange is not enough.

    `wanted` is the function of each lead by the part. Of several exchanges that mend, the one
    that brings most leads to the terminal of their function is taken, the first among equals.
    """
    landed = {
        lead: function
        for winding in windings
        for lead, function in zip(winding.leads, winding.functions, strict=True)
        if function
    }
    best: tuple[int, tuple[PinRef, PinRef]] | None = None
    for first, second in combinations(landed, 2):
        if signal_of(landed[first]) == signal_of(landed[second]):
            continue
        swapped = {**landed, first: landed[second], second: landed[first]}
        if not all(_phase_ok(winding, swapped) for winding in windings):
            continue
        right = sum(wanted.get(lead) == function for lead, function in swapped.items())
        if best is None or right > best[0]:
            best = right, (first, second)
    return best[1] if best else None


@query
def advised_exchange(queries: Queries, motor: str) -> tuple[PinRef, PinRef] | None:
    """The two leads whose exchange leaves no winding of a motor split; None where none is, or one
    exchange is not enough.
    """
    windings, part = windings_of(queries, motor), queries.part_of(motor)
    if part is None or not any(winding.is_split for winding in windings):
        return None
    wanted = {
        PinRef(device=motor, port=port.id, pin=pin.id): str(pin.function)
        for port in part.ports
        for pin in port.pins
    }
    return exchange_that_mends(windings, wanted)


def _phase_ok(winding: WindingEnds, landed: dict[PinRef, str]) -> bool:
    first, second = (landed.get(lead, "") for lead in winding.leads)
    return not (first and second) or signal_of(first) == signal_of(second)
