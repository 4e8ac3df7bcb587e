"""Exports: read back by other programs, and nothing in them becomes a formula."""

import csv
import io
import json
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from openpyxl import load_workbook

from vervain.edits.device_edits import set_name
from vervain.exports.formats import csv_bytes, findings_json, safe_text, table_json, xlsx_bytes
from vervain.exports.tables import Table, all_tables
from vervain.files.demos import open_demo
from vervain.rules.engine import check_machine

FOUND = open_demo("glazing-gantry-as-found")
TABLES = all_tables(FOUND)
HOSTILE = (
    "=cmd|' /C calc'!A0", "+1+1", "-2+3", "@SUM(A1)", "\t=1", "\r=1", 'a"b,c\nd', "<script>", "'x",
    "\x00\x0b", "𝄞 ünïcode", "=HYPERLINK(1)",
)  # fmt: skip


def table_of(*texts: str) -> Table:
    return Table(title="T", columns=(("A", 9), ("B", 9)), rows=tuple((t, 1.5) for t in texts))


def read_csv(data: bytes) -> list[list[str]]:
    return list(csv.reader(io.StringIO(data.decode("utf-8-sig"), newline="")))


class Csv(unittest.TestCase):
    def test_rfc_4180(self) -> None:
        data = csv_bytes(table_of('say "hi", you', "two\r\nlines"))
        self.assertTrue(data.startswith(b"\xef\xbb\xbfA,B\r\n"))
        self.assertIn(b'"say ""hi"", you",1.5\r\n', data)
        self.assertEqual(["two\r\nlines", "1.5"], read_csv(data)[2])

    def test_nothing_starts_like_a_formula(self) -> None:
        for row in read_csv(csv_bytes(table_of(*HOSTILE)))[1:]:
            self.assertNotIn(row[0][:1], ("=", "+", "-", "@", "\t", "\r"))

    @settings(max_examples=200, deadline=None)
    @given(st.text(st.characters(exclude_categories=("Cs",)), max_size=20))
    def test_any_text_comes_back(self, text: str) -> None:
        rows = read_csv(csv_bytes(table_of(text)))
        self.assertEqual([safe_text(text), "1.5"], rows[1])

    def test_the_demo_has_a_row_a_conductor(self) -> None:
        rows = read_csv(csv_bytes(TABLES[0]))
        self.assertEqual(list(TABLES[0].names), rows[0])
        by_label = {row[0]: dict(zip(rows[0], row, strict=True)) for row in rows[1:]}
        row = by_label["W14.2"]
        self.assertEqual(("T4", "A−", "BN"), (row["From"], row["From pin"], row["Core colour"]))
        self.assertEqual(("X14", "B 2", "M4 Z motor"), (row["To"], row["To pin"], row["Device"]))
        self.assertEqual(("WHRD WHYE", "1", "6.5"), (row["Lead"], row["mm2"], row["m"]))
        self.assertEqual({len(TABLES[0].names)}, {len(row) for row in rows})


class Xlsx(unittest.TestCase):
    def test_a_sheet_a_table_with_frozen_headers_and_filters(self) -> None:
        book = load_workbook(io.BytesIO(xlsx_bytes(TABLES)))
        self.assertEqual(
            [
                "Conductors",
                "Cables",
                "Connectors",
                "Cut list",
                "Labels",
                "Cutting",
                "Devices",
                "Settings",
                "Supply",
                "Stops",
                "Bench",
                "Findings",
            ],
            book.sheetnames,
        )
        for sheet, table in zip(book, TABLES, strict=True):
            self.assertEqual("A2", sheet.freeze_panes)
            self.assertTrue(sheet.auto_filter.ref)
            self.assertTrue(sheet["A1"].font.bold)
            self.assertEqual(len(table.rows) + 1, sheet.max_row)

    def test_hostile_names_stay_text(self) -> None:
        machine = FOUND
        for device, text in zip(FOUND.devices, HOSTILE[:4], strict=False):
            machine = set_name(machine, device.designator, text)
        machine = set_name(machine, FOUND.devices[5].designator, "a\ufffe\uffffb")
        book = load_workbook(io.BytesIO(xlsx_bytes((*all_tables(machine), table_of(*HOSTILE)))))
        for sheet in book:
            for row in sheet.iter_rows():
                for cell in row:
                    self.assertNotEqual("f", cell.data_type, cell.value)
        names = [cell.value for cell in book["Devices"]["B"]]
        self.assertIn(HOSTILE[0], names)
        self.assertIn("ab", names)

    def test_numbers_are_numbers(self) -> None:
        book = load_workbook(io.BytesIO(xlsx_bytes(TABLES)))
        head = [cell.value for cell in book["Conductors"][1]]
        column = head.index("mm2")
        values = [row[column] for row in book["Conductors"].iter_rows(min_row=2, values_only=True)]
        self.assertTrue(all(isinstance(v, int | float) for v in values if v is not None))


class Json(unittest.TestCase):
    def test_tables(self) -> None:
        document = json.loads(table_json(FOUND, TABLES))
        self.assertEqual(("vervain tables", 1), (document["format"], document["version"]))
        labels = {row["Label"] for row in document["tables"]["conductors"]}
        self.assertIn("W14.2", labels)
        self.assertEqual(len(FOUND.devices), len(document["tables"]["devices"]))

    def test_findings(self) -> None:
        document = json.loads(findings_json(FOUND, check_machine(FOUND)))
        one = next(f for f in document["findings"] if f["rule"] == "supply.budget")
        self.assertEqual((5.0, "A", "Won't run"), (one["limit"], one["unit"], one["consequence"]))
        self.assertEqual("G2", one["subjects"][0]["device"])
        for finding in document["findings"]:
            self.assertTrue(finding["reason"] and finding["source"] and finding["title"])

    def test_an_empty_machine_exports(self) -> None:
        empty = replace(
            FOUND, devices=(), hookups=(), cables=(), axes=(), alternates=(), accepted=()
        )
        self.assertTrue(xlsx_bytes(all_tables(empty)))
        self.assertEqual(1, len(read_csv(csv_bytes(all_tables(empty)[0]))))
