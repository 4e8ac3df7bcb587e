"""What a pin is where its own name does not say it: by the names, functions and colours of those
beside it.
"""

import re

from msgspec.structs import replace

from vervain.catalogue.joined import JoinedRow
from vervain.model.part import PartKind, PinFunction

Rows = tuple[JoinedRow, ...]
# The leads of proximity switches (IEC 60947-5-2, table of lead colours): white is the second output
# of those that have two.
LEADS_OF_SWITCHES: dict[str, PinFunction] = {
    "BN": "plus", "BU": "zero", "BK": "signal", "WH": "signal",
}  # fmt: skip
# Parts that take power at two leads, whatever they do with it.
LOADS: tuple[PartKind, ...] = (
    "brushed motor", "brake", "fan", "heater", "lamp", "valve", "load",
)  # fmt: skip
# Boards that print V, G and S at their small plugs.
BOARDS: tuple[PartKind, ...] = ("controller", "relay module", "motor bridge", "signal converter")
LETTERS: dict[str, PinFunction] = {"v": "plus", "g": "zero", "s": "signal"}
PHASES: dict[str, PinFunction] = {
    "a": "phase U", "b": "phase V", "c": "phase W", "u": "phase U", "v": "phase V", "w": "phase W",
}  # fmt: skip
THREE = ({"a", "b", "c"}, {"u", "v", "w"})
MOTORS_WITH_ENCODERS: tuple[PartKind, ...] = ("three-phase motor", "stepper motor", "servo drive")
# The channels by which an encoder tells how the rotor stands, as Hall sensors do.
COMMUTATION: dict[str, PinFunction] = {
    "u+": "hall U", "v+": "hall V", "w+": "hall W", "u-": "none", "v-": "none", "w-": "none",
}  # fmt: skip
GROUND = re.compile(r"^(?:gnd|ground|g|⏚|\W?earth)$", re.I)


def told_by_others(rows: Rows, kind: PartKind) -> Rows:
    """The rows of a part; what those beside it tell of a pin is its function."""
    if kind == "supply":
        return _of_a_supply(rows)
    if kind in LOADS:
        return _of_a_load(rows)
    if kind == "switch":
        return _of_a_contact(rows)
    if kind in BOARDS:
        return _lettered(rows, kind)
    if kind in MOTORS_WITH_ENCODERS:
        return _commutation(rows)
    return _of_a_switch(rows) if kind == "sensor" else rows


def _of_a_supply(rows: Rows) -> Rows:
    """At a supply for the mains that has a minus of its own, GND is the protective earth; where it
    has none, COM is the minus.
    """
    used = [row for row in rows if row.is_used]
    functions = {row.function for row in used}
    grounds = [row for row in used if row.function == "zero" and GROUND.match(row.name)]
    minuses = [row for row in used if row.function == "zero" and row not in grounds]
    if "line" in functions and "pe" not in functions and len(grounds) == 1 and minuses:
        return tuple(replace(row, function="pe") if row is grounds[0] else row for row in rows)
    if "plus" in functions and "zero" not in functions:
        return tuple(
            replace(row, function="zero") if row.function == "com" else row for row in rows
        )
    return rows


def _of_a_load(rows: Rows) -> Rows:
    """Of two leads without a word, red is the plus and black the minus; else the first and the
    second, as those of a coil or a heater are that minds no polarity.
    """
    used = [row for row in rows if row.is_used]
    if len(used) != 2 or any(row.function or row.name for row in used):
        return rows
    first, second = used
    if (first.colour, second.colour) in (("BK", "RD"), ("BU", "RD"), ("BU", "BN")):
        first, second = second, first
    ends: dict[int, PinFunction] = {id(first): "load+", id(second): "load-"}
    return tuple(
        replace(row, function=ends[id(row)], marks=()) if id(row) in ends else row for row in rows
    )


def _of_a_contact(rows: Rows) -> Rows:
    """Of a contact with two leads it is enough to say at one what it does."""
    used = [row for row in rows if row.is_used]
    told = [row for row in used if row.function in ("no", "nc")]
    if len(used) != 2 or len(told) != 1:
        return rows
    return tuple(
        replace(row, function="com", marks=()) if row in used and row.function is None else row
        for row in rows
    )


def _lettered(rows: Rows, kind: PartKind) -> Rows:
    """V, G and S at one plug are its plus, its 0 V and its signal, where no U says that V is a
    phase; three terminals alone are those of a brushless motor.
    """
    names: dict[str, set[str]] = {}
    for row in rows:
        names.setdefault(row.port, set()).add(row.name.casefold())
    rows = tuple(
        replace(row, function=PHASES[row.name.casefold()], marks=())
        if kind == "motor bridge" and names[row.port] in THREE and row.name.casefold() in PHASES
        else row
        for row in rows
    )
    return tuple(
        replace(row, function=LETTERS[row.name.casefold()], marks=())
        if row.name.casefold() in LETTERS and "g" in names[row.port] and "u" not in names[row.port]
        else row
        for row in rows
    )


def _commutation(rows: Rows) -> Rows:
    """U+ to W− beside the channels of an encoder."""
    names: dict[str, set[str]] = {}
    for row in rows:
        names.setdefault(row.port, set()).add(row.name.casefold())
    return tuple(
        replace(row, function=COMMUTATION[row.name.casefold()], marks=())
        if row.name.casefold() in COMMUTATION and _has_rotor(names[row.port]) else row
        for row in rows
    )  # fmt: skip


def _has_rotor(names: set[str]) -> bool:
    """Whether a plug tells both how far the rotor has turned, and how it stands."""
    return {"u+", "w+"} <= names and bool({"a+", "pa+", "ea+"} & names)


def _of_a_switch(rows: Rows) -> Rows:
    """Of a proximity switch of which only the colours are told, what the standard has them for."""
    used = [row for row in rows if row.is_used]
    colours = [row.colour for row in used]
    if any(row.function for row in used) or len(set(colours)) < len(colours):
        return rows
    if not {"BN", "BU", "BK"} <= set(colours) <= set(LEADS_OF_SWITCHES):
        return rows
    return tuple(
        replace(row, function=LEADS_OF_SWITCHES[row.colour], marks=())
        if row.is_used and row.colour else row
        for row in rows
    )  # fmt: skip
