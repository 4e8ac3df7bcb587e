"""`vervain check`: the findings of a machine file."""

import argparse
import sys
import time
from pathlib import Path

from vervain.cli.common import CLEAN, FOUND, Commands, log, read_machine
from vervain.model.machine import Machine
from vervain.rules.finding import Result


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    check = commands.add_parser(
        "check",
        help="check a machine file",
        description="Exit status: 0 nothing above Workmanship, 1 findings, 2 cannot read.",
    )
    check.add_argument("file", type=Path)
    check.add_argument("--complete", action="store_true", help="count what is not finished as well")
    check.add_argument("--json", action="store_true", help="print JSON (docs/json-output.md)")
    check.set_defaults(run=run_check)


def exit_status(result: Result, complete: bool = False) -> int:
    """0 where nothing is above Workmanship, and with `complete` nothing is to do, else 1."""
    worst = any(finding.consequence != "Workmanship" for finding in result.open)
    return FOUND if worst or (complete and result.to_do) else CLEAN


def run_check(options: argparse.Namespace) -> int:
    from vervain import api

    machine = read_machine(options.file)
    began = time.monotonic()
    result = api.check(machine)
    log.info("checked in %.2f s", time.monotonic() - began)
    if options.json:
        sys.stdout.buffer.write(api.findings_json(machine, result))
    else:
        print_findings(machine, result, options.complete)
    return exit_status(result, options.complete)


def print_findings(machine: Machine, result: Result, complete: bool = False) -> None:
    for finding in result.open:
        measured = ""
        if finding.value is not None and finding.limit is not None:
            measured = f" [{finding.value:.3g} of {finding.limit:.3g} {finding.unit}]"
        print(f"{finding.consequence}: {finding.sentence}{measured}")
        for fix in finding.fixes:
            print(f"    fix: {fix.words}")
        if finding.explains:
            print(f"    from the same: {len(finding.explains)} more")
    if complete:
        for finding in result.to_do:
            print(f"To do: {finding.sentence}")
    state = f", {machine.state}" if machine.state else ""
    accepted = f", {len(result.accepted)} accepted" if result.accepted else ""
    to_do = f", {len(result.to_do)} to do" if result.to_do else ""
    print(f"{machine.name}{state}: {len(result.open)} findings{accepted}{to_do}")
