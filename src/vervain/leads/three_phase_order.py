"""The lead-order fixer for three phases.

Three leads have 6 orders; all run, 3 each way: exchanging any two turns the direction. Six leads
in known pairs, one end of each on U, V, W and the others joined in a star, have 48: 6 orders times
8 ways round. They run properly when all three windings point the same way, in 12 of the 48.
Seen from outside there are four ways round (all alike, or one of three odd); from any of them each
other one is one winding turned away, so at most three turns reach it.
"""

from dataclasses import dataclass

from vervain.leads.lead_order import Advice
from vervain.model.measurements import Trial

TERMINALS = ("U", "V", "W")
Pairs = tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class NextThree:
    """What to do next: for the advice "swap", the two leads that change places. `left` is how many
    of the `total` orders what was seen leaves possible.
    """

    advice: Advice
    exchange: tuple[str, str] | None
    left: int
    total: int


def winding_senses(order: tuple[str, ...], windings: Pairs) -> tuple[bool, ...]:
    """Which windings lie the other way round than the first one; windings in their own order."""
    turned = [start not in order for start, _ in windings]
    return tuple(flag != turned[0] for flag in turned)


def next_three(order: tuple[str, ...], windings: Pairs, trials: tuple[Trial, ...]) -> NextThree:
    """The next exchange for a three-phase motor whose leads lie in this order on U V W; `windings`
    are the ends of each where six leads come out, empty for three.
    """
    total = 48 if windings else 6
    gone = {
        winding_senses(trial.order, windings) if windings else ()
        for trial in trials
        if trial.saw == "does not run"
    }
    left = 12 * (4 - len(gone)) if windings else (0 if gone else 6)
    last = trials[-1] if trials else None

    def say(advice: Advice, exchange: tuple[str, str] | None = None) -> NextThree:
        return NextThree(advice=advice, exchange=exchange, left=left, total=total)

    if last is not None and last.order == order:
        if last.saw == "runs":
            return say("runs")
        if last.saw == "turns freely":
            return say("check first")
        if last.saw == "wrong way":
            return say("swap", (order[0], order[1]))
    here = winding_senses(order, windings) if windings else ()
    if here not in gone:
        return say("try")
    for start, end in windings:
        changed = tuple({start: end, end: start}.get(lead, lead) for lead in order)
        if winding_senses(changed, windings) not in gone:
            return say("swap", (start, end))
    return say("not the order")
