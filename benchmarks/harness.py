"""The harness of a plant: opening, sorting, filtering, scrolling, exporting, as ratios.

Run: QT_QPA_PLATFORM=offscreen PYTHONPATH=src:tools python benchmarks/harness.py [devices]
A frame is 16.7 ms. Times are given against it, or against the same work done bare.
"""

import random
import sys
import time
from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from large import large_machine
from vervain.desktop.app import make_application
from vervain.desktop.background import wait_for_background
from vervain.desktop.housekeeping import Housekeeping
from vervain.desktop.pictures import settle
from vervain.desktop.settings import Settings
from vervain.desktop.window import Window
from vervain.edits.cable_edits import set_cable
from vervain.exports.formats import csv_bytes, table_json, xlsx_bytes
from vervain.exports.harness_html import harness_html
from vervain.exports.harness_pdf import harness_pdf
from vervain.exports.tables import all_tables
from vervain.harness.cutting import Piece, Stock, cutting_plan
from vervain.model.machine import Machine

FRAME_S = 1 / 60
LONGEST_CHECK_S = 200


def took(act: Callable[[], object]) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start


def frames(act: Callable[[], object]) -> str:
    """How many frames something keeps the interface thread for."""
    return f"{took(lambda: (act(), QApplication.processEvents())) / FRAME_S:.1f} frames"


def measure_window(machine: Machine) -> None:
    from pathlib import Path
    from tempfile import mkdtemp

    make_application()
    window = Window(machine, None, Settings(Path(mkdtemp()) / "s.ini"), autosaves=False)
    window.resize(1280, 800)
    window.show()
    Housekeeping(window.session).begin()
    end = time.monotonic() + LONGEST_CHECK_S
    while window.session.result is None and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)
    print("showing the stage:", frames(lambda: window.show_stage("Harness")))
    start = time.perf_counter()
    longest = 0.0
    while window.harness.keeper.face is None:
        before = time.perf_counter()
        QApplication.processEvents()
        longest = max(longest, time.perf_counter() - before)
        time.sleep(0.001)
    print(f"until its rows are there: {(time.perf_counter() - start) / FRAME_S:.0f} frames on a "
          f"worker, the interface held for {longest / FRAME_S:.1f} at most")  # fmt: skip
    table = window.harness.table
    print("rows:", len(table.faces.rows))
    for title in ("Label", "m", "From"):
        at = next(n for n, (_, c) in enumerate(table.faces.columns) if c.title == title)
        for order in (Qt.SortOrder.AscendingOrder, Qt.SortOrder.DescendingOrder):
            print(f"sorting by {title}:", frames(lambda at=at, o=order: table.sortByColumn(at, o)))
    for words in ("W1", "driver", "T7 A+"):
        print(f"filter “{words}”:", frames(lambda w=words: window.harness.filter.setText(w)))
    window.harness.filter.clear()
    QApplication.processEvents()
    bar = table.verticalScrollBar()
    held = []
    for step in range(60):
        held.append(took(lambda s=step: (bar.setValue(s * bar.maximum() // 60),
                                         table.viewport().repaint())))  # fmt: skip
    print(f"scrolling: {sum(held) / 60 / FRAME_S:.2f} frames, {max(held) / FRAME_S:.2f} at most")
    print("tracing the next row:", frames(lambda: table._select(100)))
    cable = window.session.machine.cables[5].id
    print("an edit of a length:", frames(
        lambda: window.session.apply("edit", lambda m: set_cable(m, cable, 3.3, ""))))  # fmt: skip
    wait_for_background()
    settle(window)
    for name in ("Cables", "Connectors", "Cut list", "Labels"):
        window.harness.show_face(name)
        start = time.perf_counter()
        while name not in window.harness.keeper.faces:
            QApplication.processEvents()
            time.sleep(0.001)
        print(f"{name}: there after {(time.perf_counter() - start) / FRAME_S:.0f} frames")
    window.close()
    settle(window)


def measure_exports(machine: Machine) -> None:
    tables = all_tables(machine)
    rows = len(tables[0].rows)
    bare = took(lambda: [",".join(map(str, row)) for table in tables for row in table.rows])
    print(f"exports of {rows} conductors, against joining every cell with commas:")
    for name, act in (
        ("the tables themselves", lambda: all_tables(machine)),
        ("csv", lambda: [csv_bytes(table) for table in tables]),
        ("json", lambda: table_json(machine, tables)),
        ("xlsx", lambda: xlsx_bytes(tables)),
        ("html", lambda: harness_html(machine, tables)),
        ("pdf", lambda: harness_pdf(machine, tables)),
    ):
        spent = took(act)
        print(f"  {name}: {spent / bare:.0f} x, {spent / rows * 1000:.2f} s per 1,000 conductors")


def measure_cutting() -> None:
    """200 random small instances against the least that any plan can buy."""
    chance = random.Random(7)
    exact, worst = 0, 1.0
    for _ in range(200):
        sizes = sorted(chance.sample([3, 5, 7, 10, 12.5, 25], chance.randint(1, 3)))
        pieces = [
            Piece(f"W{n}", chance.randint(300, round(min(6, sizes[-1]) * 1000)) / 1000)
            for n in range(chance.randint(4, 30))
        ]
        plan = cutting_plan(pieces, [Stock(size) for size in sizes])
        exact += plan.exact
        worst = max(worst, plan.bought_m / plan.bound_m)
    print(f"cutting: {exact} of 200 proven the best, the others {worst:.3f} x the bound at most")


def main() -> int:
    devices = int(sys.argv[1]) if len(sys.argv) > 1 else 2400
    machine = large_machine(devices)
    count = sum(len(hookup.conductors) for hookup in machine.hookups)
    print(f"{len(machine.devices)} devices, {count} conductors, {len(machine.cables)} cables")
    measure_cutting()
    measure_window(machine)
    measure_exports(machine)
    return 0


if __name__ == "__main__":
    sys.exit(main())
