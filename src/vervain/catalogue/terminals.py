"""Parts told by their terminals alone: contactors, solid-state relays, stops and switches by the
numbers on them (see `terminal_numbers`), fuses, in-line connectors, thermistors.
"""

import re
from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec.structs import replace

from vervain.catalogue.pin_words import read_function
from vervain.catalogue.printed_volts import volts_printed, window_printed
from vervain.catalogue.terminal_numbers import (
    OF_MAINS,
    POLE,
    POLE_BY_WORD,
    Found,
    port_of,
    take_contacts,
    take_lamp,
    take_mains_poles,
    take_named,
    take_poles,
    take_single,
    take_solenoid,
)
from vervain.model.base import Record
from vervain.model.electrical import MAINS_V, FeedIn
from vervain.model.elements import Bridge, Contact, Element, Fuse, FuseKind, Winding
from vervain.model.part import Option, PartKind, Pin, PinFunction, Port
from vervain.text.name_words import name_words, says

# The ends of a coil: by IEC 60947, by its signs, and of relays for cars (DIN 72552).
COILS = (("A1", "A2"), ("A1+", "A2-"), ("COIL+", "COIL-"), ("85", "86"))
# A contact that changes over, by its common and its throws.
CHANGEOVERS = (("COM", "NO", "NC"), ("C", "NO", "NC"), ("30", "87", "87A"))
TERMINAL_KINDS: tuple[PartKind, ...] = (
    "contactor", "solid-state relay", "emergency stop", "fuse", "connector", "thermistor",
)  # fmt: skip
LINES_IN = ("L1", "L2", "L3")
# The control terminals of a solid-state relay: A1+ and A2-, or 3 and 4 beside poles 1 and 2.
CONTROL = (
    (
        re.compile(r"^(A1|3|IN|INPUT|DC|CTRL|CONTROL)?[/ ]?\+$|^A1$|^\+DC$", re.I),
        re.compile(r"^(A2|4|IN|INPUT|DC|CTRL|CONTROL)?[/ ]?[-−–]$|^A2$|^[-−–]DC$", re.I),
    ),
    (re.compile(r"^3$"), re.compile(r"^4$")),
)
SIGNED_POLE = re.compile(r"^[+−-][1-4]$|^[12][+−-]$")
# The two ends of what a solid-state relay switches, by a word or the sign of alternating current.
SOLID_POLE = re.compile(
    r"^(?:(?:AC|LOAD|OUT|OUTPUT)?[ ]?~?(?:\.?[12])?|[12]~|T[12]|AC ?LOAD[12]?)$", re.I
)
# A coil works from 0.85 to 1.1 of its rated voltage (IEC 60947-4-1).
COIL_FROM, COIL_TO = 0.85, 1.1
# A main pole that says of which line it is: 1/L1, 2/T1, L1.
MAIN_POLE = re.compile(r"(?:^|/)[LT][1-3]$")
# Cartridges of 5 x 20 mm go up to this (IEC 60127-2).
LARGEST_BLADE_A, LARGEST_CARTRIDGE_A = 30.0, 10.0
# A light-emitting diode in a button takes about this much, whatever its volts.
LAMP_A = 0.02
OF_OVERLOAD = re.compile(r"^9[5-8]")
# What feeds all fuses of a box.
FEED_OF_FUSES = re.compile(r"^(?:IN|BAT|BATT|FEED|SUPPLY|\+)\+?$", re.I)
# What a contact does at rest, as it is printed: N.O., NC.
WORDS_OF_CONTACT = re.compile(r"\bN\.?([OC])\b", re.I)


class Terminals(Record, frozen=True, kw_only=True):
    """What terminals come to: ports, what lies between them, what is set; and what is wrong."""

    ports: tuple[Port, ...] = ()
    inside: tuple[Element, ...] = ()
    options: tuple[Option, ...] = ()
    problems: tuple[str, ...] = ()


def worked_by(title: str) -> str:
    """What works the contacts of a switch of a name."""
    return "hand" if says(title, name_words().by_hand) else "plunger"


