"""The lines of one connector, each a port of its own: inputs, outputs and contacts of a controller,
with the commons that they share.
"""

import re

from vervain.catalogue.pin_words import is_general
from vervain.catalogue.port_roles import AS_ALARM, PortPin
from vervain.catalogue.port_words import port_words
from vervain.catalogue.role_guess import (
    GIVES_A_LEVEL,
    GIVES_VOLTS,
    IS_OUTPUT,
    guessed_role,
    is_called_for_a_line,
)
from vervain.model.part import PartKind, PinFunction, PortKind
from vervain.text.name_words import name_words, says

Pins = tuple[PortPin, ...]
FEED = ("plus", "zero", "pe", "line", "neutral")
# So many pins of one connector that are used as one likes are no phases of a motor.
LEAST_GENERAL = 3
# Ports that have one line each.
LINES: tuple[PortKind, ...] = (
    "digital input", "switched output", "analogue input", "analogue output",
)  # fmt: skip
# Outputs that are contacts where two terminals bear their name.
OF_CONTACT = re.compile(r"^(?:Q|DQ|DO|OUT|OUTPUT|RELAY|REL|K)\W?\d", re.I)
# The contact of one relay, whose two ends are only counted.
ONE_RELAY = re.compile(r"^(?:RELAY|REL|RLY|CONTACT|Q(?=\W?\d))\W?\d{0,2}$", re.I)
# One of several inputs, each at a connector of its own.
ONE_INPUT = re.compile(r"^(?:DI|IN|INPUT)\W?\d{1,2}$", re.I)
# The common of some relays, as it is printed: 1L before 0.0 and 0.1; of some transistors: COM0.
OF_RELAYS = re.compile(r"^\d?L$", re.I)
OF_TRANSISTORS = re.compile(r"^COM\d$", re.I)
# Both ends of a relay's contact: Q1.1 and Q1.2.
END_OF_CONTACT = re.compile(r"^(?P<stem>Q\d+)[./-](?P<end>[12])$", re.I)


def lines_apart(kind: PartKind, name: str, pins: Pins) -> dict[str, Pins]:
    """The ports of a controller's connector with several inputs or outputs: one for each, with the
    plus and the 0 V that they share.
    """
    if len(pins) == 2 and pins[0] == pins[1] and pins[0].function in ("none", "signal"):
        return {name: _pair_of_one_name(f"{name} {pins[0].name}", pins[0].name)}
    if [pin.name for pin in pins] == ["1", "2"] and (
        _is_for_one_contact(name) or not is_called_for_a_line(name)
    ):
        return {name: (PortPin("1", "signal"), PortPin("2", "zero"))}
    if [pin.name for pin in pins] == ["1", "2"] and ONE_RELAY.match(name):
        return {name: (PortPin("1", "com"), PortPin("2", "no"))}
    if _is_of_a_sensor(pins):
        return {name: pins}
    commons = [pin for pin in pins if OF_RELAYS.match(pin.name)]
    outputs = [pin for pin in pins if OF_CONTACT.match(pin.name)]
    if len(commons) == 1 and len(outputs) + 1 == len(pins):
        # 1L Q0.0 Q0.1: contacts, and the common of them.
        common = PortPin(commons[0].name, "com")
        return {_called(name, at.name): (common, PortPin(at.name, "no")) for at in outputs}
    if IS_OUTPUT.search(name) or re.search(r"\bdo\b", name, re.I):
        if contacts := _ends_of_contacts(pins):
            return contacts
        if by_common := _by_commons(name, pins):
            return by_common
    if pairs := _signed_pairs(pins):
        return pairs
    several = sum(is_general(pin.name) for pin in pins) >= LEAST_GENERAL
    lines = tuple(
        PortPin(pin.name, "signal") for pin in pins
        if (several and is_general(pin.name)) or _is_plain(pin)
    )  # fmt: skip
    others = tuple(pin for pin in pins if pin.name not in {line.name for line in lines})
    role = guessed_role(kind, name, (*lines, *others))
    serves_all = several and {pin.function for pin in others} <= {*FEED, "com", "none"}
    if len(lines) < 2 or not (serves_all or role.kind in LINES or role == AS_ALARM):
        return {name: pins}
    # A terminal that is printed twice is one, with room for more wires.
    shared = tuple(dict.fromkeys(pin for pin in others if pin.function in ("plus", "zero", "com")))
    functions = [pin.function for pin in shared]
    if len(set(functions)) < len(functions):
        # Several voltages to choose from stay by themselves.
        shared = ()
    left = tuple(pin for pin in others if pin not in shared)
    beside = tuple(PortPin(p.name, "zero") if p.function == "com" else p for p in shared)
    # What a connector of such pins is called may tell what they are used for.
    is_told = IS_OUTPUT.search(name) is not None or port_words().gives_a_level(name)
    apart = {
        line.name if is_general(line.name) and not is_told else _called(name, line.name):
            (line, *beside)
        for line in lines
    }  # fmt: skip
    rest = name if any(pin.function not in FEED for pin in left) else f"{name} OUT"
    return {**({rest: left} if left else {}), **apart}


