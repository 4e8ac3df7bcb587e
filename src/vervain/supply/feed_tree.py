"""The feed tree: from each source through fuses, contacts and strips to its consumers."""

from collections import defaultdict, deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Literal, TypeVar

from msgspec.structs import replace

from vervain.electrical.feeds import Source, feed_pins, sources_of
from vervain.electrical.series import lies_below
from vervain.model.base import Record
from vervain.model.electrical import FeedOut
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_inputs import input_at, is_feed_port, is_given, is_wanted
from vervain.supply.network_model import copper_group
from vervain.supply.results import DeliveredPower, delivered_power
from vervain.supply.solution import Flow, solved_feeds
from vervain.supply.states import State

Place = TypeVar("Place")
BranchKind = Literal[
    "source", "fuse", "contact", "strip", "device", "earth", "unfed", "mains", "taker"
]
# What a tree begins at.
ROOTS: tuple[BranchKind, ...] = ("source", "earth", "unfed", "mains")
# What stands in a row of its own: what takes power, and what is bonded.
ROWS: tuple[BranchKind, ...] = ("device", "taker")
# Links that a feed does not run through on its plus side.
NO_FEED = ("resistor", "output")
WAITING = ("not fed", "no way back")


class Branch(Record, frozen=True, kw_only=True):
    """One place of a feed. `depth` is how many places lie before it, 0 for the source; `amps` is
    what comes in there; `flows` are the conductors since the place before, nearest first;
    `arrival` is what a consumer takes.
    """

    kind: BranchKind
    device: str
    pin: PinRef
    label: str
    depth: int = 0
    current_a: float = 0.0
    flows: tuple[Flow, ...] = ()
    arrival: DeliveredPower | None = None
    note: str = ""


class FeedTree(Record, frozen=True):
    """The places of a feed, each before what hangs on it, the source first. Flat, because a chain
    of loads is as deep as it is long. A place is given by its number.
    """

    branches: tuple[Branch, ...]

    @property
    def source(self) -> Branch:
        """Where the feed comes from."""
        return self.branches[0]

    def within(self, number: int) -> range:
        """A place and everything behind it."""
        depth, end = self.branches[number].depth, number + 1
        while end < len(self.branches) and self.branches[end].depth > depth:
            end += 1
        return range(number, end)

    def hanging_on(self) -> list[int | None]:
        """For each place the one that it hangs on; None for the source."""
        above: list[int] = []
        found: list[int | None] = []
        for number, branch in enumerate(self.branches):
            del above[branch.depth :]
            found.append(above[-1] if above else None)
            above.append(number)
        return found

    def consumers(self, number: int = 0) -> list[DeliveredPower]:
        """Everything that takes power from a place on, that place first."""
        found = (self.branches[at].arrival for at in self.within(number))
        return [arrival for arrival in found if arrival is not None]


def in_order(
    first: Place, behind: Callable[[Place], Sequence[Place]]
) -> Iterator[tuple[Place, int]]:
    """A place and everything behind it, each before what hangs on it, with its depth."""
    waiting = [(first, 0)]
    while waiting:
        place, depth = waiting.pop()
        yield place, depth
        waiting.extend((other, depth + 1) for other in reversed(behind(place)))


@query
def feed_trees(queries: Queries, state: State) -> tuple[FeedTree, ...]:
    """A tree for every source that feeds something, supplies and batteries first."""
    solved = solved_feeds(queries, state)
    around: dict[PinRef, list[tuple[Flow, PinRef]]] = defaultdict(list)
    for flow in solved.flows:
        if flow.link.kind not in NO_FEED or _gives_plus(queries, flow):
            around[flow.link.a].append((flow, flow.link.b))
            around[flow.link.b].append((flow, flow.link.a))
    arriving = {row.pin: row for row in delivered_power(queries, state)}
    found = []
    for given in solved.given:
        plus = given.source_model.plus
        part = queries.part_of(plus.device)
        own = part is not None and part.kind in ("supply", "battery")
        source = Branch(
            kind="source",
            device=plus.device,
            pin=plus,
            label=plus.device,
            current_a=given.current_a,
        )
        tree = _Grower(queries, around, arriving).grow(source)
        pin = queries.pin(plus)
        feed = pin.electrical if pin is not None else None
        if isinstance(feed, FeedOut) and lies_below(queries, Source(pin=plus, feed=feed)):
            # A battery of a string is drawn with the uppermost one.
            continue
        if own or tree.consumers():
            found.append((not own, tree))
    fed = {row.pin.device for _, tree in found for row in tree.consumers()}
    trees = [tree for _, tree in sorted(found, key=lambda item: item[0])]
    return (*trees, *_unfed(queries, arriving, fed))


