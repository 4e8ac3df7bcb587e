"""Works the stops out on a worker: their strings, what pressing does, every single fault."""

from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.ports.occupancy import colour_of
from vervain.queries.machine_queries import Queries
from vervain.stops.chains import Chain, chains_of, source_words, wires_along
from vervain.stops.circuit import Circuit, Wire
from vervain.stops.faults import Fault
from vervain.stops.outcomes import Verdict
from vervain.stops.verdicts import StopJudge, second_faults, stop_judge, stop_verdicts
from vervain.tables.limit_rows import LimitRow, limit_rows
from vervain.tables.stop_rows import StopRow, label_of, stop_row, stop_rows


@dataclass(frozen=True)
class StopFigures:
    """What was worked out for a machine. `judge` settles its circuit under any conditions."""

    machine: Machine
    judge: StopJudge
    chains: tuple[Chain, ...]
    rows: tuple[StopRow, ...]
    verdicts: tuple[Verdict, ...]
    labels: dict[Wire, str]
    colours: dict[Wire, str | None]
    sources: dict[int, tuple[str, str]]
    limits: tuple[LimitRow, ...]

    @property
    def circuit(self) -> Circuit:
        """The circuit."""
        return self.judge.circuit


@dataclass(frozen=True)
class SecondFaults:
    """What further faults defeat a stop unnoticed once some faults are there, and those faults."""

    first: tuple[Fault, ...]
    verdicts: tuple[Verdict, ...]
    rows: tuple[StopRow, ...]


class StopWorker(QObject):
    """Keeps the figures of the session's machine while they are wanted."""

    changed = pyqtSignal()
    found_second = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.figures: StopFigures | None = None
        self._work = LatestWork(session.analysis, _figures)
        self._work.done.connect(self._take)
        self._work.failed.connect(self._refused)
        self.second: SecondFaults | None = None
        self._first: tuple[Fault, ...] = ()
        self._second_work = LatestWork(session.analysis, self._second_faults, gives_way=True)
        self._second_work.done.connect(self._take_second)
        self._second_work.failed.connect(self._refused)

    def want(self) -> None:
        """Works the figures out, unless they are those of the machine already."""
        machine = self.session.machine
        if self.figures is None or self.figures.machine is not machine:
            self._work.ask(machine)

    def want_second(self, first: tuple[Fault, ...]) -> None:
        """Tries every further fault beside some; `found_second` tells when that is done."""
        self._first, self.second = first, None
        self._second_work.ask(self.session.machine)

    def leave_second(self) -> None:
        """Tries no further faults."""
        self.second = None
        self._second_work.give_up()

    def _second_faults(
        self, queries: Queries, should_continue: ShouldContinue
    ) -> SecondFaults | None:
        first = self._first
        verdicts = second_faults(queries, *first, should_continue=should_continue)
        if not should_continue():
            return None
        rows = tuple(stop_row(queries, verdict) for verdict in verdicts)
        return SecondFaults(first=first, verdicts=verdicts, rows=rows)

    def _take_second(self, machine: Machine, second: SecondFaults) -> None:
        if machine is self.session.machine and second.first == self._first:
            self.second = second
            self.found_second.emit()

    def _take(self, machine: Machine, figures: StopFigures) -> None:
        if machine is self.session.machine:
            self.figures = figures
            self.changed.emit()

    def _refused(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))


def _figures(queries: Queries, should_continue: ShouldContinue) -> StopFigures | None:
    chains, judge = chains_of(queries), stop_judge(queries)
    wires = wires_along(queries)
    verdicts = stop_verdicts(queries)
    if not should_continue():
        return None
    return StopFigures(
        machine=queries.machine,
        judge=judge,
        chains=chains,
        rows=stop_rows(queries),
        verdicts=verdicts,
        labels={wire: label_of(queries, wire) for wire in wires},
        colours={wire: colour_of(queries, *wire) for wire in wires},
        sources={n: source_words(queries, s) for n, s in enumerate(judge.circuit.sources)},
        limits=limit_rows(queries),
    )
