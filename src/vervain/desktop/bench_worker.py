"""Works the bench list out on a worker, after the check, whose findings hold steps back."""

from dataclasses import dataclass, replace
from functools import cached_property

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.bench.results import StepResult, step_results
from vervain.bench.step import BenchStep
from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.model.bench_result import BenchResult
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Finding


@dataclass(frozen=True)
class BenchFigures:
    """The steps of a machine, and how each stands by its id, after what was `seen`; the findings
    that were open then.
    """

    machine: Machine
    steps: tuple[BenchStep, ...]
    seen: tuple[BenchResult, ...]
    results: dict[str, StepResult]
    findings: tuple[Finding, ...] = ()

    def state(self, step: BenchStep) -> StepResult:
        """How a step stands."""
        return self.results.get(step.id, StepResult(""))

    def count(self, state: str) -> int:
        """How many steps stand so."""
        return sum(result.state == state for result in self.results.values())

    @cached_property
    def proven(self) -> frozenset[str]:
        """The devices that have steps, and all of them passed."""
        at: dict[str, set[str]] = {}
        for step in self.steps:
            at.setdefault(step.device, set()).add(self.state(step).state)
        return frozenset(device for device, states in at.items() if states == {"passed"})


class BenchWorker(QObject):
    """Keeps the bench list of the session's machine while it is wanted: on its stage, and where
    something was seen already.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.is_shown = False
        self.figures: BenchFigures | None = None
        self._work = LatestWork(session.analysis, _figures, gives_way=True)
        self._work.done.connect(self._take)
        self._work.failed.connect(self._refused)
        session.machine_changed.connect(self._results_changed)
        session.checked.connect(self.want)
        session.opened.connect(self._forget)

    @property
    def fraction(self) -> float:
        """The part of all steps that passed."""
        if self.figures is None or not self.figures.steps:
            return 0.0
        return self.figures.count("passed") / len(self.figures.steps)

    def want(self) -> None:
        """Works the list out, where anybody looks at it and it is not that of the machine."""
        machine = self.session.machine
        if self.figures is not None and self.figures.machine is machine:
            return
        if self.is_shown or machine.bench_results:
            self._work.ask(machine)

    def _results_changed(self) -> None:
        """What was seen is shown at once, on the steps that are known."""
        figures, machine = self.figures, self.session.machine
        if figures is None or figures.seen is machine.bench_results:
            return
        results = step_results(self.session.queries, figures.steps, figures.results)
        # The list itself is that of the machine before, until it was worked out anew.
        self.figures = replace(figures, seen=machine.bench_results, results=results)
        self.changed.emit()

    def _forget(self) -> None:
        self.figures = None
        self.changed.emit()

    def _take(self, machine: Machine, figures: BenchFigures) -> None:
        if machine is self.session.machine:
            self.figures = figures
            self.changed.emit()

    def _refused(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))


def _figures(queries: Queries, should_continue: ShouldContinue) -> BenchFigures | None:
    # Imported when it is first wanted: starting the window needs no rule.
    from vervain.bench.checklist import bench_list
    from vervain.rules.engine import check_look

    checked = check_look(queries, should_continue)
    if checked is None:
        return None
    steps = bench_list(queries, checked.open, should_continue)
    if not should_continue():
        return None
    machine = queries.machine
    return BenchFigures(
        machine=machine,
        steps=steps,
        seen=machine.bench_results,
        results=step_results(queries, steps),
        findings=checked.open,
    )
