"""A proposal while it is built: the machine as far as it is planned, and the steps to there."""

from collections.abc import Iterable

from msgspec.structs import replace

from vervain.edits.common import free_name
from vervain.model.cable_part import CablePart
from vervain.model.elements import Fuse
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import route_between
from vervain.supply.feed_steps import (
    FeedStep,
    NewCable,
    NewDevice,
    NewWire,
    cable_kind,
    carry_out,
    flexing_kind,
)
from vervain.supply.sizing import ratings_of


class PlanBuilder:
    """Takes steps into a plan; names new devices and cables so that nothing has their names yet."""

    def __init__(
        self, machine: Machine, shelf: tuple[Part, ...], cables: tuple[CablePart, ...]
    ) -> None:
        self.machine, self.shelf = machine, shelf
        self.cables = (*machine.cable_parts, *cables)
        self.before = self.queries = Queries(machine)
        self.steps: list[FeedStep] = []
        self.decisions: list[str] = []
        # What goes at a stop and has its mains from terminals of its own, each with the line and
        # the neutral where these are fed.
        self.stopped: dict[str, dict[str, PinRef]] = {}

    def add(self, step: FeedStep) -> None:
        """Takes a step into the plan, with the steps that add what its wires come to among those
        that it needs, and the machine to after it.
        """
        touched = {ref.device for wire in step.wires for ref in (wire.a, wire.b)}
        adding = (
            number for number, earlier in enumerate(self.steps)
            if touched & {added.designator for added in earlier.adds}
        )  # fmt: skip
        step = replace(step, needs=tuple(dict.fromkeys((*step.needs, *adding))))
        self.machine = carry_out(self.machine, step)
        self.queries = Queries(self.machine)
        self.steps.append(step)

    def steps_to(self, pin: PinRef) -> tuple[int, ...]:
        """The numbers of the steps that join something to a pin."""
        return tuple(
            number
            for number, step in enumerate(self.steps)
            if any(pin in (wire.a, wire.b) for wire in step.wires)
        )

    def new_device(self, part: Part, name: str, near: str) -> NewDevice:
        """A new device of a part, in the place of another device."""
        taken = [device.designator for device in self.machine.devices]
        found = self.queries.device(near)
        return NewDevice(
            part=part,
            designator=free_name(part.letter, taken),
            name=name,
            place=found.place if found is not None else None,
        )

    def new_fuse(self, near: str, rating_a: float) -> tuple[NewDevice, PinRef, PinRef] | None:
        """A new fuse that can have a rating, in the place of another device, and its two ends; None
        where the shelf has none.
        """
        holders = [
            (part, fuses) for part in (*self.machine.parts, *self.shelf)
            if part.kind == "fuse" and rating_a in ratings_of(part)
            and (fuses := [e for e in part.inside if isinstance(e, Fuse)])
        ]  # fmt: skip
        # A way has one plus: a breaker of two poles is for the mains.
        part, fuses = min(holders, key=lambda holder: len(holder[1]), default=(None, []))
        element = next(iter(fuses), None)
        if part is None or element is None:
            return None
        added = self.new_device(part, f"Fuse at {near}", near)
        first, second = (
            PinRef(device=added.designator, port=port, pin=pin) for port, pin in element.pins
        )
        return added, first, second

    def cable_of(self, cores: tuple[str, ...], core_mm2: float) -> CablePart:
        """A kind of cable, which the plan keeps to."""
        part = cable_kind(self.cables, cores, core_mm2)
        if part not in self.cables:
            self.cables = (*self.cables, part)
        return part

    def cable_between(
        self, start: str, end: str, cores: tuple[str, ...], core_mm2: float
    ) -> CablePart:
        """A kind of cable from one device to another: a flexing one where its way moves."""
        route = route_between(self.queries, start, end)
        runs = [self.queries.run(run) for run in (route.runs if route is not None else ())]
        moves = any(run is not None and run.moving for run in runs)
        part = flexing_kind(self.cables, len(cores), core_mm2) if moves else None
        return part or self.cable_of(cores, core_mm2)

    def new_cable(
        self, part: CablePart, start: str, end: str, besides: tuple[NewCable, ...] = ()
    ) -> NewCable:
        """A new cable with a name that nothing has yet."""
        taken = [*(c.id for c in self.machine.cables), *(c.id for c in besides)]
        return NewCable(id=free_name("W", taken), part=part, start=start, end=end)

    def wire(
        self,
        a: PinRef,
        b: PinRef,
        colour: str,
        area: float,
        cables: list[NewCable],
        wires: list[NewWire],
        length_m: float | None = None,
    ) -> None:
        """A single wire between two pins, perhaps of a length that matters."""
        part = self.cable_between(a.device, b.device, (colour,), area)
        cable = self.new_cable(part, a.device, b.device, tuple(cables))
        cable = replace(cable, length_m=length_m)
        cables.append(cable)
        wires.append(NewWire(a=a, b=b, cable=cable.id, core=1))


class Wiring:
    """The wires of one step, all of one cross-section, in cables of their own."""

    def __init__(self, planner: PlanBuilder, area_mm2: float) -> None:
        self.planner, self.area_mm2 = planner, area_mm2
        self.cables: list[NewCable] = []
        self.wires: list[NewWire] = []

    def join(self, start: PinRef, end: PinRef, colour: str) -> None:
        """A wire from one pin to another."""
        self.planner.wire(start, end, colour, self.area_mm2, self.cables, self.wires)

    def string(
        self, start: PinRef, contacts: Iterable[tuple[PinRef, PinRef]], end: PinRef, colour: str
    ) -> None:
        """Wires from a pin through contacts, one behind the other, to another pin."""
        for near, far in contacts:
            self.join(start, near, colour)
            start = far
        self.join(start, end, colour)

    def step(self, words: str, reason: str) -> FeedStep:
        """The step that lays these wires."""
        return FeedStep(
            words=words, reason=reason, cables=tuple(self.cables), wires=tuple(self.wires)
        )
