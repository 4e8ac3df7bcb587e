"""The harness on paper and on the phone, read back by other programs; hostile names do no harm."""

import csv
import io
import json
import re
import tempfile
import unittest
import xml.etree.ElementTree as ElementTree
from datetime import date
from html.parser import HTMLParser
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from openpyxl import load_workbook
from pypdf import PdfReader

from tests import small
from tests.rules.harness_cases import fan_on_a_run
from tests.sampling import seeded, some
from vervain.edits.cable_edits import mark_printed, set_core_label
from vervain.edits.machine_edits import rename_machine, set_papers
from vervain.exports.bench_set import FORMS, harness_bytes, paper_stem, safe_stem, write_set
from vervain.exports.formats import xlsx_bytes
from vervain.exports.harness_html import harness_html
from vervain.exports.harness_pdf import harness_pdf
from vervain.exports.label_files import label_set, labels_pdf, lay_out_labels, width_mm
from vervain.exports.stamp import fingerprint_of, stamp_of
from vervain.exports.tables import Table, all_tables
from vervain.files.demos import open_demo
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.files.problems import FileProblem
from vervain.harness.label_layout import SheetForm, Style
from vervain.harness.label_texts import LabelText, label_texts
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

FOUND = open_demo("glazing-gantry-as-found")
TABLES = all_tables(FOUND)
HOSTILE = (
    "</td><script>alert(1)</script>", "=1+1", "../../etc/passwd", "a\\b:c*?", "<b>&amp;",
    "\x00\x07\x1b", "'; DROP", "\u202egnirts", "x" * 80, "Ж漢字🔧", "${HOME}", "%s%n",
)  # fmt: skip
MM = 25.4 / 72
DRAWN_STOPS = "The stops, drawn without power"


def named(text: str) -> Machine:
    """A machine whose name and every text that a builder writes are one text."""
    machine = replace(fan_on_a_run(), name=text[:80])
    devices = tuple(replace(device, name=text[:80]) for device in machine.devices)
    places = tuple(replace(place, name=f"{text}"[:78] + place.id[:1]) for place in machine.places)
    cables = tuple(replace(cable, note=text[:80]) for cable in machine.cables)
    machine = replace(machine, devices=devices, places=places, cables=cables)
    return set_core_label(machine, "W1", 1, text.replace("\x00", "") or "x")


class Page(HTMLParser):
    """Everything that a browser would do with a page."""

    def __init__(self, data: bytes) -> None:
        super().__init__()
        self.tags: list[str] = []
        self.scripts = 0
        self.links: list[str] = []
        self.texts: list[str] = []
        self.handlers: list[str] = []
        self.feed(data.decode())

    def handle_starttag(self, tag: str, attrs) -> None:
        self.tags.append(tag)
        self.scripts += tag == "script"
        for name, value in attrs:
            if name in ("src", "href"):
                self.links.append(value or "")
            if name.startswith("on"):
                self.handlers.append(name)

    def handle_data(self, data: str) -> None:
        self.texts.append(data)


