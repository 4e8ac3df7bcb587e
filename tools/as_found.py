"""The bench lists of the demonstrations as planned, gone through on the machines as found: which
findings of the check show at which step, and which only the check tells.

    python tools/as_found.py
"""

from typing import NamedTuple

from vervain.bench.checklist import bench_list
from vervain.bench.step import BenchStep
from vervain.files.demos import open_demo
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine
from vervain.rules.finding import Finding
from vervain.stand_in.hands import do_step
from vervain.stand_in.simulated_machine import SimulatedMachine

# What nearly every step is about as well: such a step shows nothing of them.
SHARED = ("controller", "supply", "battery")
DEMOS = ("glazing-gantry", "clay-printer", "seedling-arm")


class Shown(NamedTuple):
    """A finding of a machine as found, with the steps that fail at what it names."""

    finding: Finding
    steps: tuple[BenchStep, ...]


def failed_steps(demo: str) -> tuple[BenchStep, ...]:
    """The steps of the machine as planned that the machine as found does not pass."""
    planned = open_demo(f"{demo}-as-planned")
    machine = SimulatedMachine(open_demo(f"{demo}-as-found"), (), planned)
    steps = bench_list(Queries(planned))
    return tuple(step for step in steps if do_step(machine, step).outcome != "passed")


def shown(demo: str) -> tuple[Shown, ...]:
    """The findings above Workmanship, each with the failed steps at its devices."""
    failed = failed_steps(demo)
    machine = open_demo(f"{demo}-as-found")
    kinds = {part.id: part.kind for part in machine.parts}
    shared = {device.designator for device in machine.devices if kinds[device.part] in SHARED}
    return tuple(
        Shown(finding, tuple(step for step in failed if step.device in _named(finding) - shared))
        for finding in check_machine(machine).open
        if finding.consequence != "Workmanship" and not finding.rule.startswith("harness.")
    )


def _named(finding: Finding) -> set[str]:
    subjects = (*finding.subjects, finding.about, *finding.at)
    return {subject.device for subject in subjects if subject.device is not None}


def table() -> str:
    """The table, in Markdown."""
    rows = [
        "| demonstration | what the check finds | the first step that shows it |",
        "|---|---|---|",
    ]
    for demo in DEMOS:
        for finding, steps in shown(demo):
            step = steps[0].id if steps else "none: only the check tells"
            rows.append(f"| {demo} | {finding.sentence} | {step} |")
    return "\n".join(rows)


if __name__ == "__main__":
    print(table())