def _gives_plus(queries: Queries, flow: Flow) -> bool:
    """Whether an output gives plus, to what hangs on it."""
    pin = queries.pin(flow.link.a)
    return flow.link.kind == "output" and pin is not None and pin.function == "plus"


def _unfed(
    queries: Queries, arriving: dict[PinRef, DeliveredPower], fed: set[str]
) -> tuple[FeedTree, ...]:
    """What no source feeds, as a tree without one: from there it can be carried to one. Every feed
    port is there, whatever it takes, what has to be fed first; then strips that are still empty.
    """
    waiting = {
        pin: row
        for pin, row in arriving.items()
        if row.status in WAITING and not is_given(queries, pin)
    }
    pins = [p for p in waiting if p.device not in fed or is_feed_port(queries, p)]
    for device in queries.devices():
        for pin in feed_pins(queries, device):
            if is_feed_port(queries, pin) and pin not in waiting and not sources_of(queries, pin):
                pins.append(pin)
    pins.sort(key=lambda pin: not is_wanted(queries, pin))
    strips = (_empty_strip(queries, device) for device in queries.devices())
    pins.extend(strip for strip in strips if strip is not None)
    rows = [
        Branch(
            kind="device", device=pin.device, pin=pin, label=pin.device, depth=1,
            arrival=waiting.get(pin) or _nothing_there(queries, pin),
            note="" if is_wanted(queries, pin) else "not used",
        )
        for pin in pins
    ]  # fmt: skip
    if not rows:
        return ()
    nowhere = Branch(kind="unfed", device="", pin=rows[0].pin, label="none", note="not fed")
    return (FeedTree((nowhere, *rows)),)


def _empty_strip(queries: Queries, device: str) -> PinRef | None:
    """The first plus of a strip that nothing is joined to."""
    part = queries.part_of(device)
    if part is None or part.kind != "terminal strip" or queries.hookups_of(device):
        return None
    return next(
        (
            PinRef(device=device, port=port.id, pin=pin.id)
            for port in part.ports
            for pin in port.pins
            if pin.function == "plus"
        ),
        None,
    )


def _nothing_there(queries: Queries, pin: PinRef) -> DeliveredPower:
    """The row of an input that takes nothing by itself."""
    item = input_at(queries, pin)
    return DeliveredPower(
        pin=pin, source=None, current_a=0.0, wanted_a=0.0, voltage_v=None, source_v=None,
        nominal_v=item.nominal_v or item.v_min_v, least_v=item.v_min_v, most_v=item.v_max_v,
        status="not fed", by="what hangs on it",
    )  # fmt: skip


