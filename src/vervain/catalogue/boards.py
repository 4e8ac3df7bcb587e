"""A board from its groups of ports: kinds, limits, edges, outline, and what is joined inside."""

import re
from collections.abc import Mapping
from typing import Any

from vervain.catalogue.circuits import circuit_named
from vervain.catalogue.pin_words import feeds_outputs
from vervain.catalogue.port_groups import PortGroup
from vervain.catalogue.port_places import PortPlace
from vervain.catalogue.port_roles import AS_COMMAND, AS_DEVICE, AS_ENCODER_OUT, AS_ON_BUS, AS_SERVO
from vervain.catalogue.printed_volts import agrees, volts_printed, window_printed
from vervain.catalogue.terminal_numbers import TWO_FIGURES
from vervain.model.base import Record
from vervain.model.connectors import connector_of
from vervain.model.electrical import Electrical, FeedIn, FeedOut
from vervain.model.part import (
    DRIVE_KINDS,
    Board,
    Edge,
    Option,
    PartKind,
    Pin,
    Port,
    PortKind,
    is_safety_relay,
)

# Where ports lie where the builder does not say: what one plugs into most at the long edges.
EDGES: dict[PortKind, Edge] = {
    "step and direction": "top", "switched output": "top", "load": "top", "motor phases": "bottom",
    "bridge output": "bottom", "relay contact": "bottom", "contact": "bottom",
    "digital input": "bottom",
    "analogue input": "bottom", "thermistor input": "bottom", "feed in": "left",
    "driver slot": "top", "stop input": "left", "feed out": "right", "encoder": "right",
    "servo": "right", "header": "top", "bus": "right", "drive control": "top",
    "analogue command": "top", "analogue output": "bottom", "transducer input": "bottom",
}  # fmt: skip
# What may be fed with mains; a supply takes what its loads make it take.
ON_MAINS: tuple[PartKind, ...] = (*DRIVE_KINDS, "controller")
# By what a drive is told how fast to turn.
COMMANDED = (AS_COMMAND, AS_DEVICE, AS_ON_BUS, AS_SERVO)
PIN_MM, GAP_MM, BESIDE_MM, LEAST_MM = 5.0, 6.0, 14.0, 50.0
# Room for a port's name, and for each of its letters where ports lie side by side.
NARROWEST_MM, LETTER_MM = 12.0, 3.2
# What is printed at the pins of one edge takes of the edges beside it.
CORNER_MM = 10.0
# A feed with a rectifier behind it.
EITHER_WAY = re.compile(r"^V?AC\b|^V?AC\s?\d", re.IGNORECASE)
# How the plus of a load's output is called that is the board's own.
OF_THE_FEED = frozenset({"+", "V+", "VM", "VMOT", "OUT+", "VOUT+", "LOAD+"})
# Plugs to a controller that bring the power of a small board along.
FEEDING: tuple[PortKind, ...] = ("bus", "encoder")
CONTACTS: tuple[PortKind, ...] = ("relay contact", "contact")
MICROSTEPS = ("1", "2", "4", "8", "16", "32", "64", "128", "256")


class BoardDraft(Record, frozen=True, kw_only=True):
    """What a board is made from: its groups, which circuit each kind of pin of a group has (by
    "key/input", "key/output", "key/plus"), the connectors of the groups without their ways ("" for
    all that have none of their own), the numbers that were given, the names of pins that are not
    joined on the board although they are alike, where ports lie and how large the board is, as far
    as somebody said, the lines of its settings, and whether what it gives is isolated from what it
    takes.
    """

    kind: PartKind
    groups: tuple[PortGroup, ...]
    circuits: Mapping[str, str] = {}
    numbers: Mapping[str, float] = {}
    apart: frozenset[str] = frozenset()
    connectors: Mapping[str, str] = {}
    places: Mapping[str, PortPlace] = {}
    size_mm: tuple[float, float] | None = None
    settings_text: str = ""
    is_isolated: bool = False

    @property
    def bridge_max_a(self) -> float | None:
        """What each output of a motor bridge gives for long; what it takes is its motors'."""
        return self.numbers.get("current_a") or None if self.kind == "motor bridge" else None

    def connector(self, group: PortGroup) -> str | None:
        """The connector of a group's ports; None where nobody said."""
        kind = self.connectors.get(group.key) or self.connectors.get("")
        return f"{kind}-{len(group.pins)}" if kind else None


def circuit_keys(group: PortGroup) -> tuple[str, ...]:
    """What circuits a group is asked for: of its signals, and of the plus that it gives."""
    found = []
    signals = group.role.signals
    if signals is not None and any(
        group.function(number) not in ("plus", "zero", "pe", "load+")
        for number in range(len(group.pins))
    ):
        found.append(f"{group.key}/{signals}")
    gives = group.role.end == "host" and group.role.kind not in ("feed out", "relay contact")
    if gives and any(pin.function == "plus" for pin in group.pins):
        found.append(f"{group.key}/plus")
    return tuple(found)


