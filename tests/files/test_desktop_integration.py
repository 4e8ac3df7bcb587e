"""Vervain among the programs of a desktop: what is put in, taken away, and judged by its tools."""

import io
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path

from tests import ROOT
from vervain.cli import command_parser
from vervain.entry import main
from vervain.files.desktop_integration import (
    SHIPPED,
    install,
    placed_files,
    quoted,
    remove,
    user_folder,
)
from vervain.files.problems import FileProblem


def tool(name: str) -> str:
    found = shutil.which(name)
    if found is None:
        raise unittest.SkipTest(f"{name} is not installed here")
    return found


def said_by(*command: str) -> tuple[int, str]:
    done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    return done.returncode, done.stdout + done.stderr


class Installing(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "share"

    def files(self) -> list[str]:
        return sorted(
            str(p.relative_to(self.folder)) for p in self.folder.rglob("*") if p.is_file()
        )

    def test_everything_goes_in_once_more_over_itself_and_out_again(self) -> None:
        for _ in range(2):
            self.assertEqual(len(placed_files()), len(install(self.folder, ("vervain",))))
        mine = {placed.target for placed in placed_files()}
        self.assertLessEqual(mine, set(self.files()))
        other = self.folder / "applications/other.desktop"
        other.write_text("[Desktop Entry]\n", "utf-8")
        self.assertEqual(len(mine), len(remove(self.folder)))
        self.assertFalse(mine & set(self.files()))
        self.assertTrue(other.exists())
        self.assertEqual([], remove(self.folder))

    def test_the_command_line_says_where(self) -> None:
        with redirect_stdout(io.StringIO()) as out:
            self.assertEqual(0, main(["desktop", "install", "--to", str(self.folder)]))
            self.assertEqual(0, main(["desktop", "remove", "--to", str(self.folder)]))
        self.assertIn(str(self.folder), out.getvalue())

    def test_a_folder_that_cannot_be_written_is_told(self) -> None:
        self.folder.write_text("a file in the way", "utf-8")
        with self.assertRaises(FileProblem) as caught:
            install(self.folder, ("vervain",))
        self.assertIn(str(self.folder), str(caught.exception))

    def test_commands_are_quoted_as_the_specification_says(self) -> None:
        for plain, written in (
            ("/usr/bin/vervain", "/usr/bin/vervain"), ("/opt/my tools/v", '"/opt/my tools/v"'),
            ("/a/b%c", "/a/b%%c"), ('/a/"b', '"/a/\\\\"b"'), ("/a/$b", '"/a/\\\\$b"'),
        ):  # fmt: skip
            self.assertEqual(written, quoted(plain))

    def test_the_users_folder_is_the_one_of_the_base_directories(self) -> None:
        before = os.environ.pop("XDG_DATA_HOME", None)
        try:
            self.assertEqual(Path.home() / ".local/share", user_folder())
            os.environ["XDG_DATA_HOME"] = "/somewhere"
            self.assertEqual(Path("/somewhere"), user_folder())
            os.environ["XDG_DATA_HOME"] = "not/absolute"
            self.assertEqual(Path.home() / ".local/share", user_folder())
        finally:
            os.environ.pop("XDG_DATA_HOME", None)
            if before is not None:
                os.environ["XDG_DATA_HOME"] = before

    def test_the_desktops_own_tools_have_nothing_to_say(self) -> None:
        install(self.folder, ("/opt/my tools/vervain",))
        status, said = said_by(
            tool("desktop-file-validate"), str(self.folder / "applications/vervain.desktop")
        )
        self.assertEqual((0, ""), (status, said))

    def test_the_metainfo_is_valid(self) -> None:
        _, said = said_by(
            tool("appstreamcli"), "validate", "--no-net", str(SHIPPED / "vervain.metainfo.xml")
        )
        told = [line for line in said.splitlines() if line.startswith(("E:", "W:"))]
        # It has no domain of its own that its identity could be turned round from.
        self.assertEqual(["W: vervain.desktop:3: cid-desktopapp-is-not-rdns vervain.desktop"], told)

    def test_a_machine_is_known_by_its_name_and_by_its_first_words(self) -> None:
        install(self.folder, ("vervain",))
        status, said = said_by(tool("update-mime-database"), "-V", str(self.folder / "mime"))
        self.assertEqual(0, status, said)
        self.assertNotIn("Error", said)
        machine = self.folder / "without-ending"
        shutil.copy(ROOT / "src/vervain/data/demos/clay-printer-as-found.vervain", machine)
        magic = (self.folder / "mime/magic").read_bytes()
        self.assertIn(b"application/x-vervain-machine", magic)
        self.assertIn(b'"format": "vervain machine"', magic)
        self.assertIn(b'"format": "vervain machine"', machine.read_bytes()[:64])


class MadeFromTheParser(unittest.TestCase):
    def test_manual_and_completion_name_every_command(self) -> None:
        manual = (SHIPPED / "vervain.1").read_text("utf-8")
        shells = [(SHIPPED / f"vervain.{shell}").read_text("utf-8") for shell in ("bash", "zsh")]
        action = next(a for a in command_parser()._actions if a.choices)
        for name in action.choices:
            with self.subTest(name):
                self.assertIn(name, manual)
                self.assertTrue(all(name in text for text in shells))

    def test_they_are_those_of_today(self) -> None:
        code = (
            "import make_docs, sys; "
            "sys.exit(any(p.read_text('utf-8') != t for p, t in make_docs.shell_files().items()))"
        )
        done = subprocess.run(
            [sys.executable, "-c", code], cwd=ROOT, timeout=60, check=False,
            env={**os.environ, "PYTHONPATH": f"{ROOT / 'tools'}:{ROOT / 'src'}"},
        )  # fmt: skip
        self.assertEqual(0, done.returncode, "run tools/make_docs.py")

    def test_bash_takes_the_completion(self) -> None:
        status, said = said_by(tool("bash"), "-n", str(SHIPPED / "vervain.bash"))
        self.assertEqual((0, ""), (status, said))
