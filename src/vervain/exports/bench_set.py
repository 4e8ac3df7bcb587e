"""The full set of what goes to the bench, into one folder."""

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path

from vervain.exports.bench_report import bench_report_pdf
from vervain.exports.formats import csv_bytes, table_json, xlsx_bytes
from vervain.exports.harness_html import harness_html
from vervain.exports.harness_pdf import build_sheets_pdf, harness_pdf, loom_board_pdf
from vervain.exports.label_files import label_set
from vervain.exports.order_lists import order_lists
from vervain.exports.stamp import stamp_of
from vervain.exports.tables import Table, all_tables
from vervain.files.problems import FileProblem
from vervain.files.writing import write_whole
from vervain.harness.label_layout import SheetForm, Style
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.text.words import count_of

FORMS = ("pdf", "html", "xlsx", "csv", "json", "sheets", "board", "bench")
PAPERS = ("a4", "letter")
# What the file of a form is called behind the machine's name.
ENDINGS = {
    "sheets": "build-sheets.pdf", "board": "loom-board.pdf", "bench": "bench-report.pdf",
}  # fmt: skip
OWNERS = frozenset({"core", "cable"})
LONGEST_STEM, MOST_LETTERS = 28, 80
TAPE = Style("flag", 12.0)
SHEETS = Style("wrap", None)


def safe_stem(name: str) -> str:
    """A machine's name as a file name: letters, figures, spaces, - and _; never a path."""
    kept = re.sub(r"[^\w \-]", "_", name).strip(" .")[:MOST_LETTERS].strip()
    return kept or "machine"


def paper_stem(machine: Machine) -> str:
    """The beginning of the names of a machine's papers: the machine, its state, its revision, so
    that those of another state stay.
    """
    # A long name leaves room for what tells it apart.
    parts = (machine.name[:LONGEST_STEM], machine.state[:LONGEST_STEM], machine.revision)
    return safe_stem(" ".join(filter(None, parts)))


def harness_bytes(
    machine: Machine,
    form: str,
    tables: tuple[Table, ...] | None = None,
    paper: str = "a4",
    known: Queries | None = None,
) -> bytes:
    """The harness in one of `FORMS`: csv is the conductors alone, sheets are build sheets, board
    the route at true scale, bench what was seen there; on one of `PAPERS`. From tables and
    look-ups that are known, where there are some.
    """
    if form == "sheets":
        return build_sheets_pdf(machine, paper, known=known)
    if form == "board":
        return loom_board_pdf(machine, paper, known=known)
    if form == "bench":
        return bench_report_pdf(machine, paper, known=known)
    made = all_tables(machine, known) if tables is None else tables
    if form == "csv":
        return csv_bytes(made[0])
    if form == "xlsx":
        return xlsx_bytes(made, stamp_of(machine))
    if form == "json":
        return table_json(machine, made)
    if form == "html":
        return harness_html(machine, made)
    return harness_pdf(machine, made, paper)


def _one(
    machine: Machine, form: str, tables: tuple[Table, ...], known: Queries
) -> tuple[bytes, ...]:
    return (harness_bytes(machine, form, tables, known=known),)


def _csv(table: Table) -> tuple[bytes, ...]:
    return (csv_bytes(table),)


def _labels(queries: Queries, machine: Machine, style: Style, form: str) -> tuple[bytes, ...]:
    return label_set(queries, machine, OWNERS, False, set(), style, SheetForm(), form).files


def _order_name(stem: str, supplier: str) -> str:
    return f"{stem}-{safe_stem(f'order {supplier}'.strip())}.csv"


def write_order_lists(machine: Machine, folder: Path) -> str:
    """Writes the list of each supplier into a folder; gives what was written, and what no list
    could hold. Raises `FileProblem`.
    """
    lists = order_lists(machine, Queries(machine))
    for order in lists:
        write_whole(folder / _order_name(paper_stem(machine), order.supplier),
                    csv_bytes(order.table))  # fmt: skip
    if not lists:
        return "No item has a supplier yet: Columns on the Cut list shows Supplier and Number."
    without = [name for order in lists for name in order.without_number]
    count = f"{count_of(len(lists), 'order list')} in {folder.name}"
    return count + (f"; without a number: {', '.join(without)}." if without else ".")


def write_set(
    machine: Machine,
    folder: Path,
    says: Callable[[str], bool] = lambda _: True,
    tables: tuple[Table, ...] | None = None,
    known: Queries | None = None,
) -> list[Path]:
    """Writes everything: PDF, build sheets, loom board, bench report, HTML, workbook, JSON, a CSV a
    table, labels for tape and for sheets, and an order list a supplier.

    `says` is told each file's name and answers whether to go on. From tables and look-ups
    that are known, where there are some. Raises `FileProblem`.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(str(folder), f"It cannot be made: {error.strerror}.") from None
    stem = paper_stem(machine)
    queries = Queries(machine) if known is None else known
    tables = all_tables(machine, queries) if tables is None else tables
    jobs: list[tuple[str, Callable[[], tuple[bytes, ...]]]] = []
    for form in ("pdf", "html", "xlsx", "json"):
        jobs.append((f"{stem}-harness.{form}", partial(_one, machine, form, tables, queries)))
    for form, ending in ENDINGS.items():
        jobs.append((f"{stem}-{ending}", partial(_one, machine, form, tables, queries)))
    for table in tables:
        name = table.title.lower().replace(" ", "-")
        jobs.append((f"{stem}-{name}.csv", partial(_csv, table)))
    for order in order_lists(machine, queries):
        jobs.append((_order_name(stem, order.supplier), partial(_csv, order.table)))
    for words, style, form in (
        ("tape-12-mm", TAPE, "pdf"),
        ("tape-12-mm", TAPE, "svg"),
        ("tape-12-mm", TAPE, "csv"),
        ("A4", SHEETS, "pdf"),
    ):
        jobs.append(
            (f"{stem}-labels-{words}.{form}", partial(_labels, queries, machine, style, form))
        )
    written: list[Path] = []
    for name, make in jobs:
        if not says(name):
            break
        for number, data in enumerate(make()):
            path = folder / name
            if number:
                path = path.with_stem(f"{path.stem}-{number + 1}")
            write_whole(path, data)
            written.append(path)
    return written