def passed_on(group: PortGroup) -> tuple[str, ...]:
    """The names of pluses beside switched outputs that are those of the board's feed: what comes
    from elsewhere is printed with its volts.
    """
    if group.role.kind != "switched output":
        return ()
    return tuple(
        p.name for p in group.pins if p.function == "plus" and _is_of_the_feed(p.name, group)
    )


def _is_of_the_feed(name: str, group: PortGroup) -> bool:
    """Whether a plus is called as the board's own, alone or behind the name of its port: HEAT+."""
    return name in OF_THE_FEED or name.rstrip("+").strip().casefold() == group.key.casefold()


def asked_circuits(
    kind: PartKind, group: PortGroup, groups: tuple[PortGroup, ...]
) -> tuple[str, ...]:
    """The circuits that a group is asked for, without that of a plus that comes from a feed: a
    safety relay gives its own to the contacts that it reads.
    """
    if group.role.kind == "feed out" and kind == "controller":
        # What a board gives is its own: no number of the part says how much.
        gives = any(pin.function == "plus" for pin in group.pins)
        return (f"{group.key}/plus",) if gives else ()
    if is_safety_relay(kind, (other.role.kind for other in groups)):
        return tuple(key for key in circuit_keys(group) if not key.endswith("/plus"))
    fed = {
        pin.name
        for other in groups
        if other.role.kind in ("feed in", "feed out")
        for pin in other.pins
        if pin.function == "plus"
    }
    fed |= set(passed_on(group))
    passed = all(pin.name in fed for pin in group.pins if pin.function == "plus")
    return tuple(key for key in circuit_keys(group) if not (passed and key.endswith("/plus")))


def board_ports(draft: BoardDraft) -> tuple[Port, ...]:
    """The ports with their kinds, limits and places on the board."""
    at: dict[str, float] = _taken_mm(draft)
    found = []
    # A relay alone is there for its coil; of several channels some stay free.
    coils = sum(len(group.ports) for group in draft.groups if group.role.kind == "load")
    first_feed = next((g.key for g in draft.groups if g.role.kind == "feed in"), None)
    first_feed = first_feed or _fed_by_signal(draft)
    # A source may be started at a high level or at a low one.
    starts = sum(len(group.ports) for group in draft.groups if group.role.kind == "drive control")
    # A drive that takes pulses as well needs no bus.
    commands = sum(group.role in COMMANDED for group in draft.groups)
    has_top = any(_edge_of(draft.kind, group.role.kind) == "top" for group in draft.groups)
    beside_mm = GAP_MM + (CORNER_MM if has_top else 0.0)
    for group in draft.groups:
        for at_port, name in enumerate(group.ports):
            edge = _edge_of(draft.kind, group.role.kind)
            is_bridge = group.role.kind == "bridge output"
            is_start = group.role.kind == "drive control"
            place = draft.places.get(name)
            if place is None:
                extent = extent_mm(len(group.pins), draft.connector(group))
                if edge in ("top", "bottom"):
                    extent = max(extent, len(name) * LETTER_MM - GAP_MM)
                first_mm = beside_mm if edge in ("left", "right") else GAP_MM
                middle = round(at.get(edge, first_mm) + extent / 2, 2)
                at[edge] = middle + extent / 2 + GAP_MM
                place = PortPlace(edge=edge, at_mm=middle)
            found.append(
                Port(
                    id=name,
                    kind=group.role.kind,
                    end=group.role.end,
                    pins=tuple(
                        Pin(
                            id=_pin_id(group, pin.name, number),
                            name=group.names[at_port][number] if group.names else pin.name,
                            function=group.function(number),
                            electrical=_electrical(draft, group, number, first_feed),
                        )
                        for number, pin in enumerate(group.pins)
                    ),
                    connector=draft.connector(group),
                    edge=place.edge,
                    at_mm=place.at_mm,
                    inset_mm=place.inset_mm,
                    across=place.across,
                    reversed=place.reversed,
                    optional=(group.role.kind == "load" and coils > 1)
                    or group.role.kind == "contact"
                    or group.role == AS_ENCODER_OUT
                    or (draft.kind == "tool power source" and starts > 1 and is_start)
                    or (group.role == AS_ON_BUS and commands > 1),
                    current_max_a=draft.bridge_max_a if is_bridge else None,
                    holds=_holds(group),
                )
            )
    return tuple(found)


