"""Edits: pure functions from one machine to the next. A refused edit raises `Problem`."""

import re
from collections.abc import Callable, Iterable
from typing import TypeVar

from msgspec.structs import replace

from vervain.machine.axis import Axis
from vervain.machine.evidence import Meter, Reading, SeriesTest, Trial
from vervain.machine.machine import (
    DESIGNATOR_PATTERN,
    Acceptance,
    Cable,
    Conductor,
    CoreMark,
    Device,
    Hookup,
    LabelTemplates,
    Machine,
    PortRef,
    SettingValue,
)
from vervain.machine.part import Part
from vervain.machine.problem import Problem
from vervain.machine.turning import Turn

Edit = Callable[[Machine], Machine]
T = TypeVar("T")


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
    that the other version has not.
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
    return replace(machine, parts=swapped(machine.parts, old, part))


def find_hookup(machine: Machine, hookup_id: str) -> Hookup:
    """The hookup with this id; raises `Problem` where there is none."""
    for hookup in machine.hookups:
        if hookup.id == hookup_id:
            return hookup
    raise Problem(f"There is no hookup {hookup_id}.", place=machine.name)


def swapped(items: tuple[T, ...], old: T, new: T) -> tuple[T, ...]:
    """The tuple with one item exchanged, in its place."""
    return tuple(new if item is old else item for item in items)


def free_name(prefix: str, taken: Iterable[str]) -> str:
    """The first of prefix1, prefix2 … that is not taken."""
    known = set(taken)
    number = 1
    while f"{prefix}{number}" in known:
        number += 1
    return f"{prefix}{number}"


def add_device(machine: Machine, part: Part, name: str, designator: str = "") -> Machine:
    """Places a part as a new device and copies the part into the machine if it is not there."""
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
    """Gives a device another designator, everywhere it is named."""
    device = find_device(machine, old)
    if new == old:
        return machine
    if not re.match(DESIGNATOR_PATTERN, new):
        raise Problem(
            f"“{new}” is not a designator.", remedy="Use one or two capitals and a number: M12."
        )
    if any(other.designator == new for other in machine.devices):
        raise Problem(f"{new} is taken.", remedy="Choose another number.")

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
    """Gives a device another plain name."""
    device = find_device(machine, designator)
    cleaned = " ".join(name.split())
    if not cleaned or len(cleaned) > 80:
        raise Problem("A name has 1 to 80 characters.", place=designator)
    return replace(machine, devices=swapped(machine.devices, device, replace(device, name=cleaned)))


def set_lie(machine: Machine, designator: str, turned_deg: Turn, turned_over: bool) -> Machine:
    """Says how a board lies on the bench: quarter turns clockwise, and turned over or not."""
    device = find_device(machine, designator)
    changed = replace(device, turned_deg=turned_deg, turned_over=turned_over)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_setting(machine: Machine, designator: str, key: str, value: SettingValue) -> Machine:
    """Sets an option of a device: key is the option's id, or "option/port"."""
    device = find_device(machine, designator)
    part = part_in(machine, device)
    option = part.option(key.partition("/")[0]) if part else None
    if option is None:
        raise Problem(f"{designator} has no setting “{key}”.")
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
    settings = {**device.settings, key: value}
    return replace(
        machine, devices=swapped(machine.devices, device, replace(device, settings=settings))
    )


def add_hookup(
    machine: Machine,
    a: PortRef,
    b: PortRef,
    conductors: tuple[Conductor, ...],
    cable: str | None = None,
) -> Machine:
    """Joins two ports with the given pin-to-pin map."""
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


def exchange_leads(machine: Machine, port: PortRef, first: str, second: str) -> Machine:
    """Lets everything at two pins of a port change places, in whatever hookups it goes to."""
    other = {first: second, second: first}

    def moved(hookup: Hookup) -> Hookup:
        rows = hookup.conductors
        if hookup.a == port:
            rows = tuple(replace(c, a=other.get(c.a, c.a)) for c in rows)
        if hookup.b == port:
            rows = tuple(replace(c, b=other.get(c.b, c.b)) for c in rows)
        return hookup if rows == hookup.conductors else replace(hookup, conductors=rows)

    find_device(machine, port.device)
    return replace(machine, hookups=tuple(map(moved, machine.hookups)))


def reverse_connector(machine: Machine, hookup_id: str, side: str) -> Machine:
    """Turns the connector at one side ("a" or "b") of a hookup round: first pin on last."""
    hookup = find_hookup(machine, hookup_id)
    ref = hookup.a if side == "a" else hookup.b
    part = part_in(machine, find_device(machine, ref.device))
    port = part.port(ref.port) if part else None
    pins = [pin.id for pin in port.pins] if port else []
    return move_pins(machine, hookup_id, side, dict(zip(pins, reversed(pins), strict=True)))


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


def set_cable(machine: Machine, cable_id: str, length_m: float | None, note: str) -> Machine:
    """Sets the length and the note of a cable."""
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    if cable is None:
        raise Problem(f"There is no cable {cable_id}.")
    if length_m is not None and not 0 < length_m <= 1000:
        raise Problem(
            f"{length_m:g} m is not a length that a cable can have.",
            place=cable_id,
            remedy="Enter more than 0 and at most 1000 m, for instance “6.5 m”.",
        )
    changed = replace(cable, length_m=length_m, note=note)
    return replace(machine, cables=swapped(machine.cables, cable, changed))


