"""Connectors that serve several things: told apart into ports, one for each."""

import re
from collections.abc import Mapping
from itertools import chain, pairwise
from typing import get_args

from vervain.catalogue.lines_apart import lines_apart
from vervain.catalogue.pin_words import feeds_logic
from vervain.catalogue.port_roles import PortPin
from vervain.catalogue.role_guess import IS_INPUT, IS_OUTPUT, stacks
from vervain.catalogue.source_lines import source_lines
from vervain.catalogue.terminal_numbers import WITH_CONTACTS, contacts_among, port_of
from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction
from vervain.model.ways_back import is_return_of

Pins = tuple[PortPin, ...]
PHASES = tuple(function for function in get_args(PinFunction) if function.startswith("phase"))
# What commands a drive that follows pulses.
COMMANDS = ("step", "direction", "enable")
# What starts a drive, beside the command that it follows.
STARTS = ("enable", "direction", "alarm", "com")
# The line of three-phase mains that a drive for one phase leaves open.
SECOND_LINES = ("S", "L3")
# Of a header of a relay module, what switches a channel.
CHANNEL = re.compile(r"^(?:in|ch|sig|s|d|relay|rly|k)\W?\d{1,2}$", re.I)

# One end of a motor at a bridge for several.
OF_A_MOTOR = re.compile(r"^(M(?:OT|OTOR)?[ _-]?\d)[ _-]?[AB+-]$", re.I)

# The terminals of a safety relay, by their beginnings: what starts it, and its two channels.
CHANNELS, STARTS_RELAY = re.compile(r"^S[12]\d$", re.I), re.compile(r"^[SYX][3-9]\d?$|^Y\d$", re.I)
AS_FEED: dict[PinFunction, PinFunction] = {"coil+": "plus", "coil-": "zero"}


def told_apart(
    kind: PartKind, ports: Mapping[str, Pins], has_wires: bool = False
) -> dict[str, Pins]:
    """The ports of a part with those parted that serve several things: feed and motor of a driver,
    feed, motors and control of a bridge, the channels of a relay module on one header, numbered
    contacts, and what a safety relay has at its terminals. `has_wires` says that a driver which
    would go into a slot is wired pin by pin.
    """
    found: dict[str, Pins] = {}
    if kind in WITH_CONTACTS:
        ports = _contacts_apart(ports)
    if kind == "relay module" and (of_safety_relay := _safety_relay(ports)):
        return of_safety_relay
    for name, pins in ports.items():
        for part_name, members in _parts(kind, name, pins, has_wires).items():
            if not members:
                continue
            # Two connectors of a controller may count their lines alike.
            is_line = kind == "controller" and part_name not in (name, *ports)
            called = f"{name} {part_name}" if is_line and part_name in found else part_name
            found[called] = (*found.get(called, ()), *members)
    has_contacts = any(pin.function in ("no", "nc") for pins in found.values() for pin in pins)
    return _loads_apart(found) if kind == "relay module" and not has_contacts else found


def _contacts_apart(ports: Mapping[str, Pins]) -> dict[str, Pins]:
    """The ports, with each contact that is numbered as such in one of its own."""
    found: dict[str, Pins] = {}
    for name, pins in ports.items():
        contacts = contacts_among(pin.name for pin in pins)
        taken = {terminal for contact in contacts for _, terminal in contact}
        rest = tuple(pin for pin in pins if pin.name not in taken)
        if rest:
            found[name] = rest
        for contact in contacts:
            is_coil = contact[0][0] == "coil+"
            found["COIL" if is_coil else port_of(contact)] = tuple(
                PortPin(at, function) for function, at in contact
            )
    return found


def _safety_relay(ports: Mapping[str, Pins]) -> dict[str, Pins]:
    """The ports of a safety relay by what is printed at their terminals: its feed, its channels and
    what starts it; none of any other part.
    """
    every = [pin for pins in ports.values() for pin in pins]
    if not any(
        pin.function in ("stop A+", "stop B+") and CHANNELS.match(pin.name) for pin in every
    ):
        return {}
    feed = tuple(
        PortPin(pin.name, AS_FEED[pin.function]) for pin in every if pin.function in AS_FEED
    )
    channels = tuple(pin for pin in every if CHANNELS.match(pin.name))
    starts = tuple(pin for pin in every if STARTS_RELAY.match(pin.name))
    taken = {pin.name for pin in (*feed, *channels, *starts)}
    found = {"POWER": feed, "STOP": channels, "START": starts}
    for name, pins in ports.items():
        rest = tuple(pin for pin in pins if pin.name not in taken)
        if rest:
            found[name] = (*found.get(name, ()), *rest)
    return {name: pins for name, pins in found.items() if pins}


