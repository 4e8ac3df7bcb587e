"""What of each cable is made, what was printed, what is ordered: in the real window."""

from pathlib import Path
from tempfile import TemporaryDirectory

from tests.desktop.test_harness_table import TableCase
from vervain.edits.cable_edits import set_cable
from vervain.model.problem import Problem
from vervain.tables.cell_edits import tick_next


class Papers(TableCase):
    def test_what_is_bought_from_whom_becomes_a_list_for_each_supplier(self) -> None:
        self.show_face("Cut list")
        for key in ("supplier", "number", "pack", "packs"):
            self.table.choose_column(key, True)
        with TemporaryDirectory() as name:
            folder = Path(name)
            self.window.exchange.order_lists_to(folder)
            self.until(lambda: self.said and "No item has" in self.said[-1])
            for item, supplier, number, pack in (
                ("cable gland M16", "West", "G-16", "10"),
                ("cable gland M12", "West", "G-16", ""), ("Blue wire, 2.5 mm2", "Öst/1", "", "100"),
            ):  # fmt: skip
                row = self.row_of("Item", item)
                for title, text in (
                    ("Supplier", supplier),
                    ("Number", number),
                    ("In a pack", pack),
                ):
                    self.table.take(self.index(row, title), text)
                    self.until(lambda: self.fresh("Cut list"))
            sixteen, twelve = (
                self.column("To get")[self.row_of("Item", f"cable gland M{size}")]
                for size in (16, 12)
            )
            self.assertEqual("1 × 10", self.column("Packs")[self.row_of("Item", "cable gland M16")])
            self.assertLessEqual(sixteen, 10)
            self.window.exchange.order_lists_to(folder)
            self.until(lambda: "2 order lists" in self.said[-1])
            self.assertIn("without a number: Blue wire", self.said[-1])
            (path,) = folder.glob("*-order West.csv")
            west = path.read_text("utf-8-sig").splitlines()
            self.assertEqual(["Number,Quantity", f"G-16,{1 + twelve:g}"], west)
            self.assertEqual(1, len(list(folder.glob("*-order Öst_1.csv"))))
        row = self.row_of("Item", "cable gland M16")
        self.table.take(self.index(row, "In a pack"), "none")
        self.assertIn("no number", self.said[-1])

    def test_steps_are_ticked_and_asked_for_again_after_an_edit(self) -> None:
        # What was there before has no steps: faster than the face comes.
        rows = [row for row in self.table.faces.rows if not row.marks][:1]
        with self.assertRaisesRegex(Problem, "neither cut nor made"):
            tick_next(rows)
        self.show_face("Sheets")
        self.assertIs(self.harness.sheet, self.harness.upper.currentWidget())
        self.harness.go_to_label("W11.1")
        row = self.row_of("Cable", "W11")
        self.keys(self.table, "d")
        self.keys(self.table, "d")
        self.until(lambda: self.fresh("Sheets"))
        # Faster than the table is made anew.
        ticked = [self.column(title)[row] for title in ("Cut", "Made", "Labelled")]
        self.assertEqual(["✓", "✓", ""], ticked)
        self.until(lambda: self.harness.sheet.drawing is not None)
        texts = [
            shape.text for shape in self.harness.sheet.drawing.shapes if hasattr(shape, "text")
        ]
        self.assertIn("W11", texts)
        # A click into a box, in every selected row.
        self.choose(row, row + 1)
        self.table.tick(self.index(row, "Laid"))
        self.until(lambda: self.fresh("Sheets"))
        self.assertEqual(["✓", "✓"], self.column("Laid")[row : row + 2])
        self.session.apply("longer", lambda m: set_cable(m, "W11", 6.0, ""))
        self.until(lambda: self.fresh("Sheets"))
        self.assertEqual(
            ("again", "✓", "cut before a change"),
            (self.column("Cut")[row], self.column("Laid")[row], self.column("Stands")[row]),
        )
        self.session.undo()
        self.until(lambda: self.fresh("Sheets"))
        self.assertEqual("✓", self.column("Cut")[row])
        self.assertIn("4 of", self.harness.line.words.text())

    def test_what_was_printed_is_told_when_an_edit_outdates_it(self) -> None:
        self.harness.show_face("Papers")
        self.until(lambda: "Nothing printed" in self.harness.empty.text())
        with TemporaryDirectory() as folder:
            self.window.exchange.export_to(Path(folder) / "s.pdf", "sheets")
            self.until(lambda: self.session.machine.papers)
        self.until(lambda: self.fresh("Papers"))
        self.assertEqual(["as printed"], self.column("Stands"))
        self.session.apply("longer", lambda m: set_cable(m, "W11", 6.0, ""))
        self.until(lambda: self.fresh("Papers"))
        stands = self.column("Stands")[0]
        self.assertIn("W11", stands)
        self.assertNotIn("W3,", stands)
