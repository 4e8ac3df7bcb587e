"""Readings as they are typed at the bench, judged by the window of their step."""

import re
from typing import NamedTuple

from vervain.bench.step import Window
from vervain.model.bench_result import LONGEST_SEEN, Outcome
from vervain.text.quantities import NotAQuantity, figure, read_number_in, read_quantity

# What meters show, and people write, for more ohms than the meter can measure.
OPEN_WORDS = ("ol", "o.l", "open", "over", "∞")
# How far the neutral of a stick may lie from the middle of its way, as a part of the way.
NEUTRAL_OFF = 0.15
WITH_PREFIX = {"V": "V", "A": "A", "Ω": "ohm"}


class Judgement(NamedTuple):
    """What comes of readings: the outcome, the readings in words, and what is wrong with them."""

    outcome: Outcome
    seen: str
    wrong: str = ""


def judge(window: Window, text: str) -> Judgement:
    """Judges readings, several of them parted by blanks or semicolons. Raises `NotAQuantity`."""
    values = read_values(window.unit, text)
    seen = " ".join(_words(value, "") for value in values[:-1])
    seen = f"{seen} {_words(values[-1], window.unit)}".strip()[:LONGEST_SEEN]
    if window.form:
        wrong = _wrong_form(window, values)
        return Judgement("failed" if wrong else "passed", seen, wrong)
    for value in values:
        # A limit is shown with three figures: what keeps to what is shown is right.
        if window.least is not None and value < min(window.least, _shown(window.least)):
            wrong = f"less than {figure(window.least, window.unit)}"
            return Judgement("failed", seen, wrong)
        if window.most is not None and value > max(window.most, _shown(window.most)):
            wrong = f"more than {figure(window.most, window.unit)}"
            return Judgement("failed", seen, wrong)
    largest, smallest = max(values), min(values)
    if window.alike_ratio is not None and smallest < largest * (1 - window.alike_ratio):
        return Judgement("failed", seen, f"not alike within {window.alike_ratio:.0%}")
    return Judgement("passed", seen)


def _shown(limit: float) -> float:
    """A limit with the three figures that it is shown with."""
    return float(f"{limit:.3g}")


def _wrong_form(window: Window, values: tuple[float, ...]) -> str:
    """What is wrong with several numbers of a form; "" where nothing is."""
    if window.form == "two that differ":
        if len(values) != 2:
            return "two values are asked for"
        return "" if values[0] != values[1] else "twice the same"
    if len(values) != 3:
        return "three values are asked for: low, neutral, high"
    low, neutral, high = values
    if not low < neutral < high:
        return "not rising from low over neutral to high"
    middle = (neutral - low) / (high - low)
    off = abs(middle - 0.5)
    return "" if off <= NEUTRAL_OFF else f"neutral {middle:.0%} of the way, not in the middle"


def read_values(unit: str, text: str) -> tuple[float, ...]:
    """Readings in a unit; one that is over the meter's range is infinite. Raises `NotAQuantity`."""
    pieces = [piece.strip() for piece in re.split(r";|,\s", text) if piece.strip()]
    if not pieces:
        raise NotAQuantity("Nothing was typed.")
    try:
        return tuple(_value(unit, piece) for piece in pieces)
    except NotAQuantity:
        words = [word for piece in pieces for word in piece.split()]
        if len(words) == len(pieces):
            raise
        try:
            return tuple(_value(unit, word) for word in words)
        except NotAQuantity:
            raise NotAQuantity(f"“{text}” is not a number in {unit}.") from None


def _value(unit: str, text: str) -> float:
    if unit == "Ω" and text.lower() in OPEN_WORDS:
        return float("inf")
    if unit in WITH_PREFIX:
        return read_quantity(text, WITH_PREFIX[unit])
    return read_number_in(text, unit)


def _words(value: float, unit: str) -> str:
    return "open" if value == float("inf") else figure(value, unit, places=4)
