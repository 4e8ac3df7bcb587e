"""The route worked on by keys and mouse: places grown, runs laid, devices put, cables led."""

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit

from large import large_machine
from tests import small
from tests.desktop.case import WindowCase
from vervain.desktop.session import Selection
from vervain.edits import cable_edits
from vervain.harness.cable_routes import cable_route
from vervain.harness.lengths import cable_length
from vervain.harness.route_layout import PlaceShape, RunShape, lay_out_route
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries

KEY = Qt.Key


class RouteCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.show_stage("Harness")
        self.settle()
        self.view = self.window.harness.route
        self.view.setFocus()

    def fact(self, name: str) -> QLineEdit:
        return next(
            f for f in self.window.side.facts.findChildren(QLineEdit) if f.accessibleName() == name
        )

    def choice(self, name: str) -> QComboBox:
        return next(
            f for f in self.window.side.facts.findChildren(QComboBox) if f.accessibleName() == name
        )

    def spot(self, shape) -> QPoint:
        if isinstance(shape, PlaceShape):
            middle = shape.node.centre
            return QPoint(round(middle.x), round(middle.y))
        return QPoint(round((shape.start.x + shape.end.x) / 2), round(shape.start.y))


class Drawn(RouteCase):
    def test_lengths_are_to_scale_where_there_is_room(self) -> None:
        shapes = {shape.run: shape for shape in self.view.picture.runs}
        for name, shape in shapes.items():
            length_m = self.session.queries.run(name).length_m
            self.assertGreaterEqual(
                shape.end.x - shape.start.x, length_m * self.view.picture.px_per_m - 1e-6, name
            )

    def test_nothing_lies_on_anything_else(self) -> None:
        boxes = [shape.section for shape in self.view.picture.runs if not shape.section.is_empty]
        nodes = [shape.node for shape in self.view.picture.places if not shape.is_root]
        for number, one in enumerate(boxes + nodes):
            for other in (boxes + nodes)[:number]:
                apart = (
                    one.right <= other.x or other.right <= one.x
                    or one.bottom <= other.y or other.bottom <= one.y
                )  # fmt: skip
                self.assertTrue(apart, (one, other))

    def test_it_fits_the_window_of_the_demo(self) -> None:
        self.assertEqual(0, self.view.horizontalScrollBar().maximum())

    def test_the_section_says_how_full_and_how_it_comes_about(self) -> None:
        self.session.select(Selection(run="R2"))
        facts = dict(self.window.harness.cards[0]._facts())
        self.assertEqual("28 × 17 mm", facts["Chain inside"])
        self.assertEqual("66%", facts["Full, at most 60%"])

    def test_a_machine_without_places_says_what_to_do(self) -> None:
        window = self.open(Machine(name="Empty"))
        window.show_stage("Harness")
        QApplication.processEvents()
        self.assertEqual([], window.harness.route.picture.places)
        self.keys(window.harness.route, KEY.Key_N)
        self.assertEqual(["Control box"], [p.name for p in window.session.queries.places()])


