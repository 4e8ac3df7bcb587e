"""The command line: exit statuses, outputs that others build on, hostile input."""

import contextlib
import io
import json
import os
import random
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from msgspec.structs import replace
from openpyxl import load_workbook

from build_demos import DATA
from tests import ROOT
from vervain.desktop.pictures import VIEWS, picture
from vervain.edits.cable_edits import set_cable
from vervain.entry import main
from vervain.exports.as_printed import keep_papers, papers_of
from vervain.files.demos import open_demo
from vervain.files.machine_file import open_machine
from vervain.files.saving import save_document
from vervain.files.versions import VersionRules
from vervain.rules.registry import RULES

HERE = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "QT_QPA_PLATFORM": "offscreen"}
PLANNED = (DATA / "demos") / "glazing-gantry-as-planned.vervain"
FOUND = (DATA / "demos") / "glazing-gantry-as-found.vervain"


def run(*arguments: object) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            status = main([str(argument) for argument in arguments])
        except SystemExit as stopped:
            status = int(stopped.code or 0)
    return status, out.getvalue(), err.getvalue()


class Commands(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_check_exit_statuses(self) -> None:
        broken = self.folder / "broken.vervain"
        broken.write_bytes(FOUND.read_bytes()[:5000])
        for path, status in ((PLANNED, 0), (FOUND, 1), (broken, 2), (self.folder / "none", 2)):
            with self.subTest(path.name):
                self.assertEqual(status, run("check", path)[0])
        self.assertIn("line", run("check", broken)[2])

    def test_check_in_words_and_in_json(self) -> None:
        words = run("check", FOUND)[1]
        self.assertIn("Damage: F4 is larger than W31 can carry. [10 of 7.5 A]", words)
        self.assertIn("fix: fit a 6 A fuse", words)
        document = json.loads(run("check", FOUND, "--json")[1])
        self.assertEqual("vervain findings", document["format"])
        self.assertEqual(
            words.count("\n    fix: "), sum(len(f["fixes"]) for f in document["findings"])
        )

    def test_place_writes_a_machine_with_nothing_loose_and_says_why(self) -> None:
        to = self.folder / "placed.vervain"
        status, out, _ = run("place", FOUND, "--to", to, "--explain")
        self.assertEqual(0, status)
        self.assertIn("B7 into K1 IN 7", out)
        self.assertIn("2 plugs placed", out)
        self.assertNotIn("loose", run("check", to)[1])
        first = to.read_bytes()
        run("place", FOUND, "--to", to)
        self.assertEqual(first, to.read_bytes())
        self.assertEqual(2, run("place", self.folder / "none", "--to", to)[0])
        arm = DATA / "templates" / "five-joint-arm.vervain"
        status, out, _ = run("place", arm, "--to", to)
        self.assertEqual(1, status)
        self.assertIn("No free port fits M6", out)

    def test_table_in_each_form(self) -> None:
        for form in ("csv", "xlsx", "json"):
            path = self.folder / f"t.{form}"
            with self.subTest(form):
                self.assertEqual(0, run("table", FOUND, "--as", form, "--to", path)[0])
        self.assertIn("W14.2", (self.folder / "t.csv").read_text("utf-8-sig"))
        self.assertEqual("Conductors", load_workbook(self.folder / "t.xlsx").sheetnames[0])
        self.assertIn("conductors", json.loads((self.folder / "t.json").read_text())["tables"])
        self.assertEqual(2, run("table", FOUND, "--as", "csv", "--to", self.folder / "no/t.csv")[0])

    def test_table_to_standard_output(self) -> None:
        done = subprocess.run(
            [sys.executable, "-m", "vervain", "table", str(FOUND), "--as", "csv"],
            env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
            capture_output=True,
        )
        self.assertEqual(0, done.returncode)
        self.assertTrue(done.stdout.startswith(b"\xef\xbb\xbfLabel,From,"))

    def test_rules_lists_every_rule_with_its_source(self) -> None:
        words = run("rules")[1]
        for rule in RULES:
            self.assertIn(f"{rule.id}  ({rule.consequence}, {rule.stage})", words)
        self.assertEqual(len(RULES), len(json.loads(run("rules", "--json")[1])))

    def test_wrong_words_are_refused_with_the_usage(self) -> None:
        for arguments in (("check",), ("table", FOUND), ("table", FOUND, "--as", "doc"), ("--no",)):
            status, _, err = run(*arguments)
            with self.subTest(arguments[0]):
                self.assertEqual(2, status)
                self.assertIn("usage", err)

    def test_the_set_for_the_bench_goes_into_a_folder(self) -> None:
        status, out, _ = run("harness", FOUND, "--to", str(self.folder / "bench"))
        self.assertEqual(0, status)
        written = {Path(line).name for line in out.splitlines()}
        self.assertEqual(written, {path.name for path in (self.folder / "bench").iterdir()})
        self.assertIn("Glazing gantry as found-harness.html", written)
        status, _, err = run("harness", "/nowhere.vervain", "--to", str(self.folder))
        self.assertEqual(2, status)
        self.assertIn("/nowhere.vervain", err)

    def test_what_changed_between_two_versions(self) -> None:
        status, out, _ = run("changes", FOUND, FOUND)
        self.assertEqual(0, status)
        self.assertIn("0 conductors changed", out)
        status, out, _ = run("changes", PLANNED, FOUND)
        self.assertEqual(1, status)
        self.assertIn("moved: W16.1", out)
        self.assertIn("print: ", out)
        run("changes", PLANNED, FOUND, "--as", "csv", "--to", self.folder / "c.csv")
        text = (self.folder / "c.csv").read_text("utf-8-sig")
        self.assertTrue(text.startswith("What,Label,Before,Now"))

    def test_papers_and_revisions_that_were_kept(self) -> None:
        path, rules = self.folder / "m.vervain", VersionRules(self.folder / "kept", 20, 10**7)
        machine = replace(open_machine(Path(PLANNED)), revision="A")
        machine = keep_papers(machine, papers_of(machine, ("sheets", "csv"), ()))
        save_document(machine, path, None, rules, replaces=True)
        self.assertEqual((0, 1), (run("papers", path)[0], len(machine.papers)))
        later = replace(set_cable(machine, "W11", 9.0, ""), revision="B")
        save_document(later, path, None, rules, replaces=True)
        status, out, _ = run("papers", path)
        self.assertEqual(1, status)
        self.assertIn("revision A", out)
        self.assertIn("out of date: W11", out)
        with mock.patch("vervain.cli.changes.kept_rules", lambda: rules):
            old = Path(f"{path}@A")
            self.assertIn("0 conductors", run("changes", old, f"{path}@2")[1])
            self.assertEqual(0, run("changes", f"{path}@B", path)[0])
            status, out, _ = run("changes", old, f"{path}@B")
            self.assertIn("changed: W11", out)
            self.assertEqual(2, run("changes", f"{path}@C", path)[0])

    def test_a_list_is_only_told_until_it_is_written(self) -> None:
        given, after = self.folder / "list.csv", self.folder / "after.vervain"
        given.write_text("Designator,Part\nB40,osier-rl2\nB41,nonsense\n")
        status, out, _ = run("import", FOUND, str(given))
        self.assertEqual(1, status)
        self.assertIn("row 3, left out: No part is called “nonsense”", out)
        self.assertIn("1 taken, 0 there already, 1 left out", out)
        self.assertFalse(after.exists())
        run("import", FOUND, str(given), "--to", str(after))
        self.assertIn("B40", after.read_text("utf-8"))
        given.write_bytes(b"PK\x03\x04")
        status, _, err = run("import", FOUND, str(given))
        self.assertEqual(2, status)
        self.assertIn("list.csv", err)

    def test_a_part_is_checked_and_drawn(self) -> None:
        parts = DATA / "parts" / "controllers.toml"
        self.assertEqual(0, run("part", "check", parts)[0])
        first = {"png": b"\x89PNG", "svg": b"<?xml", "pdf": b"%PDF"}
        for form, begins in first.items():
            to = self.folder / f"board.{form}"
            code = f"from vervain.entry import main; main(['part', 'draw', {str(parts)!r}, '--part'"
            code += f", 'tarn-mc5', '--to', {str(to)!r}])"
            done = subprocess.run([sys.executable, "-c", code], env=HERE, capture_output=True)
            self.assertEqual(begins, to.read_bytes()[: len(begins)], done.stderr)
        self.assertIn(b"AXIS 3", (self.folder / "board.svg").read_bytes())
        status, _, told = run("part", "draw", parts, "--to", self.folder / "x.png")
        self.assertEqual(2, status)
        self.assertIn("Say which part with --part", told)

    def test_stops_are_pressed_and_every_fault_tried(self) -> None:
        status, words, _ = run("stops", FOUND)
        self.assertEqual(1, status)
        self.assertIn("W41.1 touches W41.2, in W41", words)
        self.assertIn("S2 23-24 (bridged)", words)
        document = json.loads(run("stops", FOUND, "--json")[1])
        self.assertEqual(["S1", "S2"], [stop["stop"] for stop in document["stops"]])
        grave = [f for f in document["faults"] if f["dangerous"] and f["noticed"] == "never"]
        self.assertIn(f"{len(document['faults'])} single faults, {len(grave)} of them", words)
        every = run("stops", FOUND, "--faults")[1]
        self.assertEqual(len(document["faults"]), every.count("; noticed: "))
        self.assertEqual(2, run("stops", self.folder / "none")[0])

    def test_version(self) -> None:
        self.assertIn("vervain 0.", run("--version")[1])

    def test_the_example_of_one_demonstration_without_a_display(self) -> None:
        """The whole of it is `./run-demo`; another twentieth of its pictures is taken each run."""
        told = [sys.executable, "-m", "vervain", "demo", "--to", str(self.folder / "out")]
        done = subprocess.run(
            [*told, "--of", "clay"],
            env={**os.environ, "PYTHONPATH": str(ROOT / "src"), "QT_QPA_PLATFORM": "offscreen"},
            capture_output=True,
            text=True,
        )
        self.assertEqual(0, done.returncode, done.stderr)
        names = {path.name for path in (self.folder / "out").iterdir()}
        for name in ("clay-printer-as-found-bench", "clay-printer-as-planned.vervain",
                     "ports-printer.png"):  # fmt: skip
            self.assertIn(name, names)
        self.assertIn(str(self.folder / "out"), done.stdout)
        self.assertNotIn("harness.png", names)
        none = subprocess.run([*told, "--of", "x"], env=HERE, capture_output=True, text=True)
        self.assertEqual(2, none.returncode)
        self.assertIn("There are glazing-gantry", none.stderr)
        for name, demo, prepare, theme in random.sample(VIEWS, len(VIEWS) // 20):
            with self.subTest(name):
                path = picture(open_demo(demo), self.folder / f"{name}.png", prepare, theme)
                self.assertGreater(path.stat().st_size, 10_000)
