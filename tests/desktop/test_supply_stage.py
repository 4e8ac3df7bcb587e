"""The Supply stage: states, going along the feeds, and changing them by keys and mouse."""

from itertools import pairwise

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from tests.desktop.case import WindowCase
from vervain.desktop.session import Selection
from vervain.edits.hookup_edits import set_conductors
from vervain.files.demos import open_demo
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_tree import feed_trees

KEY = Qt.Key


class SupplyCase(WindowCase):
    demo = "glazing-gantry-as-planned"

    def setUp(self) -> None:
        super().setUp()
        self.show()

    def show(self) -> None:
        self.window.show_stage("Supply")
        self.stage = self.window.supply
        self.view = self.stage.view
        self.figures()

    def figures(self) -> None:
        """Waits until the figures are those of the machine."""
        self.until(
            lambda: (
                self.stage.feeder.figures is not None
                and self.stage.feeder.figures.machine is self.session.machine
            )
        )

    def row(self, device: str):
        return next(row for row in self.view.picture.rows if row.branch.device == device)

    def feeds(self, label: str) -> list[str]:
        """The consumers behind a place."""
        self.figures()

        for tree in feed_trees(Queries(self.session.machine), "everything"):
            for number, branch in enumerate(tree.branches):
                if branch.label == label:
                    return [item.pin.device for item in tree.consumers(number)]
        return []


