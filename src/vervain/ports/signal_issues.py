"""What is against a signal at a line: levels that do not suit each other, and what would bring them
together.
"""

from collections.abc import Iterator

from vervain.electrical.feeds import zero_pin_of
from vervain.electrical.levels import (
    READ_BY_CONTACTS,
    Mismatch,
    levels_of,
    mismatches,
    reading_of,
    supply_v,
)
from vervain.electrical.opto import diode_current_a, dissipation_w, driven_v, resistor_window_ohm
from vervain.electrical.pull_up import (
    PULL_DOWN_OHM,
    PULL_OHM,
    floats,
    is_held_high,
    pull_up_at,
    pull_up_window,
)
from vervain.model.base import Record
from vervain.model.electrical import FeedOut, LogicInput, LogicOutput, Opto
from vervain.model.machine import PinRef
from vervain.ports.adapters import divider_part, ohms, power_rating_w, preferred
from vervain.ports.insertions import Addition, DividerAt, PullAt, ResistorAt
from vervain.queries.machine_queries import Queries

HELD_HIGH = (
    "PNP only gives high, and this input is pulled up: NPN or push-pull would do, if it is that."
)
GIVES_HIGH_ALONE = "PNP only gives high: off, nothing there brings the line low."
Range = tuple[float, float]


class FitIssue(Record, frozen=True, kw_only=True):
    """One thing against a plug in a port: it refuses, or it needs something."""

    reason: str
    needs: str = ""
    refuses: bool = False
    of_level: bool = False
    option: tuple[str, str] | None = None
    adds: Addition | None = None


def signal_troubles(queries: Queries, source: PinRef, sink: PinRef) -> Iterator[FitIssue]:
    """What is against an output at an input, by their levels, and what it would need."""
    source_pin, sink_pin = queries.pin(source), queries.pin(sink)
    output = source_pin.electrical if source_pin else None
    entry = sink_pin.electrical if sink_pin else None
    if not isinstance(output, LogicOutput) or not isinstance(entry, LogicInput):
        return
    supply = supply_v(queries, source) or supply_v(queries, sink)
    levels = levels_of(output, supply)
    reads = reading_of(queries, sink, entry)
    found = mismatches(output, levels, entry, reads)
    if found and found[0].trouble == "wrong drive" and entry.reads_option and len(found) == 1:
        banked = queries.part_of(sink.device)
        option = banked.option(entry.reads_option) if banked else None
        title = option.title if option else entry.reads_option
        yield FitIssue(
            reason=f"{title} {output.drive}: turns the whole bank.",
            needs=f"{entry.reads_option} at {output.drive}",
            option=(entry.reads_option, output.drive),
        )
    elif found:
        worst = next((item for item in found if item.trouble == "too high"), found[0])
        reason = mismatch_words(worst, output)
        part = None
        if worst.trouble == "too high" and worst.value_v is not None:
            part = divider_part(output, worst.value_v, entry)
        zero = zero_pin_of(queries, sink, None)
        if part is None or zero is None:
            if worst.trouble == "too high":
                reason = f"{reason[:-1]}; a divider would leave too little."
            yield FitIssue(reason=reason, refuses=True, of_level=True)
        else:
            adds = DividerAt(pin=sink, zero=zero, part=part)
            yield FitIssue(reason=reason, needs="a divider", adds=adds)
    elif (
        output.drive == "PNP"
        and reads == "either"
        and entry.opto is None
        and is_held_high(queries, sink, entry.low_max_v)
    ):
        yield FitIssue(reason=HELD_HIGH, refuses=True)
    elif output.drive == "PNP" and reads == "either" and floats(queries, sink, entry):
        zero = zero_pin_of(queries, sink, None)
        if zero is not None:
            down = PullAt(pin=sink, rail=zero, resistance_ohm=PULL_DOWN_OHM)
            words = f"a pull-down of {ohms(PULL_DOWN_OHM)}"
            yield FitIssue(reason=GIVES_HIGH_ALONE, needs=words, adds=down)
    elif output.drive == "NPN" and reads == "either" and entry.opto is None:
        yield from _pull_up_trouble(queries, source, output, sink, entry)
    elif entry.opto is not None:
        yield from _opto_troubles(queries, source, sink, entry.opto)


