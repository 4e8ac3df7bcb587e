"""What a pin is where its own name does not say it: by the names, functions and colours of those
beside it.
"""

import re
from collections import Counter
from collections.abc import Callable, Mapping

from msgspec.structs import replace

from vervain.catalogue.manual import ALTERNATING
from vervain.catalogue.pin_rows import JoinedRow
from vervain.catalogue.port_words import port_words
from vervain.catalogue.terminal_numbers import WITH_CONTACTS, contacts_among
from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction

Rows = tuple[JoinedRow, ...]
# The leads of servos, by the usage of the trade: brown or black, red, and the third.
LEADS_OF_SERVOS: dict[str, PinFunction] = {
    "BN": "zero", "BK": "zero", "RD": "plus", "OG": "signal", "YE": "signal", "WH": "signal",
}  # fmt: skip
# The leads of proximity switches (IEC 60947-5-2, table of lead colours): white is the second output
# of those that have two.
LEADS_OF_SWITCHES: dict[str, PinFunction] = {
    "BN": "plus", "BU": "zero", "BK": "signal", "WH": "signal",
}  # fmt: skip
# Parts that take power at two leads, whatever they do with it.
TWO_LEAD_LOADS: tuple[PartKind, ...] = (
    "brushed motor", "brake", "fan", "heater", "lamp", "valve", "load",
)  # fmt: skip
# Boards that print V, G and S at their small plugs.
BOARDS: tuple[PartKind, ...] = ("controller", "relay module", "motor bridge", "signal converter")
LETTERS: dict[str, PinFunction] = {"v": "plus", "g": "zero", "s": "signal"}
PHASES: dict[str, PinFunction] = {
    "a": "phase U", "b": "phase V", "c": "phase W", "u": "phase U", "v": "phase V", "w": "phase W",
}  # fmt: skip
THREE_LINES: tuple[dict[str, PinFunction | None], ...] = (
    {"r": "line", "s": "none", "t": "neutral"}, {"l1": "line", "l2": "neutral", "l3": "none"},
)  # fmt: skip
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
# The contact of a drive's relay, as it is printed: the one that closes, that opens, the common.
OF_RELAY = re.compile(r"^[A-Z]\d?[ABC]$", re.I)
THROWS: dict[str, PinFunction] = {"a": "no", "b": "nc", "c": "com"}
CLOCK = re.compile(r"^(?:CLK|CLOCK|SCK|SCLK)$", re.I)
STEP = re.compile(r"^(?:STEP|STP|PUL|PULSE)", re.I)
GROUND = re.compile(r"^(?:gnd|ground|g|⏚|\W?earth)$", re.I)


def told_by_others(rows: Rows, kind: PartKind) -> Rows:
    """The rows of a part; what those beside it tell of a pin is its function."""
    for kinds, tell in TOLD:
        if kind in kinds:
            rows = tell(rows)
    return rows


def _with(rows: Rows, told: Mapping[int, PinFunction | None]) -> Rows:
    """The rows with other functions, by the `id` of those that have them."""
    return tuple(
        replace(row, function=told[id(row)], marks=()) if id(row) in told else row for row in rows
    )


def _used(rows: Rows) -> list[JoinedRow]:
    return [row for row in rows if row.is_used]


def _names(rows: Rows) -> dict[str, set[str]]:
    """What is printed at each plug."""
    found: dict[str, set[str]] = {}
    for row in rows:
        found.setdefault(row.port, set()).add(row.name.casefold())
    return found


def _alternating(rows: Rows) -> Rows:
    """Two terminals AC of a supply are its line and its neutral."""
    used = _used(rows)
    mains = [row for row in used if row.name.casefold() in ALTERNATING]
    if len(mains) != 2 or any(row.function in ("line", "neutral") for row in used):
        return rows
    return _with(rows, {id(mains[0]): "line", id(mains[1]): "neutral"})


def _lone_line(rows: Rows) -> Rows:
    """An L without a neutral or an earth at its plug is no line of the mains."""
    used = _used(rows)
    whole = {row.port for row in used if row.function in ("neutral", "pe")}
    return _with(rows, {
        id(row): None for row in used if row.function == "line" and row.port not in whole
    })  # fmt: skip


