"""What the Ports stage draws, as plain shapes: boards and blocks with their ports and pins."""

from dataclasses import dataclass, field, replace
from typing import TypeVar

from PyQt6.QtCore import QPointF, QRectF

from vervain.model.elements import Element
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Indicator, Option, Port

Spot = TypeVar("Spot", PinRef, PortRef)


@dataclass(frozen=True)
class Sizes:
    """Measures in pixels at the text scale in force."""

    pin: float
    bar: float
    text: float
    name: float
    gap: float
    label: float
    side: float

    @classmethod
    def at(cls, scale: float) -> "Sizes":
        """The measures at a text scale."""
        return cls(
            pin=26 * scale,
            bar=20 * scale,
            text=13 * scale,
            name=16 * scale,
            gap=10 * scale,
            label=34 * scale,
            side=78 * scale,
        )


@dataclass(frozen=True)
class PinShape:
    """A pin: the box of its bar and the box of its function's text."""

    ref: PinRef
    bar: QRectF
    text: QRectF


@dataclass(frozen=True)
class PortShape:
    """A port: connector box, pins, the boxes of its name and of who sits there, its whole frame."""

    ref: PortRef
    port: Port
    edge: str
    box: QRectF
    pins: tuple[PinShape, ...]
    name: QRectF
    label: QRectF
    frame: QRectF


@dataclass(frozen=True)
class MarkShape:
    """A jumper, a row of switches or a lamp on a board, with the box of its drawing and words."""

    of: Option | Indicator
    box: QRectF


@dataclass(frozen=True)
class InsideShape:
    """What lies between pins inside a part, in a box under them; `posts` are the middles of their
    bars, which end at `foot`.
    """

    element: Element
    box: QRectF
    posts: tuple[float, ...]
    foot: float


@dataclass(frozen=True)
class BoardShape:
    """A board: its outline, the box of its title, its ports, and its jumpers and switches. What is
    no board is a block: its pins in rows, with what lies between them.
    """

    device: str
    outline: QRectF
    title: QRectF
    ports: tuple[PortShape, ...]
    marks: tuple[MarkShape, ...] = ()
    inside: tuple[InsideShape, ...] = ()
    is_block: bool = False


@dataclass
class Picture:
    """All boards, the names of the places that they lie in where there are several, and the size
    that they take together.
    """

    boards: list[BoardShape] = field(default_factory=list)
    captions: list[tuple[str, QRectF]] = field(default_factory=list)
    width: float = 0.0
    height: float = 0.0

    def ports(self) -> list[PortShape]:
        """Every port, board by board."""
        return [port for board in self.boards for port in board.ports]

    def shape_of(self, ref: PortRef | None) -> PortShape | None:
        """The shape of a port."""
        return next((port for port in self.ports() if port.ref == ref), None)

    def port_at(self, point: QPointF) -> PortShape | None:
        """The port whose frame holds a point."""
        return next((p for p in self.ports() if p.frame.contains(point)), None)

    def pin_at(self, point: QPointF) -> PinShape | None:
        """The pin whose bar or text holds a point."""
        for port in self.ports():
            for pin in port.pins:
                if pin.bar.contains(point) or pin.text.contains(point):
                    return pin
        return None

    def pin_shape(self, ref: PinRef | None) -> PinShape | None:
        """The shape of a pin."""
        return next((p for port in self.ports() for p in port.pins if p.ref == ref), None)

    def neighbour(self, ref: PortRef, dx: int, dy: int) -> PortRef | None:
        """The nearest port in a direction: what an arrow key goes to."""
        spots = {port.ref: port.frame.center() for port in self.ports()}
        if ref not in spots:
            return next(iter(spots), None)
        return _nearest(spots, ref, dx, dy)

    def neighbour_pin(self, ref: PinRef, dx: int, dy: int) -> PinRef | None:
        """The nearest pin in a direction."""
        spots = {pin.ref: pin.bar.center() for port in self.ports() for pin in port.pins}
        if ref not in spots:
            return next(iter(spots), None)
        return _nearest(spots, ref, dx, dy)


def _nearest(spots: dict[Spot, QPointF], here: Spot, dx: int, dy: int) -> Spot | None:
    """What lies nearest in a direction, straight ahead before aside."""
    centre, best = spots[here], None
    least = float("inf")
    for thing, other in spots.items():
        along = (other.x() - centre.x()) * dx + (other.y() - centre.y()) * dy
        across = abs((other.x() - centre.x()) * dy) + abs((other.y() - centre.y()) * dx)
        if thing != here and along > 4 and along + 2.5 * across < least:
            least, best = along + 2.5 * across, thing
    return best


def moved(board: BoardShape, dx: float, dy: float) -> BoardShape:
    """A board where it stands, with its ports as those of its device."""
    name = board.device

    def box(rect: QRectF) -> QRectF:
        return rect.translated(dx, dy)

    def named(ref: PinRef) -> PinRef:
        return ref if ref.device == name else PinRef(device=name, port=ref.port, pin=ref.pin)

    return replace(
        board,
        outline=box(board.outline),
        title=box(board.title),
        ports=tuple(
            replace(
                moved_port(port, dx, dy),
                ref=PortRef(device=name, port=port.ref.port),
                pins=tuple(PinShape(named(p.ref), box(p.bar), box(p.text)) for p in port.pins),
            )
            for port in board.ports
        ),
        marks=tuple(MarkShape(mark.of, box(mark.box)) for mark in board.marks),
        inside=tuple(
            InsideShape(
                item.element, box(item.box), tuple(x + dx for x in item.posts), item.foot + dy
            )
            for item in board.inside
        ),
    )


def moved_port(shape: PortShape, dx: float, dy: float) -> PortShape:
    """A port somewhere else."""

    def box(rect: QRectF) -> QRectF:
        return rect.translated(dx, dy)

    return replace(
        shape,
        box=box(shape.box),
        pins=tuple(PinShape(pin.ref, box(pin.bar), box(pin.text)) for pin in shape.pins),
        name=box(shape.name),
        label=box(shape.label),
        frame=box(shape.frame),
    )
