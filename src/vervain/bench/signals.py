"""Inputs one by one, each worked by hand; outputs one by one, each switched for a moment."""

from collections.abc import Iterator

from vervain.bench.step import BenchStep, Lamp, around, bench_table
from vervain.model.machine import PinRef, PortRef
from vervain.motion.figures import count_figures
from vervain.ports.occupancy import who_sits_at
from vervain.queries.machine_queries import Queries
from vervain.stops.contacts import input_of, used_contacts

WORKED = ("switch", "sensor", "emergency stop", "hand wheel")
SWITCHING = ("switched output", "relay contact")
SWITCHED = (
    "valve",
    "fan",
    "lamp",
    "heater",
    "brake",
    "contactor",
    "load",
    "brushed motor",
    "relay module",
)
SEEN = {
    "lamp": "it lights", "fan": "it turns", "valve": "it clicks and the air goes",
    "heater": "it gets warm, and its thermistor rises", "brake": "it clicks, the axis is free",
    "contactor": "it picks up", "relay module": "its relay clicks",
    "brushed motor": "it turns the right way",
}  # fmt: skip


def inputs(queries: Queries) -> Iterator[BenchStep]:
    """Every device that an input reads, and every encoder that is counted."""
    together = _read_together(queries)
    for name in queries.devices():
        part, entry = queries.part_of(name), input_of(queries, name)
        device = queries.device(name)
        if part is None or device is None or entry is None or part.kind not in WORKED:
            continue
        used = used_contacts(queries, name)
        goes_out = bool(used) and used[0].rest == "NC"
        see: Lamp = "goes out" if goes_out else "comes on" if used else "changes"
        shared = [other for other in together[entry] if other != name]
        others = f"; so it does for {', '.join(shared)}" if shared else "; no other input changes"
        yield BenchStep(
            id=f"input {name}",
            device=name,
            do=f"Work {name} {device.name} by hand".replace("  ", " "),
            see=f"the lamp of {entry.device} {entry.port} {see}{others}",
            port=entry.port_ref,
            reads=entry.port_ref,
            lamp=see,
            why=_taken(queries, entry.port_ref) or "What nobody saw may be on another input.",
        )
    for axis_id in queries.axes():
        counts, axis = count_figures(queries, axis_id), queries.axis(axis_id)
        if counts is None or axis is None or counts.counted_by is None:
            continue
        per_turn = counts.lines_per_turn * counts.decoding
        yield BenchStep(
            id=f"counts {axis_id}",
            device=counts.encoder,
            do=f"Turn {counts.encoder} once by hand, to the positive end of {axis_id}",
            see=f"{counts.counted_by.device} {counts.counted_by.port} counts up by {per_turn}",
            window=around(per_turn, bench_table().hand_alike_ratio, "counts"),
            reads=counts.counted_by,
            why="A loop closed on counts that go down runs away.",
        )


def _read_together(queries: Queries) -> dict[PinRef, list[str]]:
    """The devices that each input reads."""
    found: dict[PinRef, list[str]] = {}
    for name in queries.devices():
        entry = input_of(queries, name)
        if entry is not None:
            found.setdefault(entry, []).append(name)
    return found


def _taken(queries: Queries, port: PortRef) -> str:
    """How the controller takes an input, where that is not as it is."""
    taken = queries.setting(port.device, "invert", port.port)
    return "The controller takes it inverted." if taken == "inverted" else ""


def outputs(queries: Queries) -> Iterator[BenchStep]:
    """Everything that an output or a relay switches."""
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part else ():
            if port.kind not in SWITCHING or port.end != "host":
                continue
            ref = PortRef(device=name, port=port.id)
            told = {
                switched: words for switched in who_sits_at(queries, ref)
                if (words := _seen(queries, switched))
            }  # fmt: skip
            if told:
                first = next(iter(told))
                yield BenchStep(
                    id=f"output {name} {port.id}",
                    device=first,
                    do=f"Switch {name} {port.id} on for a second",
                    see=f"{', '.join(told.values())}; nothing else does anything",
                    port=ref,
                    why="Two exchanged outputs are found with a hand away from the tool.",
                    powers=(name, *told),
                )


def _seen(queries: Queries, switched: str) -> str:
    """What one sees of a device that is switched on; "" of one that an output does not switch."""
    device, part = queries.device(switched), queries.part_of(switched)
    if device is None or part is None or part.kind not in SWITCHED:
        return ""
    return f"{switched} {device.name}: {SEEN.get(part.kind, 'it works')}"
