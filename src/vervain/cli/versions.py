"""`vervain versions`: the saves of a machine file that were kept."""

import argparse
import json
import sys
from pathlib import Path

from vervain.api import (
    ORIGIN_WORDS,
    FileProblem,
    Machine,
    Problem,
    Version,
    VersionRow,
    open_machine,
    open_version,
    save_machine,
    version_rows,
    versions,
)
from vervain.cli.common import Commands
from vervain.cli.kept_rules import kept_rules

MOST_SHOWN = 6


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    command = commands.add_parser(
        "versions",
        help="list, compare or take back the saves of a machine file that were kept",
        description="Lists the versions of a file, the newest first, with what was changed after "
        "each. Exit status: 0 done, 2 there is no such version, or it cannot be read.",
    )
    command.add_argument("file", type=Path, help="machine file; it need not be there any more")
    command.add_argument("--take", type=int, metavar="N", help="take version N, with --to")
    command.add_argument("--to", type=Path, help="machine file to write the version to")
    command.add_argument("--compare", type=int, metavar="N", help="what changed since version N")
    command.add_argument("--json", action="store_true", help="print JSON")
    command.add_argument("--folder", type=Path, help="where versions are kept, if elsewhere")
    command.set_defaults(run=run_versions)


def run_versions(options: argparse.Namespace) -> int:
    rules = kept_rules()
    if options.folder is not None:
        rules = rules._replace(folder=options.folder)
    kept = versions(options.file, rules)
    if options.take is not None:
        version = _numbered(kept, options.take, options.file)
        if options.to is None:
            raise Problem("Where to is not said.", remedy="Give a file with --to.")
        save_machine(open_version(version), options.to, rules)
        print(f"Version {version.number} is written to {options.to}")
        return 0
    if options.compare is not None:
        kept = (_numbered(kept, options.compare, options.file),)
    rows = version_rows(_newest(options.file), kept)
    if options.json:
        sys.stdout.buffer.write(json.dumps([_values(row) for row in rows], indent=1).encode())
        print()
        return 0
    for row in rows:
        _print_row(row, whole=options.compare is not None)
    if not rows:
        print(f"No version of {options.file} is kept in {rules.folder}.")
    return 0


def _newest(path: Path) -> Machine | None:
    try:
        return open_machine(path)
    except FileProblem:
        return None


def _numbered(kept: tuple[Version, ...], number: int, path: Path) -> Version:
    if not 1 <= number <= len(kept):
        raise Problem(f"There is no version {number} of {path}.", remedy=f"There are {len(kept)}.")
    return kept[number - 1]


def _values(row: VersionRow) -> dict[str, object]:
    version = row.version
    return {
        "number": version.number,
        "at": version.at.isoformat(),
        "origin": version.origin,
        "file": str(version.path),
        "bytes": version.size,
        "changes_since": list(row.changes),
        "problem": row.problem,
    }


def _print_row(row: VersionRow, whole: bool) -> None:
    version = row.version
    when = version.at.astimezone().strftime("%Y-%m-%d %H:%M:%S")
    counted = "one change" if len(row.changes) == 1 else f"{len(row.changes)} changes"
    count = row.problem or f"{counted} since"
    print(f"{version.number:3}  {when}  {ORIGIN_WORDS[version.origin]}, {count}")
    shown = row.changes if whole else row.changes[:MOST_SHOWN]
    for change in shown:
        print(f"     {change}")
    if len(row.changes) > len(shown):
        print(f"     and {len(row.changes) - len(shown)} more")
