"""Rules about signal lines: differential pairs, terminations, feeding back, isolation."""

from collections.abc import Iterator

from vervain.electrical.feeds import sources_of, zero_pin_of
from vervain.electrical.levels import driving_outputs, inputs_driven_by, levels_of, supply_v
from vervain.harness.lengths import cable_length_m
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput
from vervain.model.machine import PinRef
from vervain.queries.connectivity import paths_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about, about_port
from vervain.rules.rule import RuleOutput, rule
from vervain.text.units import in_length

COMPLEMENTS = ("encoder A-", "encoder B-", "encoder Z-")


@rule(
    id="signals.complement",
    consequence="Damage",
    scope="device",
    title="A complement line is joined to something else",
    reason="A differential encoder drives A− as hard as A. Into an input for one line it stays "
    "open, insulated singly; on 0 V or on a supply its driver burns.",
    source="RS-422 (TIA/EIA-422): both lines of a pair are driven.",
)
def complement(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            if pin.function not in COMPLEMENTS or not isinstance(pin.electrical, LogicOutput):
                continue
            for way in paths_from(queries, PinRef(device=device, port=port.id, pin=pin.id)):
                there = queries.pin(way.end) if way.lands else None
                if there is None or there.function == pin.function:
                    continue
                is_signal = isinstance(there.electrical, LogicInput)
                yield RuleOutput(
                    f"{pin.text} of {device} is joined to {there.text} of {way.end.device} "
                    f"{way.end.port}; it stays open.",
                    (about(device), about(way.end)),
                    detail=pin.id,
                    consequence="Unreliable" if is_signal else None,
                )


@rule(
    id="signals.single-into-differential",
    consequence="Unreliable",
    scope="device",
    title="A single line goes into an input for two",
    reason="The input compares both lines. With the second one open or at 0 V it does not switch "
    "in the middle of the swing; it wants half the swing there, and no terminating resistor.",
    source="RS-422 receivers: the difference decides; bias at half the swing.",
)
def single_into_differential(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, _ in driving_outputs(queries, device):
        pin = queries.pin(ref)
        if pin is None or not pin.function.startswith("encoder") or pin.function in COMPLEMENTS:
            continue
        ours = queries.port(ref.port_ref)
        if ours is None or any(other.function == f"{pin.function}-" for other in ours.pins):
            continue
        for target in inputs_driven_by(queries, ref):
            theirs = queries.port(target.port_ref)
            minus = next(
                (p for p in (theirs.pins if theirs else ()) if p.function == f"{pin.function}-"),
                None,
            )
            if minus is None:
                continue
            second = PinRef(device=target.device, port=target.port, pin=minus.id)
            beside = [queries.part_of(member.device) for member in queries.net(second)]
            bias = [found for found in beside if found is not None and found.kind == "resistor"]
            if len(bias) < 2:
                yield RuleOutput(
                    f"{device} sends one line to {target.device} {target.port}; {minus.text} there "
                    "has no bias.",
                    (about(device), about(second)),
                    at=(about_port(target),),
                    detail=minus.id,
                )


@rule(
    id="signals.termination",
    consequence="Unreliable",
    scope="device",
    title="A pair is terminated twice, or not at all",
    reason="A long pair wants its resistance once, at the receiver: without it edges come back and "
    "are counted, with two the driver does not reach its levels.",
    source="RS-422 (TIA/EIA-422): one termination of about 100 to 120 ohm, at the far end.",
)
def termination(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, _ in driving_outputs(queries, device):
        pin, ours = queries.pin(ref), queries.port(ref.port_ref)
        if pin is None or ours is None or not pin.function.startswith("encoder"):
            continue
        if not any(other.function == f"{pin.function}-" for other in ours.pins):
            continue
        inputs = [
            (target, found.electrical)
            for target in inputs_driven_by(queries, ref)
            if (found := queries.pin(target)) is not None
            and isinstance(found.electrical, LogicInput)
        ]
        differential = [
            (target, entry)
            for target, entry in inputs
            if (port := queries.port(target.port_ref))
            and any(p.function == f"{pin.function}-" for p in port.pins)
        ]
        ends = [target for target, entry in differential if entry.termination_ohm]
        if differential and len(ends) != 1:
            many = "nowhere" if not ends else f"{len(ends)} times"
            yield RuleOutput(
                f"The pair {pin.text} of {device} is terminated {many}.",
                (about(ref), *(about(target) for target, _ in differential)),
                detail=pin.id,
            )


@rule(
    id="signals.back-feed",
    consequence="Unreliable",
    scope="device",
    title="An output drives an input whose supply may be off",
    reason="With its own supply off, an input is fed through its protection by the signal: the "
    "other board half starts, or its input is worn out.",
    source="The input's own limit while it is off; both supplies can be switched singly.",
)
def back_feed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, output in driving_outputs(queries, device):
        if output.drive == "NPN":
            continue
        levels = levels_of(output, supply_v(queries, ref))
        for target in inputs_driven_by(queries, ref):
            pin = queries.pin(target)
            entry = pin.electrical if pin else None
            if not isinstance(entry, LogicInput) or entry.off_max_v is None:
                continue
            ours, theirs = _fed_by(queries, device), _fed_by(queries, target.device)
            if not ours or not theirs or ours & theirs or levels.high_max_v is None:
                continue
            if levels.high_max_v > entry.off_max_v:
                yield RuleOutput(
                    f"{device} is fed by {min(ours)}, {target.device} by {min(theirs)}: with "
                    f"{min(theirs)} off, {levels.high_max_v:.3g} V reaches {target.port}.",
                    (about(ref), about(target)),
                    at=(about_port(target),),
                    value=levels.high_max_v,
                    limit=entry.off_max_v,
                    unit="V",
                )


def _fed_by(queries: Queries, device: str) -> set[str]:
    """The devices that a device's own feed pins hang on."""
    part = queries.part_of(device)
    found: set[str] = set()
    for port in part.ports if part else ():
        for pin in port.pins:
            if isinstance(pin.electrical, FeedIn) and pin.function == "plus":
                ref = PinRef(device=device, port=port.id, pin=pin.id)
                found |= {source.pin.device for source in sources_of(queries, ref)}
    return found


@rule(
    id="signals.isolation-bridged",
    consequence="Workmanship",
    scope="device",
    title="An isolated input is joined to its own board's 0 V",
    reason="The input was isolated to keep another circuit's disturbance and faults out. With its "
    "0 V on the board's own the isolation does nothing.",
    source="The part's own isolated inputs.",
)
def isolation_bridged(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    own = next(
        (
            PinRef(device=device, port=port.id, pin=pin.id)
            for port in (part.ports if part else ())
            for pin in port.pins
            if port.kind == "feed in" and pin.function == "zero"
        ),
        None,
    )
    said: set[str] = set()
    for port in part.ports if part and own else ():
        for pin in port.pins:
            entry = pin.electrical
            if not isinstance(entry, LogicInput) or not entry.isolated or port.id in said:
                continue
            zero = zero_pin_of(
                queries, PinRef(device=device, port=port.id, pin=pin.id), entry.reference
            )
            if zero is not None and own is not None and own in queries.net(zero):
                said.add(port.id)
                yield RuleOutput(
                    f"{port.id} of {device} is isolated, but its 0 V is joined to the board's.",
                    (about(zero), about(own)),
                    detail=port.id,
                )


# How far single-ended encoder lines may be.
SINGLE_ENDED_M = 3.0


@rule(
    id="signals.encoder-length",
    consequence="Unreliable",
    scope="device",
    title="A single-ended encoder is far away",
    reason="Without complements every volt of disturbance on the line counts. Beyond a few metres "
    "beside motor cables false counts are to be expected; a line driver sends the complements.",
    source="Practice: 3 m for single-ended encoder lines.",
)
def encoder_length(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    # A hand wheel gives a few counts a second, which its input filters.
    if part is None or part.kind != "encoder":
        return
    functions = {pin.function for port in part.ports for pin in port.pins}
    if "encoder A-" in functions:
        return
    for port in part.ports:
        channel = next((pin for pin in port.pins if pin.function == "encoder A"), None)
        if channel is None:
            continue
        ref = PinRef(device=device, port=port.id, pin=channel.id)
        for way in paths_from(queries, ref):
            length_m = port.lead_length_m + sum(_length_m(queries, s.hookup) for s in way.steps)
            if way.lands and length_m > SINGLE_ENDED_M:
                yield RuleOutput(
                    f"{device} is {in_length(length_m, '.3g')} from {way.end.device} "
                    f"{way.end.port}, without "
                    "complements.",
                    (about(device), about(way.end)),
                    at=(about_port(way.end),),
                    value=round(length_m, 3),
                    limit=SINGLE_ENDED_M,
                    unit="m",
                )


def _length_m(queries: Queries, hookup_id: str) -> float:
    hookup = queries.hookup(hookup_id)
    known_m = cable_length_m(queries, hookup.cable) if hookup and hookup.cable else None
    return known_m or 0.0


RULES = (
    complement,
    single_into_differential,
    termination,
    back_feed,
    isolation_bridged,
    encoder_length,
)
