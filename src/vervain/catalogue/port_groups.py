"""Alike ports of a board as one group: what they are, and which circuits their pins have."""

import re
from typing import Literal

from vervain.catalogue.circuits import CircuitPins
from vervain.catalogue.pin_words import is_general, is_range
from vervain.model.base import Record
from vervain.model.part import SEATED, PartKind, PinFunction, PortKind

End = Literal["host", "device", "through"]


class Role(Record, frozen=True, kw_only=True):
    """What a port of a board can be: where its plug is, what its signal pins are, and what pins of
    other functions become in it.
    """

    kind: PortKind
    words: str
    end: End = "host"
    signals: CircuitPins | None = None
    # Functions by the order of the pins that are neither plus, 0 V nor earth.
    becomes: tuple[PinFunction, ...] = ()
    plus: PinFunction = "plus"


ROLES: tuple[Role, ...] = (
    Role(kind="digital input", words="digital input", signals="input", becomes=("signal",)),
    Role(
        kind="switched output", words="switched output", signals="output", becomes=("load-",)
    ),
    Role(kind="step and direction", words="step and direction, to a driver", signals="output"),
    Role(kind="encoder", words="encoder input", signals="input"),
    Role(kind="motor phases", words="motor"),
    Role(kind="driver slot", words="slot for a driver module"),
    Role(kind="header", words="header, for a board on top", signals="output"),
    Role(kind="servo", words="servo output", signals="output", becomes=("signal",)),
    Role(kind="analogue input", words="analogue input", signals="input", becomes=("signal",)),
    Role(
        kind="thermistor input", words="thermistor input", becomes=("sense 1", "sense 2")
    ),
    Role(
        kind="stop input", words="stop input", signals="input",
        becomes=("stop A+", "stop A-", "stop B+", "stop B-"),
    ),
    Role(
        kind="transducer input", words="input for a thermocouple or a measuring bridge",
        becomes=("measure+", "measure-"),
    ),
    Role(kind="relay contact", words="relay contact", becomes=()),
    Role(kind="contact", words="contact in somebody's line", end="through"),
    Role(kind="bridge output", words="brushed motor", becomes=("motor+", "motor-")),
    Role(
        kind="bridge control", words="control of a bridge", end="device", signals="input",
        becomes=("pulse width", "direction"),
    ),
    Role(kind="drive control", words="start and direction of a drive", end="device",
         signals="input"),
    Role(kind="load", words="coil of a relay channel", end="device", becomes=("load-",),
         plus="load+"),
    Role(kind="analogue output", words="analogue output", signals="output", becomes=("signal",)),
    Role(kind="bus", words="bus"),
    Role(kind="pulse input", words="pulse input", signals="input", becomes=("signal",)),
    Role(kind="radio", words="channel of a receiver", end="device", signals="output",
         becomes=("signal",)),
    Role(kind="feed in", words="power in", end="device"),
    Role(kind="feed out", words="power out"),
    Role(kind="terminals", words="terminals", end="through"),
)  # fmt: skip
# What a driver's or bridge's own plug to its controller is.
AS_DEVICE = Role(
    kind="step and direction", words="step and direction, from a controller", end="device",
    signals="input",
)  # fmt: skip
# The same at the controller.
AS_BRIDGE_OUT = Role(
    kind="bridge control", words="control, to a bridge", signals="output",
    becomes=("pulse width", "direction"),
)  # fmt: skip
# A pin that gives a level to what reads it, and no current to a load.
AS_LOGIC_OUT = Role(
    kind="switched output", words="logic output", signals="output", becomes=("signal",)
)
# What switches a relay that is fed on its own.
AS_SWITCHED = Role(
    kind="load", words="what switches a relay channel", end="device", signals="input",
    becomes=("load-",),
)  # fmt: skip
AS_SHIELD = Role(kind="header", words="header, down into a board", end="device", signals="input")
AS_MODULE = Role(kind="driver slot", words="foot of a module, into a slot", end="device")
AS_COMMAND = Role(
    kind="analogue command", words="analogue command, from a controller", end="device",
    signals="input", becomes=("signal",),
)  # fmt: skip
# The pulses by which a receiver or a controller works a small brushless drive.
AS_SERVO = Role(
    kind="servo", words="servo pulses, from a controller", end="device", signals="input",
    becomes=("signal",),
)  # fmt: skip
AS_ENCODER_OUT = Role(
    kind="encoder", words="encoder output, to a controller", end="device", signals="output"
)
# The bus of what a controller talks to; a further socket, for the next device, is a plain bus.
AS_ON_BUS = Role(kind="bus", words="bus, from a controller", end="device")
AS_ALARM = Role(
    kind="sensor",
    words="alarm or pulses, to an input",
    end="device",
    signals="output",
    becomes=("signal",),
)
THROUGH = next(role for role in ROLES if role.kind == "contact")
# What makes the phases of a motor from the mains, as it is told.
DRIVES: tuple[PartKind, ...] = ("frequency inverter", "servo drive")
# By which a drive knows how the rotor of a brushless motor stands.
HALL_FUNCTIONS = frozenset({"hall U", "hall V", "hall W"})
BUS_FUNCTIONS = frozenset({"data", "data+", "data-", "clock", "transmit", "receive", "select"})
# What names of ports say that they are, the first that matches.
NAMED: tuple[tuple[tuple[str, ...], PortKind], ...] = (
    (("relay", "contact"), "relay contact"),
    (("couple", "cell", "gauge"), "transducer input"),
    (("estop", "e-stop", "emergency"), "stop input"),
    (("start", "reset"), "digital input"),
    (("therm", "temp", "ntc"), "thermistor input"),
    (("servo",), "servo"),
    (("enc", "count", "wheel"), "encoder"),
    (("out", "fan", "heat", "brake", "bed", "lamp", "coolant", "spindle", "pump", "valve"),
     "switched output"),
    (("analog", "adc", "pot"), "analogue input"),
    (("pwr", "power", "supply", "feed", "vin"), "feed in"),
    (("in", "limit", "home", "probe", "sensor", "input"), "digital input"),
)  # fmt: skip


