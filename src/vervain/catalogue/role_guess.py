"""What a port of a board seems to be, by what is printed at it."""

import re
from typing import Literal, NamedTuple

from vervain.catalogue.drafts import LOGIC_MOST_V
from vervain.catalogue.pin_words import is_general, is_range
from vervain.catalogue.port_roles import (
    AS_ALARM,
    AS_BRIDGE_OUT,
    AS_COMMAND,
    AS_DEVICE,
    AS_ENCODER_OUT,
    AS_LINE,
    AS_LOGIC_OUT,
    AS_MODULE,
    AS_ON_BUS,
    AS_SERVO,
    AS_SHIELD,
    AS_SWITCHED,
    AS_TOLD,
    BUS_FUNCTIONS,
    HALL_FUNCTIONS,
    PortPin,
    Role,
    role_of,
)
from vervain.catalogue.port_words import port_words
from vervain.catalogue.printed_volts import volts_printed
from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction
from vervain.text.name_words import name_words, says

# What a drive's port is by its name: pulses that tell its speed, servo pulses that command it.
PULSES = re.compile(r"\b(fg|tach|tacho|pg)\b", re.I)
SERVO_PULSES = re.compile(r"\b(rc|ppm|servo|receiver)\b", re.I)
# The plug of a controller into which a receiver goes.
PULSES_IN = re.compile(r"\b(rc|ppm|receiver|sbus)\b", re.I)
ANALOGUE_NAMES = frozenset({"vo", "vout", "ao", "iout", "0-10v", "aout"})
# The speed that a controller gives a drive, as it is printed at its terminal.
COMMAND_NAMES = frozenset({"avi", "aci", "vso"})
# Outputs of small controllers beside inputs X0, X1.
OF_OUTPUT = re.compile(r"(^|\s)Y\d{1,2}$")
WHEEL = re.compile(r"\b(mpg|wheel|hand)", re.I)
# The plug of a receiver by which it is fed.
FEEDS_RECEIVER = re.compile(r"^(?:B|BATT?|B/VCC|VCC|POWER)$", re.I)
# All channels of a receiver in one signal.
ALL_CHANNELS = frozenset({"ppm", "sbus", "s.bus", "ibus", "crsf"})
GIVING = ("out", "ao", "dac", "spindle", "speed", "command")
IS_OUTPUT = re.compile(r"\b(outputs?|out|load)(?![a-z])", re.I)
PULSE_WIDTHS = frozenset({"pwm", "s-pwm", "spindle pwm", "laser pwm", "laser", "ttl"})
# By what a sensor gives volts to the plug of a controller that feeds it: alone, or beside a level.
READS_VOLTS, GIVES_VOLTS = frozenset({"a", "po"}), frozenset({"a", "ao", "po", "aout"})
GIVES_A_LEVEL = frozenset({"do", "dout"})
STOPPED: frozenset[PinFunction] = frozenset({"stop A+", "stop B+"})
# Where a converter is fed.
IS_INPUT = re.compile(r"\b(dc |v)?(inputs?|in)(?![a-z])", re.I)
# The line of a controller that drives a row of a keypad.
ROW_OF_KEYS = re.compile(r"^(?:key|pad|matrix)\w*\b.*\bR(?:OW)?[ ]?\d$", re.I)
# What starts or resets a relay, and is no channel of it.
STARTS = re.compile("start|reset", re.I)


def purpose(words: str) -> str:
    """What a port is for, of a description: the word that tells its role, else the first two."""
    parts = re.findall(r"[A-Za-z][A-Za-z-]*", words)
    telling = (str(part) for part in parts if port_words().tells(part.casefold()))
    return next(telling, " ".join(parts[:2]))


def is_called_for_a_line(text: str) -> bool:
    """Whether what is printed at a terminal of a controller says what one line of it is for: IN1,
    LIM X, Q0.1, PROBE.
    """
    words, table = re.findall("[a-z]+", text.casefold().replace("e-stop", "estop")), port_words()
    if not words or len(words) > 2 or any(word.startswith(table.power.always) for word in words):
        return False
    return text.casefold() in COMMAND_NAMES or any(
        table.kind_by_whole([word]) or table.tells(word) or word.startswith(table.lines.begins)
        for word in words
    )


