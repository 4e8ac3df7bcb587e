"""Edits of what joins two ports: hookups and the conductors in them."""

from msgspec.structs import replace

from vervain.edits.common import free_name, swapped
from vervain.edits.device_edits import find_device
from vervain.model.machine import (
    Conductor,
    Hookup,
    Machine,
    PortRef,
)
from vervain.model.problem import Problem


def find_hookup(machine: Machine, hookup_id: str) -> Hookup:
    """The hookup with this id; raises `Problem` where there is none."""
    for hookup in machine.hookups:
        if hookup.id == hookup_id:
            return hookup
    raise Problem(f"There is no hookup {hookup_id}.", place=machine.name)


def add_hookup(
    machine: Machine,
    a: PortRef,
    b: PortRef,
    conductors: tuple[Conductor, ...],
    cable: str | None = None,
) -> Machine:
    """Joins two ports with the given pin-to-pin map. Raises `Problem`."""
    if not conductors:
        raise Problem("A hookup needs at least one conductor.", place=f"{a.device} {a.port}")
    chosen = free_name("H", (hookup.id for hookup in machine.hookups))
    hookup = Hookup(id=chosen, a=a, b=b, conductors=conductors, cable=cable)
    return replace(machine, hookups=(*machine.hookups, hookup))


def set_conductors(machine: Machine, hookup_id: str, conductors: tuple[Conductor, ...]) -> Machine:
    """Replaces the pin-to-pin map of a hookup; without any conductor the hookup goes."""
    hookup = find_hookup(machine, hookup_id)
    if not conductors:
        return replace(machine, hookups=tuple(h for h in machine.hookups if h is not hookup))
    changed = replace(hookup, conductors=conductors)
    return replace(machine, hookups=swapped(machine.hookups, hookup, changed))


def drop_conductors(machine: Machine, hookup_id: str, side: str, pin: str) -> Machine:
    """Takes the conductors at one pin of one side ("a" or "b") of a hookup off."""
    hookup = find_hookup(machine, hookup_id)
    rows = tuple(c for c in hookup.conductors if (c.a if side == "a" else c.b) != pin)
    return set_conductors(machine, hookup_id, rows)


def exchange_pins(machine: Machine, hookup_id: str, side: str, first: str, second: str) -> Machine:
    """Lets the conductors at two pins of one side ("a" or "b") change places."""
    hookup = find_hookup(machine, hookup_id)
    other = {first: second, second: first}

    def moved(conductor: Conductor) -> Conductor:
        if side == "a":
            return replace(conductor, a=other.get(conductor.a, conductor.a))
        return replace(conductor, b=other.get(conductor.b, conductor.b))

    return set_conductors(machine, hookup_id, tuple(map(moved, hookup.conductors)))


def move_port(
    machine: Machine, designator: str, old_port: str, new_port: str, pins: dict[str, str]
) -> Machine:
    """Moves every conductor from one port of a device to another, pin by pin."""
    old = PortRef(device=designator, port=old_port)
    new = PortRef(device=designator, port=new_port)

    def moved(hookup: Hookup) -> Hookup:
        if hookup.a == old:
            rows = tuple(replace(c, a=pins.get(c.a, c.a)) for c in hookup.conductors)
            return replace(hookup, a=new, conductors=rows)
        if hookup.b == old:
            rows = tuple(replace(c, b=pins.get(c.b, c.b)) for c in hookup.conductors)
            return replace(hookup, b=new, conductors=rows)
        return hookup

    find_device(machine, designator)
    return replace(machine, hookups=tuple(map(moved, machine.hookups)))


def move_pins(machine: Machine, hookup_id: str, side: str, pins: dict[str, str]) -> Machine:
    """Moves conductors from some pins of one side ("a" or "b") of a hookup to others."""
    hookup = find_hookup(machine, hookup_id)
    if side == "a":
        rows = tuple(replace(c, a=pins.get(c.a, c.a)) for c in hookup.conductors)
    else:
        rows = tuple(replace(c, b=pins.get(c.b, c.b)) for c in hookup.conductors)
    return set_conductors(machine, hookup_id, rows)