class Showing(SupplyCase):
    def test_rows_stand_under_each_other_and_hops_beside(self) -> None:
        for demo_width in (self.view.viewport().width(), 500):
            self.view.resize(demo_width, 400)
            boxes = [row.box for row in self.view.picture.rows]
            for above, below in pairwise(boxes):
                self.assertLessEqual(above.bottom(), below.top() + 0.01)
            shapes = [s.box for s in self.view.picture.shapes]
            for number, box in enumerate(shapes):
                for other in shapes[number + 1 :]:
                    self.assertFalse(box.adjusted(1, 1, -1, -1).intersects(other))
                self.assertLessEqual(box.right(), self.view.picture.rows_left + 1)

    def test_keys_and_buttons_change_the_state(self) -> None:
        self.keys(self.view, "1")
        self.assertEqual("idle", self.stage.state)
        self.assertIn("Idle", self.stage.line.words.text())
        QTest.mouseClick(self.stage.buttons["moving"], Qt.MouseButton.LeftButton)
        self.assertEqual("moving", self.view.state)
        self.assertGreater(self.row("T1").branch.arrival.current_a, 1)

    def test_arrows_go_along_the_feeds(self) -> None:
        self.view.choose(self.row("T2"))
        self.keys(self.view, KEY.Key_Down)
        self.assertEqual("T3", self.session.selection.device)
        for device in ("X1", "Q2", "Q1", "F1", "G1"):
            self.keys(self.view, KEY.Key_Left)
            self.assertEqual(device, self.session.selection.device)
        self.keys(self.view, KEY.Key_Right)
        self.assertEqual("F1", self.session.selection.device)

    def test_a_click_selects_and_a_segment_of_the_ladder_too(self) -> None:
        spot = (self.row("M8").box.center() - self.view.offset()).toPoint()
        QTest.mouseClick(self.view.viewport(), Qt.MouseButton.LeftButton, pos=spot)
        self.assertEqual("M8", self.session.selection.device)
        self.stage.ladder.grab()
        box, device = self.stage.ladder._segments[0]
        QTest.mouseClick(self.stage.ladder, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
        self.assertEqual(device, self.session.selection.device)

    def test_the_voltage_and_the_current_along_a_feed_are_plotted(self) -> None:
        plot = self.stage.plot
        self.assertFalse(plot.isVisible())
        self.view.choose(self.row("T3"))
        self.settle()
        self.until(plot.isVisible)
        self.assertIn("Voltage from G1 to T3", plot.title.text())
        voltage_v = [station.volts_v for station in plot.stations]
        self.assertEqual(sorted(voltage_v, reverse=True), voltage_v)
        self.keys(self.view, "p")
        self.assertIn("Current from G1 to T3", plot.title.text())
        self.assertTrue(all(s.amps_a < s.most_a for s in plot.stations[1:]))
        self.window.show_stage("Ports")
        self.assertFalse(plot.isVisible())

    def test_an_empty_machine_says_what_to_do(self) -> None:
        self.window = self.open(Machine(name="Empty"))
        self.show()
        self.assertIn("No supply yet", self.stage.line.words.text())


class Changing(SupplyCase):
    def test_a_consumer_is_fed_from_elsewhere_by_keys_as_one_step(self) -> None:
        self.assertIn("M8", self.feeds("F4 6 A"))
        steps = len(self.session.steps)
        self.view.choose(self.row("M8"))
        self.keys(self.view, KEY.Key_Return)
        self.assertIn("in hand", self.stage.line.words.text())
        for _ in range(20):
            self.keys(self.view, KEY.Key_Down)
            if self.view.hand.target.branch.label == "G2":
                break
        self.keys(self.view, KEY.Key_Return)
        self.assertEqual(steps + 1, len(self.session.steps))
        self.assertNotIn("M8", self.feeds("F4 6 A"))
        self.assertIn("M8", self.feeds("G2"))
        self.session.undo()
        self.assertIn("M8", self.feeds("F4 6 A"))

    def test_it_is_dragged_with_the_mouse_and_escape_leaves_it(self) -> None:
        self.view.choose(self.row("T5"))
        self.keys(self.view, KEY.Key_Return, KEY.Key_Escape)
        self.assertIsNone(self.view.hand.carried)
        start = (self.row("M5").box.center() - self.view.offset()).toPoint()
        goal = next(s for s in self.view.picture.shapes if s.branch.label == "G2").box.center()
        end = (goal - self.view.offset()).toPoint()
        area = self.view.viewport()
        QTest.mousePress(area, Qt.MouseButton.LeftButton, pos=start)
        for part in (1, 2, 3, 4):
            QTest.mouseMove(area, start + (end - start) * part / 4)
        QTest.mouseRelease(area, Qt.MouseButton.LeftButton, pos=end)
        self.assertIn("M5 fed from G2", self.session.steps[-1].words)

    def test_a_fuse_a_gauge_and_taking_off(self) -> None:
        self.view.choose(self.row("T1"))
        self.keys(self.view, "u")
        self.assertIn("Fuse before T1", self.session.steps[-1].words)
        self.figures()
        self.view.choose(self.row("T1"))
        self.keys(self.view, "g")
        self.settle()
        self.assertIn("no thicker cable", self.said[-1])
        self.keys(self.view, KEY.Key_Delete)
        self.assertNotIn("T1", self.feeds("G1"))
        self.session.undo()
        self.session.select(Selection(device="F1"))
        self.keys(self.view, "u")
        self.assertIn("Select a consumer", self.said[-1])

    def test_negatives_of_two_supplies_are_joined(self) -> None:
        self.window = self.open(open_demo("glazing-gantry-as-found"))
        self.show()
        self.assertIn("supply.no-common:K1:G2:G3", self.finding_keys())
        source = next(s for s in self.view.picture.shapes if s.branch.label == "G3")
        self.view.choose(source)
        self.keys(self.view, KEY.Key_Return)
        for _ in range(5):
            self.keys(self.view, KEY.Key_Down)
            if self.view.hand.target.branch.label == "G2":
                break
        self.keys(self.view, KEY.Key_Return)
        self.assertNotIn("supply.no-common:K1:G2:G3", self.finding_keys())

    def test_metal_that_is_not_bonded_is_bonded_by_keys(self) -> None:
        bar = next(
            h for h in self.session.machine.hookups if {h.a.device, h.b.device} == {"X4", "X3"}
        )
        self.session.apply("t", lambda m: set_conductors(m, bar.id, ()))
        self.figures()
        loose = next(row for row in self.view.picture.rows if row.branch.note == "not bonded")
        self.view.choose(loose)
        self.keys(self.view, KEY.Key_Return, KEY.Key_Down)
        self.assertIn("protective earth", self.stage.line.words.text())
        self.keys(self.view, KEY.Key_Return)
        self.figures()
        notes = {row.branch.note for row in self.view.picture.rows if row.branch.note}
        self.assertEqual({"bonded"}, notes)

    def test_a_measured_current_is_typed_into_the_card(self) -> None:
        self.view.choose(self.row("T1"))
        self.settle()
        field = next(
            f
            for f in self.window.side.findChildren(QLineEdit)
            if f.accessibleName() == "Measured current" and f.isVisible()
        )
        field.selectAll()
        self.keys(field, "flying 2 A", KEY.Key_Return)
        self.assertIn("no state with a current", self.said[-1])
        field.selectAll()
        self.keys(field, "everything 0.5 A", KEY.Key_Return)
        self.figures()
        self.assertEqual("measured", self.row("T1").branch.arrival.by)
        QTest.mouseClick(self.view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(3, 3))


class Cards(SupplyCase):
    def field(self, name: str) -> QLineEdit:
        self.settle()
        fields = self.window.side.findChildren(QLineEdit)
        return next(f for f in fields if f.accessibleName() == name and f.isVisible())

    def type(self, name: str, text: str) -> None:
        field = self.field(name)
        field.selectAll()
        self.keys(field, text, KEY.Key_Return)

    def test_a_gauge_is_typed_in_mm2_or_awg_and_the_checks_follow(self) -> None:
        self.session.select(Selection(conductor=self.conductor("W31")))
        self.type("Cross-section", "thick")
        self.assertIn("1.5 mm2", self.said[-1])
        self.type("Cross-section", "AWG 24")
        self.assertIn("supply.drop:W31", self.finding_keys())
        self.session.select(Selection(conductor=self.conductor("W31")))
        self.type("Cross-section", "1.5 mm²")
        self.assertNotIn("supply.drop:W31", self.finding_keys())

    def test_a_hot_box_makes_cores_carry_less(self) -> None:
        self.session.select(Selection(conductor=self.conductor("W31")))
        self.type("Temperature around the cables", "80 °C")
        self.assertIn("69 °C", self.said[-1])
        self.type("Temperature around the cables", "60 °C")
        self.assertEqual(60, self.session.machine.ambient_c)
        self.assertIn("supply.fuse:F1", self.finding_keys())

    def test_a_box_that_sheds_too_little_is_told(self) -> None:
        self.session.select(Selection(device="G1"))
        self.type("Heat that its box sheds", "20 W")
        self.assertIn("supply.box-heat:box", self.finding_keys())
        self.session.select(Selection(device="G1"))
        self.type("Heat that its box sheds", "1 kW")
        self.assertNotIn("supply.box-heat:box", self.finding_keys())

    def conductor(self, cable: str) -> tuple[str, int]:
        hookup = next(h for h in self.session.machine.hookups if h.cable == cable)
        return hookup.id, 0
