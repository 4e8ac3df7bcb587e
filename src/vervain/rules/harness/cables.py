"""Rules about single cables: lengths and routes, cores, contacts, flexing, spare cores."""

from collections import Counter
from collections.abc import Iterator
from itertools import combinations

from vervain.electrical.feeds import RETURN_FUNCTIONS
from vervain.harness.cable_routes import cable_route, lead_route, lead_side, wants_cable
from vervain.harness.flexing import flexing_twin
from vervain.harness.lengths import cable_length
from vervain.harness.plugs import Plug, Wire, label_of_wire, plugs_of_device
from vervain.harness.terminations import termination
from vervain.model.electrical import FeedOut
from vervain.model.machine import PinRef, ends_of
from vervain.model.ways_back import signal_of
from vervain.ports.extension import extension_length_m
from vervain.queries.connectivity import paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import lead_shortage_mm, millimetres
from vervain.rules.finding import Fix, about, about_cable, about_port, about_run
from vervain.rules.harness_fixes import CutAnew, DealWithSpares, ExtendLeads, MakeOf, ShortestWay
from vervain.rules.rule import RuleOutput, rule
from vervain.text.units import in_area, in_length
from vervain.text.words import count_of

# What may share a twisted pair: a line and its complement, or a supply or signal and its return.
COMPLEMENTARY = ("encoder A", "encoder B", "encoder Z")
POWERED = ("plus", "line", "neutral", "pe")


@rule(
    id="harness.no-cable",
    consequence="Workmanship",
    scope="hookup",
    title="Something is joined, and has no cable yet",
    reason="What has none is in no cut list, on no sheet, and its drop is that of a guess.",
    source="The machine's own cables; the leads of its parts.",
)
def no_cable(queries: Queries, hookup_id: str) -> Iterator[RuleOutput]:
    hookup = queries.hookup(hookup_id)
    if hookup is not None and wants_cable(queries, hookup_id):
        ends = [f"{end.device} {end.port}" for end in (hookup.a, hookup.b)]
        yield RuleOutput(
            f"{ends[0]} and {ends[1]} are joined, and have no cable yet.",
            (about_port(hookup.a), about_port(hookup.b)),
            unfinished=True,
        )


