"""The ports of what has one plug, or leads: by the kind of the part, and where it has several
connectors by what is at each.
"""

import re
from collections.abc import Iterable
from typing import Literal

from msgspec.structs import replace

from vervain.catalogue.drafts import HAS_DRIVE, Draft
from vervain.catalogue.neighbours import TWO_LEAD_LOADS
from vervain.catalogue.pin_rows import JoinedRow
from vervain.catalogue.plugs_apart import (
    BRAKE,
    BUTTON,
    LEVEL_PORT,
    MOTORS,
    POT_FUNCTIONS,
    SELECTOR,
    SERVO,
)
from vervain.catalogue.port_roles import BUS_FUNCTIONS, HALL_FUNCTIONS
from vervain.catalogue.printed_volts import window_printed
from vervain.catalogue.role_guess import goes_on
from vervain.electrical.mains import MOTOR_PHASES
from vervain.model.electrical import (
    MAINS_V,
    Electrical,
    FeedIn,
    FeedOut,
    LogicInput,
    LogicOutput,
)
from vervain.model.elements import Bridge
from vervain.model.part import DRIVE_KINDS, Pin, PinFunction, Port, PortKind
from vervain.text.name_words import name_words, says

DEVICE_PORT: dict[str, PortKind] = {
    "sensor": "sensor",
    "switch": "contact",
    "stepper motor": "motor phases",
    "three-phase motor": "motor phases",
    "servo": "servo",
    "encoder": "encoder",
    "hand wheel": "encoder",
}
# What an output loses where nobody says: of a 24 V sensor (IEC 60947-5-2 allows up to 3.5 V), of
# what works at 5 V too (a saturated transistor, V_OL of TTL levels).
SENSOR_DROP_V, LOGIC_DROP_V, LOGIC_V = 2.0, 0.4, 5.0
FEEDS_OF_PLUGS: tuple[PinFunction, ...] = ("plus", "zero", "load+", "load-", "pe")
# The channels of a knob that is turned by hand.
KNOB = re.compile(r"^(?:CLK|DT)$", re.I)
# By what a fan of four leads is told its speed, and tells it: both are pulled up to at most 5.25 V,
# and pulled down by an open collector.
PULSES_OF_A_FAN = LogicInput(high_min_v=2.4, low_max_v=0.8, max_v=5.25)
SPEED_OF_A_FAN = LogicOutput(drive="NPN", low_max_v=0.4)
# The volts of a motor's brake in the name of the motor: “brake 24 V”.
BRAKE_VOLTS = re.compile(r"brake[^\d]{0,6}(\d+)\s?V|(\d+)\s?V\s+brake", re.I)
# Where a motor tells how it stands.
IS_FEEDBACK = re.compile(r"(enc|hall|feedback|pot)", re.I)
# A brushed motor turns with the sign of what is on it: at a bridge, an output, or a supply.
AS_MOTOR: dict[str, PinFunction] = {
    "plus": "motor+", "load+": "motor+", "zero": "motor-", "load-": "motor-",
}  # fmt: skip
ANALOGUE = ("volts", "current")
# What a potentiometer bears: 10 kohm are usual, and 0.05 W.
OF_A_POTENTIOMETER = FeedIn(v_min_v=1, v_max_v=22, current_a=0.0012, nominal_v=12)
# The safety outputs of a light curtain or a laser scanner, as they are printed (IEC 61496-1).
SAFETY_OUTPUT = re.compile(r"ossd\s?[12ab]?$", re.I)
# What a sensor gives at most that works from more than that, where nobody says: the usual 0 to 10 V
# (IEC 60381-2).
SIGNAL_V = 10.0
# What three Hall sensors take together, with the resistors that pull their outputs up, where nobody
# says: each takes up to 7 mA.
HALL_A = 0.025
# The lowest between two lines of three-phase mains where a line and the neutral have 230 V, less
# what a drive for 400 V still works with; and such lines as they are printed.
BETWEEN_LINES_V = 300.0
LINE_OF_THREE = re.compile(r"^(?:[RST](?:/L[123])?|L[123](?:/[RST])?)$", re.IGNORECASE)
# What a two-wire transmitter loses, where nobody says: of 10 V at the least most work.
TRANSMITTER_DROP_V = 10.0


