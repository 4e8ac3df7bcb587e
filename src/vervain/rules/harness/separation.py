"""Rules about what lies in one cable or beside it: mains, motors, pairs, shields."""

from collections.abc import Iterator

from vervain.harness.cable_kinds import MOTOR_KINDS, SIGNAL_KINDS, carried_by, port_kinds
from vervain.harness.cable_routes import cable_route
from vervain.model.machine import PinRef
from vervain.queries.connectivity import paths_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_cable
from vervain.rules.harness_fixes import ShieldAt
from vervain.rules.rule import RuleOutput, rule
from vervain.text.units import in_length

# An unshielded signal this long beside a motor cable is at risk.
BESIDE_M = 1.0


@rule(
    id="harness.mains-beside",
    consequence="Damage",
    scope="cable",
    title="Mains and extra-low voltage run in one cable",
    reason="Where the insulation between two cores fails, everything on the low side is at mains, "
    "and whoever touches it as well.",
    source="IEC 60204-1 13.1.3 and IEC 60364-4-41: separate, or all insulated for the highest "
    "voltage; the local code rules.",
)
def mains_beside(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    rows = [row for h in queries.hookups_in(cable_id) for row in carried_by(queries, h.id)]
    if any(row.is_low for row in rows) and any(row.is_mains for row in rows):
        yield RuleOutput(
            f"{cable_id} carries mains and extra-low voltage.",
            (about_cable(cable_id),),
        )


@rule(
    id="harness.motor-beside",
    consequence="Unreliable",
    scope="cable",
    title="A motor and a signal run in one cable",
    reason="The chopped current of the motor couples into every core beside it; encoders count "
    "what was never there, and limits trip.",
    source="IEC 60204-1 13.1.3 and practice: a cable of its own for each.",
)
def motor_beside(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    kinds = port_kinds(queries, cable_id)
    signals = sorted(kinds & set(SIGNAL_KINDS))
    # One wire is beside nothing, whatever its net comes to.
    count = sum(len(hookup.conductors) for hookup in queries.hookups_in(cable_id))
    if kinds & set(MOTOR_KINDS) and signals and count > 1:
        yield RuleOutput(
            f"{cable_id} carries a motor and a {signals[0]}.",
            (about_cable(cable_id),),
        )


@rule(
    id="harness.pair-split",
    consequence="Unreliable",
    scope="cable",
    title="A differential signal is split over two pairs",
    reason="A twisted pair cancels what couples into both of its cores alike. With A in one pair "
    "and A− in another each picks up its neighbour instead.",
    source="TIA/EIA-422: the two lines of a signal in one pair.",
)
def pair_split(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if part is None or not part.pairs:
        return
    cores: dict[str, int] = {}
    for hookup in queries.hookups_in(cable_id):
        for row in hookup.conductors:
            for end, pin in ((hookup.a, row.a), (hookup.b, row.b)):
                ref = PinRef(device=end.device, port=end.port, pin=pin)
                for found in (ref, *(way.end for way in paths_from(queries, ref))):
                    there = queries.pin(found)
                    if there is not None and there.function.startswith("encoder ") and row.core:
                        cores.setdefault(there.function, row.core)
    for name in ("encoder A", "encoder B", "encoder Z"):
        first, second = cores.get(name), cores.get(f"{name}-")
        if first is None or second is None or part.mate_of(first) == second:
            continue
        yield RuleOutput(
            f"{name.removeprefix('encoder ')} and its complement are in two pairs of {cable_id}: "
            f"cores {first} and {second}.",
            (about_cable(cable_id, first), about_cable(cable_id, second)),
            detail=name,
        )


@rule(
    id="harness.beside-motor",
    consequence="Unreliable",
    scope="cable",
    title="A long signal without a shield lies beside a motor cable",
    reason="Metres side by side are a transformer. Encoder and sensor lines along a chopped motor "
    "current want a shield, or a run of their own.",
    source="Practice: more than a metre in one run.",
)
def beside_motor(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    runs = cable_route(queries, cable_id).runs
    if cable is None or part is None or part.shield or not runs:
        return
    if not port_kinds(queries, cable_id) & {"analogue sensor", "sensor", "thermistor"}:
        return
    lengths = {run.id: run.length_m for run in queries.runs()}
    for other_id in queries.cables():
        other = queries.cable(other_id)
        shielded = other is not None and bool(other.shield_to)
        if other is None or other_id == cable_id or shielded:
            continue
        shared = [run for run in runs if run in cable_route(queries, other_id).runs]
        length_m = sum(lengths.get(run, 0.0) for run in shared)
        if length_m > BESIDE_M and port_kinds(queries, other_id) & set(MOTOR_KINDS):
            yield RuleOutput(
                f"{cable_id} runs {in_length(length_m, '.3g')} beside {other_id}, a motor cable; "
                "neither is "
                "shielded.",
                (about_cable(cable_id), about_cable(other_id)),
                at=(about_cable(other_id),),
                value=round(length_m, 2),
                limit=BESIDE_M,
                unit="m",
            )


@rule(
    id="harness.motor-shield",
    consequence="Unreliable",
    scope="cable",
    title="A motor cable's shield is joined at one end only",
    reason="The shield of a chopped current works by carrying that current back beside its cores. "
    "Joined at one end it carries nothing.",
    source="IEC 61800-3 and practice: shields of chopped motor cables at both ends.",
)
def motor_shield(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    hookups = queries.hookups_in(cable_id)
    if cable is None or len(cable.shield_to) != 1 or not hookups:
        return
    if not port_kinds(queries, cable_id) & set(MOTOR_KINDS):
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
    yield RuleOutput(
        f"The shield of {cable_id} is joined at {here.device} only; it carries a motor.",
        (about_cable(cable_id), about(here)),
        fixes=(fix,) if fix else (),
    )


@rule(
    id="harness.shield",
    consequence="Unreliable",
    scope="cable",
    title="A signal cable's shield is joined at the wrong ends",
    reason="Joined at both ends the shield carries the current between the two earths past the "
    "signals; joined at none it is an aerial. A chopped motor cable is the exception: both ends.",
    source="IEC 60204-1 and the parts' own instructions; sensor and encoder shields at the "
    "controller end.",
)
def shield(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    hookups = queries.hookups_in(cable_id)
    if cable is None or part is None or not part.shield or not hookups:
        return
    carries_motor = bool(port_kinds(queries, cable_id) & set(MOTOR_KINDS))
    count = len(cable.shield_to)
    if count == 0:
        yield RuleOutput(
            f"The shield of {cable_id} is joined nowhere.",
            (about_cable(cable_id),),
            detail="floating",
        )
    elif count > 1 and not carries_motor:
        host = next(
            (end for end in cable.shield_to if (p := queries.port(end)) and p.end == "host"), None
        )
        fix = None
        if host is not None:
            fix = Fix(
                words=f"join it at {host.device} only",
                remedy=ShieldAt(cable=cable_id, ports=(host,)),
            )
        ends = " and ".join(end.device for end in cable.shield_to)
        yield RuleOutput(
            f"The shield of {cable_id} is joined at both ends: {ends}.",
            (about_cable(cable_id), *(about(end.device) for end in cable.shield_to)),
            detail="both ends",
            fixes=(fix,) if fix else (),
        )


@rule(
    id="harness.shield-as-earth",
    consequence="Damage",
    scope="device",
    title="A shield is the only protective earth",
    reason="A shield is no protective conductor: its cross-section is not rated, and it comes off "
    "with the plug.",
    source="IEC 60204-1 8.2: protective conductors are cores of their own.",
)
def shield_as_earth(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or not part.metal_case:
        return
    earth = [
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in part.ports
        for pin in port.pins
        if pin.function == "pe"
    ]
    if not earth or any(len(queries.net(ref)) > 1 for ref in earth):
        return
    shields = [
        cable
        for name in queries.cables()
        if (cable := queries.cable(name)) and any(ref.device == device for ref in cable.shield_to)
    ]
    if shields:
        yield RuleOutput(
            f"{device} has metal outside, and only the shield of {shields[0].id} to earth.",
            (about(device), about_cable(shields[0].id)),
        )


RULES = (
    mains_beside,
    motor_beside,
    pair_split,
    beside_motor,
    motor_shield,
    shield,
    shield_as_earth,
)