def set_core_label(machine: Machine, cable_id: str, core: int, label: str) -> Machine:
    """Writes a label of the builder's own on a core; an empty one goes back to the template."""
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    if cable is None:
        raise Problem(f"There is no cable {cable_id}.")
    cleaned = " ".join(label.split())
    if len(cleaned) > 80:
        raise Problem("A label has at most 80 characters.", place=f"{cable_id}.{core}")
    marks = tuple(mark for mark in cable.marks if mark.core != core)
    if cleaned:
        marks = tuple(sorted((*marks, CoreMark(core=core, label=cleaned)), key=lambda m: m.core))
    return replace(machine, cables=swapped(machine.cables, cable, replace(cable, marks=marks)))


def set_label_templates(machine: Machine, templates: LabelTemplates) -> Machine:
    """Sets the label templates; their form is checked by `vervain.harness.templates`."""
    return replace(machine, label_templates=templates)


def set_prices(machine: Machine, prices: dict[str, float | None]) -> Machine:
    """Sets what items of the cut list cost, for a metre or a piece; None takes a price away."""
    kept = {name: price for name, price in machine.prices.items() if name not in prices}
    added = {name: price for name, price in prices.items() if price is not None}
    return replace(machine, prices=dict(sorted((kept | added).items())))


def accept_finding(machine: Machine, finding: str, reason: str, day: str) -> Machine:
    """Keeps a finding as it is, with the reason and the day."""
    cleaned = " ".join(reason.split())
    if not cleaned:
        raise Problem("A reason is needed to accept a finding.", remedy="Say why it may stay.")
    kept = tuple(item for item in machine.accepted if item.finding != finding)
    accepted = Acceptance(finding=finding, reason=cleaned[:80], day=day)
    return replace(machine, accepted=(*kept, accepted))


def reopen_finding(machine: Machine, finding: str) -> Machine:
    """Takes an acceptance back."""
    return replace(
        machine, accepted=tuple(item for item in machine.accepted if item.finding != finding)
    )


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


def set_shield(machine: Machine, cable_id: str, ports: tuple[PortRef, ...]) -> Machine:
    """Sets where the shield of a cable is joined."""
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    if cable is None:
        raise Problem(f"There is no cable {cable_id}.")
    changed = replace(cable, shield_to=ports)
    return replace(machine, cables=swapped(machine.cables, cable, changed))


def add_reading(machine: Machine, designator: str, reading: Reading) -> Machine:
    """Keeps a meter reading at a device; a second one between the same leads stands beside."""
    device = find_device(machine, designator)
    if reading.a == reading.b:
        raise Problem("A reading is between two different leads.", place=designator)
    changed = replace(device, readings=(*device.readings, reading))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def remove_reading(machine: Machine, designator: str, number: int) -> Machine:
    """Takes a reading of a device back, by its place in the list."""
    device = find_device(machine, designator)
    if not 0 <= number < len(device.readings):
        raise Problem(f"{designator} has no reading {number + 1}.")
    kept = (*device.readings[:number], *device.readings[number + 1 :])
    changed = replace(device, readings=kept)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def replace_reading(machine: Machine, designator: str, number: int, reading: Reading) -> Machine:
    """Corrects a reading of a device in its place in the list."""
    device = find_device(machine, designator)
    if not 0 <= number < len(device.readings):
        raise Problem(f"{designator} has no reading {number + 1}.")
    kept = (*device.readings[:number], reading, *device.readings[number + 1 :])
    changed = replace(device, readings=kept)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def move_reading(machine: Machine, designator: str, number: int, by: int) -> Machine:
    """Moves a reading up (-1) or down (1) in the list of a device; at the ends it stays."""
    device = find_device(machine, designator)
    readings = list(device.readings)
    if not 0 <= number < len(readings):
        raise Problem(f"{designator} has no reading {number + 1}.")
    readings.insert(max(0, min(len(readings) - 1, number + by)), readings.pop(number))
    changed = replace(device, readings=tuple(readings))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_coils(
    machine: Machine,
    designator: str,
    coils: tuple[tuple[str, ...], ...],
    printed: bool = False,
) -> Machine:
    """Keeps which leads of a device belong to one coil: as measured, or as printed on it."""
    device = find_device(machine, designator)
    changed = replace(device, coils=coils, coils_printed=printed and bool(coils))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def add_series_test(machine: Machine, designator: str, test: SeriesTest) -> Machine:
    """Keeps what two windings in series showed."""
    device = find_device(machine, designator)
    if len({*test.first, *test.second}) != 4:
        raise Problem("The test needs four different leads.", place=designator)
    changed = replace(device, series_tests=(*device.series_tests, test))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def clear_series_tests(machine: Machine, designator: str) -> Machine:
    """Forgets the tests of windings in series, to begin again."""
    device = find_device(machine, designator)
    changed = replace(device, series_tests=())
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_meter(machine: Machine, meter: Meter) -> Machine:
    """Sets what the meter is like and how warm the motors are."""
    return replace(machine, meter=meter)


def add_trial(machine: Machine, designator: str, trial: Trial) -> Machine:
    """Keeps what a motor did with its leads in an order."""
    device = find_device(machine, designator)
    changed = replace(device, trials=(*device.trials, trial))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def clear_trials(machine: Machine, designator: str) -> Machine:
    """Forgets what a motor did, to begin again."""
    device = find_device(machine, designator)
    changed = replace(device, trials=())
    return replace(machine, devices=swapped(machine.devices, device, changed))
