"""What a pin is where its own name does not say it: by the names, functions and colours of those
beside it.
"""

import re
from collections.abc import Callable

from msgspec.structs import replace

from vervain.catalogue.alternating import secondary
from vervain.catalogue.drive_neighbours import (
    alternating_feed,
    both_commons,
    channels,
    channels_of_encoders,
    commutation,
    encoder_of_an_axis,
    ends_of_a_bridge,
    lone_pulse,
    motor_ends,
    one_step,
    relay_beside_phases,
    spare_inputs,
    speed_told,
    three_lines,
    three_phases,
    three_windings,
)
from vervain.catalogue.hand_worked_pins import (
    lamps_of_a_tower,
    lines_of_keys,
    matrix,
    positions,
    selected_inputs,
    selectors,
)
from vervain.catalogue.load_leads import (
    by_colours_of_mains,
    coils,
    colours_of_lamps,
    of_a_fan,
    several_ways,
    two_leads,
)
from vervain.catalogue.manual import ALTERNATING
from vervain.catalogue.pin_rows import (
    JoinedRow,
    Rows,
    names_by_port,
    used_rows,
    with_functions,
)
from vervain.catalogue.port_words import port_words
from vervain.catalogue.sensor_neighbours import (
    bridge_of_a_cell,
    by_colours,
    channels_of_a_bus,
    clock_beside_data,
    clock_of_a_bus,
    clocked,
    lines_of_a_serial_bus,
    open_beside_a_bus,
    select_of_a_bus,
    two_outputs,
    what_is_left,
)
from vervain.catalogue.terminal_numbers import WITH_CONTACTS, contacts_among
from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction

