"""`vervain place`: a port for every loose plug."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, FOUND, Commands, read_machine, write_machine


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    place = commands.add_parser(
        "place",
        help="put every loose plug into a port",
        description="Exit status: 0 everything is placed, 1 something cannot be, 2 cannot read.",
    )
    place.add_argument("file", type=Path)
    place.add_argument("--to", type=Path, required=True, help="machine file to write")
    place.add_argument("--explain", action="store_true", help="say why, a line a plug")
    place.set_defaults(run=run_place)


def run_place(options: argparse.Namespace) -> int:
    from vervain import api

    machine = read_machine(options.file)
    proposal = api.place(machine)
    write_machine(api.apply_placements(machine, proposal.placements), options.to)
    if options.explain:
        for placement in proposal.placements:
            print(placement.reason)
    for conflict in proposal.conflicts:
        print(conflict.words)
    left = sum(len(conflict.plugs) for conflict in proposal.conflicts)
    contended = f", {left} contend for ports" if left else ""
    print(f"{len(proposal.placements)} plugs placed{contended}; written to {options.to}")
    return FOUND if proposal.conflicts else CLEAN
