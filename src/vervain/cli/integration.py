"""`vervain desktop`: puts Vervain among the programs of the desktop, or takes it away."""

import argparse
from pathlib import Path

from vervain.cli.common import CLEAN, Commands


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    command = commands.add_parser(
        "desktop",
        help="menu entry, icons, file type, manual page and completion",
        description="Puts the menu entry, icons, the type of .vervain files, the manual page and "
        "shell completion where the desktop looks for them: for the user, or with --system for "
        "everybody. “remove” takes them away. Exit status: 0, 2 cannot write.",
    )
    command.add_argument("what", choices=("install", "remove"))
    command.add_argument("--system", action="store_true", help="for everybody (/usr/local/share)")
    command.add_argument("--to", type=Path, metavar="DIR", help="another data folder")
    command.set_defaults(run=run_integration)


def run_integration(options: argparse.Namespace) -> int:
    from vervain.files.desktop_integration import SYSTEM, install, remove, user_folder

    folder = options.to or (SYSTEM if options.system else user_folder())
    if options.what == "install":
        files = install(folder)
        print(f"{len(files)} files are below {folder}. Machines open by a double click now.")
    else:
        files = remove(folder)
        print(f"{len(files)} files were taken away from {folder}.")
    return CLEAN
