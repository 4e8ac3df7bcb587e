"""Taking somebody else's part file into the builder's own folder: first what would come of it."""

from pathlib import Path
from typing import Literal

from msgspec.structs import replace

from vervain.files.part_files import read_part_file
from vervain.files.shelf import ShelfContents, free_part_id, save_own_cable, save_own_part
from vervain.model.base import Record
from vervain.model.cable_part import CablePart
from vervain.model.part import Part

Verdict = Literal["new", "newer", "there already", "renamed"]


class TakenPart(Record, frozen=True, kw_only=True):
    """A part of the file as it would be kept: "newer" in place of one's own of that id, "renamed"
    where the shipped shelf has another of that id.
    """

    part: Part | CablePart
    verdict: Verdict


def parts_to_take(path: Path, shelf: ShelfContents) -> tuple[TakenPart, ...]:
    """What taking a part file in would do, part by part. Raises `FileProblem`."""
    found = read_part_file(path)
    taken = {part.id for part in shelf.parts} | {part.id for part in found.part}
    known_cables = {cable.id: cable for cable in shelf.cable_parts}
    result: list[TakenPart] = []
    for part in found.part:
        before = shelf.part(part.id)
        if before is None:
            result.append(TakenPart(part=part, verdict="new"))
        elif replace(before, revision=part.revision) == part:
            result.append(TakenPart(part=part, verdict="there already"))
        elif part.id in shelf.own_ids:
            revision = max(part.revision, before.revision + 1)
            result.append(TakenPart(part=replace(part, revision=revision), verdict="newer"))
        else:
            other = free_part_id(part.title, frozenset(taken))
            taken.add(other)
            result.append(TakenPart(part=replace(part, id=other), verdict="renamed"))
    for cable in found.cable_part:
        is_there = cable.id in known_cables
        result.append(TakenPart(part=cable, verdict="there already" if is_there else "new"))
    return tuple(result)


def said_of(taken: tuple[TakenPart, ...]) -> str:
    """What would come of it, in words: "2 new (A, B), 1 there already"."""
    words: dict[Verdict, str] = {
        "new": "new",
        "newer": "newer than yours",
        "renamed": "kept beside the shelf's of the same id",
        "there already": "there already",
    }
    found = []
    for verdict, said in words.items():
        titles = [item.part.title for item in taken if item.verdict == verdict]
        if titles:
            shown = ", ".join(titles[:3]) + (" …" if len(titles) > 3 else "")
            found.append(f"{len(titles)} {said} ({shown})")
    return "; ".join(found) or "no part"


def keep_taken(taken: tuple[TakenPart, ...], folder: Path) -> int:
    """Writes what is not there already into the builder's folder, and says how many parts that
    were. Raises `FileProblem`.
    """
    kept = [item.part for item in taken if item.verdict != "there already"]
    for part in kept:
        if isinstance(part, Part):
            save_own_part(part, folder)
        else:
            save_own_cable(part, folder)
    return len(kept)
