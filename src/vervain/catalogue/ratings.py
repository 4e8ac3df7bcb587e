"""The ratings of a part that a builder asks for: in a short line, and as numbers to search by."""

from collections.abc import Sequence
from typing import NamedTuple

from vervain.model.electrical import FeedIn, FeedOut, LogicOutput
from vervain.model.elements import Bridge, Contact, Winding
from vervain.model.part import Part, Pin


class Range(NamedTuple):
    """Values of a quantity that a part serves, in SI: from `low` to `high`."""

    low: float
    high: float


def pins_of(part: Part) -> tuple[Pin, ...]:
    """Every pin of a part, in its order."""
    return tuple(pin for port in part.ports for pin in port.pins)


def lead_count(part: Part) -> int:
    """How many leads of its own a part has."""
    return sum(pin.lead is not None for pin in pins_of(part))


def voltages_v(part: Part) -> tuple[Range, ...]:
    """The voltages that a part works at or gives."""
    found = []
    for pin in pins_of(part):
        match pin.electrical:
            case FeedIn(v_min_v=low, v_max_v=float(high)):
                found.append(Range(low, high))
            case FeedOut(nominal_v=nominal_v, tolerance=tolerance):
                found.append(Range(nominal_v * (1 - tolerance), nominal_v * (1 + tolerance)))
            case _:
                pass
    return tuple(dict.fromkeys(found))


def currents_a(part: Part) -> tuple[Range, ...]:
    """The currents that a part serves.

    A driver, a supply, a contact and a fuse holder serve anything up to their rating; a motor is
    asked for by its rated current within a fifth; a load by what it takes, within a fifth.
    """
    if part.driver is not None and part.driver.current_max_peak_a:
        return (Range(0.0, part.driver.current_max_peak_a),)
    if part.stepper is not None and part.stepper.current_a:
        return (Range(part.stepper.current_a * 0.8, part.stepper.current_a * 1.2),)
    found = [
        Range(0.0, pin.electrical.current_a)
        for pin in pins_of(part)
        if isinstance(pin.electrical, FeedOut)
    ]
    found += [
        Range(0.0, element.current_max_a)
        for element in part.inside
        if isinstance(element, Contact) and element.current_max_a
    ]
    if not found:
        found = [
            Range(pin.electrical.current_a * 0.8, pin.electrical.current_a * 1.2)
            for pin in pins_of(part)
            if isinstance(pin.electrical, FeedIn) and pin.electrical.current_a
        ]
    return tuple(dict.fromkeys(found))


def resistances_ohm(part: Part) -> tuple[Range, ...]:
    """Winding resistances of a part, within a tenth."""
    return tuple(
        Range(element.resistance_ohm * 0.9, element.resistance_ohm * 1.1)
        for element in part.inside
        if isinstance(element, Winding) and element.resistance_ohm is not None
    )


def facts_in_words(part: Part) -> tuple[str, ...]:
    """What tells a part from its neighbours on the shelf, in short: "PNP", "10–30 V"."""
    found: list[str] = []
    if part.stepper is not None:
        found.append("three-phase" if part.stepper.phases == 3 else "two-phase")
        found += [f"{part.stepper.current_a:g} A"] if part.stepper.current_a else []
    if part.driver is not None:
        found.append("three-phase" if part.driver.phases == 3 else "two-phase")
        most = part.driver.current_max_peak_a
        found += [f"to {most:g} A peak"] if most else []
    if part.encoder is not None:
        found.append(f"{part.encoder.lines_per_turn} lines")
        functions = {pin.function for pin in pins_of(part)}
        found.append("differential" if "encoder A-" in functions else "single-ended")
    found += [
        pin.electrical.drive
        for pin in pins_of(part)
        if isinstance(pin.electrical, LogicOutput)
        and pin.electrical.drive in ("NPN", "PNP")
        and part.kind == "sensor"
    ][:1]
    rests = [element.rest for element in part.inside if isinstance(element, Contact)]
    if rests and part.kind in ("switch", "emergency stop", "hand wheel"):
        found.append(_contacts(rests))
    if part.kind not in ("controller", "signal converter", "terminal strip", "connector"):
        found += [_window(pin) for pin in pins_of(part) if _window(pin)][:1]
    leads = lead_count(part)
    if part.stepper is not None and leads:
        found.append(f"{leads} leads")
    if part.kind in ("connector", "terminal strip"):
        bridges = sum(isinstance(element, Bridge) for element in part.inside)
        found.append(f"{bridges or len(part.ports)} ways")
    return tuple(dict.fromkeys(found))


def _contacts(rests: Sequence[str]) -> str:
    counted = [f"{rests.count(rest)} {rest}" for rest in ("NC", "NO") if rest in rests]
    return " and ".join(counted)


def _window(pin: Pin) -> str:
    match pin.electrical:
        case FeedIn(v_min_v=low, v_max_v=float(high)):
            return f"{low:g}–{high:g} V"
        case FeedOut(nominal_v=nominal_v, current_a=current_a):
            return f"{nominal_v:g} V, {current_a:g} A"
        case _:
            return ""
