"""Resistances as a meter reads them, and what they are at 20 °C."""

from vervain.model.measurements import Meter
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

COPPER_PER_K = 0.00393


def at_20_c(ohms: float, meter: Meter) -> float:
    """A reading less the meter's leads, at 20 °C: R / (1 + 0.00393 (T - 20)) for copper."""
    warm = 1 + COPPER_PER_K * (meter.motor_temperature_c - 20)
    return max(0.0, ohms - meter.leads_ohm) / warm


def meter_error_ohm(ohms: float, meter: Meter) -> float:
    """How far a reading may be off: its fraction and the meter's least step."""
    return ohms * meter.error_fraction + meter.error_ohm


@query
def coil_resistances(queries: Queries, motor: str) -> tuple[tuple[tuple[str, ...], float], ...]:
    """Each measured coil of a motor with the mean of what was read between its ends, at 20 °C."""
    device, meter = queries.device(motor), queries.meter()
    found = []
    for coil in device.coils if device else ():
        seen = [
            at_20_c(reading.resistance_ohm, meter)
            for reading in (device.readings if device else ())
            if {reading.a, reading.b} == {coil[0], coil[-1]} and reading.resistance_ohm is not None
        ]
        if seen:
            found.append((coil, sum(seen) / len(seen)))
    return tuple(found)
