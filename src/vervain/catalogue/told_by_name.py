"""What the name of a part, or its colours alone, tell of its leads."""

from msgspec.structs import replace

from vervain.catalogue.drafts import Draft, drive_of, is_potentiometer
from vervain.catalogue.pin_rows import JoinedRow
from vervain.catalogue.terminal_numbers import TWO_FIGURES
from vervain.catalogue.terminals import does_by_name
from vervain.model.part import PartKind, PinFunction
from vervain.text.name_words import name_words, says

# How the leads of a motor are laid until they are measured.
ORDER: tuple[PinFunction, ...] = ("phase A+", "phase A-", "phase B+", "phase B-")
MEASURE = "Which leads are a coil is not known: Leads finds it with a meter."
# What a sensor gives as volts, and as a level besides.
GIVES_VOLTS = frozenset({"ao", "po", "aout", "a0"})
GIVES_A_LEVEL = frozenset({"do", "dout", "d0"})
# The terminals of a potentiometer in the order in which they are counted.
ENDS_AND_WIPER: tuple[PinFunction, ...] = ("plus", "signal", "zero")


def turning_on(rows: tuple[JoinedRow, ...], draft: Draft) -> tuple[JoinedRow, ...]:
    """The rows of a switch; where its name says that it turns something on, or that one presses it
    to stop, and nothing else is said of its two leads, nor by the numbers of its terminals, its
    contact closes, or opens.
    """
    used = [row for row in rows if row.is_used]
    is_plain = len(used) == 2 and all(
        row.function in (None, "none") and not TWO_FIGURES.match(row.name or row.pin)
        for row in used
    )
    does = does_by_name(draft.title)
    if draft.kind != "switch" or not is_plain or does is None:
        return rows
    closing: dict[int, PinFunction] = {id(used[0]): "com", id(used[1]): does}
    return tuple(
        replace(row, function=closing[id(row)], marks=()) if id(row) in closing else row
        for row in rows
    )


def of_a_potentiometer(rows: tuple[JoinedRow, ...], draft: Draft) -> tuple[JoinedRow, ...]:
    """The rows of a sensor; where its name says that it is a potentiometer, and its three terminals
    are only counted, the middle one is the wiper.
    """
    used = [row for row in rows if row.is_used]
    is_plain = len(used) == len(ENDS_AND_WIPER) and all(row.function is None for row in used)
    if not is_potentiometer(draft.kind, draft.title) or not is_plain:
        return rows
    told = dict(zip(map(id, used), ENDS_AND_WIPER, strict=True))
    return tuple(
        replace(row, function=told[id(row)], marks=()) if id(row) in told else row for row in rows
    )


def of_a_thermocouple(rows: tuple[JoinedRow, ...], draft: Draft) -> tuple[JoinedRow, ...]:
    """The rows of a sensor; where its name says that it is a thermocouple, the plus and the minus
    are its two leads, and no feed.
    """
    used = [row for row in rows if row.is_used]
    functions = [row.function for row in used]
    is_plain = draft.kind == "sensor" and sorted(map(str, functions)) == ["plus", "zero"]
    if not is_plain or not says(draft.title, name_words().thermocouple):
        return rows
    told: dict[PinFunction | None, PinFunction] = {"plus": "measure+", "zero": "measure-"}
    return tuple(
        replace(row, function=told[row.function], marks=()) if row in used else row for row in rows
    )


def of_two_outputs(rows: tuple[JoinedRow, ...], draft: Draft) -> tuple[JoinedRow, ...]:
    """The rows of a sensor; where it gives volts and a level, AO DO, its drive tells which of them
    is used.
    """
    used = [row for row in rows if row.is_used]
    by_volts = [row for row in used if row.name.casefold() in GIVES_VOLTS]
    by_level = [row for row in used if row.name.casefold() in GIVES_A_LEVEL]
    if draft.kind != "sensor" or len(by_volts) != 1 or len(by_level) != 1:
        return rows
    signal, other = (by_volts, by_level) if drive_of(draft) == "volts" else (by_level, by_volts)
    told: dict[int, PinFunction] = {id(signal[0]): "signal", id(other[0]): "none"}
    return tuple(
        replace(row, function=told[id(row)], marks=()) if id(row) in told else row for row in rows
    )


def with_order(rows: tuple[JoinedRow, ...], kind: PartKind) -> tuple[tuple[JoinedRow, ...], bool]:
    """The four leads of a motor in the order in which they were typed, where their colours alone
    are known; and whether it is known which of them are a coil: else one measures.
    """
    used = [row for row in rows if row.is_used]
    is_plain = len(used) == len(ORDER) and all(row.function in (None, "none") for row in used)
    if kind != "stepper motor" or not is_plain or not all(row.colour for row in used):
        return rows, True
    by_pin = dict(zip((row.pin for row in used), ORDER, strict=True))
    return tuple(
        replace(row, function=by_pin[row.pin], marks=(*row.marks[1:], MEASURE))
        if row.is_used else row
        for row in rows
    ), False  # fmt: skip
