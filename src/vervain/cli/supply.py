"""`vervain supply`: what each supply gives, and what arrives."""

import argparse
from pathlib import Path

from vervain.api import STATE_WORDS, STATES, Queries, source_name, supply
from vervain.cli.common import CLEAN, Commands, read_machine


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    command = commands.add_parser("supply", help="print what each supply gives, and what arrives")
    command.add_argument("file", type=Path)
    command.add_argument("--state", choices=STATES, default="everything")
    command.set_defaults(run=run_supply)


def run_supply(options: argparse.Namespace) -> int:
    machine = read_machine(options.file)
    queries, figures = Queries(machine), supply(machine, options.state)
    print(f"{STATE_WORDS[options.state]}:")
    for load in figures.loads:
        name = source_name(queries, load.pin)
        print(f"  {name:8} {load.current_a:7.2f} of {load.rated_a:g} A  {load.fraction:6.0%}")
    for row in figures.delivered_power:
        where = f"{row.pin.device} {row.pin.port}"
        voltage_v = "  -  " if row.voltage_v is None else f"{row.voltage_v:5.2f}"
        lost = "" if row.lost is None else f"  lost {row.lost:6.1%}"
        fares = "" if row.status == "on" else f"  {row.status}"
        source = source_name(queries, row.source)
        of_v = f"{row.source_v or row.nominal_v:g}"
        print(
            f"  {where:14} {row.current_a:7.3f} A  {voltage_v} of {of_v} V of {source}{lost}{fares}"
        )
    return CLEAN
