"""The Stops stage: pressing, cutting, shorting, pulling and welding by keys and mouse."""

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.desktop.case import WindowCase
from tests.stops.circuits import PENDANT, PENDANT_IN_SERIES, read_channels, wired
from vervain.desktop.theme import PAPER, use
from vervain.edits.plug_edits import take_conductor_off
from vervain.files.demos import open_demo
from vervain.model.machine import Machine
from vervain.stops.faults import is_in

KEY = Qt.Key


class StopsCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.show()

    def machine(self) -> Machine:
        return read_channels()

    def look_at(self, machine: Machine) -> None:
        self.window = self.open(machine)
        self.show()

    def show(self) -> None:
        self.window.show_stage("Stops")
        self.stage, self.view = self.window.stops, self.window.stops.view
        self.figures()
        self.view.setFocus()

    def figures(self) -> None:
        worker = self.view.worker
        self.until(
            lambda: worker.figures is not None and worker.figures.machine is self.session.machine
        )

    def answers(self) -> list[str]:
        return [words.text() for _, words, _ in self.stage.answers]

    def choose(self, kind: str, label: str) -> None:
        """Goes to an element by the arrows alone."""
        self.keys(self.view, *[KEY.Key_Up] * 6, *[KEY.Key_Left] * 40)
        for _ in range(len(self.view.figures.chains)):
            for _ in range(40):
                element = self.view.picture.elements[self.view.chosen]
                if self.view.words_of(element) == f"{kind} {label}":
                    return
                self.keys(self.view, KEY.Key_Right)
            self.keys(self.view, KEY.Key_Down, *[KEY.Key_Left] * 40)
        self.fail(f"no {kind} {label}")

    def end_words(self) -> dict[str, str]:
        shown = self.view._shown(self.view.figures, self.view.settled)
        return {first: second for first, second, _ in shown.ends.values()}


class Trying(StopsCase):
    def test_a_press_drops_the_coils_and_takes_the_power(self) -> None:
        self.assertEqual({"Q1": "holds", "Q2": "holds", "T1": "has power"}, self.end_words())
        self.keys(self.view, "p")
        self.assertEqual({"Q1": "drops", "Q2": "drops", "T1": "no power"}, self.end_words())
        self.assertEqual(["STOP A+ open", "gone"], self.answers()[:2])
        self.assertIn("S1 pressed", self.stage.line.words.text())
        self.keys(self.view, "p")
        self.assertEqual(["all closed", "on"], self.answers()[:2])

    def test_a_cut_wire_stays_cut_until_it_is_mended(self) -> None:
        self.choose("wire", "W1.2")
        self.keys(self.view, "c")
        self.assertEqual(["STOP A+ open", "gone", "at once"], self.answers())
        self.assertIn("W1.2 cut", self.stage.line.words.text())
        self.keys(self.view, "p", "p", "m")
        self.assertEqual(["all closed", "on", ""], self.answers())

    def test_two_shorted_wires_keep_a_channel_on(self) -> None:
        self.choose("wire", "W1.1")
        self.keys(self.view, "s")
        self.choose("wire", "W1.2")
        self.keys(self.view, "s", "p")
        self.assertEqual({"Q1": "holds", "Q2": "drops", "T1": "no power"}, self.end_words())
        self.assertEqual("at the next stop", self.answers()[2])

    def test_a_welded_contact_keeps_its_channel_on(self) -> None:
        self.choose("contact", "Q1")
        self.keys(self.view, "w", "p")
        self.assertEqual(["STOP A+ open", "gone", "no"], self.answers())
        self.choose("contact", "Q2")
        self.keys(self.view, "w")
        self.assertEqual("stays", self.answers()[1])

    def test_a_lost_supply_drops_everything(self) -> None:
        self.choose("source", "G1")
        self.keys(self.view, KEY.Key_Return)
        self.assertEqual("gone", self.answers()[1])

    def test_by_mouse(self) -> None:
        area = self.view.viewport()
        button = self.view.picture.buttons[0]
        QTest.mouseClick(area, Qt.MouseButton.LeftButton, pos=button.at.toPoint())
        self.assertEqual("gone", self.answers()[1])
        QTest.mouseClick(self.stage.mend, Qt.MouseButton.LeftButton)
        QTest.mouseClick(self.stage.buttons["cut"], Qt.MouseButton.LeftButton)
        wire = next(e for e in self.view.picture.elements if e.kind == "wire" and e.chain == 1)
        QTest.mouseClick(area, Qt.MouseButton.LeftButton, pos=wire.box.center().toPoint())
        self.assertEqual(["STOP B+ open", "gone", "at once"], self.answers())

    def test_a_plug_is_pulled_only_where_there_is_one(self) -> None:
        self.choose("wire", "W1.1")
        self.keys(self.view, "u")
        self.assertIn("terminals", self.said[-1])
        self.assertEqual([], self.view.faults)

    def test_a_removed_wire_takes_its_fault_along(self) -> None:
        self.choose("wire", "W1.2")
        self.keys(self.view, "c")
        cut = self.view.faults[0].wires[0]
        self.session.apply("off", lambda machine: take_conductor_off(machine, *cut))
        self.figures()
        self.settle()
        self.assertEqual([], self.view.faults)


