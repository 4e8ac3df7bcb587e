"""Describing boards by hand: ports pulled about, a photograph under them, settings, what fits."""

import random
from itertools import combinations

from msgspec.structs import replace
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.desktop.case import DescribingCase
from vervain.catalogue.pin_words import read_function
from vervain.catalogue.port_places import EDGE_WORDS
from vervain.data import replace_tables
from vervain.desktop.session import Selection
from vervain.desktop.stages.ports.board_layout import board_of
from vervain.desktop.stages.ports.shapes import Sizes
from vervain.files.own_tables import take_own_tables
from vervain.files.own_words import OWN_WORDS, remember_word
from vervain.files.part_files import decode_parts, read_part_file
from vervain.files.part_writing import part_text
from vervain.model.elements import Bridge
from vervain.model.machine import Device, Machine, PortRef
from vervain.model.orientation import as_it_lies
from vervain.model.part import Part
from vervain.ports.fit import fit
from vervain.ports.plugging import plug_in
from vervain.ports.try_part import try_port
from vervain.queries.machine_queries import Queries
from vervain.tables.settings_sheet import settings_sheet

Key, LEFT = Qt.Key, Qt.MouseButton.LeftButton
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
BOARD = """port | pin | signal
PWR | 1 | 24V
PWR | 2 | 0V
SLOT X, Y | 1 | EN
SLOT X, Y | 2 | STEP
SLOT X, Y | 3 | DIR
SLOT X, Y | 4 | 0V
SLOT X, Y | 5 | VMOT
SLOT X, Y | 6 | A+
SLOT X, Y | 7 | A-
SLOT X, Y | 8 | B+
SLOT X, Y | 9 | B-
MOTOR X, Y | 1 | A+
MOTOR X, Y | 2 | A-
MOTOR X, Y | 3 | B+
MOTOR X, Y | 4 | B-
IN 1-4 | 1 | 24V
IN 1-4 | 2 | IN
IN 1-4 | 3 | 0V"""


