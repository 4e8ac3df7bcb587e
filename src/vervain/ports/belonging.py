"""Ports that belong together: a channel and the counter that closes its loop, a heater's output and
its thermistor's input, the motor of a drive and what tells how it stands; and ports that carry the
letter of an axis.
"""

import re

from vervain.model.machine import PortRef
from vervain.model.part import DRIVE_KINDS, Part, PartKind, Port, PortKind
from vervain.queries.connectivity import host_ports, motors_of, neighbours_at
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Where a drive gives its motor the current, and what takes it there.
DRIVING: tuple[PortKind, ...] = ("motor phases", "bridge output")
DRIVEN: tuple[PortKind, ...] = ("motor phases", "bridge motor")
# Drives that run nothing without being told how the motor stands, where they have an input for it.
CLOSING_A_LOOP: tuple[PartKind, ...] = ("servo drive", "stepper driver")


@query
def axes_at(queries: Queries, ref: PortRef) -> frozenset[str]:
    """The axes of what is joined to a port, a driver's by the motors on it."""
    found: set[str] = set()
    for seat in neighbours_at(queries, ref):
        for name in (seat.device, *motors_of(queries, seat.device)):
            axis = queries.axis_of(name)
            if axis is not None:
                found.add(axis.id)
    return frozenset(found)


def names_in(text: str) -> set[str]:
    """The letters and numbers of a port: "3" of "AXIS 3", "X" of "STOP X", "Z" and "A" of "Z A"."""
    return set(re.findall(r"(?<![A-Za-z])[A-Z]\d?(?![A-Za-z])|\d+", text))


def axis_letter(port: str) -> str | None:
    """The letter of an axis that a motor's port is called by: X MOTOR, YM, ZM2, MOTOR Z; None of
    any other.
    """
    found = re.match(r"([XYZABCUVWE])(?:M|MOT|MOTOR)?\d?(?![A-Za-z])", port)
    found = found or re.match(r"(?:MOTOR|MOT|AXIS)[ _-]?([XYZABCUVWE])\d?$", port)
    return found[1] if found is not None else None


@query
def axis_lettered(queries: Queries, ref: PortRef) -> str | None:
    """The axis of the machine whose letter a port carries; None where it carries none, or two."""
    letters = {name[0] for name in names_in(ref.port) if name[0].isalpha()}
    axes = [axis for axis in queries.axes() if axis[:1] in letters]
    return axes[0] if len(axes) == 1 and len(letters) == 1 else None


def partner_of(part: Part, port: Port) -> str | None:
    """The port of the same part that a port belongs to: as the part says, else that of the motor
    for what tells a drive how it stands, the first to the first where it drives several.
    """
    is_loop = part.kind in ("stepper driver", *DRIVE_KINDS) and _tells_a_drive(port)
    if port.belongs_to is not None or not is_loop:
        return port.belongs_to
    motors = [other.id for other in part.ports if other.kind in DRIVING and other.end == "host"]
    loops = [other.id for other in part.ports if _tells_a_drive(other)]
    if len(motors) == 1:
        return motors[0]
    return motors[loops.index(port.id)] if len(motors) == len(loops) else None


def _tells_a_drive(port: Port) -> bool:
    return port.kind == "encoder" and port.end == "host"


def partner_ports(queries: Queries, ref: PortRef) -> tuple[PortRef, ...]:
    """The ports of the same device that a port belongs with, whichever of them says so."""
    port, part = queries.port(ref), queries.part_of(ref.device)
    if port is None or part is None:
        return ()
    return tuple(
        PortRef(device=ref.device, port=other.id)
        for other in part.ports
        if other.id != port.id
        and (other.id == partner_of(part, port) or partner_of(part, other) == port.id)
    )


@query
def partner_of_another_axis(
    queries: Queries, ref: PortRef, axis: str
) -> tuple[PortRef, str] | None:
    """The port that a port belongs with, where something of another axis than this is joined to it;
    with that axis.
    """
    for other in partner_ports(queries, ref):
        axes = axes_at(queries, other)
        if axes and axis not in axes:
            return other, min(axes)
    return None


@query
def is_of_another_drive(queries: Queries, plug: PortRef, host: PortRef) -> str:
    """Why what tells how a motor stands does not belong at a port: another motor is on that drive,
    another drive has the motor, or the drive that has it is told nothing; "" where it does.
    """
    part, port = queries.part_of(host.device), queries.port(host)
    if part is None or port is None or not _tells_of_a_motor(queries, plug):
        return ""
    drives = _drives(queries, plug.device)
    partner = partner_of(part, port)
    if partner is not None:
        motor_port = PortRef(device=host.device, port=partner)
        others = [name for name in _motors_at(queries, motor_port) if name != plug.device]
        if motor_port in drives:
            return ""
        if others:
            return f"It belongs with {partner}, where {others[0]} is."
    untold = next((ref for ref in drives if _is_told_there(queries, plug, ref.device)), None)
    if untold is not None and untold.device != host.device:
        return f"{untold.device} drives {plug.device}, and must be told how it stands."
    return ""


def _tells_of_a_motor(queries: Queries, plug: PortRef) -> bool:
    """Whether a plug is that by which a motor tells how it stands."""
    part, port = queries.part_of(plug.device), queries.port(plug)
    is_encoder = port is not None and port.kind == "encoder" and port.end == "device"
    return is_encoder and part is not None and any(p.kind in DRIVEN for p in part.ports)


def _drives(queries: Queries, motor: str) -> list[PortRef]:
    """The ports that give a motor its current."""
    part = queries.part_of(motor)
    return [
        host
        for port in (part.ports if part is not None else ())
        if port.kind in DRIVEN and port.end == "device"
        for host in host_ports(queries, PortRef(device=motor, port=port.id))
        if (found := queries.port(host)) is not None and found.kind in DRIVING
    ]


def _motors_at(queries: Queries, host: PortRef) -> list[str]:
    """The motors at a port that gives them their current."""
    return [
        seat.device for seat in neighbours_at(queries, host)
        if (port := queries.port(seat)) is not None
        and port.kind in DRIVEN and port.end == "device"
    ]  # fmt: skip


def _is_told_there(queries: Queries, plug: PortRef, drive: str) -> bool:
    """Whether a drive has an input for what such a plug tells: Hall sensors, or channels."""
    part, port = queries.part_of(drive), queries.port(plug)
    if part is None or port is None or part.kind not in CLOSING_A_LOOP:
        return False
    return any(
        _tells_a_drive(other) and not other.optional and _has_halls(other) == _has_halls(port)
        for other in part.ports
    )


def _has_halls(port: Port) -> bool:
    return any(pin.function.startswith("hall") for pin in port.pins)
