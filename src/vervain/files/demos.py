"""The demonstration machines that ship with Vervain."""

from typing import NamedTuple

from vervain.data import FOLDER
from vervain.files.machine_file import decode_machine
from vervain.machine.machine import Machine


class Demo(NamedTuple):
    """A demonstration: its key on the command line and its words in the window."""

    key: str
    title: str


DEMOS = (
    Demo("glazing-gantry-as-found", "Glazing gantry, as found"),
    Demo("glazing-gantry-as-planned", "Glazing gantry, as planned"),
)


def open_demo(key: str) -> Machine:
    """A demonstration machine by its key."""
    name = f"{key}.vervain"
    data = (FOLDER / "demos" / name).read_bytes()
    return decode_machine(data, name)
