"""`vervain feed`: a feed for everything that has none."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, FOUND, Commands, read_machine, write_machine


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    feed = commands.add_parser(
        "feed",
        help="feed everything that has no power yet, mains and protective earth included",
        description="Exit status: 0 everything is fed, 1 something is yours to decide, "
        "2 cannot read.",
    )
    feed.add_argument("file", type=Path)
    feed.add_argument("--to", type=Path, required=True, help="machine file to write")
    feed.add_argument("--explain", action="store_true", help="say why, two lines a step")
    feed.set_defaults(run=run_feed)


def run_feed(options: argparse.Namespace) -> int:
    from vervain import api

    machine = read_machine(options.file)
    plan = api.plan_feeds(machine)
    write_machine(api.apply_feeds(machine, plan.steps), options.to)
    for step in plan.steps if options.explain else ():
        print(step.words)
        print(f"    {step.reason}")
    for words in plan.decisions:
        print(f"Yours to decide: {words}")
    print(f"{len(plan.steps)} steps; written to {options.to}")
    return FOUND if plan.decisions else CLEAN
