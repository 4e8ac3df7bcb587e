"""Rules about signals: levels, drive, commons, and power on a signal pin."""

from collections.abc import Iterator

from vervain.electrical.feeds import Source, sources_of, steady_current_a, zero_pin_of
from vervain.electrical.levels import (
    Mismatch,
    driving_outputs,
    inputs_driven_by,
    levels_of,
    mismatches,
    reading_of,
    supply_v,
)
from vervain.electrical.outputs import carries_a
from vervain.electrical.unmet_needs import is_to_be_fed, pins_it_meets
from vervain.model.electrical import FeedOut, LogicInput, LogicOutput
from vervain.model.machine import PinRef, PortRef
from vervain.ports.fit import fit
from vervain.ports.signal_issues import mismatch_words
from vervain.queries.connectivity import (
    host_ports,
    is_fuse,
    neighbours_at,
    nets_reached,
    paths_from,
)
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Consequence, Fix, about, about_port
from vervain.rules.fixes import ExchangePins, PutWith, SetSetting
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.contacts import input_of
from vervain.supply.results import currents_of
from vervain.supply.states import LASTING_STATES


def _judged(
    queries: Queries, device: str, trouble: tuple[str, ...]
) -> Iterator[tuple[PinRef, LogicOutput, PinRef, LogicInput, Mismatch]]:
    for ref, output in driving_outputs(queries, device):
        for target in inputs_driven_by(queries, ref):
            pin = queries.pin(target)
            if pin is None or not isinstance(pin.electrical, LogicInput):
                continue
            levels = levels_of(output, supply_v(queries, ref) or supply_v(queries, target))
            reads = reading_of(queries, target, pin.electrical)
            for item in mismatches(output, levels, pin.electrical, reads):
                if item.trouble in trouble:
                    yield ref, output, target, pin.electrical, item


@rule(
    id="signals.level",
    consequence="Damage",
    scope="device",
    title="A signal's level does not suit its input",
    reason="Above its maximum an input conducts through its protection and burns; a high below "
    "V_IH or a low above V_IL is read by chance.",
    source="V_OH(max) <= V_in(max); V_OH(min) >= V_IH(min); V_OL(max) <= V_IL(max); V_OL(min) >= "
    "V_in(min); the parts' own limits.",
)
def level(queries: Queries, device: str) -> Iterator[RuleOutput]:
    said: set[tuple[str, str, str]] = set()
    for ref, output, target, _, item in _judged(
        queries, device, ("too high", "too low", "high too low", "low too high")
    ):
        place = (item.trouble, target.device, target.port)
        if place in said:
            continue
        said.add(place)
        harms = item.trouble in ("too high", "too low")
        consequence: Consequence = "Damage" if harms else "Unreliable"
        name = f"{target.device} {target.port}"
        sentence = (
            f"{device} puts {item.value_v:.3g} V on {name}; its pins take {item.limit_v:.3g} V."
            if item.trouble == "too high"
            else f"{device} into {name}: {mismatch_words(item, output)}"
        )
        yield RuleOutput(
            sentence,
            (about(target), about(ref)),
            at=(about_port(target),),
            detail=item.trouble,
            value=item.value_v,
            limit=item.limit_v,
            unit="V",
            over=item.trouble not in ("high too low", "too low"),
            consequence=consequence,
            fixes=_put_with(queries, ref, target),
        )


def _put_with(queries: Queries, ref: PinRef, target: PinRef) -> tuple[Fix, ...]:
    """What goes between a plug and its port so that their levels suit each other."""
    for plug, host in ((ref.port_ref, target.port_ref), (target.port_ref, ref.port_ref)):
        port = queries.port(plug)
        if port is None or port.end != "device" or host not in host_ports(queries, plug):
            continue
        answer = fit(queries, plug, host)
        if answer.adds:
            remedy = PutWith(device_port=plug, host_port=host)
            return (Fix(words=f"put {answer.needs} between", remedy=remedy),)
    return ()


