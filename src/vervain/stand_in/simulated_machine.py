"""A machine that behaves as it is wired: its switches can be worked, its outputs switched, its axes
moved; inputs, counts and what a meter shows follow from the same networks as Stops and Supply.
"""

from dataclasses import replace
from functools import cached_property

from vervain.bench.step import BenchStep
from vervain.electrical.feeds import zero_pin_of
from vervain.electrical.levels import reading_of
from vervain.leads.direction import rotates_positive
from vervain.leads.motors import order_at_driver
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.motion.figures import count_figures, step_figures
from vervain.queries.machine_queries import Queries
from vervain.stand_in.network import MachineNetwork
from vervain.stops.circuit import Circuit
from vervain.stops.compiling import circuit_of
from vervain.stops.simulation import Conditions, Settled, Simulator
from vervain.supply.results import supply_loads

A_FUNCTIONS, B_FUNCTIONS = ("encoder A", "encoder A-"), ("encoder B", "encoder B-")


class SimulatedMachine:
    """The state of a machine: what is worked, which outputs are on, where the axes are. `touching`
    are pins that a fault joins; `design` is the machine by which the controller was set up, where
    it is another.
    """

    def __init__(
        self,
        machine: Machine,
        touching: tuple[tuple[PinRef, PinRef], ...] = (),
        design: Machine | None = None,
    ) -> None:
        self.queries = Queries(machine)
        self.touching = touching
        self.worked: frozenset[str] = frozenset()
        self.on: frozenset[PortRef] = frozenset()
        # Relays that are held, whatever their coil does.
        self.held: frozenset[PortRef] = frozenset()
        self.positions = dict.fromkeys(self.queries.axes(), 0.0)
        self._simulators: dict[frozenset[PortRef], Simulator] = {}
        self._settled: Settled | None = None
        planned = SimulatedMachine(design) if design is not None else self
        # What the controller was told of each axis, whatever its driver is set to.
        self.planned_steps = {
            axis: steps for axis in self.positions if (steps := planned.steps_per_unit(axis))
        }

    # What hands and the controller do.

    def work(self, device: str, is_worked: bool) -> None:
        """Presses a button, works a switch or a sensor, opens a door; or lets it go."""
        self.worked = self.worked | {device} if is_worked else self.worked - {device}
        self._settled = None

    def switch(self, port: PortRef, is_on: bool) -> None:
        """Switches an output of a controller."""
        self.on = self.on | {port} if is_on else self.on - {port}
        self._settled = None

    def switch_on(self, port: PortRef) -> None:
        """Switches a port on, whatever it is: an output, or a relay by what drives its coil."""
        found = self.queries.port(port)
        if found is not None and found.kind == "relay contact":
            self.held = self.held | {port}
            self._settled = None
        else:
            self.switch(port, True)

    def rest(
        self, worked: frozenset[str] = frozenset(), on: frozenset[PortRef] = frozenset()
    ) -> None:
        """Lets everything go, but for what is named."""
        self.worked, self.on, self.held = worked, on, frozenset()
        self._settled = None

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
        if axis is None or not axis.drives or not self.holds(axis.drives[0]):
            return 0
        turns = rotates_positive(self.queries, axis.drives[0])
        return 0 if turns is None else 1 if turns else -1

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

    # What is seen.

    @property
    def settled(self) -> Settled:
        """What the circuit came to rest at."""
        if self._settled is None:
            simulator, first = self._simulator, self.conditions()
            at_work = simulator.settle(Conditions(joined=self._joined(frozenset())))
            settled = simulator.settle(first, before=at_work)
            active = frozenset(self._active_outputs(settled))
            if active:
                joined = first.joined | active
                settled = simulator.settle(replace(first, joined=joined), before=settled)
            self._settled = settled
        return self._settled

    def conditions(self) -> Conditions:
        """What is done to the circuit now."""
        held = {
            (nodes[a], nodes[b])
            for port in self.held for a, b in self._contacts_of(port)
            for nodes in (self.circuit.node_of,) if a in nodes and b in nodes
        }  # fmt: skip
        return Conditions(pressed=self.worked, joined=self._joined(frozenset(held)))

    def _contacts_of(self, port: PortRef) -> list[tuple[PinRef, PinRef]]:
        """The contacts of a relay's port that close when it is switched."""
        part = self.queries.part_of(port.device)
        return [
            (PinRef(device=port.device, port=a[0], pin=a[1]),
             PinRef(device=port.device, port=b[0], pin=b[1]))
            for element in (part.inside if part else ())
            if isinstance(element, Contact) and element.rest == "NO"
            for a, b in (element.pins,) if a[0] == port.port
        ]  # fmt: skip

    def lit(self) -> dict[PortRef, bool]:
        """Whether the lamp of each input is lit: an NPN one when it is pulled down, a PNP one when
        it is at plus, another when its level is not that of an open line.
        """
        found: dict[PortRef, bool] = {}
        for entry, level in zip(self.circuit.inputs, self.settled.levels, strict=True):
            pin = self.queries.pin(entry.pin)
            read = pin.electrical if pin is not None else None
            if isinstance(read, LogicInput):
                reading = reading_of(self.queries, entry.pin, read)
                lit_at = {"NPN": ("low",), "PNP": ("high",)}.get(reading, ("low", "high"))
                is_lit = level in lit_at and level != entry.open_reads
                found.setdefault(entry.pin.port_ref, is_lit)
        return found

    def powered(self) -> frozenset[str]:
        """The devices that have power at any of their feeds, or at their load."""
        return frozenset(self.circuit.loads[number].ref.device for number in self.settled.on)

    def is_fed(self, device: str) -> bool:
        """Whether a device has power at the feed that it drives with; one that takes none has."""
        mine = [n for n, load in enumerate(self.circuit.loads) if load.ref.device == device]
        return not mine or any(n in self.settled.on for n in mine)

    def counts(self) -> dict[PortRef, int]:
        """What each counter shows."""
        found = {}
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

    def volts(self, red: PinRef, black: PinRef) -> float:
        """What a meter shows in V."""
        return self._network.volts(red, black)

    def ohms(self, a: PinRef, b: PinRef, loads: bool = False) -> float:
        """What a meter shows in ohms with the power off; infinite where nothing conducts."""
        return self._network.ohms(a, b, loads)

    def amps(self, source: PinRef) -> float:
        """What a source gives with everything at rest, in A."""
        loads = supply_loads(self.queries, "idle")
        return sum(load.current_a for load in loads if load.pin == source)

    # How.

    @cached_property
    def circuit(self) -> Circuit:
        """The circuit of the machine."""
        return circuit_of(self.queries)

    @property
    def _simulator(self) -> Simulator:
        found = self._simulators.get(self.on)
        if found is None:
            outputs = [output for output in self.circuit.outputs if output.ref in self.on]
            found = Simulator(replace(self.circuit, outputs=outputs))
            self._simulators[self.on] = found
        return found

    @property
    def _network(self) -> MachineNetwork:
        settled, circuit = self.settled, self.circuit
        closed = self._simulator.closed_contacts(self.conditions(), settled)
        idle = self._idle_contacts()
        return MachineNetwork(
            self.queries,
            frozenset(circuit.contacts[number].pins for number in closed) | idle,
            frozenset(circuit.sources[number].device for number in settled.sources_on),
            frozenset(circuit.fuses[number].device for number in settled.blown),
            self.touching,
        )

    def _idle_contacts(self) -> frozenset[tuple[PinRef, PinRef]]:
        """Contacts that are in no circuit, as they are at rest or worked."""
        known = {contact.pins for contact in self.circuit.contacts}
        found = set()
        for device in self.queries.devices():
            part = self.queries.part_of(device)
            for element in part.inside if part else ():
                if isinstance(element, Contact):
                    pins = tuple(PinRef(device=device, port=p, pin=q) for p, q in element.pins)
                    is_closed = (element.rest == "NC") != (device in self.worked)
                    if (pins[0], pins[1]) not in known and is_closed:
                        found.add((pins[0], pins[1]))
        return frozenset(found)

    def _joined(self, more: frozenset[tuple[int, int]]) -> frozenset[tuple[int, int]]:
        nodes = self.circuit.node_of
        return more | {(nodes[a], nodes[b]) for a, b in self.touching if a in nodes and b in nodes}

    def _active_outputs(self, settled: Settled) -> list[tuple[int, int]]:
        """The outputs of sensors that are worked and fed, as the nodes that they join."""
        fed = {self.circuit.loads[number].ref.device for number in settled.on}
        nodes = self.circuit.node_of
        found = []
        for device in self.worked & fed:
            part = self.queries.part_of(device)
            for port in part.ports if part and part.kind == "sensor" else ():
                for pin in port.pins:
                    at = PinRef(device=device, port=port.id, pin=pin.id)
                    if isinstance(pin.electrical, LogicOutput):
                        rail = self._rail(at, pin.electrical)
                        if at in nodes and rail in nodes:
                            found.append((nodes[at], nodes[rail]))
        return found

    def _rail(self, at: PinRef, output: LogicOutput) -> PinRef | None:
        """What an output joins its pin to while it is on."""
        if output.drive == "NPN":
            return zero_pin_of(self.queries, at, output.reference)
        port = self.queries.port(at.port_ref)
        plus = next((p for p in (port.pins if port else ()) if p.function == "plus"), None)
        return PinRef(device=at.device, port=at.port, pin=plus.id) if plus is not None else None

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
        waiting = [
            PinRef(device=encoder, port=port.id, pin=pin.id)
            for port in (part.ports if part else ()) for pin in port.pins
            if pin.function == wanted[0]
        ]  # fmt: skip
        found, seen = set(), {encoder}
        while waiting:
            for ref in self.queries.net(waiting.pop()):
                pin = self.queries.pin(ref)
                function = pin.function if pin is not None else ""
                if not function.startswith("encoder ") or ref.device == encoder:
                    continue
                if ref.device == counter:
                    found.add(function.removeprefix("encoder ").rstrip("-"))
                elif ref.device not in seen:
                    seen.add(ref.device)
                    waiting += self._same_function(ref, function)
        return found

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
        return [machine.volts(a, b) for a, b in step.probes]
    if unit == "A":
        return [machine.amps(step.probes[0][0])] if step.probes else []
    return [machine.ohms(a, b, loads=step.kind == "short") for a, b in step.probes]
