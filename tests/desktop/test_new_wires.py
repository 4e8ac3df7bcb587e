"""Wires typed into the harness table, in the real window."""

from PyQt6.QtWidgets import QApplication

from tests.desktop.test_harness_table import CONTROL, KEY, TableCase


class NewWires(TableCase):
    """A wire from pin to pin, typed under the table."""

    def setUp(self) -> None:
        super().setUp()
        self.line = self.harness.join_line
        self.keys(self.table, "n")

    def field_text(self, *texts: str) -> None:
        """Types into the fields in turn, Tab between."""
        fields = (self.line.start, self.line.end, self.line.cable, self.line.core)
        for field, text in zip(fields, texts, strict=False):
            field.clear()
            self.keys(field, text)
        self.line.judge()

    def test_two_pins_are_joined_traced_and_undone(self) -> None:
        before = self.session.machine
        self.assertIs(self.line.start, self.window.focusWidget())
        self.field_text("k1 in 8 in", "b5 leads no")
        self.assertIn("Nothing speaks against it", self.line.words.text())
        self.keys(self.line.end, KEY.Key_Return)
        step = self.session.steps[self.session.at]
        self.assertEqual("K1 IN 8 IN joined to B5 LEADS NO", step.words)
        conductor = self.session.selection.conductor
        hookup = self.session.queries.hookup(conductor[0])
        self.assertEqual({"K1", "B5"}, {hookup.a.device, hookup.b.device})
        # The next wire begins at the same ports.
        self.assertEqual(("K1 IN 8 ", "B5 LEADS "), (self.line.start.text(), self.line.end.text()))
        self.assertIs(self.line.start, self.window.focusWidget())
        self.session.undo()
        self.assertEqual(before, self.session.machine)

    def test_it_is_judged_while_one_types(self) -> None:
        for texts, words in (
            (("K1 IN 8 IN",), "And to where?"),
            (("K1 IN 8 IN", "K1 IN 8 IN"), "one pin, not two"),
            (("K1 IN 8 Q", "B5 LEADS NO"), "has no pin"),
            (("M1 LEADS BK", "K1 IN 8 IN"), "nothing to do on one net"),
            (("K1 IN 8 IN", "B5 LEADS NO", "W999"), "no cable “W999”"),
            (("K1 IN 8 IN", "B5 LEADS NO", "", "2"), "A core is of a cable"),
            (("K1 IN 8 IN", "B5 LEADS NO", "W11", "77"), "has no core 77"),
        ):
            with self.subTest(texts):
                self.field_text(*texts, *("", "", "")[: 4 - len(texts)])
                self.assertIn(words, self.line.words.text())

    def test_a_refused_wire_changes_nothing_and_escape_goes_back(self) -> None:
        before = self.session.machine
        self.field_text("K1 IN 8 IN", "nothing")
        self.keys(self.line.end, KEY.Key_Return)
        self.assertIs(before, self.session.machine)
        self.assertIn("no device", self.said[-1])
        self.keys(self.line.end, KEY.Key_Escape)
        self.assertEqual("", self.line.end.text())
        self.assertIs(self.table, self.window.focusWidget())

    def test_a_kind_of_cable_is_laid_and_its_cores_are_used_in_turn(self) -> None:
        kind = next(p for p in self.harness.cable_parts().values() if len(p.cores) == 4)
        for text, lead in (("IN", "NO"), ("24V", "COM")):
            self.field_text(f"K1 IN 8 {text}", f"B5 LEADS {lead}")
            if text == "IN":
                self.keys(self.line.cable, kind.title)
            self.keys(self.line.cable, KEY.Key_Return)
        hookup = self.session.queries.hookup(self.session.selection.conductor[0])
        self.assertEqual([1, 2], [row.core for row in hookup.conductors])

    def test_completion_offers_every_pin(self) -> None:
        completer = self.line.end.completer()
        completer.setCompletionPrefix("in 8 in")
        self.assertIn("K1 IN 8 IN", [
            completer.completionModel().index(n, 0).data()
            for n in range(completer.completionCount())
        ])  # fmt: skip

    def test_rows_that_are_pasted_go_the_way_of_a_list(self) -> None:
        rows = "K1 IN 8 IN\tB5 LEADS NO\nK1.IN 8 24V\tB5 COM\nK1 IN 8 Q\tB5 COM\n"
        QApplication.clipboard().setText(rows)
        self.keys(self.line.start, (KEY.Key_V, CONTROL))
        panel = self.harness.importing
        self.until(lambda: panel.isVisible())
        before = self.session.machine
        panel.carry_out()
        self.assertIsNot(before, self.session.machine)
        made = [h for h in self.session.machine.hookups if {h.a.device, h.b.device} == {"K1", "B5"}]
        joined = {(h.a.port, row.a, row.b) for h in made for row in h.conductors}
        self.assertEqual(2, len([one for one in joined if one[0] == "IN 8"]))
        self.session.undo()
        self.assertEqual(before, self.session.machine)
