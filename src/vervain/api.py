"""Vervain for scripts and other programs: the stable names, all without a window.

A machine is an immutable value; whatever changes one gives another. What cannot be done raises
`Problem`, with what happened, the place and the remedy. See docs/python-api.md.
"""

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import NamedTuple

from vervain.bench.causes import Cause, causes
from vervain.bench.checklist import bench_list
from vervain.bench.results import StepResult, make_result, step_results
from vervain.bench.step import BenchStep
from vervain.cabling.apply_plan import accept_cables
from vervain.cabling.planned_cable import PlannedCable
from vervain.cabling.planner import CablePlan
from vervain.cabling.planner import plan_cables as _plan_cables
from vervain.cabling.selection import Options as CableOptions
from vervain.edits.bench_edits import keep_result
from vervain.exports.bench_set import FORMS, harness_bytes, write_set
from vervain.exports.formats import csv_bytes, findings_json
from vervain.exports.tables import Table, all_tables
from vervain.files.demos import DEMOS, TEMPLATES, open_demo, open_template
from vervain.files.lists import Import as ListOutcome
from vervain.files.lists import dry_run as _dry_run
from vervain.files.lists import read_sheet as _read_sheet
from vervain.files.machine_file import decode_machine
from vervain.files.machine_file import open_machine as _open_machine
from vervain.files.part_files import decode_parts, shipped_shelf
from vervain.files.problems import FileProblem
from vervain.files.saving import save_document
from vervain.files.shelf import own_folder, read_shelf
from vervain.files.versions import (
    ORIGIN_WORDS,
    Version,
    VersionRow,
    VersionRules,
    default_rules,
    open_version,
    version_rows,
)
from vervain.files.versions import versions_of as _versions_of
from vervain.harness.compare import Difference, compare
from vervain.harness.cutting import Cutting
from vervain.harness.label_texts import LabelText, label_texts
from vervain.harness.shopping import Item, cutting_of, shopping_list
from vervain.leads.datasheet import Datasheet
from vervain.leads.identification import Finding as CoilFinding
from vervain.leads.identification import find as _find_coils
from vervain.leads.lead_order import Next as LeadExchange
from vervain.leads.lead_order import next_step
from vervain.model.bench_result import Outcome
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.measurements import Meter, Reading, Trial
from vervain.model.part import Part
from vervain.model.problem import Problem
from vervain.model.validation import checked
from vervain.ports.proposal import Conflict, Placement, Proposal
from vervain.ports.proposing import propose
from vervain.queries.changes import changes
from vervain.queries.machine_queries import Queries
from vervain.rules.causes import explain, explained
from vervain.rules.engine import check_look
from vervain.rules.feeding import propose_feeds
from vervain.rules.finding import Finding, Fix, Result
from vervain.rules.placed import accepted
from vervain.rules.registry import RULES
from vervain.rules.rule import Rule
from vervain.supply.feed_steps import FeedPlan, FeedStep, carry_out
from vervain.supply.results import (
    DeliveredPower,
    SupplyLoad,
    delivered_power,
    source_name,
    supply_loads,
)
from vervain.supply.states import STATE_WORDS, STATES, State

__all__ = [
    "DEMOS",
    "FORMS",
    "ORIGIN_WORDS",
    "RULES",
    "STATES",
    "STATE_WORDS",
    "TEMPLATES",
    "BenchStep",
    "CableOptions",
    "CablePart",
    "CablePlan",
    "Cause",
    "CoilFinding",
    "Conflict",
    "Cutting",
    "Datasheet",
    "DeliveredPower",
    "Difference",
    "FeedPlan",
    "FeedStep",
    "FileProblem",
    "Finding",
    "Fix",
    "Item",
    "LabelText",
    "LeadExchange",
    "ListOutcome",
    "Machine",
    "Meter",
    "Part",
    "PinRef",
    "Placement",
    "PlannedCable",
    "PortRef",
    "Problem",
    "Proposal",
    "Queries",
    "Reading",
    "Result",
    "Rule",
    "State",
    "StepResult",
    "SupplyFigures",
    "SupplyLoad",
    "Table",
    "Trial",
    "Version",
    "VersionRow",
    "VersionRules",
    "apply_cables",
    "apply_feeds",
    "apply_fix",
    "apply_placements",
    "bench_causes",
    "bench_results",
    "bench_steps",
    "check",
    "cutting",
    "decode_machine",
    "decode_parts",
    "differences",
    "differences_in_words",
    "edited",
    "export",
    "export_set",
    "findings_json",
    "identify_coils",
    "labels",
    "lead_order",
    "open_demo",
    "open_machine",
    "open_template",
    "open_version",
    "place",
    "plan_cables",
    "plan_feeds",
    "save_machine",
    "shipped_parts",
    "shopping",
    "source_name",
    "supply",
    "table_csv",
    "tables",
    "take_list_in",
    "version_rows",
    "versions",
    "with_bench_result",
]  # fmt: skip


