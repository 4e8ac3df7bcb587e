"""The mouse on the boards: what is clicked is selected, what is dragged is carried."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QApplication

from vervain.desktop.session import Selection
from vervain.model.machine import PinRef

if TYPE_CHECKING:
    from vervain.desktop.stages.ports.board_view import BoardsView


class BoardMouse:
    """Follows the left button from press to release. A conductor that is dragged within its port
    goes to another pin of it; what is dragged from a pin to elsewhere is a new wire.
    """

    def __init__(self, view: "BoardsView") -> None:
        self.view = view
        self._pressed: tuple[QPointF, PinRef | None] | None = None
        self._drags_wire = False

    def press(self, at: QPointF) -> None:
        """Puts down what is in hand, else selects what is there."""
        view, session = self.view, self.view.session
        point = view.at(at)
        shape, pin = view.picture.port_at(point), view.picture.pin_at(point)
        if session.in_hand is not None:
            if shape is not None:
                session.aim(shape.ref)
                view.carrier.plug_in()
            return
        if not view.wires.is_empty:
            if pin is not None:
                view.wires.aim(pin.ref)
                view.wires.join()
            return
        self._pressed = at, pin.ref if pin else None
        if shape is not None:
            view.choose(shape, pin.ref.pin if pin else None)
            return
        for board in view.picture.boards:
            if board.outline.contains(point):
                session.select(Selection(device=board.device))

    def move(self, at: QPointF) -> None:
        """Leads what is in hand, or begins to drag from the pin that was pressed."""
        view, session = self.view, self.view.session
        point = view.at(at)
        if session.in_hand is not None:
            view.pointer = point
            shape = view.picture.port_at(point)
            if shape is not None and shape.ref != session.target:
                session.aim(shape.ref)
            view.update_picture()
            return
        if self._pressed is not None and self._pressed[1] is not None and not self._drags_wire:
            far = (at - self._pressed[0]).manhattanLength() >= QApplication.startDragDistance()
            if far:
                self._begin(self._pressed[1], point)
        if not view.wires.is_empty:
            view.pointer = point
            pin = view.picture.pin_at(point)
            view.wires.aim(pin.ref if pin is not None else view.wires.target)
            view.update_picture()

    def _begin(self, pin: PinRef, point: QPointF) -> None:
        view = self.view
        shape = view.picture.port_at(point)
        stays = shape is not None and shape.ref == pin.port_ref
        if stays and view.session.queries.steps(pin):
            view.scene.dragged_pin = pin
            view.update_picture()
        else:
            view.scene.dragged_pin = None
            self._drags_wire = True
            view.wires.take(pin)

    def release(self, at: QPointF) -> None:
        """Puts down what was dragged."""
        view = self.view
        pressed, self._pressed = self._pressed, None
        dragged, view.scene.dragged_pin = view.scene.dragged_pin, None
        pin = view.picture.pin_at(view.at(at))
        if self._drags_wire:
            self._drags_wire = False
            self._put_wire(pin.ref if pin is not None else None)
        elif pressed and dragged is not None and pin is not None and pin.ref != dragged:
            view.carrier.move_bar(dragged, pin.ref)
        view.update_picture()

    def _put_wire(self, pin: PinRef | None) -> None:
        """Joins a wire that was dragged where it is let go; over nothing it is dropped. Where
        joining is not advised it stays in hand, with the reason.
        """
        wires, start = self.view.wires, self.view.wires.start
        if pin is None or start is None or pin == start:
            wires.take(None)
        elif pin.port_ref == start.port_ref and self.view.session.queries.steps(start):
            wires.take(None)
            self.view.carrier.move_bar(start, pin)
        else:
            wires.aim(pin)
            wires.join()
