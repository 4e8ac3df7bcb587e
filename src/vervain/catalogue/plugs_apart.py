"""Plugs of a part that is no board, told apart in one list of leads: what a motor tells by, what a
level or a servo's pulses work, the button and the selector of a knob.
"""

import re
from collections.abc import Iterable
from typing import get_args

from msgspec.structs import replace

from vervain.catalogue.neighbours import TWO_LEAD_LOADS
from vervain.catalogue.pin_rows import JoinedRow
from vervain.catalogue.port_roles import BUS_FUNCTIONS, HALL_FUNCTIONS
from vervain.model.part import PartKind, PinFunction

MOTORS: tuple[PartKind, ...] = ("stepper motor", "three-phase motor", "brushed motor")
ENCODER_FUNCTIONS = frozenset(
    function for function in get_args(PinFunction) if function.startswith("encoder")
)
# How far an actuator is out is told by a potentiometer.
POT_FUNCTIONS = frozenset({"signal"})
FEED_FUNCTIONS = frozenset({"plus", "zero"})
BESIDE_A_MOTOR: dict[str, PinFunction] = {
    "a": "encoder A", "b": "encoder B", "gnd": "zero", "0v": "zero", "-": "zero",
}  # fmt: skip
MEASURING: tuple[PinFunction, ...] = ("measure+", "measure-", "excitation+", "excitation-")
# The plug of a probe that a servo's pulses work, and what its signal is called.
SERVO = "SERVO"
# The plug of the lamp in a button.
LAMP = "LAMP"
# The plug of a load that has a feed of its own, and a line that says whether it is on.
LEVEL_PORT = "SIGNAL"
WORKED_BY_PULSES = frozenset({"pwm", "servo", "ctrl", "control", "cmd"})
# What works a load that has its own plus and 0 V, and what it may be called.
LEVELS: tuple[PinFunction, ...] = ("signal", "pulse width")
LEVEL_NAMES = frozenset({"i/o", "io", "in", "s", "sig"})
# What closes to 0 V where an encoder's shaft is pressed, and its plug.
PRESSED = frozenset({"sw", "key", "btn", "button", "push", "switch"})
BUTTON = "BUTTON"
# The plug of a motor's brake, and what is printed at its leads.
BRAKE = "BRAKE"
OF_A_BRAKE = re.compile(r"^(?:BR|BRK|BRAKE)[ _]?[12+-]$", re.I)
# Parts that may pass a bus on to the next of their kind.
ON_A_CHAIN: tuple[PartKind, ...] = ("servo", "sensor", "encoder", "lamp", "signal converter")
# The plug of what a hand wheel selects.
SELECTOR = "SELECT"


def apart(rows: Iterable[JoinedRow], kind: PartKind) -> tuple[JoinedRow, ...]:
    """The rows of a part; what comes from a thermocouple or a measuring bridge to an amplifier, of
    which the other terminals are for its controller, is an input of its own; so is the plug by
    which a motor tells where it stands.
    """
    found = tuple(rows)
    if kind in MOTORS:
        found = _brake_apart(found, kind)
    found = _feedback_apart(found, kind)
    if kind in TWO_LEAD_LOADS:
        found = _worked_by_a_level(found)
    if kind == "switch":
        found = _lamp_apart(found)
    if kind == "sensor":
        found = _button_of_a_stick(_servo_apart(found))
    if kind in ON_A_CHAIN:
        found = _chained_apart(found)
    if kind in ("encoder", "hand wheel"):
        found = _button_apart(_selector_apart(found))
    fed = {row.port for row in found if row.function == "plus"}
    return tuple(
        replace(row, port=f"{row.port} INPUT".strip())
        if row.port in fed and row.function in MEASURING else row
        for row in found
    )  # fmt: skip


def _feedback_apart(rows: tuple[JoinedRow, ...], kind: PartKind) -> tuple[JoinedRow, ...]:
    """The rows of a motor whose leads are in one list: those of its encoder, or of its Hall
    sensors, with the plus and the 0 V that feed these, at a port of their own.
    """
    if kind == "brushed motor":
        rows = _channels_told(rows)
    functions = {row.function for row in rows if not row.port}
    told = functions & (HALL_FUNCTIONS | ENCODER_FUNCTIONS | POT_FUNCTIONS | BUS_FUNCTIONS)
    if kind not in MOTORS or not told or not functions - told - FEED_FUNCTIONS - {None}:
        return rows
    name = "HALL" if told <= HALL_FUNCTIONS else "ENCODER"
    name = "POT" if told == POT_FUNCTIONS else name
    apart = told | FEED_FUNCTIONS
    return tuple(
        replace(row, port=name) if not row.port and row.function in apart else row for row in rows
    )


def _brake_apart(rows: tuple[JoinedRow, ...], kind: PartKind) -> tuple[JoinedRow, ...]:
    """The rows of a motor; the two leads of the brake on it are a plug by itself. B+ and B- alone
    beside three phases are its, where no A says that they are a channel.
    """
    used = [row for row in rows if row.is_used and not row.port]
    ends = [row for row in used if OF_A_BRAKE.match(row.name)]
    if {"u", "v", "w"} <= {row.name.casefold() for row in used}:
        # Beside U, V and W a B is none of three phases.
        ends = ends or [row for row in used if row.name.casefold() in ("b1", "b2")]
    if kind == "three-phase motor" and not any(row.function == "encoder A" for row in used):
        ends = ends or [row for row in used if row.function in ("encoder B", "encoder B-")]
    if len(ends) != 2:
        return rows
    told: dict[int, PinFunction] = {id(ends[0]): "load+", id(ends[1]): "load-"}
    return tuple(
        replace(row, port=BRAKE, function=told[id(row)], marks=()) if id(row) in told else row
        for row in rows
    )


