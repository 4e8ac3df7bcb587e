"""The machine's feeds solved for one operating state: voltages, currents, heat."""

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
from vervain.queries.look import Look
from vervain.supply.loads import Take, takes_in
from vervain.supply.network_model import Giver, Link, conductor_links, givers_of, inside_links
from vervain.supply.states import State, feed_table

# How often what converters take is worked out anew from what they give.
ROUNDS = 8
CLOSE_W = 1e-4


class Flow(Record, frozen=True, kw_only=True):
    """The current of a link, from its a to its b, and the heat in it."""

    link: Link
    amps: float

    @property
    def heat_w(self) -> float:
        """I^2 R."""
        return self.amps**2 * self.link.ohm


class Fed(Record, frozen=True, kw_only=True):
    """How a consumer fares: the voltage across it (None where nothing feeds it), its current."""

    take: Take
    volts: float | None
    amps: float
    status: Status


class Given(Record, frozen=True, kw_only=True):
    """What a source gives, and the voltage at its terminals; `drops_out` where it was asked for far
    too much: `amps` is then what it was asked for, and nothing is fed.
    """

    giver: Giver
    amps: float
    volts: float
    drops_out: bool = False


class Feeding(Record, frozen=True, kw_only=True):
    """One state, solved. Voltages of pins are against the minus of the first source of their
    island.
    """

    state: State
    flows: tuple[Flow, ...]
    fed: tuple[Fed, ...]
    given: tuple[Given, ...]
    pin_volts: dict[PinRef, float]
    iterations: int
    residual_a: float
    nodes: int

    by_owner: dict[str, tuple[Flow, ...]]


class Wiring(Record, frozen=True, kw_only=True):
    """Everything that joins pins, the sources, and the pins in the order of their nodes."""

    pins: tuple[PinRef, ...]
    links: tuple[Link, ...]
    givers: tuple[Giver, ...]


@query
def wiring(look: Look) -> Wiring:
    """The whole machine's copper and sources."""
    links = [link for hookup in look.hookups() for link in conductor_links(look, hookup)]
    givers: list[Giver] = []
    for device in look.devices():
        links.extend(inside_links(look, device))
        givers.extend(givers_of(look, device))
    pins: dict[PinRef, None] = {}
    for link in links:
        pins[link.a] = pins[link.b] = None
    for giver in givers:
        pins[giver.plus] = pins[giver.minus] = None
    return Wiring(pins=tuple(pins), links=tuple(links), givers=tuple(givers))


@query
def feeding(look: Look, state: State) -> Feeding:
    """The machine's feeds in a state."""
    copper = wiring(look)
    takes = [take for device in look.devices() for take in takes_in(look, device, state)]
    return _solved(state, copper, tuple(takes))


def _solved(state: State, copper: Wiring, takes: tuple[Take, ...]) -> Feeding:
    places = {pin: number for number, pin in enumerate(copper.pins)}
    count = len(places)
    for take in takes:
        for pin in (take.plus, take.minus):
            if pin is not None and pin not in places:
                places[pin] = count
                count += 1
    # A consumer without a return has a node of its own there: nothing flows.
    loads = []
    for take in takes:
        back = places[take.minus] if take.minus is not None else count
        count += take.minus is None
        loads.append(
            Load(
                plus=places[take.plus], minus=back, law=take.law, value=take.value,
                least_v=take.least_v,
            )
        )  # fmt: skip
    resistances = tuple(
        Resistance(a=places[link.a], b=places[link.b], ohm=link.ohm) for link in copper.links
    )
    chosen, inputs, asked, solution = _with_converters(
        copper, places, count, resistances, tuple(loads)
    )
    volts = {
        pin: volt for pin, number in places.items() if (volt := solution.volts[number]) is not None
    }
    flows = tuple(
        Flow(link=link, amps=amps)
        for link, amps in zip(copper.links, solution.through_a, strict=True)
    )
    fed = tuple(
        Fed(take=take, volts=across, amps=amps, status=status)
        for take, across, amps, status in zip(
            (*takes, *inputs), solution.across_v, solution.taken_a, solution.status, strict=True
        )
    )
    given = tuple(
        Given(giver=giver, amps=amps, volts=giver.volts - amps * giver.ohm)
        for giver, amps in zip(chosen, solution.given_a, strict=True)
    ) + tuple(
        Given(giver=giver, amps=amps, volts=0.0, drops_out=True) for giver, amps in asked.items()
    )
    owners: dict[str, list[Flow]] = {}
    for flow in flows:
        owners.setdefault(flow.link.owner, []).append(flow)
    return Feeding(
        by_owner={owner: tuple(found) for owner, found in owners.items()},
        state=state, flows=flows, fed=fed, given=given, pin_volts=volts, nodes=count,
        iterations=solution.iterations, residual_a=solution.residual_a,
    )  # fmt: skip


