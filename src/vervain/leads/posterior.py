"""Bayes' rule over the explanations of a motor's leads: how likely each is after what was read.

The resistance of a winding is unknown, on a grid. A few pairs may have been misread altogether; how
few is assumed, so that an explanation against which many readings speak is none.
"""

from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from vervain.leads.datasheet import Datasheet
from vervain.leads.evidence import (
    HIGHEST_OHM,
    LOWEST_OHM,
    MOST_OF_A_BRIDGE,
    PairEvidence,
    log_fits,
    log_stray,
)
from vervain.leads.hypotheses import OPEN, Catalogue
from vervain.model.measurements import Meter

# Prior probabilities: of a kind other than the part names, of each fault, and of no known kind,
# which is less where the part names a known one.
OTHER_KIND, FAULTY, UNKNOWN, UNKNOWN_BESIDE_A_KIND = 0.003, 0.0025, 0.001, 0.0001
# The least step of the grid of resistances, as a part of them: about a winding's tolerance.
LEAST_STEP = 0.03
# A meter may be worse than it is said to be: its error then, and the chance of that.
WORSE_METERS = ((0.05, 0.02), (0.1, 0.005))
# So many pairs may have been misread.
MOST_SLIPS = 2
# Explanations less likely than this are not followed any further.
LEAST_LIKELY = 1e-7
LEAST_WEIGHT = 1e-300


@dataclass(frozen=True)
class Posterior:
    """The explanations that are left, by their places in the catalogue.

    `chance` is the probability of each; `slipped` the chance, given an explanation, that a pair was
    misread altogether, shape (explanations, pairs of the evidence); `winding_ohm` the likeliest
    resistance of one winding, None while nothing conducted; `unknown` the probability that the
    motor is of no kind that is known.
    """

    places: NDArray[np.intp]
    chance: NDArray[np.float64]
    slipped: NDArray[np.float64]
    winding_ohm: float | None
    unknown: float


def posterior_of(
    known: Catalogue,
    evidence: tuple[PairEvidence, ...],
    datasheet: Datasheet | None,
    meter: Meter,
) -> Posterior:
    """Weighs every explanation by what was read."""
    left = _worth_weighing(known, evidence)
    prior = _priors(known, datasheet)[left]
    first, alike = _alike(known, evidence, left)
    together = np.bincount(alike, prior)
    weighed = [
        _weigh(known, evidence, left[first], as_it_is, datasheet, np.log(together * share))
        for as_it_is, share in _meters(meter)
    ]
    log_unknown = float(np.log(_unknown_prior(known, datasheet)))
    log_unknown += sum(log_stray(each.seen[0].resistance_ohm) for each in evidence)
    largest = max([log_unknown, *(float(each.log_joint.max()) for each in weighed)])
    weights = [np.exp(each.log_joint - largest) for each in weighed]
    whole = np.sum([weight.sum(axis=1) for weight in weights], axis=0)
    each_weight = whole[alike] * prior / together[alike]
    unknown = float(np.exp(log_unknown - largest))
    total = float(each_weight.sum()) + unknown
    kept = np.flatnonzero(each_weight > LEAST_LIKELY * total)
    slipped = np.sum(
        [_slipped(one.ratios, weight) for one, weight in zip(weighed, weights, strict=True)], axis=0
    )
    winding = None
    if len(kept) and _ohms_in(evidence):
        likeliest = max(range(len(weights)), key=lambda number: float(weights[number].sum()))
        winding = float(weighed[likeliest].grid[weights[likeliest].sum(axis=0).argmax()])
    return Posterior(
        places=left[kept],
        chance=each_weight[kept] / total,
        slipped=(slipped / np.maximum(whole, LEAST_WEIGHT)[:, None])[alike[kept]],
        winding_ohm=winding,
        unknown=unknown / total,
    )


@dataclass(frozen=True)
class _Weighed:
    """With one error of the meter: the log of the joint probability of explanations and of the
    resistances of the grid, and for each pair how much likelier a slip is than what was read.
    """

    grid: NDArray[np.float64]
    log_joint: NDArray[np.float64]
    ratios: list[NDArray[np.float64]]


def _meters(meter: Meter) -> list[tuple[Meter, float]]:
    """The meter as it is said to be, and as it may be: worse, with the chance of that."""
    worse = [(error, chance) for error, chance in WORSE_METERS if error > meter.error_fraction]
    said = 1 - sum(chance for _, chance in worse)
    return [(meter, said), *((replace(meter, error_fraction=e), chance) for e, chance in worse)]


def _worth_weighing(known: Catalogue, evidence: tuple[PairEvidence, ...]) -> NDArray[np.intp]:
    """The explanations against which not many more pairs speak than against the best: a pair that
    should conduct and was open, or the other way round.
    """
    against = np.zeros(len(known.networks), dtype=np.intp)
    for each in evidence:
        if len(each.seen) == 1:
            outcomes, place = known.outcomes[each.pair]
            says_open = outcomes[place, 0] == OPEN
            against += says_open != (each.seen[0].resistance_ohm == np.inf)
    return np.flatnonzero(against <= against.min() + MOST_SLIPS)


