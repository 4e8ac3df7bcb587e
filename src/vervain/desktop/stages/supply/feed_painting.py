"""The feed trees as they are painted: lines as thick as their current, rows with what arrives."""

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.stages.supply.feed_layout import FeedLine, FeedPicture, FeedShape
from vervain.desktop.theme import looks
from vervain.electrical.feeds import Source
from vervain.electrical.series import stack_of
from vervain.model.colours import base_and_stripe, is_colour
from vervain.model.electrical import FeedOut
from vervain.model.machine import PinRef
from vervain.ports.occupancy import colour_of
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_tree import ROOTS, Branch
from vervain.supply.results import DeliveredPower, drop_limit
from vervain.text.quantities import figure

RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
# The line of the mains (IEC 60445).
LINE_COLOUR = "BN"
# The columns at the right of a row, in pixels at 100 % from the right edge: takes, lost, gets.
TAKES, LOST, GETS = 168, 116, 74


def thickness(current_a: float) -> float:
    """How thick a line is drawn, in pixels at 100 %."""
    return 2.5 + min(9.0, 2.2 * math.sqrt(max(0.0, current_a)))


def in_amperes(current_a: float) -> str:
    """A current in a column of others: two places of amperes, below that milliamperes."""
    return f"{current_a:.2f} A" if current_a >= 0.01 or not current_a else figure(current_a, "A", 1)


