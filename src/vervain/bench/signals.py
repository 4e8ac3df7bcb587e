"""Inputs one by one, each worked by hand; outputs one by one, each switched for a moment."""

from collections import Counter
from collections.abc import Iterator

from vervain.bench.step import BenchStep, LampChange, around, bench_table
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part
from vervain.motion.figures import count_figures, wheel_figures
from vervain.ports.occupancy import who_sits_at
from vervain.queries.connectivity import neighbours_at
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_text
from vervain.stops.compiling import circuit_of
from vervain.stops.contacts import UsedContact, input_from, input_of, used_contacts
from vervain.stops.words import kind_of_stop
from vervain.stops.worked_machine import WorkedMachine

# What a hand does to a device.
WORD = {"button": "Work", "door": "Open", "curtain": "Reach into"}
WORKED = ("switch", "sensor", "emergency stop", "hand wheel")
SWITCHING = ("switched output", "relay contact")
SWITCHED = (
    "valve",
    "fan",
    "lamp",
    "heater",
    "brake",
    "contactor",
    "solid-state relay",
    "load",
    "brushed motor",
    "relay module",
)
SEEN = {
    "lamp": "it lights", "fan": "it turns", "valve": "it clicks and the air goes",
    "heater": "it gets warm, and its thermistor rises", "brake": "it clicks, the axis is free",
    "contactor": "it picks up", "solid-state relay": "its lamp lights",
    "relay module": "its relay clicks",
    "brushed motor": "it turns the right way",
}  # fmt: skip


def inputs(queries: Queries) -> Iterator[BenchStep]:
    """Every device that inputs read, each position of a selector, and every encoder."""
    together, machine = _read_together(queries), WorkedMachine(queries)
    for name in queries.devices():
        part = queries.part_of(name)
        if part is None or part.kind not in WORKED:
            continue
        if (keys := _keys(queries, name)) is not None:
            yield keys
            continue
        positions = _positions(queries, name)
        for contact in positions or (None,):
            yield from _input(machine, name, contact if len(positions) > 1 else None, together)
    yield from _wheels(queries)
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


def _keys(queries: Queries, name: str) -> BenchStep | None:
    """The step of a keypad, whose rows are driven and columns read: no lamp shows a key."""
    part, device = queries.part_of(name), queries.device(name)
    for port in part.ports if part is not None and device is not None else ():
        counts = Counter(pin.function for pin in port.pins)
        ref = PortRef(device=name, port=port.id)
        is_matrix = min(counts["enable"], counts["signal"]) > 1 and not counts["plus"]
        if is_matrix and device is not None and neighbours_at(queries, ref):
            called = f"{name} {device.name}".strip()
            return BenchStep(
                id=f"input {name}", device=name,
                do=f"Press each key of {called}, one after the other",
                see="the program names each key, and no two alike",
                port=ref,
                why="Two lines exchanged make other keys of some, and of some none.",
            )  # fmt: skip
    return None


def _wheels(queries: Queries) -> Iterator[BenchStep]:
    """A turn of each hand wheel that is counted."""
    for name in queries.devices():
        wheel, device = wheel_figures(queries, name), queries.device(name)
        if wheel is None or device is None:
            continue
        at = wheel.counted_by
        yield BenchStep(
            id=f"wheel {name}",
            device=name,
            do=f"Turn {name} {device.name} once by hand, to the right",
            see=f"{at.device} {at.port} counts up by {wheel.counts_per_turn}",
            window=around(wheel.counts_per_turn, bench_table().hand_alike_ratio, "counts"),
            port=at,
            reads=at,
            why="A wheel that counts the wrong way drives the tool into the work.",
        )


def _input(
    machine: WorkedMachine,
    name: str,
    position: UsedContact | None,
    together: dict[PinRef, list[str]],
) -> Iterator[BenchStep]:
    """The step of a device, or of one position of it."""
    queries = machine.queries
    pressed = circuit_of(queries).stops if _starts(queries, name) else ()
    lamps, device = _lamps(machine, name, position, pressed), queries.device(name)
    if not lamps or device is None or _is_measured(queries, lamps[0].port):
        return
    told = " and ".join(f"the lamp of {x.port.device} {x.port.port} {x.does}" for x in lamps)
    entries = [entry for entry, others in together.items() if name in others]
    shared = dict.fromkeys(other for entry in entries for other in together[entry] if other != name)
    others = f"; so it does for {', '.join(shared)}" if shared else "; no other input changes"
    word = WORD[kind_of_stop(circuit_of(queries), name)]
    do, step_id = f"{word} {name} {device.name} by hand".replace("  ", " "), f"input {name}"
    if position is not None:
        a, b = (pin_text(queries, pin) for pin in position.pins)
        do = f"Turn {name} {device.name} to the position that joins {a} and {b}"
        step_id, others = f"input {name} {a} {b}", "; the other positions' lamps are out"
    if pressed:
        do = f"{' and '.join(pressed)} pressed: {do[:1].lower()}{do[1:]}"
    first = lamps[0].port
    yield BenchStep(
        id=step_id, device=name, do=do, see=told + others, port=first, reads=first, lamps=lamps,
        pressed=pressed, contact=position.pins if position is not None else None,
        why=_taken(queries, first) or "What nobody saw may be on another input.",
    )  # fmt: skip


