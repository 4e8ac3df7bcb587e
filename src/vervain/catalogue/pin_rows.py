"""The rows of a pin table: which cell of each is its number, its function, its colour, its port."""

import re
from collections import Counter
from collections.abc import Iterator, Mapping

from msgspec.structs import replace

from vervain.catalogue.layouts import PRINT
from vervain.catalogue.manual import function_said
from vervain.catalogue.pin_words import function_at, read_function
from vervain.catalogue.rows import TypedRow
from vervain.catalogue.table_heads import HEADERS
from vervain.model.base import Record
from vervain.model.colours import read_colour
from vervain.model.part import PinFunction

NUMBERED = re.compile(r"^\s*[A-Za-z]{0,2}\d{1,3}[A-Za-z]?\s*$")
LONGEST_NAME = 80
# How a mark begins that says of a line that it was read in part.
READ_IN_PART = "Only “"
# A plus and its way back.
SIDES: tuple[frozenset[PinFunction | None], ...] = (
    frozenset({"plus", "load+", "coil+", "motor+"}),
    frozenset({"zero", "load-", "coil-", "motor-"}),
)
AMBIGUOUS = {"b": "black, brown or blue", "g": "green or grey", "r": "red", "w": "white"}


class JoinedRow(Record, frozen=True, kw_only=True):
    """One pin as both lists tell it. `marks` say what is wrong; `is_used` whether it goes into the
    part; `text` is the row as it was typed.
    """

    pin: str
    name: str = ""
    function: PinFunction | None = None
    colour: str | None = None
    port: str = ""
    marks: tuple[str, ...] = ()
    is_used: bool = True
    text: str = ""


# Rows of a part, in the order in which they were typed.
Rows = tuple[JoinedRow, ...]


class Columns(Record, frozen=True, kw_only=True):
    """Which cell of a row is what; None where there is no such column, or it is not headed."""

    pin: int | None = None
    function: int | None = None
    colour: int | None = None
    port: int | None = None


def columns_of(row: TypedRow) -> Columns | None:
    """The columns that a heading row names; None where the row is no heading."""
    roles = [HEADERS.get(cell.casefold().strip(" .:")) for cell in row.cells]
    if len(row.cells) < 2 or sum(role is not None for role in roles) < len(roles) / 2:
        return None
    if "function" not in roles and {"port", "pin"} <= set(roles):
        # Two columns, terminal block and terminal: what the terminals are called says what they do.
        roles[roles.index("pin")] = "function"
    if "function" not in roles and "colour" not in roles:
        return None

    def at(role: str) -> int | None:
        return roles.index(role) if role in roles else None

    return Columns(pin=at("pin"), function=at("function"), colour=at("colour"), port=at("port"))


def columns_by_plug(rows: tuple[TypedRow, ...], kind: str) -> Columns | None:
    """The columns of a table without a heading whose first words are those of plugs: each stands
    before several functions, and says nothing of a pin.
    """
    firsts = [row.cells[0] for row in rows if len(row.cells) > 1]
    count = Counter(firsts)
    pairs = {row.cells[:2] for row in rows}
    if len(firsts) < len(rows) or len(count) < 2 or min(count.values()) < 2:
        return None
    told = all(read_function(row.cells[1], kind) for row in rows)
    mute = not any(NUMBERED.match(f) or read_function(f, kind) or read_colour(f) for f in count)
    return Columns(port=0, function=1) if told and mute and len(pairs) == len(rows) else None


def cell_of(row: TypedRow, at: int | None) -> str:
    """A cell of a row; empty where there is none."""
    return row.cells[at] if at is not None and at < len(row.cells) else ""