def _holds(group: PortGroup) -> int:
    """How many plugs may share a port: as many as a bus has select lines, or addresses enough."""
    functions = [group.function(number) for number in range(len(group.pins))]
    if group.role.kind != "bus" or group.role.end != "host":
        return 1
    if "select" in functions:
        return functions.count("select")
    shares = ("data" in functions and "clock" in functions) or "data+" in functions
    return MOST_ON_A_BUS if shares else 1


def _edge_of(kind: PartKind, port: PortKind) -> Edge:
    """Where ports of a kind lie on a part: a controller's relays at the top, as all its outputs,
    where its inputs leave them room.
    """
    if kind == "controller" and port == "relay contact":
        return "top"
    return EDGES.get(port, "right")


def _pin_id(group: PortGroup, name: str, number: int) -> str:
    """What a pin is called in a file and on labels: its number at the port; at a contact that is
    numbered what is printed there.
    """
    is_one = sum(pin.name == name for pin in group.pins) == 1
    is_numbered = is_one and group.role.kind in CONTACTS and TWO_FIGURES.match(name)
    return name if is_numbered else str(number + 1)


def _fed_by_signal(draft: BoardDraft) -> str | None:
    """The group by whose plug a board without a feed of its own is fed, by its controller."""
    return next(
        (
            group.key
            for group in draft.groups
            if group.role.end == "device" and group.role.kind in FEEDING
            and any(pin.function == "plus" for pin in group.pins)
        ),
        None,
    )  # fmt: skip


def _taken_mm(draft: BoardDraft) -> dict[str, float]:
    """How far each edge is taken by ports that somebody has placed."""
    found: dict[str, float] = {}
    for group in draft.groups:
        for name in group.ports:
            place = draft.places.get(name)
            if place is not None:
                half = extent_mm(len(group.pins), draft.connector(group)) / 2
                end = place.at_mm + half + GAP_MM
                found[place.edge] = max(found.get(place.edge, GAP_MM), end)
    return found


def pitch_mm(connector: str | None) -> float:
    """How far apart the pins of a port lie: as its connector's name says, else 5 mm."""
    found = connector_of(connector)
    try:
        return float(found.pitch) if found is not None else PIN_MM
    except ValueError:
        return PIN_MM


