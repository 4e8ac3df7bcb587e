"""Paints the lanes of the Machine stage from their plain shapes."""

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from vervain.desktop.session import Session
from vervain.desktop.shared.wire_painting import draw_count, draw_stripes, elided
from vervain.desktop.stages.machine.lane_layout import AxisLane, Card, GroupLane
from vervain.desktop.theme import looks
from vervain.motion.words import figures_line, length_words, rate_words, shares
from vervain.queries.axis_places import LANE_EXAMPLES, Place
from vervain.queries.connectivity import drivers_of
from vervain.queries.device_groups import lead_colours

MIDDLE, RIGHT = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
MOST_STRIPES = 8
EMPTY_WORDS = {
    "drive": ("motor", "none yet"),
    "feedback": ("feedback", "none, open loop"),
    "home": ("home", "none"),
    "min_limit": ("min limit", "none"),
    "max_limit": ("max limit", "none"),
    "brake": ("brake", "none: it may drop"),
    "also": ("also here", ""),
}
# The size of an axis's letters by their number.
LETTER_PX = {1: 26, 2: 26, 3: 17, 4: 17, 5: 13, 6: 11}
SHORT_ROLES = {"home": "home", "min_limit": "min", "max_limit": "max"}


class LanePainter:
    """Paints cards and lanes; what is worst at each device comes from the findings."""

    def __init__(self, session: Session, is_chosen: Callable[[Place], bool]) -> None:
        self.session = session
        self.is_chosen = is_chosen
        self.target: Place | None = None
        self.carries = ""

    def axis_lane(self, painter: QPainter, lane: AxisLane) -> None:
        """One axis with its rule, its cards and its line of figures."""
        chosen = self.session.selection.axis == lane.axis.id
        if chosen:
            painter.fillRect(
                QRectF(0, lane.band.top(), 3, lane.band.height()), looks.colour("accent")
            )
        self._label(painter, lane, chosen)
        self._rule(painter, lane)
        for card in lane.cards:
            self._leader(painter, card)
        for shaft in lane.shafts:
            painter.setPen(QPen(looks.colour("ink"), 1))
            painter.setBrush(looks.colour("rule"))
            painter.drawRect(shaft)
        for card in lane.cards:
            self._card(painter, card)
        self._figures(painter, lane)
        self._hairline(painter, lane.band)

    def group_lane(self, painter: QPainter, lane: GroupLane) -> None:
        """One lane of devices that belong to no axis."""
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        painter.drawText(lane.label, int(MIDDLE | Qt.TextFlag.TextWordWrap), lane.title)
        for card in lane.cards:
            self._card(painter, card)
        self._hairline(painter, lane.band)

    def _hairline(self, painter: QPainter, band: QRectF) -> None:
        painter.setPen(looks.colour("rule"))
        painter.drawLine(band.bottomLeft(), band.bottomRight())

    def _label(self, painter: QPainter, lane: AxisLane, chosen: bool) -> None:
        axis = lane.axis
        box = lane.label.adjusted(looks.px(16), looks.px(4), 0, 0)
        font = looks.font(LETTER_PX[min(len(axis.id), 6)], bold=True)
        painter.setFont(font)
        painter.setPen(looks.colour("accent" if chosen else "ink"))
        head = QRectF(box.left(), box.top(), box.width(), looks.px(32))
        painter.drawText(head, int(MIDDLE), elided(painter, axis.id, head.width()))
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        travel = length_words(axis.travel, axis.unit) if axis.travel else "travel?"
        lines = [axis.name, "no end" if axis.endless else travel]
        if axis.vertical:
            lines.append("upright")
        y = head.bottom()
        for text in lines:
            line = QRectF(box.left(), y, box.width(), looks.px(15))
            painter.drawText(line, int(MIDDLE), elided(painter, text, line.width()))
            y += looks.px(15)

    def _rule(self, painter: QPainter, lane: AxisLane) -> None:
        axis = lane.axis
        if lane.dial is not None:
            self._dial(painter, lane)
        bar = looks.colour("faded")
        for box in lane.bars:
            painter.setPen(QPen(looks.colour("faded"), 1))
            painter.drawLine(
                QPointF(box.left() - looks.px(9), box.center().y()),
                QPointF(box.right() + looks.px(9), box.center().y()),
            )
            painter.fillRect(box, bar)
        rule = lane.bars[-1]
        base = rule.bottom() + 2
        painter.setPen(QPen(looks.colour("faded"), 1))
        painter.setFont(looks.font(10))
        for number in range(9):
            x = rule.left() + rule.width() * number / 8
            painter.drawLine(
                QPointF(x, base), QPointF(x, base + looks.px(6 if number % 4 == 0 else 4))
            )
        if axis.travel:
            for share in (0.0, 0.5, 1.0):
                x = rule.left() + rule.width() * share
                text = f"{axis.travel * share:.4g}"
                if share == 1.0:
                    text = length_words(axis.travel, axis.unit)
                extent = painter.fontMetrics().horizontalAdvance(text)
                at = max(
                    rule.left() - extent / 2,
                    min(x - extent / 2, rule.right() + looks.px(9) - extent / 2),
                )
                at = min(at, rule.right() + looks.px(14) - extent) if share == 1.0 else at
                painter.drawText(
                    QRectF(at, base + looks.px(5), extent + 2, looks.px(14)), int(MIDDLE), text
                )
        if not axis.endless:
            self._carriage(painter, lane)

    def _carriage(self, painter: QPainter, lane: AxisLane) -> None:
        first, last = lane.bars[0], lane.bars[-1]
        x = first.left() + first.width() * 0.55
        reach = looks.px(8)
        box = QRectF(
            x - looks.px(6),
            first.center().y() - reach,
            looks.px(12),
            last.center().y() - first.center().y() + 2 * reach,
        )
        painter.setPen(QPen(looks.colour("ink"), 1.2))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRoundedRect(box, 2, 2)
        middle = box.center().x()
        painter.drawLine(QPointF(middle, box.top() + 3), QPointF(middle, box.bottom() - 3))
        if len(lane.bars) == 1:
            painter.setFont(looks.font(10))
            painter.setPen(looks.colour("faded"))
            text = QRectF(
                box.right() + looks.px(5),
                first.top() - looks.px(15),
                first.right() - box.right() - looks.px(6),
                looks.px(14),
            )
            painter.drawText(text, int(MIDDLE), elided(painter, lane.axis.name, text.width()))

    def _dial(self, painter: QPainter, lane: AxisLane) -> None:
        assert lane.dial is not None
        painter.setPen(QPen(looks.colour("ink"), 1.2))
        painter.setBrush(looks.colour("sheet"))
        painter.drawEllipse(lane.dial)
        painter.save()
        painter.translate(lane.dial.center())
        radius = lane.dial.width() / 2
        painter.setPen(QPen(looks.colour("faded"), 1))
        for number in range(24):
            inner = radius - looks.px(6 if number % 6 == 0 else 4)
            painter.drawLine(QPointF(0, -inner), QPointF(0, -radius + 1))
            painter.rotate(15)
        painter.setBrush(looks.colour("ink"))
        painter.drawEllipse(QPointF(0, 0), 2.5, 2.5)
        painter.restore()
        painter.setPen(QPen(looks.colour("faded"), 1, Qt.PenStyle.DashLine))
        y = lane.bars[0].center().y()
        painter.drawLine(
            QPointF(lane.dial.right(), y), QPointF(lane.bars[0].left() - looks.px(4), y)
        )

    def _leader(self, painter: QPainter, card: Card) -> None:
        if card.acts_at is None:
            return
        target = card.acts_at
        x = max(card.box.left() + looks.px(8), min(target.x(), card.box.right() - looks.px(8)))
        pen = QPen(looks.colour("accent" if card.place == self.target else "faded"), 1)
        if card.place.device is None:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        knee = card.box.bottom() + looks.px(5)
        painter.drawLine(QPointF(x, card.box.bottom()), QPointF(x, knee))
        painter.drawLine(QPointF(x, knee), QPointF(target.x(), knee))
        painter.drawLine(QPointF(target.x(), knee), target)

    def _card(self, painter: QPainter, card: Card) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        aimed = card.place == self.target
        if card.place.device is not None:
            self._device_card(painter, card, aimed)
        else:
            self._empty_card(painter, card, aimed)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _empty_card(self, painter: QPainter, card: Card, aimed: bool) -> None:
        """A dashed place with the word of what is missing, or of what would go there."""
        place, box = card.place, card.box
        chosen = self.is_chosen(place)
        strong = aimed or chosen or card.offered
        pen = QPen(looks.colour("accent" if strong else "faded"), 1.6 if aimed or chosen else 1)
        if not aimed:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(looks.colour("wash") if aimed else QColor(0, 0, 0, 0))
        painter.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        if place.role is not None:
            title, note = EMPTY_WORDS[place.role]
            if place.role == "drive" and card.offered and aimed is not None:
                note = "one more" if note and self._has_motor(place) else note
        else:
            title, note = "", LANE_EXAMPLES[place.lane or "Tools"][0]
        if card.offered:
            title = place.words if place.role else "here"
            note = f"Enter: {self.carries}" if aimed else "could take it"
        elif chosen:
            note = "Enter: shelf"
        self._two_lines(painter, box, title, note, "accent" if strong else "faded", None)

    def _has_motor(self, place: Place) -> bool:
        axis = self.session.queries.axis(place.axis or "")
        return bool(axis and axis.drives)

    def _device_card(self, painter: QPainter, card: Card, aimed: bool) -> None:
        """A device: its designator and role or name, its part, its lead colours, its findings."""
        queries = self.session.queries
        name = card.place.device or ""
        device, part = queries.device(name), queries.part_of(name)
        if device is None or part is None:
            return
        chosen = self.is_chosen(card.place)
        worst = self._worst(name)
        painter.setPen(
            QPen(looks.colour("accent" if chosen or aimed else "ink"), 2 if chosen else 1)
        )
        painter.setBrush(looks.colour("wash" if chosen or aimed else "paper"))
        painter.drawRoundedRect(card.box.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        stripes = list(lead_colours(queries, name))[:MOST_STRIPES]
        right = card.box.right() - looks.px(6)
        thin = card.box.height() < looks.px(30)
        middle = card.box.center().y() if thin else card.box.top() + looks.px(11)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        if worst is not None:
            right = draw_count(painter, right, middle, *worst) - looks.px(4)
        if stripes:
            right = draw_stripes(painter, right, middle, stripes) - looks.px(4)
        role = SHORT_ROLES.get(card.place.role or "", "")
        title, note = device.name, part.model or part.title
        if role:
            title, note = role, part.title.split(",")[0].lower()
        elif card.place.role == "drive":
            driver = next(iter(drivers_of(queries, name)), "no driver")
            title, note = (driver if thin else ""), f"{note}, {driver}"
        elif card.place.role is not None:
            title, note = "", device.name
        self._two_lines(painter, card.box, title, "" if thin else note, "ink", name, right)

    def _two_lines(
        self,
        painter: QPainter,
        box: QRectF,
        title: str,
        note: str,
        colour: str,
        designator: str | None,
        right: float | None = None,
    ) -> None:
        left = box.left() + looks.px(7)
        end = right if right is not None else box.right() - looks.px(6)
        half = box.height() / 2 if note else box.height()
        upper = QRectF(left, box.top() + (1 if note else 0), end - left, half)
        painter.setPen(looks.colour(colour))
        painter.setFont(looks.font(11.5, bold=True))
        if designator is not None:
            painter.drawText(upper, int(MIDDLE), elided(painter, designator, upper.width()))
            extent = painter.fontMetrics().horizontalAdvance(designator) + looks.px(5)
            upper.setLeft(upper.left() + extent)
            painter.setFont(looks.font(11))
        if title:
            painter.drawText(upper, int(MIDDLE), elided(painter, title, upper.width()))
        if note:
            top = box.top() + half - 1 if title or designator else box.top()
            lower = QRectF(
                left,
                top,
                box.right() - left - looks.px(5),
                half if title or designator else box.height(),
            )
            painter.setFont(looks.font(10))
            painter.setPen(looks.colour("accent" if colour == "accent" else "faded"))
            painter.drawText(lower, int(MIDDLE), elided(painter, note, lower.width()))

    def _worst(self, device: str) -> tuple[int, str] | None:
        """How many findings are first of all about a device, and the worst of them."""
        found = self.session.findings(lambda f: bool(f.subjects) and f.subjects[0].device == device)
        return (len(found), found[0].consequence) if found else None

    def _figures(self, painter: QPainter, lane: AxisLane) -> None:
        """Steps per unit and speed at the left; the step rate against its limit at the right."""
        queries = self.session.queries
        box = lane.figures
        end = box.right()
        rate = next(iter(shares(queries, lane.axis.id)), None)
        if rate is not None and rate.unit == "Hz":
            end = self._rate(painter, box, rate.value, rate.limit) - looks.px(14)
        left = box.left()
        pieces = figures_line(queries, lane.axis.id)
        wide = sum(QFontMetricsF(looks.font(11.5, bold=b)).horizontalAdvance(t) for t, b in pieces)
        if len(pieces) > 1 and wide > end - left:
            pieces = pieces[1:]
        for text, result in pieces:
            painter.setFont(looks.font(11.5, bold=result))
            painter.setPen(looks.colour("ink" if result else "faded"))
            room = end - left
            if room < looks.px(20):
                break
            shown = elided(painter, text, room)
            extent = painter.fontMetrics().horizontalAdvance(shown)
            painter.drawText(QRectF(left, box.top(), extent + 4, box.height()), int(MIDDLE), shown)
            left += extent

    def _rate(self, painter: QPainter, box: QRectF, value: float, limit: float) -> float:
        """A step rate with its gauge; returns its left edge."""
        over = value > limit
        of = f" of {rate_words(limit, 'Hz')}"
        painter.setFont(looks.font(11.5))
        extent = painter.fontMetrics().horizontalAdvance(of)
        painter.setPen(looks.colour("bad" if over else "faded"))
        painter.drawText(box, int(MIDDLE | RIGHT), of)
        painter.setFont(looks.font(11.5, bold=True))
        painter.setPen(looks.colour("bad" if over else "ink"))
        text = rate_words(value, "Hz")
        wide = painter.fontMetrics().horizontalAdvance(text)
        painter.drawText(box.adjusted(0, 0, -extent, 0), int(MIDDLE | RIGHT), text)
        right = box.right() - extent - wide - looks.px(10)
        bar = QRectF(
            right - looks.px(48), box.center().y() - looks.px(3), looks.px(48), looks.px(6)
        )
        painter.fillRect(bar, looks.colour("rule"))
        mark = bar.left() + bar.width() * (0.9 if not over else 0.9 * limit / value)
        filled = QRectF(bar)
        filled.setRight(
            bar.left() + (bar.width() * 0.9 * min(1.0, value / limit) if not over else bar.width())
        )
        painter.fillRect(filled, looks.colour("bad" if over else "faded"))
        painter.setPen(QPen(looks.colour("ink"), 2))
        painter.drawLine(QPointF(mark, bar.top() - 2), QPointF(mark, bar.bottom() + 2))
        return bar.left()
