"""Alternating current below the mains: transformers for it, and valves, coils and lamps that want
it, by what is printed at them.
"""

import re

from msgspec.structs import replace

from vervain.catalogue.drafts import Draft
from vervain.catalogue.pin_rows import Rows, used_rows, with_functions
from vervain.model.electrical import MAINS_V, CurrentType, FeedIn, FeedOut
from vervain.model.part import BOARD_KINDS, Part, Pin, PinFunction, Port
from vervain.text.name_words import name_words, says

# The winding of a transformer that mains come to, and the one that gives: by the name of its plug.
PRIMARY, SECONDARY = re.compile(r"^PRI", re.I), re.compile(r"^SEC|~|\bV?AC\b", re.I)
AC_VOLTS = re.compile(
    r"(?<![\d.,])(?P<before>\d+(?:[.,]\d+)?)\s?V?\s?(?:AC\b|~)|"
    r"(?:\bAC|~)\s?(?P<behind>\d+(?:[.,]\d+)?)\s?V",
    re.IGNORECASE,
)
BOTH = re.compile(r"\bAC\s?[/-]\s?DC\b|\bDC\s?[/-]\s?AC\b", re.I)
# One of two terminals that are counted, and said to alternate: AC1 and AC2.
COUNTED = re.compile(r"^(?:V?AC|~|SEC|OUT)\s?[12]$|^\d+\s?V?(?:AC|~)$", re.I)


def secondary(rows: Rows) -> Rows:
    """The two ends of what a transformer gives, in either order, and L and N of its other
    winding.
    """
    told: dict[int, PinFunction | None] = {}
    used = used_rows(rows)
    unknown = [row for row in used if row.function in (None, "none")]
    primary = [row for row in unknown if PRIMARY.search(row.name)]
    if len(primary) == 2:
        told |= {id(primary[0]): "line", id(primary[1]): "neutral"}
    has_mains = bool(told) or any(row.function == "line" for row in used)
    for name in dict.fromkeys(row.port for row in used):
        ends = [row for row in used if row.port == name]
        by_print = [row for row in unknown if row in ends and COUNTED.match(row.name)]
        functions = {row.function for row in ends}
        is_told = {"plus", "zero"} <= functions or "line" in functions
        if len(ends) == 2 and PRIMARY.search(name):
            told |= {id(ends[0]): "line", id(ends[1]): "neutral"}
        elif len(ends) == 2 and SECONDARY.search(name) and not is_told:
            told |= {id(ends[0]): "plus", id(ends[1]): "zero"}
        elif len(by_print) == 2 and has_mains:
            told |= {id(by_print[0]): "plus", id(by_print[1]): "zero"}
    return with_functions(rows, told) if told else rows


def with_current_types(part: Part, draft: Draft) -> Part:
    """A part with what kind of current its plugs for less than the mains give and take."""
    own = _said(draft.title)
    if part.kind == "supply":
        own = "AC" if own == "AC" or says(draft.title, name_words().transformer) else "DC"
    elif own == "AC" and part.kind in BOARD_KINDS:
        # Electronics that take alternating current begin with a rectifier.
        own = "either"
    ports = tuple(_with_type(port, part.kind == "supply", own) for port in part.ports)
    return part if ports == part.ports else replace(part, ports=ports)


def _with_type(port: Port, gives: bool, own: CurrentType) -> Port:
    said = _said(port.id) if gives else own
    kind = "AC" if gives and "AC" in (own, said) else said
    pins = tuple(_pin_with_type(pin, kind) for pin in port.pins) if kind != "DC" else port.pins
    return replace(port, pins=pins) if pins != port.pins else port


def _pin_with_type(pin: Pin, kind: CurrentType) -> Pin:
    feed = pin.electrical
    if isinstance(feed, FeedOut) and kind == "AC":
        return replace(pin, electrical=replace(feed, current_type="AC"))
    if isinstance(feed, FeedIn) and not (feed.middle_v or 0.0) >= MAINS_V:
        return replace(pin, electrical=replace(feed, current_type=kind, polarity_free=True))
    return pin


def _said(text: str) -> CurrentType:
    """What current a name says, for less than the mains; direct where it says nothing."""
    if BOTH.search(text):
        return "either"
    volts = [
        float((found["before"] or found["behind"]).replace(",", "."))
        for found in AC_VOLTS.finditer(text)
    ]
    return "AC" if any(v < MAINS_V for v in volts) else "DC"