def function_of(row: JoinedRow, draft: Draft) -> PinFunction:
    """The function of a pin on a part of a kind: a load's plus is its load+, that of one for mains
    its line; what a two-wire transmitter gives back is its signal.
    """
    if row.function is None:
        return "none"
    on_mains = (draft.numbers.get("nominal_v") or 0.0) >= MAINS_V
    if draft.kind in TWO_LEAD_LOADS and on_mains:
        mains: dict[str, PinFunction] = {
            "plus": "line", "load+": "line", "zero": "neutral", "load-": "neutral",
        }  # fmt: skip
        return mains.get(row.function, row.function)
    if IS_FEEDBACK.match(row.port) or row.port in (LEVEL_PORT, BRAKE):
        return row.function
    if is_for_three_lines(draft) and LINE_OF_THREE.match(row.name):
        return "line"
    if draft.kind == "brushed motor":
        return AS_MOTOR.get(row.function, row.function)
    if draft.kind in TWO_LEAD_LOADS:
        # The common of several lamps is taken for their plus.
        as_load: dict[str, PinFunction] = {"plus": "load+", "com": "load+", "zero": "load-"}
        return as_load.get(row.function, row.function)
    return row.function


def is_for_three_lines(draft: Draft) -> bool:
    """Whether a drive takes more than there is between a line and the neutral: it has three lines
    of the mains, of 380 V and more between two of them (IEC 60038).
    """
    least_v = draft.numbers.get("v_min_v") or draft.numbers.get("nominal_v") or 0.0
    return draft.kind in DRIVE_KINDS and least_v >= BETWEEN_LINES_V