# The same of whole words, as industrial boards print them.
NAMED_WHOLE: dict[str, PortKind] = {
    "di": "digital input", "do": "switched output", "ai": "analogue input",
    "i": "digital input", "q": "switched output",
    "ao": "analogue output", "dac": "analogue output", "oc": "switched output",
    "d": "digital input", "io": "digital input", "gpio": "digital input", "gp": "digital input",
    "a": "analogue input", "an": "analogue input", "avi": "analogue output",
    "he": "switched output", "hotend": "switched output",
    "th": "thermistor input", "tb": "thermistor input", "te": "thermistor input",
}  # fmt: skip


# What a drive's port is by its name: pulses that tell its speed, servo pulses that command it.
PULSES = re.compile(r"\b(fg|tach|tacho|pg)\b", re.I)
SERVO_PULSES = re.compile(r"\b(rc|ppm|servo|receiver)\b", re.I)
ANALOGUE_NAMES = frozenset({"vout", "ao", "iout", "0-10v", "aout"})
WHEEL = re.compile(r"\b(mpg|wheel|hand)", re.I)
GIVING = ("out", "ao", "dac", "spindle", "speed", "command")
# What loads are called that an output has a plus and a switched minus for.
FOR_A_LOAD = re.compile(r"\b(fan|heat|bed|lamp|coolant|pump|valve|brake|light)", re.I)
IS_OUTPUT = re.compile(r"\b(out|outputs?|load)\b", re.I)
# Where a converter is fed.
IS_INPUT = re.compile(r"\b(dc |v)?(in|input)\b", re.I)


