"""Run under Xvfb: the window, and a mouse that is moved through the X server (XTEST), not by Qt.
Prints what came of a wire that was dragged from pin to pin, of a device dragged from the tray, and
of a stop that was pressed.
"""

import ctypes
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QPoint, pyqtSignal
from PyQt6.QtWidgets import QApplication, QWidget

from tests.timing import PATIENCE_S
from vervain.desktop.app import make_application
from vervain.desktop.pictures import settle
from vervain.desktop.settings import Settings
from vervain.desktop.window import Window
from vervain.edits.pin_names import pin_written
from vervain.edits.plug_edits import take_conductor_off
from vervain.files.demos import open_demo
from vervain.model.machine import PortRef
from vervain.ports.plugging import unplug
from vervain.queries.connectivity import host_ports

STEPS = 12
PAUSE_S = 0.015


class Mouse:
    """The pointer of the display. Raises `OSError` where XTEST is not there."""

    def __init__(self) -> None:
        self.x11, self.xtst = ctypes.CDLL("libX11.so.6"), ctypes.CDLL("libXtst.so.6")
        self.x11.XOpenDisplay.restype = ctypes.c_void_p
        self.display = ctypes.c_void_p(self.x11.XOpenDisplay(None))
        self.at = QPoint(5, 5)

    def move(self, point: QPoint) -> None:
        self.xtst.XTestFakeMotionEvent(self.display, -1, point.x(), point.y(), 0)
        self.x11.XFlush(self.display)
        self.at = point
        time.sleep(PAUSE_S)

    def button(self, pressed: bool) -> None:
        self.xtst.XTestFakeButtonEvent(self.display, 1, int(pressed), 0)
        self.x11.XFlush(self.display)
        time.sleep(5 * PAUSE_S)

    def drag(self, start: QPoint, end: QPoint) -> None:
        self.move(start)
        self.button(True)
        for step in range(1, STEPS + 1):
            self.move(start + (end - start) * step / STEPS)
        self.move(end + QPoint(1, 1))
        self.button(False)


class Ended(QObject):
    """Tells the interface thread that the mouse stands still again."""

    done = pyqtSignal()


def dragged(mouse: Mouse, start: QPoint, end: QPoint, came: Callable[[], bool]) -> bool:
    """Drags from a thread while events run here; whether something came about in time."""
    thread = threading.Thread(target=mouse.drag, args=(start, end), daemon=True)
    thread.start()
    limit = time.monotonic() + PATIENCE_S
    while time.monotonic() < limit and (thread.is_alive() or not came()):
        QApplication.processEvents()
        time.sleep(0.004)
    return came()


def on_screen(widget: QWidget, point: QPoint) -> QPoint:
    return widget.mapToGlobal(point)


def wire(window: Window, mouse: Mouse) -> bool:
    """A conductor that was taken off is dragged back from pin to pin."""
    session, view = window.session, window.ports.view
    step = session.queries.steps(pin_written(session.machine, "Q1 MAIN 14"))[0]
    hookup = session.queries.hookup(step.hookup)
    row = hookup.conductors.index(step.conductor)
    session.apply("off", lambda m: take_conductor_off(m, hookup.id, row))
    settle(window)
    view.show_port(step.start.port_ref)
    QApplication.processEvents()
    ends = [view.picture.pin_shape(pin) for pin in (step.start, step.end)]
    area = view.viewport()
    points = [on_screen(area, (end.bar.center() - view._offset()).toPoint()) for end in ends]
    return dragged(
        mouse, *points,
        lambda: any(s.end == step.end for s in session.queries.steps(step.start)),
    )  # fmt: skip


def plug(window: Window, mouse: Mouse) -> bool:
    """A switch that was taken off is dragged from the tray back into its port."""
    session, view, rows = window.session, window.ports.view, window.tray.list
    ref = PortRef(device="B7", port="LEADS")
    (host,) = host_ports(session.queries, ref)
    session.apply("off", lambda machine: unplug(machine, ref))
    settle(window)
    view.show_port(host)
    QApplication.processEvents()
    number = next(n for n, row in enumerate(rows.rows) if row.device == "B7")
    bar = rows.verticalScrollBar()
    bar.setValue(number * rows.row_height() - rows.row_height() * 3)
    QApplication.processEvents()
    y = number * rows.row_height() - bar.value() + rows.row_height() // 2
    start = on_screen(rows.viewport(), QPoint(60, y))
    middle = view.picture.shape_of(host).frame.center() - view._offset()
    end = on_screen(view.viewport(), middle.toPoint())
    return dragged(mouse, start, end, lambda: host in host_ports(session.queries, ref))


def stop(window: Window, mouse: Mouse) -> bool:
    """The stop's button is pressed, then a wire of its string is cut: each takes the power."""
    window.show_stage("Stops")
    view = window.stops.view
    limit = time.monotonic() + PATIENCE_S
    while view.figures is None and time.monotonic() < limit:
        QApplication.processEvents()
    judge, area = view.figures.judge, view.viewport()

    def clicked(x: float, y: float, came: Callable[[], bool]) -> bool:
        point = on_screen(area, QPoint(round(x), round(y)) - view.offset().toPoint())
        return dragged(mouse, point, point, came)

    button = view.picture.buttons[0].at
    pressed = clicked(
        button.x(), button.y(),
        lambda: view.conditions.pressed == {"S1"} and not judge.moves(view.settled),
    )  # fmt: skip
    view.mend()
    view.set_tool("cut")
    wire = next(e.box for e in view.picture.elements if e.kind == "wire" and e.wires)
    middle = wire.center()
    cut = clicked(middle.x(), middle.y(), lambda: bool(view.conditions.cut))
    return pressed and cut


def main() -> None:
    make_application()
    mouse = Mouse()
    window = Window(
        open_demo("seedling-arm-as-planned"), None, Settings(Path(sys.argv[1])), autosaves=False
    )
    window.resize(1280, 800)
    window.show()
    window.move(0, 0)
    settle(window)
    print("wire", wire(window, mouse))
    print("plug", plug(window, mouse))
    print("stop", stop(window, mouse))
    window.close()


if __name__ == "__main__":
    main()
