"""The volts that are printed at a terminal: “5V”, “3V3”, “+24”, “12-24V”, “VIN 12-24V”."""

import re

# What is called by one voltage takes it within a tenth, as logic its 5 V.
TOLERANCE = 0.1
ONE = re.compile(
    r"(?P<whole>\d+)(?:V(?P<tenths>\d)|\.(?P<part>\d)\s?V?|\s?V)|\+(?P<signed>\d+)$", re.IGNORECASE
)
WINDOW = re.compile(
    r"(?<![\d.])(?P<low>[1-9]\d*(?:[.,]\d)?)\s?V?\s?(?:[-–−/]|to|\.{2,3}|…)\s?"
    r"\+?(?P<high>[1-9]\d*(?:[.,]\d)?)\s?V",
    re.IGNORECASE,
)
# Behind the name of a plus: its window, or one voltage above those that boards give to others.
ANNOTATION = re.compile(rf"^(?P<name>.*\S)\s*[\s(\[](?:{WINDOW.pattern}|(?P<one>\d+)\s?V)"
                        r"\s?(?:DC)?[)\]]?$", re.IGNORECASE)  # fmt: skip
# More than a machine is fed with: a number that is none of volts.
LEAST_FED_V, MOST_V = 6.0, 10_000.0
# The range of a signal, which begins at nothing.
FROM_NOTHING = re.compile(r"(?<![\d.])0\s?V?\s?(?:[-–−/]|to|\.{2,3}|…)", re.IGNORECASE)


def volts_printed(name: str) -> float | None:
    """The volts in the name of a pin, the upper of two; None where it has none."""
    volts = ONE.search(name)
    if volts is None:
        return None
    return float(f"{volts['whole'] or volts['signed']}.{volts['tenths'] or volts['part'] or 0}")


def window_printed(name: str) -> tuple[float, float] | None:
    """From how many volts to how many a pin takes by its name; None where it has none."""
    ends = WINDOW.search(name)
    if ends is not None:
        low_v, high_v = (float(ends[end].replace(",", ".")) for end in ("low", "high"))
        return (low_v, high_v) if low_v < high_v < MOST_V else None
    volts = None if FROM_NOTHING.search(name) else volts_printed(name)
    if not volts or volts > MOST_V:
        return None
    return volts * (1 - TOLERANCE), volts * (1 + TOLERANCE)


def agrees(name: str, low_v: float, high_v: float) -> bool:
    """Whether what is printed at a pin, if anything, lies in a window, or a window overlaps it."""
    volts, window = volts_printed(name), window_printed(name)
    if volts is None or window is None:
        return True
    if WINDOW.search(name):
        return window[0] <= high_v and low_v <= window[1]
    return low_v <= volts <= high_v


def without_volts(text: str) -> str:
    """What is printed at a terminal, without the volts that it takes: “VIN” of “VIN 12-24V”. Five
    volts behind a name are a terminal of their own, which boards give.
    """
    found = ANNOTATION.match(text)
    is_taken = found is not None and (found["one"] is None or float(found["one"]) >= LEAST_FED_V)
    return found["name"] if found is not None and is_taken else text
