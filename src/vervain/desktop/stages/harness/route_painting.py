"""Draws the route: the box, runs as bars or zigzags, sections over them, places."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.stages.harness.bundle_painting import paint_section
from vervain.desktop.theme import looks
from vervain.harness.bundles import bundle_of
from vervain.harness.route_layout import (
    NAME_WIDTH,
    PlaceShape,
    RoutePicture,
    RunShape,
    last_width,
)
from vervain.harness.route_words import devices_words, run_words
from vervain.queries.machine_queries import Queries

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
MIDDLE = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter
ZIGZAG_PX = 10.0


class RouteLooks:
    """What is shown of the route beside its shape: what is chosen, traced, wrong, aimed at."""

    def __init__(self) -> None:
        self.run: str | None = None
        self.place: str | None = None
        self.cable: str | None = None
        self.traced: tuple[str, ...] = ()
        self.worst: dict[str, str] = {}
        self.target: str | None = None


def paint_route(
    painter: QPainter, picture: RoutePicture, queries: Queries, shown: RouteLooks
) -> None:
    """The whole picture."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _paint_scales(painter, picture)
    for shape in picture.runs:
        _paint_run(painter, shape, picture, queries, shown)
    _paint_entries(painter, picture, queries)
    for place in picture.places:
        if place.is_root:
            _paint_box(painter, place, queries, shown)
        else:
            _paint_place(painter, place, queries, shown)


def _paint_entries(painter: QPainter, picture: RoutePicture, queries: Queries) -> None:
    """Where runs pass the wall of a closed box: a tab at its edge."""
    for root in picture.places:
        place = queries.place(root.place)
        if not root.is_root or place is None or not place.closed:
            continue
        for shape in picture.runs:
            if shape.start.x == root.node.right and not shape.is_ring:
                top = shape.start.y - looks.px(7)
                tab = QRectF(shape.start.x - 1, top, looks.px(7), looks.px(14))
                painter.setPen(QPen(looks.colour("faded"), 1))
                painter.setBrush(looks.colour("rule"))
                painter.drawRoundedRect(tab, 2, 2)


def _paint_scales(painter: QPainter, picture: RoutePicture) -> None:
    """How long a metre is, and how large 20 mm of a section are."""
    if not picture.runs:
        return
    painter.setFont(looks.font(10.5))
    right = picture.width - looks.px(14)
    y = looks.px(14)
    for extent, words in (
        (picture.px_per_m, "runs 1 m"), (20 * picture.px_per_mm, "sections 20 mm"),
    ):  # fmt: skip
        left = right - extent
        painter.setPen(QPen(looks.colour("ink"), 1))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        for x in (left, right):
            painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
        width = painter.fontMetrics().horizontalAdvance(words)
        painter.setPen(looks.colour("faded"))
        painter.drawText(QRectF(left - width - 8, y - 9, width + 4, 18), RIGHT, words)
        right = left - width - looks.px(24)


def _line_colour(shape: RunShape, shown: RouteLooks) -> str:
    if shape.run == shown.run or shape.run in shown.traced:
        return "accent"
    return "faded"


def _paint_run(
    painter: QPainter, shape: RunShape, picture: RoutePicture, queries: Queries, shown: RouteLooks
) -> None:
    run = queries.run(shape.run)
    if run is None:
        return
    colour = looks.colour(_line_colour(shape, shown))
    if shape.branch_from is not None:
        dashed = QPen(looks.colour("faded"), 1.2)
        dashed.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(dashed)
        painter.drawLine(QPointF(*shape.branch_from), QPointF(*shape.start))
    if shape.is_ring:
        pen = QPen(colour, 1.6)
        pen.setStyle(Qt.PenStyle.DashDotLine)
        painter.setPen(pen)
        painter.drawLine(QPointF(*shape.start), QPointF(*shape.end))
    elif run.moving:
        painter.setPen(QPen(colour, looks.px(2.2)))
        painter.drawPolyline(zigzag(QPointF(*shape.start), QPointF(*shape.end)))
    else:
        painter.setPen(QPen(colour, looks.px(4)))
        painter.drawLine(QPointF(*shape.start), QPointF(*shape.end))
    bundle = bundle_of(queries, shape.run)
    if not shape.section.is_empty:
        paint_section(painter, QRectF(*shape.section), bundle, run, shown.cable, picture.px_per_mm)
    _paint_run_words(painter, shape, queries, shown)


def zigzag(start: QPointF, end: QPointF) -> QPolygonF:
    """A moving run: a zigzag of whole teeth from one end to the other."""
    extent = end.x() - start.x()
    teeth = max(2, round(extent / looks.px(ZIGZAG_PX)))
    height = looks.px(5)
    points = [start]
    for number in range(teeth):
        x = start.x() + extent * (number + 0.5) / teeth
        points.append(QPointF(x, start.y() + (height if number % 2 else -height)))
    points.append(end)
    return QPolygonF(points)


