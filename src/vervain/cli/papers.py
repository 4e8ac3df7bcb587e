"""`vervain papers`: what was printed of a machine, and what of it an edit has made out of date."""

import argparse
import json
from pathlib import Path

from vervain.cli.common import CLEAN, FOUND, Commands, read_machine

FORMAT = "vervain papers"


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    command = commands.add_parser(
        "papers",
        help="what was printed, and what of it is out of date",
        description="Exit status: 0 every paper shows the machine as it is, 1 one does not, "
        "2 cannot read.",
    )
    command.add_argument("file", type=Path)
    command.add_argument("--json", action="store_true", help="print JSON")
    command.set_defaults(run=run_papers)


def run_papers(options: argparse.Namespace) -> int:
    from vervain.exports.as_printed import FORM_WORDS, paper_states

    states = paper_states(read_machine(options.file))
    if options.json:
        papers = [
            {"form": s.paper.form, "day": s.paper.day, "revision": s.paper.revision,
             "fingerprint": s.paper.fingerprint, "out of date": list(s.changed)}
            for s in states
        ]  # fmt: skip
        print(json.dumps({"format": FORMAT, "version": 1, "papers": papers}, indent=2))
    else:
        for state in states:
            paper = state.paper
            revision = f", revision {paper.revision}" if paper.revision else ""
            name = FORM_WORDS.get(paper.form, paper.form)
            print(f"{name} of {paper.day}{revision}, {paper.fingerprint}: {state.words}")
        if not states:
            print("Nothing was printed of this machine yet.")
    return FOUND if any(state.changed for state in states) else CLEAN
