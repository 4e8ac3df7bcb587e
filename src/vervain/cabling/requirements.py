"""What wants a cable: every hookup between two places, or two boards, that has none."""

import math
from collections.abc import Iterable
from typing import NamedTuple

from vervain.electrical.feeds import (
    RETURN_FUNCTIONS,
    downstream_pins,
    main_feed_pin,
    nominal_v,
    sources_of,
)
from vervain.harness.cable_kinds import (
    EARTH_ALONE,
    Service,
    carried_by,
    carries_mains,
    functions_of_hookup,
    service_of_hookup,
)
from vervain.harness.cable_routes import lead_route, lead_side, wants_cable
from vervain.harness.terminations import contact_range_mm2
from vervain.model.base import Record
from vervain.model.connectors import connector_of
from vervain.model.machine import Hookup, PinRef, PortRef, ends_of
from vervain.model.ways_back import signal_of
from vervain.queries.connectivity import is_joint, paths_from
from vervain.queries.engine import query
from vervain.queries.index import Net
from vervain.queries.machine_queries import Queries
from vervain.supply.before_fuses import unfused_a
from vervain.supply.conductor_currents import conductor_current
from vervain.supply.feed_mains_fuses import area_of_mains
from vervain.supply.loads import driver_rms_a

COMPLEMENTS = ("encoder A", "encoder B", "encoder Z")
# A stepper of which nobody knows the current is cabled as one of this, by practice.
UNRATED_MOTOR_A = 2.0
# The thinnest and the thickest core that is planned.
PLANNED_MM2 = 0.05, 120.0
# What the wires of a power circuit have at least inside a box (IEC 60204-1:2016, table 5).
MAINS_LEAST_MM2 = 0.75
PLUS, COMMON, SIGNAL = "plus", "common", "signal"
LINE, NEUTRAL, EARTH = "line", "neutral", "earth"


class Conductor(NamedTuple):
    """One conductor of a need: its row in the hookup, what it is (plus, common, signal; line,
    neutral, earth), the signal that it belongs to with its complement, its peak current in A, and
    its net at the control end.
    """

    row: int
    kind: str
    line: str
    current_a: float
    net: Net


class Need(Record, frozen=True, kw_only=True):
    """A hookup that wants a cable. `device_end` is the side where the device is, `axis` whose it
    is; `thinnest_mm2` and `thickest_mm2` are what all its contacts take; `fused_a` is the rating of
    the fuse before it, or without one what its source can give, 0 where there is neither; `plugs`
    are the families of the plugs at its ends, as far as they are said; `single` the colour of a
    wire of mains that goes alone inside a box, "" for anything else; `to_fuse` whether it leads to
    the first fuse, in the place of its source; `at_poles` whether it lies between poles of two
    devices, of which each is a port; `of_couple` whether it leads a thermocouple on.
    """

    hookup: str
    service: Service
    conductors: tuple[Conductor, ...]
    places: tuple[str, str]
    runs: tuple[str, ...]
    length_m: float
    moving: bool
    coiled: bool
    device_end: PortRef
    far_end: PortRef
    axis: str
    voltage_v: float
    thinnest_mm2: float
    thickest_mm2: float
    ribbon: bool
    earth: bool
    fused_a: float
    plugs: frozenset[str] = frozenset()
    single: str = ""
    to_fuse: bool = False
    at_poles: bool = False
    of_couple: bool = False


@query
def need_of(queries: Queries, hookup_id: str) -> Need | None:
    """What a hookup wants; None where it has a cable, or leads of its own that reach."""
    hookup = queries.hookup(hookup_id)
    if hookup is None or not wants_cable(queries, hookup_id):
        return None
    route = lead_route(queries, hookup_id)
    first = lead_side(queries, hookup) or _outer_end(queries, hookup.a, hookup.b)
    far = hookup.b if first == hookup.a else hookup.a
    found = [run for name in route.runs if (run := queries.run(name)) is not None]
    device = queries.device(first.device)
    other = queries.device(far.device)
    axis = queries.axis_of(_device_behind(queries, first))
    low, high = contact_range_mm2(queries, (hookup.a, hookup.b), *PLANNED_MM2)
    service = service_of_hookup(queries, hookup_id)
    fused_a = _fused_a(queries, hookup)
    if service == "mains":
        # Without a fuse of the machine's own that of the house protects the wire.
        low = max(low, MAINS_LEAST_MM2 if fused_a else area_of_mains(queries))
    conductors = tuple(
        _conductor(queries, hookup_id, row, far) for row in range(len(hookup.conductors))
    )
    return Need(
        hookup=hookup_id,
        service=service,
        conductors=conductors,
        places=((device.place or "") if device else "", (other.place or "") if other else ""),
        runs=route.runs,
        length_m=sum(run.length_m for run in found),
        moving=any(run.moving for run in found),
        coiled=bool(found) and all(run.coiled for run in found),
        device_end=first,
        far_end=far,
        axis=axis.id if axis else "",
        voltage_v=_voltage_v(queries, hookup, first),
        thinnest_mm2=low,
        thickest_mm2=high,
        ribbon=_straight_headers(queries, hookup_id),
        earth=functions_of_hookup(queries, hookup_id) == EARTH_ALONE,
        fused_a=fused_a,
        plugs=frozenset(
            plug.family.name
            for end in (hookup.a, hookup.b)
            if (port := queries.port(end)) and (plug := connector_of(port.connector))
        ),
        single=_single_colour(queries, hookup),
        of_couple=_is_of_a_couple(queries, first),
        at_poles=all(
            port.end == "through"
            for end in (hookup.a, hookup.b)
            if (port := queries.port(end)) is not None
        ),
        to_fuse=not route.runs and _leads_to_first_fuse(queries, hookup),
    )


