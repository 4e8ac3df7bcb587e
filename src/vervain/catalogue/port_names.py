"""Names of several ports in one: “IN 1-8”, “IN1 to IN8”, “AXIS X, Y, Z”."""

import re
from collections.abc import Collection

MOST_PORTS = 64
DASHES = "\N{EN DASH}\N{EM DASH}\N{MINUS SIGN}\N{HYPHEN}\N{NON-BREAKING HYPHEN}"
RANGE = re.compile(
    r"^(?P<stem>.*?)\s*(?P<first>\d{1,3})\s*(?:-|\.\.\.?|…|to|bis)\s*(?P<stem2>\D*?)\s*(?P<last>\d{1,3})$"
)
BETWEEN = re.compile(r"\s*(?:,|;|&|\band\b)\s*")


# Contacts are numbered from here on, their function in the second digit (EN 50005).
FIRST_CONTACT = 11


def port_names(text: str, pins: Collection[str] = ()) -> tuple[str, ...]:
    """The ports that a name stands for, each with a space before its number; the name itself where
    it is one. A range that runs backwards, or is too long, is one name, and so is that of a contact
    whose two pins are the ends of the range: "13-14".
    """
    cleaned = " ".join(text.split())
    for dash in DASHES:
        cleaned = cleaned.replace(dash, "-")
    if not cleaned:
        return ("",)
    parts = [part.strip() for part in BETWEEN.split(cleaned) if part.strip()]
    if len(parts) > 1:
        return _listed(parts)
    found = RANGE.match(cleaned)
    if (
        found
        and {found["first"], found["last"]} == set(pins)
        and int(found["first"]) >= FIRST_CONTACT
    ):
        return (cleaned,)
    return _ranged(cleaned)


def _ranged(text: str) -> tuple[str, ...]:
    found = RANGE.match(text)
    if found is None:
        return (text,)
    stem, first, last = found["stem"].strip(), int(found["first"]), int(found["last"])
    other = found["stem2"].strip()
    same = not other or other.casefold() == stem.casefold()
    if not same or not first < last or last - first >= MOST_PORTS:
        return (text,)
    return tuple(f"{stem} {number}".strip() for number in range(first, last + 1))


def _listed(parts: list[str]) -> tuple[str, ...]:
    """“AXIS X, Y, Z”: what has no stem takes that of the first."""
    stem = parts[0].rsplit(" ", 1)[0] if " " in parts[0] else ""
    if re.search(r"\d$", parts[0]):
        stem = re.sub(r"[\d\s]+$", "", parts[0])
        parts = [f"{stem} {parts[0][len(stem) :].strip()}".strip(), *parts[1:]]
    names: list[str] = []
    for number, part in enumerate(parts):
        bare = len(part) <= 2 and number > 0 and stem
        names.extend(_ranged(f"{stem} {part}" if bare else part))
    return tuple(dict.fromkeys(names))[:MOST_PORTS]
