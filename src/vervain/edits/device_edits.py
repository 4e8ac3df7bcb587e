"""Edits of devices: added, removed, renamed, turned, set; and of the parts that they use."""

import re

from msgspec.structs import replace

from vervain.edits.common import free_name, swapped, with_records_renamed
from vervain.model.axis import Axis
from vervain.model.machine import (
    DESIGNATOR_PATTERN,
    AtStop,
    Cable,
    Device,
    Machine,
    PortRef,
    SettingValue,
)
from vervain.model.orientation import Turn
from vervain.model.part import Option, Part
from vervain.model.problem import Problem


def find_device(machine: Machine, designator: str) -> Device:
    """The device with this designator; raises `Problem` where there is none."""
    for device in machine.devices:
        if device.designator == designator:
            return device
    raise Problem(f"There is no device {designator}.", place=machine.name)


def part_in(machine: Machine, device: Device) -> Part | None:
    """The part of a device, from the machine's own copy."""
    return next((part for part in machine.parts if part.id == device.part), None)


def update_part(machine: Machine, part: Part) -> Machine:
    """Takes another version of a part that the machine uses. Refused where a conductor is at a pin
    that the other version has not. Raises `Problem`.
    """
    old = next((known for known in machine.parts if known.id == part.id), None)
    if old is None:
        raise Problem(f"The machine has no part {part.id}.")
    devices = {d.designator for d in machine.devices if d.part == part.id}
    for hookup in machine.hookups:
        for ref, side in ((hookup.a, "a"), (hookup.b, "b")):
            port = part.port(ref.port)
            for conductor in hookup.conductors if ref.device in devices else ():
                pin = conductor.a if side == "a" else conductor.b
                if port is None or port.pin(pin) is None:
                    raise Problem(
                        f"The newer version has no pin {pin} at {ref.port}, where {ref.device} is "
                        "joined.",
                        place=ref.device,
                        remedy="Take that conductor off first.",
                    )
    names = {port.id for port in part.ports}
    return replace(
        machine,
        parts=swapped(machine.parts, old, part),
        devices=tuple(
            replace(device, kept_ports={k: v for k, v in device.kept_ports.items() if k in names})
            if device.part == part.id and not names >= device.kept_ports.keys()
            else device
            for device in machine.devices
        ),
    )


def add_device(machine: Machine, part: Part, name: str, designator: str = "") -> Machine:
    """Places a part as a new device and copies the part into the machine if it is not there.
    Raises `Problem`.
    """
    taken = [device.designator for device in machine.devices]
    chosen = designator or free_name(part.letter, taken)
    if chosen in taken:
        raise Problem(f"{chosen} is taken.", remedy="Choose another designator.")
    parts = machine.parts
    if all(known.id != part.id for known in parts):
        parts = (*parts, part)
    device = Device(designator=chosen, name=name, part=part.id)
    return replace(machine, devices=(*machine.devices, device), parts=parts)


def remove_device(machine: Machine, designator: str) -> Machine:
    """Takes a device away with its hookups and its roles; its cables stay, loose."""
    find_device(machine, designator)
    return replace(
        machine,
        devices=tuple(d for d in machine.devices if d.designator != designator),
        hookups=tuple(h for h in machine.hookups if designator not in (h.a.device, h.b.device)),
        axes=tuple(_renamed_roles(axis, designator, None) for axis in machine.axes),
        alternates=tuple(
            replace(a, settings=tuple(s for s in a.settings if s.device != designator))
            for a in machine.alternates
            if designator not in (a.device, a.port.device)
        ),
        cables=tuple(_cable_without(cable, designator) for cable in machine.cables),
    )


def _cable_without(cable: Cable, designator: str) -> Cable:
    attached = cable.attached_to
    gone = attached is not None and attached.device == designator
    shields = tuple(ref for ref in cable.shield_to if ref.device != designator)
    if not gone and shields == cable.shield_to:
        return cable
    return replace(cable, attached_to=None if gone else attached, shield_to=shields)


