"""Pins in words."""

from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries


def pin_text(queries: Queries, ref: PinRef) -> str:
    """A pin as it is called on its board; its number where the machine has not the pin."""
    pin = queries.pin(ref)
    return pin.text if pin is not None else ref.pin


def pin_name(queries: Queries, ref: PinRef) -> str:
    """A pin as `Port.name_of` calls it; its number where the machine has not the pin."""
    port, pin = queries.port(ref.port_ref), queries.pin(ref)
    return port.name_of(pin) if port is not None and pin is not None else ref.pin


def pin_in_words(queries: Queries, ref: PinRef) -> str:
    """A pin with its device and port: "K1 IN 7 S"."""
    return f"{ref.device} {ref.port} {pin_text(queries, ref)}"