def _alike(
    known: Catalogue, evidence: tuple[PairEvidence, ...], left: NDArray[np.intp]
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Explanations that say the same of all that was read are weighed as one: the first of each
    kind, and for each explanation which kind it is of.
    """
    first, alike = np.zeros(1, dtype=np.intp), np.zeros(len(left), dtype=np.intp)
    for each in evidence:
        outcomes, place = known.outcomes[each.pair]
        code = alike * len(outcomes) + place[left]
        _, first, alike = np.unique(code, return_index=True, return_inverse=True)
    return first, alike.reshape(-1)


def _weigh(
    known: Catalogue,
    evidence: tuple[PairEvidence, ...],
    left: NDArray[np.intp],
    meter: Meter,
    datasheet: Datasheet | None,
    log_prior: NDArray[np.float64],
) -> _Weighed:
    grid = _grid(evidence, meter)
    log_joint = log_prior[:, None] + _log_ohm_prior(grid, datasheet)[None, :]
    ratios: list[NDArray[np.float64]] = []
    one: NDArray[np.float64] | float = 0.0
    squares: NDArray[np.float64] | float = 0.0
    for each in evidence:
        outcomes, place = known.outcomes[each.pair]
        table = log_fits(each, outcomes, grid, meter)
        ratio = np.exp(each.log_slip() - table)
        log_joint = log_joint + table[place[left]]
        one = one + ratio[place[left]]
        squares = squares + (ratio**2)[place[left]]
        ratios.append(ratio[place[left]])
    # No pair misread, one of them, or two: 1 + e1 + e2, with e2 from e1 and the squares.
    two = np.maximum(0.0, (one**2 - squares) / 2)
    return _Weighed(grid, log_joint + np.log(1 + one + two), ratios)


def _ohms_in(evidence: tuple[PairEvidence, ...]) -> list[float]:
    """The resistances that were read."""
    every = [seen.resistance_ohm for each in evidence for seen in each.seen]
    return [ohms for ohms in every if ohms is not None and np.isfinite(ohms)]


def _grid(evidence: tuple[PairEvidence, ...], meter: Meter) -> NDArray[np.float64]:
    """The resistances of a winding that the readings leave open."""
    inside = [ohms for ohms in _ohms_in(evidence) if ohms <= HIGHEST_OHM]
    low, high, step = LOWEST_OHM, HIGHEST_OHM, 0.15
    if inside:
        # A reading is from about a twentieth of a winding to what a bridge between two shows.
        low = max(low, min(inside) / (2 * MOST_OF_A_BRIDGE))
        high = min(high, max(max(inside), low) * 20)
        step = max(LEAST_STEP, meter.error_fraction)
    return np.exp(np.arange(np.log(low), np.log(high) + step, step))


def _slipped(
    ratios: list[NDArray[np.float64]], weights: NDArray[np.float64]
) -> NDArray[np.float64]:
    """How much of the weight of each explanation has each pair misread."""
    found = np.zeros((len(weights), len(ratios)))
    if not ratios:
        return found
    one = np.sum(ratios, axis=0)
    squares = np.sum([ratio**2 for ratio in ratios], axis=0)
    whole = 1 + one + np.maximum(0.0, (one**2 - squares) / 2)
    for number, ratio in enumerate(ratios):
        share = ratio * (1 + np.maximum(0.0, one - ratio)) / whole
        found[:, number] = (share * weights).sum(axis=1)
    return found


def _unknown_prior(known: Catalogue, datasheet: Datasheet | None) -> float:
    kinds = {network.kind for network in known.networks}
    return UNKNOWN_BESIDE_A_KIND if datasheet and datasheet.kind in kinds else UNKNOWN


def _priors(known: Catalogue, datasheet: Datasheet | None) -> NDArray[np.float64]:
    kinds = list(dict.fromkeys(network.kind for network in known.networks))
    said = datasheet.kind if datasheet and datasheet.kind in kinds else None
    share = {}
    for kind in kinds:
        if said is None:
            share[kind] = 1 / len(kinds)
        else:
            others = OTHER_KIND * (len(kinds) - 1)
            share[kind] = 1 - others if kind == said else OTHER_KIND
    values = np.empty(len(known.networks))
    for number, network in enumerate(known.networks):
        values[number] = share[network.kind] * (FAULTY if network.fault else 1 - 3 * FAULTY)
    return np.asarray(values * known.weights)


def _log_ohm_prior(grid: NDArray[np.float64], datasheet: Datasheet | None) -> NDArray[np.float64]:
    """Flat in the logarithm; with a datasheet, most of it within a few tens of per cent."""
    width = float(np.log(grid[1] / grid[0]))
    flat = np.full(len(grid), width / np.log(HIGHEST_OHM / LOWEST_OHM))
    if datasheet is None or datasheet.winding_ohm is None:
        return np.asarray(np.log(flat))
    deviation = np.log(grid / datasheet.winding_ohm) / 0.15
    peak = np.exp(-0.5 * deviation**2) * width / (0.15 * np.sqrt(2 * np.pi))
    return np.asarray(np.log(0.8 * peak + 0.2 * flat))
