"""The map of a controller as lines that a builder can read and change.

IN 4   discrete input 3
STOP   holding register 12 bit 0
ENC 1  input register 0, 2 words, times 0.25
ENC 2  input register 4, 2 words, low first
"""

import re
from typing import get_args

from vervain.model.live_entry import LAST_ADDRESS, LiveEntry, ModbusTable
from vervain.model.part import Part
from vervain.model.problem import Problem

LINE = re.compile(
    r"(?P<port>.+?)\s+(?P<table>coil|discrete input|holding register|input register)\s+"
    r"(?P<address>\d+)(?:\s+bit\s+(?P<bit>\d+))?(?P<rest>(?:\s*,\s*[^,]+)*)"
)
TABLES: dict[str, ModbusTable] = {name: name for name in get_args(ModbusTable)}
FORM = "Write a port, a table and an address, as in: IN 4  discrete input 3"


def map_text(entries: tuple[LiveEntry, ...]) -> str:
    """The lines of a map."""
    width = max((len(entry.port) for entry in entries), default=0)
    return "\n".join(f"{entry.port:{width}}  {_words(entry)}" for entry in entries)


def _words(entry: LiveEntry) -> str:
    words = f"{entry.table} {entry.address}"
    if entry.bit is not None:
        words += f" bit {entry.bit}"
    if entry.words > 1:
        words += f", {entry.words} words"
    if entry.low_first:
        words += ", low first"
    if entry.scale != 1:
        words += f", times {entry.scale:g}"
    return words


def read_map(text: str, part: Part) -> tuple[LiveEntry, ...]:
    """The map that some lines say. Raises `Problem` with the line that is not understood."""
    found: dict[str, LiveEntry] = {}
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        entry = _read_line(line.strip(), part, f"line {number}")
        if entry.port in found:
            raise Problem(f"{entry.port} stands twice.", place=f"line {number}")
        found[entry.port] = entry
    return tuple(found.values())


def _read_line(line: str, part: Part, place: str) -> LiveEntry:
    matched = LINE.fullmatch(line)
    if matched is None:
        raise Problem(f"“{line}” is not understood.", place=place, remedy=FORM)
    port, address = matched["port"], int(matched["address"])
    if part.port(port) is None:
        raise Problem(f"There is no port “{port}”.", place=place)
    if address > LAST_ADDRESS:
        raise Problem(f"{address} is beyond the last address, {LAST_ADDRESS}.", place=place)
    table, bit = matched["table"], matched["bit"]
    is_register = table.endswith("register")
    if bit is not None and (int(bit) > 15 or not is_register):
        raise Problem("A register has bits 0 to 15, other tables have none.", place=place)
    words, low_first, scale = 1, False, 1.0
    for piece in filter(None, map(str.strip, matched["rest"].split(","))):
        if piece in ("1 word", "2 words") and is_register:
            words = int(piece[0])
        elif piece == "low first" and is_register:
            low_first = True
        elif piece.startswith("times "):
            scale = _scale(piece.removeprefix("times "), place)
        else:
            raise Problem(f"“{piece}” is not understood.", place=place, remedy=FORM)
    return LiveEntry(
        port=port, table=TABLES[table], address=address, bit=None if bit is None else int(bit),
        words=words, low_first=low_first, scale=scale,
    )  # fmt: skip


def _scale(text: str, place: str) -> float:
    try:
        scale = float(text)
    except ValueError:
        scale = 0.0
    if not 1e-9 <= abs(scale) <= 1e9:
        raise Problem(f"“{text}” is no scale.", place=place, remedy="As in: times 0.25")
    return scale
