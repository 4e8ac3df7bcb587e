"""The lead-order fixer: from what a motor does to the next two leads to exchange.

Four leads on A+ A- B+ B- have 24 orders. They run when each coil has a bridge of its own: 8
orders, 4 each way. Which leads share a bridge can be one of three pairings, so at most two
exchanges of leads on different bridges reach a running order, and one exchange inside a bridge
turns the direction.
"""

from dataclasses import dataclass
from itertools import permutations
from typing import Literal

from vervain.model.measurements import Trial

TERMINALS = ("A+", "A−", "B+", "B−")
Advice = Literal["try", "swap", "runs", "not the order", "check first"]


@dataclass(frozen=True)
class Next:
    """What to do next: for the advice "swap", `swap` are two places of the current order; "try"
    is to power up and look.

    `left` is how many of the 24 orders what was seen leaves possible.
    """

    advice: Advice
    swap: tuple[int, int] | None
    left: int


def pairing(order: tuple[str, ...]) -> frozenset[frozenset[str]]:
    """Which leads share a bridge in an order on A+ A- B+ B-."""
    return frozenset((frozenset(order[:2]), frozenset(order[2:])))


def excluded(trials: tuple[Trial, ...]) -> frozenset[frozenset[frozenset[str]]]:
    """The pairings that were seen not to run. A motor that turns freely excludes none."""
    return frozenset(pairing(trial.order) for trial in trials if trial.saw == "does not run")


def orders_left(order: tuple[str, ...], trials: tuple[Trial, ...]) -> int:
    """How many of the 24 orders are not excluded."""
    gone = excluded(trials)
    return sum(pairing(other) not in gone for other in permutations(order))


def next_step(order: tuple[str, ...], trials: tuple[Trial, ...]) -> Next:
    """The next exchange for a motor whose leads lie in this order on A+ A- B+ B-."""
    left = orders_left(order, trials)
    last = trials[-1] if trials else None
    if last is not None and last.order == order:
        if last.saw == "runs":
            return Next(advice="runs", swap=None, left=left)
        if last.saw == "wrong way":
            return Next(advice="swap", swap=(0, 1), left=left)
        if last.saw == "turns freely":
            return Next(advice="check first", swap=None, left=left)
    gone = excluded(trials)
    if pairing(order) not in gone:
        return Next(advice="try", swap=None, left=left)
    for first, second in ((1, 2), (1, 3)):
        changed = exchanged(order, first, second)
        if pairing(changed) not in gone:
            return Next(advice="swap", swap=(first, second), left=left)
    return Next(advice="not the order", swap=None, left=left)


def exchanged(order: tuple[str, ...], first: int, second: int) -> tuple[str, ...]:
    """The order after two places change their leads."""
    found = list(order)
    found[first], found[second] = found[second], found[first]
    return tuple(found)
