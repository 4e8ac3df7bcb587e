"""The keys of the boards: going from port to port and pin to pin, and what is done there."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

from vervain.desktop.session import Selection
from vervain.desktop.stages.ports.alternate_card import KEPT_FOR
from vervain.desktop.stages.ports.wire_keys import ARROWS, ENTER, WireKeys
from vervain.model.machine import PinRef, PortRef

if TYPE_CHECKING:
    from vervain.desktop.stages.ports.board_view import BoardsView


class BoardKeys:
    """Does what a key says; `press` tells whether it meant anything."""

    def __init__(self, view: "BoardsView") -> None:
        self.view = view
        self.wire_keys = WireKeys(view)
        carrier = view.carrier
        self.acts = {
            Qt.Key.Key_A: carrier.keep_as_alternate,
            Qt.Key.Key_C: view.change_ends,
            Qt.Key.Key_F: view.filler.start,
            Qt.Key.Key_I: view.inserter.start,
            Qt.Key.Key_J: view.take_wire,
            Qt.Key.Key_K: lambda: view.session.fact_wanted.emit(KEPT_FOR),
            Qt.Key.Key_R: carrier.turn,
            Qt.Key.Key_S: view.settings_wanted.emit,
            Qt.Key.Key_V: lambda: carrier.turn(over=True),
            Qt.Key.Key_W: carrier.swap,
            Qt.Key.Key_X: carrier.reverse,
            Qt.Key.Key_Z: view.look_closer,
        }
        self.always = {
            Qt.Key.Key_Delete: carrier.unplug,
            Qt.Key.Key_Backspace: carrier.unplug,
            Qt.Key.Key_Space: view.session.card_wanted.emit,
        }
        self.zooms = {"+": 1.15, "=": 1.15, "-": 1 / 1.15}

    def press(self, event: QKeyEvent) -> bool:
        """Does what a key says."""
        view, key = self.view, Qt.Key(event.key())
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if self.wire_keys.press(event):
            return True
        if key in ARROWS:
            self._arrow(ARROWS[key], shift, control)
        elif view.filler.running or view.filler.proposal is not None:
            self._answer_proposal(key)
        elif key in self.acts and not control:
            self.acts[key]()
        elif key in self.always:
            self.always[key]()
        elif key in ENTER and view.session.in_hand is None:
            view.carrier.pick_up()
        elif key in ENTER:
            view.carrier.plug_in(complete=not control)
        elif key == Qt.Key.Key_Escape and view.session.in_hand is not None:
            view.pointer = None
            view.session.take_in_hand(None)
        elif event.text() in self.zooms:
            view.set_zoom(view.zoom * self.zooms[event.text()])
        elif event.text() == "0":
            view.set_zoom(1.0)
        else:
            return False
        return True

    def _arrow(self, way: tuple[int, int], shift: bool, control: bool) -> None:
        if control:
            self._carry_bar(*way, join=shift)
        elif shift:
            self._step_pin(*way)
        else:
            self._step_port(*way)

    def _answer_proposal(self, key: Qt.Key) -> None:
        """Enter carries a proposal out, Esc leaves it."""
        filler = self.view.filler
        if key in ENTER and not filler.running:
            filler.put_in()
        elif key == Qt.Key.Key_Escape:
            filler.drop()

    def _step_port(self, dx: int, dy: int) -> None:
        session = self.view.session
        here = session.target if session.in_hand else session.selection.port_ref
        if here is None:
            ports = self.view.picture.ports()
            found = ports[0].ref if ports else None
        else:
            found = self.view.picture.neighbour(here, dx, dy)
        if found is None:
            return
        if session.in_hand is not None:
            self.view.pointer = None
            session.aim(found)
        else:
            session.select(Selection(device=found.device, port=found.port))
        self.view.show_port(found)

    def _pins(self, ref: PortRef) -> list[str]:
        shape = self.view.picture.shape_of(ref)
        return [pin.ref.pin for pin in shape.pins] if shape else []

    def _step_pin(self, dx: int, dy: int) -> None:
        chosen = self.view.session.selection
        ref = chosen.port_ref
        shape = self.view.picture.shape_of(ref)
        if ref is None or shape is None:
            return
        pins = self._pins(ref)
        if not pins:
            self.view.session.say(f"{ref.device} {ref.port} shows no pins.")
            return
        at = pins.index(chosen.pin) if chosen.pin in pins else (-1 if dx + dy > 0 else 0)
        self.view.choose(shape, pins[(at + dx + dy) % len(pins)])

    def _carry_bar(self, dx: int, dy: int, join: bool = False) -> None:
        pin = self.view.session.selection.pin_ref
        if pin is None:
            return
        pins = self._pins(pin.port_ref)
        if pin.pin not in pins:
            self.view.session.say("Select a pin to carry its conductor.")
            return
        at = pins.index(pin.pin) + dx + dy
        if 0 <= at < len(pins):
            target = PinRef(device=pin.device, port=pin.port, pin=pins[at])
            carry = self.view.carrier.join_bar if join else self.view.carrier.move_bar
            if carry(pin, target):
                shape = next(p for p in self.view.picture.ports() if p.ref == pin.port_ref)
                self.view.choose(shape, target.pin)