def opens_by_heat(title: str) -> bool:
    """Whether a switch of a name is a cut-out, which lies in the feed of what it protects."""
    return says(title, name_words().cut_out)


def turns_on(title: str) -> bool:
    """Whether a switch of a name turns something on, so that its contact is one that closes."""
    words = name_words()
    opens = is_at_a_door(title) or says(title, words.opens)
    return says(title, words.turns_on) and not opens


def does_by_name(title: str) -> Literal["no", "nc"] | None:
    """What the contact of a switch of a name does when it is worked, where that says it."""
    if says(title, name_words().to_stop):
        return "nc"
    return "no" if turns_on(title) else None


def is_at_a_door(title: str) -> bool:
    """Whether a switch of a name sits at a door or a lid."""
    return says(title, name_words().at_a_door)


def terminal_part(
    kind: PartKind,
    prints: Mapping[str, str],
    numbers: Mapping[str, float],
    lead_length_m: float,
    title: str,
) -> Terminals:
    """The ports and the inside of a part of a kind from the names of its terminals, in order, each
    with all that is printed there.
    """
    names = tuple(prints)
    if kind == "fuse":
        return _fuse(names, numbers, title)
    if kind == "connector":
        return _connector(names)
    if kind == "thermistor":
        return _thermistor(names, lead_length_m)
    if kind == "switch" and opens_by_heat(title):
        return _cut_out(names, numbers, lead_length_m)
    found = _contacts(kind, prints, numbers, title)
    return _as_overload(found) if any(map(_is_of_overload, names)) else found


def _cut_out(
    names: tuple[str, ...], numbers: Mapping[str, float], lead_length_m: float
) -> Terminals:
    """Two ends of a contact that heat opens."""
    if len(names) != 2:
        return Terminals(problems=("A cut-out has two leads: call them by two names.",))
    first, second = names
    port = Port(
        id="LEADS", kind="terminals", end="through", pins=(_through(first), _through(second)),
        lead_length_m=lead_length_m,
    )  # fmt: skip
    opens = Contact(
        pins=(("LEADS", first), ("LEADS", second)), rest="NC", worked_by="heat",
        current_max_a=numbers.get("contact_max_a") or None,
    )  # fmt: skip
    return Terminals(ports=(port,), inside=(opens,))


def _through(name: str) -> Pin:
    return Pin(id=name, function="through")


def _fuse_kind(numbers: Mapping[str, float], title: str) -> FuseKind:
    """What is put into a holder of a name and with these limits: blades bear no mains."""
    if says(title, name_words().breaker):
        return "breaker"
    if (numbers.get("v_max_v") or 0.0) < MAINS_V:
        return "blade"
    return "IEC 60127" if (numbers.get("fuse_max_a") or 0.0) <= LARGEST_CARTRIDGE_A else "gG"


