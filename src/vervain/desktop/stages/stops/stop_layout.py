"""Where everything of the stop strings is drawn: sources, wires, fuses, contacts, ends, buttons."""

from dataclasses import dataclass, replace
from typing import Literal

from PyQt6.QtCore import QPointF, QRectF

from vervain.desktop.theme import looks
from vervain.stops.chains import Chain, Link, WireAlong
from vervain.stops.circuit import Circuit

Kind = Literal["source", "wire", "fuse", "contact", "bridged contact", "end", "return"]
TOP, ROW, SOURCE, WIRE, CONTACT, FUSE, END = 66.0, 72.0, 60.0, 64.0, 50.0, 56.0, 130.0
RETURN = 40.0
# What each wire of several behind each other needs for its label.
EACH_WIRE, MARGIN = 42.0, 16.0
# The least room for the name beside a button.
NAME = 90
LEAST_STRETCH, MOST_STRETCH = 0.9, 2.2


@dataclass(frozen=True)
class Element:
    """One thing of a string that can be chosen: where it is drawn, and what it is. `is_return`
    where it lies behind what the string ends in, in its minus.
    """

    kind: Kind
    box: QRectF
    chain: int
    number: int = -1
    device: str = ""
    beside: tuple[str, ...] = ()
    wires: tuple[WireAlong, ...] = ()
    before: int = -1
    behind: int = -1
    is_return: bool = False


@dataclass(frozen=True)
class Button:
    """A stop's button over its contacts."""

    device: str
    at: QPointF
    contacts: tuple[QPointF, ...]
    words: QRectF
    at_left: bool = False


@dataclass(frozen=True)
class StopPicture:
    """Every element of every string in order, the buttons, and how large it all is."""

    elements: tuple[Element, ...] = ()
    buttons: tuple[Button, ...] = ()
    width: float = 0.0
    height: float = 0.0


def lay_out(chains: tuple[Chain, ...], circuit: Circuit, room: float) -> StopPicture:
    """Lays the strings out one below the other, as wide as there is room for."""
    found: list[Element] = []
    stretch = 1.0
    widths = [_width(chain) for chain in chains]
    if widths:
        # Only wires give and take; a little narrower is better than a bar to scroll by.
        stretch = (room - 2 * looks.px(MARGIN)) / max(widths)
        stretch = stretch if stretch >= 1 else LEAST_STRETCH
    for number, chain in enumerate(chains):
        found += _string(chain, number, circuit, min(stretch, MOST_STRETCH))
    found = _ends_aligned(found)
    width = max((e.box.right() for e in found), default=0.0) + looks.px(MARGIN)
    height = looks.px(TOP + ROW * len(chains))
    return StopPicture(tuple(found), _buttons(found, circuit), width, height)


def _ends_aligned(elements: list[Element]) -> list[Element]:
    """The elements with all ends below each other: the last wires reach as far as that takes."""
    right = max((e.box.right() for e in elements), default=0.0)
    slack = {e.chain: right - e.box.right() for e in elements}
    last = {e.chain: n for n, e in enumerate(elements) if e.kind == "wire"}
    found = []
    for number, element in enumerate(elements):
        more, box = slack[element.chain], element.box
        if number > last[element.chain]:
            box = box.translated(more, 0)
        elif number == last[element.chain]:
            box = box.adjusted(0, 0, more, 0)
        found.append(replace(element, box=box))
    return found


def _width(chain: Chain) -> float:
    total = SOURCE + END
    for link in chain.all_links:
        total += _wire_width(link.wires) + (FUSE if link.kind == "fuse" else CONTACT)
    if chain.returns:
        total += _wire_width(chain.return_wires) + RETURN
    return looks.px(total + _wire_width(chain.last_wires))


def _wire_width(wires: tuple[WireAlong, ...]) -> float:
    return max(WIRE, EACH_WIRE * len(wires))


def _string(chain: Chain, number: int, circuit: Circuit, stretch: float) -> list[Element]:
    x, y = float(looks.px(MARGIN)), looks.px(TOP + ROW * number)
    high = looks.px(34)
    source = circuit.sources[chain.source]
    found: list[Element] = []

    def put(kind: Kind, width: float, **values: object) -> None:
        nonlocal x
        wide = looks.px(width) * (stretch if kind == "wire" else 1.0)
        found.append(Element(kind, QRectF(x, y, wide, high), number, **values))  # type: ignore[arg-type]
        x += wide

    def put_links(links: tuple[Link, ...], start: int, is_return: bool) -> int:
        here = start
        for link in links:
            put("wire", _wire_width(link.wires), wires=link.wires, before=here,
                behind=link.before, is_return=is_return)  # fmt: skip
            put(link.kind, FUSE if link.kind == "fuse" else CONTACT, number=link.number,
                device=link.device, before=link.before, behind=link.behind, beside=link.beside,
                is_return=is_return)  # fmt: skip
            here = link.behind
        return here

    put("source", SOURCE, number=chain.source, device=source.device, behind=source.plus)
    here = put_links(chain.links, source.plus, False)
    put("wire", _wire_width(chain.last_wires), wires=chain.last_wires, before=here,
        behind=chain.end_node)  # fmt: skip
    put("end", END, before=chain.end_node, device=chain.ends[0].device if chain.ends else "")
    if chain.returns:
        here = put_links(chain.returns, -1, True)
        put("wire", _wire_width(chain.return_wires), wires=chain.return_wires, before=here,
            behind=source.minus, is_return=True)  # fmt: skip
        put("return", RETURN, before=source.minus, is_return=True)
    return found


def _spread(places: list[tuple[float, str]], apart: float) -> list[tuple[float, str]]:
    """The buttons in their order, each at least so far to the right of the one before."""
    found: list[tuple[float, str]] = []
    for x, device in places:
        found.append((max(x, found[-1][0] + apart) if found else x, device))
    return found


def _buttons(elements: list[Element], circuit: Circuit) -> tuple[Button, ...]:
    by_device: dict[str, list[QPointF]] = {}
    for element in elements:
        if element.device in circuit.demanded and "contact" in element.kind:
            by_device.setdefault(element.device, []).append(element.box.center())
    places = sorted(
        (sum(p.x() for p in points) / len(points), device) for device, points in by_device.items()
    )
    y, half, gap, most = looks.px(26), looks.px(20), looks.px(6), looks.px(170)
    places = _spread(places, 2 * half + looks.px(NAME))
    found, left_of = [], 0.0
    for number, (x, device) in enumerate(places):
        after = places[number + 1][0] - half if number + 1 < len(places) else x + 2 * most
        # The name stands where there is more room: beside the button at its right, or its left.
        at_right, at_left = after - x - half - 2 * gap, x - half - left_of - 2 * gap
        is_left = at_left > at_right and at_right < most
        width = min(most, at_left if is_left else at_right)
        start = x - half - gap - width if is_left else x + half + gap
        words = QRectF(start, y - looks.px(14), max(0.0, width), looks.px(28))
        found.append(Button(device, QPointF(x, y), tuple(by_device[device]), words, is_left))
        left_of = x + half + (0.0 if is_left else gap + width)
    return tuple(found)
