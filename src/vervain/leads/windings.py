"""Where the windings of a motor end up: on which phase terminals of its driver."""

from itertools import combinations

from vervain.model.base import Record
from vervain.model.elements import Winding
from vervain.model.machine import PinRef
from vervain.queries.connectivity import terminal_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


class WindingEnds(Record, frozen=True, kw_only=True):
    """One winding: its two leads and the driver terminals that they reach."""

    leads: tuple[PinRef, PinRef]
    terminals: tuple[PinRef | None, PinRef | None]
    functions: tuple[str, str]

    @property
    def is_split(self) -> bool:
        """Both ends are joined, and not to the two terminals of one phase."""
        first, second = self.functions
        return bool(first and second) and _phase(first) != _phase(second)


def _phase(function: str) -> str:
    """The phase of a two-phase terminal: "phase A+" is of phase A."""
    return function.rstrip("+-")


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


def _pairs_of_leads(queries: Queries, motor: str) -> list[tuple[PinRef, PinRef]]:
    """The ends of each winding: as measured, where it was; else as the part says."""
    device, part = queries.device(motor), queries.part_of(motor)
    if device is None or part is None:
        return []
    port = next((p for p in part.ports if p.kind == "motor phases" and p.end == "device"), None)
    if device.coils and port is not None:
        return [
            (
                PinRef(device=motor, port=port.id, pin=coil[0]),
                PinRef(device=motor, port=port.id, pin=coil[-1]),
            )
            for coil in device.coils
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
        if _phase(landed[first]) == _phase(landed[second]):
            continue
        swapped = {**landed, first: landed[second], second: landed[first]}
        if not all(_phase_ok(winding, swapped) for winding in windings):
            continue
        right = sum(wanted.get(lead) == function for lead, function in swapped.items())
        if best is None or right > best[0]:
            best = right, (first, second)
    return best[1] if best else None


def _phase_ok(winding: WindingEnds, landed: dict[PinRef, str]) -> bool:
    first, second = (landed.get(lead, "") for lead in winding.leads)
    return not (first and second) or _phase(first) == _phase(second)
