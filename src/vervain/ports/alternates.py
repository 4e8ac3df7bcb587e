"""Alternates: devices that take over a port by swapping a plug."""

import math
from collections.abc import Iterator

from msgspec.structs import replace

from vervain.edits.axis_edits import set_axis_choice
from vervain.edits.common import swapped
from vervain.edits.device_edits import check_setting, set_setting
from vervain.model.axis import Homing
from vervain.model.machine import Alternate, AlternateSetting, Machine, PortRef, SettingValue
from vervain.model.problem import Problem
from vervain.ports.fit import fit
from vervain.ports.plugging import landed_on_hosts, plug_in, unplug
from vervain.queries.connectivity import drivers_of_port, occupants
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


def plug_of(queries: Queries, item: Alternate) -> PortRef | None:
    """The port of an alternate that goes into the port it takes over."""
    part = queries.part_of(item.device)
    for port in part.ports if part else ():
        ref = PortRef(device=item.device, port=port.id)
        if port.end == "device" and fit(queries, ref, item.port).pairs:
            return ref
    return None


@query
def is_in(queries: Queries, item: Alternate) -> bool:
    """Whether an alternate is plugged in now."""
    return any(seat.device == item.device for seat in occupants(queries, item.port))


@query
def displaced_by(queries: Queries, item: Alternate) -> tuple[str, ...]:
    """The devices that sit in an alternate's port now, or share its listing there."""
    seated = [seat.device for seat in occupants(queries, item.port) if seat.device != item.device]
    others = [
        other.device
        for other in queries.alternates()
        if other.port == item.port and other.device != item.device
    ]
    return tuple(dict.fromkeys([*seated, *others]))


def swap_in(machine: Machine, item: Alternate) -> Machine:
    """Takes out what sits in the port, puts the alternate in, with its settings.

    What was in becomes the alternate in its turn, with the settings that held until now, so that
    putting it back makes everything as it was. Raises `Problem` where the alternate has no plug for
    the port.
    """
    queries = Queries(machine)
    plug = plug_of(queries, item)
    if plug is None:
        raise Problem(
            f"{item.device} does not go into {item.port.device} {item.port.port}.",
            remedy="Choose another port for it.",
        )
    seated = [seat for seat in occupants(queries, item.port) if seat.device != item.device]
    axis = queries.axis_of(item.device)
    back = tuple(_setting_now(queries, setting) for setting in item.settings)
    for seat in seated:
        if landed_on_hosts(queries, seat):
            machine = unplug(machine, seat)
    machine = plug_in(machine, plug, item.port)
    for setting in item.settings:
        machine = set_setting(machine, setting.device, setting.key, setting.value)
    homing_back = axis.homing if item.homing_off and axis is not None else None
    for seat in seated:
        theirs = queries.axis_of(seat.device)
        if item.homing_back is not None and theirs is not None:
            machine = set_axis_choice(machine, theirs.id, homing=item.homing_back)
    if item.homing_off and axis is not None:
        machine = set_axis_choice(machine, axis.id, homing="off")
    for seat in seated:
        machine = _with_waiting(machine, seat.device, item.port, back, homing_back)
    return machine


def _with_waiting(
    machine: Machine,
    device: str,
    port: PortRef,
    back: tuple[AlternateSetting, ...],
    homing_back: Homing | None,
) -> Machine:
    """A device waits as alternate at a port, with what held while it was in."""
    known = next((a for a in machine.alternates if (a.device, a.port) == (device, port)), None)
    if known is None:
        made = Alternate(device=device, port=port, settings=back, homing_back=homing_back)
        return replace(machine, alternates=(*machine.alternates, made))
    news = {(setting.device, setting.key): setting for setting in back}
    own = tuple(s for s in known.settings if (s.device, s.key) not in news)
    changed = replace(known, settings=(*own, *back), homing_back=homing_back or known.homing_back)
    return replace_alternate(machine, known, changed)


def _setting_now(queries: Queries, setting: AlternateSetting) -> AlternateSetting:
    option, _, port = setting.key.partition("/")
    now = queries.setting(setting.device, option, port or None)
    return setting if now is None else replace(setting, value=now)


