"""What all edits share: the type of an edit, exchanging one item, free names."""

from collections.abc import Callable, Iterable
from typing import TypeVar

from msgspec.structs import replace

from vervain.model.machine import Machine
from vervain.model.subject import NameKind, Subject, renamed

Edit = Callable[[Machine], Machine]
T = TypeVar("T")


def swapped(items: tuple[T, ...], old: T, new: T) -> tuple[T, ...]:
    """The tuple with one item exchanged, in its place."""
    return tuple(new if item is old else item for item in items)


def free_name(prefix: str, taken: Iterable[str]) -> str:
    """The first of prefix1, prefix2 … that is not taken."""
    known = set(taken)
    number = 1
    while f"{prefix}{number}" in known:
        number += 1
    return f"{prefix}{number}"


def with_acceptances_renamed(machine: Machine, kind: NameKind, old: str, new: str) -> Machine:
    """The machine after something got another name: what was accepted of it follows."""
    if not machine.accepted:
        return machine
    return replace(
        machine,
        accepted=tuple(
            replace(
                item,
                about=renamed(item.about, kind, old, new),
                at=tuple(renamed(subject, kind, old, new) for subject in item.at),
            )
            for item in machine.accepted
        ),
    )


def without_stale_acceptances(machine: Machine) -> Machine:
    """The machine without acceptances about what is no longer there: whatever gets a freed name
    later is judged anew.
    """
    if not machine.accepted:
        return machine
    there = {
        "device": {device.designator for device in machine.devices},
        "cable": {cable.id for cable in machine.cables},
        "axis": {axis.id for axis in machine.axes},
        "run": {run.id for run in machine.runs},
        "hookup": {hookup.id for hookup in machine.hookups},
    }

    def holds(subject: Subject) -> bool:
        return all(
            name is None or name in names
            for kind, names in there.items()
            for name in (getattr(subject, kind),)
        )

    kept = tuple(item for item in machine.accepted if all(map(holds, (item.about, *item.at))))
    return machine if len(kept) == len(machine.accepted) else replace(machine, accepted=kept)