# A table says “A” and “B” of phases and of channels alike; the role tells which.
AS_ENCODER: dict[PinFunction, PinFunction] = {
    "phase A+": "encoder A", "phase A-": "encoder A-", "phase B+": "encoder B",
    "phase B-": "encoder B-", "signal": "encoder Z",
}  # fmt: skip


class PortPin(Record, frozen=True):
    """A pin of a group: its name as it is printed, and the function that the table took it for."""

    name: str
    function: PinFunction


class PortGroup(Record, frozen=True, kw_only=True):
    """Ports with alike pins. `key` is the first one's name; `role` what they are taken for. `pins`
    are those of the first; `names` what is printed at those of each, which may count: I0, I1.
    """

    key: str
    ports: tuple[str, ...]
    pins: tuple[PortPin, ...]
    role: Role
    names: tuple[tuple[str, ...], ...] = ()

    @property
    def words(self) -> str:
        """The ports in words: "IN 1 to IN 8"."""
        if len(self.ports) > 2:
            return f"{self.ports[0]} to {self.ports[-1]}"
        return " and ".join(self.ports)

    def function(self, number: int) -> PinFunction:
        """What a pin is in this role, by its number from 0."""
        pin = self.pins[number]
        if self.role.kind == "switched output" and pin.function == "zero" and self._is_bare():
            # Of an output with a plus and a minus alone it is the minus that is switched.
            return "load-"
        if pin.function in ("plus", "zero", "pe") and self.role.kind != "thermistor input":
            return self.role.plus if pin.function == "plus" else pin.function
        if pin.function == "com" and self.role in (
            AS_ALARM,
            AS_COMMAND,
            _role("drive control"),
            _role("feed in"),
            *_of_lines(),
        ):
            # The common of what a transistor or a diode is at; a contact has a role of its own.
            return "zero"
        if self.role.kind == "stop input" and self._is_named("stop A+"):
            # What is told by its name stays; a common of both channels is their 0 V.
            return "zero" if pin.function == "com" else pin.function
        if self.role.becomes and self._is_named(self.role.becomes[0]):
            # What is told by its name tells that the others are something else.
            return pin.function
        if self.role.kind == "encoder":
            return AS_ENCODER.get(pin.function, pin.function)
        if self.role.kind == "header" and pin.function in ("none", "coil+", "coil-"):
            # What goes on through a stack is a signal, whatever the name would be elsewhere.
            return "signal"
        if self.role.kind in ("step and direction", "bus", *SEATED):
            return pin.function
        if self.role.kind in ("motor phases", "relay contact", "contact"):
            return pin.function
        if self.role.kind == "drive control":
            return pin.function
        plain = [n for n, p in enumerate(self.pins) if p.function not in ("plus", "zero", "pe")]
        if self.role.kind == "thermistor input":
            plain = list(range(len(self.pins)))
        at = plain.index(number) if number in plain else -1
        becomes = self.role.becomes
        return becomes[at] if 0 <= at < len(becomes) else pin.function

    def _is_bare(self) -> bool:
        """Whether nothing is there but a plus and a 0 V."""
        return {pin.function for pin in self.pins} == {"plus", "zero"}

    def _is_named(self, function: PinFunction) -> bool:
        """Whether a pin is told to be this by its own name."""
        return any(pin.function == function for pin in self.pins)


def roles_of(kind: PartKind) -> tuple[Role, ...]:
    """What the ports of a kind of part can be."""
    if kind == "terminal strip":
        return (_role("terminals"),)
    if kind in DRIVES:
        return (AS_COMMAND, AS_SERVO, AS_ON_BUS, AS_DEVICE, AS_ENCODER_OUT, AS_ALARM, *ROLES)
    if kind in ("stepper driver", "motor bridge"):
        return (AS_ON_BUS, AS_DEVICE, AS_MODULE, AS_SHIELD, *ROLES)
    if kind == "controller":
        plain = tuple(role for role in ROLES if role.kind != "bridge control")
        return (AS_BRIDGE_OUT, AS_LOGIC_OUT, AS_SHIELD, AS_ON_BUS, *plain)
    return (AS_SHIELD, AS_ON_BUS, AS_SWITCHED, *ROLES)


