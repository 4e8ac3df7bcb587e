"""Edits of cables: what kind, by which way, which cores carry which conductors."""

from msgspec.structs import replace

from vervain.edits.common import free_name, swapped, with_records_renamed
from vervain.edits.hookup_edits import find_hookup
from vervain.model.cable_part import CablePart
from vervain.model.machine import (
    MAKING_STEPS,
    Cable,
    Conductor,
    CoreMark,
    Hookup,
    Machine,
    MakingStep,
    PortRef,
    Reel,
    Spares,
)
from vervain.model.problem import Problem
from vervain.text.units import in_length


def find_cable(machine: Machine, cable_id: str) -> Cable:
    """The cable with this id; raises `Problem` where there is none."""
    for cable in machine.cables:
        if cable.id == cable_id:
            return cable
    raise Problem(f"There is no cable {cable_id}.")


def _changed(machine: Machine, cable: Cable, **values: object) -> Machine:
    return replace(machine, cables=swapped(machine.cables, cable, replace(cable, **values)))


def with_cable_part(machine: Machine, part: CablePart) -> Machine:
    """The machine with a cable part among its own; one of the same name stays as it is."""
    if any(known.id == part.id for known in machine.cable_parts):
        return machine
    return replace(machine, cable_parts=(*machine.cable_parts, part))


def add_cable(machine: Machine, part: CablePart, cable_id: str = "") -> Machine:
    """Adds a cable of a part that carries nothing yet. Raises `Problem`."""
    chosen = cable_id or free_name("W", (cable.id for cable in machine.cables))
    if any(cable.id == chosen for cable in machine.cables):
        raise Problem(f"{chosen} is taken.", remedy="Choose another number.")
    machine = with_cable_part(machine, part)
    return replace(machine, cables=(*machine.cables, Cable(id=chosen, part=part.id)))


def remove_cable(machine: Machine, cable_id: str) -> Machine:
    """Takes a cable away; its hookups stay, without a cable."""
    cable = find_cable(machine, cable_id)
    return replace(
        machine,
        cables=tuple(other for other in machine.cables if other is not cable),
        hookups=tuple(
            without_cable(hookup) if hookup.cable == cable_id else hookup
            for hookup in machine.hookups
        ),
    )


def without_cable(hookup: Hookup) -> Hookup:
    """A hookup whose conductors are in no cable."""
    rows = tuple(replace(row, core=None) for row in hookup.conductors)
    return replace(hookup, cable=None, conductors=rows)


def rename_cable(machine: Machine, old: str, new: str) -> Machine:
    """Gives a cable another name, everywhere it is named. Raises `Problem`."""
    cable = find_cable(machine, old)
    cleaned = " ".join(new.split())
    if cleaned == old:
        return machine
    if not cleaned or len(cleaned) > 80:
        raise Problem("A cable has a name of 1 to 80 characters.", place=old)
    if any(other.id == cleaned for other in machine.cables):
        raise Problem(f"{cleaned} is taken.", remedy="Choose another number.")
    machine = _changed(machine, cable, id=cleaned)
    machine = with_records_renamed(machine, "cable", old, cleaned)
    return replace(
        machine,
        hookups=tuple(
            replace(hookup, cable=cleaned) if hookup.cable == old else hookup
            for hookup in machine.hookups
        ),
    )


def used_cores(machine: Machine, cable_id: str) -> set[int]:
    """The cores of a cable that carry something."""
    return {
        row.core
        for hookup in machine.hookups
        if hookup.cable == cable_id
        for row in hookup.conductors
        if row.core is not None
    }


def set_cable_part(machine: Machine, cable_id: str, part: CablePart) -> Machine:
    """Makes a cable of another part; refused where it has too few cores. Raises `Problem`."""
    cable = find_cable(machine, cable_id)
    most = max(used_cores(machine, cable_id), default=0)
    if most > len(part.cores):
        raise Problem(
            f"{cable_id} uses core {most}; {part.title} has {len(part.cores)}.",
            place=cable_id,
            remedy="Choose one with more cores, or move its conductors first.",
        )
    machine = with_cable_part(machine, part)
    marks = tuple(mark for mark in cable.marks if mark.core <= len(part.cores))
    shields = cable.shield_to if part.shield else ()
    changed = _changed(machine, cable, part=part.id, marks=marks, shield_to=shields)
    used = {other.part for other in changed.cables}
    kept = tuple(known for known in changed.cable_parts if known.id in used)
    return replace(changed, cable_parts=kept)


def set_cable_runs(machine: Machine, cable_id: str, runs: tuple[str, ...]) -> Machine:
    """Lays a cable through runs of the builder's choice; none lets it take the shortest way.
    Raises `Problem`.
    """
    cable = find_cable(machine, cable_id)
    known = {run.id for run in machine.runs}
    for run in runs:
        if run not in known:
            raise Problem(f"There is no run {run}.", place=cable_id)
    return _changed(machine, cable, runs=tuple(dict.fromkeys(runs)))


