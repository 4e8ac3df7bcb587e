"""The stops as strings: from a source through fuses and contacts to what each string ends in."""

from collections.abc import Iterator
from itertools import pairwise
from typing import Literal

from msgspec.structs import replace

from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import path_to, reached
from vervain.stops.circuit import Circuit, LoadAt, SourceAt, Wire, Worker
from vervain.stops.compiling import circuit_of

LinkKind = Literal["contact", "bridged contact", "fuse"]


class WireAlong(Record, frozen=True, kw_only=True):
    """A wire of a string, with its nodes; the first is nearer to the source."""

    wire: Wire
    start: int
    end: int


class Link(Record, frozen=True, kw_only=True):
    """A contact or a fuse of a string, with its place in the circuit and its nodes, and the
    wires that lead to it; and the devices that have a contact `beside` it, over the same two nets.
    """

    kind: LinkKind
    device: str
    number: int
    before: int
    behind: int
    wires: tuple[WireAlong, ...] = ()
    beside: tuple[str, ...] = ()


class Chain(Record, frozen=True, kw_only=True):
    """One string: its source, its links in order, the wires after the last one, what it ends in and
    which node that is; the inputs that read a node of it. `is_power` for strings of what must go.
    `returns` are the links behind a coil, where a stop lies in its minus, and `return_wires` the
    wires after the last of them.
    """

    source: int
    links: tuple[Link, ...]
    last_wires: tuple[WireAlong, ...]
    ends: tuple[Worker, ...]
    end_node: int
    inputs: tuple[int, ...] = ()
    is_power: bool = False
    returns: tuple[Link, ...] = ()
    return_wires: tuple[WireAlong, ...] = ()

    @property
    def all_links(self) -> tuple[Link, ...]:
        """The links before what it ends in, and those behind."""
        return (*self.links, *self.returns)


@query
def chains_of(queries: Queries) -> tuple[Chain, ...]:
    """The strings of a machine's stops: those that end in coils and stop inputs, those that start a
    safety relay, then those that power what must go.
    """
    circuit = circuit_of(queries)
    if not circuit.stops:
        return ()
    finder = _Finder(queries, circuit)
    found = [
        finder.with_return(chain, load.minus) for load in finder.by_stops()
        if (chain := finder.chain([load])) is not None
    ]  # fmt: skip
    read = {number for chain in found for number in chain.inputs}
    for number, entry in enumerate(circuit.inputs):
        if entry.is_stop and number not in read:
            alone = finder.chain_to(entry.node, (entry.pin.port_ref,))
            if alone is not None:
                own = replace(alone, inputs=(number,))
                back = entry.against
                found.append(own if back is None else finder.with_return(own, back))
    # What is pressed or opened comes first, then what its relays switch, then what starts them.
    found.sort(
        key=lambda chain: not any(link.device in circuit.demanded for link in chain.all_links)
    )
    for monitor in circuit.monitors:
        started = circuit.inputs[monitor.start] if monitor.start is not None else None
        way = finder.chain_to(started.node, (started.pin.port_ref,)) if started else None
        if way is not None and monitor.start is not None:
            found.append(replace(way, inputs=(monitor.start,)))
    groups: dict[tuple[int, ...], list[LoadAt]] = {}
    for number in circuit.must_go:
        load = circuit.loads[number]
        groups.setdefault(finder.way_of(load.plus), []).append(load)
    # What moves most comes first.
    by_size = sorted(groups.values(), key=len, reverse=True)
    powers = [finder.chain(loads) for loads in by_size]
    ways = [power for power in powers if power is not None]
    found += [replace(way, is_power=True) for way in (*ways, *finder.feeds_of(ways))]
    return tuple(found)


@query
def wires_along(queries: Queries) -> frozenset[Wire]:
    """Every wire of the strings, from their sources on."""
    return frozenset(
        along.wire
        for chain in chains_of(queries)
        for group in (
            *(link.wires for link in chain.all_links),
            chain.last_wires,
            chain.return_wires,
        )
        for along in group
    )


