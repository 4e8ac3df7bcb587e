"""The machine file: strict, with the place of every fault; the original is never harmed."""

import json
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from msgspec.structs import replace

from build_demos import DATA, demo_files
from templates import template_files
from tests import ROOT
from vervain.files.autosave import Seat, autosave_path, left_over, write_autosave
from vervain.files.demos import DEMOS, TEMPLATES, open_demo
from vervain.files.machine_file import decode_machine, encode_machine, open_machine, save_machine
from vervain.files.part_files import decode_parts, shipped_shelf
from vervain.files.problems import FileProblem
from vervain.files.schema import schema_text
from vervain.model.machine import Machine

GOOD = encode_machine(open_demo("glazing-gantry-as-planned"))


def changed(path: str, value: object) -> bytes:
    """The good file with one value changed: path "devices.3.designator"."""
    document = json.loads(GOOD)
    *way, last = path.split(".")
    here = document
    for step in way:
        here = here[int(step)] if isinstance(here, list) else here[step]
    here[int(last) if isinstance(here, list) else last] = value
    return json.dumps(document).encode()


# What is wrong, the bytes, and the words that the message must hold: what and where.
BAD: tuple[tuple[str, bytes, tuple[str, ...]], ...] = (
    ("empty", b"", ("ends too early", "line 1")),
    ("truncated", GOOD[: len(GOOD) // 2], ("line",)),
    ("cut in the last line", GOOD[:-4], ("ends too early", "line")),
    ("not text", b"\x89PNG\r\n\x1a\n\xff\xfe", ("not text", "line 1")),
    ("another JSON", b'{"a": 1}', ("not a Vervain machine file", "format")),
    ("a list", b"[1, 2]", ("not a Vervain machine file",)),
    ("newer", changed("version", 99), ("newer Vervain", "version", "99")),
    ("no version", changed("version", "one"), ("version is not a number",)),
    ("unknown field", changed("devices.3.colour", "red"), ("colour", "devices[3]")),
    ("wrong type", changed("devices.3.name", 7), ("devices[3].name", "word in quotes")),
    ("bad designator", changed("devices.3.designator", "m 4"), ("devices[3]",)),
    ("dangling part", changed("devices.3.part", "osier-sm86"), ("osier-sm86", "devices[3]")),
    ("dangling device", changed("hookups.5.a.0", "Z9"), ("Z9", "hookups[5]")),
    ("dangling port", changed("hookups.5.a.1", "NOWHERE"), ("NOWHERE", "hookups[5]")),
    ("dangling pin", changed("hookups.5.conductors.0.a", "77"), ("77", "hookups[5]")),
    ("dangling cable", changed("hookups.0.cable", "W1010"), ("W1010", "Did you mean")),
    ("doubled device", changed("devices.3.designator", "M1"), ("twice", "devices[3]")),
    ("not a number", GOOD.replace(b'"travel": 820.0', b'"travel": NaN'), ("NaN",)),
    ("infinite", GOOD.replace(b'"travel": 820.0', b'"travel": 1e999'), ("1e999",)),
    (
        "far too long",
        GOOD.replace(b'"travel": 820.0', b'"travel": 1e308'),
        ("1e308", "axes[0].travel"),
    ),
    ("far too small", GOOD.replace(b'"travel": 820.0', b'"travel": 5e-324'), ("5e-324", "line")),
    ("5,000 digits", GOOD.replace(b'"travel": 820.0', b'"travel": ' + b"9" * 5000), ("999",)),
    (
        "half a character",
        changed("devices.3.name", "a\ud800b"),
        ("half a character", "devices[3].name"),
    ),
    ("half a character as a key", b'{"format": "vervain machine", "\\ud800": 1}', ("half a char",)),
    ("a key twice", GOOD.replace(b'"name"', b'"version": 1, "name"', 1), ("version", "twice")),
    ("a line break behind a designator", changed("devices.3.designator", "M3\n"), ("devices[3]",)),
    ("negative travel", GOOD.replace(b'"travel": 820.0', b'"travel": -820.0'), ("axes[0].travel",)),
    (
        "negative resistance",
        GOOD.replace(b'"resistance_ohm": 0.9', b'"resistance_ohm": -0.9'),
        ("resistance_ohm", "parts["),
    ),
    (
        "a nest",
        b'{"format": "vervain machine", "version": 1, "x": ' + b"[" * 100_000,
        ("deep", "x[0][0]"),
    ),
    (
        "a version that is no number",
        GOOD.replace(b'"version": 2', b'"version": true'),
        ("version",),
    ),
    ("10 MB of junk", os.urandom(10_000_000), ("not",)),
    ("10 MB of spaces", b" " * 10_000_000, ("ends too early",)),
)


class BadFiles(unittest.TestCase):
    def test_each_is_refused_with_its_place_and_left_alone(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "machine.vervain"
            for name, data, words in BAD:
                path.write_bytes(data)
                with self.subTest(name), self.assertRaises(FileProblem) as caught:
                    open_machine(path)
                message = str(caught.exception)
                for word in (*words, str(path)):
                    self.assertIn(word, message, name)
                self.assertEqual(data, path.read_bytes())

    def test_every_fault_is_listed_at_once(self) -> None:
        document = json.loads(GOOD)
        document["devices"][3]["part"] = "gone"
        document["hookups"][5]["a"][0] = "Z9"
        with self.assertRaises(FileProblem) as caught:
            decode_machine(json.dumps(document).encode(), "x")
        self.assertGreaterEqual(len(caught.exception.faults), 2)

    def test_hostile_names_of_files(self) -> None:
        for name in ("nothing-here", "a\0b", "x" * 5000, ".", "/dev/null/x"):
            with self.subTest(name[:20]), self.assertRaises(FileProblem):
                open_machine(Path(name))


class OlderFiles(unittest.TestCase):
    def test_version_1_kept_what_was_accepted_as_one_text(self) -> None:
        document = json.loads(GOOD)
        document["version"] = 1
        document["accepted"] = [
            {"finding": finding, "reason": "So it is", "day": "2026-01-01"}
            for finding in (
                "machine.axis-limit:Z:min", "supply.drop:W16", "signals.shield:W16:both ends",
                "ports.wrong-kind:B7:K1 IN 4", "ports.wrong-kind:B7:K99 IN 4", "gone.rule:X:y",
                "ports.crowded-contact:X2:9 1", "signals.level:B7:K1 IN 4:too high",
            )
        ]  # fmt: skip
        machine = decode_machine(json.dumps(document).encode(), "x")
        self.assertEqual(
            [
                "machine.axis-limit:Z:min", "supply.drop:W16", "harness.shield:W16:both ends",
                "ports.wrong-kind:B7:K1 IN 4", "ports.wrong-kind:B7:K99 IN 4", "gone.rule:X:y",
                "ports.crowded-contact:X2:9 1", "signals.level:B7:K1 IN 4:too high",
            ],
            [item.key for item in machine.accepted],
        )  # fmt: skip
        self.assertEqual("Z", machine.accepted[0].about.axis)
        self.assertEqual("W16", machine.accepted[1].at[0].cable)
        self.assertEqual(
            ("K1", "IN 4"), (machine.accepted[3].at[0].device, machine.accepted[3].at[0].port)
        )
        self.assertEqual((), machine.accepted[4].at)
        self.assertIn(b'"version": 2', encode_machine(machine))
        for wrong in ([5], [{"finding": 7}], {"a": 1}, [{"finding": "a:b", "reason": "r"}]):
            document["accepted"] = wrong
            with self.assertRaises(FileProblem):
                decode_machine(json.dumps(document).encode(), "x")


class Saving(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.path = Path(self.folder.name) / "=cmd|' hostile'.vervain"
        self.machine = open_demo("glazing-gantry-as-planned")

    def test_one_item_a_line_and_the_same_bytes_each_time(self) -> None:
        lines = GOOD.decode().splitlines()
        self.assertTrue(any(line.startswith('  {"designator": "M4"') for line in lines))
        save_machine(self.machine, self.path)
        first = self.path.read_bytes()
        save_machine(open_machine(self.path), self.path)
        self.assertEqual(first, self.path.read_bytes())

    def test_the_same_bytes_under_two_hash_seeds(self) -> None:
        code = (
            "import sys, hashlib; from vervain.files.demos import *;"
            "from vervain.exports.tables import all_tables; from vervain.exports.formats import *;"
            "m = open_demo('glazing-gantry-as-found');"
            "print(hashlib.sha256(table_json(m, all_tables(m))).hexdigest())"
        )
        outputs = set()
        for seed in ("1", "2"):
            environment = {**os.environ, "PYTHONHASHSEED": seed, "PYTHONPATH": str(ROOT / "src")}
            done = subprocess.run(
                [sys.executable, "-c", code], env=environment, capture_output=True, check=True
            )
            outputs.add(done.stdout)
        self.assertEqual(1, len(outputs))

    def test_a_failed_save_keeps_the_old_file_and_leaves_nothing_behind(self) -> None:
        save_machine(self.machine, self.path)
        before = self.path.read_bytes()
        real = os.fsync

        def full(_: int) -> None:
            raise OSError(28, "No space left on device")

        os.fsync = full
        try:
            with self.assertRaises(FileProblem) as caught:
                save_machine(replace(self.machine, name="Other"), self.path)
        finally:
            os.fsync = real
        self.assertIn("No space left", str(caught.exception))
        self.assertEqual(before, self.path.read_bytes())
        self.assertEqual([self.path], list(self.path.parent.iterdir()))

    def test_a_folder_that_is_not_there(self) -> None:
        with self.assertRaises(FileProblem):
            save_machine(self.machine, Path(self.folder.name) / "no" / "x.vervain")

    def test_a_link_stays_a_link(self) -> None:
        link = Path(self.folder.name) / "link.vervain"
        save_machine(self.machine, self.path)
        link.symlink_to(self.path)
        save_machine(replace(self.machine, name="Other"), link)
        self.assertTrue(link.is_symlink())
        self.assertEqual("Other", open_machine(self.path).name)

    def test_an_autosave_that_is_broken_is_passed_over(self) -> None:
        save_machine(self.machine, self.path)
        write_autosave(replace(self.machine, name="Newer"), Seat(self.path))
        self.assertEqual("Newer", left_over(self.path).machine.name)
        autosave_path(self.path).write_bytes(b"half a fi")
        self.assertIsNone(left_over(self.path))


class Killed(unittest.TestCase):
    def test_killing_while_saving_over_and_over_leaves_a_whole_file(self) -> None:
        code = (
            "import sys; from pathlib import Path; from msgspec.structs import replace;"
            "from vervain.files.demos import open_demo;"
            "from vervain.files.machine_file import save_machine;"
            "m = open_demo('glazing-gantry-as-planned'); n = 0\n"
            "while True:\n n += 1; save_machine(replace(m, name=f'Saved {n}'), Path(sys.argv[1]))\n"
            " print(n, flush=True)"
        )
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "m.vervain"
            child = subprocess.Popen(
                [sys.executable, "-c", code, str(path)], env=environment, stdout=subprocess.PIPE
            )
            for _ in range(25):
                child.stdout.readline()
            child.kill()
            child.wait()
            child.stdout.close()
            self.assertRegex(open_machine(path).name, r"^Saved \d+$")


class Shipped(unittest.TestCase):
    def test_the_demo_files_are_what_the_script_gives(self) -> None:
        for folder, files, shipped in (
            ("demos", demo_files(), DEMOS),
            ("templates", template_files(), TEMPLATES),
        ):
            for name, machine in files.items():
                with self.subTest(name):
                    data = (DATA / folder / name).read_bytes()
                    self.assertEqual(encode_machine(machine), data)
            self.assertEqual({f"{item.key}.vervain" for item in shipped}, set(files))

    def test_the_demo_is_as_large_as_a_real_machine(self) -> None:
        machine = open_demo("glazing-gantry-as-planned")
        self.assertGreater(len(machine.devices), 40)
        self.assertGreater(sum(len(h.conductors) for h in machine.hookups), 150)

    def test_the_schema_in_the_docs_is_the_one_of_the_types(self) -> None:
        self.assertEqual(schema_text(), (ROOT / "docs/machine-file.schema.json").read_text())

    def test_an_empty_machine_is_a_file_too(self) -> None:
        empty = Machine(name="Empty")
        self.assertEqual(empty, decode_machine(encode_machine(empty), "x"))


class PartFiles(unittest.TestCase):
    def test_short_forms_are_written_out(self) -> None:
        part = shipped_shelf().parts["tarn-mc5"]
        self.assertEqual(5, sum(port.kind == "step and direction" for port in part.ports))
        first, second = part.port("AXIS 1"), part.port("AXIS 2")
        self.assertEqual(28.5, second.at_mm - first.at_mm)
        self.assertEqual(["1", "2", "3", "4"], [pin.id for pin in first.pins])

    def test_faults_name_the_part(self) -> None:
        good = '[[part]]\nid = "p"\nkind = "load"\ntitle = "P"\n'
        port = '[[part.ports]]\nid = "L"\nkind = "load"\nend = "device"\n'
        for text, word in (
            ("[[part]\n", "TOML"),
            (good.replace("load", "lode"), "(p)"),
            (good + "ampere = 3\n", "ampere"),
            (good + "x = inf\n", "inf"),
            (good + port + 'pins = [{ function = "plus", lead = "XX" }]\n', "XX"),
            (
                good
                + port
                + 'pins = [{ id = "1", function = "plus" }, { id = "1", function = "zero" }]',
                "two pins",
            ),
            (good + '[[part.inside]]\ntype = "fuse"\npins = [["A", "1"], ["A", "2"]]\n', "A"),
        ):
            with self.subTest(word), self.assertRaises(FileProblem) as caught:
                decode_parts(text, "mine.toml")
            self.assertIn(word, str(caught.exception))
            self.assertIn("mine.toml", str(caught.exception))

    def test_options_that_rules_read_are_as_rules_read_them(self) -> None:
        driver = '[[part]]\nid = "p"\nkind = "stepper driver"\ntitle = "P"\noptions = [{ %s }]\n'
        current_a = 'id = "current_peak_a", title = "Current", '
        steps = 'id = "microsteps", title = "Steps", choices = ["1", %s]'
        for text, word in (
            (driver % (current_a + 'unit = "mA", maximum = 2000'), "number in A"),
            (driver % (current_a + 'choices = ["1", "2"]'), "number in A"),
            (driver % (steps % '"half"'), "“half”"),
            (driver % 'id = "direction", title = "D", choices = ["forward", "back"]', "“back”"),
            (driver.replace("stepper driver", "lamp") % (steps % '"2"'), "another id"),
        ):
            with self.subTest(word), self.assertRaises(FileProblem) as caught:
                decode_parts(text, "mine.toml")
            self.assertIn(word, str(caught.exception))
        for good in (
            current_a + 'unit = "A", maximum = 2',
            steps % '"2"',
            'id = "mine", title = "M"',
        ):
            self.assertEqual(1, len(decode_parts(driver % good, "mine.toml").part))

    def test_shipped_parts_are_invented_and_fit_together(self) -> None:
        makers = {part.maker for part in shipped_shelf().parts.values()}
        self.assertEqual({"Tarn", "Fell", "Quoin", "Larkmoor", "Osier"}, makers)
