"""The boards of the Ports stage, as they are seen and worked on with mouse and keys."""

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QCursor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import (
    QAbstractScrollArea,
    QToolTip,
)

from vervain.desktop.keys_help import PORTS
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.shared.plain import plain
from vervain.desktop.shared.tips import pin_tip, port_tip
from vervain.desktop.shared.tray import DEVICE_MIME
from vervain.desktop.stages.ports.block_painting import paint_block
from vervain.desktop.stages.ports.board_keys import BoardKeys
from vervain.desktop.stages.ports.board_mouse import BoardMouse
from vervain.desktop.stages.ports.board_painting import Scene, paint_board, paint_caption
from vervain.desktop.stages.ports.carrying import PlugDrag
from vervain.desktop.stages.ports.filling import PlacementController
from vervain.desktop.stages.ports.hand_painting import paint_plug, paint_wire
from vervain.desktop.stages.ports.inserting import InsertHand
from vervain.desktop.stages.ports.picture_layout import lay_out
from vervain.desktop.stages.ports.shapes import Picture, PortShape
from vervain.desktop.stages.ports.wire_hand import WireHand
from vervain.desktop.theme import looks
from vervain.model.machine import PinRef, PortRef
from vervain.ports.fit import Fit, ranked_fits
from vervain.ports.occupancy import (
    boards,
    lying_part,
    place_name,
    seen_at,
    small_things,
)
from vervain.queries.connectivity import host_ports

# The zoom at which a port is looked at pin by pin.
CLOSE = 4.0


