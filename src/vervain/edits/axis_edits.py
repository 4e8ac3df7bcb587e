"""Edits of axes and of the devices in their roles. A refused edit raises `Problem`."""

import math
import re
from typing import Any

from msgspec.structs import replace

from vervain.edits.common import free_name, swapped, with_records_renamed
from vervain.edits.device_edits import add_device, find_device, part_in
from vervain.model.axis import (
    ROLE_KINDS,
    ROLE_WORDS,
    ROLES,
    ROTARY_MECHANISMS,
    Axis,
    Mechanism,
    Role,
    Screw,
)
from vervain.model.machine import Device, Machine
from vervain.model.part import Part, PortKind
from vervain.model.place import Run
from vervain.model.problem import Problem
from vervain.text.words import within_a_sentence

AXIS_LETTERS = "XYZABCUVWE"
AXIS_ID = re.compile(r"^[A-Z][A-Z0-9]{0,7}$")
# Numbers of an axis that may be set, each with its words and its bounds.
NUMBERS: dict[str, tuple[str, float, float]] = {
    "travel": ("Travel", 0.001, 1e6),
    "gear_ratio": ("Gear ratio", 1e-4, 1e4),
    "speed_max": ("Top speed", 1e-4, 1e6),
    "acceleration_max": ("Acceleration", 1e-4, 1e8),
    "torque_nm": ("Torque at a motor", 1e-4, 1e3),
    "moved_kg": ("Moved mass", 1e-3, 1e5),
    "home_at": ("Home position", -1e6, 1e6),
}
MAY_BE_EMPTY = ("travel", "speed_max", "acceleration_max", "torque_nm", "moved_kg", "home_at")

# What tells that an axis is there, and what only measures, or guards a person.
ON_OR_OFF: frozenset[Role] = frozenset({"home", "min_limit", "max_limit"})
MEASURING: frozenset[PortKind] = frozenset(
    {"transducer", "transducer input", "analogue sensor", "stop contacts"}
)


def find_axis(machine: Machine, axis_id: str) -> Axis:
    """The axis with this id; raises `Problem` where there is none."""
    for axis in machine.axes:
        if axis.id == axis_id:
            return axis
    raise Problem(f"There is no axis {axis_id}.", place=machine.name)


def _with_axis(machine: Machine, old: Axis, new: Axis) -> Machine:
    return replace(machine, axes=swapped(machine.axes, old, new))


def free_axis_id(machine: Machine) -> str:
    """The next letter that no axis has; after the letters, J1, J2 …"""
    taken = {axis.id for axis in machine.axes}
    if taken and all(re.fullmatch(r"J\d+", name) for name in taken):
        return free_name("J", taken)
    return next((letter for letter in AXIS_LETTERS if letter not in taken), free_name("J", taken))


def add_axis(machine: Machine, axis_id: str = "", name: str = "axis") -> Machine:
    """Adds an axis at the end, with the next free letter where none is given."""
    chosen = axis_id or free_axis_id(machine)
    _check_axis_id(machine, chosen)
    return replace(machine, axes=(*machine.axes, Axis(id=chosen, name=name)))


def _check_axis_id(machine: Machine, axis_id: str) -> None:
    if not AXIS_ID.match(axis_id):
        raise Problem(
            f"“{axis_id}” is not the name of an axis.",
            remedy="Begin with a capital, then at most seven capitals and figures: X, J1, Y2.",
        )
    if any(axis.id == axis_id for axis in machine.axes):
        raise Problem(f"There is an axis {axis_id} already.", remedy="Choose another letter.")


def rename_axis(machine: Machine, axis_id: str, new_id: str, name: str) -> Machine:
    """Gives an axis another letter or another plain name. Raises `Problem`."""
    axis = find_axis(machine, axis_id)
    if new_id != axis_id:
        _check_axis_id(machine, new_id)
    cleaned = " ".join(name.split())
    if not cleaned or len(cleaned) > 80:
        raise Problem("A name has 1 to 80 characters.", place=axis_id)
    machine = with_records_renamed(machine, "axis", axis_id, new_id)
    changed = _with_axis(machine, axis, replace(axis, id=new_id, name=cleaned))
    return replace(changed, runs=_moving_with(machine, axis_id, new_id))


def _moving_with(machine: Machine, old: str, new: str | None) -> tuple[Run, ...]:
    """The runs, with those that move with an axis told its new letter, or that it is gone."""
    return tuple(replace(run, axis=new) if run.axis == old else run for run in machine.runs)


