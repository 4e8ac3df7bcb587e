"""The coil finder: from meter readings to what the leads are, and to the next best reading.

Each explanation of `explanations.catalogue` is weighed by Bayes' rule over the readings, the
winding's resistance being unknown on a grid. A reading may be a slip of the probe with a small
probability, so that one wrong reading is outvoted, not fatal.
"""

from collections import Counter
from dataclasses import dataclass
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from vervain.leads.datasheet import Datasheet
from vervain.leads.hypotheses import KIND_WORDS, Catalogue, Network, catalogue
from vervain.leads.resistance import at_20_c
from vervain.model.measurements import BODY, Meter, Reading

# Copper's temperature coefficient of resistance at 20 °C, per K.
# Prior probabilities: the kind that the part names, a fault, a slipped probe, and no known kind.
OTHER_KIND, FAULTY, SLIP, UNKNOWN = 0.003, 0.0025, 0.0015, 0.001
ENOUGH = 0.99
OVERTURNING = 0.01
# Windings of one motor differ by their own tolerance.
WINDING_TOLERANCE = 0.02
# How often one pair is asked for where the readings contradict each other.
MOST_TIMES = 3
# A winding within this part of the datasheet's resistance agrees with it.
AGREES = 0.1
# Kinds whose coils have nothing in common.
ISOLATED_KINDS = ("two coils", "two tapped coils", "three windings", "four windings")
GRID = np.geomspace(0.05, 500.0, 400)


@dataclass(frozen=True)
class Belief:
    """An explanation with its probability."""

    network: Network
    probability: float


@dataclass(frozen=True)
class Finding:
    """Where the readings lead.

    `beliefs` are the explanations, the likeliest first; `unknown` is the probability that the
    motor is of no kind that is known; `winding_ohm` one winding at 20 °C, None while nothing
    conducted; `next_pair` the most telling reading, None when it is settled; `to_body` the leads
    that conduct to the body.
    """

    leads: tuple[str, ...]
    beliefs: tuple[Belief, ...]
    unknown: float
    winding_ohm: float | None
    next_pair: tuple[str, str] | None
    to_body: tuple[str, ...]

    @property
    def is_settled(self) -> bool:
        """Whether a verdict stands and owes no reading any more."""
        return self.next_pair is None and self.verdict is not None

    @property
    def verdict(self) -> Network | None:
        """The leading explanation, once it is as good as certain."""
        best = self.beliefs[0] if self.beliefs else None
        return best.network if best and best.probability >= ENOUGH else None

    def groups(self) -> tuple[tuple[str, ...], ...]:
        """The coils of the leading explanation, by the names of their leads."""
        if not self.beliefs:
            return ()
        return tuple(
            tuple(self.leads[lead] for lead in group) for group in self.beliefs[0].network.groups
        )


def find(
    leads: tuple[str, ...],
    readings: tuple[Reading, ...],
    datasheet: Datasheet | None = None,
    meter: Meter | None = None,
) -> Finding:
    """Weighs every explanation by the readings and chooses the next reading."""
    meter = meter or Meter()
    known = catalogue(len(leads))
    position = {lead: number for number, lead in enumerate(leads)}
    inner = [r for r in readings if r.a in position and r.b in position and r.a != r.b]
    to_body = tuple(
        dict.fromkeys(
            lead
            for r in readings
            if BODY in (r.a, r.b) and r.saw != "open"
            for lead in (r.a, r.b)
            if lead in position
        )
    )
    log_each = _log_likelihoods(known, inner, position, meter)
    log_prior = np.log(_priors(known, datasheet))
    log_ohm = _log_resistance_prior(datasheet)
    joint = log_prior[:, None] + log_ohm[None, :] + log_each
    log_unknown = np.log(UNKNOWN) + sum(_log_unknown(reading) for reading in inner)
    largest = max(float(joint.max()) if joint.size else -np.inf, log_unknown)
    weights = np.exp(joint - largest)
    per_network = weights.sum(axis=1)
    unknown = float(np.exp(log_unknown - largest))
    total = float(per_network.sum()) + unknown
    posterior = per_network / total
    winding = None
    if any(reading.saw == "ohms" for reading in inner) and known.networks:
        winding = float(GRID[int(weights.sum(axis=0).argmax())])
        winding = _refined(winding, known, posterior, inner, position, meter)
    next_pair = _next_pair(known, posterior, unknown / total, inner, position, winding, meter)
    order = np.argsort(-posterior, kind="stable")[:12]
    beliefs = tuple(
        Belief(network=known.networks[n], probability=float(posterior[n])) for n in order
    )
    named = None if next_pair is None else (leads[next_pair[0]], leads[next_pair[1]])
    return Finding(
        leads=leads,
        beliefs=beliefs,
        unknown=unknown / total,
        winding_ohm=winding,
        next_pair=named,
        to_body=to_body,
    )


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
        sound = 1 - 2 * FAULTY
        values[number] = share[network.kind] * (FAULTY if network.fault else sound)
    return values * known.weights * (1 - UNKNOWN)