class _Grower:
    """Walks from a source's plus along everything that joins pins."""

    def __init__(
        self,
        queries: Queries,
        around: dict[PinRef, list[tuple[Flow, PinRef]]],
        arriving: dict[PinRef, DeliveredPower],
    ) -> None:
        self.queries = queries
        self.around = around
        self.arriving = arriving
        self.seen: set[PinRef] = set()
        self.places: list[Branch] = []
        self.hangs_on: list[int] = []

    def grow(self, source: Branch) -> FeedTree:
        """The tree behind a source."""
        self._add(source, -1)
        self.seen.add(source.pin)
        open_places = [(0, self._steps((source.pin,)))]
        while open_places:
            number, steps = open_places[-1]
            step = next(steps, None)
            if step is None:
                open_places.pop()
                continue
            group = copper_group(self.queries, step[2])
            self.seen.update(group)
            open_places.append((len(self.places), self._steps(group)))
            self._add(self._branch(*step, group), number)
        return self._in_order()

    def _add(self, branch: Branch, hangs_on: int) -> None:
        self.places.append(branch)
        self.hangs_on.append(hangs_on)

    def _in_order(self) -> FeedTree:
        """The places that feed something, each before what hangs on it, in the order of the
        devices that they feed.
        """
        number_of = {device: number for number, device in enumerate(self.queries.devices())}
        first: list[tuple[int, str] | None] = [None] * len(self.places)
        behind: dict[int, list[int]] = defaultdict(list)
        # A place stands behind the one that it hangs on, so all behind it are known by then.
        for number in range(len(self.places) - 1, 0, -1):
            behind[number].sort(key=lambda at: (first[at] or (0, ""), at))
            arrival = self.places[number].arrival
            if arrival is not None:
                first[number] = number_of[arrival.pin.device], arrival.pin.port
            elif behind[number]:
                first[number] = first[behind[number][0]]
            if first[number] is not None:
                behind[self.hangs_on[number]].append(number)
        behind[0].sort(key=lambda at: (first[at] or (0, ""), at))
        placed = in_order(0, behind.__getitem__)
        return FeedTree(tuple(replace(self.places[at], depth=depth) for at, depth in placed))

    def _steps(
        self, pins: Iterable[PinRef]
    ) -> Iterator[tuple[BranchKind, Flow, PinRef, tuple[Flow, ...]]]:
        """The places next to pins of one piece of copper, each with the conductors to it. What was
        seen meanwhile is left out, so a place is given once.
        """
        front: deque[tuple[PinRef, tuple[Flow, ...]]] = deque((pin, ()) for pin in pins)
        while front:
            pin, flows = front.popleft()
            for flow, there in self.around[pin]:
                if there in self.seen:
                    continue
                self.seen.add(there)
                path = (*flows, flow) if flow.link.kind == "conductor" else flows
                kind = self._kind(flow, there)
                if kind is None:
                    front.append((there, path))
                else:
                    yield kind, flow, there, path

    def _kind(self, flow: Flow, there: PinRef) -> BranchKind | None:
        """What a pin begins, if it is a place of its own in the tree."""
        if flow.link.kind == "fuse":
            return "fuse"
        if flow.link.kind == "contact":
            return "contact"
        part = self.queries.part_of(there.device)
        if flow.link.kind == "conductor" and part is not None and part.kind == "terminal strip":
            return "strip"
        group = copper_group(self.queries, there)
        if any(pin in self.arriving for pin in group):
            return "device"
        return None

    def _branch(
        self,
        kind: BranchKind,
        flow: Flow,
        there: PinRef,
        path: tuple[Flow, ...],
        group: Iterable[PinRef],
    ) -> Branch:
        arrival = None
        if kind == "device":
            arrival = _together([self.arriving[pin] for pin in group if pin in self.arriving])
        return Branch(
            kind=kind, device=there.device, pin=arrival.pin if arrival else there,
            label=label_of(self.queries, kind, there), current_a=abs(flow.current_a),
            flows=path, arrival=arrival,
        )  # fmt: skip


def label_of(queries: Queries, kind: BranchKind, pin: PinRef) -> str:
    """What a place is called: a fuse with its rating, of a module's relays the one that it is."""
    if kind == "fuse":
        rating = queries.setting(pin.device, "rating_a")
        return f"{pin.device} {rating:g} A" if isinstance(rating, int | float) else pin.device
    if kind == "contact":
        part = queries.part_of(pin.device)
        many = part is not None and part.kind == "relay module"
        return f"{pin.device}.{pin.port.split()[-1]}" if many else pin.device
    return pin.device


def _together(rows: list[DeliveredPower]) -> DeliveredPower | None:
    """What arrives at several pins of one piece of copper, as one: a receiver has a plus a plug."""
    if len(rows) < 2:
        return rows[0] if rows else None
    return replace(
        rows[0],
        current_a=sum(row.current_a for row in rows),
        wanted_a=sum(row.wanted_a for row in rows),
    )
