"""Filling in and feeding the rest: proposed as ghosts, taken whole, in part, or not."""

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.desktop.case import WindowCase
from vervain.desktop.background import wait_for_background
from vervain.desktop.session import Selection
from vervain.edits.device_edits import set_setting
from vervain.files.demos import open_template
from vervain.model.machine import PortRef
from vervain.ports.fit import fit
from vervain.ports.proposal import accept
from vervain.ports.proposing import propose
from vervain.queries.connectivity import host_ports
from vervain.supply.feed_inputs import unfed_inputs

KEY = Qt.Key


class Filling(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.filler = self.window.ports.filler
        self.list = self.window.ports.proposal_list

    def fill(self) -> None:
        self.keys(self.boards, "f")
        wait_for_background()
        self.until(lambda: self.filler.proposal is not None)

    def host_of(self, device: str) -> list[str]:
        queries = self.session.queries
        return [ref.port for ref in host_ports(queries, PortRef(device=device, port="LEADS"))]

    def test_enter_puts_everything_in_as_one_step(self) -> None:
        self.assertTrue(self.window.ports.fill.isVisible())
        before = len(self.session.steps)
        self.fill()
        self.assertEqual({"B7", "B10"}, set(self.boards.scene.proposed.values()))
        self.assertTrue(self.boards.scene.ghosts)
        self.assertTrue(self.list.isVisible())
        self.keys(self.boards, KEY.Key_Return)
        self.assertEqual((["IN 7"], ["IN 2"]), (self.host_of("B7"), self.host_of("B10")))
        self.assertEqual(before + 1, len(self.session.steps))
        self.assertFalse(self.window.ports.fill.isVisible())
        # What is left is the servo, whose plug was found turned round.
        left = {k for k in self.finding_keys() if k.startswith("ports.")}
        self.assertEqual({"ports.need:M7:M7 PLUG"}, left)
        self.session.undo()
        self.assertEqual([], self.host_of("B7"))
        self.assertTrue(self.window.ports.fill.isVisible())

    def test_a_port_that_is_kept_free_is_drawn_so_and_passed_over(self) -> None:
        self.session.select(Selection(device="K1", port="IN 2"))
        self.keys(self.boards, "k")
        field = QApplication.focusWidget()
        self.keys(field, "a probe", KEY.Key_Return)
        self.assertEqual({"IN 2": "a probe"}, self.session.queries.device("K1").kept_ports)
        kept = PortRef(device="K1", port="IN 2")
        answer = fit(self.session.queries, PortRef(device="B10", port="LEADS"), kept)
        self.assertEqual("fits with", answer.verdict)
        self.assertIn("kept free for a probe", answer.reason)
        self.fill()
        self.keys(self.boards, KEY.Key_Return)
        self.assertNotIn("IN 2", self.host_of("B10"))
        self.session.undo()
        self.keys(field, "", KEY.Key_Return)
        field.selectAll()
        self.keys(field, KEY.Key_Delete, KEY.Key_Return)
        self.assertEqual({}, self.session.queries.device("K1").kept_ports)

    def test_only_what_is_ticked_is_put_in(self) -> None:
        self.fill()
        box = next(box for box in self.list.boxes if box.text().startswith("B10"))
        QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
        self.assertEqual({"B7"}, set(self.boards.scene.proposed.values()))
        self.assertIn("1 of 2", self.list.title.text())
        QTest.mouseClick(self.list.put_in, Qt.MouseButton.LeftButton)
        self.assertEqual((["IN 7"], ["IN 4"]), (self.host_of("B7"), self.host_of("B10")))

    def test_escape_leaves_everything_as_it_was(self) -> None:
        before = self.session.machine
        self.fill()
        self.keys(self.boards, KEY.Key_Escape)
        self.assertIsNone(self.filler.proposal)
        self.assertEqual({}, self.boards.scene.proposed)
        self.assertIs(before, self.session.machine)
        self.assertFalse(self.list.isVisible())

    def test_it_can_be_stopped_and_an_edit_meanwhile_drops_it(self) -> None:
        self.keys(self.boards, "f")
        self.assertIn("Working out", self.window.ports.line.words.text())
        self.keys(self.boards, KEY.Key_Escape)
        wait_for_background()
        self.settle()
        self.assertIsNone(self.filler.proposal)
        self.fill()
        self.session.select(Selection(device="B1"))
        self.window.ports.view.carrier.unplug()
        self.assertIsNone(self.filler.proposal)

    def test_what_cannot_be_placed_is_named_and_nothing_loose_says_so(self) -> None:
        self.window = self.open(open_template("five-joint-arm"))
        self.filler, self.list = self.window.ports.filler, self.window.ports.proposal_list
        self.fill()
        self.assertIn("cannot all be placed", self.window.ports.line.words.text())
        self.keys(self.boards, KEY.Key_Return)
        self.assertTrue(any("No free port fits M6." in text for text in self.said))
        self.keys(self.boards, "f")
        wait_for_background()
        self.until(lambda: not self.filler.running)
        self.assertIn("No free port fits M6", self.said[-1])
        self.settle()

    def test_a_planned_machine_has_nothing_to_fill_in(self) -> None:
        self.window.documents.open_demo("glazing-gantry-as-planned")
        self.settle()
        self.assertFalse(self.window.ports.fill.isVisible())
        self.keys(self.boards, "f")
        self.assertIn("already", self.said[-1])


class Settings(WindowCase):
    demo = "glazing-gantry-as-planned"

    def test_the_sheet_opens_by_key_follows_edits_and_leads_to_the_card(self) -> None:
        self.keys(self.boards, "s")
        sheet = self.window.ports.sheet
        self.assertIs(sheet, self.window.ports.body.currentWidget())
        texts = [sheet.item(row, 2).text() for row in range(sheet.rowCount())]
        self.assertIn("3.6 A peak, 2.55 A RMS", texts)
        at = next(r for r, row in enumerate(sheet.rows) if row and row.where == "T1")
        sheet.setCurrentCell(at, 0)
        self.assertEqual("T1", self.session.selection.device)
        self.session.apply("t", lambda m: set_setting(m, "T1", "current_peak_a", 3.0))
        self.settle()
        self.assertIn("3 A peak, 2.12 A RMS", sheet.item(at, 2).text())
        sheet.setCurrentCell(1, 0)
        self.assertEqual("X", self.session.selection.axis)
        self.keys(sheet, "s")
        self.assertIs(self.boards, self.window.ports.body.currentWidget())


class Lying(WindowCase):
    def test_a_board_is_turned_to_how_it_lies_and_back(self) -> None:
        def first_pins() -> list[float]:
            shape = self.shape(PortRef(device="K1", port="AXIS 1"))
            return [pin.bar.center().x() for pin in shape.pins]

        self.session.select(Selection(device="K1"))
        before = first_pins()
        self.keys(self.boards, "v")
        self.assertTrue(self.session.queries.device("K1").turned_over)
        shape = self.shape(PortRef(device="K1", port="AXIS 1"))
        self.assertEqual("4", shape.pins[0].ref.pin)
        self.keys(self.boards, "r", "r")
        self.assertEqual(180, self.session.queries.device("K1").turned_deg)
        self.assertEqual("bottom", self.shape(PortRef(device="K1", port="AXIS 1")).edge)
        self.keys(self.boards, "r", "r", "v")
        self.assertEqual(before, first_pins())
        self.session.select(Selection(device="M1"))
        self.keys(self.boards, "r")
        self.assertIn("Select a board", self.said[-1])


class Feeding(WindowCase):
    """The same for feeds, on Supply."""

    def setUp(self) -> None:
        super().setUp()
        loose = open_template("three-axis-router")
        self.window = self.open(accept(loose, propose(loose).placements))
        self.window.show_stage("Supply")
        self.stage = self.window.supply
        self.feeding = self.stage.feeding
        self.until(lambda: self.stage.feeder.figures is not None)

    def propose(self) -> None:
        self.keys(self.stage.view, KEY.Key_F)
        self.until(lambda: self.feeding.proposal is not None)

    def left(self) -> int:
        return len(unfed_inputs(self.window.session.queries))

    def test_enter_feeds_everything_as_one_step_and_says_what_is_left(self) -> None:
        self.propose()
        self.assertIn("Enter carries them out", self.stage.line.words.text())
        self.assertTrue(self.stage.proposal_list.isVisible())
        self.assertIn("from X1 2?", self.feeding.ghosts().values())
        steps = len(self.window.session.steps)
        self.keys(self.stage.view, KEY.Key_Return)
        self.assertEqual(0, self.left())
        self.assertEqual(steps + 1, len(self.window.session.steps))
        self.assertIn("Choose the inlet", self.said[-1])
        self.keys(self.stage.view, KEY.Key_F)
        self.assertIn("is fed", self.said[-1])

    def test_what_hangs_on_a_step_goes_and_comes_with_it(self) -> None:
        self.propose()
        rows = [words for words, _ in self.feeding.rows()]
        trunk = next(n for n, words in enumerate(rows) if words.startswith("G1 to"))
        branch = next(n for n, words in enumerate(rows) if words.startswith("T1 POWER"))
        self.stage.proposal_list.boxes[trunk].click()
        self.assertNotIn(branch, self.feeding.wanted)
        self.assertFalse(self.stage.proposal_list.boxes[branch].isChecked())
        self.stage.proposal_list.boxes[branch].click()
        self.assertIn(trunk, self.feeding.wanted)
        self.stage.proposal_list.boxes[trunk].click()
        self.keys(self.stage.view, KEY.Key_Return)
        self.assertEqual(4, self.left(), "the four drivers stay as they were")

    def test_a_feed_in_hand_is_answered_and_aimed_at_the_best(self) -> None:
        self.window.session.select(Selection(device="T2", port="POWER", pin="1"))
        self.keys(self.stage.view, KEY.Key_Return)
        self.assertEqual("G1", self.stage.view.hand.target.branch.device)
        self.assertEqual("G1", self.stage.answers.shown[0].place.device)
        self.keys(self.stage.view, KEY.Key_Return)
        self.assertEqual(0, sum(i.plus.device == "T2" for i in
                                unfed_inputs(self.window.session.queries)))  # fmt: skip
        self.window.session.select(Selection(device="K1", port="POWER", pin="1"))
        self.keys(self.stage.view, KEY.Key_Return)
        self.assertEqual("G2", self.stage.view.hand.target.branch.device)
        refused = [a for a in self.stage.view.hand.answers if a.verdict == "does not fit"]
        self.assertIn("48 V from G1", refused[0].words)
        self.keys(self.stage.view, KEY.Key_Escape)
        self.assertFalse(self.stage.answers.isVisible())
