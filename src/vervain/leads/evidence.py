"""What was read between each two leads, taken together: readings that agree are one, since a pair
that is read again is no new evidence, and readings that contradict each other are weighed as what
one of them, or none, may be.
"""

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vervain.leads.hypotheses import OPEN, UNKNOWN_MULTIPLE
from vervain.leads.resistance import at_20_c
from vervain.model.measurements import Meter, Reading

# How likely one reading is a slip: of the probe, of the eye or of the finger that types it.
SLIP = 0.0015
# Windings of one motor differ by their own tolerance.
WINDING_TOLERANCE = 0.02
# Readings of one pair agree within so many standard deviations of their difference.
AGREE_SIGMAS = 4.0
# The range of resistances that windings have, in ohms.
LOWEST_OHM, HIGHEST_OHM = 0.05, 500.0
# A stray reading is seldom less than the resistance of a contact.
LEAST_STRAY_OHM = 0.3
# Coils in touch conduct by at most so many windings; with this chance they do so by a leak.
MOST_OF_A_BRIDGE, LEAK = 3.5, 0.2
LEAST_CHANCE = 1e-35
Pair = tuple[int, int]


@dataclass(frozen=True)
class Seen:
    """Readings of one pair that agree: how many, and their mean at 20 °C; None where only a beep
    was heard, infinite where it is open.
    """

    votes: int
    resistance_ohm: float | None


@dataclass(frozen=True)
class PairEvidence:
    """All that was read between two leads: what agrees with what, the most votes first."""

    pair: Pair
    seen: tuple[Seen, ...]

    @property
    def times(self) -> int:
        """How often the pair was read."""
        return sum(seen.votes for seen in self.seen)

    def log_slip(self) -> float:
        """Log of the chance that every reading of this pair was wrong."""
        return self.times * float(np.log(SLIP)) + sum(
            log_stray(s.resistance_ohm) for s in self.seen
        )


def evidence_of(
    readings: list[Reading], position: dict[str, int], meter: Meter
) -> tuple[PairEvidence, ...]:
    """The readings pair by pair, in the order in which the pairs were first read."""
    by_pair: dict[Pair, list[float | None]] = defaultdict(list)
    for reading in readings:
        a, b = sorted((position[reading.a], position[reading.b]))
        by_pair[a, b].append(ohms_of(reading, meter))
    return tuple(PairEvidence(pair, _that_agree(values, meter)) for pair, values in by_pair.items())


def ohms_of(reading: Reading, meter: Meter) -> float | None:
    """What a reading says at 20 °C: infinite where it is open, or above what the meter calls open;
    None for a beep.
    """
    if reading.saw == "beep":
        return None
    ohms = reading.resistance_ohm
    if reading.saw == "open" or ohms is None or ohms >= meter.open_above_ohm:
        return float("inf")
    return at_20_c(ohms, meter)


def _that_agree(values: list[float | None], meter: Meter) -> tuple[Seen, ...]:
    groups: list[list[float | None]] = []
    for value in values:
        for group in groups:
            if _agree(group[0], value, meter):
                group.append(value)
                break
        else:
            groups.append([value])
    groups.sort(key=len, reverse=True)
    found = []
    for group in groups:
        numbers = [value for value in group if value is not None]
        found.append(Seen(len(group), sum(numbers) / len(numbers) if numbers else None))
    return tuple(found)


def _agree(one: float | None, other: float | None, meter: Meter) -> bool:
    if one is None or other is None:
        known = other if one is None else one
        return known is None or known + meter.leads_ohm < meter.beep_below_ohm
    if np.isinf(one) or np.isinf(other):
        return one == other
    allowed = AGREE_SIGMAS * np.hypot(_meter_sigma(one, meter), _meter_sigma(other, meter))
    return bool(abs(one - other) <= allowed)


def _meter_sigma(ohms: float, meter: Meter) -> float:
    return float(np.hypot(ohms * meter.error_fraction, meter.error_ohm))


def sigma(
    ohms: NDArray[np.float64], meter: Meter, spread_ohm: NDArray[np.float64] | float = 0.0
) -> NDArray[np.float64]:
    """Standard deviation of a reading: the meter's errors, the windings' tolerance, and how far an
    explanation itself may be off.
    """
    fraction = np.hypot(meter.error_fraction, WINDING_TOLERANCE)
    return np.asarray(np.sqrt((ohms * fraction) ** 2 + meter.error_ohm**2 + spread_ohm**2))


def log_stray(ohms: float | None) -> float:
    """Log density of a reading that has nothing to do with the motor: open, or flat in the
    logarithm of the resistance.
    """
    half = float(np.log(0.5))
    if ohms is None or np.isinf(ohms):
        return half
    return half - float(np.log(max(ohms, LEAST_STRAY_OHM) * np.log(HIGHEST_OHM / LOWEST_OHM)))


def log_fits(
    evidence: PairEvidence,
    outcomes: NDArray[np.float64],
    winding_ohm: NDArray[np.float64],
    meter: Meter,
) -> NDArray[np.float64]:
    """Log of the chance of what was read of a pair, for each outcome that explanations have for it
    (rows of multiple and spread) and each resistance of a winding: shape (outcomes, resistances).
    """
    total = np.full((len(outcomes), len(winding_ohm)), LEAST_CHANCE)
    for number, seen in enumerate(evidence.seen):
        others = [other for at, other in enumerate(evidence.seen) if at != number]
        outvoted = sum(o.votes * np.log(SLIP) + log_stray(o.resistance_ohm) for o in others)
        total += np.exp(outvoted) * _chance(seen.resistance_ohm, outcomes, winding_ohm, meter)
    return np.asarray(np.log(total))


def _chance(
    ohms: float | None,
    outcomes: NDArray[np.float64],
    winding_ohm: NDArray[np.float64],
    meter: Meter,
) -> NDArray[np.float64]:
    multiple, spread = outcomes[:, :1], outcomes[:, 1:]
    is_open, is_unknown = multiple == OPEN, multiple == UNKNOWN_MULTIPLE
    expected = np.maximum(multiple, 0.0) * winding_ohm[None, :]
    wide = sigma(expected, meter, spread * winding_ohm[None, :])
    if ohms is not None and np.isinf(ohms):
        return np.where(is_open, 1.0, np.where(is_unknown, LEAK / 10, LEAST_CHANCE) + 0 * expected)
    if ohms is None:
        from scipy.special import ndtr

        sharp = ndtr((meter.beep_below_ohm - expected - meter.leads_ohm) / wide)
        unknown = np.full_like(expected, 1 - LEAK)
    else:
        sharp = np.exp(-0.5 * ((ohms - expected) / wide) ** 2) / (wide * np.sqrt(2 * np.pi))
        bridge = MOST_OF_A_BRIDGE * winding_ohm[None, :]
        leak = LEAK * np.exp(log_stray(ohms))
        unknown = np.where(ohms <= bridge + 2 * meter.error_ohm, (1 - LEAK) / bridge, 0.0) + leak
        unknown = unknown + 0 * expected
    return np.where(is_open, LEAST_CHANCE, np.where(is_unknown, unknown, sharp))
