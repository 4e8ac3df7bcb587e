"""What was printed, and which of it an edit has made out of date."""

from datetime import date
from typing import NamedTuple

from msgspec.structs import replace

from vervain.exports.stamp import fingerprint_of
from vervain.exports.tables import Table, all_tables
from vervain.harness.build_sheet import build_sheets
from vervain.model.machine import Machine, Paper
from vervain.model.marks import mark_of
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Cell, Column, Face, TableRow

# The forms that are read from, each in words; csv and json go on into other programs.
FORM_WORDS = {
    "pdf": "Harness, PDF", "sheets": "Build sheets, PDF", "html": "Page for the phone",
    "xlsx": "Workbook",
}  # fmt: skip
MOST_NAMES = 6
COLUMNS = (
    Column("paper", "Paper", 16),
    Column("day", "Printed on", 10),
    Column("revision", "Revision", 8),
    Column("fingerprint", "Fingerprint", 10),
    Column("stands", "Stands", 46),
)


class PaperState(NamedTuple):
    """A paper that was printed, and the titles of what it shows that is different now."""

    paper: Paper
    changed: tuple[str, ...]

    @property
    def words(self) -> str:
        """How it stands: "as printed", or what has changed."""
        if not self.changed:
            return "as printed"
        more = len(self.changed) - MOST_NAMES
        shown = ", ".join(self.changed[:MOST_NAMES]) + (f" and {more} more" if more > 0 else "")
        return f"out of date: {shown}"


def papers_of(
    machine: Machine, forms: tuple[str, ...], tables: tuple[Table, ...]
) -> tuple[Paper, ...]:
    """What prints of some forms show, made today of these tables; nothing of forms that go on to
    programs.
    """
    kept, queries = [form for form in forms if form in FORM_WORDS], Queries(machine)
    return tuple(
        Paper(
            form=form, day=date.today().isoformat(), revision=machine.revision,
            fingerprint=fingerprint_of(machine), shows=_shown(queries, form, tables),
        )
        for form in kept
    )  # fmt: skip


def keep_papers(machine: Machine, papers: tuple[Paper, ...]) -> Machine:
    """The machine that remembers papers, each in place of the last of its form."""
    forms = {paper.form for paper in papers}
    others = [known for known in machine.papers if known.form not in forms]
    return replace(machine, papers=(*others, *papers))


def paper_states(machine: Machine, queries: Queries | None = None) -> tuple[PaperState, ...]:
    """Every paper that is remembered, the last printed last, with what has changed since."""
    wants_tables = any(paper.form != "sheets" for paper in machine.papers)
    known = Queries(machine) if queries is None else queries
    tables = all_tables(machine, known) if wants_tables else ()
    found = []
    for paper in machine.papers:
        now = _shown(known, paper.form, tables)
        names = dict.fromkeys((*now, *paper.shows))
        found.append(PaperState(paper, tuple(n for n in names if now.get(n) != paper.shows.get(n))))
    return tuple(found)


def paper_face(machine: Machine, queries: Queries) -> Face:
    """The face Papers: what was printed when, and whether it still shows the machine as it is."""
    rows = [
        TableRow(
            key=state.paper.form,
            cells=(
                FORM_WORDS.get(state.paper.form, state.paper.form), state.paper.day,
                state.paper.revision, state.paper.fingerprint, state.words,
            ),
        )
        for state in paper_states(machine, queries)
    ]  # fmt: skip
    return Face("Papers", COLUMNS, tuple(rows), len(rows))


def _shown(queries: Queries, form: str, tables: tuple[Table, ...]) -> dict[str, str]:
    """By title the marks of what a form shows: its tables, or the sheet of each cable."""
    if form == "sheets":
        return {sheet.cable: mark_of(sheet) for sheet in build_sheets(queries)}
    # Conductors are in another order after an edit that changes nothing of them.
    return {table.title: mark_of(sorted(_designed(table), key=str)) for table in tables}


def _designed(table: Table) -> list[tuple[Cell, ...]]:
    """The rows without what is written into them at the bench: that makes no paper old."""
    seen = table.names.index("Seen") if "Seen" in table.names else None
    return [tuple(c for n, c in enumerate(row) if n != seen) for row in table.rows]