def _fuse(names: tuple[str, ...], numbers: Mapping[str, float], title: str) -> Terminals:
    """Holders by pairs of terminals: the first two are one fuse, the next two another; and the
    contacts of a breaker that say whether it has tripped.
    """
    left = {name: name for name in names}
    signs = take_contacts(left) if len(names) > 2 else []
    names = tuple(left)
    pairs = list(zip(names[::2], names[1::2], strict=False))
    mains = take_mains_poles({name.upper(): name for name in names})
    if mains:
        # L N L' N' is a fuse in the line and one in the neutral.
        pairs = [(a, b) for (_, a), (_, b) in mains]
    has_one_feed = len(names) > 2 and FEED_OF_FUSES.match(names[0]) is not None
    if has_one_feed and not any(map(FEED_OF_FUSES.match, names[1:])):
        pairs = [(names[0], name) for name in names[1:]]
        names = tuple(name for pair in pairs for name in pair)
    wrong = () if len(names) % 2 == 0 and pairs else ("A fuse has two ends: give them in pairs.",)
    ports = tuple(
        Port(
            id="FUSE" if len(pairs) == 1 else f"FUSE {number}", kind="terminals", end="through",
            pins=(_through(a), _through(b)),
        )
        for number, (a, b) in enumerate(pairs, 1)
    )  # fmt: skip
    most = numbers.get("fuse_max_a") or LARGEST_BLADE_A
    rating = Option(
        id="rating_a", title="Fuse, rated", unit="A", minimum=0.1, maximum=most,
        default=min(5.0, most),
    )  # fmt: skip
    inside = tuple(
        Fuse(
            pins=((port.id, port.pins[0].id), (port.id, port.pins[1].id)),
            v_max_v=numbers.get("v_max_v") or None,
            kind=_fuse_kind(numbers, title),
        )
        for port in ports
    )
    # A breaker is on while the machine works: what closes with it is closed until it trips. What an
    # overload relay has is printed as it is until then.
    tripped = [
        Contact(
            pins=((port_of(sign), sign[0][1]), (port_of(sign), name)),
            rest="NC" if (function == "nc") == _is_of_overload(name) else "NO",
            worked_by="trip",
        )
        for sign in signs
        for function, name in sign[1:]
    ]
    ports += tuple(_contact_port("fuse", sign) for sign in signs)
    fed = [(port.id, port.pins[0].id) for port in ports if port.kind == "terminals"]
    bar = (Bridge(pins=tuple(fed)),) if has_one_feed and len({pin for _, pin in fed}) == 1 else ()
    return Terminals(
        ports=ports, inside=(*inside, *tripped, *bar), options=(rating,), problems=wrong
    )


def _as_overload(found: Terminals) -> Terminals:
    """What terminals come to, of an overload relay: what the motor takes runs through its poles
    whatever it does, and its contacts change once it has tripped.
    """
    poles = {port.id for port in found.ports if port.kind == "terminals"}
    inside = tuple(
        Bridge(pins=element.pins)
        if isinstance(element, Contact) and element.pins[0][0] in poles
        else replace(element, worked_by="trip")
        if isinstance(element, Contact)
        else element
        for element in found.inside
    )
    return replace(found, inside=inside)


def _is_of_overload(name: str) -> bool:
    """Whether a terminal is one of a contact that an overload relay works: 95 to 98 (EN 50005)."""
    return OF_OVERLOAD.match(name) is not None


def _connector(names: tuple[str, ...]) -> Terminals:
    """Two faces with the same ways; one with L and N, or three lines, is that by which mains comes
    in.
    """
    told = {name: read_function(name, "supply") for name in names}
    functions = [*told.values()]
    is_inlet = {"line", "neutral"} <= {*functions} or functions.count("line") >= len(LINES_IN)
    mains: dict[str, PinFunction] = {
        name: function for name, function in told.items()
        if is_inlet and function in ("line", "neutral", "pe")
    }  # fmt: skip
    pins = tuple(Pin(id=name, function=mains.get(name, "through")) for name in names)
    ports = tuple(Port(id=face, kind="terminals", end="through", pins=pins) for face in "AB")
    return Terminals(ports=ports, inside=tuple(Bridge(pins=(("A", n), ("B", n))) for n in names))


def _thermistor(names: tuple[str, ...], lead_length_m: float) -> Terminals:
    wrong = () if len(names) == 2 else ("A thermistor has two leads.",)
    pins = tuple(
        Pin(id=name, function="sense 2" if number else "sense 1")
        for number, name in enumerate(names[:2])
    )
    port = Port(id="LEADS", kind="thermistor", end="device", pins=pins, lead_length_m=lead_length_m)
    return Terminals(ports=(port,) if pins else (), problems=wrong)