def paint_feeds(
    painter: QPainter,
    picture: FeedPicture,
    queries: Queries,
    worst: dict[str, str],
    chosen: str | None,
    target: FeedShape | None,
    seen: QRectF,
    ghosts: dict[PinRef, str],
) -> None:
    """What lies in the stretch that is seen; `worst` is the worst consequence by device, `chosen`
    the selected device, `ghosts` where a proposal would feed pins from.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    width = picture.width
    _paint_heads(painter, width)
    upper, lower = seen.top() - looks.px(30), seen.bottom() + looks.px(30)
    rows = [row for row in picture.rows if upper <= row.y <= lower]
    for row in rows:
        _paint_wash(painter, row, chosen, target, picture.rows_left, width)
    for line in picture.lines:
        heights = [point.y() for point in line.points]
        if min(heights) <= lower and max(heights) >= upper:
            _paint_line(painter, line, queries)
    for shape in picture.shapes:
        if shape.box.top() <= lower and shape.box.bottom() >= upper:
            _paint_shape(painter, shape, queries, worst, chosen, target)
    devices = [row.branch.device for row in picture.rows if row.branch.arrival is not None]
    for row in rows:
        several = devices.count(row.branch.device) > 1
        _paint_row(painter, row, queries, width, several, ghosts.get(row.branch.pin, ""))


def _paint_heads(painter: QPainter, width: float) -> None:
    painter.setFont(looks.font(10.5))
    painter.setPen(looks.colour("faded"))
    px = looks.px
    for right, words in ((TAKES, "takes"), (LOST - 34, "lost"), (8, "gets")):
        box = QRectF(width - px(right) - px(60), px(5), px(60), px(16))
        painter.drawText(box, RIGHT, words)


def _paint_wash(
    painter: QPainter,
    row: FeedShape,
    chosen: str | None,
    target: FeedShape | None,
    left: float,
    width: float,
) -> None:
    if row.branch.device == chosen or row is target:
        box = QRectF(left + 2, row.box.top(), width - left - 6, row.box.height())
        painter.fillRect(box, looks.colour("wash"))
    if row is target:
        painter.setPen(QPen(looks.colour("accent"), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(row.box.adjusted(1, 1, -5, -1))


def _paint_line(painter: QPainter, line: FeedLine, queries: Queries) -> None:
    current_a = line.branch.current_a
    code = next(
        (
            colour
            for flow in reversed(line.branch.flows)
            if (colour := colour_of(queries, flow.link.owner, flow.link.number)) is not None
        ),
        None,
    )
    fill = looks.colour("rule")
    if line.is_of_mains:
        fill = QColor(base_and_stripe(LINE_COLOUR)[0].fill)
    elif line.branch.arrival is None and line.branch.note:
        _paint_earth(painter, line)
        return
    if code is not None and is_colour(code):
        fill = QColor(base_and_stripe(code)[0].fill)
    thick = looks.px(thickness(current_a))
    shape = QPolygonF(list(line.points))
    for shade, extent in ((looks.colour("ink"), thick + 1.6), (fill, thick)):
        pen = QPen(shade, extent)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(shape)


def _paint_earth(painter: QPainter, line: FeedLine) -> None:
    """A bond: green with yellow, or dashed where there is none."""
    shape = QPolygonF(list(line.points))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if line.branch.note != "bonded":
        pen = QPen(looks.colour("bad"), 1.4)
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawPolyline(shape)
        return
    green, yellow = (QColor(base_and_stripe(code)[0].fill) for code in ("GN", "YE"))
    for shade, extent in ((looks.colour("ink"), 4.6), (green, 3.2), (yellow, 1.1)):
        pen = QPen(shade, looks.px(extent) if extent > 2 else extent)
        pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
        painter.setPen(pen)
        painter.drawPolyline(shape)


def _paint_shape(
    painter: QPainter,
    shape: FeedShape,
    queries: Queries,
    worst: dict[str, str],
    chosen: str | None,
    target: FeedShape | None,
) -> None:
    branch, box = shape.branch, shape.box
    outline = looks.colour("faded")
    wrong = worst.get(branch.device)
    if wrong in ("Damage", "Won't run"):
        outline = looks.colour("bad")
    elif wrong == "Unreliable":
        outline = looks.colour("doubt")
    if branch.device == chosen or shape is target:
        outline = looks.colour("accent")
    pen = QPen(outline, 1.8 if shape is target else 1.2)
    if branch.kind == "unfed":
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.setBrush(looks.colour("sheet"))
    radius = {"fuse": box.height() / 2, "contact": 3.0}.get(branch.kind, 3.0)
    painter.drawRoundedRect(box, radius, radius)
    painter.setPen(looks.colour("ink"))
    if branch.kind == "strip":
        _paint_strip(painter, shape)
        return
    if branch.kind in ROOTS:
        _paint_source(painter, shape, queries)
        return
    painter.setFont(looks.font(10.5, bold=True))
    words = elided(painter, branch.label, box.width() - 4)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _paint_strip(painter: QPainter, shape: FeedShape) -> None:
    painter.setFont(looks.font(10.5, bold=True))
    above = QRectF(shape.box.center().x() - 30, shape.box.top() - looks.px(16), 60, looks.px(15))
    painter.drawText(above, Qt.AlignmentFlag.AlignCenter, shape.branch.label)
    painter.setPen(QPen(looks.colour("faded"), 1))
    y = shape.box.top() + looks.px(9)
    while y < shape.box.bottom():
        painter.drawEllipse(QPointF(shape.box.center().x(), y), looks.px(3), looks.px(3))
        y += looks.px(20)


def _paint_source(painter: QPainter, shape: FeedShape, queries: Queries) -> None:
    box, branch = shape.box, shape.branch
    words = _source_words(queries, branch) if branch.kind == "source" else branch.note
    middle = box.center().y()
    painter.setFont(looks.font(14, bold=True))
    upper = QRectF(box.left(), middle - looks.px(20), box.width(), looks.px(20))
    painter.drawText(upper, Qt.AlignmentFlag.AlignCenter, branch.label)
    painter.setFont(looks.font(10.5))
    painter.setPen(looks.colour("faded"))
    lower = QRectF(box.left(), middle + looks.px(1), box.width(), looks.px(17))
    painter.drawText(lower, Qt.AlignmentFlag.AlignCenter, words)


def _source_words(queries: Queries, branch: Branch) -> str:
    """What a source gives: its volts, or so many times those of one in a string."""
    pin = queries.pin(branch.pin)
    feed = pin.electrical if pin is not None else None
    if not isinstance(feed, FeedOut):
        return branch.note
    stack = stack_of(queries, Source(pin=branch.pin, feed=feed))
    volts = [one.feed.nominal_v for one in stack]
    if len(volts) > 1 and len({*volts}) == 1:
        return f"{len(volts)} × {volts[0]:g} V"
    return f"{sum(volts):g} V"


def _paint_row(
    painter: QPainter, row: FeedShape, queries: Queries, width: float, several: bool, ghost: str
) -> None:
    """A consumer: by its port too where it has several rows; what it takes and gets, or where a
    proposal would feed it from.
    """
    arrival, branch, box = row.branch.arrival, row.branch, row.box
    px = looks.px
    dot = QRectF(box.left(), row.y - px(3.5), px(7), px(7))
    painter.fillRect(dot, looks.colour("ink"))
    takes_left = width - px(TAKES) - px(46)
    name_left = box.left() + px(12)
    painter.setPen(looks.colour("ink"))
    painter.setFont(looks.font(11.5, bold=True))
    painter.drawText(QRectF(name_left, box.top(), px(30), box.height()), LEFT, branch.device)
    painter.setFont(looks.font(11.5))
    device = queries.device(branch.device)
    name = device.name if device is not None else ""
    if several and arrival is not None:
        name = f"{branch.pin.port}  {name}"
    left = name_left + px(34)
    words = elided(painter, name, takes_left - left)
    painter.drawText(QRectF(left, box.top(), takes_left - left, box.height()), LEFT, words)
    if ghost:
        painter.setPen(looks.colour("accent"))
        far = QRectF(width - px(TAKES) - px(46), box.top(), px(TAKES) + px(36), box.height())
        painter.drawText(far, RIGHT, ghost)
        return
    if branch.kind == "taker" and not branch.note:
        takes = QRectF(takes_left, box.top(), px(46), box.height())
        taken = in_amperes(branch.current_a) if branch.current_a else "not given"
        painter.drawText(takes, RIGHT, taken)
        painter.setPen(looks.colour("faded"))
        far = QRectF(width - px(GETS) - px(34), box.top(), px(100), box.height())
        painter.drawText(far, RIGHT, "mains")
        return
    if arrival is None:
        painter.setPen(looks.colour("faded" if branch.note == "bonded" else "bad"))
        far = QRectF(width - px(TAKES) - px(46), box.top(), px(TAKES) + px(36), box.height())
        painter.drawText(far, RIGHT, branch.note)
        return
    if arrival.status != "on":
        painter.setPen(looks.colour("bad" if arrival.wanted_a else "faded"))
        far = QRectF(width - px(TAKES) - px(46), box.top(), px(TAKES) + px(36), box.height())
        painter.drawText(far, RIGHT, arrival.status)
        return
    takes = QRectF(takes_left, box.top(), px(46), box.height())
    painter.drawText(takes, RIGHT, in_amperes(arrival.current_a))
    _paint_lost(painter, arrival, QRectF(width - px(LOST) - px(40), row.y - px(3), px(46), px(6)))
    gets = QRectF(width - px(GETS) - px(34), box.top(), px(100), box.height())
    _paint_gets(painter, arrival, gets)


def _paint_lost(painter: QPainter, arrival: DeliveredPower, box: QRectF) -> None:
    """The part of the voltage that is lost, against the most that may be."""
    if arrival.lost is None:
        return
    limit = drop_limit(arrival)
    painter.fillRect(box, looks.colour("rule"))
    over = arrival.lost > limit
    extent = min(1.0, max(0.0, arrival.lost / (2 * limit))) * box.width()
    bar = QRectF(box.left(), box.top(), extent, box.height())
    painter.fillRect(bar, looks.colour("doubt" if over else "faded"))
    mark = box.left() + box.width() / 2
    painter.fillRect(QRectF(mark - 1, box.top() - 3, 2, box.height() + 6), looks.colour("ink"))


def _paint_gets(painter: QPainter, arrival: DeliveredPower, box: QRectF) -> None:
    if arrival.voltage_v is None:
        return
    of = f" of {arrival.source_v or arrival.nominal_v:g} V"
    painter.setFont(looks.font(11.5))
    painter.setPen(looks.colour("faded"))
    painter.drawText(box, RIGHT, of)
    extent = painter.fontMetrics().horizontalAdvance(of)
    over = arrival.lost is not None and arrival.lost > drop_limit(arrival)
    painter.setPen(looks.colour("doubt_text" if over else "ink"))
    painter.setFont(looks.font(11.5, bold=True))
    voltage_v = (
        f"{arrival.voltage_v:.1f}" if arrival.nominal_v >= 10 else f"{arrival.voltage_v:.2f}"
    )
    painter.drawText(box.adjusted(0, 0, -extent - 1, 0), RIGHT, voltage_v)
