"""`vervain import`: devices or conductors from CSV or XLSX."""

import argparse
from pathlib import Path

from vervain.api import take_list_in
from vervain.cli.common import CLEAN, FOUND, Commands, read_machine, write_machine


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    taking = commands.add_parser(
        "import",
        help="take devices or conductors in from CSV or XLSX",
        description="Without --to it only says what each row would do. Exit status: 0 every row is "
        "taken or there already, 1 some are left out, 2 cannot read.",
    )
    taking.add_argument("file", type=Path, help="machine file")
    taking.add_argument("list", type=Path, help="CSV or XLSX (docs/import.md)")
    taking.add_argument("--to", type=Path, help="machine file to write")
    taking.set_defaults(run=run_import)


def run_import(options: argparse.Namespace) -> int:
    result = take_list_in(read_machine(options.file), options.list)
    for row in result.rows:
        print(f"row {row.number}, {row.verdict}: {row.words}")
    left = result.count("left out")
    there = result.count("there already")
    print(f"{result.count('taken')} taken, {there} there already, {left} left out")
    if options.to is not None:
        write_machine(result.machine, options.to)
        print(f"Written to {options.to}")
    return FOUND if left else CLEAN
