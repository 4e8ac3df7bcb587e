"""Checks the machine of a session; other work that waits goes before it."""

from collections.abc import Callable

from vervain.desktop.analysis import LatestWork
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Result


def checking(session: Session) -> LatestWork:
    """The check of a session's machine: to be asked for after each change."""

    def work(queries: Queries, should_continue: Callable[[], bool]) -> Result | None:
        # Imported by the first check: starting the window needs no rule.
        from vervain.rules.engine import check_look

        return check_look(queries, should_continue)

    check = LatestWork(session.analysis, work, gives_way=True)
    check.done.connect(session.take_result)
    check.failed.connect(lambda problem: session.said.emit(Message(str(problem), is_bad=True)))
    return check
