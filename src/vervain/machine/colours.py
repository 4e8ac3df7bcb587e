"""Conductor colours by the letters of IEC 60757, striped ones written as two codes."""

import tomllib
from functools import cache

import msgspec

from vervain.data import data_text


class Colour(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One plain colour: its letters, its word, its fill and which letters can be read on it."""

    letters: str
    word: str
    fill: str
    letters_on_it: str


@cache
def plain_colours() -> dict[str, Colour]:
    """The colour table, by letters, in the table's order."""
    text = data_text("tables/colours.toml")
    rows = msgspec.convert(tomllib.loads(text)["colour"], list[Colour])
    return {row.letters: row for row in rows}


def is_colour(code: str) -> bool:
    """Whether a code is one or two known colours written together."""
    known = plain_colours()
    halves = (code[:2], code[2:]) if len(code) == 4 else (code,)
    return all(half in known for half in halves)


def base_and_stripe(code: str) -> tuple[Colour, Colour | None]:
    """The ground colour and the stripe of a code that `is_colour` accepts."""
    known = plain_colours()
    return known[code[:2]], known[code[2:]] if len(code) == 4 else None


def colour_words(code: str) -> str:
    """A code in words: "white with brown stripe", "green-yellow" for the protective conductor."""
    if not is_colour(code):
        return code
    if code == "GNYE":
        return "green-yellow"
    base, stripe = base_and_stripe(code)
    return f"{base.word} with {stripe.word} stripe" if stripe else base.word
