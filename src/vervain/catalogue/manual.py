"""Terminals as manuals print them: headings of connectors with their pins below, in whatever order
and with whatever separators; as rows with their port.

    J2..J5  Axis X, Y, Z, A          K1: NO1 COM1 NC1
    1) STEP+                         A+, A-   motor phase A
"""

import re
from itertools import pairwise
from typing import NamedTuple

from vervain.catalogue.pin_words import read_function
from vervain.catalogue.port_names import DASHES, port_names
from vervain.catalogue.role_guess import purpose
from vervain.catalogue.rows import LONGEST_TEXT, MOST_ROWS
from vervain.catalogue.table_heads import is_head
from vervain.model.part import PinFunction

MOST_PINS, LONGEST_PORT = 64, 24
RULE = re.compile(r"^[\s|+:=_–—-]+$")
PIN = re.compile(
    r"^\W?\s*(?:pin|pos|no|nr|contact)?[.:#]?\s*(\d{1,2})\s*(?:[).:\]=|;,\t–-]|\s)\s*(.+)$", re.I
)
CELLS = re.compile(r"\s*(?:\t+|\||;|\s{2,})\s*")
DESIGNATOR = r"[A-Z]{1,4}-?\d{1,3}"
# “DC12-24V GND” are volts, and no connector DC12.
HEAD = re.compile(
    rf"^(?!(?:DC|AC)\d+(?:-\d+)?V)((?:{DESIGNATOR})(?:\s*(?:\.{{2,3}}|…|-|to|,|/|&|and)\s*(?:{DESIGNATOR}|\d{{1,3}}))*)"
    r"(?:\s*[-:(]|\s+|$)\s*(.*)$"
)
LAST = re.compile(rf"^(.*?)\s*\(?({DESIGNATOR})\)?$")
INLINE = re.compile(rf"^({DESIGNATOR}|[A-Z][A-Z ]*\d*)\s*[:=]\s*(\S+(?:[\s,/]+\S+)+)$")
# What a description may say of a pin whose name says nothing.
SAID: tuple[PinFunction, ...] = (
    "plus", "zero", "pe", "line", "neutral", "com", "nc", "no", "step", "direction", "enable",
    "pulse width", "signal",
)  # fmt: skip
# Both terminals of a supply's mains may be called so.
ALTERNATING = ("ac", "~")
# “X axis” heads what is below it, though X alone may be a pin.
OF_AXIS = re.compile(r"^(axis\W*[A-Z]?\d?|[A-Z]?\d?\W*axis)$", re.I)
POWER = re.compile(r"^(power|supply|dc power|power in)$", re.I)
NUMBERED_NAME = re.compile(r"^([A-Z]{1,4})-?\d{1,3}$")
MANY = re.compile(r"^(\S+(?:\s*[,/]\s*\S+)+)(?:\s{2,}|\t|\||;|$)")


# The number of a row's pin, and what is named there.
FoundPin = tuple[str, list[tuple[str, PinFunction | None]]]


class ManualRow(NamedTuple):
    """A row of a manual: the port and pin that it is of, the name, what it means, the line. A line
    that says nothing of a pin has no pin.
    """

    port: str
    pin: str
    name: str
    function: PinFunction | None
    text: str


def is_manual(text: str, kind: str) -> bool:
    """Whether a text has connectors as headings over their pins, rather than rows of one table."""
    lines = _lines(text)
    pins = _pins(lines, kind)
    heads = [n for n in range(len(lines)) if _is_heading(lines, pins, n, kind)]
    inline = [line for line in lines if _inline(line, kind)]
    return bool((heads and any(pins)) or inline)


def manual_rows(text: str, kind: str) -> tuple[ManualRow, ...]:
    """Every line of a manual's terminals as rows, those of alike connectors for each of them."""
    lines = _lines(text)
    pins = _pins(lines, kind)
    names: tuple[str, ...] = ("",)
    found: list[ManualRow] = []
    count = 0
    for number, line in enumerate(lines):
        inline = _inline(line, kind)
        pin = pins[number]
        if inline is not None:
            found += [
                ManualRow(inline[0], str(n), word, read_function(word, kind), line)
                for n, word in enumerate(inline[1], 1)
            ]
        elif pin is None and _is_heading(lines, pins, number, kind):
            names, count = _heading_ports(line), 0
        elif pin is None:
            found.append(ManualRow("", "", "", None, line))
        else:
            for at, (name, function) in enumerate(pin[1], count + 1):
                given = pin[0] if pin[0] and len(pin[1]) == 1 else str(at)
                found += [ManualRow(port, given, name, function, line) for port in names]
            count += len(pin[1])
    return tuple(found[:MOST_ROWS])


def _lines(text: str) -> list[str]:
    cleaned = text[:LONGEST_TEXT].replace("\r", "\n")
    for dash in DASHES:
        cleaned = cleaned.replace(dash, "-")
    lines = [line.strip().strip("|").strip() for line in cleaned.split("\n")]
    kept = [line for line in lines if line and not RULE.match(line)][:MOST_ROWS]
    return [line for line in kept if not is_head(tuple(CELLS.split(line)))]


