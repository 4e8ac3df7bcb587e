"""Autosaves: unsaved work, kept beside its file or, where that cannot be, in the state folder.

Each machine has one of its own: `Seat` says whose. What a crash or a killed save left behind is
found again by `left_over`, and offered only where it is newer than the file.
"""

import contextlib
import os
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from vervain.files.machine_file import AutosaveNote, decode_noted, encode_machine, rescue_bytes
from vervain.files.open_marks import is_marked
from vervain.files.problems import FileProblem
from vervain.files.reading import digest_of, files_in, is_there, read_bytes
from vervain.files.state_folder import last_resort_folder, own_name, shown_path, state_folder
from vervain.files.writing import (
    LONGEST_NAME_BYTES,
    make_folder,
    unfinished,
    write_whole,
)
from vervain.model.machine import Machine
from vervain.queries.changes import changes

ENDING = ".autosave"
MOST_STEPS = 60


class Seat(NamedTuple):
    """Whose autosave: that of the first window on a file, or, with a token, of a machine without a
    file or of a further window on the same file.
    """

    path: Path | None
    token: str = ""


class LeftOver(NamedTuple):
    """Work that was not saved: the machine, where it lies, when it was kept, what was done to it,
    and how it differs from the file. `of` is that file, None for a machine that has none;
    `is_older` says that the file was changed since.
    """

    machine: Machine
    kept_in: Path
    at: datetime
    steps: tuple[str, ...]
    differences: tuple[str, ...]
    is_older: bool = False
    of: Path | None = None


def new_token() -> str:
    """A token for a machine that has no file yet."""
    import secrets

    return secrets.token_hex(6)


def autosave_path(path: Path) -> Path:
    """Where the autosave of a file is: beside it."""
    return path.with_name(path.name + ENDING)


def unsaved_folder() -> Path:
    """Where machines that have no file are kept."""
    return state_folder() / "unsaved"


def autosave_paths(seat: Seat) -> tuple[Path, ...]:
    """Where an autosave may be, the best place first."""
    if seat.path is None or seat.token:
        name = f"{seat.token or 'machine'}.vervain{ENDING}"
        return unsaved_folder() / name, last_resort_folder() / name
    name = own_name(seat.path) + ENDING
    elsewhere = (state_folder() / "autosaves" / name, last_resort_folder() / name)
    if len(os.fsencode(seat.path.name + ENDING)) > LONGEST_NAME_BYTES:
        return elsewhere
    return autosave_path(seat.path), *elsewhere


def write_autosave(
    machine: Machine, seat: Seat, base: str = "", steps: tuple[str, ...] = ()
) -> Path:
    """Writes the autosave in the first place that takes it, and tells which; older ones in other
    places go. Raises `FileProblem` with every reason where none takes it.
    """
    note = AutosaveNote(
        of=shown_path(seat.path) if seat.path else "",
        base=base,
        at=datetime.now(UTC).isoformat(timespec="milliseconds"),
        steps=steps[-MOST_STEPS:],
    )
    try:
        data = encode_machine(machine, note)
    except ValueError:
        # No file can hold it, yet it must not be lost: a text editor can mend this form.
        data = rescue_bytes(machine)
    refused = []
    places = autosave_paths(seat)
    for number, target in enumerate(places):
        try:
            if number or not seat.path or seat.token:
                make_folder(target.parent)
            write_whole(target, data)
        except FileProblem as problem:
            refused.append(problem)
            continue
        for other in places:
            if other != target:
                _remove(other)
        return target
    reasons = " ".join(f"{problem.path}: {problem.what}" for problem in refused)
    raise FileProblem(str(places[0]), f"No autosave could be written. {reasons}")


def drop_autosave(seat: Seat) -> None:
    """Removes the autosave wherever it is, as far as that is allowed."""
    for target in autosave_paths(seat):
        _remove(target)


def left_over(path: Path) -> LeftOver | None:
    """The newest unsaved work of a file that a crash or a killed save left behind, where it is
    whole and differs from the file. What holds nothing new is cleaned away.
    """
    try:
        data = read_bytes(path)
        saved: Machine | None = decode_noted(data, str(path))[0]
    except FileProblem:
        data, saved = b"", None
    found: list[LeftOver] = []
    for place in (*autosave_paths(Seat(path)), *unfinished(path)):
        if not is_there(place):
            continue
        kept = _kept(place, saved, digest_of(data), path)
        if kept is not None and kept.machine != saved:
            found.append(kept)
        elif place.suffix != ENDING or kept is not None:
            _remove(place)
    return max(found, key=lambda kept: (not kept.is_older, kept.at), default=None)


def never_saved() -> tuple[LeftOver, ...]:
    """Machines without a file that no open window holds any more, the newest first."""
    found = []
    for folder in (unsaved_folder(), last_resort_folder()):
        for place in files_in(folder, f".vervain{ENDING}"):
            if not is_marked(token_of(place)):
                kept = _kept(place, None, "", None)
                if kept is not None:
                    found.append(kept)
    return tuple(sorted(found, key=lambda kept: kept.at, reverse=True))


def token_of(place: Path) -> str:
    """The token in the name of an autosave in the folder of unsaved machines."""
    return place.name.partition(".")[0]


def forget(kept: LeftOver, keep: Callable[[Path, bytes], object] | None = None) -> None:
    """Takes what was left over out of its place; `keep` gets its bytes first."""
    with contextlib.suppress(FileProblem):
        data = read_bytes(kept.kept_in)
        if keep is not None:
            keep(kept.kept_in, data)
    _remove(kept.kept_in)


def _kept(
    place: Path, saved: Machine | None, saved_digest: str, path: Path | None
) -> LeftOver | None:
    try:
        machine, note = decode_noted(read_bytes(place), str(place))
        written = datetime.fromtimestamp(place.stat().st_mtime, UTC)
    except (FileProblem, OSError, ValueError, OverflowError):
        return None
    at = _moment(note.at if note else "", written)
    is_older = False
    if path is not None and saved is not None and (note is None or note.base != saved_digest):
        with contextlib.suppress(OSError):
            is_older = at.timestamp() < path.stat().st_mtime
    differences = changes(saved, machine) if saved is not None else ()
    steps = note.steps if note else ()
    return LeftOver(machine, place, at, steps, differences, is_older, path)


def _moment(text: str, otherwise: datetime) -> datetime:
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        return otherwise
    return found if found.tzinfo else found.replace(tzinfo=UTC)


def _remove(path: Path) -> None:
    with contextlib.suppress(OSError):
        path.unlink(missing_ok=True)
