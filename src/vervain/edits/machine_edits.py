"""Edits of the machine as a whole."""

from msgspec.structs import replace

from vervain.model.machine import Machine
from vervain.model.problem import Problem

LONGEST_NAME = 80


def rename_machine(machine: Machine, name: str) -> Machine:
    """Gives the machine another name. Raises `Problem`."""
    cleaned = " ".join(name.split())
    if not 1 <= len(cleaned) <= LONGEST_NAME:
        raise Problem(f"A name has 1 to {LONGEST_NAME} characters.", place=machine.name)
    return replace(machine, name=cleaned)
