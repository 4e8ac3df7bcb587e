"""Measures ratios: start-up against a bare Qt window, re-check against a full check, and what one
act on 200 devices costs the interface thread against one frame (16.7 ms). Nothing here is a test.

Run: PYTHONPATH=src:tools QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/measure.py
"""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tools"))

BARE = """
from PyQt6.QtWidgets import QApplication, QMainWindow, QLabel
application = QApplication([])
window = QMainWindow()
window.setCentralWidget(QLabel("bare"))
window.resize(1280, 800)
window.show()
application.processEvents()
window.grab()
"""
DEMO = """
import gc
gc.disable()
from pathlib import Path
from vervain.desktop.app import make_application
from vervain.desktop.settings import Settings
from vervain.desktop.theme import use
from vervain.desktop.window import Window
from vervain.files.demos import DEMOS, open_demo
application = make_application()
settings = Settings(Path("/nonexistent/s.ini"))
use(settings.theme(), 1.0)
window = Window(open_demo(DEMOS[0].key), None, settings, autosaves=False)
window.resize(1280, 800)
window.show()
application.processEvents()
window.grab()
import os; os._exit(0)
"""
FRAME_MS = 1000 / 60


def median_s(act: Callable[[], object], times: int = 9) -> float:
    """The median duration of an act in seconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def start_up() -> None:
    def run(code: str) -> Callable[[], object]:
        return lambda: subprocess.run([sys.executable, "-c", code], env=os.environ, check=True)

    bare, demo = median_s(run(BARE), 7), median_s(run(DEMO), 7)
    print(f"start to first painted demo window: {demo / bare:.2f} x a bare Qt window")


def checks() -> None:
    from large import large_machine
    from vervain.edits.device_edits import set_name, set_setting
    from vervain.files.demos import DEMOS, open_demo
    from vervain.rules.engine import Engine

    demo = open_demo(DEMOS[0].key)
    sizes = [("demo", demo)] + [(f"{n} devices", large_machine(n)) for n in (200, 400, 800)]
    before = 0.0
    for name, machine in sizes:
        full = median_s(lambda m=machine: Engine().check(m), 3)
        engine = Engine()
        runs = engine.check(machine).runs
        driver = next(d.designator for d in machine.devices if d.designator.startswith("T"))
        flips = [set_setting(machine, driver, "current_peak_a", 2.5), machine] * 5
        state = iter(flips)
        one = median_s(lambda e=engine, s=state: e.check(next(s)), 9)
        named = engine.check(set_name(machine, driver, "Other")).runs
        growth = f", {full / before:.1f} x the size before" if before else ""
        print(
            f"{name}: full check {runs} runs{growth}; after one edit {one / full:.3f} of a full "
            f"check ({named / runs:.4f} of the runs)"
        )
        before = full


def interface() -> None:
    from large import large_machine
    from vervain.desktop.app import make_application
    from vervain.desktop.housekeeping import Housekeeping
    from vervain.desktop.pictures import settle
    from vervain.desktop.session import Selection
    from vervain.desktop.settings import Settings
    from vervain.desktop.theme import PAPER, use
    from vervain.desktop.window import Window
    from vervain.edits.device_edits import set_name

    application = make_application()
    use(PAPER, 1.0)
    with tempfile.TemporaryDirectory() as folder:
        window = Window(large_machine(200), None, Settings(Path(folder) / "s.ini"), autosaves=False)
        window.resize(1280, 800)
        window.show()
        settle(window)
        view, session = window.ports.view, window.session
        Housekeeping(session).begin()
        bar = view.verticalScrollBar()
        steps = iter(range(0, 100_000, 37))
        names = iter(range(1000))

        def scroll() -> None:
            bar.setValue(next(steps) % bar.maximum())
            view.viewport().repaint()

        def select() -> None:
            port = view.picture.ports()[next(steps) % len(view.picture.ports())].ref
            session.select(Selection(device=port.device, port=port.port))
            application.processEvents()

        def aim() -> None:
            session.aim(view.picture.ports()[next(steps) % len(view.picture.ports())].ref)
            view.viewport().repaint()

        def edit() -> None:
            session.apply("Name", lambda m: set_name(m, "M7", f"N{next(names)}"))

        print("200 devices, interface thread, in frames of 16.7 ms:")
        for words, act in (("scroll and paint", scroll), ("select a port", select), ("edit", edit)):
            print(f"  {words}: {median_s(act, 25) * 1000 / FRAME_MS:.2f}")
        window.take_in_hand("B1")
        print(f"  aim what is carried: {median_s(aim, 25) * 1000 / FRAME_MS:.2f}")
        window.show_stage("Harness")
        print(f"  edit on Harness: {median_s(edit, 15) * 1000 / FRAME_MS:.2f}")
        window.close()


if __name__ == "__main__":
    start_up()
    checks()
    interface()
