"""Does a device port go into a host port: yes, yes with something, or no, and exactly why."""

from typing import Literal

from msgspec.structs import replace

from vervain.machine.electrical import FeedIn, LogicInput, LogicOutput
from vervain.machine.look import Look, query
from vervain.machine.machine import PinRef, PortRef
from vervain.machine.part import Pin, Port
from vervain.machine.reach import host_ports, occupants
from vervain.machine.record import Record
from vervain.ports.mates import Mate, hosts_of, mates_of
from vervain.power.feeds import PLUS_FUNCTIONS, sources_of
from vervain.signals.levels import Mismatch, levels_of, mismatches, reading_of, supply_v

Verdict = Literal["fits", "fits with", "does not fit"]


class Fit(Record, frozen=True, kw_only=True):
    """The answer for one host port.

    `pairs` are (device pin, host pin); empty where nothing can be joined. `needs` is what is
    missing, in a word or two; `taken_by` the devices that sit there already.
    """

    host: PortRef
    verdict: Verdict
    reason: str
    needs: str = ""
    option: tuple[str, str] | None = None
    pairs: tuple[tuple[str, str], ...] = ()
    taken_by: tuple[str, ...] = ()
    distance: int = 0

    @property
    def rank(self) -> tuple[int, bool, int, str]:
        """Sort key: the best first."""
        order = ("fits", "fits with", "does not fit")
        return order.index(self.verdict), bool(self.taken_by), self.distance, ""


@query
def fit(look: Look, device_port: PortRef, host_port: PortRef) -> Fit:
    """Whether a device port goes into a host port."""
    ours, theirs = look.port(device_port), look.port(host_port)
    if ours is None or theirs is None:
        return Fit(host=host_port, verdict="does not fit", reason="There is no such port.")
    rows = mates_of(ours.kind, theirs.kind)
    if not rows:
        wanted = " or ".join(hosts_of(ours.kind)) or "nothing"
        return Fit(
            host=host_port,
            verdict="does not fit",
            reason=f"It is for {theirs.kind}; {device_port.device} goes to {wanted}.",
        )
    mate = _row_for(look, host_port, theirs, rows)
    pairs, missing = _pairs(ours, theirs, mate)
    if missing:
        return Fit(
            host=host_port,
            verdict="does not fit",
            reason=f"It has no pin for {', '.join(missing)}.",
            pairs=pairs,
        )
    taken = tuple(
        ref.device for ref in occupants(look, host_port) if ref.device != device_port.device
    )
    found = _electrical(look, device_port, host_port, pairs)
    if found is None:
        found = Fit(host=host_port, verdict="fits", reason=_open_pins(ours, pairs), pairs=pairs)
    if taken and found.verdict != "does not fit":
        return Fit(
            host=host_port,
            verdict="does not fit",
            reason=f"{' and '.join(taken)} sits there.",
            pairs=pairs,
            taken_by=taken,
        )
    return found


def _row_for(look: Look, host_port: PortRef, theirs: Port, rows: tuple[Mate, ...]) -> Mate:
    reads = None
    for pin in theirs.pins:
        if isinstance(pin.electrical, LogicInput):
            ref = PinRef(device=host_port.device, port=host_port.port, pin=pin.id)
            reads = reading_of(look, ref, pin.electrical)
    return next((row for row in rows if row.reads in (None, reads)), rows[0])


def _pairs(ours: Port, theirs: Port, mate: Mate) -> tuple[tuple[tuple[str, str], ...], list[str]]:
    pairs: list[tuple[str, str]] = []
    missing: list[str] = []
    if mate.by_pin:
        found = tuple((pin.id, pin.id) for pin in ours.pins if theirs.pin(pin.id) is not None)
        return found, [pin.text for pin in ours.pins if theirs.pin(pin.id) is None]
    for our_function, their_function in mate.pairs:
        mine = [pin for pin in ours.pins if pin.function == our_function]
        host = next((pin for pin in theirs.pins if pin.function == their_function), None)
        for pin in mine:
            if host is not None:
                pairs.append((pin.id, host.id))
            elif our_function in mate.needed:
                missing.append(pin.text)
        if not mine and host is not None and our_function in mate.needed and not _has_phases(mate):
            missing.append(host.text)
    return tuple(pairs), list(dict.fromkeys(missing))


def _has_phases(mate: Mate) -> bool:
    """Two-phase and three-phase ports share a row: what our port has not, it does not need."""
    return mate.device == "motor phases"


def _open_pins(ours: Port, pairs: tuple[tuple[str, str], ...]) -> str:
    used = {pair[0] for pair in pairs}
    left = [pin.text for pin in ours.pins if pin.id not in used and pin.function != "shield"]
    return f"{', '.join(left)} stays open." if left else ""


