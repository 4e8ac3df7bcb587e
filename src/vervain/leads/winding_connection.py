"""How a motor's windings are used: half coil, series (full coil) or parallel, and what follows."""

import math
from typing import Literal, NamedTuple

from msgspec.structs import replace

from vervain.leads.motors import leads_port, open_windings
from vervain.leads.phases import Ends, Phases, phases_of
from vervain.model.base import Record
from vervain.model.elements import Winding
from vervain.model.machine import PinRef
from vervain.model.part import Part
from vervain.queries.connectivity import steps_from, terminal_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

UseKind = Literal["half coil", "series", "parallel", "star", "delta"]
USES: tuple[UseKind, ...] = ("half coil", "series", "parallel")
USE_WORDS = {
    "half coil": "half coil: quick, less torque; half of the copper lies idle",
    "series": "full coil, in series: least current, slow at speed",
    "parallel": "in parallel: quick and strong, most current",
}


class Use(Record, frozen=True, kw_only=True):
    """A way to use the windings: resistance, inductance, RMS current and voltage of one phase, each
    where it is known.
    """

    kind: UseKind
    current_a: float | None
    resistance_ohm: float | None = None
    inductance_h: float | None = None

    @property
    def voltage_v(self) -> float | None:
        """Rated voltage of one phase: current times resistance."""
        if self.current_a is None or self.resistance_ohm is None:
            return None
        return self.current_a * self.resistance_ohm


class Plan(NamedTuple):
    """Where every lead goes: leads by terminal function, leads joined to each other, leads that
    are insulated singly.
    """

    terminals: dict[str, tuple[str, ...]]
    joints: tuple[tuple[str, str], ...]
    insulated: tuple[str, ...]


def unipolar_current_a(rated_a: float, rated: str) -> float:
    """The rating of one winding from the maker's: series x sqrt2, parallel / sqrt2.

    Equal heat: two windings in series carry the same current at twice the resistance, two in
    parallel half of it each, so P = 2 I^2 R fixes the ratio.
    """
    if rated == "series":
        return rated_a * math.sqrt(2)
    if rated == "parallel":
        return rated_a / math.sqrt(2)
    return rated_a


def use_of(
    kind: UseKind, unipolar_a: float | None, winding_ohm: float | None, winding_h: float | None
) -> Use:
    """Half coil: R, L, I_u. Series: 2R, 4L, I_u/sqrt2. Parallel: R/2, L, I_u*sqrt2.

    The windings of a phase are taken as fully coupled: in series the turns double and L is four
    times as large; in parallel the turns, and L, stay.
    """
    ohm, henry, current = {
        "half coil": (1.0, 1.0, 1.0),
        "series": (2.0, 4.0, 1 / math.sqrt(2)),
        "parallel": (0.5, 1.0, math.sqrt(2)),
    }[kind]
    return Use(
        kind=kind,
        current_a=unipolar_a * current if unipolar_a is not None else None,
        resistance_ohm=winding_ohm * ohm if winding_ohm is not None else None,
        inductance_h=winding_h * henry if winding_h is not None else None,
    )


@query
def uses_of(queries: Queries, motor: str) -> tuple[Use, ...]:
    """The uses that a motor's leads allow: 6 leads half coil or series, 8 leads all three."""
    part, phases = queries.part_of(motor), phases_of(queries, motor)
    if part is None or part.stepper is None or phases is None or len(phases.first) != 2:
        return ()
    winding = next((e for e in part.inside if isinstance(e, Winding)), None)
    port = leads_port(part)
    count = len(port.pins) if port else 0
    kinds = {6: USES[:2], 8: USES}.get(count, ())
    rated_a = part.stepper.current_a
    unipolar = unipolar_current_a(rated_a, part.stepper.rated) if rated_a is not None else None
    return tuple(
        use_of(
            kind,
            unipolar,
            winding.resistance_ohm if winding else None,
            winding.inductance_h if winding else None,
        )
        for kind in kinds
    )


def plan_of(phases: Phases, kind: UseKind) -> Plan:
    """Where the leads go for a use of two windings a phase. A tap is the end of one winding and
    the start of the other at once.
    """
    terminals: dict[str, tuple[str, ...]] = {}
    joints: list[tuple[str, str]] = []
    insulated: list[str] = []
    for letter, windings in (("A", phases.first), ("B", phases.second)):
        (start, end), (start_2, end_2) = windings
        plus, minus = f"phase {letter}+", f"phase {letter}-"
        if kind == "half coil":
            terminals[plus], terminals[minus] = (start,), (end,)
            insulated += [lead for lead in (start_2, end_2) if lead != end]
        elif kind == "series":
            terminals[plus], terminals[minus] = (start,), (end_2,)
            if end == start_2:
                insulated.append(end)
            else:
                joints.append((end, start_2))
        else:
            terminals[plus], terminals[minus] = (start, start_2), (end, end_2)
    return Plan(terminals, tuple(joints), tuple(insulated))


def terminal_function(queries: Queries, motor: str, lead: str) -> str:
    """The function of the driver terminal that a lead reaches; empty where it reaches none."""
    part = queries.part_of(motor)
    port = leads_port(part) if part else None
    if port is None:
        return ""
    terminal = terminal_of(queries, PinRef(device=motor, port=port.id, pin=lead))
    pin = queries.pin(terminal) if terminal else None
    return pin.function if pin else ""


