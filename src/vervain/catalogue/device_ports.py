"""The ports of what has one plug, or leads: by the kind of the part, and where it has several
connectors by what is at each.
"""

import re
from collections.abc import Iterable
from typing import Literal

from msgspec.structs import replace

from vervain.catalogue.device_limits import DEVICE_PORT, limits_of
from vervain.catalogue.drafts import Draft, drive_of
from vervain.catalogue.neighbours import TWO_LEAD_LOADS
from vervain.catalogue.pin_rows import JoinedRow
from vervain.catalogue.plugs_apart import (
    BRAKE,
    BUTTON,
    LAMP,
    LEVEL_PORT,
    MOTORS,
    POT_FUNCTIONS,
    SELECTOR,
    SERVO,
)
from vervain.catalogue.port_roles import BUS_FUNCTIONS, HALL_FUNCTIONS
from vervain.catalogue.role_guess import goes_on
from vervain.model.electrical import (
    MAINS_V,
    FeedIn,
)
from vervain.model.elements import Bridge
from vervain.model.part import DRIVE_KINDS, Pin, PinFunction, Port, PortKind

FEEDS_OF_PLUGS: tuple[PinFunction, ...] = ("plus", "zero", "load+", "load-", "pe")
# What stops a sensor from giving anything.
INHIBITS = re.compile(r"^(?:INH|INHIBIT|TEST)$", re.I)
# Where a motor tells how it stands.
IS_FEEDBACK = re.compile(r"(enc|hall|feedback|pot)", re.I)
# A brushed motor turns with the sign of what is on it: at a bridge, an output, or a supply.
AS_MOTOR: dict[str, PinFunction] = {
    "plus": "motor+", "load+": "motor+", "zero": "motor-", "load-": "motor-",
}  # fmt: skip
ANALOGUE = ("volts", "current")
# The safety outputs of a light curtain or a laser scanner, as they are printed (IEC 61496-1).
SAFETY_OUTPUT = re.compile(r"ossd\s?[12ab]?$", re.I)
# The lowest between two lines of three-phase mains where a line and the neutral have 230 V, less
# what a drive for 400 V still works with; and such lines as they are printed at loads and drives.
BETWEEN_LINES_V = 300.0
LINE_OF_A_LOAD = re.compile(r"^(?:[RSTUVW]1?|L[123])$", re.IGNORECASE)
LINE_OF_THREE = re.compile(r"^(?:[RST](?:/L[123])?|L[123](?:/[RST])?)$", re.IGNORECASE)


def function_of(row: JoinedRow, draft: Draft) -> PinFunction:
    """The function of a pin on a part of a kind: a load's plus is its load+, that of one for mains
    its line; what a two-wire transmitter gives back is its signal.
    """
    called = LINE_OF_THREE if draft.kind in DRIVE_KINDS else LINE_OF_A_LOAD
    is_own = IS_FEEDBACK.match(row.port) or row.port in (LEVEL_PORT, BRAKE, LAMP)
    if is_for_three_lines(draft) and called.match(row.name) and not is_own:
        return "line"
    if row.function is None:
        return "none"
    on_mains = (draft.numbers.get("nominal_v") or 0.0) >= MAINS_V
    if draft.kind in TWO_LEAD_LOADS and on_mains:
        mains: dict[str, PinFunction] = {
            "plus": "line", "load+": "line", "zero": "neutral", "load-": "neutral",
        }  # fmt: skip
        return mains.get(row.function, row.function)
    if is_own:
        return row.function
    if draft.kind == "brushed motor":
        return AS_MOTOR.get(row.function, row.function)
    if draft.kind in TWO_LEAD_LOADS:
        # The common of several lamps is taken for their plus.
        as_load: dict[str, PinFunction] = {"plus": "load+", "com": "load+", "zero": "load-"}
        return as_load.get(row.function, row.function)
    return row.function


def is_for_three_lines(draft: Draft) -> bool:
    """Whether a drive, or a heater, takes more than there is between a line and the neutral: it has
    three lines of the mains, of 380 V and more between two of them (IEC 60038).
    """
    least_v = draft.numbers.get("v_min_v") or draft.numbers.get("nominal_v") or 0.0
    return draft.kind in (*DRIVE_KINDS, "heater", "load") and least_v >= BETWEEN_LINES_V


def two_wire(rows: Iterable[JoinedRow], draft: Draft) -> tuple[JoinedRow, ...]:
    """The rows of a part; of a transmitter with two wires the second is what it gives."""
    found = tuple(rows)
    used = [row for row in found if row.is_used]
    if draft.kind != "sensor" or drive_of(draft) != "current" or len(used) != 2:
        return found
    return tuple(
        replace(row, function="signal") if row.is_used and row.function == "zero" else row
        for row in found
    )