def stacks(name: str) -> Literal["host", "device"] | None:
    """Which end of a stack a port is by its name: one that takes a board, or goes down into one."""
    word = re.match(r"(foot|stack|head|header|top)\b", name.casefold())
    if word is None:
        return None
    return "device" if word[1] in ("foot", "stack") else "host"


def goes_on(name: str) -> bool:
    """Whether a socket of a bus is for the next device, by its name."""
    return re.search(r"\b(out|next)\b", name.casefold()) is not None


def _is_a_line(seen: "_Seen") -> bool:
    """Whether a controller's port is a line of its processor: by its name, or by a number alone
    beside the volts of logic.
    """
    volts = [volts_printed(name) for name in seen.names]
    is_of_logic = any(at is not None and at <= LOGIC_MOST_V for at in volts)
    is_line = is_general(seen.name) or (seen.name.isdecimal() and is_of_logic)
    return seen.kind == "controller" and is_line


def guessed_role(kind: PartKind, name: str, pins: tuple[PortPin, ...]) -> Role:
    """What a port seems to be: by the functions of its pins, then by its name."""
    seen = _Seen(
        kind, name, frozenset(pin.function for pin in pins),
        frozenset(pin.name.casefold() for pin in pins),
    )  # fmt: skip
    for ask in (_by_its_kind, _of_a_drive, _by_functions, _of_a_module, _by_name, _of_a_feed):
        role = ask(seen)
        if role is not None:
            is_line = _is_a_line(seen) and role == role_of("digital input")
            return AS_LINE if is_line else role
    if "signal" in seen.functions and _is_a_line(seen):
        return AS_LINE
    if kind == "relay module":
        return role_of("load")
    return role_of("digital input" if "signal" in seen.functions else "terminals")


def is_called_power(name: str) -> bool:
    """Whether the name of a port, or what is printed there, says that power comes in."""
    words = re.findall(r"[a-z]+", name.casefold())
    return (
        any(port_words().is_of_power(word) for word in words)
        or re.search(r"\d\s?v\b", name, re.I) is not None
    )


class _Seen(NamedTuple):
    """What is seen of a port: the kind of its part, its name, its pins' functions and names."""

    kind: PartKind
    name: str
    functions: frozenset[PinFunction]
    names: frozenset[str]

    @property
    def words(self) -> list[str]:
        """The words of its name."""
        return re.findall(r"[a-z][a-z-]*", self.name.casefold())


def _by_its_kind(seen: _Seen) -> Role | None:
    """What stacks, mains, Hall sensors and buses are at any part."""
    if seen.kind == "terminal strip":
        return role_of("terminals")
    if seen.kind == "radio receiver" and "signal" in seen.functions:
        # With a plus beside it a channel feeds the servo, or the small drive, that hangs on it.
        # All channels in one signal go to the controller, with what feeds the receiver.
        if FEEDS_RECEIVER.match(seen.name):
            return role_of("feed in")
        is_channel = "plus" in seen.functions and not seen.names & ALL_CHANNELS
        return role_of("servo" if is_channel else "radio")
    if seen.kind == "controller" and seen.functions == {"signal"} and seen.words[:1] == ["button"]:
        return role_of("digital input")
    # A plug of two lines called FOOT is a pedal's.
    end = stacks(seen.name) if len(seen.names) > 2 else None
    if end == "device" and seen.kind == "stepper driver" and {"step", "phase A+"} <= seen.functions:
        return AS_MODULE
    if end is not None:
        return AS_SHIELD if end == "device" else role_of("header")
    if "line" in seen.functions:
        return role_of("feed in")
    if seen.functions & HALL_FUNCTIONS:
        return role_of("encoder")
    if seen.functions & BUS_FUNCTIONS:
        goes = seen.kind == "controller" or goes_on(seen.name)
        # An adapter is the head of the bus that it is for, and hangs on its controller by another.
        goes = goes or (seen.kind == "signal converter" and "bus" in seen.words)
        # By what feeds it besides a drive hears the encoder of its motor.
        goes = goes or (seen.kind == "servo drive" and {"plus", "data+"} <= seen.functions)
        return role_of("bus") if goes else AS_ON_BUS
    return None


