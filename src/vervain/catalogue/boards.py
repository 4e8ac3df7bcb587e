"""A board from its groups of ports: kinds, limits, edges, outline, and what is joined inside."""

from collections.abc import Mapping, Sequence
from typing import Any

from vervain.catalogue.board_draft import BoardDraft
from vervain.catalogue.board_limits import electrical_of, fed_by_signal, own_feed
from vervain.catalogue.port_groups import PortGroup, given_on_a_bus
from vervain.catalogue.port_places import PortPlace
from vervain.catalogue.port_roles import AS_COMMAND, AS_DEVICE, AS_ENCODER_OUT, AS_ON_BUS, AS_SERVO
from vervain.catalogue.printed_volts import WINDOW, volts_printed, window_printed
from vervain.catalogue.processor_lines import as_outputs
from vervain.catalogue.terminal_numbers import TWO_FIGURES
from vervain.model.connectors import connector_of
from vervain.model.part import (
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
# By what a drive is told how fast to turn.
COMMANDED = (AS_COMMAND, AS_DEVICE, AS_ON_BUS, AS_SERVO)
PIN_MM, GAP_MM, BESIDE_MM, LEAST_MM = 5.0, 6.0, 14.0, 50.0
# Room for a port's name, and for each of its letters where ports lie side by side.
NARROWEST_MM, LETTER_MM = 12.0, 3.2
# What is printed at the pins of one edge takes of the edges beside it.
CORNER_MM = 10.0
# How the plus of a load's output is called that is the board's own.
OF_THE_FEED = frozenset({"+", "V+", "VM", "VMOT", "OUT+", "VOUT+", "LOAD+"})
CONTACTS: tuple[PortKind, ...] = ("relay contact", "contact")
MICROSTEPS = ("1", "2", "4", "8", "16", "32", "64", "128", "256")


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


def passed_on(group: PortGroup, groups: Sequence[PortGroup]) -> tuple[str, ...]:
    """The names of pluses that are those of the board's feed: beside switched outputs what is not
    printed with its volts; with a bus what a converter gives on; at any port that gives power the
    most that the feed may have, 24V of 12-24V, which no board makes of less.
    """
    if group.role.end != "host" or group.role.kind in ("feed out", "relay contact"):
        return ()
    highest = {
        window[1] for other in groups if other.role.kind == "feed in"
        for pin in other.pins
        if WINDOW.search(pin.name) and (window := window_printed(pin.name)) is not None
    }  # fmt: skip
    names = group.names or (tuple(pin.name for pin in group.pins),)
    by_bus = given_on_a_bus(groups)
    return tuple(
        name
        for port, printed in zip(group.ports, names, strict=False)
        for pin, name in zip(group.pins, printed, strict=True)
        if pin.function == "plus"
        and (
            (group.role.kind == "switched output" and _is_of_the_feed(name, port))
            or (group.role.kind == "bus" and name in by_bus)
            or (not WINDOW.search(name) and volts_printed(name) in highest)
        )
    )


def _is_of_the_feed(name: str, port: str) -> bool:
    """Whether a plus is called as the board's own, alone or behind the name of its port: HEAT+."""
    return name in OF_THE_FEED or name.rstrip("+").strip().casefold() == port.casefold()


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
    fed |= set(passed_on(group, groups))
    passed = all(pin.name in fed for pin in group.pins if pin.function == "plus")
    return tuple(key for key in circuit_keys(group) if not (passed and key.endswith("/plus")))


def board_ports(draft: BoardDraft) -> tuple[Port, ...]:
    """The ports with their kinds, limits and places on the board."""
    at: dict[str, float] = _taken_mm(draft)
    found = []
    # A relay alone is there for its coil; of several channels some stay free.
    coils = sum(len(group.ports) for group in draft.groups if group.role.kind == "load")
    first_feed = own_feed(draft) or fed_by_signal(draft)
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
            port = Port(
                id=name,
                kind=group.role.kind,
                end=group.role.end,
                pins=tuple(
                    Pin(
                        id=_pin_id(group, pin.name, number),
                        name=group.names[at_port][number] if group.names else pin.name,
                        function=group.function(number),
                        electrical=electrical_of(draft, group, number, first_feed),
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
            found += [port, *as_outputs(draft, group, port)]
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
