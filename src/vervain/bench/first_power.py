"""The first time under power: one supply at a time, unplugged, then one device after another."""

import math
from collections.abc import Iterator

from vervain.bench.step import BenchStep, Window, bench_table
from vervain.electrical.feeds import (
    REGULATED,
    loop_end,
    returns_of,
    sources_of,
    sources_through_outputs,
    zero_pin_of,
)
from vervain.electrical.outputs import outputs_among
from vervain.model.electrical import FeedOut
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.stops.compiling import circuit_of
from vervain.supply.results import SupplyLoad, delivered_power, source_name, supply_loads
from vervain.supply.voltage_profile import feed_path
from vervain.text.units import volts_words

# So near to the end of what a device takes, a supply is rated at that end.
AT_THE_END = 0.02
# How far the volts may be off where a device does not say what it takes.
NOT_GIVEN_RATIO = 0.1


def first_power(queries: Queries) -> Iterator[BenchStep]:
    """The steps, source by source: what feeds others comes first, and what works the contactors
    that others feed through.
    """
    before = _needed_before(queries)
    for load in sorted(supply_loads(queries, "idle"), key=lambda x: _depth(x.pin.device, before)):
        is_supply = source_name(queries, load.pin) == load.pin.device
        if is_supply:
            yield _open_volts(queries, load)
        yield from _consumers(queries, load.pin)
        if is_supply:
            yield _amps(queries, load)


def _needed_before(queries: Queries) -> dict[str, set[str]]:
    """By device what has to be on before it: its own source, and those of the coils whose contacts
    lie between it and what it feeds.
    """
    found: dict[str, set[str]] = {}
    for row in delivered_power(queries, "idle"):
        if row.source is not None:
            found.setdefault(row.pin.device, set()).add(row.source.device)
            found.setdefault(row.source.device, set()).update(coil_sources(queries, row.pin))
    return {device: others - {device} for device, others in found.items()}


@query
def coil_sources(queries: Queries, consumer: PinRef) -> tuple[str, ...]:
    """The sources of the coils that work contacts on the way to a consumer, its own left out."""
    rows = delivered_power(queries, "idle")
    own = next((row.source for row in rows if row.pin == consumer), None)
    if own is None:
        return ()
    gates = _contacts_before(queries, consumer)
    sources = (row.source.device for row in rows if row.source and row.pin.device in gates)
    return tuple(dict.fromkeys(name for name in sources if name != own.device))


@query
def _contacts_before(queries: Queries, consumer: PinRef) -> frozenset[str]:
    """The devices whose contacts lie between a consumer and its source."""
    path = feed_path(queries, "idle", consumer)
    flows = path.out if path is not None else ()
    return frozenset(flow.link.owner for flow, _ in flows if flow.link.kind == "contact")


def _depth(device: str, before: dict[str, set[str]], seen: tuple[str, ...] = ()) -> int:
    """How many others have to be on before one."""
    others = before.get(device, set()) - {device, *seen}
    return max((_depth(other, before, (*seen, device)) + 1 for other in others), default=0)


def _open_volts(queries: Queries, load: SupplyLoad) -> BenchStep:
    device, pin = load.pin.device, queries.pin(load.pin)
    feed = pin.electrical if pin is not None else None
    least, most = load.nominal_v, load.nominal_v
    kind = "volts"
    if isinstance(feed, FeedOut):
        least, most = feed.lowest_v, feed.highest_v
        if feed.current_type == "AC":
            most, kind = feed.nominal_v * (1 + bench_table().no_load_ratio), "alternating volts"
    return BenchStep(
        id=f"volts {device} {load.pin.port} {load.pin.pin}",
        device=device,
        do=f"Stops pressed, every load of {device} unplugged, only {device} on: {kind} at "
        f"{pin_in_words(queries, load.pin)}",
        see=volts_words(least, most),
        window=Window(unit="V", least=least, most=most),
        probes=tuple((load.pin, back) for back in returns_of(queries, load.pin)[:1]),
        port=load.pin.port_ref,
        why="A wrong setting or a dead supply shows before it feeds.",
    )


