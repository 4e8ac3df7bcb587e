"""The demonstration machines and the templates that ship with Vervain."""

from typing import NamedTuple

from vervain.data import FOLDER
from vervain.files.machine_file import decode_machine
from vervain.machine.machine import Machine


class Shipped(NamedTuple):
    """A machine that ships: its key, its words in the window, and what it is."""

    key: str
    title: str
    note: str


DEMOS = (
    Shipped(
        "glazing-gantry-as-found",
        "Glazing gantry, as found",
        "A gantry that sprays glaze, with a dozen mistakes of a real box.",
    ),
    Shipped("glazing-gantry-as-planned", "Glazing gantry, as planned", "The same without them."),
)
TEMPLATES = (
    Shipped(
        "three-axis-router",
        "Three-axis router",
        "X and Y on belts, Y with two motors, Z on a screw; switches, stop, drivers, supplies.",
    ),
)


def open_demo(key: str) -> Machine:
    """A demonstration machine by its key."""
    return _shipped("demos", key)


def open_template(key: str) -> Machine:
    """A template by its key: axes and parts, joined to nothing yet."""
    return _shipped("templates", key)


def _shipped(folder: str, key: str) -> Machine:
    name = f"{key}.vervain"
    return decode_machine((FOLDER / folder / name).read_bytes(), name)
