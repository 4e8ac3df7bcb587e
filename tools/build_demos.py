"""Writes the demonstration machines and templates in src/vervain/data from the shipped parts.

They are ordinary machine files; this script is how they were made and how they are renewed
when a part changes. `tests/files` checks that the files are what the script gives.
"""

import sys
from pathlib import Path

import arm
import gantry
import printer
from templates import template_files
from vervain.files.machine_file import encode_machine
from vervain.model.machine import Machine

DATA = Path(__file__).resolve().parent.parent / "src/vervain/data"


def demo_files() -> dict[str, Machine]:
    """Every demonstration by its file name."""
    found: dict[str, Machine] = {}
    for name, demo in (
        ("glazing-gantry", gantry),
        ("clay-printer", printer),
        ("seedling-arm", arm),
    ):
        planned = demo.as_planned()
        found[f"{name}-as-planned.vervain"] = planned
        found[f"{name}-as-found.vervain"] = demo.as_found(planned)
    return found


def main() -> int:
    for folder, files in (("demos", demo_files()), ("templates", template_files())):
        for name, machine in files.items():
            (DATA / folder / name).write_bytes(encode_machine(machine))
            print(f"{name}: {len(machine.devices)} devices")
    return 0


if __name__ == "__main__":
    sys.exit(main())