def set_spares(machine: Machine, cable_id: str, spares: Spares) -> Machine:
    """Says what is done with the cores of a cable that carry nothing."""
    return _changed(machine, find_cable(machine, cable_id), spares=spares)


def set_done(machine: Machine, cable_id: str, step: MakingStep, mark: str) -> Machine:
    """Ticks a step of the making of a cable, with the mark of what it rests on; "" takes the tick
    away. Raises `Problem`.
    """
    cable = find_cable(machine, cable_id)
    kept = {known: cable.done[known] for known in MAKING_STEPS if known in cable.done}
    kept.pop(step, None)
    return _changed(machine, cable, done={**kept, step: mark} if mark else kept)


def set_own_sleeve(machine: Machine, cable_id: str, own_sleeve: bool) -> Machine:
    """Gives a cable a sleeve of its own, or lays it into that of its bundle. Raises `Problem`."""
    return _changed(machine, find_cable(machine, cable_id), own_sleeve=own_sleeve)


def replace_rows(
    machine: Machine, hookup_id: str, rows: tuple[Conductor, ...], cable: str | None
) -> Machine:
    """Replaces the conductors of a hookup and the cable that makes them."""
    hookup = find_hookup(machine, hookup_id)
    changed = replace(hookup, conductors=rows, cable=cable)
    return replace(machine, hookups=swapped(machine.hookups, hookup, changed))


def mark_printed(machine: Machine, texts: tuple[str, ...]) -> Machine:
    """Keeps what stands on the labels that were printed, in place of what was kept before."""
    return replace(machine, printed=tuple(sorted(set(texts))))


def _checked_lengths(lengths_m: tuple[float, ...], place: str) -> tuple[float, ...]:
    if len(lengths_m) > 40 or any(not 0 < length <= 10_000 for length in lengths_m):
        raise Problem(
            "Lengths of cable are more than 0 and at most 10,000 m.",
            place=place,
            remedy="Write them in m with commas between: “10, 25”.",
        )
    return lengths_m


def set_reels(machine: Machine, part_id: str, lengths_m: tuple[float, ...]) -> Machine:
    """Says which reels and rests of a cable part are there, in m; other parts' stay."""
    kept = tuple(reel for reel in machine.reels if reel.part != part_id)
    taken = [reel.id for reel in kept]
    made = []
    for length in _checked_lengths(lengths_m, part_id):
        name = free_name("Reel ", taken)
        taken.append(name)
        made.append(Reel(id=name, part=part_id, length_m=length))
    return replace(machine, reels=(*kept, *made))


def set_stock(machine: Machine, part_id: str, lengths_m: tuple[float, ...]) -> Machine:
    """Says in which lengths a cable part of the machine is sold, in m; none means by the metre.
    Raises `Problem`.
    """
    part = next((part for part in machine.cable_parts if part.id == part_id), None)
    if part is None:
        raise Problem(f"The machine has no cable part {part_id}.")
    lengths = tuple(sorted(set(_checked_lengths(lengths_m, part.title))))
    changed = replace(part, stock_m=lengths)
    return replace(machine, cable_parts=swapped(machine.cable_parts, part, changed))


def set_cable(machine: Machine, cable_id: str, length_m: float | None, note: str) -> Machine:
    """Sets the length and the note of a cable. Raises `Problem`."""
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    if cable is None:
        raise Problem(f"There is no cable {cable_id}.")
    if length_m is not None and not 0 < length_m <= 1000:
        raise Problem(
            f"{in_length(length_m)} is not a length that a cable can have.",
            place=cable_id,
            remedy="Enter more than 0 and at most 1000 m, for instance “6.5 m”.",
        )
    changed = replace(cable, length_m=length_m, note=note)
    return replace(machine, cables=swapped(machine.cables, cable, changed))


def set_core_label(machine: Machine, cable_id: str, core: int, label: str) -> Machine:
    """Writes a label of the builder's own on a core; an empty one goes back to the template.
    Raises `Problem`.
    """
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    if cable is None:
        raise Problem(f"There is no cable {cable_id}.")
    cleaned = " ".join(label.split())
    if len(cleaned) > 80:
        raise Problem("A label has at most 80 characters.", place=f"{cable_id}.{core}")
    marks = tuple(mark for mark in cable.marks if mark.core != core)
    if cleaned:
        marks = tuple(sorted((*marks, CoreMark(core=core, label=cleaned)), key=lambda m: m.core))
    return replace(machine, cables=swapped(machine.cables, cable, replace(cable, marks=marks)))


def set_shield(machine: Machine, cable_id: str, ports: tuple[PortRef, ...]) -> Machine:
    """Sets where the shield of a cable is joined. Raises `Problem`."""
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    if cable is None:
        raise Problem(f"There is no cable {cable_id}.")
    changed = replace(cable, shield_to=ports)
    return replace(machine, cables=swapped(machine.cables, cable, changed))