def set_axis_number(machine: Machine, axis_id: str, field: str, value: float | None) -> Machine:
    """Sets one of `NUMBERS` of an axis; None takes away what may be left out. Raises `Problem`."""
    axis = find_axis(machine, axis_id)
    if field not in NUMBERS:
        raise Problem(f"An axis has no number “{field[:40]}”.", place=axis_id)
    words, low, high = NUMBERS[field]
    if value is None and field not in MAY_BE_EMPTY:
        raise Problem(f"{words} of {axis_id} is needed.", place=axis_id)
    if value is not None and not (math.isfinite(value) and low <= value <= high):
        raise Problem(f"{words} must be between {low:g} and {high:g}.", place=axis_id)
    values: dict[str, Any] = {field: value}
    return _with_axis(machine, axis, replace(axis, **values))


def set_mechanism(machine: Machine, axis_id: str, mechanism: Mechanism | None) -> Machine:
    """Says what moves an axis; gear and joint make it rotary, everything else linear."""
    axis = find_axis(machine, axis_id)
    changed = replace(axis, mechanism=mechanism)
    if mechanism is not None:
        rotary = isinstance(mechanism, ROTARY_MECHANISMS)
        changed = replace(changed, motion="rotary" if rotary else "linear")
    return _with_axis(machine, axis, changed)


def set_mechanism_number(
    machine: Machine, axis_id: str, field: str, value: float | None
) -> Machine:
    """Sets one number of what moves an axis; only a screw's backlash and diameter may be left out.
    Raises `Problem`.
    """
    axis = find_axis(machine, axis_id)
    mechanism = axis.mechanism
    if mechanism is None or not hasattr(mechanism, field):
        raise Problem(f"{axis_id} has no such number.", place=axis_id)
    empty = isinstance(mechanism, Screw) and field != "lead_mm" and value is None
    whole = field.endswith("teeth")
    if not empty and (value is None or not math.isfinite(value) or value > 10_000):
        raise Problem("It must be a number up to 10 000.", place=axis_id)
    if value is not None and (value < 0 or (value == 0 and field != "backlash_mm")):
        raise Problem("It must be more than nothing.", place=axis_id)
    if whole and value is not None and value != int(value):
        raise Problem("Teeth are counted: a whole number.", place=axis_id)
    values: dict[str, Any] = {field: int(value) if whole and value is not None else value}
    return _with_axis(machine, axis, replace(axis, mechanism=replace(mechanism, **values)))


def set_axis_choice(machine: Machine, axis_id: str, **choices: bool | str) -> Machine:
    """Sets `endless`, `vertical`, `motion`, `pulls_at`, `feedback_at`, `homing` or `faces`."""
    axis = find_axis(machine, axis_id)
    values: dict[str, Any] = dict(choices)
    changed = replace(axis, **values)
    mechanism = changed.mechanism
    if mechanism is not None and isinstance(mechanism, ROTARY_MECHANISMS) != (
        changed.motion == "rotary"
    ):
        changed = replace(changed, mechanism=None)
    return _with_axis(machine, axis, changed)


def move_axis(machine: Machine, axis_id: str, by: int) -> Machine:
    """Moves an axis up (-1) or down (1) in the list; at the ends it stays."""
    axes = list(machine.axes)
    at = axes.index(find_axis(machine, axis_id))
    axes.insert(max(0, min(len(axes) - 1, at + by)), axes.pop(at))
    return replace(machine, axes=tuple(axes))


def move_device(machine: Machine, designator: str, by: int, among: tuple[str, ...]) -> Machine:
    """Moves a device past its neighbour `among` the devices of its group; ends stay."""
    if designator not in among or not 0 <= among.index(designator) + by < len(among):
        return machine
    other = find_device(machine, among[among.index(designator) + by])
    own = find_device(machine, designator)
    exchanged = {id(own): other, id(other): own}
    axes = tuple(
        replace(
            axis,
            drives=_exchanged(axis.drives, own.designator, other.designator),
            also=_exchanged(axis.also, own.designator, other.designator),
        )
        for axis in machine.axes
    )
    devices = tuple(exchanged.get(id(device), device) for device in machine.devices)
    return replace(machine, devices=devices, axes=axes)


def _exchanged(names: tuple[str, ...], first: str, second: str) -> tuple[str, ...]:
    if first not in names or second not in names:
        return names
    other = {first: second, second: first}
    return tuple(other.get(name, name) for name in names)


def remove_axis(machine: Machine, axis_id: str) -> Machine:
    """Takes an axis away. Its devices stay on the machine, in no role."""
    axis = find_axis(machine, axis_id)
    axes = tuple(other for other in machine.axes if other is not axis)
    return replace(machine, axes=axes, runs=_moving_with(machine, axis_id, None))


