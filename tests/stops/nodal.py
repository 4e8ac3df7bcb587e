"""An independent answer for the stops: voltages and currents of random circuits, solved as nodes of
resistors by Kirchhoff's laws, where the program follows potentials.
"""

import random
from typing import NamedTuple

import numpy as np

from vervain.model.machine import PinRef, PortRef
from vervain.stops.circuit import Circuit, ContactAt, FuseAt, InputAt, LoadAt, SourceAt
from vervain.stops.simulation import Conditions

EMF_V = 24.0
SOURCE_OHM, WIRE_OHM, LOAD_OHM, INPUT_OHM, NOWHERE_OHM = 0.05, 0.001, 200.0, 1e4, 1e7


class Rest(NamedTuple):
    on: frozenset[int]
    levels: tuple[str, ...]
    blown: frozenset[int]
    down: frozenset[int]


class Nodal:
    """Settles a circuit; None where it never rests, or something has half of its voltage."""

    def __init__(self, circuit: Circuit, conditions: Conditions) -> None:
        self.circuit, self.conditions = circuit, conditions
        self.blown: set[int] = set()
        self.down: set[int] = set()

    def _closed(self, contact: ContactAt, number: int, coils: frozenset[PortRef]) -> bool:
        given = self.conditions
        if number in given.welded:
            return True
        if contact.coil is not None:
            mates = [n for n, c in enumerate(self.circuit.contacts)
                     if c.coil == contact.coil and c.is_nc != contact.is_nc]  # fmt: skip
            return contact.is_nc != (contact.coil in coils or bool(given.welded & set(mates)))
        by_hand = given.started or not contact.is_start
        worked = by_hand if contact.is_by_hand else contact.device in given.pressed
        return contact.is_nc != worked

    def _voltages(self, coils: frozenset[PortRef]) -> np.ndarray:
        circuit, count = self.circuit, len(self.circuit.node_of)
        siemens, ampere = np.zeros((count, count)), np.zeros(count)

        def join(a: int, b: int, ohm: float, emf_v: float = 0.0) -> None:
            for one, other, sign in ((a, b, 1), (b, a, -1)):
                siemens[one, one] += 1 / ohm
                siemens[one, other] -= 1 / ohm
                ampere[one] += sign * emf_v / ohm

        wires = [w for key, w in circuit.wires.items() if key not in self.conditions.cut]
        fuses = [(f.a, f.b) for n, f in enumerate(circuit.fuses) if n not in self.blown]
        closed = [(c.a, c.b) for n, c in enumerate(circuit.contacts) if self._closed(c, n, coils)]
        for a, b in (*wires, *fuses, *closed, *self.conditions.joined):
            join(a, b, WIRE_OHM)
        for load in circuit.loads:
            join(load.plus, load.minus, LOAD_OHM)
        for number, source in enumerate(circuit.sources):
            if number not in self.down:
                join(source.plus, source.minus, SOURCE_OHM, EMF_V)
        for entry in circuit.inputs:
            if entry.against is not None:
                join(entry.node, entry.against, INPUT_OHM)
            elif entry.open_reads == "high":
                siemens[entry.node, entry.node] += 1 / INPUT_OHM
                ampere[entry.node] += EMF_V / INPUT_OHM
        for node in range(count):
            siemens[node, node] += 1 / NOWHERE_OHM
            ampere[node] += EMF_V / 2 / NOWHERE_OHM
        siemens[circuit.sources[0].minus, circuit.sources[0].minus] += 1e6
        return np.linalg.solve(siemens, ampere)

    def _look(self, coils: frozenset[PortRef]) -> np.ndarray:
        """The voltages once every fuse over its rating is blown, and shorted sources gave up."""
        while True:
            volts = self._voltages(coils)
            over = {
                n: abs(volts[f.a] - volts[f.b]) / WIRE_OHM / (f.rating_a or 1)
                for n, f in enumerate(self.circuit.fuses) if n not in self.blown
            }  # fmt: skip
            worst = max(over, key=over.__getitem__, default=None)
            low = [
                n for n, s in enumerate(self.circuit.sources)
                if n not in self.down and volts[s.plus] - volts[s.minus] < EMF_V / 2
            ]  # fmt: skip
            if worst is not None and over[worst] > 5:
                self.blown.add(worst)
            elif low:
                self.down.add(low[0])
            else:
                return volts

    def settle(self) -> Rest | None:
        coils: frozenset[PortRef] = frozenset()
        seen: list[tuple[object, ...]] = []
        while True:
            volts = self._look(coils)
            on = set()
            for number, load in enumerate(self.circuit.loads):
                across = volts[load.plus] - volts[load.minus]
                share = (abs(across) if load.polarity_free else across) / EMF_V
                if 0.07 < share < 0.93:
                    return None
                if share >= 0.93:
                    on.add(number)
            loads = self.circuit.loads
            coils = frozenset(loads[n].ref for n in on if loads[n].kind == "coil")
            state = coils, frozenset(self.blown), frozenset(self.down)
            if seen and state == seen[-1]:
                levels = tuple(_read(volts, entry) for entry in self.circuit.inputs)
                return Rest(frozenset(on), levels, *state[1:])
            if state in seen:
                return None
            seen.append(state)


