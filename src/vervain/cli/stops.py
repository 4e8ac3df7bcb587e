"""`vervain stops`: does the machine stop, and which single fault would hinder it unnoticed?"""

import argparse
import json
from pathlib import Path

from vervain.api import Queries
from vervain.cli.common import CLEAN, FOUND, Commands, read_machine
from vervain.tables.stop_rows import NOTICED_WORDS, press_rows, stop_rows, string_rows

FORMAT = "vervain stops"


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    command = commands.add_parser(
        "stops",
        help="press every stop, and try every single fault",
        description="Exit status: 0 every stop stops what it must and no single fault would hinder "
        "it unnoticed, 1 else, 2 cannot read. No performance category is claimed.",
    )
    command.add_argument("file", type=Path)
    command.add_argument("--faults", action="store_true", help="list every fault, not the grave")
    command.add_argument("--json", action="store_true")
    command.set_defaults(run=run_stops)


def run_stops(options: argparse.Namespace) -> int:
    queries = Queries(read_machine(options.file))
    presses, rows = press_rows(queries), stop_rows(queries)
    strings = string_rows(queries)
    grave = [row for row in rows if row.is_grave]
    status = FOUND if grave or not all(press.is_sound for press in presses) else CLEAN
    if options.json:
        print(json.dumps({
            "format": FORMAT,
            "version": 1,
            "stops": [{"stop": p.stop, "name": p.name, "sees": p.sees, "power": p.power,
                       "releasing": p.releasing, "sound": p.is_sound} for p in presses],
            "strings": [{"source": s.source, "through": s.through, "ends": s.ends,
                         "read by": s.read_by} for s in strings],
            "faults": [{"fault": r.fault, "sees": r.sees, "power": r.power, "noticed": r.noticed,
                        "dangerous": r.is_dangerous} for r in rows],
        }, ensure_ascii=False, indent=2))  # fmt: skip
        return status
    if not presses:
        print("The machine has no emergency stop.")
        return status
    for press in presses:
        print(f"{press.done}: power {press.power}; controller sees {press.sees}; on release: "
              f"{press.releasing}.")  # fmt: skip
    for string in strings:
        read = f"; read by {string.read_by}" if string.read_by else ""
        print(f"{string.source} to {string.ends}: {string.through}{read}.")
    print(f"\n{len(rows)} single faults, {len(grave)} of them defeat a stop unnoticed:")
    for row in rows if options.faults else grave:
        print(f"  {row.fault}: controller sees {row.sees}; power {row.power}; noticed: "
              f"{NOTICED_WORDS[row.noticed]}")  # fmt: skip
    return status
