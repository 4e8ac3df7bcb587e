"""Writes what the documentation takes from the program: rules, part fields, schema, screenshots.

Run: QT_QPA_PLATFORM=offscreen PYTHONPATH=src .venv/bin/python tools/make_docs.py
"""

import sys
from pathlib import Path

from part_fields import part_fields_page
from vervain.files.schema import schema_text
from vervain.rules.registry import RULES

DOCS = Path(__file__).resolve().parent.parent / "docs"


def rules_page() -> str:
    """Every rule with its reason and source, as Markdown."""
    lines = ["# Rules", "", "Made by `tools/make_docs.py` from the declarations; do not edit.", ""]
    stage = ""
    for rule in sorted(RULES, key=lambda item: (item.stage, item.id)):
        if rule.stage != stage:
            stage = rule.stage
            lines += [f"## {stage}", ""]
        lines += [
            f"### {rule.title}",
            "",
            f"`{rule.id}`, {rule.consequence}. {rule.reason}",
            "",
            f"Source: {rule.source}",
            "",
        ]
    return "\n".join(lines)


def main() -> int:
    (DOCS / "rules.md").write_text(rules_page(), "utf-8")
    (DOCS / "part-fields.md").write_text(part_fields_page(), "utf-8")
    (DOCS / "machine-file.schema.json").write_text(schema_text(), "utf-8")
    if "--no-pictures" not in sys.argv:
        from vervain.desktop.pictures import take_pictures

        take_pictures(DOCS / "screenshots")
        for leftover in (DOCS / "screenshots").glob("*.ini"):
            leftover.unlink()
    return 0


if __name__ == "__main__":
    sys.exit(main())
