"""A pin table and a colour list joined by pin number; every row stays, with what is wrong at it."""

import itertools
import re
from collections import Counter
from collections.abc import Iterator

from msgspec.structs import replace

from vervain.catalogue.layouts import PRINT, as_table, named_as_table, one_a_row, unnamed_as_table
from vervain.catalogue.manual import ManualRow, function_said, is_manual, manual_rows, number_of
from vervain.catalogue.one_list import as_usual_connectors
from vervain.catalogue.pin_words import (
    function_at,
    kinds_printed_by_standard,
    read_function,
)
from vervain.catalogue.port_names import port_names
from vervain.catalogue.printed_lists import printed_rows
from vervain.catalogue.rows import LONGEST_TEXT, TypedRow, read_rows
from vervain.catalogue.table_heads import HEADERS
from vervain.catalogue.terminal_lines import is_safety_relay, terminals_apart
from vervain.model.base import Record
from vervain.model.colours import read_colour
from vervain.model.part import BOARD_KINDS, PartKind, PinFunction

NUMBERED = re.compile(r"^\s*[A-Za-z]{0,2}\d{1,3}[A-Za-z]?\s*$")
# A line of several prints and nothing else: D2 ~D3 D4 D5.
LINE_OF_PRINTS = re.compile(r"^[A-Z~]+\d*(?:[ ,]+~?[A-Z]+\d*){3,}$", re.MULTILINE)
LONGEST_NAME = 80
# How a mark begins that says of a line that it was read in part.
READ_IN_PART = "Only “"
MOST_MISSING = 100
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


class Columns(Record, frozen=True, kw_only=True):
    """Which cell of a row is what; None where there is no such column, or it is not headed."""

    pin: int | None = None
    function: int | None = None
    colour: int | None = None
    port: int | None = None


def _columns(row: TypedRow) -> Columns | None:
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


def _by_plug(rows: tuple[TypedRow, ...], kind: str) -> Columns | None:
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


def _cell(row: TypedRow, at: int | None) -> str:
    return row.cells[at] if at is not None and at < len(row.cells) else ""


def _pin_row(row: TypedRow, columns: Columns | None, kind: str) -> JoinedRow:
    """A row of the pin table. Without a heading: the pin, then its function; a colour anywhere."""
    if columns is not None:
        pin, name = _cell(row, columns.pin), _cell(row, columns.function)
        colour, port = _cell(row, columns.colour), _cell(row, columns.port)
    else:
        # "centre tap A" may have been parted at its spaces; it is one function all the same.
        cells = [row.text] if read_function(row.text, kind) else _parted(row, kind)
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
        marks.append(_unknown_name(name))
    words = row.text.split()
    unread = [word for word in words if word not in (pin, colour) and word not in name.split()]
    if columns is None and len(unread) > 1 and all(map(PRINT.match, words)):
        marks.append(
            f"{READ_IN_PART}{name or pin}” of this line is read: write each terminal in a line."
        )
    code = read_colour(colour) if colour else None
    if colour and code is None:
        marks.append(_unknown_colour(colour))
    return JoinedRow(
        pin=pin[:LONGEST_NAME],
        name=name[:LONGEST_NAME],
        function=function,
        colour=code,
        port=port[:LONGEST_NAME],
        marks=tuple(marks),
        text=row.text,
    )


def _sides_apart(rows: tuple[TypedRow, ...], kind: str) -> Iterator[TypedRow]:
    """The rows, a plus with its way back in one line as two of them: B+ B-."""
    for row in rows:
        words = row.text.split()
        functions = [read_function(word, kind) for word in words]
        is_pair = len(words) == 2 and all(side & set(functions) for side in SIDES)
        if is_pair and not any(map(read_colour, words)):
            yield from (replace(row, cells=(word,), text=word) for word in words)
        else:
            yield row


def _parted(row: TypedRow, kind: str) -> list[str]:
    """The cells of a row; of one that single spaces part, "1 black A+", a cell for each word where
    one of them is a colour and one a function.
    """
    words = row.text.split()
    is_spaced = len(row.cells) == 2 and len(words) == 3 and " ".join(row.cells) == row.text
    told = any(read_colour(w) for w in words[1:]) and any(read_function(w, kind) for w in words[1:])
    return words if is_spaced and told and NUMBERED.match(words[0]) else list(row.cells)


