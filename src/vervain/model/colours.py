"""Conductor colours by the letters of IEC 60757, striped ones written as two codes."""

import re
import tomllib

import msgspec

from vervain.data import data_text, table_reader

# Words between two colours that say nothing.
FILLING = frozenset({"with", "and", "stripe", "striped", "stripes", "a", "on", "wire", "tracer"})


class Colour(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One plain colour: its letters, its word, its fill and which letters can be read on it;
    other spellings that are understood.
    """

    letters: str
    word: str
    fill: str
    letters_on_it: str
    also: tuple[str, ...] = ()


@table_reader
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


@table_reader
def _spellings() -> dict[str, str]:
    found = {}
    for letters, colour in plain_colours().items():
        for word in (letters, colour.word, *colour.also):
            found[word.casefold()] = letters
    return found


def read_colour(text: str) -> str | None:
    """The code of a colour as people write it: "brown", "BN", "wht/brn", "white with brown stripe".

    None where it is not understood: single letters are not, for B may be black, brown or blue.
    """
    if is_colour(text.strip().upper()):
        return text.strip().upper()
    words = [word for word in re.split(r"[^a-z]+", text.casefold()) if word]
    if len(words) > 1:
        words = [word for word in words if word not in FILLING]
    codes = [_spellings().get(word) for word in words]
    if not codes or len(codes) > 2 or None in codes:
        return None
    found = "".join(code for code in codes if code)
    return "GNYE" if found == "YEGN" else found


@table_reader
def multicore_colours(count: int) -> tuple[str, ...]:
    """The colours of the first cores of a multi-core cable, by DIN 47100; past the 44th the order
    begins again, as the standard has it.
    """
    rows = tomllib.loads(data_text("tables/presets.toml"))["preset"]
    order = next(row["colours"] for row in rows if "DIN 47100" in row["title"])
    return tuple(order[number % len(order)] for number in range(count))
