"""The harness table in the real window: five faces, filtered, sorted, traced, edited, exported."""

import csv
import io
import re
from unittest import mock

from PyQt6.QtCore import QItemSelectionModel, Qt
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit

from tests.desktop.case import WindowCase
from vervain.desktop.stages.harness.table_worker import FACES
from vervain.edits.cable_edits import set_cable
from vervain.edits.device_edits import remove_device, set_name
from vervain.files.demos import open_demo
from vervain.files.machine_file import save_machine

KEY = Qt.Key
CONTROL = Qt.KeyboardModifier.ControlModifier


class TableCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.show_stage("Harness")
        self.harness = self.window.harness
        self.table = self.harness.table
        self.show_face("Conductors")

    def show_face(self, name: str) -> None:
        self.harness.show_face(name)
        self.until(lambda: self.fresh(name))

    def fresh(self, name: str) -> bool:
        kept = self.harness.keeper.faces.get(name)
        return kept is not None and kept[0] is self.session.machine and self.table.isVisible()

    def column(self, title: str) -> list:
        titles = [column.title for column in self.harness.keeper.face.columns]
        at = titles.index(title)
        return [row.cells[at] for row in self.table.faces.rows]

    def index(self, row: int, title: str):
        number = next(n for n, (_, c) in enumerate(self.table.faces.columns) if c.title == title)
        return self.table.faces.index(row, number)

    def row_of(self, title: str, value) -> int:
        return self.column(title).index(value)

    def choose(self, *rows: int) -> None:
        flags = QItemSelectionModel.SelectionFlag
        model = self.table.selectionModel()
        model.clearSelection()
        for row in rows:
            model.select(self.table.faces.index(row, 0), flags.Select | flags.Rows)
        model.setCurrentIndex(self.table.faces.index(rows[-1], 0), flags.NoUpdate)

    def type_into(self, row: int, title: str, text: str) -> None:
        """Edits a cell as a builder does: the keyboard in it, Enter, the text, Enter."""
        index = self.index(row, title)
        self.table.selectionModel().setCurrentIndex(
            index, QItemSelectionModel.SelectionFlag.NoUpdate
        )
        self.table.setFocus()
        self.keys(self.table, KEY.Key_Return)
        editor = self.table.findChild(QLineEdit) or self.table.findChild(QComboBox)
        boxes = [b for b in self.table.findChildren(QComboBox) if b.isVisible()]
        if boxes:
            boxes[0].setCurrentText(text)
            self.table.commitData(boxes[0])
            self.table.closeEditor(boxes[0], self.table.itemDelegate().EndEditHint.NoHint)
        else:
            editor.selectAll()
            self.keys(editor, KEY.Key_Delete, text, KEY.Key_Return)
        QApplication.processEvents()


