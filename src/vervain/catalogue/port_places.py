"""Where the ports of a board lie: as the builder says in words, or as they were drawn."""

import re
from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from vervain.model.base import Record
from vervain.model.part import Edge, Port
from vervain.model.problem import Problem

EDGE_WORDS: tuple[Edge, ...] = ("top", "right", "bottom", "left")
TURNED = "pin 1 last"
MOST_MM = 2000.0
NUMBER = re.compile(r"(from|at|every|each|step)?\s*(-?\d+(?:[.,]\d+)?)\s*(mm|cm|in)?")
MM = {"mm": 1.0, "cm": 10.0, "in": 25.4, "": 1.0}
INSIDE = re.compile(r"(-?\d+(?:[.,]\d+)?)\s*(mm|cm|in)?\s*inside")
EXAMPLE = "Write it as “bottom, from 20 mm, every 18 mm, 12 mm inside, across, pin 1 last”."


class PortPlace(Record, frozen=True, kw_only=True):
    """Where a port lies: its edge, its middle along it and how far inside it lies in mm, whether
    its pins run across the edge, whether pin 1 is at the right, lower or inner end.
    """

    edge: Edge
    at_mm: float
    reversed: bool = False
    inset_mm: float = 0.0
    across: bool = False


def place_of(port: Port) -> PortPlace:
    """Where a port lies."""
    return PortPlace(edge=port.edge, at_mm=port.at_mm, reversed=port.reversed,
                     inset_mm=port.inset_mm, across=port.across)  # fmt: skip


def read_places(text: str, names: Sequence[str]) -> dict[str, PortPlace]:
    """The places of alike ports from words: the edge, where the middle of the first is, how far
    apart they are; "12 mm inside", "across", "pin 1 last". Nothing: no place is said. Raises
    `Problem`.
    """
    words = (
        text.casefold()
        .replace("−", "-")
        .replace("pin 1 last", " turned ")
        .replace("edge", " ")
        .strip()
    )
    if not words:
        return {}
    found = [edge for edge in EDGE_WORDS if re.search(rf"\b{edge}\b", words)]
    if len(found) != 1:
        raise Problem(f"“{text}” does not say one edge.", remedy=EXAMPLE)
    inside = INSIDE.search(words)
    inset_mm = float(inside[1].replace(",", ".")) * MM[inside[2] or ""] if inside else 0.0
    words = INSIDE.sub(" ", words)
    numbers = [
        (word, float(number.replace(",", ".")) * MM[unit])
        for word, number, unit in NUMBER.findall(words)
    ]
    if not numbers or len(numbers) > 2 or (len(numbers) < 2 and len(names) > 1):
        raise Problem(f"“{text}” does not say from where, and how far apart.", remedy=EXAMPLE)
    first_mm, step_mm = numbers[0][1], numbers[1][1] if len(numbers) > 1 else 0.0
    last_mm = first_mm + (len(names) - 1) * step_mm
    if min(first_mm, last_mm, inset_mm) < 0 or max(first_mm, last_mm, inset_mm) > MOST_MM:
        raise Problem(f"“{text}” lies beside any board.", remedy=EXAMPLE)
    first = PortPlace(
        edge=found[0],
        at_mm=first_mm,
        reversed="turned" in words,
        inset_mm=round(inset_mm, 3),
        across="across" in words,
    )
    return {
        name: replace(first, at_mm=round(first_mm + number * step_mm, 3))
        for number, name in enumerate(names)
    }


def places_in_words(names: Sequence[str], places: Mapping[str, PortPlace]) -> str:
    """The places of alike ports in the words that `read_places` reads; "" where they are at no
    regular distance along one edge, or have no place.
    """
    found = [places[name] for name in names if name in places]
    if not found or len(found) < len(names):
        return ""
    first = found[0]
    step_mm = found[1].at_mm - first.at_mm if len(found) > 1 else 0.0
    for number, place in enumerate(found):
        is_regular = abs(place.at_mm - first.at_mm - number * step_mm) < 0.01
        if replace(place, at_mm=first.at_mm) != first or not is_regular:
            return ""
    words = f"{first.edge}, from {first.at_mm:g} mm"
    if len(found) > 1:
        words += f", every {step_mm:g} mm"
    if first.inset_mm:
        words += f", {first.inset_mm:g} mm inside"
    if first.across:
        words += ", across"
    return f"{words}, {TURNED}" if first.reversed else words
