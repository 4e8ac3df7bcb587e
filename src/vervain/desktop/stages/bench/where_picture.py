"""Where a step is done: the place of its device on the route, and the port on its board."""

from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from vervain.bench.step import BenchStep
from vervain.desktop.session import Session
from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks
from vervain.harness.route_layout import RoutePicture, lay_out_route
from vervain.model.part import Part, Port
from vervain.ports.occupancy import lying_part, place_name

# Narrower than this there is room for one picture.
HIGH, LAYOUT_WIDTH, NARROW = 116, 760.0, 300
CENTRED = Qt.AlignmentFlag.AlignCenter


class WherePicture(QWidget):
    """The route small at the left, the board at the right, with what is looked for in accent."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.step: BenchStep | None = None
        self._route: RoutePicture | None = None
        self.setAccessibleName("Where it sits")

    def sizeHint(self) -> QSize:
        return QSize(200, looks.px(HIGH))

    def show_step(self, step: BenchStep) -> None:
        """Shows where a step is done."""
        queries = self.session.queries
        self.step = step
        self._route = lay_out_route(queries, LAYOUT_WIDTH, 1.0) if queries.runs() else None
        board = self._board()
        self.setVisible(self._route is not None or board is not None)
        self.setFixedHeight(looks.px(HIGH))
        port = f"{step.port.device} {step.port.port}" if step.port is not None else ""
        self.setAccessibleDescription(", ".join(filter(None, (step.place, port))))
        self.update()

    def _board(self) -> tuple[str, Part, str] | None:
        """The device with a board that is looked at, and its port."""
        step = self.step
        if step is None or step.port is None:
            return None
        part = lying_part(self.session.queries, step.port.device)
        if part is None or part.board is None:
            return None
        return step.port.device, part, step.port.port

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.setBrush(looks.colour("paper"))
        painter.drawRoundedRect(frame, 3, 3)
        if self.step is None:
            return
        pad, board = looks.px(10), self._board()
        room = frame.adjusted(pad, pad, -pad, -pad)
        if self._route is None:
            if board is not None:
                self._paint_board(painter, room, *board)
            return
        if board is not None and room.width() < looks.px(NARROW):
            # The place stands in words over it; the port does not.
            self._paint_board(painter, room, *board)
            return
        left = QRectF(room)
        if board is not None:
            left.setWidth(room.width() * 0.5 - pad)
            right = room.adjusted(room.width() * 0.5 + pad, 0, 0, 0)
            self._paint_board(painter, right, *board)
        self._paint_route(painter, left, self._route, self.step)

    def _paint_route(
        self, painter: QPainter, room: QRectF, route: RoutePicture, step: BenchStep
    ) -> None:
        """Runs as lines, places as dots; the place of the step with its name."""
        device = self.session.queries.device(step.device)
        here = device.place if device is not None else None
        points = {
            place.place: QPointF(
                place.node.right if place.is_root else place.node.centre.x, place.node.centre.y
            )
            for place in route.places
        }
        ends = [QPointF(*end) for run in route.runs for end in (run.start, run.end)]
        sides = [
            QPointF(place.node.right, y)
            for place in route.places if place.is_root
            for y in (place.node.y, place.node.y + place.node.height)
        ]  # fmt: skip
        every = [*points.values(), *ends, *sides]
        if not every:
            return
        lowest = min(p.y() for p in every), min(p.x() for p in every)
        wide = max(1.0, max(p.x() for p in every) - lowest[1])
        high = max(1.0, max(p.y() for p in every) - lowest[0])
        name_room = looks.px(20)
        field = room.adjusted(looks.px(26), name_room, -looks.px(8), -looks.px(8))
        scale = min(field.width() / wide, field.height() / high)
        shift = QPointF(
            field.left() + (field.width() - wide * scale) / 2,
            field.top() + (field.height() - high * scale) / 2,
        )

        def at(point: QPointF) -> QPointF:
            return QPointF((point.x() - lowest[1]) * scale, (point.y() - lowest[0]) * scale) + shift

        painter.setPen(QPen(looks.colour("faded"), looks.px(2)))
        for run in route.runs:
            start = at(QPointF(*(run.branch_from or run.start)))
            first, last = at(QPointF(*run.start)), at(QPointF(*run.end))
            painter.drawPolyline(QPolygonF([start, first, last]))
        for place in route.places:
            name, point = place.place, points[place.place]
            is_here = name == here
            painter.setPen(QPen(looks.colour("accent" if is_here else "faded"), 1.4))
            painter.setBrush(looks.colour("wash" if is_here else "sheet"))
            radius = looks.px(7 if is_here else 3.5)
            if place.is_root:
                # The runs leave it all along its side.
                box = QRectF(0, 0, looks.px(18), max(2 * radius, place.node.height * scale))
                box.moveCenter(at(point) - QPointF(looks.px(9), 0))
                painter.drawRoundedRect(box, 3, 3)
            else:
                painter.drawEllipse(at(point), radius, radius)
            if is_here:
                painter.setBrush(looks.colour("accent"))
                centre = at(point) - QPointF(looks.px(9) if place.is_root else 0, 0)
                painter.drawEllipse(centre, radius * 0.45, radius * 0.45)
        words = place_name(self.session.queries, step.device)
        head = QRectF(room.left(), room.top(), room.width(), looks.px(15))
        self._paint_head(painter, head, step.device, words)

    def _paint_head(self, painter: QPainter, box: QRectF, strong: str, words: str) -> None:
        painter.setFont(looks.font(11, bold=True))
        painter.setPen(looks.colour("accent"))
        extent = painter.fontMetrics().horizontalAdvance(strong) + looks.px(6)
        flags = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(box, flags, strong)
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        rest = box.adjusted(extent, 0, 0, 0)
        painter.drawText(rest, flags, elided(painter, words, rest.width()))

    def _paint_board(
        self, painter: QPainter, room: QRectF, device: str, part: Part, wanted: str
    ) -> None:
        """The outline with its ports at their edges; the one that is looked for filled."""
        assert part.board is not None
        head = QRectF(room.left(), room.top(), room.width(), looks.px(15))
        self._paint_head(painter, head, f"{device} {wanted}", "")
        field = room.adjusted(looks.px(4), looks.px(20), -looks.px(4), -looks.px(2))
        wide, high = part.board.width_mm, part.board.height_mm
        scale = min(field.width() / wide, field.height() / high)
        outline = QRectF(0, 0, wide * scale, high * scale)
        outline.moveCenter(field.center())
        painter.setPen(QPen(looks.colour("ink"), 1.2))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRoundedRect(outline, 3, 3)
        for port in part.ports:
            box = self._port_box(port, part, outline, scale)
            is_wanted = port.id == wanted
            painter.setPen(QPen(looks.colour("accent" if is_wanted else "faded"), 1))
            painter.setBrush(looks.colour("accent" if is_wanted else "paper"))
            if is_wanted:
                box = box.adjusted(-2, -2, 2, 2)
            painter.drawRect(box)

    def _port_box(self, port: Port, part: Part, outline: QRectF, scale: float) -> QRectF:
        """A mark at the middle of a port, as long as the ports beside it leave room."""
        same = sorted(
            p.at_mm for p in part.ports if p.edge == port.edge and p.inset_mm == port.inset_mm
        )
        gaps = [b - a for a, b in pairwise(same) if b > a]
        long = max(3.0, min(looks.px(13), 0.72 * scale * min(gaps, default=12.0)))
        deep = looks.px(6)
        along, inset = port.at_mm * scale, port.inset_mm * scale
        if port.edge in ("top", "bottom"):
            y = outline.top() + inset if port.edge == "top" else outline.bottom() - inset - deep
            middle = min(max(outline.left() + along, outline.left() + 2), outline.right() - 2)
            return QRectF(middle - long / 2, y, long, deep)
        x = outline.left() + inset if port.edge == "left" else outline.right() - inset - deep
        middle = min(max(outline.top() + along, outline.top() + 2), outline.bottom() - 2)
        return QRectF(x, middle - long / 2, deep, long)