def _log_resistance_prior(datasheet: Datasheet | None) -> NDArray[np.float64]:
    """Flat in the logarithm; with a datasheet, most of it within a few tens of per cent."""
    flat = np.full(len(GRID), 1 / len(GRID))
    if datasheet is None or datasheet.winding_ohm is None:
        return np.asarray(np.log(flat))
    spread = np.log(GRID / datasheet.winding_ohm) / 0.15
    peak = np.exp(-0.5 * spread**2)
    return np.asarray(np.log(0.8 * peak / peak.sum() + 0.2 * flat))


def _sigma(ohms: NDArray[np.float64], meter: Meter) -> NDArray[np.float64]:
    fraction = np.hypot(meter.error_fraction, WINDING_TOLERANCE)
    return np.asarray(np.hypot(ohms * fraction, meter.error_ohm))


def _log_likelihoods(
    known: Catalogue, readings: list[Reading], position: dict[str, int], meter: Meter
) -> NDArray[np.float64]:
    """Log of the probability of the readings, shape (explanations, resistance grid)."""
    total = np.zeros((len(known.networks), len(GRID)))
    for reading in readings:
        each = known.multiples[:, position[reading.a], position[reading.b]]
        # A few values serve thousands of explanations.
        multiple, place = np.unique(each, return_inverse=True)
        conducts = np.isfinite(multiple)
        expected = np.where(conducts, multiple, 0.0)[:, None] * GRID[None, :]
        if reading.saw == "open":
            chance = np.where(conducts, SLIP, 1 - SLIP)[:, None] * np.ones_like(expected)
        elif reading.saw == "beep":
            below = conducts[:, None] & (expected + meter.leads_ohm < meter.beep_below_ohm)
            chance = np.where(below, 1 - SLIP, SLIP)
        else:
            seen = at_20_c(reading.resistance_ohm or 0.0, meter)
            sigma = _sigma(expected, meter)
            fits = np.exp(-0.5 * ((seen - expected) / sigma) ** 2) / (sigma * np.sqrt(2 * np.pi))
            stray = np.exp(_log_stray(seen))
            chance = np.where(conducts[:, None], (1 - SLIP) * fits + SLIP * stray, SLIP * stray)
        total += np.log(chance)[place]
    return total


def _log_stray(ohms: float) -> float:
    """Log density of an arbitrary resistance, flat in the logarithm over the grid's range."""
    return float(-np.log(max(ohms, 0.05)) - np.log(np.log(GRID[-1] / GRID[0])))


def _log_unknown(reading: Reading) -> float:
    if reading.saw == "ohms":
        return float(np.log(0.5)) + _log_stray(max(reading.resistance_ohm or 0.0, 0.05))
    return float(np.log(0.5))


def _refined(
    start: float,
    known: Catalogue,
    posterior: NDArray[np.float64],
    readings: list[Reading],
    position: dict[str, int],
    meter: Meter,
) -> float:
    """One winding at 20 °C: the weighted mean of the readings under the leading explanation."""
    best = known.multiples[int(posterior.argmax())]
    above = below = 0.0
    for reading in readings:
        multiple = float(best[position[reading.a], position[reading.b]])
        if reading.saw != "ohms" or not np.isfinite(multiple) or multiple <= 0.1:
            continue
        seen = at_20_c(reading.resistance_ohm or 0.0, meter)
        sigma = float(_sigma(np.array([seen]), meter)[0])
        above += multiple * seen / sigma**2
        below += multiple**2 / sigma**2
    return max(float(GRID[0]), above / below) if below else start


def _next_pair(
    known: Catalogue,
    posterior: NDArray[np.float64],
    unknown: float,
    readings: list[Reading],
    position: dict[str, int],
    winding: float | None,
    meter: Meter,
) -> tuple[int, int] | None:
    """The unread pair with the largest expected gain of information; None when it is settled:
    the leading verdict has 0.99 and no remaining reading above 1 % could overturn it.
    """
    count = known.multiples.shape[1]
    if not len(posterior):
        return None
    times = Counter(frozenset((position[r.a], position[r.b])) for r in readings)
    leader = int(posterior.argmax())
    every = list(combinations(range(count), 2))
    pairs = [pair for pair in every if not times[frozenset(pair)]]
    if not pairs and posterior[leader] < ENOUGH:
        # Everything was read and it is still open: one of the readings was a slip, or is a fault.
        pairs = [pair for pair in every if times[frozenset(pair)] < MOST_TIMES]
    if not pairs:
        return None
    best: tuple[float, tuple[int, int]] | None = None
    can_overturn = False
    for pair in pairs:
        outcome = _outcomes(known.multiples[:, pair[0], pair[1]], winding, meter)
        gain = _entropy(posterior, unknown)
        for value in np.unique(outcome):
            chance = np.where(outcome == value, 1 - SLIP, SLIP)
            after = posterior * chance
            strange = unknown / 2
            sum_after = float(after.sum()) + strange
            gain -= sum_after * _entropy(after / sum_after, strange / sum_after)
            if sum_after > OVERTURNING and int(after.argmax()) != leader:
                can_overturn = True
        if best is None or gain > best[0] + 1e-9:
            best = gain, pair
    if posterior[leader] >= ENOUGH and not can_overturn:
        return _still_to_measure(known.networks[leader], pairs, readings, position)
    return best[1] if best else None


