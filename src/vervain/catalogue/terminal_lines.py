"""The terminals of contacts and coils as they stand on paper: “11 12”, “NC 11-12”, “13/14 NO”,
“1 L1 2 T1”, “COM NO NC”, “S11 S12”: a line for each.
"""

import re

from vervain.catalogue.table_heads import is_head
from vervain.catalogue.terminal_numbers import POLE, TWO_FIGURES

# What a contact does, which its figures say as well; alone they are its terminals.
DOES = re.compile(r"^(?:(?:N\.?[OC]\.?|SPST|SPDT|DPST|DPDT)\d?|open|closed|contact):?$", re.I)
ALONE = re.compile(r"^N\.?[OC]\.?$", re.I)
THROWS = re.compile(r"^(?:COM|C|NO|NC)\d?$", re.I)
COIL = re.compile(r"^(?:A[12][+-]?|COIL[+-]|X[12]|[1-4][+~-]|(?:AC|DC|IN|LOAD|OUT)[+~-])$", re.I)
# Signs alone: the two ends of a control input, of what it switches.
SIGNS = frozenset("+-~")
# A number and its sign that are printed apart: 1 ~ 2 ~ 3 + 4 −.
SIGN_APART = re.compile(r"(?<!\S)([1-4])\s+([+~−-])(?!\S)")
FIGURES = re.compile(r"^\d{1,2}a?$", re.I)
# Both ends of a contact in one word: 11-12, 13/14, 11–12.
PAIR = re.compile(
    r"^(?:(?P<a>\d{1,2}|A1)[-–−/](?P<b>\d{1,2}|A2)|(?P<l>L\d)[-–−/](?P<t>T\d))$", re.I
)
# What a terminal is of, which its print says as well.
OF = re.compile(
    r"^(?:coil|winding|contacts?|channel|ch|poles?|mains?|aux|auxiliary|stop|button)\d?$", re.I
)
# What a device is called, before its own terminals.
DESIGNATOR = re.compile(r"^[SKQB]\d$", re.I)
# The terminals of a safety relay's channels and of what starts it.
SAFE = re.compile(r"^[SY]\d{1,2}$", re.I)
# What a selector has beside its common: the positions, by number or by word.
POSITION = re.compile(r"^[A-Z\d]{1,8}$", re.I)
COMMON = re.compile(r"^C(?:OM)?$", re.I)
# What is rated is asked for as a number.
RATED = re.compile(r"(?<!\S)\d+(?:[.,]\d+)?\s?(?:V|Hz)(?:\s?(?:AC|DC|~))?(?!\S)", re.I)
# The line and the neutral of a breaker, or a lamp.
OF_MAINS = re.compile(r"^[LN]$", re.I)
MARKS = re.compile(r"(?:[,;()\s]|(?<=\s)/(?=\s))+")


def terminals_apart(text: str) -> str:
    """The text with each terminal in a line of its own; any line that has another word, and any
    table with its headings or its tabs, as it is.
    """
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) == 1 and ALONE.match(lines[0].strip()):
        # Of two leads only what is between them is said.
        return f"1 {lines[0].strip()}\n2"
    first = lines[0] if lines else ""
    has_heads = is_head(tuple(MARKS.split(first))) and not _terminals(first)
    if "\t" in text or "|" in text or has_heads:
        return text
    return "\n".join(row for line in lines for row in _terminals(line) or [line])


def _terminals(line: str) -> list[str]:
    """The terminals of a line; none where it has any other word."""
    line = RATED.sub(" ", line)
    if len(SIGN_APART.findall(line)) > 1:
        line = SIGN_APART.sub(r"\1\2", line).replace("−", "-")
    words = [word.rstrip(":") for word in MARKS.split(line) if word.strip(":")]
    words = [word for word in words if not OF.match(word)]
    if len(words) > 2 and DESIGNATOR.match(words[0]) and all(map(TWO_FIGURES.match, words[1:])):
        words = words[1:]
    if len(words) > 1 and set(words) <= SIGNS:
        return words
    if words and all(THROWS.match(word) for word in words) and len({*words}) == len(words):
        return words
    if len(words) > 2 and COMMON.match(words[0]) and all(map(POSITION.match, words[1:])):
        return words
    ends = [end for word in words if not DOES.match(word) for end in _ends(word)]
    if not ends or not all(map(_is_terminal, ends)):
        return []
    does = [word for word in words if DOES.match(word)]
    if does and not all(map(TWO_FIGURES.match, ends)):
        # Only the word says what 1 and 2 do.
        return _paired(words)
    return _joined_at_poles(ends)


def _paired(words: list[str]) -> list[str]:
    """The two ends of each contact with the word that stands before or behind them: 1 2 NC 3 4 NO;
    none where these do not alternate.
    """
    spread = [end for word in words for end in (_ends(word) if not DOES.match(word) else (word,))]
    places = [at for at, word in enumerate(spread) if DOES.match(word)]
    if len(spread) % 3 or places not in (
        list(range(0, len(spread), 3)),
        list(range(2, len(spread), 3)),
    ):
        return []
    found: list[str] = []
    for at in range(0, len(spread), 3):
        does = spread[at + places[0]]
        first, second = (word for word in spread[at : at + 3] if word != does)
        found += [first, f"{second} {does}"]
    return found


def _joined_at_poles(ends: list[str]) -> list[str]:
    """Terminals, with what is printed twice at one of a pole as one: 1 L1 2 T1."""
    found: list[str] = []
    for end in ends:
        if found and _are_one(found[-1], end):
            found[-1] += f"/{end}"
        else:
            found.append(end)
    return found


def _ends(word: str) -> tuple[str, ...]:
    pair = PAIR.match(word)
    return tuple(end for end in pair.groups() if end) if pair is not None else (word,)


def _is_terminal(word: str) -> bool:
    return any(at.match(word) for at in (TWO_FIGURES, POLE, COIL, FIGURES, SAFE, OF_MAINS))


def is_relay(text: str) -> bool:
    """Whether terminals are those of a relay by their standard numbers: the two channels of a
    safety relay are among them, or they are a coil, contacts and nothing else; or those of a relay
    for cars (DIN 72552-2).
    """
    words = {word.upper().rstrip("+-") for word in MARKS.split(text)} - {""}
    contacts = words - {"A1", "A2"}
    is_plain = len(words) > len(contacts) + 1 and all(map(TWO_FIGURES.match, contacts))
    is_for_cars = {"30", "85", "86"} <= words
    return {"S12", "S22"} <= words or is_for_cars or (is_plain and bool(contacts))


def _are_one(number: str, side: str) -> bool:
    """Whether two words are what is printed at one pole: its number, and L or T with its own."""
    if not FIGURES.match(number) or not re.match(r"^[LT]\d$", side, re.I):
        return False
    number = number.rstrip("aA")
    pole, is_out = (int(number) + 1) // 2, int(number) % 2 == 0
    return int(side[1]) == pole and (side[0].upper() == "T") == is_out
