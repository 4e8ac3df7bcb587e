"""A pin table and a colour list joined by pin number; every row stays, with what is wrong at it."""

import itertools
import re
from collections import Counter

from msgspec.structs import replace

from vervain.catalogue.colour_lists import with_colours
from vervain.catalogue.layouts import (
    PRINT,
    as_table,
    one_a_row,
    unnamed_as_table,
)
from vervain.catalogue.line_names import named_apart, with_names_marked
from vervain.catalogue.manual import ManualRow, is_manual, manual_rows, number_of
from vervain.catalogue.one_list import as_usual_connectors
from vervain.catalogue.pin_rows import (
    LONGEST_NAME,
    JoinedRow,
    by_port,
    columns_by_plug,
    pin_row,
    sides_apart,
    split_headings,
    unknown_name,
)
from vervain.catalogue.pin_words import (
    has_no_wires,
    kinds_printed_by_standard,
    read_function,
)
from vervain.catalogue.port_names import port_names
from vervain.catalogue.print_blocks import blocks_of
from vervain.catalogue.printed_lists import LEAST_PRINTS, printed_rows
from vervain.catalogue.prints import WITH_SEVERAL
from vervain.catalogue.rows import LONGEST_TEXT, read_rows
from vervain.catalogue.terminal_lines import is_relay, terminals_apart
from vervain.model.part import BOARD_KINDS, PartKind

# The volts that a plus takes, printed behind it: VCC 9-30V.
VOLTS_BEHIND = re.compile(
    r"(?<!\S)((?:V(?:CC|IN|M|MOT|BAT|S)?|DC)\+?)[ \t]+(\d{1,2}(?:[.,]\d)?[-–]\d{1,2}V)(?!\S)", re.I
)
# Pins that stand in one line with strokes between them: 1 BN + / 3 BU - / 4 BK OUT.
LISTED_BY_SLASHES = re.compile(r"^.*\S[ \t]+/[ \t]+\S.*[ \t]+/[ \t]+\S.*$", re.MULTILINE)
# Two leads of a part that is no board, with one stroke between them: + YELLOW / - RED.
PARTED_BY_A_SLASH = re.compile(
    r"^([ \t]*\S+[ \t]+\S+)[ \t]+/[ \t]+(\S+[ \t]+\S+)[ \t]*$", re.MULTILINE
)
# Numbers that are listed, and do not count pins.
NUMBERS = re.compile(r"^[ \t]*(?!1[ ,\t])\d{1,2}(?:[ ,\t]+\d{1,2})+[ \t]*$", re.MULTILINE)
# The number of a terminal before what it is.
TERMINAL = re.compile(r"^\s*\d{1,2}\s*[:.)]?\s+(?=\S)")
# The pin of a printer port before what a breakout board has it for: P2 STEP X, P17 RELAY: NO COM.
BY_PIN = re.compile(r"^[ \t]*P\d{1,2}[ \t]+(?=(?!GND|0V|G\b)[A-Z]{2})", re.MULTILINE)
LEAST_BY_PIN = 3
MOST_MISSING = 100
NO_WIRES = "It takes a ready-made cable, and has no wires of its own."


def has_mains_terminals(text: str) -> bool:
    """Whether a list of terminals has a line and a neutral."""
    return {"l", "n"} <= set(re.findall(r"(?<!\S)[ln](?!\S)", text.casefold()))