def _joined_together(queries: Queries, motor: str, one: str, two: str) -> bool:
    """Whether two leads of a motor are joined to each other: the tap is one lead, or a splice."""
    if one == two:
        return True
    part = queries.part_of(motor)
    port = leads_port(part) if part else None
    first = PinRef(device=motor, port=port.id if port else "", pin=one)
    second = PinRef(device=motor, port=port.id if port else "", pin=two)
    return any(step.end == second for step in steps_from(queries, first))


@query
def wired_use(queries: Queries, motor: str) -> UseKind | None:
    """The use that the leads are wired for; None where the phases differ, or it is none of them."""
    phases = phases_of(queries, motor)
    if phases is None or len(phases.first) != 2 or len(phases.second) != 2:
        return None
    found = {_use_of_phase(queries, motor, windings) for windings in phases}
    return next(iter(found)) if len(found) == 1 else None


def _use_of_phase(queries: Queries, motor: str, windings: tuple[Ends, ...]) -> UseKind | None:
    (start, end), (start_2, end_2) = windings
    ends = [terminal_function(queries, motor, lead) for lead in (start, end, start_2, end_2)]
    if end == start_2:
        # Three leads: the tap is both.
        outer, tap = [ends[0], ends[3]], ends[1]
        if all(outer) and not tap:
            return "series"
        return "half coil" if tap and sum(map(bool, outer)) == 1 else None
    if all(ends):
        return "parallel" if {ends[0], ends[1]} == {ends[2], ends[3]} else None
    for one, two, between in (
        (ends[0], ends[3], (end, start_2)),
        (ends[0], ends[2], (end, end_2)),
        (ends[1], ends[3], (start, start_2)),
        (ends[1], ends[2], (start, end_2)),
    ):
        if one and two and _joined_together(queries, motor, *between):
            return "series"
    pairs = (bool(ends[0] and ends[1]), bool(ends[2] and ends[3]))
    return "half coil" if sum(pairs) == 1 and sum(map(bool, ends)) == 2 else None


@query
def motor_use(queries: Queries, motor: str) -> Use | None:
    """The figures of one phase as wired, of three phases those between two terminals. For a motor
    with one winding a phase, its own; None where there is no such motor or no rating.
    """
    part = queries.part_of(motor)
    if part is None or part.stepper is None:
        return None
    if part.stepper.phases == 3:
        return _three_phase_use(queries, motor, part)
    kind = wired_use(queries, motor)
    opposed = bool(reversed_windings(queries, motor))
    for use in uses_of(queries, motor):
        if use.kind == kind:
            # Given as wired the current is for this use; what the windings have follows from it.
            if part.stepper.rated == "as wired":
                use = replace(use, current_a=part.stepper.current_a)
            # The fluxes of two windings that work against each other cancel: N1 I - N2 I.
            return replace(use, inductance_h=0.0) if opposed else use
    winding = next((e for e in part.inside if isinstance(e, Winding)), None)
    return Use(
        kind=kind or "half coil",
        current_a=part.stepper.current_a,
        resistance_ohm=winding.resistance_ohm if winding else None,
        inductance_h=winding.inductance_h if winding else None,
    )


def _three_phase_use(queries: Queries, motor: str, part: Part) -> Use | None:
    """Between two terminals: two windings in series in a star; in a delta one beside the other two,
    2/3 of it, and sqrt(3) of a winding's current in the line. Three leads are given as a delta.
    """
    if part.stepper is None:
        return None
    rated_a = part.stepper.current_a
    ends = open_windings(queries, motor)
    kind: UseKind = "star" if ends and not _is_delta(queries, motor, ends) else "delta"
    factor = 2.0 if kind == "star" else 2 / 3
    line = math.sqrt(3) if ends and kind == "delta" else 1.0
    winding = next((e for e in part.inside if isinstance(e, Winding)), None)
    henry = winding.inductance_h if winding else None
    ohm = winding.resistance_ohm if winding else None
    return Use(
        kind=kind,
        current_a=rated_a * line if rated_a is not None else None,
        resistance_ohm=ohm * factor if ohm is not None else None,
        inductance_h=henry * factor if henry is not None else None,
    )


def _is_delta(queries: Queries, motor: str, windings: tuple[Ends, ...]) -> bool:
    """Whether both ends of every winding lie on terminals of the driver."""
    return all(terminal_function(queries, motor, lead) for ends in windings for lead in ends)


@query
def left_open(queries: Queries, motor: str) -> tuple[str, ...]:
    """The leads that the wired use leaves open; they are insulated, each on its own."""
    phases, kind = phases_of(queries, motor), wired_use(queries, motor)
    if phases is None or kind is None:
        return ()
    return tuple(
        lead
        for windings in phases
        for lead in dict.fromkeys(lead for winding in windings for lead in winding)
        if not terminal_function(queries, motor, lead)
        and not any(
            _joined_together(queries, motor, lead, other)
            for winding in windings
            for other in winding
            if other != lead
        )
    )


@query
def reversed_windings(queries: Queries, motor: str) -> tuple[Ends, ...]:
    """Windings that work against the other of their phase: their fluxes cancel."""
    phases, kind = phases_of(queries, motor), wired_use(queries, motor)
    found = []
    for windings in phases if phases and kind in ("series", "parallel") else ():
        (start, end), (start_2, end_2) = windings
        if kind == "parallel":
            against = terminal_function(queries, motor, start) != terminal_function(
                queries, motor, start_2
            )
        else:
            against = end != start_2 and (
                _joined_together(queries, motor, end, end_2)
                or _joined_together(queries, motor, start, start_2)
            )
        if against:
            found.append((start_2, end_2))
    return tuple(found)
