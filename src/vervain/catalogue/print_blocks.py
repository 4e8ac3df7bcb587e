"""The prints of a board as they stand together in a list: by lines that have several, by empty
lines.
"""

import re

from vervain.catalogue.pin_words import (
    function_at,
    is_general,
    is_plus_with_volts,
    names_connectors,
    read_function,
)
from vervain.catalogue.port_names import DASHES
from vervain.catalogue.port_roles import BUS_FUNCTIONS
from vervain.catalogue.printed_volts import WINDOW
from vervain.catalogue.prints import (
    LONGEST_PRINT,
    OF_AXIS,
    WITH_SEVERAL,
    Print,
    counted_of,
    is_one,
    means_alone,
    partings,
    print_of,
    says_more,
)
from vervain.catalogue.rows import LONGEST_TEXT, MOST_ROWS
from vervain.model.part import PartKind, PinFunction

LINE_NUMBER = re.compile(r"^(\d{1,2})\s*[).:]?\s+(?=\S)")
REMARK = re.compile(r"^(.*?\S)\s+\(?[a-z]{2,}\b.*$")
# The pulse and the direction of an axis.
PULSE_OF_AXIS = re.compile(r"^([XYZABC])([PD])$")


def blocks_of(text: str, kind: PartKind, is_open: bool = False) -> list[list[Print]]:
    """The prints as they stand together: by empty lines, else by lines that have several. None
    where any word is no print, or, in an open list, where more than a third are.
    """
    cleaned = text[:LONGEST_TEXT].replace("\r\n", "\n").replace("\r", "\n")
    for dash in DASHES:
        cleaned = cleaned.replace(dash, "-")
    lines = _uncounted([line.strip() for line in cleaned.split("\n")])[:MOST_ROWS]
    lines = [_unremarked(line, kind) for line in lines]
    if any(mark in line for line in lines for mark in "|;:=\t"):
        return []
    split = [_whole_or_words(line, kind) for line in lines]
    counts = counted_of({word for words in split for word in words}, kind)
    # “OUT1 GND” is one print where OUT1 has others, else two terminals.
    split = [
        [part for word in words for part in _parts_of_one(word, kind, counts)] for words in split
    ]
    pulses = (
        _pulses_of_axes({word for words in split for word in words}) if kind in WITH_SEVERAL else {}
    )
    blocks: list[list[Print]] = [[]]
    for line, words in zip(lines, split, strict=True):
        found = [
            Print(word[0].upper(), word, pulses[word], line) if word in pulses
            else print_of(word, line, kind, counts)
            for word in words
        ]  # fmt: skip
        if is_open:
            are_most_known = len(words) > 2 and 2 * sum(map(bool, found)) >= len(words)
            found = [
                at or _unknown(word, line, are_most_known)
                for at, word in zip(found, words, strict=True)
            ]
        if not all(found):
            return []
        if not words or len(words) > 1:
            blocks.append([])
        blocks[-1] += [at for at in found if at is not None]
        if len(words) > 1:
            blocks.append([])
    prints = [at for block in blocks for at in block]
    if is_open and 3 * sum(at.function is None for at in prints) > len(prints):
        return []
    return [block for block in blocks if block]


def _pulses_of_axes(words: set[str]) -> dict[str, PinFunction]:
    """What the pulses and the directions of axes are that have a letter each: XP XD YP YD."""
    found: dict[str, PinFunction] = {}
    for word in words:
        at = PULSE_OF_AXIS.match(word)
        if at is not None and {f"{at[1]}P", f"{at[1]}D"} <= words:
            found[word] = "step" if at[2] == "P" else "direction"
    return found


def _unknown(word: str, line: str, is_among_prints: bool) -> Print | None:
    """A word that means nothing yet as the print of a line of its own; none of a sentence, or what
    connectors are called. Among prints, small letters are no sentence.
    """
    is_plain = word == word.upper() or is_among_prints
    is_print = len(word) <= LONGEST_PRINT and is_plain and not names_connectors(word)
    return Print("", word, None, line) if is_print else None


def _uncounted(lines: list[str]) -> list[str]:
    """Lines without the numbers that count all of them."""
    filled = [line for line in lines if line]
    numbers = [LINE_NUMBER.match(line) for line in filled]
    if all(at and int(at[1]) == number for number, at in enumerate(numbers, 1)):
        return [LINE_NUMBER.sub("", line) for line in lines]
    return lines


def _unremarked(line: str, kind: PartKind) -> str:
    """A line without the words in small letters behind a print: “IN1 limit of the door”."""
    found = REMARK.match(line)
    if found is None or OF_AXIS.match(found[1]):
        return line
    return found[1] if any(means_alone(found[1], kind)) or partings(found[1], kind) else line


def _whole_or_words(line: str, kind: PartKind) -> list[str]:
    """A line as one print, where it can be one, else its words; the first may name the others."""
    if not line:
        return []
    listed = [part for part in re.split(r"\s*,\s*|\s{2,}", line) if part]
    if len(listed) > 1:
        return [word for part in listed for word in _whole_or_words(part, kind)]
    words = _with_windows(line.split(), kind)
    if len(words) == 2 and any(map(is_general, words)):
        # SDA GPIO21 is one pin, of which the bus has the better name.
        on_bus = [word for word in words if read_function(word, kind) in BUS_FUNCTIONS]
        if len(on_bus) == 1 and not is_general(on_bus[0]):
            return on_bus
    if len(words) < 3:
        return [line] if len(words) == 1 or is_one(line, kind) else words
    others = {read_function(word, kind) for word in words[1:]}
    # A0 3V3 GND is a line with its feed, and no axis A.
    is_line = is_general(words[0]) and others <= {"plus", "zero"}
    is_name = (
        not is_line
        and (
            OF_AXIS.match(words[0]) is not None
            or not any(means_alone(words[0], kind))
            # ENC A+ A- B+ B-
            or all(function_at(words[0], word, kind) is not None for word in words[1:])
        )
    )
    if (
        kind in WITH_SEVERAL
        and is_name
        and not all(map(is_general, words))
        and all(read_function(word, kind) is not None for word in words[1:])
    ):
        return [f"{words[0]} {word}" for word in words[1:]]
    return words


def _with_windows(words: list[str], kind: PartKind) -> list[str]:
    """Words, with the window of a plus behind its name: “VIN 12-24V”, GND."""
    found: list[str] = []
    for word in words:
        if found and WINDOW.search(word) and is_plus_with_volts(f"{found[-1]} {word}", kind):
            found[-1] += f" {word}"
        else:
            found.append(word)
    return found


def _parts_of_one(word: str, kind: PartKind, counts: dict[str, int]) -> list[str]:
    """A print whole, or its words where it is of nothing that others are of too."""
    parts = word.split()
    if says_more(word, kind):
        return [word]
    is_of_many = any(counts.get(of, 0) > 1 for of, _ in partings(word, kind))
    is_many = len(parts) > 1 and all(any(means_alone(part, kind)) for part in parts)
    return parts if is_many and not is_of_many and read_function(word, kind) is None else [word]