class BoardsView(QAbstractScrollArea):
    """The boards themselves."""

    settings_wanted = pyqtSignal()
    typing_wanted = pyqtSignal()

    def __init__(
        self,
        session: Session,
        filler: PlacementController,
        wires: WireHand,
        inserter: InsertHand,
    ) -> None:
        super().__init__()
        self.session, self.filler = session, filler
        self.wires, self.inserter = wires, inserter
        self.carrier = PlugDrag(session)
        self.picture = Picture()
        self.scene = Scene(session.queries)
        self.fits: tuple[Fit, ...] = ()
        self.zoom = 1.0
        self.far_colours = False
        self._made_from: tuple[object, ...] = ()
        self.pointer: QPointF | None = None
        self.mouse = BoardMouse(self)
        self.keys = BoardKeys(self)
        self._zoom_before = 1.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        self.setAccessibleName("Boards")
        self.menu = ContextMenu(session, self, PORTS, self.is_carrying)
        viewport = self.viewport()
        if viewport is not None:
            viewport.setMouseTracking(True)
        session.machine_changed.connect(self.arrange)
        session.selection_changed.connect(self._follow_selection)
        session.hand_changed.connect(self._hand_changed)
        session.checked.connect(self.refresh)
        filler.changed.connect(self._filled)
        wires.changed.connect(self._wire_changed)
        inserter.changed.connect(self.refresh)

    def is_carrying(self) -> bool:
        """Whether a plug or the end of a wire is in hand."""
        return self.session.in_hand is not None or not self.wires.is_empty

    # What is shown.

    def arrange(self) -> None:
        """Works out where everything stands, once there is a size to work with."""
        if not self.isVisible():
            return
        viewport, bar = self.viewport(), self.verticalScrollBar()
        # As if the bar were there: where it comes only then, everything is laid out twice.
        width = self.maximumViewportSize().width() - (bar.sizeHint().width() if bar else 0)
        queries = self.session.queries
        names = (*boards(queries), *small_things(queries))
        parts = tuple(lying_part(queries, name) for name in names)
        places = tuple(place_name(queries, name) for name in names)
        made_from = (names, parts, places, width, looks.scale, self.zoom)
        if made_from != self._made_from:
            self._made_from = made_from
            self.picture = lay_out(queries, width, looks.scale, self.zoom)
        for bar, extent, page in (
            (self.verticalScrollBar(), self.picture.height, viewport.height() if viewport else 0),
            (self.horizontalScrollBar(), self.picture.width, width),
        ):
            if bar is not None:
                bar.setRange(0, max(0, round(extent - page)))
                bar.setPageStep(page)
                bar.setSingleStep(looks.px(24))
        self.refresh()

    def refresh(self) -> None:
        """Takes what is carried, selected and found into the scene."""
        session = self.session
        hand = session.in_hand
        self.fits = ranked_fits(session.queries, hand) if hand else ()
        fits = {fit.host: fit for fit in self.fits}
        chosen = session.selection
        ghosts, proposed = self.filler.ghosts()
        if hand is not None:
            target = fits.get(session.target) if session.target else None
            ghosts = self._ghosts(hand, target)
        self.scene = Scene(
            queries=session.queries,
            fits=fits,
            carrying=hand is not None,
            carried=hand.device if hand else None,
            target=session.target,
            ghosts=ghosts,
            proposed=proposed,
            selected_port=chosen.port_ref,
            selected_pin=chosen.pin_ref,
            selected_device=chosen.device,
            worst=self._worst(),
            far_colours=self.far_colours,
            related=self.related_ports(),
            wire_start=self.wires.start,
            wire_target=self.wires.target,
            answers={answer.pin: answer.verdict for answer in self.wires.answers},
        )
        self.update_picture()

    def update_picture(self) -> None:
        """Paints again what is there."""
        viewport = self.viewport()
        if viewport is not None:
            viewport.update()

    def _ghosts(self, hand: PortRef | None, fit: Fit | None) -> dict[PinRef, str | None]:
        if hand is None or fit is None:
            return {}
        port = self.session.queries.port(hand)
        found: dict[PinRef, str | None] = {}
        for ours, theirs in fit.pairs:
            pin = port.pin(ours) if port else None
            ref = PinRef(device=fit.host.device, port=fit.host.port, pin=theirs)
            found[ref] = pin.lead if pin else None
        return found

    def _worst(self) -> dict[PortRef, str]:
        found: dict[PortRef, str] = {}
        for finding in self.session.findings(lambda f: f.stage == "Ports"):
            for subject in finding.subjects[:1]:
                if subject.device and subject.port:
                    ref = PortRef(device=subject.device, port=subject.port)
                    found.setdefault(ref, finding.consequence)
        return found

    def _filled(self) -> None:
        """Shows where the first plug of a proposal would go."""
        first = next(iter(self.filler.taken()), None)
        if first is not None:
            self.show_port(first.host)
        self.refresh()

    def _wire_changed(self) -> None:
        """Shows where the wire in hand would go, unless the mouse leads it."""
        if self.wires.is_empty and self.session.in_hand is None:
            self.pointer = None
        if self.wires.target is not None and self.pointer is None:
            self.show_port(self.wires.target.port_ref)
        self.refresh()

    def _hand_changed(self) -> None:
        session = self.session
        if session.in_hand is None:
            self.pointer = None
        if session.in_hand is not None and session.target is None:
            best = next(iter(ranked_fits(session.queries, session.in_hand)), None)
            if best is not None and best.verdict != "does not fit":
                self.show_port(best.host)
                session.aim(best.host)
                return
        self.refresh()

    def show_port(self, ref: PortRef) -> None:
        """Scrolls so that a port is seen."""
        shape = self.picture.shape_of(ref)
        if shape is not None:
            self._show(shape.frame)

    def _show(self, box: QRectF) -> None:
        viewport = self.viewport()
        if viewport is None:
            return
        for bar, low, high, page in (
            (self.verticalScrollBar(), box.top(), box.bottom(), viewport.height()),
            (self.horizontalScrollBar(), box.left(), box.right(), viewport.width()),
        ):
            if bar is None:
                continue
            if low - 20 < bar.value() or high - low > page:
                bar.setValue(round(low - 20))
            elif high + 20 > bar.value() + page:
                bar.setValue(round(high + 20 - page))

    def related_ports(self) -> tuple[PortRef, ...]:
        """The host ports that the selected device is plugged into."""
        chosen = self.session.selection
        if chosen.device is None or chosen.port is not None:
            return ()
        queries = self.session.queries
        part = queries.part_of(chosen.device)
        found: dict[PortRef, None] = {}
        for port in part.ports if part else ():
            if port.end == "device":
                ref = PortRef(device=chosen.device, port=port.id)
                found.update(dict.fromkeys(host_ports(queries, ref)))
        return tuple(found)

    def _follow_selection(self) -> None:
        """Shows where the selection is: its port, its board, or where its plug sits."""
        self.refresh()
        chosen = self.session.selection
        on_board = chosen.port_ref in {port.ref for port in self.picture.ports()}
        if chosen.port_ref is not None and on_board:
            self.show_port(chosen.port_ref)
            return
        board = next((b for b in self.picture.boards if b.device == chosen.device), None)
        related = self.related_ports()
        if related and (board is None or board.is_block):
            self.show_port(related[0])
        elif board is not None:
            self._show(board.outline.adjusted(0, -24, 0, looks.px(44)))

    def _offset(self) -> QPointF:
        x, y = self.horizontalScrollBar(), self.verticalScrollBar()
        return QPointF(x.value() if x else 0, y.value() if y else 0)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        viewport = self.viewport()
        if viewport is None:
            return
        painter = QPainter(viewport)
        painter.fillRect(viewport.rect(), looks.colour("sheet"))
        if not self.picture.boards:
            self._paint_empty(painter, QRectF(viewport.rect()))
            return
        offset = self._offset()
        painter.translate(-offset)
        seen = QRectF(viewport.rect()).translated(offset)
        for name, box in self.picture.captions:
            paint_caption(painter, name, box)
        for board in self.picture.boards:
            if board.outline.adjusted(-10, -60, 10, 80).intersects(seen):
                paint = paint_block if board.is_block else paint_board
                paint(painter, board, self.scene, seen)
        if self.session.in_hand is not None:
            paint_plug(painter, self, self.session.in_hand)
        paint_wire(painter, self)

    def _paint_empty(self, painter: QPainter, box: QRectF) -> None:
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(17, bold=True))
        upper = QRectF(box.left(), box.center().y() - 40, box.width(), looks.px(30))
        painter.drawText(upper, Qt.AlignmentFlag.AlignCenter, "Nothing to wire yet")
        painter.setFont(looks.font(12))
        painter.setPen(looks.colour("faded"))
        lower = upper.translated(0, 32)
        text = "Add a controller first: its ports appear here as they lie on the bench."
        painter.drawText(lower, Qt.AlignmentFlag.AlignCenter, text)

    # Mouse.

    def at(self, point: QPointF) -> QPointF:
        """A point of the viewport in the picture."""
        return point + self._offset()

    def choose(self, shape: PortShape, pin: str | None) -> None:
        """Selects a port, or one of its pins with the conductor there."""
        conductor = None
        if pin is not None:
            seen = seen_at(
                self.session.queries, PinRef(device=shape.ref.device, port=shape.ref.port, pin=pin)
            )
            conductor = (seen[0].hookup, seen[0].row) if seen else None
        self.session.select(
            Selection(device=shape.ref.device, port=shape.ref.port, pin=pin, conductor=conductor)
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.mouse.press(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.mouse.move(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.mouse.release(event.position())

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.carrier.pick_up()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_zoom(self.zoom * (1.1 if event.angleDelta().y() > 0 else 1 / 1.1))
            event.accept()
        else:
            super().wheelEvent(event)

    def set_zoom(self, zoom: float) -> None:
        """Zooms the boards, 60 to 500 %."""
        self.zoom = max(0.6, min(CLOSE, zoom))
        self.arrange()

    def look_closer(self) -> None:
        """Zooms to the selected port, pin by pin, or back again."""
        ref = self.session.target or self.session.selection.port_ref
        if self.zoom >= CLOSE:
            self.set_zoom(self._zoom_before)
        elif ref is None:
            self.session.say("Select a port to look at it closely.")
            return
        else:
            self._zoom_before = self.zoom
            self.set_zoom(CLOSE)
        if ref is not None:
            self._centre(ref)

    def _centre(self, ref: PortRef) -> None:
        """Scrolls a port to the middle."""
        shape, viewport = self.picture.shape_of(ref), self.viewport()
        if shape is None or viewport is None:
            return
        middle = shape.box.center()
        for bar, at, page in (
            (self.verticalScrollBar(), middle.y(), viewport.height()),
            (self.horizontalScrollBar(), middle.x(), viewport.width()),
        ):
            if bar is not None:
                bar.setValue(round(at - page / 2))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None and data.hasFormat(DEVICE_MIME):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is None:
            return
        self.pointer = self.at(event.position())
        shape = self.picture.port_at(self.pointer)
        if shape is not None:
            self.session.aim(shape.ref)
        self.update_picture()
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None:
            return
        shape = self.picture.port_at(self.at(event.position()))
        if shape is not None:
            self.session.aim(shape.ref)
            self.carrier.plug_in()
            event.acceptProposedAction()
        self.pointer = None

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.arrange()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.arrange()

    def viewportEvent(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            point = self.at(QPointF(event.pos()))
            shape, pin = self.picture.port_at(point), self.picture.pin_at(point)
            text = self.pin_words(pin.ref) if pin else self.port_words(shape.ref) if shape else ""
            QToolTip.showText(event.globalPos(), plain(text), self)
            return True
        return super().viewportEvent(event)

    def port_words(self, ref: PortRef) -> str:
        """What a port is, and while something is carried, why it fits or does not."""
        return port_tip(self.session.queries, ref, self.scene.fits.get(ref))

    def pin_words(self, ref: PinRef) -> str:
        """What a pin is, and what is joined to it. While a wire is in hand, what joining it there
        would mean.
        """
        if not self.wires.is_empty:
            return f"{ref.device} {ref.port}: {self.wires.words_of(ref)}"
        return pin_tip(self.session.queries, ref)

    # Keys.

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and not self.keys.press(event):
            super().keyPressEvent(event)

    def select_under_mouse(self) -> None:
        """Selects the pin or port that the mouse is over, if it is over one."""
        viewport = self.viewport()
        at = viewport.mapFromGlobal(QCursor.pos()) if viewport is not None else QPoint()
        if viewport is None or not self.underMouse() or not viewport.rect().contains(at):
            return
        point = self.at(QPointF(at))
        shape, pin = self.picture.port_at(point), self.picture.pin_at(point)
        if shape is not None:
            self.choose(shape, pin.ref.pin if pin is not None else None)

    def take_wire(self) -> None:
        """Takes the end of a wire from the selected pin in hand."""
        pin = self.session.selection.pin_ref
        if pin is None or self.session.queries.pin(pin) is None:
            self.session.say("Select a pin first: Shift and the arrows go from pin to pin.")
            return
        self.pointer = None
        self.wires.take(pin)

    def change_ends(self) -> None:
        """Shows the colours at the far end instead, or those one sees here again."""
        self.far_colours = not self.far_colours
        self.refresh()