class Keys(RouteCase):
    def test_arrows_go_from_place_to_run_to_place(self) -> None:
        self.session.select(Selection(place="foot"))
        seen = []
        for _ in range(4):
            self.keys(self.view, KEY.Key_Right)
            seen.append(self.session.selection.run or self.session.selection.place)
        self.assertEqual(["R2", "left", "R4", "head"], seen)
        self.keys(self.view, KEY.Key_Left, KEY.Key_Left, KEY.Key_Left)
        self.assertEqual("R2", self.session.selection.run)

    def test_a_place_is_grown_named_and_held(self) -> None:
        self.session.select(Selection(place="foot"))
        self.keys(self.view, KEY.Key_N)
        made = self.session.selection.place
        QApplication.processEvents()
        field = self.fact("Place name")
        field.selectAll()
        self.keys(field, "Tool shelf", KEY.Key_Return)
        self.assertEqual("Tool shelf", self.session.queries.place(made).name)
        run = self.session.queries.runs()[-1]
        self.assertEqual(("foot", made, 1.0), (run.a, run.b, run.length_m))
        self.view.setFocus()
        self.keys(self.view, KEY.Key_H)
        self.assertTrue(self.session.queries.place(made).strain_relief)
        self.keys(self.view, KEY.Key_Delete)
        self.assertIsNone(self.session.queries.place(made))

    def test_a_run_is_laid_between_places_and_the_cable_led_through(self) -> None:
        self.session.select(Selection(place="turntable"))
        self.keys(self.view, KEY.Key_J)
        self.assertIn("A run from Turntable", self.window.harness.line.words.text())
        while self.view.hand.target != "booth":
            self.keys(self.view, KEY.Key_Down)
        self.keys(self.view, KEY.Key_Return)
        run = self.session.selection.run
        ends = self.session.queries.run(run)
        self.assertEqual({"turntable", "booth"}, {ends.a, ends.b})
        self.window.harness.go_to_label("W20.1")
        self.view.setFocus()
        for name in ("R6", run, "R5"):
            conductor = self.session.selection.conductor
            self.session.select(Selection(run=name, conductor=conductor))
            self.keys(self.view, KEY.Key_W)
        self.assertEqual({"R6", run}, set(cable_route(self.session.queries, "W20").runs))

    def test_a_run_is_divided_moved_and_taken_away(self) -> None:
        self.session.select(Selection(run="R6"))
        self.keys(self.view, KEY.Key_M)
        self.assertTrue(self.session.queries.run("R6").moving)
        self.keys(self.view, KEY.Key_D)
        self.assertEqual(1.3, self.session.queries.run("R6").length_m)
        self.assertIsNotNone(self.session.selection.place)
        self.session.select(Selection(run="R6"))
        self.keys(self.view, KEY.Key_Delete)
        self.assertIsNone(self.session.queries.run("R6"))
        self.assertIsNone(self.session.selection.run)

    def test_a_device_is_put_into_another_place(self) -> None:
        self.session.select(Selection(device="B7"))
        self.window.tray.picked_up.emit("B7")
        self.assertIn("B7 in hand", self.window.harness.line.words.text())
        self.keys(self.view, KEY.Key_Escape)
        self.assertEqual("head", self.session.queries.device("B7").place)
        self.window.tray.picked_up.emit("B7")
        while self.view.hand.target != "left":
            self.keys(self.view, KEY.Key_Down)
        self.keys(self.view, KEY.Key_Return)
        self.assertEqual("left", self.session.queries.device("B7").place)

    def test_the_card_changes_length_chain_and_allowances(self) -> None:
        self.session.select(Selection(run="R2"))
        QApplication.processEvents()
        for name, text in (
            ("Length of the run", "8 ft"),
            ("Chain: width × height, radius", "36x17, 75"),
            ("Entry", "Gland plate"),
        ):
            field = self.fact(name)
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            QApplication.processEvents()
        run = self.session.queries.run("R2")
        self.assertEqual((2.4384, 36, "Gland plate"), (run.length_m, run.chain.width_mm, run.entry))
        field = self.fact("Chain: width × height, radius")
        field.selectAll()
        self.keys(field, "wide", KEY.Key_Return)
        self.assertIn("36 × 17, 75", self.said[-1])
        self.choice("Moves with").textActivated.emit("X")
        self.assertEqual("X", self.session.queries.run("R2").axis)
        self.session.select(Selection(place="box"))
        QApplication.processEvents()
        before = cable_length(self.session.queries, "W14").cut_m
        for name, text in (("Loop in a box", "1 m"), ("Bought over", "20 %")):
            field = self.fact(name)
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            QApplication.processEvents()
        self.assertAlmostEqual(before + 0.7, cable_length(self.session.queries, "W14").cut_m, 1)
        self.assertEqual(0.2, self.session.machine.allowances.spare_ratio)


