"""The circle of leads: every reading a chord, found coils drawn as windings."""

import math
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from vervain.desktop.shared.wire_painting import draw_bar
from vervain.desktop.theme import looks
from vervain.leads.identification import Finding
from vervain.model.measurements import Reading


@dataclass(frozen=True)
class LeadSpot:
    """Where a lead stands: its joint on the circle, and the box of its bar outside of it."""

    lead: str
    joint: QPointF
    bar: QRectF


def lay_out(leads: tuple[str, ...], width: float, height: float, scale: float) -> list[LeadSpot]:
    """The leads around a circle in a view of a size, the first one at the upper left."""
    bar_width, bar_height = 46 * scale, 22 * scale
    radius = max(30.0, min(width - 2 * bar_width - 30, height - 2 * bar_height - 34) / 2)
    centre = QPointF(width / 2, height / 2)
    found = []
    for number, lead in enumerate(leads):
        angle = 2 * math.pi * (number - 0.5) / len(leads) - math.pi / 2
        direction = QPointF(math.cos(angle), math.sin(angle))
        joint = centre + direction * radius
        out_x, out_y = bar_width / 2 + 10, bar_height / 2 + 12
        middle = joint + QPointF(direction.x() * out_x, direction.y() * out_y)
        corner = QPointF(middle.x() - bar_width / 2, middle.y() - bar_height / 2)
        bar = QRectF(corner.x(), corner.y(), bar_width, bar_height)
        found.append(LeadSpot(lead=lead, joint=joint, bar=bar))
    return found


class CoilCircle(QWidget):
    """Draws the readings of one motor and what was found from them. Two leads are picked by a
    click on each, or by drawing from one to the other.
    """

    picked = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.leads: tuple[str, ...] = ()
        self.colours: dict[str, str | None] = {}
        self.readings: tuple[Reading, ...] = ()
        self.finding: Finding | None = None
        self.asked: tuple[str, str] | None = None
        self.first: str | None = None
        self.setToolTip("Click two leads to read that pair, at any time")
        self.setAccessibleName("Circle of leads")
        self.setMinimumSize(looks.px(280), looks.px(200))

    def show_state(
        self,
        leads: tuple[str, ...],
        colours: dict[str, str | None],
        readings: tuple[Reading, ...],
        finding: Finding | None,
        asked: tuple[str, str] | None,
    ) -> None:
        """Takes what is to be drawn; `asked` are the two that are probed next."""
        self.asked = asked
        if leads != self.leads:
            self.first = None
        self.leads, self.colours = leads, colours
        self.readings, self.finding = readings, finding
        self.update()

    def lead_at(self, point: QPointF) -> str | None:
        """The lead whose joint or bar is at a point."""
        near = looks.px(12)
        for spot in lay_out(self.leads, self.width(), self.height(), looks.scale):
            off = spot.joint - point
            if spot.bar.contains(point) or math.hypot(off.x(), off.y()) <= near:
                return spot.lead
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        lead = self.lead_at(event.position()) if event is not None else None
        if not self._pick(lead):
            self.first = lead
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._pick(self.lead_at(event.position()))

    def _pick(self, lead: str | None) -> bool:
        """Takes the second lead of a pair; False where it is the first, or none."""
        if lead is None or self.first in (None, lead):
            return False
        first, self.first = self.first or "", None
        self.picked.emit(first, lead)
        return True

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        placed = lay_out(self.leads, self.width(), self.height(), looks.scale)
        spots = {spot.lead: spot for spot in placed}
        if not spots:
            return
        centre = QPointF(self.width() / 2, self.height() / 2)
        first = placed[0].joint - centre
        radius = math.hypot(first.x(), first.y())
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.setBrush(looks.colour("paper"))
        painter.drawEllipse(centre, radius, radius)
        coils = self._coils()
        shown = [r for r in self.readings if r.a in spots and r.b in spots]
        for reading in sorted(shown, key=lambda r: r.saw != "open"):
            is_coil = frozenset((reading.a, reading.b)) in coils
            self._paint_chord(painter, spots, reading, is_coil)
        next_pair = self.asked
        if next_pair is not None and spots.keys() >= set(next_pair):
            a, b = spots[next_pair[0]].joint, spots[next_pair[1]].joint
            painter.setPen(QPen(looks.colour("accent"), 2.5, Qt.PenStyle.DashLine))
            painter.drawLine(a, b)
            self._tag(painter, a, b, "probe", "accent")
        for spot in placed:
            probed = spot.lead == self.first or (next_pair is not None and spot.lead in next_pair)
            painter.setPen(QPen(looks.colour("accent" if probed else "ink"), 3 if probed else 1))
            painter.setBrush(looks.colour("sheet"))
            painter.drawEllipse(spot.joint, looks.px(5), looks.px(5))
            draw_bar(painter, spot.bar, self.colours.get(spot.lead), text=spot.lead)

    def _coils(self) -> set[frozenset[str]]:
        """The pairs of leads that lie in one coil by the verdict."""
        if self.finding is None or self.finding.verdict is None:
            return set()
        return {frozenset((a, b)) for group in self.finding.groups() for a in group for b in group}

    def _paint_chord(
        self, painter: QPainter, spots: dict[str, LeadSpot], reading: Reading, is_coil: bool
    ) -> None:
        a, b = spots[reading.a].joint, spots[reading.b].joint
        if reading.saw == "open":
            painter.setPen(QPen(looks.colour("faded"), 1.2, Qt.PenStyle.DotLine))
            painter.drawLine(a, b)
            return
        painter.setPen(QPen(looks.colour("ink"), 5 if is_coil else 3))
        painter.drawLine(a, b)
        if is_coil:
            self._paint_winding(painter, a, b)
        text = f"{reading.resistance_ohm:.3g} Ω" if reading.resistance_ohm is not None else "beep"
        self._tag(painter, a, b, text, "ink")

    def _paint_winding(self, painter: QPainter, a: QPointF, b: QPointF) -> None:
        """A hatched box in the middle of a chord."""
        length = math.hypot(b.x() - a.x(), b.y() - a.y())
        painter.save()
        painter.translate((a.x() + b.x()) / 2, (a.y() + b.y()) / 2)
        painter.rotate(math.degrees(math.atan2(b.y() - a.y(), b.x() - a.x())))
        box = QRectF(-length * 0.28, -looks.px(9), length * 0.56, looks.px(18))
        painter.setPen(QPen(looks.colour("ink"), 1.5))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRect(box)
        step = max(6.0, box.width() / 9)
        x = box.left() + step
        while x < box.right():
            painter.drawLine(QPointF(x, box.top()), QPointF(x - step * 0.7, box.bottom()))
            x += step
        painter.restore()

    def _tag(self, painter: QPainter, a: QPointF, b: QPointF, text: str, colour: str) -> None:
        """A small label on the middle of a chord."""
        middle = a + (b - a) * 0.5
        painter.setFont(looks.font(11, bold=True))
        width = painter.fontMetrics().horizontalAdvance(text) + looks.px(10)
        box = QRectF(middle.x() - width / 2, middle.y() - looks.px(9), width, looks.px(18))
        painter.setPen(QPen(looks.colour(colour), 1))
        painter.setBrush(looks.colour("wash" if colour == "accent" else "sheet"))
        painter.drawRoundedRect(box, 3, 3)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
