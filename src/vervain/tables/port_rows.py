"""What is set for the ports of a controller: inputs, outputs and encoders."""

from collections.abc import Iterator

from vervain.electrical.levels import reading_of
from vervain.electrical.pull_up import pull_up_at
from vervain.model.electrical import LogicInput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part, Port
from vervain.motion.figures import count_figures
from vervain.ports.adapters import ohms
from vervain.queries.connectivity import neighbours_at
from vervain.queries.machine_queries import Queries
from vervain.stops.contacts import input_of, used_contacts
from vervain.tables.setting_row import SettingRow


def port_rows(queries: Queries, device: str, part: Part) -> Iterator[SettingRow]:
    """Every port of a device that something is set for."""
    for port in part.ports:
        if port.kind == "digital input" and port.end == "host":
            yield from _input_rows(queries, device, port)
        elif port.kind == "switched output" and port.end == "host":
            yield from _output_rows(queries, device, port)
        elif port.kind == "encoder" and port.counter is not None:
            yield from _encoder_rows(queries, device, port)


def _input_rows(queries: Queries, device: str, port: Port) -> Iterator[SettingRow]:
    """The active level of an input that something hangs on."""
    pin = next((pin for pin in port.pins if pin.function == "signal"), None)
    ref = PortRef(device=device, port=port.id)
    hanging = [
        name
        for name in dict.fromkeys(end.device for end in neighbours_at(queries, ref))
        if (read := input_of(queries, name)) is not None and read.port_ref == ref
    ]
    if pin is None or not hanging:
        return
    invert = queries.setting(device, "invert", port.id)
    reads = ""
    if isinstance(pin.electrical, LogicInput):
        reads = reading_of(queries, PinRef(device=device, port=port.id, pin=pin.id), pin.electrical)
    told = [f"{name} {_rest_of(queries, name)}".strip() for name in hanging]
    there = pull_up_at(queries, PinRef(device=device, port=port.id, pin=pin.id))
    pulled = f"; pull-up {ohms(float(f'{there.resistance_ohm:.3g}'))}" if there else ""
    shown = str(invert) if invert is not None else "as it is"
    filtered = queries.setting(device, "filter", port.id)
    if filtered is not None:
        shown = f"{shown}, filter {filtered}"
    yield SettingRow(
        group="Inputs",
        where=f"{device} {port.id}",
        what=f"Reads {reads}" if reads and reads != "either" else "Is taken",
        value=shown,
        because=" and ".join(told) + pulled,
        device=device,
        port=port.id,
    )


def _rest_of(queries: Queries, device: str) -> str:
    """NC or NO, as the contacts of a device are used."""
    part = queries.part_of(device)
    if part is None or not any(isinstance(e, Contact) for e in part.inside):
        return ""
    return "/".join(dict.fromkeys(contact.rest for contact in used_contacts(queries, device)))


def _output_rows(queries: Queries, device: str, port: Port) -> Iterator[SettingRow]:
    """What an output switches."""
    hanging = dict.fromkeys(
        end.device for end in neighbours_at(queries, PortRef(device=device, port=port.id))
    )
    named = [f"{name} {found.name}" for name in hanging if (found := queries.device(name))]
    parts = [part for name in hanging if (part := queries.part_of(name))]
    wants = {w for part in parts for other in part.ports for pin in other.pins for w in pin.wants}
    if named:
        yield SettingRow(
            group="Outputs", where=f"{device} {port.id}",
            what="Pulse width" if "pulse width" in wants else "On and off",
            value=", ".join(named), because="", device=device, port=port.id,
        )  # fmt: skip


def _encoder_rows(queries: Queries, device: str, port: Port) -> Iterator[SettingRow]:
    """Counts per unit and decoding of an encoder input that an axis is counted by."""
    for axis_id in queries.axes():
        counts, axis = count_figures(queries, axis_id), queries.axis(axis_id)
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