@rule(
    id="harness.no-length",
    consequence="Workmanship",
    scope="cable",
    title="A cable's length is not given",
    reason="Without it nothing can be cut, and no drop can be worked out.",
    source="The machine's own places and runs, or a measured length.",
)
def no_length(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    length = cable_length(queries, cable_id)
    if length.used_m is None and queries.hookups_in(cable_id):
        yield RuleOutput(
            f"The length of {cable_id} is not given.",
            (about_cable(cable_id),),
            why=f"It cannot be worked out: {length.missing}.",
        )


@rule(
    id="harness.short-cable",
    consequence="Won't run",
    scope="cable",
    title="A cable is shorter than its path",
    reason="It does not reach, or it is the one that holds the machine together when it moves.",
    source="The sum of its runs, slack of the moving ones and stripped ends; loops not counted.",
)
def short_cable(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    length = cable_length(queries, cable_id)
    if length.measured_m is None or length.missing or not cable_route(queries, cable_id).runs:
        return
    path_m = length.of("run", "slack", "end")
    if millimetres(length.measured_m) < millimetres(path_m):
        fix = Fix(
            words=f"cut it anew, {in_length(length.cut_m or 0)}", remedy=CutAnew(cable=cable_id)
        )
        yield RuleOutput(
            f"{cable_id} is shorter than its path.",
            (about_cable(cable_id),),
            value=length.measured_m,
            limit=round(path_m, 3),
            unit="m",
            over=False,
            fixes=(fix,),
        )


@rule(
    id="harness.short-lead",
    consequence="Won't run",
    scope="hookup",
    title="A device's own leads do not reach",
    reason="The leads end before the port. They want an extension with mating connectors, or a "
    "place nearer by.",
    source="The length of the leads against the runs between both places, and 0.15 m for the ends.",
)
def short_lead(queries: Queries, hookup_id: str) -> Iterator[RuleOutput]:
    hookup = queries.hookup(hookup_id)
    if hookup is None or hookup.cable is not None:
        return
    side = lead_side(queries, hookup)
    port = queries.port(side) if side else None
    runs = lead_route(queries, hookup_id).runs
    if side is None or port is None or not port.lead_length_m or not runs:
        return
    short_mm = lead_shortage_mm(queries, port.lead_length_m, runs)
    if short_mm > 0:
        length_m = extension_length_m(short_mm / 1000)
        remedy = ExtendLeads(hookup=hookup_id, plug=side, length_m=length_m)
        far = hookup.b if hookup.a == side else hookup.a
        yield RuleOutput(
            f"The leads of {side.device} do not reach {far.device}.",
            (about(side), about_run(runs[0])),
            at=(about(far.device),),
            value=port.lead_length_m,
            limit=round(port.lead_length_m + short_mm / 1000, 3),
            unit="m",
            over=False,
            fixes=(Fix(words=f"put in an extension of {in_length(length_m)}", remedy=remedy),),
        )


@rule(
    id="harness.route-broken",
    consequence="Unreliable",
    scope="cable",
    title="A cable's route does not join its ends",
    reason="The runs that it was laid through by hand do not lead from one of its ends to the "
    "other any more: its length and its bundles are wrong.",
    source="The machine's own places and runs.",
)
def route_broken(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable, route = queries.cable(cable_id), cable_route(queries, cable_id)
    if cable is not None and cable.runs and route.missing and route.places:
        yield RuleOutput(
            f"{cable_id} is laid through {', '.join(cable.runs)}, which do not join its ends.",
            (about_cable(cable_id),),
            fixes=(Fix(words="let it take the shortest way", remedy=ShortestWay(cable=cable_id)),),
        )


@rule(
    id="harness.few-cores",
    consequence="Won't run",
    scope="cable",
    title="A cable has too few cores",
    reason="Two conductors cannot be one core, and a conductor without a core is not there.",
    source="The cable's own cores against the conductors that are laid in it.",
)
def few_cores(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    rows = [row for hookup in queries.hookups_in(cable_id) for row in hookup.conductors]
    used = Counter(row.core for row in rows if row.core is not None)
    doubled = sorted(core for core, count in used.items() if count > 1)
    without = sum(row.core is None for row in rows)
    if part is None or not (doubled or without):
        return
    if len(rows) > len(part.cores):
        words = f"{cable_id} has {len(part.cores)} cores for {len(rows)} conductors."
    elif doubled:
        words = f"Core {doubled[0]} of {cable_id} is to be {used[doubled[0]]} conductors at once."
    else:
        words = f"{count_of(without, 'conductor')} in {cable_id} without a core."
    yield RuleOutput(
        words,
        (about_cable(cable_id, doubled[0] if doubled else None),),
        value=float(len(rows)) if len(rows) > len(part.cores) else None,
        limit=float(len(part.cores)) if len(rows) > len(part.cores) else None,
        unit="cores",
    )


@rule(
    id="harness.unused-cores",
    consequence="Workmanship",
    scope="cable",
    title="Unused cores are left as they are",
    reason="A bare end finds the nearest terminal. Insulate unused cores singly at both ends, cut "
    "them back, or earth them at one end.",
    source="IEC 60204-1 13.1: unused conductors; practice.",
)
def unused_cores(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    hookups = queries.hookups_in(cable_id)
    if cable is None or part is None or cable.spares or not hookups:
        return
    used = {row.core for hookup in hookups for row in hookup.conductors}
    free = [number for number in range(1, len(part.cores) + 1) if number not in used]
    if free:
        colours = ", ".join(part.cores[number - 1] for number in free)
        count = "One core" if len(free) == 1 else f"{len(free)} cores"
        yield RuleOutput(
            f"{count} of {cable_id} left over: {colours}.",
            (about_cable(cable_id),),
            fixes=(
                Fix(
                    words="insulate them singly",
                    remedy=DealWithSpares(cable=cable_id, spares="insulated"),
                ),
            ),
        )


@rule(
    id="harness.contact-gauge",
    consequence="Unreliable",
    scope="hookup",
    title="A core does not suit its contact",
    reason="A crimp holds only the cross-sections that it was made for: thinner ones slip out, "
    "thicker ones do not go in or split it.",
    source="The families' ranges, data/tables/connectors.toml; your own data sheet rules.",
)
def contact_gauge(queries: Queries, hookup_id: str) -> Iterator[RuleOutput]:
    hookup = queries.hookup(hookup_id)
    said: set[tuple[str, str]] = set()
    for conductor in hookup.conductors if hookup else ():
        for pin in ends_of(hookup, conductor) if hookup else ():
            end = termination(queries, hookup_id, pin)
            area, least, most = end.area_mm2, end.least_mm2, end.most_mm2
            if end.fits is not False or area is None or least is None or most is None:
                continue
            if (pin.device, pin.port) in said:
                continue
            said.add((pin.device, pin.port))
            over = area > most
            subjects = [about(pin.port_ref)]
            if hookup is not None and hookup.cable is not None:
                subjects.append(about_cable(hookup.cable))
            yield RuleOutput(
                f"{in_area(area)} is too {'thick' if over else 'thin'} for the contacts of "
                f"{pin.device} {pin.port}.",
                tuple(subjects),
                at=(about_port(pin),),
                value=area,
                limit=most if over else least,
                unit="mm²",
                over=over,
            )


@rule(
    id="harness.pair-mixed",
    consequence="Unreliable",
    scope="cable",
    title="Two signals share a twisted pair",
    reason="The two cores of a pair couple to each other most of all. A pair holds a line and its "
    "complement, or a line and its return; two signals in it cross over.",
    source="TIA/EIA-422 and practice: a pair a signal.",
)
def pair_mixed(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if part is None:
        return
    carried = functions_by_core(queries, cable_id)
    for first, second in part.core_pairs:
        one, other = carried.get(first), carried.get(second)
        if one is None or other is None or _may_pair(one, other):
            continue
        yield RuleOutput(
            f"Cores {first} and {second} of {cable_id} are one pair, for two signals.",
            (about_cable(cable_id, first), about_cable(cable_id, second)),
            detail=str(first),
            why=f"One carries {min(one)}, the other {min(other)}.",
        )


@query
def functions_by_core(queries: Queries, cable_id: str) -> dict[int, frozenset[str]]:
    """The functions that each core of a cable leads to, at its pins and through connectors."""
    found: dict[int, set[str]] = {}
    for hookup in queries.hookups_in(cable_id):
        for row in hookup.conductors:
            for pin in ends_of(hookup, row):
                for ref in (pin, *(way.end for way in paths_from(queries, pin))):
                    there = queries.pin(ref)
                    if row.core is not None and there is not None and there.function != "through":
                        found.setdefault(row.core, set()).add(there.function)
    return {core: frozenset(functions) for core, functions in found.items()}


def _may_pair(one: frozenset[str], other: frozenset[str]) -> bool:
    returns = {*RETURN_FUNCTIONS, *POWERED, "com", "shield", "none"}
    if one & returns or other & returns:
        return True
    return bool(set(map(signal_of, one)) & set(map(signal_of, other)))


@rule(
    id="harness.fixed-cable",
    consequence="Unreliable",
    scope="cable",
    title="A cable for fixed laying lies in a moving run",
    reason="Cables for fixed laying have coarse strands and a stiff sheath; bent all day, they "
    "break inside where nobody sees it.",
    source="The cable's own data sheet: flexing or not.",
)
def fixed_cable(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if cable is None or part is None or part.flexing:
        return
    moving = [
        name
        for name in cable_route(queries, cable_id).runs
        if (run := queries.run(name)) is not None and run.moving
    ]
    if moving:
        twin = flexing_twin(part)
        yield RuleOutput(
            f"{cable_id} is for fixed laying, and {moving[0]} moves.",
            (about_cable(cable_id), about_run(moving[0])),
            fixes=(
                Fix(words=f"make it of {twin.title}", remedy=MakeOf(cable=cable_id, part=twin)),
            ),
        )


@rule(
    id="harness.same-colour",
    consequence="Workmanship",
    scope="device",
    title="Two wires of one colour in one plug must not be exchanged",
    reason="Of two wires alike somebody will one day put the wrong one in. Where one of them is a "
    "supply, that does harm: choose another colour, or sleeve one end.",
    source="The functions of the cavities; practice.",
)
def same_colour(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for plug in plugs_of_device(queries, device):
        twins = _harmful_twins(queries, plug)
        if twins is not None:
            first, second = twins
            yield RuleOutput(
                f"{label_of_wire(queries, first)} and {label_of_wire(queries, second)} are both "
                f"{first.colour} in {device} "
                f"{plug.port.port}; exchanged, they do harm.",
                (about(plug.port),),
                detail=plug.port.port,
            )


def _harmful_twins(queries: Queries, plug: Plug) -> tuple[Wire, Wire] | None:
    """Two wires of one colour, of which one is a supply's plus and the other a return."""
    wires = [(cavity, wire) for cavity in plug.cavities for wire in cavity.wires]
    for (one, first), (other, second) in combinations(wires, 2):
        if one is other or first.colour is None or first.colour != second.colour:
            continue
        if {_pole(queries, one.pin), _pole(queries, other.pin)} == {"plus", "return"}:
            return first, second
    return None


@query
def _pole(queries: Queries, pin: PinRef) -> str:
    """Whether only copper lies between a pin and the plus of a source, or its return."""
    for ref in queries.net(pin):
        there = queries.pin(ref)
        if there is not None and isinstance(there.electrical, FeedOut):
            return "plus" if there.function == "plus" else ""
        if there is not None and there.function in RETURN_FUNCTIONS:
            port = queries.port(ref.port_ref)
            if port is not None and port.kind == "feed out":
                return "return"
    return ""


RULES = (
    no_cable,
    no_length,
    short_cable,
    short_lead,
    route_broken,
    few_cores,
    unused_cores,
    contact_gauge,
    pair_mixed,
    fixed_cable,
    same_colour,
)