def _still_to_measure(
    verdict: Network,
    pairs: list[tuple[int, int]],
    readings: list[Reading],
    position: dict[str, int],
) -> tuple[int, int] | None:
    """What a verdict still owes: a resistance of each coil, then one reading between coils."""
    measured = {frozenset((position[r.a], position[r.b])) for r in readings if r.saw != "open"}
    isolated = {frozenset((position[r.a], position[r.b])) for r in readings if r.saw == "open"}
    for group in verdict.groups:
        inside = [frozenset(pair) for pair in combinations(group, 2)]
        if not any(pair in measured for pair in inside):
            return next((pair for pair in pairs if frozenset(pair) in inside), None)
    if verdict.kind in ISOLATED_KINDS:
        between = [
            frozenset(pair)
            for one, other in combinations(verdict.groups, 2)
            for pair in product(one, other)
        ]
        if not any(pair in isolated for pair in between):
            return next((pair for pair in pairs if frozenset(pair) in between), None)
    return None


def _outcomes(
    multiple: NDArray[np.float64], winding: float | None, meter: Meter
) -> NDArray[np.float64]:
    """What the meter would show, in classes that it can tell apart: open is -1, else the multiple;
    until one winding's resistance is known, all that conducts is one class.
    """
    if winding is None:
        return np.where(np.isfinite(multiple), 1.0, -1.0)
    blur = 3 * float(_sigma(np.array([winding]), meter)[0]) / winding
    step = max(0.3, blur)
    rounded = np.round(np.where(np.isfinite(multiple), multiple, 0.0) / step) * step
    return np.where(np.isfinite(multiple), rounded, -1.0)


def _entropy(posterior: NDArray[np.float64], unknown: float) -> float:
    values = np.append(posterior, unknown)
    values = values[values > 0]
    return float(-(values * np.log(values)).sum())


def hypotheses_in_words(finding: Finding) -> list[tuple[str, float]]:
    """The surviving explanations as (words, probability), the likeliest first."""
    kinds = {belief.network.kind for belief in finding.beliefs if belief.probability > 0.001}
    rows = []
    for belief in finding.beliefs:
        network = belief.network
        if belief.probability <= 0.001:
            continue
        coils = ", ".join("–".join(finding.leads[n] for n in group) for group in network.groups)
        fault = f"; {network.fault}" if network.fault else ""
        kind = f"{KIND_WORDS[network.kind]}: " if len(kinds) > 1 else ""
        rows.append((f"{kind}{coils}{fault}", belief.probability))
    if finding.unknown > 0.01:
        rows.append(("no kind that Vervain knows", finding.unknown))
    return sorted(rows, key=lambda row: -row[1])


def conclusions(finding: Finding, datasheet: Datasheet | None) -> list[str]:
    """What the readings mean for the builder, a sentence each."""
    said = []
    if finding.to_body:
        leads = " and ".join(finding.to_body)
        said.append(f"{leads} conducts to the body: do not power this motor.")
    verdict = finding.verdict
    if verdict is None:
        if finding.unknown > 0.5:
            said.append("The readings fit no kind of motor that Vervain knows. Read once more.")
        return [*said, "Not certain yet: read on."]
    coils = ", ".join("–".join(group) for group in finding.groups())
    said.append(f"{KIND_WORDS[verdict.kind].capitalize()}: {coils}.")
    if verdict.fault:
        said.append(f"A fault, {verdict.fault}: the motor cannot be used like this.")
    ohms = finding.winding_ohm
    if ohms is not None:
        if verdict.kind == "three-phase":
            # Between two of three terminals: R_tt = 2 R in star, 2/3 R in delta.
            said.append(
                f"Between two leads {ohms:.3g} Ω at 20 °C: a winding of {ohms / 2:.3g} Ω if it is "
                f"a star, {ohms * 1.5:.3g} Ω if a delta, which three leads cannot tell."
            )
        else:
            said.append(f"One winding has {ohms:.3g} Ω at 20 °C.")
        if datasheet is not None and datasheet.winding_ohm:
            off = ohms / datasheet.winding_ohm - 1
            agrees = "agrees with" if abs(off) <= AGREES else f"is {off:+.0%} off"
            said.append(f"That {agrees} the datasheet's {datasheet.winding_ohm:.3g} Ω.")
    if verdict.kind == "four windings":
        said.append(
            "Which two windings share a phase, and their polarity, cannot be told by ohms: join "
            "two in series, turn the shaft, read AC volts: twice one winding, same phase, aiding; "
            "about none, same phase, opposing; 1.4 times, different phases."
        )
    if verdict.kind == "common":
        said.append("Which two ends form a phase, ohms cannot tell.")
    return said
