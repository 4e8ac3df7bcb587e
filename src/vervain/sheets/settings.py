"""The settings sheet: everything to set outside the wiring so that both agree.

Drivers and bridges, axes, inputs, outputs, encoders, jumpers and fuses, each with what it is set to
and because of what. It follows the wiring: an input is inverted because an NC contact hangs on it.
"""

import math
from collections.abc import Iterator

from vervain.machine.axis import Axis
from vervain.machine.electrical import LogicInput
from vervain.machine.inside import Contact
from vervain.machine.look import Look, query
from vervain.machine.machine import PinRef, PortRef
from vervain.machine.part import Option, Part, Port
from vervain.machine.reach import drivers_of, motors_of, neighbours_at
from vervain.machine.record import Record
from vervain.motion.figures import count_figures, step_figures
from vervain.motion.words import length_words, speed_words
from vervain.signals.levels import reading_of
from vervain.stops.contacts import input_of, used_contacts

GROUPS = ("Axes", "Drivers", "Inputs", "Outputs", "Encoders", "Jumpers", "Fuses")


class SettingRow(Record, frozen=True, kw_only=True):
    """One thing to set: its group, where, what, to what, and because of what. `device` and `port`
    are where it is put right.
    """

    group: str
    where: str
    what: str
    value: str
    because: str
    device: str
    port: str | None = None


@query
def settings_sheet(look: Look) -> tuple[SettingRow, ...]:
    """Every row, group by group, in the order of the machine."""
    rows = [row for axis_id in look.axes() for row in _axis_rows(look, axis_id)]
    for device in look.devices():
        part = look.part_of(device)
        if part is not None:
            rows.extend(_device_rows(look, device, part))
    return tuple(sorted(rows, key=lambda row: GROUPS.index(row.group)))


def _axis_rows(look: Look, axis_id: str) -> Iterator[SettingRow]:
    """Steps per unit, speed, homing, ends, and motors that follow another."""
    axis = look.axis(axis_id)
    figures = next(
        (f for motor in (axis.drives if axis else ()) if (f := step_figures(look, axis_id, motor))),
        None,
    )
    if axis is None or figures is None or figures.controller is None:
        return

    def row(what: str, value: str, because: str) -> SettingRow:
        return SettingRow(
            group="Axes", where=axis_id, what=what, value=value, because=because,
            device=figures.controller or "",
        )  # fmt: skip

    if figures.steps_per_unit is not None and figures.turn is not None:
        unit = "degree" if axis.motion == "rotary" else "mm"
        turn = length_words(figures.turn, axis.unit)
        yield row(
            f"Steps a {unit}",
            f"{figures.steps_per_unit:.6g}",
            f"{figures.full_steps} steps × {figures.microsteps} a turn of {turn}",
        )
    if axis.speed_max is not None:
        rpm = f"motor at {figures.motor_rpm:.4g} rpm" if figures.motor_rpm is not None else ""
        yield row("Top speed", speed_words(axis), rpm)
    yield from (row(*cells) for cells in _homing(look, axis))
    for follower in axis.drives[1:]:
        first = axis.drives[0]
        shared = set(drivers_of(look, first)) & set(drivers_of(look, follower))
        if shared:
            yield row(f"{follower} follows {first}", "nothing", f"both on {min(shared)}")
            continue
        yield row(
            f"{follower} follows {first}", "same steps", "two motors pull one axis; try their ways"
        )


def _homing(look: Look, axis: Axis) -> list[tuple[str, str, str]]:
    """Whether and how an axis homes, and whether its ends are guarded."""
    found = []
    if axis.home is None:
        index = f"index of {axis.feedback}" if axis.feedback else "no home switch"
        found.append(("Homing", "off" if axis.feedback is None else "to the index", index))
    else:
        at = length_words(axis.home_at or 0.0, axis.unit)
        target = input_of(look, axis.home)
        port = f", {target.port}" if target else ""
        found.append(("Homing", f"on, home is at {at}", f"{axis.home}{port}"))
    ends = [
        f"{word} {name}"
        for word, name in (("min", axis.min_limit), ("max", axis.max_limit))
        if name is not None
    ]
    if not axis.endless:
        found.append(("Limits", ", ".join(ends) or "off", "" if ends else "no limit switch"))
    return found


