"""The edits of cables, runs and places that fixes are made of, as values."""

from vervain.edits import cable_edits, route_edits
from vervain.model.base import Record
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine, PortRef, Spares
from vervain.model.place import Chain
from vervain.ports.extension import extend


class ClearLabel(Record, frozen=True, kw_only=True, tag="clear label"):
    """A core goes back to the label that the template gives."""

    cable: str
    core: int

    def apply(self, machine: Machine) -> Machine:
        return cable_edits.set_core_label(machine, self.cable, self.core, "")


class DealWithSpares(Record, frozen=True, kw_only=True, tag="deal with spares"):
    """The unused cores of a cable are insulated, cut back or earthed."""

    cable: str
    spares: Spares

    def apply(self, machine: Machine) -> Machine:
        return cable_edits.set_spares(machine, self.cable, self.spares)


class ShortestWay(Record, frozen=True, kw_only=True, tag="shortest way"):
    """A cable takes the shortest way between its ends."""

    cable: str

    def apply(self, machine: Machine) -> Machine:
        return cable_edits.set_cable_runs(machine, self.cable, ())


class LayOtherwise(Record, frozen=True, kw_only=True, tag="lay otherwise"):
    """A cable is laid through other runs."""

    cable: str
    runs: tuple[str, ...]

    def apply(self, machine: Machine) -> Machine:
        return cable_edits.set_cable_runs(machine, self.cable, self.runs)


class CutAnew(Record, frozen=True, kw_only=True, tag="cut anew"):
    """A cable gets the length that its route comes to, in place of the measured one."""

    cable: str

    def apply(self, machine: Machine) -> Machine:
        note = cable_edits.find_cable(machine, self.cable).note
        return cable_edits.set_cable(machine, self.cable, None, note)


class MakeOf(Record, frozen=True, kw_only=True, tag="make of"):
    """A cable is made of another cable part."""

    cable: str
    part: CablePart

    def apply(self, machine: Machine) -> Machine:
        return cable_edits.set_cable_part(machine, self.cable, self.part)


class FitChain(Record, frozen=True, kw_only=True, tag="fit chain"):
    """A run gets another drag chain."""

    run: str
    chain: Chain

    def apply(self, machine: Machine) -> Machine:
        return route_edits.set_chain(machine, self.run, self.chain)


class HoldCables(Record, frozen=True, kw_only=True, tag="hold cables"):
    """The cables are held at a place."""

    place: str

    def apply(self, machine: Machine) -> Machine:
        return route_edits.change_place(machine, self.place, strain_relief=True)


class ExtendLeads(Record, frozen=True, kw_only=True, tag="extend leads"):
    """A device's own leads get an in-line connector and a cable, so that they reach."""

    hookup: str
    plug: PortRef
    length_m: float

    def apply(self, machine: Machine) -> Machine:
        return extend(machine, self.hookup, self.plug, self.length_m)


class ShieldAt(Record, frozen=True, kw_only=True, tag="shield at"):
    """The shield of a cable is joined at these ports, and nowhere else."""

    cable: str
    ports: tuple[PortRef, ...]

    def apply(self, machine: Machine) -> Machine:
        return cable_edits.set_shield(machine, self.cable, self.ports)
