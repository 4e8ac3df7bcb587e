"""A controller's inputs as lamps, with their last ten seconds, and what the step expects."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from vervain.bench.step import BenchStep
from vervain.desktop.session import Session
from vervain.desktop.shared.drawn_view import DrawnView
from vervain.desktop.shared.live_links import LiveLinks
from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks
from vervain.live.watching import KEPT_S, LampHistory
from vervain.model.machine import PortRef
from vervain.ports.occupancy import who_sits_at

MIDDLE = Qt.AlignmentFlag.AlignVCenter
ROW, HEAD, TRACE_WIDTH, LAMP = 36, 44, 84, 7.0


class LampColumn(DrawnView):
    """One row a port that the controller shows."""

    def __init__(self, session: Session, links: LiveLinks) -> None:
        super().__init__("Inputs")
        self.session, self.links = session, links
        self.device = ""
        self.step: BenchStep | None = None
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_device(self, device: str, step: BenchStep | None) -> None:
        """Shows a controller, with what a step expects of it marked."""
        self.device, self.step = device, step
        history = self.history
        if history is not None:
            lit = [port for port, is_lit in history.lamps.items() if is_lit]
            self.setAccessibleDescription(f"{device}: {', '.join(lit) or 'none'} lit")
        self.set_extent(0, looks.px(HEAD) + len(self.ports()) * looks.px(ROW))

    @property
    def history(self) -> LampHistory | None:
        """What was seen of the controller lately."""
        return self.links.histories.get(self.device)

    def ports(self) -> list[str]:
        """The ports in the order of the map; those that the step looks at come into sight."""
        link = self.links.links.get(self.device)
        return [entry.port for entry in link.entries] if link is not None else []

    def paintEvent(self, event: QPaintEvent | None) -> None:
        area, history = self.viewport(), self.history
        if area is None:
            return
        painter = QPainter(area)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(area.rect(), looks.colour("sheet"))
        offset, width = self.offset().y(), area.width()
        self._paint_head(painter, QRectF(0, -offset, width, looks.px(HEAD)))
        if history is None:
            return
        expected = {
            change.port.port: change.does for change in (self.step.lamps if self.step else ())
            if change.port.device == self.device
        }  # fmt: skip
        reads = self.step.reads if self.step is not None else None
        for number, port in enumerate(self.ports()):
            top = looks.px(HEAD) + number * looks.px(ROW) - offset
            box = QRectF(0, top, width, looks.px(ROW))
            if box.bottom() < 0 or box.top() > area.height():
                continue
            is_wanted = port in expected or reads == PortRef(device=self.device, port=port)
            self._paint_port(painter, box, port, history, is_wanted, expected.get(port, ""))

    def _paint_head(self, painter: QPainter, box: QRectF) -> None:
        state = self.links.states.get(self.device)
        first = QRectF(looks.px(12), box.top() + looks.px(6), box.width(), looks.px(18))
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        painter.drawText(first, MIDDLE, f"{self.device} inputs")
        words = state.words if state is not None else ""
        is_live = state is not None and state.is_live
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour("good" if is_live else "doubt_text"))
        room = box.width() - looks.px(24)
        second = QRectF(looks.px(12), first.bottom(), room, looks.px(16))
        told = "live, reading only" if is_live else words
        painter.drawText(second, MIDDLE, elided(painter, told, room))

    def _paint_port(
        self,
        painter: QPainter,
        box: QRectF,
        port: str,
        history: LampHistory,
        is_wanted: bool,
        does: str,
    ) -> None:
        if is_wanted:
            painter.setPen(QPen(looks.colour("accent"), 1.6))
            painter.setBrush(looks.colour("wash"))
            painter.drawRoundedRect(box.adjusted(4, 1, -4, -1), 3, 3)
        number, is_lit = history.numbers.get(port), history.lamps.get(port)
        left = looks.px(18)
        if is_lit is not None:
            centre, radius = QPointF(left, box.center().y()), looks.px(LAMP)
            painter.setPen(QPen(looks.colour("good" if is_lit else "faded"), 1.6))
            painter.setBrush(looks.colour("good" if is_lit else "sheet"))
            painter.drawEllipse(centre, radius, radius)
            if is_lit:
                # Not by colour alone: a lit lamp has a core.
                painter.setBrush(looks.colour("sheet"))
                painter.drawEllipse(centre, radius * 0.35, radius * 0.35)
        trace = QRectF(
            box.right() - looks.px(TRACE_WIDTH + 10), box.top() + looks.px(9),
            looks.px(TRACE_WIDTH), box.height() - looks.px(18),
        )  # fmt: skip
        name_left = left + looks.px(14)
        room = trace.left() - name_left - 4
        painter.setFont(looks.font(12, bold=is_wanted))
        painter.setPen(looks.colour("accent" if is_wanted else "ink"))
        upper = QRectF(name_left, box.top() + looks.px(3), room, looks.px(16))
        painter.drawText(upper, MIDDLE, elided(painter, port, room))
        seated = who_sits_at(self.session.queries, PortRef(device=self.device, port=port))
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour("faded"))
        lower = QRectF(name_left, upper.bottom() - 1, room, looks.px(14))
        told = does or " ".join(seated) or "free"
        painter.drawText(lower, MIDDLE, elided(painter, told, room))
        if number is not None:
            painter.setFont(looks.font(13, bold=True))
            painter.setPen(looks.colour("ink"))
            flags = MIDDLE | Qt.AlignmentFlag.AlignRight
            upper_half = QRectF(trace.left(), upper.top(), trace.width(), upper.height())
            painter.drawText(upper_half, flags, f"{number:,.0f}".replace(",", " "))
            rate = history.rate(port)
            way = "up" if rate > 0 else "down" if rate < 0 else "still"
            painter.setFont(looks.font(10.5))
            painter.setPen(looks.colour("faded"))
            lower_half = QRectF(trace.left(), lower.top(), trace.width(), lower.height())
            told = f"{way} {abs(rate):,.0f}/s".replace(",", " ") if rate else way
            painter.drawText(lower_half, flags, told)
        else:
            self._paint_trace(painter, trace, history, port)

    def _paint_trace(self, painter: QPainter, box: QRectF, history: LampHistory, port: str) -> None:
        """The last ten seconds: high while it was lit."""
        steps, points = history.trace(port), []
        for number, (ago_s, is_lit) in enumerate(steps):
            until_s = steps[number + 1][0] if number + 1 < len(steps) else 0.0
            y = box.top() if is_lit else box.bottom()
            for at_s in (ago_s, until_s):
                share = min(1.0, max(0.0, at_s / KEPT_S))
                points.append(QPointF(box.right() - share * box.width(), y))
        painter.setPen(QPen(looks.colour("ink"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(points))
