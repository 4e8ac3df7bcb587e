"""Parts: what the catalogue says of a thing, its ports, pins, inner joints and ratings.

Quantities are SI with the unit at the end of the name. Currents are RMS or direct unless the name
says peak.
"""

import re
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import (
    Metres,
    Millimetres,
    Name,
    Positive,
    PositiveMillimetres,
    Record,
)
from vervain.model.electrical import Electrical, LogicOutput
from vervain.model.elements import BY_HAND, Bridge, Contact, Element
from vervain.model.live_entry import LiveEntry
from vervain.model.ratings import Battery, Controller, Counter, Driver, EncoderRating, Stepper

PartKind = Literal[
    "battery",
    "brake",
    "brushed motor",
    "connector",
    "contactor",
    "controller",
    "diode",
    "emergency stop",
    "encoder",
    "fan",
    "frequency inverter",
    "fuse",
    "hand wheel",
    "heater",
    "jumper",
    "lamp",
    "load",
    "motor bridge",
    "radio receiver",
    "relay module",
    "resistor",
    "sensor",
    "servo",
    "servo drive",
    "signal converter",
    "solid-state relay",
    "stepper driver",
    "stepper motor",
    "supply",
    "switch",
    "terminal strip",
    "thermistor",
    "three-phase motor",
    "tool power source",
    "valve",
]

# Kinds whose ports are told apart in groups; everything else has one plug, or leads.
BOARD_KINDS: tuple[PartKind, ...] = (
    "controller", "stepper driver", "relay module", "motor bridge", "frequency inverter",
    "servo drive", "signal converter", "supply", "radio receiver", "battery", "terminal strip",
    "tool power source",
)  # fmt: skip
# What drives a motor or a tool by itself once it is started, and tells of itself by a contact.
DRIVE_KINDS: tuple[PartKind, ...] = ("frequency inverter", "servo drive", "tool power source")
# What sits at a terminal by its own wires, or is a wire: no cable leads to it.
WIRED_IN_PLACE: tuple[PartKind, ...] = ("jumper", "diode", "resistor")

# Designator letters by IEC 81346-2 class.
DESIGNATOR_LETTERS: dict[str, str] = {
    "battery": "G",
    "brake": "M",
    "brushed motor": "M",
    "connector": "X",
    "contactor": "Q",
    "controller": "K",
    "diode": "R",
    "emergency stop": "S",
    "encoder": "B",
    "fan": "M",
    "frequency inverter": "T",
    "fuse": "F",
    "hand wheel": "S",
    "heater": "E",
    "jumper": "X",
    "lamp": "P",
    "load": "M",
    "motor bridge": "T",
    "radio receiver": "K",
    "relay module": "K",
    "resistor": "R",
    "sensor": "B",
    "servo": "M",
    "servo drive": "T",
    "signal converter": "K",
    "solid-state relay": "Q",
    "stepper driver": "T",
    "stepper motor": "M",
    "supply": "G",
    "switch": "B",
    "terminal strip": "X",
    "thermistor": "B",
    "three-phase motor": "M",
    "tool power source": "T",
    "valve": "M",
}

PortKind = Literal[
    "analogue command",
    "analogue input",
    "analogue output",
    "analogue sensor",
    "bridge control",
    "bridge motor",
    "bridge output",
    "bus",
    "coil",
    "contact",
    "digital input",
    "drive control",
    "driver slot",
    "encoder",
    "feed in",
    "feed out",
    "header",
    "load",
    "motor phases",
    "pulse input",
    "radio",
    "relay contact",
    "sensor",
    "servo",
    "step and direction",
    "stop contacts",
    "stop input",
    "switched output",
    "terminals",
    "thermistor",
    "thermistor input",
    "transducer",
    "transducer input",
]
# Ports by which a drive is told what to do: by a board, or by a knob and a switch that go to it.
WORKED_BY_HAND: tuple[PortKind, ...] = ("analogue command", "drive control", "bridge control")

PinFunction = Literal[
    "plus", "zero", "pe", "line", "neutral",
    "phase A+", "phase A-", "phase B+", "phase B-", "phase U", "phase V", "phase W",
    "centre tap A", "centre tap B",
    "step", "direction", "enable", "alarm",
    "signal", "com", "nc", "no", "com 2", "nc 2",
    "encoder A", "encoder A-", "encoder B", "encoder B-", "encoder Z", "encoder Z-",
    "hall U", "hall V", "hall W",
    "stop A+", "stop A-", "stop B+", "stop B-",
    "load+", "load-", "coil+", "coil-",
    "motor+", "motor-", "pulse width", "sense 1", "sense 2",
    "measure+", "measure-", "excitation+", "excitation-",
    "data", "data+", "data-", "clock", "transmit", "receive", "select",
    "through", "shield", "none",
]  # fmt: skip

# What goes straight in, pin on pin, without a wire: modules in slots, shields on headers.
SEATED: tuple[PortKind, ...] = ("driver slot", "header")

