"""Resistances as a meter reads them, and what they are at 20 °C."""

from itertools import combinations
from math import ceil
from statistics import median

from vervain.model.measurements import Meter
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

COPPER_PER_K = 0.00393
# A winding within this part of what is expected agrees with it, and windings with each other.
AGREES = 0.1


def at_20_c(ohms: float, meter: Meter) -> float:
    """A reading less the meter's leads, at 20 °C: R / (1 + 0.00393 (T - 20)) for copper."""
    warm = 1 + COPPER_PER_K * (meter.motor_temperature_c - 20)
    return max(0.0, ohms - meter.leads_ohm) / warm


def meter_error_ohm(ohms: float, meter: Meter) -> float:
    """How far a reading may be off: its fraction and the meter's least step."""
    return ohms * meter.error_fraction + meter.error_ohm


def learnt_error(known_ohm: float, shown_ohm: float, meter: Meter) -> float:
    """A meter's error, as a part of a reading, from a resistor that is known: what it is off beyond
    its least step, rounded up to half a per cent; never less than half a per cent.
    """
    off = max(0.0, abs(shown_ohm - meter.leads_ohm - known_ohm) - meter.error_ohm)
    return max(1, ceil(off / known_ohm / 0.005 - 1e-9)) * 0.005


def differs(ohms: float, expected: float, meter: Meter) -> bool:
    """Whether a resistance is not what is expected: by more than 10 % and the meter's error."""
    return abs(ohms - expected) > allowed_ohm(expected, meter)


def allowed_ohm(expected: float, meter: Meter) -> float:
    """How far a resistance may be from what is expected: 10 % and the meter's error."""
    return AGREES * expected + meter_error_ohm(expected, meter)


def windings_in(coil: tuple[str, ...], is_three_terminal: bool) -> tuple[tuple[str, str], ...]:
    """The pairs of leads of one coil that read one winding each: from the tap or common, which is
    its second lead, to every other; of a motor with three leads each two.
    """
    if is_three_terminal:
        return tuple(combinations(coil, 2))
    if len(coil) == 2:
        return ((coil[0], coil[1]),)
    return tuple((coil[1], end) for end in (coil[0], *coil[2:]))


@query
def winding_resistances(queries: Queries, motor: str) -> tuple[tuple[tuple[str, str], float], ...]:
    """Each winding that was measured, by its two leads, at 20 °C; of a motor with three leads what
    each two show. A reading that others of its pair outvote is left out.
    """
    device, meter, part = queries.device(motor), queries.meter(), queries.part_of(motor)
    if device is None or part is None or part.stepper is None:
        return ()
    found = []
    for coil in device.coils:
        three = part.stepper.phases == 3 and len(coil) == 3 and len(device.coils) == 1
        for pair in windings_in(coil, three):
            seen = [
                at_20_c(reading.resistance_ohm, meter)
                for reading in device.readings
                if {reading.a, reading.b} == set(pair) and reading.resistance_ohm is not None
            ]
            if seen:
                found.append((pair, median(seen)))
    return tuple(found)
