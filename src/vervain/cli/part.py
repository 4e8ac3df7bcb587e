"""`vervain part`: what is wrong with a part file and what it leaves open; a part drawn."""

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
    draw = acts.add_parser("draw", help="draw a part of a part file as PNG, SVG or PDF")
    draw.add_argument("file", type=Path)
    draw.add_argument("--part", default="", help="its id, where the file has several")
    draw.add_argument("--to", type=Path, required=True, metavar="FILE")
    draw.set_defaults(run=run_draw)


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


def run_draw(options: argparse.Namespace) -> int:
    from vervain.desktop.app import make_application
    from vervain.desktop.part_drawing import draw_part
    from vervain.files.part_files import read_part_file
    from vervain.model.problem import Problem, did_you_mean

    parts = {part.id: part for part in read_part_file(options.file).part}
    wanted = options.part or (next(iter(parts)) if len(parts) == 1 else "")
    if wanted not in parts:
        remedy = did_you_mean(wanted, parts) if wanted else f"It has {', '.join(parts) or 'none'}."
        what = f"There is no part “{wanted}”" if wanted else "Say which part with --part"
        raise Problem(f"{what}.", place=str(options.file), remedy=remedy)
    make_application()
    draw_part(parts[wanted], options.to)
    return CLEAN
