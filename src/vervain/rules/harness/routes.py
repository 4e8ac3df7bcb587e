"""Rules about runs: chains and their bends, what lies side by side, joints and strain relief."""

from collections.abc import Iterator

from vervain.harness.bundles import Bundle, bundle_of
from vervain.harness.cable_kinds import service_of_cable
from vervain.harness.cable_routes import cable_route, cables_of_runs
from vervain.harness.fittings import chain_for, fittings
from vervain.model.place import Chain, Run
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import other_way
from vervain.rules.finding import Fix, about, about_cable, about_run
from vervain.rules.harness_fixes import FitChain, HoldCables, LayOtherwise
from vervain.rules.rule import RuleOutput, rule

# Cores of mains without a sheath of their own.
BARE_FORMS = ("loose wires", "ribbon")


def _wider(bundle: Bundle, run: Run) -> tuple[Fix, ...]:
    """The chain that would do, if there is one."""
    thickest = max((strand.diameter_mm for strand in bundle.strands), default=0.0)
    chain = chain_for(bundle.area_mm2, thickest, bundle.bend_radius_mm)
    if chain is None or chain == run.chain:
        return ()
    filled = bundle.area_mm2 / (chain.width_mm * chain.height_mm)
    words = f"fit the chain {chain_words(chain)}: {filled:.0%} full"
    return (Fix(words=words, remedy=FitChain(run=run.id, chain=chain)),)


def chain_words(chain: Chain) -> str:
    """A chain in the shortest words."""
    return f"{chain.width_mm:g} × {chain.height_mm:g} mm, radius {chain.bend_radius_mm:g}"


def _another_way(queries: Queries, bundle: Bundle, run: Run) -> tuple[Fix, ...]:
    """Laying the thickest cable that has another way, if that alone would do."""
    if run.chain is None:
        return ()
    room = fittings().chain_fill * run.chain.width_mm * run.chain.height_mm
    for strand in sorted(bundle.strands, key=lambda item: -item.diameter_mm):
        route = cable_route(queries, strand.name) if not strand.is_lead else None
        if route is None or len(route.places) != 2:
            continue
        way = other_way(queries, route.places[0], route.places[1], run.id)
        area = strand.diameter_mm**2 * 0.7854
        if way is not None and bundle.area_mm2 - area <= room:
            words = f"lay {strand.name} through {', '.join(way.runs)}"
            return (Fix(words=words, remedy=LayOtherwise(cable=strand.name, runs=way.runs)),)
    return ()


@rule(
    id="harness.chain-full",
    consequence="Unreliable",
    scope="run",
    title="A drag chain is fuller than its cables can move in",
    reason="Cables in a chain slide past each other at every stroke. Packed too tightly they pull, "
    "twist and break within months.",
    source="At most 60 % of the inner area, by practice of chain makers (tables/harness.toml).",
)
def chain_full(queries: Queries, run_id: str) -> Iterator[RuleOutput]:
    run, bundle = queries.run(run_id), bundle_of(queries, run_id)
    limit = fittings().chain_fill
    if run is None or bundle.fill is None or bundle.fill <= limit + 1e-9:
        return
    yield RuleOutput(
        f"The chain of {run_id} is fuller than its cables can move in.",
        (about_run(run_id),),
        value=round(bundle.fill * 100, 1),
        limit=limit * 100,
        unit="%",
        fixes=(*_wider(bundle, run), *_another_way(queries, bundle, run)),
    )


@rule(
    id="harness.chain-height",
    consequence="Unreliable",
    scope="run",
    title="A cable is too thick for its drag chain",
    reason="A cable that touches floor and lid of the chain is rubbed through at every stroke.",
    source="At most 90 % of the inner height, by practice of chain makers (tables/harness.toml).",
)
def chain_height(queries: Queries, run_id: str) -> Iterator[RuleOutput]:
    run, bundle = queries.run(run_id), bundle_of(queries, run_id)
    if run is None or run.chain is None or not bundle.strands:
        return
    thickest = max(bundle.strands, key=lambda strand: strand.diameter_mm)
    limit = fittings().chain_height * run.chain.height_mm
    if thickest.diameter_mm > limit + 1e-9:
        yield RuleOutput(
            f"{thickest.name} is too thick for the chain of {run_id}.",
            (about_run(run_id),),
            value=thickest.diameter_mm,
            limit=round(limit, 2),
            unit="mm",
            fixes=_wider(bundle, run),
        )


@rule(
    id="harness.bend-radius",
    consequence="Unreliable",
    scope="run",
    title="A cable is bent tighter than it stands",
    reason="Bent tighter than it was made for, a cable's cores and shield break one strand after "
    "the other.",
    source="The cable's own data sheet; where it is not given 10 times its diameter, by practice.",
)
def bend_radius(queries: Queries, run_id: str) -> Iterator[RuleOutput]:
    run, bundle = queries.run(run_id), bundle_of(queries, run_id)
    if run is None or run.chain is None or not bundle.strands:
        return
    stiffest = max(bundle.strands, key=lambda strand: strand.bend_radius_mm)
    if stiffest.bend_radius_mm > run.chain.bend_radius_mm + 1e-9:
        guessed = "" if stiffest.bend_known else " Its part does not give one: 10 diameters."
        yield RuleOutput(
            f"{run_id} bends {stiffest.name} tighter than it stands.",
            (about_run(run_id), *((about_cable(stiffest.name),) if not stiffest.is_lead else ())),
            why=f"{stiffest.name} wants {stiffest.bend_radius_mm:g} mm.{guessed}",
            value=run.chain.bend_radius_mm,
            limit=stiffest.bend_radius_mm,
            unit="mm",
            over=False,
            fixes=_wider(bundle, run),
        )


