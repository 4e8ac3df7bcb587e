"""What a pin is where its own name does not say it: by the names, functions and colours of those
beside it.
"""

import re
from collections.abc import Callable

from msgspec.structs import replace

from vervain.catalogue.alternating import secondary
from vervain.catalogue.hand_worked_pins import matrix, positions, selected_inputs, selectors
from vervain.catalogue.load_leads import coils, colours_of_lamps, two_leads
from vervain.catalogue.manual import ALTERNATING
from vervain.catalogue.pin_rows import JoinedRow, Rows, used_rows, with_functions
from vervain.catalogue.port_words import port_words
from vervain.catalogue.terminal_numbers import WITH_CONTACTS, contacts_among
from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction

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
# What D is beside them: the one wire of a bus of servos.
LETTERS_OF_BUS: dict[str, PinFunction] = {"v": "plus", "g": "zero", "d": "data"}
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
CHANNELS: dict[str, PinFunction] = {"a": "encoder A", "b": "encoder B", "z": "encoder Z"}
MOTOR_ENDS: dict[str, PinFunction] = {"+": "motor+", "-": "motor-"}
# The contact of a drive's relay, as it is printed: the one that closes, that opens, the common.
OF_RELAY = re.compile(r"^[A-Z]\d?[ABC]$", re.I)
THROWS: dict[str, PinFunction] = {"a": "no", "b": "nc", "c": "com"}
CLOCK = re.compile(r"^(?:CLK|CLOCK|SCK|SCLK|PD_SCK)$", re.I)
STEP = re.compile(r"^(?:STEP|STP|PUL|PULSE)", re.I)
CHANNEL_IN = re.compile(r"^(?:A|AI|AIN|CH)\d$", re.I)
GROUND = re.compile(r"^(?:gnd|ground|g|⏚|\W?earth)$", re.I)


def told_by_others(rows: Rows, kind: PartKind) -> Rows:
    """The rows of a part; what those beside it tell of a pin is its function."""
    for kinds, tell in TOLD:
        if kind in kinds:
            rows = tell(rows)
    return rows


def _names(rows: Rows) -> dict[str, set[str]]:
    """What is printed at each plug."""
    found: dict[str, set[str]] = {}
    for row in rows:
        found.setdefault(row.port, set()).add(row.name.casefold())
    return found


def _alternating(rows: Rows) -> Rows:
    """Two terminals AC of a supply are its line and its neutral."""
    used = used_rows(rows)
    mains = [row for row in used if row.name.casefold() in ALTERNATING]
    if len(mains) != 2 or any(row.function in ("line", "neutral") for row in used):
        return rows
    return with_functions(rows, {id(mains[0]): "line", id(mains[1]): "neutral"})


def _alternating_feed(rows: Rows) -> Rows:
    """Two terminals AC of a driver take power either way round."""
    ends = [row for row in used_rows(rows) if row.name.casefold() in ALTERNATING]
    if len(ends) != 2:
        return rows
    told: dict[int, tuple[str, PinFunction]] = {
        id(ends[0]): (f"{ends[0].name} 1", "plus"), id(ends[1]): (f"{ends[1].name} 2", "zero"),
    }  # fmt: skip
    return tuple(
        replace(row, name=told[id(row)][0], function=told[id(row)][1], marks=())
        if id(row) in told else row
        for row in rows
    )  # fmt: skip


def _channels_of_a_bus(rows: Rows) -> Rows:
    """The inputs of a converter that is asked over a bus, A0 A1 or AIN0 AIN1, are a port each, with
    the plus and the 0 V of the converter.
    """
    used = used_rows(rows)
    if not {"data", "clock"} <= {row.function for row in used}:
        return rows
    feed = [row for row in used if row.function in ("plus", "zero")]
    found: list[JoinedRow] = []
    for row in rows:
        if not row.is_used or not CHANNEL_IN.match(row.name):
            found.append(row)
            continue
        found.append(replace(row, port=row.name, pin="1", function="signal", marks=()))
        found += [
            replace(own, port=row.name, pin=str(number), marks=())
            for number, own in enumerate(feed[:2], 2)
        ]
    return tuple(found)


def _open_beside_a_bus(rows: Rows) -> Rows:
    """NC at a sensor that speaks over a bus is no contact: nothing is joined to it."""
    used = used_rows(rows)
    if not any(row.function == "data" for row in used):
        return rows
    return with_functions(
        rows, {id(row): "none" for row in used if row.name.casefold() in ("nc", "n/c", "n.c.")}
    )