def _worked_by_a_level(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of a load with a plus, a 0 V and one line that says whether it is on: a buzzer with
    I/O. Its plug is as that of a servo; what hears data is on a bus.
    """
    used = [row for row in rows if row.is_used]
    lines = [row for row in used if row.function in LEVELS or row.name.casefold() in LEVEL_NAMES]
    plus = [row for row in used if row.function in ("plus", "load+")]
    zero = [row for row in used if row.function in ("zero", "load-")]
    if not (len(used) == 3 and len(lines) == len(plus) == len(zero) == 1) or used[0].port:
        return rows
    told: dict[int, PinFunction] = {
        id(plus[0]): "plus", id(zero[0]): "zero", id(lines[0]): "signal",
    }  # fmt: skip
    return tuple(
        replace(row, port=LEVEL_PORT, function=told[id(row)], marks=()) if id(row) in told else row
        for row in rows
    )


def _lamp_apart(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of a switch; the plus and the minus beside both ends of its contact are its lamp's,
    which is a plug by itself.
    """
    used = [row for row in rows if row.is_used and not row.port]
    functions = [row.function for row in used]
    is_lit = functions.count("plus") == functions.count("zero") == functions.count("com") == 1
    if not is_lit or not {"no", "nc"} & set(functions):
        return rows
    told: dict[PinFunction | None, PinFunction] = {"plus": "load+", "zero": "load-"}
    return tuple(
        replace(row, port=LAMP, function=told[row.function], marks=())
        if row in used and row.function in told else row
        for row in rows
    )  # fmt: skip


def _servo_apart(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of a probe that a servo's pulses work: what gives them and its feed are a plug by
    itself, with the way back that stands beside the plus.
    """
    used = [row for row in rows if row.is_used and not row.port]
    works = [row for row in used if row.name.casefold() in WORKED_BY_PULSES]
    signals = [row for row in used if row.function == "signal"]
    backs = [row for row in used if row.function == "zero"]
    if len(works) != 1 or works[0] not in signals or len(signals) < 2 or not backs:
        return rows
    plus = [row for row in used if row.function == "plus"]
    place = used.index((plus or works)[0])
    back = min(backs, key=lambda row: (abs(used.index(row) - place), used.index(row)))
    own = [back, works[0], *plus]
    return tuple(replace(row, port=SERVO) if row in own else row for row in rows)


def _chained_apart(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of what hangs on a bus and passes it on: of the same terminals twice the second ones
    are the plug for the next device.
    """
    used = [row for row in rows if row.is_used]
    half = len(used) // 2
    names = [row.name.casefold() for row in used]
    is_twice = half > 1 and names[:half] == names[half:] and not any(row.port for row in used)
    if not is_twice or not BUS_FUNCTIONS & {row.function for row in used}:
        return rows
    further = {id(row) for row in used[half:]}
    return tuple(
        replace(row, port="OUT" if id(row) in further else "IN") if row.is_used else row
        for row in rows
    )


def _selector_apart(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of a hand wheel; what it selects, with the common that stands next behind, is a plug
    by itself.
    """
    positions = [row for row in rows if row.is_used and not row.port and row.function == "no"]
    commons = [row for row in rows if row.is_used and not row.port and row.function == "com"]
    if len(positions) < 2 or not commons:
        return rows
    last = rows.index(positions[-1])
    common = min(commons, key=lambda row: (rows.index(row) < last, abs(rows.index(row) - last)))
    return tuple(
        replace(row, port=SELECTOR) if row in positions or row == common
        else replace(row, function="none") if row in commons else row
        for row in rows
    )  # fmt: skip


def _button_of_a_stick(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of a sensor; beside what it gives, where it is pressed is a plug by itself."""
    outputs = [row for row in rows if row.is_used and not row.port and row.function == "signal"]
    is_beside = any(row.name.casefold() not in PRESSED for row in outputs)
    return _button_apart(rows) if is_beside else rows


def _button_apart(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """The rows of a knob; the contact that closes to its 0 V where it is pressed is a plug by
    itself.
    """
    return tuple(
        replace(row, port=BUTTON, function="signal", marks=())
        if row.is_used and not row.port and row.name.casefold() in PRESSED else row
        for row in rows
    )  # fmt: skip


def button_of_knobs(rows: Iterable[JoinedRow]) -> tuple[JoinedRow, ...]:
    """The rows of a board; where a knob is pressed, beside its two channels, is an input by itself,
    named after the knob's port.
    """
    found = tuple(rows)
    knobs = _ports_with(found, "encoder A") & _ports_with(found, "encoder B") - {""}
    return tuple(
        replace(row, port=f"{BUTTON} {row.port}", function="signal", marks=())
        if row.is_used and row.port in knobs and row.name.casefold() in PRESSED else row
        for row in found
    )  # fmt: skip


def _ports_with(rows: tuple[JoinedRow, ...], function: PinFunction) -> set[str]:
    return {row.port for row in rows if row.is_used and row.function == function}


def _channels_told(rows: tuple[JoinedRow, ...]) -> tuple[JoinedRow, ...]:
    """Beside the two leads of a brushed motor, A and B are the channels of its encoder, and a 0 V
    is that of these.
    """
    of_motor = [row for row in rows if row.function in ("load+", "load-")]
    if len(of_motor) < 3:
        return rows
    return tuple(
        replace(row, function=BESIDE_A_MOTOR.get(row.name.casefold(), row.function)) for row in rows
    )