def _parts(kind: PartKind, name: str, pins: Pins, has_wires: bool = False) -> dict[str, Pins]:
    """The ports of a connector that serves several things, by the kind of the part."""
    functions = {pin.function for pin in pins}
    if stacks(name) is not None:
        return {name: pins}
    if whole := _power_and_motor_apart(kind, name, pins, has_wires):
        left, pins_left = whole.popitem()
        return {**whole, **(_parts(kind, left, pins_left, has_wires) if pins_left else {})}
    if kind == "relay module":
        return _channels_apart(name, pins)
    if kind in ("motor bridge", "controller") and (motors := _motors_apart(pins)):
        return motors
    if kind == "controller" and (axis := _encoder_apart(name, pins)):
        return axis
    converts = kind == "signal converter" and (IS_OUTPUT.search(name) or IS_INPUT.search(name))
    if kind == "controller" or converts:
        return lines_apart(kind, name, pins)
    if kind == "tool power source":
        return source_lines(name, pins)
    if kind == "stepper driver" and (told := _what_it_tells(name, pins)):
        return told
    if kind in DRIVE_KINDS and "signal" in functions and "step" not in functions:
        return _starts_apart(name, pins)
    if kind in ("stepper driver", *DRIVE_KINDS) and "step" in functions:
        return _told_apart_from_command(name, pins)
    away: dict[PartKind, tuple[str, bool, tuple[PinFunction, ...]]] = {
        "stepper driver": ("MOTOR", "plus" in functions and "step" not in functions, PHASES),
        "motor bridge": ("MOTOR", True, ("motor+", "motor-")),
        "supply": ("MAINS", "plus" in functions, ("line", "neutral", "pe")),
    }
    called, is_mixed, wanted = away.get(kind, ("", False, ()))
    taken = tuple(pin for pin in pins if pin.function in wanted)
    if not is_mixed or not taken or len(taken) == len(pins):
        return {name: pins}
    rest = tuple(pin for pin in pins if pin not in taken)
    parted = {f"{called} {_mark(name)}".strip(): taken}
    if kind == "stepper driver" and (feeds := _logic_apart(rest)):
        return {**feeds, **parted}
    if kind == "stepper driver" and {pin.function for pin in rest} == {"plus", "zero"}:
        # GND VDC A+ A- B+ B-.
        return {"POWER" if name.startswith("PLUG ") else name: rest, **parted}
    # Mains come first on a supply.
    if kind == "supply":
        return {**parted, "OUT" if name == "PORT" else name: rest}
    return {name: rest, **parted}


def _encoder_apart(name: str, pins: Pins) -> dict[str, Pins]:
    """The pulses of an axis at a controller's connector, and the encoder at the same, each with the
    0 V of both; none where there are not both.
    """
    channels = tuple(pin for pin in pins if (pin.function or "").startswith("encoder"))
    rest = tuple(pin for pin in pins if pin not in channels)
    if len(channels) < 2 or not any(pin.function == "step" for pin in rest):
        return {}
    shared = tuple(pin for pin in rest if pin.function == "zero")[-1:]
    return {name: rest, f"ENC {name}": (*channels, *shared)}


def _loads_apart(ports: dict[str, Pins]) -> dict[str, Pins]:
    """The ports of a module that switches by transistors: what feeds its loads apart from what
    feeds itself, VCC GND and V+ V-; of a third pair, where nothing is called an output, the loads
    have their power: VIN GND, V+ V-.
    """
    found: dict[str, Pins] = {}
    for name, pins in ports.items():
        names = {pin.name for pin in pins if pin.function == "plus"}
        if len(names) < 2 or {pin.function for pin in pins} != {"plus", "zero"}:
            found[name] = pins
            continue
        parts: list[Pins] = []
        for pin in pins:
            # A 0 V is that of the plus before it, the first of all that of the plus behind it.
            if pin.function == "plus" and any(at.function == "plus" for at in chain(*parts)):
                parts.append(())
            parts[-1:] = [(*(parts[-1] if parts else ()), pin)]
        for number, part in enumerate(parts):
            if all(pin.function == "plus" for pin in part):
                # Its way back stands beside the signal: VCC GND SIG.
                part = (*part, *_way_back_of_signals(ports))
            gives = number > 1 and number == len(parts) - 1 and "OUT" not in ports
            plus = next(pin.name for pin in part if pin.function == "plus")
            found["OUT" if gives else f"{name} {plus}" if number else name] = part
    return found