def _lone_line(rows: Rows) -> Rows:
    """An L without a neutral or an earth at its plug is no line of the mains."""
    used = used_rows(rows)
    whole = {row.port for row in used if row.function in ("neutral", "pe")}
    return with_functions(rows, {
        id(row): None for row in used if row.function == "line" and row.port not in whole
    })  # fmt: skip


def _minus_and_earth(rows: Rows) -> Rows:
    """At a supply for the mains that has a minus of its own, GND is the protective earth; where it
    has none, COM is the minus.
    """
    used = used_rows(rows)
    functions = {row.function for row in used}
    zeros = [row for row in used if row.function == "zero"]
    grounds = [row for row in zeros if GROUND.match(row.name)]
    commons: dict[int, PinFunction | None] = {
        id(row): "zero" for row in used if row.function == "com"
    }
    has_minus = len(zeros) > len(grounds) or commons
    if "line" in functions and "pe" not in functions and len(grounds) == 1 and has_minus:
        return with_functions(rows, {**commons, id(grounds[0]): "pe"})
    if "plus" in functions and not zeros:
        return with_functions(rows, {id(row): "zero" for row in used if row.function == "com"})
    return rows


def _of_a_contact(rows: Rows) -> Rows:
    """Of a contact with two leads it is enough to say at one what it does."""
    used = used_rows(rows)
    told = [row for row in used if row.function in ("no", "nc")]
    if len(used) != 2 or len(told) != 1:
        return rows
    return with_functions(rows, {id(row): "com" for row in used if row not in told})


def _signed_lines(rows: Rows) -> Rows:
    """Of a line of a controller that has both its ends, IN1+ and IN1-, AO0+ and AO0-, these are the
    signal and its way back, of a thermistor's the two leads; an output gives its plus and switches
    its minus.
    """
    pairs: dict[tuple[str, str], dict[str, JoinedRow]] = {}
    for row in used_rows(rows):
        name = row.name.replace("\u2212", "-")
        if name[-1:] in ("+", "-") and row.function in (None, "plus", "zero", "signal"):
            pairs.setdefault((row.port, name[:-1] or row.port), {})[name[-1]] = row
    found: dict[int, PinFunction | None] = {}
    words = port_words()
    for (port, stem), ends in pairs.items():
        if len(ends) == 2 and (functions := words.ends_of_line(stem or port)):
            found |= {id(ends["+"]): functions[0], id(ends["-"]): functions[1]}
    return with_functions(rows, found)


def _numbered(rows: Rows) -> Rows:
    """Terminals of two figures are contacts, and their figures say what these do."""
    by_name = {row.name: row for row in used_rows(rows)}
    return with_functions(rows, {
        id(by_name[name]): function
        for contact in contacts_among(by_name)
        for function, name in contact
    })  # fmt: skip


def _pairs_of_a_converter(rows: Rows) -> Rows:
    """Of a converter that is fed at one plug, the plus and the minus of another are what it
    measures, ARC+ ARC-, or gives, OUT+ OUT-.
    """
    ports: dict[str, list[JoinedRow]] = {}
    for row in used_rows(rows):
        ports.setdefault(row.port, []).append(row)
    feeds = {
        port for port, own in ports.items() if {"plus", "zero"} <= {row.function for row in own}
    }
    signed = {port for port in feeds if len(ports[port]) == 2 and _is_by_its_signs(ports[port])}
    found: dict[int, PinFunction | None] = {}
    for port in signed if feeds - signed else ():
        gives = re.search(r"\b(?:out|ao|dac)", port, re.I)
        ends: tuple[PinFunction, PinFunction] = (
            ("signal", "zero") if gives else ("measure+", "measure-")
        )
        found |= {id(row): ends[row.function == "zero"] for row in ports[port]}
    return with_functions(rows, found)


def _is_by_its_signs(rows: list[JoinedRow]) -> bool:
    """Whether terminals are called by a word for no feed and a sign."""
    stems = {row.name.rstrip("+-\u2212").casefold() for row in rows}
    stem = stems.pop() if len(stems) == 1 else ""
    is_of_power = stem.startswith("v") or port_words().is_of_power(stem)
    return stem == "in" or bool(stem and not is_of_power)


def _both_commons(rows: Rows) -> Rows:
    """COM+ beside COM- is what feeds the inputs of a drive, and no way back."""
    signs = {row.name.casefold().replace("\u2212", "-"): row for row in used_rows(rows)}
    if not {"com+", "com-"} <= set(signs):
        return rows
    return with_functions(rows, {id(signs["com+"]): "plus", id(signs["com-"]): "zero"})


