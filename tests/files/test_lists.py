"""Lists taken in: what each row would do is told before anything is done."""

import io
import tempfile
import time
import unittest
import zipfile
from pathlib import Path

from msgspec.structs import replace
from openpyxl import Workbook

from mistake_machines import MACHINES
from tests import small
from tests.sampling import seeded, some
from vervain.exports.formats import csv_bytes, xlsx_bytes
from vervain.exports.tables import face_table
from vervain.files.demos import DEMOS, open_demo
from vervain.files.lists import LARGEST_BYTES, MOST_ROWS, Sheet, dry_run, pasted_sheet, read_sheet
from vervain.files.part_files import shipped_shelf
from vervain.files.problems import FileProblem
from vervain.harness.terminations import is_seated
from vervain.model.machine import Machine, ends_of
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.tables.conductor_face import conductor_face

SHELF = shipped_shelf()
LIST = """Designator,Part,Name,Place
M1,fell-s57,X motor,Gantry
,osier-rl2,Limit,Gantry
B9,osier-sl1,Home,
K1,nonsense,Controller,
M1,fell-s60,Another,
"""
PINS = """From,From pin,To,To pin,Cable,Core
B1,COM,K1,IN 5 1,flex-2x0.5,1
B1,NC,K1,IN 5.2,W1,2
B1,NC,K9,1,,
B1,XX,K1,1,,
K1,24V,B1,COM,,
"""


def written(text: str | bytes, name: str = "list.csv") -> Path:
    folder = Path(tempfile.mkdtemp())
    path = folder / name
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return path


def taken(machine: Machine, text: str):
    return dry_run(machine, read_sheet(written(text)), SHELF.parts.values(),
                   SHELF.cable_parts.values())  # fmt: skip


class Devices(unittest.TestCase):
    def setUp(self) -> None:
        self.result = taken(Machine(name="New"), LIST)

    def test_each_row_says_what_it_does(self) -> None:
        self.assertEqual(
            ["taken", "taken", "taken", "left out", "left out"],
            [row.verdict for row in self.result.rows],
        )
        self.assertEqual([2, 3, 4, 5, 6], [row.number for row in self.result.rows])
        self.assertIn("No part is called “nonsense”", self.result.rows[3].words)
        self.assertIn("M1 is taken", self.result.rows[4].words)

    def test_the_machine_after_it_has_them_in_their_places(self) -> None:
        queries = Queries(self.result.machine)
        self.assertEqual(("M1", "B1", "B9"), queries.devices())
        place = queries.place(queries.device("M1").place)
        self.assertEqual("Gantry", place.name)
        self.assertEqual(1, len(queries.places()))
        self.assertEqual("osier-sl1", queries.device("B9").part)

    def test_a_second_time_they_are_there_already(self) -> None:
        again = taken(self.result.machine, LIST)
        self.assertEqual("there already", again.rows[0].verdict)

    def test_a_part_is_known_by_id_title_or_model(self) -> None:
        part = SHELF.parts["fell-s57"]
        for name in (part.id, part.title.upper(), part.model, f"{part.maker} {part.model}"):
            with self.subTest(name):
                sheet = Sheet(("part",), ((2, (name,)),))
                found = dry_run(Machine(name="x"), sheet, SHELF.parts.values(), ())
                self.assertEqual("fell-s57", found.machine.devices[0].part)


class Conductors(unittest.TestCase):
    def setUp(self) -> None:
        build = small.powered_controller()
        build.device("B1", "osier-rl2", "Limit", None)
        self.machine = build.machine
        self.result = taken(self.machine, PINS)

    def test_pins_are_found_by_port_and_name(self) -> None:
        self.assertEqual(
            ["taken", "taken", "left out", "left out", "left out"],
            [row.verdict for row in self.result.rows],
        )
        self.assertIn("no device “K9”", self.result.rows[2].words)
        self.assertIn("no pin “XX”", self.result.rows[3].words)
        self.assertIn("could be in", self.result.rows[4].words)

    def test_a_cable_of_a_kind_is_made_once_and_used_by_name(self) -> None:
        machine = self.result.machine
        self.assertEqual(["W1"], [cable.id for cable in machine.cables])
        cores = [
            row.core for hookup in machine.hookups if hookup.cable for row in hookup.conductors
        ]
        self.assertEqual([1, 2], cores)

    def test_what_is_joined_is_not_joined_twice(self) -> None:
        again = taken(self.result.machine, PINS)
        self.assertEqual(["there already"] * 2, [row.verdict for row in again.rows[:2]])

    def test_our_own_tables_come_back_as_there_already_row_for_row(self) -> None:
        for demo in DEMOS:
            machine = open_demo(demo.key)
            table = face_table(conductor_face(Queries(machine), {}))
            for name, data in (("own.csv", csv_bytes(table)), ("own.xlsx", xlsx_bytes((table,)))):
                sheet = read_sheet(written(data, name))
                result = dry_run(machine, sheet, SHELF.parts.values(), ())
                with self.subTest(demo.key, name=name):
                    self.assertEqual(machine, result.machine)
                    self.assertEqual(len(table.rows), result.count("there already"))

    def test_a_name_in_both_halves_is_asked_for_where_nothing_is_joined_yet(self) -> None:
        build = small.Builder(small.bench("X1 quoin-il2", "B1 osier-rl2").machine)
        text = "From,From pin,To,To pin\nB1,COM,X1,1\nB1,COM,X1,A 1\n"
        first, second = taken(build.machine, text).rows
        self.assertEqual(("left out", "taken"), (first.verdict, second.verdict))
        self.assertIn("could be in A, B", first.words)