def _consumers(queries: Queries, source: PinRef) -> Iterator[BenchStep]:
    circuit = circuit_of(queries)
    buttons = dict.fromkeys(c.device for c in circuit.contacts if c.is_start)
    starts = f", {' and '.join(buttons)} pressed once" if buttons else ""
    behind_stops = {circuit.loads[number].ref.device for number in circuit.must_go}
    rows = [r for r in delivered_power(queries, "idle") if r.source == source]
    gates = {r.pin.device: set(_contacts_before(queries, r.pin)) for r in rows}
    # A coil is plugged before what its contacts feed.
    for row in sorted(rows, key=lambda r: _depth(r.pin.device, gates)):
        if row.voltage_v is None:
            continue
        device, port = row.pin.device, row.pin.port
        part = queries.part_of(device)
        back = zero_pin_of(queries, row.pin, None)
        is_switched = back is not None and _is_switched(queries, back)
        is_given = not sources_of(queries, row.pin) and sources_through_outputs(queries, row.pin)
        if is_switched or is_given or _is_commanded(queries, row.pin):
            # What an output works has no volts yet: the step of that output shows it.
            continue
        is_behind = device in behind_stops
        is_behind = is_behind or not _contacts_before(queries, row.pin).isdisjoint(circuit.stops)
        stops = f"Stops released{starts}: volts" if is_behind else "Volts"
        if others := coil_sources(queries, row.pin):
            stops = f"{' and '.join(others)} on as well. {stops}"
        if part is not None and part.kind == "radio receiver":
            # What a receiver gives without its transmitter is anybody's guess.
            stops = f"Transmitter on, sticks neutral. {stops}"
        # At a loose plug a loop carries no current, and its input loses nothing.
        is_loop = loop_end(queries, row.pin) is not None
        volts = row.source_v if is_loop and row.source_v else row.voltage_v
        least, most = row.least_v, row.most_v
        if math.isinf(most):
            # What it bears is not given: about what comes there as planned.
            least, most = volts * (1 - NOT_GIVEN_RATIO), volts * (1 + NOT_GIVEN_RATIO)
        # A supply that is rated at the end of a window is meant by it, as the check takes it.
        if volts * (1 - AT_THE_END) < least:
            least = volts * (1 - REGULATED)
        if volts * (1 + AT_THE_END) > most:
            most = volts * (1 + REGULATED)
        yield BenchStep(
            id=f"feed {device} {port} {row.pin.pin}",
            device=device,
            do=f"{stops} at the loose plug of {device} {port}, plus at "
            f"{pin_in_words(queries, row.pin)}; then plug it",
            see=f"{volts_words(least, most)}, about {volts:.3g} V; nothing gets warm",
            window=Window(unit="V", least=least, most=most),
            probes=((row.pin, back),) if back is not None else (),
            port=row.pin.port_ref,
            why="Turned, or at the wrong outlet, it is seen before it burns.",
        )


def _is_switched(queries: Queries, back: PinRef) -> bool:
    """Whether an output switches the way back of a load."""
    others = (ref for ref in queries.net(back) if ref.device != back.device)
    return bool(outputs_among(queries, others))


def _is_commanded(queries: Queries, plus: PinRef) -> bool:
    """Whether the plus of a load comes through a relay that a controller works."""
    met = ((queries.port(ref.port_ref), queries.pin(ref)) for ref in queries.net(plus))
    return any(
        port is not None and port.kind == "relay contact"
        and pin is not None and pin.function == "no"
        for port, pin in met
    )  # fmt: skip


def _amps(queries: Queries, load: SupplyLoad) -> BenchStep:
    device = load.pin.device
    return BenchStep(
        id=f"amps {device} {load.pin.port} {load.pin.pin}",
        device=device,
        do=f"Everything of {device} plugged: amps it gives",
        see=f"about {abs(load.current_a):.2g} A, never above {load.rated_a:.3g} A",
        window=Window(
            unit="A",
            most=load.rated_a,
            least=abs(load.current_a) * bench_table().amps_least_ratio,
        ),
        probes=tuple((load.pin, back) for back in returns_of(queries, load.pin)[:1]),
        port=load.pin.port_ref,
        why="Much more is a load that is on, or a short; nothing is a fuse.",
        powers=tuple(name for name, _ in load.shares),
    )
