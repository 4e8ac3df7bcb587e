"""What a circuit settles to: which coils hold, what inputs read, what has power; with faults."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal, NamedTuple

from vervain.model.machine import PortRef
from vervain.queries.walk import path_to, reached
from vervain.stops.circuit import Circuit, Wire

MOST_ROUNDS = 24
Level = Literal["high", "low", "open"]


@dataclass(frozen=True)
class Conditions:
    """What is done to a circuit: buttons pressed, wires cut, nodes joined, contacts that stay as
    they are, jumpers out, sources and controllers lost.
    """

    pressed: frozenset[str] = frozenset()
    started: bool = True
    cut: frozenset[Wire] = frozenset()
    joined: frozenset[tuple[int, int]] = frozenset()
    welded: frozenset[int] = frozenset()
    without_jumpers: frozenset[str] = frozenset()
    lost_sources: frozenset[int] = frozenset()
    off: frozenset[str] = frozenset()


class Settled(NamedTuple):
    """What a circuit settles to. `levels` are those of the inputs, `on` the loads with power;
    `races` that it never comes to rest, or to another state in another order.
    """

    levels: tuple[Level, ...]
    on: frozenset[int]
    coils: frozenset[PortRef]
    blown: frozenset[int]
    down: frozenset[int]
    sources_on: frozenset[int]
    outputs_on: bool
    races: bool


@dataclass
class _State:
    coils: frozenset[PortRef]
    blown: set[int] = field(default_factory=set)
    down: set[int] = field(default_factory=set)
    outputs_on: bool = True
    sources_on: frozenset[int] = frozenset()


class Simulator:
    """Settles one circuit under many conditions. What no condition touches is joined once."""

    def __init__(self, circuit: Circuit, touched: frozenset[Wire] | None = None) -> None:
        self.circuit = circuit
        count = len(circuit.node_of)
        parent = list(range(count))
        for a, b in circuit.joints:
            _join(parent, a, b)
        wires = circuit.wires
        self.wires = wires if touched is None else {k: wires[k] for k in wires if k in touched}
        for key, (a, b) in wires.items():
            if key not in self.wires:
                _join(parent, a, b)
        self.parent = [_root(parent, n) for n in range(count)]

    def settle(self, conditions: Conditions, coils: frozenset[PortRef] = frozenset()) -> Settled:
        """Where it comes to rest from a state of its coils."""
        state = _State(coils=coils, sources_on=self._always_on(conditions))
        seen: list[tuple[object, ...]] = []
        races = False
        result = None
        for _ in range(MOST_ROUNDS):
            before = (state.coils, frozenset(state.blown), frozenset(state.down),
                      state.outputs_on, state.sources_on)  # fmt: skip
            if before in seen:
                races = seen[-1] != before
                break
            seen.append(before)
            result = self._look(conditions, state)
            state.coils = result.coils
            state.outputs_on = self._outputs_on(conditions, result)
            state.sources_on = self._always_on(conditions) | {
                number
                for number, source in enumerate(self.circuit.sources)
                if source.feed is not None and source.feed in result.on
                and number not in conditions.lost_sources and number not in state.down
            }  # fmt: skip
        assert result is not None
        return result._replace(races=races)

    def nodes_at_plus(self, conditions: Conditions, settled: Settled) -> frozenset[int]:
        """The nodes that are at the plus of a source once the circuit came to rest."""
        state = _State(
            coils=settled.coils, blown=set(settled.blown), down=set(settled.down),
            outputs_on=settled.outputs_on, sources_on=settled.sources_on,
        )  # fmt: skip
        parent = list(self.parent)
        for a, b, _ in self._edges(conditions, state):
            _join(parent, a, b)
        live = {
            _root(parent, self.circuit.sources[number].plus)
            for number in state.sources_on - state.down
        }
        return frozenset(n for n in range(len(parent)) if _root(parent, n) in live)

    def closed_contacts(self, conditions: Conditions, settled: Settled) -> frozenset[int]:
        """The contacts that are closed once the circuit came to rest."""
        closed = self._closed(conditions, _State(coils=settled.coils))
        return frozenset(number for number, is_closed in enumerate(closed) if is_closed)

    def _always_on(self, conditions: Conditions) -> frozenset[int]:
        return frozenset(
            number
            for number, source in enumerate(self.circuit.sources)
            if source.feed is None and number not in conditions.lost_sources
        )

    def _outputs_on(self, conditions: Conditions, result: Settled) -> bool:
        """Whether controllers still switch: none of the stop inputs is open."""
        return not any(
            entry.is_stop and level != "high"
            for entry, level in zip(self.circuit.inputs, result.levels, strict=True)
        )

    def _closed(self, conditions: Conditions, state: _State) -> list[bool]:
        """Which contacts are closed now."""
        found = []
        for number, contact in enumerate(self.circuit.contacts):
            if number in conditions.welded:
                # What welds is what is closed at work.
                found.append(not contact.is_nc if contact.coil is not None else contact.is_nc)
                continue
            if contact.coil is not None:
                welded_mate = any(
                    self.circuit.contacts[n].coil == contact.coil
                    and self.circuit.contacts[n].is_nc != contact.is_nc
                    for n in conditions.welded
                )
                # Mirror contacts (IEC 60947-4-1, annex F): welded open, the other kind stays open.
                worked = contact.coil in state.coils or welded_mate
            elif contact.by_hand == "hand" and not contact.is_nc:
                worked = conditions.started
            else:
                worked = contact.device in conditions.pressed
            found.append(contact.is_nc != worked)
        return found

    def _edges(self, conditions: Conditions, state: _State) -> list[tuple[int, int, int]]:
        """What conducts now, as (node, node, fuse), -1 for no fuse."""
        circuit, parent = self.circuit, self.parent
        edges = [
            (parent[a], parent[b], -1)
            for key, (a, b) in self.wires.items()
            if key not in conditions.cut
        ]
        edges += [(parent[a], parent[b], -1) for a, b in conditions.joined]
        edges += [
            (parent[a], parent[b], -1)
            for a, b, name in circuit.jumpers
            if name not in conditions.without_jumpers
        ]
        closed = self._closed(conditions, state)
        edges += [
            (parent[c.a], parent[c.b], -1)
            for c, is_closed in zip(circuit.contacts, closed, strict=True)
            if is_closed
        ]
        edges += [
            (parent[f.a], parent[f.b], number)
            for number, f in enumerate(circuit.fuses)
            if number not in state.blown
        ]
        if state.outputs_on:
            edges += [
                (parent[o.node], parent[o.rail], -1)
                for o in circuit.outputs
                if o.ref.device not in conditions.off
            ]
        return edges

    def _look(self, conditions: Conditions, state: _State) -> Settled:
        """What is where with the contacts as they are; fuses blow until no source is shorted."""
        circuit = self.circuit
        while True:
            edges = self._edges(conditions, state)
            parent = list(self.parent)
            for a, b, _ in edges:
                _join(parent, a, b)
            shorted = self._shorted(parent, state)
            if shorted is None:
                break
            self._clear(shorted, edges, state)
        plus: dict[int, set[int]] = {}
        minus: dict[int, set[int]] = {}
        for number in state.sources_on:
            if number in state.down:
                continue
            source = circuit.sources[number]
            plus.setdefault(_root(parent, source.plus), set()).add(number)
            minus.setdefault(_root(parent, source.minus), set()).add(number)
        self._diodes(parent, plus)
        none: set[int] = set()

        def feeds(a: int, b: int) -> bool:
            here, there = _root(parent, a), _root(parent, b)
            return not plus.get(here, none).isdisjoint(minus.get(there, none))

        on = frozenset(
            number
            for number, load in enumerate(circuit.loads)
            if feeds(load.plus, load.minus) or (load.polarity_free and feeds(load.minus, load.plus))
        )
        levels = self._levels(parent, frozenset(plus))
        coils = frozenset(circuit.loads[n].ref for n in on if circuit.loads[n].kind == "coil")
        return Settled(
            levels=levels, on=on, coils=coils, blown=frozenset(state.blown),
            down=frozenset(state.down), sources_on=state.sources_on,
            outputs_on=state.outputs_on, races=False,
        )  # fmt: skip

    def _levels(self, parent: list[int], plus: frozenset[int]) -> tuple[Level, ...]:
        """What the inputs read. An input takes so little current that a coil or another load in
        its line is to it a wire: behind a coil whose 0 V is cut it sees plus.
        """
        circuit = self.circuit
        minus = frozenset(_root(parent, source.minus) for source in circuit.sources)
        beside: dict[int, set[int]] = {}
        for load in circuit.loads:
            a, b = _root(parent, load.plus), _root(parent, load.minus)
            beside.setdefault(a, set()).add(b)
            beside.setdefault(b, set()).add(a)

        def onwards(root: int) -> Iterable[int]:
            return () if root in plus or root in minus else beside.get(root, ())

        def level_at(node: int) -> Level:
            roots = reached([_root(parent, node)], onwards).keys()
            sees_plus = not plus.isdisjoint(roots)
            if sees_plus == (not minus.isdisjoint(roots)):
                # Between plus and minus it lies somewhere between: no level to rely on.
                return "open"
            return "high" if sees_plus else "low"

        levels: list[Level] = []
        for entry in circuit.inputs:
            here = level_at(entry.node)
            if entry.against is not None:
                is_on = here == "high" and level_at(entry.against) == "low"
                levels.append("high" if is_on else "low")
            else:
                levels.append(entry.open_reads if here == "open" else here)
        return tuple(levels)

    def _diodes(self, parent: list[int], plus: dict[int, set[int]]) -> None:
        """Plus goes through a diode from its anode; so often that chains of them are passed."""
        for _ in self.circuit.diodes:
            for a, b in self.circuit.diodes:
                there = plus.get(_root(parent, a))
                if there:
                    plus.setdefault(_root(parent, b), set()).update(there)

    def _shorted(self, parent: list[int], state: _State) -> int | None:
        for number in state.sources_on:
            source = self.circuit.sources[number]
            if number not in state.down and _root(parent, source.plus) == _root(
                parent, source.minus
            ):
                return number
        return None

    def _clear(self, source: int, edges: list[tuple[int, int, int]], state: _State) -> None:
        """The smallest fuse in the way of a short blows; without one the source gives up."""
        here = self.circuit.sources[source]
        fuses = _fuses_between(self.parent[here.plus], self.parent[here.minus], edges)
        if fuses:
            state.blown.add(min(fuses, key=lambda n: (self.circuit.fuses[n].rating_a or 1e9, n)))
        else:
            state.down.add(source)


def _fuses_between(start: int, goal: int, edges: list[tuple[int, int, int]]) -> set[int]:
    """The fuses on the shortest way between two nodes."""
    beside: dict[int, dict[int, int]] = {}
    for a, b, fuse in edges:
        beside.setdefault(a, {}).setdefault(b, fuse)
        beside.setdefault(b, {}).setdefault(a, fuse)
    way = path_to(goal, reached([start], lambda node: beside.get(node, {})))
    return {fuse for a, b in pairwise(way) if (fuse := beside[a][b]) >= 0}


def _root(parent: list[int], node: int) -> int:
    while parent[node] != node:
        parent[node] = parent[parent[node]]
        node = parent[node]
    return node


def _join(parent: list[int], a: int, b: int) -> None:
    a, b = _root(parent, a), _root(parent, b)
    if a != b:
        parent[a] = b
