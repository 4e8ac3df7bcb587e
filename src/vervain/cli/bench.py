"""`vervain bench`: what is proven at the bench, step by step, before a machine runs."""

import argparse
import json
from pathlib import Path

from vervain.cli.common import CLEAN, Commands, read_machine
from vervain.model.machine import Machine

FORMAT = "vervain bench"
BOXES = {"passed": "[x]", "failed": "[!]", "again": "[ ]", "": "[ ]"}


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    command = commands.add_parser(
        "bench",
        help="what to prove before the machine runs, step by step",
        description="Steps from before power to the stops, each with what to see. Those that an "
        "open finding of Damage makes harmful are held back, with the reason. Exit status: 0, "
        "2 cannot read.",
    )
    command.add_argument("file", type=Path)
    command.add_argument("--json", action="store_true", help="print JSON")
    command.add_argument(
        "--report", type=Path, metavar="OUT", help="write what was seen: OUT.pdf or OUT.html"
    )
    command.set_defaults(run=run_bench)


def _write_report(machine: Machine, path: Path) -> int:
    from vervain.exports.bench_report import bench_report_html, bench_report_pdf
    from vervain.files.problems import FileProblem
    from vervain.files.writing import write_whole

    form = path.suffix.lower()
    if form not in (".pdf", ".html"):
        raise FileProblem(str(path), "A report is a .pdf or an .html.")
    data = bench_report_pdf(machine) if form == ".pdf" else bench_report_html(machine)
    write_whole(path, data)
    return CLEAN


def run_bench(options: argparse.Namespace) -> int:
    from vervain.api import Queries, check
    from vervain.bench.checklist import bench_list
    from vervain.bench.results import step_results

    machine = read_machine(options.file)
    if options.report is not None:
        return _write_report(machine, options.report)
    queries = Queries(machine)
    steps = bench_list(queries, check(machine).open)
    results = step_results(queries, steps)
    if options.json:
        listed = [
            {"id": s.id, "section": s.section, "device": s.device, "place": s.place, "do": s.do,
             "see": s.see, "why": s.why, "held": s.held, "mark": s.mark}
            for s in steps
        ]  # fmt: skip
        print(json.dumps({"format": FORMAT, "version": 1, "steps": listed}, ensure_ascii=False,
                         indent=1))  # fmt: skip
        return CLEAN
    section = ""
    for number, step in enumerate(steps, 1):
        if step.section != section:
            section = step.section
            print(f"\n{section}")
        place = f" ({step.place})" if step.place else ""
        found = results[step.id]
        box = BOXES[found.state]
        seen = f"  ({found.words})" if found.words else ""
        print(f"{number:4}  {box} {step.do}{place}\n          {step.see}{seen}")
        if found.state == "again":
            print(f"          To be seen again. {found.reason}")
        if step.held and found.result is None:
            print(f"          Held back: {step.held}")
    if not steps:
        print("Nothing is there to prove yet.")
    return CLEAN
