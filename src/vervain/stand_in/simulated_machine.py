"""A machine that behaves as it is wired: its switches can be worked, its outputs switched, its axes
moved; inputs, counts and what a meter shows follow from the same networks as Stops and Supply.
"""

from functools import cached_property

from vervain.bench.step import BenchStep
from vervain.leads.direction import rotates_positive
from vervain.leads.motors import order_at_driver
from vervain.model.elements import Contact
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.motion.figures import count_figures, step_figures, wheel_figures
from vervain.queries.connectivity import paths_from
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import reached
from vervain.stand_in.network import MachineNetwork
from vervain.stops.worked_machine import WorkedMachine
from vervain.supply.results import supply_loads

A_FUNCTIONS, B_FUNCTIONS = ("encoder A", "encoder A-"), ("encoder B", "encoder B-")


class SimulatedMachine(WorkedMachine):
    """A worked machine with axes that are somewhere, and a meter at its pins. `design` is the
    machine by which the controller was set up, where it is another.
    """

    def __init__(
        self,
        machine: Machine,
        touching: tuple[tuple[PinRef, PinRef], ...] = (),
        design: Machine | None = None,
    ) -> None:
        super().__init__(Queries(machine), touching)
        self.positions = dict.fromkeys(self.queries.axes(), 0.0)
        # How far hand wheels were turned, in turns to the right.
        self.turns: dict[str, float] = {}
        self._dead: dict[frozenset[str], MachineNetwork] = {}
        planned = SimulatedMachine(design) if design is not None else self
        # What the controller was told of each axis, whatever its driver is set to.
        self.planned_steps = {
            axis: steps for axis in self.positions if (steps := planned.steps_per_unit(axis))
        }

    def turn_wheel(self, wheel: str, turns: float) -> None:
        """Turns a hand wheel, to the right where the turns are positive."""
        self.turns[wheel] = self.turns.get(wheel, 0.0) + turns

    def send(self, axis_id: str, distance: float) -> float:
        """Sends an axis a way in its unit, in steps of the `design`; gives how far it goes: by the
        microsteps that its driver is set to, in the way of its leads.
        """
        own = self.steps_per_unit(axis_id)
        planned = self.planned_steps.get(axis_id)
        ratio = planned / own if planned and own else 1.0
        moved = distance * ratio * self.way_of(axis_id)
        self.positions[axis_id] = self.positions.get(axis_id, 0.0) + moved
        return moved

    def way_of(self, axis_id: str) -> int:
        """1 where the motor of an axis turns as it is sent, -1 the other way, 0 not at all."""
        axis = self.queries.axis(axis_id)
        if axis is None or not axis.drives:
            return 0
        motor = axis.drives[0]
        part = self.queries.part_of(motor)
        if part is None or part.stepper is None:
            return self._way_of_brushed(motor)
        turns = rotates_positive(self.queries, motor) if self.holds(motor) else None
        return 0 if turns is None else 1 if turns else -1

    def _way_of_brushed(self, motor: str) -> int:
        """By which of its leads comes to the bridge's plus; one that no bridge turns just runs."""
        part, found = self.queries.part_of(motor), set()
        for port in part.ports if part else ():
            for pin in port.pins:
                ref = PinRef(device=motor, port=port.id, pin=pin.id)
                for path in paths_from(self.queries, ref):
                    end = self.queries.pin(path.end)
                    if end is not None and end.function in ("motor+", "motor-"):
                        found.add((pin.function, end.function))
        if any(ours != theirs for ours, theirs in found if ours.startswith("motor")):
            return -1
        wired = {ours for ours, _ in found}
        return 0 if found and len(wired) < 2 else 1

    def holds(self, motor: str) -> bool:
        """Whether a motor holds: each coil of it lies between two terminals of one driver that has
        power, and no lead hangs free.
        """
        at = order_at_driver(self.queries, motor)
        if at is None:
            return False
        part = self.queries.part_of(motor)
        if (
            part is not None
            and part.stepper is not None
            and rotates_positive(self.queries, motor) is None
        ):
            return False
        return self.is_fed(at[0].device)

    def steps_per_unit(self, axis_id: str) -> float | None:
        """Steps that its driver takes for a unit of an axis."""
        axis = self.queries.axis(axis_id)
        found = (
            step_figures(self.queries, axis_id, axis.drives[0]) if axis and axis.drives else None
        )
        return found.steps_per_unit if found is not None else None

    def counts(self) -> dict[PortRef, int]:
        """What each counter shows."""
        found = {}
        for device in self.queries.devices():
            wheel = wheel_figures(self.queries, device)
            if wheel is not None:
                sign = self._sign(device, wheel.counted_by.device) if self.is_fed(device) else 0
                turned = self.turns.get(device, 0.0) * wheel.counts_per_turn
                found[wheel.counted_by] = round(sign * turned)
        for axis_id in self.queries.axes():
            figures = count_figures(self.queries, axis_id)
            if figures is None or figures.counted_by is None or not figures.counts_per_unit:
                continue
            sign = self._sign(figures.encoder, figures.counted_by.device)
            if not self.is_fed(figures.encoder):
                sign = 0
            at = self.positions.get(axis_id, 0.0) * figures.counts_per_unit
            found[figures.counted_by] = round(sign * at)
        return found

    def volts(self, red: PinRef, black: PinRef, plugged: bool = True) -> float:
        """What a meter shows in V; with nothing plugged where that is said."""
        return self._network.volts(red, black, plugged)

    def ohms(self, a: PinRef, b: PinRef) -> float:
        """What a meter shows in ohms with the power off; infinite where nothing conducts."""
        return self._dead_network().ohms(a, b)

    def amps(self, source: PinRef) -> float:
        """What a source gives with everything at rest, in A."""
        loads = supply_loads(self.queries, "idle")
        return sum(load.current_a for load in loads if load.pin == source)

    @cached_property
    def _network(self) -> MachineNetwork:
        """The network under power, with contacts as the circuit has them."""
        settled, circuit = self.settled, self.circuit
        return MachineNetwork(
            self.queries,
            self.closed_contacts(),
            frozenset(circuit.sources[number].device for number in settled.sources_on),
            frozenset(circuit.fuses[number].device for number in settled.blown),
            self.touching,
        )

    def _dead_network(self) -> MachineNetwork:
        """The network without power, of what is worked now."""
        if self.worked not in self._dead:
            self._dead = {self.worked: self._made_dead()}
        return self._dead[self.worked]

    def _made_dead(self) -> MachineNetwork:
        """Contacts as their springs have them, or a hand."""
        coils = {(c.device, c.pins) for c in self.circuit.contacts if c.coil is not None}
        closed = set()
        for device in self.queries.devices():
            part = self.queries.part_of(device)
            for element in part.inside if part else ():
                if isinstance(element, Contact):
                    a, b = (PinRef(device=device, port=p, pin=q) for p, q in element.pins)
                    is_worked = device in self.worked and (device, (a, b)) not in coils
                    if (element.rest == "NC") != is_worked:
                        closed.add((a, b))
        return MachineNetwork(self.queries, frozenset(closed), frozenset(), touching=self.touching)

    def _sign(self, encoder: str, counter: str) -> int:
        """1 where A of an encoder comes to A of what counts it, -1 where it comes to B, 0 where one
        of the two does not come at all.
        """
        ends = [self._comes_to(encoder, wanted, counter) for wanted in (A_FUNCTIONS, B_FUNCTIONS)]
        if ends == [{"A"}, {"B"}]:
            return 1
        return -1 if ends == [{"B"}, {"A"}] else 0

    def _comes_to(self, encoder: str, wanted: tuple[str, ...], counter: str) -> set[str]:
        """At which channels of a counter those of an encoder end, through converters."""
        part = self.queries.part_of(encoder)
        starts = [
            PinRef(device=encoder, port=port.id, pin=pin.id)
            for port in (part.ports if part else ()) for pin in port.pins
            if pin.function == wanted[0]
        ]  # fmt: skip

        def channel(ref: PinRef) -> str:
            pin = self.queries.pin(ref)
            is_channel = pin is not None and pin.function.startswith("encoder ")
            return pin.function if pin is not None and is_channel else ""

        def onwards(ref: PinRef) -> list[PinRef]:
            if ref.device == counter:
                return []
            joined = [other for other in self.queries.net(ref) if channel(other)]
            through = self._same_function(ref, channel(ref)) if ref.device != encoder else []
            return joined + through

        ends = (ref for ref in reached(starts, onwards) if ref.device == counter)
        return {channel(ref).removeprefix("encoder ").rstrip("-") for ref in ends}

    def _same_function(self, ref: PinRef, function: str) -> list[PinRef]:
        """The pins of the other ports of a converter that carry the same channel."""
        part = self.queries.part_of(ref.device)
        return [
            PinRef(device=ref.device, port=port.id, pin=pin.id)
            for port in (part.ports if part else ()) if port.id != ref.port
            for pin in port.pins if pin.function == function
        ]  # fmt: skip


def probe(machine: SimulatedMachine, step: BenchStep) -> list[float]:
    """What the meter shows at every place where a step puts it, in the unit of its window."""
    unit = step.window.unit if step.window is not None else "Ω"
    if unit == "V":
        return [machine.volts(a, b, step.kind != "volts") for a, b in step.probes]
    if unit == "A":
        return [machine.amps(step.probes[0][0])] if step.probes else []
    return [machine.ohms(a, b) for a, b in step.probes]
