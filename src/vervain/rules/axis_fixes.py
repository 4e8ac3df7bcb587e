"""The edits of axes and their roles that fixes are made of, as values."""

from vervain.edits.axis_edits import add_to_role, put_in_role, set_axis_choice
from vervain.model.axis import Homing, Role
from vervain.model.base import Record
from vervain.model.machine import Machine
from vervain.model.problem import Problem


class PutInRole(Record, frozen=True, kw_only=True, tag="put in role"):
    """A device of the machine takes a role of an axis as well."""

    axis: str
    role: Role
    device: str

    def apply(self, machine: Machine) -> Machine:
        return put_in_role(machine, self.axis, self.role, self.device)


class SetHoming(Record, frozen=True, kw_only=True, tag="set homing"):
    """The homing of an axis is switched on, off, or follows the wiring."""

    axis: str
    homing: Homing

    def apply(self, machine: Machine) -> Machine:
        return set_axis_choice(machine, self.axis, homing=self.homing)


class PutPart(Record, frozen=True, kw_only=True, tag="put part"):
    """A new device of a part that the machine has already, in a role of an axis."""

    axis: str
    role: Role
    part: str

    def apply(self, machine: Machine) -> Machine:
        part = next((part for part in machine.parts if part.id == self.part), None)
        if part is None:
            raise Problem(f"The part {self.part} is not in the machine.")
        return add_to_role(machine, self.axis, self.role, part)[0]
