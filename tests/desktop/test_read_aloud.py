"""What a real AT-SPI client is told of the window, from outside, on a session bus of its own."""

import json
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from tests import ROOT
from tests.desktop.read_aloud import BUS_LAUNCHER, SYSTEM_PYTHON
from tests.desktop.real_display import on_a_display

LIBRARY = "import gi; gi.require_version('Atspi', '2.0'); from gi.repository import Atspi"


def has_client() -> bool:
    """Whether the system has a bus, its accessibility service, and the client's library."""
    if not (shutil.which("Xvfb") and shutil.which("dbus-run-session")):
        return False
    if not (Path(BUS_LAUNCHER).exists() and Path(SYSTEM_PYTHON).exists()):
        return False
    return subprocess.run([SYSTEM_PYTHON, "-c", LIBRARY], capture_output=True).returncode == 0


@unittest.skipUnless(has_client(), "at-spi2-core, python3-gi or gir1.2-atspi-2.0 is not installed")
class ReadAloud(unittest.TestCase):
    def test_a_screen_reader_follows_keys_on_every_stage(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            command = ["dbus-run-session", "--", sys.executable,
                       str(ROOT / "tests/desktop/read_aloud.py"), f"{folder}/s.ini"]  # fmt: skip
            done = on_a_display(
                self, command, QT_LINUX_ACCESSIBILITY_ALWAYS_ON="1", XDG_RUNTIME_DIR=folder
            )
        told = json.loads(done.stdout)
        for area, steps in told.items():
            with self.subTest(area):
                self.assertEqual([], [role for step in steps for role in step["nameless"]])
                words = [[(n["name"], n["description"]) for n in step["focused"]] for step in steps]
                self.assertTrue(all(words), "What has the keyboard has a name.")
                if area not in ("Leads", "Rail"):
                    self.assertNotEqual(words[0], words[1], "An arrow changes what is told.")

        def first(area: str, step: int) -> str:
            return told[area][step]["focused"][0]["description"]

        self.assertEqual("K1 AXIS 1: step and direction, T1", first("Ports", 1))
        self.assertRegex(first("Supply", 1), r"^B10 .*takes 0\.012 A")
        self.assertRegex(first("Stops", 1), "^source G2.*Motion power: on$")
        self.assertRegex(first("Bench", 1), r"^2\. Look at T1")
        self.assertRegex(first("Leads", 0), r"^M1, Reading 1: probe BK and GN")
        self.assertRegex(first("Tray", 0), "^T1 X driver, wired")
        self.assertRegex(first("Rail", 0), "^Bench: no finding, 0% settled")