class Faults(StopsCase):
    def test_the_chosen_row_is_shown_in_the_strings(self) -> None:
        table = self.stage.faults
        table.filter.setFocus()
        self.keys(table.filter, "q1 main stays")
        self.assertEqual(1, table.model.rowCount())
        table.table.setFocus()
        self.keys(table.table, KEY.Key_Down)
        table.table.selectRow(0)
        self.assertEqual(["welded"], [fault.kind for fault in self.view.faults])
        self.assertEqual("no", self.answers()[2])

    def test_what_a_fault_was_about_may_go_while_its_figures_are_on_their_way(self) -> None:
        self.choose("contact", "Q1")
        self.keys(self.view, "w")
        (fault,) = self.view.faults
        gone = replace(fault, contact=10_000)
        self.view.faults = [gone]
        self.assertEqual(["Q1 stays closed"], self.view.fault_words())
        circuit = self.view.worker.figures.circuit
        self.assertEqual((True, False), (is_in(circuit, fault), is_in(circuit, gone)))

    def test_which_second_fault_would_then_defeat_a_stop(self) -> None:
        table = self.stage.faults
        self.keys(table.after, KEY.Key_Space)
        self.assertIn("Break something first", self.said[-1])
        self.choose("contact", "Q1")
        self.keys(self.view, "w")
        self.keys(table.after, KEY.Key_Space)
        self.until(lambda: self.view.worker.second is not None)
        self.assertIn("After Q1 MAIN stays closed:", table.head.text())
        self.assertIn("Q2 MAIN stays closed", {row.fault for row in table.rows})
        self.keys(table.filter, "q2 main stays")
        table.table.selectRow(0)
        self.assertEqual(2, len(self.view.faults))
        self.keys(self.view, "p")
        self.assertEqual("stays", self.answers()[1])
        self.keys(table.after, KEY.Key_Space)
        self.assertEqual(self.view.figures.rows, table.rows)

    def test_only_those_that_defeat_a_stop_are_left(self) -> None:
        self.look_at(wired(PENDANT_IN_SERIES, *PENDANT))
        table = self.stage.faults
        self.keys(table.grave, KEY.Key_Space)
        shown = [table.rows[at] for at in table.model.at]
        self.assertLess(0, len(shown) < len(table.rows))
        self.assertTrue(all(row.is_dangerous for row in shown))

    def test_a_machine_without_a_stop_says_so(self) -> None:
        self.look_at(Machine(name="Empty"))
        self.assertIn("No emergency stop", self.stage.line.words.text())
        self.keys(self.view, "p", "c", "s", "u", "w", "m", KEY.Key_Return, KEY.Key_Right)
        self.assertFalse(self.stage.faults.isVisible())


class Drawn(StopsCase):
    def machine(self) -> Machine:
        return open_demo(self.demo)

    def test_nothing_is_drawn_over_anything_else(self) -> None:
        for scale in (1.0, 1.5):
            use(PAPER, scale)
            self.addCleanup(use, PAPER, 1.0)
            self.stage.scale()
            for number, one in enumerate(self.view.picture.elements):
                for other in self.view.picture.elements[number + 1 :]:
                    self.assertFalse(one.box.adjusted(1, 1, -1, -1).intersects(other.box), scale)
            ends = {e.box.right() for e in self.view.picture.elements if e.kind == "end"}
            self.assertEqual(1, len(ends))
