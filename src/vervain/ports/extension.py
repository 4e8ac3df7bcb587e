"""Extensions: what makes a lead that is too short for its way long enough."""

import math

from msgspec.structs import replace

from vervain.edits.common import free_name, swapped
from vervain.edits.hookup_edits import add_hookup, find_hookup
from vervain.model.cable_part import CablePart
from vervain.model.colours import multicore_colours
from vervain.model.connectors import connector_words, gender_of, is_plug
from vervain.model.elements import Bridge
from vervain.model.machine import Cable, Conductor, Machine, PortRef
from vervain.model.part import Gender, Part, Pin, Port
from vervain.ports.adapters import placed
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import SPARE_M, lead_shortage_mm, route_between

THINNEST_MM2 = 0.25


def short_by_m(queries: Queries, plug: PortRef, host: PortRef) -> float:
    """How much a device's own leads lack on their way to a port; 0 where they reach, or where
    their length or the way is not known.
    """
    port = queries.port(plug)
    route = route_between(queries, plug.device, host.device)
    if port is None or route is None:
        return 0.0
    return lead_shortage_mm(queries, port.lead_length_m, route.runs) / 1000


def extension_length_m(short_m: float) -> float:
    """The length of the cable to put in: what is lacking and the spare, up to the next 0.1 m."""
    return math.ceil(round((short_m + SPARE_M) * 10, 6)) / 10


def extend(machine: Machine, hookup_id: str, plug: PortRef, length_m: float) -> Machine:
    """Puts an in-line connector and a cable between a plug's own leads and the port that they are
    in; the cable is one that the machine has already, else made to measure.
    """
    hookup = find_hookup(machine, hookup_id)
    queries = Queries(machine)
    side = "a" if hookup.a == plug else "b"
    host = hookup.b if side == "a" else hookup.a
    ways = len(hookup.conductors)
    port = queries.port(plug)
    route = route_between(queries, plug.device, host.device)
    area = max(THINNEST_MM2, (port.lead_mm2 if port else None) or 0.0)
    kind = _cable_for(machine, ways, area, bool(route and route.moving))
    joint = inline_part(ways)
    part = queries.part_of(plug.device)
    if part is not None and port is not None and is_plug(part, port):
        joint = inline_part(len(port.pins), port.connector, gender_of(part, port))
    machine, designator = placed(machine, joint, f"Extension of {plug.device}", plug.device)
    a, b = (PortRef(device=designator, port=name) for name in "AB")
    name = free_name("W", [cable.id for cable in machine.cables])
    inner = tuple(
        Conductor(a=row.a if side == "a" else row.b, b=str(number))
        for number, row in enumerate(hookup.conductors, 1)
    )
    outer = tuple(
        Conductor(a=str(number), b=row.b if side == "a" else row.a, core=number)
        for number, row in enumerate(hookup.conductors, 1)
    )
    cable = Cable(id=name, part=kind.id, length_m=length_m, runs=route.runs if route else ())
    parts = machine.cable_parts
    machine = replace(
        machine,
        cables=(*machine.cables, cable),
        cable_parts=parts if kind in parts else (*parts, kind),
        hookups=swapped(machine.hookups, hookup, replace(hookup, a=plug, b=a, conductors=inner)),
    )
    return add_hookup(machine, b, host, outer, name)


def _cable_for(machine: Machine, ways: int, area_mm2: float, moving: bool) -> CablePart:
    """The machine's cable with the fewest cores that will do, else one made to measure."""
    fits = [
        part
        for part in machine.cable_parts
        if ways <= len(part.cores) <= ways + 2
        and area_mm2 <= part.core_mm2 <= 3 * area_mm2
        and (part.flexing or not moving)
        and not part.shield
        and "GNYE" not in part.cores
    ]
    if fits:
        return min(fits, key=lambda part: (len(part.cores), part.core_mm2, part.id))
    flexing = "flexing" if moving else "fixed"
    return CablePart(
        id=f"{flexing}-{ways}x{area_mm2:g}",
        title=f"Cable {ways} x {area_mm2:g} mm2{', flexing' if moving else ''}",
        cores=multicore_colours(ways),
        core_mm2=area_mm2,
        flexing=moving,
    )


def inline_part(ways: int, plug: str | None = None, gender: Gender | None = None) -> Part:
    """An in-line connector: leads, or the mate of a plug, on side A, a cable on side B."""
    pins = tuple(Pin(id=str(number), function="through") for number in range(1, ways + 1))
    other: dict[Gender | None, Gender | None] = {"pins": "sockets", "sockets": "pins", None: None}
    form = connector_words(plug) if plug else f"{ways} ways"
    ends = (
        Port(
            id="A", kind="terminals", end="through", pins=pins,
            connector=plug or f"round-{ways}", gender=other[gender],
        ),
        Port(
            id="B", kind="terminals", end="through", pins=pins,
            connector=None if plug else f"round-{ways}",
        ),
    )  # fmt: skip
    return Part(
        id=f"extension-{plug}-{other[gender]}" if plug else f"inline-{ways}",
        kind="connector",
        title=f"{'Mate of' if plug else 'In-line connector,'} {form}",
        ports=ends,
        inside=tuple(Bridge(pins=(("A", pin.id), ("B", pin.id))) for pin in pins),
    )
