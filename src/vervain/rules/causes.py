"""Cause first: which single change of a plug clears most of what is wrong, tried on a copy.

Several findings often come from one mistake: a plug turned round or one pin off, two leads
exchanged, a conductor left off. Each such change at the plugs that the findings name is tried; the
one that clears most, and brings nothing new, is told as the cause, with the change that mends it,
and the findings are folded under it.
"""

from collections.abc import Callable

from msgspec.structs import replace

from vervain.model.base import Record
from vervain.queries.machine_queries import Queries
from vervain.rules.cause_memory import Tried
from vervain.rules.cause_search import Cause, Search
from vervain.rules.finding import CONSEQUENCES, Finding, Fix, Result

# How long one search may take.
BUDGET_S = 2.5


class Explanation(Record, frozen=True, kw_only=True):
    """The causes that were found, and of the other findings the fixes that hold."""

    causes: tuple[Cause, ...]
    fixes: dict[str, tuple[Fix, ...]]


def explained(result: Result, explanation: Explanation) -> Result:
    """A result with each cause in the place of what it explains, and only fixes that were tried."""
    by_key = {finding.key: finding for finding in result.open}
    told: dict[str, Finding] = {}
    folded: set[str] = set()
    for cause in explanation.causes:
        findings = [by_key[key] for key in cause.keys if key in by_key]
        if not findings:
            continue
        lead = next((f for f in findings if f.key == cause.lead), findings[0])
        others = tuple(f.sentence for f in findings if f is not lead)
        subjects = tuple(dict.fromkeys((*cause.subjects, *lead.subjects)))
        told[lead.key] = replace(
            lead,
            sentence=cause.sentence,
            consequence=min((f.consequence for f in findings), key=CONSEQUENCES.index),
            subjects=subjects,
            why=lead.why if cause.sentence == lead.sentence else f"{lead.sentence} {lead.why}",
            fixes=(cause.fix,),
            explains=others,
        )
        folded.update(cause.keys)
    for key, fixes in explanation.fixes.items():
        if key in by_key and key not in folded:
            told[key] = replace(by_key[key], fixes=fixes)
    kept = [told.get(f.key, f) for f in result.open if f.key in told or f.key not in folded]
    return result._replace(open=tuple(sorted(kept, key=lambda finding: finding.rank)))


def explain(
    trying: Queries,
    result: Result,
    should_continue: Callable[[], bool] = lambda: True,
    budget_s: float | None = None,
    tried: Tried | None = None,
) -> Explanation:
    """The causes of what is wrong, and the fixes of the rest that hold what they say: after them
    the finding is gone, and nothing as bad has come. Stops after `budget_s` seconds (`BUDGET_S`)
    with what it found; a fix that was not tried stays. `trying` stands on the machine,
    remembers what was worked out for it, and is moved from trial to trial and back; `tried`
    remembers from one machine to the next.
    """
    machine = trying.machine
    budget_s = BUDGET_S if budget_s is None else budget_s
    try:
        search = Search(trying, result, should_continue, budget_s, tried or Tried())
        return Explanation(causes=search.run(), fixes=search.fixes_that_hold())
    finally:
        trying.move_to(machine)