def _minus_and_earth(rows: Rows) -> Rows:
    """At a supply for the mains that has a minus of its own, GND is the protective earth; where it
    has none, COM is the minus.
    """
    used = _used(rows)
    functions = {row.function for row in used}
    zeros = [row for row in used if row.function == "zero"]
    grounds = [row for row in zeros if GROUND.match(row.name)]
    commons: dict[int, PinFunction | None] = {
        id(row): "zero" for row in used if row.function == "com"
    }
    has_minus = len(zeros) > len(grounds) or commons
    if "line" in functions and "pe" not in functions and len(grounds) == 1 and has_minus:
        return _with(rows, {**commons, id(grounds[0]): "pe"})
    if "plus" in functions and not zeros:
        return _with(rows, {id(row): "zero" for row in used if row.function == "com"})
    return rows


def _colours_of_lamps(rows: Rows) -> Rows:
    """With a common minus each colour of a lamp is a plus: it is called so, or is a black or blue
    lead.
    """
    used = _used(rows)
    common = [
        row for row in used
        if ZERO.match(row.name) or (row.function == "com" and row.colour in ("BK", "BU"))
    ]  # fmt: skip
    others = [row for row in used if row not in common]
    if len(common) != 1 or len(used) < 3 or any(row.function != "load-" for row in others):
        return rows
    told: dict[int, PinFunction | None] = {id(row): "load+" for row in others}
    return _with(rows, {**told, id(common[0]): "load-"})


def _coils(rows: Rows) -> Rows:
    """The ends of several coils, A+ A− B+ B−, each at a plug of its own."""
    used = _used(rows)
    ends = [(row, match) for row in used if not row.port and (match := COIL.match(row.name))]
    count = Counter((match["stem"], match["sign"]) for _, match in ends)
    stems = {stem for stem, _ in count}
    is_pairs = len(stems) > 1 and len(ends) == len(used) == len(count) == 2 * len(stems)
    signs: dict[str, PinFunction] = {"+": "load+", "-": "load-"}
    found = {
        id(row): replace(row, port=match["stem"], function=signs[match["sign"]], marks=())
        for row, match in ends
        if is_pairs
    }
    return tuple(found.get(id(row), row) for row in rows)


def _two_leads(rows: Rows) -> Rows:
    """Of two leads without a word, red is the plus and black the minus; else the first and the
    second, as those of a coil or a heater are that minds no polarity.
    """
    used = _used(rows)
    if len(used) != 2 or any(row.function or row.name for row in used):
        return rows
    first, second = used
    if (first.colour, second.colour) in (("BK", "RD"), ("BU", "RD"), ("BU", "BN")):
        first, second = second, first
    return _with(rows, {id(first): "load+", id(second): "load-"})


def _of_a_contact(rows: Rows) -> Rows:
    """Of a contact with two leads it is enough to say at one what it does."""
    used = _used(rows)
    told = [row for row in used if row.function in ("no", "nc")]
    if len(used) != 2 or len(told) != 1:
        return rows
    return _with(rows, {id(row): "com" for row in used if row.function is None})


def _positions(rows: Rows) -> Rows:
    """Beside one common what nothing is known of are the positions of a selector."""
    used = _used(rows)
    others = [row for row in used if row.function != "com"]
    is_selector = len(used) - len(others) == 1 and len(others) > 1
    if not is_selector or any(row.function not in (None, "none") for row in others):
        return rows
    return _with(rows, {id(row): "no" for row in others})