Edge = Literal["top", "right", "bottom", "left"]
Ability = Literal["pulse width", "on/off", "counter", "interrupt", "analogue"]
Gender = Literal["pins", "sockets"]
IndicatorColour = Literal["red", "yellow", "green", "blue", "white"]


# What a terminal takes, as it is printed behind its name: PUL+ (24V), V+ [12-24 V].
VOLTS_BEHIND = re.compile(r"\s*[(\[][^()\[\]]*\d\s?V(?:DC|AC)?[)\]]$", re.IGNORECASE)


@lru_cache(maxsize=8192)
def _without_volts(name: str) -> str:
    """A name without the volts in brackets behind it."""
    return VOLTS_BEHIND.sub("", name) if name.endswith((")", "]")) else name


class Pin(Record, frozen=True, kw_only=True):
    """One contact or flying lead. `id` is what is printed at it or its number.

    `abilities` are what the controller can do at a host pin, where the part says; `wants` what a
    device needs there. What is `optional` may stay open.
    """

    id: Name
    function: PinFunction
    name: str = ""
    lead: str | None = None
    electrical: Electrical | None = None
    abilities: tuple[Ability, ...] | None = None
    optional: bool = False
    wants: tuple[Ability, ...] = ()

    @property
    def text(self) -> str:
        """What stands beside the pin on the board: its short name without the volts that it takes,
        “PUL+ (24V)”, else its id.
        """
        return _without_volts(self.name) or self.id

    @property
    def on_a_net(self) -> PinFunction:
        """What it is to others on its net: an output that switches plus gives a level, whatever its
        loads are called after; one that switches 0 V is 0 V to them.
        """
        output = self.electrical
        gives_plus = isinstance(output, LogicOutput) and output.drive != "NPN"
        return "signal" if self.function == "load-" and gives_plus else self.function


class Reserved(Record, frozen=True, kw_only=True):
    """A port that is not free while an option of its part has a value. `twin_of` is the port whose
    motor its own then follows; `bridged` that a jumper joins its contacts.
    """

    option: Name
    value: str
    twin_of: str | None = None
    bridged: bool = False


class Port(Record, frozen=True, kw_only=True):
    """What one plug or one set of terminals occupies: ordered pins on one edge of the board.

    `end` is "host" where devices are plugged in, "device" where the part's own plug or leads
    are, "through" on connectors and strips. `at_mm` is the middle of the port along its edge,
    `inset_mm` how far inside the board it lies from there; `across` that its row of pins runs away
    from the edge, pin 1 at the edge. `reversed` means that pin 1 is at the right, lower or inner
    end. `needs` names a slot of the same part
    that must hold a module before this port does anything. `gender` is that of its own contacts,
    where the connector family does not tell it. `current_max_a` is what a bridge at the port gives
    for long. `belongs_to` names the port of the same part whose axis this one serves too; `fed_by`
    the feed of the part that a bridge at the port drives with, where it has several. `holds` is how
    many plugs may share it.
    """

    id: Name
    kind: PortKind
    end: Literal["host", "device", "through"]
    pins: Annotated[tuple[Pin, ...], Meta(min_length=1, max_length=64)]
    connector: str | None = None
    edge: Edge = "bottom"
    at_mm: Millimetres = 0.0
    inset_mm: Millimetres = 0.0
    across: bool = False
    reversed: bool = False
    optional: bool = False
    needs: str | None = None
    gender: Gender | None = None
    reserved: tuple[Reserved, ...] = ()
    counter: Counter | None = None
    lead_length_m: Metres = 0.0
    lead_mm2: Positive | None = None
    current_max_a: Positive | None = None
    belongs_to: Name | None = None
    fed_by: Name | None = None
    holds: Annotated[int, Meta(ge=1, le=16)] = 1

    def pin(self, pin_id: str) -> Pin | None:
        """The pin with this id."""
        return next((pin for pin in self.pins if pin.id == pin_id), None)

    @property
    def takes_plugs(self) -> bool:
        """Whether others are plugged in there: a host, or what a knob or a switch may work."""
        return self.end == "host" or (self.end == "device" and self.kind in WORKED_BY_HAND)

    def name_of(self, pin: Pin) -> str:
        """A pin's text, with its number where several pins of this port have that text: "-V 1"."""
        alike = sum(other.text.casefold() == pin.text.casefold() for other in self.pins)
        return pin.text if alike == 1 else f"{pin.text} {pin.id}"


class OutputBank(Record, frozen=True, kw_only=True):
    """Ports whose outputs give no more current together than one chip or fuse behind them does."""

    name: Name
    ports: tuple[Name, ...]
    current_max_a: Positive


class Drawn(Record, frozen=True, kw_only=True):
    """How an option is seen on the board: where it stands, and for each choice how it is set.

    A jumper's position is the two posts that it joins, "1-2", or "off"; that of a row of switches
    one letter a switch, "1" for on and "0" for off.
    """

    form: Literal["jumper", "switches"]
    x_mm: Millimetres
    y_mm: Millimetres
    positions: dict[str, str]


