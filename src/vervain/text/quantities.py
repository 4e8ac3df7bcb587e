"""Quantities as people type them: "2.1 A", "250 mA", "1.4 ohm", "3 ft", "1/2 in"."""

import re
from fractions import Fraction

from quantiphy import InvalidNumber, Quantity

# Length units that QuantiPhy does not scale by itself, in metres.
LENGTH_UNITS_M = {"in": 0.0254, '"': 0.0254, "ft": 0.3048, "'": 0.3048}
FRACTION = re.compile(r"^\s*(?:(\d+)[ -])?\s*(\d+)/(\d+)\s*(in|\"|ft|')\s*$")


class NotAQuantity(ValueError):  # noqa: N818 - reads as a statement of what was typed
    """What was typed is not a quantity of the unit that was asked for."""


def read_quantity(text: str, unit: str) -> float:
    """A number in `unit` (V, A, W, ohm, m, Hz) from text with or without prefix and unit.
    Raises `NotAQuantity`.
    """
    cleaned = text.strip().replace("−", "-")
    if re.fullmatch(r"[^,]*\d,\d[^,]*", cleaned):
        cleaned = cleaned.replace(",", ".")
    if unit == "m":
        fraction = FRACTION.match(cleaned)
        if fraction:
            whole, above, below, length_unit = fraction.groups()
            if int(below) == 0:
                raise NotAQuantity(f"“{text}” divides by nothing.")
            inches = Fraction(int(above), int(below)) + int(whole or 0)
            return float(inches) * LENGTH_UNITS_M[length_unit]
        for length_unit, scale in LENGTH_UNITS_M.items():
            if cleaned.endswith(length_unit):
                return read_quantity(cleaned.removesuffix(length_unit), "") * scale
        # QuantiPhy would take a lone "m" for milli.
        cleaned = re.sub(r"(?<=[\d\s])m$", "", cleaned)
    symbol = {"ohm": "Ω"}.get(unit, unit)
    spelled = re.sub(r"(?i)(?<=[\s\dkmM])ohms?$", "Ω", cleaned)
    try:
        quantity = Quantity(spelled)
    except InvalidNumber:
        raise NotAQuantity(f"“{text}” is not a number in {symbol or 'plain figures'}.") from None
    if quantity.units not in ("", symbol):
        raise NotAQuantity(f"“{text}” is in {quantity.units}, not in {symbol}.")
    value = float(quantity)
    if value != value or abs(value) == float("inf"):
        raise NotAQuantity(f"“{text}” is not a finite number.")
    return value


def read_number_in(text: str, unit: str) -> float:
    """A number that may be followed by exactly `unit`, whatever it is: "300 mm/s", "90°"; lengths
    in mm also take m, cm, in and ft. Raises `NotAQuantity`.
    """
    cleaned = text.strip().replace("s2", "s²").replace("deg", "°")
    try:
        if unit == "mm" and re.search(r"[a-zA-Z\"']$", cleaned) and not cleaned.endswith("mm"):
            return round(read_quantity(cleaned, "m") * 1000, 9)
        return read_quantity(cleaned.removesuffix(unit).strip(), "")
    except NotAQuantity:
        raise NotAQuantity(f"“{text}” is not a number in {unit or 'plain figures'}.") from None


def figure(value: float, unit: str, places: int = 3) -> str:
    """A value with its unit for display, to three significant figures: "2.1 A", "250 mA"."""
    if value == 0:
        return f"0 {unit}".strip()
    if unit in {"A", "V"} and abs(value) < 0.1:
        return f"{value * 1000:.{places}g} m{unit}"
    if abs(value) >= 1000:
        return f"{value:,.0f} {unit}".replace(",", " ").strip()
    return f"{value:.{places}g} {unit}".strip()
