"""What was seen at the bench, as a report: the sum of it, what failed, what is open, every step."""

from collections import Counter
from datetime import date
from typing import Any
from xml.sax.saxutils import escape

from vervain.bench.checklist import bench_list
from vervain.bench.results import StepResult, step_results
from vervain.bench.step import SECTIONS, BenchStep
from vervain.exports.harness_html import page_html
from vervain.exports.paged_pdf import CONTINUED, MARGIN, PAGES, TITLE, Paged, page_styles, printable
from vervain.exports.paged_pdf import table_pages as pages_of
from vervain.exports.tables import Table
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.finding import Result
from vervain.tables.table_view import Cell

STATE_WORDS = {"passed": "passed", "failed": "failed", "again": "to be seen again", "": "open"}
SUM_COLUMNS = (
    ("Section", 20), ("Steps", 8), ("Passed", 8), ("Failed", 8), ("To be seen again", 12),
    ("Held back", 10), ("Open", 8),
)  # fmt: skip
STEP_COLUMNS = (
    ("No", 4), ("Section", 12), ("Place", 14), ("Do", 48), ("See", 40), ("State", 12),
    ("Seen", 18), ("Note", 24), ("When", 14), ("By", 12), ("Revision", 8), ("Photos", 16),
)  # fmt: skip
FINDING_COLUMNS = (("Consequence", 12), ("Finding", 80), ("About", 20))


def report_tables(queries: Queries, result: Result) -> tuple[Table, ...]:
    """The tables of a report: the sum, what failed or is to be seen again, the findings that were
    open, and every step.
    """
    steps = bench_list(queries, result.open)
    results = step_results(queries, steps)
    rows = [_step_row(n, step, results[step.id]) for n, step in enumerate(steps, 1)]
    wrong = [
        row for row, step in zip(rows, steps, strict=True)
        if results[step.id].state in ("failed", "again")
    ]  # fmt: skip
    findings = (
        (finding.consequence, finding.sentence, ", ".join(s.text for s in finding.subjects))
        for finding in result.open
        if finding.consequence != "Workmanship"
    )
    return (
        _sum_table(steps, results),
        Table(title="Not as it should be", columns=STEP_COLUMNS, rows=tuple(wrong)),
        Table(title="Open findings", columns=FINDING_COLUMNS, rows=tuple(findings)),
        Table(title="Steps", columns=STEP_COLUMNS, rows=tuple(rows)),
    )


def _sum_table(steps: tuple[BenchStep, ...], results: dict[str, StepResult]) -> Table:
    rows: list[tuple[Cell, ...]] = []
    for section in (*SECTIONS, "All"):
        mine = [step for step in steps if section in ("All", step.section)]
        if not mine:
            continue
        states = Counter(results[step.id].state for step in mine)
        held = sum(bool(step.held) and results[step.id].state == "" for step in mine)
        rows.append((section, len(mine), states["passed"], states["failed"], states["again"],
                     held, states[""] - held))  # fmt: skip
    return Table(title="Sum", columns=SUM_COLUMNS, rows=tuple(rows))


def _step_row(number: int, step: BenchStep, found: StepResult) -> tuple[Cell, ...]:
    kept = found.result
    state = STATE_WORDS[found.state]
    if step.held and kept is None:
        state = f"held back: {step.held}"
    told = (number, step.section, step.place, step.do, step.see, state)
    if kept is None:
        return (*told, "", "", "", "", "", "")
    note = "; ".join(filter(None, (kept.note, found.reason)))
    when = kept.time.replace("T", " ")
    return (*told, kept.seen, note, when, kept.by, kept.revision, ", ".join(kept.photos))


def _checked(machine: Machine, known: Queries | None) -> tuple[Queries, Result]:
    queries = Queries(machine) if known is None else known
    result = check_look(queries)
    assert result is not None
    return queries, result


def bench_report_pdf(
    machine: Machine, paper: str = "a4", day: date | None = None, known: Queries | None = None
) -> bytes:
    """The report as PDF, landscape, each table in the outline; from look-ups that are known, where
    there are some.
    """
    from reportlab.platypus import PageBreak, Paragraph, Spacer

    width, height = PAGES[paper]
    name = printable(f"{machine.name} {machine.state}".strip())
    paged, styles = Paged(machine, f"Bench report of {name}", paper, day), page_styles()
    wide, room = width - 2 * MARGIN, height - 2 * MARGIN - 14 - TITLE * 1.3 - 12
    story: list[Any] = []
    for table in report_tables(*_checked(machine, known)):
        parts = pages_of(table, wide, room, styles)
        for number, part in enumerate(parts):
            title = table.title if number == 0 else f"{table.title}{CONTINUED}"
            title = f"Bench report of {name}" if not story else title
            story += [*([PageBreak()] if story else []), Paragraph(escape(title), styles["title"])]
            story += [Spacer(1, 4), part]
    empty = Paragraph("Nothing is there to prove yet.", styles["title"])
    return paged.built(story or [empty])


def bench_report_html(machine: Machine, day: date | None = None) -> bytes:
    """The report as one page, with its search."""
    tables = report_tables(*_checked(machine, None))
    return page_html(machine, "Bench report", tables, day)
