"""`vervain table`, `harness` and `cards`: papers for the bench."""

import argparse
import sys
from pathlib import Path

from vervain.cli.common import CLEAN, Commands, read_machine, write_out
from vervain.exports.bench_set import ENDINGS, FORMS, PAPERS
from vervain.model.problem import Problem


def add_command(commands: Commands) -> None:
    """Adds the commands to those of the command line."""
    table = commands.add_parser("table", help="write the harness table")
    table.add_argument("file", type=Path)
    table.add_argument("--as", dest="form", choices=FORMS, required=True)
    table.add_argument("--to", type=Path, help="where to write; standard output if left out")
    table.add_argument("--paper", choices=PAPERS, default="a4", help="of what is printed")
    table.set_defaults(run=run_table)
    harness = commands.add_parser("harness", help="write everything that goes to the bench")
    harness.add_argument("file", type=Path)
    harness.add_argument("--to", type=Path, required=True, help="folder for the set")
    harness.set_defaults(run=run_harness)
    cards = commands.add_parser("cards", help="write a door card (PDF) for every board")
    cards.add_argument("file", type=Path)
    cards.add_argument("--to", type=Path, required=True, help="folder for the cards")
    cards.add_argument("--paper", choices=PAPERS, default="a4")
    cards.set_defaults(run=run_cards)


def run_table(options: argparse.Namespace) -> int:
    from vervain import api

    data = api.export(read_machine(options.file), options.form, options.paper)
    if options.to is None and options.form in ("xlsx", "pdf", *ENDINGS) and sys.stdout.isatty():
        raise Problem("This form is not for the screen.", remedy="Give a file with --to.")
    write_out(data, options.to)
    return CLEAN


def run_harness(options: argparse.Namespace) -> int:
    from vervain import api

    machine = read_machine(options.file)
    for path in api.export_set(machine, options.to):
        print(path)
    return CLEAN


def run_cards(options: argparse.Namespace) -> int:
    from vervain.desktop.app import make_application
    from vervain.desktop.stages.ports.door_card import with_cards, write_door_card

    make_application()
    machine = read_machine(options.file)
    for device in with_cards(machine):
        print(write_door_card(machine, device, options.to / f"{device}.pdf", options.paper))
    return CLEAN
