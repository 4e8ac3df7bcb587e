"""Many conditions of one circuit settled at once: parallel fault simulation.

Every condition is one bit of whole numbers: what a contact, a net or a coil is under all of them is
one number, and a step along an edge is taken for all of them together. Which fuse a short blows is
looked up for its condition alone, and what never comes to rest is settled alone.
"""

from collections.abc import Iterable, Iterator, Sequence
from typing import TypeVar

from vervain.queries.walk import reached_under
from vervain.stops.circuit import (
    ContactAt,
    ContactForces,
    InputAt,
    Worker,
    closed_under,
    read_under,
)
from vervain.stops.simulation import Conditions, Level, Settled, Simulator

# What each bit of a number stands for is a condition.
Bits = int
Edges = dict[tuple[int, int], Bits]
Member = TypeVar("Member")
# So many rounds of coils are waited for; what goes on longer is settled alone.
MOST_ROUNDS = 30


def settle_all(
    simulator: Simulator,
    conditions: Sequence[Conditions],
    before: Sequence[Settled] | None = None,
) -> list[Settled]:
    """What each condition settles to, from another rest of its own or from everything dropped: the
    same as `Simulator.settle` one by one.
    """
    return _Batch(simulator, conditions, before).run() if conditions else []


class _Batch:
    def __init__(
        self,
        simulator: Simulator,
        conditions: Sequence[Conditions],
        before: Sequence[Settled] | None,
    ) -> None:
        self.simulator, self.circuit = simulator, simulator.circuit
        self.conditions, self.before = conditions, before
        self.every: Bits = (1 << len(conditions)) - 1
        # What does not rest is settled alone.
        self.alone: Bits = 0
        self.blown: dict[int, Bits] = {}
        self.down: dict[int, Bits] = {}
        self.pressed = _bits(c.pressed for c in conditions)
        self.unlinked = _bits(c.without_link for c in conditions)
        self.off = _bits(c.off for c in conditions)
        self.welded = _bits(c.welded for c in conditions)
        self.started = _bits(("yes",) if c.started else () for c in conditions).get("yes", 0)
        self.stuck: dict[tuple[Worker | None, bool], Bits] = {}
        for number, bits in self.welded.items():
            contact = self.circuit.contacts[number]
            key = contact.coil, not contact.is_nc
            self.stuck[key] = self.stuck.get(key, 0) | bits
        self.copper = self._copper()
        rests = before or ()
        self.coils = _bits(rest.coils for rest in rests)
        self.armed = _bits(rest.armed for rest in rests)
        self.stopped: dict[str, Bits] = {}
        lost = _bits(c.lost_sources for c in conditions)
        were_on = _bits(rest.sources_on for rest in rests)
        self.may_be_on = [self.every & ~lost.get(n, 0) for n in range(len(self.circuit.sources))]
        self.sources_on = [
            there & (were_on.get(n, 0) if n in simulator.fed else self.every)
            for n, there in enumerate(self.may_be_on)
        ]

    def giving(self) -> list[Bits]:
        """Under which conditions each source gives."""
        return [on & ~self.down.get(number, 0) for number, on in enumerate(self.sources_on)]

    def run(self) -> list[Settled]:
        """Every condition at its rest."""
        moved = self.every
        for _ in range(MOST_ROUNDS):
            look = _Look(self)
            coils, stopped = look.coils(), look.stopped()
            moved = _differing(self.coils, coils) | _differing(self.stopped, stopped)
            if not moved & ~self.alone:
                return self._settled(look)
            self.coils, self.stopped = coils, stopped
        self.alone |= moved
        return self._settled(look)

    def _copper(self) -> Edges:
        """What wires, jumpers and what touches join, under which conditions."""
        circuit, net = self.circuit, self.simulator.net
        cut = _bits(c.cut for c in self.conditions)
        out = _bits(c.without_jumpers for c in self.conditions)
        edges: Edges = {}
        for key, (a, b) in self.simulator.wires.items():
            _add(edges, net[a], net[b], self.every & ~cut.get(key, 0))
        for (a, b), bits in _bits(c.joined for c in self.conditions).items():
            _add(edges, net[a], net[b], bits)
        for a, b, name in circuit.jumpers:
            _add(edges, net[a], net[b], self.every & ~out.get(name, 0))
        return edges

    def closed(self, number: int, contact: ContactAt) -> Bits:
        """Under which conditions a contact is closed now."""
        coil = contact.coil
        forces = ContactForces(
            coil=self.coils.get(coil, 0) if coil is not None else 0,
            stuck=self.stuck.get((coil, contact.is_nc), 0) if coil is not None else 0,
            pressed=self.pressed.get(contact.device, 0),
            unlinked=self.unlinked.get(contact.device, 0),
            started=self.started,
            welded=self.welded.get(number, 0),
        )
        return closed_under(contact, forces, self.every)

    def switched(self) -> Edges:
        """What is joined now: copper, closed contacts, whole fuses, outputs that are on."""
        net, edges = self.simulator.net, dict(self.copper)
        for number, contact in enumerate(self.circuit.contacts):
            _add(edges, net[contact.a], net[contact.b], self.closed(number, contact))
        for number, fuse in enumerate(self.circuit.fuses):
            _add(edges, net[fuse.a], net[fuse.b], self.every & ~self.blown.get(number, 0))
        for output in self.circuit.outputs:
            device = output.ref.device
            dead = self.off.get(device, 0) | self.stopped.get(device, 0)
            _add(edges, net[output.node], net[output.rail], self.every & ~dead)
        return edges

    def _settled(self, look: "_Look") -> list[Settled]:
        """The rests one by one."""
        circuit, count = self.circuit, len(self.conditions)
        levels = [_levels(*look.levels(entry), count) for entry in circuit.inputs]
        on = _members(dict(enumerate(look.loads)), count)
        coils = _members(self.coils, count)
        sources_on = _members(dict(enumerate(self.sources_on)), count)
        stopped = _members(self.stopped, count)
        starts = {m.ref: look.high(m.start) for m in circuit.monitors if m.start is not None}
        armed = _members(starts, count)
        blown, down = _members(self.blown, count), _members(self.down, count)
        return [
            self._by_itself(number)
            if self.alone >> number & 1
            else Settled(
                tuple(of_input[number] for of_input in levels), on[number], coils[number],
                blown[number], down[number], sources_on[number], stopped[number], False,
                armed[number],
            )
            for number in range(count)
        ]  # fmt: skip

    def clear(self, shorted: Bits) -> None:
        """Lets fuses blow and sources give up under some conditions until nothing is shorted."""
        for number in _numbers(shorted):
            now = Settled(
                (), frozenset(), _of(self.coils, number), _of(self.blown, number),
                _of(self.down, number), _of(dict(enumerate(self.sources_on)), number),
                _of(self.stopped, number), False,
            )  # fmt: skip
            blown, down = self.simulator.without_shorts(self.conditions[number], now)
            for members, bits in ((blown, self.blown), (down, self.down)):
                for member in members:
                    bits[member] = bits.get(member, 0) | 1 << number

    def _by_itself(self, number: int) -> Settled:
        rest = self.before[number] if self.before is not None else None
        return self.simulator.settle(self.conditions[number], rest)