class Files(unittest.TestCase):
    def test_a_workbook_reads_as_its_csv(self) -> None:
        book = Workbook()
        for line in LIST.strip().splitlines():
            book.active.append(line.split(","))
        stream = io.BytesIO()
        book.save(stream)
        sheet = read_sheet(written(stream.getvalue(), "list.xlsx"))
        plain = read_sheet(written(LIST))
        self.assertEqual(plain.heads, sheet.heads)
        self.assertEqual([row[1][:2] for row in plain.rows], [row[1][:2] for row in sheet.rows])

    def test_what_is_no_list_is_refused_with_a_remedy(self) -> None:
        for data, words in (
            (b"", "no rows"),
            (b"Designator,Part\n", "no rows"),
            (b"Part\x00Name\n\x81", "UTF-8"),
            (b"PK\x03\x04 truncated", "workbook"),
            (b"x" * (LARGEST_BYTES + 1), "too large"),
        ):
            with self.subTest(words), self.assertRaisesRegex(FileProblem, words):
                read_sheet(written(data))
        with self.assertRaisesRegex(FileProblem, "cannot be read"):
            read_sheet(Path("/nowhere/list.csv"))

    def test_a_workbook_that_unpacks_to_far_too_much_is_refused_at_once(self) -> None:
        begun = time.process_time()
        for name, entry, content in (
            ("texts", "xl/sharedStrings.xml", b"<sst>" + b"<si><t>x</t></si>" * 6_000_000),
            ("rows", "xl/worksheets/sheet1.xml", b"<worksheet><sheetData>" + b"<row/>" * 4_000_000),
        ):
            packed, book = io.BytesIO(), io.BytesIO()
            Workbook().save(book)
            with (
                zipfile.ZipFile(book) as old,
                zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as new,
            ):
                for item in old.namelist():
                    if item != entry:
                        new.writestr(item, old.read(item))
                new.writestr(entry, content)
            self.assertLess(len(packed.getvalue()), 2_000_000)
            with self.subTest(name), self.assertRaisesRegex(FileProblem, "unpacks to"):
                read_sheet(written(packed.getvalue(), "list.xlsx"))
        self.assertLess(time.process_time() - begun, 10)

    def test_rows_that_no_file_can_hold_are_left_out_with_the_reason(self) -> None:
        demo = open_demo("glazing-gantry-as-planned")
        result = taken(demo, "designator,part\nMotor-1,larkmoor-ip12\nB99,larkmoor-ip12\n")
        self.assertEqual(["left out", "taken"], [row.verdict for row in result.rows])
        self.assertIn("designator", result.rows[0].words)
        rows = "from,from pin,to,to pin,cable,core\nB3,2,S2,21-22 21,W101,"
        for core in ("99", "9" * 5000, "-1", "1e3"):
            result = taken(demo, rows + core)
            self.assertEqual(["left out"], [row.verdict for row in result.rows])
            self.assertIs(demo, result.machine)

    def test_a_head_that_names_nothing_is_refused(self) -> None:
        with self.assertRaisesRegex(Problem, "neither"):
            taken(Machine(name="x"), "Colour,Size\nred,2\n")

    def test_hostile_cells_are_only_text(self) -> None:
        text = "Part,Name\nfell-s57,=cmd()\nfell-s57,<script>\n../x,y\n" + "a,b\n" * 600
        result = taken(Machine(name="x"), text)
        self.assertEqual("=cmd()", result.machine.devices[0].name)
        self.assertEqual(603, len(result.rows))

    def test_more_rows_than_are_taken_are_refused_and_never_cut_off(self) -> None:
        head, row = "Part,Name\n", "fell-s57,x\n"
        self.assertEqual(MOST_ROWS, len(read_sheet(written(head + row * MOST_ROWS)).rows))
        with self.assertRaisesRegex(FileProblem, f"more than {MOST_ROWS} rows"):
            read_sheet(written(head + row * (MOST_ROWS + 1)))
        with self.assertRaisesRegex(Problem, "were pasted"):
            pasted_sheet(row * (MOST_ROWS + 1))

    def test_the_encodings_that_spreadsheets_save(self) -> None:
        text = "Designator;Part;Name\nM1;fell-s57;Fräser, 5 Ω\n"
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-16-be"):
            mark = b"\xfe\xff" if encoding == "utf-16-be" else b""
            sheet = read_sheet(written(mark + text.encode(encoding)))
            with self.subTest(encoding):
                self.assertEqual(("M1", "fell-s57", "Fräser, 5 Ω"), sheet.rows[0][1])
        sheet = read_sheet(written(text.replace("Ω", "ohm").encode("cp1252")))
        self.assertEqual("Fräser, 5 ohm", sheet.rows[0][1][2])


class Rebuilt(unittest.TestCase):
    def test_the_list_of_conductors_makes_every_wire_and_cable_anew(self) -> None:
        """All that is not pushed in pin on pin; compared pin for pin and core for core."""
        for name in some(seeded("lists made anew"), sorted(MACHINES), 6):
            machine = MACHINES[name]()
            queries = Queries(machine)
            table = face_table(conductor_face(queries, {}))
            sheet = read_sheet(written(csv_bytes(table)))
            bare = replace(machine, hookups=(), cables=(), alternates=())
            made = dry_run(bare, sheet, (), ()).machine
            seated = {h.id for h in machine.hookups if is_seated(queries, h.id)}
            with self.subTest(name):
                self.assertEqual(wires(machine, seated), wires(made, set()))


def wires(machine, without) -> set:
    """Each wire as its two pins, its cable with its kind, and its core."""
    kinds = {cable.id: cable.part for cable in machine.cables}
    return {
        (frozenset(ends_of(hookup, row)), hookup.cable, kinds.get(hookup.cable), row.core)
        for hookup in machine.hookups
        if hookup.id not in without
        for row in hookup.conductors
    }
