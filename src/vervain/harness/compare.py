"""What changed between two versions of a machine: conductors added, removed, moved; labels."""

from typing import Literal

from vervain.harness.conductors import ConductorRow, conductor_rows, pin_words
from vervain.harness.label_texts import label_texts
from vervain.model.base import Record
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_area, in_length

Kind = Literal["added", "removed", "moved", "changed"]


class Change(Record, frozen=True, kw_only=True):
    """One conductor that differs: what it was and what it is, in words; `key` in the newer version,
    None where it is gone.
    """

    kind: Kind
    label: str
    before: str
    after: str
    key: tuple[str, int] | None = None


class Difference(Record, frozen=True, kw_only=True):
    """Everything that differs: conductors, and what stands on labels that must be printed anew or
    taken off.
    """

    changes: tuple[Change, ...]
    reprint: tuple[str, ...]
    take_off: tuple[str, ...]

    def count(self, kind: Kind) -> int:
        """How many conductors changed in one way."""
        return sum(change.kind == kind for change in self.changes)


def _ends(row: ConductorRow) -> frozenset[tuple[str, str, str]]:
    return frozenset((ref.device, ref.port, ref.pin) for ref in (row.start, row.end))


def _core(row: ConductorRow) -> tuple[str, int | None] | None:
    return (row.cable, row.core) if row.cable else None


def _words(queries: Queries, row: ConductorRow) -> str:
    ends = " to ".join(f"{ref.device} {pin_words(queries, ref)}" for ref in (row.start, row.end))
    wire = ", ".join(
        word
        for word in (
            f"{row.cable}.{row.core}" if row.cable and row.core else row.cable,
            row.colour or "",
            in_area(row.area_mm2) if row.area_mm2 else "",
            in_length(row.length_m) if row.length_m else "",
        )
        if word
    )
    return f"{ends}, {wire}" if wire else ends


def compare(old: Queries, new: Queries) -> Difference:
    """Which conductors were added, removed, moved (the same core or the same device's lead at
    another pin) or changed (between the same pins by another core, length or cross-section).
    """
    before, after = list(conductor_rows(old)), list(conductor_rows(new))
    pairs: list[tuple[ConductorRow, ConductorRow]] = []
    for match in (
        lambda row: (_ends(row), _core(row)),
        _core,
        _ends,
        lambda row: (row.hookup, row.row) if not row.cable else None,
    ):
        waiting: dict[object, list[ConductorRow]] = {}
        for row in before:
            if match(row) is not None:
                waiting.setdefault(match(row), []).append(row)
        still = []
        for row in after:
            same = waiting.get(match(row)) if match(row) is not None else None
            if same:
                pairs.append((same.pop(0), row))
            else:
                still.append(row)
        paired = {id(first) for first, _ in pairs}
        before = [row for row in before if id(row) not in paired]
        after = still
    changes = [change for first, second in pairs if (change := _change(old, new, first, second))]
    changes += [
        Change(kind="added", label=row.label_from, before="", after=_words(new, row), key=row.key)
        for row in after
    ]
    changes += [
        Change(kind="removed", label=row.label_from, before=_words(old, row), after="")
        for row in before
    ]
    order = {"removed": 0, "moved": 1, "changed": 2, "added": 3}
    was = {label.content for label in label_texts(old)}
    now = {label.content for label in label_texts(new)}
    return Difference(
        changes=tuple(sorted(changes, key=lambda c: (order[c.kind], c.label, c.after))),
        reprint=tuple(sorted(now - was)),
        take_off=tuple(sorted(was - now)),
    )


def _change(old: Queries, new: Queries, first: ConductorRow, second: ConductorRow) -> Change | None:
    before, after = _words(old, first), _words(new, second)
    moved = _ends(first) != _ends(second)
    if before == after and not moved:
        return None
    return Change(
        kind="moved" if moved else "changed",
        label=second.label_from,
        before=before,
        after=after,
        key=second.key,
    )