class Mouse(RouteCase):
    def test_a_click_selects_and_a_drag_lays_a_run(self) -> None:
        area = self.view.viewport()
        left = Qt.MouseButton.LeftButton
        QTest.mouseClick(area, left, pos=self.spot(self.view.picture.run("R5")))
        self.assertEqual("R5", self.session.selection.run)
        start = self.spot(self.view.picture.place("turntable"))
        end = self.spot(self.view.picture.place("right"))
        QTest.mousePress(area, left, pos=start)
        for part in range(1, 6):
            QTest.mouseMove(area, start + (end - start) * part / 5)
            QApplication.processEvents()
        QTest.mouseRelease(area, left, pos=end)
        run = self.session.queries.runs()[-1]
        self.assertEqual(("turntable", "right"), (run.a, run.b))
        self.assertEqual(1, sum(shape.is_ring for shape in self.view.picture.runs))

    def test_a_drag_into_the_open_grows_a_place(self) -> None:
        area = self.view.viewport()
        start = self.spot(self.view.picture.place("turntable"))
        end = start + QPoint(220, 10)
        places = len(self.session.queries.places())
        QTest.mousePress(area, Qt.MouseButton.LeftButton, pos=start)
        for part in range(1, 5):
            QTest.mouseMove(area, start + (end - start) * part / 4)
        QTest.mouseRelease(area, Qt.MouseButton.LeftButton, pos=end)
        self.assertEqual(places + 1, len(self.session.queries.places()))


class Proposals(RouteCase):
    def test_a_first_tree_from_the_axes(self) -> None:
        bare = small.bench("M1 fell-s57", "T1 fell-d72", "B1 osier-rl2", "S1 larkmoor-ds2").machine
        bare = small.with_axis(bare, drives=("M1",), home="B1")
        window = self.open(bare)
        window.show_stage("Harness")
        QApplication.processEvents()
        self.keys(window.harness.route, KEY.Key_T)
        queries = window.session.queries
        places = {
            name: queries.place(queries.device(name).place).name for name in queries.devices()
        }
        self.assertEqual("Control box", places["T1"])
        self.assertEqual("X carriage", places["M1"])
        self.assertEqual("Operator", places["S1"])
        self.assertEqual(2, len(queries.runs()))
        window.session.undo()
        self.assertEqual((), window.session.queries.places())

    def test_cables_are_planned_ticked_and_made_as_one_step(self) -> None:
        machine = self.session.machine
        for name in ("W11", "W12", "W16", "W24"):
            machine = cable_edits.remove_cable(machine, name)
        self.session.apply("bare", lambda _: machine)
        self.keys(self.view, KEY.Key_P)
        panel = self.window.harness.planner
        self.settle()
        self.until(panel.isVisible)
        self.assertGreaterEqual(panel.list.count(), 3)
        steps, cables = len(self.session.steps), len(self.session.machine.cables)
        panel.list.item(0).setCheckState(Qt.CheckState.Unchecked)
        wanted = sum(not cable.instead for cable in panel.wanted())
        self.keys(panel.list, KEY.Key_Return)
        self.assertEqual(steps + 1, len(self.session.steps))
        self.assertEqual(cables + wanted, len(self.session.machine.cables))
        self.assertFalse(panel.isVisible())

    def test_nothing_to_plan_is_said_and_a_plan_is_left(self) -> None:
        self.window.harness.planner.start()
        self.settle()
        self.until(lambda: not self.window.harness.planner.running)
        before = self.session.machine
        if self.window.harness.planner.isVisible():
            self.keys(self.window.harness.planner.list, KEY.Key_Escape)
        self.assertIs(before, self.session.machine)
        self.assertFalse(self.window.harness.planner.isVisible())


class Sizes(RouteCase):
    def test_many_places_are_laid_out_and_reached(self) -> None:
        from vervain.edits.route_edits import add_place_beyond

        machine = large_machine(40)
        for number in range(60):
            machine = add_place_beyond(
                machine, machine.places[number // 3].id, f"Place {number}", 0.5
            )
        picture = lay_out_route(Queries(machine), 760, 1.0)
        self.assertEqual(61, len(picture.places))
        self.assertEqual(60, len([s for s in picture.runs if isinstance(s, RunShape)]))
        nodes = [shape.node for shape in picture.places]
        self.assertEqual(len(nodes), len(set(nodes)))
