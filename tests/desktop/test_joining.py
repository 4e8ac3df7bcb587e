"""Wires by hand on Ports: from any pin to any other, by keys and by mouse."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.desktop.case import WindowCase
from vervain.desktop.session import Selection
from vervain.edits.pin_names import pin_written
from vervain.edits.plug_edits import take_conductor_off
from vervain.files.demos import open_demo
from vervain.model.machine import PinRef
from vervain.ports.joins import across_from
from vervain.ports.occupancy import boards

KEY = Qt.Key
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Joining(WindowCase):
    demo = "seedling-arm-as-planned"

    def setUp(self) -> None:
        super().setUp()
        self.wires = self.window.ports.wires
        self.boards.setFocus()

    def pin(self, text: str) -> PinRef:
        return pin_written(self.session.machine, text)

    def choose(self, text: str) -> PinRef:
        pin = self.pin(text)
        self.session.select(Selection(device=pin.device, port=pin.port, pin=pin.pin))
        return pin

    def off(self, text: str) -> tuple[PinRef, PinRef]:
        """Takes the wire at a pin off; gives its two ends."""
        step = self.session.queries.steps(self.pin(text))[0]
        hookup = self.session.queries.hookup(step.hookup)
        row = hookup.conductors.index(step.conductor)
        self.session.apply("off", lambda m: take_conductor_off(m, hookup.id, row))
        return step.start, step.end

    def joined(self, first: PinRef, second: PinRef) -> bool:
        return any(step.end == second for step in self.session.queries.steps(first))

    def test_everything_with_pins_is_drawn_and_nothing_overlaps(self) -> None:
        wanted = {
            PinRef(device=d.designator, port=port.id, pin=pin.id)
            for d in self.session.machine.devices
            for port in self.session.queries.part_of(d.designator).ports
            for pin in port.pins
            if port.kind != "driver slot"
        }
        for scale in (1.0, 1.5):
            self.window.appearance.set_scale(scale)
            picture = self.boards.picture
            self.assertEqual(wanted, {p.ref for port in picture.ports() for p in port.pins})
            for number, one in enumerate(picture.boards):
                for other in picture.boards[number + 1 :]:
                    self.assertFalse(one.outline.intersects(other.outline), one.device)
                if one.is_block:
                    for port in one.ports:
                        self.assertTrue(one.outline.contains(port.frame), port.ref)
        self.assertIn("K1", boards(self.session.queries))
        self.window.appearance.set_scale(1.0)

    def test_a_wire_by_keys(self) -> None:
        start, end = self.off("M10 LEADS +")
        self.choose("M10 LEADS +")
        self.keys(self.boards, KEY.Key_J)
        self.until(lambda: bool(self.wires.answers))
        self.assertEqual("belongs", self.wires.answers[0].verdict)
        self.until(lambda: not self.wires._to_try())
        shown = self.window.ports.answers
        self.assertTrue(shown.isVisible())
        at = [answer.pin for answer in shown.shown].index(end)
        self.keys(self.boards, str(at + 1))
        self.assertEqual(end, self.wires.target)
        self.assertIn("Puts right", self.wires.words_of(end))
        self.assertIn("Enter joins it", self.window.ports.line.words.text())
        self.assertIn("If joined", self.window.strip.picture.title)
        self.assertIsNotNone(self.window.strip.picture.trace)
        self.keys(self.boards, KEY.Key_Return)
        self.until(lambda: self.joined(start, end))
        self.assertTrue(self.wires.is_empty)
        self.keys(self.window, (KEY.Key_Z, CONTROL))
        self.assertFalse(self.joined(start, end))

    def test_a_wire_by_mouse_and_a_harmful_one_stays_in_hand(self) -> None:
        plus, zero = self.pin("G1 OUT 1"), self.pin("X2 8 0V")
        self.boards.show_port(plus.port_ref)
        self.drag(self.pin_point(plus), self.pin_point(zero))
        self.until(lambda: zero in self.wires.trials or self.wires.is_empty)
        self.assertFalse(self.joined(plus, zero))
        self.assertIn("Damage", self.window.ports.line.words.text())
        self.keys(self.boards, KEY.Key_Escape)
        start, end = self.off("F2 OUT")
        self.boards.show_port(start.port_ref)
        self.drag(self.pin_point(start), self.pin_point(end))
        self.until(lambda: self.joined(start, end))

    def test_against_advice_only_with_control(self) -> None:
        self.choose("G1 OUT 1")
        zero = self.pin("X2 8 0V")
        self.keys(self.boards, KEY.Key_J)
        self.wires.aim(zero)
        self.keys(self.boards, (KEY.Key_Return, CONTROL))
        self.assertTrue(self.joined(self.pin("G1 OUT 1"), zero))

    def test_something_is_put_into_a_wire(self) -> None:
        start, end = self.off("F2 OUT")
        self.keys(self.window, (KEY.Key_Z, CONTROL))
        self.choose("F2 OUT")
        self.keys(self.boards, KEY.Key_I)
        inserter = self.window.ports.inserter
        self.until(lambda: any(offer.part for offer in inserter.offers))
        before = len(self.session.machine.devices)
        number = next(n for n, o in enumerate(inserter.offers) if o.part and o.part.kind == "fuse")
        self.keys(self.boards, *[KEY.Key_Down] * number, KEY.Key_Return)
        self.assertEqual(before + 1, len(self.session.machine.devices))
        made = self.session.selection.device
        queries = self.session.queries
        beyond = {s.end.device for d in (start, end) for s in queries.steps(d)}
        self.assertIn(made, beyond)
        self.assertFalse(self.joined(start, end))

    def test_in_series_and_beside(self) -> None:
        for text in ("Q1 AUX 21", "Q1 AUX 22", "Q2 AUX 22"):
            self.off(text)
        start, end = self.off("F2 IN")
        self.keys(self.window, (KEY.Key_Z, CONTROL))
        coil = self.pin("Q1 AUX 21")
        self.assertEqual((), self.session.queries.steps(coil))
        self.choose("Q1 AUX 21")
        self.keys(self.boards, KEY.Key_J)
        self.wires.aim(start)
        self.keys(self.boards, KEY.Key_I)
        self.assertTrue(self.joined(coil, start))
        far = across_from(self.session.queries, coil)
        self.assertEqual([end], [s.end for s in self.session.queries.steps(far)])
        other = self.choose("Q2 AUX 21")
        self.keys(self.boards, KEY.Key_J)
        self.wires.aim(coil)
        self.keys(self.boards, KEY.Key_B)
        self.assertTrue(self.joined(other, coil))

    def test_typing_goes_on_with_the_pin_in_hand(self) -> None:
        self.choose("Q1 AUX 21")
        self.keys(self.boards, KEY.Key_J, (KEY.Key_J, CONTROL))
        line = self.window.harness.join_line
        self.assertEqual("Q1 AUX 21", line.start.text())
        self.assertTrue(self.wires.is_empty)

    def test_pins_are_reached_by_arrows_and_escape_leaves(self) -> None:
        pin = self.choose("F2 IN")
        self.keys(self.boards, (KEY.Key_Right, SHIFT))
        self.assertNotEqual(pin.pin, self.session.selection.pin)
        self.keys(self.boards, KEY.Key_J, KEY.Key_Left)
        self.assertIsNotNone(self.wires.target)
        self.keys(self.boards, KEY.Key_Escape)
        self.assertTrue(self.wires.is_empty)
        QTest.mouseClick(self.boards.viewport(), Qt.MouseButton.LeftButton)


class Empty(WindowCase):
    demo = "seedling-arm-as-planned"

    def test_without_a_pin_the_keys_say_what_to_do(self) -> None:
        self.session.select(Selection())
        self.keys(self.window.ports.view, KEY.Key_J)
        self.keys(self.window.ports.view, KEY.Key_I)
        self.assertIn("Select a pin first", self.said[-2])
        self.assertIn("Select a wire first", self.said[-1])
        self.assertIsNotNone(open_demo(self.demo))
