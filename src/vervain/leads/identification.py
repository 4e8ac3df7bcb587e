"""The coil finder: from meter readings to what the leads are, and to the next best reading."""

from dataclasses import dataclass

import numpy as np

from vervain.leads.datasheet import Datasheet
from vervain.leads.evidence import Pair, PairEvidence, evidence_of, ohms_of, sigma
from vervain.leads.hypotheses import FAULTS, Catalogue, Fault, Network, catalogue
from vervain.leads.motors import datasheet_of, leads_of
from vervain.leads.next_reading import can_overturn, most_telling, outvoted, still_owed
from vervain.leads.posterior import Posterior, posterior_of
from vervain.model.measurements import ALL_LEADS, BODY, Meter, Reading
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

ENOUGH = 0.99
# Where no reading that is left would tell anything, this is enough for a sound motor: the rest of
# doubt is the scatter of the meter.
ENOUGH_AT_LAST = 0.97
# A fault is told beside a kind that may not be known where it is likelier than this.
FAR_LIKELIER = 0.9
# A reading that is further from what it should be, in standard deviations, is left out of the mean.
OUTVOTED_SIGMAS = 5.0


@dataclass(frozen=True)
class Belief:
    """An explanation with its probability."""

    network: Network
    probability: float


@dataclass(frozen=True)
class Finding:
    """Where the readings lead.

    `beliefs` are the explanations, the likeliest first; `unknown` is the probability that the
    motor is of no kind that is known; `faults` how likely each fault is, wherever it may be;
    `winding_ohm` one winding at 20 °C, None while nothing conducted; `next_pair` the most telling
    reading, None when there is none; `is_exhausted` says that no reading between two leads would
    tell anything any more; `to_body` the leads that conduct to the body.
    """

    leads: tuple[str, ...]
    beliefs: tuple[Belief, ...]
    unknown: float
    faults: dict[Fault, float]
    winding_ohm: float | None
    next_pair: tuple[str, str] | None
    is_exhausted: bool
    to_body: tuple[str, ...]

    @property
    def is_settled(self) -> bool:
        """Whether a verdict, or a fault, stands and owes no reading any more."""
        return self.next_pair is None and (self.verdict is not None or self.fault is not None)

    @property
    def verdict(self) -> Network | None:
        """The leading explanation, once it is as good as certain."""
        best = self.beliefs[0] if self.beliefs else None
        if best is None:
            return None
        at_last = self.is_exhausted and not best.network.fault
        needed = ENOUGH_AT_LAST if at_last else ENOUGH
        return best.network if best.probability >= needed else None

    @property
    def fault(self) -> str | None:
        """The fault that is as good as certain, wherever it is, or the faults that it may be."""
        if not is_broken(self.faults, self.unknown):
            return None
        whole = sum(self.faults.values())
        possible = [name for name, chance in self.faults.items() if chance > (1 - ENOUGH) * whole]
        return " or ".join(possible)

    @property
    def are_coils_known(self) -> bool:
        """Whether sound coils are settled, but for a reading against the body."""
        verdict = self.verdict
        done = self.next_pair is None or BODY in self.next_pair
        return verdict is not None and not verdict.fault and done

    def groups(self) -> tuple[tuple[str, ...], ...]:
        """The coils of the leading explanation, by the names of their leads."""
        if not self.beliefs:
            return ()
        return tuple(
            tuple(self.leads[lead] for lead in group) for group in self.beliefs[0].network.groups
        )