def plain_port_name(draft: Draft) -> str:
    """What the only port of a part is called."""
    return "LEADS" if draft.kind in DEVICE_PORT or draft.kind in TWO_LEAD_LOADS else "PORT"


def device_ports(draft: Draft, used: list[JoinedRow]) -> tuple[Port, ...]:
    """The ports of a part with one plug, or several, from the rows that are used."""
    found: list[Port] = []
    fed: set[str] = set()
    for name in dict.fromkeys(row.port for row in used):
        rows = [row for row in used if row.port == name]
        port = _port(draft, name or plain_port_name(draft), rows)
        # What two connectors have of one name is joined inside, and counts once.
        pins = tuple(
            replace(pin, electrical=None)
            if isinstance(pin.electrical, FeedIn) and pin.name and pin.name in fed else pin
            for pin in port.pins
        )  # fmt: skip
        fed |= {pin.name for pin in pins if isinstance(pin.electrical, FeedIn)}
        parted = _by_signal if draft.kind == "sensor" else _by_common
        found += parted(replace(port, pins=pins))
    return tuple(found)


def _by_common(port: Port) -> tuple[Port, ...]:
    """A port; of several lamps with one common each is a load of its own, at its own output, and so
    is each throw of a selector at its own input.
    """
    if port.kind == "contact":
        common = [pin for pin in port.pins if pin.function == "com"]
        throws = [pin for pin in port.pins if pin.function == "no"]
        if len(common) == 1 and len(throws) > 1 and len(port.pins) == 1 + len(throws):
            # Its terminals are called as they are printed: 1 is the throw 1, not the first pin.
            shared = replace(common[0], id=common[0].text)
            return tuple(
                replace(port, id=f"{shared.text}-{name}", pins=(shared, replace(throw, id=name)))
                for throw, name in zip(throws, _told_apart(throws), strict=True)
            )
    by_end = [[pin for pin in port.pins if pin.function == end] for end in ("load+", "load-")]
    commons, ends = sorted(by_end, key=len)
    if port.kind != "load" or len(commons) != 1 or len(ends) < 2:
        return (port,)
    rest = tuple(pin for pin in port.pins if pin not in (*commons, *ends))
    apart = tuple(
        replace(port, id=name, pins=(commons[0], end))
        for end, name in zip(ends, _told_apart(ends), strict=True)
    )
    return (*apart, *((replace(port, pins=rest),) if rest else ()))


def _by_signal(port: Port) -> tuple[Port, ...]:
    """A sensor with its feed and its first output, and each other one that it cannot do without as
    a plug of its own at its own input: both axes of a stick, each eye of a row.
    """
    is_sensor = port.kind in ("sensor", "analogue sensor")
    outputs = [p for p in port.pins if is_sensor and p.function == "signal" and not p.optional]
    names = _told_apart(outputs)
    if len(outputs) < 2 or len({*names}) < len(names):
        return (port,)
    others = dict(zip(outputs[1:], names[1:], strict=True))
    first = replace(port, pins=tuple(pin for pin in port.pins if pin not in others))
    return first, *(replace(port, id=name, pins=(pin,)) for pin, name in others.items())


def _told_apart(pins: list[Pin]) -> list[str]:
    """What pins are called, those of one name with their numbers."""
    names = [pin.text for pin in pins]
    return [
        f"{name} {pin.id}" if names.count(name) > 1 else name
        for pin, name in zip(pins, names, strict=True)
    ]


def joined_feeds(ports: tuple[Port, ...]) -> tuple[Bridge, ...]:
    """Copper between the plus, the 0 V, and the lines of a bus, of several connectors of a part
    that is no board, where they are called alike; and in the common of a selector.
    """
    at: dict[str, list[tuple[str, str]]] = {}
    for port in ports:
        for pin in port.pins:
            is_selector = pin.function == "com" and port.id.startswith(f"{pin.text}-")
            goes_through = port.kind == "bus" and pin.function in BUS_FUNCTIONS
            if pin.name and (is_selector or goes_through or pin.function in FEEDS_OF_PLUGS):
                at.setdefault(pin.name, []).append((port.id, pin.id))
    return tuple(Bridge(pins=tuple(pins)) for pins in at.values() if len(pins) > 1)


