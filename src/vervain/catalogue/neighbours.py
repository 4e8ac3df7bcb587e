"""What a pin is where its own name does not say it: by the names, functions and colours of those
beside it.
"""

import re
from collections import Counter

from msgspec.structs import replace

from vervain.catalogue.joined import JoinedRow
from vervain.catalogue.manual import ALTERNATING
from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction

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
ZERO = re.compile(r"^(?:0\s?V|GND|-|N|\u2212)$", re.I)
COIL = re.compile(r"^(?P<stem>[A-Z]{0,2}\d?)(?P<sign>[+-])$", re.I)
CHANNELS: dict[str, PinFunction] = {"a": "encoder A", "b": "encoder B", "z": "encoder Z"}
# What a hand wheel selects: an axis, or how far a click goes.
SELECTED = re.compile(r"^(?:[XYZ456]|X10{0,3})$", re.I)
STEP = re.compile(r"^(?:STEP|STP|PUL|PULSE)", re.I)
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
    if kind in DRIVE_KINDS:
        rows = _channels(rows)
    if kind in MOTORS_WITH_ENCODERS:
        return _commutation(rows)
    if kind == "hand wheel":
        return _selectors(rows)
    if kind == "stepper driver":
        return _one_step(rows)
    return _of_a_switch(rows) if kind == "sensor" else rows


def _of_a_supply(rows: Rows) -> Rows:
    """At a supply for the mains that has a minus of its own, GND is the protective earth; where it
    has none, COM is the minus.
    """
    used = [row for row in rows if row.is_used]
    functions = {row.function for row in used}
    grounds = [row for row in used if row.function == "zero" and GROUND.match(row.name)]
    minuses = [row for row in used if row.function == "zero" and row not in grounds]
    by_current = [row for row in used if row.name.casefold() in ALTERNATING]
    if len(by_current) == 2 and not functions & {"line", "neutral"}:
        ends: dict[int, PinFunction] = {id(by_current[0]): "line", id(by_current[1]): "neutral"}
        rows = tuple(
            replace(row, function=ends[id(row)], marks=()) if id(row) in ends else row
            for row in rows
        )
        return _of_a_supply(rows)
    alone = {row.port for row in used if row.function == "line"}
    alone -= {row.port for row in used if row.function in ("neutral", "pe")}
    if alone:
        # An L by itself is no line of the mains.
        rows = tuple(
            replace(row, function=None)
            if row.port in alone and row.function == "line" else row
            for row in rows
        )  # fmt: skip
        return _of_a_supply(rows)
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
    minuses = [row for row in used if row.function == "load-"]
    if len(minuses) == len(used) > 2:
        # With a common minus each colour is a plus.
        common = [row for row in minuses if ZERO.match(row.name)]
        return (
            tuple(
                replace(row, function="load+") if row in minuses and row not in common else row
                for row in rows
            )
            if len(common) == 1
            else rows
        )
    if coils := _coils(used):
        return tuple(coils.get(id(row), row) for row in rows)
    if len(used) != 2 or any(row.function or row.name for row in used):
        return rows
    first, second = used
    if (first.colour, second.colour) in (("BK", "RD"), ("BU", "RD"), ("BU", "BN")):
        first, second = second, first
    ends: dict[int, PinFunction] = {id(first): "load+", id(second): "load-"}
    return tuple(
        replace(row, function=ends[id(row)], marks=()) if id(row) in ends else row for row in rows
    )


def _coils(used: list[JoinedRow]) -> dict[int, JoinedRow]:
    """The ends of several coils, A+ A− B+ B−, each at a plug of its own, by the rows that they
    were; none of a part with one.
    """
    ends = [(row, match) for row in used if not row.port and (match := COIL.match(row.name))]
    count = Counter((match["stem"], match["sign"]) for _, match in ends)
    stems = {stem for stem, _ in count}
    if len(ends) < len(used) or len(stems) < 2 or len(count) != 2 * len(stems):
        return {}
    if set(count.values()) != {1}:
        return {}
    signs: dict[str, PinFunction] = {"+": "load+", "-": "load-"}
    return {
        id(row): replace(row, port=match["stem"], function=signs[match["sign"]], marks=())
        for row, match in ends
    }


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


def _channels(rows: Rows) -> Rows:
    """A and B, with Z or without, beside a plus and a 0 V are an encoder's channels, whatever
    number they have: A0 B0 Z0.
    """
    by_port: dict[str, set[str]] = {}
    for row in rows:
        by_port.setdefault(row.port, set()).add(_letter(row.name))
    found = []
    for row in rows:
        letters, letter = by_port[row.port], _letter(row.name)
        is_fed = {"plus", "zero"} <= {r.function for r in rows if r.port == row.port}
        told = CHANNELS.get(letter) if {"a", "b"} <= letters and "c" not in letters else None
        found.append(replace(row, function=told, marks=()) if told and is_fed else row)
    return tuple(found)


def _letter(name: str) -> str:
    return name.casefold().rstrip("0123456789")


def _selectors(rows: Rows) -> Rows:
    """Beside X1 and X10 the letters of a hand wheel are those of the axes that it selects."""
    names = {row.name.casefold() for row in rows}
    if not {"x1", "x10"} <= names:
        return rows
    return tuple(
        replace(row, function="none", marks=()) if SELECTED.match(row.name) else row for row in rows
    )


def _one_step(rows: Rows) -> Rows:
    """Beside STEP a clock is that of something else."""
    has_step = any(row.function == "step" and STEP.match(row.name) for row in rows)
    return tuple(
        replace(row, function="none")
        if has_step and row.function == "step" and not STEP.match(row.name) else row
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
