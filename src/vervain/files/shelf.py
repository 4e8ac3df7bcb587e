"""The part shelf: the shipped parts, and the builder's own from a folder of their own."""

import logging
import re
from contextlib import suppress
from pathlib import Path

from vervain.files.part_files import decode_parts, read_part_file, shipped_shelf
from vervain.files.problems import FileProblem
from vervain.files.reading import files_in, read_bytes
from vervain.files.writing import write_whole
from vervain.model.base import Record
from vervain.model.cable_part import CablePart
from vervain.model.part import Part

log = logging.getLogger("vervain")


class ShelfContents(Record, frozen=True, kw_only=True):
    """Every part that can be taken, which of them are the builder's own, and what was refused."""

    parts: tuple[Part, ...] = ()
    cable_parts: tuple[CablePart, ...] = ()
    own_ids: frozenset[str] = frozenset()
    problems: tuple[str, ...] = ()

    def part(self, part_id: str) -> Part | None:
        """The part with this id."""
        return next((part for part in self.parts if part.id == part_id), None)


def own_folder() -> Path:
    """Where the builder's own parts are kept."""
    import platformdirs

    return Path(platformdirs.user_data_dir("vervain")) / "parts"


def read_shelf(folder: Path) -> ShelfContents:
    """The shipped parts and those of a folder. A file that is not understood is told and left
    out, the others stay; so is a part whose id is taken.
    """
    shipped = shipped_shelf()
    parts, cables = dict(shipped.parts), dict(shipped.cable_parts)
    own: set[str] = set()
    problems: list[str] = []
    for path in files_in(folder, ".toml"):
        try:
            found = read_part_file(path)
        except FileProblem as problem:
            problems.append(str(problem))
            continue
        except Exception as error:
            # Whatever one file does to us, the others stay.
            log.exception("reading %s failed", path)
            problems.append(f"{path}: It could not be read ({type(error).__name__}).")
            continue
        for part in found.part:
            if part.id in parts:
                problems.append(f"{path}: the part “{part.id}” is on the shelf already; left out.")
                continue
            parts[part.id] = part
            own.add(part.id)
        for cable_part in found.cable_part:
            cables.setdefault(cable_part.id, cable_part)
    return ShelfContents(
        parts=tuple(parts.values()),
        cable_parts=tuple(cables.values()),
        own_ids=frozenset(own),
        problems=tuple(problems),
    )


def free_part_id(title: str, taken: frozenset[str]) -> str:
    """An id made of a title, as "my-" and small letters, that is not taken."""
    words = re.sub(r"[^a-z0-9]+", "-", title.casefold()).strip("-")[:50] or "part"
    base = f"my-{words}"
    number, chosen = 2, base
    while chosen in taken:
        chosen, number = f"{base}-{number}", number + 1
    return chosen


def save_own_part(part: Part, folder: Path) -> Path:
    """Writes a part into the builder's folder: into the file that has it already, whose comments
    and order stay, else into a file of its own. Raises `FileProblem`.
    """
    from vervain.files.part_writing import part_text, updated_text

    there = _file_with(part.id, folder)
    if there is None:
        return _save(part_text(part), part.id, folder)
    text = updated_text(read_bytes(there).decode("utf-8"), part)
    decode_parts(text, str(there))
    write_whole(there, text.encode("utf-8"))
    return there


def _file_with(part_id: str, folder: Path) -> Path | None:
    """The file of a folder that a part is in."""
    for path in files_in(folder, ".toml"):
        with suppress(FileProblem):
            if any(part.id == part_id for part in read_part_file(path).part):
                return path
    return None


def save_own_cable(cable: CablePart, folder: Path) -> Path:
    """Writes a cable part into a file of its own in the builder's folder. Raises `FileProblem`."""
    from vervain.files.part_writing import cable_text

    return _save(cable_text(cable), f"cable-{cable.id}", folder)


def _save(text: str, name: str, folder: Path) -> Path:
    target = folder / f"{re.sub(r'[^a-z0-9-]', '-', name.casefold())}.toml"
    decode_parts(text, str(target))
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(str(folder), f"It cannot be made: {error.strerror}.") from None
    write_whole(target, text.encode("utf-8"))
    return target
