"""Draws the strings of the stops: what is alive in its colours, what is dead dashed."""

from collections.abc import Mapping
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.stages.stops.stop_layout import Button, Element, StopPicture
from vervain.desktop.theme import looks
from vervain.model.colours import base_and_stripe, is_colour
from vervain.model.machine import PinRef
from vervain.stops.chains import Chain, WireAlong
from vervain.stops.circuit import Circuit, Wire
from vervain.stops.words import AT_WORK, DONE, kind_of_stop

POST = 7.0


@dataclass(frozen=True)
class Shown:
    """What is drawn: the circuit, which nodes are at plus and at minus, which contacts closed,
    what was done to it, the words of wires, ends, inputs and pins.
    """

    circuit: Circuit
    chains: tuple[Chain, ...]
    live: frozenset[int]
    at_minus: frozenset[int]
    closed: frozenset[int]
    cut: frozenset[Wire]
    shorted: frozenset[Wire]
    welded: frozenset[int]
    pressed: frozenset[str]
    lost: frozenset[int]
    blown: frozenset[int]
    labels: Mapping[Wire, str]
    colours: Mapping[Wire, str | None]
    sources: Mapping[int, tuple[str, str]]
    ends: Mapping[int, tuple[str, str, bool]]
    inputs: Mapping[int, tuple[tuple[str, bool], ...]]
    names: Mapping[str, str]
    pins: Mapping[PinRef, str]
    ratings: Mapping[str, str]

    def alive(self, element: Element) -> frozenset[int]:
        """The nodes at what an element should lie at: plus, or behind a coil minus."""
        return self.at_minus if element.is_return else self.live