def _by_port(row: JoinedRow, kind: str) -> JoinedRow:
    """A row with the function that its name has at its port, where the port's name tells it."""
    function = function_at(row.port, row.name, kind) if row.port and row.name else None
    if function is None:
        return row
    marks = tuple(mark for mark in row.marks if mark != _unknown_name(row.name))
    return replace(row, function=function, marks=marks)


def _unknown_name(name: str) -> str:
    return f"“{name}” is no function that Vervain knows; it stays as the name."


def _unknown_colour(text: str) -> str:
    may_be = AMBIGUOUS.get(text.casefold().strip())
    if may_be is not None:
        return f"The colour “{text}” may be {may_be}; write it out."
    return f"“{text}” is no colour that Vervain knows."


def _split_headings(rows: tuple[TypedRow, ...]) -> tuple[Columns | None, tuple[TypedRow, ...]]:
    # Lines that only rule a table; a plus or a minus by itself is a pin, as both of them are.
    rows = tuple(r for r in rows if r.text.strip("|+-=: \t") or {*r.text.split()} <= {"+", "-"})
    columns = _columns(rows[0]) if rows else None
    return (columns, rows[1:]) if columns is not None else (None, rows)


class ColourRow(Record, frozen=True, kw_only=True):
    """A row of the colour list: the pin or function it names (empty: by its place), the colour."""

    key: str
    place: int
    colour: str | None
    said: str
    text: str


def _colour_rows(text: str) -> list[ColourRow]:
    columns, rows = _split_headings(read_rows(text))
    found = []
    for place, row in enumerate(rows):
        if columns is not None and columns.colour is not None:
            said = _cell(row, columns.colour)
            key = _cell(row, columns.pin) or _cell(row, columns.function)
        else:
            cells = [cell for cell in row.cells if cell]
            # "white brown stripe" may have been parted at its spaces; it is one colour.
            whole = bool(cells) and read_colour(cells[0].split()[0]) is not None
            plain = not any(letter.isdigit() for letter in row.text)
            said = row.text if whole and plain and read_colour(row.text) else ""
            if not said:
                numbered = next((c for c in cells[:1] if NUMBERED.match(c)), None)
                others = [c for c in cells if c is not numbered] if numbered else cells
                said = next((c for c in others if read_colour(c)), others[-1] if others else "")
            key = next((cell for cell in cells if cell != said), "") if said != row.text else ""
        found.append(
            ColourRow(
                key=key.strip(" ,:;."),
                place=place,
                colour=read_colour(said),
                said=said,
                text=row.text,
            )
        )
    return found


