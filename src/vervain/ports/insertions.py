"""What a plug still needs in a port, as values, and putting it there: one edit with the plug."""

from vervain.edits.device_edits import set_setting
from vervain.edits.hookup_edits import add_hookup
from vervain.model.base import Record
from vervain.model.machine import Conductor, Machine, PinRef, PortRef
from vervain.model.part import Part, Port
from vervain.ports.adapters import (
    adapter_part,
    flyback_part,
    put_across,
    put_between,
    put_in_line,
    put_pull,
    resistor_in_line,
)
from vervain.ports.extension import extend
from vervain.queries.connectivity import occupants
from vervain.queries.machine_queries import Queries


class Adapter(Record, frozen=True, kw_only=True, tag="adapter"):
    """An adapter lead between the plug and the port."""

    words: str


class PullAt(Record, frozen=True, kw_only=True, tag="pull"):
    """A resistor from a host pin to a plus, or to a 0 V, of its port, else of its device."""

    pin: PinRef
    rail: PinRef
    resistance_ohm: float


class DiodeAt(Record, frozen=True, kw_only=True, tag="diode"):
    """A diode across a coil, from its return to its plus."""

    back: PinRef
    plus: PinRef


class ResistorAt(Record, frozen=True, kw_only=True, tag="resistor"):
    """A resistor in line before a pin, of the host port or of the device's own."""

    pin: PinRef
    resistance_ohm: float
    power_w: float


class DividerAt(Record, frozen=True, kw_only=True, tag="divider"):
    """A divider before a pin, with its 0 V at a pin of the same port, or of the same device."""

    pin: PinRef
    zero: PinRef
    part: Part


class ConverterAt(Record, frozen=True, kw_only=True, tag="converter"):
    """A signal converter that the machine knows, between plug and port."""

    part: Part
    into: str
    out: str


class RailAt(Record, frozen=True, kw_only=True, tag="rail"):
    """A conductor from a pin of the plug to where it gets its plus, or its 0 V."""

    pin: str
    at: PinRef


class Extension(Record, frozen=True, kw_only=True, tag="extension"):
    """An in-line connector and a cable behind leads that are too short."""

    length_m: float


Addition = Adapter | Extension | RailAt | PullAt | DiodeAt | ResistorAt | DividerAt | ConverterAt


def is_relied_on(queries: Queries, device: str, option: str, but_for: set[PortRef]) -> bool:
    """Whether something that sits in a device relies on how an option of it stands."""
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if _follows(port, option):
            ref = PortRef(device=device, port=port.id)
            if set(occupants(queries, ref)) - but_for:
                return True
    return False


def _follows(port: Port, option: str) -> bool:
    reads = {getattr(pin.electrical, "reads_option", None) for pin in port.pins}
    return option in reads or option in {item.option for item in port.reserved}


def add_missing(
    machine: Machine,
    plug: PortRef,
    host: PortRef,
    additions: tuple[Addition, ...],
    option: tuple[str, str] | None,
) -> Machine:
    """Puts what is missing between a plug and the port that it sits in, and turns the jumper that
    it needs, unless something else relies on it.
    """
    for addition in additions:
        if isinstance(addition, Adapter):
            machine = _with_adapter(machine, plug, host)
        elif isinstance(addition, Extension):
            machine = _with_extension(machine, plug, host, addition.length_m)
        elif isinstance(addition, RailAt):
            ours = PinRef(device=plug.device, port=plug.port, pin=addition.pin)
            if addition.at in Queries(machine).rail(ours):
                # What several lamps have in common has its wire by another one.
                continue
            row = Conductor(a=addition.pin, b=addition.at.pin)
            machine = add_hookup(machine, plug, addition.at.port_ref, (row,))
        elif isinstance(addition, PullAt):
            machine = put_pull(machine, addition.pin, addition.rail, addition.resistance_ohm)
        elif isinstance(addition, DiodeAt):
            name = f"Flyback diode of {plug.device}"
            machine = put_across(machine, addition.back, addition.plus, flyback_part(), name)
        elif isinstance(addition, ResistorAt):
            part = resistor_in_line(addition.resistance_ohm, addition.power_w)
            name = f"Resistor before {addition.pin.device} {addition.pin.port}"
            machine = put_in_line(machine, addition.pin, part, name)
        elif isinstance(addition, DividerAt):
            ref = addition.pin
            name = f"Divider before {ref.device} {ref.port}"
            machine = put_in_line(machine, ref, addition.part, name, addition.zero)
    if option is not None and not is_relied_on(Queries(machine), host.device, option[0], {plug}):
        machine = set_setting(machine, host.device, *option)
    return machine


def _with_adapter(machine: Machine, plug: PortRef, host: PortRef) -> Machine:
    for hookup in machine.hookups:
        if hookup.cable is None and {hookup.a, hookup.b} == {plug, host}:
            part = adapter_part(Queries(machine), plug, host)
            side = "b" if hookup.b == host else "a"
            return put_between(machine, hookup.id, side, part, f"Adapter of {plug.device}")
    return machine


def _with_extension(machine: Machine, plug: PortRef, host: PortRef, length_m: float) -> Machine:
    for hookup in machine.hookups:
        if hookup.cable is None and {hookup.a, hookup.b} == {plug, host}:
            return extend(machine, hookup.id, plug, length_m)
    return machine
