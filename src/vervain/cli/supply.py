"""`vervain supply`: what each supply gives, and what arrives."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, Commands, read_machine
from vervain.queries.machine_queries import Queries
from vervain.supply.results import delivered_power, source_name, supply_loads
from vervain.supply.states import STATE_WORDS, STATES


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    supply = commands.add_parser("supply", help="print what each supply gives, and what arrives")
    supply.add_argument("file", type=Path)
    supply.add_argument("--state", choices=STATES, default="everything")
    supply.set_defaults(run=run_supply)


def run_supply(options: argparse.Namespace) -> int:
    queries = Queries(read_machine(options.file))
    print(f"{STATE_WORDS[options.state]}:")
    for load in supply_loads(queries, options.state):
        name = source_name(queries, load.pin)
        print(f"  {name:8} {load.current_a:7.2f} of {load.rated_a:g} A  {load.fraction:6.0%}")
    for row in delivered_power(queries, options.state):
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
