"""What pin tables call the functions of pins, from data/tables/pin_words.toml and
from own_words.toml."""

import re
import tomllib

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import PinFunction


class Wording(Record, frozen=True, kw_only=True):
    """One function and the words for it; `kind` limits it to parts of these kinds, `port` to ports
    whose names have a word that begins so.
    """

    function: PinFunction
    words: tuple[str, ...]
    kind: tuple[str, ...] = ()
    port: tuple[str, ...] = ()


@table_reader
def wordings() -> tuple[Wording, ...]:
    """The table, in its order, after what the builder said of words."""
    rows = tomllib.loads(data_text("tables/pin_words.toml"))["function"]
    return (*own_wordings(), *msgspec.convert(rows, list[Wording]))


@table_reader
def own_wordings() -> tuple[Wording, ...]:
    """The builder's own words. Raises `ValueError` where the table holds anything else."""
    table = tomllib.loads(data_text("tables/own_words.toml"))
    if other := set(table) - {"function"}:
        raise ValueError(f"“{min(other)}” is not known here; words stand under [[function]]")
    return tuple(msgspec.convert(table.get("function", []), list[Wording]))


def _plain(text: str) -> str:
    """Text without what does not matter: case, kinds of minus, spaces, dots, underscores."""
    cleaned = text.casefold().replace("−", "-").replace("–", "-").replace("\u0305", "/")
    return re.sub(r"[\s._:]+", "", cleaned)


# What is printed of a signal by its range, "0-10V" or "4-20mA" (IEC 60381), and of a feed by its
# window, "10-30V".
SIGNAL_RANGE = re.compile(r"^(?:0(?:-|to)\d+v|[±+]/?-?\d+v/-\d+v|±\d+v|(?:0|4)(?:-|to)20ma)$")
FEED_RANGE = re.compile(r"^\+?[1-9]\d*(?:-|to|/)\d+v(?:dc|ac/dc)?$")


GENERAL = re.compile(r"^(?:gpio|gp|io|d|p[a-h]|a|an|adc)\d{1,2}$")


@table_reader
def _functions(kind: str) -> dict[str, PinFunction]:
    found: dict[str, PinFunction] = {}
    for limited in (True, False):
        for row in wordings():
            if not row.port and bool(row.kind) == limited and (not row.kind or kind in row.kind):
                for word in row.words:
                    found.setdefault(_plain(word), row.function)
                found.setdefault(_plain(row.function), row.function)
    return found


def is_general(text: str) -> bool:
    """Whether a pin of a controller is one that is used as one likes, by what is printed at it."""
    return GENERAL.match(_plain(text)) is not None


def is_range(text: str) -> bool:
    """Whether a pin is called by the range of an analogue signal."""
    return SIGNAL_RANGE.match(_plain(text)) is not None


def is_return_of(text: str, other: str) -> bool:
    """Whether a pin is the minus of another by what is printed at both: ALM− of ALM+ or ALM."""
    minus, plus = _plain(text), _plain(other)
    return minus.endswith("-") and minus != plus and minus[:-1] == plus.rstrip("+")


def read_function(text: str, kind: str) -> PinFunction | None:
    """The function that a word means on a part of a kind; None where it is not known."""
    known = _functions(kind)
    plain = _plain(text)
    if plain in known:
        return known[plain]
    if SIGNAL_RANGE.match(plain):
        return "signal"
    if FEED_RANGE.match(plain):
        return "plus"
    return known.get(re.sub(r"(\(\d+\)|\d+)$", "", plain))


def function_at(port: str, text: str, kind: str) -> PinFunction | None:
    """The function that a word means at a port of this name, on a part of a kind; None where the
    table says nothing of such ports: "A+" is a channel at ENC, a phase at MOTOR.
    """
    named = re.findall(r"[a-z]+", port.casefold())
    plain = _plain(text)
    bare = re.sub(r"(\(\d+\)|\d+)$", "", plain)
    for row in wordings():
        at_port = any(word.startswith(row.port) for word in named) if row.port else False
        if at_port and (not row.kind or kind in row.kind):
            known = {_plain(word) for word in row.words}
            if plain in known or bare in known:
                return row.function
    return None
