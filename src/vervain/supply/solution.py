"""The machine's feeds solved for one operating state: voltages, currents, heat."""

from msgspec.structs import replace

from vervain.electrical.network import (
    Load,
    Network,
    Resistance,
    Solution,
    Status,
    VoltageSource,
    solve,
)
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import reached
from vervain.supply.loads import Demand, demands_in
from vervain.supply.network_model import Link, SourceModel, conductor_links, givers_of, inside_links
from vervain.supply.states import STATES, State, feed_table

# How often what converters take is worked out anew from what they give.
ROUNDS = 8
CLOSE_W = 1e-4


class Flow(Record, frozen=True, kw_only=True):
    """The current of a link, from its a to its b, and the heat in it."""

    link: Link
    current_a: float

    @property
    def heat_w(self) -> float:
        """I^2 R."""
        return self.current_a**2 * self.link.resistance_ohm


class LoadResult(Record, frozen=True, kw_only=True):
    """How a consumer fares: the voltage across it (None where nothing feeds it), its current."""

    demand: Demand
    voltage_v: float | None
    current_a: float
    status: Status


class SourceResult(Record, frozen=True, kw_only=True):
    """What a source gives, and the voltage at its terminals; `drops_out` where it was asked for far
    too much: `amps` is then what it was asked for, and nothing is fed.
    """

    source_model: SourceModel
    current_a: float
    voltage_v: float
    drops_out: bool = False


class SolvedFeeds(Record, frozen=True, kw_only=True):
    """One state, solved. Voltages of pins are against the minus of the first source of their
    island.
    """

    state: State
    flows: tuple[Flow, ...]
    fed: tuple[LoadResult, ...]
    given: tuple[SourceResult, ...]
    pin_voltage_v: dict[PinRef, float]
    iterations: int
    residual_a: float
    nodes: int

    by_owner: dict[str, tuple[Flow, ...]]


class Wiring(Record, frozen=True, kw_only=True):
    """Everything that joins pins, the sources, and the pins in the order of their nodes."""

    pins: tuple[PinRef, ...]
    links: tuple[Link, ...]
    source_models: tuple[SourceModel, ...]


@query
def wiring(queries: Queries) -> Wiring:
    """The whole machine's copper and sources."""
    links = [link for hookup in queries.hookups() for link in conductor_links(queries, hookup)]
    source_models: list[SourceModel] = []
    for device in queries.devices():
        links.extend(inside_links(queries, device))
        source_models.extend(givers_of(queries, device))
    pins: dict[PinRef, None] = {}
    for link in links:
        pins[link.a] = pins[link.b] = None
    for source_model in source_models:
        pins[source_model.plus] = pins[source_model.minus] = None
    return Wiring(pins=tuple(pins), links=tuple(links), source_models=tuple(source_models))


@query
def fed_wiring(queries: Queries) -> Wiring:
    """The copper that any source or its feed reaches: without the wires of motors and the like, so
    that an edit there leaves it as it was.
    """
    whole = wiring(queries)
    beside: dict[PinRef, list[PinRef]] = {}
    for link in whole.links:
        beside.setdefault(link.a, []).append(link.b)
        beside.setdefault(link.b, []).append(link.a)
    starts = [
        pin
        for model in whole.source_models
        for pin in (model.plus, model.minus, model.by, model.by_minus)
        if pin is not None
    ]
    kept = reached(starts, lambda pin: beside.get(pin, ()))
    return Wiring(
        pins=tuple(pin for pin in whole.pins if pin in kept),
        links=tuple(link for link in whole.links if link.a in kept),
        source_models=whole.source_models,
    )


@query
def solved_feeds(queries: Queries, state: State) -> SolvedFeeds:
    """The machine's feeds in a state: what was solved for the live copper, and the dead ends that
    hang on it, where nothing flows and the voltage is that of where they hang.
    """
    solved, whole = _live_feeds(queries, state), fed_wiring(queries)
    known = {flow.link: flow for flow in solved.flows}
    flows = tuple(known.get(link) or Flow(link=link, current_a=0.0) for link in whole.links)
    beside: dict[PinRef, list[PinRef]] = {}
    for link in whole.links:
        if link not in known:
            beside.setdefault(link.a, []).append(link.b)
            beside.setdefault(link.b, []).append(link.a)
    voltage_v = dict(solved.pin_voltage_v)
    for pin, before in reached(solved.pin_voltage_v, lambda at: beside.get(at, ())).items():
        if before is not None:
            voltage_v[pin] = voltage_v[before]
    owners: dict[str, list[Flow]] = {}
    for flow in flows:
        owners.setdefault(flow.link.owner, []).append(flow)
    return replace(
        solved, flows=flows, pin_voltage_v=voltage_v,
        by_owner={owner: tuple(found) for owner, found in owners.items()},
    )  # fmt: skip


