"""Runs the rules over a machine, and after an edit only those that the edit touched."""

import logging
from collections.abc import Callable, Iterable

from vervain.model.machine import Machine
from vervain.model.subject import Subject, subject_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Finding, Result, acceptance_of
from vervain.rules.registry import RULES
from vervain.rules.rule import Rule, Scope

log = logging.getLogger("vervain")
SUBJECTS: dict[Scope, Callable[[Queries], tuple[str, ...]]] = {
    "device": Queries.devices,
    "hookup": Queries.hookups,
    "cable": Queries.cables,
    "axis": Queries.axes,
    "run": lambda queries: tuple(run.id for run in queries.runs()),
    "machine": lambda queries: ("",),
}


def check_look(
    queries: Queries,
    should_continue: Callable[[], bool] = lambda: True,
    rules: tuple[Rule, ...] = RULES,
) -> Result | None:
    """The findings of the machine that the look-ups stand on, worst first; None where
    `should_continue` said no meanwhile. A rule that raises is one finding, and takes no other
    along.
    """
    before = {rule.id: queries.run_counts[rule.check] for rule in rules}
    found: list[Finding] = []
    for rule in rules:
        if not should_continue():
            return None
        said, broken = findings_of_rule(queries, rule)
        found.extend(said)
        if broken:
            found.append(_failed(rule, broken))
    found.sort(key=lambda finding: finding.rank)
    to_do = tuple(finding for finding in found if is_unfinished(queries, finding))
    found = [finding for finding in found if finding not in to_do]
    accepted = queries.machine.accepted
    kept = tuple(f for f in found if accepted and acceptance_of(accepted, f) is not None)
    return Result(
        open=tuple(finding for finding in found if finding not in kept),
        accepted=kept,
        runs=sum(queries.run_counts[rule.check] - before[rule.id] for rule in rules),
        to_do=to_do,
    )


def first_finding(
    queries: Queries, is_sought: Callable[[Finding], bool], rules: Iterable[Rule]
) -> Finding | None:
    """The first finding of the machine that the look-ups stand on that is sought, rule by rule, so
    that the rest need not be asked; None where there is none. What is accepted is not given.
    """
    accepted = queries.machine.accepted
    for rule in rules:
        for finding in findings_of_rule(queries, rule)[0]:
            if is_sought(finding) and acceptance_of(accepted, finding) is None:
                return finding
    return None


@query
def findings_of_rule(
    queries: Queries, rule: Rule
) -> tuple[tuple[Finding, ...], tuple[tuple[str, Exception], ...]]:
    """What a rule says of all of its subjects, and those on which it raised, with what. Kept as a
    whole: after an edit only the rules are gone through that it touched.
    """
    found: list[Finding] = []
    broken: list[tuple[str, Exception]] = []
    for subject in SUBJECTS[rule.scope](queries):
        try:
            found.extend(queries.ask(rule.check, subject))
        except Exception as error:
            broken.append((subject, error))
    return tuple(found), tuple(broken)


def is_unfinished(queries: Queries, finding: Finding) -> bool:
    """Whether a finding only says that something is not done yet: by its rule, or because nothing
    at all is joined to any device that it is about.
    """
    if finding.unfinished or finding.stage not in ("Ports", "Supply", "Stops"):
        return finding.unfinished
    devices = {subject.device for subject in finding.subjects if subject.device is not None}
    return bool(devices) and not any(queries.hookups_of(device) for device in devices)


def _failed(rule: Rule, broken: tuple[tuple[str, Exception], ...]) -> Finding:
    """The one finding that tells of a check that failed, whatever it failed on."""
    subject, error = broken[0]
    log.error("the check %s failed on %r", rule.id, subject, exc_info=error)
    on = f" on {subject}" if len(broken) == 1 else f" on {len(broken)} subjects"
    about = Subject() if rule.scope == "machine" else subject_of(rule.scope, subject)
    title = f"{rule.title[:1].lower()}{rule.title[1:]}"
    return Finding(
        rule=rule.id,
        detail="check failed",
        stage=rule.stage,
        consequence="Workmanship",
        sentence=f"This check failed{on if subject else ''}: {title}.",
        subjects=(about,),
        why=f"A bug in Vervain ({type(error).__name__}: {error}). What it looks for may be there "
        "all the same; every other check was done. Details are in the log.",
    )


class Engine:
    """Checks one machine after another and remembers what still holds."""

    def __init__(self, rules: tuple[Rule, ...] = RULES) -> None:
        self._rules = rules
        self._look: Queries | None = None

    @property
    def queries(self) -> Queries:
        """The look-ups of the machine that was checked last, with what is remembered of it."""
        assert self._look is not None
        return self._look

    def check(
        self, machine: Machine, should_continue: Callable[[], bool] = lambda: True
    ) -> Result | None:
        """The findings of a machine; None where `should_continue` said no meanwhile."""
        if self._look is None:
            self._look = Queries(machine)
        self._look.move_to(machine)
        return check_look(self._look, should_continue, self._rules)


def check_machine(machine: Machine) -> Result:
    """One full check."""
    result = check_look(Queries(machine))
    assert result is not None
    return result
