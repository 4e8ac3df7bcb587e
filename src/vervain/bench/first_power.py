"""The first time under power: one supply at a time, unplugged, then one device after another."""

from collections.abc import Iterator

from vervain.bench.step import BenchStep, Window, bench_table, volts_words
from vervain.electrical.feeds import loop_end, returns_of, zero_pin_of
from vervain.electrical.outputs import outputs_among
from vervain.model.electrical import FeedOut
from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.stops.compiling import circuit_of
from vervain.supply.results import SupplyLoad, delivered_power, source_name, supply_loads


def first_power(queries: Queries) -> Iterator[BenchStep]:
    """The steps, source by source: what feeds others comes first."""
    fed_by = _fed_by(queries)
    for load in sorted(supply_loads(queries, "idle"), key=lambda x: _depth(x.pin.device, fed_by)):
        is_supply = source_name(queries, load.pin) == load.pin.device
        if is_supply:
            yield _open_volts(queries, load)
        yield from _consumers(queries, load.pin)
        if is_supply:
            yield _amps(queries, load)


def _fed_by(queries: Queries) -> dict[str, str]:
    """By device the one that feeds it: converters behind supplies."""
    return {
        row.pin.device: row.source.device
        for row in delivered_power(queries, "idle")
        if row.source is not None and row.source.device != row.pin.device
    }


def _depth(device: str, fed_by: dict[str, str]) -> int:
    """How many sources lie before one."""
    seen = [device]
    while (before := fed_by.get(seen[-1])) is not None and before not in seen:
        seen.append(before)
    return len(seen)


def _open_volts(queries: Queries, load: SupplyLoad) -> BenchStep:
    device, pin = load.pin.device, queries.pin(load.pin)
    feed = pin.electrical if pin is not None else None
    least, most = load.nominal_v, load.nominal_v
    if isinstance(feed, FeedOut):
        least, most = feed.lowest_v, feed.highest_v
    return BenchStep(
        id=f"volts {device} {load.pin.port} {load.pin.pin}",
        device=device,
        do=f"Stops pressed, every load of {device} unplugged, only {device} on: volts at "
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
    for row in delivered_power(queries, "idle"):
        if row.source != source or row.voltage_v is None:
            continue
        device, port = row.pin.device, row.pin.port
        part = queries.part_of(device)
        back = zero_pin_of(queries, row.pin, None)
        if (back is not None and _is_switched(queries, back)) or _is_commanded(queries, row.pin):
            # What an output works has no volts yet: the step of that output shows it.
            continue
        stops = f"Stops released{starts}: volts" if device in behind_stops else "Volts"
        if part is not None and part.kind == "radio receiver":
            # What a receiver gives without its transmitter is anybody's guess.
            stops = f"Transmitter on, sticks neutral. {stops}"
        # At a loose plug a loop carries no current, and its input loses nothing.
        is_loop = loop_end(queries, row.pin) is not None
        volts = row.source_v if is_loop and row.source_v else row.voltage_v
        yield BenchStep(
            id=f"feed {device} {port} {row.pin.pin}",
            device=device,
            do=f"{stops} at the loose plug of {device} {port}, plus at "
            f"{pin_in_words(queries, row.pin)}; then plug it",
            see=f"{volts_words(row.least_v, row.most_v)}, about {volts:.3g} V; nothing gets warm",
            window=Window(unit="V", least=row.least_v, most=row.most_v),
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
        see=f"about {load.current_a:.2g} A, never above {load.rated_a:.3g} A",
        window=Window(
            unit="A", least=load.current_a * bench_table().amps_least_ratio, most=load.rated_a
        ),
        probes=tuple((load.pin, back) for back in returns_of(queries, load.pin)[:1]),
        port=load.pin.port_ref,
        why="Much more is a load that is on, or a short; nothing is a fuse.",
        powers=tuple(name for name, _ in load.shares),
    )