def join(pins_text: str, colours_text: str, kind: PartKind) -> tuple[JoinedRow, ...]:
    """The pins of a part from its pin table and its colour list.

    A colour goes to the pin of its number, else to the pin of its function, else, where the list
    has colours only, to the pin of its place. What belongs to no pin is a row of its own.
    """
    if kind in kinds_printed_by_standard() or (
        kind == "relay module" and is_safety_relay(pins_text[:LONGEST_TEXT])
    ):
        pins_text = terminals_apart(pins_text[:LONGEST_TEXT])
    pins_text = as_usual_connectors(as_table(pins_text), kind)
    if kind not in BOARD_KINDS:
        pins_text = one_a_row(pins_text, kind)
    columns, typed = _split_headings(read_rows(pins_text))
    columns = columns or _by_plug(typed, kind)
    has_ports = columns is not None and columns.port is not None
    if kind in BOARD_KINDS and not has_ports:
        named = named_as_table(pins_text, kind)
        if named != pins_text:
            return join(named, colours_text, kind)
        if listed := printed_rows(pins_text, kind):
            return tuple(_by_port(_manual_row(row), kind) for row in listed)
        pins_text = unnamed_as_table(pins_text, kind)
        columns, typed = _split_headings(read_rows(pins_text))
        has_ports = columns is not None and columns.port is not None
    if kind in BOARD_KINDS and not has_ports and is_manual(pins_text, kind):
        manual = [_by_port(_manual_row(r), kind) for r in manual_rows(pins_text, kind)]
        if _may_be_a_list(manual) and (listed := printed_rows(pins_text, kind, is_open=True)):
            return tuple(_by_port(_manual_row(row), kind) for row in listed)
        return tuple(_mark_doubles(_mark_doubtful_names(manual, kind)))
    if (
        kind == "controller"
        and not has_ports
        and LINE_OF_PRINTS.search(pins_text)
        and (listed := printed_rows(pins_text, kind, is_open=True))
    ):
        return tuple(_by_port(_manual_row(row), kind) for row in listed)
    typed = typed if columns is not None else tuple(_sides_apart(typed, kind))
    read = _numbered_by_place([_pin_row(row, columns, kind) for row in typed])
    pins: dict[str, set[str]] = {}
    for found in read:
        pins.setdefault(found.port, set()).add(found.pin)
    rows = [
        _by_port(replace(found, port=port[:LONGEST_NAME]), kind)
        for found in read
        for port in port_names(found.port, pins[found.port])
    ]
    if has_ports and columns is not None and columns.pin is None:
        rows = _numbered_by_port(rows)
    colours = _colour_rows(colours_text)
    if not rows and colours:
        rows = [JoinedRow(pin=c.key or str(c.place + 1)) for c in colours]
        rows = [replace(row, marks=("Its function is missing.",)) for row in rows]
    rows = _mark_doubles(rows)
    by_place = all(not colour.key for colour in colours)
    left: list[JoinedRow] = []
    for colour in colours:
        at = _row_for(rows, colour, kind, by_place)
        if at is None:
            left.append(_colour_of_no_pin(colour))
        else:
            rows[at] = _with_colour(rows[at], colour)
    return tuple(_mark_colours([*rows, *left], bool(colours)))


def _may_be_a_list(manual: list[JoinedRow]) -> bool:
    """Whether what was read as headings with their pins may be a list with a word that nobody
    knows: something is left over, or most of it stands before the first heading.
    """
    bare = sum(row.is_used and not row.port for row in manual)
    left = any(not row.is_used and PRINT.match(row.text) for row in manual)
    return left or 2 * bare > len(manual)


def _numbered_by_place(rows: list[JoinedRow]) -> list[JoinedRow]:
    """Rows whose pin is not given, by their place; by a number that is left where that is given to
    another: A1, A2, “1 L1”.
    """
    given = {row.pin for row in rows if row.pin}
    left = map(str, itertools.count(len(rows) + 1))
    found = []
    for number, row in enumerate(rows, 1):
        pin = row.pin or (str(number) if str(number) not in given else next(left))
        found.append(row if row.pin else replace(row, pin=pin))
        given.add(pin)
    return found


def _numbered_by_port(rows: list[JoinedRow]) -> list[JoinedRow]:
    """Rows of a table without numbers: the terminals of each port count from 1."""
    count: Counter[str] = Counter()
    found = []
    for row in rows:
        count[row.port] += 1
        found.append(replace(row, pin=str(count[row.port])))
    return found


def _manual_row(row: ManualRow) -> JoinedRow:
    """A row of a manual; a line that says nothing of a pin is kept and not used."""
    if not row.pin:
        return JoinedRow(pin="–", name=row.text[:LONGEST_NAME], is_used=False, text=row.text)
    marks = [_unknown_name(row.name)] if row.function is None else []
    return JoinedRow(
        pin=row.pin, name=row.name[:LONGEST_NAME], function=row.function, port=row.port,
        marks=tuple(marks), text=row.text,
    )  # fmt: skip


