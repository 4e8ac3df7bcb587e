"""Paints boards, connectors and what sits in them."""

from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from vervain.desktop.shared.wire_painting import draw_bar, draw_split, draw_triangle, elided
from vervain.desktop.stages.ports.board_layout import is_slot
from vervain.desktop.stages.ports.board_marks import paint_mark, paint_shared, paint_slot
from vervain.desktop.stages.ports.shapes import BoardShape, PortShape
from vervain.desktop.theme import looks
from vervain.electrical.join_judgement import Verdict
from vervain.harness.labels import conductor_labels
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Pin
from vervain.ports.fit import Fit
from vervain.ports.occupancy import (
    alternates_at,
    far_colours,
    is_conflict,
    is_turned_round,
    kept_for,
    seen_at,
    who_sits_at,
)
from vervain.queries.connectivity import paths_from
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import taken_as

# How many lines a pin's text has when it is looked at closely.
SIGNS = ("+", "-", "−")
CLOSE_LINES = 4
# What is left free between the names of two pins.
PIN_GAP = 3


@dataclass
class Scene:
    """What the painting depends on besides the machine."""

    queries: Queries
    fits: dict[PortRef, Fit] = field(default_factory=dict)
    carrying: bool = False
    carried: str | None = None
    target: PortRef | None = None
    ghosts: dict[PinRef, str | None] = field(default_factory=dict)
    proposed: dict[PortRef, str] = field(default_factory=dict)
    selected_port: PortRef | None = None
    selected_pin: PinRef | None = None
    selected_device: str | None = None
    worst: dict[PortRef, str] = field(default_factory=dict)
    dragged_pin: PinRef | None = None
    far_colours: bool = False
    related: tuple[PortRef, ...] = ()
    wire_start: PinRef | None = None
    wire_target: PinRef | None = None
    answers: dict[PinRef, Verdict] = field(default_factory=dict)


def paint_caption(painter: QPainter, name: str, box: QRectF) -> None:
    """The name of a place, ruled off from the boards above it."""
    painter.setPen(looks.colour("rule"))
    painter.drawLine(box.topLeft(), box.topRight())
    painter.setPen(looks.colour("faded"))
    painter.setFont(looks.font(11, bold=True))
    words = elided(painter, name, box.width())
    painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)


