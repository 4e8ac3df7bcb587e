"""The way of a feed to one consumer: the conductors, contacts and fuses there and back."""

from collections import defaultdict
from collections.abc import Iterator
from itertools import pairwise

from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import path_to, reached
from vervain.supply.core_limits import core_limit_a
from vervain.supply.network_model import conductor_length_m
from vervain.supply.results import DeliveredPower, delivered_power
from vervain.supply.solution import Flow, SolvedFeeds, solved_feeds
from vervain.supply.states import State


class FeedPath(Record, frozen=True, kw_only=True):
    """From the source's plus to the consumer, and from the consumer back to the source's minus,
    each flow with the pin that it comes to.
    """

    out: tuple[tuple[Flow, PinRef], ...]
    back: tuple[tuple[Flow, PinRef], ...]

    @property
    def flows(self) -> tuple[Flow, ...]:
        """Both ways, one after the other."""
        return tuple(flow for flow, _ in (*self.out, *self.back))


@query
def feed_path(queries: Queries, state: State, consumer: PinRef) -> FeedPath | None:
    """The way with the fewest steps; None where nothing feeds the pin."""
    solved = solved_feeds(queries, state)
    row = next((r for r in delivered_power(queries, state) if r.pin == consumer), None)
    given = next((g for g in solved.given if row and g.source_model.plus == row.source), None)
    fed = next((f for f in solved.fed if f.demand.plus == consumer), None)
    if row is None or given is None or fed is None or fed.demand.minus is None:
        return None
    around = _around(solved)
    out = _way(around, given.source_model.plus, consumer)
    back = _way(around, fed.demand.minus, given.source_model.minus)
    return FeedPath(out=out, back=back) if out is not None and back is not None else None


Around = dict[PinRef, list[tuple[Flow, PinRef]]]


def _around(solved: SolvedFeeds) -> Around:
    around: Around = defaultdict(list)
    for flow in solved.flows:
        around[flow.link.a].append((flow, flow.link.b))
        around[flow.link.b].append((flow, flow.link.a))
    return around


def _way(around: Around, start: PinRef, goal: PinRef) -> tuple[tuple[Flow, PinRef], ...] | None:
    def beyond(here: PinRef) -> Iterator[PinRef]:
        return (there for flow, there in around[here] if _feeds(flow))

    path = path_to(goal, reached([start], beyond))
    if not path:
        return None
    return tuple(
        (next(flow for flow, there in around[one] if there == other and _feeds(flow)), other)
        for one, other in pairwise(path)
    )


def _feeds(flow: Flow) -> bool:
    return flow.link.kind != "resistor"


def lost_in_cables(queries: Queries, path: FeedPath) -> dict[str, float]:
    """How many V are lost in each cable on a way, there and back."""
    lost: dict[str, float] = defaultdict(float)
    for flow in path.flows:
        hookup = queries.hookup(flow.link.owner) if flow.link.kind == "conductor" else None
        if hookup is not None and hookup.cable is not None:
            lost[hookup.cable] += abs(flow.current_a) * flow.link.resistance_ohm
    return lost


def lost_between(path: FeedPath) -> dict[str, float]:
    """How many V are lost in each fuse and at the contacts of each device on a way."""
    lost: dict[str, float] = defaultdict(float)
    for flow in path.flows:
        if flow.link.kind in ("fuse", "contact"):
            lost[flow.link.owner] += abs(flow.current_a) * flow.link.resistance_ohm
    return lost


def costliest(lost: dict[str, float]) -> tuple[str, float] | None:
    """Where most is lost, and how many V; of those alike to a millivolt the first on the way."""
    return max(lost.items(), key=lambda item: round(item[1], 3)) if lost else None


@query
def arrivals_by_device(queries: Queries, state: State) -> dict[str, tuple[DeliveredPower, ...]]:
    """What arrives, by device."""
    found: dict[str, tuple[DeliveredPower, ...]] = {}
    for row in delivered_power(queries, state):
        found[row.pin.device] = (*found.get(row.pin.device, ()), row)
    return found


@query
def arrivals_of(queries: Queries, device: str, state: State) -> tuple[DeliveredPower, ...]:
    """What arrives at a device."""
    return arrivals_by_device(queries, state).get(device, ())


class ProfilePoint(Record, frozen=True, kw_only=True):
    """A device that a feed comes by: how far from the source, the voltage across it there, and on
    the way to it the current and the least that a core there may carry (None without a cable).
    """

    device: str
    metres_m: float
    volts_v: float
    amps_a: float = 0.0
    most_a: float | None = None


@query
def along(queries: Queries, state: State, consumer: PinRef) -> tuple[ProfilePoint, ...]:
    """The voltage from the source to a consumer, at every device that both plus and return pass."""
    path = feed_path(queries, state, consumer)
    row = next((r for r in delivered_power(queries, state) if r.pin == consumer), None)
    if path is None or row is None or row.source is None or row.voltage_v is None:
        return ()
    voltage_v = solved_feeds(queries, state).pin_voltage_v
    given = next(g for g in solved_feeds(queries, state).given if g.source_model.plus == row.source)
    back = {pin.device: pin for _, pin in reversed(path.back)}
    found = [ProfilePoint(device=row.source.device, metres_m=0.0, volts_v=given.voltage_v)]
    metres, current_a = 0.0, 0.0
    carries: list[float] = []
    for flow, pin in path.out:
        if flow.link.kind == "conductor":
            metres += conductor_length_m(queries, flow.link.owner)
            current_a = max(current_a, abs(flow.current_a))
            carries += _carries(queries, flow.link.owner)
        last = pin == consumer
        if last or (pin.device in back and pin.device not in {s.device for s in found}):
            across = row.voltage_v if last else voltage_v[pin] - voltage_v[back[pin.device]]
            if last and found[-1].device == consumer.device:
                found.pop()
            found.append(
                ProfilePoint(
                    device=pin.device, metres_m=metres, volts_v=across, amps_a=current_a,
                    most_a=min(carries, default=None),
                )
            )  # fmt: skip
            current_a, carries = 0.0, []
    return tuple(found)


def _carries(queries: Queries, hookup_id: str) -> list[float]:
    """What a core of a hookup's cable may carry; nothing without a cable."""
    hookup = queries.hookup(hookup_id)
    most = core_limit_a(queries, hookup.cable) if hookup is not None and hookup.cable else None
    return [most] if most is not None else []
