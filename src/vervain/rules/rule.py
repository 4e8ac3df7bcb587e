"""How a rule is declared: one function with one decorator."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Literal

from vervain.model.subject import Subject, subject_of
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Consequence, Finding, Fix, Stage

# Whose findings are put right on which stage: the first word of a rule's id, and its folder.
FAMILY_STAGES: dict[str, Stage] = {
    "machine": "Machine",
    "leads": "Leads",
    "ports": "Ports",
    "signals": "Ports",
    "supply": "Supply",
    "stops": "Stops",
    "harness": "Harness",
}
Scope = Literal["device", "hookup", "cable", "axis", "run", "machine"]
Check = Callable[[Queries, str], Iterator["RuleOutput"]]


@dataclass(frozen=True)
class RuleOutput:
    """What a rule says about its subject; the rule's declaration supplies the rest."""

    sentence: str
    subjects: tuple[Subject, ...]
    at: tuple[Subject, ...] = ()
    detail: str = ""
    why: str = ""
    value: float | None = None
    limit: float | None = None
    unit: str = ""
    over: bool = True
    consequence: Consequence | None = None
    fixes: tuple[Fix, ...] = ()
    unfinished: bool = False


@dataclass(frozen=True, kw_only=True)
class Rule:
    """A declared rule. `check` is a query of look-ups that gives the findings of one subject."""

    id: str
    stage: Stage
    consequence: Consequence
    scope: Scope
    title: str
    reason: str
    source: str
    module: str
    check: Callable[[Queries, str], tuple[Finding, ...]]


def rule(
    *,
    id: str,
    consequence: Consequence,
    scope: Scope,
    title: str,
    reason: str,
    source: str,
) -> Callable[[Check], Rule]:
    """Declares a rule; its stage follows from the first word of its id. Refuses an unknown family,
    an empty id, title, reason or source at import. Raises `ValueError`.
    """
    stage = FAMILY_STAGES[id.partition(".")[0]]
    for word, text in (("id", id), ("title", title), ("reason", reason), ("source", source)):
        if not text.strip():
            raise ValueError(f"rule {id or title!r}: {word} is empty")

    def declare(function: Check) -> Rule:
        def check(queries: Queries, subject: str) -> tuple[Finding, ...]:
            return tuple(finish(said, subject) for said in function(queries, subject))

        def finish(said: RuleOutput, subject: str) -> Finding:
            given: dict[str, Any] = {
                "about": Subject() if scope == "machine" else subject_of(scope, subject),
                "at": said.at,
                "detail": said.detail,
                "sentence": said.sentence,
                "subjects": said.subjects,
                "why": said.why,
                "value": said.value,
                "limit": said.limit,
                "unit": said.unit,
                "over": said.over,
                "fixes": said.fixes,
                "unfinished": said.unfinished,
            }
            return Finding(
                rule=id, stage=stage, consequence=said.consequence or consequence, **given
            )

        return Rule(
            id=id,
            stage=stage,
            consequence=consequence,
            scope=scope,
            title=title,
            reason=reason,
            source=source,
            module=function.__module__,
            check=check,
        )

    return declare
