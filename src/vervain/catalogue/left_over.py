"""What was typed of a board and came to none of its ports."""

import re
from collections.abc import Iterator

from vervain.catalogue.layouts import PRINT
from vervain.catalogue.pin_rows import JoinedRow
from vervain.catalogue.pin_words import names_connectors, read_function
from vervain.model.colours import read_colour
from vervain.model.part import BOARD_KINDS, Part


def at_no_port(rows: tuple[JoinedRow, ...], part: Part | None) -> tuple[str, ...]:
    """What was typed of a board and came to none of its ports; a word that names connectors is no
    terminal.
    """
    made = {
        text for port in (part.ports if part is not None else ()) for pin in port.pins
        for text in (pin.text, pin.name)
    }  # fmt: skip
    made |= {port.id for port in (part.ports if part is not None else ())}
    heads = {row.port for row in rows}
    names = dict.fromkeys(
        row.name for row in rows
        if row.name and (row.is_used or (PRINT.match(row.text) and row.name not in heads))
    )  # fmt: skip
    left = [
        name for name in names
        if not any(text.startswith(name) for text in made)
        and not names_connectors(name)
    ]  # fmt: skip
    kind = part.kind if part is not None else ""
    left = [*dict.fromkeys((*left, *_unread(rows, made), *_unread_feeds(rows, made, kind)))]
    if part is None or part.kind not in BOARD_KINDS or not left:
        return ()
    verb = "is" if len(left) == 1 else "are"
    return (f"{', '.join(left)} {verb} at no port: write “NAME: …” before the terminals of each.",)


def _unread(rows: tuple[JoinedRow, ...], made: set[str]) -> Iterator[str]:
    """The terminals of lines that list several of which nothing was read, nor said."""
    # PULS1+ may be the PULS+ of an axis 1.
    known = {_undigited(part) for text in made for part in (text, *text.split())}
    known = {part for part in known if len(part) > 1}
    for row in rows:
        words = row.text.split()
        if row.is_used and not row.marks and len(words) > 1 and all(map(PRINT.match, words)):
            yield from (
                word for word in words
                if re.search("[A-Z]{2}|[A-Z].*[+-]", word) and read_colour(word) is None
                and not any(part in _undigited(word) for part in known)
                and not names_connectors(word) and word not in row.port.split()
            )  # fmt: skip


def _unread_feeds(rows: tuple[JoinedRow, ...], made: set[str], kind: str) -> Iterator[str]:
    """What feeds, of lines that list several terminals, and became none: VIN among lines."""
    known = {part for text in made for part in text.split()}
    for row in rows:
        words = row.text.split()
        printed = [word for word in words if PRINT.match(word)]
        if len(words) > 2 and len(printed) * 2 >= len(words):
            yield from (
                word for word in printed
                if word not in known and read_function(word, kind) == "plus"
            )  # fmt: skip


def _undigited(text: str) -> str:
    return re.sub(r"\d", "", text)
