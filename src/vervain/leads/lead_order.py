"""The lead-order fixer: from what a motor does to the next two leads to exchange.

Four leads on A+ A- B+ B- have 24 orders. They run when each coil has a bridge of its own: 8
orders, 4 each way. Which leads share a bridge can be one of three pairings, so at most two
exchanges of leads on different bridges reach a running order, and one exchange inside a bridge
turns the direction. Where the coils are known, the pairing is.
"""

from dataclasses import dataclass
from itertools import permutations
from typing import Literal

from vervain.model.measurements import Trial

TERMINALS = ("A+", "A−", "B+", "B−")
Advice = Literal[
    "try", "swap", "runs", "not the order", "check first", "check the steps", "contradiction"
]
Pairing = frozenset[frozenset[str]]
# What neither speaks for an order nor against one.
SAYS_NOTHING: dict[str, Advice] = {"turns freely": "check first", "holds still": "check the steps"}


@dataclass(frozen=True)
class Next:
    """What to do next: for the advice "swap", `swap` are two places of the current order; "try"
    is to power up and look.

    `left` is how many of the 24 orders may still be the right one; `by_coils` whether the advice
    is from coils that are known, not from what the motor did.
    """

    advice: Advice
    swap: tuple[int, int] | None
    left: int
    by_coils: bool = False


@dataclass(frozen=True)
class Truth:
    """How a motor may be: which leads are a coil, and an order in which it turns the right way."""

    pairs: Pairing
    right: tuple[str, ...]

    def does(self, order: tuple[str, ...]) -> str:
        """What such a motor does with its leads in an order."""
        if pairing(order) != self.pairs:
            return "does not run"
        return "runs" if _is_even(self.right, order) else "wrong way"


def pairing(order: tuple[str, ...]) -> Pairing:
    """Which leads share a bridge in an order on A+ A- B+ B-."""
    return frozenset((frozenset(order[:2]), frozenset(order[2:])))


def _is_even(one: tuple[str, ...], other: tuple[str, ...]) -> bool:
    """Whether two orders of one pairing turn the same way: each pair turned, and the two pairs
    against each other, turns the motor round.
    """
    turned = one[0] not in other[:2]
    first, second = (other[2:], other[:2]) if turned else (other[:2], other[2:])
    return (turned + (first[0] != one[0]) + (second[0] != one[2])) % 2 == 0


def truths_left(
    order: tuple[str, ...], trials: tuple[Trial, ...], known: Pairing | None = None
) -> list[Truth]:
    """How the motor may be after what was seen: of three pairings and two directions each; with
    known coils of one pairing.
    """
    found: list[Truth] = []
    for right in permutations(order):
        truth = Truth(pairing(right), right)
        new = not any(truth.does(right) == t.does(right) == "runs" for t in found
                      if t.pairs == truth.pairs)  # fmt: skip
        if new and (known is None or truth.pairs == known):
            found.append(truth)
    return [truth for truth in found if not _contradicted(truth, trials)]


def _contradicted(truth: Truth, trials: tuple[Trial, ...]) -> bool:
    return any(
        trial.saw not in SAYS_NOTHING and truth.does(trial.order) != trial.saw
        for trial in trials
        if len(trial.order) == len(truth.right)
    )


def orders_left(order: tuple[str, ...], truths: list[Truth]) -> int:
    """How many of the 24 orders may be the right one."""
    return sum(any(truth.does(o) == "runs" for truth in truths) for o in permutations(order))


def next_step(
    order: tuple[str, ...],
    trials: tuple[Trial, ...],
    known: Pairing | None = None,
    preferred: tuple[str, str] | None = None,
) -> Next:
    """The next exchange for a motor whose leads lie in this order on A+ A- B+ B-.

    `known` says which leads are a coil, where that was measured; `preferred` is the exchange that
    the checks advise, which is advised here too where it serves.
    """
    trials = tuple(trial for trial in trials if set(trial.order) == set(order))
    truths = truths_left(order, trials, known)
    left = orders_left(order, truths)
    last = trials[-1] if trials else None
    if last is not None and last.order == order and last.saw in SAYS_NOTHING:
        return Next(SAYS_NOTHING[last.saw], None, left)
    if not truths:
        ever_ran = any(trial.saw in ("runs", "wrong way") for trial in trials)
        return Next("contradiction" if ever_ran else "not the order", None, 0, known is not None)
    if last is not None and last.order == order and last.saw == "runs":
        return Next("runs", None, left)
    does = {truth.does(order) for truth in truths}
    if does == {"wrong way"}:
        return Next("swap", (0, 1), left)
    if does != {"does not run"}:
        return Next("try", None, left)
    swaps = [(1, 2), (1, 3)]
    if preferred is not None and set(preferred) <= set(order):
        one, other = sorted(order.index(lead) for lead in preferred)
        swaps.insert(0, (one, other))
    for first, second in swaps:
        changed = exchanged(order, first, second)
        if any(truth.does(changed) != "does not run" for truth in truths):
            return Next("swap", (first, second), left, known is not None and not trials)
    return Next("not the order", None, left)


def exchanged(order: tuple[str, ...], first: int, second: int) -> tuple[str, ...]:
    """The order after two places change their leads."""
    found = list(order)
    found[first], found[second] = found[second], found[first]
    return tuple(found)