def _relay_beside_phases(rows: Rows) -> Rows:
    """Beside the three phases of a drive's motor MA, MB and MC are the contact of its relay."""
    used = used_rows(rows)
    phases = [row for row in used if row.function in ("phase U", "phase V", "phase W")]
    of_relay = [row for row in phases if OF_RELAY.match(row.name)]
    if len(of_relay) != 3 or len(phases) < 6:
        return rows
    return with_functions(rows, {id(row): THROWS[row.name[-1].casefold()] for row in of_relay})


def _lettered(rows: Rows) -> Rows:
    """V, G and S at one plug are its plus, its 0 V and its signal, where no U says that V is a
    phase.
    """
    names = _names(rows)
    return with_functions(rows, {
        id(row): LETTERS[row.name.casefold()]
        for row in rows
        if row.name.casefold() in LETTERS
        and "g" in names[row.port] and "u" not in names[row.port]
    })  # fmt: skip


def _lettered_bus(rows: Rows) -> Rows:
    """G, V and D at one plug of a converter are those of a bus of one wire."""
    names = _names(rows)
    return with_functions(rows, {
        id(row): LETTERS_OF_BUS[row.name.casefold()]
        for row in rows
        if row.name.casefold() in LETTERS_OF_BUS and names[row.port] == set(LETTERS_OF_BUS)
    })  # fmt: skip


def _three_phases(rows: Rows) -> Rows:
    """Three terminals alone of a bridge are those of a brushless motor."""
    names = _names(rows)
    return with_functions(rows, {
        id(row): PHASES[row.name.casefold()]
        for row in rows
        if names[row.port] in THREE and row.name.casefold() in PHASES
    })  # fmt: skip


