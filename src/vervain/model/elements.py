"""What lies between the pins of a part inside it: copper, contacts, fuses, windings, resistors."""

from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import Name, Positive, Record

PinAt = tuple[str, str]


class Bridge(Record, tag="bridge", frozen=True, kw_only=True):
    """Pins joined inside the part, each written [port, pin].

    With `when`, only while the option of that id has that value: a jumper. `name` is what they
    share, where it has one, "processor pin 14": such ports are not joined, and one of them is used.
    """

    pins: Annotated[tuple[PinAt, ...], Meta(min_length=2)]
    when: tuple[str, str] | None = None
    name: str = ""


# What hands work; "hand" is also what a contact is worked by where nothing is said.
BY_HAND = ("hand", "key")


# What holds a contact while its device has power, until somebody asks the machine to stop.
HELD_BY = ("radio", "beam")


class Contact(Record, tag="contact", frozen=True, kw_only=True):
    """A contact between two pins. `rest` is its state when nothing works it. `worked_by` is a port
    of the part that works it (a coil, a channel), or a word: hand, key, plunger, heat, mushroom;
    program, for a relay on a controller; fault, for one that tells that a device is in order; arc,
    for one that tells that a source burns; radio, for a contact that a powered receiver holds while
    its remote is there and not pressed; or beam, for an output that a powered light curtain holds
    while nobody reaches into it.
    `worked_pin` is the pin of that port that does it, where the port has pins for several contacts:
    the foot of a relay shield.

    One that a stop input works is that of a safety relay: it closes while every channel of that
    input is closed; where `started_by` names an input of the part, only once a button at that input
    was pressed and let go, and it holds itself.

    It needs `current_min_a` to break through its own oxide, and switches no more than
    `current_max_a` (of a coil `inductive_max_a`) at `v_max_v`. It moves `operate_s` after its coil
    has power, and `release_s` after that is gone (operate and release time, IEC 61810-1). One made
    of semiconductors `switches` only alternating, or only direct current.
    """

    pins: tuple[PinAt, PinAt]
    rest: Literal["NC", "NO"]
    worked_by: Name = "hand"
    worked_pin: Name | None = None
    started_by: Name | None = None
    current_min_a: Positive | None = None
    current_max_a: Positive | None = None
    inductive_max_a: Positive | None = None
    v_max_v: Positive | None = None
    operate_s: Positive | None = None
    release_s: Positive | None = None
    switches: Literal["AC", "DC"] | None = None


FuseKind = Literal["blade", "IEC 60127", "gG", "breaker"]


class Fuse(Record, tag="fuse", frozen=True, kw_only=True):
    """A fuse link between two pins; the rating is the device's setting `rating_a`. It breaks up to
    `v_max_v` of direct voltage, and a fault of up to `breaking_a`.
    """

    pins: tuple[PinAt, PinAt]
    kind: FuseKind = "blade"
    v_max_v: Positive | None = None
    breaking_a: Positive | None = None


class Winding(Record, tag="winding", frozen=True, kw_only=True):
    """A coil between two pins, at 20 °C; without a resistance where nobody gave it."""

    pins: tuple[PinAt, PinAt]
    resistance_ohm: Positive | None = None
    inductance_h: Positive | None = None
    works: str | None = None


class Resistor(Record, tag="resistor", frozen=True, kw_only=True):
    """A resistor between two pins, and what it can shed."""

    pins: tuple[PinAt, PinAt]
    resistance_ohm: Positive
    power_w: Positive = 0.25


class Diode(Record, tag="diode", frozen=True, kw_only=True):
    """A diode from its anode to its cathode."""

    pins: tuple[PinAt, PinAt]
    current_a: Positive = 1.0


Element = Bridge | Contact | Fuse | Winding | Resistor | Diode