def _is_of_a_sensor(pins: Pins) -> bool:
    """Whether a connector is for one sensor that gives volts and a level: 5V GND AO DO."""
    names = {pin.name.casefold() for pin in pins}
    is_fed = {"plus", "zero"} <= {pin.function for pin in pins}
    return is_fed and len(pins) == 4 and bool(names & GIVES_VOLTS) and bool(names & GIVES_A_LEVEL)


def _is_for_one_contact(name: str) -> bool:
    """Whether a connector is called as one contact is, START, or is one of several inputs, IN1."""
    return says(name, name_words().one_contact) or ONE_INPUT.match(name) is not None


def _pair_of_one_name(words: str, printed: str) -> Pins:
    """Two terminals under one name are a contact that tells something or is an output, Q1 and Q1,
    else an input that a contact between them works.
    """
    tells = says(words, name_words().tells) or OF_CONTACT.match(printed) is not None
    functions: tuple[PinFunction, PinFunction] = ("com", "no") if tells else ("signal", "zero")
    return tuple(PortPin(f"{printed} {number}", f) for number, f in enumerate(functions, 1))


def _signed_pairs(pins: Pins) -> dict[str, Pins]:
    """Several lines with both their ends, DI1+ DI1- DI2+ DI2-; none where any pin is of no pair."""
    found: dict[str, list[PortPin]] = {}
    for pin in pins:
        found.setdefault(pin.name.rstrip("+-\u2212"), []).append(pin)
    are_pairs = all(
        len(own) == 2 and own[0].name != own[1].name and port_words().ends_of_line(stem)
        for stem, own in found.items()
    )
    return {stem: tuple(own) for stem, own in found.items()} if are_pairs and len(found) > 1 else {}


def _called(connector: str, line: str) -> str:
    """What the port of a line is called: by both, but for IN 1 at IN or INPUTS, and at a connector
    that has no name of its own.
    """
    if connector.startswith("PLUG "):
        return line
    word = re.match(r"[A-Za-z]*", line)
    begins = word is not None and connector.casefold().startswith(word[0].casefold())
    letters = re.match(r"[A-Za-z]*", connector)
    is_it = bool(word and letters and word[0].casefold() == letters[0].casefold())
    return line if word and begins and (is_it or len(word[0]) > 1) else f"{connector} {line}"


def _is_plain(pin: PortPin) -> bool:
    """Whether a pin is an input or an output of which nothing more is known."""
    is_known = pin.name.casefold() in port_words().lines.never
    return pin.function in ("signal", "none") and not is_known


def _ends_of_contacts(pins: Pins) -> dict[str, Pins]:
    """The contacts of relays whose two ends are numbered; none where any pin is something else."""
    found: dict[str, dict[str, str]] = {}
    for pin in pins:
        match = END_OF_CONTACT.match(pin.name)
        if match is None:
            return {}
        found.setdefault(match["stem"], {})[match["end"]] = pin.name
    if any(len(ends) < 2 for ends in found.values()):
        return {}
    return {
        stem: (PortPin(ends["1"], "com"), PortPin(ends["2"], "no")) for stem, ends in found.items()
    }


def _by_commons(name: str, pins: Pins) -> dict[str, Pins]:
    """Outputs in groups with a common each, which stands before them: of relays a contact, of
    transistors their 0 V. None where there is no such common, or one for all.
    """
    relays = [pin for pin in pins if OF_RELAYS.match(pin.name)]
    transistors = [pin for pin in pins if OF_TRANSISTORS.match(pin.name)]
    commons = relays or (transistors if len(transistors) > 1 else [])
    if not commons or pins[0] not in commons:
        return {}
    found: dict[str, Pins] = {}
    common = pins[0]
    for pin in pins:
        if pin in commons:
            common = pin
        elif pin.function in FEED:
            found[f"{name} FEED"] = (*found.get(f"{name} FEED", ()), pin)
        elif relays:
            found[f"{name} {pin.name}"] = (PortPin(common.name, "com"), PortPin(pin.name, "no"))
        else:
            line, zero = PortPin(pin.name, "signal"), PortPin(common.name, "zero")
            found[f"{name} {pin.name}"] = (line, zero)
    return found
