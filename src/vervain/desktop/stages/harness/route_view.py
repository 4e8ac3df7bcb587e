"""The route, drawn and worked on: going about in it, putting devices and runs where they belong."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
)

from vervain.desktop.keys_help import ROUTE
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.shared.drawn_view import DrawnView
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.harness.route_hand import RouteHand
from vervain.desktop.stages.harness.route_painting import RouteLooks, paint_route
from vervain.desktop.theme import looks
from vervain.harness.cable_routes import cable_route
from vervain.harness.route_layout import (
    PlaceShape,
    Point,
    RoutePicture,
    RunShape,
    lay_out_route,
)
from vervain.rules.finding import CONSEQUENCES

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
NO_PLACE = (
    "No place yet.\n\nT proposes a first tree from the axes, N makes a place by itself.\n"
    "Places and the runs between them tell how long each cable is."
)
Shape = PlaceShape | RunShape


class RouteView(DrawnView):
    """The tree of places and runs."""

    hand_changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__("Route")
        self.session = session
        self.picture = RoutePicture()
        self.hand = RouteHand(session)
        self.menu = ContextMenu(session, self, ROUTE, lambda: not self.hand.is_empty)
        self._pressed: tuple[QPointF, Shape | None] = (QPointF(), None)
        self._is_stale = True
        self.setAcceptDrops(True)
        self.hand.changed.connect(self._hand_changed)
        session.machine_changed.connect(self._machine_changed)
        session.selection_changed.connect(self._follow)
        session.checked.connect(self.repaint_soon)

    # Drawing.

    def _machine_changed(self) -> None:
        self._is_stale = True
        if self.isVisible():
            self.arrange()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._is_stale:
            self.arrange()

    def arrange(self) -> None:
        """Works out where everything stands."""
        viewport = self.viewport()
        if viewport is None:
            return
        self._is_stale = False
        self.picture = lay_out_route(self.session.queries, viewport.width(), looks.scale)
        self.set_extent(self.picture.width, self.picture.height)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.arrange()

    def traced_cable(self) -> str | None:
        """The cable of the conductor that is selected."""
        chosen = self.session.selection.conductor
        hookup = self.session.queries.hookup(chosen[0]) if chosen else None
        return hookup.cable if hookup else None

    def _shown(self) -> RouteLooks:
        shown = RouteLooks()
        chosen = self.session.selection
        shown.run, shown.place, shown.target = chosen.run, chosen.place, self.hand.target
        shown.cable = self.traced_cable()
        if shown.cable is not None:
            shown.traced = cable_route(self.session.queries, shown.cable).runs
        if chosen.device is not None and shown.place is None:
            device = self.session.queries.device(chosen.device)
            shown.place = device.place if device else None
        for finding in self.session.findings():
            for subject in finding.subjects[:1]:
                before = shown.worst.get(subject.run or "")
                worse = before is None or CONSEQUENCES.index(
                    finding.consequence
                ) < CONSEQUENCES.index(before)
                if subject.run and worse:
                    shown.worst[subject.run] = finding.consequence
        return shown

    def paintEvent(self, event: QPaintEvent | None) -> None:
        viewport = self.viewport()
        if viewport is None:
            return
        painter = QPainter(viewport)
        painter.fillRect(viewport.rect(), looks.colour("sheet"))
        if not self.picture.places:
            painter.setPen(looks.colour("faded"))
            painter.setFont(looks.font(13))
            painter.drawText(viewport.rect(), Qt.AlignmentFlag.AlignCenter, NO_PLACE)
            return
        painter.translate(-self.offset())
        paint_route(painter, self.picture, self.session.queries, self._shown())

    # Saying.

    def say_hand(self, line: StageLine) -> bool:
        """Says what is in hand, if anything is."""
        hand = self.hand
        place = self.session.queries.place(hand.target or "")
        if hand.device is not None:
            name = place.name if place else "a place"
            rest = f"Enter puts it at {name}, arrows try another place."
            line.say(f"{hand.device} in hand.", rest)
            return True
        if hand.run_from is not None:
            start = self.session.queries.place(hand.run_from)
            rest = f"Enter lays it to {place.name}." if place else "Arrows choose where it goes."
            line.say(f"A run from {start.name if start else ''}.", f"{rest} Esc leaves it.")
            return True
        return False

    def _hand_changed(self) -> None:
        shape = self.picture.place(self.hand.target)
        if shape is not None:
            self._bring_into_view(shape)
        self.hand_changed.emit()
        self.repaint_soon()

    # Going about.

    def chosen(self) -> Shape | None:
        """The shape of what is selected."""
        selection = self.session.selection
        return self.picture.run(selection.run) or self.picture.place(selection.place)

    def choose(self, shape: Shape) -> None:
        """Selects a place or a run; the traced conductor stays."""
        conductor = self.session.selection.conductor
        if isinstance(shape, RunShape):
            self.session.select(Selection(run=shape.run, conductor=conductor))
        else:
            self.session.select(Selection(place=shape.place))

    def _follow(self) -> None:
        shape = self.chosen()
        if shape is not None and self.isVisible():
            self._bring_into_view(shape)
        self.repaint_soon()

    def _bring_into_view(self, shape: Shape) -> None:
        if isinstance(shape, PlaceShape):
            box = QRectF(*shape.node)
        else:
            box = QRectF(*shape.hit_box).united(QRectF(*shape.section))
        viewport = self.viewport()
        down, across = self.verticalScrollBar(), self.horizontalScrollBar()
        if viewport is None or (isinstance(shape, PlaceShape) and shape.is_root):
            return
        for bar, low, high, page in (
            (down, box.top() - 30, box.bottom() + 30, viewport.height()),
            (across, box.left() - 30, box.right() + 90, viewport.width()),
        ):
            if bar is not None and low < bar.value():
                bar.setValue(round(low))
            elif bar is not None and high > bar.value() + page:
                bar.setValue(round(high - page))

    def _middle(self, shape: Shape) -> QPointF:
        if isinstance(shape, PlaceShape):
            return QPointF(*shape.node.centre)
        return (QPointF(*shape.start) + QPointF(*shape.end)) / 2

    def _go(self, dx: int, dy: int) -> None:
        """To the nearest shape in a direction; sideways within the row first."""
        shapes: list[Shape] = [*self.picture.places, *self.picture.runs]
        here = self.chosen()
        if not shapes:
            return
        if here is None:
            self.choose(shapes[0])
            return
        start = self._middle(here)
        best: tuple[float, Shape] | None = None
        for shape in shapes:
            way = self._middle(shape) - start
            if isinstance(here, PlaceShape) and here.is_root and dx > 0 and shape is not here:
                along, aside = way.x(), abs(way.y()) * 0.02 + abs(self._middle(shape).y()) * 0.01
            else:
                along = way.x() * dx + way.y() * dy
                aside = abs(way.y() * dx) * 6 + abs(way.x() * dy) * 0.6
            if shape is here or along < 4:
                continue
            cost = along + aside
            if best is None or cost < best[0]:
                best = cost, shape
        if best is not None:
            self.choose(best[1])

    def _at(self, point: QPointF) -> Shape | None:
        return self.picture.at(Point(point.x(), point.y()))

    def _order(self) -> tuple[str, ...]:
        """The places from above, for aiming."""
        return tuple(shape.place for shape in self.picture.places)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        if not self.hand.is_empty and self._carry(key):
            return
        chosen = self.session.selection
        ways = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
        }  # fmt: skip
        if key in ways and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._go(*ways[Qt.Key(key)])
        elif key in ENTER and chosen.device is not None:
            self.hand.take_device(chosen.device)
        elif key == Qt.Key.Key_N:
            self.hand.grow(chosen.place)
        elif key == Qt.Key.Key_T and not self.picture.runs:
            self.hand.propose()
        elif key == Qt.Key.Key_J and chosen.place is not None:
            self.hand.take_run(chosen.place)
        elif key == Qt.Key.Key_M:
            self.hand.toggle_moving(chosen.run)
        elif key == Qt.Key.Key_H:
            self.hand.toggle_held(chosen.place)
        elif key == Qt.Key.Key_D:
            self.hand.split(chosen.run)
        elif key == Qt.Key.Key_W:
            self.hand.toggle_way(self.traced_cable(), chosen.run)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.hand.remove(chosen.place, chosen.run)
        elif key == Qt.Key.Key_Space:
            self.session.card_wanted.emit()
        else:
            super().keyPressEvent(event)

    def _carry(self, key: int) -> bool:
        """The keys while something is in hand."""
        if key in ENTER:
            self.hand.put()
        elif key == Qt.Key.Key_Escape:
            self.hand.drop()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Left):
            self.hand.aim(self._order(), -1)
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Right):
            self.hand.aim(self._order(), 1)
        else:
            return False
        return True

    # The mouse: a click selects, a drag from a place lays a run, devices are dropped from the tray.

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        point = event.position() + self.offset()
        shape = self._at(point)
        self._pressed = point, shape
        if not self.hand.is_empty:
            if isinstance(shape, PlaceShape):
                self.hand.target = shape.place
                self.hand.put()
            return
        if shape is not None:
            self.choose(shape)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        point, shape = self._pressed
        here = event.position() + self.offset()
        far = (here - point).manhattanLength() > 8
        if self.hand.is_empty and far and isinstance(shape, PlaceShape):
            self.hand.take_run(shape.place)
        if self.hand.run_from is not None:
            over = self._at(here)
            is_other = isinstance(over, PlaceShape) and over.place != self.hand.run_from
            self.hand.target = over.place if is_other and isinstance(over, PlaceShape) else None
            self.hand.changed.emit()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self.hand.run_from is not None and self._pressed[1] is not None:
            if self.hand.target is not None:
                self.hand.put()
            elif event is not None:
                start = self.hand.run_from
                moved = (event.position() + self.offset() - self._pressed[0]).manhattanLength()
                self.hand.drop()
                if moved > 30:
                    self.hand.grow(start)
        self._pressed = QPointF(), None

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasText():
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is None:
            return
        shape = self._at(event.position() + self.offset())
        if isinstance(shape, PlaceShape):
            if self.hand.target != shape.place:
                self.hand.target = shape.place
                self.repaint_soon()
            event.acceptProposedAction()
        else:
            event.ignore()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None:
            return
        shape = self._at(event.position() + self.offset())
        device = data.text()
        if isinstance(shape, PlaceShape) and self.session.queries.device(device) is not None:
            self.hand.device, self.hand.target = device, shape.place
            self.hand.put()
            event.acceptProposedAction()
        self.hand.target = None
        self.repaint_soon()
