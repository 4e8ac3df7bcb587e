"""`vervain rules`: every rule with its reason and source."""

import argparse
import json

from vervain.api import RULES
from vervain.cli.common import CLEAN, Commands


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    rules = commands.add_parser("rules", help="list every rule with its reason and source")
    rules.add_argument("--json", action="store_true")
    rules.set_defaults(run=run_rules)


def run_rules(options: argparse.Namespace) -> int:
    if options.json:
        fields = ("id", "stage", "consequence", "title", "reason", "source")
        rows = [{field: getattr(rule, field) for field in fields} for rule in RULES]
        print(json.dumps(rows, ensure_ascii=False, indent=1))
        return CLEAN
    for rule in RULES:
        print(f"{rule.id}  ({rule.consequence}, {rule.stage})\n  {rule.title}.")
        print(f"  {rule.reason}\n  Source: {rule.source}\n")
    return CLEAN
