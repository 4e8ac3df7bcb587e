"""The panes around the stage: what they draw and what a click on them does."""

from unittest import mock

from msgspec.structs import replace
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from large import large_machine
from tests.desktop.case import WindowCase
from vervain.desktop.message import Message
from vervain.desktop.session import LONGEST_HISTORY, Selection, Session
from vervain.desktop.shared.findings import MOST_SHOWN, Gauge
from vervain.desktop.shared.jump import Command, matching
from vervain.desktop.shared.trace_strip import lay_out
from vervain.desktop.shared.wire_painting import draw_bar
from vervain.desktop.theme import looks
from vervain.edits.device_edits import set_name, set_setting
from vervain.edits.plug_edits import turn_plug
from vervain.files.demos import open_demo, open_template
from vervain.harness.trace import trace_of_pin
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.problem import Problem

LEFT = Qt.MouseButton.LeftButton


class Bars(WindowCase):
    def painted(self, code: str | None, **keywords) -> QImage:
        image = QImage(60, 20, QImage.Format.Format_RGB32)
        image.fill(QColor("#00FF00"))
        painter = QPainter(image)
        draw_bar(painter, image.rect().toRectF(), code, letters=False, **keywords)
        painter.end()
        return image

    def test_a_bar_has_its_colour_and_an_outline(self) -> None:
        image = self.painted("RD")
        self.assertEqual("#d52e2a", image.pixelColor(30, 10).name())
        self.assertEqual(looks.theme.ink.lower(), image.pixelColor(0, 10).name())

    def test_a_stripe_lies_along_the_lower_edge(self) -> None:
        image = self.painted("WHBK")
        self.assertEqual("#ffffff", image.pixelColor(30, 5).name())
        self.assertEqual("#25232d", image.pixelColor(30, 17).name())

    def test_faded_is_paler_and_unknown_is_blank(self) -> None:
        full, pale = self.painted("BU"), self.painted("BU", faded=True)
        self.assertGreater(pale.pixelColor(30, 10).lightness(), full.pixelColor(30, 10).lightness())
        self.assertEqual(looks.theme.sheet.lower(), self.painted(None).pixelColor(30, 10).name())

    def test_letters_are_drawn_inside(self) -> None:
        image = QImage(60, 20, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        draw_bar(painter, image.rect().toRectF(), "YE")
        painter.end()
        dark = sum(image.pixelColor(x, 10).lightness() < 90 for x in range(15, 45))
        self.assertGreater(dark, 2)


class Strip(WindowCase):
    def test_boxes_follow_each_other_and_fill_the_width(self) -> None:
        queries = self.session.queries
        trace = trace_of_pin(queries, PinRef(device="M4", port="LEADS", pin="YE"))
        for width in (500, 900, 1400):
            nodes, stretches = lay_out(queries, trace, width, 104, 88)
            self.assertEqual(len(nodes), len(stretches) + 1)
            for number, stretch in enumerate(stretches):
                self.assertAlmostEqual(nodes[number].box.right(), stretch.box.left(), delta=1)
                self.assertAlmostEqual(nodes[number + 1].box.left(), stretch.box.right(), delta=1)
            self.assertAlmostEqual(width, nodes[-1].box.right(), delta=2)
            self.assertGreaterEqual(min(s.box.height() for s in stretches), 14)

    def test_a_click_on_a_node_or_a_stretch_goes_there(self) -> None:
        strip = self.window.strip.picture
        self.session.select(Selection(device="M4"))
        QApplication.processEvents()
        nodes, stretches = lay_out(
            self.session.queries, strip.trace, strip.width() - 1, looks.px(104), strip.height()
        )
        QTest.mouseClick(strip, LEFT, pos=nodes[0].box.center().toPoint())
        self.assertEqual("T4", self.session.selection.device)
        QTest.mouseClick(strip, LEFT, pos=stretches[0].box.center().toPoint())
        self.assertEqual("Harness", self.window.stage)
        self.assertIsNotNone(self.session.selection.conductor)

    def test_nothing_selected_and_nothing_joined_say_so(self) -> None:
        strip = self.window.strip.picture
        self.session.select(Selection(device="K1", port="PROBE", pin="2"))
        self.assertIn("Nothing is joined", strip.title)
        self.session.select(Selection())
        self.assertEqual((None, ""), (strip.trace, strip.title))


class Rail(WindowCase):
    def test_a_click_and_arrows_change_the_stage(self) -> None:
        rail = self.window.head.rail
        QTest.mouseClick(rail, LEFT, pos=QPoint(rail.width() - 20, 20))
        self.assertEqual("Bench", self.window.stage)
        self.keys(rail, Qt.Key.Key_Left)
        self.assertEqual("Harness", self.window.stage)
        self.keys(self.window, (Qt.Key.Key_6, Qt.KeyboardModifier.AltModifier))
        self.assertEqual("Harness", self.window.stage)

    def test_counts_are_those_of_the_findings(self) -> None:
        total = sum(count for count, _ in self.window.head.rail.counts.values())
        self.assertEqual(len(self.session.findings()), total)
        self.assertEqual("Damage", self.window.head.rail.counts["Ports"][1])
        self.assertTrue(all(0 <= part <= 1 for part in self.window.head.rail.settled.values()))


class Fits(WindowCase):
    def test_a_click_in_the_ranking_aims_there(self) -> None:
        self.window.take_in_hand("B7")
        QApplication.processEvents()
        fits = self.window.side.fits
        row = looks.px(26) + looks.px(42) + 10
        QTest.mouseClick(fits, LEFT, pos=QPoint(40, row))
        self.assertEqual(fits.shown[1].host, self.session.target)
        self.keys(self.boards, Qt.Key.Key_Escape)
        self.assertFalse(fits.isVisible())

    def test_what_has_no_plug_is_said(self) -> None:
        self.window.take_in_hand("X1")
        self.assertIsNone(self.session.in_hand)
        self.assertIn("no plug", self.said[-1])


class TrayRows(WindowCase):
    def row_of(self, device: str) -> QPoint:
        rows = self.window.tray.list
        number = next(n for n, row in enumerate(rows.rows) if row.device == device)
        y = number * rows.row_height() - rows.verticalScrollBar().value() + rows.row_height() // 2
        return QPoint(60, y)

    def test_a_click_selects_and_a_double_click_picks_up(self) -> None:
        area = self.window.tray.list.viewport()
        QTest.mouseClick(area, LEFT, pos=self.row_of("B7"))
        self.assertEqual("B7", self.session.selection.device)
        QTest.mouseDClick(area, LEFT, pos=self.row_of("B7"))
        self.assertEqual("B7", self.session.in_hand.device)

    def test_every_row_is_painted_where_it_is_clicked(self) -> None:
        rows = self.window.tray.list
        self.session.select(Selection(device="M2"))
        QApplication.processEvents()
        image = rows.viewport().grab().toImage()
        y = self.row_of("M2").y()
        self.assertEqual(looks.theme.accent.lower(), image.pixelColor(1, y).name())

    def test_filter_finds_by_name_part_and_group(self) -> None:
        field, rows = self.window.tray.field, self.window.tray.list
        for text, expected in (("pump", ["M8"]), ("inductive npn", ["B10"]), ("zzz", [])):
            field.setText(text)
            with self.subTest(text):
                self.assertEqual(expected, [row.device for row in rows.rows if row.device])


class CausesInTheWindow(WindowCase):
    demo = "glazing-gantry-as-planned"
    explains = True

    def test_one_mistake_is_one_card_whose_fix_mends_it(self) -> None:
        plug = PortRef(device="T2", port="SIGNAL")
        with mock.patch("vervain.rules.causes.BUDGET_S", 20.0):
            self.session.apply("Turned", lambda machine: turn_plug(machine, plug))
            self.until(lambda: any(f.explains for f in self.session.findings()))
        cards = self.window.side.findings.cards
        self.assertEqual(1, len(cards))
        self.assertIn("turned round", cards[0].finding.sentence)
        self.assertTrue(cards[0].finding.explains)
        cards[0].do_fix()
        self.settle()
        self.assertEqual([], self.session.findings())

    def test_what_nothing_is_joined_to_stands_in_a_list_of_its_own(self) -> None:
        window = self.open(open_template("three-axis-router"))
        to_do = window.side.findings.to_do
        self.assertEqual([], window.side.findings.cards)
        self.assertIn("19 devices", to_do.head.text())
        QTest.mouseClick(to_do.head, Qt.MouseButton.LeftButton)
        row = to_do.rows.itemAt(0).widget()
        QTest.mouseClick(row, Qt.MouseButton.LeftButton)
        self.assertTrue(row.text().startswith(window.session.selection.device))


class Findings(WindowCase):
    def test_many_findings_are_cut_with_a_count(self) -> None:
        machine = large_machine(150)
        for number in range(1, MOST_SHOWN + 5):
            machine = set_setting(machine, f"T{number}", "current_peak_a", 7.2)
        window = self.open(machine)
        pane = window.side.findings
        pane.every.setChecked(True)
        pane.refresh()
        self.assertGreater(len(window.session.findings()), MOST_SHOWN)
        # Those of one rule are one card and a count, until somebody wants to see them.
        folded = [card.finding.rule for card in pane.cards]
        self.assertLess(len(folded), MOST_SHOWN)
        for _ in folded:
            self.settle()
            folds = [b for b in pane.findChildren(QPushButton) if "more alike" in b.text()]
            if shown := [button for button in folds if button.isVisible()]:
                QTest.mouseClick(shown[0], LEFT)
        self.assertEqual(MOST_SHOWN, len(pane.cards))

    def test_the_gauge_says_value_of_limit(self) -> None:
        finding = self.session.findings(lambda f: f.rule == "supply.budget")[0]
        self.assertEqual("5.9 of 5 A", Gauge(finding).text())

    def test_the_worst_is_open_and_first(self) -> None:
        cards = self.window.side.findings.cards
        self.assertEqual("open", cards[0].objectName())
        self.assertEqual("Damage", cards[0].finding.consequence)
        QTest.mouseClick(cards[2], LEFT, pos=QPoint(20, 10))
        self.assertEqual(cards[2].finding.key, self.session.selection.finding)


class Messages(WindowCase):
    def test_a_message_with_a_button(self) -> None:
        done: list[str] = []
        self.session.said.emit(
            Message("Something <b>happened</b>", actions=(("Undo it", lambda: done.append("x")),))
        )
        bar = self.window.messages
        self.assertTrue(bar.isVisible())
        self.assertEqual("Something <b>happened</b>", bar.words.text())
        QTest.mouseClick(bar._buttons[0], LEFT)
        self.assertEqual(["x"], done)
        self.assertFalse(bar.isVisible())


class Sessions(WindowCase):
    def test_history_is_bounded_and_a_refused_edit_leaves_no_step(self) -> None:
        session = Session(Machine(name="M"))
        said: list[Message] = []
        session.said.connect(said.append)

        def refuse(machine):
            raise Problem("No.", remedy="Not so.")

        self.assertFalse(session.apply("Refused", refuse))
        self.assertEqual(("No. Not so.", True), (said[0].text, said[0].is_bad))
        self.assertFalse(session.apply("Same", lambda machine: machine))
        self.assertEqual(1, len(session.steps))
        for number in range(LONGEST_HISTORY + 20):
            session.apply("Name", lambda m, n=number: replace(m, name=f"M{n}"))
        self.assertEqual(LONGEST_HISTORY, len(session.steps))
        self.assertEqual(f"M{LONGEST_HISTORY + 19}", session.machine.name)

    def test_an_edit_after_undo_forgets_what_was_undone(self) -> None:
        session = Session(open_demo(self.demo))
        session.apply("One", lambda m: set_name(m, "M4", "One"))
        session.undo()
        session.redo()
        session.undo()
        session.apply("Two", lambda m: set_name(m, "M4", "Two"))
        session.redo()
        self.assertEqual("Two", session.queries.device("M4").name)
        self.assertEqual(["Opened", "Two"], [step.words for step in session.steps])

    def test_a_result_for_an_older_machine_is_passed_over(self) -> None:
        session = self.session
        old, result = session.machine, session.result
        session.apply("Name", lambda m: set_name(m, "M4", "New"))
        session.result = None
        session.take_result(old, result)
        self.assertIsNone(session.result)
        session.take_result(session.machine, result)
        self.assertIs(result, session.result)

    def test_removing_what_is_in_hand_or_selected_lets_go_of_it(self) -> None:
        self.window.take_in_hand("B7")
        self.session.select(Selection(device="B7"))
        rows = self.window.tray.list
        rows.at_row = next(n for n, row in enumerate(rows.rows) if row.device == "B7")
        self.keys(rows, Qt.Key.Key_Delete)
        self.assertIsNone(self.session.in_hand)
        self.assertIsNone(self.session.selection.device)


class Searching(WindowCase):
    def test_what_begins_with_the_text_comes_first(self) -> None:
        goals = [Command("x", words, print) for words in ("a W1", "W14.2", "W1", "bW1")]
        self.assertEqual(["W1", "W14.2", "a W1", "bW1"], [g.words for g in matching(goals, "w1")])
        self.assertEqual(goals, matching(goals, "  "))
        self.assertEqual([], matching(goals, "w1 zzz"))

    def test_a_pin_is_told_in_words(self) -> None:
        for port, pin, words in (
            ("AXIS 1", "1", "K1 AXIS 1, STP: white, W71.1"),
            ("POWER", "3", "K1 POWER, PE: green-yellow, W105"),
            ("PROBE", "2", "K1 PROBE, IN: free"),
        ):
            ref = PinRef(device="K1", port=port, pin=pin)
            self.assertEqual(words, self.boards.pin_words(ref))

    def test_the_pointer_finds_pins_and_ports(self) -> None:
        for shape in self.boards.picture.ports():
            for pin in shape.pins:
                found = self.boards.picture.pin_at(QPointF(pin.bar.center()))
                self.assertEqual(pin.ref, found.ref)


class LongNames(WindowCase):
    def test_a_long_machine_name_gives_way_to_the_stages(self) -> None:
        machine = replace(self.session.machine, name="A very long name " * 4)
        window = self.open(machine)
        for scale in (1.0, 1.5):
            window.appearance.set_scale(scale)
            QApplication.processEvents()
            left = window.head.name.mapTo(window, QPoint(0, 0)).x()
            rail = window.head.rail.mapTo(window, QPoint(window.head.rail.width(), 0)).x()
            self.assertGreaterEqual(left, rail)
            self.assertEqual(machine.name, window.head.name.toolTip())
