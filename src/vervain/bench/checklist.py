"""The whole bench list of a machine, in the order of the work."""

from collections.abc import Callable, Iterable, Iterator
from itertools import chain, takewhile

from msgspec.structs import replace

from vervain.bench.before_power import before_power
from vervain.bench.commanded import commanded
from vervain.bench.first_power import first_power
from vervain.bench.motion import axes, calibration, motors_at_mains, stops, unplugged
from vervain.bench.signals import inputs, outputs
from vervain.bench.step import SECTIONS, BenchStep, Section
from vervain.harness.route_tree import RouteNode, route_trees
from vervain.ports.occupancy import place_name
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import place_of
from vervain.rules.finding import Finding

MAKERS: dict[Section, Callable[[Queries], Iterator[BenchStep]]] = {
    "Before power": before_power, "First power": first_power, "Inputs": inputs,
    "Outputs": lambda queries: chain(
        outputs(queries), commanded(queries), motors_at_mains(queries)
    ),
    "Axes": axes,
    "Stops": lambda queries: chain(stops(queries), unplugged(queries)),
    "Calibration": calibration,
}  # fmt: skip
# Where an open finding of Damage holds a step back that brings power to a device it is about.
UNDER_POWER = SECTIONS[1:]
# Sections whose steps of one kind may be done in any order: along the way round the machine.
WALKED: tuple[Section, ...] = ("Before power", "Inputs", "Outputs")


def bench_list(
    queries: Queries,
    findings: Iterable[Finding] = (),
    should_continue: Callable[[], bool] = lambda: True,
) -> tuple[BenchStep, ...]:
    """Every step, section by section; those that bring power to a device with an open finding of
    Damage are held back, with the finding's sentence. It ends early where it should not continue.
    """
    grave: dict[str, str] = {}
    for finding in findings:
        for subject in finding.subjects if finding.consequence == "Damage" else ():
            if subject.device is not None:
                grave.setdefault(subject.device, finding.sentence)
    found: dict[str, BenchStep] = {}
    way = _way_round(queries)
    for section in SECTIONS:
        made = list(takewhile(lambda _: should_continue(), MAKERS[section](queries)))
        if section in WALKED:
            made = _walked(queries, made, way)
        for step in made:
            powered = (step.device, *step.powers) if section in UNDER_POWER else ()
            held = next((grave[name] for name in powered if name in grave), "")
            place = place_name(queries, step.device)
            # Two steps of one name would share what was seen.
            found.setdefault(step.id, replace(step, section=section, place=place, held=held))
    return tuple(found.values())


def _way_round(queries: Queries) -> dict[str, int]:
    """The places in the order of a walk along the runs, each branch to its end before the next."""
    places = (place for tree in route_trees(queries) for place in _places_of(tree))
    return {place: number for number, place in enumerate(dict.fromkeys(places))}


def _places_of(node: RouteNode) -> Iterator[str]:
    yield node.place
    for branch in node.beyond:
        yield from _places_of(branch)


def _walked(queries: Queries, steps: list[BenchStep], way: dict[str, int]) -> list[BenchStep]:
    """Steps kind by kind as they come, those of a kind in the order of the places on the way."""
    kinds = list(dict.fromkeys(step.kind for step in steps))

    def key(step: BenchStep) -> tuple[int, int]:
        return kinds.index(step.kind), way.get(place_of(queries, step.device) or "", -1)

    return sorted(steps, key=key)