def _electrical(
    look: Look, device_port: PortRef, host_port: PortRef, pairs: tuple[tuple[str, str], ...]
) -> Fit | None:
    """The first electrical reason against joining these pins; None where there is none."""
    for our_id, their_id in pairs:
        ours = PinRef(device=device_port.device, port=device_port.port, pin=our_id)
        theirs = PinRef(device=host_port.device, port=host_port.port, pin=their_id)
        mine, host = look.pin(ours), look.pin(theirs)
        if mine is None or host is None:
            continue
        if isinstance(mine.electrical, FeedIn) and mine.function in PLUS_FUNCTIONS:
            refusal = _feed_refusal(look, theirs, mine.electrical)
            if refusal:
                return Fit(host=host_port, verdict="does not fit", reason=refusal, pairs=pairs)
        for source, sink, source_pin, sink_pin in (
            (ours, theirs, mine, host),
            (theirs, ours, host, mine),
        ):
            answer = _signal_answer(look, host_port, source, sink, source_pin, sink_pin, pairs)
            if answer is not None:
                return answer
    return None


def _feed_refusal(look: Look, host_pin: PinRef, wants: FeedIn) -> str:
    for source in sources_of(look, host_pin):
        volts = source.feed.nominal_v
        if volts > wants.v_max_v:
            return f"{volts:g} V there; it takes at most {wants.v_max_v:g} V."
        if volts < wants.v_min_v:
            return f"{volts:g} V there; it needs at least {wants.v_min_v:g} V."
    return ""


def _signal_answer(
    look: Look,
    host_port: PortRef,
    source: PinRef,
    sink: PinRef,
    source_pin: Pin,
    sink_pin: Pin,
    pairs: tuple[tuple[str, str], ...],
) -> Fit | None:
    if not isinstance(source_pin.electrical, LogicOutput):
        return None
    if not isinstance(sink_pin.electrical, LogicInput):
        return None
    output, entry = source_pin.electrical, sink_pin.electrical
    supply = supply_v(look, source) or supply_v(look, sink)
    levels = levels_of(output, supply)
    found = mismatches(output, levels, entry, reading_of(look, sink, entry))
    if not found:
        return None
    if found[0].trouble == "wrong drive" and entry.reads_option and len(found) == 1:
        banked = look.part_of(sink.device)
        option = banked.option(entry.reads_option) if banked else None
        title = option.title if option else entry.reads_option
        return Fit(
            host=host_port,
            verdict="fits with",
            needs=f"{entry.reads_option} at {output.drive}",
            reason=f"{title} {output.drive}: turns the whole bank.",
            option=(entry.reads_option, output.drive),
            pairs=pairs,
        )
    worst = next((item for item in found if item.trouble == "too high"), found[0])
    reason = mismatch_words(worst, output)
    if worst.trouble == "too high":
        return Fit(
            host=host_port, verdict="fits with", needs="a divider", reason=reason, pairs=pairs
        )
    return Fit(host=host_port, verdict="does not fit", reason=reason, pairs=pairs)


def mismatch_words(mismatch: Mismatch, output: LogicOutput) -> str:
    """A mismatch of levels in one short sentence."""
    if mismatch.trouble == "wrong drive":
        return f"The input does not read {output.drive} outputs."
    value, limit = mismatch.value_v or 0.0, mismatch.limit_v or 0.0
    return {
        "too high": f"{value:.3g} V on a {limit:.3g} V pin.",
        "too low": f"{value:.3g} V on a pin that takes no less than {limit:.3g} V.",
        "high too low": f"Its high is only {value:.3g} V; the input needs {limit:.3g} V.",
        "low too high": f"Its low is up to {value:.3g} V; the input needs {limit:.3g} V or less.",
    }[mismatch.trouble]


@query
def ranked_fits(look: Look, device_port: PortRef) -> tuple[Fit, ...]:
    """The fit of a device port with every host port of the machine, the best first.

    Among equals, the port nearest to one that the same axis already uses comes first.
    """
    hosts: list[PortRef] = []
    for designator in look.devices():
        part = look.part_of(designator)
        for port in part.ports if part else ():
            if port.end == "host" and designator != device_port.device:
                hosts.append(PortRef(device=designator, port=port.id))
    near = _ports_of_same_axis(look, device_port.device)
    places = {ref: number for number, ref in enumerate(hosts)}
    found = []
    for ref in hosts:
        answer = fit(look, device_port, ref)
        gaps = [abs(places[ref] - places[other]) for other in near if other in places]
        found.append(replace(answer, distance=min(gaps, default=len(hosts))))
    return tuple(sorted(found, key=lambda answer: answer.rank))


def _ports_of_same_axis(look: Look, designator: str) -> tuple[PortRef, ...]:
    axis = look.axis_of(designator)
    found: dict[PortRef, None] = {}
    for member in axis.members if axis else ():
        part = look.part_of(member)
        for port in part.ports if part else ():
            for host in host_ports(look, PortRef(device=member, port=port.id)):
                found[host] = None
    return tuple(found)
