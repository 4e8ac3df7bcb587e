"""The machine file: UTF-8 JSON, versioned, strict, one item a line. See docs/machine-file.md."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from vervain.files.json_text import read_json
from vervain.files.migrations import migrated
from vervain.files.problems import FileProblem, Place
from vervain.files.reading import (
    LARGEST_BYTES,
    FileStamp,
    digest_of,
    read_bytes,
    unreadable,
)
from vervain.files.writing import shortened, write_whole
from vervain.model.base import Record
from vervain.model.machine import FORMAT, VERSION, Machine
from vervain.model.references import faults_of
from vervain.model.validation import type_fault

SUFFIX = ".vervain"
RESCUE_ENDING = ".rescue.json"
HEAD_KEYS = frozenset({"format", "version", "autosave"})
KEPT = "The file was left as it is."


class AutosaveNote(Record, frozen=True, kw_only=True):
    """What an autosave says of itself: the file that it is of, the SHA-256 of that file when its
    work began, when it was written (ISO 8601, UTC), and the steps since, in words.
    """

    of: str = ""
    base: str = ""
    at: str = ""
    steps: tuple[str, ...] = ()


def encode_machine(machine: Machine, note: AutosaveNote | None = None) -> bytes:
    """The bytes of a machine file, or with a note of an autosave; the same machine always gives the
    same bytes.
    """
    values: dict[str, Any] = msgspec.to_builtins(machine)
    lines = ["{", f' "format": {_line(FORMAT)},', f' "version": {VERSION},']
    if note is not None:
        lines.append(f' "autosave": {_line(msgspec.to_builtins(note))},')
    for key, value in values.items():
        if isinstance(value, list | tuple) and value:
            items = ",\n".join("  " + _line(item) for item in value)
            lines.append(f' "{key}": [\n{items}\n ],')
        else:
            lines.append(f' "{key}": {_line(value)},')
    lines[-1] = lines[-1].removesuffix(",")
    return ("\n".join([*lines, "}"]) + "\n").encode("utf-8")


def _line(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)


def decode_machine(data: bytes, path: str) -> Machine:
    """The machine in the bytes of a file or an autosave. Raises `FileProblem` with the place of
    every fault.
    """
    return decode_noted(data, path)[0]


def decode_noted(data: bytes, path: str) -> tuple[Machine, AutosaveNote | None]:
    """The machine in the bytes of a file, and the note where it is an autosave. Raises
    `FileProblem` with the place of every fault.
    """
    if len(data) > LARGEST_BYTES:
        raise FileProblem(path, "It is far too large for a machine file.", remedy=KEPT)
    document = _read_json(data, path)
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise FileProblem(
            path,
            "It is not a Vervain machine file.",
            faults=(Place("the first line", f'"format" should be "{FORMAT}".', ""),),
            remedy=f"Choose a {SUFFIX} file. {KEPT}",
        )
    version = document.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FileProblem(
            path,
            "Its version is not a number.",
            faults=(Place("version", f"is {version!r}; {VERSION} was expected.", ""),),
            remedy=KEPT,
        )
    if version > VERSION:
        raise FileProblem(
            path,
            f"It was written by a newer Vervain: version {version}; this one reads {VERSION}.",
            faults=(Place("version", f"is {version}.", ""),),
            remedy=f"Open it with that newer Vervain. {KEPT}",
        )
    body = {key: value for key, value in document.items() if key not in HEAD_KEYS}
    body = migrated(body, version)
    try:
        machine = msgspec.convert(body, Machine)
        note = msgspec.convert(document.get("autosave"), AutosaveNote | None)
    except msgspec.ValidationError as error:
        raise _not_understood(path, error, body) from None
    faults = tuple(
        Place(fault.place, fault.what + ".", fault.remedy) for fault in faults_of(machine)
    )
    if faults:
        raise FileProblem(
            path,
            "It names things that are not there, or names one twice.",
            faults=faults,
            remedy=KEPT,
        )
    return machine, note


def _read_json(data: bytes, path: str) -> Any:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise FileProblem(
            path,
            "It is not text.",
            faults=(Place(f"line {line}", f"byte {error.start} is not UTF-8.", ""),),
            remedy=f"Choose a {SUFFIX} file. {KEPT}",
        ) from None
    return read_json(text, path, KEPT)


def _not_understood(path: str, error: msgspec.ValidationError, body: object) -> FileProblem:
    fault = type_fault(error, body)
    return FileProblem(
        path,
        "Something in it is not understood.",
        faults=(Place(fault.place, f"{fault.what}.", fault.remedy),),
        remedy=f"Correct it in a text editor, or open the last version that was whole. {KEPT}",
    )


def open_machine(path: Path, should_continue: Callable[[], bool] = lambda: True) -> Machine:
    """Reads a machine file. Raises `FileProblem`, `Cancelled` where it was stopped."""
    return decode_machine(read_bytes(path, should_continue=should_continue), str(path))


def proven_bytes(machine: Machine, path: str) -> bytes:
    """The bytes of a machine file, read back and compared: what is written can be opened again.
    Raises `Unsavable` with the place of what no file can hold.
    """
    data = b""
    try:
        data = encode_machine(machine)
        again = decode_machine(data, path)
    except FileProblem as problem:
        raise Unsavable(path, rescue_bytes(machine), problem.faults) from None
    except UnicodeEncodeError:
        fault = Place("a text", "holds half a character (a lone surrogate).", "")
        raise Unsavable(path, rescue_bytes(machine), (fault,)) from None
    if again != machine:
        fault = Place("the whole", "reads back as another machine than was written.", "")
        raise Unsavable(path, data, (fault,))
    return data


def rescue_bytes(machine: Machine) -> bytes:
    """A machine that no machine file can hold, as JSON that a text editor can mend."""
    body = {"format": FORMAT, "version": VERSION, **msgspec.to_builtins(machine)}
    return json.dumps(body, ensure_ascii=True, indent=1).encode("ascii")


class Unsavable(FileProblem):
    """A machine that could not be opened again if it were saved; `rescue` holds its values."""

    def __init__(self, path: str, rescue: bytes, faults: tuple[Place, ...]) -> None:
        super().__init__(
            path, "It cannot be saved as it is: it could not be opened again.",
            faults=faults, remedy="Undo the last steps until it saves. " + KEPT,
        )  # fmt: skip
        self.rescue = rescue


def save_machine(machine: Machine, path: Path) -> FileStamp:
    """Writes a machine file that was proven to open again, and gives its stamp. Raises
    `FileProblem`, and then the old file is still whole; what could not be opened again
    (`Unsavable`) is kept beside it in a rescue file that its problem names.
    """
    try:
        data = proven_bytes(machine, str(path))
    except Unsavable as problem:
        raise rescued(problem, path) from None
    write_whole(path, data, clears_unfinished=False)
    return stamp_after_writing(path, data)


def rescued(problem: Unsavable, path: Path) -> Unsavable:
    """The same problem, with its values written into a rescue file beside the path."""
    kept = path.with_name(shortened(path.name, 240) + RESCUE_ENDING)
    try:
        write_whole(kept, problem.rescue)
    except FileProblem as failed:
        problem.remedy = f"{problem.remedy} No rescue file could be written: {failed.what}"
    else:
        problem.remedy = f"{problem.remedy} Its values are kept in {kept}."
    return problem


def stamp_after_writing(path: Path, data: bytes) -> FileStamp:
    """The stamp of a file that was just written with these bytes. Raises `FileProblem`."""
    try:
        info = path.stat()
    except OSError as error:
        raise unreadable(path, error) from None
    seen = (info.st_dev, info.st_ino, info.st_size, info.st_mtime_ns)
    return FileStamp(*seen, digest_of(data))