def is_broken(faults: dict[Fault, float], unknown: float) -> bool:
    """Whether it is as good as certain that a motor is not sound, and likely that it has a fault
    rather than that its kind is not known.
    """
    faulty = sum(faults.values())
    return 1 - faulty - unknown <= 1 - ENOUGH and faulty >= FAR_LIKELIER


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
    to_body = _to_body(leads, readings, meter)
    if not known.networks:
        return Finding(leads, (), 1.0, {}, None, None, False, to_body)
    evidence = evidence_of(inner, position, meter)
    posterior = posterior_of(known, evidence, datasheet, meter)
    order = np.argsort(-posterior.chance, kind="stable")
    beliefs = tuple(
        Belief(known.networks[posterior.places[n]], float(posterior.chance[n])) for n in order[:12]
    )
    winding = posterior.winding_ohm
    if winding is not None:
        winding = _refined(winding, known, posterior, evidence, meter)
    asked, is_exhausted = _next(known, posterior, evidence, meter)
    named = (leads[asked[0]], leads[asked[1]]) if asked else None
    faults = _faults(known, posterior)
    is_read = any(BODY in (r.a, r.b) for r in readings)
    if named is None and not is_read and not is_broken(faults, posterior.unknown):
        named = (ALL_LEADS, BODY)
    return Finding(
        leads=leads,
        beliefs=beliefs,
        unknown=posterior.unknown,
        faults=faults,
        winding_ohm=winding,
        next_pair=named,
        is_exhausted=is_exhausted,
        to_body=to_body,
    )


@query
def coils_by_readings(queries: Queries, motor: str) -> Finding | None:
    """What the readings of a motor say; None where none were taken."""
    device = queries.device(motor)
    if device is None or not device.readings:
        return None
    return find(
        leads_of(queries, motor), device.readings, datasheet_of(queries, motor), queries.meter()
    )


def _to_body(
    leads: tuple[str, ...], readings: tuple[Reading, ...], meter: Meter
) -> tuple[str, ...]:
    """The leads, or all of them together, that were seen to conduct to the body."""
    touching = [r for r in readings if BODY in (r.a, r.b) and ohms_of(r, meter) != float("inf")]
    named = {lead: None for r in touching for lead in (r.a, r.b)}
    return tuple(lead for lead in named if lead in (*leads, ALL_LEADS))


def _faults(known: Catalogue, posterior: Posterior) -> dict[Fault, float]:
    each = np.array([known.networks[place].fault for place in posterior.places])
    return {fault: float(posterior.chance[each == fault].sum()) for fault in FAULTS}


def _next(
    known: Catalogue,
    posterior: Posterior,
    evidence: tuple[PairEvidence, ...],
    meter: Meter,
) -> tuple[Pair | None, bool]:
    """The next pair to read, if any: what tells most, until an explanation has at least 0.99 and
    no single reading above 1 % can overturn it; then what that owes. Besides, whether nothing is
    left that would tell anything.
    """
    if not len(posterior.places):
        return most_telling(known, posterior, evidence, meter), False
    leader = int(posterior.chance.argmax())
    verdict = known.networks[posterior.places[leader]]
    if is_broken(_faults(known, posterior), posterior.unknown):
        return None, False
    if posterior.chance[leader] >= ENOUGH and not can_overturn(known, posterior, evidence, meter):
        doubted = outvoted(posterior, evidence)
        return doubted or still_owed(verdict, evidence), False
    telling = most_telling(known, posterior, evidence, meter)
    if telling is None and not verdict.fault and posterior.chance[leader] >= ENOUGH_AT_LAST:
        owed = still_owed(verdict, evidence)
        return owed, owed is None
    return telling, False


def _refined(
    start: float,
    known: Catalogue,
    posterior: Posterior,
    evidence: tuple[PairEvidence, ...],
    meter: Meter,
) -> float:
    """One winding at 20 °C: the weighted mean of the readings under the leading explanation, the
    outvoted ones left out.
    """
    best = known.multiples[posterior.places[int(posterior.chance.argmax())]]
    above = below = 0.0
    for each in evidence:
        multiple = float(best[each.pair])
        if not np.isfinite(multiple) or multiple <= 0.1:
            continue
        for seen in each.seen:
            if seen.resistance_ohm is None or not np.isfinite(seen.resistance_ohm):
                continue
            wide = float(sigma(np.array([multiple * start]), meter)[0])
            if abs(seen.resistance_ohm - multiple * start) > OUTVOTED_SIGMAS * wide:
                continue
            above += multiple * seen.resistance_ohm / wide**2
            below += multiple**2 / wide**2
    return above / below if below else start
