"""The whole bench list of a machine, in the order of the work."""

from collections.abc import Callable, Iterable, Iterator

from msgspec.structs import replace

from vervain.bench.before_power import before_power
from vervain.bench.first_power import first_power
from vervain.bench.motion import axes, calibration, stops
from vervain.bench.signals import inputs, outputs
from vervain.bench.step import SECTIONS, BenchStep, Section
from vervain.ports.occupancy import place_name
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Finding

MAKERS: dict[Section, Callable[[Queries], Iterator[BenchStep]]] = {
    "Before power": before_power, "First power": first_power, "Inputs": inputs,
    "Outputs": outputs, "Axes": axes, "Stops": stops, "Calibration": calibration,
}  # fmt: skip
# Where an open finding of Damage holds a step back that brings power to a device it is about.
UNDER_POWER = SECTIONS[1:]


def bench_list(queries: Queries, findings: Iterable[Finding] = ()) -> tuple[BenchStep, ...]:
    """Every step, section by section; those that bring power to a device with an open finding of
    Damage are held back, with the finding's sentence.
    """
    grave: dict[str, str] = {}
    for finding in findings:
        for subject in finding.subjects if finding.consequence == "Damage" else ():
            if subject.device is not None:
                grave.setdefault(subject.device, finding.sentence)
    found: dict[str, BenchStep] = {}
    for section in SECTIONS:
        for step in MAKERS[section](queries):
            powered = (step.device, *step.powers) if section in UNDER_POWER else ()
            held = next((grave[name] for name in powered if name in grave), "")
            place = place_name(queries, step.device)
            # Two steps of one name would share what was seen.
            found.setdefault(step.id, replace(step, section=section, place=place, held=held))
    return tuple(found.values())
