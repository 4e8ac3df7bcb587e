"""What hands work, by the names of all its pins: the positions of a selector, of a hand wheel, the
rows and columns of a keypad; and the lamps that tell them something.
"""

import re

from vervain.catalogue.pin_rows import Rows, used_rows, with_functions
from vervain.model.part import PinFunction

# A row or a column of a keypad.
ROW_OR_COLUMN = re.compile(r"^(R|C)(?:ow|ol)?[ ]?\d$", re.I)
# What a hand wheel selects: an axis, or how far a click goes.
SELECTED = re.compile(r"^(?:[XYZ4-6]|X10{0,3})$", re.I)
# The lamps of a signal tower by the first letters of their colours.
OF_LAMPS = frozenset({"r", "g", "b", "y", "w", "o"})
ROTARY_AXIS = re.compile(r"^[ABC]$", re.I)


def positions(rows: Rows) -> Rows:
    """Beside one common what nothing is known of are the positions of a selector."""
    used = used_rows(rows)
    others = [row for row in used if row.function != "com"]
    is_selector = len(used) - len(others) == 1 and len(others) > 1
    # N, S, E and W are no neutral and no phase there.
    are_letters = all(len(row.name) == 1 for row in others)
    is_plain = are_letters or all(row.function in (None, "none") for row in others)
    if not is_selector or not is_plain:
        return rows
    return with_functions(rows, {id(row): "no" for row in others})


def is_matrix(rows: Rows) -> bool:
    """Whether terminals are the rows and the columns of a keypad, R1 R2 C1 C2: each key joins one
    of these to one of those.
    """
    ends = [ROW_OR_COLUMN.match(row.name) for row in used_rows(rows)]
    letters = [end[1].upper() for end in ends if end is not None]
    return len(letters) == len(ends) and min(letters.count("R"), letters.count("C")) > 1


def matrix(rows: Rows) -> Rows:
    """The rows of a keypad are driven one after the other, and its columns read."""
    if not is_matrix(rows):
        return rows
    return with_functions(rows, {
        id(row): "enable" if row.name[0] in "Rr" else "signal" for row in used_rows(rows)
    })  # fmt: skip


def lines_of_keys(rows: Rows) -> Rows:
    """The rows and the columns of a keypad at the plug of a controller that is for it are lines: C1
    there is no common.
    """
    ports = dict.fromkeys(row.port for row in used_rows(rows) if row.port)
    for_keys = {port for port in ports if is_matrix(tuple(r for r in rows if r.port == port))}
    return with_functions(rows, {id(row): "signal" for row in rows if row.port in for_keys})


def lamps_of_a_tower(rows: Rows) -> Rows:
    """R, G, B and Y at the plug of a board are lamps: no 0 V, and no phase."""
    printed: dict[str, set[str]] = {}
    for row in used_rows(rows):
        printed.setdefault(row.port, set()).add(row.name.casefold())
    towers = {port for port, names in printed.items() if {"r", "g"} <= names and len(names) > 2}
    return with_functions(rows, {
        id(row): "signal" for row in rows
        if row.port in towers and row.name.casefold() in OF_LAMPS
    })  # fmt: skip


def selectors(rows: Rows) -> Rows:
    """Beside X1 and X10 the letters of a hand wheel are those of the axes that it selects."""
    has_common = any(row.function == "com" for row in used_rows(rows))
    return _selected(rows, "no" if has_common else "none")


def selected_inputs(rows: Rows) -> Rows:
    """Beside X1 and X10 the letters of axes are inputs of what a hand wheel is joined to."""
    return _selected(rows, "signal")


def _selected(rows: Rows, function: PinFunction) -> Rows:
    """The rows with a function for what a hand wheel selects, where the plug has X1 and X10."""
    printed: dict[str, set[str]] = {}
    for row in rows:
        printed.setdefault(row.port, set()).add((row.name or row.pin).casefold())
    return with_functions(rows, {
        id(row): function for row in rows
        if {"x1", "x10"} <= printed[row.port]
        and (
            SELECTED.match(text := row.name or row.pin)
            # A and B are channels where both are there.
            or (ROTARY_AXIS.match(text) and not {"a", "b"} <= printed[row.port]
                and function == "signal")
        )
    })  # fmt: skip
