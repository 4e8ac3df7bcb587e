"""Short ways to write a machine down in a script."""

from msgspec.structs import replace

from vervain.files.part_files import shipped_shelf
from vervain.machine.edits import add_device, add_hookup
from vervain.machine.machine import Cable, Conductor, Machine, PortRef
from vervain.machine.part import Part


def at(text: str) -> PortRef:
    """A port from "K1:AXIS 1"."""
    device, _, port = text.partition(":")
    return PortRef(device=device, port=port)


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

    def cable(self, cable_id: str, part: str, length_m: float, attached: str = "") -> None:
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