@query
def _live_feeds(queries: Queries, state: State) -> SolvedFeeds:
    """A state solved for the copper that current can flow in."""
    return _solved(state, _live_wiring(queries), _all_demands(queries, state))


@query
def _live_wiring(queries: Queries) -> Wiring:
    """The copper without its dead ends: what leads to nothing that gives or takes, in any state. An
    edit of a signal leaves it as it was.
    """
    whole = fed_wiring(queries)
    ends = {
        pin
        for state in STATES
        for demand in _all_demands(queries, state)
        for pin in (demand.plus, demand.minus)
    }
    for model in whole.source_models:
        ends |= {model.plus, model.minus, model.by, model.by_minus}
    at: dict[PinRef, list[int]] = {}
    for number, link in enumerate(whole.links):
        at.setdefault(link.a, []).append(number)
        at.setdefault(link.b, []).append(number)
    left = {pin: len(numbers) for pin, numbers in at.items()}
    gone: set[int] = set()

    def beyond(pin: PinRef) -> list[PinRef]:
        """What becomes a dead end once this one is off."""
        found = []
        for number in at[pin]:
            if number not in gone:
                gone.add(number)
                link = whole.links[number]
                other = link.b if link.a == pin else link.a
                left[other] -= 1
                if left[other] == 1 and other not in ends:
                    found.append(other)
        return found

    reached([pin for pin, count in left.items() if count == 1 and pin not in ends], beyond)
    links = tuple(link for number, link in enumerate(whole.links) if number not in gone)
    pins = {pin for link in links for pin in (link.a, link.b)} | ends
    return Wiring(
        pins=tuple(pin for pin in whole.pins if pin in pins), links=links,
        source_models=whole.source_models,
    )  # fmt: skip


@query
def _all_demands(queries: Queries, state: State) -> tuple[Demand, ...]:
    """What everything takes in a state, in the order of the machine."""
    return tuple(
        demand for device in queries.devices() for demand in demands_in(queries, device, state)
    )


def _solved(state: State, copper: Wiring, takes: tuple[Demand, ...]) -> SolvedFeeds:
    places = {pin: number for number, pin in enumerate(copper.pins)}
    count = len(places)
    for demand in takes:
        for pin in (demand.plus, demand.minus):
            if pin is not None and pin not in places:
                places[pin] = count
                count += 1
    # A consumer without a return has a node of its own there: nothing flows.
    loads = []
    for demand in takes:
        back = places[demand.minus] if demand.minus is not None else count
        count += demand.minus is None
        loads.append(
            Load(
                plus=places[demand.plus], minus=back, law=demand.law, value=demand.value,
                least_v=demand.least_v,
            )
        )  # fmt: skip
    resistances = tuple(
        Resistance(a=places[link.a], b=places[link.b], resistance_ohm=link.resistance_ohm)
        for link in copper.links
    )
    chosen, inputs, asked, solution = _with_converters(
        copper, places, count, resistances, tuple(loads)
    )
    voltage_v = {
        pin: volt
        for pin, number in places.items()
        if (volt := solution.voltage_v[number]) is not None
    }
    flows = tuple(
        Flow(link=link, current_a=current_a)
        for link, current_a in zip(copper.links, solution.through_a, strict=True)
    )
    fed = tuple(
        LoadResult(demand=demand, voltage_v=across, current_a=current_a, status=status)
        for demand, across, current_a, status in zip(
            (*takes, *inputs), solution.across_v, solution.taken_a, solution.status, strict=True
        )
    )
    given = tuple(
        SourceResult(
            source_model=source_model,
            current_a=current_a,
            voltage_v=source_model.voltage_v - current_a * source_model.resistance_ohm,
        )
        for source_model, current_a in zip(chosen, solution.given_a, strict=True)
    ) + tuple(
        SourceResult(source_model=source_model, current_a=current_a, voltage_v=0.0, drops_out=True)
        for source_model, current_a in asked.items()
    )
    owners: dict[str, list[Flow]] = {}
    for flow in flows:
        owners.setdefault(flow.link.owner, []).append(flow)
    return SolvedFeeds(
        by_owner={owner: tuple(found) for owner, found in owners.items()},
        state=state, flows=flows, fed=fed, given=given, pin_voltage_v=voltage_v, nodes=count,
        iterations=solution.iterations, residual_a=solution.residual_a,
    )  # fmt: skip