def _device_rows(look: Look, device: str, part: Part) -> Iterator[SettingRow]:
    for option in part.options:
        if option.ports:
            continue
        yield _option_row(look, device, part, option)
    for port in part.ports:
        if port.kind == "digital input" and port.end == "host":
            yield from _input_rows(look, device, port)
        elif port.kind == "switched output" and port.end == "host":
            yield from _output_rows(look, device, port)
        elif port.kind == "encoder" and port.counter is not None:
            yield from _encoder_rows(look, device, port)


def _option_row(look: Look, device: str, part: Part, option: Option) -> SettingRow:
    """A jumper, a switch or a value of a device."""
    value = look.setting(device, option.id)
    shown = f"{value:g} {option.unit}" if isinstance(value, int | float) else str(value)
    because = ""
    group = "Jumpers" if part.kind != "motor bridge" else "Drivers"
    if part.driver is not None:
        group = "Drivers"
        because = " and ".join(motors_of(look, device)) or "drives nothing yet"
        if option.id == "current_peak_a" and isinstance(value, int | float):
            shown = f"{value:g} A peak, {value / math.sqrt(2):.3g} A RMS"
    elif option.id == "rating_a":
        group = "Fuses"
    return SettingRow(
        group=group, where=device, what=option.title, value=shown, because=because, device=device
    )


def _input_rows(look: Look, device: str, port: Port) -> Iterator[SettingRow]:
    """The active level of an input that something hangs on."""
    pin = next((pin for pin in port.pins if pin.function == "signal"), None)
    ref = PortRef(device=device, port=port.id)
    hanging = [
        name
        for name in dict.fromkeys(end.device for end in neighbours_at(look, ref))
        if (read := input_of(look, name)) is not None and read.port_ref == ref
    ]
    if pin is None or not hanging:
        return
    invert = look.setting(device, "invert", port.id)
    reads = ""
    if isinstance(pin.electrical, LogicInput):
        reads = reading_of(look, PinRef(device=device, port=port.id, pin=pin.id), pin.electrical)
    told = [f"{name} {_rest_of(look, name)}".strip() for name in hanging]
    yield SettingRow(
        group="Inputs",
        where=f"{device} {port.id}",
        what=f"Reads {reads}" if reads and reads != "either" else "Is taken",
        value=str(invert) if invert is not None else "as it is",
        because=" and ".join(told),
        device=device,
        port=port.id,
    )


def _rest_of(look: Look, device: str) -> str:
    """NC or NO, as the contacts of a device are used."""
    part = look.part_of(device)
    if part is None or not any(isinstance(e, Contact) for e in part.inside):
        return ""
    return "/".join(dict.fromkeys(contact.rest for contact in used_contacts(look, device)))


def _output_rows(look: Look, device: str, port: Port) -> Iterator[SettingRow]:
    """What an output switches."""
    hanging = dict.fromkeys(
        end.device for end in neighbours_at(look, PortRef(device=device, port=port.id))
    )
    named = [f"{name} {found.name}" for name in hanging if (found := look.device(name))]
    if named:
        yield SettingRow(
            group="Outputs", where=f"{device} {port.id}", what="Switches",
            value=", ".join(named), because="", device=device, port=port.id,
        )  # fmt: skip


def _encoder_rows(look: Look, device: str, port: Port) -> Iterator[SettingRow]:
    """Counts per unit and decoding of an encoder input that an axis is counted by."""
    for axis_id in look.axes():
        counts, axis = count_figures(look, axis_id), look.axis(axis_id)
        if counts is None or axis is None or counts.counts_per_unit is None:
            continue
        if counts.counted_by != PortRef(device=device, port=port.id):
            continue
        unit = "degree" if axis.motion == "rotary" else "mm"
        yield SettingRow(
            group="Encoders",
            where=f"{device} {port.id}",
            what=f"Counts a {unit} of {axis_id}",
            value=f"{counts.counts_per_unit:.6g}",
            because=f"{counts.encoder}: {counts.lines_per_turn} lines × {counts.decoding}",
            device=device,
            port=port.id,
        )
