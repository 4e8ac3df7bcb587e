"""`vervain bench`: what is proven at the bench, step by step, before a machine runs."""

import argparse
import json
from pathlib import Path

from vervain.cli.common import CLEAN, Commands, read_machine

FORMAT = "vervain bench"


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
    command.set_defaults(run=run_bench)


def run_bench(options: argparse.Namespace) -> int:
    from vervain.api import Queries, check
    from vervain.bench.checklist import bench_list

    machine = read_machine(options.file)
    steps = bench_list(Queries(machine), check(machine).open)
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
        print(f"{number:4}  [ ] {step.do}{place}\n          {step.see}")
        if step.held:
            print(f"          Held back: {step.held}")
    if not steps:
        print("Nothing is there to prove yet.")
    return CLEAN