def _of_a_drive(seen: _Seen) -> Role | None:
    """A drive's plugs to its controller."""
    functions = seen.functions
    if seen.kind == "stepper driver" and "alarm" in functions <= {"alarm", "zero", "com"}:
        return AS_ALARM
    if seen.kind not in DRIVE_KINDS:
        return None
    if seen.kind == "tool power source" and seen.name.startswith("PERMIT"):
        return role_of("digital input")
    if "step" in functions:
        return AS_DEVICE
    if PULSES.search(seen.name) and not {"encoder A", "encoder B"} <= functions:
        return AS_ALARM
    if functions == {"signal", "zero"} and says(seen.name, name_words().contact_of_drive):
        return role_of("digital input")
    if "signal" in functions:
        return AS_SERVO if SERVO_PULSES.search(seen.name) else AS_COMMAND
    if functions & {"enable", "direction"}:
        return role_of("drive control")
    if "alarm" in functions:
        return AS_ALARM
    if "encoder A" in functions and goes_on(seen.name):
        return AS_ENCODER_OUT
    return role_of("terminals") if functions == {"none"} else None


def _by_functions(seen: _Seen) -> Role | None:
    """What the functions of the pins alone tell."""
    kind, functions = seen.kind, seen.functions
    if functions & {"measure+", "excitation+"}:
        return role_of("transducer input")
    if kind == "motor bridge" and "phase U" in functions:
        return role_of("motor phases")
    if kind == "motor bridge" and SERVO_PULSES.search(seen.name):
        return AS_SERVO
    if kind == "motor bridge" and "encoder A" in functions:
        return role_of("encoder")
    if kind == "motor bridge" and functions & STOPPED:
        return role_of("stop input")
    if kind == "motor bridge" and not functions <= {"plus", "zero", "pe", "load-"}:
        is_control = functions & {"signal", "direction", "step", "enable", "pulse width"}
        is_motor = functions & {"motor+", "motor-"} and not is_control
        return role_of("bridge output" if is_motor else "bridge control")
    if WHEEL.search(seen.name) and functions & {"encoder A", "phase A+"}:
        return role_of("encoder")
    if functions & STOPPED:
        return role_of("stop input")
    if "step" in functions:
        if functions & {"phase A+", "phase U"}:
            return AS_MODULE if kind == "stepper driver" else role_of("driver slot")
        return AS_DEVICE if kind == "stepper driver" else role_of("step and direction")
    if "pulse width" in functions:
        return AS_BRIDGE_OUT if kind == "controller" else role_of("bridge control")
    if "encoder Z" in functions or re.search(r"\b(enc|count)", seen.name.casefold()):
        return role_of("encoder")
    if functions & {"phase A-", "phase U"}:
        return role_of("motor phases")
    if functions & {"phase A+", "encoder A"}:
        return role_of("encoder")
    return role_of("bridge output") if functions & {"motor+", "motor-"} else None


def _of_a_module(seen: _Seen) -> Role | None:
    """Contacts, and what is at relay modules, converters and the plain pins of a controller."""
    kind, functions, is_output = seen.kind, seen.functions, IS_OUTPUT.search(seen.name)
    if kind == "signal converter" and is_output and seen.names & ANALOGUE_NAMES:
        return role_of("analogue output")
    first = port_words().kinds_by_beginning(seen.words[:1])
    hears = "digital input" in first and not says(seen.name, name_words().tells)
    if kind == "controller" and hears and len(functions & {"nc", "no"}) == 1:
        # LIMIT: COM NO says which contact of the switch goes there; ALARM: COM NO is one.
        return role_of("digital input")
    if functions & {"nc", "no"} or functions == {"com"}:
        tells = kind in ("tool power source", "signal converter") and says(
            seen.name, name_words().tells
        )
        return AS_TOLD if tells else role_of("relay contact")
    if kind == "relay module" and functions <= {"plus", "zero"} and is_output:
        return role_of("switched output")
    if kind == "relay module" and is_output and functions <= {"signal", "load-", "none"}:
        return role_of("switched output")
    if kind == "relay module" and "signal" in functions and not STARTS.match(seen.name):
        return role_of("load") if "plus" in functions else AS_SWITCHED
    if kind == "controller" and is_output and any(map(is_general, seen.names)):
        return AS_LOGIC_OUT
    if kind == "controller" and functions == {"signal"} and ROW_OF_KEYS.match(seen.name):
        return AS_LOGIC_OUT
    gives_pulses = port_words().gives_a_level(seen.name) or (
        functions <= {"signal", "zero"} and {*seen.names, seen.name.casefold()} & PULSE_WIDTHS
    )
    if kind == "controller" and gives_pulses and "signal" in functions:
        return AS_LOGIC_OUT
    if kind == "signal converter" and is_output and "signal" in functions:
        return AS_ALARM
    is_servo = "pwm" in seen.names and functions == {"signal", "plus", "zero"}
    gives = kind == "signal converter" or (kind == "controller" and not PULSES_IN.search(seen.name))
    return role_of("servo") if gives and is_servo else None