class Bench(DescribingCase):
    def board(self) -> None:
        self.page.kind.setCurrentText("controller")
        self.page.title.setText("Board")
        for key, text in (("v_min_v", "18"), ("v_max_v", "30")):
            self.page.figures.fields[key][0].setText(text)
        self.page.pins.setPlainText(BOARD)
        self.page.refresh()
        self.settle()
        self.editor = self.page.drawing.editor

    def saved(self, part_id: str) -> Part:
        """The part that was saved, once the shelf was read again."""
        self.until(lambda: self.window.shelf.part_of(part_id) is not None)
        self.assertIsNone(self.window.machine_stage.page)
        return self.window.shelf.part_of(part_id)

    def place(self, name: str) -> tuple[str, float, bool]:
        port = self.page.described.part.port(name)
        return port.edge, port.at_mm, port.reversed

    def spot(self, name: str) -> QPoint:
        port = self.editor.part.port(name)
        return self.editor.port_box(port).center().toPoint()

    def drag(self, name: str, to: QPoint, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        QTest.mousePress(self.editor, LEFT, modifier, self.spot(name))
        QTest.mouseMove(self.editor, to)
        event = QTest.mouseMove
        event(self.editor, to)
        QApplication.processEvents()
        QTest.mouseRelease(self.editor, LEFT, modifier, to)

    def test_the_page_has_the_whole_window_and_gives_it_back(self) -> None:
        for pane in (self.window.right_pane, self.window.strip, self.window.left_pane):
            self.assertFalse(pane.isVisible())
        self.keys(self.page, Key.Key_Escape)
        self.assertTrue(self.window.right_pane.isVisible())
        self.window.describe_part()
        self.window.show_stage("Ports")
        self.assertTrue(self.window.strip.isVisible())

    def test_ports_are_moved_by_keys_and_it_is_taken_back(self) -> None:
        self.board()
        others = self.place("IN 3")
        self.editor.choose("IN 2")
        edge, at_mm, _ = self.place("IN 2")
        self.keys(self.editor, Key.Key_Right, (Key.Key_Right, CONTROL))
        self.assertEqual((edge, at_mm + 6, False), self.place("IN 2"))
        self.assertEqual(others, self.place("IN 3"))
        self.keys(self.editor, (Key.Key_Left, SHIFT))
        self.assertEqual(others[1] - 1, self.place("IN 3")[1])
        self.keys(self.editor, Key.Key_E, Key.Key_R)
        self.assertEqual(("left", True), self.place("IN 2")[::2])
        self.keys(self.editor, *[(Key.Key_Z, CONTROL)] * 5)
        self.assertEqual((edge, at_mm, False), self.place("IN 2"))
        self.keys(self.editor, Key.Key_M)
        self.assertEqual("right", self.place("PWR")[0])
        self.assertTrue(self.place("IN 2")[2])

    def test_ports_lie_inside_the_board_and_across_its_edge(self) -> None:
        self.board()
        edge, at_mm, _ = self.place("IN 2")
        self.assertEqual("bottom", edge)
        self.editor.choose("IN 2")
        self.keys(self.editor, (Key.Key_Up, CONTROL), Key.Key_Down, Key.Key_X)
        port = self.page.described.part.port("IN 2")
        self.assertEqual((4, True, at_mm), (port.inset_mm, port.across, port.at_mm))
        self.assertEqual(0, self.page.described.part.port("IN 3").inset_mm)
        outline = self.editor.outline()
        self.drag("IN 3", outline.center().toPoint())
        port, board = self.page.described.part.port("IN 3"), self.page.described.part.board
        self.assertEqual("bottom", port.edge, "it keeps the edge from which it is seen")
        self.assertAlmostEqual(board.height_mm / 2, port.inset_mm, delta=1)
        field = self.page.groups.lies["IN 1"]
        field.setText("top, from 20 mm, every 18 mm, 30 mm inside, across")
        self.keys(field, Key.Key_Return)
        port = self.page.described.part.port("IN 4")
        self.assertEqual(("top", 74, 30, True), (port.edge, port.at_mm, port.inset_mm, port.across))
        # Turned by a quarter and back, it lies where it lay.
        part = self.page.described.part
        turned = as_it_lies(as_it_lies(part, 90, turned_over=False), 270, turned_over=False)
        self.assertEqual(part.ports, turned.ports)

    def test_no_port_is_drawn_over_another_wherever_they_lie(self) -> None:
        self.board()
        part = self.page.described.part
        chance = random.Random(seed := random.randrange(10**6))
        for number in range(60):
            ports = tuple(
                replace(
                    port, edge=chance.choice(EDGE_WORDS), at_mm=chance.uniform(0, 90),
                    inset_mm=chance.choice((0, 0, 12.5, 30)), across=chance.random() < 0.3,
                )
                for port in part.ports if port.kind != "driver slot"
            )  # fmt: skip
            for scale in (1.0, 1.5):
                shape = board_of("K1", replace(part, ports=ports), 6.0, Sizes.at(scale))
                for one, other in combinations(shape.ports, 2):
                    with self.subTest(seed=seed, number=number, ports=(one.ref, other.ref)):
                        self.assertFalse(one.box.intersects(other.box))
                for port in shape.ports:
                    self.assertTrue(shape.outline.adjusted(-9, -9, 9, 9).contains(port.box))

    def test_a_port_is_pulled_to_another_edge_and_words_say_where_a_group_lies(self) -> None:
        self.board()
        outline = self.editor.outline()
        self.drag("PWR", QPointF(outline.right(), outline.center().y()).toPoint())
        edge, at_mm, _ = self.place("PWR")
        self.assertEqual("right", edge)
        self.assertAlmostEqual(self.page.described.part.board.height_mm / 2, at_mm, delta=1)
        field = self.page.groups.lies["IN 1"]
        self.assertIn("bottom, from", field.placeholderText())
        field.setText("top, from 100 mm, every 1.8 cm, pin 1 last")
        self.keys(field, Key.Key_Return)
        self.assertEqual(("top", 154, True), self.place("IN 4"))
        self.assertEqual("right", self.place("PWR")[0])
        field.setText("somewhere")
        self.keys(field, Key.Key_Return)
        self.assertIn("does not say one edge", self.page.problems.text())
        self.assertFalse(self.page.save_button.isEnabled())

    def test_a_photograph_lies_under_the_board_by_its_two_upper_corners(self) -> None:
        self.board()
        photo = QImage(600, 400, QImage.Format.Format_RGB32)
        photo.fill(QColor("white"))
        painter = QPainter(photo)
        painter.fillRect(100, 50, 400, 300, QColor("#204060"))
        painter.end()
        path = self.folder / "board.png"
        photo.save(str(path))
        bad = self.folder / "page.pdf"
        bad.write_bytes(b"%PDF-1.4 nonsense")
        self.page.drawing.lay_under(bad)
        self.assertIn("no picture", self.said[-1])
        self.page.drawing.lay_under(path)
        self.assertTrue(self.editor.is_spanning)
        shown = self.editor._photo_shown()
        for corner in (QPointF(100, 50), QPointF(500, 50)):
            QTest.mouseClick(self.editor, LEFT, pos=shown.map(corner).toPoint())
        self.assertFalse(self.editor.is_spanning)
        self.assertIs(self.page.figures.fields["board_width_mm"][0], QApplication.focusWidget())
        outline = self.editor.outline()
        lies = self.editor._photo_shown()
        for corner, edge in ((QPointF(100, 50), outline.topLeft()),
                             (QPointF(500, 50), outline.topRight())):  # fmt: skip
            self.assertLess((lies.map(corner) - edge).manhattanLength(), 4)
        self.page.drawing.ask_photo()
        self.assertIsNone(self.editor.photo)

    def test_settings_slots_and_what_would_go_in(self) -> None:
        self.board()
        self.page.settings.setPlainText("JP1 on IN 1-2: NPN 1-2, PNP 2-3 = PNP\nJP2: a, a\n"
                                        "lamp ERR red: too hot")  # fmt: skip
        self.page.refresh()
        self.assertIn("Setting 2: Write at least two different choices", self.page.problems.text())
        part = self.page.described.part
        self.assertEqual("PNP", part.option("JP1").default)
        self.assertEqual(["too hot"], [lamp.means for lamp in part.indicators])
        self.assertEqual(part, decode_parts(part_text(part), "").part[0])
        one = Device(designator="K1", name="Board", part=part.id)
        rows = settings_sheet(Queries(Machine(name="One", devices=(one,), parts=(part,))))
        self.assertIn(("ERR, red", "too hot"), [(row.what, row.value) for row in rows])
        self.assertEqual(("IN 1", "IN 2", "IN 3", "IN 4"), part.option("invert").ports)
        self.assertEqual("SLOT Y", part.port("MOTOR Y").needs)
        through = [e for e in part.inside if isinstance(e, Bridge) and ("MOTOR Y", "2") in e.pins]
        self.assertEqual([("MOTOR Y", "2"), ("SLOT Y", "7")], list(through[0].pins))
        box = self.page.groups.boxes["circuit IN 1/input"]
        box.setCurrentText("24 V input, type 3, current sinking")
        box.activated.emit(box.currentIndex())
        self.editor.choose("IN 1")
        self.assertTrue(self.page.tried.head.text().startswith("IN 1, if you plug in …, and "))
        shown = {a.text(): b.text() for a, b in self.page.tried.cells}
        self.assertEqual("fits", shown["Inductive sensor, PNP"])
        shelf = self.page.tried.shelf().parts
        every = {
            item.title: item.words for item in try_port(self.page.described.part, "IN 1", shelf)
        }
        self.assertIn("JP1 at NPN", every["Inductive sensor, NPN"])

    def test_what_an_unknown_word_means_is_said_once(self) -> None:
        self.addCleanup(replace_tables, {OWN_WORDS: None})
        self.page.kind.setCurrentText("motor bridge")
        self.page.pins.setPlainText("PWR\n1 BOOMPLUS\n2 GND\nCTRL\n1 FLUPP\n2 GND")
        self.page.refresh()
        table = self.page.table
        row = next(n for n in range(table.rowCount()) if table.item(n, 1).text() == "FLUPP")
        table.setCurrentCell(row, 1)
        self.keys(table, Key.Key_Return)
        panel = self.page.asking
        self.assertTrue(panel.isVisible())
        QTest.keyClicks(panel.field, "pulse width")
        self.keys(panel.field, Key.Key_Return)
        self.until(lambda: table.item(row, 2).text() == "pulse width")
        self.assertEqual("", table.item(row, 4).text())
        kept = self.window.settings.parts_folder.parent / "tables" / OWN_WORDS
        self.assertEqual(([OWN_WORDS], []), take_own_tables(kept.parent))
        remember_word(kept.parent, "flupp", "enable", "motor bridge")
        self.assertEqual("enable", read_function("FLUPP", "motor bridge"))
        self.assertIsNone(read_function("FLUPP", "controller"))

    def test_figures_of_the_label_alone_make_the_part(self) -> None:
        page = self.page
        page.kind.setCurrentText("fan")
        self.keys(page.title, "Fan from the drawer")
        page.figures.fields["nominal_v"][0].setText("24")
        page.figures.fields["current_a"][0].setText("180 mA")
        self.keys(page.title, (Key.Key_Return, CONTROL))
        part = self.saved("my-fan-from-the-drawer")
        self.assertEqual(["RD", "BK"], [pin.lead for pin in part.ports[0].pins])
        self.assertEqual(0.18, part.ports[0].pins[0].electrical.current_a)

    def test_the_selected_part_goes_into_a_file_that_others_take_in(self) -> None:
        self.keys(self.page, Key.Key_Escape)
        rows = self.window.shelf.rows
        self.until(lambda: bool(rows.contents.parts))
        self.session.select(Selection(part="larkmoor-ip12"))
        part = self.window._chosen_part()
        path = self.folder / "sensor.toml"
        self.window.write_part(part, path)
        self.until(lambda: any("is in sensor.toml" in words for words in self.said))
        self.assertEqual((part,), read_part_file(path).part)

    def test_a_board_is_treated_as_a_shipped_one(self) -> None:
        self.board()
        self.page.settings.setPlainText("JP1 on IN 1-4: NPN 1-2, PNP 2-3")
        box = self.page.groups.boxes["circuit IN 1/input"]
        box.setCurrentText("24 V input, type 3, current sinking")
        box.activated.emit(box.currentIndex())
        self.page.save()
        self.saved("my-board")
        self.window.jump.open("Add Board")
        self.keys(self.window.jump.field, Key.Key_Return)
        self.window.goals.add_part(self.window.shelf.part_of("larkmoor-ip12"))
        queries = self.session.queries
        answer = fit(queries, PortRef(device="B1", port="LEADS"), PortRef(device="K1", port="IN 1"))
        self.assertEqual(("fits with", "JP1 at PNP"), (answer.verdict, answer.needs))
        plug, host = PortRef(device="B1", port="LEADS"), PortRef(device="K1", port="IN 1")
        self.session.apply("In", lambda machine: plug_in(machine, plug, host))
        rows = {(row.where, row.what) for row in settings_sheet(self.session.queries)}
        self.assertIn(("K1", "JP1"), rows)
        self.assertIn("K1 IN 1", {where for where, _ in rows})
        self.window.show_stage("Ports")
        marks = [mark for shape in self.boards.picture.boards for mark in shape.marks]
        self.assertEqual(["JP1"], [mark.of.id for mark in marks])