def _way_back_of_signals(ports: dict[str, Pins]) -> Pins:
    """The 0 V that stands beside what turns a module on; none where none does."""
    beside = (pins for pins in ports.values() if any(pin.function == "signal" for pin in pins))
    return tuple(pin for pins in beside for pin in pins if pin.function == "zero")[:1]


def _logic_apart(pins: Pins) -> dict[str, Pins]:
    """What feeds the motor of a driver, and what its logic, each with the 0 V beside it; none where
    there is one feed, or anything else.
    """
    logic = [pin for pin in pins if pin.function == "plus" and feeds_logic(pin.name)]
    power = [pin for pin in pins if pin.function == "plus" and pin not in logic]
    if len(logic) != 1 or len(power) != 1 or {pin.function for pin in pins} != {"plus", "zero"}:
        return {}
    backs = [at for at, pin in enumerate(pins) if pin.function == "zero"]
    beside = {
        plus: pins[min(backs, key=lambda at: abs(at - pins.index(plus)))]
        for plus in (*power, *logic)
    }
    return {"POWER": (power[0], beside[power[0]]), "LOGIC": (logic[0], beside[logic[0]])}


def _earths_of_the_motor(pins: Pins) -> list[int]:
    """The places of the earths that are listed behind the phases of a motor, beside others."""
    found = [
        at + 1 for at, (before, pin) in enumerate(pairwise(pins))
        if pin.function == "pe" and before.function in PHASES
    ]  # fmt: skip
    return found if len(found) < sum(pin.function == "pe" for pin in pins) else []


def _power_and_motor_apart(
    kind: PartKind, name: str, pins: Pins, has_wires: bool
) -> dict[str, Pins]:
    """The feed, the motor and last what is left of a drive whose terminals are all listed as one;
    none where it is one plug, as that of a driver that goes into a slot: its step has no minus.
    """
    phases = tuple(pin for pin in pins if pin.function in PHASES)
    earths = _earths_of_the_motor(pins)
    backs = {
        pin for pin in pins for other in pins
        if other.function != pin.function and is_return_of(pin.name, other.name)
    }  # fmt: skip
    feed = _feed_among(
        tuple(pin for at, pin in enumerate(pins) if pin not in backs and at not in earths)
    )
    feed = feed or _plus_with_its_minus(pins)
    is_slot = kind == "stepper driver" and not any(pin.function == "zero" for pin in backs)
    is_slot = is_slot and not has_wires
    phases += tuple(pins[at] for at in earths)
    rest = tuple(pin for pin in pins if pin not in (*phases, *feed))
    if kind not in ("stepper driver", *DRIVE_KINDS) or is_slot or not (phases and feed):
        return {}
    if not rest and kind == "stepper driver":
        return {}
    mark = _mark(name)
    return {
        f"POWER {mark}".strip(): feed,
        f"MOTOR {mark}".strip(): phases,
        "CONTROL" if name == "PORT" else name: rest,
    }


def _feed_among(pins: Pins) -> Pins:
    """The mains with their earth and the line between two, else the plus beside its 0 V."""
    mains = tuple(pin for pin in pins if pin.function in ("line", "neutral"))
    if mains:
        between = {pin for pin in pins if pin.function == "none" and pin.name in SECOND_LINES}
        every = (*mains, *between)
        earth = tuple(pin for pin in pins if pin.function == "pe")
        return (*(pin for pin in pins if pin in every), *earth)
    beside = [pair for pair in pairwise(pins) if {p.function for p in pair} == {"plus", "zero"}]
    return beside[-1] if beside else ()


def _plus_with_its_minus(pins: Pins) -> Pins:
    """A plus and the minus that is called as it is: DC+ DC-."""
    pairs = ((pin, other) for pin in pins for other in pins if pin.function == "plus")
    return next((pair for pair in pairs if is_return_of(pair[1].name, pair[0].name)), ())


def _channels_apart(name: str, pins: Pins) -> dict[str, Pins]:
    """The coil of a relay, or what switches each channel of a module beside the feed of all."""
    functions = {pin.function for pin in pins}
    if len(pins) == 2 and pins[0].name == pins[1].name:
        # SW1 SW1: both ends of what is switched.
        first, second = (f"{pin.name} {number}" for number, pin in enumerate(pins, 1))
        return {name: (PortPin(first, "com"), PortPin(second, "no"))}
    coil = tuple(pin for pin in pins if pin.function in AS_FEED)
    if len(coil) == 2 and len(pins) == 2:
        # The plus of a load; its other end is what switches it.
        return {f"COIL {_mark(name)}".strip(): (PortPin(coil[0].name, "plus"), coil[1])}
    channels = [pin for pin in pins if CHANNEL.match(pin.name)]
    if not channels and {"plus", "zero", "signal"} <= functions:
        # What is fed on its own takes no current at what switches it.
        channels = [pin for pin in pins if pin.function == "signal"]
    if len(channels) < 2 and not (channels and {"plus", "zero"} <= functions):
        return {name: pins}
    rest = tuple(pin for pin in pins if pin not in channels)
    apart = {pin.name: (pin,) for pin in channels}
    left = {f"{name} POWER" if name in apart else name: rest} if rest else {}
    return {**left, **apart}


