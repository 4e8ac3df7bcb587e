"""`vervain demo`: the full example without a display."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, Commands
from vervain.exports.bench_set import FORMS, harness_bytes, write_set
from vervain.exports.formats import findings_json
from vervain.files.demos import DEMOS, open_demo
from vervain.files.machine_file import save_machine
from vervain.files.problems import FileProblem
from vervain.files.writing import write_whole
from vervain.rules.engine import check_machine


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    demo = commands.add_parser("demo", help="run the full example without a display")
    demo.add_argument("--to", type=Path, default=Path("demo-results"), help="folder for results")
    demo.set_defaults(run=run_demo)


def run_demo(options: argparse.Namespace) -> int:
    folder: Path = options.to
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(str(folder), f"It cannot be made: {error.strerror}.") from None
    for demo in DEMOS:
        machine = open_demo(demo.key)
        save_machine(machine, folder / f"{demo.key}.vervain")
        result = check_machine(machine)
        print(f"{demo.title}: {len(result.open)} findings")
        write_whole(folder / f"{demo.key}-findings.json", findings_json(machine, result))
        for form in FORMS:
            write_whole(folder / f"{demo.key}-harness.{form}", harness_bytes(machine, form))
        write_set(machine, folder / f"{demo.key}-bench")
    from vervain.desktop.pictures import take_pictures

    pictures = take_pictures(folder)
    print(f"{len(pictures)} pictures of the window")
    print(f"Results are in {folder.resolve()}")
    return CLEAN