def _is_measured(queries: Queries, ref: PortRef) -> bool:
    """Whether a port reads a value, which no lamp shows."""
    port = queries.port(ref)
    return port is not None and port.kind in ("analogue input", "analogue command")


def _starts(queries: Queries, name: str) -> bool:
    """Whether a device starts the machine: its input is looked at with the stops pressed."""
    return any(
        contact.device == name and contact.is_start for contact in circuit_of(queries).contacts
    )


def _positions(queries: Queries, name: str) -> tuple[UsedContact, ...]:
    """The contacts of a selector that are used: NO ones that share a pin, closed one at a time."""
    found = used_contacts(queries, name)
    used = [contact for contact in found if contact.rest == "NO" and not contact.is_held]
    pins = Counter(pin for contact in used for pin in contact.pins)
    return tuple(c for c in used if len(used) > 1 and any(pins[pin] > 1 for pin in c.pins))


def _lamps(
    machine: WorkedMachine, name: str, position: UsedContact | None, pressed: tuple[str, ...]
) -> tuple[LampChange, ...]:
    """What the lamps of the controllers do while a device is worked, by the circuit: its own, and
    those that follow through relays and contactors; that of its own input at the head.
    """
    queries = machine.queries
    machine.rest(frozenset(pressed))
    before = machine.lit()
    machine.work(name, True, position.pins if position is not None else None)
    after = machine.lit()
    entry = input_from(queries, list(position.pins)) if position else input_of(queries, name)
    own = entry.port_ref if entry is not None else None
    changed = [port for port in before if before[port] != after.get(port) and own is not None]
    if own is not None and own not in changed:
        # A start button in a line that the stops take the power of shows nothing while they do.
        return () if pressed else (LampChange(port=own, does="changes"),)
    return tuple(
        LampChange(port=port, does="comes on" if after[port] else "goes out")
        for port in sorted(changed, key=lambda port: port != own)
        if port == own or _is_controller(queries, port.device)
    )


def _is_controller(queries: Queries, name: str) -> bool:
    part = queries.part_of(name)
    return part is not None and part.kind == "controller"


def _read_together(queries: Queries) -> dict[PinRef, list[str]]:
    """The devices that each input reads and that a hand works."""
    found: dict[PinRef, list[str]] = {}
    for name in queries.devices():
        part, entry = queries.part_of(name), input_of(queries, name)
        if entry is not None and part is not None and part.kind in WORKED:
            found.setdefault(entry, []).append(name)
    return found


def _taken(queries: Queries, port: PortRef) -> str:
    """How the controller takes an input, where that is not as it is."""
    taken = queries.setting(port.device, "invert", port.port)
    return "The controller takes it inverted." if taken == "inverted" else ""


def outputs(queries: Queries) -> Iterator[BenchStep]:
    """Everything that an output switches, through relays as well; then relays that none works."""
    machine, done = WorkedMachine(queries), set[str]()
    at_rest = machine.settled.on
    for kind in SWITCHING:
        for name in queries.devices():
            part = queries.part_of(name)
            for port in part.ports if part else ():
                if port.kind != kind or port.end != "host":
                    continue
                ref = PortRef(device=name, port=port.id)
                machine.rest()
                machine.switch_on(ref)
                switched = dict.fromkeys(
                    other for other in who_sits_at(queries, ref) if _is_fed_at(queries, other, ref)
                )
                more = machine.devices_of(machine.settled.on - at_rest)
                switched |= dict.fromkeys(d for d in queries.devices() if d in more)
                told = {
                    other: words for other in switched
                    if not (kind == "relay contact" and other in done)
                    and (words := _seen(queries, other))
                }  # fmt: skip
                if told:
                    done.update(told)
                    yield BenchStep(
                        id=f"output {name} {port.id}",
                        device=next(iter(told)),
                        do=f"Switch {name} {port.id} on for a second",
                        see=f"{', '.join(told.values())}; nothing else does anything",
                        port=ref,
                        why="Two exchanged outputs are found with a hand away from the tool.",
                        powers=(name, *told),
                    )


def _is_fed_at(queries: Queries, device: str, ref: PortRef) -> bool:
    """Whether it is power for a device that comes from a port, not only what its contact passes."""
    ports = [queries.port(at) for at in neighbours_at(queries, ref) if at.device == device]
    part = queries.part_of(device)
    if part is not None and part.kind == "relay module" and not _has_contacts(part):
        # What a module without relays switches shows at its own output.
        return False
    passed = [port is None or port.end == "through" or port.kind == "terminals" for port in ports]
    return not all(passed) or not ports


def _has_contacts(part: Part) -> bool:
    return any(isinstance(element, Contact) for element in part.inside)


def _seen(queries: Queries, switched: str) -> str:
    """What one sees of a device that is switched on; "" of one that an output does not switch."""
    device, part = queries.device(switched), queries.part_of(switched)
    if device is None or part is None or part.kind not in SWITCHED:
        return ""
    return f"{switched} {device.name}: {SEEN.get(part.kind, 'it works')}"
