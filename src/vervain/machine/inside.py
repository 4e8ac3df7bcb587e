"""What joins the pins of a part inside it: copper, contacts, fuses, windings."""

from typing import Annotated, Literal

from msgspec import Meta

from vervain.machine.record import Name, Positive, Record

PinAt = tuple[str, str]


class Bridge(Record, tag="bridge", frozen=True, kw_only=True):
    """Pins joined inside the part, each written [port, pin]."""

    pins: Annotated[tuple[PinAt, ...], Meta(min_length=2)]


class Contact(Record, tag="contact", frozen=True, kw_only=True):
    """A contact between two pins. `rest` is its state when nothing works it."""

    pins: tuple[PinAt, PinAt]
    rest: Literal["NC", "NO"]
    worked_by: Name = "hand"
    current_max_a: Positive | None = None


class Fuse(Record, tag="fuse", frozen=True, kw_only=True):
    """A fuse link between two pins; the rating is the device's setting `rating_a`."""

    pins: tuple[PinAt, PinAt]


class Winding(Record, tag="winding", frozen=True, kw_only=True):
    """A coil between two pins, at 20 °C."""

    pins: tuple[PinAt, PinAt]
    resistance_ohm: Positive
    inductance_h: Positive | None = None
    works: str | None = None


Element = Bridge | Contact | Fuse | Winding
