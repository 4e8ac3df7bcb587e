"""The base of window tests: offscreen, no stray Qt message, no swallowed error, no window left."""

import os
import sys
import tempfile
import time
import traceback
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QCoreApplication, QEvent, QPoint, QPointF, Qt, qInstallMessageHandler
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.timing import PATIENCE_S
from vervain.desktop.app import make_application
from vervain.desktop.background import wait_for_background
from vervain.desktop.pictures import settle
from vervain.desktop.settings import Settings
from vervain.desktop.theme import PAPER, use
from vervain.desktop.window import Window
from vervain.files.demos import open_demo
from vervain.files.reading import stamp_of
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.text.units import ALL_UNITS, use_units

# Qt says this on machines without any colour profile or input method; nothing depends on it.
HARMLESS = ("propagateSizeHints", "XDG_RUNTIME_DIR", "This plugin does not support")
# What Qt says of its own, now and then, when it takes down a view after its rows.
HARMLESS_ALONE = ("Selecting when no model has been set",)

# Answers about one demonstration; as it opens there are 17 000.
MOST_KEPT = 60_000


class WarmLook:
    """Gives the first window of a test what is known of its demonstration once it is checked, so
    that no test works it out again. A second window gets its own.

    What a test gives back is moved back to the demonstration by the next: answers that hold for a
    machine do not depend on the machines before (tests/rules/test_engine.py). What broke off, or
    grew, is not given again.
    """

    def __init__(self) -> None:
        # Two demonstrations at most, with what is known of each: it is large.
        self.known: dict[str, Queries] = {}
        self.machines: dict[str, Machine] = {}
        self.demo, self.is_free, self.lent = "", False, None

    def begin(self, demo: str) -> None:
        """A test begins that is on a demonstration."""
        self.demo, self.is_free, self.lent = demo, True, None

    def machine(self) -> Machine:
        """The demonstration, the same value in every test."""
        if self.demo not in self.machines:
            self.machines[self.demo] = open_demo(self.demo)
        return self.machines[self.demo]

    def __call__(self, machine: Machine) -> Queries:
        if not self.is_free:
            return Queries(machine)
        self.is_free = False
        self.lent = self.known.pop(self.demo, None) or self.checked()
        self.lent.run_counts.clear()
        return self.lent

    def checked(self) -> Queries:
        """The demonstration worked out as the check does."""
        made = Queries(self.machine())
        check_look(made)
        return made

    def take_back(self, look: Queries | None) -> None:
        """A window closes, with what it knew last."""
        if look is None or look is not self.lent:
            return
        look.before_each, self.lent = None, None
        look.move_to(self.machine())
        if look.kept() < MOST_KEPT:
            while len(self.known) > 1:
                self.known.pop(next(iter(self.known)))
            self.known[self.demo] = look


WARM = WarmLook()