def _signed_lines(rows: Rows) -> Rows:
    """Of a line of a controller that has both its ends, IN1+ and IN1-, AO0+ and AO0-, these are the
    signal and its way back, of a thermistor's the two leads; an output gives its plus and switches
    its minus.
    """
    pairs: dict[tuple[str, str], dict[str, JoinedRow]] = {}
    for row in _used(rows):
        name = row.name.replace("\u2212", "-")
        if name[-1:] in ("+", "-") and row.function in (None, "plus", "zero", "signal"):
            pairs.setdefault((row.port, name[:-1] or row.port), {})[name[-1]] = row
    found: dict[int, PinFunction | None] = {}
    words = port_words()
    for (port, stem), ends in pairs.items():
        if len(ends) == 2 and (functions := words.ends_of_line(stem or port)):
            found |= {id(ends["+"]): functions[0], id(ends["-"]): functions[1]}
    return _with(rows, found)


def _numbered(rows: Rows) -> Rows:
    """Terminals of two figures are contacts, and their figures say what these do."""
    by_name = {row.name: row for row in _used(rows)}
    return _with(rows, {
        id(by_name[name]): function
        for contact in contacts_among(by_name)
        for function, name in contact
    })  # fmt: skip


def _relay_beside_phases(rows: Rows) -> Rows:
    """Beside the three phases of a drive's motor MA, MB and MC are the contact of its relay."""
    used = _used(rows)
    phases = [row for row in used if row.function in ("phase U", "phase V", "phase W")]
    of_relay = [row for row in phases if OF_RELAY.match(row.name)]
    if len(of_relay) != 3 or len(phases) < 6:
        return rows
    return _with(rows, {id(row): THROWS[row.name[-1].casefold()] for row in of_relay})


def _lettered(rows: Rows) -> Rows:
    """V, G and S at one plug are its plus, its 0 V and its signal, where no U says that V is a
    phase.
    """
    names = _names(rows)
    return _with(rows, {
        id(row): LETTERS[row.name.casefold()]
        for row in rows
        if row.name.casefold() in LETTERS
        and "g" in names[row.port] and "u" not in names[row.port]
    })  # fmt: skip


def _three_phases(rows: Rows) -> Rows:
    """Three terminals alone of a bridge are those of a brushless motor."""
    names = _names(rows)
    return _with(rows, {
        id(row): PHASES[row.name.casefold()]
        for row in rows
        if names[row.port] in THREE and row.name.casefold() in PHASES
    })  # fmt: skip


def _commutation(rows: Rows) -> Rows:
    """U+ to W− beside the channels of an encoder tell how the rotor stands."""
    names = _names(rows)
    return _with(rows, {
        id(row): COMMUTATION[row.name.casefold()]
        for row in rows
        if row.name.casefold() in COMMUTATION
        and {"u+", "w+"} <= names[row.port] and {"a+", "pa+", "ea+"} & names[row.port]
    })  # fmt: skip


def _channels(rows: Rows) -> Rows:
    """A and B, with Z or without, beside a plus and a 0 V are an encoder's channels, whatever
    number they have: A0 B0 Z0.
    """
    letters: dict[str, set[str]] = {}
    functions: dict[str, set[PinFunction | None]] = {}
    for row in rows:
        letters.setdefault(row.port, set()).add(_letter(row.name))
        functions.setdefault(row.port, set()).add(row.function)
    return _with(rows, {
        id(row): CHANNELS[_letter(row.name)]
        for row in rows
        if _letter(row.name) in CHANNELS and {"plus", "zero"} <= functions[row.port]
        and {"a", "b"} <= letters[row.port] and "c" not in letters[row.port]
    })  # fmt: skip


def _letter(name: str) -> str:
    return name.casefold().rstrip("0123456789")


def _selectors(rows: Rows) -> Rows:
    """Beside X1 and X10 the letters of a hand wheel are those of the axes that it selects."""
    if not {"x1", "x10"} <= {row.name.casefold() for row in rows}:
        return rows
    return _with(rows, {id(row): "none" for row in rows if SELECTED.match(row.name)})


def _clock_of_a_bus(rows: Rows) -> Rows:
    """Beside what is sent and heard CLK is the clock of a bus, and no channel."""
    functions = {row.function for row in rows}
    if not {"transmit", "receive"} & functions:
        return rows
    return _with(rows, {id(row): "clock" for row in rows if CLOCK.match(row.name)})


