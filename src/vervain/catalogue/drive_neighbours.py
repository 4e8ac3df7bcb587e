"""What pins of drives, motors and encoders are by the names and functions of those beside them."""

import re

from msgspec.structs import replace

from vervain.catalogue.manual import ALTERNATING
from vervain.catalogue.pin_rows import JoinedRow, Rows, names_by_port, used_rows, with_functions
from vervain.model.part import PinFunction

PHASES: dict[str, PinFunction] = {
    "a": "phase U", "b": "phase V", "c": "phase W", "u": "phase U", "v": "phase V", "w": "phase W",
}  # fmt: skip
THREE_LINES: tuple[dict[str, PinFunction | None], ...] = (
    {"r": "line", "s": "none", "t": "neutral"}, {"l1": "line", "l2": "neutral", "l3": "none"},
)  # fmt: skip
THREE = ({"a", "b", "c"}, {"u", "v", "w"})
# The channels by which an encoder tells how the rotor stands, as Hall sensors do.
COMMUTATION: dict[str, PinFunction] = {
    "u+": "hall U", "v+": "hall V", "w+": "hall W", "u-": "none", "v-": "none", "w-": "none",
}  # fmt: skip
CHANNELS: dict[str, PinFunction] = {"a": "encoder A", "b": "encoder B", "z": "encoder Z"}
SIGNED_CHANNELS: dict[str, PinFunction] = {
    "a+": "encoder A", "a-": "encoder A-", "b+": "encoder B", "b-": "encoder B-",
    "z+": "encoder Z", "z-": "encoder Z-",
}  # fmt: skip
# The plug of a controller for one brushed motor by its name.
OF_ONE_MOTOR = re.compile(r"^(?:M\d|MOT(?:OR)?(?:[ _-]?(?:\d|[A-Z]))?)$", re.I)
MOTOR_ENDS: dict[str, PinFunction] = {"+": "motor+", "-": "motor-"}
# The contact of a drive's relay, as it is printed: the one that closes, that opens, the common.
OF_RELAY = re.compile(r"^[A-Z]\d?[ABC]$", re.I)
THROWS: dict[str, PinFunction] = {"a": "no", "b": "nc", "c": "com"}
# What gives pulses to be counted, as it is printed.
COUNTED = re.compile(r"^PULSES?\d?$", re.I)
# An input of a drive by its number alone.
COUNTED_INPUT = re.compile(r"^(?:X|S|DI)\d$", re.I)
STEP = re.compile(r"^(?:STEP|STP|PUL|PULSE)", re.I)


def relay_beside_phases(rows: Rows) -> Rows:
    """Beside the three phases of a drive's motor MA, MB and MC are the contact of its relay."""
    used = used_rows(rows)
    phases = [row for row in used if row.function in ("phase U", "phase V", "phase W")]
    of_relay = [row for row in phases if OF_RELAY.match(row.name)]
    if len(of_relay) != 3 or len(phases) < 6:
        return rows
    return with_functions(rows, {id(row): THROWS[row.name[-1].casefold()] for row in of_relay})


def speed_told(rows: Rows) -> Rows:
    """FG beside what commands a drive tells its speed; beside mains it is the frame's earth."""
    at = {row.port: set[PinFunction | None]() for row in rows}
    for row in rows:
        at[row.port].add(row.function)
    return with_functions(rows, {
        id(row): "alarm" for row in rows
        if row.name.casefold() == "fg" and at[row.port] & {"signal", "enable", "direction"}
        and not at[row.port] & {"line", "phase U"}
    })  # fmt: skip


def three_phases(rows: Rows) -> Rows:
    """Three terminals alone of a bridge are those of a brushless motor."""
    names = names_by_port(rows)
    return with_functions(rows, {
        id(row): PHASES[row.name.casefold()]
        for row in rows
        if names[row.port] in THREE and row.name.casefold() in PHASES
    })  # fmt: skip


def commutation(rows: Rows) -> Rows:
    """U+ to W− beside the channels of an encoder tell how the rotor stands."""
    names = names_by_port(rows)
    return with_functions(rows, {
        id(row): COMMUTATION[row.name.casefold()]
        for row in rows
        if row.name.casefold() in COMMUTATION
        and {"u+", "w+"} <= names[row.port] and {"a+", "pa+", "ea+"} & names[row.port]
    })  # fmt: skip


def channels(rows: Rows) -> Rows:
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


def motor_ends(rows: Rows) -> Rows:
    """M1+ and M1- of a controller are the ends of a brushed motor, where M1 is nothing else; so are
    A and B alone at a plug that is called after a motor.
    """
    names = names_by_port(rows)
    lone = {port for port, own in names.items() if OF_ONE_MOTOR.match(port) and own == {"a", "b"}}
    rows = with_functions(rows, {
        id(row): "motor+" if row.name in "Aa" else "motor-" for row in rows if row.port in lone
    })  # fmt: skip
    ends = {row.name.casefold().replace("\u2212", "-"): row for row in used_rows(rows)}
    stems = {name[:-1] for name in ends if re.match(r"m(?:ot|otor)?[ _]?\d?[+-]$", name)}
    pairs = [stem for stem in stems if {f"{stem}+", f"{stem}-"} <= set(ends)]
    return with_functions(rows, {
        id(ends[f"{stem}{sign}"]): function
        for stem in pairs for sign, function in MOTOR_ENDS.items()
    })  # fmt: skip


