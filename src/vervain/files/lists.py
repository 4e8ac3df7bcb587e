"""Taking devices and pin tables in from a spreadsheet: first what would happen, row by row.

Both are a table with a head. A device list has a column of parts (an id, a title, or a model), and
may have designators, names, axes and places. A pin table has a column of conductors' ends: "from
device", "from pin", "to device", "to pin", and perhaps a cable and a core.
"""

import codecs
import io
import logging
import warnings
import zipfile
from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from difflib import get_close_matches
from itertools import islice, product
from pathlib import Path
from typing import Literal, NamedTuple

from msgspec.structs import replace

from vervain.catalogue.rows import read_rows
from vervain.edits.cable_edits import add_cable
from vervain.edits.device_edits import add_device, find_device, part_in
from vervain.edits.pin_names import pin_of_device, pins_of_device
from vervain.edits.plug_edits import is_joined, put_conductor
from vervain.edits.route_edits import add_place
from vervain.files.problems import FileProblem
from vervain.files.reading import read_bytes
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part
from vervain.model.problem import Problem
from vervain.model.validation import checked

LARGEST_BYTES = 8_000_000
# A workbook is packed: what it may unpack to, and how many rows of it are looked at.
LARGEST_UNPACKED_BYTES = 24_000_000
MOST_SHEET_ROWS = 20_000
# Each row is tried on the machine after those before it.
MOST_ROWS = 2000
MOST_COLUMNS = 200
log = logging.getLogger("vervain")
# What heads may be called, in any case.
DEVICE_HEADS: dict[str, tuple[str, ...]] = {
    "designator": ("designator", "device", "ref", "reference", "mark"),
    "part": ("part", "part id", "model", "type"),
    "name": ("name", "description", "function"),
    "place": ("place", "location", "where"),
}
PIN_HEADS: dict[str, tuple[str, ...]] = {
    "from": ("from", "from device", "device a", "a"),
    "from pin": ("from pin", "pin a", "from terminal"),
    "to": ("to", "to device", "device b", "b"),
    "to pin": ("to pin", "pin b", "to terminal"),
    "cable": ("cable", "wire"),
    "core": ("core", "core number"),
    "kind": ("cable kind", "kind"),
}
Verdict = Literal["taken", "left out", "there already"]


# What begins a formula in a spreadsheet, and has an apostrophe before it in our own tables.
FORMULA_MARKS = ("=", "+", "-", "@")


class ImportRow(NamedTuple):
    """What becomes of one row of the file: its number there, its text, and the reason in words."""

    number: int
    text: str
    verdict: Verdict
    words: str


class Import(NamedTuple):
    """A dry run: what each row does, and the machine after it."""

    kind: Literal["devices", "conductors"]
    rows: tuple[ImportRow, ...]
    machine: Machine

    def count(self, verdict: Verdict) -> int:
        """How many rows have a verdict."""
        return sum(row.verdict == verdict for row in self.rows)


class Sheet(NamedTuple):
    """A table as it was read: heads in lower case, and rows by their number in the file."""

    heads: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]


def read_sheet(path: Path) -> Sheet:
    """The first table of a CSV (or text with tabs) or XLSX file. Raises `FileProblem`."""
    data = read_bytes(path, LARGEST_BYTES)
    if len(data) > LARGEST_BYTES:
        raise FileProblem(str(path), "It is too large for a list of devices or pins.")
    if data[:2] == b"PK":
        rows = _xlsx_rows(data, path)
    else:
        text = _decoded(data, path)
        found = read_rows(text, LARGEST_BYTES, MOST_ROWS + 2)
        rows = [(row.number, row.cells) for row in found]
    if len(rows) > MOST_ROWS + 1:
        raise FileProblem(
            str(path), f"It has more than {MOST_ROWS} rows, the last of them in row "
            f"{rows[MOST_ROWS][0]}.", remedy="Divide it into several lists.",
        )  # fmt: skip
    if len(rows) < 2:
        raise FileProblem(
            str(path), "It holds no rows under a head.",
            remedy="The first row names the columns: designator, part, name …",
        )  # fmt: skip
    heads = tuple(" ".join(cell.casefold().split()) for cell in rows[0][1])
    return Sheet(heads, tuple(rows[1:]))