@rule(
    id="harness.motor-encoder",
    consequence="Unreliable",
    scope="run",
    title="A motor and an encoder lie side by side without a shield",
    reason="The chopped motor current couples into the encoder's lines, and counts appear that "
    "were never turned.",
    source="IEC 60204-1 13.1.3 and practice: one of the two shielded, and its shield joined.",
)
def motor_encoder(queries: Queries, run_id: str) -> Iterator[RuleOutput]:
    bare = []
    for cable_id in cables_of_runs(queries).get(run_id, ()):
        cable = queries.cable(cable_id)
        if cable is not None and not cable.shield_to:
            bare.append((cable_id, service_of_cable(queries, cable_id)))
    motors = [name for name, service in bare if service == "motor"]
    encoders = [name for name, service in bare if service == "encoder"]
    if motors and encoders:
        yield RuleOutput(
            f"{motors[0]} to a motor and {encoders[0]} to an encoder lie side by side in {run_id}, "
            "neither shielded.",
            (about_run(run_id), about_cable(encoders[0]), about_cable(motors[0])),
        )


@rule(
    id="harness.mains-duct",
    consequence="Damage",
    scope="run",
    title="Loose mains wires lie with extra-low voltage",
    reason="Single wires have one insulation between mains and all that they touch. One nick, and "
    "the low side is at mains.",
    source="IEC 60204-1 13.1.3 and IEC 60364-4-41: apart, or in a sheath of its own; the local "
    "code rules.",
)
def mains_duct(queries: Queries, run_id: str) -> Iterator[RuleOutput]:
    loose, low = [], []
    for cable_id in cables_of_runs(queries).get(run_id, ()):
        cable = queries.cable(cable_id)
        part = queries.cable_part(cable.part) if cable else None
        if service_of_cable(queries, cable_id) != "mains":
            low.append(cable_id)
        elif part is not None and (part.form in BARE_FORMS or len(part.cores) == 1):
            loose.append(cable_id)
    if loose and low:
        yield RuleOutput(
            f"{loose[0]} carries mains without a sheath beside {low[0]} in {run_id}.",
            (about_run(run_id), about_cable(loose[0]), about_cable(low[0])),
        )


@rule(
    id="harness.strain-relief",
    consequence="Unreliable",
    scope="run",
    title="Cables are not held where a moving run ends",
    reason="Without a clamp the movement goes on into the plugs: contacts work loose, and cores "
    "break at the crimp.",
    source="Practice: both ends of a moving run are clamped; a gland in a box's wall counts.",
)
def strain_relief(queries: Queries, run_id: str) -> Iterator[RuleOutput]:
    run = queries.run(run_id)
    if run is None or not run.moving or not bundle_of(queries, run_id).strands:
        return
    for end in (run.a, run.b):
        place = queries.place(end)
        if place is None or place.strain_relief or place.closed:
            continue
        if run_id == _first_moving(queries, end):
            yield RuleOutput(
                f"Nothing holds the cables of {run_id} at {place.name}.",
                (about_run(run_id),),
                detail=end,
                fixes=(Fix(words=f"hold them at {place.name}", remedy=HoldCables(place=end)),),
            )


def _first_moving(queries: Queries, place: str) -> str | None:
    """The first of the moving runs with cables that end at a place: one finding a place."""
    for run in queries.runs():
        if run.moving and place in (run.a, run.b) and bundle_of(queries, run.id).strands:
            return run.id
    return None


@rule(
    id="harness.joint-moves",
    consequence="Unreliable",
    scope="device",
    title="A joint lies where cables move",
    reason="A plug or a splice is stiff: in a chain or a loop the cable bends just beside it, and "
    "breaks there.",
    source="Practice of chain makers: no joints within a moving stretch.",
)
def joint_moves(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part, found = queries.part_of(device), queries.device(device)
    if part is None or found is None or part.kind not in ("connector", "resistor", "diode"):
        return
    place = queries.place(found.place or "")
    if place is None or place.strain_relief or place.closed:
        return
    runs = [run for run in queries.runs() if place.id in (run.a, run.b)]
    moving = [run for run in runs if run.moving]
    if len(moving) < 2 or len(moving) < len(runs):
        return
    first, second = moving[:2]
    if (first.axis, first.chain, first.coiled) == (second.axis, second.chain, second.coiled):
        yield RuleOutput(
            f"{device} lies between {first.id} and {second.id}, within a moving stretch.",
            (about(device), about_run(first.id)),
        )


RULES = (
    chain_full,
    chain_height,
    bend_radius,
    motor_encoder,
    mains_duct,
    strain_relief,
    joint_moves,
)
