"""The Bench stage by keys and mouse: passing, failing, readings, what is held back, symptoms."""

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from tests.desktop.case import WindowCase
from vervain.bench.troubleshooting import symptoms_of
from vervain.desktop.session import Selection
from vervain.desktop.theme import PAPER, use
from vervain.edits.device_edits import remove_device, set_name, set_setting
from vervain.model.machine import Machine

KEY, LEFT = Qt.Key, Qt.MouseButton.LeftButton


class BenchCase(WindowCase):
    demo = "glazing-gantry-as-planned"

    def setUp(self) -> None:
        super().setUp()
        self.window.show_stage("Bench")
        self.stage, self.worker = self.window.bench, self.window.bench_worker
        self.worked_out()

    def worked_out(self) -> None:
        self.until(
            lambda: (f := self.worker.figures) is not None and f.machine is self.session.machine
        )

    def go_to(self, step_id: str) -> None:
        """By the arrows alone, in either direction."""
        ids = [step.id for step in self.stage.figures.steps]
        wanted = ids.index(step_id)
        while self.stage.at != wanted:
            key = KEY.Key_Down if self.stage.at < wanted else KEY.Key_Up
            self.keys(self.stage.list, key)

    def state(self, step_id: str) -> str:
        return self.stage.figures.results[step_id].state


class Proving(BenchCase):
    def test_p_passes_the_step_and_goes_on_and_undo_takes_it_back(self) -> None:
        first = self.stage.step.id
        self.keys(self.stage.list, "pp")
        self.assertEqual("passed", self.state(first))
        self.assertEqual(2, self.stage.at)
        of = len(self.stage.figures.steps)
        self.assertIn(f"2 of {of} passed.", self.stage.line.words.text())
        self.assertGreater(self.window.head.rail.settled["Bench"], 0)
        self.assertTrue(self.session.steps[-1].words.startswith("Passed step 2"))
        self.session.undo()
        self.session.undo()
        self.assertEqual("", self.state(first))

    def test_a_number_begins_a_reading_that_its_step_judges(self) -> None:
        self.go_to("volts G2 OUT 1")
        self.keys(self.stage.list, "2")
        field = self.stage.page.field
        self.assertTrue(field.hasFocus())
        self.keys(field, "4.1", KEY.Key_Return)
        after = self.stage.figures.steps[self.stage.at - 1]
        self.assertEqual("volts G2 OUT 1", after.id)
        self.assertEqual("passed", self.state("volts G2 OUT 1"))
        self.assertEqual("24.1 V", self.session.machine.bench_results[-1].seen)
        self.assertTrue(self.stage.list.hasFocus())
        self.go_to("volts G2 OUT 1")
        self.keys(self.stage.list, "5")
        self.keys(field, KEY.Key_Return)
        self.assertEqual("failed", self.state("volts G2 OUT 1"))
        self.assertIn("5 V is less than", self.said[-1])
        self.keys(self.stage.list, "7")
        self.keys(field, " amps", KEY.Key_Return)
        self.assertIn("“7 amps”", self.said[-1])
        self.assertEqual("5 V", self.session.machine.bench_results[-1].seen)

    def test_f_shows_what_to_look_at_and_answers_narrow_it(self) -> None:
        self.go_to("input B4")
        self.keys(self.stage.list, "f")
        panel = self.stage.causes
        self.until(lambda: panel.isVisible() and bool(panel.causes))
        self.assertEqual("input B4", self.stage.step.id)
        before = len(panel.left)
        self.assertEqual("host", panel.asked.id)
        self.keys(self.stage.list, "g")
        self.assertFalse([c for c in panel.left if c.side == "host"])
        self.assertLess(len(panel.left), before)
        first = panel.left[0]
        self.keys(self.stage.list, "x")
        self.assertNotIn(first, panel.left)
        QTest.mouseClick(panel.again, LEFT)
        self.assertEqual(before, len(panel.left))
        self.settle()
        row = panel.rows.itemAt(0).widget()
        QTest.mouseClick(row.go, LEFT)
        self.assertEqual("Ports", self.window.stage)
        self.assertEqual(
            ("K1", "IN 4"), (self.session.selection.device, self.session.selection.port)
        )

    def test_a_note_goes_with_the_result_and_backspace_takes_all_back(self) -> None:
        self.keys(self.stage.list, "n")
        note = self.stage.page.note
        self.keys(note, "first", KEY.Key_Return)
        self.assertIn("Pass or fail the step first", self.said[-1])
        self.stage.list.setFocus()
        self.keys(self.stage.list, "p", KEY.Key_Up, "n")
        note.clear()
        self.keys(note, "loose screw  tightened", KEY.Key_Return)
        self.assertEqual("loose screw tightened", self.session.machine.bench_results[0].note)
        self.keys(self.stage.list, KEY.Key_Backspace)
        self.assertEqual((), self.session.machine.bench_results)

    def test_what_an_edit_touches_is_asked_again_and_a_new_name_is_not(self) -> None:
        self.go_to("set T1 Current, peak")
        self.keys(self.stage.list, "p")
        self.go_to("lock M1")
        self.keys(self.stage.list, "p")
        self.session.apply("named", lambda m: set_name(m, "M1", "Long axis motor"))
        self.session.apply("set", lambda m: set_setting(m, "T1", "current_peak_a", 2.8))
        self.worked_out()
        self.assertEqual("passed", self.state("lock M1"))
        self.assertEqual("again", self.state("set T1 Current, peak"))
        self.go_to("set T1 Current, peak")
        self.assertTrue(self.stage.page.again.isVisible())
        self.assertIn("3.6 A peak", self.stage.page.again.text())

    def test_the_tray_and_the_stage_follow_each_other(self) -> None:
        self.session.select(Selection(device="M3"))
        self.assertEqual("M3", self.stage.step.device)
        self.go_to("input B1")
        self.assertEqual("B1", self.session.selection.device)
        for step in self.stage.figures.steps:
            if step.device == "B1":
                self.go_to(step.id)
                self.keys(self.stage.list, "p")
        self.assertEqual("proven", self.window.tray.list.state_of("B1"))
        self.assertEqual("wired", self.window.tray.list.state_of("B2"))

    def test_squares_and_rows_are_clicked(self) -> None:
        box = self.stage.squares.boxes()[60]
        QTest.mouseClick(self.stage.squares, LEFT, pos=box.center().toPoint())
        self.assertEqual(60, self.stage.at)
        viewport = self.stage.list.viewport()
        top = next(y for y, n, _ in self.stage.list._tops if n == 61)
        at = QPoint(80, round(top - self.stage.list.offset().y()) + 10)
        QTest.mouseClick(viewport, LEFT, pos=at)
        self.assertEqual(61, self.stage.at)

    def test_a_symptom_without_a_step_is_looked_for_and_left(self) -> None:
        self.session.select(Selection(device="M2"))
        self.keys(self.stage.list, "t")
        self.assertIn("It does not move", [a.text() for a in self.stage.symptoms.actions()])
        self.stage.symptoms.actions()[0].trigger()
        self.stage.symptoms.hide()
        panel = self.stage.causes
        self.until(lambda: panel.isVisible() and bool(panel.causes))
        self.assertIn("M2 Y left motor: it does not move.", self.stage.page.headline.text())
        self.assertFalse(self.stage.page.pass_button.isVisible())
        self.keys(self.stage.list, "p")
        self.assertEqual((), self.session.machine.bench_results)
        self.keys(self.stage.list, KEY.Key_Escape)
        self.assertTrue(self.stage.page.pass_button.isVisible())
        self.assertEqual((), symptoms_of(self.session.queries, "no such device"))

    def test_nothing_is_cut_at_large_text(self) -> None:
        self.addCleanup(use, PAPER, 1.0)
        self.go_to("coils M6")
        self.window.appearance.set_scale(1.5)
        self.settle()
        page = self.stage.page
        self.assertLessEqual(page.widget().width(), page.viewport().width())