class Looking(TableCase):
    def test_a_label_from_a_wire_shows_both_ends(self) -> None:
        self.keys(self.window, (KEY.Key_L, CONTROL))
        self.keys(self.window.strip.field, "w14.2", KEY.Key_Return)
        trace = self.window.strip.picture.trace
        self.assertEqual("T4", trace.stretches[0].start.device)
        self.assertEqual("M4", trace.stretches[-1].end.device)
        row = self.table.faces.rows[self.table.currentIndex().row()]
        self.assertEqual("W14.2", row.cells[0])
        self.keys(self.window.strip.field, "x", KEY.Key_Return)
        self.assertIn("No conductor carries the label", self.said[-1])

    def test_filtering_and_sorting(self) -> None:
        self.keys(self.harness.filter, "no such wire")
        self.assertIn("Shorten the filter", self.harness.empty.text())
        self.harness.filter.clear()
        for words, device in (("z head valve", "M9 Air valve"), ("M4 YE", "M4 Z motor")):
            self.keys(self.harness.filter, words)
            self.assertEqual({device}, set(self.column("Device")))
            self.harness.filter.clear()
        at = next(n for n, (_, c) in enumerate(self.table.faces.columns) if c.title == "m")
        for order, down in ((Qt.SortOrder.AscendingOrder, False),
                            (Qt.SortOrder.DescendingOrder, True)):  # fmt: skip
            self.table.sortByColumn(at, order)
            cells = self.column("m")
            known = [cell for cell in cells if cell is not None]
            self.assertEqual(sorted(known, reverse=down), known)
            self.assertTrue(all(cell is None for cell in cells[len(known) :]))

    def test_labels_sort_as_people_count(self) -> None:
        self.table.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        labels = self.column("Label")
        self.assertLess(labels.index("W2"), labels.index("W11.1"))

    def test_arrows_trace_row_after_row(self) -> None:
        self.harness.go_to_label("W14.1")
        self.table.setFocus()
        self.keys(self.table, KEY.Key_Down)
        self.assertIn("T4 Z driver to M4 Z motor", self.window.strip.picture.title)
        conductor = self.session.selection.conductor
        self.assertEqual("W14", self.session.queries.hookup(conductor[0]).cable)
        self.assertEqual(("R4", "R2", "R1"), self.harness.route._shown().traced)

    def test_every_face_has_rows_and_its_tab_counts_them(self) -> None:
        self.window.activateWindow()
        self.until(self.window.isActiveWindow)
        for number, name in enumerate(FACES[:5], 1):
            self.keys(self.window, (getattr(KEY, f"Key_{number}"), CONTROL))
            self.until(lambda name=name: self.fresh(name))
            face = self.harness.keeper.face
            with self.subTest(name):
                self.assertEqual(name, face.name)
                self.assertEqual(len(face.rows), len(self.table.faces.rows))
                self.assertIn(str(face.total), self.harness.buttons[name].text())

    def test_currents_stand_with_the_conductors(self) -> None:
        # 4.0 A peak is 2.83 A RMS.
        self.assertEqual(2.83, self.column("A")[self.row_of("Label", "W14.1")])
        self.assertIsNone(self.column("A")[self.row_of("Label", "B7.+")])

    def test_the_strip_says_what_flows_along_the_path(self) -> None:
        self.harness.go_to_label("W14.1")
        picture = self.window.strip.picture
        key = next((s.hookup, s.row) for s in picture.trace.stretches if s.label == "W14.1")
        self.until(lambda: key in picture.flows.along)
        flow, string = picture.flows.along[key]
        self.assertEqual("", string, "in no string of the stops")
        # 4 A peak; 6.5 m of 1 mm2 at 60 degrees are 0.147 ohm, and two contacts.
        self.assertAlmostEqual(2.83, flow.current_a, 2)
        self.assertAlmostEqual(2.83 * (6.5 * 0.0195 * 1.1572 + 0.004), flow.drop_v, 1)
        self.session.apply("longer", lambda m: set_cable(m, "W14", 13.0, ""))
        self.until(lambda: key in picture.flows.along
                   and picture.flows.along[key].current.drop_v > 1.9 * flow.drop_v)  # fmt: skip
        self.harness.go_to_label("W41.2")
        stop = next((s.hookup, s.row) for s in picture.trace.stretches if s.label == "W41.2")
        self.until(lambda: stop in picture.flows.along)
        self.assertIn("Q1, opened by S1", picture.flows.along[stop].string)

    def test_a_cavity_selects_its_pin_and_shows_the_plug(self) -> None:
        self.show_face("Connectors")
        plugs = self.column("Plug")
        number = plugs.index("X14 B") + 1
        self.table.setFocus()
        self.choose(number)
        self.table._select(number)
        self.assertEqual("X14", self.session.selection.device)
        card = self.harness.cards[3]
        self.assertTrue(card.has_something())
        first = card._places()
        card.mousePressEvent(None)
        self.assertEqual([(-x, y) for x, y in first], list(card._places()))

    def test_columns_are_chosen_and_kept(self) -> None:
        self.table.choose_column("runs", True)
        self.table.choose_column("ends", False)
        titles = [column.title for _, column in self.table.faces.columns]
        self.assertIn("Runs", titles)
        self.assertNotIn("Ends", titles)
        again = self.open(open_demo(self.demo))
        again.show_stage("Harness")
        self.until(lambda: again.harness.keeper.face is not None)
        self.assertEqual(titles, [c.title for _, c in again.harness.table.faces.columns])

    def test_the_last_column_stays(self) -> None:
        for key in self.harness.keeper.face.keys:
            self.table.choose_column(key, False)
        self.assertEqual(1, len(self.table.faces.columns))


