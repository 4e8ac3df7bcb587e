"""Lengths and cross-sections in feet and gauges, chosen in the window; what leaves stays metric."""

from PyQt6.QtCore import Qt

from tests.desktop.test_harness_table import TableCase
from vervain.exports.formats import csv_bytes
from vervain.exports.tables import face_table
from vervain.queries.machine_queries import Queries
from vervain.tables.cable_face import cable_face
from vervain.text.units import ALL_UNITS, use_units

FEET = "feet and AWG"


class Chosen(TableCase):
    def setUp(self) -> None:
        super().setUp()
        self.choose_in_menu(FEET)
        self.show_face("Cables")

    def choose_in_menu(self, words: str) -> None:
        menu = self.window.menu.made()
        inner = next(action.menu() for action in menu.actions() if action.text() == "Units")
        next(action for action in inner.actions() if words in action.text()).trigger()
        self.until(lambda: self.session.checked_machine is self.session.machine)

    def header(self, title: str) -> str:
        return self.table.faces.headerData(self.index(0, title).column(), Qt.Orientation.Horizontal)

    def test_tables_and_findings_are_shown_in_them_and_come_back(self) -> None:
        row = self.row_of("Cable", "W14")
        length_m = self.column("m")[row]
        self.assertEqual(("ft", "AWG"), (self.header("m"), self.header("mm²")))
        self.assertEqual("Measured", self.header("Measured"))
        self.assertEqual(f"{length_m / 0.3048:.2f}", self.index(row, "m").data())
        self.assertEqual("≈ 18", self.index(row, "mm²").data())
        found = next(f for f in self.session.findings() if f.rule == "harness.short-cable")
        self.assertTrue(any(" ft" in fix.words for fix in found.fixes), found.fixes)
        self.assertTrue(self.session.is_saved)
        self.assertEqual(FEET, self.window.settings.units())
        self.choose_in_menu("metres")
        self.show_face("Cables")
        self.assertEqual("m", self.header("m"))
        found = next(f for f in self.session.findings() if f.rule == "harness.short-cable")
        self.assertTrue(any(fix.words.endswith(" m") for fix in found.fixes), found.fixes)

    def test_what_is_typed_without_a_unit_is_in_them(self) -> None:
        row = self.row_of("Cable", "W14")
        for title, typed, field, value in (
            ("Measured", "10", "length_m", 3.048), ("Measured", "2.5 m", "length_m", 2.5),
        ):  # fmt: skip
            self.type_into(row, title, typed)
            self.until(lambda: self.fresh("Cables"))
            cable = next(c for c in self.session.machine.cables if c.id == "W14")
            with self.subTest(typed):
                self.assertAlmostEqual(value, getattr(cable, field))
        self.type_into(row, "mm²", "14")
        cable = next(c for c in self.session.machine.cables if c.id == "W14")
        part = next(p for p in self.session.machine.cable_parts if p.id == cable.part)
        self.assertAlmostEqual(2.08, part.core_mm2, 1)

    def test_what_is_exported_stays_metric_and_paper_does_not(self) -> None:
        machine = self.session.machine
        table = face_table(cable_face(Queries(machine)))
        use_units(ALL_UNITS[0])
        metric = face_table(cable_face(Queries(machine)))
        self.assertEqual(csv_bytes(metric), csv_bytes(table))
        self.assertIs(metric, metric.in_units)
        use_units(FEET)
        paper = table.in_units.on_paper
        self.assertIn("ft", paper.names)
        row = next(row for row in paper.rows if row[0] == "W14")
        self.assertEqual("≈ 18", row[paper.names.index("AWG")])