def _by_name(seen: _Seen) -> Role | None:
    """What the name of a port tells, and at a controller the range of a signal."""
    kind, words = seen.kind, seen.words
    only_power = seen.functions <= {"plus", "zero", "pe", "com"} and seen.functions != {"com"}
    if kind == "controller" and any(map(is_range, (*seen.names, seen.name))):
        gives = any(word.startswith(GIVING) for word in words) or bool({"vo", "out"} & seen.names)
        return role_of("analogue output" if gives else "analogue input")
    if kind == "controller" and "signal" in seen.functions and PULSES_IN.search(seen.name):
        return role_of("pulse input")
    if (
        kind == "controller"
        and seen.functions >= {"plus", "zero", "signal"}
        and (seen.names & READS_VOLTS or (seen.names & GIVES_VOLTS and seen.names & GIVES_A_LEVEL))
    ):
        return role_of("analogue input")
    if kind == "controller" and "signal" in seen.functions and OF_OUTPUT.search(seen.name):
        return role_of("switched output")
    if kind == "controller" and seen.names & COMMAND_NAMES:
        return role_of("analogue output")
    # What the first word begins with counts before a letter behind it: LIM A is a limit.
    begins = port_words().kinds_by_beginning(words[:1])
    # A letter alone behind another word is that of an axis: SEL A.
    telling = words[:1] + [word for word in words[1:] if len(word) > 1]
    whole = port_words().kind_by_whole(words[:1] if begins else telling)
    if whole is None and not begins and kind == "controller" and "signal" in seen.functions:
        whole = port_words().kind_by_whole(sorted(seen.names))
    if whole == "thermistor input" and seen.functions >= {"plus", "zero", "signal"}:
        # What is fed and gives a signal is no bare resistor: PT 5V S GND, a pressure transmitter.
        whole = "analogue input"
    if whole is not None and not only_power:
        return role_of(whole)
    beginnings = port_words().kinds_by_beginning(words)
    # OUT and 5V OUT give power, OUT1 is one of several that are switched.
    is_power = IS_OUTPUT.search(seen.name) and not re.search(r"[a-z]\W?\d+$", seen.name, re.I)
    for_a_load = port_words().is_switched(seen.name) and not is_power
    if kind == "controller" and seen.functions == {"plus", "zero"} and for_a_load:
        return role_of("switched output")
    for port_kind in beginnings:
        if port_kind == "relay contact" and "signal" in seen.functions:
            continue
        if not only_power or (port_kind == "feed in" and not IS_OUTPUT.search(seen.name)):
            return role_of(port_kind)
    return None


def _of_a_feed(seen: _Seen) -> Role | None:
    """Where power comes in or goes out."""
    kind, functions = seen.kind, seen.functions
    feeds = functions - {"none"} if kind in ("battery", "supply") else functions
    by_common = functions == {"plus", "com"} and kind == "controller"
    if not feeds <= {"plus", "zero", "pe"} and not by_common:
        return None
    gives = kind == "battery" or (kind == "supply" and not IS_INPUT.search(seen.name))
    # 5V: OUT+ OUT-, as 5V OUT: + -.
    says_so = any(IS_OUTPUT.search(text) for text in (seen.name, *seen.names))
    gives = gives or (kind == "controller" and says_so)
    return role_of("feed out" if gives else "feed in")
