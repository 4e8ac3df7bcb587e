"""The steps of a proposal that feeds what is not fed: what each adds and joins, as plain values."""

from msgspec.structs import replace

from vervain.edits.cable_edits import set_spares, used_cores, with_cable_part
from vervain.edits.common import free_name
from vervain.edits.device_edits import add_device
from vervain.edits.plug_edits import put_conductor, take_wire_off
from vervain.edits.wire_edits import put_into_wire
from vervain.model.base import Record
from vervain.model.cable_part import CablePart
from vervain.model.colours import colour_words
from vervain.model.machine import Cable, Machine, PinRef
from vervain.model.part import Part
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import route_between

# Inside one box, from terminal to terminal; elsewhere the route tells the length.
IN_THE_BOX_M = 0.4


class NewDevice(Record, frozen=True, kw_only=True):
    """A device that a step adds."""

    part: Part
    designator: str
    name: str
    place: str | None = None


class NewCable(Record, frozen=True, kw_only=True):
    """A cable that a step lays, between two devices: as long as the way between them, or of a
    length that matters.
    """

    id: str
    part: CablePart
    start: str
    end: str
    length_m: float | None = None


class NewWire(Record, frozen=True, kw_only=True):
    """A conductor that a step makes, in a cable or by itself."""

    a: PinRef
    b: PinRef
    cable: str | None = None
    core: int | None = None


class NewWayThrough(Record, frozen=True, kw_only=True):
    """Two pins of a device that a wire is led through: from `near_end`, by `near` and `far`, on to
    where it went before; the wire keeps its cable on from `far`, or, where the device sits at the
    source, from `near`.
    """

    near_end: PinRef
    near: PinRef
    far: PinRef
    is_at_source: bool = False


class NewEnd(Record, frozen=True, kw_only=True):
    """A wire without a cable that is led from somewhere else: its far end, and the pin from which
    it comes, before and after.
    """

    far: PinRef
    old: PinRef
    new: PinRef


class FeedStep(Record, frozen=True, kw_only=True):
    """One step of a proposal: what it does, and why so. `needs` are the numbers of the steps that
    have to come before it; `ratings` what a fuse is to be rated, in A.
    """

    words: str
    reason: str
    adds: tuple[NewDevice, ...] = ()
    cables: tuple[NewCable, ...] = ()
    wires: tuple[NewWire, ...] = ()
    through: tuple[NewWayThrough, ...] = ()
    moves: tuple[NewEnd, ...] = ()
    ratings: tuple[tuple[str, float], ...] = ()
    needs: tuple[int, ...] = ()


class FeedPlan(Record, frozen=True, kw_only=True):
    """A proposal: its steps in their order, and what only the builder can decide."""

    steps: tuple[FeedStep, ...] = ()
    decisions: tuple[str, ...] = ()

    def with_needed(self, wanted: set[int]) -> list[int]:
        """The numbers of steps that are wanted, less those that need one that is not."""
        kept: list[int] = []
        for number, step in enumerate(self.steps):
            if number in wanted and all(other in kept for other in step.needs):
                kept.append(number)
        return kept

    def with_all_it_needs(self, number: int) -> set[int]:
        """A step with everything that has to come before it."""
        found = {number}
        for before in range(number, -1, -1):
            if before in found:
                found.update(self.steps[before].needs)
        return found


def carry_out(machine: Machine, step: FeedStep) -> Machine:
    """The machine after a step. Raises `Problem` where something of it is taken meanwhile."""
    for added in step.adds:
        machine = add_device(machine, added.part, added.name, added.designator)
        last = replace(machine.devices[-1], place=added.place)
        machine = replace(machine, devices=(*machine.devices[:-1], last))
    for name, rating_a in step.ratings:
        machine = replace(
            machine,
            devices=tuple(
                replace(d, settings={**d.settings, "rating_a": rating_a})
                if d.designator == name
                else d
                for d in machine.devices
            ),
        )
    for cable in step.cables:
        machine = lay_cable(machine, cable)
    for wire in step.wires:
        machine = put_conductor(machine, wire.a, wire.b, wire.cable, wire.core)
    for cable in step.cables:
        if 0 < len(used_cores(machine, cable.id)) < len(cable.part.cores):
            # The earth of a mains cable to what takes none.
            machine = set_spares(machine, cable.id, "insulated")
    for moved in step.moves:
        machine = take_wire_off(machine, moved.far, moved.old)
        machine = put_conductor(machine, moved.new, moved.far)
    for through in step.through:
        # Each is looked for anew: the one before has moved the wires of its hookup.
        for way in _wires_at(machine, through):
            machine = put_into_wire(machine, *way)
    return machine


WireWay = tuple[str, int, PinRef, PinRef, PinRef, bool]


def _wires_at(machine: Machine, way: NewWayThrough) -> list[WireWay]:
    """The wires that are led through something, as `put_into_wire` takes them."""
    found: list[WireWay] = []
    for hookup in machine.hookups:
        for row, conductor in enumerate(hookup.conductors):
            ends = (hookup.a, conductor.a), (hookup.b, conductor.b)
            if (way.near_end.port_ref, way.near_end.pin) in ends:
                found.append((hookup.id, row, way.near_end, way.near, way.far, way.is_at_source))
    return found


def lay_cable(machine: Machine, wanted: NewCable) -> Machine:
    """The machine with a new cable between two devices, as long as the way between their places."""
    machine = with_cable_part(machine, wanted.part)
    route = route_between(Queries(machine), wanted.start, wanted.end)
    length_m = wanted.length_m
    if route is not None and not route.runs and length_m is None:
        length_m = IN_THE_BOX_M
    cable = Cable(
        id=wanted.id,
        part=wanted.part.id,
        length_m=length_m,
        runs=route.runs if route is not None else (),
    )
    return replace(machine, cables=(*machine.cables, cable))


def flexing_kind(known: tuple[CablePart, ...], count: int, core_mm2: float) -> CablePart | None:
    """The slimmest cable for moving runs with so many cores of at least a cross-section."""
    fitting = [
        part
        for part in known
        if part.flexing
        and not part.pairs
        and not part.ready_made
        and len(part.cores) >= count
        and part.core_mm2 >= core_mm2
    ]
    return min(fitting, key=lambda p: (len(p.cores), p.shield, p.core_mm2), default=None)


def cable_kind(known: tuple[CablePart, ...], cores: tuple[str, ...], core_mm2: float) -> CablePart:
    """A cable of some cores and cross-section: a kind that is known, else a new one."""
    for part in known:
        if part.cores == cores and part.core_mm2 == core_mm2 and not part.shield:
            return part
    names = " and ".join(colour_words(code) for code in cores)
    form = {1: "wire", 2: "pair"}.get(len(cores), "cable")
    stem = "-".join(code.lower() for code in cores)
    return CablePart(
        id=free_name(f"{form}-{stem}-{core_mm2:g}-", [part.id for part in known]),
        title=f"{names.capitalize()}, {core_mm2:g} mm2",
        cores=cores,
        core_mm2=core_mm2,
        form="loose wires",
    )