def paint_stops(
    painter: QPainter, picture: StopPicture, shown: Shown, chosen: int, chosen_wire: int
) -> None:
    """Everything, with the chosen element, or the chosen wire of it, framed."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for button in picture.buttons:
        _paint_button(painter, button, shown)
    for number, element in enumerate(picture.elements):
        if number == chosen:
            painter.setPen(QPen(looks.colour("accent"), 1.6))
            painter.setBrush(looks.colour("wash"))
            boxes = wire_boxes(element)
            frame = boxes[min(chosen_wire, len(boxes) - 1)][0] if boxes else element.box
            painter.drawRoundedRect(frame.adjusted(-2, -10, 2, 10), 4, 4)
        _paint_element(painter, element, shown)


def _paint_element(painter: QPainter, element: Element, shown: Shown) -> None:
    match element.kind:
        case "source":
            first, second = shown.sources.get(element.number, ("", ""))
            lost = element.number in shown.lost
            _paint_box(painter, element.box, first, "lost" if lost else second, is_live=not lost)
        case "wire":
            _paint_wires(painter, element, shown)
        case "fuse":
            blown = element.number in shown.blown
            rating = shown.ratings.get(element.device, "")
            _paint_fuse(painter, element, blown, element.before in shown.alive(element), rating)
        case "end":
            _paint_end(painter, element, shown)
        case "return":
            _paint_box(painter, element.box, "0 V", "", is_live=True)
        case _:
            _paint_contact(painter, element, shown)


def _paint_box(
    painter: QPainter, box: QRectF, first: str, second: str, is_live: bool, dashed: bool = False
) -> None:
    pen = QPen(looks.colour("ink" if is_live else "faded"), 1.2)
    if dashed or not is_live:
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.setBrush(looks.colour("paper"))
    painter.drawRoundedRect(box, 3, 3)
    half = QRectF(box.left() + 4, box.top() + 2, box.width() - 8, box.height() / 2)
    painter.setPen(looks.colour("ink"))
    painter.setFont(looks.font(11, bold=True))
    centre = Qt.AlignmentFlag.AlignCenter
    painter.drawText(half, centre, elided(painter, first, half.width()))
    half.translate(0, box.height() / 2 - 2)
    painter.setFont(looks.font(10))
    painter.setPen(looks.colour("faded" if is_live else "bad"))
    painter.drawText(half, centre, elided(painter, second, half.width()))


def _line(painter: QPainter, a: QPointF, b: QPointF, colour: str | None, is_live: bool) -> None:
    """A piece of wire: in its colour with an outline where it is at plus, else dashed."""
    if not is_live:
        pen = QPen(looks.colour("faded"), 1.4)
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawLine(a, b)
        return
    fill = looks.colour("faded")
    if colour is not None and is_colour(colour):
        fill = QColor(base_and_stripe(colour)[0].fill)
    for shade, extent in ((looks.colour("ink"), looks.px(6) + 1.6), (fill, looks.px(6))):
        pen = QPen(shade, extent)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        painter.drawLine(a, b)


def wire_boxes(element: Element) -> list[tuple[QRectF, WireAlong]]:
    """The part of a wire element that each of its wires has."""
    if not element.wires:
        return []
    step = element.box.width() / len(element.wires)
    return [
        (QRectF(element.box.left() + n * step, element.box.top(), step, element.box.height()), wire)
        for n, wire in enumerate(element.wires)
    ]


def _paint_wires(painter: QPainter, element: Element, shown: Shown) -> None:
    y = element.box.center().y()
    if not element.wires:
        left, right = QPointF(element.box.left(), y), QPointF(element.box.right(), y)
        _line(painter, left, right, None, element.before in shown.alive(element))
        return
    for box, along in wire_boxes(element):
        a, b = QPointF(box.left(), y), QPointF(box.right(), y)
        is_cut, alive = along.wire in shown.cut, shown.alive(element)
        middle = QPointF(box.center().x(), y)
        colour = shown.colours.get(along.wire)
        if is_cut:
            _line(painter, a, QPointF(middle.x() - 5, y), colour, along.start in alive)
            _line(painter, QPointF(middle.x() + 5, y), b, colour, along.end in alive)
            painter.setPen(QPen(looks.colour("bad"), 2))
            for dx in (-3, 3):
                painter.drawLine(QPointF(middle.x() + dx - 2, y + 9),
                                 QPointF(middle.x() + dx + 2, y - 9))  # fmt: skip
        else:
            _line(painter, a, b, colour, along.start in alive)
        text = QRectF(box.left(), box.top() - looks.px(10), box.width(), looks.px(14))
        is_marked = is_cut or along.wire in shown.shorted
        painter.setFont(looks.font(9, bold=is_marked))
        painter.setPen(looks.colour("bad" if is_marked else "ink"))
        words = shown.labels.get(along.wire, "")
        painter.drawText(text, Qt.AlignmentFlag.AlignCenter, elided(painter, words, text.width()))
        if is_marked:
            told = QRectF(box.left(), y + looks.px(8), box.width(), looks.px(14))
            painter.drawText(told, Qt.AlignmentFlag.AlignCenter, "cut" if is_cut else "shorted")


def _paint_fuse(
    painter: QPainter, element: Element, blown: bool, is_live: bool, rating: str
) -> None:
    box = element.box.adjusted(0, looks.px(5), 0, -looks.px(5))
    painter.setPen(QPen(looks.colour("bad" if blown else "ink"), 1.2))
    painter.setBrush(looks.colour("paper"))
    painter.drawRoundedRect(box, box.height() / 2, box.height() / 2)
    painter.setFont(looks.font(10, bold=True))
    painter.setPen(looks.colour("bad" if blown else "ink" if is_live else "faded"))
    words = f"{element.device} blown" if blown else f"{element.device} {rating}".strip()
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, elided(painter, words, box.width() - 6))


def _paint_contact(painter: QPainter, element: Element, shown: Shown) -> None:
    """Two posts with the bridge as it is made: NC under them, NO above; open it stands off."""
    contact = shown.circuit.contacts[element.number]
    box, y, post = element.box, element.box.center().y(), looks.px(POST)
    bridged = element.kind == "bridged contact"
    closed, bad = element.number in shown.closed, element.number in shown.welded
    is_live = element.before in shown.alive(element)
    left = QRectF(box.left() + 4, y - post / 2, post, post)
    right = QRectF(box.right() - 4 - post, y - post / 2, post, post)
    _line(painter, QPointF(box.left(), y), QPointF(left.left(), y), None, is_live)
    _line(painter, QPointF(right.right(), y), QPointF(box.right(), y), None,
          element.behind in shown.alive(element))  # fmt: skip
    painter.setBrush(looks.colour("sheet"))
    painter.setPen(QPen(looks.colour("ink"), 1.6))
    for shape in (left, right):
        painter.drawRect(shape)
    away = 0.0 if closed else looks.px(6)
    under = contact.is_nc
    bar_y = y + post / 2 + away if under else y - post / 2 - looks.px(4) - away
    bar = QRectF(left.left() - 2, bar_y, right.right() - left.left() + 4, looks.px(4))
    painter.setPen(QPen(looks.colour("bad" if bad else "ink"), 1))
    painter.setBrush(looks.colour("bad" if bad else "ink") if closed else looks.colour("sheet"))
    painter.drawRect(bar)
    if bridged:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(looks.colour("bad"), 2.4))
        arc = QRectF(left.center().x(), y - looks.px(4), right.center().x() - left.center().x(),
                     looks.px(26))  # fmt: skip
        painter.drawArc(arc, 180 * 16, 180 * 16)
    painter.setFont(looks.font(8))
    painter.setPen(looks.colour("faded"))
    for pin, shape in zip(contact.pins, (left, right), strict=True):
        # Over an NO bridge that stands off.
        text = QRectF(shape.center().x() - 16, y - looks.px(22 if under else 27), 32, looks.px(10))
        painter.drawText(text, Qt.AlignmentFlag.AlignCenter, shown.pins.get(pin, pin.pin))
    told = QRectF(
        box.left() - 20, y + looks.px(23 if bridged else 13), box.width() + 40, looks.px(13)
    )
    painter.setFont(looks.font(9, bold=True))
    of_button = element.device in shown.circuit.demanded
    name = "" if of_button else " or ".join((element.device, *element.beside))
    words = "bridged" if bridged else "stays closed" if bad else name
    painter.setPen(looks.colour("bad" if bridged or bad else "ink"))
    painter.drawText(told, Qt.AlignmentFlag.AlignCenter, words)


def _paint_end(painter: QPainter, element: Element, shown: Shown) -> None:
    first, second, is_on = shown.ends.get(element.chain, ("", "", False))
    box = element.box.adjusted(4, 0, 0, 0)
    _paint_box(painter, box, first, second, is_live=is_on)
    y = box.bottom() + looks.px(3)
    for words, is_lit in shown.inputs.get(element.chain, ()):
        lamp = QRectF(box.left(), y + 2, looks.px(10), looks.px(10))
        painter.setPen(QPen(looks.colour("ink"), 1))
        painter.setBrush(looks.colour("good" if is_lit else "sheet"))
        painter.drawEllipse(lamp)
        text = QRectF(lamp.right() + 5, y, box.width() - lamp.width() - 5, looks.px(14))
        painter.setFont(looks.font(10))
        painter.setPen(looks.colour("ink"))
        told = f"{words} {'closed' if is_lit else 'open'}"
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, elided(painter, told, text.width()))
        y += looks.px(15)


def _paint_button(painter: QPainter, button: Button, shown: Shown) -> None:
    """The mushroom over its contacts, tied to them by a dashed line; lower while it is pressed."""
    pressed = button.device in shown.pressed
    tie = QPen(looks.colour("faded"), 1)
    tie.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(tie)
    for point in button.contacts:
        painter.drawLine(QPointF(button.at.x(), button.at.y() + 8), point)
    kind = kind_of_stop(shown.circuit, button.device)
    PAINTED[kind](painter, button.at, pressed)
    words = QRectF(button.words.left(), button.words.top(), button.words.width(), looks.px(14))
    painter.setPen(looks.colour("ink"))
    painter.setFont(looks.font(11, bold=True))
    name = f"{button.device}  {shown.names.get(button.device, '')}"
    side = Qt.AlignmentFlag.AlignRight if button.at_left else Qt.AlignmentFlag.AlignLeft
    flags = side | Qt.AlignmentFlag.AlignVCenter
    painter.drawText(words, flags, elided(painter, name, words.width()))
    painter.setFont(looks.font(10))
    painter.setPen(looks.colour("bad" if pressed else "faded"))
    words.translate(0, looks.px(14))
    painter.drawText(words, flags, DONE[kind] if pressed else AT_WORK[kind])


def _paint_mushroom(painter: QPainter, at: QPointF, is_pressed: bool) -> None:
    y = at.y() + (looks.px(6) if is_pressed else 0)
    head = QRectF(at.x() - looks.px(20), y - looks.px(12), looks.px(40), looks.px(24))
    painter.setPen(QPen(looks.colour("ink"), 1.4))
    painter.setBrush(looks.colour("bad" if is_pressed else "paper"))
    painter.drawChord(head, 0, 180 * 16)


def _paint_door(painter: QPainter, at: QPointF, is_open: bool) -> None:
    """A leaf on its hinge, from above: along the wall while shut, out of it while open."""
    half, thick = looks.px(18), looks.px(5)
    painter.save()
    painter.translate(at.x() - half, at.y())
    painter.rotate(-38 if is_open else 0)
    painter.setPen(QPen(looks.colour("ink"), 1.4))
    painter.setBrush(looks.colour("bad" if is_open else "paper"))
    painter.drawRect(QRectF(0, -thick / 2, 2 * half, thick))
    painter.drawEllipse(QPointF(0, 0), thick * 0.7, thick * 0.7)
    painter.restore()


def _paint_curtain(painter: QPainter, at: QPointF, is_interrupted: bool) -> None:
    """Two posts with beams between them; interrupted, the beams end halfway."""
    half, tall, post = looks.px(18), looks.px(11), looks.px(4)
    painter.setPen(QPen(looks.colour("ink"), 1.4))
    painter.setBrush(looks.colour("paper"))
    for x in (at.x() - half, at.x() + half - post):
        painter.drawRect(QRectF(x, at.y() - tall, post, 2 * tall))
    beam = QPen(looks.colour("bad" if is_interrupted else "ink"), 1)
    beam.setStyle(Qt.PenStyle.DotLine)
    painter.setPen(beam)
    end = at.x() if is_interrupted else at.x() + half - post
    for row in (-2, 0, 2):
        y = at.y() + row * tall / 3
        painter.drawLine(QPointF(at.x() - half + post, y), QPointF(end, y))


PAINTED = {"button": _paint_mushroom, "door": _paint_door, "curtain": _paint_curtain}
