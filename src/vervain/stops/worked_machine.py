"""A machine whose switches are worked and whose outputs are switched: what the lamps of its inputs
show then, and what has power, by the circuit of its stops.
"""

from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property

from vervain.electrical.feeds import zero_pin_of
from vervain.electrical.levels import reading_of
from vervain.electrical.pull_up import pull_up_at
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.queries.machine_queries import Queries
from vervain.stops.circuit import Circuit, ContactAt
from vervain.stops.compiling import circuit_of
from vervain.stops.contacts import input_from
from vervain.stops.simulation import Conditions, Settled, Simulator


class WorkedMachine:
    """The state of a machine: what is worked, which outputs are on, which relays are held.
    `touching` are pins that a fault joins.
    """

    def __init__(self, queries: Queries, touching: tuple[tuple[PinRef, PinRef], ...] = ()) -> None:
        self.queries, self.touching = queries, touching
        self.worked: frozenset[str] = frozenset()
        self.on: frozenset[PortRef] = frozenset()
        # What selectors are turned to, by the pins that they join.
        self.positions_of: dict[str, tuple[PinRef, PinRef]] = {}
        # Relays that are held, whatever their coil does.
        self.held: frozenset[PortRef] = frozenset()
        # By the outputs that are on.
        self._simulators: dict[frozenset[PortRef], Simulator] = {}
        self._rests: dict[frozenset[PortRef], tuple[Settled, Conditions]] = {}

    @cached_property
    def circuit(self) -> Circuit:
        """The circuit of the machine."""
        return circuit_of(self.queries)

    def work(
        self, device: str, is_worked: bool, position: tuple[PinRef, PinRef] | None = None
    ) -> None:
        """Presses a button, works a switch or a sensor, opens a door; or lets it go. Of a selector
        one `position` is chosen, by the pins that it joins.
        """
        if position is not None:
            self.positions_of[device] = position
        self.worked = self.worked | {device} if is_worked else self.worked - {device}
        self._changed()

    def switch(self, port: PortRef, is_on: bool) -> None:
        """Switches an output of a controller."""
        self.on = self.on | {port} if is_on else self.on - {port}
        self._changed()

    def switch_on(self, port: PortRef) -> None:
        """Switches a port on, whatever it is: an output, or a relay by what drives its coil."""
        found = self.queries.port(port)
        if found is not None and found.kind == "relay contact":
            self.held = self.held | {port}
            self._changed()
        else:
            self.switch(port, True)

    def rest(
        self, worked: frozenset[str] = frozenset(), on: frozenset[PortRef] = frozenset()
    ) -> None:
        """Lets everything go, but for what is named."""
        if (self.worked, self.on, self.held) != (worked, on, frozenset()):
            self.worked, self.on, self.held = worked, on, frozenset()
            self._changed()

    @property
    def settled(self) -> Settled:
        """What the circuit came to rest at."""
        return self._state[0]

    @cached_property
    def _state(self) -> tuple[Settled, Conditions]:
        """What the circuit came to rest at, and under which conditions."""
        simulator = self._simulator
        rest, let_go = self._rest
        if not self.worked and not self.held:
            return rest, let_go
        starts = {c.device for c in self.circuit.contacts if c.is_start}
        now = replace(
            let_go,
            pressed=self._pressed(),
            joined=self._joined() | self._held(),
            started=let_go.started or bool(starts & self.worked),
        )
        settled = simulator.settle(now, before=rest)
        active = frozenset(self._active_outputs(settled))
        if active:
            now = replace(now, joined=now.joined | active)
            settled = simulator.settle(now, before=settled)
        return settled, now

    @property
    def _rest(self) -> tuple[Settled, Conditions]:
        """The machine at work with nothing touched, and the conditions then."""
        if self.on not in self._rests:
            conditions = Conditions(joined=self._joined(), lost_sources=self._without_mains)
            self._rests[self.on] = at_work(self._simulator, conditions)
        return self._rests[self.on]

    @cached_property
    def _without_mains(self) -> frozenset[int]:
        """The sources whose mains lead hangs loose. The circuit counts them as on, for a machine
        that is planned without mains yet; where others are plugged, they are off.
        """
        loose, plugged = set(), False
        for device in self.queries.devices():
            part = self.queries.part_of(device)
            lines = [
                PinRef(device=device, port=port.id, pin=pin.id)
                for port in (part.ports if part else ()) if port.end == "device"
                for pin in port.pins if pin.function == "line"
            ]  # fmt: skip
            if lines and not any(self.queries.steps(line) for line in lines):
                loose.add(device)
            plugged = plugged or bool(lines and device not in loose)
        sources = enumerate(self.circuit.sources)
        return frozenset(n for n, source in sources if plugged and source.device in loose)

    def _changed(self) -> None:
        self.__dict__.pop("_state", None)
        self.__dict__.pop("_network", None)

    def _pressed(self) -> frozenset[str]:
        """What is pressed, and which contacts of it where a hand chooses among them."""
        chosen = {
            _finger(contact.device, contact.pins)
            for contact in self._by_finger
            if contact.device in self.worked
            and self.positions_of.get(contact.device, contact.pins) == contact.pins
        }
        return self.worked | chosen

    @cached_property
    def _by_finger(self) -> tuple[ContactAt, ...]:
        """Contacts that a hand closes and an input reads: open until they are worked. Others that a
        hand closes, as a mains switch, are closed while the machine is at work.
        """
        return tuple(
            contact for contact in self.circuit.contacts
            if contact.is_by_hand and not contact.is_start
            and input_from(self.queries, list(contact.pins)) is not None
        )  # fmt: skip

    def _held(self) -> frozenset[tuple[int, int]]:
        nodes = self.circuit.node_of
        return frozenset(
            (nodes[a], nodes[b])
            for port in self.held for a, b in self._contacts_of(port)
            if a in nodes and b in nodes
        )  # fmt: skip

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
        levels = self.settled.levels
        for number, port, lit_at in self._lamps:
            # Of two channels in one port both are lit.
            found[port] = found.get(port, True) and levels[number] in lit_at
        return found

    @cached_property
    def _lamps(self) -> tuple[tuple[int, PortRef, frozenset[str]], ...]:
        """The inputs that something is joined to: their place in the circuit, their port, and the
        levels at which they are lit.
        """
        found = []
        for number, entry in enumerate(self.circuit.inputs):
            pin = self.queries.pin(entry.pin)
            read = pin.electrical if pin is not None else None
            # A lamp stays dark where its only wire is off; of several inputs of one plug that are
            # no channels of a stop only those count that have one.
            several = sum(e.pin.port_ref == entry.pin.port_ref for e in self.circuit.inputs) > 1
            is_joined = self._is_joined(entry.pin.port_ref) and (
                entry.is_stop or not several or bool(self.queries.steps(entry.pin))
            )
            if not isinstance(read, LogicInput) or not is_joined:
                continue
            reading = reading_of(self.queries, entry.pin, read)
            lit_at = {"NPN": {"low"}, "PNP": {"high"}}.get(reading, {"low", "high"})
            if entry.against is not None:
                # Through an isolated input current flows, or it does not.
                lit_at = {"high"}
            levels = frozenset(lit_at - {entry.open_reads})
            if entry.is_closed_by_zero:
                # The circuit tells of a stop input whether it is closed: "high".
                levels = frozenset({"high"})
            found.append((number, entry.pin.port_ref, levels))
        return tuple(found)

    def _is_joined(self, ref: PortRef) -> bool:
        port = self.queries.port(ref)
        return any(
            self.queries.steps(PinRef(device=ref.device, port=ref.port, pin=pin.id))
            for pin in (port.pins if port else ())
        )

    def powered(self) -> frozenset[str]:
        """The devices that have power at any of their feeds, or at their load."""
        return self.devices_of(self.settled.on)

    def devices_of(self, loads: Iterable[int]) -> frozenset[str]:
        """The devices that some loads of the circuit belong to."""
        return frozenset(self.circuit.loads[number].ref.device for number in loads)

    def is_fed(self, device: str) -> bool:
        """Whether a device has power at the feed that it drives with; one that takes none has."""
        mine = [n for n, load in enumerate(self.circuit.loads) if load.ref.device == device]
        return not mine or any(n in self.settled.on for n in mine)

    @property
    def _simulator(self) -> Simulator:
        found = self._simulators.get(self.on)
        if found is None:
            circuit = self._circuit_now()
            contacts = [
                c._replace(device=_finger(c.device, c.pins), worked_by="finger")
                if c in self._by_finger else _as_it_rests(c)
                for c in circuit.contacts
            ]  # fmt: skip
            found = Simulator(replace(circuit, contacts=contacts))
            self._simulators[self.on] = found
        return found

    def _circuit_now(self) -> Circuit:
        """The circuit with the outputs that are on. A stop input that nothing is joined to holds
        nothing: its controller was told to do without.
        """
        inputs = [
            entry._replace(is_stop=entry.is_stop and self._is_joined(entry.pin.port_ref))
            for entry in self.circuit.inputs
        ]
        outputs = [output for output in self.circuit.outputs if output.ref in self.on]
        return replace(self.circuit, inputs=inputs, outputs=outputs)

    def closed_contacts(self) -> frozenset[tuple[PinRef, PinRef]]:
        """The contacts of the circuit that are closed now, by their pins."""
        settled, conditions = self._state
        closed = self._simulator.closed_contacts(conditions, settled)
        return frozenset(self.circuit.contacts[number].pins for number in closed)

    def _joined(self) -> frozenset[tuple[int, int]]:
        nodes = self.circuit.node_of
        return frozenset(
            (nodes[a], nodes[b]) for a, b in self.touching if a in nodes and b in nodes
        )

    def _active_outputs(self, settled: Settled) -> list[tuple[int, int]]:
        """The outputs of sensors that are worked and fed, as the nodes that they join; what a light
        curtain holds is a contact.
        """
        fed = {self.circuit.loads[number].ref.device for number in settled.on}
        nodes = self.circuit.node_of
        found = []
        for device in self.worked & fed:
            part = self.queries.part_of(device)
            for port in part.ports if part and part.kind == "sensor" else ():
                for pin in port.pins if port.kind != "stop contacts" else ():
                    at = PinRef(device=device, port=port.id, pin=pin.id)
                    if isinstance(pin.electrical, LogicOutput):
                        rail = self._rail(at, pin.electrical)
                        if at in nodes and rail in nodes:
                            found.append((nodes[at], nodes[rail]))
        return found

    def _rail(self, at: PinRef, output: LogicOutput) -> PinRef | None:
        """What an output joins its pin to while it is on; one that drives both ways moves its line
        away from where a pull-up holds it.
        """
        rests_high = output.drive == "push-pull" and pull_up_at(self.queries, at) is not None
        if output.drive == "NPN" or rests_high:
            return zero_pin_of(self.queries, at, output.reference)
        port = self.queries.port(at.port_ref)
        plus = next((p for p in (port.pins if port else ()) if p.function == "plus"), None)
        return PinRef(device=at.device, port=at.port, pin=plus.id) if plus is not None else None


def _as_it_rests(contact: ContactAt) -> ContactAt:
    """A contact that a controller works, as it is until the controller is told: the circuit takes
    the worst case, that it stays worked.
    """
    is_told = contact.worked_by == "program"
    return contact._replace(is_nc=not contact.is_nc) if is_told else contact


def _finger(device: str, pins: tuple[PinRef, PinRef]) -> str:
    """What is pressed where a hand closes one contact of several."""
    return f"{device} {pins[0].port} {pins[0].pin} {pins[1].port} {pins[1].pin}"


def at_work(simulator: Simulator, conditions: Conditions) -> tuple[Settled, Conditions]:
    """Where a machine comes to rest with its start buttons pressed once, and let go where it runs
    on; and the conditions then.
    """
    started = simulator.settle(conditions)
    let_go = replace(conditions, started=False)
    after = simulator.settle(let_go, before=started)
    return (after, let_go) if after.on >= started.on else (started, conditions)
