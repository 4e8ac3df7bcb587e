"""The colour list of a part: which colour is at which of its pins."""

from collections import Counter

from msgspec.structs import replace

from vervain.catalogue.pin_rows import (
    NUMBERED,
    JoinedRow,
    cell_of,
    split_headings,
    unknown_colour,
)
from vervain.catalogue.pin_words import read_function
from vervain.catalogue.rows import read_rows
from vervain.model.base import Record
from vervain.model.colours import read_colour


class ColourRow(Record, frozen=True, kw_only=True):
    """A row of the colour list: the pin or function it names (empty: by its place), the colour."""

    key: str
    place: int
    colour: str | None
    said: str
    text: str


def with_colours(rows: list[JoinedRow], colours_text: str, kind: str) -> tuple[JoinedRow, ...]:
    """The rows of pins with the colours of a list: at the pin of its number, else of its function,
    else, where the list has colours only, of its place. What belongs to no pin is a row of its own.
    """
    colours = _colour_rows(colours_text)
    if not rows and colours:
        rows = [JoinedRow(pin=c.key or str(c.place + 1)) for c in colours]
        rows = [replace(row, marks=("Its function is missing.",)) for row in rows]
    found = list(rows)
    by_place = all(not colour.key for colour in colours)
    left: list[JoinedRow] = []
    for colour in colours:
        at = _row_for(found, colour, kind, by_place)
        if at is None:
            left.append(_colour_of_no_pin(colour))
        else:
            found[at] = _with_colour(found[at], colour)
    return tuple(_mark_missing([*found, *left], bool(colours)))


def _colour_rows(text: str) -> list[ColourRow]:
    columns, rows = split_headings(read_rows(text))
    found = []
    for place, row in enumerate(rows):
        if columns is not None and columns.colour is not None:
            said = cell_of(row, columns.colour)
            key = cell_of(row, columns.pin) or cell_of(row, columns.function)
        else:
            cells = [cell for cell in row.cells if cell]
            # "white brown stripe" may have been parted at its spaces; it is one colour.
            whole = bool(cells) and read_colour(cells[0].split()[0]) is not None
            plain = not any(letter.isdigit() for letter in row.text)
            said = row.text if whole and plain and read_colour(row.text) else ""
            if not said:
                numbered = next((c for c in cells[:1] if NUMBERED.match(c)), None)
                others = [c for c in cells if c is not numbered] if numbered else cells
                said = next((c for c in others if read_colour(c)), others[-1] if others else "")
            key = next((cell for cell in cells if cell != said), "") if said != row.text else ""
        found.append(
            ColourRow(
                key=key.strip(" ,:;."),
                place=place,
                colour=read_colour(said),
                said=said,
                text=row.text,
            )
        )
    return found


def _row_for(rows: list[JoinedRow], colour: ColourRow, kind: str, by_place: bool) -> int | None:
    if by_place:
        used = [at for at, row in enumerate(rows) if row.is_used]
        return used[colour.place] if colour.place < len(used) else None
    key = colour.key.casefold()
    for at, row in enumerate(rows):
        if row.is_used and row.pin.casefold() == key:
            return at
    function = read_function(colour.key, kind)
    for at, row in enumerate(rows):
        same = row.name.casefold() == key or (function is not None and row.function == function)
        if row.is_used and same and (row.colour is None or colour.colour is None):
            return at
    return None


def _with_colour(row: JoinedRow, colour: ColourRow) -> JoinedRow:
    if colour.colour is None:
        return replace(row, marks=(*row.marks, unknown_colour(colour.said)))
    if row.colour is not None and row.colour != colour.colour:
        words = f"{row.colour} in one place, {colour.colour} in the other: one of them is wrong."
        return replace(row, marks=(*row.marks, words))
    return replace(row, colour=colour.colour)


def _colour_of_no_pin(colour: ColourRow) -> JoinedRow:
    words = (
        f"There is no pin “{colour.key}”." if colour.key else "There are fewer pins than colours."
    )
    return JoinedRow(
        pin=colour.key or "–",
        colour=colour.colour,
        marks=(words,),
        is_used=False,
        text=colour.text,
    )


def _mark_missing(rows: list[JoinedRow], listed: bool) -> list[JoinedRow]:
    """Marks pins without a colour, where others have one."""
    some = listed or any(row.colour for row in rows if row.is_used)
    return [
        replace(row, marks=(*row.marks, "Its colour is missing."))
        if row.is_used and some and row.colour is None and not any("colour" in m for m in row.marks)
        else row
        for row in rows
    ]  # fmt: skip


def with_doubles_marked(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows, with the colours marked that are at two pins of one port; thick leads of a motor
    may have those of the thin ones of its sensors.
    """
    used = [row for row in rows if row.is_used and row.colour]
    given = Counter((row.port, row.colour) for row in used)
    found = []
    for row in rows:
        is_double = row.is_used and given[row.port, row.colour] > 1
        at = (row.port, row.colour)
        others = [
            other.pin for other in used
            if is_double and other is not row and (other.port, other.colour) == at
        ]  # fmt: skip
        mark = (f"{row.colour} is at pin {', '.join(others)} too.",) if others else ()
        found.append(replace(row, marks=(*row.marks, *mark)))
    return tuple(found)
