"""`vervain part check`: what is wrong with a part file, and what it leaves open."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, FOUND, Commands


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    part = commands.add_parser("part", help="look at part files")
    acts = part.add_subparsers(required=True)
    check = acts.add_parser(
        "check",
        help="check a part file (docs/part-files.md)",
        description="Exit status: 0 nothing left open, 1 something is, 2 cannot read.",
    )
    check.add_argument("file", type=Path, nargs="+")
    check.set_defaults(run=run_check)


def run_check(options: argparse.Namespace) -> int:
    from vervain.catalogue.part_doubts import doubts
    from vervain.files.part_files import read_part_file

    status = CLEAN
    for path in options.file:
        found, told = read_part_file(path), 0
        for part in found.part:
            for where, what, remedy in doubts(part):
                print(f"{part.id}: {where}: {what}. {remedy}".rstrip())
                told += 1
        status = FOUND if told else status
        print(
            f"{path}: {len(found.part)} parts, {len(found.cable_part)} cable parts, "
            f"{told or 'nothing'} left open"
        )
    return status