def _one_step(rows: Rows) -> Rows:
    """Beside STEP a clock is that of something else."""
    steps = [row for row in rows if row.function == "step"]
    if not any(STEP.match(row.name) for row in steps):
        return rows
    return _with(rows, {id(row): "none" for row in steps if not STEP.match(row.name)})


def _by_colours(rows: Rows) -> Rows:
    """Of a proximity switch of which only the colours are told, what the standard has them for."""
    used = _used(rows)
    colours = [row.colour for row in used]
    if any(row.function for row in used) or len(set(colours)) < len(colours):
        return rows
    if not {"BN", "BU", "BK"} <= set(colours) <= set(LEADS_OF_SWITCHES):
        return rows
    return _with(rows, {id(row): LEADS_OF_SWITCHES[row.colour] for row in used if row.colour})


def _lone_lines(rows: Rows) -> Rows:
    """A terminal of a controller of which nothing is known, alone with a way back, is a line: what
    it is for says its role.
    """
    ports: dict[str, list[JoinedRow]] = {}
    for row in _used(rows):
        ports.setdefault(row.port, []).append(row)
    never = port_words().lines.never
    found: dict[int, PinFunction] = {}
    for own in ports.values():
        unknown = [row for row in own if row.function is None]
        others = {row.function for row in own if row.function is not None}
        is_named = len(unknown) == 1 and unknown[0].name.casefold() not in never
        if is_named and others and others <= {"plus", "zero", "com"} and others & {"zero", "com"}:
            found[id(unknown[0])] = "signal"
    return _with(rows, found) if found else rows


def _of_a_servo(rows: Rows) -> Rows:
    """Of a servo of which only the colours are told, what they usually are."""
    used = _used(rows)
    told = {LEADS_OF_SERVOS.get(row.colour or "") for row in used}
    if any(row.function for row in used) or len(used) != 3 or len(told - {None}) < 3:
        return rows
    return _with(rows, {id(row): LEADS_OF_SERVOS[row.colour] for row in used if row.colour})


def _three_lines(rows: Rows) -> Rows:
    """R, S and T, or L1, L2 and L3, are together the lines of three-phase mains, as a drive for one
    phase has two of them; E beside them is earth.
    """
    used = {row.name.casefold(): row for row in _used(rows)}
    lines = next((three for three in THREE_LINES if set(three) <= set(used)), None)
    if lines is None:
        return rows
    found = {id(used[name]): function for name, function in lines.items()}
    return _with(rows, found | ({id(used["e"]): "pe"} if "e" in used else {}))


def _three_windings(rows: Rows) -> Rows:
    """A, B and C of a stepper driver without an A- are three phases."""
    names = {row.name.casefold(): row for row in _used(rows)}
    if not {"a", "b", "c"} <= set(names) or {"a-", "b-"} & set(names):
        return rows
    return _with(rows, {id(names[key]): PHASES[key] for key in "abc"})


# Which of these is asked of which kinds of parts, one after the other.
TOLD: tuple[tuple[tuple[PartKind, ...], Callable[[Rows], Rows]], ...] = (
    (("supply",), _lone_line), (("supply",), _alternating), (("supply",), _minus_and_earth),
    (TWO_LEAD_LOADS, _colours_of_lamps), (TWO_LEAD_LOADS, _coils), (TWO_LEAD_LOADS, _two_leads),
    (("switch",), _of_a_contact), (("switch",), _lone_line), (("switch",), _positions),
    (("sensor",), _by_colours),
    (("servo",), _of_a_servo), (("controller",), _lone_lines), (("controller",), _signed_lines),
    (BOARDS, _lettered), (("motor bridge",), _three_phases), (DRIVE_KINDS, _three_lines),
    (("stepper driver",), _three_windings), (WITH_CONTACTS, _numbered),
    (DRIVE_KINDS, _relay_beside_phases), (DRIVE_KINDS, _channels),
    (MOTORS_WITH_ENCODERS, _commutation), (("hand wheel",), _selectors),
    (("stepper driver",), _one_step), (("encoder", "sensor", "hand wheel"), _clock_of_a_bus),
)  # fmt: skip
