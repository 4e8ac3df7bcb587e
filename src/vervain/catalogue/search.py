"""Finding a part on the shelf by words and by numbers: "driver 4A 48V three phase"."""

import re
from typing import NamedTuple

from vervain.catalogue.ratings import (
    Range,
    currents_a,
    facts_in_words,
    lead_count,
    pins_of,
    resistances_ohm,
    voltages_v,
)
from vervain.model.part import Part

NUMBER = re.compile(r"^(\d+(?:[.,]\d+)?)\s*(mv|v|ma|a|mohm|ohms?|ω|leads?|lines?|ppr|pins?)$")
SCALES = {"mv": 1e-3, "ma": 1e-3, "mohm": 1e-3}
UNITS = {"mv": "v", "ma": "a", "mohm": "ohm", "ohms": "ohm", "ω": "ohm", "ppr": "line"}
# Words that builders say for what the catalogue calls otherwise.
SAME = {
    "endstop": "switch",
    "limit": "switch",
    "psu": "supply",
    "power": "supply",
    "stepper": "stepper",
    "board": "controller",
    "mushroom": "emergency",
    "e-stop": "emergency",
    "estop": "emergency",
    "accumulator": "battery",
    "thermometer": "thermistor",
    "1": "one",
    "2": "two",
    "3": "three",
}


class Asked(NamedTuple):
    """A search in its pieces: words, and numbers as (value in SI, unit)."""

    words: tuple[str, ...]
    numbers: tuple[tuple[float, str], ...]


def asked(text: str) -> Asked:
    """The pieces of what was typed. "4 A" and "4A" are the same; hyphens part words."""
    joined = re.sub(
        r"(\d)\s+(mv|v|ma|a|mohm|ohms?|Ω|leads?|lines?|ppr|pins?)\b",
        r"\1\2",
        text,
        flags=re.IGNORECASE,
    )
    words, numbers = [], []
    for token in joined.casefold().replace("-", " ").split():
        match = NUMBER.match(token)
        if match is None:
            words.append(token)
            continue
        symbol = match[2]
        unit = UNITS.get(symbol, symbol).rstrip("s")
        numbers.append((float(match[1].replace(",", ".")) * SCALES.get(symbol, 1.0), unit))
    return Asked(tuple(words), tuple(numbers))


def searchable(part: Part) -> str:
    """Everything that words are looked up in, in small letters with hyphens parted."""
    said = " ".join(
        (part.kind, part.title, part.maker, part.model, part.note, *facts_in_words(part))
    )
    connectors = " ".join(port.connector or "" for port in part.ports)
    return f"{said} {connectors} {part.id}".casefold().replace("-", " ")


def _inside(value: float, ranges: tuple[Range, ...]) -> float | None:
    """How tightly a value sits in the narrowest range around it, 0 the tightest; else None."""
    fitting = [r.high - value for r in ranges if r.low - 1e-9 <= value <= r.high + 1e-9]
    return min(fitting) / max(value, 1e-9) if fitting else None


def _number_fits(part: Part, value: float, unit: str) -> float | None:
    match unit:
        case "v":
            return _inside(value, voltages_v(part))
        case "a":
            return _inside(value, currents_a(part))
        case "ohm":
            return _inside(value, resistances_ohm(part))
        case "lead":
            return 0.0 if lead_count(part) == value else None
        case "line":
            lines = part.encoder.lines_per_turn if part.encoder else None
            return 0.0 if lines == value else None
        case "pin":
            return 0.0 if len(pins_of(part)) == value else None
        case _:
            return None


def rank(part: Part, wanted: Asked) -> float | None:
    """How well a part answers a search: the smaller the better, None where it does not.

    Every word must be in the part's text (from the beginning of a word), every number inside a
    rating. A word in the title counts more than one elsewhere, a tight rating more than a wide.
    """
    text = searchable(part)
    title = f"{part.kind} {part.title}".casefold().replace("-", " ")
    worth = 0.0
    for word in wanted.words:
        for spelling in dict.fromkeys((word, SAME.get(word, word))):
            if re.search(rf"(?<!\w){re.escape(spelling)}", text):
                worth += 0.0 if re.search(rf"(?<!\w){re.escape(spelling)}", title) else 1.0
                break
        else:
            return None
    for value, unit in wanted.numbers:
        tightness = _number_fits(part, value, unit)
        if tightness is None:
            return None
        worth += min(tightness, 5.0) * 0.1
    return worth


def search(parts: tuple[Part, ...], text: str) -> tuple[Part, ...]:
    """The parts that answer a search, the best first; all, in their order, for an empty one."""
    wanted = asked(text)
    if not wanted.words and not wanted.numbers:
        return parts
    found = [
        (worth, n, part)
        for n, part in enumerate(parts)
        if (worth := rank(part, wanted)) is not None
    ]
    return tuple(part for _, _, part in sorted(found, key=lambda row: row[:2]))
