"""The headings of the part shelf, and which kinds of part stand under each."""

from vervain.model.base import Record
from vervain.model.part import DRIVE_KINDS, Part

SHELF_HEADINGS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Switches and sensors", ("switch", "sensor", "hand wheel", "thermistor", "radio receiver")),
    ("Emergency stops", ("emergency stop",)),
    (
        "Motors and servos",
        ("stepper motor", "brushed motor", "three-phase motor", "servo", "brake"),
    ),
    (
        "Drivers",
        ("stepper driver", "motor bridge", *DRIVE_KINDS),
    ),
    ("Encoders", ("encoder", "signal converter")),
    ("Controllers", ("controller",)),
    ("Relays and contactors", ("relay module", "contactor", "solid-state relay")),
    ("Heaters, fans, lamps", ("heater", "fan", "valve", "lamp", "load")),
    ("Supplies, batteries, fuses", ("supply", "battery", "fuse")),
    ("Strips, plugs, jumpers", ("terminal strip", "connector", "jumper", "resistor", "diode")),
)
OWN_HEADING = "My own parts"


class ShelfGroup(Record, frozen=True, kw_only=True):
    """One heading of the shelf and the parts under it."""

    title: str
    parts: tuple[Part, ...]


def shelf_groups(parts: tuple[Part, ...], own_ids: frozenset[str]) -> tuple[ShelfGroup, ...]:
    """Parts under their headings, in the order given; the builder's own under theirs, first."""
    own = tuple(part for part in parts if part.id in own_ids)
    found = [ShelfGroup(title=OWN_HEADING, parts=own)] if own else []
    for title, kinds in SHELF_HEADINGS:
        members = tuple(p for p in parts if p.kind in kinds and p.id not in own_ids)
        if members:
            found.append(ShelfGroup(title=title, parts=members))
    return tuple(found)
