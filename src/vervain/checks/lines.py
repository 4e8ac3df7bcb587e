"""Rules about lines and commons: differential pairs, what lies in one cable, shields, earth."""

from collections.abc import Iterator

from vervain.checks.finding import Fix, about, about_cable
from vervain.checks.remedies import ShieldAt
from vervain.checks.rule import Said, rule
from vervain.checks.signals import driving_outputs
from vervain.machine.electrical import FeedIn, LogicInput, LogicOutput
from vervain.machine.look import Look
from vervain.machine.machine import PinRef
from vervain.machine.reach import joined_inside, ways_from
from vervain.power.feeds import sources_of, zero_pin_of
from vervain.signals.levels import inputs_driven_by, levels_of, supply_v

COMPLEMENTS = ("encoder A-", "encoder B-", "encoder Z-")
MAINS = ("line", "neutral")
MOTOR_KINDS = ("motor phases", "bridge output", "bridge motor")
SIGNAL_KINDS = (
    "sensor", "contact", "encoder", "servo", "digital input", "analogue input", "analogue sensor",
    "step and direction", "thermistor", "thermistor input", "radio", "pulse input",
)  # fmt: skip
# An unshielded signal this long beside a motor cable is at risk.
BESIDE_M = 1.0


@rule(
    id="signals.complement",
    stage="Ports",
    consequence="Damage",
    scope="device",
    title="A complement line is joined to something else",
    reason="A differential encoder drives A− as hard as A. Into an input for one line it stays "
    "open, insulated singly; on 0 V or on a supply its driver burns.",
    source="RS-422 (TIA/EIA-422): both lines of a pair are driven.",
)
def complement(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            if pin.function not in COMPLEMENTS or not isinstance(pin.electrical, LogicOutput):
                continue
            for way in ways_from(look, PinRef(device=device, port=port.id, pin=pin.id)):
                there = look.pin(way.end) if way.lands else None
                if there is None or there.function == pin.function:
                    continue
                is_signal = isinstance(there.electrical, LogicInput)
                yield Said(
                    f"{pin.text} of {device} is joined to {there.text} of {way.end.device} "
                    f"{way.end.port}; it stays open.",
                    (about(device), about(way.end)),
                    detail=pin.id,
                    consequence="Unreliable" if is_signal else None,
                )


@rule(
    id="signals.single-into-differential",
    stage="Ports",
    consequence="Unreliable",
    scope="device",
    title="A single line goes into an input for two",
    reason="The input compares both lines. With the second one open or at 0 V it does not switch "
    "in the middle of the swing; it wants half the swing there, and no terminating resistor.",
    source="RS-422 receivers: the difference decides; bias at half the swing.",
)
def single_into_differential(look: Look, device: str) -> Iterator[Said]:
    for ref, _ in driving_outputs(look, device):
        pin = look.pin(ref)
        if pin is None or not pin.function.startswith("encoder") or pin.function in COMPLEMENTS:
            continue
        ours = look.port(ref.port_ref)
        if ours is None or any(other.function == f"{pin.function}-" for other in ours.pins):
            continue
        for target in inputs_driven_by(look, ref):
            theirs = look.port(target.port_ref)
            minus = next(
                (p for p in (theirs.pins if theirs else ()) if p.function == f"{pin.function}-"),
                None,
            )
            if minus is None:
                continue
            second = PinRef(device=target.device, port=target.port, pin=minus.id)
            beside = [look.part_of(member.device) for member in look.net(second)]
            bias = [found for found in beside if found is not None and found.kind == "resistor"]
            if len(bias) < 2:
                yield Said(
                    f"{device} sends one line to {target.device} {target.port}; {minus.text} there "
                    "has no bias.",
                    (about(device), about(second)),
                    detail=f"{target.device} {target.port} {minus.id}",
                )


@rule(
    id="signals.termination",
    stage="Ports",
    consequence="Unreliable",
    scope="device",
    title="A pair is terminated twice, or not at all",
    reason="A long pair wants its resistance once, at the receiver: without it edges come back and "
    "are counted, with two the driver does not reach its levels.",
    source="RS-422 (TIA/EIA-422): one termination of about 100 to 120 ohm, at the far end.",
)
def termination(look: Look, device: str) -> Iterator[Said]:
    for ref, _ in driving_outputs(look, device):
        pin, ours = look.pin(ref), look.port(ref.port_ref)
        if pin is None or ours is None or not pin.function.startswith("encoder"):
            continue
        if not any(other.function == f"{pin.function}-" for other in ours.pins):
            continue
        inputs = [
            (target, found.electrical)
            for target in inputs_driven_by(look, ref)
            if (found := look.pin(target)) is not None and isinstance(found.electrical, LogicInput)
        ]
        differential = [
            (target, entry)
            for target, entry in inputs
            if (port := look.port(target.port_ref))
            and any(p.function == f"{pin.function}-" for p in port.pins)
        ]
        ends = [target for target, entry in differential if entry.termination_ohm]
        if differential and len(ends) != 1:
            many = "nowhere" if not ends else f"{len(ends)} times"
            yield Said(
                f"The pair {pin.text} of {device} is terminated {many}.",
                (about(ref), *(about(target) for target, _ in differential)),
                detail=pin.id,
            )


@rule(
    id="signals.back-feed",
    stage="Ports",
    consequence="Unreliable",
    scope="device",
    title="An output drives an input whose supply may be off",
    reason="With its own supply off, an input is fed through its protection by the signal: the "
    "other board half starts, or its input is worn out.",
    source="The input's own limit while it is off; both supplies can be switched singly.",
)
def back_feed(look: Look, device: str) -> Iterator[Said]:
    for ref, output in driving_outputs(look, device):
        if output.drive == "NPN":
            continue
        levels = levels_of(output, supply_v(look, ref))
        for target in inputs_driven_by(look, ref):
            pin = look.pin(target)
            entry = pin.electrical if pin else None
            if not isinstance(entry, LogicInput) or entry.off_max_v is None:
                continue
            ours, theirs = _fed_by(look, device), _fed_by(look, target.device)
            if not ours or not theirs or ours & theirs or levels.high_max_v is None:
                continue
            if levels.high_max_v > entry.off_max_v:
                yield Said(
                    f"{device} is fed by {min(ours)}, {target.device} by {min(theirs)}: with "
                    f"{min(theirs)} off, {levels.high_max_v:.3g} V reaches {target.port}.",
                    (about(ref), about(target)),
                    detail=f"{target.device} {target.port}",
                    value=levels.high_max_v,
                    limit=entry.off_max_v,
                    unit="V",
                )


def _fed_by(look: Look, device: str) -> set[str]:
    """The devices that a device's own feed pins hang on."""
    part = look.part_of(device)
    found: set[str] = set()
    for port in part.ports if part else ():
        for pin in port.pins:
            if isinstance(pin.electrical, FeedIn) and pin.function == "plus":
                ref = PinRef(device=device, port=port.id, pin=pin.id)
                found |= {source.pin.device for source in sources_of(look, ref)}
    return found


@rule(
    id="signals.isolation-bridged",
    stage="Ports",
    consequence="Workmanship",
    scope="device",
    title="An isolated input is joined to its own board's 0 V",
    reason="The input was isolated to keep another circuit's disturbance and faults out. With its "
    "0 V on the board's own the isolation does nothing.",
    source="The part's own isolated inputs.",
)
def isolation_bridged(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
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
                look, PinRef(device=device, port=port.id, pin=pin.id), entry.reference
            )
            if zero is not None and own is not None and own in look.net(zero):
                said.add(port.id)
                yield Said(
                    f"{port.id} of {device} is isolated, but its 0 V is joined to the board's.",
                    (about(zero), about(own)),
                    detail=port.id,
                )


def _functions(look: Look, cable: str) -> set[str]:
    kinds: set[str] = set()
    for hookup in look.hookups_in(cable):
        for end in (hookup.a, hookup.b):
            port = look.port(end)
            for row in hookup.conductors:
                pin = port.pin(row.a if end == hookup.a else row.b) if port else None
                if pin is not None:
                    kinds.add(pin.function)
    return kinds


def _port_kinds(look: Look, cable: str) -> set[str]:
    """The kinds of all ports that a cable's conductors come to, through connectors."""
    kinds: set[str] = set()
    for hookup in look.hookups_in(cable):
        for end, side in ((hookup.a, "a"), (hookup.b, "b")):
            port = look.port(end)
            if port is not None:
                kinds.add(port.kind)
            for row in hookup.conductors:
                ref = PinRef(device=end.device, port=end.port, pin=getattr(row, side))
                for way in ways_from(look, ref):
                    far = look.port(way.end.port_ref)
                    if way.lands and far is not None:
                        kinds.add(far.kind)
    return kinds


@rule(
    id="signals.mains-beside",
    stage="Harness",
    consequence="Damage",
    scope="cable",
    title="Mains and extra-low voltage run in one cable",
    reason="Where the insulation between two cores fails, everything on the low side is at mains, "
    "and whoever touches it as well.",
    source="IEC 60204-1 13.1.3 and IEC 60364-4-41: separate, or all insulated for the highest "
    "voltage; the local code rules.",
)
def mains_beside(look: Look, cable_id: str) -> Iterator[Said]:
    functions = _functions(look, cable_id)
    if functions & set(MAINS) and functions - {*MAINS, "pe", "shield", "none", "through"}:
        yield Said(
            f"{cable_id} carries mains and extra-low voltage.",
            (about_cable(cable_id),),
        )


@rule(
    id="signals.motor-beside",
    stage="Harness",
    consequence="Unreliable",
    scope="cable",
    title="A motor and a signal run in one cable",
    reason="The chopped current of the motor couples into every core beside it; encoders count "
    "what was never there, and limits trip.",
    source="IEC 60204-1 13.1.3 and practice: a cable of its own for each.",
)
def motor_beside(look: Look, cable_id: str) -> Iterator[Said]:
    kinds = _port_kinds(look, cable_id)
    signals = sorted(kinds & set(SIGNAL_KINDS))
    if kinds & set(MOTOR_KINDS) and signals:
        yield Said(
            f"{cable_id} carries a motor and a {signals[0]}.",
            (about_cable(cable_id),),
        )


@rule(
    id="signals.pair-split",
    stage="Harness",
    consequence="Unreliable",
    scope="cable",
    title="A differential signal is split over two pairs",
    reason="A twisted pair cancels what couples into both of its cores alike. With A in one pair "
    "and A− in another each picks up its neighbour instead.",
    source="TIA/EIA-422: the two lines of a signal in one pair.",
)
def pair_split(look: Look, cable_id: str) -> Iterator[Said]:
    cable = look.cable(cable_id)
    part = look.cable_part(cable.part) if cable else None
    if part is None or not part.pairs:
        return
    cores: dict[str, int] = {}
    for hookup in look.hookups_in(cable_id):
        for row in hookup.conductors:
            for end, pin in ((hookup.a, row.a), (hookup.b, row.b)):
                ref = PinRef(device=end.device, port=end.port, pin=pin)
                for found in (ref, *(way.end for way in ways_from(look, ref))):
                    there = look.pin(found)
                    if there is not None and there.function.startswith("encoder ") and row.core:
                        cores.setdefault(there.function, row.core)
    for name in ("encoder A", "encoder B", "encoder Z"):
        first, second = cores.get(name), cores.get(f"{name}-")
        if first is None or second is None or (first - 1) // 2 == (second - 1) // 2:
            continue
        yield Said(
            f"{name.removeprefix('encoder ')} and its complement are in two pairs of {cable_id}: "
            f"cores {first} and {second}.",
            (about_cable(cable_id, first), about_cable(cable_id, second)),
            detail=name,
        )


@rule(
    id="signals.beside-motor",
    stage="Harness",
    consequence="Unreliable",
    scope="cable",
    title="A long signal without a shield lies beside a motor cable",
    reason="Metres side by side are a transformer. Encoder and sensor lines along a chopped motor "
    "current want a shield, or a run of their own.",
    source="Practice: more than a metre in one run.",
)
def beside_motor(look: Look, cable_id: str) -> Iterator[Said]:
    cable = look.cable(cable_id)
    part = look.cable_part(cable.part) if cable else None
    if cable is None or part is None or part.shield or not cable.runs:
        return
    if not _port_kinds(look, cable_id) & {"encoder", "analogue sensor", "sensor", "thermistor"}:
        return
    lengths = {run.id: run.length_m for run in look.runs()}
    for other_id in look.cables():
        other = look.cable(other_id)
        shielded = other is not None and bool(other.shield_to)
        if other is None or other_id == cable_id or shielded:
            continue
        shared = [run for run in cable.runs if run in other.runs]
        length_m = sum(lengths.get(run, 0.0) for run in shared)
        if length_m > BESIDE_M and _port_kinds(look, other_id) & set(MOTOR_KINDS):
            yield Said(
                f"{cable_id} runs {length_m:.3g} m beside {other_id}, a motor cable; neither is "
                "shielded.",
                (about_cable(cable_id), about_cable(other_id)),
                detail=other_id,
                value=round(length_m, 2),
                limit=BESIDE_M,
                unit="m",
            )


@rule(
    id="signals.motor-shield",
    stage="Harness",
    consequence="Unreliable",
    scope="cable",
    title="A motor cable's shield is joined at one end only",
    reason="The shield of a chopped current works by carrying that current back beside its cores. "
    "Joined at one end it carries nothing.",
    source="IEC 61800-3 and practice: shields of chopped motor cables at both ends.",
)
def motor_shield(look: Look, cable_id: str) -> Iterator[Said]:
    cable = look.cable(cable_id)
    hookups = look.hookups_in(cable_id)
    if cable is None or len(cable.shield_to) != 1 or not hookups:
        return
    if not _port_kinds(look, cable_id) & set(MOTOR_KINDS):
        return
    ends = tuple(dict.fromkeys(end for h in hookups for end in (h.a, h.b)))
    here = cable.shield_to[0]
    other = next((end for end in ends if end.device != here.device), None)
    fix = None
    if other is not None:
        fix = Fix(
            words=f"join it at {other.device} as well",
            remedy=ShieldAt(cable=cable_id, ports=(here, other)),
        )
    yield Said(
        f"The shield of {cable_id} is joined at {here.device} only; it carries a motor.",
        (about_cable(cable_id), about(here)),
        fixes=(fix,) if fix else (),
    )


@rule(
    id="signals.shield-as-earth",
    stage="Harness",
    consequence="Damage",
    scope="device",
    title="A shield is the only protective earth",
    reason="A shield is no protective conductor: its cross-section is not rated, and it comes off "
    "with the plug.",
    source="IEC 60204-1 8.2: protective conductors are cores of their own.",
)
def shield_as_earth(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    if part is None or not part.metal_case:
        return
    earth = [
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in part.ports
        for pin in port.pins
        if pin.function == "pe"
    ]
    if not earth or any(len(look.net(ref)) > 1 for ref in earth):
        return
    shields = [
        cable
        for name in look.cables()
        if (cable := look.cable(name)) and any(ref.device == device for ref in cable.shield_to)
    ]
    if shields:
        yield Said(
            f"{device} has metal outside, and only the shield of {shields[0].id} to earth.",
            (about(device), about_cable(shields[0].id)),
        )


def _zero_group(look: Look, zero: PinRef) -> tuple[list[PinRef], int]:
    """The pins of a 0 V up to where it meets protective earth, and how many conductors meet it."""
    seen = {zero: None}
    waiting = [zero]
    joints: set[frozenset[PinRef]] = set()
    while waiting:
        here = waiting.pop()
        for step in look.steps(here):
            there = look.pin(step.end)
            if there is not None and there.function == "pe":
                joints.add(frozenset({here, step.end}))
            elif step.end not in seen:
                seen[step.end] = None
                waiting.append(step.end)
        for other in joined_inside(look, here):
            if other not in seen:
                seen[other] = None
                waiting.append(other)
    return list(seen), len(joints)


def _zero_of_mains_supply(look: Look, device: str) -> PinRef | None:
    """The negative of a supply that mains go into; None for anything else."""
    part = look.part_of(device)
    if part is None or part.kind != "supply":
        return None
    if not any(pin.function == "line" for port in part.ports for pin in port.pins):
        return None
    for port in part.ports:
        for pin in port.pins:
            if port.kind == "feed out" and pin.function == "zero":
                ref = PinRef(device=device, port=port.id, pin=pin.id)
                return ref if look.steps(ref) else None
    return None


@rule(
    id="signals.earth-joint",
    stage="Supply",
    consequence="Workmanship",
    scope="machine",
    title="0 V is joined to protective earth not once",
    reason="Joined once, an earth fault blows a fuse instead of bridging a switch. Joined twice, "
    "currents run through shields and frames; not at all, the whole circuit floats.",
    source="IEC 60204-1 9.4.3.1: one joint of the control circuit to protective earth.",
)
def earth_joint(look: Look, _: str) -> Iterator[Said]:
    zeros = [zero for name in look.devices() if (zero := _zero_of_mains_supply(look, name))]
    told: set[PinRef] = set()
    joined = False
    for zero in zeros:
        members, joints = _zero_group(look, zero)
        joined = joined or joints > 0
        if joints > 1 and not told & set(members):
            yield Said(
                f"0 V of {zero.device} is joined to protective earth {joints} times.",
                (about(zero),),
                detail=zero.device,
                consequence="Unreliable",
            )
        told |= set(members)
    if zeros and not joined:
        yield Said(
            f"0 V of {zeros[0].device} is joined to protective earth nowhere.",
            (about(zeros[0]),),
            detail="none",
        )


RULES = (
    complement,
    single_into_differential,
    termination,
    back_feed,
    isolation_bridged,
    mains_beside,
    motor_beside,
    pair_split,
    beside_motor,
    motor_shield,
    shield_as_earth,
    earth_joint,
)
