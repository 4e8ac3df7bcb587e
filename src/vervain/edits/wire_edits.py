"""Edits of single wires: something put into a wire, or beside what a wire goes to."""

from vervain.edits.hookup_edits import find_hookup
from vervain.edits.plug_edits import is_joined, put_conductor, take_conductor_off
from vervain.model.machine import Machine, PinRef, ends_of
from vervain.model.problem import Problem


def ends_of_wire(machine: Machine, hookup_id: str, row: int) -> tuple[PinRef, PinRef]:
    """The two pins that a conductor of a hookup joins. Raises `Problem` where there is none."""
    hookup = find_hookup(machine, hookup_id)
    if not 0 <= row < len(hookup.conductors):
        raise Problem(f"{hookup_id} has no conductor {row + 1}.")
    return ends_of(hookup, hookup.conductors[row])


def put_into_wire(
    machine: Machine,
    hookup_id: str,
    row: int,
    near_end: PinRef,
    near: PinRef,
    far: PinRef,
    is_at_far_end: bool = False,
) -> Machine:
    """Leads a wire through two pins of a device: a short wire from `near` to the end `near_end`,
    and the rest of the wire, with its cable and core, from `far` on; the other way round where the
    device sits at the far end. Raises `Problem`.
    """
    hookup = find_hookup(machine, hookup_id)
    ends = ends_of_wire(machine, hookup_id, row)
    if near_end not in ends:
        raise Problem(f"The wire does not end at {near_end.device} {near_end.port}.")
    far_end = ends[1] if near_end == ends[0] else ends[0]
    core = hookup.conductors[row].core
    halves = ((far, far_end), (near_end, near))
    rest, short = reversed(halves) if is_at_far_end else halves
    machine = take_conductor_off(machine, hookup_id, row)
    machine = put_conductor(machine, *rest, hookup.cable if core else None, core)
    # Of several wires that go through one device the first has brought the short one.
    is_there = any(is_joined(other, *short) for other in machine.hookups)
    return machine if is_there else put_conductor(machine, *short)


def put_beside(
    machine: Machine, ours: tuple[PinRef, PinRef], theirs: tuple[PinRef, PinRef]
) -> Machine:
    """Joins two pins to two others, first to first: in parallel. Raises `Problem`."""
    for here, there in zip(ours, theirs, strict=True):
        machine = put_conductor(machine, here, there)
    return machine


def move_end(machine: Machine, kept: PinRef, old: PinRef, new: PinRef) -> Machine:
    """Moves the end of a conductor from one pin to another, with its cable and core. Raises
    `Problem` where no conductor joins `kept` and `old`, or `new` is joined to `kept` already.
    """
    for hookup in machine.hookups:
        for row, conductor in enumerate(hookup.conductors):
            if set(ends_of(hookup, conductor)) == {kept, old}:
                cable = hookup.cable if conductor.core else None
                machine = take_conductor_off(machine, hookup.id, row)
                return put_conductor(machine, kept, new, cable, conductor.core)
    raise Problem(f"{kept.device} {kept.port} {kept.pin} is not joined to {old.device} {old.port}.")