def _is_of_a_couple(queries: Queries, end: PortRef) -> bool:
    """Whether a port is that of a thermocouple: two leads, of which the volts are measured."""
    part, port = queries.part_of(end.device), queries.port(end)
    functions = {pin.function for pin in (port.pins if port is not None else ())}
    return part is not None and part.kind == "sensor" and functions == {"measure+", "measure-"}


def _fused_a(queries: Queries, hookup: Hookup) -> float:
    """The rating of the fuse before a hookup, or what its source gives where there is none, in A; 0
    where neither is known.
    """
    return max(
        (
            max(fuses_before(queries).get(pin, 0.0), unfused_a(queries).get(pin, 0.0))
            for row in hookup.conductors
            for pin in ends_of(hookup, row)
        ),
        default=0.0,
    )


def _leads_to_first_fuse(queries: Queries, hookup: Hookup) -> bool:
    """Whether a hookup is a wire from what no fuse protects to a fuse."""
    at_fuse = any(
        part.kind == "fuse"
        for end in (hookup.a, hookup.b) if (part := queries.part_of(end.device)) is not None
    )  # fmt: skip
    ends = [end for row in hookup.conductors for end in ends_of(hookup, row)]
    return at_fuse and len(hookup.conductors) == 1 and any(e in unfused_a(queries) for e in ends)


def _single_colour(queries: Queries, hookup: Hookup) -> str:
    """The colour of a wire of mains that goes alone from terminal to terminal in one place: blue is
    the neutral, brown the line (IEC 60445). "" for anything else.
    """
    devices = [queries.device(end.device) for end in (hookup.a, hookup.b)]
    is_inside = len({device.place if device is not None else None for device in devices}) == 1
    if service_of_hookup(queries, hookup.id) != "mains" or not is_inside:
        return ""
    if len(hookup.conductors) != 1 or functions_of_hookup(queries, hookup.id) == EARTH_ALONE:
        return ""
    pins = _functions_on(queries, ends_of(hookup, hookup.conductors[0]))
    return "BU" if "neutral" in pins else "BN"


def _functions_on(queries: Queries, ends: Iterable[PinRef]) -> set[str]:
    """The functions of all pins that are one copper with some ends."""
    return {
        found.function
        for end in ends
        for ref in queries.net(end)
        if (found := queries.pin(ref)) is not None
    }


def _voltage_v(queries: Queries, hookup: Hookup, device_end: PortRef) -> float:
    """The voltage of the source that a hookup leads to; of one that is only a return, that which
    its device is fed with. 0 where neither is known.
    """
    found = [
        source.feed.nominal_v
        for row in hookup.conductors
        for pin in ends_of(hookup, row)
        for source in sources_of(queries, pin)
    ]
    main = main_feed_pin(queries, device_end.device)
    if found or main is None or main.port != device_end.port:
        return max(found, default=0.0)
    return nominal_v(queries, main)


@query
def fuses_before(queries: Queries) -> dict[PinRef, float]:
    """The rating in A of the fuse that each pin lies behind: of several the smallest. A device's
    return carries what its plus does.
    """
    found: dict[PinRef, float] = {}
    for designator in queries.devices():
        part = queries.part_of(designator)
        rating = queries.setting(designator, "rating_a")
        if part is None or not isinstance(rating, int | float):
            continue
        for pin in downstream_pins(queries, designator):
            there = queries.pin(pin)
            port = queries.port(pin.port_ref)
            if there is None or port is None or there.function in RETURN_FUNCTIONS:
                continue
            own = port.pins if port.end == "device" else ()
            returns = [p.id for p in own if p.function in RETURN_FUNCTIONS]
            for name in (pin.pin, *returns):
                at = PinRef(device=pin.device, port=pin.port, pin=name)
                found[at] = min(found.get(at, float(rating)), float(rating))
    return found


