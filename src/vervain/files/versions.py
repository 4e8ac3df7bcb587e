"""The last saves of a machine file, kept where the builder says, so that none is ever the only one.

Each save is one `.vervain` file, named by its moment, in a folder of its own for each machine file;
the folder's `of.txt` says which. The oldest go where there are too many, or they take too much.
"""

import contextlib
import re
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal, NamedTuple

from vervain.files.machine_file import SUFFIX, decode_machine
from vervain.files.problems import FileProblem
from vervain.files.reading import is_there, read_bytes
from vervain.files.state_folder import own_name, shown_path, state_folder
from vervain.files.writing import make_folder, write_whole
from vervain.model.machine import Machine
from vervain.queries.changes import changes

MOST_KEPT, MOST_KEPT_BYTES = 40, 200_000_000
NAME = re.compile(r"^(\d{8}T\d{6}\d{6}Z)(?:-(saved|unsaved|replaced))?\.vervain$")
MOMENT = "%Y%m%dT%H%M%S%fZ"
Origin = Literal["saved", "unsaved", "replaced"]
ORIGIN_WORDS: dict[str, str] = {
    "saved": "saved",
    "unsaved": "unsaved work that was left",
    "replaced": "written by another program, then saved over",
}


class VersionRules(NamedTuple):
    """Where versions are kept, how many of a file and how many bytes of them; none where
    `most_kept` is 0.
    """

    folder: Path
    most_kept: int = MOST_KEPT
    most_bytes: int = MOST_KEPT_BYTES


class Version(NamedTuple):
    """One kept save: its number (1 is the newest), its moment, where it came from, its file."""

    number: int
    at: datetime
    origin: Origin
    path: Path
    size: int


def default_rules() -> VersionRules:
    """Where versions are kept unless the builder says otherwise: in the state folder."""
    return VersionRules(state_folder() / "versions")


def keep_version(path: Path, data: bytes, rules: VersionRules, origin: Origin = "saved") -> None:
    """Keeps the bytes of a save of a file, unless they are the newest kept ones; the oldest go.
    Raises `FileProblem`.
    """
    if rules.most_kept <= 0:
        return
    folder = _folder(path, rules)
    known = versions_of(path, rules)
    if known and known[0].size == len(data):
        with contextlib.suppress(FileProblem):
            if read_bytes(known[0].path) == data:
                return
    make_folder(folder)
    named = folder / "of.txt"
    if not is_there(named):
        write_whole(named, (shown_path(path) + "\n").encode())
    moment = datetime.now(UTC).strftime(MOMENT)
    write_whole(folder / f"{moment}-{origin}{SUFFIX}", data)
    _prune(path, rules)


def versions_of(path: Path, rules: VersionRules) -> tuple[Version, ...]:
    """The versions kept of a file, the newest first."""
    found = []
    try:
        entries = list(_folder(path, rules).iterdir())
    except (OSError, ValueError):
        return ()
    for entry in entries:
        match = NAME.match(entry.name)
        if match is None:
            continue
        try:
            at = datetime.strptime(match[1], MOMENT).replace(tzinfo=UTC)
            size = entry.stat().st_size
        except (OSError, ValueError):
            continue
        origin: Origin = match[2] or "saved"  # type: ignore[assignment]
        found.append((at, origin, entry, size))
    found.sort(key=lambda item: (item[0], item[2].name), reverse=True)
    return tuple(Version(number, *item) for number, item in enumerate(found, 1))


def open_version(version: Version) -> Machine:
    """The machine of a version. Raises `FileProblem`."""
    return decode_machine(read_bytes(version.path), str(version.path))


class VersionRow(NamedTuple):
    """A version as it is listed: what changed to the next newer state, or why it cannot be read."""

    version: Version
    changes: tuple[str, ...]
    problem: str = ""


def version_rows(newest: Machine | None, versions: tuple[Version, ...]) -> tuple[VersionRow, ...]:
    """Each version with what was changed after it, up to the next newer version; the newest is
    compared with the machine given.
    """
    rows = []
    later = newest
    for version in versions:
        try:
            machine = open_version(version)
        except FileProblem as problem:
            rows.append(VersionRow(version, (), problem.what))
            continue
        rows.append(VersionRow(version, changes(machine, later) if later else ()))
        later = machine
    return tuple(rows)


def _folder(path: Path, rules: VersionRules) -> Path:
    try:
        return rules.folder / own_name(path.resolve())
    except (OSError, RuntimeError):
        return rules.folder / own_name(path)


def _prune(path: Path, rules: VersionRules) -> None:
    """Takes the oldest versions away; the newest one always stays."""
    total = 0
    for version in versions_of(path, rules):
        total += version.size
        if version.number > 1 and (version.number > rules.most_kept or total > rules.most_bytes):
            with contextlib.suppress(OSError):
                version.path.unlink()