def add_alternate(machine: Machine, device: str, port: PortRef) -> Machine:
    """Says that a device can take over a port by swapping a plug. Raises `Problem`."""
    item = Alternate(device=device, port=port)
    if any(known.device == device and known.port == port for known in machine.alternates):
        raise Problem(f"{device} is an alternate there already.")
    if plug_of(Queries(machine), item) is None:
        raise Problem(f"{device} does not go into {port.device} {port.port}.")
    return replace(machine, alternates=(*machine.alternates, item))


def replace_alternate(machine: Machine, old: Alternate, new: Alternate) -> Machine:
    """Takes another version of an alternate: other settings, other homing."""
    return replace(machine, alternates=swapped(machine.alternates, old, new))


def settable_for(queries: Queries, item: Alternate) -> tuple[tuple[str, str], ...]:
    """What can be set for an alternate, as (device, setting): at the drivers of its port, and at
    the device that has the port.
    """
    found: list[tuple[str, str]] = []
    for device in dict.fromkeys((*drivers_of_port(queries, item.port), item.port.device)):
        part = queries.part_of(device)
        for option in part.options if part else ():
            if not option.ports:
                found.append((device, option.id))
            elif item.port.device == device and item.port.port in option.ports:
                found.append((device, f"{option.id}/{item.port.port}"))
    return tuple(found)


def with_setting(
    queries: Queries, item: Alternate, device: str, key: str, value: SettingValue | None = None
) -> Alternate:
    """An alternate with a setting that holds while it is in: a value, or as it is now. Raises
    `Problem` where it cannot have that value.
    """
    part = queries.part_of(device)
    known = part.option(key.partition("/")[0]) if part is not None else None
    if value is not None and known is not None:
        check_setting(device, known, value)
    if value is None:
        option, _, port = key.partition("/")
        value = queries.setting(device, option, port or None)
    kept = tuple(s for s in item.settings if (s.device, s.key) != (device, key))
    if value is None:
        return item
    made = AlternateSetting(device=device, key=key, value=value)
    at = next((n for n, s in enumerate(item.settings) if (s.device, s.key) == (device, key)), None)
    if at is None:
        return replace(item, settings=(*kept, made))
    return replace(item, settings=(*kept[:at], made, *kept[at:]))


def without_setting(item: Alternate, device: str, key: str) -> Alternate:
    """An alternate that does not change a setting any more."""
    kept = tuple(s for s in item.settings if (s.device, s.key) != (device, key))
    return replace(item, settings=kept)


def drop_alternate(machine: Machine, item: Alternate) -> Machine:
    """Takes an alternate off the list."""
    kept = tuple(other for other in machine.alternates if other is not item)
    return replace(machine, alternates=kept)


def alternate_faults(queries: Queries, item: Alternate) -> Iterator[tuple[str, str]]:
    """What an alternate lacks: a stable detail and a sentence for each."""
    part = queries.part_of(item.device)
    if part is None:
        return
    drivers = drivers_of_port(queries, item.port)
    kept = {(setting.device, setting.key): setting.value for setting in item.settings}
    for driver in drivers if part.stepper is not None else ():
        driving = queries.part_of(driver)
        if driving is None or driving.driver is None or part.stepper is None:
            continue
        if driving.driver.phases != part.stepper.phases:
            yield f"{driver} phases", f"{item.device} and {driver} differ in their phases."
            continue
        peak = kept.get((driver, "current_peak_a"), queries.setting(driver, "current_peak_a"))
        if part.stepper.current_a is None:
            continue
        rated = part.stepper.current_a * math.sqrt(2)
        if isinstance(peak, int | float) and not rated / 2 <= peak <= rated * 1.0001:
            yield (
                f"{driver} current",
                f"With {item.device} in, {driver} would stay at {peak:g} A peak; it is for "
                f"{rated / 2:.2g} to {rated:.3g} A.",
            )
    yield from _roles_left_behind(queries, item)


def _roles_left_behind(queries: Queries, item: Alternate) -> Iterator[tuple[str, str]]:
    """What the axis of the displaced motor has and the alternate's has not."""
    ours = queries.axis_of(item.device)
    for other in displaced_by(queries, item):
        theirs = queries.axis_of(other)
        if ours is None or theirs is None or theirs.id == ours.id:
            continue
        homes = not item.homing_off and ours.homing != "off"
        lacks = theirs.home is not None and ours.home is None and ours.feedback is None
        if homes and lacks:
            sentence = f"{item.device} has no home switch, and homing of {ours.id} is not off."
            yield "home", sentence
