"""Checks the machine of a session, then looks for causes; other work that waits goes before it."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from vervain.desktop.analysis import LatestWork
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Result

if TYPE_CHECKING:
    from vervain.rules.cause_memory import Tried


class Checker:
    """The check of a session's machine, to be asked for after each change. Its findings are shown
    at once; which of them come from one mistake is tried after that, and shown when it is known,
    unless `explains` is false.
    """

    def __init__(self, session: Session) -> None:
        self.session = session
        self.explains = True
        self._check = LatestWork(session.analysis, _findings, gives_way=True)
        self._explain = LatestWork(session.analysis, self._explained, gives_way=True)
        self._is_clean = False
        self._tried: Tried | None = None
        session.opened.connect(self._forget)
        self._check.done.connect(self._take)
        self._explain.done.connect(session.take_result)
        self._check.failed.connect(self._say)
        self._explain.failed.connect(self._say)

    def ask(self, machine: Machine) -> None:
        """Checks a machine, in place of the one before."""
        self._explain.give_up()
        self._check.ask(machine)

    @property
    def is_running(self) -> bool:
        """Whether the findings of the newest machine are not there yet."""
        return self._check.is_running

    def _take(self, machine: Machine, result: Result) -> None:
        self.session.take_result(machine, result)
        grave = any(finding.consequence != "Workmanship" for finding in result.open)
        if machine is self.session.machine and grave and self.explains:
            self._explain.ask(machine)
        elif not grave:
            # What was wrong was mended: were it to come back, it would be new.
            self._is_clean, self._tried = True, None

    def _forget(self) -> None:
        self._is_clean, self._tried = False, None

    def _explained(self, queries: Queries, should_continue: Callable[[], bool]) -> Result | None:
        from vervain.rules.cause_memory import Tried
        from vervain.rules.causes import explain, explained
        from vervain.rules.engine import check_look

        result = check_look(queries, should_continue)
        if result is None:
            return None
        if self._tried is None:
            self._tried = Tried.after_clean() if self._is_clean else Tried()
        tried = self._tried
        explanation = explain(queries, result, should_continue, tried=tried)
        return explained(result, explanation) if should_continue() else None

    def _say(self, problem: Problem) -> None:
        self.session.said.emit(Message(str(problem), is_bad=True))


def _findings(queries: Queries, should_continue: Callable[[], bool]) -> Result | None:
    # Imported by the first check: starting the window needs no rule.
    from vervain.rules.engine import check_look

    return check_look(queries, should_continue)
