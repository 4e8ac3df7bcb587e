"""Whether an output is understood, and survived, by the input it is joined to."""

from collections.abc import Iterator
from typing import Literal

from vervain.electrical.feeds import PLUS_FUNCTIONS, main_feed_pin, sources_of
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput, Reading
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# The full scale of a current loop (IEC 60381-1).
LOOP_FULL_A = 0.02
# Ports whose inputs read contacts.
READ_BY_CONTACTS = ("digital input", "stop input")
Trouble = Literal[
    "too high", "too low", "high too low", "low too high", "wrong drive",
    "current into volts", "volts into current", "too little left",
]  # fmt: skip


class Levels(Record, frozen=True, kw_only=True):
    """What an output gives, in V: highest and lowest high level, highest low level.

    None where the part does not say and the supply is not known.
    """

    high_max_v: float | None
    high_min_v: float | None
    low_max_v: float


class Mismatch(Record, frozen=True, kw_only=True):
    """One way in which an output does not suit an input: the value and the limit in V."""

    trouble: Trouble
    value_v: float | None = None
    limit_v: float | None = None


def supply_v(queries: Queries, pin: PinRef) -> tuple[float, float] | None:
    """Lowest and highest supply voltage at the plus pin of a pin's own port, by the sources; of
    what a sensor gives at a plug without one, that of its feed, or the least that it works with.
    """
    part, port = queries.part_of(pin.device), queries.port(pin.port_ref)
    pluses = [other.id for other in (port.pins if port else ()) if other.function in PLUS_FUNCTIONS]
    at = [PinRef(device=pin.device, port=pin.port, pin=plus) for plus in pluses]
    own = main_feed_pin(queries, pin.device) if part is not None and part.kind == "sensor" else None
    if not pluses and own is not None:
        at = [own]
    for plus in at:
        sources = sources_of(queries, plus)
        if sources:
            lows = [s.feed.lowest_v for s in sources]
            highs = [s.feed.highest_v for s in sources]
            return min(lows), max(highs)
    there = queries.pin(own) if own is not None and not pluses else None
    feed = there.electrical if there is not None else None
    least_v = (feed.v_min_v or feed.nominal_v or 0.0) if isinstance(feed, FeedIn) else 0.0
    return (least_v, least_v) if least_v else None


def levels_of(output: LogicOutput, supply: tuple[float, float] | None) -> Levels:
    """The levels of an output; one that follows its supply gives supply less its drop."""
    high_max, high_min = output.high_max_v, output.high_min_v
    if high_max is None and supply is not None and output.drive != "NPN":
        high_max, high_min = supply[1], supply[0] - output.drop_v
    return Levels(high_max_v=high_max, high_min_v=high_min, low_max_v=output.low_max_v)


def reading_of(queries: Queries, pin: PinRef, entry: LogicInput) -> Reading:
    """Whether an input reads NPN, PNP or either, as its jumper stands."""
    if entry.reads_option is None:
        return entry.reads
    value = queries.setting(pin.device, entry.reads_option)
    return "NPN" if value == "NPN" else "PNP" if value == "PNP" else "either"


def mismatches(
    output: LogicOutput, levels: Levels, entry: LogicInput, reads: Reading
) -> list[Mismatch]:
    """Every way in which an output does not suit an input.

    V_OH(max) <= V_in(max); V_OH(min) >= V_IH(min) unless only the pull-up makes the high;
    V_OL(max) <= V_IL(max) unless only the pull-down makes the low; V_OL(min) >= V_in(min). The
    diode of an isolated input goes by its current instead, see `vervain.electrical.opto`; so do
    loops of 4 to 20 mA: what the supply has less what input and transmitter lose must not be
    negative at 20 mA.
    """
    if output.drive == "current" or entry.shunt_ohm is not None:
        return list(_loop_mismatches(output, levels, entry))
    found: list[Mismatch] = []
    if output.drive in ("NPN", "PNP") and reads != "either" and output.drive != reads:
        found.append(Mismatch(trouble="wrong drive"))
    if entry.opto is not None:
        return found
    if levels.high_max_v is not None and levels.high_max_v > entry.max_v:
        found.append(Mismatch(trouble="too high", value_v=levels.high_max_v, limit_v=entry.max_v))
    made_high = levels.high_min_v if output.drive != "NPN" else None
    if made_high is not None and made_high < entry.high_min_v:
        found.append(
            Mismatch(trouble="high too low", value_v=levels.high_min_v, limit_v=entry.high_min_v)
        )
    if output.drive != "PNP" and levels.low_max_v > entry.low_max_v:
        found.append(
            Mismatch(trouble="low too high", value_v=levels.low_max_v, limit_v=entry.low_max_v)
        )
    if output.low_min_v < entry.min_v:
        found.append(Mismatch(trouble="too low", value_v=output.low_min_v, limit_v=entry.min_v))
    return found


def _loop_mismatches(output: LogicOutput, levels: Levels, entry: LogicInput) -> Iterator[Mismatch]:
    """Why a current is not read, or volts come where a current is read."""
    if entry.shunt_ohm is None:
        yield Mismatch(trouble="current into volts", value_v=levels.high_max_v, limit_v=entry.max_v)
    elif output.drive != "current":
        yield Mismatch(trouble="volts into current", value_v=levels.high_max_v, limit_v=entry.max_v)
    else:
        needed_v = LOOP_FULL_A * entry.shunt_ohm
        left_v = levels.high_min_v
        if left_v is not None and left_v < needed_v:
            yield Mismatch(trouble="too little left", value_v=left_v, limit_v=needed_v)


@query
def inputs_driven_by(queries: Queries, output: PinRef) -> tuple[PinRef, ...]:
    """The input pins on the net of an output pin."""
    return tuple(
        ref
        for ref in queries.net(output)
        if ref != output
        and (pin := queries.pin(ref)) is not None
        and isinstance(pin.electrical, LogicInput)
    )


def driving_outputs(queries: Queries, device: str) -> Iterator[tuple[PinRef, LogicOutput]]:
    """The signal outputs of a device."""
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            if isinstance(pin.electrical, LogicOutput):
                yield PinRef(device=device, port=port.id, pin=pin.id), pin.electrical
