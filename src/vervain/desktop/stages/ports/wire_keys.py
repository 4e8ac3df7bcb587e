"""The keys while the end of a wire is in hand, or something is put into one."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

if TYPE_CHECKING:
    from vervain.desktop.stages.ports.board_view import BoardsView

ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class WireKeys:
    """Does what a key says; `press` tells whether it meant anything."""

    def __init__(self, view: "BoardsView") -> None:
        self.view = view

    def press(self, event: QKeyEvent) -> bool:
        """Does what a key says to a wire in hand, or to what is put into one."""
        if self.view.inserter.is_open:
            return self._press_inserting(Qt.Key(event.key()))
        if not self.view.wires.is_empty:
            return self._press_carrying(event)
        return False

    def _press_inserting(self, key: Qt.Key) -> bool:
        inserter = self.view.inserter
        if key in (Qt.Key.Key_Down, Qt.Key.Key_Right):
            inserter.step(1)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Left):
            inserter.step(-1)
        elif key in ENTER:
            inserter.put_in()
        elif key == Qt.Key.Key_Escape:
            inserter.leave()
        else:
            return False
        return True

    def _press_carrying(self, event: QKeyEvent) -> bool:
        view, wires, key = self.view, self.view.wires, Qt.Key(event.key())
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if key in ARROWS:
            view.pointer = None
            here = wires.target or wires.start
            found = view.picture.neighbour_pin(here, *ARROWS[key]) if here is not None else None
            if found is not None:
                wires.aim(found)
        elif key in ENTER:
            wires.join(against_advice=control)
        elif control and key == Qt.Key.Key_J:
            view.typing_wanted.emit()
        elif key == Qt.Key.Key_I:
            wires.put_in_series()
        elif key == Qt.Key.Key_B:
            wires.put_beside()
        elif key == Qt.Key.Key_Escape:
            wires.take(None)
        elif event.text().isdigit() and 0 < int(event.text()) <= len(wires.answers):
            view.pointer = None
            wires.aim(wires.answers[int(event.text()) - 1].pin)
        else:
            return False
        return True
