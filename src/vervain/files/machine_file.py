"""The machine file: UTF-8 JSON, versioned, strict, one item a line. See docs/machine-file.md."""

import json
import math
import os
import re
from pathlib import Path
from typing import Any

import msgspec

from vervain.files.problems import FileProblem, Place
from vervain.machine.integrity import faults_of
from vervain.machine.machine import FORMAT, VERSION, Machine

SUFFIX = ".vervain"
# A machine of 10,000 conductors takes about 3 MB; what is larger is not a machine file.
LARGEST_BYTES = 64_000_000
TROUBLE = re.compile(r"^(?P<what>.*?)(?: - at `\$?\.?(?P<where>.*)`)?$", re.DOTALL)
KEPT = "The file was left as it is."


def encode_machine(machine: Machine) -> bytes:
    """The bytes of a machine file; the same machine always gives the same bytes."""
    values: dict[str, Any] = msgspec.to_builtins(machine)
    lines = ["{", f' "format": {_line(FORMAT)},', f' "version": {VERSION},']
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
    """The machine in the bytes of a file. Raises `FileProblem` with the place of every fault."""
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
    body = {key: value for key, value in document.items() if key not in {"format", "version"}}
    try:
        machine = msgspec.convert(body, Machine)
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
    return machine


def _read_json(data: bytes, path: str) -> Any:
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise FileProblem(
            path,
            "It is not text.",
            faults=(Place(f"line {line}", f"byte {error.start} is not UTF-8.", ""),),
            remedy=f"Choose a {SUFFIX} file. {KEPT}",
        ) from None
    try:
        return json.loads(text, parse_constant=_refuse_constant, parse_float=finite)
    except json.JSONDecodeError as error:
        cut = error.pos >= len(text.rstrip())
        raise FileProblem(
            path,
            "It ends too early." if cut else "It is not whole JSON.",
            faults=(Place(f"line {error.lineno}, column {error.colno}", error.msg + ".", ""),),
            remedy=f"Take the last saved copy or the autosave beside it. {KEPT}",
        ) from None
    except (ValueError, RecursionError) as error:
        raise FileProblem(path, f"It is not a machine file: {error}.", remedy=KEPT) from None


def finite(text: str) -> float:
    """A decimal number of a file; raises `ValueError` where it is not finite."""
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(f"{text} is not a number that a file may hold")
    return value


def _refuse_constant(name: str) -> float:
    raise ValueError(f"{name} is not a number that a file may hold")


def _not_understood(path: str, error: msgspec.ValidationError, body: Any) -> FileProblem:
    match = TROUBLE.match(str(error))
    what, where = (match["what"], match["where"] or "the top") if match else (str(error), "")
    return FileProblem(
        path,
        "Something in it is not understood.",
        faults=(Place(where + _named(body, where), f"{what}.", ""),),
        remedy=f"Correct it in a text editor, or open the last copy that was whole. {KEPT}",
    )


def _named(body: Any, where: str) -> str:
    """The identifier of the list item that a path leads into, for people: " (M3)"."""
    match = re.match(r"(\w+)\[(\d+)\]", where)
    if not match:
        return ""
    try:
        item = body[match[1]][int(match[2])]
    except (KeyError, IndexError, TypeError):
        return ""
    name = item.get("designator", item.get("id")) if isinstance(item, dict) else None
    return f" ({name})" if isinstance(name, str) else ""


def read_bytes(path: Path) -> bytes:
    """The bytes of a file, at most one more than `LARGEST_BYTES`. Raises `FileProblem`."""
    try:
        with path.open("rb") as stream:
            return stream.read(LARGEST_BYTES + 1)
    except OSError as error:
        raise FileProblem(
            str(path),
            f"It cannot be read: {error.strerror or error}.",
            remedy="Check the name and the rights of the file.",
        ) from None
    except ValueError:
        raise FileProblem(str(path), "That is not a file name.") from None


def open_machine(path: Path) -> Machine:
    """Reads a machine file. Raises `FileProblem`; never writes."""
    return decode_machine(read_bytes(path), str(path))


def write_whole(path: Path, data: bytes) -> None:
    """Writes a file so that at every moment either the old or the new one is there, whole."""
    import tempfile

    target = path.resolve() if path.is_symlink() else path
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{target.name[:40]}.", dir=target.parent)
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        mode = target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask()
        Path(temporary).chmod(mode)
        Path(temporary).replace(target)
    except OSError as error:
        if temporary:
            Path(temporary).unlink(missing_ok=True)
        raise FileProblem(
            str(path),
            f"It cannot be written: {error.strerror or error}.",
            remedy="Nothing was lost. Save it in another folder.",
        ) from None


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def save_machine(machine: Machine, path: Path) -> None:
    """Writes a machine file. Raises `FileProblem`, and then the old file is still whole."""
    write_whole(path, encode_machine(machine))