def _contacts(
    kind: PartKind, prints: Mapping[str, str], numbers: Mapping[str, float], title: str
) -> Terminals:
    """Coil, poles and contacts by the numbers at them."""
    left = {name.upper(): name for name in prints}
    ports: list[Port] = []
    inside: list[Element] = []
    is_solid = kind == "solid-state relay"
    # One for direct current has a sign at its poles: +1 and −2.
    signed = [key for key in left if is_solid and SIGNED_POLE.match(key)]
    left |= {key.strip("+-−"): left.pop(key) for key in signed}
    control = _control_of(left) if is_solid else None
    if control is not None:
        ports.append(_control(left.pop(control[0]), left.pop(control[1]), numbers, prints))
    elif kind == "switch" and (lock := take_solenoid(left)):
        ports.append(_load("LOCK", lock, FeedIn(inductive=True, polarity_free=True)))
    elif coil := next((ends for ends in COILS if set(ends) <= set(left)), None):
        ports.append(_coil(left.pop(coil[0]), left.pop(coil[1]), numbers, inside))
    if kind in ("switch", "emergency stop") and (lamp := take_lamp(left)):
        takes = _takes_by_title(title)
        ports.append(_load("LAMP", lamp, replace(takes, polarity_free="+" not in lamp[0][1])))
    # A switch with poles of the mains is turned on by hand, whatever turns it off.
    by_hand = any(map(MAIN_POLE.search, left))
    alone = {"emergency stop": "mushroom", "switch": "hand" if by_hand else worked_by(title)}
    works = alone.get(kind) or (ports[0].id if ports else "COIL")
    # What carries no number of a contact is one that opens, at a stop (IEC 60947-5-5).
    rest: PinFunction = "nc" if kind == "emergency stop" else "no"
    poles: list[Found] = take_mains_poles(left) if kind == "switch" else []
    said: list[Found] = take_single(left) if kind == "switch" else []
    for common, end in take_poles(left):
        word = _said(prints[end[1]]) or _said(prints[common[1]])
        # A pole of a switch is said to open or to close where it is a contact like any other.
        (said if kind == "switch" and word else poles).append([common, (word or rest, end[1])])
    if is_solid and not poles and len(ends := [n for n in left if SOLID_POLE.match(n)]) == 2:
        poles = [[("com", left.pop(ends[0])), ("no", left.pop(ends[1]))]]
    for found in (
        *poles,
        *said,
        *(_changeovers(left) if kind == "contactor" else ()),
        *take_contacts(left),
        *take_named(left),
    ):
        # Beside poles a contact of two figures is an auxiliary one; alone it is what there is.
        is_auxiliary = found in said or (bool(poles) and found not in poles)
        port = _contact_port(kind, found, is_auxiliary)
        ports.append(port)
        common = found[0][1]
        for function, name in found[1:]:
            inside.append(
                Contact(
                    pins=((port.id, common), (port.id, name)),
                    rest="NC" if function == "nc" else "NO",
                    worked_by=works,
                    current_max_a=numbers.get("contact_max_a") or None,
                    switches=("DC" if signed else "AC") if is_solid else None,
                )
            )
    wrong = []
    if left:
        wrong.append(f"No contact is numbered so: {', '.join(left.values())}.")
    if kind == "contactor" and not any(port.kind == "coil" for port in ports):
        wrong.append("A contactor has a coil: A1 and A2.")
    if is_solid and not any(port.kind == "load" for port in ports):
        wrong.append("A solid-state relay has a control input: A1+ and A2-, or 3 and 4.")
    if kind == "emergency stop" and ports and all(port.optional for port in ports):
        # Of contacts that bear no number of a first one the first is what a stop cannot do without.
        ports[0] = replace(ports[0], optional=False)
    return Terminals(ports=tuple(ports), inside=tuple(inside), problems=tuple(wrong))


def _said(text: str) -> PinFunction | None:
    """What a contact does by the word at its terminal: “3 NO”."""
    found = WORDS_OF_CONTACT.search(text)
    return ("nc" if found[1].upper() == "C" else "no") if found is not None else None


def _changeovers(left: dict[str, str]) -> list[Found]:
    """The contact of a relay by words, or by the numbers of one for cars, taken from what is left:
    COM to NO, and NC at rest.
    """
    for common, closes, rests in CHANGEOVERS:
        if {common, closes} <= set(left):
            found: Found = [("com", left.pop(common)), ("no", left.pop(closes))]
            if rests in left:
                found.append(("nc", left.pop(rests)))
            return [found]
    return []