def devices_in(axis: Axis, role: Role) -> tuple[str, ...]:
    """The designators in a role of an axis."""
    if role in ("drive", "also"):
        return axis.drives if role == "drive" else axis.also
    if role == "also":
        return axis.also
    name: str | None = getattr(axis, role)
    return (name,) if name else ()


def accepts(part: Part, role: Role) -> bool:
    """Whether a part can fill a role. A limit is worked by the machine itself, and is on or off."""
    is_worked = part.kind != "switch" or not (part.is_by_hand or part.is_in_a_line)
    kinds = {port.kind for port in part.ports}
    measures = role in ON_OR_OFF and bool(kinds) and kinds <= MEASURING
    return part.kind in ROLE_KINDS[role] and is_worked and not measures


def put_in_role(machine: Machine, axis_id: str, role: Role, designator: str) -> Machine:
    """Puts a device into a role, out of the one it had on another axis, or in the same list.

    One device may be home and limit of the same axis at once. What filled a single role before
    stays on the machine, in no role. One that is called after its role is called after its new one.
    Raises `Problem`.
    """
    device = find_device(machine, designator)
    part = part_in(machine, device)
    if part is not None and not accepts(part, role):
        raise Problem(
            f"{designator} cannot be the {ROLE_WORDS[role]} of {axis_id}.",
            place=designator,
            remedy=f"It wants a {' or '.join(ROLE_KINDS[role])}.",
        )
    find_axis(machine, axis_id)
    machine = replace(
        machine,
        axes=tuple(
            _without(axis, designator) if axis.id != axis_id else axis for axis in machine.axes
        ),
    )
    axis = find_axis(machine, axis_id)
    switch_roles: tuple[Role, ...] = ("home", "min_limit", "max_limit")
    if role not in switch_roles or not any(designator in devices_in(axis, r) for r in switch_roles):
        changed = _without(axis, designator)
    else:
        changed = replace(axis, also=tuple(n for n in axis.also if n != designator))
    if role == "drive":
        changed = replace(changed, drives=(*changed.drives, designator))
    elif role == "also":
        changed = replace(changed, also=(*changed.also, designator))
    else:
        values: dict[str, Any] = {role: designator}
        changed = replace(changed, **values)
    return _called_after_role(_with_axis(machine, axis, changed), designator)


def _without(axis: Axis, designator: str) -> Axis:
    """An axis without a device, whatever its roles."""
    if designator not in axis.members:
        return axis
    single: dict[str, Any] = {
        role: None
        for role in ("feedback", "home", "min_limit", "max_limit", "brake")
        if getattr(axis, role) == designator
    }
    return replace(
        axis,
        drives=tuple(name for name in axis.drives if name != designator),
        also=tuple(name for name in axis.also if name != designator),
        **single,
    )


def take_from_roles(machine: Machine, designator: str) -> Machine:
    """Takes a device out of every role; it stays on the machine, and is called after its part where
    it was called after its role.
    """
    find_device(machine, designator)
    freed = replace(machine, axes=tuple(_without(axis, designator) for axis in machine.axes))
    return _called_after_role(freed, designator)


def _called_after_role(machine: Machine, designator: str) -> Machine:
    """The machine with a device called after a role that it has, else after its part, where its
    name is that of a role which it has not.
    """
    device = find_device(machine, designator)
    named = {
        f"{axis.id} {ROLE_WORDS[role]}": designator in devices_in(axis, role)
        for axis in machine.axes
        for role in ROLES
    }
    has_it = named.get(re.sub(r" \d+$", "", device.name))
    if has_it is not False:
        return machine
    part = part_in(machine, device)
    name = next((name for name, has in named.items() if has), part.title if part else device.name)
    others = [other.name for other in machine.devices if other is not device]
    named_anew = replace(device, name=_counted(name, others) if name in others else name)
    return replace(machine, devices=tuple(
        named_anew if other is device else other for other in machine.devices
    ))  # fmt: skip


def add_to_role(machine: Machine, axis_id: str, role: Role, part: Part) -> tuple[Machine, str]:
    """A new device of a part in a role, named after it; the machine and its designator."""
    axis = find_axis(machine, axis_id)
    also = within_a_sentence(part.title.split(",")[0])
    words = {"drive": "motor", "also": also}.get(role, ROLE_WORDS[role])
    name = f"{axis.id} {words}"[:80]
    grown = add_device(machine, part, name)
    designator = grown.devices[-1].designator
    return put_in_role(grown, axis_id, role, designator), designator