def _plus_beside(queries: Queries, sink: PinRef, entry: LogicInput) -> tuple[PinRef, Range] | None:
    """A plus for a resistor at an input, and its volts: that of its port, else what its device
    gives elsewhere that the input bears and reads as high.
    """
    port, part = queries.port(sink.port_ref), queries.part_of(sink.device)
    voltage_v = supply_v(queries, sink)
    own = next((p.id for p in (port.pins if port else ()) if p.function == "plus"), None)
    if own is not None and voltage_v is not None and voltage_v[1] <= entry.max_v:
        return PinRef(device=sink.device, port=sink.port, pin=own), voltage_v
    given = (
        (PinRef(device=sink.device, port=other.id, pin=pin.id), pin.electrical)
        for other in (part.ports if part is not None else ())
        if other.kind == "feed out" for pin in other.pins
    )  # fmt: skip
    return next(
        (
            (at, (feed.lowest_v, feed.highest_v)) for at, feed in given if isinstance(feed, FeedOut)
            and entry.high_min_v < feed.lowest_v and feed.highest_v <= entry.max_v
        ),
        None,
    )  # fmt: skip


def _pull_up_trouble(
    queries: Queries, source: PinRef, output: LogicOutput, sink: PinRef, entry: LogicInput
) -> Iterator[FitIssue]:
    if pull_up_at(queries, sink) is not None or pull_up_at(queries, source) is not None:
        return
    found = _plus_beside(queries, sink, entry)
    reason = "An open collector pulls down only; nothing there pulls up."
    if found is None:
        yield FitIssue(reason=reason, refuses=True)
        return
    plus, voltage_v = found
    low, high = pull_up_window(
        supply_v=voltage_v, low_v=output.low_max_v, sink_a=output.current_a or 0.01,
        high_min_v=entry.high_min_v, leak_a=output.leak_a, input_a=entry.current_a,
    )  # fmt: skip
    value = preferred(max(low, 470.0), min(high, 47e3))
    if value is None:
        yield FitIssue(reason=f"{reason} No resistor would do.", refuses=True)
        return
    adds = PullAt(pin=sink, rail=plus, resistance_ohm=value)
    yield FitIssue(reason=reason, needs=f"a pull-up of {ohms(value)}", adds=adds)


def contact_troubles(queries: Queries, sink: PinRef, to_plus: bool) -> Iterator[FitIssue]:
    """What an input wants whose contact leads to plus, or to 0 V, and that nothing holds while the
    contact is open.
    """
    pin, port = queries.pin(sink), queries.port(sink.port_ref)
    entry = pin.electrical if pin is not None else None
    if not isinstance(entry, LogicInput) or not floats(queries, sink, entry):
        return
    if port is None or port.kind not in READ_BY_CONTACTS or port.kind == "stop input":
        return
    if reading_of(queries, sink, entry) != "either":
        return
    found = _plus_beside(queries, sink, entry)
    rail = zero_pin_of(queries, sink, None) if to_plus else found[0] if found is not None else None
    if rail is not None:
        words = f"a pull-{'down' if to_plus else 'up'} of {ohms(PULL_OHM)}"
        adds = PullAt(pin=sink, rail=rail, resistance_ohm=PULL_OHM)
        yield FitIssue(reason="Nothing holds it while the contact is open.", needs=words, adds=adds)


def _opto_troubles(
    queries: Queries, source: PinRef, sink: PinRef, opto: Opto
) -> Iterator[FitIssue]:
    voltage_v = driven_v(queries, source, sink)
    if voltage_v is None:
        return
    least, most = diode_current_a(voltage_v, opto, 0.0)
    if opto.current_min_a <= least and most <= opto.current_max_a:
        return
    low, high = resistor_window_ohm(voltage_v, opto)
    value = preferred(low, high) if high > max(low, 1.0) else None
    if most <= opto.current_max_a or value is None:
        reason = f"Its diode would get {least * 1000:.3g} to {most * 1000:.3g} mA."
        yield FitIssue(reason=reason, refuses=True)
        return
    watts = power_rating_w(dissipation_w(voltage_v, opto, value))
    yield FitIssue(
        reason=f"Straight, its diode would get {most * 1000:.3g} mA.",
        needs=f"{ohms(value)} in line",
        adds=ResistorAt(pin=sink, resistance_ohm=value, power_w=watts),
    )


def mismatch_words(mismatch: Mismatch, output: LogicOutput) -> str:
    """A mismatch of levels in one short sentence."""
    if mismatch.trouble == "wrong drive":
        return f"The input does not read {output.drive} outputs."
    value, limit = mismatch.value_v or 0.0, mismatch.limit_v or 0.0
    return {
        "too high": f"{value:.3g} V on a {limit:.3g} V pin.",
        "too low": f"{value:.3g} V on a pin that takes no less than {limit:.3g} V.",
        "high too low": f"Its high is only {value:.3g} V; the input needs {limit:.3g} V.",
        "current into volts": "It gives a current; the input reads volts.",
        "volts into current": "It gives volts; the input reads a current.",
        "too little left": f"At 20 mA only {value:.3g} V are left; the input needs {limit:.3g} V.",
        "low too high": f"Its low is up to {value:.3g} V, as the part says what it loses when on; "
        f"the input needs {limit:.3g} V or less.",
    }[mismatch.trouble]
