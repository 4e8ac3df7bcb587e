"""A first tree of places and runs from the axes: something to put right, not the truth."""

from msgspec.structs import replace

from vervain.harness.route_tree import CONTROL_KINDS
from vervain.model.axis import Axis, Joint
from vervain.model.base import LONGEST_M, LONGEST_NAME
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part
from vervain.model.place import Place, Run
from vervain.queries.device_groups import axis_with_driver, groups
from vervain.queries.machine_queries import Queries

IN_BOX = (
    *CONTROL_KINDS,
    "fuse",
    "terminal strip",
    "contactor",
    "solid-state relay",
    "signal converter",
    "battery",
)
# Runs start with these lengths in m: to the frame, to the operator, beyond an axis's own travel.
TO_FRAME_M, TO_OPERATOR_M, BEYOND_M, JOINT_M = 1.5, 1.5, 0.3, 0.3
# What a wire between two devices of one place has at first, in m.
BOX_INSIDE_M, INSIDE_M = 0.5, 0.3


def propose_tree(machine: Machine) -> Machine:
    """The machine with a control box; a place for every axis that has devices outside of it, the
    straight axes one on the other from the longest travel down, each run half the travel of the
    axis that moves it; joints one on the other in their order; and a place for the operator.
    Devices that have a place keep it, and places that are joined are not joined again.
    """
    queries = Queries(machine)
    outside = [name for name in queries.devices() if not _in_box(queries, name)]
    spots: dict[str, str] = {}
    places = [Place(id="box", name="Control box", closed=True, inside_m=BOX_INSIDE_M)]
    runs: list[Run] = []
    straight = sorted(
        (axis for axis in machine.axes if axis.motion == "linear" and not axis.endless),
        key=lambda axis: -(axis.travel or 0),
    )
    joints = [axis for axis in machine.axes if isinstance(axis.mechanism, Joint)]
    others = [axis for axis in machine.axes if axis not in straight and axis not in joints]
    before: Axis | None = None
    joint: Axis | None = None
    for axis in (*straight, *joints, *others):
        members = [name for name in outside if axis_with_driver(queries, name) == axis.id]
        if not members:
            continue
        place = f"axis-{axis.id}"
        places.append(
            Place(
                id=place,
                name=f"{axis.id} {axis.name}"[:LONGEST_NAME],
                strain_relief=True,
                inside_m=INSIDE_M,
            )
        )
        spots |= dict.fromkeys(members, place)
        on = before if axis in straight else joint if axis in joints else None
        runs.append(_run(len(runs) + 1, on, place))
        before = axis if axis in straight else before
        joint = axis if axis in joints else joint
    tools = [name for group in groups(queries) if group.title == "Tools" for name in group.devices]
    operator = [
        name for group in groups(queries) if group.title == "Operator" for name in group.devices
    ]
    last = before or joint
    head = f"axis-{last.id}" if last is not None else "frame"
    for names, place, name, length_m in (
        (tools, head, "Frame", TO_FRAME_M),
        (operator, "operator", "Operator", TO_OPERATOR_M),
    ):
        loose = [device for device in names if device in outside and device not in spots]
        if loose and all(known.id != place for known in places):
            places.append(Place(id=place, name=name, inside_m=INSIDE_M))
            run = Run(id=f"R{len(runs) + 1}", a="box", b=place, length_m=length_m)
            runs.append(run)
        spots |= dict.fromkeys(loose, place)
    devices = tuple(
        device if device.place else replace(device, place=spots.get(device.designator, "box"))
        for device in machine.devices
    )
    known = {place.id for place in machine.places}
    joined = [{run.a, run.b} for run in machine.runs]
    runs = [run for run in runs if {run.a, run.b} not in joined]
    return replace(
        machine,
        places=(*machine.places, *(place for place in places if place.id not in known)),
        runs=(*machine.runs, *_renumbered(machine, runs)),
        devices=devices,
    )


def _run(number: int, on: Axis | None, place: str) -> Run:
    """A run to an axis: fixed from the box, or moving with the axis that it rides on."""
    name = f"R{number}"
    if on is None:
        return Run(id=name, a="box", b=place, length_m=TO_FRAME_M)
    half_m = (on.travel or 0) / 2000 if on.motion == "linear" else JOINT_M
    length_m = min(round(half_m + BEYOND_M, 1), LONGEST_M)
    return Run(id=name, a=f"axis-{on.id}", b=place, length_m=length_m, moving=True, axis=on.id)


def _renumbered(machine: Machine, runs: list[Run]) -> list[Run]:
    """New runs under names that are free."""
    taken = {run.id for run in machine.runs}
    found, number = [], 1
    for run in runs:
        while f"R{number}" in taken:
            number += 1
        taken.add(f"R{number}")
        found.append(replace(run, id=f"R{number}"))
    return found


def _in_box(queries: Queries, designator: str) -> bool:
    part = queries.part_of(designator)
    return part is None or part.kind in IN_BOX or _is_at_a_battery(queries, designator, part)


def _is_at_a_battery(queries: Queries, designator: str, part: Part) -> bool:
    """Whether something lies at the plus of a battery, where no fuse protects its wires: it sits
    beside the battery.
    """
    pins = (PinRef(device=designator, port=port.id, pin=pin.id) for port in part.ports
            for pin in port.pins if pin.function not in ("plus", "zero"))  # fmt: skip
    for ref in (ref for pin in pins for ref in queries.net(pin)):
        source, there = queries.part_of(ref.device), queries.pin(ref)
        is_battery = source is not None and source.kind == "battery"
        if is_battery and there is not None and there.function == "plus":
            return True
    return False
