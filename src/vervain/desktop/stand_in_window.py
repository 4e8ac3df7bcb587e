"""A small window for a simulated machine: its switches to press, its axes to move, its meter's
probes, faults to put in; and what its lamps show.
"""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from vervain.bench.signals import WORKED
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks
from vervain.model.problem import Problem
from vervain.stand_in.script import StandInBench
from vervain.stand_in.simulated_machine import SimulatedMachine

REFRESH_MS, COLUMNS = 100, 3
FAULT_HINT = "A fault: cut W18.3, exchange K1 IN 4 / K1 IN 5, turn T1 POWER …"


class StandInWindow(QWidget):
    """Everything goes through the lines of the script: window and terminal cannot differ."""

    def __init__(self, bench: StandInBench, where: str, closed: Callable[[], object]) -> None:
        super().__init__()
        self.bench, self.closed = bench, closed
        design = bench.design
        self.setWindowTitle(f"Stand-in of {design.name} {design.state}".strip())
        self.resize(looks.px(620), looks.px(640))
        column = QVBoxLayout(self)
        told = PlainLabel(where)
        told.setObjectName("faded")
        told.setWordWrap(True)
        column.addWidget(told)
        column.addWidget(self._switches(), 1)
        column.addLayout(self._axes())
        column.addLayout(self._probes())
        column.addLayout(self._faults())
        self.said, self.lamps = PlainLabel(), PlainLabel()
        for label in (self.said, self.lamps):
            label.setWordWrap(True)
            column.addWidget(label)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.refresh)
        self._timer.start(REFRESH_MS)
        self.refresh()

    def _switches(self) -> QWidget:
        """A button a switch, sensor or stop: down while it is worked."""
        area, body = QScrollArea(), QWidget()
        area.setWidgetResizable(True)
        body.setObjectName("blank")
        grid = QGridLayout(body)
        self.switches: dict[str, QPushButton] = {}
        queries = self.bench.stand_in.machine.queries
        for name in queries.devices():
            part, device = queries.part_of(name), queries.device(name)
            if part is None or device is None or part.kind not in WORKED:
                continue
            button = QPushButton(f"{name}  {device.name}")
            button.setCheckable(True)
            button.toggled.connect(partial(self._work, name))
            row, place = divmod(len(self.switches), COLUMNS)
            grid.addWidget(button, row, place)
            self.switches[name] = button
        grid.setRowStretch(grid.rowCount(), 1)
        area.setWidget(body)
        return area

    def _axes(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.axis, self.way, self.send = QComboBox(self), QLineEdit("10"), QPushButton("Send")
        self.axis.addItems(list(self.bench.stand_in.machine.positions))
        self.axis.setAccessibleName("Axis")
        self.way.setAccessibleName("How far, in the unit of the axis")
        self.send.clicked.connect(
            lambda: self.do(f"send {self.axis.currentText()} {self.way.text()}")
        )
        self.way.returnPressed.connect(self.send.click)
        for widget in (PlainLabel("Axis"), self.axis, self.way, self.send):
            line.addWidget(widget)
        for widget in (self.axis, self.way, self.send):
            widget.setEnabled(self.axis.count() > 0)
        return line

    def _probes(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.red, self.black, self.put = QLineEdit(), QLineEdit(), QPushButton("Put the probes")
        self.red.setPlaceholderText("Red: G2 OUT 24V")
        self.black.setPlaceholderText("Black: G2 OUT 0V")
        self.put.clicked.connect(lambda: self.do(f"probe {self.red.text()} / {self.black.text()}"))
        for field in (self.red, self.black):
            field.returnPressed.connect(self.put.click)
        for widget in (PlainLabel("Meter"), self.red, self.black, self.put):
            line.addWidget(widget)
        return line

    def _faults(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.fault, self.mend = QLineEdit(), QPushButton("Mend all")
        self.fault.setPlaceholderText(FAULT_HINT)
        self.fault.setAccessibleName("Fault")
        self.fault.returnPressed.connect(self._put_fault)
        self.mend.clicked.connect(lambda: self.do("mend"))
        line.addWidget(self.fault, 1)
        line.addWidget(self.mend)
        return line

    def _work(self, name: str, is_worked: bool) -> None:
        self.do(f"{'work' if is_worked else 'release'} {name}")

    def _put_fault(self) -> None:
        if self.do(self.fault.text()):
            self.fault.clear()

    def do(self, line: str) -> bool:
        """Does what a line of the script says; False where it is not understood, which is told."""
        try:
            told = self.bench.do(line)
        except Problem as problem:
            self.said.setText(f"{problem.what} {problem.remedy}".strip())
            return False
        self.said.setText(told)
        self.refresh()
        return True

    def refresh(self) -> None:
        """Shows what the lamps, the outputs and the meter show now."""

        def look(machine: SimulatedMachine) -> tuple[list[str], list[str], frozenset[str]]:
            lit = [f"{p.device} {p.port}" for p, is_lit in machine.lit().items() if is_lit]
            return lit, [f"{p.device} {p.port}" for p in machine.on], machine.worked

        lit, on, worked = self.bench.stand_in.do(look)
        for name, button in self.switches.items():
            if button.isChecked() != (name in worked):
                button.blockSignals(True)
                button.setChecked(name in worked)
                button.blockSignals(False)
        faults = "; ".join(self.bench.faults) or "none"
        lines = [f"Lit: {', '.join(lit) or 'none'}", f"Outputs on: {', '.join(on) or 'none'}",
                 f"Faults: {faults}"]  # fmt: skip
        words = "\n".join(lines)
        if words != self.lamps.text():
            self.lamps.setText(words)
            self.lamps.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.mend.setEnabled(bool(self.bench.faults))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._timer.stop()
        self.closed()
        super().closeEvent(event)