class SupplyFigures(NamedTuple):
    """What each supply gives in A against its rating, and what arrives at each fed pin."""

    loads: tuple[SupplyLoad, ...]
    delivered_power: tuple[DeliveredPower, ...]


def open_machine(path: str | Path) -> Machine:
    """The machine in a file. Raises `FileProblem` with the place of every fault."""
    return _open_machine(Path(path))


def save_machine(machine: Machine, path: str | Path, versions: VersionRules | None = None) -> None:
    """Saves a machine: proven to open again, whole at every moment, what was there kept as a
    version. Raises `FileProblem`, and then the old file is still whole.
    """
    save_document(machine, Path(path), None, versions or default_rules(), replaces=True)


def versions(path: str | Path, rules: VersionRules | None = None) -> tuple[Version, ...]:
    """The saves of a machine file that were kept, the newest first; the file itself need not be
    there. `open_version` gives the machine of one, `version_rows` what changed after each.
    """
    return _versions_of(Path(path), rules or default_rules())


def take_list_in(machine: Machine, path: str | Path) -> ListOutcome:
    """What a list of devices or conductors, CSV or XLSX (docs/import.md), would do to a machine,
    row by row, and the machine with what was taken. Parts are those of the builder's shelf. Raises
    `Problem` where its head names neither parts nor ends, `FileProblem` where it cannot be read.
    """
    shelf = read_shelf(own_folder())
    return _dry_run(machine, _read_sheet(Path(path)), shelf.parts, shelf.cable_parts)


def check(machine: Machine) -> Result:
    """The findings of a machine: open ones, the worst first, accepted ones, and what is to do.
    Findings that come from one mistake are told as one; each fix was tried on a copy.
    """
    queries = Queries(machine)
    result = check_look(queries)
    assert result is not None
    return explained(result, explain(queries, result)) if result.open else result


def apply_fix(machine: Machine, fix: Fix) -> Machine:
    """The machine after a fix of a finding. Raises `Problem` where it cannot be done."""
    return checked(machine, fix.remedy.apply(machine))


def edited(machine: Machine, *edits: Callable[[Machine], Machine]) -> Machine:
    """The machine after edits (the functions of `vervain.edits`). Raises `Problem` where one is
    refused, or makes what no machine file could hold.
    """
    for edit in edits:
        machine = checked(machine, edit(machine))
    return machine


def tables(machine: Machine) -> tuple[Table, ...]:
    """The harness table and all others, as rows with named columns."""
    return all_tables(machine)


def table_csv(table: Table) -> bytes:
    """A table as CSV (RFC 4180) in UTF-8."""
    return csv_bytes(table)


def supply(machine: Machine, state: State = "everything") -> SupplyFigures:
    """What the supplies give and what arrives, in one of `STATES`."""
    queries = Queries(machine)
    return SupplyFigures(supply_loads(queries, state), delivered_power(queries, state))


def identify_coils(
    leads: Sequence[str],
    readings: Iterable[Reading],
    datasheet: Datasheet | None = None,
    meter: Meter | None = None,
) -> CoilFinding:
    """What meter readings between a motor's leads say: the likeliest explanations, the coils, and
    the next pair to probe.
    """
    return _find_coils(tuple(leads), tuple(readings), datasheet, meter)


def lead_order(order: Sequence[str], trials: Iterable[Trial] = ()) -> LeadExchange:
    """The next two leads to exchange of a motor whose four leads are on A+ A- B+ B- in an order."""
    return next_step(tuple(order), tuple(trials))


def place(machine: Machine) -> Proposal:
    """A port for every loose plug, the best in all, each with its reason; and what contends."""
    return propose(machine)


