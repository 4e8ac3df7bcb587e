"""The script of the page for the phone, run for real on a page of plain objects."""

import json
import re
import unittest
from xml.etree import ElementTree

from PyQt6.QtCore import QCoreApplication

try:
    from PyQt6.QtQml import QJSEngine
except ImportError:  # The engine is a part of Qt that some systems leave out.
    QJSEngine = None

from vervain.exports.harness_html import SCRIPT, harness_html
from vervain.exports.tables import all_tables
from vervain.files.demos import open_demo

PLANNED = open_demo("glazing-gantry-as-planned")
# Just as much of a page as the script asks for.
PAGE = """
// What browsers have and the engine of the tests lacks.
Array.prototype.flatMap = function (act) { return [].concat(...this.map(act)); };
String.prototype.replaceAll = function (old, now) { return this.split(old).join(now); };
const listeners = {};
var field = {value: "", addEventListener: (name, act) => { listeners[name] = act; }};
const window = {addEventListener: (name, act) => { listeners[name] = act; }};
const location = {hash: HASH};
function row_of(cells) {
  return {hidden: false, cells: cells.map(([text, titles]) =>
    ({textContent: text, querySelectorAll: () => titles.map((title) => ({title}))}))};
}
var parts = TABLES.map((rows) => {
  const part = {open: false, span: {textContent: ""}, rows: rows.map(row_of), figures: []};
  return part;
});
var sheets = {open: false, span: {textContent: ""}, rows: [], scrolled: "",
  figures: SHEETS.map(([id, texts]) => ({id, hidden: false,
    querySelectorAll: () => texts.map((text) => ({textContent: text})),
    closest: () => sheets, scrollIntoView: () => { sheets.scrolled = id; }}))};
for (const part of [...parts, sheets]) {
  part.querySelector = () => part.span;
  part.querySelectorAll = () =>
    [...part.rows, ...part.figures].filter((each) => !each.hidden);
}
const document = {
  querySelector: () => field,
  getElementById: (id) => sheets.figures.find((figure) => figure.id === id),
  querySelectorAll: (what) => what === "tbody tr" ? parts.flatMap((part) => part.rows)
    : what === "figure[id]" ? sheets.figures : [...parts, sheets],
};
"""


def read(html: str) -> tuple[list, list]:
    """The tables of a page as rows of cells, each with its text and titles; its sheets."""
    body = html[html.index("<body>") : html.index("<script>")] + "</body>"
    root = ElementTree.fromstring(re.sub(r"<(input|br|meta)([^>]*)>", r"<\1\2/>", body))
    tables = [
        [
            [["".join(cell.itertext()), [b.get("title") for b in cell.iter() if b.get("title")]]
             for cell in row.iter("td")]
            for row in table.iter("tr") if row.find("td") is not None
        ]
        for table in root.iter("table")
    ]  # fmt: skip
    sheets = [
        [figure.get("id"), [words.text or "" for words in figure.iter() if "text" in words.tag]]
        for figure in root.iter("figure") if figure.get("id")
    ]  # fmt: skip
    return tables, sheets


@unittest.skipUnless(QJSEngine, "Qt has no script engine here")
class Script(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.application = QCoreApplication.instance() or QCoreApplication([])
        cls.tables, cls.sheets = read(harness_html(PLANNED, all_tables(PLANNED)[:1]).decode())

    def page(self, hash_: str = ""):
        engine = QJSEngine()
        page = PAGE.replace("TABLES", json.dumps(self.tables)).replace(
            "SHEETS", json.dumps(self.sheets)
        )
        script = SCRIPT.replace('const field = document.querySelector("input");', "")
        done = engine.evaluate(page.replace("HASH", json.dumps(hash_), 1) + script)
        self.assertFalse(done.isError(), done.toString())
        return engine

    def seen(self, engine, typed: str) -> list[str]:
        engine.evaluate(f"field.value = {json.dumps(typed)}; search();")
        told = engine.evaluate(
            "parts[0].rows.filter((row) => !row.hidden).map((row) => row.cells[0].textContent)"
        )
        return told.toVariant()

    def test_words_are_looked_for_cell_by_cell(self) -> None:
        page = self.page()
        self.assertEqual(205, len(self.seen(page, "")))
        self.assertEqual({"W14.2"}, set(self.seen(page, "w14.2")))
        # A colour by its word; a hyphen for the minus sign that is printed.
        self.assertTrue(self.seen(page, "brown W14"))
        self.assertEqual(self.seen(page, "A− T4"), self.seen(page, "a- t4"))
        self.assertEqual([], self.seen(page, "W14.2W14.2"))
        counted = page.evaluate("parts[0].span.textContent").toInt()
        self.assertEqual(0, counted)

    def test_sheets_are_searched_and_a_code_opens_one(self) -> None:
        page = self.page()
        page.evaluate('field.value = "X14 W14.2"; search();')
        left = page.evaluate("sheets.figures.filter((f) => !f.hidden).map((f) => f.id)")
        self.assertEqual(["sheet-W14"], left.toVariant())
        opened = self.page("#W14")
        self.assertEqual("sheet-W14", opened.evaluate("sheets.scrolled").toString())
        self.assertTrue(opened.evaluate("sheets.open").toBool())
        # A single wire has no sheet of its own: its rows are shown.
        single = self.page("#W3")
        self.assertEqual("W3", single.evaluate("field.value").toString())
        self.assertEqual(["W3"], self.seen(single, "W3")[:1])
        self.page("#%F0%9F")
