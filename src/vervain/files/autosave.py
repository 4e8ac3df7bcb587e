"""The autosave beside the original: written while there are unsaved changes, removed by saving.

A machine that was never saved keeps its autosave in the user's state folder.
"""

from pathlib import Path

from vervain.files.machine_file import encode_machine, open_machine, write_whole
from vervain.files.problems import FileProblem
from vervain.machine.machine import Machine


def autosave_path(path: Path | None) -> Path:
    """Where the autosave of a file is; of the unsaved machine where path is None."""
    if path is None:
        import platformdirs

        return Path(platformdirs.user_state_dir("vervain")) / "unsaved.vervain.autosave"
    return path.with_name(path.name + ".autosave")


def write_autosave(machine: Machine, path: Path | None) -> None:
    """Writes the autosave. Raises `FileProblem`."""
    target = autosave_path(path)
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(str(target), f"It cannot be written: {error.strerror}.") from None
    write_whole(target, encode_machine(machine))


def keep_unsaved(machine: Machine) -> Path:
    """Keeps a machine that has no file as one of its own, in the user's state folder, and tells
    which. Raises `FileProblem`.
    """
    folder = autosave_path(None).parent
    taken = {path.name for path in folder.glob("kept-*.vervain")}
    number = 1
    while f"kept-{number}.vervain" in taken:
        number += 1
    target = folder / f"kept-{number}.vervain"
    folder.mkdir(parents=True, exist_ok=True)
    write_whole(target, encode_machine(machine))
    return target


def drop_autosave(path: Path | None) -> None:
    """Removes the autosave, if it is there and may be removed."""
    try:
        autosave_path(path).unlink(missing_ok=True)
    except OSError:
        return


def left_over(path: Path | None) -> Machine | None:
    """The machine in an autosave that a crash left behind, if it is whole and differs."""
    target = autosave_path(path)
    if not target.exists():
        return None
    try:
        kept = open_machine(target)
        if path is not None and path.exists() and open_machine(path) == kept:
            return None
    except FileProblem:
        return None
    return kept
