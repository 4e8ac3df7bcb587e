"""What a copper core may carry, and what it resists. The tables are data/tables/copper.toml."""

import math
import re
import tomllib

from vervain.data import data_text, table_reader
from vervain.model.problem import Problem
from vervain.text.quantities import NotAQuantity, read_quantity
from vervain.text.units import awg_mm2, is_metric

# Copper, IEC 60028: resistivity in ohm mm2/m at 20 °C, and its rise with temperature.
RHO_OHM_MM2_M = 0.01724
STRANDING = 1.02
ALPHA_PER_K = 0.00393
# The temperature of a loaded core that drops are worked out at.
WORKING_C = 60.0
HOTTEST_C = 70.0


@table_reader
def _table(name: str) -> tuple[tuple[float, float], ...]:
    rows = tomllib.loads(data_text("tables/copper.toml"))[name]
    return tuple(sorted((float(first), float(second)) for first, second in rows))


def check_tables() -> None:
    """Reads every table anew. Raises `ValueError` where one is missing, empty, or has a number that
    is none of copper.
    """
    try:
        for name in ("ampacity", "ambient", "grouping", "resistance"):
            rows = _table(name)
            if not rows or any(first <= 0 or second <= 0 for first, second in rows):
                raise ValueError(f"{name} needs rows of two numbers above 0")
    except (KeyError, TypeError, ValueError) as error:
        raise ValueError(f"{error}") from error


def ampacity_table() -> tuple[tuple[float, float], ...]:
    """Rows of (cross-section in mm2, current in A), smallest first."""
    return _table("ampacity")


def ampacity_a(area_mm2: float, ambient_c: float, circuits: int = 1) -> float | None:
    """Current in A that one core may carry, with so many loaded circuits together; None below the
    smallest row.

    Sizes between rows take the next smaller row, 0.1 % of measuring slack allowed for AWG sizes.
    Raises `Problem` at 70 °C and above.
    """
    carried = [current for area, current in _table("ampacity") if area <= area_mm2 * 1.001]
    if not carried:
        return None
    return carried[-1] * ambient_factor(ambient_c) * grouping_factor(circuits)


def ambient_factor(ambient_c: float) -> float:
    """What is left of a core's current at another temperature around it. Raises `Problem`."""
    if ambient_c >= HOTTEST_C:
        raise Problem(
            f"At {ambient_c:g} °C a PVC core may carry nothing.",
            remedy="Give a temperature below 70 °C.",
        )
    rows = dict(_table("ambient"))
    if ambient_c in rows:
        return rows[ambient_c]
    return math.sqrt((HOTTEST_C - ambient_c) / 30)


def grouping_factor(circuits: int) -> float:
    """What is left of a core's current where so many loaded circuits lie together."""
    rows = _table("grouping")
    return next((factor for count, factor in rows if count >= circuits), rows[-1][1])


def resistance_ohm_m(area_mm2: float, temperature_c: float = WORKING_C) -> float:
    """Resistance of one metre of a flexible core at a temperature: R20 (1 + 0.00393 (T - 20))."""
    listed = {area: milliohm / 1000 for area, milliohm in _table("resistance")}
    cold = listed.get(area_mm2, RHO_OHM_MM2_M / area_mm2 * STRANDING)
    return cold * (1 + ALPHA_PER_K * (temperature_c - 20))


def read_area_mm2(text: str) -> float:
    """A cross-section in mm2 from "1.5", "1.5 mm2", "AWG 16", "16 AWG", "AWG 00" or "AWG 2/0".
    Where gauges are shown, a whole number alone is a gauge. Raises `NotAQuantity`.
    """
    cleaned = text.strip(" ≈").casefold().replace("mm²", "").replace("mm2", "").strip()
    if not is_metric() and re.fullmatch(r"\d+(/0)?", cleaned) and cleaned == text.strip(" ≈"):
        cleaned = f"awg {cleaned}"
    if cleaned.startswith("awg") or cleaned.endswith("awg"):
        number = cleaned.removeprefix("awg").removesuffix("awg").strip()
        noughts, slash, rest = number.partition("/")
        if slash and rest == "0" and noughts in "1234" and noughts:
            return round(awg_mm2(1 - int(noughts)), 3)
        if 1 < len(number) <= 4 and set(number) == {"0"}:
            return round(awg_mm2(1 - len(number)), 3)
        gauge = read_quantity(number, "")
        if not 0 <= gauge <= 40:
            raise NotAQuantity(f"AWG {gauge:g} is no gauge for a machine.")
        return round(awg_mm2(gauge), 3)
    return read_quantity(cleaned, "")
