"""One print at a board's terminal: what it is of (an axis, a contact, a line) and what it is."""

import re
from collections.abc import Iterable
from typing import Literal, NamedTuple

from vervain.catalogue.pin_words import function_at, is_general, is_range, read_function
from vervain.catalogue.port_roles import BUS_FUNCTIONS
from vervain.catalogue.role_guess import is_called_for_a_line
from vervain.model.part import PartKind, PinFunction

LONGEST_PRINT = 24
# So many words beside it make a word that means nothing a terminal of a drive.
LEAST_BESIDE = 4
FEED: tuple[PinFunction, ...] = ("plus", "zero", "pe", "com", "line", "neutral")
OF_COMMAND: tuple[PinFunction, ...] = ("step", "direction", "enable")
# Where what a print is of may stand in it: before, behind, glued to it, as a number within.
PARTED = (
    re.compile(r"^(?P<of>[A-Za-z]{2,}\d{1,2}|[IQ]\d{1,2})(?P<rest>[+-])$"),
    re.compile(r"^(?P<of>\w{1,6})[\s_.-]+(?P<rest>\S.*)$"),
    re.compile(r"^(?P<rest>\S+)\s+(?P<of>\w{1,6})$"),
    re.compile(r"^(?P<rest>\w+)[_.-](?P<of>\w{1,6})$"),
    re.compile(r"^(?P<of>[XYZABCUVW]\d?|M\d)(?P<rest>.{2,})$"),
    re.compile(r"^(?P<rest>[A-Za-z]{2,}(?=\d+[+-]?$))(?P<of>\d{1,2})(?P<sign>[+-]?)$"),
)
SIGNS = ("+", "-")
# Buses that are called so at each of their lines: CANH is nothing of what SDA is of.
NAMED_BUSES = ("CAN", "RS485", "485")
# The four lines of a serial peripheral bus: its clock, both directions, and who is spoken to.
IS_SPI = re.compile(r"^(?:MOSI|MISO|SCK|SCLK|SDI|SDO|COPI|CIPO|N?CS\d?|N?SS)$", re.I)
# Words that say what the one before them does.
SAYS_WHAT = frozenset({"on", "off"})
OF_AXIS = re.compile(r"^([XYZABCUVWE]\d?|M?\d)$", re.I)
# Boards on which one thing is there several times, by what is printed: axes, contacts, lines.
WITH_SEVERAL: tuple[PartKind, ...] = ("controller", "relay module")


class Print(NamedTuple):
    """What is printed at one terminal: what it is of (an axis, a contact; none for a line or a
    feed), what it is there, and the row in which it was typed.
    """

    of: str
    name: str
    function: PinFunction | None
    text: str

    @property
    def sort(self) -> Literal["member", "feed", "line"]:
        """Whether it is of something, feeds its neighbours, or is a line of its own."""
        if self.of:
            return "member"
        return "feed" if self.function in FEED else "line"


def is_one(line: str, kind: PartKind) -> bool:
    """Whether two words are one print: “X PUL+”, “LIM X”, “SPINDLE ON” and “AVI 0-10V”, but not
    “24V 0V”.
    """
    if read_function(line, kind) is not None or partings(line, kind) or says_more(line, kind):
        return True
    return not all(any(means_alone(word, kind)) for word in line.split())


def says_more(line: str, kind: PartKind) -> bool:
    """Whether one of two words says more of the other: the axis of a limit, what an output turns
    on, the range of a signal.
    """
    words = line.split()
    if len(words) != 2:
        return False
    first, last = words
    is_of_axis = bool(OF_AXIS.match(first)) != bool(OF_AXIS.match(last))
    other = last if OF_AXIS.match(first) else first
    if is_of_axis and kind == "controller" and means_alone(other, kind)[1]:
        return True
    return last.casefold() in SAYS_WHAT or (is_range(last) and not is_range(first))