def _with_converters(
    copper: Wiring,
    places: dict[PinRef, int],
    count: int,
    resistances: tuple[Resistance, ...],
    loads: tuple[Load, ...],
) -> tuple[tuple[Giver, ...], tuple[Take, ...], dict[Giver, float], Solution]:
    """Solves with what converters take following what they give; one without a feed gives nothing.

    Each converter's input is a load of its own behind the others: P_in = P_out / efficiency.
    """
    givers = copper.givers
    watts = dict.fromkeys((g.by for g in givers if g.by is not None and g.by in places), 0.0)
    backs = _returns(copper, places)
    asked: dict[Giver, float] = {}
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
                        minus=places[g.minus], plus=places[g.plus], volts=g.volts, ohm=g.ohm
                    )
                    for g in givers
                ),
            )  # fmt: skip
            solution = solve(network)
            wanted = dict.fromkeys(watts, 0.0)
            for giver, amps in zip(givers, solution.given_a, strict=True):
                if giver.by in wanted and giver.by is not None:
                    power = max(0.0, amps * (giver.volts - amps * giver.ohm))
                    wanted[giver.by] += power / feed_table().efficiency
            change = max((abs(wanted[pin] - watts[pin]) for pin in watts), default=0.0)
            watts = wanted
            if change < CLOSE_W:
                break
        dead = {
            giver.by
            for giver in givers
            if giver.by is not None and _is_dead(solution, places, backs, giver.by)
        }
        dropping = _dropping_out(givers, solution)
        if not dead and not dropping:
            passed = tuple(
                _input_of(givers, pin, load.value)
                for (pin, _), load in zip(watts.items(), inputs, strict=True)
            )
            return givers, passed, asked, solution
        asked.update(dropping)
        givers = tuple(g for g in givers if g.by not in dead and g not in dropping)
        fed = {giver.by for giver in givers}
        watts = {pin: watt for pin, watt in watts.items() if pin in fed}


def _dropping_out(givers: tuple[Giver, ...], solution: Solution) -> dict[Giver, float]:
    """The source that is asked for most beyond what it limits at, with what it was asked for: one
    at a time, for the others may hang on it.
    """
    factor = feed_table().limit_factor
    over = [
        (amps / giver.current_max_a, giver, amps)
        for giver, amps in zip(givers, solution.given_a, strict=True)
        if giver.limits and amps > factor * giver.current_max_a
    ]
    if not over:
        return {}
    _, giver, amps = max(over, key=lambda item: item[0])
    return {giver: amps}


def _input_of(givers: tuple[Giver, ...], pin: PinRef, watts: float) -> Take:
    """What a converter takes for what it gives, as a take like any other."""
    giver = next(giver for giver in givers if giver.by == pin)
    return Take(
        plus=pin, minus=giver.by_minus, law="power", value=watts, amps=watts / giver.by_v,
        nominal_v=giver.by_v, least_v=0.0, most_v=giver.by_v * 2, by="what hangs on it",
    )  # fmt: skip


def _is_dead(
    solution: Solution, places: dict[PinRef, int], backs: dict[PinRef, int], pin: PinRef
) -> bool:
    """Whether a converter's input has no voltage."""
    if pin not in places or pin not in backs:
        return True
    plus, minus = places[pin], backs[pin]
    volts, back = solution.volts[plus], solution.volts[minus]
    if volts is None or back is None or solution.islands[plus] != solution.islands[minus]:
        return True
    return volts - back <= 0.5


def _returns(copper: Wiring, places: dict[PinRef, int]) -> dict[PinRef, int]:
    """The return node of each converter input: the one given with it."""
    found = {}
    for giver in copper.givers:
        if giver.by is not None and giver.by_minus is not None and giver.by_minus in places:
            found[giver.by] = places[giver.by_minus]
    return found
