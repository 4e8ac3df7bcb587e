"""Devices in the groups of the tray, their state, and their lead colours."""

from typing import Literal

from vervain.model.base import Record
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import DRIVE_KINDS, Part
from vervain.queries.connectivity import host_ports, motors_of, steps_from, ways_of_port
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

State = Literal["loose", "placed", "wired"]

GROUP_OF_KIND: dict[str, str] = {
    "battery": "Supplies",
    "brake": "Tools",
    "brushed motor": "Tools",
    "connector": "Terminals",
    "contactor": "Control",
    "controller": "Control",
    "diode": "Terminals",
    "emergency stop": "Operator",
    "encoder": "Tools",
    "fan": "Tools",
    "frequency inverter": "Control",
    "fuse": "Supplies",
    "hand wheel": "Operator",
    "heater": "Tools",
    "jumper": "Terminals",
    "lamp": "Tools",
    "load": "Tools",
    "motor bridge": "Control",
    "radio receiver": "Operator",
    "relay module": "Control",
    "resistor": "Terminals",
    "sensor": "Tools",
    "servo": "Tools",
    "servo drive": "Control",
    "signal converter": "Control",
    "solid-state relay": "Control",
    "stepper driver": "Control",
    "stepper motor": "Tools",
    "supply": "Supplies",
    "switch": "Tools",
    "terminal strip": "Terminals",
    "thermistor": "Tools",
    "three-phase motor": "Tools",
    "tool power source": "Control",
    "valve": "Tools",
}
GROUP_ORDER = ("Tools", "Operator", "Control", "Supplies", "Terminals")


class Group(Record, frozen=True, kw_only=True):
    """A group of the tray: its title and the designators in it."""

    title: str
    devices: tuple[str, ...]


@query
def axis_with_driver(queries: Queries, designator: str) -> str | None:
    """The axis that a device belongs to; a driver belongs to the axis of the motor on it."""
    axis = queries.axis_of(designator)
    if axis is not None:
        return axis.id
    part = queries.part_of(designator)
    if part is None or part.kind not in ("stepper driver", *DRIVE_KINDS):
        return None
    driven = (queries.axis_of(motor) for motor in motors_of(queries, designator))
    return next((axis.id for axis in driven if axis is not None), None)


@query
def groups(queries: Queries) -> tuple[Group, ...]:
    """Every device in its group: the axes in their order, then the others by kind."""
    by_axis: dict[str, list[str]] = {axis_id: [] for axis_id in queries.axes()}
    by_kind: dict[str, list[str]] = {title: [] for title in GROUP_ORDER}
    known = set(queries.devices())
    for axis_id in by_axis:
        axis = queries.axis(axis_id)
        by_axis[axis_id].extend(name for name in (axis.members if axis else ()) if name in known)
    for designator in queries.devices():
        home = axis_with_driver(queries, designator)
        part = queries.part_of(designator)
        if home is not None:
            if designator not in by_axis[home]:
                by_axis[home].append(designator)
        elif part is not None:
            by_kind[group_of(part)].append(designator)
    found = []
    for axis_id, members in by_axis.items():
        axis = queries.axis(axis_id)
        name = f" {axis.name}" if axis and axis.motion == "rotary" else " axis"
        found.append(Group(title=f"{axis_id}{name}", devices=tuple(members)))
    found.extend(Group(title=title, devices=tuple(names)) for title, names in by_kind.items())
    return tuple(group for group in found if group.devices)


def group_of(part: Part) -> str:
    """The group of a part that is on no axis: a switch for a hand is the operator's."""
    return "Operator" if part.is_by_hand else GROUP_OF_KIND[part.kind]


@query
def state_of(queries: Queries, designator: str) -> State:
    """loose: joined to nothing that counts; placed: partly; wired: every port it needs is joined.

    An alternate, whose plug waits beside the one that is in, is placed.
    """
    part = queries.part_of(designator)
    if part is None:
        return "loose"
    needed = [port for port in part.ports if not port.optional and port.end != "host"]
    if not needed:
        needed = [port for port in part.ports if port.end == "host"]
    joined = 0
    for port in needed:
        ref = PortRef(device=designator, port=port.id)
        if port.end == "device" and port.kind not in ("load", "feed in", "coil", "stop contacts"):
            reached = host_ports(queries, ref) or any(
                way.lands for way in ways_of_port(queries, ref)
            )
        else:
            reached = any(
                steps_from(queries, PinRef(device=designator, port=port.id, pin=pin.id))
                for pin in port.pins
            )
        joined += bool(reached)
    if part.kind in ("connector", "terminal strip"):
        return "wired" if joined else "loose"
    if any(alternate.device == designator for alternate in queries.alternates()) and not joined:
        return "placed"
    if not joined:
        return "loose"
    return "wired" if joined == len(needed) else "placed"


@query
def lead_colours(queries: Queries, designator: str) -> tuple[str, ...]:
    """The colours of a device's own leads, in pin order."""
    part = queries.part_of(designator)
    return tuple(pin.lead for port in (part.ports if part else ()) for pin in port.pins if pin.lead)
