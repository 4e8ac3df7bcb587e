"""Commands run with a display of their own: Xvfb, which takes a free number."""

import os
import subprocess
import unittest

from tests import ROOT
from tests.timing import PATIENCE_S


def on_a_display(
    case: unittest.TestCase, command: list[str], **more: str
) -> subprocess.CompletedProcess:
    """Runs a command to its end; the case fails where it does."""
    environment = {
        **os.environ,
        "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
        "QT_QPA_PLATFORM": "xcb",
        "XDG_STATE_HOME": "/nonexistent-state",
        **more,
    }
    with subprocess.Popen(
        ["Xvfb", "-displayfd", "1", "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
    ) as server:
        try:
            display = server.stdout.readline().decode().strip()
            environment["DISPLAY"] = f":{display}"
            done = subprocess.run(
                command, env=environment, capture_output=True, text=True, timeout=PATIENCE_S * 4
            )
        finally:
            server.terminate()
    case.assertEqual(0, done.returncode, done.stderr)
    return done
