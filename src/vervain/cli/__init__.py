"""The command line: the same core as the window, without it; a file a command."""

import argparse
import sys
from collections.abc import Sequence
from difflib import get_close_matches
from importlib import import_module
from pathlib import Path

from vervain import __version__
from vervain.files.demos import DEMOS
from vervain.files.log import show_log
from vervain.files.own_tables import own_tables_folder, take_own_tables
from vervain.files.problems import FileProblem
from vervain.files.reading import is_there
from vervain.model.problem import Problem

# Each command and the module that adds it: one is imported when it is given, and no other.
MODULES = {
    "check": "check", "table": "table", "harness": "table", "changes": "changes",
    "versions": "versions", "import": "take_in", "supply": "supply", "place": "place",
    "feed": "feed", "cards": "table", "part": "part", "stops": "stops", "bench": "bench",
    "simulate": "simulate", "papers": "papers", "rules": "rules", "demo": "demo",
    "desktop": "integration",
}  # fmt: skip
COMMANDS = tuple(MODULES)


def run(arguments: Sequence[str] | None = None) -> int:
    """Runs the command line; returns the exit status. Raises `Problem`."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    verbose = "--verbose" in given[:1]
    if verbose:
        del given[0]
    unread = take_own_tables(own_tables_folder())[1]
    for problem in unread:
        print(problem, file=sys.stderr)
    if given and given[0] in COMMANDS:
        if verbose:
            show_log()
        options = command_parser(given[0]).parse_args(given)
        return int(options.run(options))
    options = window_parser().parse_args(given)
    for file in options.file:
        refuse_mistyped(file)
    return open_windows(options.file, unread, verbose, options.demo)


def refuse_mistyped(path: Path) -> None:
    """Raises `Problem` for a word that is neither a command nor a file, nor looks like one."""
    word = str(path)
    if path.suffix or len(path.parts) > 1 or is_there(path):
        return
    near = get_close_matches(word, COMMANDS, n=1, cutoff=0.5)
    raise Problem(
        f"There is no command and no file “{word}”.",
        remedy=f"Did you mean “{near[0]}”?" if near else f"Commands are {', '.join(COMMANDS)}.",
    )


def window_parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="vervain",
        description="Wiring of self-built machines.",
        epilog=f"Commands without a window: {', '.join(COMMANDS)}; see vervain COMMAND --help.",
    )
    parser.add_argument(
        "file", nargs="*", type=Path, help="machine files, a window each; the last one if left out"
    )
    parser.add_argument(
        "--demo",
        nargs="?",
        const=DEMOS[0].key,
        choices=[demo.key for demo in DEMOS],
        help="open a demonstration, the first one where none is named",
    )
    parser.add_argument(
        "--verbose",
        action="store_true",
        help="show the log; also before a command",
    )
    parser.add_argument("--version", action="version", version=f"vervain {__version__}")
    return parser


def command_parser(*given: str) -> argparse.ArgumentParser:
    """The parser of the commands given; of all where none is."""
    parser = argparse.ArgumentParser(prog="vervain")
    commands = parser.add_subparsers(required=True)
    for name in dict.fromkeys(MODULES[command] for command in given or COMMANDS):
        import_module(f"vervain.cli.{name}").add_command(commands)
    return parser


def open_windows(
    paths: list[Path], unread: list[FileProblem], verbose: bool, demo_key: str | None
) -> int:
    from vervain.desktop.app import run_window
    from vervain.desktop.documents.other_windows import open_in_others

    open_in_others(paths[1:])
    return run_window(paths[0] if paths else None, unread, verbose, demo_key)
