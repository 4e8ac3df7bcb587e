"""Plugs: every connector that conductors come to, cavity by cavity, and how its face looks."""

import math
from typing import Literal

from vervain.harness.labels import hookup_labels
from vervain.harness.terminations import Termination, contact_side, is_seated, termination
from vervain.model.base import Record
from vervain.model.connectors import connector_of, connector_words
from vervain.model.machine import PinRef, PortRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

Side = Literal["wires", "mating"]


class Wire(Record, frozen=True, kw_only=True):
    """A conductor in a cavity: its key, colour, cross-section in mm2 and what it ends in; `at_a`
    tells which of its two labels sits here.
    """

    key: tuple[str, int]
    at_a: bool
    colour: str | None
    area_mm2: float | None
    end: Termination


class Cavity(Record, frozen=True, kw_only=True):
    """One cavity or terminal of a plug, with its number from 1, and the wires in it."""

    number: int
    pin: PinRef
    text: str
    wires: tuple[Wire, ...]


class Plug(Record, frozen=True, kw_only=True):
    """What is made for a port: the half that goes into it, or the terminals of the port itself.

    `mate` says what it goes into. `contacts` is pins or sockets where they are crimped on.
    """

    port: PortRef
    words: str
    mate: str
    contacts: str
    keyed: bool
    is_terminal: bool
    cavities: tuple[Cavity, ...]

    @property
    def comes_ready(self) -> bool:
        """Whether nothing is made here: everything in it comes with its device."""
        ends = [wire.end.form for cavity in self.cavities for wire in cavity.wires]
        return all(form == "as it comes" for form in ends)

    @property
    def empty(self) -> int:
        """How many cavities stay empty."""
        return sum(not cavity.wires for cavity in self.cavities)


@query
def plugs_of_device(queries: Queries, designator: str) -> tuple[Plug, ...]:
    """The plugs at a device's ports that any conductor comes to, in the order of its ports."""
    part = queries.part_of(designator)
    found = []
    for port in part.ports if part else ():
        ref = PortRef(device=designator, port=port.id)
        plug = plug_at(queries, ref) if port.connector else None
        if plug is not None:
            found.append(plug)
    return tuple(found)


@query
def plug_at(queries: Queries, ref: PortRef) -> Plug | None:
    """The plug that is made for a port; None where nothing comes to it, or it has leads."""
    port, part = queries.port(ref), queries.part_of(ref.device)
    found = connector_of(port.connector) if port else None
    if port is None or part is None or found is None:
        return None
    cavities = tuple(
        Cavity(
            number=number,
            pin=PinRef(device=ref.device, port=ref.port, pin=pin.id),
            text=pin.text,
            wires=_wires(queries, PinRef(device=ref.device, port=ref.port, pin=pin.id)),
        )
        for number, pin in enumerate(port.pins, 1)
    )
    if all(is_seated(queries, wire.key[0]) for cavity in cavities for wire in cavity.wires):
        # Nothing comes here, or a module is pushed straight in.
        return None
    takes_wires = found.family.takes_wires
    other = {"A": "B", "B": "A"}.get(ref.port, "") if part.kind == "connector" else ""
    mate = f"{ref.device} {other}".strip() if other else f"{ref.device} {ref.port}"
    return Plug(
        port=ref,
        words=connector_words(port.connector),
        mate="" if takes_wires else mate,
        contacts=""
        if takes_wires
        else contact_side(queries, cavities[0].pin).partition(" ")[0] + "s",
        keyed=found.family.keyed,
        is_terminal=takes_wires,
        cavities=cavities,
    )


def _wires(queries: Queries, pin: PinRef) -> tuple[Wire, ...]:
    found = []
    for hookup in queries.hookups_of(pin.device):
        for row, conductor in enumerate(hookup.conductors):
            at_a = hookup.a == pin.port_ref and conductor.a == pin.pin
            at_b = hookup.b == pin.port_ref and conductor.b == pin.pin
            if not at_a and not at_b:
                continue
            end = termination(queries, hookup.id, pin)
            found.append(
                Wire(
                    key=(hookup.id, row),
                    at_a=at_a,
                    colour=colour_at(queries, hookup.id, row),
                    area_mm2=end.area_mm2,
                    end=end,
                )
            )
    return tuple(found)


def label_of_wire(queries: Queries, wire: Wire) -> str:
    """The label at this end of a conductor."""
    entry = hookup_labels(queries, wire.key[0])[wire.key[1]]
    return entry.at_a if wire.at_a else entry.at_b


def colour_at(queries: Queries, hookup_id: str, row: int) -> str | None:
    """The colour of a conductor: of its core, or of the device's lead that it is."""
    hookup = queries.hookup(hookup_id)
    if hookup is None:
        return None
    conductor = hookup.conductors[row]
    cable = queries.cable(hookup.cable) if hookup.cable else None
    part = queries.cable_part(cable.part) if cable else None
    if part is not None:
        core = conductor.core
        return part.cores[core - 1] if core and core <= len(part.cores) else None
    for ref, pin_id in ((hookup.a, conductor.a), (hookup.b, conductor.b)):
        pin = queries.pin(PinRef(device=ref.device, port=ref.port, pin=pin_id))
        if pin is not None and pin.lead is not None:
            return pin.lead
    return None


@query
def all_plugs(queries: Queries) -> tuple[Plug, ...]:
    """Every plug, device by device."""
    return tuple(plug for name in queries.devices() for plug in plugs_of_device(queries, name))


def cavity_places(connector: str | None, count: int, side: Side) -> tuple[tuple[float, float], ...]:
    """Where the cavities of a plug are seen, in steps of the pitch from its middle, x to the right
    and y down; number 1 at the upper left as seen from the wires, mirrored from the mating side.

    Rows as the name says ("2x8": two rows, numbered in columns); round ones on a circle.
    """
    found = connector_of(connector)
    ways = found.ways if found is not None else str(count)
    if found is not None and found.family.name == "round":
        places = _on_circle(count)
    else:
        rows = int(ways.partition("x")[0]) if "x" in ways else 1
        columns = -(-count // rows)
        places = tuple(
            (number // rows - (columns - 1) / 2, number % rows - (rows - 1) / 2)
            for number in range(count)
        )
    if side == "mating":
        return tuple((-x, y) for x, y in places)
    return places


def _on_circle(count: int) -> tuple[tuple[float, float], ...]:
    """Numbered clockwise from the top, a step of the pitch apart; from 7 on one in the middle."""
    middle = 1 if count >= 7 else 0
    ring = count - middle
    radius = 0.0 if ring == 1 else max(0.6, 0.5 / math.sin(math.pi / ring))
    places = [
        (radius * math.sin(2 * math.pi * n / ring), -radius * math.cos(2 * math.pi * n / ring))
        for n in range(ring)
    ]
    return (*places, *([(0.0, 0.0)] * middle))
