"""Part files: TOML written by hand, with comments. See docs/part-files.md."""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any, Literal

import msgspec

from vervain.data import FOLDER
from vervain.files.json_text import number_of
from vervain.files.problems import FileProblem, Place
from vervain.files.reading import read_bytes
from vervain.model.base import Millimetres, Record
from vervain.model.cable_part import CablePart
from vervain.model.part import Part
from vervain.model.references import part_faults
from vervain.model.validation import TROUBLE
from vervain.model.wanted import in_words, remedy_for


class Shelf(Record, frozen=True, kw_only=True):
    """The parts of one or several part files, by id."""

    parts: dict[str, Part]
    cable_parts: dict[str, CablePart]


class PartFile(Record, frozen=True, kw_only=True):
    """What one part file holds."""

    part: tuple[Part, ...] = ()
    cable_part: tuple[CablePart, ...] = ()


class _WrittenPin(msgspec.Struct):
    """What is read of a pin before the short forms are written out."""

    id: str = ""
    name: str = ""
    function: str = ""


class _WrittenPort(msgspec.Struct):
    """What is read of a port before the short forms are written out."""

    id: str = ""
    ids: list[str] | None = None
    step_mm: Millimetres = 0.0
    at_mm: Millimetres = 0.0
    needs: str | None = None
    belongs_to: str | list[str] | None = None
    pins: list[_WrittenPin] = []


class _WrittenPart(msgspec.Struct):
    """What is read of a part before the short forms are written out."""

    ports: list[_WrittenPort] = []
    inside: list[dict[str, Any]] = []
    joined: list[str] | Literal["by id"] = []
    through_slots: bool = False


class _WrittenFile(msgspec.Struct):
    """A part file with its short forms: the types that writing them out relies on."""

    part: list[_WrittenPart] = []


def decode_parts(text: str, path: str) -> PartFile:
    """The parts in the text of a part file. Raises `FileProblem` with the place."""
    try:
        text.encode()
        document = tomllib.loads(text, parse_float=number_of)
    except RecursionError:
        raise FileProblem(
            path, "It is not whole TOML.", faults=(Place("the whole", "is nested too deep.", ""),)
        ) from None
    except ValueError as error:
        raise FileProblem(
            path, "It is not whole TOML.", faults=(Place("the text", str(error), ""),)
        ) from None
    try:
        # First whether the short forms have the types that writing them out takes for granted.
        msgspec.convert(document, _WrittenFile)
        for part in document.get("part", ()):
            _write_out(part)
        found = msgspec.convert(document, PartFile)
    except msgspec.ValidationError as error:
        match = TROUBLE.match(str(error))
        what, where = (match["what"], match["where"]) if match else (str(error), "")
        raise FileProblem(
            path,
            "Something in it is not understood.",
            faults=(
                Place(
                    (where or "") + _part_named(document, where or ""),
                    in_words(what),
                    remedy_for(what, where or "", PartFile, document),
                ),
            ),
        ) from None
    faults = tuple(
        Place(part.id, what, remedy) for part in found.part for what, remedy in part_faults(part)
    )
    if faults:
        raise FileProblem(path, "A part in it does not fit together.", faults=faults)
    return found


def _write_out(part: dict[str, Any]) -> None:
    """Writes out the short forms of docs/part-files.md: `ids`, unnumbered pins, `joined`, slots."""
    ports: list[dict[str, Any]] = []
    for port in part.get("ports", ()):
        for number, pin in enumerate(port.get("pins", ())):
            pin.setdefault("id", str(number + 1))
        ids, step_mm = port.pop("ids", None), port.pop("step_mm", 0.0)
        if ids is None:
            ports.append(port)
            continue
        partners = port.pop("belongs_to", None)
        for number, port_id in enumerate(ids):
            made = {**port, "id": port_id, "at_mm": port.get("at_mm", 0) + number * step_mm}
            if isinstance(partners, list) and number < len(partners):
                made["belongs_to"] = partners[number]
            ports.append(made)
    if ports:
        part["ports"] = ports
    through = part.pop("through_slots", False)
    slots = [_through_slot(port, ports) for port in ports] if through else []
    joined = part.pop("joined", ())
    bridges: dict[str, list[tuple[str, str]]] = {}
    for port in ports:
        for pin in port.get("pins", ()):
            name = pin["id"] if joined == "by id" else pin.get("name", "")
            if joined == "by id" or name in joined:
                bridges.setdefault(name, []).append((port.get("id", ""), pin["id"]))
    inside = [{"type": "bridge", "pins": pins} for pins in bridges.values() if len(pins) > 1]
    inside += [{"type": "bridge", "pins": pins} for pairs in slots for pins in pairs]
    if inside:
        part["inside"] = [*part.get("inside", ()), *inside]


def _through_slot(port: dict[str, Any], ports: list[dict[str, Any]]) -> list[list[tuple[str, str]]]:
    """The phases of a motor port, joined to those of the slot that it needs."""
    if "needs" not in port:
        return []
    slot = next((other for other in ports if other.get("id") == port["needs"]), {})
    there = {pin.get("function"): pin["id"] for pin in slot.get("pins", ())}
    return [
        [(port.get("id", ""), pin["id"]), (port["needs"], there[pin["function"]])]
        for pin in port.get("pins", ())
        if pin.get("function") in there
    ]


def _part_named(document: dict[str, Any], where: str) -> str:
    head, _, tail = where.partition("[")
    try:
        return f" ({document[head][int(tail.partition(']')[0])]['id']})"
    except (KeyError, ValueError, IndexError, TypeError):
        return ""


def read_part_file(path: Path) -> PartFile:
    """Reads one part file. Raises `FileProblem`."""
    try:
        text = read_bytes(path).decode("utf-8")
    except UnicodeDecodeError as error:
        raise FileProblem(str(path), f"It is not UTF-8 text: {error.reason}.") from None
    return decode_parts(text, str(path))


def joined_shelf(files: list[tuple[str, PartFile]]) -> Shelf:
    """One shelf from several part files; raises `FileProblem` where an id is there twice."""
    parts: dict[str, Part] = {}
    cable_parts: dict[str, CablePart] = {}
    for path, found in files:
        for part in found.part:
            if part.id in parts:
                raise FileProblem(path, f"The part “{part.id}” is there twice.")
            parts[part.id] = part
        for cable_part in found.cable_part:
            if cable_part.id in cable_parts:
                raise FileProblem(path, f"The cable part “{cable_part.id}” is there twice.")
            cable_parts[cable_part.id] = cable_part
    return Shelf(parts=parts, cable_parts=cable_parts)


@cache
def shipped_shelf() -> Shelf:
    """The parts that ship with Vervain."""
    found = sorted((FOLDER / "parts").glob("*.toml"))
    return joined_shelf([(entry.name, read_part_file(entry)) for entry in found])
