"""Saving a machine over its file: proven, not over another's work, with the old one kept."""

from pathlib import Path
from typing import NamedTuple

from vervain.files.machine_file import save_machine
from vervain.files.problems import FileProblem
from vervain.files.reading import FileStamp, is_changed, read_bytes
from vervain.files.versions import VersionRules, keep_version
from vervain.model.machine import Machine


class ChangedOnDisk(FileProblem):
    """The file holds something else than was read from it or written to it last."""


class Saved(NamedTuple):
    """A save that is safe on disk: the file's stamp, and why no version was kept, if so."""

    stamp: FileStamp
    unkept: str = ""


def save_document(
    machine: Machine,
    path: Path,
    known: FileStamp | None,
    rules: VersionRules,
    replaces: bool = False,
) -> Saved:
    """Saves a machine. Raises `FileProblem`; `ChangedOnDisk` where the file is not as `known` says,
    unless `replaces` says to write over it: what it holds then becomes a version.
    """
    changed = is_changed(path, known)
    if changed and not replaces:
        raise ChangedOnDisk(
            str(path),
            "It was changed by another program or another window since it was read here."
            if known
            else "There is a file of that name already.",
            remedy="It was left as it is. Compare the two, or save under another name.",
        )
    unkept = _keep(path, None, rules) if changed else ""
    stamp = save_machine(machine, path)
    return Saved(stamp, unkept or _keep(path, stamp, rules))


def _keep(path: Path, stamp: FileStamp | None, rules: VersionRules) -> str:
    """Keeps what a file holds as a version; tells why not where that fails."""
    try:
        keep_version(path, read_bytes(path), rules, "saved" if stamp else "replaced")
    except FileProblem as problem:
        return f"No version was kept: {problem.what}"
    return ""