def _read(volts: np.ndarray, entry: InputAt) -> str:
    if entry.against is not None:
        return "high" if volts[entry.node] - volts[entry.against] > 16 else "low"
    level = volts[entry.node]
    return "high" if level > 18 else "low" if level < 6 else entry.open_reads


def random_circuit(chance: random.Random) -> Circuit:
    """A source, up to three coils with contacts, stops, a start button, fuses, loads, an input."""
    count = chance.randint(5, 10)
    pins = [PinRef(device="D", port="P", pin=str(n)) for n in range(count)]
    made = Circuit(node_of={pin: n for n, pin in enumerate(pins)})
    made.sources = [SourceAt(0, 1, "G1", "OUT", None)]

    def node() -> int:
        return chance.randrange(count)

    def contact(device: str, coil: PortRef | None, is_nc: bool, start: int, by: str) -> None:
        at = (pins[0], pins[0])
        is_start = by == "hand"
        made.contacts.append(ContactAt(start, node(), device, at, is_nc, coil, by, is_start))

    def load(ref: PortRef, is_coil: bool) -> None:
        plus, minus = node(), chance.choice((1, node()))
        if plus != minus:
            kind = "coil" if is_coil else "feed"
            made.loads.append(LoadAt(plus, minus, ref, kind, is_coil))

    for number in range(chance.randint(0, 3)):
        coil = PortRef(device=f"Q{number}", port="COIL")
        load(coil, True)
        for _ in range(chance.randint(1, 2)):
            contact(coil.device, coil, chance.random() < 0.3, node(), "")
    for number in range(chance.randint(1, 3)):
        start = chance.choice((0, node()))
        contact(f"S{number}", None, chance.random() < 0.8, start, "stop")
    if chance.random() < 0.5:
        contact("S9", None, False, node(), "hand")
    for number in range(chance.randint(1, 2)):
        load(PortRef(device=f"T{number}", port="FEED"), False)
    if chance.random() < 0.6:
        made.fuses.append(FuseAt(chance.choice((0, node())), node(), "F1", 1.0))
    made.wires = {(f"W{n}", 0): (node(), node()) for n in range(chance.randint(2, 5))}
    against = chance.choice((None, 1, node()))
    reads = chance.choice(("open", "high"))
    entry = PinRef(device="K1", port="IN 1", pin="IN")
    made.inputs.append(InputAt(node(), against, entry, reads, False))
    return made


def random_conditions(chance: random.Random, circuit: Circuit) -> Conditions:
    """Stops pressed, wires cut, two nodes that touch, contacts that stay."""
    count = len(circuit.node_of)
    touches = chance.random() < 0.2
    pair = (chance.randrange(count), chance.randrange(count))
    return Conditions(
        pressed=frozenset(f"S{n}" for n in range(3) if chance.random() < 0.3),
        started=chance.random() < 0.5,
        cut=frozenset(wire for wire in circuit.wires if chance.random() < 0.15),
        joined=frozenset({pair} if touches else ()),
        welded=frozenset(n for n in range(len(circuit.contacts)) if chance.random() < 0.1),
    )