def _pins(lines: list[str], kind: str) -> list[FoundPin | None]:
    """The pin of each line; None where it has none."""
    found = [
        None if OF_AXIS.match(line) else _pin_of(line, kind, _is_counted(lines, number))
        for number, line in enumerate(lines)
    ]
    for number, line in enumerate(lines[:-1]):
        # Whatever it says, a line over a 1 that has no number itself heads what is counted.
        if number_of(lines[number + 1]) == "1" and not number_of(line):
            found[number] = None
    for number, line in enumerate(lines):
        below = [pin[1][0][1] for pin in found[number + 1 : number + 3] if pin is not None]
        if POWER.match(line) and {*below} == {"plus", "zero"}:
            # It heads a plus and its 0 V, and is no plus itself.
            found[number] = None
    return found


def number_of(line: str) -> str:
    """The number of a row's pin; "" where it has none."""
    numbered = PIN.match(line)
    return numbered[1] if numbered and int(numbered[1]) <= MOST_PINS else ""


def _is_counted(lines: list[str], number: int) -> bool:
    """Whether a line is one of several that count on: IN1 over IN2 heads nothing."""
    own = NUMBERED_NAME.match(lines[number])
    beside = [lines[n] for n in (number - 1, number + 1) if 0 <= n < len(lines)]
    others = [found for line in beside if (found := NUMBERED_NAME.match(line)) is not None]
    return own is not None and any(other[1] == own[1] for other in others)


def _pin_of(line: str, kind: str, is_counted: bool) -> FoundPin | None:
    """The number and the named functions of a row; None where it is no row of a pin."""
    numbered, number = PIN.match(line), number_of(line)
    rest = numbered[2].strip() if numbered and number else line
    many = MANY.match(rest)
    if many:
        parts = [part for part in re.split(r"[\s,/]+", many[1]) if part]
        functions = [read_function(part, kind) for part in parts]
        if len(parts) > 1 and all(functions):
            return number, list(zip(parts, functions, strict=True))
    if kind == "supply" and rest.casefold() in ALTERNATING:
        return number, [(rest, None)]
    name, said = _name_and_words(rest, kind)
    function = read_function(re.sub(r"\s*\(.*?\)", "", name), kind)
    signed = re.fullmatch(r"\S+[+-]", line) is not None
    is_head = line.endswith(":") or (HEAD.match(line) is not None and not is_counted)
    is_head = is_head and not signed
    if not number and (function is None or is_head):
        return None
    return number, [(name, function or function_said(said, kind))]


def _name_and_words(text: str, kind: str) -> tuple[str, str]:
    """The printed name at the beginning of a row, and what is said of it."""
    cells = [cell.strip() for cell in CELLS.split(text) if cell.strip()]
    if len(cells) > 1:
        return cells[0], " ".join(cells[1:])
    words = text.split()
    for count in range(min(3, len(words)), 0, -1):
        name = " ".join(words[:count]).strip(",:;")
        if read_function(name, kind) is not None:
            return name, " ".join(words[count:])
    return words[0].strip(",:;") if words else "", " ".join(words[1:])


def function_said(words: str, kind: str) -> PinFunction | None:
    """The function that a description tells: of two words together, else of one."""
    parts = re.findall(r"[a-z0-9+/-]+", words.casefold())
    pairs = [f"{a} {b}" for a, b in pairwise(parts)]
    for text in (*pairs, *parts):
        function = read_function(text, kind)
        if function is not None and function in SAID and not text.isdigit() and len(text) > 1:
            return function
    return None


def _inline(line: str, kind: str) -> tuple[str, list[str]] | None:
    """A connector with its pins in one line: “K1: NO1 COM1 NC1”; None where it is none."""
    found = INLINE.match(line)
    if found is None:
        return None
    words = [word for word in re.split(r"[\s,/]+", found[2]) if word]
    known = [read_function(word, kind) for word in words]
    return (found[1].strip(), words) if all(known) else None


def _is_heading(lines: list[str], pins: list[FoundPin | None], number: int, kind: str) -> bool:
    """Whether a line heads the pins below it."""
    is_over_pins = number + 1 < len(lines) and pins[number + 1] is not None
    return is_over_pins and pins[number] is None and _inline(lines[number], kind) is None


def _heading_ports(line: str) -> tuple[str, ...]:
    """The names of the connectors that a heading is for: as they are listed in its words, else what
    they are for with what is printed at them: “INPUT J6”.
    """
    head = line.strip(" :-")
    found, last = HEAD.match(head), LAST.match(head)
    if found:
        marks = tuple(name.replace(" ", "") for name in port_names(found[1]))
        words = found[2]
    elif last:
        marks, words = (last[2],), last[1]
    else:
        return tuple(name[:LONGEST_PORT].strip() for name in port_names(head.split("(")[0]))
    plain = words.split("(")[0].strip(" :-)")
    listed = port_names(plain)
    if len(marks) > 1 and len(listed) == len(marks):
        return tuple(name.upper()[:LONGEST_PORT] for name in listed)
    word = purpose(plain).upper()
    if len(marks) > 1 and word.endswith("S"):
        word = word[:-1]
    return tuple(f"{word} {mark}".strip()[:LONGEST_PORT] for mark in marks)
