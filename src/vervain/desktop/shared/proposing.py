"""A proposal: worked out on a worker, wanted in whole or in part, carried out or left."""

from abc import abstractmethod
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.background import in_background
from vervain.desktop.session import Session
from vervain.model.machine import Machine

Row = tuple[str, str]


class ProposalController(QObject):
    """Asks for a proposal, keeps which of its rows are wanted, and carries them out as one step."""

    changed = pyqtSignal()
    # The colour in which warnings are written.
    warning_ink = "bad"

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.proposal: Any = None
        self.made_for: Machine | None = None
        self.wanted: set[int] = set()
        self.running = False
        self._stopped = False
        session.machine_changed.connect(self._machine_changed)

    # What a kind of proposal is.

    @abstractmethod
    def waiting(self) -> int:
        """How much there is to propose something for; 0 where there is nothing to do."""

    @abstractmethod
    def nothing_to_do(self) -> str:
        """What is said where nothing waits."""

    @abstractmethod
    def work_out(self, machine: Machine, should_continue: Callable[[], bool]) -> Any:
        """The proposal for a machine, on the worker; None where it was stopped."""

    @abstractmethod
    def rows(self) -> tuple[Row, ...]:
        """What is proposed: in words, and why."""

    @abstractmethod
    def warnings(self) -> tuple[str, ...]:
        """What cannot be proposed, or is left to the builder."""

    @abstractmethod
    def carried_out(self, machine: Machine) -> Machine:
        """The machine with what is wanted."""

    @abstractmethod
    def step_words(self) -> str:
        """What carrying it out is called."""

    @abstractmethod
    def title(self) -> str:
        """What stands above the rows: how many of them are wanted."""

    # What is the same for all.

    def _machine_changed(self) -> None:
        if self.made_for is not None and self.made_for is not self.session.machine:
            self.drop()

    def start(self) -> None:
        """Works a proposal out on a worker."""
        if self.running or not self.session.queries.devices():
            return
        if not self.waiting():
            self.session.say(self.nothing_to_do())
            return
        machine = self.session.machine
        self.running, self._stopped = True, False
        self.proposal, self.made_for = None, machine
        self.session.take_in_hand(None)
        self.changed.emit()

        def work() -> Any:
            return self.work_out(machine, lambda: not self._stopped)

        in_background(work, lambda found: self._show(machine, found), self._refused)

    def _show(self, machine: Machine, found: Any) -> None:
        if self.made_for is not machine:
            return
        self.running = False
        if found is None:
            self.drop()
            return
        self.proposal = found
        self.wanted = set(range(len(self.rows())))
        if not self.wanted:
            words = " ".join(self.warnings())
            self.drop()
            self.session.say(f"Nothing can be proposed. {words}".strip())
            return
        self.changed.emit()

    def _refused(self, problem: object) -> None:
        self.drop()
        self.session.say(str(problem))

    def toggle(self, number: int) -> None:
        """Wants one row, or does not."""
        if 0 <= number < len(self.rows()):
            self.wanted.symmetric_difference_update({number})
            self.changed.emit()

    def put_in(self) -> None:
        """Carries out what is wanted, as one step."""
        if not self.wanted:
            self.drop()
            return
        warnings, words = self.warnings(), self.step_words()
        self.made_for = None
        if self.session.apply(words, self.carried_out) and warnings:
            self.session.say(" ".join(warnings[:3]))
        self.drop()

    def drop(self) -> None:
        """Leaves it as it was; stops the work where it still runs."""
        self._stopped = True
        self.running = False
        self.proposal = self.made_for = None
        self.wanted = set()
        self.changed.emit()
