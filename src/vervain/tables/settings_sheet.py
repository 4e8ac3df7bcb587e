"""The settings sheet: everything to set outside the wiring so that both agree.

Drivers and bridges, axes, inputs, outputs, encoders, jumpers and fuses, each with what it is set to
and because of what. It follows the wiring: an input is inverted because an NC contact hangs on it.
"""

import math
from collections.abc import Iterator

from vervain.model.part import Option, Part
from vervain.ports.alternates import displaced_by, is_in
from vervain.queries.connectivity import motors_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_text
from vervain.stops.chains import chains_of
from vervain.stops.compiling import circuit_of
from vervain.tables.axis_rows import axis_rows
from vervain.tables.open_leads import open_leads
from vervain.tables.port_rows import port_rows
from vervain.tables.setting_row import GROUPS, SettingRow


@query
def settings_sheet(queries: Queries) -> tuple[SettingRow, ...]:
    """Every row, group by group, in the order of the machine."""
    rows = [row for axis_id in queries.axes() for row in axis_rows(queries, axis_id)]
    for device in queries.devices():
        part = queries.part_of(device)
        if part is not None:
            rows.extend(_device_rows(queries, device, part))
    rows.extend(_stop_rows(queries))
    rows.extend(_swap_rows(queries))
    rows.extend(_open_lead_rows(queries))
    return tuple(sorted(rows, key=lambda row: GROUPS.index(row.group)))


def _stop_rows(queries: Queries) -> Iterator[SettingRow]:
    """When each stop input opens."""
    circuit = circuit_of(queries)
    for chain in chains_of(queries):
        buttons = [link.device for link in chain.links if link.device in circuit.stops]
        pins = [circuit.inputs[number].pin for number in chain.inputs]
        for ref in pins if buttons else ():
            taken = queries.setting(ref.device, "invert", ref.port)
            yield SettingRow(
                group="Stops", where=f"{ref.device} {ref.port}", what=pin_text(queries, ref),
                value=f"open when {' or '.join(dict.fromkeys(buttons))} is pressed"
                + (", taken inverted" if taken == "inverted" else ""),
                because="closed while the machine may run", device=ref.device, port=ref.port,
            )  # fmt: skip


def _swap_rows(queries: Queries) -> Iterator[SettingRow]:
    """What is set while an alternate is in."""
    for item in queries.alternates():
        told = [f"{setting_words(queries, s.device, s.key)} {s.value}" for s in item.settings]
        axis = queries.axis_of(item.device)
        if item.homing_off:
            told.append(f"homing of {axis.id if axis else 'its axis'} off")
        others = " and ".join(displaced_by(queries, item)) or "nothing"
        state = "is in" if is_in(queries, item) else "waits"
        yield SettingRow(
            group="Swaps", where=f"{item.port.device} {item.port.port}",
            what=f"When {item.device} is in", value="; ".join(told) or "nothing to set",
            because=f"it takes over from {others}; it {state}", device=item.device,
        )  # fmt: skip


def setting_words(queries: Queries, device: str, key: str) -> str:
    """A setting in words: "T4 current"."""
    part = queries.part_of(device)
    option = part.option(key.partition("/")[0]) if part else None
    title = option.title.partition(":")[0] if option else key
    port = key.partition("/")[2]
    return " ".join((device, *title.lower().split(), *port.lower().split()))


def _device_rows(queries: Queries, device: str, part: Part) -> Iterator[SettingRow]:
    for option in part.options:
        if option.ports:
            continue
        yield _option_row(queries, device, part, option)
    yield from _trip_rows(queries, device, part)
    for lamp in part.indicators:
        yield SettingRow(
            group="Lamps", where=device, what=f"{lamp.id}, {lamp.colour}", value=lamp.means,
            because="when it is lit", device=device,
        )  # fmt: skip
    yield from port_rows(queries, device, part)


def _option_row(queries: Queries, device: str, part: Part, option: Option) -> SettingRow:
    """A jumper, a switch or a value of a device."""
    value = queries.setting(device, option.id)
    shown = f"{value:g} {option.unit}" if isinstance(value, int | float) else str(value)
    because = ""
    group = "Jumpers" if part.kind != "motor bridge" else "Drivers"
    if part.driver is not None:
        group = "Drivers"
        because = " and ".join(motors_of(queries, device)) or "drives nothing yet"
        if option.id == "current_peak_a" and isinstance(value, int | float):
            shown = f"{value:g} A peak, {value / math.sqrt(2):.3g} A RMS"
    elif option.id == "rating_a":
        group = "Fuses"
    if option.drawn is not None:
        shown = f"{shown}: {position_words(option, str(value))}"
    return SettingRow(
        group=group, where=device, what=option.title, value=shown, because=because, device=device
    )


def position_words(option: Option, value: str) -> str:
    """How a jumper or a row of switches stands for a choice, in words."""
    drawn = option.drawn
    position = drawn.positions.get(value, "") if drawn else ""
    if drawn is None or not position:
        return "not given"
    if drawn.form == "jumper":
        return "no jumper" if position == "off" else f"on posts {position.replace('-', ' and ')}"
    states = [f"{n} {'on' if state == '1' else 'off'}" for n, state in enumerate(position, 1)]
    return ", ".join(states)


def _trip_rows(queries: Queries, device: str, part: Part) -> Iterator[SettingRow]:
    """The voltage to measure at a driver's trip reference: current x volts per ampere."""
    peak = queries.setting(device, "current_peak_a")
    rating = part.driver
    if rating is None or rating.trip_v_per_a is None or not isinstance(peak, int | float):
        return
    current_a = peak if rating.trip_of == "peak" else peak / math.sqrt(2)
    yield SettingRow(
        group="Drivers", where=device, what="Trip reference",
        value=f"{current_a * rating.trip_v_per_a:.3g} V",
        because=f"{current_a:.3g} A {rating.trip_of} × {rating.trip_v_per_a:g} V/A", device=device,
    )  # fmt: skip


def _open_lead_rows(queries: Queries) -> Iterator[SettingRow]:
    """The leads that stay open, and what is done with them."""
    for lead in open_leads(queries):
        yield SettingRow(
            group="Leads left open", where=lead.where, what=f"{lead.lead}, {lead.function}",
            value=lead.advice, because="", device=lead.device, port=lead.port,
        )  # fmt: skip
