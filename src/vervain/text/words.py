"""Words of titles and lists of names inside a sentence."""

from collections.abc import Sequence


def in_a_row(names: Sequence[str]) -> str:
    """Names as a sentence lists them: A, B and C; "" for none."""
    first, last = ", ".join(names[:-1]), names[-1:]
    return " and ".join(filter(None, (first, *last)))


def within_a_sentence(title: str) -> str:
    """A title with its first letter small, but for one that begins with a unit or an abbreviation:
    “Lamp 24 V” is a lamp 24 V, “NTC, 100 k” stays.
    """
    is_word = title[:1].isupper() and (len(title) == 1 or not title[1].isupper())
    return f"{title[:1].lower()}{title[1:]}" if is_word else title


def count_of(number: int, noun: str) -> str:
    """How many of what: "1 cable", "3 cables", "no cable"."""
    return f"{number or 'no'} {noun}{'s' if number > 1 else ''}"
