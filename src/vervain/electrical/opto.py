"""Isolated inputs: the current through their diode, and the resistor that they want in front."""

from vervain.electrical.levels import levels_of, supply_v
from vervain.model.electrical import LogicInput, LogicOutput, Opto
from vervain.model.elements import Resistor
from vervain.model.machine import PinRef
from vervain.queries.connectivity import paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# How far a usual resistor is from its value, and the 5 V of logic from 5 V.
TOLERANCE, LOGIC_TOLERANCE = 0.05, 0.05


def diode_current_a(
    driven_v: tuple[float, float], opto: Opto, external_ohm: float
) -> tuple[float, float]:
    """The least and the most current of the diode.

    I = (V - V_F)/(R_int + R_ext), V after the output's own drop: least with the lowest V and the
    highest V_F and R, most at the opposite corner. Resistors within 5 %.
    """
    low_v, high_v = driven_v
    total = opto.resistance_ohm + external_ohm
    least = max(0.0, (low_v - opto.forward_max_v) / (total * (1 + TOLERANCE))) if total else 0.0
    if not total:
        return (float("inf") if low_v > opto.forward_max_v else 0.0), float("inf")
    most = max(0.0, (high_v - opto.forward_min_v) / (total * (1 - TOLERANCE)))
    return least, most


def resistor_window_ohm(driven_v: tuple[float, float], opto: Opto) -> tuple[float, float]:
    """The external resistances with which the diode is on for certain and survives; the second
    number below the first where there is none.
    """
    low_v, high_v = driven_v
    smallest = (high_v - opto.forward_min_v) / opto.current_max_a / (1 - TOLERANCE)
    largest = (low_v - opto.forward_max_v) / opto.current_min_a / (1 + TOLERANCE)
    return max(0.0, smallest - opto.resistance_ohm), largest - opto.resistance_ohm


def dissipation_w(driven_v: tuple[float, float], opto: Opto, external_ohm: float) -> float:
    """What the external resistor sheds at the most current: I^2 R."""
    return diode_current_a(driven_v, opto, external_ohm)[1] ** 2 * external_ohm


@query
def driven_v(queries: Queries, source: PinRef, target: PinRef) -> tuple[float, float] | None:
    """The lowest and highest voltage that an output puts across an isolated input. One whose diode
    lies at a plus of its own is on while the output is low.
    """
    pin, there = queries.pin(source), queries.pin(target)
    output = pin.electrical if pin is not None else None
    if not isinstance(output, LogicOutput):
        return None
    entry = there.electrical if there is not None else None
    if isinstance(entry, LogicInput) and entry.pull_up_v is not None:
        # The board's own plus, within what logic is fed with.
        off_v = entry.pull_up_v * LOGIC_TOLERANCE
        least_v, most_v = entry.pull_up_v - off_v, entry.pull_up_v + off_v
        return least_v - output.low_max_v, most_v - max(0.0, output.low_min_v)
    supply = supply_v(queries, source) or supply_v(queries, target)
    if output.drive == "NPN":
        return (supply[0] - output.low_max_v, supply[1]) if supply is not None else None
    levels = levels_of(output, supply)
    if levels.high_min_v is None or levels.high_max_v is None:
        return None
    return levels.high_min_v, levels.high_max_v


@query
def resistance_on_way_ohm(queries: Queries, source: PinRef, target: PinRef) -> float:
    """The resistors in line between two pins."""
    for way in paths_from(queries, target):
        if way.end != source:
            continue
        total = 0.0
        for device in {step.end.device for step in way.steps[:-1]}:
            part = queries.part_of(device)
            for element in part.inside if part and part.kind == "resistor" else ():
                if isinstance(element, Resistor):
                    total += element.resistance_ohm
        return total
    return 0.0
