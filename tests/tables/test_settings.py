"""The settings sheet follows the machine: what is set, and because of what."""

import unittest

from msgspec.structs import replace

from tests import small
from vervain.edits import device_edits
from vervain.edits.axis_edits import take_from_roles
from vervain.edits.common import swapped
from vervain.exports.tables import all_tables, harness_faces
from vervain.files.demos import DEMOS, open_demo
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.tables import cable_face
from vervain.tables.cable_face import cable_face_row
from vervain.tables.open_leads import open_leads
from vervain.tables.settings_sheet import GROUPS, SettingRow, settings_sheet

GANTRY = open_demo("glazing-gantry-as-planned")
PRINTER = open_demo("clay-printer-as-planned")


def rows(machine: Machine) -> tuple[SettingRow, ...]:
    return settings_sheet(Queries(machine))


def value(machine: Machine, where: str, what: str) -> str | None:
    return next((r.value for r in rows(machine) if (r.where, r.what) == (where, what)), None)


def because(machine: Machine, where: str, what: str) -> str | None:
    return next((r.because for r in rows(machine) if (r.where, r.what) == (where, what)), None)


class Sheet(unittest.TestCase):
    def test_figures_by_hand(self) -> None:
        for where, what, expected in (
            ("X", "Steps a mm", "80"),
            ("A", "Steps a degree", "50"),
            ("K1 ENC 1", "Counts a degree of A", "66.6667"),
            ("T1", "Current, peak", "3.6 A peak, 2.55 A RMS"),
            ("K1 IN 5", "Reads PNP", "inverted, filter 1 ms"),
            ("K1 IN 7", "Reads PNP", "as it is, filter 1 ms"),
            ("X", "Homing", "on, home is at 30 mm"),
            ("A", "Homing", "to the index"),
            ("F1", "Fuse, rated", "15 A"),
        ):
            with self.subTest(f"{where} {what}"):
                self.assertEqual(expected, value(GANTRY, where, what))
        self.assertEqual("B5 NC and B6 NC", because(GANTRY, "K1 IN 5", "Reads PNP"))
        self.assertEqual("nothing", value(PRINTER, "Z", "M4 follows M3"))
        self.assertEqual("both on T3", because(PRINTER, "Z", "M4 follows M3"))
        self.assertEqual("off", value(PRINTER, "E", "Homing"))

    def test_it_follows_what_is_changed(self) -> None:
        finer = device_edits.set_setting(GANTRY, "T1", "microsteps", "32")
        self.assertEqual("160", value(finer, "X", "Steps a mm"))
        self.assertEqual("32: 1 on, 2 off, 3 on", value(finer, "T1", "Microsteps"))
        homeless = take_from_roles(GANTRY, "B1")
        self.assertEqual("off", value(homeless, "X", "Homing"))
        turned = device_edits.set_setting(GANTRY, "K1", "JP2", "NPN")
        self.assertEqual("inverted, filter 1 ms", value(turned, "K1 IN 5", "Reads NPN"))

    def test_unused_ports_are_not_listed_and_groups_stand_together(self) -> None:
        for demo in DEMOS:
            found = rows(open_demo(demo.key))
            order = [GROUPS.index(row.group) for row in found]
            with self.subTest(demo.key):
                self.assertEqual(sorted(order), order)
                self.assertTrue(all(row.value and row.what and row.where for row in found))
        inputs = [row.where for row in rows(PRINTER) if row.group == "Inputs"]
        self.assertEqual(["K1 STOP X", "K1 STOP Y", "K1 STOP Z", "K1 PROBE"], inputs)

    def test_stop_inputs_say_what_opens_them(self) -> None:
        rows = [r for r in settings_sheet(Queries(open_demo("glazing-gantry-as-planned")))
                if r.group == "Stops"]  # fmt: skip
        self.assertEqual(["A+", "B+"], [row.what for row in rows])
        self.assertEqual({"open when S1 or S2 is pressed"}, {row.value for row in rows})
        self.assertEqual({"K1 STOP"}, {row.where for row in rows})

    def test_a_bare_machine_has_an_empty_sheet(self) -> None:
        self.assertEqual((), rows(small.bench("M1 fell-s57", "B1 osier-rl2").machine))

    def test_each_end_has_its_own_switch(self) -> None:
        for roles, expected in (
            ({"min_limit": "B2", "max_limit": "B3"}, "min B2, max B3"),
            ({"min_limit": "B3"}, "min B3"),
            ({"max_limit": "B2"}, "max B2"),
        ):
            with self.subTest(expected):
                axis = next(axis for axis in GANTRY.axes if axis.id == "X")
                ends = {"min_limit": None, "max_limit": None, **roles}
                axes = swapped(GANTRY.axes, axis, replace(axis, **ends))
                self.assertEqual(expected, value(replace(GANTRY, axes=axes), "X", "Limits"))

    def test_it_leaves_with_the_other_tables(self) -> None:
        table = next(t for t in all_tables(GANTRY) if t.title == "Settings")
        self.assertEqual(len(rows(GANTRY)), len(table.rows))
        self.assertEqual(("Group", "Where", "What", "Set to", "Because of"), table.names)


class Leftovers(unittest.TestCase):
    def setUp(self) -> None:
        build = small.bench("G1 fell-ps24", "M1 quoin-bf24", "B1 osier-rl2", "K1 tarn-mc5")
        build.cable("W1", "flex-3x0.5", None)
        build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", "W1", "1 2")
        build.join("B1:LEADS", "K1:IN 7", "COM-1")
        self.queries = Queries(build.machine)

    def test_a_core_that_carries_nothing_is_spare(self) -> None:
        cells = dict(zip(cable_face.COLUMNS, cable_face_row(self.queries, "W1").cells, strict=True))
        told = {column.title: cell for column, cell in cells.items()}
        self.assertEqual((3, 2, "open"), (told["Cores"], told["Used"], told["Spare cores"]))

    def test_only_what_hangs_loose_is_an_open_lead(self) -> None:
        self.assertEqual(["B1 WH", "B1 GY", "W1.3 GN"], self.loose(self.queries))
        # The same switch with a contact that has no lead of its own.
        part = self.queries.part_of("B1")
        bare = replace(part.ports[0], pins=tuple(replace(p, lead="") for p in part.ports[0].pins))
        machine = small.with_part(
            self.queries.machine, part.id, lambda part: replace(part, ports=(bare,))
        )
        self.assertEqual(["W1.3 GN"], self.loose(Queries(machine)))

    def loose(self, queries: Queries) -> list[str]:
        return [f"{lead.where} {lead.lead}" for lead in open_leads(queries)]


class Columns(unittest.TestCase):
    def test_every_cell_has_a_key_of_its_own(self) -> None:
        for face in harness_faces(GANTRY, Queries(GANTRY)):
            with self.subTest(face.name):
                self.assertEqual(len(set(face.keys)), len(face.columns))
                self.assertEqual({len(face.columns)}, {len(row.cells) for row in face.rows})
        conductors = harness_faces(GANTRY, Queries(GANTRY))[0]
        row = next(row for row in conductors.rows if conductors.cell(row, "label") == "W14.2")
        self.assertEqual("W14", conductors.cell(row, "cable"))
        self.assertGreater(conductors.cell(row, "current_a"), conductors.cell(row, "drop_v"))
