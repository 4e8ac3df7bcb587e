"""`vervain changes`: what changed between two versions of a machine."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, FOUND, Commands, read_machine, write_out
from vervain.exports.formats import csv_bytes, table_json
from vervain.exports.tables import face_table
from vervain.harness.compare import Difference
from vervain.tables.change_face import change_face


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    changed = commands.add_parser(
        "changes",
        help="what changed between two versions of a machine",
        description="Exit status: 0 nothing changed, 1 something did, 2 cannot read.",
    )
    changed.add_argument("old", type=Path)
    changed.add_argument("new", type=Path)
    changed.add_argument("--as", dest="form", choices=("text", "csv", "json"), default="text")
    changed.add_argument("--to", type=Path, help="where to write; standard output if left out")
    changed.set_defaults(run=run_changes)


def changes_text(difference: Difference) -> str:
    """What changed, a line a conductor and a label, and the sums."""
    lines = []
    for change in difference.changes:
        told = " → ".join(words for words in (change.before, change.after) if words)
        lines.append(f"{change.kind}: {change.label}  {told}")
    lines += [f"print: {content}" for content in difference.reprint]
    lines += [f"take off: {content}" for content in difference.take_off]
    lines.append(
        f"{len(difference.changes)} conductors changed, {len(difference.reprint)} labels to "
        f"print, {len(difference.take_off)} to take off"
    )
    return "\n".join(lines) + "\n"


def run_changes(options: argparse.Namespace) -> int:
    from vervain import api

    old, new = read_machine(options.old), read_machine(options.new)
    difference = api.differences(old, new)
    if options.form == "text":
        data = changes_text(difference).encode()
    elif options.form == "csv":
        data = csv_bytes(face_table(change_face(difference)))
    else:
        data = table_json(new, (face_table(change_face(difference)),))
    write_out(data, options.to)
    return FOUND if difference.changes or difference.reprint else CLEAN
