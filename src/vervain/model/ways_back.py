"""Pins that are the ways back of others: by what is printed at both, by what both are for."""

import re

from vervain.model.part import Pin, Port


def is_return_of(text: str, other: str) -> bool:
    """Whether a pin is the minus of another: ALM− of ALM+ or ALM."""
    minus, plus = _plain(text), _plain(other)
    return minus.endswith("-") and minus != plus and minus[:-1] == plus.rstrip("+")


def signal_of(function: str) -> str:
    """The signal that a pin's function is an end or a line of: "phase A" of "phase A+", "encoder A"
    of its complement "encoder A-".
    """
    return function.removesuffix("-").removesuffix("+")


def forward_of(port: Port, pin: Pin) -> Pin | None:
    """The pin of a port whose way back a 0 V of it is; None where it serves all."""
    if pin.function != "zero":
        return None
    return next((other for other in port.pins if is_return_of(pin.text, other.text)), None)


def _plain(text: str) -> str:
    """Text without what is said of it in brackets, PUL+ (24V), and what does not matter."""
    named = re.sub(r"(?<=\S)\s*[(\[][^()\[\]]*[)\]]", "", text)
    return re.sub(r"[\s._]+", "", named.casefold().replace("\N{MINUS SIGN}", "-"))
