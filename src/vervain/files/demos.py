"""The demonstration machines and the templates that ship with Vervain."""

from typing import NamedTuple

from vervain.data import FOLDER
from vervain.files.machine_file import decode_machine
from vervain.model.machine import Machine


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
    Shipped(
        "clay-printer-as-found",
        "Clay printer, as found",
        "A board with plug-in drivers, two motors on one slot, a heavy bed; a dozen mistakes.",
    ),
    Shipped("clay-printer-as-planned", "Clay printer, as planned", "The same without them."),
    Shipped(
        "seedling-arm-as-found",
        "Seedling arm, as found",
        "Five joints on a chained feed, a rover under it, all from a battery; a dozen mistakes.",
    ),
    Shipped("seedling-arm-as-planned", "Seedling arm, as planned", "The same without them."),
)
TEMPLATES = (
    Shipped(
        "three-axis-router",
        "Three-axis router",
        "X and Y on belts, Y with two motors, Z on a screw; switches, stop, drivers, supplies.",
    ),
    Shipped(
        "printer",
        "Printer",
        "X, Y, Z with two motors, an extruder; heated bed, thermistors, a board with slots.",
    ),
    Shipped(
        "five-joint-arm",
        "Five-joint arm",
        "Joints with encoders and home switches, a gripper servo, drivers, a battery.",
    ),
    Shipped("rover", "Rover", "Two driven sides on a bridge, a radio receiver, a battery."),
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
