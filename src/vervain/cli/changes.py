"""`vervain changes`: what changed between two versions of a machine."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, FOUND, Commands, read_machine, write_out
from vervain.cli.kept_rules import kept_rules
from vervain.exports.formats import csv_bytes, table_json
from vervain.exports.tables import face_table
from vervain.harness.compare import Difference
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.tables.change_face import change_face


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    changed = commands.add_parser(
        "changes",
        help="what changed between two versions of a machine",
        description="Exit status: 0 nothing changed, 1 something did, 2 cannot read.",
    )
    what = "machine file; FILE@B is what was kept of it as revision B, FILE@3 as version 3"
    changed.add_argument("old", type=Path, help=what)
    changed.add_argument("new", type=Path, help=what)
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


def _read(path: Path) -> Machine:
    """A machine file, or one of its kept versions: the newest of a revision, or by its number.
    Raises `Problem`.
    """
    from vervain import api

    name, mark, wanted = str(path).rpartition("@")
    if not mark or path.exists():
        return read_machine(path)
    if Path(name).exists() and (current := read_machine(Path(name))).revision == wanted:
        return current
    for version in api.versions(Path(name), kept_rules()):
        try:
            machine = api.open_version(version)
        except Problem:
            continue
        if wanted in (machine.revision, str(version.number)):
            return machine
    raise Problem(
        f"Nothing is kept of {name} as revision or version {wanted}.",
        remedy=f"See vervain versions {name}.",
    )


def run_changes(options: argparse.Namespace) -> int:
    from vervain import api

    old, new = _read(options.old), _read(options.new)
    difference = api.differences(old, new)
    if options.form == "text":
        data = changes_text(difference).encode()
    elif options.form == "csv":
        data = csv_bytes(face_table(change_face(difference)))
    else:
        data = table_json(new, (face_table(change_face(difference)),))
    write_out(data, options.to)
    return FOUND if difference.changes or difference.reprint else CLEAN