def _with_converters(
    copper: Wiring,
    places: dict[PinRef, int],
    count: int,
    resistances: tuple[Resistance, ...],
    loads: tuple[Load, ...],
) -> tuple[tuple[SourceModel, ...], tuple[Demand, ...], dict[SourceModel, float], Solution]:
    """Solves with what converters take following what they give; one without a feed gives nothing.

    Each converter's input is a load of its own behind the others: P_in = P_out / efficiency.
    """
    source_models = copper.source_models
    watts = dict.fromkeys((g.by for g in source_models if g.by is not None and g.by in places), 0.0)
    backs = _returns(copper, places)
    asked: dict[SourceModel, float] = {}
    while True:
        for _ in range(ROUNDS):
            inputs = tuple(
                Load(plus=places[pin], minus=backs.get(pin, places[pin]), law="power", value=watt)
                for pin, watt in watts.items()
            )
            network = Network(
                nodes=count, resistances=resistances, loads=(*loads, *inputs),
                sources=tuple(
                    VoltageSource(
                        minus=places[g.minus], plus=places[g.plus], voltage_v=g.voltage_v,
                        resistance_ohm=g.resistance_ohm,
                    )
                    for g in source_models
                ),
            )  # fmt: skip
            solution = solve(network)
            wanted = dict.fromkeys(watts, 0.0)
            for source_model, current_a in zip(source_models, solution.given_a, strict=True):
                if source_model.by in wanted and source_model.by is not None:
                    power = max(
                        0.0,
                        current_a
                        * (source_model.voltage_v - current_a * source_model.resistance_ohm),
                    )
                    wanted[source_model.by] += power / feed_table().efficiency
            change = max((abs(wanted[pin] - watts[pin]) for pin in watts), default=0.0)
            watts = wanted
            if change < CLOSE_W:
                break
        dead = {
            source_model.by
            for source_model in source_models
            if source_model.by is not None and _is_dead(solution, places, backs, source_model.by)
        }
        dropping = _dropping_out(source_models, solution)
        if not dead and not dropping:
            passed = tuple(
                _input_of(source_models, pin, load.value)
                for (pin, _), load in zip(watts.items(), inputs, strict=True)
            )
            return source_models, passed, asked, solution
        asked.update(dropping)
        source_models = tuple(g for g in source_models if g.by not in dead and g not in dropping)
        fed = {source_model.by for source_model in source_models}
        watts = {pin: watt for pin, watt in watts.items() if pin in fed}


def _dropping_out(
    source_models: tuple[SourceModel, ...], solution: Solution
) -> dict[SourceModel, float]:
    """The source that is asked for most beyond what it limits at, with what it was asked for: one
    at a time, for the others may hang on it.
    """
    factor = feed_table().limit_factor
    over = [
        (current_a / source_model.current_max_a, source_model, current_a)
        for source_model, current_a in zip(source_models, solution.given_a, strict=True)
        if source_model.limits and current_a > factor * source_model.current_max_a
    ]
    if not over:
        return {}
    _, source_model, current_a = max(over, key=lambda item: item[0])
    return {source_model: current_a}


def _input_of(source_models: tuple[SourceModel, ...], pin: PinRef, watts: float) -> Demand:
    """What a converter takes for what it gives, as a take like any other."""
    source_model = next(source_model for source_model in source_models if source_model.by == pin)
    return Demand(
        plus=pin, minus=source_model.by_minus, law="power", value=watts,
        current_a=watts / source_model.by_v, nominal_v=source_model.by_v, least_v=0.0,
        most_v=source_model.by_v * 2, by="what hangs on it",
    )  # fmt: skip


def _is_dead(
    solution: Solution, places: dict[PinRef, int], backs: dict[PinRef, int], pin: PinRef
) -> bool:
    """Whether a converter's input has no voltage."""
    if pin not in places or pin not in backs:
        return True
    plus, minus = places[pin], backs[pin]
    voltage_v, back = solution.voltage_v[plus], solution.voltage_v[minus]
    if voltage_v is None or back is None or solution.islands[plus] != solution.islands[minus]:
        return True
    return voltage_v - back <= 0.5


def _returns(copper: Wiring, places: dict[PinRef, int]) -> dict[PinRef, int]:
    """The return node of each converter input: the one given with it."""
    found = {}
    for source_model in copper.source_models:
        if (
            source_model.by is not None
            and source_model.by_minus is not None
            and source_model.by_minus in places
        ):
            found[source_model.by] = places[source_model.by_minus]
    return found