def _port(draft: Draft, name: str, rows: list[JoinedRow]) -> Port:
    colours = {row.colour for row in rows if row.colour}
    functions = {function_of(row, draft) for row in rows}
    # Flying leads of a motor are called by their colours: that is what one probes.
    by_colour = draft.kind == "stepper motor" and len(colours) == len(rows)
    kind, end = _port_kind(draft.kind, functions, name.endswith("INPUT"))
    if (draft.kind == "sensor" and name == SERVO) or name == LEVEL_PORT:
        kind, end = "servo", "device"
    if name in (BRAKE, LAMP) and functions <= {"load+", "load-"}:
        kind, end = "load", "device"
    if name == BUTTON and functions == {"signal"}:
        kind, end = "sensor", "device"
    if name == SELECTOR and functions == {"com", "no"}:
        kind, end = "contact", "device"
    plain: dict[PinFunction, PinFunction] = {}
    if kind == "bus":
        # What has data has a 0 V that they are measured from, a load or not.
        plain = {"load+": "plus", "load-": "zero"}
        end = "host" if goes_on(name) else end
    if kind == "sensor" and any(SAFETY_OUTPUT.match(row.name) for row in rows):
        kind = "stop contacts"
    if kind == "sensor" and drive_of(draft) in ANALOGUE and name != BUTTON:
        kind = "analogue sensor"
    at = [(row, function_of(row, draft)) for row in rows]
    pins = tuple(
        Pin(
            id=(row.colour or row.pin) if by_colour else row.pin,
            name=row.name,
            function=plain.get(function, function),
            lead=row.colour,
            electrical=limits_of(draft, function, kind, row.name),
            optional=_is_extra(draft, function, row.name),
        )
        for row, function in at
    )
    return Port(
        id=name,
        kind=kind,
        end=end,
        pins=_one_of_two_outputs(pins) if kind == "sensor" else pins,
        lead_length_m=draft.lead_length_m if any(pin.lead for pin in pins) else 0.0,
    )


def _is_extra(draft: Draft, function: PinFunction, name: str) -> bool:
    """Whether a part does its work without a pin: a fan of four leads by its feed alone, and what
    may be inhibited while it is not.
    """
    of_a_fan = draft.kind == "fan" and function in ("signal", "pulse width")
    return of_a_fan or (draft.kind == "sensor" and INHIBITS.match(name) is not None)


def _one_of_two_outputs(pins: tuple[Pin, ...]) -> tuple[Pin, ...]:
    """The pins of a switch; of two outputs, of which one makes while the other breaks, the black
    lead is the first (IEC 60947-5-2), else what makes, and one may do without the other.
    """
    outputs = [pin for pin in pins if pin.function == "signal"]
    if len(outputs) != 2:
        return pins
    first = min(outputs, key=lambda pin: (pin.lead != "BK", pin.name.upper() != "NO"))
    return tuple(replace(p, optional=True) if p in outputs and p != first else p for p in pins)


End = Literal["host", "device", "through"]


def _port_kind(kind: str, functions: set[PinFunction], is_input: bool) -> tuple[PortKind, End]:
    """What kind a port is of: by what is at it, else by the part; for boards by its pins."""
    if functions & BUS_FUNCTIONS:
        return "bus", "device"
    if "measure+" in functions:
        return ("transducer input", "host") if is_input else ("transducer", "device")
    if "line" in functions:
        return "feed in", "device"
    tells = bool(functions & HALL_FUNCTIONS) or "encoder A" in functions
    if tells and (kind in MOTORS or kind in DEVICE_PORT):
        return "encoder", "device"
    if kind in MOTORS and functions & POT_FUNCTIONS:
        return "analogue sensor", "device"
    has_phases = any(function.startswith("phase") for function in functions)
    if DEVICE_PORT.get(kind) == "motor phases" and not has_phases:
        return ("load", "device") if functions & {"load+", "plus"} else ("terminals", "device")
    if kind == "switch" and functions == {"none"}:
        return "terminals", "device"
    if kind == "switch" and functions == {"enable", "signal"}:
        # A keypad: its rows are driven, and its columns read.
        return "sensor", "device"
    if kind in DEVICE_PORT:
        return DEVICE_PORT[kind], "device"
    if functions & {"motor+", "motor-"}:
        return "bridge motor", "device"
    if kind in TWO_LEAD_LOADS:
        return "load", "device"
    if kind == "supply":
        return "feed out", "host"
    if "step" in functions:
        return "step and direction", "device" if kind == "stepper driver" else "host"
    if has_phases:
        return "motor phases", "host"
    if "encoder A" in functions:
        return "encoder", "host"
    if "signal" in functions:
        return "digital input", "host"
    if functions & {"plus", "zero"}:
        return "feed in", "device"
    return "terminals", "host"
