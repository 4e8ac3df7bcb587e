"""What the leads of loads are: lamps with one lead together, several coils, two leads alone."""

import re
from collections import Counter

from msgspec.structs import replace

from vervain.catalogue.pin_rows import Rows, used_rows, with_functions
from vervain.model.part import PinFunction

ZERO = re.compile(r"^(?:0\s?V|GND|-|N|\u2212)$", re.I)
COMMON_MINUS = re.compile(r"^C(?:OM)?(?:MON)?\s*[-\u2212]$", re.I)
COMMON = re.compile(r"^C(?:OM)?(?:MON)?$", re.I)
# What the end of a coil, or of one way of a motor, may seem to be that stands beside a common.
MAY_BE_AN_END = (None, "none", "line", "load-", "com", "signal")
# An end that is only called: A and B are no plus and no minus beside a common.
NAMED_END = re.compile(r"^[A-Z]{1,4}\d{0,2}$|^\d{1,2}[A-Z]?$", re.I)
COIL = re.compile(r"^(?P<stem>[A-Z]{0,2}\d?)(?P<sign>[+-])$|^(?P<of>[A-Z])(?P<end>[12])$", re.I)
OF_MAINS: dict[str, PinFunction] = {"BN": "line", "BU": "neutral", "GNYE": "pe"}
SIGNS: dict[str, PinFunction] = {"+": "load+", "-": "load-", "1": "load+", "2": "load-"}


def colours_of_lamps(rows: Rows) -> Rows:
    """With a common minus each colour of a lamp is a plus: it is called so, or is a black or blue
    lead.
    """
    used = used_rows(rows)
    coloured = [row for row in used if row.colour and row.function is None and not row.name]
    has_common = any(row.function == "com" or COMMON_MINUS.match(row.text.strip()) for row in used)
    if len(coloured) > 1 and has_common:
        # Of a tower each light is called by its colour alone.
        called = {
            id(row): replace(row, name=row.colour or "", function="load-") for row in coloured
        }
        rows = tuple(replace(called.get(id(row), row), marks=()) for row in rows)
        used = used_rows(rows)
    common = [
        row for row in used
        if ZERO.match(row.name) or COMMON_MINUS.match(row.text.strip())
        or (row.function == "com" and row.colour in ("BK", "BU"))
    ]  # fmt: skip
    others = [row for row in used if row not in common]
    if len(common) != 1 or len(used) < 3 or any(row.function != "load-" for row in others):
        return rows
    told: dict[int, PinFunction | None] = {id(row): "load+" for row in others}
    return with_functions(rows, {**told, id(common[0]): "load-"})


def by_colours_of_mains(rows: Rows) -> Rows:
    """Of three leads of which only the colours are told, brown, blue and green-yellow are a line,
    the neutral and protective earth (IEC 60445).
    """
    used = used_rows(rows)
    if any(row.function or row.name for row in used):
        return rows
    if {row.colour for row in used} != set(OF_MAINS) or len(used) != len(OF_MAINS):
        return rows
    return with_functions(rows, {id(row): OF_MAINS[row.colour or ""] for row in used})


def of_a_fan(rows: Rows) -> Rows:
    """Of a fan of three leads of which only the colours are told, red and black feed it, and the
    third, which tells its speed, may stay open: the usage of the trade.
    """
    used = used_rows(rows)
    colours = {row.colour for row in used}
    if any(row.function or row.name for row in used) or len(used) != 3 or len(colours) != 3:
        return rows
    if not {"RD", "BK"} < colours or None in colours:
        return rows
    told: dict[str, PinFunction] = {"RD": "load+", "BK": "load-"}
    return with_functions(rows, {id(row): told.get(row.colour or "", "none") for row in used})


def several_ways(rows: Rows) -> Rows:
    """Beside one common the others are the ends of several coils, or of the two ways of a motor:
    C L R, OPEN CLOSE COM. An L there is no line of the mains; beside a neutral both ways are.
    """
    used = used_rows(rows)
    ways = [row for row in used if row.function == "load-"]
    if len(ways) > 1 and {row.function for row in used} <= {"load-", "neutral", "pe"}:
        return with_functions(rows, {id(row): "line" for row in ways if len(ways) < len(used)})
    common = [row for row in used if COMMON.match(row.name)]
    others = [row for row in used if row not in common]
    are_ends = all(
        row.name and (row.function in MAY_BE_AN_END or NAMED_END.match(row.name)) for row in others
    )
    if len(common) != 1 or len(others) < 2 or not are_ends:
        return rows
    told: dict[int, PinFunction | None] = {id(row): "load-" for row in others}
    return with_functions(rows, {**told, id(common[0]): "com"})


def coils(rows: Rows) -> Rows:
    """The ends of several coils, A+ A− B+ B− or A1 A2 B1 B2, each at a plug of its own."""
    used = used_rows(rows)
    ends = [
        (row, match["stem"] or match["of"] or "", match["sign"] or match["end"])
        for row in used if not row.port and (match := COIL.match(row.name))
    ]  # fmt: skip
    count = Counter((stem, sign) for _, stem, sign in ends)
    stems = {stem for stem, _ in count}
    is_pairs = len(stems) > 1 and len(ends) == len(used) == len(count) == 2 * len(stems)
    found = {
        id(row): replace(row, port=stem, function=SIGNS[sign], marks=())
        for row, stem, sign in ends
        if is_pairs
    }
    return tuple(found.get(id(row), row) for row in rows)


def two_leads(rows: Rows) -> Rows:
    """Of two leads without a word, red is the plus and black the minus; else the first and the
    second, as those of a coil or a heater are that minds no polarity.
    """
    used = used_rows(rows)
    if len(used) == 2 and sorted(row.text.casefold() for row in used) == ["black", "red"]:
        # No lamp is black: these are the colours of its leads.
        return with_functions(rows, {
            id(row): "load+" if row.text.casefold() == "red" else "load-" for row in used
        })  # fmt: skip
    if len(used) != 2 or any(row.function or row.name for row in used):
        return rows
    first, second = used
    if (first.colour, second.colour) in (("BK", "RD"), ("BU", "RD"), ("BU", "BN")):
        first, second = second, first
    return with_functions(rows, {id(first): "load+", id(second): "load-"})
