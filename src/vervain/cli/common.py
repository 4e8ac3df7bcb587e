"""What the commands share: exit statuses, reading and writing a machine, the log."""

import argparse
import logging
import sys
import time
from pathlib import Path
from typing import TypeAlias

from vervain.cli.kept_rules import kept_rules
from vervain.files.machine_file import decode_machine
from vervain.files.reading import read_bytes
from vervain.files.saving import save_document
from vervain.files.writing import write_whole
from vervain.model.machine import Machine

Commands: TypeAlias = "argparse._SubParsersAction[argparse.ArgumentParser]"
CLEAN, FOUND = 0, 1

log = logging.getLogger("vervain")


def read_machine(path: Path) -> Machine:
    """The machine in a file, or on standard input for `-`; what the shell hands over as a pipe is
    read as well. Raises `FileProblem`.
    """
    began = time.monotonic()
    if str(path) == "-":
        path = Path("/dev/stdin")
    from_shell = str(path).startswith(("/dev/", "/proc/"))
    machine = decode_machine(read_bytes(path, pipes=from_shell), str(path))
    log.info("opened %s in %.2f s", path, time.monotonic() - began)
    return machine


def write_machine(machine: Machine, path: Path) -> None:
    """Writes a machine file; what was there becomes a version. Raises `FileProblem`."""
    saved = save_document(machine, path, None, kept_rules(), replaces=True)
    if saved.unkept:
        print(saved.unkept, file=sys.stderr)
    log.info("saved %s", path)


def write_out(data: bytes, path: Path | None) -> None:
    """Writes to a file, or to standard output. Raises `FileProblem`."""
    if path is None:
        sys.stdout.buffer.write(data)
        return
    write_whole(path, data)
    log.info("exported %s", path)