def apply_placements(machine: Machine, placements: Iterable[Placement]) -> Machine:
    """The machine with plugs put where it was proposed."""
    return checked(machine, accepted(machine, tuple(placements)))


def plan_feeds(machine: Machine, parts: Iterable[Part] | None = None) -> FeedPlan:
    """A feed for everything that has to be fed and is not, mains and protective earth included, a
    step each with its reason; and what is left to decide. Strips, fuses and terminals that are not
    there are taken from the parts given, else from those that ship.
    """
    shelf = shipped_shelf()
    chosen = shelf.parts.values() if parts is None else parts
    return propose_feeds(machine, tuple(chosen), tuple(shelf.cable_parts.values()))


def apply_feeds(machine: Machine, steps: Iterable[FeedStep]) -> Machine:
    """The machine with steps of a plan carried out, in their order. Raises `Problem` where one
    needs another that is left out.
    """
    fed = machine
    for step in steps:
        fed = carry_out(fed, step)
    return checked(machine, fed)


def plan_cables(
    machine: Machine,
    parts: Iterable[CablePart] | None = None,
    options: CableOptions | None = None,
) -> CablePlan:
    """A cable for whatever has none, of the parts given, else of those that ship."""
    chosen = shipped_shelf().cable_parts.values() if parts is None else parts
    return _plan_cables(machine, chosen, options or CableOptions())


def apply_cables(
    machine: Machine, planned: Iterable[PlannedCable], options: CableOptions | None = None
) -> Machine:
    """The machine with planned cables laid."""
    return checked(machine, accept_cables(machine, tuple(planned), options or CableOptions()))


def cutting(machine: Machine) -> dict[str, Cutting]:
    """How the cables are cut from what there is and what is sold, by the id of the cable part."""
    queries = Queries(machine)
    return {part.id: cutting_of(queries, part.id) for part in machine.cable_parts}


def shopping(machine: Machine) -> tuple[Item, ...]:
    """Everything to get, section by section."""
    return shopping_list(Queries(machine))


def labels(machine: Machine) -> tuple[LabelText, ...]:
    """Every label of cores and cables."""
    return label_texts(Queries(machine))


def differences(old: Machine, new: Machine) -> Difference:
    """The conductors that differ between two versions, and the labels to print and to take off."""
    return compare(Queries(old), Queries(new))


def differences_in_words(old: Machine, new: Machine) -> tuple[str, ...]:
    """Everything that differs between two versions, a sentence each."""
    return changes(old, new)


def bench_steps(machine: Machine) -> tuple[BenchStep, ...]:
    """What to prove before the machine runs, in the order of the work (docs/bench.md)."""
    queries = Queries(machine)
    result = check_look(queries)
    assert result is not None
    return bench_list(queries, result.open)


def bench_results(machine: Machine) -> dict[str, StepResult]:
    """How each step of the bench stands, by its id, and what was seen there last."""
    return step_results(Queries(machine), bench_steps(machine))


def with_bench_result(
    machine: Machine, step: BenchStep, outcome: Outcome, seen: str = "", note: str = ""
) -> Machine:
    """The machine with what was seen at a step now, by its author."""
    return keep_result(machine, make_result(Queries(machine), step, outcome, seen, note))


def bench_causes(machine: Machine, step: BenchStep) -> tuple[Cause, ...]:
    """What to look at when a step fails, the first thing at the head."""
    queries = Queries(machine)
    result, steps = check_look(queries), bench_steps(machine)
    assert result is not None
    return causes(queries, step, steps, step_results(queries, steps), result.open)


def export(machine: Machine, form: str, paper: str = "a4") -> bytes:
    """The harness in one of `FORMS`, printed on “a4” or “letter”. Raises `Problem` for another
    form.
    """
    if form not in FORMS:
        raise Problem(f"“{form}” is no form.", remedy=f"There are {', '.join(FORMS)}.")
    return harness_bytes(machine, form, paper=paper)


def export_set(machine: Machine, folder: str | Path) -> list[Path]:
    """Writes everything that goes to the bench into a folder. Raises `FileProblem`."""
    return write_set(machine, Path(folder))


def shipped_parts() -> dict[str, Part]:
    """The parts that ship, by id."""
    return shipped_shelf().parts