class Editing(TableCase):
    def test_a_length_in_feet_and_back_to_the_route(self) -> None:
        self.show_face("Cables")
        self.type_into(self.row_of("Cable", "W14"), "Measured", "21 ft")
        self.assertAlmostEqual(6.4008, self.session.queries.cable("W14").length_m)
        self.until(lambda: self.fresh("Cables"))
        self.type_into(self.row_of("Cable", "W14"), "Measured", "")
        self.assertIsNone(self.session.queries.cable("W14").length_m)

    def test_several_rows_at_once_are_one_step(self) -> None:
        self.show_face("Cables")
        rows = [self.row_of("Cable", name) for name in ("W21", "W22", "W41")]
        self.choose(*rows)
        steps = len(self.session.steps)
        self.table.take(self.index(rows[0], "Spare cores"), "cut back")
        self.assertEqual(steps + 1, len(self.session.steps))
        self.assertIn("in 3 rows", self.session.steps[-1].words)
        for name in ("W21", "W22", "W41"):
            self.assertEqual("cut back", self.session.queries.cable(name).spares)
        self.session.undo()
        self.assertEqual("", self.session.queries.cable("W21").spares)

    def test_another_kind_of_cable_by_a_few_words(self) -> None:
        self.show_face("Cables")
        row = self.row_of("Cable", "W24")
        self.table.take(self.index(row, "Kind"), "sensor 3 0.34")
        part = self.session.queries.cable_part(self.session.queries.cable("W24").part)
        self.assertEqual(3, len(part.cores))
        self.until(lambda: self.fresh("Cables"))
        self.table.take(self.index(row, "Kind"), "motor cable")
        self.assertIn("hold these words", self.said[-1])

    def test_nonsense_is_said_and_changes_nothing(self) -> None:
        self.show_face("Cables")
        row = self.row_of("Cable", "W14")
        before = self.session.machine
        for title, text, words in (
            ("Measured", "six metres", "six"), ("Measured", "-3 m", "not a length"),
            ("mm²", "AWG 99", "no gauge"), ("Runs", "R1 R99", "no run R99"),
            ("Cable", "W15", "taken"), ("Spare cores", "thrown away", "nothing that is done"),
        ):  # fmt: skip
            with self.subTest((title, text)):
                self.table.take(self.index(row, title), text)
                self.assertIn(words, self.said[-1])
                self.assertIs(before, self.session.machine)

    def test_a_label_of_one_s_own_and_one_for_all_refused(self) -> None:
        self.type_into(self.row_of("Label", "W14.2"), "Label", "Z A minus")
        self.assertTrue(self.harness.go_to_label("z a minus"))
        self.until(lambda: self.fresh("Conductors"))
        self.choose(0, 1, 2)
        self.table.take(self.index(0, "Label"), "same")
        self.assertIn("tells nobody", self.said[-1])

    def test_prices_add_up(self) -> None:
        self.show_face("Cut list")
        row = self.row_of("Item", "cable gland M16")
        self.type_into(row, "Price", "1.50")
        self.until(lambda: self.fresh("Cut list"))
        self.assertEqual(9.0, self.column("Cost")[row])
        self.assertIn("9.00 in all", self.harness.head.note.text())
        self.table.take(self.index(row, "Price"), "cheap")
        self.assertIn("no price", self.said[-1])

    def test_reels_and_lengths_sold_are_typed_and_change_the_cutting(self) -> None:
        self.show_face("Cut list")
        row = self.row_of("Item", "Cable 8 x 0.25 mm2, flexing")
        self.assertIn("buy 1 × 10 m", self.column("How")[row])
        self.type_into(row, "On hand m", "3, 12 m")
        self.until(lambda: self.fresh("Cut list"))
        self.assertIn("from Reel", self.column("How")[row])
        self.assertEqual("3, 12", self.column("On hand m")[row])
        self.type_into(row, "On hand m", "")
        self.until(lambda: self.fresh("Cut list"))
        self.type_into(row, "Sold in m", "25, 5.5")
        self.until(lambda: self.fresh("Cut list"))
        self.assertIn("buy 1 × 5.5 m", self.column("How")[row])
        for text, words in (("-3", "more than 0"), ("a reel", "reel")):
            self.table.take(self.index(row, "On hand m"), text)
            self.assertIn(words, self.said[-1])
        self.table.take(self.index(self.row_of("Item", "cable gland M16"), "Sold in m"), "5")
        self.assertIn("Only cable", self.said[-1])

    def test_lengths_and_labels_are_edited_in_the_card(self) -> None:
        self.harness.go_to_label("W14.2")
        QApplication.processEvents()
        for name, text in (("Length", "21 ft"), ("Runs", "R4 R2 R1"), ("Label", "Z A minus")):
            field = next(
                f
                for f in self.window.side.facts.findChildren(QLineEdit)
                if f.accessibleName() == name and f.isVisible()
            )
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            QApplication.processEvents()
        self.assertAlmostEqual(6.4008, self.session.queries.cable("W14").length_m)
        self.assertEqual(("R4", "R2", "R1"), self.session.queries.cable("W14").runs)
        self.assertTrue(self.harness.go_to_label("z a minus"))


