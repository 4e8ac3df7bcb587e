"""Connectors that serve several things: told apart into ports, one for each."""

import re
from collections.abc import Mapping

from vervain.catalogue.port_groups import DRIVES, PortPin, stacks
from vervain.model.part import PartKind

Pins = tuple[PortPin, ...]
FEED = ("plus", "zero", "pe", "line", "neutral")
# What starts a drive, beside the command that it follows.
STARTS = ("enable", "direction", "alarm", "com")
# Of a header of a relay module, what switches a channel.
CHANNEL = re.compile(r"^(?:in|ch|sig|s|d|relay|rly|k)\W?\d{1,2}$", re.I)


def told_apart(kind: PartKind, ports: Mapping[str, Pins]) -> dict[str, Pins]:
    """The ports of a part with those parted that serve several things: feed and motor of a driver,
    feed, motors and control of a bridge, the channels of a relay module on one header.
    """
    found: dict[str, Pins] = {}
    for name, pins in ports.items():
        for part_name, members in _parts(kind, name, pins).items():
            found[part_name] = (*found.get(part_name, ()), *members)
    return found


def _parts(kind: PartKind, name: str, pins: Pins) -> dict[str, Pins]:
    functions = {pin.function for pin in pins}
    if stacks(name) is not None:
        return {name: pins}
    if kind == "relay module":
        channels = [pin for pin in pins if CHANNEL.match(pin.name)]
        if len(channels) > 1:
            rest = tuple(pin for pin in pins if pin not in channels)
            return {name: rest, **{pin.name: (pin,) for pin in channels}}
    phases = tuple(pin for pin in pins if pin.function.startswith("phase"))
    if kind == "stepper driver" and phases and "plus" in functions and "step" not in functions:
        rest = tuple(pin for pin in pins if pin not in phases)
        return {name: rest, f"MOTOR {_mark(name)}".strip(): phases}
    starts = tuple(pin for pin in pins if pin.function in STARTS)
    if kind in DRIVES and starts and "signal" in functions and "step" not in functions:
        rest = tuple(pin for pin in pins if pin not in starts)
        return {name: rest, f"START {_mark(name)}".strip(): starts}
    motors = tuple(pin for pin in pins if pin.function in ("motor+", "motor-"))
    if kind == "motor bridge" and motors and len(motors) < len(pins):
        rest = tuple(pin for pin in pins if pin not in motors)
        return {name: rest, f"MOTOR {_mark(name)}".strip(): motors}
    feed = tuple(pin for pin in pins if pin.function in FEED)
    mains = tuple(pin for pin in feed if pin.function in ("line", "neutral", "pe"))
    if kind == "supply" and mains and "plus" in functions:
        rest = tuple(pin for pin in pins if pin not in mains)
        return {f"MAINS {_mark(name)}".strip(): mains, name: rest}
    return {name: pins}


def _mark(name: str) -> str:
    """What is printed at a connector, of its name: “P2” of “POWER P2”."""
    words = name.split()
    return words[-1] if words and re.search(r"\d", words[-1]) else ""
