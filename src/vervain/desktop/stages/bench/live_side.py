"""What is live at the bench, beside the step: the lamps of a controller, and the meter."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from vervain.bench.step import BenchStep
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.desktop.shared.live_links import LiveLinks, typed
from vervain.desktop.stages.bench.connect_panel import ConnectPanel
from vervain.desktop.stages.bench.lamp_column import LampColumn
from vervain.desktop.stages.bench.meter_card import MeterCard
from vervain.desktop.stages.bench.step_watch import StepWatch
from vervain.model.problem import Problem

# How long an output of a step is on.
ARMED_S = 2.0


class LiveSide(QWidget):
    """Shown while something is connected. It tells that a step passed by itself, what is seen
    meanwhile, a reading that is taken, and whether the output of the step can be switched.
    """

    passed = pyqtSignal(str)
    told = pyqtSignal(str)
    reading_taken = pyqtSignal(str)
    can_switch = pyqtSignal(bool)

    def __init__(
        self, session: Session, links: LiveLinks, settings: Settings, over: QWidget
    ) -> None:
        super().__init__()
        self.session, self.links = session, links
        self.step: BenchStep | None = None
        self.watch = StepWatch(session, self.links)
        self.lamps, self.meter = LampColumn(session, self.links), MeterCard(self.links)
        self.connections = ConnectPanel(over, session, self.links, settings)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.lamps, 1)
        column.addWidget(self.meter)
        self.watch.passed.connect(self.passed)
        self.watch.told.connect(self.told)
        self.links.changed.connect(self.refresh)
        self.links.sampled.connect(self._show_sample)
        self.meter.taken.connect(self.take_reading)
        self.hide()

    def toggle_connections(self) -> None:
        """Shows where controllers and the meter answer, or hides it."""
        if self.connections.isVisible():
            self.connections.leave()
        else:
            self.connections.open()

    def show_step(self, step: BenchStep | None) -> None:
        """Watches a step, where it was not watched already; None for one that waits. What was
        switched on for another goes off.
        """
        if step is None or self.step is None or self.step.id != step.id:
            self.links.disarm()
            self.watch.begin(step)
        self.step = step
        if self.links.meter is not None and step is not None and step.window is not None:
            self.links.meter.measure(step.window.unit)
        self.refresh()

    def refresh(self) -> None:
        """Shows what is connected now."""
        links, step = self.links, self.step
        self.setVisible(bool(links.links) or links.meter is not None)
        self.lamps.setVisible(bool(links.links))
        self.lamps.show_device(self.watch.device, step)
        port = step.port if step is not None and step.kind == "output" else None
        self.can_switch.emit(port is not None and links.is_live(port.device))

    def _show_sample(self, device: str) -> None:
        if device != self.watch.device or not self.isVisible():
            return
        self.lamps.repaint_soon()
        count = self.watch.count()
        if count is not None and self.step is not None and self.step.window is not None:
            self.told.emit(f"{count:+,.0f} counts".replace(",", " "))

    @property
    def has_reading(self) -> bool:
        """Whether something that is connected can give what the step asks for."""
        window = self.step.window if self.step is not None else None
        if window is None:
            return False
        return self.links.meter is not None or (window.unit == "counts" and bool(self.links.links))

    def take_reading(self) -> None:
        """Takes what the meter shows, or the counter of the step."""
        step, reading = self.step, self.links.reading
        if step is None or step.window is None:
            return
        count = self.watch.count() if step.window.unit == "counts" else None
        if count is not None:
            self.reading_taken.emit(f"{count:.0f}")
        elif reading is not None and reading.unit == step.window.unit:
            self.reading_taken.emit(typed(reading))
        else:
            self.session.say(f"Nothing that is connected shows {step.window.unit} now.")

    def switch_output(self) -> None:
        """Switches the output of the step on for a moment."""
        port = self.step.port if self.step is not None and self.step.kind == "output" else None
        link = self.links.links.get(port.device) if port is not None else None
        if port is None or link is None:
            return
        if not self.links.is_live(port.device):
            self.session.say(f"{port.device} does not answer now.")
            return
        try:
            link.arm(port.port, ARMED_S)
        except Problem as problem:
            self.session.say(problem.what)
            return
        self.session.say(f"{port.device} {port.port} is on for {ARMED_S:g} s.")