def _coil(a1: str, a2: str, numbers: Mapping[str, float], inside: list[Element]) -> Port:
    volts, current_a = numbers.get("nominal_v"), numbers.get("current_a")
    # A bare coil pulls either way round; one with a diode inside has its plus printed.
    has_diode = "+" in a1
    feed = FeedIn(
        current_a=current_a, inductive=True, polarity_free=not has_diode, flyback=has_diode
    )
    if volts:
        feed = replace(
            feed, v_min_v=volts * COIL_FROM, v_max_v=volts * COIL_TO, nominal_v=volts
        )  # fmt: skip
    if volts and current_a:
        inside.append(Winding(pins=(("COIL", a1), ("COIL", a2)), resistance_ohm=volts / current_a))
    ends: tuple[PinFunction, PinFunction] = ("coil+", "coil-")
    if volts and volts >= MAINS_V:
        ends = ("line", "neutral")
    pins = (Pin(id=a1, function=ends[0], electrical=feed), Pin(id=a2, function=ends[1]))
    return Port(id="COIL", kind="coil", end="device", pins=pins)


def _takes_by_title(title: str) -> FeedIn:
    """What the lamp of a button takes whose name has its volts: “Button, lit, 24 V”."""
    volts = volts_printed(title)
    low_v, high_v = window_printed(title) or (0.0, None)
    return FeedIn(
        v_min_v=low_v, v_max_v=high_v, nominal_v=volts, current_a=LAMP_A if volts else None
    )


def _load(name: str, ends: Found, takes: FeedIn) -> Port:
    """The solenoid that holds a door, or the lamp in a button."""
    (plus, a), (minus, b) = ends
    pins = (Pin(id=a, function=plus, electrical=takes), Pin(id=b, function=minus))
    return Port(id=name, kind="load", end="device", pins=pins)


def _control_of(names: Iterable[str]) -> tuple[str, str] | None:
    """The control terminals by their print; 3 and 4 only where nothing else is printed so."""
    for plus, minus in CONTROL:
        ends = [next((n for n in names if at.match(n)), None) for at in (plus, minus)]
        if ends[0] is not None and ends[1] is not None:
            return ends[0], ends[1]
    return None


def _control(
    plus: str, minus: str, numbers: Mapping[str, float], prints: Mapping[str, str]
) -> Port:
    """The control input of a solid-state relay: a diode with a wide range of volts, and no coil;
    which may be printed there.
    """
    low, high = numbers.get("v_min_v"), numbers.get("v_max_v")
    if not high:
        printed = (window_printed(prints[end].removeprefix(end)) for end in (plus, minus))
        low, high = next((window for window in printed if window), (low, high))
    feed = FeedIn(v_min_v=low or 0.0, v_max_v=high or None, current_a=numbers.get("current_a"))
    pins = (Pin(id=plus, function="load+", electrical=feed), Pin(id=minus, function="load-"))
    return Port(id="CONTROL", kind="load", end="device", pins=pins)


def _contact_port(kind: PartKind, found: Found, is_auxiliary: bool = False) -> Port:
    """A contact as a port: terminals that power goes through, a contact, or that of a stop."""
    names = [name for _, name in found]
    closes_only = [function for function, _ in found] == ["com", "no"]
    port_id = port_of(found)
    is_pole = kind in ("contactor", "solid-state relay") and closes_only and not is_auxiliary
    is_line = any(at.match(names[0]) for at in (POLE, POLE_BY_WORD, OF_MAINS))
    is_switched = kind == "switch" and is_line and not is_auxiliary
    if is_pole or is_switched:
        pins = tuple(_through(name) for name in names)
        return Port(id=port_id, kind="terminals", end="through", pins=pins)
    pins = tuple(
        Pin(id=name, function="nc" if function == "nc" else "no" if function == "no" else "com")
        for function, name in found
    )
    if kind == "emergency stop":
        stops = not closes_only
        return Port(
            id=port_id, kind="stop contacts" if stops else "contact", end="device", pins=pins,
            optional=not port_id.startswith("1"),
        )  # fmt: skip
    end: Literal["device", "through"] = "device" if kind == "switch" else "through"
    return Port(id=port_id, kind="contact", end=end, pins=pins)
