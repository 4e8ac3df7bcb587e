"""The harness on paper: the route with its sections, then every table, paged, heads repeated."""

import math
from datetime import date
from typing import Any
from xml.sax.saxutils import escape

from vervain.exports.paged_pdf import (
    BODY,
    CONTINUED,
    MARGIN,
    PAGES,
    TITLE,
    Paged,
    flowable,
    page_styles,
    printable,
    table_pages,
)
from vervain.exports.tables import Table
from vervain.harness.build_sheet import build_sheets
from vervain.harness.loom_board import loom_board, sheets_of
from vervain.harness.route_shapes import draw_route
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.tables.build_sheet_drawing import draw_build_sheet, draw_single_wires
from vervain.tables.cutting_plan import draw_cutting
from vervain.tables.loom_board_drawing import (
    EDGE_MM,
    PT_PER_MM,
    TITLE_MM,
    draw_board_overview,
    draw_board_sheet,
)
from vervain.tables.stop_drawing import draw_stops


def harness_pdf(
    machine: Machine, tables: tuple[Table, ...], paper: str = "a4", day: date | None = None
) -> bytes:
    """The PDF, landscape: a page for the route, then the tables one after the other, each in the
    outline; every page with its stamp and its number out of all.
    """
    from reportlab.platypus import PageBreak, Paragraph, Spacer

    width, height = PAGES[paper]
    name = printable(f"{machine.name} {machine.state}".strip())
    paged = Paged(machine, f"Harness of {name}", paper, day)
    styles = page_styles()
    queries = Queries(machine)
    room = height - 2 * MARGIN - 14 - TITLE * 1.3 - 12
    wide = width - 2 * MARGIN
    # Every part is one page: its title, and what stands under it.
    parts: list[tuple[str, list[Any]]] = []
    for title, drawings in (
        ("The stops, drawn without power", draw_stops(queries, 780.0)),
        ("Cutting, to scale", draw_cutting(queries, 780.0)),
    ):
        parts += [(title, [flowable(page, wide, room - 12)]) for page in drawings]
    for table in tables:
        for number, part in enumerate(table_pages(table.in_units.on_paper, wide, room, styles)):
            title = table.title if number == 0 else f"{table.title}{CONTINUED}"
            parts.append((title, [Spacer(1, 4), part]))
    first = 3 if paged.lacking else 2
    begins: dict[str, int] = {}
    for number, (title, _) in enumerate(parts, first):
        if not title.endswith(CONTINUED):
            begins.setdefault(title, number)
    contents = "   ·   ".join(f"{title} {number}" for title, number in begins.items())
    story: list[Any] = [Paragraph(escape(f"Harness of {name}"), styles["title"])]
    story += [Spacer(1, 4), Paragraph(escape(f"Pages: {contents}"), styles["body"])]
    drawing = draw_route(queries, 780.0)
    if drawing.shapes and drawing.height > 40:
        story += [Spacer(1, 6), flowable(drawing, wide, height - 2 * MARGIN - 80)]
    for title, flowables in parts:
        story += [PageBreak(), Paragraph(escape(title), styles["title"]), *flowables]
    return paged.built(story)


def build_sheets_pdf(
    machine: Machine, paper: str = "a4", day: date | None = None, known: Queries | None = None
) -> bytes:
    """The build sheets of every cable that is made, one to a page, each in the outline, then the
    wires of one core, a row each; from look-ups that are known, where there are some.
    """
    from reportlab.platypus import PageBreak, Paragraph

    width, height = PAGES[paper]
    name = printable(f"{machine.name} {machine.state}".strip())
    paged = Paged(machine, f"Build sheets of {name}", paper, day)
    sheets = build_sheets(Queries(machine) if known is None else known)
    pages = []
    for sheet in sheets:
        if len(sheet.rows) > 1:
            entry = f"{sheet.cable}  {sheet.a.title} to {sheet.b.title}"
            pages.append((entry, draw_build_sheet(sheet, machine.page)))
    singles = tuple(sheet for sheet in sheets if len(sheet.rows) == 1)
    pages += [("Single wires", drawing) for drawing in draw_single_wires(singles)]
    story: list[Any] = []
    for entry, drawing in pages:
        drawn = flowable(drawing, width - 2 * MARGIN, height - 2 * MARGIN - 14 - BODY)
        drawn.entry = printable(entry)
        story += [*([PageBreak()] if story else []), drawn]
    return paged.built(story or [Paragraph("No cable to make yet.", page_styles()["title"])])


def loom_board_pdf(
    machine: Machine, paper: str = "a4", day: date | None = None, known: Queries | None = None
) -> bytes:
    """The loom board: an overview, then its sheets at true scale, each in the outline; from
    look-ups that are known, where there are some.
    """
    from reportlab.platypus import PageBreak, Paragraph, Spacer

    width, height = PAGES[paper]
    name = printable(f"{machine.name} {machine.state}".strip())
    paged = Paged(machine, f"Loom board of {name}", paper, day)
    title = Paragraph(escape(f"Loom board of {name}"), page_styles()["title"])
    board = loom_board(Queries(machine) if known is None else known)
    if not board.runs:
        return paged.built([title, Paragraph("No run is laid yet.", page_styles()["body"])])
    wide, high = width - 2 * MARGIN, height - 2 * MARGIN - 14
    sheets = sheets_of(
        board, math.floor(wide / PT_PER_MM - 2 * EDGE_MM),
        math.floor(high / PT_PER_MM - 2 * EDGE_MM - TITLE_MM),
    )  # fmt: skip
    overview = draw_board_overview(board, sheets, wide, high - TITLE * 1.3 - 8)
    story: list[Any] = [title, Spacer(1, 6), flowable(overview, wide, high - TITLE * 1.3 - 6)]
    names = {sheet.name for sheet in sheets}
    for sheet in sheets:
        drawn = flowable(draw_board_sheet(board, sheet, names), wide, high)
        drawn.entry = f"Sheet {sheet.name}"
        story += [PageBreak(), drawn]
    return paged.built(story)