def encoder_of_an_axis(rows: Rows) -> Rows:
    """Beside the pulses of an axis and Z+ the letters A and B with their signs are the channels of
    its encoder, and no phases.
    """
    names = {
        port: {name.replace("\u2212", "-") for name in own}
        for port, own in names_by_port(rows).items()
    }
    stepped = {row.port for row in rows if row.function == "step"}
    axes = {port for port in stepped if {"a+", "a-", "b+", "b-", "z+"} <= names[port]}
    return with_functions(rows, {
        id(row): function
        for row in rows
        if row.port in axes
        and (function := SIGNED_CHANNELS.get(row.name.casefold().replace("\u2212", "-")))
    })  # fmt: skip


def ends_of_a_bridge(rows: Rows) -> Rows:
    """A and B alone at a plug of a bridge are the two ends of its motor."""
    names = names_by_port(rows)
    lone = {port for port, own in names.items() if own == {"a", "b"}}
    told: dict[str, PinFunction] = {"a": "motor+", "b": "motor-"}
    return with_functions(rows, {
        id(row): told[row.name.casefold()] for row in rows if row.port in lone
    })  # fmt: skip


def channels_of_encoders(rows: Rows) -> Rows:
    """The same at a bridge, where a plug is called after an encoder: EN1, ENC 2."""
    called = {row.port for row in rows if re.match(r"en(?:c|coder)?[ _-]?\d?$", row.port, re.I)}
    told = {id(old): new for old, new in zip(rows, channels(rows), strict=True)}
    return tuple(told[id(row)] if row.port in called else row for row in rows)


def _letter(name: str) -> str:
    return name.casefold().rstrip("0123456789")


def spare_inputs(rows: Rows) -> Rows:
    """Beside FWD or REV the inputs of a drive that are only counted, X1 X2, are those to which one
    gives a use.
    """
    used = used_rows(rows)
    starts = [row for row in used if row.function in ("enable", "direction")]
    counted = [row for row in starts if COUNTED_INPUT.match(row.name)]
    if len(counted) == len(starts):
        return rows
    return with_functions(rows, {id(row): "none" for row in counted})


def one_step(rows: Rows) -> Rows:
    """Beside STEP a clock is that of something else."""
    steps = [row for row in rows if row.function == "step"]
    if not any(STEP.match(row.name) for row in steps):
        return rows
    return with_functions(rows, {id(row): "none" for row in steps if not STEP.match(row.name)})


def lone_pulse(rows: Rows) -> Rows:
    """PULSE with a plus and a 0 V at the plug of a controller, and neither a direction nor an
    enable, is what a meter or a coin counter gives: an input.
    """
    ports: dict[str, list[JoinedRow]] = {}
    for row in used_rows(rows):
        ports.setdefault(row.port, []).append(row)
    told: dict[int, PinFunction | None] = {}
    for own in ports.values():
        functions = {row.function for row in own}
        if {"plus", "zero", "step"} <= functions and not functions & {"direction", "phase A+"}:
            told |= {id(row): "signal" for row in own if COUNTED.match(row.name)}
    return with_functions(rows, told)


def three_lines(rows: Rows) -> Rows:
    """R, S and T, or L1, L2 and L3, are together the lines of three-phase mains, as a drive for one
    phase has two of them; E beside them, or beside two, is earth.
    """
    # A terminal may bear both, R/L1.
    used = {
        name: row
        for row in used_rows(rows)
        for name in (row.name.casefold(), *row.name.casefold().split("/"))
    }
    lines = next((three for three in THREE_LINES if set(three) <= set(used)), None)
    functions = {row.function for row in used.values()}
    if lines is None and not {"line", "neutral"} <= functions:
        return rows
    found = {id(used[name]): function for name, function in (lines or {}).items()}
    at_mains = {row.port for row in used_rows(rows) if id(row) in found or row.function == "line"}
    plugs = at_mains | {row.port for row in used_rows(rows) if row.function == "phase U"}
    earths: dict[int, PinFunction | None] = {
        id(row): "pe" for row in used_rows(rows) if row.name.casefold() == "e" and row.port in plugs
    }  # fmt: skip
    return with_functions(rows, {**found, **earths})


def three_windings(rows: Rows) -> Rows:
    """A, B and C of a stepper driver without an A- are three phases."""
    names = {row.name.casefold(): row for row in used_rows(rows)}
    if not {"a", "b", "c"} <= set(names) or {"a-", "b-"} & set(names):
        return rows
    return with_functions(rows, {id(names[key]): PHASES[key] for key in "abc"})


def both_commons(rows: Rows) -> Rows:
    """COM+ beside COM- is what feeds the inputs of a drive, and no way back."""
    signs = {row.name.casefold().replace("\u2212", "-"): row for row in used_rows(rows)}
    if not {"com+", "com-"} <= set(signs):
        return rows
    return with_functions(rows, {id(signs["com+"]): "plus", id(signs["com-"]): "zero"})


def alternating_feed(rows: Rows) -> Rows:
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
