"""Edits of cores: which core a conductor goes by, and whether it goes by a cable at all."""

from msgspec.structs import replace

from vervain.edits.cable_edits import find_cable, used_cores
from vervain.edits.common import swapped
from vervain.edits.hookup_edits import add_hookup, find_hookup, set_conductors
from vervain.edits.plug_edits import take_conductor_off
from vervain.model.machine import Conductor, Hookup, Machine
from vervain.model.problem import Problem


def colours_of_cable(machine: Machine, cable_id: str) -> tuple[str, ...]:
    """The colours of a cable's cores in their order. Raises `Problem` where there is none."""
    part_id = find_cable(machine, cable_id).part
    part = next((part for part in machine.cable_parts if part.id == part_id), None)
    return part.cores if part is not None else ()


def core_written(machine: Machine, cable_id: str, text: str) -> int:
    """The core of a cable that a text means: its number, or its colour where one core has it.
    Raises `Problem`.
    """
    colours, wanted = colours_of_cable(machine, cable_id), text.strip().upper()
    if wanted.isdecimal() and 1 <= int(wanted) <= len(colours):
        return int(wanted)
    found = [number for number, colour in enumerate(colours, 1) if colour == wanted]
    if len(found) == 1:
        return found[0]
    several = f"{len(found)} cores of {cable_id} are {wanted}." if found else ""
    raise Problem(
        several or f"{cable_id} has no core “{text[:20]}”.",
        remedy=f"Its cores are 1 to {len(colours)}: {', '.join(colours)}.",
    )


def give_core(machine: Machine, hookup_id: str, row: int, core: int) -> Machine:
    """Lets a conductor go by another core of its cable; what goes by that one takes the core that
    becomes free. Raises `Problem` where it goes by no cable.
    """
    hookup = find_hookup(machine, hookup_id)
    if hookup.cable is None:
        raise Problem("This conductor goes by no cable.", remedy="Lay it in one first.")
    if not 1 <= core <= len(colours_of_cable(machine, hookup.cable)):
        raise Problem(f"{hookup.cable} has no core {core}.")
    before = hookup.conductors[row].core
    found = []
    for other in machine.hookups:
        rows = []
        for number, conductor in enumerate(other.conductors):
            if other.id == hookup_id and number == row:
                rows.append(replace(conductor, core=core))
            elif other.cable == hookup.cable and conductor.core == core:
                rows.append(replace(conductor, core=before))
            else:
                rows.append(conductor)
        found.append(replace(other, conductors=tuple(rows)))
    return replace(machine, hookups=tuple(found))


def lay_in(machine: Machine, hookup_id: str, row: int, cable_id: str | None) -> Machine:
    """Lays a conductor in a cable, by its first free core; with None it is a wire or lead by
    itself. Raises `Problem` where no core is free.
    """
    hookup = find_hookup(machine, hookup_id)
    if hookup.cable == cable_id:
        return machine
    core = None
    if cable_id is not None:
        used = used_cores(machine, cable_id)
        count = len(colours_of_cable(machine, cable_id))
        core = next((number for number in range(1, count + 1) if number not in used), None)
        if core is None:
            raise Problem(f"{cable_id} has no core free.", remedy="Take another cable.")
    moved = replace(hookup.conductors[row], core=core)
    if len(hookup.conductors) == 1:
        alone = replace(hookup, cable=cable_id, conductors=(moved,))
        return _joined_up(replace(machine, hookups=swapped(machine.hookups, hookup, alone)), alone)
    machine = take_conductor_off(machine, hookup_id, row)
    beside = _beside(machine, hookup, cable_id)
    if beside is not None:
        return set_conductors(machine, beside.id, (*beside.conductors, moved))
    return add_hookup(machine, hookup.a, hookup.b, (moved,), cable_id)


def _beside(machine: Machine, hookup: Hookup, cable_id: str | None) -> Hookup | None:
    """Another hookup between the same ports, the same way round, by a cable."""
    return next(
        (
            other
            for other in machine.hookups
            if other.id != hookup.id
            and (other.a, other.b, other.cable) == (hookup.a, hookup.b, cable_id)
        ),
        None,
    )


def _joined_up(machine: Machine, alone: Hookup) -> Machine:
    """One hookup where two would join the same ports by the same cable."""
    beside = _beside(machine, alone, alone.cable)
    if beside is None:
        return machine
    rows: tuple[Conductor, ...] = (*beside.conductors, *alone.conductors)
    machine = set_conductors(machine, alone.id, ())
    return set_conductors(machine, beside.id, rows)
