"""`vervain demo`: the full example without a display."""

import argparse
from pathlib import Path

from vervain.api import (
    DEMOS,
    FileProblem,
    Problem,
    check,
    export_set,
    findings_json,
    open_demo,
    save_machine,
)
from vervain.cli.common import CLEAN, Commands
from vervain.files.writing import write_whole


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    demo = commands.add_parser("demo", help="run the full example without a display")
    demo.add_argument("--to", type=Path, default=Path("demo-results"), help="folder for results")
    words = "only demonstrations whose name begins so: glazing, clay, seedling"
    demo.add_argument("--of", default="", metavar="NAME", help=words)
    demo.set_defaults(run=run_demo)


def run_demo(options: argparse.Namespace) -> int:
    folder: Path = options.to
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(str(folder), f"It cannot be made: {error.strerror}.") from None
    chosen = [demo for demo in DEMOS if demo.key.startswith(options.of)]
    if not chosen:
        known = ", ".join(demo.key for demo in DEMOS)
        raise Problem(f"No demonstration begins with “{options.of}”.", remedy=f"There are {known}.")
    for demo in chosen:
        machine = open_demo(demo.key)
        save_machine(machine, folder / f"{demo.key}.vervain")
        result = check(machine)
        print(f"{demo.title}: {len(result.open)} findings")
        write_whole(folder / f"{demo.key}-findings.json", findings_json(machine, result))
        export_set(machine, folder / f"{demo.key}-bench")
    from vervain.desktop.pictures import take_pictures

    pictures = take_pictures(folder, frozenset(demo.key for demo in chosen))
    print(f"{len(pictures)} pictures of the window")
    print(f"Results are in {folder.resolve()}")
    return CLEAN
