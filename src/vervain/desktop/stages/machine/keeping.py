"""Keeping a part among the builder's own; the same name again is its next revision."""

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace

from vervain.desktop.background import in_background
from vervain.desktop.session import Session
from vervain.files.problems import FileProblem
from vervain.files.shelf import ShelfContents, free_part_id, save_own_part
from vervain.model.part import Part


def keep_part(
    session: Session, part: Part, shelf: ShelfContents, folder: Path, kept: Callable[[Part], object]
) -> None:
    """Writes a part on a worker, under an id of its own, or as the next revision of the builder's
    part of that name and kind; then tells `kept`, or says why it cannot be.
    """
    before = next(
        (
            own
            for own in shelf.parts
            if own.id in shelf.own_ids and (own.title, own.kind) == (part.title, part.kind)
        ),
        None,
    )
    taken = frozenset(other.id for other in shelf.parts)
    made = replace(
        part,
        id=before.id if before else free_part_id(part.title, taken),
        revision=before.revision + 1 if before else 1,
    )

    def refuse(problem: object) -> None:
        faults = problem.faults if isinstance(problem, FileProblem) else ()
        session.say(f"It cannot be saved: {faults[0].what if faults else problem}")

    in_background(lambda: save_own_part(made, folder), lambda _: kept(made), refuse)
