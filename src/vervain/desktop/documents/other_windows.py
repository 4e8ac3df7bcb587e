"""Machines in windows of their own: each in a process of its own, so that none can hang another."""

import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path


def open_in_others(paths: Iterable[Path]) -> None:
    """Opens machine files, each in a window of its own that outlives this one."""
    for path in paths:
        subprocess.Popen(
            [sys.executable, "-m", "vervain", str(path.resolve())], start_new_session=True,
            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
