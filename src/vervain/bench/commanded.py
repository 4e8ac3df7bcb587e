"""What is told by a voltage, a start contact or a bus: each told once, and looked at."""

from collections.abc import Iterator

from vervain.bench.step import BenchStep, around, bench_table
from vervain.electrical.unmet_needs import natures
from vervain.model.electrical import FeedOut, LogicOutput
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Port
from vervain.queries.connectivity import motors_of
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words


def commanded(queries: Queries) -> Iterator[BenchStep]:
    """A step for each analogue command, each drive that is started, each device on a bus."""
    makers = {"analogue command": _command, "drive control": _start, "bus": _bus}
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part else ():
            if port.kind in makers and port.end == "device":
                ref = PortRef(device=device, port=port.id)
                yield from makers[port.kind](queries, ref, port)


def _met(queries: Queries, ref: PortRef, port: Port) -> Iterator[tuple[PinRef, PinRef]]:
    """Each pin of a port with the pins of other devices on its net."""
    for pin in port.pins:
        at = PinRef(device=ref.device, port=ref.port, pin=pin.id)
        for other in queries.net(at):
            if other.device != ref.device:
                yield at, other


def _command(queries: Queries, ref: PortRef, port: Port) -> Iterator[BenchStep]:
    for at, other in _met(queries, ref, port):
        pin, met = queries.port(other.port_ref), queries.pin(other)
        given = met.electrical if met else None
        if pin is not None and pin.kind == "analogue sensor" and isinstance(given, LogicOutput):
            yield _knob(queries, ref, port, at, other.device)
            return
        if pin is None or pin.kind != "analogue output" or not isinstance(given, LogicOutput):
            continue
        half_v = (given.high_min_v or 0.0) / 2
        window = around(half_v, bench_table().alike_ratio, "V") if half_v else None
        yield BenchStep(
            id=f"command {ref.device} {ref.port}",
            device=ref.device,
            do=f"Nothing started: tell {other.device} {other.port} half; volts at "
            f"{pin_in_words(queries, at)}",
            see=f"about {half_v:g} V, and none as it is told nothing" if half_v else "half",
            window=window,
            port=other.port_ref,
            why="What gets another voltage turns at another speed.",
        )
        return


def _knob(queries: Queries, ref: PortRef, port: Port, at: PinRef, knob: str) -> BenchStep:
    """The step of what a hand tells a drive, from end to end of what the drive gives it."""
    most_v = max(
        (pin.electrical.nominal_v for pin in port.pins if isinstance(pin.electrical, FeedOut)),
        default=0.0,
    )
    return BenchStep(
        id=f"command {ref.device} {ref.port}",
        device=ref.device,
        do=f"Nothing started: turn {knob} to its upper end; volts at {pin_in_words(queries, at)}",
        see=f"about {most_v:g} V, and none at its lower end" if most_v else "the most, then none",
        window=around(most_v, bench_table().alike_ratio, "V") if most_v else None,
        port=ref,
        why="Turned round, it runs fastest where it should stand.",
    )


def _start(queries: Queries, ref: PortRef, port: Port) -> Iterator[BenchStep]:
    motors = motors_of(queries, ref.device)
    if not motors or not any(True for _ in _met(queries, ref, port)):
        return
    yield BenchStep(
        id=f"start {ref.device}",
        device=ref.device,
        do=f"A hand on the stop: start {ref.device} slowly, then let it stop",
        see=f"{', '.join(motors)} turns the right way, and comes to rest as it is let go",
        port=ref,
        powers=tuple(motors),
        why="A tool that turns the wrong way comes loose.",
    )


def _bus(queries: Queries, ref: PortRef, port: Port) -> Iterator[BenchStep]:
    head = next(
        (o.port_ref for _, o in _met(queries, ref, port) if "bus head" in natures(queries, o)), None
    )
    if head is None:
        return
    yield BenchStep(
        id=f"bus {ref.device} {ref.port}",
        device=ref.device,
        do=f"Ask for {ref.device} at {head.device} {head.port}",
        see=f"{ref.device} answers, and no other in its place",
        port=head,
        why="Two with one address answer at once, and one with a wrong one never does.",
    )