def _copy_of(machine: Machine, device: Device, name: str) -> tuple[Machine, str]:
    part = part_in(machine, device)
    if part is None:
        raise Problem(f"The part of {device.designator} is not in the machine.")
    grown = add_device(machine, part, name[:80])
    fresh = grown.devices[-1]
    copied = replace(fresh, settings=device.settings, place=device.place, note=device.note)
    return replace(grown, devices=(*grown.devices[:-1], copied)), fresh.designator


def duplicate_device(machine: Machine, designator: str) -> tuple[Machine, str]:
    """A second device of the same part, with its settings and place, joined to nothing: in the same
    role on the next axis where that is empty there, else at the other end of its own.
    """
    device = find_device(machine, designator)
    free = _same_role_elsewhere(machine, designator) or _other_end(machine, designator)
    if free is None:
        return _copy_of(machine, device, _counted(device.name, [d.name for d in machine.devices]))
    own, other, role = free
    grown, made = _copy_of(machine, device, _named_for(machine, device.name, own, other))
    return put_in_role(grown, other, role, made), made


def _same_role_elsewhere(machine: Machine, designator: str) -> tuple[str, str, Role] | None:
    """The axis and the role of a device, and the next axis on which that role is empty."""
    for at, axis in enumerate(machine.axes):
        for role in ROLES:
            if designator in _filling(axis, role):
                others = (*machine.axes[at + 1 :], *machine.axes[:at])
                free = next((other.id for other in others if not _filling(other, role)), None)
                return (axis.id, free, role) if free is not None else None
    return None


def _other_end(machine: Machine, designator: str) -> tuple[str, str, Role] | None:
    """The axis of a limit switch, twice, and its other limit where nothing is there."""
    ends: tuple[tuple[Role, Role], ...] = (("min_limit", "max_limit"), ("max_limit", "min_limit"))
    for axis in machine.axes:
        for here, there in ends:
            if not axis.endless and getattr(axis, here) == designator:
                return (axis.id, axis.id, there) if getattr(axis, there) is None else None
    return None


def _filling(axis: Axis, role: Role) -> tuple[str, ...]:
    """The devices in a role of an axis."""
    if role == "drive":
        return axis.drives
    device = getattr(axis, role)
    return (device,) if device is not None else ()


def _named_for(machine: Machine, name: str, axis_id: str, new_id: str) -> str:
    """The name of a copy on another axis: by its letter where the first has one, else counted."""
    if re.match(rf"{re.escape(axis_id)}\b", name):
        return new_id + name[len(axis_id) :]
    return _counted(name, [d.name for d in machine.devices])


def _counted(name: str, taken: list[str]) -> str:
    base = re.sub(r" \d+$", "", name)[:74]
    number = 2
    while f"{base} {number}" in taken:
        number += 1
    return f"{base} {number}"


def mirror_motor(machine: Machine, axis_id: str) -> tuple[Machine, str]:
    """A second motor like the first one on the same axis, at its other side, joined to nothing.
    Raises `Problem`.
    """
    axis = find_axis(machine, axis_id)
    if not axis.drives:
        raise Problem(f"{axis_id} has no motor to mirror.", remedy="Put a motor on the axis first.")
    first = find_device(machine, axis.drives[0])
    grown, designator = _copy_of(machine, first, f"{axis.id} motor, mirrored")
    grown = put_in_role(grown, axis_id, "drive", designator)
    return set_axis_choice(grown, axis_id, faces="each other"), designator


def duplicate_axis(machine: Machine, axis_id: str) -> tuple[Machine, str]:
    """Another axis with the same numbers, and new devices of the same parts in the same roles."""
    axis = find_axis(machine, axis_id)
    new_id = free_axis_id(machine)
    copies: dict[str, str] = {}
    for designator in axis.members:
        device = find_device(machine, designator)
        name = _named_for(machine, device.name, axis.id, new_id)
        machine, copies[designator] = _copy_of(machine, device, name)
    single: dict[str, Any] = {
        role: copies.get(getattr(axis, role) or "")
        for role in ("feedback", "home", "min_limit", "max_limit", "brake")
    }
    made = replace(
        axis,
        id=new_id,
        drives=tuple(copies[name] for name in axis.drives),
        also=tuple(copies[name] for name in axis.also),
        **single,
    )
    at = [other.id for other in machine.axes].index(axis_id) + 1
    return replace(machine, axes=(*machine.axes[:at], made, *machine.axes[at:])), new_id
