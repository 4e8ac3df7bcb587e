"""Writes what the documentation takes from the program: rules, part fields, schema, screenshots.

Run: QT_QPA_PLATFORM=offscreen PYTHONPATH=src .venv/bin/python tools/make_docs.py
"""

import re
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


def shell_files() -> dict[Path, str]:
    """The manual page and the completions of the shells, made from the parser, by their files."""
    import shtab
    from argparse_manpage.manpage import Manpage

    from vervain import __version__
    from vervain.cli import command_parser
    from vervain.files.desktop_integration import SHIPPED

    parser = command_parser()
    parser.description = (
        "Wiring of self-built machines: which plug goes into which port, what would burn, not run "
        "or misread, whether the machine really stops, and a label for every conductor. Without a "
        "command the window opens, on a file where one is given."
    )
    facts = {
        "project_name": "Vervain", "version": __version__, "manual_section": "1",
        "manual_title": "Vervain", "format": "single-commands-section",
    }  # fmt: skip
    manual = str(Manpage(parser, _data=facts)).rstrip() + "\n"
    name = ".SH NAME\nvervain \\- wire a machine that you build yourself\n"
    manual = manual.replace(".SH NAME\nvervain\n", name)
    # The day of the build says nothing of the program.
    manual = re.sub(r'^(\.TH \S+ "1" )"[^"]*"', r'\1""', manual, flags=re.MULTILINE)
    return {
        SHIPPED / "vervain.1": manual,
        **{
            SHIPPED / f"vervain.{shell}": shtab.complete(command_parser(), shell).rstrip() + "\n"
            for shell in ("bash", "zsh")
        },
    }


def draw_icons() -> None:
    """The icons in every size, from their drawings."""
    from PyQt6.QtCore import Qt
    from PyQt6.QtGui import QImage, QPainter
    from PyQt6.QtSvg import QSvgRenderer

    from vervain.desktop.app import make_application
    from vervain.files.desktop_integration import APP, MACHINE, SHIPPED, SIZES

    make_application()
    (SHIPPED / "icons").mkdir(exist_ok=True)
    for name in (APP, MACHINE):
        renderer = QSvgRenderer(str(SHIPPED / f"{name}.svg"))
        for size in SIZES:
            image = QImage(size, size, QImage.Format.Format_ARGB32)
            image.fill(Qt.GlobalColor.transparent)
            painter = QPainter(image)
            renderer.render(painter)
            painter.end()
            image.save(str(SHIPPED / f"icons/{name}-{size}.png"))


def main() -> int:
    for path, text in shell_files().items():
        path.write_text(text, "utf-8")
    (DOCS / "rules.md").write_text(rules_page(), "utf-8")
    (DOCS / "part-fields.md").write_text(part_fields_page(), "utf-8")
    (DOCS / "machine-file.schema.json").write_text(schema_text(), "utf-8")
    if "--no-pictures" not in sys.argv:
        draw_icons()
        from vervain.desktop.pictures import take_pictures

        take_pictures(DOCS / "screenshots")
        for leftover in (DOCS / "screenshots").glob("*.ini"):
            leftover.unlink()
    return 0


if __name__ == "__main__":
    sys.exit(main())