def grouped(
    kind: PartKind, ports: dict[str, tuple[PortPin, ...]], chosen: dict[str, str]
) -> tuple[PortGroup, ...]:
    """The ports of a board in groups of neighbours with alike pins and like names; `chosen` says by
    a group's key what it is, in the words of a role.
    """
    found: list[list[str]] = []
    for name, pins in ports.items():
        same = found and _shape(ports[found[-1][0]]) == _shape(pins)
        if same and _stem(found[-1][0]) == _stem(name):
            found[-1].append(name)
        else:
            found.append([name])
    roles = {role.words: role for role in roles_of(kind)}
    return tuple(
        PortGroup(
            key=names[0],
            ports=tuple(names),
            pins=ports[names[0]],
            names=tuple(tuple(pin.name for pin in ports[name]) for name in names),
            role=roles.get(chosen.get(names[0], ""), guessed_role(kind, names[0], ports[names[0]])),
        )
        for names in found
    )


def _shape(pins: tuple[PortPin, ...]) -> tuple[tuple[str, PinFunction], ...]:
    """What alike ports have in common: their pins, without a number that only counts."""
    return tuple(
        (pin.name.rstrip("0123456789.") if pin.function == "signal" else pin.name, pin.function)
        for pin in pins
    )


def port_words(words: str) -> str:
    """What a port is for, of a description: the word that tells its role, else the first two."""
    parts = re.findall(r"[A-Za-z][A-Za-z-]*", words)
    for part in parts:
        if any(part.casefold().startswith(start) for starts, _ in NAMED for start in starts):
            return str(part)
    return " ".join(parts[:2])


def stacks(name: str) -> Literal["host", "device"] | None:
    """Which end of a stack a port is by its name: one that takes a board, or goes down into one."""
    word = re.match(r"(foot|stack|head|header|top)\b", name.casefold())
    if word is None:
        return None
    return "device" if word[1] in ("foot", "stack") else "host"


def goes_on(name: str) -> bool:
    """Whether a socket of a bus is for the next device, by its name."""
    return re.search(r"\b(out|next)\b", name.casefold()) is not None


def _stem(name: str) -> str:
    words = name.casefold().split()
    if words and words[-1] in ("in", "out", "next"):
        return name.casefold()
    return " ".join(words[:-1]) if len(words) > 1 else name.casefold().rstrip("0123456789")


def _of_lines() -> tuple[Role, ...]:
    """The roles of ports that are read or give against a common."""
    kinds: tuple[PortKind, ...] = (
        "digital input", "switched output", "analogue input", "analogue output",
    )  # fmt: skip
    return (*map(_role, kinds), AS_LOGIC_OUT)


def _role(kind: PortKind) -> Role:
    return next(role for role in ROLES if role.kind == kind)