def two_wire(rows: Iterable[JoinedRow], draft: Draft) -> tuple[JoinedRow, ...]:
    """The rows of a part; of a transmitter with two wires the second is what it gives."""
    found = tuple(rows)
    used = [row for row in found if row.is_used]
    if draft.kind != "sensor" or draft.drive != "current" or len(used) != 2:
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
        found += _by_common(replace(port, pins=pins))
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
    if name == BRAKE:
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
    if kind == "sensor" and draft.drive in ANALOGUE:
        kind = "analogue sensor"
    at = [(row, function_of(row, draft)) for row in rows]
    pins = tuple(
        Pin(
            id=(row.colour or row.pin) if by_colour else row.pin,
            name=row.name,
            function=plain.get(function, function),
            lead=row.colour,
            electrical=_electrical(draft, function, kind, row.name),
            # A fan of four leads runs by its feed alone.
            optional=draft.kind == "fan" and function in ("signal", "pulse width"),
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


def _electrical(
    draft: Draft, function: PinFunction, port_kind: PortKind, name: str
) -> Electrical | None:
    """The electrical limits of a pin, as far as the numbers and its own name tell them."""
    numbers = draft.numbers
    low, high = numbers.get("v_min_v"), numbers.get("v_max_v")
    if draft.kind in MOTORS and port_kind == "load":
        # A brake takes what its name says, else what its motor is for, but no mains: its plus and
        # minus say that it is for direct current. The motor's current is not its own.
        said = BRAKE_VOLTS.search(draft.title)
        motor_v = numbers.get("nominal_v") or 0.0
        rated_v = float(said[1] or said[2]) if said else motor_v if motor_v < MAINS_V else 0.0
        takes = FeedIn(
            v_min_v=rated_v * 0.85, v_max_v=rated_v * 1.1 or None, nominal_v=rated_v or None,
            inductive=True, polarity_free=True,
        )  # fmt: skip
        return takes if function == "load+" else None
    if function in ("plus", "load+", "motor+", "line"):
        return _feed(draft, port_kind, name)
    if draft.kind == "three-phase motor" and function in MOTOR_PHASES:
        # For lower volts there is no mains: what a drive makes of its supply is the drive's.
        rated_v = numbers.get("nominal_v") or 0.0
        if rated_v < MAINS_V:
            return None
        return FeedIn(
            v_min_v=rated_v * 0.9, v_max_v=rated_v * 1.1, current_a=numbers.get("current_a"),
            inductive=True,
        )  # fmt: skip
    fed_v = numbers.get("nominal_v") or 0.0
    if draft.kind == "lamp" and function == "receive" and fed_v:
        # Lamps that pass their data on read it as logic of their own volts: 0.3 and 0.7 of these.
        return LogicInput(high_min_v=0.7 * fed_v, low_max_v=0.3 * fed_v, max_v=fed_v + 0.5)
    if draft.kind == "fan" and function == "pulse width":
        return PULSES_OF_A_FAN
    if draft.kind == "fan" and function == "signal":
        return SPEED_OF_A_FAN
    asks = function == "enable" and port_kind == "sensor"
    if asks or (function == "signal" and (draft.kind == "servo" or port_kind == "servo")):
        return LogicInput(high_min_v=2.4, low_max_v=0.8, max_v=5.5)
    # Without its volts it may be a sensor of logic as well: nothing is said against it.
    is_logic = not (low or high) or 0 < (low or 24.0) <= LOGIC_V or (high or 24.0) <= LOGIC_V + 1
    drop_v = numbers.get("drop_v") or (LOGIC_DROP_V if is_logic else SENSOR_DROP_V)
    if function == "signal" and draft.kind == "sensor":
        if draft.drive == "current":
            lost_v = numbers.get("drop_v") or low or TRANSMITTER_DROP_V
            return LogicOutput(drive="current", drop_v=lost_v, low_max_v=0.0, current_a=0.02)
        if draft.drive == "volts":
            usual_v = SIGNAL_V if (low or 0.0) > SIGNAL_V else None
            return LogicOutput(
                drive="push-pull", low_max_v=0.0, high_max_v=numbers.get("gives_max_v") or usual_v
            )
        return LogicOutput(drive=draft.drive, drop_v=drop_v, low_max_v=drop_v)
    if function == "signal" and port_kind == "sensor" and draft.kind in DEVICE_PORT:
        return LogicOutput(drive="NPN", drop_v=0.0, low_max_v=0.0)
    if function == "signal" and draft.kind in MOTORS:
        return LogicOutput(drive="push-pull", low_max_v=0.0)
    if function in HALL_FUNCTIONS and name.endswith("+"):
        # U+ beside U−: the encoder drives both lines of a pair (RS-422).
        return LogicOutput(drive="push-pull", drop_v=LOGIC_DROP_V, low_max_v=0.5)
    if function in HALL_FUNCTIONS:
        return LogicOutput(drive="NPN", drop_v=LOGIC_DROP_V, low_max_v=LOGIC_DROP_V)
    if function.startswith("encoder") and port_kind == "encoder":
        drive: Literal["push-pull", "NPN", "PNP"] = "push-pull"
        # A knob has contacts that close to 0 V, with resistors to its plus: that is its high.
        is_knob = KNOB.match(name) is not None and draft.drive == "PNP"
        if draft.kind in HAS_DRIVE and draft.drive in ("NPN", "PNP") and not is_knob:
            drive = draft.drive
        # Push-pull outputs swing to what the encoder is fed with, not to what it could be.
        lost_v = drop_v if drive == "push-pull" else 0.0
        if draft.kind not in HAS_DRIVE:
            lost_v = LOGIC_DROP_V
        return LogicOutput(drive=drive, drop_v=lost_v, low_max_v=0.5)
    return None


def _feed(draft: Draft, port_kind: PortKind, name: str) -> FeedIn | FeedOut | None:
    """What a plus takes, or gives."""
    numbers = draft.numbers
    low, high = numbers.get("v_min_v"), numbers.get("v_max_v")
    nominal_v, current_a = numbers.get("nominal_v"), numbers.get("current_a")
    of_a_motor = draft.kind in MOTORS and port_kind != "bridge motor"
    if draft.kind == "supply":
        if not nominal_v or not current_a:
            return None
        return FeedOut(nominal_v=nominal_v, current_a=current_a)
    if nominal_v and not of_a_motor:
        # A load is expected to work within a tenth of what it is rated for.
        return FeedIn(
            v_min_v=nominal_v * 0.9, v_max_v=nominal_v * 1.1, current_a=current_a,
            polarity_free=port_kind == "bridge motor",
        )  # fmt: skip
    if high and not of_a_motor:
        return FeedIn(v_min_v=low or 0.0, v_max_v=high, current_a=current_a)
    window = window_printed(name)
    if (
        window is None
        and port_kind == "analogue sensor"
        and says(draft.title, name_words().potentiometer)
    ):
        return OF_A_POTENTIOMETER
    if window is None and of_a_motor:
        return None
    if window is None:
        return FeedIn(v_min_v=low or 0.0, current_a=current_a)
    taken_a = None if of_a_motor else current_a
    return FeedIn(
        v_min_v=window[0], v_max_v=window[1],
        inductive=port_kind == "load",
        current_a=HALL_A if name.casefold().startswith("hall") else taken_a,
    )  # fmt: skip