class Leaving(TableCase):
    def test_the_harness_leaves_as_a_file_of_every_form(self) -> None:
        for form in ("csv", "xlsx", "json", "pdf", "html"):
            path = self.folder / f"out.{form}"
            with mock.patch(
                "PyQt6.QtWidgets.QFileDialog.getSaveFileName", return_value=(str(path), "")
            ):
                self.window.exchange.export(form)
            self.settle()
            self.assertTrue(path.stat().st_size > 1000)
        rows = list(csv.reader(io.StringIO((self.folder / "out.csv").read_text("utf-8-sig"))))
        self.assertEqual(len(self.table.faces.rows), len(rows) - 1)
        self.window.exchange.export_to(self.folder / "no" / "x.csv", "csv")
        self.settle()
        self.assertIn("cannot be written", self.said[-1])

    def test_the_whole_set_into_a_folder(self) -> None:
        folder = self.folder / "set"
        with mock.patch(
            "PyQt6.QtWidgets.QFileDialog.getExistingDirectory", return_value=str(folder)
        ):
            self.window.exchange.export("all")
        self.settle()
        self.until(lambda: any("files are in set" in words for words in self.said))
        self.assertGreater(len(list(folder.iterdir())), 12)

    def test_labels_are_printed_and_then_only_the_changed(self) -> None:
        self.table.setFocus()
        self.keys(self.table, KEY.Key_L)
        panel = self.harness.labels_panel
        self.assertTrue(panel.isVisible())
        self.settle()
        first = int(panel.said.text().split()[0])
        panel.onto.setCurrentText("Tape 12 mm")
        self.until(lambda: "12 mm tape" in panel.said.text())
        tape_m = float(re.search(r", ([\d.]+) m of 12 mm tape", panel.said.text())[1])
        self.assertTrue(0.02 < tape_m / first < 0.12, panel.said.text())
        panel.write(self.folder / "labels.pdf", "pdf")
        self.settle()
        self.assertTrue((self.folder / "labels.pdf").stat().st_size > 1000)
        self.until(lambda: panel.said.text().startswith("0 labels"))
        self.assertIn(f"{first} labels printed", self.session.steps[-1].words)
        self.session.apply("gone", lambda m: remove_device(m, "M9"))
        panel.refresh()
        self.until(lambda: 0 < int(panel.said.text().split()[0]) < 20)
        panel.write(self.folder / "more.svg", "svg")
        self.settle()
        self.assertTrue((self.folder / "more.svg").exists())

    def test_a_sheet_that_is_not_understood_is_said(self) -> None:
        self.harness.toggle_labels()
        panel = self.harness.labels_panel
        panel.onto.setCurrentText("Sheet A4")
        for text, words in (
            ("3 by 9", "not understood"), ("12 × 60, 7 × 15, 2 × 0", "would be"),
            ("inf x 9, 7 x 15, 2.5 x 0", "not understood"), ("nan × 9, 7 × 15, 2 × 0", "not under"),
            ("3 × 9, nan × 15, 2 × 0", "0 to 100"), ("0 × 0, 7 × 15, 2 × 0", "1 to 12"),
        ):  # fmt: skip
            panel.grid_text.setText(text)
            panel.write(self.folder / "x.pdf", "pdf")
            self.settle()
            self.assertIn(words, self.said[-1])
        panel.grid_text.setText("3 x 9, 7 x 15, 2.5 x 0")
        panel.write(self.folder / "x.pdf", "pdf")
        self.settle()
        self.assertTrue((self.folder / "x.pdf").exists())

    def test_the_label_form_is_changed_undone_and_checked(self) -> None:
        self.harness.toggle_labels()
        field = self.harness.labels_panel.core_template
        for text, label in (("{cable}-{core}", "W14-2"), ("{cabel}", "W14-2")):
            field.setText(text)
            self.keys(field, KEY.Key_Return)
            self.assertTrue(self.harness.go_to_label(label))
        self.assertIn("no field of a label", self.said[-1])
        self.session.undo()
        self.assertTrue(self.harness.go_to_label("W14.2"))

    def test_what_changed_since_another_version(self) -> None:
        path = self.folder / "before.vervain"
        save_machine(open_demo("glazing-gantry-as-planned"), path)
        self.harness.compare_with(path)
        self.settle()
        self.until(lambda: self.fresh("Changes"))
        self.assertIn("moved", self.column("What"))
        self.assertIn("print", self.column("What"))
        self.assertTrue(self.harness.buttons["Changes"].isVisible())
        self.keys(self.harness.filter, "moved W16")
        self.harness.export_face(self.folder / "moved.csv")
        self.settle()
        rows = (self.folder / "moved.csv").read_text("utf-8-sig").splitlines()
        self.assertEqual("What,Label,Before,Now", rows[0])
        self.assertEqual({"moved"}, {row.split(",")[0] for row in rows[1:]})
        self.harness.export_face(self.folder / "no" / "x.csv")
        self.settle()
        self.assertIn("cannot be written", self.said[-1])
        broken = self.folder / "broken.vervain"
        broken.write_text("{")
        self.harness.compare_with(broken)
        self.settle()
        self.assertIn("ends too early", self.said[-1])

    def test_a_card_that_lacks_a_method_is_refused(self) -> None:
        from vervain.desktop.stages.harness.cards import HarnessCard

        with self.assertRaisesRegex(TypeError, "HalfCard lacks body_height, paint_body, title"):
            type("HalfCard", (HarnessCard,), {"has_something": lambda self: False})

    def test_what_is_edited_while_a_list_is_read_stays(self) -> None:
        path = self.folder / "list.csv"
        path.write_text("Designator,Part,Name\nB30,osier-rl2,Lid\n")
        self.window.exchange.import_from(path)
        self.session.apply("Name", lambda m: set_name(m, "M1", "Edited meanwhile"))
        self.until(lambda: self.harness.importing.result is not None)
        self.keys(self.harness.importing.list, KEY.Key_Return)
        self.assertIsNotNone(self.session.queries.device("B30"))
        self.assertEqual("Edited meanwhile", self.session.queries.device("M1").name)

    def test_a_list_is_taken_in_after_it_said_what_it_does(self) -> None:
        path = self.folder / "list.csv"
        path.write_text("Designator,Part,Name\nB30,osier-rl2,Lid\nM1,fell-s60,Other\n")
        before = self.session.machine
        self.window.exchange.import_from(path)
        self.settle()
        panel = self.harness.importing
        self.assertIn("1 devices would be taken in", panel.said.text())
        self.assertIs(before, self.session.machine)
        self.assertIn("left out", panel.list.item(1).text())
        self.keys(panel.list, KEY.Key_Return)
        self.assertIsNotNone(self.session.queries.device("B30"))
        self.session.undo()
        self.assertEqual(before, self.session.machine)
