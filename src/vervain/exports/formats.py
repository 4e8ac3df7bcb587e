"""Tables as CSV, XLSX and JSON. Text from the machine can never become a formula."""

import csv
import io
import json
import re
from typing import Any

import msgspec

from vervain.exports.stamp import Stamp, fingerprint_of
from vervain.exports.tables import Table, supply_table
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Finding, Result
from vervain.rules.registry import RULE_BY_ID
from vervain.tables.table_view import Cell

FORMULA_START = ("=", "+", "-", "@", "\t", "\r")
# A page's foot in a workbook holds no more.
MOST_FOOT = 200
# Characters that XML 1.0, and so a workbook, cannot hold.
CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def safe_text(text: str) -> str:
    """Text that a spreadsheet takes as text: an apostrophe before what would be a formula."""
    return f"'{text}" if text.startswith(FORMULA_START) else text


def csv_bytes(table: Table) -> bytes:
    """A table as RFC 4180 CSV in UTF-8, with a mark that spreadsheets read the encoding from."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\r\n")
    writer.writerow(table.names)
    for row in table.rows:
        writer.writerow([_csv_cell(cell) for cell in row])
    return stream.getvalue().encode("utf-8-sig")


def _csv_cell(cell: Cell) -> str:
    if cell is None:
        return ""
    # Ten figures: an amount in a small currency has seven.
    return safe_text(cell) if isinstance(cell, str) else f"{cell:.10g}"


def xlsx_bytes(tables: tuple[Table, ...], stamp: Stamp | None = None) -> bytes:
    """A workbook with one sheet a table: styled header, frozen, with filters. Printed, every page
    has the stamp and its number out of all.
    """
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font, PatternFill
    from openpyxl.utils import get_column_letter
    from openpyxl.worksheet.properties import PageSetupProperties

    book = Workbook()
    for position, table in enumerate(tables):
        sheet = book.active if position == 0 else book.create_sheet()
        assert sheet is not None
        sheet.title = table.title
        for column, (name, width) in enumerate(table.columns, 1):
            head = sheet.cell(row=1, column=column, value=name)
            head.font = Font(bold=True, color="FF25232D")
            head.fill = PatternFill("solid", fgColor="FFE9E5F4")
            head.alignment = Alignment(vertical="center")
            sheet.column_dimensions[get_column_letter(column)].width = width + 2
        for number, row in enumerate(table.rows, 2):
            for column, value in enumerate(row, 1):
                if value is None or value == "":
                    continue
                cell = sheet.cell(row=number, column=column)
                if isinstance(value, str):
                    cell.value = CONTROL.sub("", value)
                    cell.data_type = "s"
                    cell.quotePrefix = value.startswith(FORMULA_START)
                else:
                    cell.value = value
        sheet.freeze_panes = "A2"
        sheet.print_title_rows = "1:1"
        sheet.page_setup.orientation = "landscape"
        sheet.page_setup.fitToHeight = 0
        sheet.sheet_properties.pageSetUpPr = PageSetupProperties(fitToPage=True)
        # An ampersand begins a code in a page's foot.
        line = CONTROL.sub("", stamp.line if stamp else "").replace("&", "&&")
        foot: Any = sheet.oddFooter
        foot.left.text, foot.right.text = line[:MOST_FOOT], "page &P of &N"
        last = get_column_letter(len(table.columns))
        sheet.auto_filter.ref = f"A1:{last}{max(2, len(table.rows) + 1)}"
    stream = io.BytesIO()
    book.save(stream)
    return stream.getvalue()


def table_json(machine: Machine, tables: tuple[Table, ...]) -> bytes:
    """Tables as JSON, documented in docs/json-output.md."""
    document = {
        "format": "vervain tables",
        "version": 1,
        **_head(machine),
        "tables": {table.title.lower(): _rows(table) for table in tables},
    }
    return (json.dumps(document, ensure_ascii=False, indent=1) + "\n").encode("utf-8")


def _head(machine: Machine) -> dict[str, str]:
    """Which machine a document is of; without the day, so that the same file gives the same."""
    return {
        "machine": machine.name,
        "state": machine.state,
        "revision": machine.revision,
        "fingerprint": fingerprint_of(machine),
    }


def _rows(table: Table) -> list[dict[str, Cell]]:
    return [dict(zip(table.names, row, strict=True)) for row in table.rows]


def findings_json(machine: Machine, result: Result) -> bytes:
    """Findings as JSON, documented in docs/json-output.md."""
    document = {
        "format": "vervain findings",
        "version": 1,
        **_head(machine),
        "supply": _rows(supply_table(Queries(machine))),
        "findings": [_finding(finding) for finding in result.open],
        "accepted": [_finding(finding) for finding in result.accepted],
        "to do": [_finding(finding) for finding in result.to_do],
    }
    return (json.dumps(document, ensure_ascii=False, indent=1) + "\n").encode("utf-8")


def _finding(finding: Finding) -> dict[str, Any]:
    rule = RULE_BY_ID[finding.rule]
    return {
        "rule": finding.rule,
        "key": finding.key,
        "stage": finding.stage,
        "consequence": finding.consequence,
        "sentence": finding.sentence,
        "title": rule.title,
        "reason": rule.reason,
        "source": rule.source,
        "why": finding.why,
        "subjects": [msgspec.to_builtins(subject) for subject in finding.subjects],
        "value": finding.value,
        "limit": finding.limit,
        "unit": finding.unit,
        "fixes": [fix.words for fix in finding.fixes],
        "explains": list(finding.explains),
    }
