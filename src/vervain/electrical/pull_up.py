"""Resistors that hold a line while nothing drives it: what is there, and what would do."""

import math

from vervain.electrical.feeds import PLUS_FUNCTIONS, sources_of
from vervain.model.base import Record
from vervain.model.electrical import LogicInput
from vervain.model.elements import Resistor
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

CABLE_F_PER_M = 100e-12
INPUT_F = 50e-12
# What brings a line low that only a PNP output drives: small against the leakage of an input, large
# against what the output gives (2.4 mA at 24 V).
PULL_DOWN_OHM = 10_000.0
# What holds an input while its contact is open: 1 mA of 5 V, which cleans the contact as well.
PULL_OHM = 4700.0


class PullUp(Record, frozen=True, kw_only=True):
    """All pull-ups of a net in parallel: their resistance and the lowest and highest voltage they
    go to.
    """

    resistance_ohm: float
    low_v: float
    high_v: float


def pull_up_window(
    *,
    supply_v: tuple[float, float],
    low_v: float,
    sink_a: float,
    high_min_v: float,
    leak_a: float,
    input_a: float = 0.0,
    rise: tuple[float, float] | None = None,
) -> tuple[float, float]:
    """The smallest and the largest resistance of a pull-up, in ohm.

    R >= (Vcc_max - V_OL)/(I_sink - I_IL), so that the output can pull down;
    R <= (Vcc_min - V_IH)/(I_leak + I_IH), so that the input sees a high;
    R <= t_rise/(C ln(Vcc/(Vcc - V_IH))) with `rise` = (C in F, t_rise in s), so that it sees it in
    time. Infinite where nothing limits it. Derivation: Ohm's law and the charging of C through R.
    """
    low, high = supply_v
    smallest = (high - low_v) / (sink_a - input_a) if sink_a > input_a else math.inf
    drawn = leak_a + input_a
    largest = (low - high_min_v) / drawn if drawn > 0 else math.inf
    if low <= high_min_v:
        return smallest, 0.0
    if rise is not None:
        capacitance_f, time_s = rise
        largest = min(largest, time_s / (capacitance_f * math.log(low / (low - high_min_v))))
    return smallest, largest


@query
def pull_up_at(queries: Queries, pin: PinRef) -> PullUp | None:
    """The pull-ups on a net: resistors to a fed plus, and those that inputs on it have inside."""
    conductance = 0.0
    voltage_v: list[tuple[float, float]] = []
    for member in queries.net(pin):
        found, part = queries.pin(member), queries.part_of(member.device)
        entry = found.electrical if found else None
        if isinstance(entry, LogicInput) and entry.pull_up_ohm and entry.pull_up_v:
            conductance += 1 / entry.pull_up_ohm
            voltage_v.append((entry.pull_up_v * 0.95, entry.pull_up_v * 1.05))
        for element in part.inside if part and part.kind == "resistor" else ():
            if not isinstance(element, Resistor) or (member.port, member.pin) not in element.pins:
                continue
            far = element.pins[element.pins[0] == (member.port, member.pin)]
            other = PinRef(device=member.device, port=far[0], pin=far[1])
            if not _is_plus(queries, other):
                continue
            conductance += 1 / element.resistance_ohm
            feeds = [source.feed for source in sources_of(queries, other)]
            voltage_v += [(f.lowest_v, f.highest_v) for f in feeds]
    if not conductance or not voltage_v:
        return None
    return PullUp(
        resistance_ohm=1 / conductance,
        low_v=min(low for low, _ in voltage_v),
        high_v=max(high for _, high in voltage_v),
    )


def pull_down_ohm(queries: Queries, pin: PinRef) -> float | None:
    """The resistance of all resistors between a pin's net and a 0 V; None where none is."""
    conductance = 0.0
    for member in queries.net(pin):
        part = queries.part_of(member.device)
        for element in part.inside if part else ():
            if isinstance(element, Resistor) and (member.port, member.pin) in element.pins:
                far = element.pins[element.pins[0] == (member.port, member.pin)]
                other = PinRef(device=member.device, port=far[0], pin=far[1])
                if any(p.function == "zero" for r in queries.net(other) if (p := queries.pin(r))):
                    conductance += 1 / element.resistance_ohm
    return 1 / conductance if conductance else None


def largest_pull_down_ohm(queries: Queries, pin: PinRef, low_max_v: float) -> float | None:
    """The largest resistance to 0 V that brings a line to its low level against its pull-ups, in
    ohm; None where nothing pulls it up. Divider: R = R_up V_IL/(V_up(max) - V_IL).
    """
    there = pull_up_at(queries, pin)
    if there is None or there.high_v <= low_max_v:
        return None
    return there.resistance_ohm * low_max_v / (there.high_v - low_max_v)


def floats(queries: Queries, pin: PinRef, entry: LogicInput) -> bool:
    """Whether a line that nothing drives lies at no level: the input takes next to no current, and
    there is no resistor to either side.
    """
    takes = entry.current_a or entry.shunt_ohm or entry.termination_ohm or entry.pull_up_ohm
    if takes or entry.opto is not None or entry.isolated:
        return False
    return pull_up_at(queries, pin) is None and pull_down_ohm(queries, pin) is None


def is_held_high(queries: Queries, pin: PinRef, low_max_v: float) -> bool:
    """Whether a line that nothing drives stays above its low level: an output that only gives high
    changes nothing there.
    """
    largest, there = largest_pull_down_ohm(queries, pin, low_max_v), pull_down_ohm(queries, pin)
    return largest is not None and (there is None or there > largest)


def _is_plus(queries: Queries, pin: PinRef) -> bool:
    found = (queries.pin(member) for member in queries.net(pin))
    return any(pin.function in PLUS_FUNCTIONS for pin in found if pin is not None)