def paint_board(painter: QPainter, board: BoardShape, scene: Scene, seen: QRectF) -> None:
    """One board with all its ports; ports outside of what is seen are left out."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    chosen = scene.selected_device == board.device and scene.selected_port is None
    painter.setPen(QPen(looks.colour("accent" if chosen else "faded"), 1.6 if chosen else 1))
    painter.setBrush(looks.colour("sheet"))
    painter.drawRoundedRect(board.outline, 5, 5)
    _paint_holes(painter, board.outline)
    _paint_title(painter, board, scene)
    for mark in board.marks:
        paint_mark(painter, mark, board.device, scene.queries)
    paint_shared(painter, board, scene.queries, scene.selected_port)
    for port in board.ports:
        if port.frame.intersects(seen):
            paint_port(painter, port, scene)


def _paint_holes(painter: QPainter, outline: QRectF) -> None:
    painter.setPen(QPen(looks.colour("rule"), 1))
    painter.setBrush(looks.colour("paper"))
    inset = 9
    for x in (outline.left() + inset, outline.right() - inset):
        for y in (outline.top() + inset, outline.bottom() - inset):
            painter.drawEllipse(QPointF(x, y), 4, 4)


def _paint_title(painter: QPainter, board: BoardShape, scene: Scene) -> None:
    device, part = scene.queries.device(board.device), scene.queries.part_of(board.device)
    if device is None or part is None:
        return
    box = board.title
    painter.setPen(looks.colour("ink"))
    line = QRectF(box.left(), box.top(), box.width(), looks.px(22))
    words = f"{board.device}  {device.name}"
    for size in (15, 13, 12):
        painter.setFont(looks.font(size, bold=True))
        if painter.fontMetrics().horizontalAdvance(words) <= line.width():
            break
    name = elided(painter, words, line.width())
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, name)
    painter.setFont(looks.font(11))
    painter.setPen(looks.colour("faded"))
    line.translate(0, looks.px(19))
    maker = f"{part.maker} {part.model}".strip()
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, elided(painter, maker, line.width()))
    current = scene.queries.setting(board.device, "current_peak_a")
    microsteps = scene.queries.setting(board.device, "microsteps")
    if current is not None and microsteps is not None:
        line.translate(0, looks.px(16))
        text = elided(painter, f"{current:g} A peak, 1/{microsteps} step", line.width())
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, text)


def paint_port(painter: QPainter, shape: PortShape, scene: Scene) -> None:
    """A connector with its pins, its name and who sits there, or how what is carried fits."""
    queries = scene.queries
    fit = scene.fits.get(shape.ref)
    conflict = is_conflict(queries, shape.ref)
    is_target = scene.target == shape.ref
    offered = fit is not None and fit.verdict != "does not fit"
    fades = scene.carrying and not offered and not conflict and not is_target
    paint_frame(painter, shape, scene, fit, conflict)
    if is_slot(shape.port):
        seated = who_sits_at(queries, shape.ref)
        turned = any(is_turned_round(queries, shape.ref, name) for name in seated)
        paint_slot(painter, shape, " ".join(seated), turned)
    else:
        _paint_plain(painter, shape, scene, fades, conflict)
    painter.setFont(looks.font(11, bold=True))
    is_taken = taken_as(queries, shape.ref) is not None
    painter.setPen(looks.colour("faded" if is_taken else "ink"))
    painter.drawText(shape.name, _name_flags(shape.edge), shape.port.id)
    _paint_label(painter, shape, scene, fit, conflict)


def _paint_plain(
    painter: QPainter, shape: PortShape, scene: Scene, fades: bool, conflict: bool
) -> None:
    """A connector with its latch, its pins and its pin 1."""
    painter.setPen(QPen(looks.colour("faded"), 1))
    painter.setBrush(looks.colour("paper"))
    painter.drawRoundedRect(shape.box, 2, 2)
    _paint_key(painter, shape)
    for pin in shape.pins:
        paint_pin(painter, pin.ref, pin.bar, scene, fades, conflict)
        paint_pin_text(painter, shape, pin.ref, pin.text, scene)
    _paint_pin_one(painter, shape)


def _name_flags(edge: str) -> Qt.AlignmentFlag:
    middle = Qt.AlignmentFlag.AlignVCenter
    if edge == "left":
        return middle | Qt.AlignmentFlag.AlignLeft
    if edge == "right":
        return middle | Qt.AlignmentFlag.AlignRight
    return middle | Qt.AlignmentFlag.AlignHCenter


def paint_frame(
    painter: QPainter, shape: PortShape, scene: Scene, fit: Fit | None, conflict: bool
) -> None:
    """The frame around a port: how what is carried fits, what is wrong, what is selected."""
    box = shape.frame.adjusted(0.5, 0.5, -0.5, -0.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if scene.carrying and fit is not None and fit.verdict != "does not fit":
        if scene.target == shape.ref:
            painter.setBrush(looks.colour("wash"))
        pen = QPen(looks.colour("accent"), 2)
        if fit.verdict == "fits with":
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawRoundedRect(box, 3, 3)
    elif shape.ref in scene.proposed:
        painter.setBrush(looks.colour("wash"))
        painter.setPen(QPen(looks.colour("accent"), 1.6, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(box, 3, 3)
    elif conflict or scene.worst.get(shape.ref) in ("Damage", "Won't run"):
        painter.setPen(QPen(looks.colour("bad"), 1.5))
        painter.drawRoundedRect(box, 3, 3)
    if scene.target == shape.ref and (fit is None or fit.verdict == "does not fit"):
        painter.setPen(QPen(looks.colour("faded"), 1.5, Qt.PenStyle.DotLine))
        painter.drawRoundedRect(box, 3, 3)
    elif scene.carrying:
        return
    elif shape.ref in scene.related:
        painter.setPen(QPen(looks.colour("accent"), 1.5))
        painter.drawRoundedRect(box.adjusted(-1, -1, 1, 1), 3, 3)
    elif scene.selected_port == shape.ref:
        painter.setPen(QPen(looks.colour("accent"), 2))
        painter.drawRoundedRect(box.adjusted(-1, -1, 1, 1), 3, 3)


def _paint_key(painter: QPainter, shape: PortShape) -> None:
    """The latch of the connector, on the side away from the board."""
    centre = shape.box.center()
    long, short = looks.px(16), 3
    if shape.edge == "top":
        latch = QRectF(centre.x() - long / 2, shape.box.top() - short, long, short)
    elif shape.edge == "bottom":
        latch = QRectF(centre.x() - long / 2, shape.box.bottom(), long, short)
    elif shape.edge == "left":
        latch = QRectF(shape.box.left() - short, centre.y() - long / 2, short, long)
    else:
        latch = QRectF(shape.box.right(), centre.y() - long / 2, short, long)
    if shape.port.connector is None or shape.port.connector.startswith(("screw", "pin")):
        return
    painter.fillRect(latch, looks.colour("rule"))


def _paint_pin_one(painter: QPainter, shape: PortShape) -> None:
    first = shape.pins[-1] if shape.port.reversed else shape.pins[0]
    size = looks.px(3)
    if shape.edge in ("top", "bottom"):
        direction = "up" if shape.edge == "top" else "down"
        y = first.text.bottom() + 1 if shape.edge == "top" else first.text.top()
        draw_triangle(painter, QPointF(first.bar.center().x(), y), size, direction)
    else:
        direction = "left" if shape.edge == "left" else "right"
        x = shape.box.right() + 1 if shape.edge == "left" else shape.box.left() - 1
        draw_triangle(painter, QPointF(x, first.bar.center().y()), size, direction)


def paint_pin(
    painter: QPainter, ref: PinRef, bar: QRectF, scene: Scene, fades: bool, conflict: bool
) -> None:
    """A pin: the colours that come to it, and what it says to a wire that is in hand."""
    answer = scene.answers.get(ref)
    fades = fades or (answer in ("against advice", "cannot be") and ref != scene.wire_target)
    if ref in scene.ghosts:
        draw_bar(painter, bar, scene.ghosts[ref], faded=True, dashed=True)
        return
    if scene.far_colours:
        codes = far_colours(scene.queries, ref)
    else:
        codes = tuple(item.colour for item in seen_at(scene.queries, ref))
    if len(codes) > 1:
        draw_split(painter, bar, list(codes[:3]), hatched=conflict, faded=fades)
    elif codes:
        draw_bar(painter, bar, codes[0], faded=fades)
    else:
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5))
    if scene.wire_start is not None:
        _paint_answer(painter, ref, bar, scene, answer)
        return
    if scene.selected_pin == ref or scene.dragged_pin == ref:
        painter.setPen(QPen(looks.colour("accent"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(bar.adjusted(-2, -2, 2, 2))


def _paint_answer(
    painter: QPainter, ref: PinRef, bar: QRectF, scene: Scene, answer: Verdict | None
) -> None:
    """The frame around a pin while the end of a wire is in hand."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    box = bar.adjusted(-1.5, -1.5, 1.5, 1.5)
    if ref == scene.wire_target:
        wash = looks.colour("accent")
        wash.setAlphaF(0.28)
        painter.fillRect(box, wash)
    if ref in (scene.wire_start, scene.wire_target):
        pen = QPen(looks.colour("accent"), 2.6)
        if ref == scene.wire_target and answer in ("against advice", "cannot be"):
            pen = QPen(looks.colour("bad"), 2.2, Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.drawRoundedRect(box, 2, 2)
    elif answer in ("belongs", "may be"):
        pen = QPen(looks.colour("accent"), 1.8 if answer == "belongs" else 1)
        if answer == "may be":
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawRoundedRect(box, 2, 2)


def paint_pin_text(
    painter: QPainter, shape: PortShape, ref: PinRef, box: QRectF, scene: Scene
) -> None:
    """What stands beside a pin; from close by, what one wants to know of it."""
    pin = shape.port.pin(ref.pin)
    if pin is None:
        return
    if box.height() >= looks.px(CLOSE_LINES * 12):
        _paint_close(painter, shape, ref, box, scene.queries)
        return
    font = looks.font(9.5)
    painter.setFont(font)
    # All pins of a port in one size; side by side two names would run into one.
    longest = max((_printed(shape.port.id, other) for other in shape.port.pins), key=len)
    room = box.width() - looks.px(PIN_GAP)
    while painter.fontMetrics().horizontalAdvance(longest) > room and font.pixelSize() > 7:
        font.setPixelSize(font.pixelSize() - 1)
        painter.setFont(font)
    text = _printed(shape.port.id, pin)
    painter.setPen(looks.colour("faded"))
    if shape.edge == "right":
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
    elif shape.edge == "left":
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
    else:
        flags = Qt.AlignmentFlag.AlignCenter
    painter.drawText(box, flags, text)


def _printed(port: str, pin: Pin) -> str:
    """What is printed at a pin, without the name of its port, which stands beside it already: 1 of
    TEMP1 1 at TEMP1, + of HEAT+ at HEAT.
    """
    rest = pin.text.removeprefix(port)
    return rest.strip() if rest.startswith(" ") or rest in SIGNS else pin.text


def _paint_close(
    painter: QPainter, shape: PortShape, ref: PinRef, box: QRectF, queries: Queries
) -> None:
    """What one wants to know of a pin from close by: its name, what it is, where it leads to."""
    pin = shape.port.pin(ref.pin)
    if pin is None:
        return
    number = [other.id for other in shape.port.pins].index(ref.pin) + 1
    leads = [
        entry
        for seen in seen_at(queries, ref)
        if (entry := conductor_labels(queries, seen.hookup, seen.row))
    ]
    ends = [way.end for way in paths_from(queries, ref)]
    far = [f"{end.device} {there.text}" for end in ends if (there := queries.pin(end))]
    lines = [
        f"{pin.text} · pin {number}",
        pin.function,
        ", ".join(entry.at_a for entry in leads) or "free",
        ", ".join(far),
    ]
    flags = Qt.AlignmentFlag.AlignVCenter | _side_flag(shape.edge)
    height = box.height() / CLOSE_LINES
    for row, text in enumerate(lines):
        painter.setFont(looks.font(10.5 if row else 11.5, bold=row == 0))
        painter.setPen(looks.colour("ink" if row in (0, 3) else "faded"))
        line = QRectF(box.left() + 3, box.top() + row * height, box.width() - 6, height)
        painter.drawText(line, flags, elided(painter, text, line.width()))


def _side_flag(edge: str) -> Qt.AlignmentFlag:
    return {
        "left": Qt.AlignmentFlag.AlignLeft,
        "right": Qt.AlignmentFlag.AlignRight,
    }.get(edge, Qt.AlignmentFlag.AlignHCenter)


def _paint_label(
    painter: QPainter, shape: PortShape, scene: Scene, fit: Fit | None, conflict: bool
) -> None:
    """Who sits there; while something is carried, what an offered port says."""
    first, second = _label_words(shape, scene, fit)
    box = shape.label
    accent = scene.carrying and fit is not None and fit.verdict != "does not fit"
    accent = accent or shape.ref in scene.proposed
    colour: QColor = looks.colour("accent" if accent else "bad" if conflict else "ink")
    flags = _name_flags(shape.edge)
    painter.setPen(colour)
    if shape.edge in ("left", "right"):
        painter.setFont(looks.font(11))
        painter.setPen(colour if conflict or accent else looks.colour("faded"))
        painter.drawText(box, flags, elided(painter, " ".join((first, second)), box.width()))
        return
    painter.setFont(looks.font(11, bold=True))
    if shape.edge == "top":
        painter.drawText(box, flags, elided(painter, first, box.width()))
        return
    half = QRectF(box.left(), box.top(), box.width(), box.height() / 2)
    painter.drawText(half, flags, elided(painter, first, half.width()))
    painter.setFont(looks.font(10, bold=accent))
    painter.setPen(colour if accent or conflict else looks.colour("faded"))
    half.translate(0, box.height() / 2 - 2)
    painter.drawText(half, flags, elided(painter, second, half.width()))


def _label_words(shape: PortShape, scene: Scene, fit: Fit | None) -> tuple[str, str]:
    proposed = scene.proposed.get(shape.ref)
    if proposed is not None:
        device = scene.queries.device(proposed)
        return f"{proposed}?", device.name if device else ""
    if scene.carrying and fit is not None and fit.verdict != "does not fit":
        if scene.target == shape.ref and scene.carried:
            device = scene.queries.device(scene.carried)
            return scene.carried, device.name if device else ""
        return ("fits with", fit.needs) if fit.verdict == "fits with" else ("fits", "")
    names = who_sits_at(scene.queries, shape.ref)
    if not names:
        kept = kept_for(scene.queries, shape.ref)
        other = taken_as(scene.queries, shape.ref)
        if kept or other is None:
            return ("kept for", kept) if kept else ("", "")
        return "", f"as {other.port}"
    device = scene.queries.device(names[0])
    waiting = alternates_at(scene.queries, shape.ref)
    if len(names) == 1:
        second = f"or {', '.join(waiting)}" if waiting else device.name if device else ""
        return names[0], second
    if is_conflict(scene.queries, shape.ref):
        return " ".join(names), f"{len(names)} devices"
    switches = all((p := scene.queries.part_of(n)) and p.kind == "switch" for n in names)
    return " ".join(names), "in series" if switches else ""
