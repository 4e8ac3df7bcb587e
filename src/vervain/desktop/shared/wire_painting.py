"""Conductors as they are drawn: a bar in its colour with its letters and an outline."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPolygonF

from vervain.desktop.theme import looks
from vervain.model.colours import base_and_stripe, is_colour

# How much of a colour stays while something else is carried.
FADED = 0.38
DARK_LETTERS, LIGHT_LETTERS = "#25232D", "#FFFFFF"
GROUND = "#FFFFFF"


def mixed(colour: QColor, part: float, ground: QColor) -> QColor:
    """A colour faded towards a ground."""
    return QColor(
        round(colour.red() * part + ground.red() * (1 - part)),
        round(colour.green() * part + ground.green() * (1 - part)),
        round(colour.blue() * part + ground.blue() * (1 - part)),
    )


def draw_bar(
    painter: QPainter,
    box: QRectF,
    code: str | None,
    *,
    letters: bool = True,
    faded: bool = False,
    dashed: bool = False,
    text: str | None = None,
) -> None:
    """A bar in a conductor's colour; its stripe along the lower edge; its letters inside."""
    known = code is not None and is_colour(code)
    outline = looks.colour("ink")
    ground = QColor(GROUND)
    painter.save()
    if known and code is not None:
        base, stripe = base_and_stripe(code)
        fill = QColor(base.fill)
        light = base.letters_on_it == "light"
        if faded:
            fill, light = mixed(fill, FADED, ground), False
        painter.fillRect(box, fill)
        if stripe is not None:
            band = QRectF(
                box.left(), box.bottom() - box.height() * 0.3, box.width(), box.height() * 0.3
            )
            shade = QColor(stripe.fill)
            painter.fillRect(band, mixed(shade, FADED, ground) if faded else shade)
    else:
        light = False
        painter.fillRect(box, looks.colour("sheet"))
    pen = QPen(outline if not faded else mixed(outline, 0.55, ground), 1)
    if dashed:
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
    shown = text if text is not None else (code or "")
    if letters and shown:
        font = looks.font(9, bold=True)
        while (
            QFontMetricsF(font).horizontalAdvance(shown) > box.width() - 2 and font.pixelSize() > 6
        ):
            font.setPixelSize(font.pixelSize() - 1)
        painter.setFont(font)
        dark = DARK_LETTERS if known else looks.theme.ink
        painter.setPen(QColor(LIGHT_LETTERS if light else dark))
        striped = known and code is not None and len(code) == 4
        where = box.adjusted(0, 0, 0, -box.height() * 0.26) if striped else box
        painter.drawText(where, Qt.AlignmentFlag.AlignCenter, shown)
    painter.restore()


def draw_split(
    painter: QPainter, box: QRectF, codes: list[str | None], *, hatched: bool, faded: bool = False
) -> None:
    """Several conductors in one pin: side by side where meant so, hatched where they conflict."""
    width = box.width() / len(codes)
    for number, code in enumerate(codes):
        part = QRectF(box.left() + number * width, box.top(), width, box.height())
        draw_bar(painter, part, code, faded=faded and not hatched)
    if hatched:
        painter.save()
        painter.setPen(QPen(looks.colour("bad"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(-1, -1, 1, 1))
        painter.restore()


def draw_stripes(painter: QPainter, right: float, middle: float, codes: list[str]) -> float:
    """A device's lead colours as tiny stripes, ending at `right`; returns their left edge."""
    width, height = looks.px(5), looks.px(11)
    left = right - width * len(codes)
    for number, code in enumerate(codes):
        box = QRectF(left + number * width, middle - height / 2, width, height)
        base, stripe = base_and_stripe(code)
        painter.fillRect(box, QColor(base.fill))
        if stripe is not None:
            painter.fillRect(
                QRectF(box.left(), box.center().y(), width, height / 2), QColor(stripe.fill)
            )
    if codes:
        painter.setPen(QPen(looks.colour("faded"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(left, middle - height / 2, width * len(codes), height))
    return left


def draw_mark(painter: QPainter, centre: QPointF, state: str) -> None:
    """The state mark: loose an empty ring, placed half filled, wired filled, proven with a tick."""
    radius = looks.px(4.5)
    ring = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(looks.colour("ink"), 1.2))
    painter.setBrush(looks.colour("ink") if state == "wired" else looks.colour("sheet"))
    painter.drawEllipse(ring)
    if state == "proven":
        painter.setPen(QPen(looks.colour("good"), 1.2))
        painter.setBrush(looks.colour("good"))
        painter.drawEllipse(ring)
        tick = [QPointF(-0.5, 0), QPointF(-0.1, 0.4), QPointF(0.5, -0.4)]
        painter.setPen(QPen(looks.colour("sheet"), 1.4))
        painter.drawPolyline(QPolygonF([centre + point * radius for point in tick]))
    if state == "placed":
        painter.setBrush(looks.colour("ink"))
        painter.drawPie(ring, 180 * 16, 180 * 16)
    painter.restore()


def draw_triangle(painter: QPainter, tip: QPointF, size: float, direction: str) -> None:
    """A small filled triangle, as at pin 1."""
    d = size
    shapes = {
        "down": [(-d, -d), (d, -d), (0, 0)],
        "up": [(-d, d), (d, d), (0, 0)],
        "left": [(d, -d), (d, d), (0, 0)],
        "right": [(-d, -d), (-d, d), (0, 0)],
    }
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(looks.colour("faded"))
    points = [QPointF(tip.x() + x, tip.y() + y) for x, y in shapes[direction]]
    painter.drawPolygon(QPolygonF(points))
    painter.restore()


CONSEQUENCE_COLOURS = {
    "Damage": ("bad", True),
    "Won't run": ("bad", False),
    "Unreliable": ("doubt", False),
    "Workmanship": ("faded", False),
}


def count_width(count: int) -> float:
    """How wide the box of `draw_count` is."""
    extent = QFontMetricsF(looks.font(10, bold=True)).horizontalAdvance(str(count))
    return max(looks.px(15), extent + looks.px(8))


def draw_count(painter: QPainter, right: float, middle: float, count: int, worst: str) -> float:
    """The number of findings in a box that tells the worst by its colour and by its frame: filled,
    thick, thin, dotted; returns its left edge.
    """
    painter.save()
    painter.setFont(looks.font(10, bold=True))
    width = count_width(count)
    height = looks.px(15)
    box = QRectF(right - width, middle - height / 2, width, height)
    name, filled = CONSEQUENCE_COLOURS[worst]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen = QPen(looks.colour(name), 2.2 if worst == "Won't run" else 1)
    if worst == "Workmanship":
        pen.setStyle(Qt.PenStyle.DotLine)
    painter.setPen(pen)
    painter.setBrush(looks.colour(name) if filled else looks.colour("sheet"))
    painter.drawRoundedRect(box, 3, 3)
    text = "on_accent" if filled else ("doubt_text" if name == "doubt" else name)
    painter.setPen(looks.colour(text))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(count))
    painter.restore()
    return box.left()


def elided(painter: QPainter, text: str, width: float) -> str:
    """A text shortened with an ellipsis to a width."""
    return painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(max(0, width)))