def _starts_apart(name: str, pins: Pins) -> dict[str, Pins]:
    """The command of a drive, and what starts it; one common serves both."""
    starts = tuple(pin for pin in pins if pin.function in STARTS)
    if not any(pin.function != "com" for pin in starts):
        return {name: pins}
    rest = tuple(pin for pin in pins if pin not in starts)
    common = tuple(pin for pin in pins if pin.function in ("zero", "com"))
    if len(common) > 1 and not any(pin.function == "com" for pin in starts):
        # Each has its own, that which stands beside it: FWD REV DCM, AVI ACM.
        places = [at for at, pin in enumerate(pins) if pin in starts]
        own = min(
            (pin for pin in common if pin in rest),
            key=lambda pin: min(abs(pins.index(pin) - at) for at in places),
        )
        rest = tuple(pin for pin in rest if pin != own)
        starts = (*starts, PortPin(own.name, "zero"))
    if len(common) == 1:
        # A wire of each of the two plugs goes to it.
        as_zero = PortPin(common[0].name, "zero")
        rest = (*(pin for pin in rest if pin != common[0]), as_zero)
        starts = (*(pin for pin in starts if pin != common[0]), as_zero)
    return {name: rest, f"START {_mark(name)}".strip(): starts}


def _motors_apart(pins: Pins) -> dict[str, Pins]:
    """The outputs for several motors at one connector, M1A M1B M2A M2B; none of any other."""
    found: dict[str, Pins] = {}
    for pin in pins:
        end = OF_A_MOTOR.match(pin.name)
        if end is None or pin.function not in ("motor+", "motor-"):
            return {}
        found[end[1]] = (*found.get(end[1], ()), pin)
    return found if len(found) > 1 and all(len(own) == 2 for own in found.values()) else {}


def _what_it_tells(name: str, pins: Pins) -> dict[str, Pins]:
    """What a driver tells by several pairs at one connector, PEND+ PEND- ALM+ ALM-, pair by pair;
    none of a connector at which anything else is.
    """
    tells = [pin for pin in pins if pin.function in ("alarm", "signal")]
    pairs = {pin: [at for at in pins if is_return_of(at.name, pin.name)] for pin in tells}
    every = [at for pin, backs in pairs.items() for at in (pin, *backs)]
    if len(tells) < 2 or not all(pairs.values()) or len(every) < len(pins):
        return {}
    is_only = sum(pin.function == "alarm" for pin in pairs) == 1
    return {
        "ALARM" if is_only and pin.function == "alarm" else pin.name.rstrip("+ "): (pin, *backs)
        for pin, backs in pairs.items()
    }


def _told_apart_from_command(name: str, pins: Pins) -> dict[str, Pins]:
    """The command of a drive; what it tells by, pair by pair, which goes to other ports of the
    controller; and the encoder that it passes on.
    """
    tells = [pin for pin in pins if pin.function == "alarm"]
    encoder = tuple(pin for pin in pins if pin.function.startswith("encoder"))
    pairs = {tell: [pin for pin in pins if is_return_of(pin.name, tell.name)] for tell in tells}
    taken = {*tells, *encoder, *(back for backs in pairs.values() for back in backs)}
    rest = tuple(pin for pin in pins if pin not in taken)
    # Without a way back of its own it is measured from the common of the others.
    common = [
        pin for pin in rest
        if pin.function in ("zero", "com")
        and not any(is_return_of(pin.name, p.name) for p in rest if p.function in COMMANDS)
    ][:1]  # fmt: skip
    found = {name: rest}
    for tell, backs in pairs.items():
        called = "ALARM" if len(pairs) == 1 else tell.name.rstrip("+ ")
        found[f"{called} {_mark(name)}".strip()] = (tell, *(backs or common))
    if encoder:
        found[f"ENC OUT {_mark(name)}".strip()] = encoder
    return found


def _mark(name: str) -> str:
    """What is printed at a connector, of its name: “P2” of “POWER P2”."""
    words = name.split() if not name.startswith("PLUG ") else []
    return words[-1] if words and re.search(r"\d", words[-1]) else ""