@query
def devices_in_strings(queries: Queries) -> frozenset[str]:
    """The devices whose contacts are in a string, or in which one ends."""
    return frozenset(
        device
        for chain in chains_of(queries)
        for device in (
            *(link.device for link in chain.all_links),
            *(end.device for end in chain.ends),
        )
    )


class _Finder:
    """Looks for strings in a circuit: nets of copper as nodes, contacts and fuses between them."""

    def __init__(self, queries: Queries, circuit: Circuit) -> None:
        self.queries, self.circuit = queries, circuit
        self.beside: dict[int, list[int]] = {}
        jumpers = [(a, b) for a, b, _ in circuit.jumpers]
        for a, b in (*circuit.joints, *circuit.wires.values(), *jumpers):
            self.beside.setdefault(a, []).append(b)
            self.beside.setdefault(b, []).append(a)
        self.net: dict[int, int] = {}
        for start in range(len(circuit.node_of)):
            if start not in self.net:
                for node in reached([start], self._copper):
                    self.net[node] = start

        self.links = self._every_link()
        self.at: dict[int, list[tuple[int, int]]] = {}
        for place, (_, _, a, b, _) in enumerate(self.links):
            for here, there in ((a, b), (b, a)):
                self.at.setdefault(self.net[here], []).append((self.net[there], place))

    def _copper(self, node: int) -> list[int]:
        return self.beside.get(node, [])

    def _every_link(self) -> list[tuple[LinkKind, int, int, int, str]]:
        """Contacts and fuses as links between nets."""
        circuit = self.circuit
        # What holds by a coil comes before the button that starts it.
        held_first = sorted(enumerate(circuit.contacts), key=lambda item: item[1].coil is None)
        return [
            *(
                ("contact", number, c.a, c.b, c.device)
                for number, c in held_first
                if c.is_nc
                or c.coil is not None
                or c.is_by_hand
                or c.is_of_guard
                or c.device in circuit.stops
            ),
            *(("fuse", number, f.a, f.b, f.device) for number, f in enumerate(circuit.fuses)),
        ]

    def by_stops(self) -> list[LoadAt]:
        """The coils behind a stop or a door, or in front of one, and those behind a contact of such
        a coil or of a safety relay.
        """
        circuit = self.circuit
        links = {
            load: self.with_return(chain, load.minus).all_links
            for load in circuit.loads
            if load.kind == "coil" and (chain := self.chain([load])) is not None
        }
        worked: set[Worker] = {monitor.ref for monitor in circuit.monitors}
        found: list[LoadAt] = []
        while True:
            more = [
                load for load, passed in links.items()
                if load not in found and any(
                    link.device in circuit.demanded
                    or (link.kind == "contact" and circuit.contacts[link.number].coil in worked)
                    for link in passed if link.kind != "fuse"
                )
            ]  # fmt: skip
            if not more:
                return [load for load in links if load in found]
            found += more
            worked |= {load.ref for load in more}

    def with_return(self, chain: Chain, minus: int) -> Chain:
        """A string with what lies between its load and the minus, where a stop is there."""
        goal = self.circuit.sources[chain.source].minus
        way = path_to(self.net[goal], reached([self.net[minus]], self._across))
        links, last = self._links_along(way, minus)
        if not any(link.device in self.circuit.demanded for link in links):
            return chain
        return replace(chain, returns=tuple(links), return_wires=self._wires(last, goal))

    def way_of(self, node: int) -> tuple[int, ...]:
        """The source that a node is fed by, and the contacts between; nothing where none does."""
        chain = self.chain_to(node, ())
        if chain is None:
            return ()
        return chain.source, *(link.number for link in chain.links if link.kind != "fuse")

    def feeds_of(self, ways: list[Chain]) -> list[Chain]:
        """The strings that feed the sources of some strings, back to those that nothing feeds;
        what nothing switches on the way is no string of the stops.
        """

        def to_feed(source: int) -> Chain | None:
            feed = self.circuit.sources[source].feed
            return self.chain([self.circuit.loads[feed]]) if feed is not None else None

        def before(source: int) -> list[int]:
            way = to_feed(source)
            return [way.source] if way is not None else []

        feeding = [to_feed(source) for source in reached([way.source for way in ways], before)]
        return [
            way
            for way in feeding
            if way is not None and any(link.kind == "contact" for link in way.links)
        ]

    def chain(self, loads: list[LoadAt]) -> Chain | None:
        """The string to some loads on one net."""
        return self.chain_to(loads[0].plus, tuple(load.ref for load in loads))

    def chain_to(self, node: int, ends: tuple[Worker, ...]) -> Chain | None:
        """The shortest string from a source to a node; None where no source reaches it."""
        starts = {self.net[s.plus]: n for n, s in enumerate(self.circuit.sources)}
        goal = self.net[node]
        way = path_to(goal, reached(starts, self._across))
        if not way:
            return None
        source = starts[way[0]]
        made, here = self._links_along(way, self.circuit.sources[source].plus)
        made += self._bridged(goal)
        # What reads the rail in front of the first contact reads no string.
        switched = next((n for n, link in enumerate(made) if link.kind != "fuse"), len(made))
        nets = {self.net[link.behind] for link in made[switched:]}
        return Chain(
            source=source,
            links=tuple(made),
            last_wires=self._wires(here, node),
            ends=ends,
            end_node=node,
            inputs=tuple(
                n for n, entry in enumerate(self.circuit.inputs)
                if entry.is_stop and self.net[entry.node] in nets
            ),
        )  # fmt: skip

    def _across(self, net: int) -> list[int]:
        """The nets that a contact or a fuse leads to from one."""
        return [there for there, _ in self.at.get(net, ())]

    def _links_along(self, way: list[int], start: int) -> tuple[list[Link], int]:
        """The links of a way over nets from a node on, and the node behind the last of them."""
        made: list[Link] = []
        here = start
        for one, two in pairwise(way):
            place, *others = (p for t, p in self.at[one] if t == two)
            kind, number, a, b, device = self.links[place]
            names = [self.links[p][4] for p in others]
            beside = tuple(dict.fromkeys(name for name in names if name != device))
            before, behind = (a, b) if self.net[a] == one else (b, a)
            made += self._bridged(one)
            made.append(Link(kind=kind, device=device, number=number, before=before, beside=beside,
                             behind=behind, wires=self._wires(here, before)))  # fmt: skip
            here = behind
        return made, here

    def _bridged(self, net: int) -> Iterator[Link]:
        """Contacts of stops both sides of which are on one net: something is over them."""
        for number, contact in enumerate(self.circuit.contacts):
            of_stop = contact.device in self.circuit.demanded
            if of_stop and self.net[contact.a] == self.net[contact.b] == net:
                yield Link(kind="bridged contact", device=contact.device, number=number,
                           before=contact.a, behind=contact.b)  # fmt: skip

    def _wires(self, start: int, end: int) -> tuple[WireAlong, ...]:
        """The wires on the shortest way over copper between two nodes."""
        way = path_to(end, reached([start], self._copper))
        wires = {frozenset(nodes): key for key, nodes in self.circuit.wires.items()}
        return tuple(
            WireAlong(wire=wires[frozenset((a, b))], start=a, end=b)
            for a, b in pairwise(way)
            if frozenset((a, b)) in wires
        )


def source_words(queries: Queries, source: SourceAt) -> tuple[str, str]:
    """A source in words: its designator, and its voltage."""
    pin = next(
        (
            found
            for at, number in circuit_of(queries).node_of.items()
            if number == source.plus and (found := queries.pin(at)) is not None
        ),
        None,
    )
    if pin is not None and pin.function == "line":
        return source.device, "mains"
    volts = getattr(pin.electrical, "nominal_v", None) if pin is not None else None
    return source.device, f"{volts:g} V" if volts else ""


def pin_at(queries: Queries, node: int) -> PinRef | None:
    """The pin of a node."""
    return next((pin for pin, n in circuit_of(queries).node_of.items() if n == node), None)