def _decoded(data: bytes, path: Path) -> str:
    """The text of a list as spreadsheets save it: UTF-8, UTF-16 with its mark, else Windows-1252,
    in which nearly every byte is a letter. Raises `FileProblem`.
    """
    marks = codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE
    encodings = ("utf-16",) if data[:2] in marks else ("utf-8-sig", "cp1252")
    for encoding in encodings:
        with suppress(UnicodeDecodeError):
            text = data.decode(encoding)
            if "\0" not in text:
                return text
    raise FileProblem(
        str(path), "It is no text in UTF-8, UTF-16 or Windows-1252, and no workbook.",
        remedy="Save it as CSV (UTF-8) or XLSX.",
    )  # fmt: skip


def pasted_sheet(text: str) -> Sheet:
    """Rows that were copied from a table: with a head as in a list, or without one as two pins
    (“K1 IN 7 S”, “B1 OUT”), a cable and a core. Raises `Problem`.
    """
    rows = [(row.number, row.cells) for row in read_rows(text, LARGEST_BYTES, MOST_ROWS + 1)]
    if not rows:
        raise Problem("Nothing was pasted.")
    if len(rows) > MOST_ROWS:
        raise Problem(f"More than {MOST_ROWS} rows were pasted.", remedy="Paste fewer at once.")
    heads = tuple(" ".join(cell.casefold().split()) for cell in rows[0][1])
    if {"from", "to"} & set(heads):
        return Sheet(heads, tuple(rows[1:]))
    found = []
    for number, cells in rows:
        ends = [end for cell in (*cells, "", "")[:2] for end in _device_and_pin(cell)]
        found.append((number, (*ends, *cells[2:4])))
    return Sheet(("from", "from pin", "to", "to pin", "cable", "core"), tuple(found))


def _device_and_pin(cell: str) -> tuple[str, str]:
    device, _, pin = " ".join(cell.replace(".", " ", 1).split()).partition(" ")
    return device, pin


def _xlsx_rows(data: bytes, path: Path) -> list[tuple[int, tuple[str, ...]]]:
    """The rows of the first sheet of a workbook that hold something. Raises `FileProblem`."""
    from openpyxl import load_workbook

    found: list[tuple[int, tuple[str, ...]]] = []
    try:
        _refuse_unpacking(data, path)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        rows = sheet.iter_rows(values_only=True, max_row=MOST_SHEET_ROWS, max_col=MOST_COLUMNS)
        for number, row in enumerate(islice(rows, MOST_SHEET_ROWS), 1):
            cells = _without_empty_end(row)
            if any(cells):
                found.append((number, cells))
            if len(found) > MOST_ROWS + 1:
                break
    except FileProblem:
        raise
    except Exception as error:
        # A broken workbook fails anywhere within openpyxl, in whatever way.
        log.info("%s is no workbook: %r", path, error)
        raise FileProblem(
            str(path), "It is no workbook that can be read.", remedy="Save it as CSV (UTF-8)."
        ) from None
    return found


def _refuse_unpacking(data: bytes, path: Path) -> None:
    """Refuses a workbook that would unpack to far more than a list takes. No entry can unpack to
    more than its head says: reading stops there.
    """
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        entries = [
            entry for entry in packed.infolist() if not entry.filename.startswith("xl/media")
        ]
        unpacked = sum(entry.file_size for entry in entries)
    if unpacked > LARGEST_UNPACKED_BYTES:
        raise FileProblem(
            str(path),
            f"It unpacks to {unpacked / 1e6:.0f} MB; a list has at most "
            f"{LARGEST_UNPACKED_BYTES / 1e6:.0f} MB.",
            remedy="Save its first sheet as CSV (UTF-8).",
        )


