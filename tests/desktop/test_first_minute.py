"""The two first minutes: a finding understood and mended; an empty window that becomes a machine
of one axis with its papers; by keys alone, which are counted.
"""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.desktop.case import WindowCase
from vervain.model.machine import Machine

MODIFIERS = {"Alt": Qt.KeyboardModifier.AltModifier, "Ctrl": Qt.KeyboardModifier.ControlModifier,
             "Shift": Qt.KeyboardModifier.ShiftModifier}  # fmt: skip
KEYS_IN_THE_README = 63


class Keyed(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.count = 0

    def keys(self, *pressed: str) -> None:
        """Presses keys as they are called in the help; what begins with “ is typed."""
        for text in pressed:
            if text.startswith("“"):
                QTest.keyClicks(QApplication.focusWidget(), text[1:])
                self.count += len(text) - 1
            else:
                *held, name = text.split("+")
                modifiers = Qt.KeyboardModifier.NoModifier
                for word in held:
                    modifiers |= MODIFIERS[word]
                key = getattr(Qt.Key, f"Key_{name.replace('Enter', 'Return')}")
                target = QApplication.activePopupWidget() or QApplication.focusWidget()
                QTest.keyClick(target or self.window, key, modifiers)
                self.count += 1
            self.settle()

    def grave(self) -> list[str]:
        """The findings above Workmanship."""
        self.settle()
        found = self.session.result.open
        return [f.sentence for f in found if f.consequence != "Workmanship"]


class DemoMinute(Keyed):
    def test_the_first_finding_says_why_and_one_key_mends_it(self) -> None:
        before = self.grave()
        self.assertTrue(before)
        card = self.window.side.findings.cards[0]
        self.assertIn(card.finding.sentence, before)
        self.keys("Alt+Enter")
        self.assertNotIn(card.finding.sentence, self.grave())
        self.assertEqual(1, self.count)


class EmptyWindow(Keyed):
    def machine(self) -> Machine:
        return Machine(name="New machine")

    def test_one_axis_from_nothing_to_its_papers(self) -> None:
        self.until(lambda: bool(self.window.contents.parts))
        self.keys("A", "Enter", "“57", "Enter")
        self.assertEqual(("M1",), self.session.machine.axes[0].drives)
        for words in ("rout", "dr 72", "slim", "slim", "sup 48", "sup 24"):
            self.keys("Ctrl+Shift+A", f"“{words}", "Enter")
        self.assertEqual(7, len(self.session.machine.devices))
        self.keys("Alt+3", "F")
        self.until(lambda: self.window.ports.filler.proposal is not None)
        self.keys("Enter", "Alt+4", "F")
        self.until(lambda: self.window.supply.feeding.proposal is not None)
        self.keys("Enter", "Alt+6", "T", "Enter", "P")
        self.until(lambda: self.window.harness.planner.plan is not None)
        self.keys("Enter", "Alt+1")
        while self.grave() and self.count < KEYS_IN_THE_README:
            self.keys("Alt+Enter")
        self.assertEqual([], self.grave())
        axis = self.session.machine.axes[0]
        self.assertEqual({"B1", "B2"}, {axis.min_limit, axis.max_limit})
        printed: list[str] = []
        self.window.printing.ask = lambda _printer, title, _parent: bool(printed.append(title))
        self.keys("Ctrl+P", "Enter")
        self.assertEqual(["New machine, Harness"], printed)
        self.assertEqual(KEYS_IN_THE_README, self.count)