def _paint_run_words(
    painter: QPainter, shape: RunShape, queries: Queries, shown: RouteLooks
) -> None:
    upper, lower = run_words(queries, shape.run)
    left, top = shape.start.x + looks.px(6), shape.start.y + looks.px(7)
    if shape.is_ring:
        left = (shape.start.x + shape.end.x) / 2
        top = (shape.start.y + shape.end.y) / 2
    room = max(shape.end.x - left, looks.px(60))
    painter.setFont(looks.font(11.5, bold=True))
    painter.setPen(looks.colour("accent" if shape.run == shown.run else "ink"))
    extent = painter.fontMetrics().horizontalAdvance(shape.run) + looks.px(7)
    painter.drawText(QRectF(left, top, room, looks.px(15)), LEFT, shape.run)
    painter.setFont(looks.font(11))
    painter.setPen(looks.colour("ink"))
    text = elided(painter, upper, room - extent)
    painter.drawText(QRectF(left + extent, top, room - extent, looks.px(15)), LEFT, text)
    worst = shown.worst.get(shape.run)
    painter.setFont(looks.font(10.5, bold=worst is not None))
    painter.setPen(looks.colour("doubt_text" if worst else "faded"))
    if worst in ("Damage", "Won't run"):
        painter.setPen(looks.colour("bad"))
    text = elided(painter, lower, room)
    painter.drawText(QRectF(left, top + looks.px(14), room, looks.px(15)), LEFT, text)


def _paint_box(painter: QPainter, shape: PlaceShape, queries: Queries, shown: RouteLooks) -> None:
    """A root: a tall box with its name along it."""
    place = queries.place(shape.place)
    chosen = shape.place in (shown.place, shown.target)
    painter.setPen(QPen(looks.colour("accent" if chosen else "faded"), 2 if chosen else 1))
    painter.setBrush(looks.colour("wash" if chosen else "paper"))
    painter.drawRoundedRect(QRectF(*shape.node), 3, 3)
    painter.save()
    painter.translate(QPointF(*shape.node.centre))
    painter.rotate(-90)
    length, width = shape.node.height, shape.node.width
    painter.setPen(looks.colour("ink"))
    painter.setFont(looks.font(12.5, bold=True))
    name = elided(painter, place.name if place else shape.place, length - 8)
    painter.drawText(QRectF(-length / 2, -width / 2 + 4, length, looks.px(18)), MIDDLE, name)
    painter.setFont(looks.font(10.5))
    painter.setPen(looks.colour("faded"))
    words = elided(painter, devices_words(queries, shape.place), length - 10)
    painter.drawText(
        QRectF(-length / 2, width / 2 - looks.px(22), length, looks.px(16)), MIDDLE, words
    )
    painter.restore()


def _paint_place(painter: QPainter, shape: PlaceShape, queries: Queries, shown: RouteLooks) -> None:
    place = queries.place(shape.place)
    if place is None:
        return
    chosen = shape.place in (shown.place, shown.target)
    traced = shown.cable is not None and shape.place == shown.place
    pen = QPen(looks.colour("accent" if chosen or traced else "ink"), 2.2 if chosen else 1.8)
    painter.setPen(pen)
    painter.setBrush(looks.colour("wash" if chosen else "sheet"))
    painter.drawRoundedRect(QRectF(*shape.node), 2, 2)
    facts = []
    if place.strain_relief:
        facts.append("held")
    devices = devices_words(queries, shape.place)
    if shape.is_last:
        left = shape.node.right + looks.px(7)
        upper = QRectF(
            left,
            shape.node.centre.y - looks.px(17),
            looks.px(last_width(queries, shape.place) - 6),
            looks.px(17),
        )
        lower = upper.translated(0, looks.px(16))
        flags = LEFT
    else:
        width = looks.px(NAME_WIDTH - 4)
        middle = shape.node.centre.x
        bottom = shape.node.y - looks.px(3)
        lower = QRectF(middle - width / 2, bottom - looks.px(15), width, looks.px(15))
        upper = lower.translated(0, -looks.px(15))
        flags = MIDDLE
    painter.setPen(looks.colour("accent" if chosen else "ink"))
    painter.setFont(looks.font(11.5, bold=True))
    painter.drawText(upper, flags, elided(painter, place.name, upper.width()))
    painter.setFont(looks.font(10.5))
    painter.setPen(looks.colour("faded"))
    painter.drawText(lower, flags, elided(painter, devices or ", ".join(facts), lower.width()))