class _Look:
    """What is where with the contacts as they are, under every condition."""

    def __init__(self, batch: _Batch) -> None:
        self.batch, self.circuit, self.net = batch, batch.circuit, batch.simulator.net
        self._follow()
        self.loads = self._fed()
        self.live = self._joined(self.at_plus, batch.giving())
        self.dead = self._joined(self.at_minus, [batch.every] * len(self.circuit.sources))
        self._seen: tuple[list[Bits], list[Bits]] | None = None

    def _follow(self) -> None:
        """What each pole of a source reaches, once nothing that gives is shorted."""
        batch, sources = self.batch, self.circuit.sources
        self.beside: list[list[tuple[int, Bits]]] = [[] for _ in range(batch.simulator.count)]
        for (a, b), bits in batch.switched().items():
            self.beside[a].append((b, bits))
            self.beside[b].append((a, bits))
        self.from_pole = {
            net: self._spread({net: batch.every})
            for net in {self.net[n] for s in sources for n in (s.plus, s.minus)}
        }
        if self._clears_shorts():
            self._follow()
            return
        self.at_minus = [self.from_pole[self.net[source.minus]] for source in sources]
        self.at_plus = [self._past_diodes(self.from_pole[self.net[s.plus]]) for s in sources]

    def _clears_shorts(self) -> bool:
        """Whether something was shorted, which is cleared now."""
        shorted = _any(
            self.from_pole[self.net[source.plus]][self.net[source.minus]] & giving
            for source, giving in zip(self.circuit.sources, self.batch.giving(), strict=True)
        )
        self.batch.clear(shorted)
        return bool(shorted)

    def _spread(self, starts: dict[int, Bits], room: list[Bits] | None = None) -> list[Bits]:
        """Under which conditions each net is reached from some, within the room that there is."""
        beside = self.beside

        def within(net: int) -> Iterable[tuple[int, Bits]]:
            assert room is not None
            return ((other, bits & room[other]) for other, bits in beside[net])

        found = reached_under(starts, beside.__getitem__ if room is None else within)
        return [found.get(net, 0) for net in range(len(beside))]

    def _past_diodes(self, plus: list[Bits]) -> list[Bits]:
        """Plus goes through a diode from its anode, and on from there."""
        for _ in self.circuit.diodes:
            starts: dict[int, Bits] = {}
            for a, b in self.circuit.diodes:
                new = plus[self.net[a]] & ~plus[self.net[b]]
                if new:
                    starts[self.net[b]] = starts.get(self.net[b], 0) | new
            if not starts:
                break
            plus = [had | more for had, more in zip(plus, self._spread(starts), strict=True)]
        return plus

    def _fed(self) -> list[Bits]:
        """Under which conditions each load works, once the sources that others feed have come and
        gone with them.
        """
        batch, fed = self.batch, self.batch.simulator.fed
        for _ in range(2 * len(self.circuit.sources) + len(self.circuit.fuses) + 1):
            loads = self._working()
            now_on = list(batch.sources_on)
            for number, feed in fed.items():
                may_be_on = batch.may_be_on[number] & ~batch.down.get(number, 0)
                now_on[number] = loads[feed] & may_be_on
            if now_on == batch.sources_on:
                return loads
            before, batch.sources_on = batch.sources_on, now_on
            if self._clears_shorts():
                self._follow()
        for one, other in zip(before, now_on, strict=True):
            batch.alone |= one ^ other
        return loads

    def _working(self) -> list[Bits]:
        found = []
        for load in self.circuit.loads:
            here, there = self.net[load.plus], self.net[load.minus]
            works = 0
            for plus, minus, on in zip(
                self.at_plus, self.at_minus, self.batch.giving(), strict=True
            ):
                works |= plus[here] & minus[there] & on
                if load.polarity_free:
                    works |= plus[there] & minus[here] & on
            found.append(works)
        return found

    @staticmethod
    def _joined(by_source: list[list[Bits]], on: list[Bits]) -> list[Bits]:
        """Under which conditions each net is reached from any of the sources that are on."""
        if not by_source:
            return []
        return [
            _any(bits & there for bits, there in zip(of_net, on, strict=True))
            for of_net in zip(*by_source, strict=True)
        ]

    def coils(self) -> dict[Worker, Bits]:
        """Under which conditions each coil is called for, those of safety relays too."""
        found: dict[Worker, Bits] = {}
        for load, bits in zip(self.circuit.loads, self.loads, strict=True):
            if load.kind == "coil":
                found[load.ref] = found.get(load.ref, 0) | bits
        for monitor in self.circuit.monitors:
            holds = self.batch.every if monitor.feed is None else self.loads[monitor.feed]
            for number in monitor.channels:
                holds &= self.high(number)
            if monitor.start is not None:
                let_go = self.batch.armed.get(monitor.ref, 0) & ~self.high(monitor.start)
                holds &= self.batch.coils.get(monitor.ref, 0) | let_go
            found[monitor.ref] = found.get(monitor.ref, 0) | holds
        return found

    def stopped(self) -> dict[str, Bits]:
        """Under which conditions a device has an open stop input."""
        found: dict[str, Bits] = {}
        for entry in self.circuit.inputs:
            if entry.is_stop:
                is_open = self.batch.every & ~self.levels(entry)[0]
                found[entry.pin.device] = found.get(entry.pin.device, 0) | is_open
        return found

    def high(self, number: int) -> Bits:
        """Under which conditions an input reads high."""
        return self.levels(self.circuit.inputs[number])[0]

    def levels(self, entry: InputAt) -> tuple[Bits, Bits]:
        """Under which conditions an input reads high, and under which low: a load in its line is
        to it a wire.
        """
        against = self._at(entry.against) if entry.against is not None else (0, 0)
        return read_under(entry, self._at(entry.node), against, self.batch.every)

    def _at(self, node: int) -> tuple[Bits, Bits]:
        if not self.circuit.sources:
            return 0, 0
        if self._seen is None:
            room = [self.batch.every & ~(p | z) for p, z in zip(self.live, self.dead, strict=True)]
            self._seen = self._through_loads(self.live, room), self._through_loads(self.dead, room)
        net = self.net[node]
        plus, zero = (seen[net] for seen in self._seen)
        return plus & ~zero, zero & ~plus

    def _through_loads(self, ends: list[Bits], room: list[Bits]) -> list[Bits]:
        """Where something reaches through loads, over nets that are at no pole."""
        found = list(ends)
        links = [(self.net[load.plus], self.net[load.minus]) for load in self.circuit.loads]
        while True:
            starts: dict[int, Bits] = {}
            for a, b in links:
                for here, there in ((a, b), (b, a)):
                    new = found[here] & room[there] & ~found[there]
                    if new:
                        starts[there] = starts.get(there, 0) | new
            if not starts:
                return found
            more = self._spread(starts, room)
            found = [had | new for had, new in zip(found, more, strict=True)]


