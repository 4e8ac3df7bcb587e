"""What a copper core may carry."""

import tomllib
from functools import cache

from vervain.data import data_text


@cache
def ampacity_table() -> tuple[tuple[float, float], ...]:
    """Rows of (cross-section in mm2, current in A), smallest first; data/tables/copper.toml."""
    text = data_text("tables/copper.toml")
    rows = tomllib.loads(text)["ampacity"]
    return tuple(sorted((float(area), float(current)) for area, current in rows))


def ampacity_a(area_mm2: float) -> float | None:
    """Current in A that one core may carry at 40 °C; None below the smallest row.

    Sizes between rows take the next smaller row, 0.1 % of measuring slack allowed for AWG sizes.
    """
    carried = [current for area, current in ampacity_table() if area <= area_mm2 * 1.001]
    return carried[-1] if carried else None
