"""Lengths and cross-sections in the units that the builder chose: metres and mm², or feet and AWG.

Only what is shown changes. Files, labels and exported tables are metric whatever is chosen.
"""

import math
from typing import Literal, get_args

from vervain.text.quantities import read_quantity

Units = Literal["metres and mm²", "feet and AWG"]
ALL_UNITS: tuple[Units, ...] = get_args(Units)
FOOT_M = 0.3048
# Gauges beside each other differ by a quarter: a twentieth is one and the same.
SAME_GAUGE = 0.05
_chosen: list[Units] = ["metres and mm²"]


def units() -> Units:
    """What is shown."""
    return _chosen[0]


def use_units(chosen: Units) -> None:
    """Shows lengths and cross-sections in these units from now on."""
    _chosen[0] = chosen


def is_metric() -> bool:
    """Whether lengths are shown in metres."""
    return units() == "metres and mm²"


def in_length(length_m: float, form: str = "g") -> str:
    """A length with its unit: "2.31 m", "7.58 ft". `form` is how the metres are written."""
    if is_metric():
        return f"{length_m:{form}} m"
    return f"{feet(length_m):g} ft"


def shown_length(length_m: float) -> float:
    """The figure of a length in the unit that is shown."""
    return length_m if is_metric() else feet(length_m)


def feet(length_m: float) -> float:
    """A length in feet, to a hundredth: an eighth of an inch."""
    return round(length_m / FOOT_M, 2)


def volts_words(least_v: float, most_v: float) -> str:
    """A window of volts: "22.8 to 25.2 V"; without an end it is not known."""
    if math.isinf(most_v):
        return "volts that are not given"
    return f"{least_v:.3g} to {most_v:.3g} V"


def figure_and_limit(value: float, limit: float, unit: str) -> str:
    """A value with its limit, of any unit: "5.2 of 5 m"."""
    if unit == "m" and not is_metric():
        return f"{feet(value):.3g} of {feet(limit):.3g} ft"
    if unit == "mm²" and not is_metric():
        return f"{gauge_words(value)} of {gauge_words(limit)}"
    return f"{value:.3g} of {limit:.3g} {unit}"


def in_area(area_mm2: float, form: str = "g") -> str:
    """A cross-section with its unit: "1.5 mm²", or the nearest gauge that is sold, "≈ AWG 16"."""
    if is_metric():
        return f"{area_mm2:{form}} mm²"
    return gauge_words(area_mm2)


def gauge_words(area_mm2: float) -> str:
    """The nearest even gauge: "AWG 16" where a core has it, "≈ AWG 16" where it comes near."""
    if area_mm2 <= 0:
        return "no gauge"
    exact = 36 - 39 * math.log(math.sqrt(4 * area_mm2 / math.pi) / 0.127, 92)
    # Below 0 every gauge is sold: 00, 000, 0000.
    number = max(-3, round(exact)) if exact < 0 else min(40, 2 * round(exact / 2))
    about = "" if abs(awg_mm2(number) / area_mm2 - 1) <= SAME_GAUGE else "≈ "
    return f"{about}AWG {number}" if number >= 0 else f"{about}AWG {1 - number}/0"


def awg_mm2(gauge: float) -> float:
    """Cross-section of an AWG number: d = 0.127 mm x 92^((36 - n)/39) (ASTM B258)."""
    diameter_mm: float = 0.127 * 92 ** ((36 - gauge) / 39)
    return math.pi / 4 * diameter_mm**2


def read_length_m(text: str) -> float:
    """A length in m as it is typed into a field: a plain number counts in the units that are shown.
    Raises `NotAQuantity`.
    """
    cleaned = text.strip()
    if not is_metric() and cleaned and (cleaned[-1].isdigit() or cleaned[-1] == "."):
        cleaned += " ft"
    return read_quantity(cleaned, "m")
