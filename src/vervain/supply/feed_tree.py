"""The feed tree: from each source through fuses, contacts and strips to its consumers."""

from collections import defaultdict
from typing import Literal

from msgspec.structs import replace

from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.look import Look
from vervain.supply.network_model import copper_group
from vervain.supply.results import Arrival, arrivals
from vervain.supply.solution import Flow, feeding
from vervain.supply.states import State

BranchKind = Literal["source", "fuse", "contact", "strip", "device", "earth", "unfed"]
# Links that a feed does not run through on its plus side.
NO_FEED = ("resistor", "output")


class Branch(Record, frozen=True, kw_only=True):
    """One place of a feed and what hangs on it. `amps` is what comes in there; `flows` are the
    conductors since the place before, nearest first; `arrival` is what a consumer takes.
    """

    kind: BranchKind
    device: str
    pin: PinRef
    label: str
    amps: float = 0.0
    flows: tuple[Flow, ...] = ()
    arrival: Arrival | None = None
    note: str = ""
    branches: tuple["Branch", ...] = ()

    def consumers(self) -> tuple[Arrival, ...]:
        """Everything that takes power from here on, this place first."""
        own = (self.arrival,) if self.arrival is not None else ()
        return (*own, *(item for branch in self.branches for item in branch.consumers()))


@query
def feed_trees(look: Look, state: State) -> tuple[Branch, ...]:
    """A tree for every source that feeds something, supplies and batteries first."""
    solved = feeding(look, state)
    around: dict[PinRef, list[tuple[Flow, PinRef]]] = defaultdict(list)
    for flow in solved.flows:
        if flow.link.kind not in NO_FEED:
            around[flow.link.a].append((flow, flow.link.b))
            around[flow.link.b].append((flow, flow.link.a))
    arriving = {row.pin: row for row in arrivals(look, state)}
    found = []
    for given in solved.given:
        grower = _Grower(look, around, arriving)
        plus = given.giver.plus
        part = look.part_of(plus.device)
        own = part is not None and part.kind in ("supply", "battery")
        tree = Branch(
            kind="source", device=plus.device, pin=plus, label=plus.device, amps=given.amps,
            branches=grower.grow(plus),
        )  # fmt: skip
        if own or tree.consumers():
            found.append((not own, tree))
    fed = {row.pin.device for _, tree in found for row in tree.consumers()}
    trees = [tree for _, tree in sorted(found, key=lambda item: item[0])]
    return (*trees, *_unfed(look, arriving, fed))


def _unfed(look: Look, arriving: dict[PinRef, Arrival], fed: set[str]) -> tuple[Branch, ...]:
    """What no source feeds, as a tree without one: from there it can be carried to one."""
    rows = [
        Branch(kind="device", device=pin.device, pin=pin, label=pin.device, arrival=row)
        for pin, row in arriving.items()
        if pin.device not in fed and row.status in ("not fed", "no way back")
    ]
    if not rows:
        return ()
    return (
        Branch(
            kind="unfed", device="", pin=rows[0].pin, label="none", note="not fed",
            branches=tuple(rows),
        ),
    )  # fmt: skip


class _Grower:
    """Walks from a source's plus along everything that joins pins."""

    def __init__(
        self,
        look: Look,
        around: dict[PinRef, list[tuple[Flow, PinRef]]],
        arriving: dict[PinRef, Arrival],
    ) -> None:
        self.look = look
        self.around = around
        self.arriving = arriving
        self.seen: set[PinRef] = set()

    def grow(self, start: PinRef) -> tuple[Branch, ...]:
        """The branches behind a source's pin."""
        self.seen.add(start)
        return self._sorted(self._behind([(start, ())]))

    def _sorted(self, branches: list[Branch]) -> tuple[Branch, ...]:
        """The branches that feed something, in the order of what they feed."""
        feeding_some = [branch for branch in branches if branch.consumers()]
        return tuple(sorted(feeding_some, key=lambda b: self._place(b.consumers()[0])))

    def _place(self, arrival: Arrival) -> tuple[int, str]:
        return self.look.devices().index(arrival.pin.device), arrival.pin.port

    def _behind(self, front: list[tuple[PinRef, tuple[Flow, ...]]]) -> list[Branch]:
        """The branches that start from pins of one place, each with the conductors so far."""
        found: list[Branch] = []
        while front:
            pin, flows = front.pop(0)
            for flow, there in self.around[pin]:
                if there in self.seen:
                    continue
                self.seen.add(there)
                path = (*flows, flow) if flow.link.kind == "conductor" else flows
                kind = self._kind(flow, there)
                if kind is None:
                    front.append((there, path))
                else:
                    found.append(self._branch(kind, flow, there, path))
        return found

    def _kind(self, flow: Flow, there: PinRef) -> BranchKind | None:
        """What a pin begins, if it is a place of its own in the tree."""
        if flow.link.kind == "fuse":
            return "fuse"
        if flow.link.kind == "contact":
            return "contact"
        part = self.look.part_of(there.device)
        if flow.link.kind == "conductor" and part is not None and part.kind == "terminal strip":
            return "strip"
        group = copper_group(self.look, there)
        if any(pin in self.arriving for pin in group):
            return "device"
        return None

    def _branch(
        self, kind: BranchKind, flow: Flow, there: PinRef, path: tuple[Flow, ...]
    ) -> Branch:
        group = copper_group(self.look, there)
        self.seen.update(group)
        arrival = None
        if kind == "device":
            arrival = _together([self.arriving[pin] for pin in group if pin in self.arriving])
        behind = self._behind([(pin, ()) for pin in group])
        return Branch(
            kind=kind, device=there.device, pin=arrival.pin if arrival else there,
            label=self._label(kind, there), amps=abs(flow.amps), flows=path, arrival=arrival,
            branches=self._sorted(behind),
        )  # fmt: skip

    def _label(self, kind: BranchKind, pin: PinRef) -> str:
        look = self.look
        if kind == "fuse":
            rating = look.setting(pin.device, "rating_a")
            return f"{pin.device} {rating:g} A" if isinstance(rating, int | float) else pin.device
        if kind == "contact":
            part = look.part_of(pin.device)
            many = part is not None and part.kind == "relay module"
            return f"{pin.device}.{pin.port.split()[-1]}" if many else pin.device
        return pin.device


def _together(rows: list[Arrival]) -> Arrival | None:
    """What arrives at several pins of one piece of copper, as one: a receiver has a plus a plug."""
    if len(rows) < 2:
        return rows[0] if rows else None
    return replace(
        rows[0],
        amps=sum(row.amps for row in rows),
        wanted_a=sum(row.wanted_a for row in rows),
    )
