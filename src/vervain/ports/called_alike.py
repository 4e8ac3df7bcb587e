"""Whether a device and a name have a word in common: what a port, a relay or a contactor is for."""

import re
from functools import lru_cache

from vervain.ports.device_words import device_words, short_prints
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Letters from which on two words are one: "HEAT" and "heater"; shorter ones are alike when equal.
ALIKE, SHORTEST = 4, 3
# Words of names that tell nothing of what a device is.
EMPTY = frozenset({"out", "and", "the", "for", "not", "port", "pin", "two", "one", "input", "gpio"})


def are_called_alike(queries: Queries, designator: str, name: str) -> bool:
    """Whether a name has a word of what a device is, or is called."""
    return any(
        _are_alike(word, other)
        for word in (*plain_words(name), *meant_by(name))
        for other in _words_of(queries, designator)
    )


def is_its_name(queries: Queries, designator: str, text: str) -> bool:
    """Whether a text has a word of the name that a device was given, whatever it is."""
    device = queries.device(designator)
    own = plain_words(device.name) if device is not None else []
    return any(_are_alike(word, other) for word in plain_words(text) for other in own)


def _are_alike(word: str, other: str) -> bool:
    """Whether two words are one: alike, or one the beginning of the other."""
    is_long = min(len(word), len(other)) >= ALIKE
    return word == other or (is_long and (word.startswith(other) or other.startswith(word)))


def meant_by(name: str) -> tuple[str, ...]:
    """The words that a print is short for: TB is a bed's."""
    found = re.findall(r"[a-z]+", name.casefold())
    return tuple(word for short in found for word in short_prints().get(short, ()))


def says_what_for(port: str) -> bool:
    """Whether the name of a port says what it is for: LID and PROBE, not IN 3."""
    return bool(plain_words(port))


@query
def _words_of(queries: Queries, designator: str) -> tuple[str, ...]:
    device, part = queries.device(designator), queries.part_of(designator)
    if device is None or part is None:
        return ()
    besides = device_words().get(part.kind, ())
    return (*plain_words(f"{device.name} {part.kind} {part.title}"), *besides)


@lru_cache(maxsize=4096)
def plain_words(text: str) -> list[str]:
    """The words of a name that tell something: in small letters, of one only."""
    found = re.findall(r"[a-z]+", text.casefold())
    single = (word[:-1] if word.endswith("s") else word for word in found)
    return [word for word in single if len(word) >= SHORTEST and word not in EMPTY]