def _without_empty_end(row: tuple[object, ...]) -> tuple[str, ...]:
    """The texts of a row's cells, up to the last that is filled."""
    cells = ["" if value is None else _cell_text(value) for value in row]
    while cells and not cells[-1]:
        cells.pop()
    return tuple(cells)


def _cell_text(value: object) -> str:
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return " ".join(str(value).split())[:300]


def _columns(heads: tuple[str, ...], known: Mapping[str, tuple[str, ...]]) -> dict[str, int]:
    """The column of each thing that is known by one of its heads."""
    found: dict[str, int] = {}
    for key, names in known.items():
        at = next((heads.index(name) for name in names if name in heads), None)
        if at is not None:
            found[key] = at
    return found


def dry_run(
    machine: Machine, sheet: Sheet, parts: Iterable[Part], cables: Iterable[CablePart]
) -> Import:
    """What a sheet would do to a machine, row by row; the machine given stays as it is. Raises
    `Problem` where its head names neither parts nor ends.
    """
    pins = _columns(sheet.heads, PIN_HEADS)
    if {"from", "from pin", "to", "to pin"} <= set(pins):
        kinds = {part.id: part for part in (*cables, *machine.cable_parts)}
        rows, after = _row_by_row(
            machine, sheet, lambda now, cells: _take_conductor(now, cells, pins, kinds)
        )
        return Import("conductors", rows, after)
    columns = _columns(sheet.heads, DEVICE_HEADS)
    if "part" in columns:
        shelf = {part.id: part for part in (*parts, *machine.parts)}
        rows, after = _row_by_row(
            machine, sheet, lambda now, cells: _take_device(now, cells, columns, shelf)
        )
        return Import("devices", rows, after)
    raise Problem(
        "Its head is neither that of a device list nor of a pin table.",
        place="the first row",
        remedy="A device list wants a column “part”; a pin table “from”, “from pin”, “to” and "
        "“to pin”.",
    )


def _cell(cells: tuple[str, ...], columns: dict[str, int], key: str) -> str:
    at = columns.get(key)
    text = cells[at].strip() if at is not None and at < len(cells) else ""
    # The mark that keeps a spreadsheet from taking a text for a formula.
    return text[1:] if text[:1] == "'" and text[1:2] in FORMULA_MARKS else text


Taker = Callable[[Machine, tuple[str, ...]], tuple[Machine, str]]


def _row_by_row(
    machine: Machine, sheet: Sheet, take: Taker
) -> tuple[tuple[ImportRow, ...], Machine]:
    """Every row in turn, each on the machine after the one before; what is refused says why."""
    rows = []
    for number, cells in sheet.rows:
        text = ", ".join(cell for cell in cells if cell)[:120]
        try:
            after, words = take(machine, cells)
            machine = checked(machine, after)
            rows.append(ImportRow(number, text, "taken", words))
        except _AlreadyThere as there:
            rows.append(ImportRow(number, text, "there already", str(there)))
        except Problem as problem:
            words = f"{problem.what} {problem.remedy}".strip()
            rows.append(ImportRow(number, text, "left out", words))
    return tuple(rows), machine


class _AlreadyThere(Exception):  # noqa: N818 - a verdict, not an error
    """A row that says what is so already."""


