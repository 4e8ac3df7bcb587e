"""What the ports of a board can be, and what their pins are then."""

from typing import Literal

from vervain.catalogue.circuits import CircuitPins
from vervain.model.base import Record
from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction, PortKind

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
# A line of a processor: a program makes it an input or an output.
AS_LINE = Role(kind="digital input", words="line, in or out", signals="input", becomes=("signal",))
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
# The contact by which a source or a converter tells that it does its work.
AS_TOLD = Role(kind="contact", words="contact that tells, to an input", end="device")
THROUGH = next(role for role in ROLES if role.kind == "contact")
# By which a drive knows how the rotor of a brushless motor stands.
HALL_FUNCTIONS = frozenset({"hall U", "hall V", "hall W"})
BUS_FUNCTIONS: frozenset[PinFunction] = frozenset(
    {"data", "data+", "data-", "clock", "transmit", "receive", "select"}
)


class PortPin(Record, frozen=True):
    """A pin of a group: its name as it is printed, and the function that the table took it for."""

    name: str
    function: PinFunction


def roles_of(kind: PartKind) -> tuple[Role, ...]:
    """What the ports of a kind of part can be."""
    if kind == "terminal strip":
        return (role_of("terminals"),)
    if kind in DRIVE_KINDS:
        own = (AS_COMMAND, AS_SERVO, AS_ON_BUS, AS_DEVICE, AS_ENCODER_OUT, AS_ALARM, AS_TOLD)
        return (*own, *ROLES)
    if kind in ("stepper driver", "motor bridge"):
        return (AS_ON_BUS, AS_DEVICE, AS_ALARM, AS_SERVO, AS_MODULE, AS_SHIELD, *ROLES)
    if kind == "controller":
        plain = tuple(role for role in ROLES if role.kind != "bridge control")
        return (AS_LINE, AS_BRIDGE_OUT, AS_LOGIC_OUT, AS_SHIELD, AS_ON_BUS, *plain)
    return (AS_SHIELD, AS_ON_BUS, AS_SWITCHED, AS_ALARM, AS_TOLD, *ROLES)


def roles_of_lines() -> tuple[Role, ...]:
    """The roles of ports that are read or give against a common."""
    kinds: tuple[PortKind, ...] = (
        "digital input", "switched output", "analogue input", "analogue output",
    )  # fmt: skip
    return (*map(role_of, kinds), AS_LINE, AS_LOGIC_OUT)


def role_of(kind: PortKind) -> Role:
    """The usual role of a kind of port."""
    return next(role for role in ROLES if role.kind == kind)