def _mark_doubtful_names(rows: list[JoinedRow], kind: str) -> list[JoinedRow]:
    """Says at the first pin of a connector whose name may be that of a terminal what it was taken
    for: “IN4” over “24V”, where nothing is numbered.
    """
    found = list(rows)
    seen: set[str] = set()
    for number, row in enumerate(rows):
        is_first = row.is_used and row.port and row.port not in seen
        seen.add(row.port)
        is_plain = row.port.isalpha() or read_function(row.port, kind) is None
        if is_first and not is_plain and not number_of(row.text):
            mark = f"“{row.port}” is taken for a connector’s name: is it? A line “NAME: 24V 0V” is."
            found[number] = replace(row, marks=(*row.marks, mark))
    return found


def _row_for(rows: list[JoinedRow], colour: ColourRow, kind: str, by_place: bool) -> int | None:
    if by_place:
        used = [at for at, row in enumerate(rows) if row.is_used]
        return used[colour.place] if colour.place < len(used) else None
    key = colour.key.casefold()
    for at, row in enumerate(rows):
        if row.is_used and row.pin.casefold() == key:
            return at
    function = read_function(colour.key, kind)
    for at, row in enumerate(rows):
        same = row.name.casefold() == key or (function is not None and row.function == function)
        if row.is_used and same and (row.colour is None or colour.colour is None):
            return at
    return None


def _with_colour(row: JoinedRow, colour: ColourRow) -> JoinedRow:
    if colour.colour is None:
        return replace(row, marks=(*row.marks, _unknown_colour(colour.said)))
    if row.colour is not None and row.colour != colour.colour:
        words = f"{row.colour} in one place, {colour.colour} in the other: one of them is wrong."
        return replace(row, marks=(*row.marks, words))
    return replace(row, colour=colour.colour)


def _colour_of_no_pin(colour: ColourRow) -> JoinedRow:
    words = (
        f"There is no pin “{colour.key}”." if colour.key else "There are fewer pins than colours."
    )
    return JoinedRow(
        pin=colour.key or "–",
        colour=colour.colour,
        marks=(words,),
        is_used=False,
        text=colour.text,
    )


def _mark_doubles(rows: list[JoinedRow]) -> list[JoinedRow]:
    """The second of two rows for one pin is not used; both say which it is."""
    first: dict[tuple[str, str], int] = {}
    found = list(rows)
    for at, row in enumerate(rows):
        key = (row.port, row.pin.casefold())
        if not row.is_used:
            continue
        if key not in first:
            first[key] = at
            continue
        other = found[first[key]]
        same = other.function == row.function and other.name == row.name
        words = "is there twice" if same else "is given two functions"
        mark = f"Pin {row.pin} {words}; the first one counts."
        found[at] = replace(row, marks=(*row.marks, mark), is_used=False)
        if not same:
            found[first[key]] = replace(other, marks=(*other.marks, mark))
    return found


def _mark_colours(rows: list[JoinedRow], listed: bool) -> list[JoinedRow]:
    """Marks pins without a colour, where others have one, and colours that are there twice."""
    given = Counter(row.colour for row in rows if row.colour and row.is_used)
    some = listed or bool(given)
    found = []
    for row in rows:
        marks = list(row.marks)
        if row.is_used and some and row.colour is None and not any("colour" in m for m in marks):
            marks.append("Its colour is missing.")
        if row.is_used and row.colour and given[row.colour] > 1:
            others = [r.pin for r in rows if r.colour == row.colour and r is not row and r.is_used]
            marks.append(f"{row.colour} is at pin {', '.join(others)} too.")
        found.append(replace(row, marks=tuple(marks)))
    return found


def missing_numbers(rows: tuple[JoinedRow, ...]) -> tuple[str, ...]:
    """Pin numbers left out between the lowest and highest of a port, where pins are numbered."""
    ports: dict[str, set[str]] = {}
    for row in rows:
        if row.is_used:
            ports.setdefault(row.port, set()).add(row.pin)
    # Beside pins that are called by what is printed there, a number is only that of a row.
    numbered = [{int(p) for p in pins} for pins in ports.values() if all(map(str.isdecimal, pins))]
    missing = {
        number
        for numbers in numbered
        if max(numbers) - min(numbers) <= MOST_MISSING
        for number in range(min(numbers), max(numbers))
        if number not in numbers
    }
    return tuple(map(str, sorted(missing)))