def _take_device(
    machine: Machine, cells: tuple[str, ...], columns: dict[str, int], shelf: Mapping[str, Part]
) -> tuple[Machine, str]:
    part = _part_named(_cell(cells, columns, "part"), shelf)
    designator = _cell(cells, columns, "designator").upper()
    name = " ".join(_cell(cells, columns, "name").split())[:80] or part.title[:80]
    known = next((d for d in machine.devices if d.designator == designator), None)
    if known is not None and known.part == part.id:
        raise _AlreadyThere(f"{designator} is there already.")
    machine = add_device(machine, part, name, designator)
    made = machine.devices[-1]
    place_name = " ".join(_cell(cells, columns, "place").split())
    if place_name:
        wanted = place_name.casefold()
        place = next((p for p in machine.places if p.name.casefold() == wanted), None)
        if place is None:
            machine = add_place(machine, place_name)
            place = machine.places[-1]
        at = replace(made, place=place.id)
        machine = replace(machine, devices=(*machine.devices[:-1], at))
    return machine, f"{made.designator} {name}: {part.title}"


def _part_named(text: str, shelf: Mapping[str, Part]) -> Part:
    """The part with an id, a title, or a maker's model."""
    wanted = " ".join(text.casefold().split())
    if not wanted:
        raise Problem("No part is named.")
    for part in shelf.values():
        names = (part.id, part.title, part.model, f"{part.maker} {part.model}")
        if wanted in (" ".join(name.casefold().split()) for name in names if name):
            return part
    near = get_close_matches(wanted, list(shelf), n=1)
    hint = f"Did you mean “{near[0]}”?" if near else "Describe it first, or use its id."
    raise Problem(f"No part is called “{text[:60]}”.", remedy=hint)


def _cable_part_named(text: str, cables: Mapping[str, CablePart]) -> CablePart:
    """The cable part with an id or a title."""
    wanted = " ".join(text.casefold().split())
    for part in cables.values():
        if wanted in (part.id.casefold(), " ".join(part.title.casefold().split())):
            return part
    near = get_close_matches(wanted, [part.title for part in cables.values()], n=1)
    remedy = f"Did you mean “{near[0]}”?" if near else ""
    raise Problem(f"No cable is called “{text[:60]}”.", remedy=remedy)


def _halves(machine: Machine, device: str, text: str) -> tuple[PinRef, ...]:
    """The pins that a text may mean at an in-line connector; elsewhere the one pin. Raises
    `Problem`.
    """
    found = pins_of_device(machine, device, text)
    part = part_in(machine, find_device(machine, found[0].device))
    is_connector = part is not None and part.kind == "connector"
    return found if is_connector else (pin_of_device(machine, device, text),)


def _take_conductor(
    machine: Machine,
    cells: tuple[str, ...],
    columns: dict[str, int],
    cables: Mapping[str, CablePart],
) -> tuple[Machine, str]:
    start = tuple(_cell(cells, columns, key) for key in ("from", "from pin"))
    end = tuple(_cell(cells, columns, key) for key in ("to", "to pin"))
    # A name is in both halves of an in-line connector; what is joined so already is meant.
    for a, b in product(_halves(machine, *start), _halves(machine, *end)):
        if any(is_joined(hookup, a, b) for hookup in machine.hookups):
            raise _AlreadyThere(f"{a.device} {a.pin} is joined to {b.device} {b.pin} already.")
    a, b = pin_of_device(machine, *start), pin_of_device(machine, *end)
    cable = _cell(cells, columns, "cable")
    core_text = _cell(cells, columns, "core")
    core = int(core_text) if core_text.isdecimal() and len(core_text) < 6 else None
    if core_text and core is None:
        raise Problem(f"“{core_text[:20]}” is not the number of a core.", remedy="Cores are 1, 2 …")
    words = f"{a.device} {a.pin} to {b.device} {b.pin}"
    if cable and all(known.id != cable for known in machine.cables):
        kind = _cell(cells, columns, "kind")
        part = _cable_part_named(kind, cables) if kind else cables.get(cable)
        if part is None:
            raise Problem(
                f"There is no cable {cable}.",
                remedy="Say its kind in a column “cable kind”, or add it on Harness first.",
            )
        machine = add_cable(machine, part, cable if kind else "")
        cable = machine.cables[-1].id
    machine = put_conductor(machine, a, b, cable or None, core)
    return machine, f"{words} by {cable}" if cable else words
