"""What a circuit settles to: which coils hold, what inputs read, what has power; with faults."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal, NamedTuple

from vervain.queries.walk import path_to, reached
from vervain.stops.circuit import (
    Circuit,
    ContactForces,
    InputAt,
    Wire,
    Worker,
    closed_under,
    read_under,
)
from vervain.stops.following import Follow, one_by_one, together

Level = Literal["high", "low", "open"]


@dataclass(frozen=True)
class Conditions:
    """What is done to a circuit: buttons pressed, wires cut, nodes joined, contacts that stay as
    they are, jumpers out, sources, controllers and radio links lost.
    """

    pressed: frozenset[str] = frozenset()
    started: bool = True
    cut: frozenset[Wire] = frozenset()
    joined: frozenset[tuple[int, int]] = frozenset()
    welded: frozenset[int] = frozenset()
    without_jumpers: frozenset[str] = frozenset()
    lost_sources: frozenset[int] = frozenset()
    off: frozenset[str] = frozenset()
    without_link: frozenset[str] = frozenset()


class Settled(NamedTuple):
    """What a circuit settles to. `levels` are those of the inputs, `on` the loads with power,
    `stopped` the devices whose stop input is open: controllers that switch nothing, drives without
    torque; `races` that it never comes to rest, or to another state in another order; `armed` the
    safety relays whose start button is down.
    """

    levels: tuple[Level, ...]
    on: frozenset[int]
    coils: frozenset[Worker]
    blown: frozenset[int]
    down: frozenset[int]
    sources_on: frozenset[int]
    stopped: frozenset[str]
    races: bool
    armed: frozenset[Worker] = frozenset()


class _Look(NamedTuple):
    """What is where with the contacts as they are: the loads and coils that are on, the nets by
    their parents, which of these are at plus and at 0 V, and which loads lie beside which.
    """

    on: frozenset[int]
    coils: frozenset[Worker]
    parent: list[int]
    plus: dict[int, set[int]]
    zeros: set[int]
    beside: dict[int, set[int]]


@dataclass
class _State:
    coils: frozenset[Worker]
    blown: set[int] = field(default_factory=set)
    down: set[int] = field(default_factory=set)
    stopped: frozenset[str] = frozenset()
    sources_on: frozenset[int] = frozenset()
    # The safety relays whose start button was down before.
    armed: frozenset[Worker] = frozenset()


class Simulator:
    """Settles one circuit under many conditions. What no condition touches is joined once; nets of
    it are numbered, and every node stands for its net.
    """

    def __init__(self, circuit: Circuit, touched: frozenset[Wire] | None = None) -> None:
        self.circuit = circuit
        parent = list(range(len(circuit.node_of)))
        for a, b in circuit.joints:
            _join(parent, a, b)
        self.wires: dict[Wire, tuple[int, int]] = {}
        for key, (a, b) in circuit.wires.items():
            if touched is None or key in touched:
                self.wires[key] = a, b
            else:
                _join(parent, a, b)
        numbers: dict[int, int] = {}
        self.net = [numbers.setdefault(_root(parent, n), len(numbers)) for n in range(len(parent))]
        self.count = len(numbers)
        self.whole = self._with_copper(Conditions())
        self.fed = {n: s.feed for n, s in enumerate(circuit.sources) if s.feed is not None}

    def settle(
        self,
        conditions: Conditions,
        before: Settled | None = None,
        follow: Follow = together,
    ) -> Settled:
        """Where it comes to rest from another rest, or from everything dropped."""
        state = _State(
            coils=before.coils if before is not None else frozenset(),
            sources_on=self._always_on(conditions),
            armed=before.armed if before is not None else frozenset(),
        )
        if before is not None:
            state.sources_on |= before.sources_on - conditions.lost_sources
        base = self._joined(conditions)
        seen: list[tuple[object, ...]] = []
        while True:
            now = (state.coils, frozenset(state.blown), frozenset(state.down), state.stopped)
            seen.append(now)
            look, stopped = self._fed(base, conditions, state), state.stopped
            state.coils = follow(state.coils, look.coils)
            state.stopped = self._stopped(look)
            then = (state.coils, frozenset(state.blown), frozenset(state.down), state.stopped)
            if then in seen:
                break
        return Settled(
            levels=tuple(self._level(look, entry) for entry in self.circuit.inputs),
            on=look.on, coils=look.coils, blown=frozenset(state.blown), down=frozenset(state.down),
            sources_on=state.sources_on, stopped=stopped, races=then != now,
            armed=frozenset(
                m.ref for m in self.circuit.monitors if self._is_high(look, m.start)
            ),
        )  # fmt: skip

    def racing(self, conditions: Conditions, before: Settled | None = None) -> frozenset[int]:
        """The loads that are on or off by which coil is quicker; those of the last state where it
        never comes to rest.
        """
        orders = one_by_one(0), one_by_one(-1)
        rests = [self.settle(conditions, before, follow) for follow in orders]
        endless = [rest.on for rest in rests if rest.races]
        return (rests[0].on ^ rests[1].on).union(*endless)

    def nodes_at(
        self, conditions: Conditions, settled: Settled, pole: Literal["plus", "minus"]
    ) -> frozenset[int]:
        """The nodes that are at a pole of a source once the circuit came to rest."""
        state = _state_of(settled)
        parent = self._joined(conditions)
        for a, b, _ in self._switched(conditions, state):
            _join(parent, a, b)
        sources = [self.circuit.sources[number] for number in state.sources_on - state.down]
        poles = [source.plus if pole == "plus" else source.minus for source in sources]
        live = {_root(parent, self.net[node]) for node in poles}
        return frozenset(n for n, net in enumerate(self.net) if _root(parent, net) in live)

    def without_shorts(
        self, conditions: Conditions, now: Settled
    ) -> tuple[frozenset[int], frozenset[int]]:
        """The fuses that have blown and the sources that have given up once nothing is shorted any
        more, with contacts and sources as they are now.
        """
        state = _state_of(now)
        self._cleared(self._joined(conditions), conditions, state)
        return frozenset(state.blown), frozenset(state.down)

    def closed_contacts(self, conditions: Conditions, settled: Settled) -> frozenset[int]:
        """The contacts that are closed once the circuit came to rest."""
        closed = self._closed(conditions, settled.coils)
        return frozenset(number for number, is_closed in enumerate(closed) if is_closed)

    def _always_on(self, conditions: Conditions) -> frozenset[int]:
        sources = range(len(self.circuit.sources))
        return frozenset(n for n in sources if n not in self.fed) - conditions.lost_sources

    def _stopped(self, look: _Look) -> frozenset[str]:
        """The devices one of whose stop inputs is open."""
        return frozenset(
            entry.pin.device
            for entry in self.circuit.inputs
            if entry.is_stop and self._level(look, entry) != "high"
        )

    def _joined(self, conditions: Conditions) -> list[int]:
        """The nets that copper joins under some conditions, as a forest of parents."""
        if not conditions.cut and not conditions.without_jumpers:
            # Nothing is off: what is joined anyway is joined once.
            parent = list(self.whole)
            for a, b in conditions.joined:
                _join(parent, self.net[a], self.net[b])
            return parent
        return self._with_copper(conditions)

    def _with_copper(self, conditions: Conditions) -> list[int]:
        circuit, net = self.circuit, self.net
        parent = list(range(self.count))
        for key, (a, b) in self.wires.items():
            if key not in conditions.cut:
                _join(parent, net[a], net[b])
        for a, b in conditions.joined:
            _join(parent, net[a], net[b])
        for a, b, name in circuit.jumpers:
            if name not in conditions.without_jumpers:
                _join(parent, net[a], net[b])
        return [_root(parent, n) for n in range(self.count)]

    def _closed(self, conditions: Conditions, coils: frozenset[Worker]) -> list[bool]:
        """Which contacts are closed now."""
        contacts, welded = self.circuit.contacts, conditions.welded
        stuck = {(contacts[n].coil, not contacts[n].is_nc) for n in welded}
        pressed, started = conditions.pressed, conditions.started
        # One condition is one bit; no contact has None for a coil that is on.
        return [
            closed_under(contact, ContactForces(
                contact.coil in coils, (contact.coil, contact.is_nc) in stuck,
                contact.device in pressed, contact.device in conditions.without_link, started,
                number in welded,
            ), 1) == 1
            for number, contact in enumerate(contacts)
        ]  # fmt: skip

    def _switched(self, conditions: Conditions, state: _State) -> list[tuple[int, int, int]]:
        """What contacts, fuses and outputs join now, as (net, net, fuse), -1 for no fuse."""
        circuit, net = self.circuit, self.net
        closed = self._closed(conditions, state.coils)
        edges = [
            (net[c.a], net[c.b], -1)
            for c, is_closed in zip(circuit.contacts, closed, strict=True)
            if is_closed
        ]
        edges += [
            (net[f.a], net[f.b], number)
            for number, f in enumerate(circuit.fuses)
            if number not in state.blown
        ]
        edges += [
            (net[o.node], net[o.rail], -1)
            for o in circuit.outputs
            if o.ref.device not in conditions.off and o.ref.device not in state.stopped
        ]
        return edges

    def _fed(self, base: list[int], conditions: Conditions, state: _State) -> _Look:
        """What is where with the coils as they are. Sources that others feed come and go with them
        before any contact moves: a coil that holds itself does not drop meanwhile.
        """
        always = self._always_on(conditions)
        # As many rounds as supplies can wake each other and fuses can blow; what feeds itself in a
        # circle may never rest.
        for _ in range(2 * len(self.circuit.sources) + len(self.circuit.fuses) + 1):
            look = self._look(base, conditions, state)
            fed = {number for number, feed in self.fed.items() if feed in look.on}
            now_on = always | (fed - conditions.lost_sources - state.down)
            if now_on == state.sources_on:
                break
            state.sources_on = now_on
        return look

    def _look(self, base: list[int], conditions: Conditions, state: _State) -> _Look:
        """What is where with the contacts as they are, once nothing is shorted."""
        circuit, net = self.circuit, self.net
        parent = self._cleared(base, conditions, state)
        plus: dict[int, set[int]] = {}
        minus: dict[int, set[int]] = {}
        for number in state.sources_on - state.down:
            source = circuit.sources[number]
            plus.setdefault(_root(parent, net[source.plus]), set()).add(number)
            minus.setdefault(_root(parent, net[source.minus]), set()).add(number)
        self._diodes(parent, plus)
        none: set[int] = set()
        on = set()
        beside: dict[int, set[int]] = {}
        for number, load in enumerate(circuit.loads):
            here, there = _root(parent, net[load.plus]), _root(parent, net[load.minus])
            beside.setdefault(here, set()).add(there)
            beside.setdefault(there, set()).add(here)
            works = not plus.get(here, none).isdisjoint(minus.get(there, none))
            if load.polarity_free and not works:
                works = not plus.get(there, none).isdisjoint(minus.get(here, none))
            if works:
                on.add(number)
        coils = frozenset(circuit.loads[n].ref for n in on if circuit.loads[n].kind == "coil")
        zeros = {_root(parent, net[source.minus]) for source in circuit.sources}
        look = _Look(frozenset(on), coils, parent, plus, zeros, beside)
        return look._replace(coils=coils | self._monitored(look, state))

    def _cleared(self, base: list[int], conditions: Conditions, state: _State) -> list[int]:
        """The nets as they are joined now; fuses blow until no source is shorted."""
        while True:
            edges = self._switched(conditions, state)
            parent = list(base)
            for a, b, _ in edges:
                _join(parent, a, b)
            shorted = self._shorted(parent, state)
            if shorted is None:
                return parent
            self._clear(shorted, base, edges, state)

    def _monitored(self, look: _Look, state: _State) -> frozenset[Worker]:
        """The safety relays that hold: fed, every channel closed, and started: by themselves, or by
        a button that was down before and is up now.
        """
        return frozenset(
            monitor.ref
            for monitor in self.circuit.monitors
            if (monitor.feed is None or monitor.feed in look.on)
            and all(self._is_high(look, number) for number in monitor.channels)
            and (
                monitor.start is None
                or monitor.ref in state.coils
                or (monitor.ref in state.armed and not self._is_high(look, monitor.start))
            )
        )

    def _is_high(self, look: _Look, number: int | None) -> bool:
        return number is not None and self._level(look, self.circuit.inputs[number]) == "high"

    def _level(self, look: _Look, entry: InputAt) -> Level:
        """What an input reads. It takes so little current that a coil or another load in its line
        is to it a wire: behind a coil whose 0 V is cut it sees plus.
        """
        here = self._level_at(look, entry.node)
        there = self._level_at(look, entry.against) if entry.against is not None else "open"
        high, low = read_under(entry, _bits_of(here), _bits_of(there), every=1)
        return "high" if high else "low" if low else "open"

    def _level_at(self, look: _Look, node: int) -> Level:
        root = _root(look.parent, self.net[node])
        at_plus, at_zero = root in look.plus, root in look.zeros
        if not at_plus and not at_zero and root in look.beside:

            def onwards(net: int) -> Iterable[int]:
                is_end = net in look.plus or net in look.zeros
                return () if is_end else look.beside.get(net, ())

            nets = reached([root], onwards)
            at_plus = any(net in look.plus for net in nets)
            at_zero = any(net in look.zeros for net in nets)
        if at_plus == at_zero:
            # Between plus and minus it lies somewhere between: no level to rely on.
            return "open"
        return "high" if at_plus else "low"

    def _diodes(self, parent: list[int], plus: dict[int, set[int]]) -> None:
        """Plus goes through a diode from its anode; so often that chains of them are passed."""
        for _ in self.circuit.diodes:
            for a, b in self.circuit.diodes:
                there = plus.get(_root(parent, self.net[a]))
                if there:
                    plus.setdefault(_root(parent, self.net[b]), set()).update(there)

    def _shorted(self, parent: list[int], state: _State) -> int | None:
        for number in sorted(state.sources_on - state.down):
            source = self.circuit.sources[number]
            if _root(parent, self.net[source.plus]) == _root(parent, self.net[source.minus]):
                return number
        return None

    def _clear(
        self, source: int, base: list[int], edges: list[tuple[int, int, int]], state: _State
    ) -> None:
        """The smallest fuse in the way of a short blows; without one the source gives up."""
        here = self.circuit.sources[source]
        ways = [(_root(base, a), _root(base, b), fuse) for a, b, fuse in edges]
        start, goal = (_root(base, self.net[node]) for node in (here.plus, here.minus))
        fuses = _fuses_between(start, goal, ways)
        if fuses:
            state.blown.add(min(fuses, key=lambda n: (self.circuit.fuses[n].rating_a or 1e9, n)))
        else:
            state.down.add(source)


def _bits_of(level: Level) -> tuple[int, int]:
    """Whether a level is high, and whether it is low."""
    return int(level == "high"), int(level == "low")


def _state_of(settled: Settled) -> _State:
    return _State(
        coils=settled.coils, blown=set(settled.blown), down=set(settled.down),
        stopped=settled.stopped, sources_on=settled.sources_on, armed=settled.armed,
    )  # fmt: skip


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
