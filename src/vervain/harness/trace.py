"""The whole path of one conductor, end to end: pins, cores, leads, connectors."""

from vervain.harness.labels import conductor_labels
from vervain.harness.lengths import cable_length_m
from vervain.model.base import Record
from vervain.model.machine import PinRef, ends_of
from vervain.queries.connectivity import is_joint, joined_inside, steps_from
from vervain.queries.machine_queries import Queries
from vervain.queries.step import Step


class TraceSegment(Record, frozen=True, kw_only=True):
    """One conductor on the way: its label, colour, cross-section and length, if they are known."""

    start: PinRef
    end: PinRef
    hookup: str
    row: int = 0
    label: str = ""
    colour: str | None = None
    area_mm2: float | None = None
    length_m: float | None = None
    is_lead: bool = False


class Trace(Record, frozen=True, kw_only=True):
    """Stretches from one end to the other; `branches` counts the others that leave it midway."""

    stretches: tuple[TraceSegment, ...]
    branches: int = 0

    @property
    def length_m(self) -> float | None:
        """The sum of the known lengths; None where none is known."""
        known = [stretch.length_m for stretch in self.stretches if stretch.length_m is not None]
        return sum(known) if known else None


def trace_of_conductor(queries: Queries, hookup_id: str, row: int) -> Trace | None:
    """The path that a conductor is part of, the control side first."""
    hookup = queries.hookup(hookup_id)
    if hookup is None or row >= len(hookup.conductors):
        return None
    conductor = hookup.conductors[row]
    a, b = ends_of(hookup, conductor)
    middle = Step(start=a, end=b, hookup=hookup_id, conductor=conductor)
    before, left = _onwards(queries, a, b)
    after, right = _onwards(queries, b, a)
    steps = [_turned(step) for step in reversed(before)] + [middle] + after
    if _comes_last(queries, steps[0].start, steps[-1].end):
        steps = [_turned(step) for step in reversed(steps)]
    return Trace(stretches=tuple(_stretch(queries, step) for step in steps), branches=left + right)


def trace_of_pin(queries: Queries, pin: PinRef) -> Trace | None:
    """The path of the first conductor at a pin; None where nothing is joined to it."""
    for step in steps_from(queries, pin):
        hookup = queries.hookup(step.hookup)
        if hookup is not None:
            return trace_of_conductor(queries, step.hookup, hookup.conductors.index(step.conductor))
    return None


def _onwards(queries: Queries, pin: PinRef, came_from: PinRef) -> tuple[list[Step], int]:
    """Steps beyond a pin while it is a connector's; how many other ways were passed by."""
    steps: list[Step] = []
    branches = 0
    seen = {pin, came_from}
    while is_joint(queries, pin.device):
        onward = [
            step
            for other in joined_inside(queries, pin)
            for step in steps_from(queries, other)
            if step.end not in seen
        ]
        if not onward:
            break
        branches += len(onward) - 1
        steps.append(onward[0])
        pin = onward[0].end
        seen.add(pin)
    return steps, branches


def _turned(step: Step) -> Step:
    return Step(start=step.end, end=step.start, hookup=step.hookup, conductor=step.conductor)


def _comes_last(queries: Queries, first: PinRef, last: PinRef) -> bool:
    """Whether a path should be turned round so that the control side is first."""
    order = {"host": 0, "through": 1, "device": 2}
    sides = []
    for ref in (first, last):
        port = queries.port(ref.port_ref)
        sides.append(3 if port is None or is_joint(queries, ref.device) else order[port.end])
    return sides[0] > sides[1]


def _stretch(queries: Queries, step: Step) -> TraceSegment:
    hookup = queries.hookup(step.hookup)
    row = hookup.conductors.index(step.conductor) if hookup else 0
    cable = queries.cable(hookup.cable) if hookup and hookup.cable else None
    cable_part = queries.cable_part(cable.part) if cable else None
    named = conductor_labels(queries, step.hookup, row)
    label = named.at_a if named else ""
    if cable is not None and cable_part is not None:
        core = step.conductor.core
        colour = cable_part.cores[core - 1] if core and core <= len(cable_part.cores) else None
        return TraceSegment(
            start=step.start,
            end=step.end,
            hookup=step.hookup,
            row=row,
            label=label,
            colour=colour,
            area_mm2=cable_part.core_mm2,
            length_m=cable_length_m(queries, cable.id),
        )
    for ref in (step.start, step.end):
        pin, port = queries.pin(ref), queries.port(ref.port_ref)
        if pin is not None and port is not None and pin.lead is not None:
            return TraceSegment(
                start=step.start,
                end=step.end,
                hookup=step.hookup,
                row=row,
                label=label,
                colour=pin.lead,
                area_mm2=port.lead_mm2,
                length_m=port.lead_length_m or None,
                is_lead=True,
            )
    return TraceSegment(start=step.start, end=step.end, hookup=step.hookup, row=row, label=label)
