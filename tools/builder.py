"""Short ways to write a machine down in a script."""

import msgspec
from msgspec.structs import replace

from vervain.edits import route_edits
from vervain.edits.cable_edits import used_cores
from vervain.edits.device_edits import add_device
from vervain.edits.hookup_edits import add_hookup
from vervain.files.migrations import migrated
from vervain.files.part_files import shipped_shelf
from vervain.harness.cable_routes import cable_route
from vervain.model.axis import Axis, Screw
from vervain.model.machine import Acceptance, Cable, Conductor, Machine, PortRef
from vervain.model.part import Part
from vervain.model.subject import Subject
from vervain.queries.machine_queries import Queries


def at(text: str) -> PortRef:
    """A port from "K1:AXIS 1"."""
    device, _, port = text.partition(":")
    return PortRef(device=device, port=port)


def accepted_finding(key: str, reason: str, day: str) -> Acceptance:
    """An acceptance from the key of a finding, written "rule:subject:detail"; of a stop with the
    devices that it leaves on, "stops.unnoticed:S1:M5:M9".
    """
    rule, *names = key.split(":")
    if rule == "stops.unnoticed":
        subjects = [Subject(device=name) for name in names]
        return Acceptance(
            rule=rule, about=subjects[0], at=tuple(subjects[1:]), reason=reason, day=day
        )
    written = {"finding": key, "reason": reason, "day": day}
    return msgspec.convert(migrated({"accepted": [written]}, 1)["accepted"][0], Acceptance)


class Builder:
    """A machine under construction; every call is one edit."""

    def __init__(self, machine: Machine) -> None:
        self.machine = machine

    def device(self, designator: str, part: str, name: str, place: str | None, **settings) -> None:
        self.add(designator, shipped_shelf().parts[part], name)
        last = replace(self.machine.devices[-1], place=place, settings=settings)
        self.machine = replace(self.machine, devices=(*self.machine.devices[:-1], last))

    def add(self, designator: str, part: Part, name: str = "Device") -> None:
        self.machine = add_device(self.machine, part, name, designator)

    def cable(self, cable_id: str, part: str, length_m: float | None, attached: str = "") -> None:
        found = shipped_shelf().cable_parts[part]
        known = self.machine.cable_parts
        if found not in known:
            known = (*known, found)
        cable = Cable(
            id=cable_id,
            part=part,
            length_m=length_m,
            attached_to=at(attached) if attached else None,
        )
        self.machine = replace(
            self.machine, cables=(*self.machine.cables, cable), cable_parts=known
        )

    def lay(self, strain_relief: str, closed: str, inside_m: float, **runs) -> None:
        """Says what the places and the runs are like, and lets every cable that has a route take
        its length from it; what is left of cores is insulated.
        """
        machine = self.machine
        for place in machine.places:
            changed = {"inside_m": inside_m}
            if place.id in strain_relief.split():
                changed["strain_relief"] = True
            if place.id in closed.split():
                changed["closed"] = True
            machine = route_edits.change_place(machine, place.id, **changed)
        for run, values in runs.items():
            machine = route_edits.change_run(machine, run, **values)
        queries = Queries(machine)
        cables = []
        for cable in machine.cables:
            routed = bool(cable_route(queries, cable.id).runs)
            cores = len(queries.cable_part(cable.part).cores)
            spares = "insulated" if len(used_cores(machine, cable.id)) < cores else ""
            length_m = None if routed else cable.length_m
            cables.append(replace(cable, length_m=length_m, spares=spares))
        self.machine = replace(machine, cables=tuple(cables))

    def join(self, a: str, b: str, pins: str, cable: str = "", cores: str = "") -> None:
        """Joins two ports. `pins` is "1-2 2-1": pins of a to pins of b, by id or unique name;
        `cores` the numbers of the cable's cores in the same order, 1, 2 … where left out.
        """
        conductors = []
        numbers = [int(n) for n in cores.split()] if cores else None
        for row, pair in enumerate(pins.split()):
            left, _, right = pair.partition("-")
            core = (numbers[row] if numbers else row + 1) if cable else None
            conductors.append(Conductor(a=self._pin(a, left), b=self._pin(b, right), core=core))
        self.machine = add_hookup(self.machine, at(a), at(b), tuple(conductors), cable or None)

    def _pin(self, port: str, text: str) -> str:
        ref = at(port)
        device = next(d for d in self.machine.devices if d.designator == ref.device)
        part = next(p for p in self.machine.parts if p.id == device.part)
        found = part.port(ref.port)
        if found is None:
            raise KeyError(port)
        if found.pin(text):
            return text
        return next(pin.id for pin in found.pins if pin.name == text)

    def with_cable_part(self, part: str) -> Machine:
        """The machine, with a cable part from the shelf copied into it."""
        found = shipped_shelf().cable_parts[part]
        return replace(self.machine, cable_parts=(*self.machine.cable_parts, found))


def bench(*devices: str, name: str = "Test") -> Builder:
    """A builder with devices written "M1 fell-s57"."""
    build = Builder(Machine(name=name))
    for text in devices:
        designator, part = text.split()
        build.device(designator, part, f"Device {designator}", None)
    return build


def slide_axis(name: str, motor: str, home: str) -> Axis:
    """An axis of a screw, with one switch for home and both limits."""
    return Axis(
        id=name, name="slide", travel=200, mechanism=Screw(lead_mm=5), speed_max=20,
        drives=(motor,), home=home, min_limit=home, max_limit=home,
    )  # fmt: skip


def hookup_between(machine: Machine, a: str, b: str) -> str:
    """The id of the hookup between two ports."""
    return next(h.id for h in machine.hookups if (h.a, h.b) == (at(a), at(b)))


def without(machine: Machine, a: str, b: str) -> Machine:
    """The machine without the hookups between two ports."""
    ends = {at(a), at(b)}
    return replace(machine, hookups=tuple(h for h in machine.hookups if {h.a, h.b} != ends))


def with_part(machine: Machine, designator: str, part: str) -> Machine:
    """The machine with another part from the shelf at a device; parts not used any more go."""
    found = shipped_shelf().parts[part]
    devices = tuple(
        replace(device, part=part) if device.designator == designator else device
        for device in machine.devices
    )
    used = {device.part for device in devices}
    known = (*machine.parts, *(() if found in machine.parts else (found,)))
    return replace(machine, devices=devices, parts=tuple(p for p in known if p.id in used))
