"""The lead-order fixer for three phases.

Three leads have 6 orders; all run, 3 each way: exchanging any two turns the direction. Six leads
in known pairs, one end of each on U, V, W and the others joined in a star, have 48: 6 orders times
8 ways round. They run properly when all three windings point the same way, in 12 of the 48.
Seen from outside there are four ways round (all alike, or one of three odd); from any of them each
other one is one winding turned away, so at most three turns reach it.
"""

from dataclasses import dataclass

from vervain.leads.lead_order import SAYS_NOTHING, Advice
from vervain.model.measurements import Trial

TERMINALS = ("U", "V", "W")
Pairs = tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class NextThree:
    """What to do next: for the advice "swap", the two leads that change places. `left` is how many
    of the `total` orders may still be the right one.
    """

    advice: Advice
    exchange: tuple[str, str] | None
    left: int
    total: int


def winding_senses(order: tuple[str, ...], windings: Pairs) -> tuple[bool, ...]:
    """Which windings lie the other way round than the first one; windings in their own order."""
    turned = [start not in order for start, _ in windings]
    return tuple(flag != turned[0] for flag in turned)


def _senses(order: tuple[str, ...], windings: Pairs) -> tuple[bool, ...]:
    return winding_senses(order, windings) if windings else ()


def _turned_both_ways(trials: tuple[Trial, ...], windings: Pairs) -> bool:
    """Whether orders that must turn a motor the same way were seen to turn it both ways."""
    ways = set()
    for trial in trials:
        if trial.saw in ("runs", "wrong way"):
            named = [
                next((n for n, ends in enumerate(windings) if lead in ends), lead)
                for lead in trial.order
            ]
            rank = [sorted(map(str, named)).index(str(name)) for name in named]
            is_forward = rank in ([0, 1, 2], [1, 2, 0], [2, 0, 1])
            # Turning every winding round turns the motor no other way: a half period is no order.
            ways.add(is_forward == (trial.saw == "runs"))
    return len(ways) > 1


def next_three(order: tuple[str, ...], windings: Pairs, trials: tuple[Trial, ...]) -> NextThree:
    """The next exchange for a three-phase motor whose leads lie in this order on U V W; `windings`
    are the ends of each where six leads come out, empty for three.
    """
    total = 48 if windings else 6
    trials = tuple(trial for trial in trials if len(trial.order) == len(TERMINALS))
    gone = {_senses(t.order, windings) for t in trials if t.saw == "does not run"}
    ran = {_senses(t.order, windings) for t in trials if t.saw in ("runs", "wrong way")}
    # Of the orders with the windings one way round, half turn the right way.
    each = total // (4 if windings else 1)
    left = each // 2 if ran else each * ((4 if windings else 1) - len(gone))
    last = trials[-1] if trials else None

    def say(advice: Advice, exchange: tuple[str, str] | None = None) -> NextThree:
        return NextThree(advice=advice, exchange=exchange, left=left, total=total)

    if last is not None and last.order == order and last.saw in SAYS_NOTHING:
        return say(SAYS_NOTHING[last.saw])
    if ran & gone or len(ran) > 1 or _turned_both_ways(trials, windings):
        left = 0
        return say("contradiction")
    if last is not None and last.order == order:
        if last.saw == "runs":
            return say("runs")
        if last.saw == "wrong way":
            return say("swap", (order[0], order[1]))
    here = _senses(order, windings)
    if here not in gone:
        return say("try")
    for start, end in windings:
        changed = tuple({start: end, end: start}.get(lead, lead) for lead in order)
        if winding_senses(changed, windings) not in gone:
            return say("swap", (start, end))
    return say("not the order")
