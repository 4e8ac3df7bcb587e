"""The command line as others meet it: pipes, full disks, Ctrl+C, poor encodings, hostile names."""

import json
import os
import pty
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from msgspec.structs import replace

from build_demos import DATA
from tests import ROOT, small
from tests.test_cli import run
from tests.timing import PATIENCE_S
from vervain.files.demos import open_demo
from vervain.files.machine_file import encode_machine, open_machine, save_machine
from vervain.terminal import shown

FOUND = DATA / "demos" / "seedling-arm-as-found.vervain"


class CommandLine(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        # A fan that is fed the wrong way round, and one that is right.
        self.wrong, self.right = self.folder / "wrong.vervain", self.folder / "right.vervain"
        save_machine(small.fan("1-− 2-+"), self.wrong)
        save_machine(small.fan(), self.right)
        self.environment = {
            **os.environ, "PYTHONPATH": str(ROOT / "src"), "XDG_STATE_HOME": folder.name,
            "XDG_CONFIG_HOME": folder.name, "XDG_DATA_HOME": folder.name,
        }  # fmt: skip

    def start(self, *arguments: object, **given) -> subprocess.Popen:
        given.setdefault("stdout", subprocess.PIPE)
        return subprocess.Popen(
            [sys.executable, "-m", "vervain", *map(str, arguments)],
            env=given.pop("env", self.environment), stderr=subprocess.PIPE, **given,
        )  # fmt: skip

    def finish(self, child: subprocess.Popen) -> tuple[int, bytes, str]:
        out, err = child.communicate(timeout=60)
        return child.returncode, out, err.decode()


class Pipes(CommandLine):
    def test_a_pipe_that_is_closed_early_changes_no_exit_status(self) -> None:
        for path, status in ((self.wrong, 1), (self.right, 0)):
            child = self.start("check", path)
            child.stdout.close()
            child.stdout = None
            self.assertEqual((status, None, ""), self.finish(child))

    def test_a_full_disk_and_a_closed_output_are_told_in_words(self) -> None:
        right = self.right
        for arguments in (("check", right), ("table", right, "--as", "csv"), ("rules",)):
            with Path("/dev/full").open("wb") as full, self.subTest(arguments[0]):
                status, _, err = self.finish(self.start(*arguments, stdout=full))
                self.assertEqual(2, status)
                self.assertIn("No space left", err)
                self.assertNotIn("Traceback", err)
        shell = f"{sys.executable} -m vervain table {self.right} --as csv >&-"
        done = subprocess.run(shell, shell=True, env=self.environment, capture_output=True)
        self.assertEqual(2, done.returncode)
        self.assertIn(b"Standard output is closed", done.stderr)

    def test_a_machine_comes_through_a_pipe(self) -> None:
        child = self.start("check", "-", stdin=subprocess.PIPE)
        out, _ = child.communicate(self.wrong.read_bytes(), timeout=60)
        self.assertEqual(1, child.returncode)
        self.assertIn(b"M1", out)
        os.mkfifo(self.folder / "pipe.vervain")
        self.assertEqual(2, run("check", self.folder / "pipe.vervain")[0])

    def test_a_poor_encoding_shows_what_it_cannot_write(self) -> None:
        poor = {**self.environment, "PYTHONIOENCODING": "ascii:strict"}
        status, out, err = self.finish(self.start("check", self.wrong, env=poor))
        self.assertEqual((1, ""), (status, err))
        self.assertTrue(out.isascii())
        odd = self.folder / os.fsdecode(b"\xff\xe9.vervain")
        odd.write_bytes(self.right.read_bytes())
        status, out, err = self.finish(self.start("place", odd, "--to", odd))
        self.assertEqual((0, ""), (status, err))

    def test_ctrl_c_is_quiet_at_any_moment_and_leaves_nothing_half_written(self) -> None:
        to = self.folder / "out.vervain"
        # On a fresh machine our modules are compiled the first time.
        self.finish(self.start("--version"))
        for wait_s in (0, 0.05, 0.15, 0.3, 0.5, 0.8):
            child = self.start("place", FOUND, "--to", to)
            wait_for_our_first_line(child)
            time.sleep(wait_s)
            child.send_signal(signal.SIGINT)
            status, _, err = self.finish(child)
            with self.subTest(wait_s):
                self.assertEqual("", err)
                self.assertIn(status, (-signal.SIGINT, 0))
                self.assertEqual([], list(self.folder.glob("*.saving")))
                if to.exists():
                    open_machine(to)

    def test_ctrl_c_that_falls_into_a_callback_of_python_is_not_lost(self) -> None:
        code = (
            "import signal, sys, weakref; from unittest import mock; import vervain.cli as cli\n"
            "class Kept: pass\n"
            "def run(arguments):\n"
            "    kept = Kept()\n"
            "    last = weakref.ref(kept, lambda _: signal.raise_signal(signal.SIGINT))\n"
            "    del kept\n"
            "    import time; time.sleep(20)\n"
            "    print('went on')\n"
            "from vervain.entry import main\n"
            "with mock.patch.object(cli, 'run', run): sys.exit(main([]))"
        )
        done = subprocess.run(
            [sys.executable, "-c", code], env=self.environment, capture_output=True, text=True
        )
        self.assertEqual((-signal.SIGINT, "", ""), (done.returncode, done.stdout, done.stderr))

    def test_a_bug_has_a_status_of_its_own(self) -> None:
        code = (
            "import sys; from unittest import mock; import vervain.api as api\n"
            "from vervain.entry import main\n"
            "with mock.patch.object(api, 'check', side_effect=ZeroDivisionError()):\n"
            "    sys.exit(main(['check', sys.argv[1]]))"
        )
        done = subprocess.run(
            [sys.executable, "-c", code, str(self.wrong)], env=self.environment, capture_output=True
        )
        self.assertEqual(70, done.returncode)
        self.assertIn(b"bug in Vervain", done.stderr)


def wait_for_our_first_line(child: subprocess.Popen) -> None:
    """Waits until Ctrl+C no longer ends in Python's own traceback: while Python starts it catches
    the signal, our first line leaves it to the kernel.
    """
    was_caught = False
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until and child.poll() is None:
        status = Path(f"/proc/{child.pid}/status").read_text()
        caught = int(next(row for row in status.splitlines() if row.startswith("SigCgt"))[7:], 16)
        is_caught = bool(caught >> (signal.SIGINT - 1) & 1)
        if was_caught and not is_caught:
            return
        was_caught = was_caught or is_caught
        time.sleep(0.001)


class Words(CommandLine):
    def test_what_is_done_is_shown_where_it_is_asked_for(self) -> None:
        for words, told in (([], False), (["--verbose"], True)):
            status, out, err = run(*words, "check", str(self.wrong))
            self.assertEqual(1, status)
            self.assertIn("findings", out)
            self.assertEqual(told, "opened" in err and "checked in" in err)

    def test_a_mistyped_command_is_told_instead_of_opening_a_window(self) -> None:
        for typed, meant in (("chek", "check"), ("tabel", "table"), ("version", "versions")):
            status, _, err = run(typed)
            self.assertEqual(2, status)
            self.assertIn(f"Did you mean “{meant}”?", err)
        self.assertIn("Commands are check", run("zzzzzz")[2])

    def test_names_never_steer_the_terminal(self) -> None:
        hostile = "X\x1b]0;OWNED\x07\x9b31m\u202eabc\r"
        machine = small.fused_fan(20)
        devices = tuple(replace(device, name=hostile) for device in machine.devices)
        path = self.folder / "m.vervain"
        save_machine(replace(machine, name=hostile, devices=devices), path)
        for arguments in (("check", path), ("table", path, "--as", "csv"), ("supply", path)):
            ours, theirs = pty.openpty()
            child = self.start(*arguments, stdout=theirs)
            os.close(theirs)
            seen = b""
            while chunk := read_terminal(ours):
                seen += chunk
            os.close(ours)
            self.assertEqual("", self.finish(child)[2])
            with self.subTest(arguments[0]):
                self.assertGreater(len(seen), 100)
                for steering in (b"\x1b", b"\x07", b"\xc2\x9b", "\u202e".encode()):
                    self.assertNotIn(steering, seen)
        self.assertEqual("X\\x1b]\t\n\\u202e", shown("X\x1b]\t\n\u202e"))
        plain = self.finish(self.start("check", path, "--json"))[1]
        self.assertIn(hostile, json.loads(plain)["machine"])

    def test_versions_are_listed_compared_and_taken_back(self) -> None:
        path, machine = self.folder / "m.vervain", open_demo("glazing-gantry-as-planned")
        for name in ("First", "Second"):
            source = self.folder / "source.vervain"
            source.write_bytes(encode_machine(replace(machine, name=name)))
            self.assertEqual(0, self.finish(self.start("place", source, "--to", path))[0])
        status, out, err = self.finish(self.start("versions", path))
        self.assertEqual((0, ""), (status, err))
        self.assertIn("0 changes since", out.decode())
        self.assertIn("The machine is called “Second”", out.decode())
        listed = json.loads(self.finish(self.start("versions", path, "--json"))[1])
        self.assertEqual([1, 2], [row["number"] for row in listed])
        back = self.folder / "back.vervain"
        self.finish(self.start("versions", path, "--take", 2, "--to", back))
        self.assertEqual("First", open_machine(back).name)
        status, _, err = self.finish(self.start("versions", path, "--take", 9, "--to", back))
        self.assertEqual(2, status)
        self.assertIn("There is no version 9", err)


def read_terminal(handle: int) -> bytes:
    """What a terminal shows next; nothing at its end."""
    try:
        return os.read(handle, 65536)
    except OSError:
        return b""