def join(pins_text: str, colours_text: str, kind: PartKind) -> tuple[JoinedRow, ...]:
    """The pins of a part from its pin table and its colour list.

    A colour goes to the pin of its number, else to the pin of its function, else, where the list
    has colours only, to the pin of its place. What belongs to no pin is a row of its own.
    """
    pins_text = LISTED_BY_SLASHES.sub(
        lambda line: re.sub(r"[ \t]+/[ \t]+", "\n", line[0]), pins_text
    )
    if kind not in BOARD_KINDS:
        pins_text = PARTED_BY_A_SLASH.sub(r"\1\n\2", pins_text)
    if kind == "controller":
        # A line of its processor is called by its number: 12 13 14 27.
        pins_text = NUMBERS.sub(lambda line: re.sub(r"\d+", r"IO\g<0>", line[0]), pins_text)
        if len(BY_PIN.findall(pins_text)) >= LEAST_BY_PIN:
            pins_text = BY_PIN.sub("", pins_text)
        lines = [line for line in pins_text.splitlines() if line.strip()]
        if lines and has_mains_terminals(pins_text) and all(map(TERMINAL.match, lines)):
            # Terminals of a controller at the mains are counted through, whatever they are for.
            pins_text = "\n".join(TERMINAL.sub("", line) for line in lines)
    if kind in BOARD_KINDS:
        pins_text = VOLTS_BEHIND.sub(r"\1(\2)", pins_text)
    sockets = [line.strip() for line in pins_text.splitlines() if has_no_wires(line)]
    if sockets and kind in BOARD_KINDS:
        wired = (line for line in pins_text.splitlines() if not has_no_wires(line))
        return (
            *join("\n".join(wired), colours_text, kind),
            *(JoinedRow(pin="–", name=line, is_used=False, text=line, marks=(NO_WIRES,))
              for line in sockets),
        )  # fmt: skip
    if kind in kinds_printed_by_standard() or (
        kind == "relay module" and is_relay(pins_text[:LONGEST_TEXT])
    ):
        pins_text = terminals_apart(pins_text[:LONGEST_TEXT])
    if kind == "relay module":
        # Its usual prints tell more than that IN stands first in a line.
        pins_text = as_usual_connectors(pins_text, kind)
    marked = with_names_marked(pins_text, kind)
    if marked != pins_text or kind in (*WITH_SEVERAL, "tool power source"):
        own, others = named_apart(marked)
        if own:
            return _together(join(own, "", kind), join(others, colours_text, kind))
        if marked != pins_text:
            return join(marked, colours_text, kind)
    pins_text = as_usual_connectors(as_table(pins_text, kind), kind)
    is_short = kind in BOARD_KINDS and len(pins_text.split()) < LEAST_PRINTS
    if is_short and (listed := printed_rows(pins_text, kind)):
        return tuple(by_port(_manual_row(row), kind) for row in listed)
    if kind not in BOARD_KINDS or is_short:
        pins_text = one_a_row(pins_text, kind)
    columns, typed = split_headings(read_rows(pins_text))
    columns = columns or columns_by_plug(typed, kind)
    has_ports = columns is not None and columns.port is not None
    if kind in BOARD_KINDS and not has_ports:
        if listed := printed_rows(pins_text, kind):
            return tuple(by_port(_manual_row(row), kind) for row in listed)
        pins_text = unnamed_as_table(pins_text, kind)
        columns, typed = split_headings(read_rows(pins_text))
        has_ports = columns is not None and columns.port is not None
    if kind in BOARD_KINDS and not has_ports and is_manual(pins_text, kind):
        manual = [by_port(_manual_row(r), kind) for r in manual_rows(pins_text, kind)]
        may_be_list = _may_be_a_list(manual) or _lists_terminals(pins_text, kind)
        if may_be_list and (listed := printed_rows(pins_text, kind, is_open=True)):
            return tuple(by_port(_manual_row(row), kind) for row in listed)
        return tuple(_mark_doubles(_mark_doubtful_names(manual, kind)))
    if (
        kind == "controller"
        and not has_ports
        and _lists_terminals(pins_text, kind)
        and (listed := printed_rows(pins_text, kind, is_open=True))
    ):
        return tuple(by_port(_manual_row(row), kind) for row in listed)
    typed = typed if columns is not None else tuple(sides_apart(typed, kind))
    read = _numbered_by_place([pin_row(row, columns, kind) for row in typed])
    pins: dict[str, set[str]] = {}
    for found in read:
        pins.setdefault(found.port, set()).add(found.pin)
    rows = [
        by_port(replace(found, port=port[:LONGEST_NAME]), kind)
        for found in read
        for port in port_names(found.port, pins[found.port])
    ]
    if has_ports and columns is not None and columns.pin is None:
        rows = _numbered_by_port(rows)
    return with_colours(_mark_doubles(rows), colours_text, kind)


def _together(named: tuple[JoinedRow, ...], others: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of connectors that are named in their lines, and those of the rest; where both have
    one of a name, its rows are told as given twice.
    """
    return tuple(_mark_doubles([*others, *named]))


def _may_be_a_list(manual: list[JoinedRow]) -> bool:
    """Whether what was read as headings with their pins may be a list with a word that nobody
    knows: something is left over, or most of it stands before the first heading.
    """
    bare = sum(row.is_used and not row.port for row in manual)
    left = any(not row.is_used and PRINT.match(row.text) for row in manual)
    return left or 2 * bare > len(manual)


def _lists_terminals(text: str, kind: PartKind) -> bool:
    """Whether a line of a text is terminals side by side, most of them known: “D4 D5 D6 GND” heads
    nothing.
    """
    return any(
        len(block) > 2
        for line in text[:LONGEST_TEXT].splitlines()
        for block in blocks_of(line, kind, is_open=True)
    )


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
    marks = [unknown_name(row.name)] if row.function is None else []
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
