"""Pin by pin on the boards by keys: leads off and joined, plugs turned, swaps, what is missing."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton

from tests import small
from tests.desktop.case import WindowCase
from tests.rules import signal_cases as cases
from tests.small import at
from vervain.desktop.session import Selection
from vervain.files.demos import open_demo
from vervain.model.machine import PinRef
from vervain.ports.alternates import swap_in
from vervain.queries.connectivity import host_ports, occupants, steps_from

KEY = Qt.Key
JOIN = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


class Pins(WindowCase):
    demo = "glazing-gantry-as-planned"

    def choose(self, port: str, pin: str | None = None) -> None:
        ref = at(port)
        self.session.select(Selection(device=ref.device, port=ref.port, pin=pin))

    def landed(self, port: str, pin: str) -> int:
        ref = at(port)
        return len(
            steps_from(self.session.queries, PinRef(device=ref.device, port=ref.port, pin=pin))
        )

    def test_a_lead_is_taken_off_alone_and_comes_back(self) -> None:
        self.choose("K1:IN 7", "2")
        self.keys(self.boards, KEY.Key_Delete)
        self.assertEqual((1, 0, 1), tuple(self.landed("K1:IN 7", pin) for pin in "123"))
        self.assertIn("Took the lead off K1 IN 7", self.session.steps[-1].words)
        self.assertIn("leads.signal-open:B7:2", self.finding_keys())
        self.session.undo()
        self.assertEqual(1, self.landed("K1:IN 7", "2"))

    def test_a_port_that_shows_no_pins_says_so(self) -> None:
        self.window = self.open(open_demo("clay-printer-as-planned"))
        self.choose("K1:SLOT X")
        self.keys(self.boards, (KEY.Key_Right, Qt.KeyboardModifier.ShiftModifier))
        self.assertIn("shows no pins", self.said[-1])

    def test_two_leads_in_one_contact_are_a_finding_and_a_splice_mends_it(self) -> None:
        self.choose("K1:IN 7", "1")
        self.keys(self.boards, (KEY.Key_Right, JOIN))
        self.assertEqual((0, 2), (self.landed("K1:IN 7", "1"), self.landed("K1:IN 7", "2")))
        self.assertIn("ports.crowded-contact:K1:IN 7 2", self.finding_keys())

    def test_a_plug_is_turned_round(self) -> None:
        self.choose("K1:SERVO")
        before = self.session.machine
        self.keys(self.boards, "x")
        self.assertIn("signals.power-on-signal:M7:1", self.finding_keys())
        self.keys(self.boards, "x")
        self.assertEqual(before.hookups, self.session.machine.hookups)
        self.choose("K1:PROBE")
        self.keys(self.boards, "x")
        self.assertIn("Select a port with a plug", self.said[-1])

    def test_a_closer_look_shows_the_port_large_and_back(self) -> None:
        self.choose("K1:IN 7")
        small_one = self.shape(at("K1:IN 7")).pins[0].bar.width()
        self.keys(self.boards, "z")
        large = self.shape(at("K1:IN 7"))
        self.assertGreater(large.pins[0].bar.width(), 2 * small_one)
        spot = self.on_boards(large.pins[0].bar.center())
        self.assertTrue(self.boards.viewport().rect().contains(spot))
        self.keys(self.boards, "z")
        self.assertAlmostEqual(small_one, self.shape(at("K1:IN 7")).pins[0].bar.width(), 3)

    def test_an_alternate_is_swapped_in_by_its_key_and_from_its_card(self) -> None:
        self.choose("T4:MOTOR")
        self.keys(self.boards, "w")
        seated = {ref.device for ref in occupants(self.session.queries, at("T4:MOTOR"))}
        self.assertEqual({"M11"}, seated)
        self.assertEqual(2.8, self.session.queries.setting("T4", "current_peak_a"))
        self.session.select(Selection(device="M4"))
        self.settle()
        buttons = self.window.side.findChildren(QPushButton)
        swap = next(b for b in buttons if b.text().startswith("Swap M4 in") and b.isVisible())
        QTest.mouseClick(swap, Qt.MouseButton.LeftButton)
        seated = {ref.device for ref in occupants(self.session.queries, at("T4:MOTOR"))}
        self.assertEqual({"M4"}, seated)
        self.session.undo()
        self.session.undo()
        self.choose("K1:PROBE")
        self.keys(self.boards, "w")
        self.assertIn("No alternate waits there", self.said[-1])

    def test_putting_back_what_was_swapped_makes_everything_as_it_was(self) -> None:
        machine = self.session.machine
        first = next(item for item in machine.alternates if item.port == at("T4:MOTOR"))
        self.assertTrue(first.homing_off)
        swapped = swap_in(machine, first)
        self.assertIn("off", [axis.homing for axis in swapped.axes])
        for _ in range(2):
            waiting = next(item for item in swapped.alternates if item.device == "M4")
            back = swap_in(swapped, waiting)
            for field in ("devices", "axes", "cables"):
                self.assertEqual(getattr(machine, field), getattr(back, field))
            self.assertEqual(set(machine.hookups), set(back.hookups))
            again = next(item for item in back.alternates if item.device == "M11")
            swapped = swap_in(back, again)

    def test_what_an_alternate_sets_is_changed_on_the_card(self) -> None:
        self.session.select(Selection(device="M11"))
        self.settle()
        facts = self.window.side.facts

        def shown(name: str, kind: type[QLineEdit | QComboBox]) -> QLineEdit | QComboBox:
            found = facts.findChildren(kind)
            return next(w for w in found if w.accessibleName() == name and w.isVisible())

        field = shown("With M11 in: T4 current, peak", QLineEdit)
        for text, kept in (("99 A", 2.8), ("much", 2.8), ("2.4 A", 2.4)):
            field.setText(text)
            self.keys(field, KEY.Key_Return)
            self.assertEqual(kept, self.session.machine.alternates[0].settings[0].value)
        shown("Also set for M11", QComboBox).textActivated.emit("T4 microsteps")
        keys = [setting.key for setting in self.session.machine.alternates[0].settings]
        self.assertEqual(["current_peak_a", "microsteps"], keys)
        self.settle()
        shown("With M11 in: T4 microsteps", QComboBox).textActivated.emit("unchanged")
        shown("With M11 in: homing of Z", QComboBox).textActivated.emit("as it is")
        left = self.session.machine.alternates[0]
        self.assertEqual((1, False), (len(left.settings), left.homing_off))

    def test_what_is_in_hand_is_kept_as_an_alternate(self) -> None:
        self.session.select(Selection(device="M1"))
        self.window.ports.view.carrier.take("M1")
        self.session.aim(at("T2:MOTOR"))
        self.keys(self.boards, "a")
        self.assertEqual(at("T2:MOTOR"), self.session.machine.alternates[-1].port)
        self.assertIsNone(self.session.in_hand)


class Missing(WindowCase):
    def test_enter_puts_in_what_is_missing_and_control_enter_the_plug_alone(self) -> None:
        machine = small.bench("K1 osier-mb4", "B1 quoin-lg5", "G1 fell-ps24").machine
        machine = cases.with_pin(
            machine, "osier-mb4", "LIMIT X", "3", pull_up_ohm=None, reads="either"
        )
        self.window = self.open(machine)
        for modifier, resistors in (
            (Qt.KeyboardModifier.NoModifier, 1),
            (Qt.KeyboardModifier.ControlModifier, 0),
        ):
            self.window.ports.view.carrier.take("B1")
            self.session.aim(at("K1:LIMIT X"))
            self.settle()
            self.keys(self.boards, (KEY.Key_Return, modifier))
            made = [d for d in self.session.machine.devices if d.part.startswith("pull-up")]
            self.assertEqual(resistors, len(made))
            self.assertEqual((at("K1:LIMIT X"),), host_ports(self.session.queries, at("B1:LEADS")))
            self.session.undo()  # one step, whatever went in
            self.assertIs(machine, self.session.machine)


class Direction(WindowCase):
    demo = "glazing-gantry-as-planned"

    def test_the_card_turns_a_motor_and_the_sheet_follows(self) -> None:
        self.session.select(Selection(device="M1"))
        self.settle()
        box = next(b for b in self.window.side.findChildren(QComboBox) if self.turns(b))
        box.setFocus()
        box.setCurrentText("reversed in the controller")
        box.textActivated.emit("reversed in the controller")
        self.assertEqual("reversed", self.session.queries.setting("K1", "direction", "AXIS 1"))
        self.keys(self.boards, "s")
        sheet = self.window.ports.sheet
        rows = [
            (sheet.item(r, 0).text(), sheet.item(r, 1).text(), sheet.item(r, 2).text())
            for r in range(sheet.rowCount())
            if sheet.item(r, 2) is not None
        ]
        self.assertTrue(
            any(w == "X" and "gives" in g and "reversed" in v for w, g, v in rows), rows
        )

    def turns(self, box) -> bool:
        return box.findText("reversed in the controller") >= 0