class Option(Record, frozen=True, kw_only=True):
    """Something that is set on the part: a jumper, a switch or a value.

    A choice has `choices`; a number has `unit` and bounds. With `ports`, it is set for each.
    """

    id: Name
    title: Name
    choices: tuple[str, ...] = ()
    default: str | float | None = None
    unit: str = ""
    minimum: float | None = None
    maximum: float | None = None
    ports: tuple[str, ...] = ()
    drawn: Drawn | None = None


class Indicator(Record, frozen=True, kw_only=True):
    """A lamp on the board: its print, its colour (IEC 60073), what it means when it is lit, and
    where it lies.
    """

    id: Name
    colour: IndicatorColour
    means: Annotated[str, Meta(min_length=1, max_length=200)]
    x_mm: Millimetres = 0.0
    y_mm: Millimetres = 0.0


class Board(Record, frozen=True, kw_only=True):
    """Outline of the part as it lies on the bench, in millimetres."""

    width_mm: PositiveMillimetres
    height_mm: PositiveMillimetres


class Part(Record, frozen=True, kw_only=True):
    """A catalogue definition. `maker` and `model` are printed; `id` is unique in the shelf."""

    id: Name
    revision: Annotated[int, Meta(ge=1)] = 1
    kind: PartKind
    title: Name
    maker: str = ""
    model: str = ""
    note: str = ""
    ports: tuple[Port, ...] = ()
    inside: tuple[Element, ...] = ()
    options: tuple[Option, ...] = ()
    board: Board | None = None
    stepper: Stepper | None = None
    driver: Driver | None = None
    encoder: EncoderRating | None = None
    battery: Battery | None = None
    controller: Controller | None = None
    metal_case: bool = False
    bar_max_a: Positive | None = None
    banks: tuple[OutputBank, ...] = ()
    indicators: tuple[Indicator, ...] = ()
    live: tuple[LiveEntry, ...] = ()

    def port(self, port_id: str) -> Port | None:
        """The port with this id."""
        return next((port for port in self.ports if port.id == port_id), None)

    def option(self, option_id: str) -> Option | None:
        """The option with this id."""
        return next((option for option in self.options if option.id == option_id), None)

    def output_worked_by(self, port_id: str) -> Port | None:
        """The output that a channel of a module with transistors works: that of the same place in
        their order, where there are as many of both.
        """
        channels = [p.id for p in self.ports if p.kind == "load" and p.end == "device"]
        outputs = [p for p in self.ports if p.kind == "switched output" and p.end == "host"]
        is_told = self.kind == "relay module" and len(channels) == len(outputs)
        return outputs[channels.index(port_id)] if is_told and port_id in channels else None

    @property
    def has_drivers(self) -> bool:
        """Whether this is a controller with drivers or bridges of its own; modules in slots are
        parts for themselves.
        """
        return self.kind == "controller" and any(
            port.kind in ("motor phases", "bridge output")
            and port.end == "host"
            and port.needs is None
            for port in self.ports
        )

    @property
    def is_safety_relay(self) -> bool:
        """Whether this is a relay whose contacts a stop input works."""
        return is_safety_relay(self.kind, (port.kind for port in self.ports))

    @property
    def marks(self) -> tuple[tuple[Option | Indicator, float, float], ...]:
        """The jumpers, switches and lamps that are seen on the board, with x and y in mm."""
        return (
            *((o, o.drawn.x_mm, o.drawn.y_mm) for o in self.options if o.drawn is not None),
            *((lamp, lamp.x_mm, lamp.y_mm) for lamp in self.indicators),
        )

    @property
    def letter(self) -> str:
        """Designator letter by IEC 81346-2: what a hand works is a signal, or switches power."""
        if self.is_by_hand:
            return "Q" if self.is_in_a_line else "S"
        return DESIGNATOR_LETTERS[self.kind]

    @property
    def is_by_hand(self) -> bool:
        """Whether it is a switch or a button for a hand."""
        contacts = [element for element in self.inside if isinstance(element, Contact)]
        by_hand = bool(contacts) and all(contact.worked_by in BY_HAND for contact in contacts)
        return self.kind == "switch" and by_hand

    @property
    def is_in_a_line(self) -> bool:
        """Whether power goes through it, at every port but those of auxiliary contacts: a main
        switch, a cut-out.
        """
        poles = [port for port in self.ports if port.end == "through"]
        return bool(poles) and all(p.end == "through" or p.kind == "contact" for p in self.ports)


def is_safety_relay(kind: PartKind, port_kinds: Iterable[PortKind]) -> bool:
    """Whether a part with such ports is a relay whose contacts a stop input works."""
    return kind == "relay module" and "stop input" in port_kinds


def is_fitted(bridge: Bridge, part: Part | None, settings: Mapping[str, object]) -> bool:
    """Whether a bridge joins its pins with these settings: always, or as its jumper stands. Of
    ports that share a pin of the processor one is used, and the other is nothing then.
    """
    if bridge.name:
        return False
    if bridge.when is None:
        return True
    option = part.option(bridge.when[0]) if part else None
    default = option.default if option else None
    return settings.get(bridge.when[0], default) == bridge.when[1]