def _bits(sets: Iterable[Iterable[Member]]) -> dict[Member, Bits]:
    """For each member, under which conditions it is in its set."""
    found: dict[Member, Bits] = {}
    for number, members in enumerate(sets):
        for member in members:
            found[member] = found.get(member, 0) | 1 << number
    return found


def _numbers(bits: Bits) -> Iterator[int]:
    """The conditions under which something is so."""
    while bits:
        lowest = bits & -bits
        yield lowest.bit_length() - 1
        bits ^= lowest


def _of(bits: dict[Member, Bits], number: int) -> frozenset[Member]:
    """The members that are there under one condition."""
    return frozenset(member for member, of_all in bits.items() if of_all >> number & 1)


def _members(bits: dict[Member, Bits], count: int) -> list[frozenset[Member]]:
    """For each condition, the members that are there."""
    found: list[list[Member]] = [[] for _ in range(count)]
    for member, of_all in bits.items():
        for number in _numbers(of_all):
            found[number].append(member)
    return [frozenset(members) for members in found]


def _levels(high: Bits, low: Bits, count: int) -> list[Level]:
    """What an input reads under each condition."""
    return [
        "high" if high >> number & 1 else "low" if low >> number & 1 else "open"
        for number in range(count)
    ]


def _differing(one: dict[Member, Bits], other: dict[Member, Bits]) -> Bits:
    """Under which conditions two answers differ."""
    return _any(one.get(key, 0) ^ other.get(key, 0) for key in one.keys() | other.keys())


def _any(all_bits: Iterable[Bits]) -> Bits:
    found = 0
    for bits in all_bits:
        found |= bits
    return found


def _add(edges: Edges, a: int, b: int, bits: Bits) -> None:
    if a != b and bits:
        key = (a, b) if a < b else (b, a)
        edges[key] = edges.get(key, 0) | bits