def guessed_role(kind: PartKind, name: str, pins: tuple[PortPin, ...]) -> Role:
    """What a port seems to be: by the functions of its pins, then by its name."""
    functions = {pin.function for pin in pins}
    names = {pin.name.casefold() for pin in pins}
    if kind == "terminal strip":
        return _role("terminals")
    end = stacks(name)
    if end is not None:
        return AS_SHIELD if end == "device" else _role("header")
    if "line" in functions:
        return _role("feed in")
    if functions & HALL_FUNCTIONS:
        return _role("encoder")
    if functions & BUS_FUNCTIONS:
        return _role("bus") if kind == "controller" or goes_on(name) else AS_ON_BUS
    if kind in DRIVES and "step" in functions:
        return AS_DEVICE
    if kind in DRIVES and PULSES.search(name):
        return AS_ALARM
    if kind in DRIVES and "signal" in functions:
        return AS_SERVO if SERVO_PULSES.search(name) else AS_COMMAND
    if kind in DRIVES and functions & {"enable", "direction"}:
        return _role("drive control")
    if kind in DRIVES and "alarm" in functions:
        return AS_ALARM
    if functions & {"measure+", "excitation+"}:
        return _role("transducer input")
    if kind in DRIVES and "encoder A" in functions and goes_on(name):
        return AS_ENCODER_OUT
    if kind == "motor bridge" and not functions <= {"plus", "zero", "pe"}:
        is_control = functions & {"signal", "direction", "step", "enable", "pulse width"}
        return _role("bridge control" if is_control else "bridge output")
    if WHEEL.search(name) and functions & {"encoder A", "phase A+"}:
        return _role("encoder")
    if functions & {"stop A+", "stop B+"}:
        return _role("stop input")
    if "step" in functions and functions & {"phase A+", "phase U"}:
        return AS_MODULE if kind == "stepper driver" else _role("driver slot")
    if "step" in functions:
        return AS_DEVICE if kind == "stepper driver" else _role("step and direction")
    if functions & {"pulse width"}:
        return AS_BRIDGE_OUT if kind == "controller" else _role("bridge control")
    if "encoder Z" in functions or re.search(r"\b(enc|count)", name.casefold()):
        return _role("encoder")
    if functions & {"phase A-", "phase U"}:
        return _role("motor phases")
    if "phase A+" in functions:
        return _role("encoder")
    if "encoder A" in functions:
        return _role("encoder")
    if {"motor+", "motor-"} & functions:
        return _role("bridge output")
    if kind == "signal converter" and IS_OUTPUT.search(name) and names & ANALOGUE_NAMES:
        return _role("analogue output")
    if {"nc", "no"} & functions or functions == {"com"}:
        return _role("relay contact")
    if kind == "relay module" and functions <= {"plus", "zero"} and IS_OUTPUT.search(name):
        return _role("switched output")
    if kind == "relay module" and "signal" in functions and not re.match("start|reset", name, re.I):
        return _role("load") if "plus" in functions else AS_SWITCHED
    if kind == "controller" and IS_OUTPUT.search(name) and any(is_general(p.name) for p in pins):
        return AS_LOGIC_OUT
    if kind == "signal converter" and "pwm" in names and functions == {"signal", "plus", "zero"}:
        return _role("servo")
    words = re.findall(r"[a-z][a-z-]*", name.casefold())
    if kind == "controller" and any(is_range(pin.name) for pin in pins):
        gives = any(word.startswith(GIVING) for word in words)
        return _role("analogue output" if gives else "analogue input")
    whole = next((NAMED_WHOLE[word] for word in words if word in NAMED_WHOLE), None)
    is_load = kind == "controller" and functions == {"plus", "zero"}
    if whole is not None and not functions <= {"plus", "zero", "pe"}:
        return _role(whole)
    if is_load and (whole == "switched output" or FOR_A_LOAD.search(name)):
        return _role("switched output")
    if kind in DRIVES and functions == {"none"}:
        return _role("terminals")
    for starts, port_kind in NAMED:
        if any(word.startswith(starts) for word in words):
            only_power = functions <= {"plus", "zero", "pe"}
            if port_kind == "relay contact" and "signal" in functions:
                continue
            if not only_power or port_kind == "feed in":
                return _role(port_kind)
    feeds = functions - {"none"} if kind in ("battery", "supply") else functions
    if feeds <= {"plus", "zero", "pe"} or (functions == {"plus", "com"} and kind == "controller"):
        gives = kind == "battery" or (kind == "supply" and not IS_INPUT.search(name))
        gives = gives or (kind == "controller" and IS_OUTPUT.search(name) is not None)
        return _role("feed out" if gives else "feed in")
    if kind == "relay module":
        return _role("load")
    return _role("digital input" if "signal" in functions else "terminals")
