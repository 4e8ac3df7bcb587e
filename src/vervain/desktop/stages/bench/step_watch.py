"""Watches the inputs of a live controller for what the chosen step expects."""

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.bench.step import BenchStep
from vervain.desktop.session import Session
from vervain.desktop.shared.live_links import LiveLinks
from vervain.live.watching import LampWatch, Watched
from vervain.model.machine import PinRef


class StepWatch(QObject):
    """Tells once that a step passed by itself, and what was seen meanwhile."""

    passed = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(self, session: Session, links: LiveLinks) -> None:
        super().__init__()
        self.session, self.links = session, links
        self.step: BenchStep | None = None
        self._watch: LampWatch | None = None
        self._last = Watched("waiting")
        self._count_before: float | None = None
        links.sampled.connect(self._look)

    @property
    def device(self) -> str:
        """The controller whose inputs are shown: that of the step, else a live one."""
        step = self.step
        wanted = [change.port.device for change in step.lamps] if step is not None else []
        if step is not None:
            wanted += [ref.device for ref in (step.reads, step.port) if ref is not None]
        links = self.links.links
        return next((name for name in (*wanted, *links) if name in links), "")

    def begin(self, step: BenchStep | None) -> None:
        """Watches another step from now on; None watches nothing."""
        self.step, self._watch, self._count_before = step, None, None
        self._last = Watched("waiting")
        self.told.emit("")

    def count(self) -> float | None:
        """By how much the counter of the step went on since it was chosen; None without one."""
        now = self._count()
        if now is None or self._count_before is None:
            return None
        return now - self._count_before

    def _count(self) -> float | None:
        step, history = self.step, self.links.histories.get(self.device)
        if step is None or step.reads is None or history is None:
            return None
        return history.numbers.get(step.reads.port)

    def _joined(self, device: str) -> frozenset[str]:
        """The ports of a controller that something is joined to."""
        queries = self.session.queries
        part = queries.part_of(device)
        return frozenset(
            port.id for port in (part.ports if part else ())
            if port.kind not in ("switched output", "relay contact") and any(
                queries.steps(PinRef(device=device, port=port.id, pin=pin.id)) for pin in port.pins
            )
        )  # fmt: skip

    def _look(self, device: str) -> None:
        if device != self.device:
            return
        if self._count_before is None:
            self._count_before = self._count()
        step = self.step
        if step is None or not step.lamps or self._last.state == "passed":
            return
        if self._watch is None:
            # From the first that is seen on: what is connected later is watched as well.
            self._watch = LampWatch(step, device, self._joined(device))
        seen = self._watch.look(self.links.histories[device])
        if seen != self._last:
            self._last = seen
            self.told.emit(seen.words)
            if seen.state == "passed":
                self.passed.emit(seen.words)
