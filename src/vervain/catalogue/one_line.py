"""Terminals and leads that were written side by side: “A1 A2 13 14”, “COM NO NC”, “BN + BU −”."""

import re

from vervain.catalogue.pin_words import read_function
from vervain.catalogue.rows import LONGEST_TEXT, SEPARATORS
from vervain.model.colours import read_colour

# What is printed at the terminals of contactors, relays, stops and lamps (IEC 60947, EN 50005).
TERMINAL = re.compile(r"^(?:A[12][+-]?|X[12]|\d{1,2}|[1-6]/[LT][1-3]|[LT][1-3])$", re.I)
WITH_TERMINALS = ("contactor", "solid-state relay", "emergency stop", "fuse", "switch", "lamp")


def one_a_row(text: str, kind: str) -> str:
    """The text with each terminal or lead in a row of its own, where several were written in one;
    any other text as it is.
    """
    lines = [line.split() for line in text[:LONGEST_TEXT].splitlines() if line.strip()]
    words = [word.strip(",;") for line in lines for word in line]
    if len(words) == len(lines) or any(mark in text for mark in SEPARATORS[:2]):
        return text
    if kind in WITH_TERMINALS and all(TERMINAL.match(word) for word in words):
        return "\n".join(words)
    if len(lines) > 1:
        return text
    told = [_kind_of(word, kind) for word in words]
    if len(set(told)) == 1 and told[0] and len(words) > 1:
        return "\n".join(words)
    pairs = list(zip(told[::2], told[1::2], strict=False))
    if len(words) > 2 and len(words) % 2 == 0 and all({*pair} == {"c", "f"} for pair in pairs):
        return "\n".join(f"{a}\t{b}" for a, b in zip(words[::2], words[1::2], strict=True))
    return text


def _kind_of(word: str, kind: str) -> str:
    """Whether a word is a colour (c), a function (f), or neither."""
    if read_colour(word) is not None and not re.fullmatch(r"[A-Za-z]", word):
        return "c"
    return "f" if read_function(word, kind) is not None else ""