class Paper(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.pdf = PdfReader(io.BytesIO(harness_pdf(FOUND, TABLES)))
        cls.pages = [page.extract_text() for page in cls.pdf.pages]

    def test_every_conductor_is_on_paper_and_heads_are_repeated(self) -> None:
        text = "\n".join(self.pages)
        for row in TABLES[0].rows:
            self.assertIn(str(row[0]), text)
        number = next(n for n, page in enumerate(self.pages) if n and "Conductors" in page)
        following = self.pages[number + 1]
        self.assertIn("Label at", following)
        self.assertIn("Drop", following)

    def test_pages_are_numbered_and_the_route_is_drawn_first(self) -> None:
        for number, page in enumerate(self.pages, 1):
            self.assertIn(f"page {number} of {len(self.pages)}", page)
            self.assertIn("Glazing gantry as found", page)
        for words in ("Gantry left end", "R2", "chain 66% full", "sections 20 mm"):
            self.assertIn(words, self.pages[0])

    def test_the_first_page_says_on_which_page_everything_begins(self) -> None:
        said = " ".join(self.pages[0].split())
        for title in ("The stops, drawn without power", "Conductors", "Cut list", "Findings"):
            found = re.search(rf"{title} (\d+)", said)
            page = self.pages[int(found[1]) - 1]
            self.assertIn(title, page.splitlines()[1], title)
            self.assertNotIn(f"{title}, continued", page)

    def test_the_stops_are_drawn_as_their_contacts_are_made(self) -> None:
        page = next(p for p in self.pages[1:] if "The stops, drawn without power" in p)
        for words in ("S1 Door stop", "bridged", "W41.2", "read by K1 STOP A+", "must lose power"):
            self.assertIn(words, page)
        html = harness_html(FOUND, TABLES).decode()
        self.assertIn("bridged", html[html.index("S1 Door stop") - 4000 :])

    def test_every_page_says_what_it_is_a_print_of(self) -> None:
        machine = set_papers(FOUND, revision="B", author="Bench <two> & co")
        day = date(2031, 2, 3)
        stamp = stamp_of(machine, day)
        pdf = PdfReader(io.BytesIO(harness_pdf(machine, TABLES[:2], day=day)))
        for page in pdf.pages:
            for words in ("revision B", "Bench <two> & co", "2031-02-03", stamp.fingerprint):
                self.assertIn(words, page.extract_text())
        self.assertEqual("Bench <two> & co", pdf.metadata.author)
        drawn = [f"Harness of {FOUND.name} {FOUND.state}", DRAWN_STOPS, "Cutting, to scale"]
        self.assertEqual([*drawn, *(table.title for table in TABLES[:2])],
                         [entry.title for entry in pdf.outline])  # fmt: skip
        self.assertIn(stamp.line, Page(harness_html(machine, TABLES, day)).texts)
        book = load_workbook(io.BytesIO(xlsx_bytes(TABLES[:1], stamp)))
        self.assertIn("Bench <two> && co", book.active.oddFooter.left.text)
        # Whatever changes in the file changes its fingerprint, and nothing else does.
        self.assertEqual(fingerprint_of(machine), stamp_of(machine, date(1999, 1, 1)).fingerprint)
        other = replace(machine, devices=machine.devices[1:])
        self.assertNotEqual(fingerprint_of(machine), fingerprint_of(other))
        self.assertEqual(machine, decode_machine(encode_machine(machine), "x"))
        with self.assertRaises(Problem):
            set_papers(machine, revision="x" * 21)

    def test_letters_that_the_font_lacks_are_told_on_the_first_page(self) -> None:
        self.assertNotIn("missing on these pages", self.pages[0])
        machine = rename_machine(FOUND, "Fräse 漢字")
        pdf = PdfReader(io.BytesIO(harness_pdf(machine, TABLES[:1])))
        told = [page.extract_text() for page in pdf.pages[:2]]
        self.assertIn("Letters that are missing", told[0])
        self.assertIn("U+6F22", told[0])
        self.assertNotIn("U+00E4", told[0])
        self.assertIn("Harness of Fräse", told[1])

    def test_the_same_machine_gives_the_same_bytes(self) -> None:
        self.assertEqual(harness_pdf(FOUND, TABLES), harness_pdf(FOUND, TABLES))

    def test_letter_paper_and_an_empty_machine(self) -> None:
        empty = Machine(name="Empty")
        for paper, width in (("a4", 842), ("letter", 792)):
            pdf = PdfReader(io.BytesIO(harness_pdf(empty, all_tables(empty), paper)))
            self.assertEqual(width, round(float(pdf.pages[0].mediabox.width)))


class Labels(unittest.TestCase):
    def pdf_of(self, style: Style, sheet: SheetForm = SheetForm()):  # noqa: B008
        queries = Queries(FOUND)
        texts = tuple(text for text in label_texts(queries) if text.cable in ("W14", "W1"))
        laid = lay_out_labels(queries, FOUND.name, texts, style, sheet)
        return texts, laid, PdfReader(io.BytesIO(labels_pdf(laid, style, sheet, "Labels")))

    def test_tape_is_as_high_as_the_tape_to_a_tenth_of_a_millimetre(self) -> None:
        for tape in (6.0, 9.0, 12.0, 18.0, 24.0):
            texts, laid, pdf = self.pdf_of(Style("flag", tape))
            self.assertEqual(len(texts), len(pdf.pages))
            for label, page in zip(laid, pdf.pages, strict=True):
                self.assertAlmostEqual(tape, float(page.mediabox.height) * MM, 1)
                self.assertAlmostEqual(label.width, float(page.mediabox.width) * MM, 1)

    def test_each_label_says_its_text_where_it_sits_and_where_it_goes(self) -> None:
        texts, _, pdf = self.pdf_of(Style("sleeve", 12.0))
        for text, page in zip(texts, pdf.pages, strict=True):
            self.assertEqual([text.text, text.at, text.to], page.extract_text().splitlines())

    def test_letters_on_paper_are_as_large_as_laid_out(self) -> None:
        _, laid, pdf = self.pdf_of(Style("sleeve", 12.0))
        sizes = []
        pdf.pages[0].extract_text(
            visitor_text=lambda text, _cm, tm, _font, size: sizes.append(size * MM)
            if text.strip() else None
        )  # fmt: skip
        wanted = [shape.size for shape in laid[0].shapes if hasattr(shape, "text")]
        for size, expected in zip(sizes, wanted, strict=True):
            self.assertAlmostEqual(expected, size, 2)

    def test_a_sheet_has_the_size_of_the_paper(self) -> None:
        for paper, size in (("A4", (210.0, 297.0)), ("Letter", (215.9, 279.4))):
            _, _, pdf = self.pdf_of(Style("wrap", None), SheetForm(paper, 2, 4))
            box = pdf.pages[0].mediabox
            for expected, found in zip(size, (box.width, box.height), strict=True):
                self.assertAlmostEqual(expected, float(found) * MM, 1)
            self.assertEqual(2, len(pdf.pages))

    def test_svg_is_in_millimetres_and_texts_are_texts(self) -> None:
        style = Style("flag", 12.0)
        made = label_set(Queries(FOUND), FOUND, frozenset({"core"}), False, {"W14"}, style,
                         SheetForm(), "svg")  # fmt: skip
        root = ElementTree.fromstring(made.files[0])
        self.assertEqual("12mm", root.get("height"))
        words = [e.text for e in root.iter("{http://www.w3.org/2000/svg}text")]
        self.assertEqual(2 * 3 * len(made.texts), len(words))
        self.assertIn("to X14 2, M4 WHRD WHYE", words)

    def test_csv_for_printing_programs(self) -> None:
        made = label_set(Queries(FOUND), FOUND, frozenset({"cable"}), False, set(), Style(),
                         SheetForm(), "csv")  # fmt: skip
        rows = list(csv.DictReader(io.StringIO(made.files[0].decode("utf-8-sig"))))
        self.assertEqual(len(made.texts), len(rows))
        row = next(row for row in rows if row["Label"] == "W14")
        self.assertEqual(("cable", "7.9", "W14 Glazing gantry"),
                         (row["Of a"], row["Around mm"], row["Code"]))  # fmt: skip

    def test_only_the_changed_and_what_is_gone_is_forgotten(self) -> None:
        owners = frozenset({"core", "cable"})
        given = (owners, True, set(), Style(), SheetForm(), "csv")
        first = label_set(Queries(FOUND), FOUND, *given)
        machine = mark_printed(FOUND, (*first.printed, "gone | at X | to Y"))
        again = label_set(Queries(machine), machine, *given)
        self.assertEqual((), again.texts)
        self.assertNotIn("gone | at X | to Y", again.printed)
        self.assertEqual(first.printed, again.printed)

    def test_every_sign_of_the_demo_has_a_width(self) -> None:
        self.assertGreater(width_mm("A−", 2.0, False), width_mm("A", 2.0, False))
        text = LabelText(owner="core", text="Ж", at="", to="")
        laid = lay_out_labels(Queries(FOUND), "x", (text,), Style("sleeve", 9.0), SheetForm())
        self.assertEqual(1, len(laid[0].shapes))


class Phone(unittest.TestCase):
    def test_one_file_with_everything_and_nothing_from_elsewhere(self) -> None:
        page = Page(harness_html(FOUND, TABLES))
        self.assertEqual(([], 1, []), (page.links, page.scripts, page.handlers))
        self.assertEqual(sum(bool(t.rows) for t in TABLES), page.tags.count("table"))
        text = "".join(page.texts)
        for row in TABLES[0].rows:
            self.assertIn(str(row[0]), text)
        self.assertIn("Z head", text)
        self.assertIn("input", page.tags)
        self.assertIn("viewport", harness_html(FOUND, TABLES).decode())

    def test_the_search_is_in_the_page_and_whole(self) -> None:
        data = harness_html(FOUND, TABLES).decode()
        script = data[data.index("<script>") + 8 : data.rindex("</script>")]
        self.assertIn("split(/\\s+/)", script)
        self.assertNotIn("@SCRIPT@", data)
        self.assertNotIn("@STYLE@", data)


class Hostile(unittest.TestCase):
    def test_names_stay_text_everywhere(self) -> None:
        for text in some(seeded("hostile names"), HOSTILE, 6):
            machine = named(text)
            with self.subTest(text):
                page = Page(harness_html(machine, all_tables(machine)))
                self.assertEqual((1, []), (page.scripts, page.handlers))
                for form in FORMS:
                    self.assertTrue(harness_bytes(machine, form))
                style = Style("flag", 12.0)
                made = label_set(
                    Queries(machine), machine, frozenset({"core"}), False, set(), style,
                    SheetForm(), "svg",
                )  # fmt: skip
                ElementTree.fromstring(made.files[0])

    def test_marks_of_our_own_page_in_a_name_stay_text(self) -> None:
        for text in ("@SCRIPT@", "@STYLE@"):
            machine = named(text)
            page = Page(harness_html(machine, all_tables(machine)))
            with self.subTest(text):
                self.assertEqual(1, page.scripts)
                self.assertIn(text, "".join(page.texts))

    @settings(max_examples=25, deadline=None)
    @given(st.text(st.characters(exclude_categories=("Cs",)), min_size=1, max_size=40))
    def test_any_text_can_be_printed_and_read_back(self, text: str) -> None:
        table = Table(title="T", columns=(("A", 20), ("B", 5)), rows=((text, 1.5),))
        machine = Machine(name="x")
        self.assertTrue(harness_pdf(machine, (table,)).startswith(b"%PDF"))
        page = Page(harness_html(machine, (table,)))
        self.assertEqual(1, page.scripts)
        self.assertIn("1.5", page.texts)

    def test_a_name_is_no_path(self) -> None:
        for text, stem in (
            ("../../etc/passwd", "______etc_passwd"), ("a/b\\c:d", "a_b_c_d"), ("...", "___"),
            ("Glazing gantry", "Glazing gantry"), ("\x00", "_"), ("x" * 200, "x" * 80),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(stem, safe_stem(text))
                self.assertEqual(Path(stem).name, stem)
        # The papers of one state never take the names of another's.
        long = replace(FOUND, name="n" * 80)
        both = [(state, revision) for state in ("as found", "as planned") for revision in ("", "B")]
        stems = {paper_stem(replace(long, state=one, revision=other)) for one, other in both}
        self.assertEqual(4, len(stems))

    def test_a_set_stays_in_its_folder(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            inner = Path(folder) / "set"
            written = write_set(named("../../up"), inner)
            self.assertEqual({inner}, {path.parent for path in written})
            self.assertEqual([inner], list(Path(folder).iterdir()))


class Sets(unittest.TestCase):
    def test_the_full_set_is_written_and_opens(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            written = write_set(FOUND, Path(folder))
            names = {path.name for path in written}
            for ending in ("harness.pdf", "harness.html", "harness.xlsx", "harness.json",
                           "conductors.csv", "cut-list.csv", "labels-tape-12-mm.pdf",
                           "labels-tape-12-mm.svg", "labels-A4.pdf"):  # fmt: skip
                self.assertIn(f"Glazing gantry as found-{ending}", names)
            book = load_workbook(Path(folder) / "Glazing gantry as found-harness.xlsx")
            self.assertEqual(
                ["Conductors", "Cables", "Connectors", "Cut list", "Labels", "Cutting", "Devices",
                 "Settings", "Supply", "Stops", "Bench", "Findings"],
                book.sheetnames,
            )  # fmt: skip
            sheet = book["Cables"]
            self.assertEqual(len(FOUND.cables) + 1, sheet.max_row)
            data = json.loads((Path(folder) / "Glazing gantry as found-harness.json").read_text())
            self.assertEqual(len(FOUND.cables), len(data["tables"]["cables"]))
            for path in written:
                self.assertFalse(re.search(r"\.tmp|~$", path.name))

    def test_stopped_midway_what_is_written_is_whole(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            said: list[str] = []

            def says(name: str) -> bool:
                said.append(name)
                return len(said) < 3

            written = write_set(fan_on_a_run(), Path(folder), says)
            self.assertEqual(2, len(written))
            self.assertTrue(all(path.stat().st_size > 100 for path in written))

    def test_a_folder_that_cannot_be_made_is_said(self) -> None:
        with tempfile.NamedTemporaryFile() as file, self.assertRaises(FileProblem):
            write_set(small.cabled_fan(), Path(file.name) / "x")
