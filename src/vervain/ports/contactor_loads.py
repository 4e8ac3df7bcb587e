"""Which load a contactor is for: the one at mains that is called as it is; of one with a single
contact, a relay for a heavy load, one below the mains as well.
"""

import re

from vervain.electrical.mains import (
    MOTOR_PHASES,
    THREE,
    is_motor_for_mains,
    lines_that_come_in,
    takes_mains,
)
from vervain.model.electrical import FeedIn
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part, PartKind, PinFunction
from vervain.ports.called_alike import are_called_alike, is_its_name
from vervain.ports.switched_loads import LOADS
from vervain.queries.connectivity import drivers_of, occupants
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# What has power of its own that a contactor turns on and off.
AT_MAINS: tuple[PartKind, ...] = LOADS
PLUSES: tuple[PinFunction, ...] = ("plus", "load+")


@query
def load_of_contactor(queries: Queries, contactor: str) -> str | None:
    """The one load that a contactor is called after, where no other contactor is; None where it is
    called after none, or several.
    """
    fitting = _called_after(queries, contactor)
    others = (name for name in _contactors(queries) if name != contactor)
    if len(fitting) != 1 or any(fitting[0] in _called_after(queries, name) for name in others):
        return None
    return fitting[0]


@query
def contactor_of_load(queries: Queries, load: str) -> str | None:
    """The contactor that is called after a load; None where there is none."""
    found = (name for name in _contactors(queries) if load_of_contactor(queries, name) == load)
    return next(found, None)


@query
def _called_after(queries: Queries, contactor: str) -> tuple[str, ...]:
    """The loads that a contactor is called after; of several those that are numbered as it is: Zone
    2.
    """
    device, part = queries.device(contactor), queries.part_of(contactor)
    name = device.name if device is not None else ""
    loads = _loads(queries)
    if part is not None and _is_a_relay(part):
        loads += _loads_below_mains(queries)
    alike = [load for load in loads if are_called_alike(queries, load, name)]
    numbered = [load for load in alike if _numbers(queries, load) == re.findall(r"\d+", name)]
    return tuple(numbered if len(alike) > 1 else alike)


def _numbers(queries: Queries, designator: str) -> list[str]:
    device = queries.device(designator)
    return re.findall(r"\d+", device.name) if device is not None else []


def _contactors(queries: Queries) -> list[str]:
    return [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "contactor"
    ]  # fmt: skip


@query
def _loads(queries: Queries) -> tuple[str, ...]:
    """The loads that take mains."""
    return tuple(
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        and (
            may_lie_at_mains(queries, name)
            or (
                part.kind in AT_MAINS
                and any(pin.function == "line" for port in part.ports for pin in port.pins)
            )
        )
    )  # fmt: skip


def _is_a_relay(part: Part) -> bool:
    """Whether a contactor has one contact that closes, for what is below the mains."""
    closing = [e for e in part.inside if isinstance(e, Contact) and e.rest == "NO"]
    is_below = all(not takes_mains(pin.electrical) for port in part.ports for pin in port.pins
                   if isinstance(pin.electrical, FeedIn))  # fmt: skip
    return len(closing) == 1 and is_below


@query
def _loads_below_mains(queries: Queries) -> tuple[str, ...]:
    """The loads with a plus or an end that may be one."""
    return tuple(
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind in LOADS
        and any(pin.function in PLUSES for port in part.ports for pin in port.pins)
    )  # fmt: skip


@query
def may_lie_at_mains(queries: Queries, motor: str) -> bool:
    """Whether a three-phase motor may lie straight at the mains of a machine: with three lines and
    no drive that it is joined to.
    """
    is_one = is_motor_for_mains(queries, motor) and lines_that_come_in(queries) == THREE
    return is_one and not drivers_of(queries, motor)


@query
def motors_for_mains(queries: Queries) -> tuple[str, ...]:
    """The three-phase motors that wait for the mains: they lie at nothing, and a contactor is
    called after them and no free drive, or no drive for such a motor is free.
    """
    waiting = [
        name for name in queries.devices()
        if may_lie_at_mains(queries, name) and not queries.hookups_of(name)
    ]  # fmt: skip
    drives = _free_drives(queries) if waiting else []
    return tuple(
        name for name in waiting
        if not drives or (
            contactor_of_load(queries, name) is not None
            and not any(_share_a_name(queries, name, drive) for drive in drives)
        )
    )  # fmt: skip


def _free_drives(queries: Queries) -> list[str]:
    """The drives of which three phases wait for a motor."""
    return [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        and any(
            port.end == "host" and any(pin.function in MOTOR_PHASES for pin in port.pins)
            and not occupants(queries, PortRef(device=name, port=port.id))
            for port in part.ports
        )
    ]  # fmt: skip


def _share_a_name(queries: Queries, motor: str, drive: str) -> bool:
    device = queries.device(drive)
    return device is not None and is_its_name(queries, motor, device.name)


def lines_of(queries: Queries, load: str) -> list[PinRef]:
    """The pins by which a load takes mains: its lines, or phases, and last its neutral."""
    return _pins_of(queries, load, ("line", *MOTOR_PHASES, "neutral"))


def worked_ends_of(queries: Queries, load: str) -> list[PinRef]:
    """The pins by which a contactor works a load: those of the mains, else its plus."""
    part = queries.part_of(load)
    is_load = part is not None and part.kind in LOADS
    return lines_of(queries, load) or (_pins_of(queries, load, PLUSES) if is_load else [])


def _pins_of(queries: Queries, load: str, functions: tuple[PinFunction, ...]) -> list[PinRef]:
    part = queries.part_of(load)
    return [
        PinRef(device=load, port=port.id, pin=pin.id)
        for function in functions
        for port in (part.ports if part is not None else ())
        for pin in port.pins
        if pin.function == function
    ]
