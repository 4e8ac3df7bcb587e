"""Whatever name in a machine file is broken, the file is refused with that name and its place."""

import json
import random
import unittest

from vervain.edits.measurement_edits import add_reading, set_coils
from vervain.exports.tables import all_tables
from vervain.files.demos import open_demo
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.files.problems import FileProblem
from vervain.model.measurements import Reading

WRONG = "Zz9 nowhere"


def document() -> dict:
    machine = open_demo("glazing-gantry-as-found")
    machine = add_reading(machine, "M4", Reading(a="RD", b="BK", saw="open"))
    return json.loads(encode_machine(set_coils(machine, "M4", (("RD", "WHRD"),))))


def references(doc: dict) -> list[tuple[str, list, int | str]]:
    """Every place where one thing names another: (list of the file, container, key)."""
    found: list[tuple[str, list, int | str]] = []
    for device in doc["devices"]:
        found.append(("devices", device, "part"))
        if "place" in device:
            found.append(("devices", device, "place"))
        for reading in device.get("readings", ()):
            found += [("devices", reading, "a"), ("devices", reading, "b")]
        for coil in device.get("coils", ()):
            found += [("devices", coil, n) for n in range(len(coil))]
    for axis in doc["axes"]:
        found += [("axes", axis["drives"], n) for n in range(len(axis["drives"]))]
        roles = ("home", "min_limit", "max_limit", "brake", "feedback")
        found += [("axes", axis, role) for role in roles if role in axis]
    for run in doc["runs"]:
        found += [("runs", run, "a"), ("runs", run, "b")]
    for hookup in doc["hookups"]:
        found += [("hookups", hookup[side], n) for side in "ab" for n in (0, 1)]
        if "cable" in hookup:
            found.append(("hookups", hookup, "cable"))
        found += [("hookups", c, side) for c in hookup["conductors"] for side in "ab"]
    for cable in doc["cables"]:
        found.append(("cables", cable, "part"))
        for ref in (cable.get("attached_to"), *cable.get("shield_to", ())):
            if ref:
                found += [("cables", ref, 0), ("cables", ref, 1)]
    for alternate in doc["alternates"]:
        found += [("alternates", alternate, "device"), ("alternates", alternate["port"], 0)]
    return found


class EveryReference(unittest.TestCase):
    def test_each_kind_of_broken_name_is_refused_with_its_place(self) -> None:
        count = len(references(document()))
        self.assertGreater(count, 700)
        for number in [*sorted(random.Random(4).sample(range(count), 150)), count - 1, count - 2]:
            doc = document()
            group, container, key = references(doc)[number]
            container[key] = WRONG
            with self.subTest(f"{group}: {key}"), self.assertRaises(FileProblem) as caught:
                decode_machine(json.dumps(doc).encode(), "x.vervain")
            self.assertIn(WRONG, str(caught.exception))
            self.assertIn(f"{group}[", str(caught.exception))

    def test_a_core_that_the_cable_has_not(self) -> None:
        doc = document()
        hookup = next(h for h in doc["hookups"] if h.get("cable") == "W14")
        hookup["conductors"][0]["core"] = 9
        with self.assertRaises(FileProblem) as caught:
            decode_machine(json.dumps(doc).encode(), "x")
        self.assertIn("core 9 of W14, which has 4", str(caught.exception))


class Tables(unittest.TestCase):
    def setUp(self) -> None:
        self.tables = {t.title: t for t in all_tables(open_demo("glazing-gantry-as-found"))}

    def row(self, table: str, first: str) -> dict:
        found = next(row for row in self.tables[table].rows if row[0] == first)
        return dict(zip(self.tables[table].names, found, strict=True))

    def test_a_cable_and_how_many_of_its_cores_are_used(self) -> None:
        row = self.row("Cables", "W41")
        self.assertEqual((12, 8, 0.25, 2.6), (row["Cores"], row["Used"], row["mm2"], row["m"]))
        self.assertLessEqual({"S2", "S3", "X41"}, set(row["Between"].split(", ")))

    def test_a_device_with_its_place_and_axis(self) -> None:
        row = self.row("Devices", "M4")
        self.assertEqual(
            ("Z motor", "Z", "Osier SM-86-8", "Z head"),
            (row["Name"], row["Axis"], row["Maker and model"], row["Place"]),
        )

    def test_findings_come_worst_first_and_accepted_last(self) -> None:
        rows = self.tables["Findings"].rows
        order = ("Damage", "Won't run", "Unreliable", "Workmanship")
        shown = [row for row in rows if row[-1] == ""]
        ranks = [order.index(row[0]) for row in shown]
        self.assertEqual(sorted(ranks), ranks)
        self.assertEqual("accepted", rows[-1][-1])

    def test_every_table_is_as_wide_as_its_columns(self) -> None:
        for table in self.tables.values():
            self.assertEqual({len(table.columns)}, {len(row) for row in table.rows})