def _commutation(rows: Rows) -> Rows:
    """U+ to W− beside the channels of an encoder tell how the rotor stands."""
    names = _names(rows)
    return with_functions(rows, {
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
    return with_functions(rows, {
        id(row): CHANNELS[_letter(row.name)]
        for row in rows
        if _letter(row.name) in CHANNELS and {"plus", "zero"} <= functions[row.port]
        and {"a", "b"} <= letters[row.port] and "c" not in letters[row.port]
    })  # fmt: skip


def _motor_ends(rows: Rows) -> Rows:
    """M1+ and M1- of a controller are the ends of a brushed motor, where M1 is nothing else."""
    ends = {row.name.casefold().replace("\u2212", "-"): row for row in used_rows(rows)}
    stems = {name[:-1] for name in ends if re.match(r"m(?:ot|otor)?[ _]?\d?[+-]$", name)}
    pairs = [stem for stem in stems if {f"{stem}+", f"{stem}-"} <= set(ends)]
    return with_functions(rows, {
        id(ends[f"{stem}{sign}"]): function
        for stem in pairs for sign, function in MOTOR_ENDS.items()
    })  # fmt: skip


def _channels_of_encoders(rows: Rows) -> Rows:
    """The same at a bridge, where a plug is called after an encoder: EN1, ENC 2."""
    called = {row.port for row in rows if re.match(r"en(?:c|coder)?[ _-]?\d?$", row.port, re.I)}
    told = {id(old): new for old, new in zip(rows, _channels(rows), strict=True)}
    return tuple(told[id(row)] if row.port in called else row for row in rows)


def _letter(name: str) -> str:
    return name.casefold().rstrip("0123456789")


def _clock_of_a_bus(rows: Rows) -> Rows:
    """Beside what is sent and heard CLK is the clock of a bus, and no channel."""
    functions = {row.function for row in rows}
    if not {"transmit", "receive"} & functions:
        return rows
    return with_functions(rows, {id(row): "clock" for row in rows if CLOCK.match(row.name)})


def _one_step(rows: Rows) -> Rows:
    """Beside STEP a clock is that of something else."""
    steps = [row for row in rows if row.function == "step"]
    if not any(STEP.match(row.name) for row in steps):
        return rows
    return with_functions(rows, {id(row): "none" for row in steps if not STEP.match(row.name)})


def _by_colours(rows: Rows) -> Rows:
    """Of a proximity switch of which only the colours are told, what the standard has them for."""
    used = used_rows(rows)
    colours = [row.colour for row in used]
    if any(row.function for row in used) or len(set(colours)) < len(colours):
        return rows
    if not {"BN", "BU", "BK"} <= set(colours) <= set(LEADS_OF_SWITCHES):
        return rows
    return with_functions(
        rows, {id(row): LEADS_OF_SWITCHES[row.colour] for row in used if row.colour}
    )


def _clocked(rows: Rows) -> Rows:
    """Of an amplifier that gives its figure bit by bit, beside DOUT, its clock is what works it."""
    used = used_rows(rows)
    gives = any(row.function == "signal" for row in used)
    if not gives or any(row.function in ("data", "clock", "select") for row in used):
        return rows
    return with_functions(rows, {id(row): "enable" for row in used if CLOCK.match(row.name)})


def _lone_lines(rows: Rows) -> Rows:
    """A terminal of a controller of which nothing is known, alone with a way back, is a line: what
    it is for says its role.
    """
    ports: dict[str, list[JoinedRow]] = {}
    for row in used_rows(rows):
        ports.setdefault(row.port, []).append(row)
    never = port_words().lines.never
    found: dict[int, PinFunction] = {}
    for own in ports.values():
        unknown = [row for row in own if row.function is None]
        others = {row.function for row in own if row.function is not None}
        is_named = len(unknown) == 1 and unknown[0].name.casefold() not in never
        if is_named and others and others <= {"plus", "zero", "com"} and others & {"zero", "com"}:
            found[id(unknown[0])] = "signal"
    return with_functions(rows, found) if found else rows


def _of_a_servo(rows: Rows) -> Rows:
    """Of a servo of which only the colours are told, what they usually are."""
    used = used_rows(rows)
    told = {LEADS_OF_SERVOS.get(row.colour or "") for row in used}
    if any(row.function for row in used) or len(used) != 3 or len(told - {None}) < 3:
        return rows
    return with_functions(
        rows, {id(row): LEADS_OF_SERVOS[row.colour] for row in used if row.colour}
    )


def _three_lines(rows: Rows) -> Rows:
    """R, S and T, or L1, L2 and L3, are together the lines of three-phase mains, as a drive for one
    phase has two of them; E beside them is earth.
    """
    # A terminal may bear both, R/L1.
    used = {
        name: row
        for row in used_rows(rows)
        for name in (row.name.casefold(), *row.name.casefold().split("/"))
    }
    lines = next((three for three in THREE_LINES if set(three) <= set(used)), None)
    if lines is None:
        return rows
    found = {id(used[name]): function for name, function in lines.items()}
    return with_functions(rows, found | ({id(used["e"]): "pe"} if "e" in used else {}))


def _three_windings(rows: Rows) -> Rows:
    """A, B and C of a stepper driver without an A- are three phases."""
    names = {row.name.casefold(): row for row in used_rows(rows)}
    if not {"a", "b", "c"} <= set(names) or {"a-", "b-"} & set(names):
        return rows
    return with_functions(rows, {id(names[key]): PHASES[key] for key in "abc"})


# Which of these is asked of which kinds of parts, one after the other.
TOLD: tuple[tuple[tuple[PartKind, ...], Callable[[Rows], Rows]], ...] = (
    (("supply",), _lone_line), (("supply",), _alternating), (("supply",), _minus_and_earth),
    (("supply",), secondary),
    (("stepper driver",), _alternating_feed),
    (TWO_LEAD_LOADS, colours_of_lamps), (TWO_LEAD_LOADS, coils), (TWO_LEAD_LOADS, two_leads),
    (("switch",), _of_a_contact), (("switch",), _lone_line), (("switch",), positions),
    (("switch",), matrix),
    (("sensor",), _by_colours),
    (("servo",), _of_a_servo), (("controller",), _lone_lines), (("controller",), _signed_lines),
    (BOARDS, _lettered), (("signal converter",), _lettered_bus), (DRIVE_KINDS, _three_lines),
    (("motor bridge",), _three_phases),
    (("stepper driver",), _three_windings), (WITH_CONTACTS, _numbered),
    (DRIVE_KINDS, _both_commons), (("signal converter",), _pairs_of_a_converter),
    (("signal converter",), _channels_of_a_bus), (("sensor",), _open_beside_a_bus),
    (DRIVE_KINDS, _relay_beside_phases), (DRIVE_KINDS, _channels),
    (("motor bridge",), _channels_of_encoders), (("controller",), _motor_ends),
    (MOTORS_WITH_ENCODERS, _commutation), (("hand wheel",), selectors),
    (("controller",), selected_inputs),
    (("stepper driver",), _one_step), (("encoder", "sensor", "hand wheel"), _clock_of_a_bus),
    (("sensor",), _clocked),
)  # fmt: skip