def means_alone(text: str, kind: PartKind) -> tuple[bool, bool]:
    """Whether a print is a feed or a function, and whether it is a line, without its neighbours."""
    function = read_function(text, kind)
    is_line = kind == "controller" and len(text) <= LONGEST_PRINT and (
        is_general(text) or is_range(text) or is_called_for_a_line(text)
    )  # fmt: skip
    return function is not None, is_line


def _read(rest: str, of: str, kind: PartKind) -> PinFunction | None:
    """What a print means at what it is of."""
    at_port = function_at(of, rest, kind) if of else None
    return at_port or read_function(rest, kind)


def partings(text: str, kind: PartKind) -> list[tuple[str, str]]:
    """What a print may be of, and what it is there, the likeliest first."""
    found: list[tuple[str, str]] = []
    if kind not in WITH_SEVERAL:
        return found
    for at in PARTED:
        match = at.match(text)
        if match is None or not _is_of(match["of"], kind) or OF_AXIS.match(match["rest"]):
            continue
        rest = match["rest"] + (match.groupdict().get("sign") or "")
        if rest in SIGNS and not is_called_for_a_line(match["of"]):
            continue
        if f"{match['of']}{rest}" == text and OF_AXIS.match(match["of"]) and _is_whole(text, kind):
            # AGND and AI0+ are nothing of an axis A.
            continue
        function = _read(rest, match["of"], kind)
        of_axis = OF_AXIS.match(match["of"]) is not None
        is_line = function == "signal" and (of_axis or re.search(r"\d", rest))
        if function is not None and not is_line:
            found.append((match["of"].upper(), rest))
    return found


def _is_whole(text: str, kind: PartKind) -> bool:
    """Whether a print in one word means something as it is."""
    return read_function(text, kind) is not None or is_called_for_a_line(text)


def _is_of(text: str, kind: PartKind) -> bool:
    """Whether a word can be what prints are of: an axis, a contact, a line, and no function."""
    return OF_AXIS.match(text) is not None or read_function(text, kind) in (None, "signal")


def counted_of(words: Iterable[str], kind: PartKind) -> dict[str, int]:
    """How many different prints may be of each thing."""
    found: dict[str, set[str]] = {}
    for word in words:
        for of, rest in partings(word, kind):
            found.setdefault(of, set()).add(rest)
    return {of: len(rests) for of, rests in found.items()}


def print_of(text: str, line: str, kind: PartKind, counts: dict[str, int]) -> Print | None:
    """A print as it is read, of what several are of; None where it means nothing. `counts` says how
    many are of each thing, `line` what stands beside it.
    """
    for of, rest in partings(text, kind):
        if counts.get(of, 0) > 1:
            return Print(of, rest, _read(rest, of, kind), line)
    return _print_alone(text, line, kind) or _print_beside(text, line, kind)


def _print_alone(text: str, line: str, kind: PartKind) -> Print | None:
    """A print that needs none beside it to say what it is."""
    is_function, is_line = means_alone(text, kind)
    as_one_likes = kind in WITH_SEVERAL and is_general(text)
    function = "signal" if as_one_likes else read_function(text, kind)
    if function in OF_COMMAND and kind == "controller":
        return Print("AXIS", text, function, line)
    if function in BUS_FUNCTIONS and kind == "controller":
        is_serial = function in ("transmit", "receive")
        bus = "SPI" if IS_SPI.match(text) else "SERIAL" if is_serial else "BUS"
        bus = next((name for name in NAMED_BUSES if text.upper().startswith(name)), bus)
        return Print(bus, text, function, line)
    if is_line and function not in FEED:
        return Print("", text, function or "signal", line)
    return Print("", text, function, line) if is_function else None


def _print_beside(text: str, line: str, kind: PartKind) -> Print | None:
    """A print that says what it is only among the others of its line: RA, RB and RC."""
    first, *others = line.split()
    at_port = function_at(first, text, kind) if others else None
    if at_port is not None:
        return Print(first.upper(), text, at_port, line)
    # What is at a terminal may be asked for afterwards; a word alone may be a heading.
    is_among_others = len(others) >= LEAST_BESIDE
    function: PinFunction | None = "signal" if is_general(text) else None
    return Print("", text, function, line) if is_among_others else None
