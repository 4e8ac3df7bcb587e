"""What all edits share: the type of an edit, exchanging one item, free names."""

from collections.abc import Callable, Iterable
from typing import TypeVar

from msgspec.structs import replace

from vervain.model.bench_result import BenchResult, without_subject
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


def with_records_renamed(machine: Machine, kind: NameKind, old: str, new: str) -> Machine:
    """The machine after something got another name: what was accepted of it, and seen of it at the
    bench, follows.
    """
    if not machine.accepted and not machine.bench_results:
        return machine
    return replace(
        machine,
        bench_results=tuple(
            replace(item, at=tuple(renamed(subject, kind, old, new) for subject in item.at))
            for item in machine.bench_results
        ),
        accepted=tuple(
            replace(
                item,
                about=renamed(item.about, kind, old, new),
                at=tuple(renamed(subject, kind, old, new) for subject in item.at),
            )
            for item in machine.accepted
        ),
    )


def without_stale_records(machine: Machine) -> Machine:
    """The machine without acceptances, and without what was seen at the bench, of what is no longer
    there: whatever gets a freed name later is judged anew.
    """
    if not machine.accepted and not machine.bench_results:
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

    accepted = tuple(item for item in machine.accepted if all(map(holds, (item.about, *item.at))))
    results = tuple(
        kept
        for item in machine.bench_results
        if (kept := _without_gone(item, [n for n, s in enumerate(item.at) if not holds(s)]))
    )
    if len(accepted) == len(machine.accepted) and results == machine.bench_results:
        return machine
    return replace(machine, accepted=accepted, bench_results=results)


def _without_gone(result: BenchResult, gone: list[int]) -> BenchResult | None:
    """A result without those that went of what it was `at`; None where it was about one."""
    kept: BenchResult | None = result
    for number in gone:
        kept = without_subject(kept, number) if kept is not None else None
    return kept