def extent_mm(pins: int, connector: str | None) -> float:
    """The length of a port along its edge; two rows lie one behind the other."""
    found = connector_of(connector)
    rows = 2 if found is not None and found.ways.startswith("2x") else 1
    return max(-(-pins // rows) * pitch_mm(connector), NARROWEST_MM)


def board_outline(ports: tuple[Port, ...], size_mm: tuple[float, float] | None = None) -> Board:
    """An outline of the size that was given, or one that holds the ports at its edges."""
    if size_mm is not None:
        return Board(width_mm=size_mm[0], height_mm=size_mm[1])
    ends = dict.fromkeys(("top", "bottom", "left", "right"), 0.0)
    for port in ports:
        half = extent_mm(len(port.pins), port.connector) / 2
        ends[port.edge] = max(ends[port.edge], port.at_mm + half + GAP_MM)
    width = max(LEAST_MM, ends["top"], ends["bottom"]) + BESIDE_MM
    beside_mm = max(ends["left"], ends["right"]) + (CORNER_MM if ends["bottom"] else 0.0)
    return Board(width_mm=width, height_mm=max(LEAST_MM, beside_mm))


# So many devices are proposed for one bus; more are a matter of addresses and of its length.
MOST_ON_A_BUS = 8
# The plus of a driver's logic, 3.3 or 5 V.
LOGIC_FEED = re.compile(r"^\+?(?:V[ _-]?IO|VL|V[ _-]?LOGIC|VDD|3V3|3\.3V)$", re.I)
# The least that a potentiometer at a drive has: the makers' data sheets ask for 1 to 10 kohm.
LEAST_KNOB_OHM = 1000


def _own_reference(given_v: float) -> FeedOut:
    """What a drive gives a potentiometer, and reads its wiper against: no tolerance counts."""
    return FeedOut(nominal_v=given_v, current_a=given_v / LEAST_KNOB_OHM, tolerance=0.0)


def _electrical(
    draft: BoardDraft, group: PortGroup, number: int, first_feed: str | None
) -> Electrical | None:
    """The limits of a pin: by its group's circuit, by the numbers of the part, else unknown."""
    function, kind = group.function(number), group.role.kind
    fed_here = kind == "feed in" or (group.key == first_feed and kind in FEEDING)
    if function in ("plus", "load+") and (fed_here or kind == "load"):
        numbers = draft.numbers
        low, high = numbers.get("v_min_v"), numbers.get("v_max_v")
        # A bridge passes its current on, and a converter takes what its loads make it take.
        name = group.pins[number].name
        if high and not agrees(name, low or 0.0, high):
            # What is called by other volts comes from the board, or belongs to another feed.
            return None
        is_taken = draft.bridge_max_a is None and draft.kind != "supply"
        current_a = numbers.get("current_a") if is_taken else None
        if kind == "feed in" and group.key != first_feed and feeds_outputs(name):
            # What it takes is what the loads at the outputs take.
            return FeedIn(v_min_v=low or 0.0, v_max_v=high or None, current_a=0.0)
        if kind == "feed in" and group.key != first_feed and _passes_on(draft):
            # The numbers of the part are those of its logic.
            low, high = window_printed(name) or (None, None)
            return FeedIn(v_min_v=low or 0.0, v_max_v=high or None, current_a=0.0)
        if group.key not in (first_feed, group.key if kind == "load" else first_feed):
            return None
        if not high:
            low, high = window_printed(name) or (low, high)
        return FeedIn(
            v_min_v=low or 0.0, v_max_v=high or None, current_a=current_a,
            polarity_free=EITHER_WAY.match(name) is not None,
        )  # fmt: skip
    if function == "line" and draft.kind in ON_MAINS and kind == "feed in":
        low, high = draft.numbers.get("v_min_v"), draft.numbers.get("v_max_v")
        taken_a = draft.numbers.get("current_a")
        return FeedIn(v_min_v=low or 0.0, v_max_v=high, current_a=taken_a) if high else None
    if function == "plus" and kind == "driver slot":
        # A module's first plus is that of its motors.
        first = next(n for n in range(len(group.pins)) if group.function(n) == "plus")
        high = draft.numbers.get("v_max_v")
        if group.role.end == "device" and number == first and high:
            return FeedIn(v_min_v=draft.numbers.get("v_min_v") or 0.0, v_max_v=high)
        return None
    if function == "plus" and kind == "header" and group.role.end == "device":
        return _foot_feed(draft, group.pins[number].name) if first_feed is None else None
    if function == "plus" and kind == "step and direction" and group.role.end == "device":
        # What feeds the logic of a module apart from its motor.
        is_logic = LOGIC_FEED.match(group.pins[number].name) is not None
        return FeedIn(v_min_v=3.0, v_max_v=5.5, current_a=0.001) if is_logic else None
    if function == "plus" and kind == "analogue command":
        # By its print: the feed of a potentiometer, which may have 1 kohm.
        given_v = volts_printed(group.pins[number].name)
        return _own_reference(given_v) if given_v else None
    if function == "plus" and kind == "feed out" and draft.kind != "controller":
        volts, gives_a = draft.numbers.get("nominal_v"), draft.numbers.get("gives_a")
        gives_a = gives_a or draft.numbers.get("current_a")
        return FeedOut(nominal_v=volts, current_a=gives_a) if volts and gives_a else None
    if function in ("zero", "pe", "stop A-", "stop B-") or function.startswith(
        ("phase", "motor", "sense", "measure", "excitation", "com", "nc", "no", "through", "none")
    ):
        return None
    what = "plus" if function == "plus" else group.role.signals
    circuit = circuit_named(draft.circuits.get(f"{group.key}/{what}", ""))
    return circuit.electrical if circuit is not None else None


def _passes_on(draft: BoardDraft) -> bool:
    """Whether a module switches by transistors what a second feed gives its loads."""
    kinds = [group.role.kind for group in draft.groups]
    return (
        draft.kind == "relay module" and "switched output" in kinds and kinds.count("feed in") > 1
    )


def _foot_feed(draft: BoardDraft, name: str) -> FeedIn | None:
    """What a shield without a feed of its own takes at a plus of its foot: that of the voltage
    which its numbers allow.
    """
    low_v, high_v = draft.numbers.get("v_min_v") or 0.0, draft.numbers.get("v_max_v")
    if not high_v or not agrees(name, low_v, high_v):
        return None
    return FeedIn(v_min_v=low_v, v_max_v=high_v, current_a=draft.numbers.get("current_a"))


def driver_options(numbers: Mapping[str, float]) -> tuple[Option, ...]:
    """What is set on a stepper driver: its current, and its microsteps."""
    most = numbers.get("current_max_peak_a")
    options: list[dict[str, Any]] = [
        {"id": "microsteps", "title": "Microsteps", "choices": MICROSTEPS, "default": "16"}
    ]
    if most:
        options.insert(
            0,
            {
                "id": "current_peak_a", "title": "Current, peak", "unit": "A", "minimum": 0.1,
                "maximum": most, "default": round(most / 2, 2),
            },
        )  # fmt: skip
    return tuple(Option(**option) for option in options)