def pin_row(row: TypedRow, columns: Columns | None, kind: str) -> JoinedRow:
    """A row of the pin table. Without a heading: the pin, then its function; a colour anywhere."""
    if columns is not None:
        pin, name = cell_of(row, columns.pin), cell_of(row, columns.function)
        colour, port = cell_of(row, columns.colour), cell_of(row, columns.port)
    else:
        # "centre tap A" may have been parted at its spaces; it is one function all the same.
        is_whole = read_function(row.text, kind) is not None and not _is_counted(row, kind)
        cells = [row.text] if is_whole else _parted(row, kind)
        port = ""
        named = len(cells) > 1 and (
            NUMBERED.match(cells[0]) is not None or read_function(cells[0], kind) is None
        )
        pin = cells.pop(0) if named and read_colour(cells[0]) is None else ""
        name = next((c for c in cells if read_function(c, kind)), None) or next(
            (c for c in cells if c and read_colour(c) is None), ""
        )
        rest = [cell for cell in cells if cell and cell != name]
        if not name and re.search("[A-Za-z]", pin) and read_function(pin, kind):
            # What is printed at it says what it is for: "M1", with its colour beside it.
            name = pin
        short = [cell for cell in rest if len(cell.split()) <= 2 and len(cell) <= 24]
        colour = next((c for c in rest if read_colour(c)), next(iter(short), ""))
    marks = []
    function = read_function(name, kind) if name else None
    if function is None and columns is not None:
        # What the connector is called says nothing of a single pin at it.
        words = [cell for at, cell in enumerate(row.cells) if at != columns.port]
        function = function_said(" ".join(words), kind)
    if not name:
        marks.append("Its function is missing.")
    elif function is None:
        marks.append(unknown_name(name))
    words = row.text.split()
    unread = [word for word in words if word not in (pin, colour) and word not in name.split()]
    if columns is None and len(unread) > 1 and all(map(PRINT.match, words)):
        marks.append(
            f"{READ_IN_PART}{name or pin}” of this line is read: write each terminal in a line."
        )
    code = read_colour(colour) if colour else None
    if colour and code is None:
        marks.append(unknown_colour(colour))
    return JoinedRow(
        pin=pin[:LONGEST_NAME],
        name=name[:LONGEST_NAME],
        function=function,
        colour=code,
        port=port[:LONGEST_NAME],
        marks=tuple(marks),
        text=row.text,
    )


def sides_apart(rows: tuple[TypedRow, ...], kind: str) -> Iterator[TypedRow]:
    """The rows, a plus with its way back in one line as two of them: B+ B-."""
    for row in rows:
        words = row.text.split()
        functions = [read_function(word, kind) for word in words]
        is_pair = len(words) == 2 and all(side & set(functions) for side in SIDES)
        if is_pair and not any(map(read_colour, words)):
            yield from (replace(row, cells=(word,), text=word) for word in words)
        else:
            yield row


def _is_counted(row: TypedRow, kind: str) -> bool:
    """Whether a row is the number of its place and a terminal: V, the second of U, V and W, is no 2
    volts.
    """
    number, *rest = row.text.split()
    alone = read_function(rest[0], kind) if len(rest) == 1 else None
    return number == str(row.number) and alone not in (None, read_function(row.text, kind))


def _parted(row: TypedRow, kind: str) -> list[str]:
    """The cells of a row; of one that single spaces part, "1 black A+", a cell for each word where
    one of them is a colour and one a function.
    """
    words = row.text.split()
    is_spaced = len(row.cells) == 2 and len(words) == 3 and " ".join(row.cells) == row.text
    told = any(read_colour(w) for w in words[1:]) and any(read_function(w, kind) for w in words[1:])
    return words if is_spaced and told and NUMBERED.match(words[0]) else list(row.cells)


def by_port(row: JoinedRow, kind: str) -> JoinedRow:
    """A row with the function that its name has at its port, where the port's name tells it."""
    function = function_at(row.port, row.name, kind) if row.port and row.name else None
    if function is None:
        return row
    marks = tuple(mark for mark in row.marks if mark != unknown_name(row.name))
    return replace(row, function=function, marks=marks)


def unknown_name(name: str) -> str:
    """What a mark says of a function that no table has."""
    return f"“{name}” is no function that Vervain knows; it stays as the name."


def unknown_colour(text: str) -> str:
    """What a mark says of a colour that is none, or more than one."""
    may_be = AMBIGUOUS.get(text.casefold().strip())
    if may_be is not None:
        return f"The colour “{text}” may be {may_be}; write it out."
    return f"“{text}” is no colour that Vervain knows."


def split_headings(rows: tuple[TypedRow, ...]) -> tuple[Columns | None, tuple[TypedRow, ...]]:
    """The columns that the first row names, if it does, and the rows of pins without rules."""
    # Lines that only rule a table; a plus or a minus by itself is a pin, as both of them are.
    rows = tuple(r for r in rows if r.text.strip("|+-=: \t") or {*r.text.split()} <= {"+", "-"})
    # What has no pins below it heads nothing.
    columns = columns_of(rows[0]) if len(rows) > 1 else None
    return (columns, rows[1:]) if columns is not None else (None, rows)


def with_functions(rows: Rows, told: Mapping[int, PinFunction | None]) -> Rows:
    """The rows with other functions, by the `id` of those that have them."""
    return tuple(
        replace(row, function=told[id(row)], marks=()) if id(row) in told else row for row in rows
    )


def used_rows(rows: Rows) -> list[JoinedRow]:
    """The rows that go into the part."""
    return [row for row in rows if row.is_used]


def names_by_port(rows: Rows) -> dict[str, set[str]]:
    """What is printed at each plug."""
    found: dict[str, set[str]] = {}
    for row in rows:
        found.setdefault(row.port, set()).add(row.name.casefold())
    return found