# The leads of servos, by the usage of the trade: brown or black, red, and the third.
LEADS_OF_SERVOS: dict[str, PinFunction] = {
    "BN": "zero", "BK": "zero", "RD": "plus", "OG": "signal", "YE": "signal", "WH": "signal",
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
SIGNS_ALONE = frozenset("+-")
MOTORS_WITH_ENCODERS: tuple[PartKind, ...] = ("three-phase motor", "stepper motor", "servo drive")
COILS_BY_LETTER: dict[str, PinFunction] = {
    "a": "phase A+", "b": "phase B+", "c": "phase A-", "d": "phase B-",
}  # fmt: skip
THROW_OF_POLE = re.compile(r"^(?:NO|NC|COM|C)[ _]?(?P<pole>\d)$", re.I)
MAINS: frozenset[PinFunction | None] = frozenset({"line", "neutral", "pe"})
GROUND = re.compile(r"^(?:gnd|ground|g|⏚|\W?earth)$", re.I)


def told_by_others(rows: Rows, kind: PartKind) -> Rows:
    """The rows of a part; what those beside it tell of a pin is its function."""
    for kinds, tell in TOLD:
        if kind in kinds:
            rows = tell(rows)
    return rows


def _alternating(rows: Rows) -> Rows:
    """Two terminals AC of a supply are its line and its neutral."""
    used = used_rows(rows)
    mains = [row for row in used if row.name.casefold() in ALTERNATING]
    if len(mains) != 2 or any(row.function in ("line", "neutral") for row in used):
        return rows
    return with_functions(rows, {id(mains[0]): "line", id(mains[1]): "neutral"})


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
    grounds = [row for row in used if row.function in ("zero", None) and GROUND.match(row.name)]
    commons: dict[int, PinFunction | None] = {
        id(row): "zero" for row in used if row.function == "com"
    }
    has_minus = any(row not in grounds for row in zeros) or commons
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


def _poles(rows: Rows) -> Rows:
    """Of a switch with several changeovers, NO1 NC1 C1 NO2 NC2 C2, each is a plug by itself."""
    used = used_rows(rows)
    poles = [THROW_OF_POLE.match(row.name) for row in used]
    numbers = {at["pole"] for at in poles if at is not None}
    if len(numbers) < 2 or not all(poles):
        return rows
    told = {
        id(row): replace(row, port=f"POLE {at['pole']}", marks=())
        for row, at in zip(used, poles, strict=True) if at is not None
    }  # fmt: skip
    return tuple(told.get(id(row), row) for row in rows)


def _signed_lines(rows: Rows) -> Rows:
    """Of a line of a controller that has both its ends, IN1+ and IN1-, AO0+ and AO0-, these are the
    signal and its way back, of a thermistor's the two leads; an output gives its plus and switches
    its minus.
    """
    pairs: dict[tuple[str, str], dict[str, JoinedRow]] = {}
    for row in used_rows(rows):
        name = row.name.replace("\u2212", "-")
        has_signal = name in SIGNS_ALONE and any(
            other.port == row.port and other.function == "signal" for other in used_rows(rows)
        )
        may_be_end = row.function in (None, "plus", "zero", "signal") and not has_signal
        if name[-1:] in ("+", "-") and may_be_end:
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


def _lettered(rows: Rows) -> Rows:
    """V, G and S at one plug are its plus, its 0 V and its signal, where no U says that V is a
    phase; V beside another 0 V is the plus as well, where there is none.
    """
    names = names_by_port(rows)
    functions = {port: {row.function for row in rows if row.port == port} for port in names}
    lettered = {port for port, own in names.items() if "g" in own and "u" not in own}
    fed = {
        port
        for port, own in functions.items()
        if "zero" in own and "plus" not in own and "u" not in names[port]
    }
    return with_functions(rows, {
        id(row): LETTERS[row.name.casefold()]
        for row in rows
        if row.name.casefold() in LETTERS
        and (row.port in lettered or (row.port in fed and row.name.casefold() == "v"))
    })  # fmt: skip


def _lettered_bus(rows: Rows) -> Rows:
    """G, V and D at one plug of a converter are those of a bus of one wire."""
    names = names_by_port(rows)
    return with_functions(rows, {
        id(row): LETTERS_OF_BUS[row.name.casefold()]
        for row in rows
        if row.name.casefold() in LETTERS_OF_BUS and names[row.port] == set(LETTERS_OF_BUS)
    })  # fmt: skip


def _lettered_coils(rows: Rows) -> Rows:
    """A to D of a stepper with four leads: A and C are one coil, B and D the other."""
    names = {row.name.casefold(): row for row in used_rows(rows)}
    if set(names) != set(COILS_BY_LETTER) or len(used_rows(rows)) != len(COILS_BY_LETTER):
        return rows
    return with_functions(
        rows, {id(names[name]): function for name, function in COILS_BY_LETTER.items()}
    )


def _mains_that_go_out(rows: Rows) -> Rows:
    """Beside ways that nobody knows, M1: L UP DOWN N, mains go out of a controller that has another
    plug for what comes in: none is led in there.
    """
    ports: dict[str, list[JoinedRow]] = {}
    for row in used_rows(rows):
        ports.setdefault(row.port, []).append(row)
    plain = [name for name, own in ports.items() if {r.function for r in own} <= MAINS]
    told: dict[int, PinFunction | None] = {}
    for own in ports.values() if plain else ():
        functions = {row.function for row in own}
        if "line" in functions and None in functions:
            told |= {id(row): "through" for row in own if row.function != "pe"}
    return with_functions(rows, told)


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


def _measured_against(rows: Rows) -> Rows:
    """Of two terminals alone at a plug of a controller, IN and REF, or of an electrode, the second
    is what the first is measured against.
    """
    ports: dict[str, dict[str, JoinedRow]] = {}
    for row in used_rows(rows):
        ports.setdefault(row.port, {})[row.name.casefold()] = row
    return with_functions(rows, {
        id(own["ref"]): "zero" for own in ports.values() if len(own) == 2 and "ref" in own
    })  # fmt: skip


def _of_a_servo(rows: Rows) -> Rows:
    """Of a servo of which only the colours are told, what they usually are."""
    used = used_rows(rows)
    told = {LEADS_OF_SERVOS.get(row.colour or "") for row in used}
    if any(row.function for row in used) or len(used) != 3 or len(told - {None}) < 3:
        return rows
    return with_functions(
        rows, {id(row): LEADS_OF_SERVOS[row.colour] for row in used if row.colour}
    )


# Which of these is asked of which kinds of parts, one after the other.
TOLD: tuple[tuple[tuple[PartKind, ...], Callable[[Rows], Rows]], ...] = (
    (("supply",), _lone_line), (("supply",), _alternating), (("supply",), _minus_and_earth),
    (("supply",), secondary),
    (("stepper driver",), alternating_feed),
    (TWO_LEAD_LOADS, by_colours_of_mains), (("fan",), of_a_fan),
    (TWO_LEAD_LOADS, colours_of_lamps), (TWO_LEAD_LOADS, coils), (TWO_LEAD_LOADS, two_leads),
    (TWO_LEAD_LOADS, several_ways),
    (("switch",), _of_a_contact), (("switch",), _lone_line), (("switch",), positions),
    (("switch",), _poles),
    (("switch",), matrix), (("controller",), lines_of_keys), (("controller",), lone_pulse),
    (("sensor",), by_colours), (("sensor",), lines_of_a_serial_bus),
    (("sensor", "signal converter", "controller"), select_of_a_bus), (("sensor",), what_is_left),
    (("servo",), _of_a_servo), (("controller",), two_outputs),
    (("controller",), _mains_that_go_out),
    (("controller", "sensor"), _measured_against),
    (("controller",), _lone_lines), (("controller",), _signed_lines),
    (BOARDS, _lettered), (("signal converter",), _lettered_bus), (DRIVE_KINDS, three_lines),
    (("motor bridge",), three_phases), (("motor bridge",), ends_of_a_bridge),
    (("stepper driver",), three_windings), (WITH_CONTACTS, _numbered),
    (DRIVE_KINDS, both_commons), (DRIVE_KINDS, speed_told), (DRIVE_KINDS, spare_inputs),
    (("signal converter",), _pairs_of_a_converter),
    (("signal converter",), channels_of_a_bus), (("sensor",), open_beside_a_bus),
    (("signal converter", "sensor"), bridge_of_a_cell),
    (DRIVE_KINDS, relay_beside_phases), (DRIVE_KINDS, channels),
    (("motor bridge",), channels_of_encoders), (("controller",), motor_ends),
    (("controller",), encoder_of_an_axis),
    (MOTORS_WITH_ENCODERS, commutation), (("hand wheel",), selectors),
    (("controller",), selected_inputs),
    (("stepper driver",), one_step), (("encoder", "sensor", "hand wheel"), clock_of_a_bus),
    (("load", "lamp", "sensor", "signal converter"), clock_beside_data),
    (("sensor",), clocked), (("stepper motor",), _lettered_coils),
    (BOARDS, lamps_of_a_tower),
)  # fmt: skip
