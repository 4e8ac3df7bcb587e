"""The guide to each stage: all that it names is there, and it is read and put away by keys."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.desktop.case import WindowCase
from vervain.desktop.guide_panel import widget_at
from vervain.desktop.keys_help import KEYS
from vervain.rules.finding import STAGES
from vervain.tables.guide import guides

KEY = Qt.Key
# Keys that a guide writes in words, or that hold everywhere.
IN_WORDS = {"", "a number, Enter", "arrows", "arrows, Enter", "1 to 5", "Enter"}


class Guide(WindowCase):
    def test_every_stage_has_one_that_names_what_is_there(self) -> None:
        self.assertEqual(set(STAGES), set(guides()))
        for stage, guide in guides().items():
            self.window.show_stage(stage)
            known = {entry.keys for entry in KEYS if entry.area in (stage, "Everywhere", "Route")}
            for step in guide.step:
                with self.subTest(f"{stage}: {step.words}"):
                    self.assertTrue(widget_at(self.window, step.at))
                    for keys in step.keys.split(", ") if step.keys not in IN_WORDS else ():
                        self.assertIn(keys, known)

    def test_it_is_drawn_of_the_window_and_any_key_puts_it_away(self) -> None:
        for stage in STAGES:
            self.window.show_stage(stage)
            QTest.keyClick(self.window, KEY.Key_F1, Qt.KeyboardModifier.ShiftModifier)
            panel = self.window.guide
            with self.subTest(stage):
                self.until(panel.isVisible)
                self.assertIn(stage, panel.head.text())
                drawn = panel.picture.pixmap().toImage()
                colours = {drawn.pixel(x, 40) for x in range(0, drawn.width(), 7)}
                self.assertGreater(len(colours), 3, "the window is in it")
                self.assertTrue(self.window.rect().contains(panel.geometry()))
            QTest.keyClick(panel, KEY.Key_Space)
            self.assertFalse(panel.isVisible())