def _renamed_roles(axis: Axis, old: str, new: str | None) -> Axis:
    if old not in axis.members:
        return axis

    def one(role: str | None) -> str | None:
        return new if role == old else role

    def several(roles: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(name for name in map(one, roles) if name)

    return replace(
        axis,
        drives=several(axis.drives),
        also=several(axis.also),
        feedback=one(axis.feedback),
        home=one(axis.home),
        min_limit=one(axis.min_limit),
        max_limit=one(axis.max_limit),
        brake=one(axis.brake),
    )


def set_designator(machine: Machine, old: str, new: str) -> Machine:
    """Gives a device another designator, everywhere it is named. Raises `Problem`."""
    device = find_device(machine, old)
    if new == old:
        return machine
    if not re.match(DESIGNATOR_PATTERN, new):
        raise Problem(
            f"“{new}” is not a designator.", remedy="Use one or two capitals and a number: M12."
        )
    if any(other.designator == new for other in machine.devices):
        raise Problem(f"{new} is taken.", remedy="Choose another number.")

    machine = with_records_renamed(machine, "device", old, new)

    def port(ref: PortRef) -> PortRef:
        return PortRef(device=new, port=ref.port) if ref.device == old else ref

    return replace(
        machine,
        devices=swapped(machine.devices, device, replace(device, designator=new)),
        hookups=tuple(
            replace(h, a=port(h.a), b=port(h.b)) if old in (h.a.device, h.b.device) else h
            for h in machine.hookups
        ),
        axes=tuple(_renamed_roles(axis, old, new) for axis in machine.axes),
        alternates=tuple(
            replace(
                a,
                device=new if a.device == old else a.device,
                port=port(a.port),
                settings=tuple(
                    replace(s, device=new) if s.device == old else s for s in a.settings
                ),
            )
            for a in machine.alternates
        ),
        cables=tuple(
            replace(
                cable,
                attached_to=port(cable.attached_to) if cable.attached_to else None,
                shield_to=tuple(map(port, cable.shield_to)),
            )
            for cable in machine.cables
        ),
    )


def set_name(machine: Machine, designator: str, name: str) -> Machine:
    """Gives a device another plain name. Raises `Problem`."""
    device = find_device(machine, designator)
    cleaned = " ".join(name.split())
    if not cleaned or len(cleaned) > 80:
        raise Problem("A name has 1 to 80 characters.", place=designator)
    return replace(machine, devices=swapped(machine.devices, device, replace(device, name=cleaned)))


def keep_port(machine: Machine, ref: PortRef, reason: str) -> Machine:
    """Keeps a port free for something, in the builder's words; none: it is free again. Raises
    `Problem`.
    """
    device = find_device(machine, ref.device)
    cleaned = " ".join(reason.split())
    if len(cleaned) > 80:
        raise Problem("What a port is kept for has at most 80 characters.", place=ref.device)
    kept = {key: words for key, words in device.kept_ports.items() if key != ref.port}
    if cleaned:
        kept[ref.port] = cleaned
    return replace(
        machine, devices=swapped(machine.devices, device, replace(device, kept_ports=kept))
    )


def set_address(machine: Machine, designator: str, address: str) -> Machine:
    """Sets where a controller answers on the network. Raises `Problem`."""
    device = find_device(machine, designator)
    changed = replace(device, address=address.strip())
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_at_stop(machine: Machine, designator: str, at_stop: AtStop) -> Machine:
    """Says whether a device must be without power after a stop; "" leaves it to its kind."""
    device = find_device(machine, designator)
    changed = replace(device, at_stop=at_stop)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_lie(machine: Machine, designator: str, turned_deg: Turn, turned_over: bool) -> Machine:
    """Says how a board lies on the bench: quarter turns clockwise, and turned over or not."""
    device = find_device(machine, designator)
    changed = replace(device, turned_deg=turned_deg, turned_over=turned_over)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_setting(machine: Machine, designator: str, key: str, value: SettingValue) -> Machine:
    """Sets an option of a device: key is the option's id, or "option/port". Raises `Problem`."""
    device = find_device(machine, designator)
    part = part_in(machine, device)
    option = part.option(key.partition("/")[0]) if part else None
    if option is None:
        raise Problem(f"{designator} has no setting “{key}”.")
    check_setting(designator, option, value)
    settings = {**device.settings, key: value}
    return replace(
        machine, devices=swapped(machine.devices, device, replace(device, settings=settings))
    )


def check_setting(designator: str, option: Option, value: SettingValue) -> None:
    """Raises `Problem` where an option of a device cannot have a value."""
    if option.choices and value not in option.choices:
        raise Problem(
            f"{option.title} cannot be “{value}”.",
            place=designator,
            remedy="Choose " + " or ".join(option.choices) + ".",
        )
    if not option.choices:
        low, high = option.minimum, option.maximum
        if not isinstance(value, int | float) or isinstance(value, bool):
            raise Problem(f"{option.title} is a number in {option.unit}.", place=designator)
        if (low is not None and value < low) or (high is not None and value > high):
            raise Problem(
                f"{option.title} must be between {low:g} and {high:g} {option.unit}.",
                place=designator,
            )