class WindowCase(unittest.TestCase):
    """A window on the demo as found, driven by keys and mouse."""

    demo = "glazing-gantry-as-found"
    # Whether causes are looked for after the check; what is tested elsewhere need not wait for it.
    explains = False

    def setUp(self) -> None:
        # Registered first, so that it comes after everything else.
        self.addCleanup(self.look_for_what_is_left)
        self.application = make_application()
        use(PAPER, 1.0)
        # Chosen for the whole process, by any test that comes to the choice.
        self.addCleanup(use_units, ALL_UNITS[0])
        self.qt_said: list[str] = []
        self.errors: list[str] = []
        qInstallMessageHandler(lambda kind, context, text: self.take_said(text or ""))
        self._hook = sys.excepthook
        sys.excepthook = lambda *error: self.errors.append(
            "".join(traceback.format_exception(*error))
        )
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        WARM.begin(self.demo)
        warm = mock.patch("vervain.desktop.analysis.Queries", WARM)
        warm.start()
        self.addCleanup(warm.stop)
        own = {"XDG_STATE_HOME": str(self.folder / "state")}
        patched = mock.patch.dict(os.environ, own)
        patched.start()
        self.addCleanup(patched.stop)
        self.said: list[str] = []
        self.window = self.open(self.machine())

    def machine(self) -> Machine:
        """What the window opens with."""
        return WARM.machine()

    def open(
        self, machine: Machine, path: Path | None = None, autosaves: bool | None = None
    ) -> Window:
        """A shown window on a machine, checked and painted; autosaves where it has a file."""
        keeps = path is not None if autosaves is None else autosaves
        stamp = stamp_of(path) if path is not None else None
        window = Window(machine, path, Settings(self.folder / "s.ini"), keeps, stamp)
        window.check.explains = self.explains
        window.session.said.connect(lambda message: self.said.append(message.text))
        window.resize(1280, 800)
        window.show()
        settle(window)
        self.addCleanup(self.close, window)
        return window

    def close(self, window: Window) -> None:
        window.close()
        analysis = window.session.analysis
        if analysis._thread is None or not analysis._thread.is_alive():
            WARM.take_back(analysis._look)
        window.deleteLater()
        for _ in range(3):
            QApplication.processEvents()
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def take_said(self, text: str) -> None:
        """Keeps what Qt says, with the lines of the program that it came from."""
        lines = [
            f"{Path(frame.filename).name}:{frame.lineno}"
            for frame in traceback.extract_stack()
            if "src/vervain" in frame.filename
        ]
        if any(word in text for word in HARMLESS) or (
            not lines and any(word in text for word in HARMLESS_ALONE)
        ):
            return
        self.qt_said.append(f"{text} ({' > '.join(lines)})")

    def look_for_what_is_left(self) -> None:
        qInstallMessageHandler(None)
        sys.excepthook = self._hook
        left = [w for w in QApplication.topLevelWidgets() if w.isVisible()]
        named = [(w.objectName(), w.accessibleName(), w.parent()) for w in left]
        shown = [f"left open: {w} {words}" for w, words in zip(left, named, strict=True)]
        problems = self.errors + self.qt_said + shown
        self.errors, self.qt_said = [], []
        if problems:
            raise AssertionError("\n".join(problems))

    @property
    def session(self):
        return self.window.session

    @property
    def boards(self):
        return self.window.ports.view

    def settle(self) -> None:
        """Waits for workers and for the check of the current machine."""
        wait_for_background()
        settle(self.window)
        self.until(lambda: self.session.checked_machine is self.session.machine)

    def until(self, condition: Callable[[], bool], seconds: float = PATIENCE_S) -> None:
        """Runs the event loop until something holds."""
        end = time.monotonic() + seconds
        while not condition():
            if time.monotonic() > end:
                self.fail("it did not come about")
            QApplication.processEvents()
            time.sleep(0.002)

    def keys(self, widget, *keys) -> None:
        """Presses keys: Qt keys, (key, modifier), or text."""
        for key in keys:
            if isinstance(key, str):
                QTest.keyClicks(widget, key)
            elif isinstance(key, tuple):
                QTest.keyClick(widget, key[0], key[1])
            else:
                QTest.keyClick(widget, key)

    def shape(self, ref: PortRef):
        return next(p for p in self.boards.picture.ports() if p.ref == ref)

    def on_boards(self, point: QPointF) -> QPoint:
        """A point of the picture in the coordinates of the viewport."""
        return (point - self.boards._offset()).toPoint()

    def pin_point(self, ref: PinRef) -> QPoint:
        shape = self.shape(ref.port_ref)
        pin = next(pin for pin in shape.pins if pin.ref == ref)
        return self.on_boards(pin.bar.center())

    def drag(self, start: QPoint, end: QPoint) -> None:
        """Drags with the left button over the boards."""
        area = self.boards.viewport()
        QTest.mousePress(area, Qt.MouseButton.LeftButton, pos=start)
        for part in range(1, 6):
            QTest.mouseMove(area, start + (end - start) * part / 5)
            QApplication.processEvents()
        QTest.mouseRelease(area, Qt.MouseButton.LeftButton, pos=end)

    def finding_keys(self) -> set[str]:
        self.until(lambda: self.session.checked_machine is self.session.machine)
        return {finding.key for finding in self.session.findings()}


class DescribingCase(WindowCase):
    """The window on an empty machine, describing a part."""

    def setUp(self) -> None:
        super().setUp()
        self.window = self.open(Machine(name="New machine"))
        self.window.show_stage("Machine")
        self.window.describe_part()
        self.page = self.window.describing