class HeldBack(BenchCase):
    demo = "glazing-gantry-as-found"

    def test_a_harmful_step_waits_says_why_and_is_done_anyway(self) -> None:
        held = next(step for step in self.stage.figures.steps if step.held)
        self.go_to(held.id)
        self.keys(self.stage.list, "p")
        self.assertEqual("", self.state(held.id))
        self.assertIn(held.held, self.stage.page.held.text())
        self.keys(self.stage.list, "a", "p")
        self.assertEqual("passed", self.state(held.id))

    def test_the_next_open_step_is_never_one_that_is_held_back(self) -> None:
        for _ in range(len(self.stage.figures.steps)):
            self.keys(self.stage.list, "p")
        held = [s.id for s in self.stage.figures.steps if s.held]
        passed = {r.name for r in self.session.machine.bench_results}
        self.assertTrue(held)
        self.assertFalse(passed & set(held))
        self.assertEqual(len(self.stage.figures.steps) - len(held), len(passed))


class Empty(WindowCase):
    def machine(self) -> Machine:
        return Machine(name="New machine")

    def test_an_empty_machine_says_what_will_be_here(self) -> None:
        self.window.show_stage("Bench")
        self.settle()
        stage = self.window.bench
        self.assertTrue(stage.empty.isVisible())
        self.assertIn("Nothing to prove yet", stage.empty.text())
        self.keys(stage, "pfnatgbx", KEY.Key_Return, KEY.Key_Backspace, KEY.Key_Escape)
        self.assertEqual((), self.session.machine.bench_results)


class Going(BenchCase):
    def test_a_device_that_goes_takes_its_steps_along(self) -> None:
        self.go_to("lock M1")
        self.keys(self.stage.list, "p")
        self.session.apply("gone", lambda m: remove_device(m, "M1"))
        self.worked_out()
        self.assertNotIn("lock M1", self.stage.figures.results)
        self.assertEqual((), self.session.machine.bench_results)
        self.session.undo()
        self.worked_out()
        self.assertEqual("passed", self.state("lock M1"))
