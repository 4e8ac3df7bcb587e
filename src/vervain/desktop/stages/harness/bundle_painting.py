"""Cross-sections: the cables of a run packed to scale, with their cores, in a chain or a bundle."""

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from vervain.desktop.theme import looks
from vervain.harness.bundles import Bundle, Strand
from vervain.harness.packing import packed_in_box, packed_round
from vervain.model.colours import base_and_stripe, is_colour
from vervain.model.place import Run

# Cores are drawn where a cable is at least so large, names where it is larger still, in px.
CORES_FROM, NAMES_FROM = 3.6, 19.0


def paint_section(
    painter: QPainter, box: QRectF, bundle: Bundle, run: Run, chosen: str | None, px_per_mm: float
) -> None:
    """A run's cross-section in a box that has the size of its chain or its bundle."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    diameters = tuple(strand.diameter_mm for strand in bundle.strands)
    if run.chain is not None:
        frame = box.adjusted(-3, -3, 3, 3)
        painter.setPen(QPen(looks.colour("faded"), 1))
        painter.setBrush(looks.colour("rule"))
        painter.drawRoundedRect(frame, 3, 3)
        painter.fillRect(box, looks.colour("paper"))
        circles = packed_in_box(diameters, run.chain.width_mm)
        origin = QPointF(box.left(), box.bottom())
        spots = [
            (origin + QPointF(circle.x * px_per_mm, -circle.y * px_per_mm), circle.r * px_per_mm)
            for circle in circles
        ]
    else:
        packing = packed_round(diameters)
        # The rule's diameter leaves air; the packing is shown inside it.
        fit = min(1.0, box.width() / 2 / max(packing.outer.r * px_per_mm, 1e-6))
        if len(diameters) > 1:
            painter.setPen(QPen(looks.colour("faded"), 1))
            painter.setBrush(looks.colour("paper"))
            painter.drawEllipse(box)
        spots = [
            (
                box.center() + QPointF(circle.x * px_per_mm * fit, -circle.y * px_per_mm * fit),
                circle.r * px_per_mm * fit,
            )
            for circle in packing.circles
        ]
    for strand, (centre, radius) in zip(bundle.strands, spots, strict=True):
        _paint_strand(painter, strand, centre, radius, strand.name == chosen)
    painter.restore()


def _paint_strand(
    painter: QPainter, strand: Strand, centre: QPointF, radius: float, is_chosen: bool
) -> None:
    outline = looks.colour("accent" if is_chosen else "faded")
    pen = QPen(outline, 2.0 if is_chosen else 1.0)
    if strand.is_lead:
        pen.setStyle(Qt.PenStyle.DotLine)
    painter.setPen(pen)
    painter.setBrush(looks.colour("wash" if is_chosen else "sheet"))
    painter.drawEllipse(centre, radius, radius)
    if strand.shield and radius > CORES_FROM:
        dashed = QPen(looks.colour("faded"), 0.8)
        dashed.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(dashed)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, radius * 0.86, radius * 0.86)
    if radius >= CORES_FROM:
        paint_cores(painter, strand.cores, centre, radius * (0.78 if strand.shield else 0.86))
    if radius >= NAMES_FROM:
        _paint_name(painter, strand.name, centre, is_chosen)


def paint_cores(painter: QPainter, cores: tuple[str, ...], centre: QPointF, radius: float) -> None:
    """Cores as discs in their colours, packed into a circle."""
    packing = packed_round((1.0,) * len(cores))
    fit = radius / packing.outer.r if packing.outer.r else 0.0
    for code, circle in zip(cores, packing.circles, strict=True):
        spot = centre + QPointF(circle.x * fit, -circle.y * fit)
        disc = circle.r * fit * 0.94
        fill, stripe = QColor("#FFFFFF"), None
        if is_colour(code):
            base, second = base_and_stripe(code)
            fill, stripe = QColor(base.fill), QColor(second.fill) if second else None
        painter.setPen(QPen(looks.colour("faded"), 0.6))
        painter.setBrush(fill)
        painter.drawEllipse(spot, disc, disc)
        if stripe is not None:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(stripe)
            part = QRectF(spot.x() - disc, spot.y() - disc, 2 * disc, 2 * disc)
            painter.drawChord(part, -150 * 16, 120 * 16)


def _paint_name(painter: QPainter, name: str, centre: QPointF, is_chosen: bool) -> None:
    painter.setFont(looks.font(10.5, bold=True))
    extent = painter.fontMetrics().horizontalAdvance(name) + 6
    box = QRectF(centre.x() - extent / 2, centre.y() - looks.px(8), extent, looks.px(16))
    painter.setPen(QPen(looks.colour("accent" if is_chosen else "rule"), 1))
    painter.setBrush(looks.colour("sheet"))
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(looks.colour("accent" if is_chosen else "ink"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


def section_size_mm(bundle: Bundle, run: Run) -> tuple[float, float]:
    """Width and height of a run's section in mm; an overfull chain is as high as it takes."""
    if run.chain is None:
        return bundle.diameter_mm, bundle.diameter_mm
    circles = packed_in_box(tuple(s.diameter_mm for s in bundle.strands), run.chain.width_mm)
    top = max((circle.y + circle.r for circle in circles), default=0.0)
    return run.chain.width_mm, max(run.chain.height_mm, math.ceil(top))
