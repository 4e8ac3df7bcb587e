"""The edits that fixes are made of, as values: they can be compared, shown and applied."""

from vervain.edits import (
    device_edits,
    feed_edits,
    hookup_edits,
    plug_edits,
    wire_edits,
)
from vervain.leads.rewiring import use_windings
from vervain.leads.winding_connection import UseKind
from vervain.model.base import Record
from vervain.model.machine import Conductor, Machine, PinRef, PortRef, SettingValue
from vervain.model.part import Part
from vervain.ports import adapters
from vervain.ports.plugging import plug_in, unplug
from vervain.queries.machine_queries import Queries
from vervain.rules.axis_fixes import PutInRole, PutPart, SetHoming
from vervain.rules.harness_fixes import (
    ClearLabel,
    CutAnew,
    DealWithSpares,
    ExtendLeads,
    FitChain,
    HoldCables,
    LayOtherwise,
    MakeOf,
    ShieldAt,
    ShortestWay,
)


class ExchangePins(Record, frozen=True, kw_only=True, tag="exchange pins"):
    """The conductors at two pins of one side of a hookup change places."""

    hookup: str
    side: str
    first: str
    second: str

    def apply(self, machine: Machine) -> Machine:
        return hookup_edits.exchange_pins(machine, self.hookup, self.side, self.first, self.second)


class SetSetting(Record, frozen=True, kw_only=True, tag="set"):
    """A setting of a device gets another value."""

    device: str
    key: str
    value: SettingValue

    def apply(self, machine: Machine) -> Machine:
        return device_edits.set_setting(machine, self.device, self.key, self.value)


class Join(Record, frozen=True, kw_only=True, tag="join"):
    """Two ports are joined."""

    a: PortRef
    b: PortRef
    conductors: tuple[Conductor, ...]

    def apply(self, machine: Machine) -> Machine:
        return hookup_edits.add_hookup(machine, self.a, self.b, self.conductors)


class PutConductor(Record, frozen=True, kw_only=True, tag="put conductor"):
    """A conductor from one pin to another, by a free core of the cable that goes there."""

    first: PinRef
    second: PinRef

    def apply(self, machine: Machine) -> Machine:
        beside = plug_edits.cable_beside(machine, self.first, self.second)
        return plug_edits.put_conductor(machine, self.first, self.second, *beside)


class TakeConductor(Record, frozen=True, kw_only=True, tag="take conductor"):
    """The conductor between two pins is taken off."""

    first: PinRef
    second: PinRef

    def apply(self, machine: Machine) -> Machine:
        return plug_edits.take_wire_off(machine, self.first, self.second)


class MoveEnd(Record, frozen=True, kw_only=True, tag="move end"):
    """The end of a conductor goes from one pin to another; its other end is kept."""

    kept: PinRef
    old: PinRef
    new: PinRef

    def apply(self, machine: Machine) -> Machine:
        return wire_edits.move_end(machine, self.kept, self.old, self.new)


class TurnPlug(Record, frozen=True, kw_only=True, tag="turn plug"):
    """All conductors at a port are turned round: first pin on last."""

    plug: PortRef

    def apply(self, machine: Machine) -> Machine:
        return plug_edits.turn_plug(machine, self.plug)


class ShiftPlug(Record, frozen=True, kw_only=True, tag="shift plug"):
    """All conductors at a port move along its pins."""

    plug: PortRef
    by: int

    def apply(self, machine: Machine) -> Machine:
        return plug_edits.shift_plug(machine, self.plug, self.by)


class ExchangeTwo(Record, frozen=True, kw_only=True, tag="exchange two"):
    """All that is at two pins of a port changes places."""

    plug: PortRef
    first: str
    second: str

    def apply(self, machine: Machine) -> Machine:
        return plug_edits.exchange_two(machine, self.plug, self.first, self.second)


class ExchangePlugs(Record, frozen=True, kw_only=True, tag="exchange plugs"):
    """Two plugs change places."""

    first: PortRef
    second: PortRef

    def apply(self, machine: Machine) -> Machine:
        return plug_edits.exchange_plugs(machine, self.first, self.second)


class InTurn(Record, frozen=True, kw_only=True, tag="in turn"):
    """Several changes, one after the other, as one."""

    remedies: tuple["Remedy", ...]

    def apply(self, machine: Machine) -> Machine:
        for remedy in self.remedies:
            machine = remedy.apply(machine)
        return machine


class SeatModule(Record, frozen=True, kw_only=True, tag="seat module"):
    """A module is put into a slot straight: each pin in the hole of the same name."""

    foot: PortRef
    slot: PortRef

    def apply(self, machine: Machine) -> Machine:
        return plug_edits.seat_module(machine, self.foot, self.slot)


