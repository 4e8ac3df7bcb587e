"""Where the small things stand: everything with pins that is not drawn as a board, each a block
with its pins in rows and what lies between them beneath.
"""

from PyQt6.QtCore import QRectF

from vervain.desktop.stages.ports.shapes import (
    BoardShape,
    InsideShape,
    PinShape,
    PortShape,
    Sizes,
    moved_port,
)
from vervain.model.elements import Bridge, Contact, Element, Winding
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part, Port

# What is drawn of the inside of a part at most, one beneath the other.
MOST_LEVELS = 3
BLOCK = "block"


def block_of(name: str, part: Part, sizes: Sizes, widest: float) -> BoardShape:
    """A device as a block at the origin, no wider than `widest` pixels where its pins allow it."""
    pad, pitch = sizes.gap, sizes.pin
    per_row = max(2, int((widest - 2 * pad) // pitch))
    title = sizes.name * 1.5
    narrowest = pitch * 4.6
    depth = sizes.text * 0.95 if part.inside else 2.0
    ports: list[PortShape] = []
    left, top, row, reached = pad, title, 0.0, 0.0
    for port in part.ports:
        shape = _port(name, port, sizes, per_row, is_named(part, port), depth)
        if left > pad and left + shape.frame.width() > widest - pad:
            left, top, row = pad, top + row, 0.0
        ports.append(moved_port(shape, left, top))
        left += shape.frame.width() + pad
        reached = max(reached, left)
        row = max(row, shape.frame.height())
    inside = tuple(_inside(name, part, ports, sizes))
    lowest = max((item.box.bottom() for item in inside), default=0.0)
    height = max(top + row, lowest) + 4
    width = max(reached, narrowest)
    return BoardShape(
        device=name,
        outline=QRectF(0, 0, width, height),
        title=QRectF(pad, 2, width - 2 * pad, title - 4),
        ports=tuple(ports),
        inside=inside,
        is_block=True,
    )


def is_named(part: Part, port: Port) -> bool:
    """Whether a port's name tells more than the names of its pins."""
    return len(part.ports) > 1 and [port.id] != [pin.text for pin in port.pins]


def _port(
    name: str, port: Port, sizes: Sizes, per_row: int, named: bool, depth: float
) -> PortShape:
    """A port at the origin: its name, then rows of pins with their texts above them, then who is
    there; `depth` is the room between, where the inside is drawn.
    """
    pitch, line = sizes.pin, sizes.text + sizes.bar + 4
    order = list(reversed(port.pins)) if port.reversed else list(port.pins)
    count = min(len(order), per_row)
    rows = -(-len(order) // per_row)
    width = max(count * pitch, pitch * (0.6 + 0.34 * len(port.id) if named else 1.4))
    start = (width - count * pitch) / 2
    top = sizes.text + 2 if named else 1.0
    pins = []
    for number, pin in enumerate(order):
        x = start + (number % per_row) * pitch
        y = top + (number // per_row) * line
        pins.append(
            PinShape(
                ref=PinRef(device=name, port=port.id, pin=pin.id),
                bar=QRectF(x + 1, y + sizes.text, pitch - 2, sizes.bar),
                text=QRectF(x - 1, y, pitch + 2, sizes.text),
            )
        )
    box = QRectF(start - 1, top, count * pitch + 2, rows * line)
    label = QRectF(0, box.bottom() + depth, width, sizes.text + 2)
    return PortShape(
        ref=PortRef(device=name, port=port.id),
        port=port,
        edge=BLOCK,
        box=box,
        pins=tuple(pins),
        name=QRectF(0, 1, width, sizes.text),
        label=label,
        frame=QRectF(0, 0, width, label.bottom() + 1),
    )


def _inside(name: str, part: Part, ports: list[PortShape], sizes: Sizes) -> list[InsideShape]:
    """What lies between the pins, each under the pins that it joins. Bars lie beneath each other,
    of the rest one is drawn at one place.
    """
    bars = {pin.ref: pin.bar for port in ports for pin in port.pins}
    high = sizes.text * 0.95 - 2
    found: list[InsideShape] = []
    for element in sorted(part.inside, key=_reach):
        refs = [PinRef(device=name, port=port, pin=pin) for port, pin in element.pins]
        spots = [bars[ref] for ref in refs if ref in bars]
        is_bar = isinstance(element, Bridge)
        if is_bar and not _is_drawn(element, part):
            continue
        rows = sorted({spot.bottom() for spot in spots})
        if len(rows) > 1 and not is_bar:
            continue
        for row in rows:
            posts = tuple(spot.center().x() for spot in spots if spot.bottom() == row)
            left, right = min(posts), max(posts)
            levels = MOST_LEVELS if is_bar else 1
            for level in range(levels if right - left > 2 else 0):
                step = high / MOST_LEVELS
                box = QRectF(left, row + 1, right - left, high)
                if is_bar:
                    box = QRectF(left, row + 1 + level * step, right - left, step)
                if not any(item.box.intersects(box) for item in found):
                    found.append(InsideShape(element, box, posts, row))
                    break
    return found


def _is_drawn(element: Element, part: Part) -> bool:
    """Whether a bar is seen on the part: not the copper of a board, nor a connector's ways."""
    assert isinstance(element, Bridge)
    is_way = len(element.pins) == 2 and element.pins[0][0] != element.pins[1][0]
    return not element.name and (not is_way or part.kind == "terminal strip")


def _reach(element: Element) -> tuple[bool, int]:
    """The order in which the inside is drawn where it would overlap: contacts and links first."""
    return isinstance(element, Winding), len(element.pins) if not isinstance(
        element, Contact
    ) else 0