@rule(
    id="signals.sensor-drive",
    consequence="Won't run",
    scope="device",
    title="NPN or PNP against the input",
    reason="An NPN output pulls to 0 V and needs an input that supplies current; a PNP output "
    "gives plus and needs an input that takes it. The other way round nothing ever flows.",
    source="IEC 61131-2: current flows into a sinking input.",
)
def sensor_drive(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, output, target, entry, _ in _judged(queries, device, ("wrong drive",)):
        fixes: tuple[Fix, ...] = ()
        if entry.reads_option:
            words = f"set {entry.reads_option} of {target.device} to {output.drive}: the whole bank"
            remedy = SetSetting(device=target.device, key=entry.reads_option, value=output.drive)
            fixes = (Fix(words=words, remedy=remedy),)
        yield RuleOutput(
            f"{device} is {output.drive}; {target.device} {target.port} does not read "
            f"{output.drive}.",
            (about(ref), about(target)),
            at=(about_port(target),),
            fixes=fixes,
        )


@rule(
    id="signals.power-on-signal",
    consequence="Damage",
    scope="device",
    title="A supply sits on a signal pin",
    reason="A plug that is turned round, or a lead one pin off, puts the whole supply on an input; "
    "nothing limits the current.",
    source="The part's own maximum input voltage.",
)
def power_on_signal(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            if port.end != "device" or not isinstance(pin.electrical, LogicInput):
                continue
            for source in _wired_sources(queries, ref):
                voltage_v = source.feed.highest_v
                if voltage_v <= pin.electrical.max_v:
                    continue
                fix = _turn_round(queries, ref)
                turned = f"{device}'s plug sits reversed: " if fix else f"{device}: "
                yield RuleOutput(
                    f"{turned}{source.feed.nominal_v:g} V on its signal lead.",
                    (about(ref), about(source.pin)),
                    detail=pin.id,
                    value=voltage_v,
                    limit=pin.electrical.max_v,
                    unit="V",
                    fixes=(fix,) if fix else (),
                )


def _wired_sources(queries: Queries, ref: PinRef) -> tuple[Source, ...]:
    """Sources that reach a pin by copper and fuses; a switch that closes to plus is a signal."""
    nets = nets_reached(queries, [ref], is_fuse)
    return tuple(
        Source(pin=member, feed=pin.electrical)
        for net in nets
        for member in net
        if (pin := queries.pin(member)) is not None and isinstance(pin.electrical, FeedOut)
    )


def _turn_round(queries: Queries, signal: PinRef) -> Fix | None:
    """The exchange of two host pins that brings signal to signal and plus to plus."""
    port = queries.port(signal.port_ref)
    plus = next((pin for pin in port.pins if pin.function == "plus"), None) if port else None
    if plus is None:
        return None
    ends = []
    for pin_id in (signal.pin, plus.id):
        ways = paths_from(queries, PinRef(device=signal.device, port=signal.port, pin=pin_id))
        if len(ways) != 1 or not ways[0].lands:
            return None
        ends.append(ways[0].steps[-1])
    landed = [queries.pin(step.end) for step in ends]
    hookup = queries.hookup(ends[0].hookup)
    if hookup is None or ends[0].hookup != ends[1].hookup or None in landed:
        return None
    if landed[0] is None or landed[1] is None:
        return None
    if landed[0].function != "plus" or landed[1].function != "signal":
        return None
    side = "b" if hookup.b == ends[0].end.port_ref else "a"
    remedy = ExchangePins(
        hookup=hookup.id, side=side, first=ends[0].end.pin, second=ends[1].end.pin
    )
    return Fix(
        words=f"turn the plug round at {ends[0].end.device} {ends[0].end.port}", remedy=remedy
    )


@rule(
    id="signals.output-current",
    consequence="Damage",
    scope="device",
    title="An output is asked for more current than it carries",
    reason="The switch behind the terminal is made for its rated current; a heavier load melts it, "
    "often closed, so that a heater then stays on.",
    source="Sum of the loads' steady currents against the output's rating; 40 mA at a processor's "
    "line of which nothing is given.",
)
def output_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            limit = carries_a(queries, ref)
            if port.kind != "switched output" or limit is None:
                continue
            loads = _loads_at(queries, ref)
            wanted = max(sum(loads.values()), _flows_from(queries, ref))
            if wanted <= limit:
                continue
            named = " and ".join(loads) or "What hangs on it"
            yield RuleOutput(
                f"{named} takes {wanted:.3g} A; {device} {port.id} carries {limit:g} A.",
                (about(ref), *map(about, loads)),
                detail=port.id,
                value=round(wanted, 3),
                limit=limit,
                unit="A",
            )


@rule(
    id="signals.bank-current",
    consequence="Damage",
    scope="device",
    title="A bank of outputs is asked for more than it gives together",
    reason="Outputs of one bank share a chip or a fuse. Each may be within its own rating while "
    "all of them together heat the chip until it fails, or blow the fuse of the bank.",
    source="Sum of the loads' steady currents against the bank's rating in the part.",
)
def bank_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for bank in part.banks if part else ():
        loads: dict[str, float] = {}
        for name in bank.ports:
            port = part.port(name) if part else None
            for pin in port.pins if port else ():
                if isinstance(pin.electrical, LogicOutput):
                    ref = PinRef(device=device, port=name, pin=pin.id)
                    loads |= _loads_at(queries, ref)
        wanted = sum(loads.values())
        if wanted > bank.current_max_a:
            yield RuleOutput(
                f"{' and '.join(loads)} take {wanted:.3g} A together; {bank.name} of {device} "
                f"gives {bank.current_max_a:g} A.",
                (about(device), *map(about, loads)),
                detail=bank.name,
                value=round(wanted, 3),
                limit=bank.current_max_a,
                unit="A",
            )


@rule(
    id="signals.contact-unread",
    consequence="Won't run",
    scope="device",
    title="A contact gives its input nothing to read",
    reason="An input that supplies current is read when the contact takes it to 0 V, one that "
    "takes current when the contact brings it plus. With its other lead open, or on the other "
    "rail, the input looks the same whether the contact is closed or not.",
    source="IEC 61131-2: current flows into a sinking input; Kirchhoff's current law.",
)
def contact_unread(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    target = input_of(queries, device)
    pin = queries.pin(target) if target is not None else None
    if part is None or target is None or pin is None or not isinstance(pin.electrical, LogicInput):
        return
    by_contact = any(
        port.kind == "contact" and port.end == "device"
        and target.port_ref in neighbours_at(queries, PortRef(device=device, port=port.id))
        for port in part.ports
    )  # fmt: skip
    if not by_contact:
        return
    reads = reading_of(queries, target, pin.electrical)
    zero = zero_pin_of(queries, target, pin.electrical.reference)
    gives_zero = zero is not None and zero in queries.rail(target)
    gives_plus = bool(sources_of(queries, target))
    if {"NPN": gives_zero, "PNP": gives_plus, "either": gives_zero or gives_plus}[reads]:
        return
    name = f"{target.device} {target.port}"
    needs, other = ("0 V", "PNP") if reads == "NPN" else ("plus", "NPN")
    sentence = f"{device} reaches no {needs}: {name} sees nothing when it closes."
    fixes: tuple[Fix, ...] = ()
    option = pin.electrical.reads_option
    if gives_zero or gives_plus:
        brings = "plus" if gives_plus else "0 V"
        sentence = f"{name} reads {reads} and needs {needs}; {device} brings it {brings}."
        if option is not None:
            words = f"set {option} of {target.device} to {other}: the whole bank"
            remedy = SetSetting(device=target.device, key=option, value=other)
            fixes = (Fix(words=words, remedy=remedy),)
    yield RuleOutput(
        sentence, (about(device), about(target)), at=(about_port(target),), fixes=fixes,
        unfinished=is_to_be_fed(queries, target.device),
    )  # fmt: skip


def _flows_from(queries: Queries, output: PinRef) -> float:
    """The most that an output carries in any state, in A."""
    return max(
        (
            current.current_a
            for state in LASTING_STATES
            for current in currents_of(queries, output.device, state)
            if current.kind == "output" and output in (current.a, current.b)
        ),
        default=0.0,
    )


def _loads_at(queries: Queries, output: PinRef) -> dict[str, float]:
    """The devices whose minus an output switches, with the current that each takes."""
    found: dict[str, float] = {}
    for ref in pins_it_meets(queries, output):
        port, end = queries.port(ref.port_ref), queries.pin(ref)
        if port is None or end is None or end.function not in ("load-", "coil-"):
            continue
        found[ref.device] = steady_current_a(queries, ref.port_ref)
    return found


RULES = (
    level,
    sensor_drive,
    power_on_signal,
    output_current,
    bank_current,
    contact_unread,
)