@query
def needs(queries: Queries) -> tuple[Need, ...]:
    """Every need, in the machine's order."""
    return tuple(need for name in queries.hookups() if (need := need_of(queries, name)) is not None)


@query
def wires_without_sheath(queries: Queries) -> dict[str, str]:
    """The hookups between two places whose mains lie in wires without a sheath, as they are laid
    before anything has a place, each with its cable; an earth alone may lie so.
    """
    found = {}
    for name in queries.hookups():
        hookup = queries.hookup(name)
        cable = queries.cable(hookup.cable) if hookup is not None and hookup.cable else None
        part = queries.cable_part(cable.part) if cable is not None else None
        if hookup is None or cable is None or part is None or part.is_sheathed:
            continue
        ends = [queries.device(end.device) for end in (hookup.a, hookup.b)]
        places = {device.place for device in ends if device is not None}
        if len(places) > 1 and None not in places and carries_mains(queries, name):
            found[name] = cable.id
    return found


def _outer_end(queries: Queries, a: PortRef, b: PortRef) -> PortRef:
    """The end that is farther from the control: a connector, else the second."""
    if is_joint(queries, a.device) != is_joint(queries, b.device):
        return a if is_joint(queries, a.device) else b
    return b


def _device_behind(queries: Queries, end: PortRef) -> str:
    """The device behind a connector's side, or the device itself."""
    if not is_joint(queries, end.device):
        return end.device
    part = queries.part_of(end.device)
    for port in part.ports if part else ():
        for pin in port.pins:
            ref = PinRef(device=end.device, port=port.id, pin=pin.id)
            for way in paths_from(queries, ref):
                there = queries.port(way.end.port_ref)
                if way.lands and there is not None and there.end == "device":
                    return way.end.device
    return end.device


def _conductor(queries: Queries, hookup_id: str, row: int, far: PortRef) -> Conductor:
    hookup = queries.hookup(hookup_id)
    assert hookup is not None
    ends = ends_of(hookup, hookup.conductors[row])
    functions: set[str] = set()
    current_a = at_motor_a = 0.0
    for pin in ends:
        for ref in (pin, *(way.end for way in paths_from(queries, pin))):
            there, port = queries.pin(ref), queries.port(ref.port_ref)
            if there is None:
                continue
            functions.add(there.function)
            if port is not None and port.kind == "motor phases" and port.end == "host":
                current_a = max(
                    current_a, (driver_rms_a(queries, ref.device) or 0.0) * math.sqrt(2)
                )
            part = queries.part_of(ref.device)
            is_winding = port is not None and port.kind == "motor phases"
            if is_winding and part is not None and part.stepper is not None:
                # What drives it may not say its current: at most what the motor is rated for.
                at_motor_a = max(at_motor_a, part.stepper.current_a or UNRATED_MOTOR_A)
    current_a = current_a or at_motor_a
    flowing = conductor_current(queries, hookup_id, row)
    if flowing is not None:
        current_a = max(current_a, flowing.current_a)
    line = next((signal_of(name) for name in functions if name.startswith("encoder")), "")
    at_far = ends[0] if ends[0].port_ref == far else ends[1]
    kind = SIGNAL
    if carried_by(queries, hookup_id)[row].is_mains:
        kind = NEUTRAL if "neutral" in _functions_on(queries, ends) else LINE
    elif any((own := queries.pin(end)) is not None and own.function == "pe" for end in ends):
        kind = EARTH
    elif functions & {"plus"} and not line:
        kind = PLUS
    elif functions & {"zero"} or (functions & set(RETURN_FUNCTIONS) and "signal" not in functions):
        kind = COMMON
    return Conductor(row, kind, line, round(current_a, 3), queries.net(at_far))


def _straight_headers(queries: Queries, hookup_id: str) -> bool:
    """Whether a ribbon can make it: headers of one pitch, at least 8 ways, pin on pin."""
    hookup = queries.hookup(hookup_id)
    if hookup is None or len(hookup.conductors) < 8:
        return False
    pitches = set()
    for end in (hookup.a, hookup.b):
        port = queries.port(end)
        found = connector_of(port.connector) if port else None
        if found is None or found.family.name not in ("pin", "socket"):
            return False
        pitches.add(found.pitch)
    return len(pitches) == 1 and all(row.a == row.b for row in hookup.conductors)
