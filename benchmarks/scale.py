"""What the interface thread pays on a plant: for each act the longest stretch without an answer, in
frames of 16.7 ms, and until all is shown. Nothing here is a test.

Run: PYTHONPATH=src:tools QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/scale.py
"""

import argparse
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tools"))

from PyQt6.QtCore import QEvent, QEventLoop, QObject, QTimer
from PyQt6.QtWidgets import QApplication

FRAME_S = 1 / 60
IDLE_S, MOST_S = 0.25, 30.0


class Timed(QApplication):
    """An application that remembers how long each event that Qt hands out took."""

    longest_s = 0.0
    busy_s = 0.0
    what = ""
    _depth = 0

    def notify(self, receiver: QObject, event: QEvent) -> bool:
        self._depth += 1
        start = time.perf_counter()
        try:
            return super().notify(receiver, event)
        finally:
            self._depth -= 1
            if not self._depth:
                took = time.perf_counter() - start
                self.busy_s += took
                if took > self.longest_s:
                    self.longest_s = took
                    self.what = f"{type(receiver).__name__} {event.type().name}"


def measured(application: Timed, act: Callable[[], object]) -> tuple[float, float, str]:
    """The longest stretch of the interface thread and the time until it was idle, in seconds."""
    application.longest_s, application.busy_s, application.what = 0.0, 0.0, ""
    loop = QEventLoop()
    start = last = time.perf_counter()
    called = busy = 0.0

    def begin() -> None:
        nonlocal called
        begun = time.perf_counter()
        act()
        called = time.perf_counter() - begun

    def look() -> None:
        nonlocal last, busy
        now = time.perf_counter()
        if application.busy_s - busy > 0.002:
            last = now
        busy = application.busy_s
        if now - last > IDLE_S or now - start > MOST_S:
            loop.quit()

    timer = QTimer()
    timer.timeout.connect(look)
    timer.start(20)
    QTimer.singleShot(0, begin)
    loop.exec()
    longest = application.longest_s
    what = "the act itself" if called > 0.9 * longest else application.what
    return max(called, longest), last - start, what


def main() -> None:
    """Prints one row an act."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--axes", type=int, default=200)
    parser.add_argument("--times", type=int, default=5)
    options = parser.parse_args()
    application = Timed(["vervain"])
    from vervain.desktop.app import LOCK_S

    sys.setswitchinterval(LOCK_S)
    application.setStyle("Fusion")
    from large import plant
    from vervain.desktop.housekeeping import Housekeeping
    from vervain.desktop.session import Selection
    from vervain.desktop.settings import Settings
    from vervain.desktop.theme import PAPER, use
    from vervain.desktop.window import Window
    from vervain.edits.device_edits import set_name, set_setting
    from vervain.rules.finding import STAGES

    use(PAPER, 1.0)
    machine = plant(options.axes)
    conductors = sum(len(hookup.conductors) for hookup in machine.hookups)
    print(f"{options.axes} axes, {len(machine.devices)} devices, {conductors} conductors")
    print(f"{'':34}{'longest':>9}{'median':>9}{'until shown':>13}   longest in")

    def row(words: str, acts: list[Callable[[], object]]) -> None:
        taken = [measured(application, act) for act in acts]
        longest = max(taken)
        middle = statistics.median(t[0] for t in taken)
        shown = statistics.median(t[1] for t in taken)
        print(
            f"{words:34}{longest[0] / FRAME_S:9.2f}{middle / FRAME_S:9.2f}"
            f"{shown / FRAME_S:13.1f}   {longest[2]}",
            flush=True,
        )

    with tempfile.TemporaryDirectory() as folder:
        made: list[Window] = []

        def begin() -> None:
            settings = Settings(Path(folder) / "s.ini")
            window = Window(machine, None, settings, autosaves=False)
            window.resize(1280, 800)
            window.show()
            made.append(window)

        row("open the window", [begin])
        window = made[0]
        session = window.session
        Housekeeping(session).begin()
        numbers = iter(range(100_000))
        for stage in STAGES:
            row(f"{stage}: first opening", [lambda s=stage: window.show_stage(s)])
        for stage in STAGES:
            row(f"{stage}: shown again", [lambda s=stage: window.show_stage(s)])
            repeats = options.times

            def select() -> None:
                device = f"M{next(numbers) * 7 % options.axes + 1}"
                session.select(Selection(device=device))

            def rename() -> None:
                session.apply("Name", lambda m: set_name(m, "M7", f"N{next(numbers)}"))

            def current() -> None:
                value = 2.0 + next(numbers) % 10 / 10
                session.apply("Current", lambda m: set_setting(m, "T7", "current_peak_a", value))

            row("   select a device", [select] * repeats)
            row("   rename a motor", [rename] * repeats)
            row("   set a current", [current] * repeats)
            row("   undo", [session.undo] * repeats)
        window.close()


if __name__ == "__main__":
    main()