class PutAdapter(Record, frozen=True, kw_only=True, tag="put adapter"):
    """An adapter lead goes between a plug and the port at one side of a hookup."""

    hookup: str
    side: str

    def apply(self, machine: Machine) -> Machine:
        hookup = hookup_edits.find_hookup(machine, self.hookup)
        ends = (hookup.b, hookup.a) if self.side == "a" else (hookup.a, hookup.b)
        part = adapters.adapter_part(Queries(machine), *ends)
        name = f"Adapter of {ends[0].device}"
        return adapters.put_between(machine, self.hookup, self.side, part, name)


class PutAcross(Record, frozen=True, kw_only=True, tag="put across"):
    """A flyback diode, or with a resistance a pull-up or a pull-down, goes between two pins."""

    first: PinRef
    second: PinRef
    resistance_ohm: float | None = None

    def apply(self, machine: Machine) -> Machine:
        if self.resistance_ohm is not None:
            return adapters.put_pull(machine, self.first, self.second, self.resistance_ohm)
        part, name = adapters.flyback_part(), f"Flyback diode of {self.first.device}"
        return adapters.put_across(machine, self.first, self.second, part, name)


class PutResistor(Record, frozen=True, kw_only=True, tag="put resistor"):
    """A resistor goes into the conductor at a pin."""

    pin: PinRef
    resistance_ohm: float
    power_w: float

    def apply(self, machine: Machine) -> Machine:
        part = adapters.resistor_in_line(self.resistance_ohm, self.power_w)
        name = f"Resistor before {self.pin.device} {self.pin.port}"
        return adapters.put_in_line(machine, self.pin, part, name)


class PutDivider(Record, frozen=True, kw_only=True, tag="put divider"):
    """A divider made for an output goes before an input, with its 0 V at the input's."""

    pin: PinRef
    part: Part
    zero: PinRef

    def apply(self, machine: Machine) -> Machine:
        name = f"Divider before {self.pin.device} {self.pin.port}"
        return adapters.put_in_line(machine, self.pin, self.part, name, self.zero)


class TakeOut(Record, frozen=True, kw_only=True, tag="take out"):
    """A device is taken out."""

    device: str

    def apply(self, machine: Machine) -> Machine:
        return device_edits.remove_device(machine, self.device)


class MovePlug(Record, frozen=True, kw_only=True, tag="move plug"):
    """A device's plug goes into another port, with the pin map of `vervain.ports.fit`."""

    device_port: PortRef
    host_port: PortRef

    def apply(self, machine: Machine) -> Machine:
        return plug_in(machine, self.device_port, self.host_port)


class SetGauge(Record, frozen=True, kw_only=True, tag="set gauge"):
    """A cable gets cores of another cross-section."""

    cable: str
    core_mm2: float

    def apply(self, machine: Machine) -> Machine:
        return feed_edits.set_gauge(machine, self.cable, self.core_mm2)


class PutSplice(Record, frozen=True, kw_only=True, tag="put splice"):
    """The conductors that share a contact are joined in a splice before it."""

    pin: PinRef

    def apply(self, machine: Machine) -> Machine:
        return adapters.put_splice(machine, self.pin)


class PutWith(Record, frozen=True, kw_only=True, tag="put with"):
    """A plug stays in its port, with what it needs there put in as well."""

    device_port: PortRef
    host_port: PortRef

    def apply(self, machine: Machine) -> Machine:
        machine = unplug(machine, self.device_port)
        return plug_in(machine, self.device_port, self.host_port, complete=True)


class MoveContact(Record, frozen=True, kw_only=True, tag="move contact"):
    """The conductors of one contact go to another contact of the same device."""

    device: str
    old_port: str
    new_port: str
    pins: dict[str, str]

    def apply(self, machine: Machine) -> Machine:
        return hookup_edits.move_port(machine, self.device, self.old_port, self.new_port, self.pins)


class MovePins(Record, frozen=True, kw_only=True, tag="move pins"):
    """Conductors at pins of one side of a hookup go to other pins."""

    hookup: str
    side: str
    pins: dict[str, str]

    def apply(self, machine: Machine) -> Machine:
        return hookup_edits.move_pins(machine, self.hookup, self.side, self.pins)


class UseWindings(Record, frozen=True, kw_only=True, tag="use windings"):
    """A motor's leads are brought onto its driver for a use of its windings."""

    device: str
    kind: UseKind

    def apply(self, machine: Machine) -> Machine:
        return use_windings(machine, self.device, self.kind)


Remedy = (
    ExchangePins
    | PutAdapter
    | PutAcross
    | PutResistor
    | PutDivider
    | PutSplice
    | SetGauge
    | SetHoming
    | SetSetting
    | PutInRole
    | Join
    | PutConductor
    | TakeConductor
    | MoveEnd
    | SeatModule
    | TurnPlug
    | ShiftPlug
    | ExchangeTwo
    | ExchangePlugs
    | InTurn
    | TakeOut
    | MovePlug
    | PutWith
    | MoveContact
    | MovePins
    | PutPart
    | UseWindings
    | ClearLabel
    | DealWithSpares
    | ShortestWay
    | LayOtherwise
    | CutAnew
    | MakeOf
    | FitChain
    | HoldCables
    | ExtendLeads
    | ShieldAt
)
