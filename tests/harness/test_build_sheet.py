"""Build sheets: every core with both of its ends, drawn within the page, and on paper."""

import io
import unittest

from msgspec.structs import replace
from pypdf import PdfReader

from vervain.data import replace_tables
from vervain.edits.machine_edits import set_papers
from vervain.exports.harness_html import harness_html
from vervain.exports.harness_pdf import build_sheets_pdf
from vervain.files.demos import DEMOS, open_demo
from vervain.harness.build_sheet import build_sheet, build_sheets, making
from vervain.harness.label_layout import qr_cells
from vervain.harness.labels import labels
from vervain.harness.shapes import Code, Frame, Stroke, Words
from vervain.model.machine import PortRef, ends_of
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import place_of
from vervain.tables.build_sheet_drawing import WIDTH, draw_build_sheet, draw_single_wires

PLANNED = open_demo("glazing-gantry-as-planned")
LOOK = Queries(PLANNED)


class Sheets(unittest.TestCase):
    def test_every_core_of_every_cable_is_in_one_row_with_both_labels(self) -> None:
        for demo in DEMOS:
            queries = Queries(open_demo(demo.key))
            told = [
                (frozenset((row.a.pin, row.b.pin)), frozenset((row.a.label, row.b.label)))
                for sheet in build_sheets(queries) for row in sheet.rows
            ]  # fmt: skip
            wanted = []
            for hookup in open_demo(demo.key).hookups:
                cable = queries.cable(hookup.cable) if hookup.cable else None
                if cable is None or queries.cable_part(cable.part).ready_made:
                    continue
                for number in range(len(hookup.conductors)):
                    label = labels(queries)[hookup.id, number]
                    ends = ends_of(hookup, hookup.conductors[number])
                    wanted.append((frozenset(ends), frozenset((label.at_a, label.at_b))))
            with self.subTest(demo.key):
                self.assertCountEqual(wanted, told)

    def test_the_ends_of_one_side_lie_together(self) -> None:
        for sheet in build_sheets(LOOK):
            for side in ("a", "b"):
                places = {place_of(LOOK, getattr(row, side).pin.device) for row in sheet.rows}
                with self.subTest(sheet.cable, side=side):
                    self.assertEqual(1, len(places))

    def test_a_motor_cable_from_reel_to_continuity(self) -> None:
        sheet = build_sheet(LOOK, "W14")
        facts = dict(sheet.facts)
        self.assertTrue(facts["Cut"].startswith("6.5 m from Reel 1, piece "))
        ends = {end.pin.device: end for row in sheet.rows if row.core == 1
                for end in (row.a, row.b)}  # fmt: skip
        self.assertEqual((10, "ferrule 1 mm², RD"), (ends["T4"].strip_mm, ends["T4"].ends_in))
        self.assertEqual((2.5, "socket contact"), (ends["X14"].strip_mm, ends["X14"].ends_in))
        self.assertIn("M4", ends["X14"].goes_on)
        steps = " ".join(sheet.steps)
        for words in ("heat-shrink 9 mm", "Gland M16 of Control box", "X14 1 to T4 A+",
                      "Shield to T4 MOTOR and X14 B", "to the shield", "R4, R2, R1"):  # fmt: skip
            self.assertIn(words, steps)
        bare = replace(
            PLANNED, cables=tuple(replace(c, shield_to=()) if c.id == "W14" else c
                                  for c in PLANNED.cables)
        )  # fmt: skip
        self.assertIn("not said where", build_sheet(Queries(bare), "W14").shield)

    def test_spare_cores_and_own_tools_are_told(self) -> None:
        spare = next(s for s in build_sheets(LOOK) if any("stay unused" in t for t in s.steps))
        self.assertIn(LOOK.cable(spare.cable).spares, " ".join(spare.steps))
        table = making()
        own = ('[strip_mm]\ncontact = 4\nferrule_over = 3\nring = 7\njoined = 8\nterminal = 7\n'
               '[sheath_off_mm]\nplug = 11\nterminals = 90\nleads = 60\n'
               '[tools]\nferrule = "number 2"\n')  # fmt: skip
        self.addCleanup(replace_tables, {"making.toml": None})
        replace_tables({"making.toml": own})
        sheet = build_sheet(Queries(PLANNED), "W14")
        told = {(end.strip_mm, end.tool) for row in sheet.rows for end in (row.a, row.b)}
        self.assertEqual({(11, "number 2"), (4, "")}, told)
        self.assertNotEqual(table, making())

    def test_nothing_is_drawn_beside_the_page(self) -> None:
        for demo in DEMOS:
            sheets = build_sheets(Queries(open_demo(demo.key)))
            singles = tuple(sheet for sheet in sheets if len(sheet.rows) == 1)
            drawings = [draw_build_sheet(sheet) for sheet in sheets if len(sheet.rows) > 1]
            for drawing in (*drawings, *draw_single_wires(singles)):
                for shape in drawing.shapes:
                    if isinstance(shape, Frame):
                        self.assertGreaterEqual(shape.box.x, 0)
                        self.assertLessEqual(shape.box.x + shape.box.width, WIDTH)
                    elif isinstance(shape, Stroke):
                        self.assertTrue(all(0 <= p.x <= WIDTH for p in shape.points))
                    elif isinstance(shape, Words) and not shape.centred:
                        right = shape.x + len(shape.text) * shape.size * 0.55
                        self.assertLessEqual(right, WIDTH + 20, shape.text)
                self.assertLess(drawing.height, 640)

    def test_a_code_opens_the_sheet_on_the_page_for_the_phone(self) -> None:
        machine = set_papers(PLANNED, page="http://bench/gantry.html")
        sheet = build_sheet(Queries(machine), "W14")
        (code,) = (s for s in draw_build_sheet(sheet, machine.page).shapes if isinstance(s, Code))
        self.assertEqual(qr_cells("http://bench/gantry.html#W14"), code.cells)
        dark = sum(box.width * box.height for box in code.dark)
        cell = code.side / len(code.cells)
        self.assertAlmostEqual(sum(map(sum, code.cells)), dark / cell**2)
        self.assertFalse([s for s in draw_build_sheet(sheet).shapes if isinstance(s, Code)])
        html = harness_html(machine, ()).decode()
        self.assertIn('id="sheet-W14"', html)
        with self.assertRaisesRegex(Problem, "no address"):
            set_papers(PLANNED, page="javascript:alert(1)")

    def test_each_cable_has_its_page_and_single_wires_share_one(self) -> None:
        pdf = PdfReader(io.BytesIO(build_sheets_pdf(PLANNED)))
        entries = [entry.title for entry in pdf.outline]
        sheets = build_sheets(LOOK)
        made = [sheet for sheet in sheets if len(sheet.rows) > 1]
        self.assertEqual([sheet.cable for sheet in made],
                         [entry.partition("  ")[0] for entry in entries[: len(made)]])  # fmt: skip
        self.assertEqual("Single wires", entries[-1])
        for page, sheet in zip(pdf.pages, made, strict=False):
            text = page.extract_text()
            for row in sheet.rows:
                self.assertIn(row.a.label, text)
        empty = PdfReader(io.BytesIO(build_sheets_pdf(replace(PLANNED, hookups=(), cables=()))))
        self.assertIn("No cable to make yet", empty.pages[0].extract_text())
        self.assertIsNone(build_sheet(LOOK, "W999"))
        self.assertEqual(1, len(build_sheet(LOOK, "W14").a.ports))
        self.assertIsInstance(build_sheet(LOOK, "W14").a.ports[0], PortRef)
