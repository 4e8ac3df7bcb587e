"""The lanes of the Machine stage, worked on with mouse and keys."""

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
from PyQt6.QtWidgets import QAbstractScrollArea

from vervain.desktop.keys_help import MACHINE
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.stages.machine.lane_actions import LaneActs
from vervain.desktop.stages.machine.lane_hand import LaneHand
from vervain.desktop.stages.machine.lane_layout import Card, Lanes, lay_out
from vervain.desktop.stages.machine.lane_painting import LanePainter
from vervain.desktop.theme import looks
from vervain.queries.axis_places import Place, first_empty_place

DIRECTIONS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
PART_MIME = "application/x-vervain-part"


class LanesView(QAbstractScrollArea):
    """Axis lanes and the lanes below; the cursor is a card, an empty place, or an axis."""

    wants_part = pyqtSignal(object)
    cursor_moved = pyqtSignal()

    def __init__(self, session: Session, hand: LaneHand, acts: LaneActs) -> None:
        super().__init__()
        self.session, self.hand, self.acts = session, hand, acts
        self.lanes = Lanes()
        self.at: Place | None = None
        self.painter = LanePainter(session, self._is_chosen)
        self._pressed: tuple[QPointF, Card] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Axes and devices")
        self.menu = ContextMenu(session, self, MACHINE, lambda: not hand.is_empty)
        self.setAcceptDrops(True)
        self._is_stale = False
        session.machine_changed.connect(self._machine_changed)
        session.checked.connect(self._repaint)
        session.selection_changed.connect(self._follow_selection)
        hand.changed.connect(self.arrange)

    # Layout and painting.

    def _machine_changed(self) -> None:
        """Lays the lanes out anew, or once they are seen again: 200 of them take a while."""
        self._is_stale = not self.isVisible()
        if not self._is_stale:
            self.arrange()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._is_stale:
            self.arrange()

    def arrange(self) -> None:
        """Lays the lanes out anew."""
        self._is_stale = False
        viewport, bar = self.viewport(), self.verticalScrollBar()
        if viewport is None or bar is None:
            return
        offered = self.hand.offered()
        self.lanes = lay_out(self.session.queries, viewport.width(), looks.scale, offered)
        bar.setRange(0, max(0, round(self.lanes.height) - viewport.height()))
        bar.setPageStep(viewport.height())
        bar.setSingleStep(looks.px(24))
        if self.hand.target is not None:
            self._show_place(self.hand.target)
        viewport.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.arrange()

    def _repaint(self) -> None:
        viewport = self.viewport()
        if viewport is not None:
            viewport.update()

    def _follow_selection(self) -> None:
        chosen = self.session.selection
        if chosen.device is not None or chosen.axis is not None:
            self.at = None
            card = self._chosen_card()
            if card is not None:
                self._show_box(card.box)
        self._repaint()

    def _is_chosen(self, place: Place) -> bool:
        if not self.hand.is_empty:
            return False
        if place.device is not None:
            return place.device == self.session.selection.device
        return place == self.at

    def _chosen_card(self) -> Card | None:
        return next((card for card in self.lanes.cards() if self._is_chosen(card.place)), None)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        viewport, bar = self.viewport(), self.verticalScrollBar()
        if viewport is None or bar is None:
            return
        painter = QPainter(viewport)
        painter.fillRect(viewport.rect(), looks.colour("sheet"))
        painter.translate(0, -bar.value())
        seen = QRectF(0, bar.value(), viewport.width(), viewport.height())
        self.painter.target = self.hand.target
        self.painter.carries = self.hand.designator
        for lane in self.lanes.axes:
            if lane.band.intersects(seen):
                self.painter.axis_lane(painter, lane)
        for group in self.lanes.groups:
            if group.band.intersects(seen):
                self.painter.group_lane(painter, group)

    def _show_place(self, place: Place) -> None:
        card = self.lanes.card_of(place)
        if card is not None:
            self._show_box(card.box)

    def _show_box(self, box: QRectF) -> None:
        viewport, bar = self.viewport(), self.verticalScrollBar()
        if viewport is None or bar is None:
            return
        if box.top() < bar.value():
            bar.setValue(max(0, round(box.top()) - looks.px(10)))
        elif box.bottom() > bar.value() + viewport.height():
            bar.setValue(round(box.bottom()) - viewport.height() + looks.px(10))

    # Where things are.

    def _point(self, position: QPointF) -> QPointF:
        bar = self.verticalScrollBar()
        return QPointF(position.x(), position.y() + (bar.value() if bar else 0))

    def card_at(self, position: QPointF) -> Card | None:
        """The card under a point of the viewport."""
        point = self._point(position)
        return next((card for card in self.lanes.cards() if card.box.contains(point)), None)

    def axis_at(self, position: QPointF) -> str | None:
        """The axis whose lane is under a point of the viewport."""
        point = self._point(position)
        return next((lane.axis.id for lane in self.lanes.axes if lane.band.contains(point)), None)

    def position_of(self, place: Place) -> QPointF:
        """The middle of a place's card in the viewport."""
        card, bar = self.lanes.card_of(place), self.verticalScrollBar()
        if card is None:
            return QPointF()
        return card.box.center() - QPointF(0, bar.value() if bar else 0)

    # Selecting.

    def choose(self, place: Place) -> None:
        """Moves the cursor to a place."""
        if place.device is not None:
            self.at = None
            self.session.select(Selection(device=place.device))
        else:
            self.at = place
            self.session.select(Selection(axis=place.axis) if place.axis else Selection())
            self.at = place
            self._show_place(place)
            self._repaint()
        self.cursor_moved.emit()

    def choose_axis(self, axis_id: str) -> None:
        """Moves the cursor to an axis."""
        self.at = None
        self.session.select(Selection(axis=axis_id))
        self._repaint()
        self.cursor_moved.emit()

    def _step(self, direction: tuple[int, int]) -> None:
        """The cursor goes to the nearest card or axis in a direction."""
        spots: list[tuple[QPointF, Place | str]] = [
            (card.box.center(), card.place) for card in self.lanes.cards()
        ]
        spots += [
            (QPointF(lane.label.left() + 20, lane.label.top() + looks.px(20)), lane.axis.id)
            for lane in self.lanes.axes
        ]
        if not spots:
            return
        here = self._cursor_point()
        if here is None:
            self._go(spots[0][1])
            return
        dx, dy = direction
        best: tuple[float, Place | str] | None = None
        for point, spot in spots:
            along = (point.x() - here.x()) * dx + (point.y() - here.y()) * dy
            across = abs((point.x() - here.x()) * dy) + abs((point.y() - here.y()) * dx)
            # Sideways a step stays in its row; up and down it may drift.
            reach = 14 if dx else 1e9
            if along > 4 and across < looks.px(reach):
                worth = along + across * (0.6 if dy else 3)
                if best is None or worth < best[0]:
                    best = worth, spot
        if best is not None:
            self._go(best[1])

    def _go(self, spot: Place | str) -> None:
        if isinstance(spot, Place):
            self.choose(spot)
        else:
            self.choose_axis(spot)

    def _cursor_point(self) -> QPointF | None:
        card = self._chosen_card()
        if card is not None:
            return card.box.center()
        for lane in self.lanes.axes:
            if lane.axis.id == self.session.selection.axis:
                return QPointF(lane.label.left() + 20, lane.label.top() + looks.px(20))
        return None

    # Keys and mouse.

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = Qt.Key(event.key())
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if key in DIRECTIONS:
            dx, dy = DIRECTIONS[key]
            if not self.hand.is_empty:
                self.hand.aim_next(dx + dy)
            elif control and dy:
                self.acts.move(dy)
            else:
                self._step((dx, dy))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.enter()
        elif key == Qt.Key.Key_Escape and not self.hand.is_empty:
            self.hand.drop()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.acts.remove()
        elif key == Qt.Key.Key_Space:
            self.session.card_wanted.emit()
        elif event.text().casefold() in self.acts.keys and not control:
            self.acts.keys[event.text().casefold()]()
        else:
            super().keyPressEvent(event)

    def enter(self) -> None:
        """Puts down what is in hand; else takes the device, or asks the shelf for a part: at an
        axis, for what it lacks first.
        """
        if not self.hand.is_empty:
            self.hand.put_down()
        elif self.at is not None:
            self.wants_part.emit(self.at)
        elif self.session.selection.device is not None:
            self.hand.take_device(self.session.selection.device)
        elif (axis := self.session.queries.axis(self.session.selection.axis or "")) is not None:
            place = first_empty_place(axis)
            if place is not None:
                self.choose(place)
                self.wants_part.emit(place)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        card = self.card_at(event.position())
        if not self.hand.is_empty:
            if card is not None and card.offered:
                self.hand.aim(card.place)
                self.hand.put_down()
            elif card is None:
                self.hand.drop()
            return
        if card is not None:
            self._pressed = (event.position(), card) if card.place.device else None
            self.choose(card.place)
            return
        axis = self.axis_at(event.position())
        if axis is not None:
            self.choose_axis(axis)
        else:
            self.at = None
            self.session.select(Selection())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._pressed is not None and self.hand.is_empty:
            start, card = self._pressed
            if (event.position() - start).manhattanLength() > 8 and card.place.device:
                self.hand.take_device(card.place.device)
        if not self.hand.is_empty:
            card_under = self.card_at(event.position())
            if card_under is not None and card_under.offered:
                self.hand.aim(card_under.place)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None:
            return
        start, _ = self._pressed
        self._pressed = None
        if self.hand.is_empty or (event.position() - start).manhattanLength() <= 8:
            return
        card = self.card_at(event.position())
        if card is not None and card.offered:
            self.hand.aim(card.place)
            self.hand.put_down()
        else:
            self.hand.drop()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        card = self.card_at(event.position()) if event is not None else None
        if card is not None and card.place.device is None and self.hand.is_empty:
            self.wants_part.emit(card.place)

    # A part dragged over from the shelf is in hand already; only the aim follows the mouse.

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasFormat(PART_MIME):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is None:
            return
        card = self.card_at(event.position())
        if card is not None and card.offered:
            self.hand.aim(card.place)
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None:
            return
        card = self.card_at(event.position())
        if card is not None and card.offered:
            self.hand.aim(card.place)
            self.hand.put_down()
        else:
            self.hand.drop()
        event.acceptProposedAction()
