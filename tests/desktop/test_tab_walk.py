"""Everything by keyboard: Tab comes to every control of each stage and panel, none holds it."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from tests.desktop.case import WindowCase
from vervain.rules.finding import STAGES

# Panels by the stage they are of, and the method or the key that opens each.
PANELS = (
    ("Machine", "D", "describe"), ("Leads", "R", "it runs wrong"), ("Ports", "S", "settings"),
    ("Harness", "N", "new wire"), ("Harness", "P", "plan"), ("Harness", "L", "labels"),
    ("Bench", "C", "connect"), ("Bench", "T", "causes"),
)  # fmt: skip
MOST_STEPS = 400


def written(widget: QWidget) -> str:
    """A control in words: its class, what it is called, where it is."""
    parent = widget.parentWidget()
    return f"{type(widget).__name__} “{said(widget)}” in {type(parent).__name__}"


def said(widget: QWidget) -> str:
    """What a screen reader says of a control: its name, its text, or what to type there."""
    texts = [widget.accessibleName()]
    for name in ("text", "placeholderText", "toolTip"):
        texts.append(str(getattr(widget, name, lambda: "")()))
    return next((text for text in texts if text.strip()), "")


class TabWalk(WindowCase):
    def walk(self, key: Qt.Key) -> list[QWidget]:
        """The controls that have the focus one after the other, until one has it again."""
        found: list[QWidget] = []
        while (at := QApplication.focusWidget()) not in found and len(found) < MOST_STEPS:
            assert at is not None
            found.append(at)
            QTest.keyClick(at, key)
            QApplication.processEvents()
        self.assertIs(found[0], QApplication.focusWidget(), f"a trap: {written(found[-1])}")
        return found

    def controls(self) -> list[QWidget]:
        tab = Qt.FocusPolicy.TabFocus
        return [
            widget
            for widget in self.window.findChildren(QWidget)
            if widget.isVisible() and widget.isEnabled() and (widget.focusPolicy() & tab) == tab
        ]

    def setUp(self) -> None:
        super().setUp()
        self.window.activateWindow()
        self.until(self.window.isActiveWindow)

    def open_stage(self, stage: str) -> QWidget:
        """A stage with the focus in it: where that is."""
        self.window.show_stage(stage)
        self.settle()
        self.window.stack.currentWidget().setFocus()
        QApplication.processEvents()
        at = QApplication.focusWidget()
        # A part of a stage that is shown before it has its place is a window of its own for a
        # moment, and takes the keyboard away.
        assert at is not None, stage
        return at

    def look(self, where: str) -> None:
        self.settle()
        for key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            came = self.walk(key)
            missed = [written(widget) for widget in self.controls() if widget not in came]
            with self.subTest(f"{where}, {key.name}"):
                self.assertEqual([], missed)
        nameless = [written(widget) for widget in self.controls() if not said(widget)]
        with self.subTest(f"{where}: names"):
            self.assertEqual([], nameless)

    def test_every_stage(self) -> None:
        for stage in STAGES:
            self.open_stage(stage)
            self.look(stage)

    def test_every_panel(self) -> None:
        for stage, key, words in PANELS:
            at = self.open_stage(stage)
            QTest.keyClick(at, key)
            self.look(f"{stage}, {words}")
            self.keys(self.window, Qt.Key.Key_Escape)
