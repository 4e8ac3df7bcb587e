"""Which two leads to probe next: what tells most; then what a verdict still owes."""

from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from vervain.leads.evidence import SLIP, Pair, PairEvidence, sigma
from vervain.leads.hypotheses import ISOLATED_KINDS, OPEN, SHORT, Catalogue, Network
from vervain.leads.posterior import Posterior
from vervain.model.measurements import Meter

OVERTURNING = 0.01
# A reading that is misread with more than this chance is asked for again.
OUTVOTED = 0.5
# How often one pair is asked for where the readings contradict each other.
MOST_TIMES = 3
# A reading that would tell less than this, in nats, is not worth the way.
LEAST_GAIN = 1e-4


def most_telling(
    known: Catalogue,
    posterior: Posterior,
    evidence: tuple[PairEvidence, ...],
    meter: Meter,
) -> Pair | None:
    """The reading with the largest expected gain of information: of a pair that was not read, or
    again of one that may have been misread. None where nothing would tell anything.
    """
    best: tuple[float, Pair] | None = None
    for pair in unread(known, evidence):
        gain = _gain(posterior, _unread_outcomes(known, posterior, pair, meter))
        if best is None or gain > best[0] + 1e-9:
            best = gain, pair
    for number, each in enumerate(evidence):
        if each.times < MOST_TIMES:
            slipped = posterior.slipped[:, number]
            gain = _gain(posterior, [(1 - slipped, 0.5), (slipped, 0.5)])
            if best is None or gain > best[0] + 1e-9:
                best = gain, each.pair
    return best[1] if best is not None and best[0] > LEAST_GAIN else None


def unread(known: Catalogue, evidence: tuple[PairEvidence, ...]) -> list[Pair]:
    """The pairs of leads that were not read yet."""
    read = {each.pair for each in evidence}
    return [pair for pair in combinations(range(known.multiples.shape[1]), 2) if pair not in read]


def can_overturn(
    known: Catalogue,
    posterior: Posterior,
    evidence: tuple[PairEvidence, ...],
    meter: Meter,
) -> bool:
    """Whether one reading that is left, with a chance above 1 %, could make another explanation
    the likeliest.
    """
    leader = int(posterior.chance.argmax())
    for pair in unread(known, evidence):
        for share, strange in _unread_outcomes(known, posterior, pair, meter):
            after = posterior.chance * share
            total = float(after.sum()) + posterior.unknown * strange
            if total > OVERTURNING and int(after.argmax()) != leader:
                return True
    return False


def outvoted(posterior: Posterior, evidence: tuple[PairEvidence, ...]) -> Pair | None:
    """A pair whose only reading speaks against what is likeliest, to be read again."""
    leader = int(posterior.chance.argmax())
    for number, each in enumerate(evidence):
        if each.times == 1 and posterior.slipped[leader, number] > OUTVOTED:
            return each.pair
    return None


def still_owed(verdict: Network, evidence: tuple[PairEvidence, ...]) -> Pair | None:
    """What a sound verdict still owes: each winding read by itself, a tapped coil from end to end
    (with half of it dead, an end looks like the tap), and one reading between each two coils. None
    where all is read.
    """
    conducts = {each.pair for each in evidence if each.seen[0].resistance_ohm != float("inf")}
    is_open = {each.pair for each in evidence} - conducts
    ends = [[_pair(group[0], group[2])] for group in verdict.groups if len(group) == 3]
    tapped = ends if verdict.kind == "two tapped coils" else []
    for wanted in (*_single_windings(verdict), *tapped):
        if not conducts & set(wanted):
            return wanted[0]
    if verdict.kind in ISOLATED_KINDS:
        for one, other in combinations(verdict.groups, 2):
            between = [_pair(a, b) for a, b in product(one, other)]
            if not is_open & set(between):
                return between[0]
    return None


def _single_windings(verdict: Network) -> list[list[Pair]]:
    """For each winding the pairs that read it alone; for three leads every pair."""
    if verdict.kind == "three-phase":
        return [[pair] for pair in combinations(range(3), 2)]
    joined = {}
    for a, b, ohms in verdict.edges:
        if ohms == SHORT:
            joined[a] = joined[b] = (a, b)
    return [
        [_pair(x, y) for x, y in product(joined.get(a, (a,)), joined.get(b, (b,)))]
        for a, b, ohms in verdict.edges
        if ohms != SHORT
    ]


def _pair(a: int, b: int) -> Pair:
    return (a, b) if a < b else (b, a)


def _unread_outcomes(
    known: Catalogue, posterior: Posterior, pair: Pair, meter: Meter
) -> list[tuple[NDArray[np.float64], float]]:
    """The outcomes that a meter could tell apart: the chance of each given every explanation, and
    given that the motor is of no known kind.
    """
    multiples, place = known.outcomes[pair]
    multiple = multiples[place[posterior.places], 0]
    classes = _told_apart(multiple, posterior.winding_ohm, meter)
    values = np.unique(classes)
    return [(np.where(classes == value, 1 - SLIP, SLIP), 0.5) for value in values]


def _told_apart(
    multiple: NDArray[np.float64], winding: float | None, meter: Meter
) -> NDArray[np.float64]:
    """Classes of multiples; until one winding's resistance is known, all that conducts is one."""
    if winding is None:
        return np.where(multiple == OPEN, OPEN, 1.0)
    blur = 3 * float(sigma(np.array([winding]), meter)[0]) / winding
    step = max(0.3, blur)
    return np.where(multiple >= 0, np.round(multiple / step) * step, multiple)


def _gain(posterior: Posterior, outcomes: list[tuple[NDArray[np.float64], float]]) -> float:
    """How much the entropy over the explanations falls in the mean, in nats."""
    gain = _entropy(posterior.chance, posterior.unknown)
    for share, strange in outcomes:
        after, unknown = posterior.chance * share, posterior.unknown * strange
        total = float(after.sum()) + unknown
        if total > 0:
            gain -= total * _entropy(after / total, unknown / total)
    return gain


def _entropy(chance: NDArray[np.float64], unknown: float) -> float:
    values = np.append(chance, unknown)
    values = values[values > 0]
    return float(-(values * np.log(values)).sum())
