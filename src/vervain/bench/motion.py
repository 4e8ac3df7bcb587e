"""Axes, one after the other; the stops; what is written down for later."""

from collections.abc import Iterator
from functools import partial

from vervain.bench.step import BenchStep, Window, around, bench_table
from vervain.electrical.mains import lines_of_taker
from vervain.leads.motors import order_at_driver
from vervain.model.machine import PinRef, PortRef
from vervain.motion.figures import count_figures, step_figures
from vervain.queries.machine_queries import Queries
from vervain.stops.compiling import circuit_of
from vervain.stops.contacts import input_of
from vervain.stops.verdicts import stop_verdicts
from vervain.tables.stop_rows import press_rows, stop_row

# How far an axis is taken to go that does not say it, in its own unit.
USUAL_TRAVEL = 20.0
# A channel goes on to a bridge or a controller, or straight to a servo.
CHANNELS = ("radio", "servo")
# What gives a value, and two places of it that a bench has at hand.
GIVING = {
    "thermistor": "room temperature, and in the warmth of a hand",
    "analogue sensor": "its lowest, and at its highest",
}


def axes(queries: Queries) -> Iterator[BenchStep]:
    """Each axis: it locks, goes the right way, as far as it is sent, and its counts agree."""
    table = bench_table()
    for axis_id in queries.axes():
        axis = queries.axis(axis_id)
        if axis is None or not axis.drives:
            continue
        unit, moved = axis.unit, _moved_by(queries, axis.drives)
        motors = " and ".join(axis.drives)
        # Far enough to measure, near enough to stay clear of the ends.
        sent = max(1, round((axis.travel or USUAL_TRAVEL) * table.sent_ratio))
        for motor in filter(partial(_holds, queries), axis.drives):
            yield BenchStep(
                id=f"lock {motor}",
                device=motor,
                do=f"Enable {axis_id}; try to turn {motor} by hand",
                see="it holds",
                why="A driver without current or enable lets go.",
                powers=moved,
            )
        together = f", {motors} together" if len(axis.drives) > 1 else ""
        yield BenchStep(
            id=f"direction {axis_id}",
            device=axis.drives[0],
            do=f"A hand on the stop; jog {axis_id} by +1 {unit}",
            see=f"it moves to its positive end, quietly{together}",
            why="Towards the wrong end the limits do not stop it.",
            powers=moved,
        )
        steps = step_figures(queries, axis_id, axis.drives[0])
        if steps is not None and steps.steps_per_unit:
            yield BenchStep(
                id=f"distance {axis_id}",
                device=axis.drives[0],
                do=f"Mark {axis_id}, send it {sent} {unit}, measure",
                see=f"{sent} {unit}, by {steps.steps_per_unit:.6g} steps a {unit}",
                window=around(sent, table.sent_alike_ratio, unit),
                why="Half or double is a microstep switch; a little off is the mechanism's.",
                powers=moved,
            )
        yield from _limits(queries, axis_id, moved)
        counts = count_figures(queries, axis_id)
        if counts is not None and counts.counts_per_unit and counts.encoder:
            yield BenchStep(
                id=f"agree {axis_id}",
                device=counts.encoder,
                do=f"Send {axis_id} {sent} {unit} and read the counts of {counts.encoder}",
                see=f"up by {sent * counts.counts_per_unit:.6g}",
                window=around(sent * counts.counts_per_unit, table.sent_alike_ratio, "counts"),
                reads=counts.counted_by,
                why="Sign and scale of motor and counter must agree before a loop is closed.",
                powers=moved,
            )


def _limits(queries: Queries, axis_id: str, moved: tuple[str, ...]) -> Iterator[BenchStep]:
    """Each limit stops the axis, by hand before by motion; then homing."""
    axis = queries.axis(axis_id)
    if axis is None:
        return
    for name, way in ((axis.min_limit, "negative"), (axis.max_limit, "positive")):
        entry = input_of(queries, name) if name is not None else None
        if name is None or entry is None:
            continue
        yield BenchStep(
            id=f"limit {axis_id} {name}",
            device=name,
            do=f"Jog {axis_id} slowly to its {way} end: press {name} by hand on the way, let go, "
            f"then let it run onto {name}",
            see=f"{axis_id} stops both times, and can be jogged back",
            why="What a hand does not stop, the end of the travel will.",
            port=entry.port_ref,
            powers=moved,
        )
    home = axis.home
    entry = input_of(queries, home) if home is not None else None
    if home is not None and entry is not None:
        yield BenchStep(
            id=f"home {axis_id}",
            device=home,
            do=f"A hand on the stop; home {axis_id}",
            see=f"it runs onto {home}, stops, and comes to rest clear of it",
            why="The wrong way, or past the switch, is seen with a hand on the stop.",
            port=entry.port_ref,
            powers=moved,
        )


def _holds(queries: Queries, motor: str) -> bool:
    """Whether a motor stands still against a hand once it is enabled: steppers and servos do."""
    part = queries.part_of(motor)
    return part is not None and (part.stepper is not None or part.kind == "servo")


def _moved_by(queries: Queries, motors: tuple[str, ...]) -> tuple[str, ...]:
    """Motors with their drivers: what comes under power where they move."""
    found = (order_at_driver(queries, motor) for motor in motors)
    return (*motors, *(at[0].device for at in found if at is not None))


def motors_at_mains(queries: Queries) -> Iterator[BenchStep]:
    """Each three-phase motor straight on the mains, started for a moment: which way it turns, no
    drawing tells.
    """
    circuit = circuit_of(queries)
    starts = dict.fromkeys(contact.device for contact in circuit.contacts if contact.is_start)
    by = f"{' or '.join(starts)} pressed for a moment" if starts else "On for a moment"
    for motor in queries.devices():
        part, lines = queries.part_of(motor), lines_of_taker(queries, motor)
        if part is not None and part.kind == "three-phase motor" and any(lines.values()):
            yield BenchStep(
                id=f"turn {motor}",
                device=motor,
                do=f"{by}: {motor}",
                see="it turns the way of its arrow, and does not hum",
                why="Two lines exchanged turn it round; with one missing it hums, and burns.",
                port=next(iter(lines)).port_ref,
                powers=(motor,),
            )


def stops(queries: Queries) -> Iterator[BenchStep]:
    """Each stop pressed, each door opened, with everything on."""
    for row in press_rows(queries):
        yield BenchStep(
            id=f"stop {row.stop}",
            device=row.stop,
            do=f"Everything on: {row.done}; then release it",
            see=row.words,
            why="Every one of them, each time something of the stops was changed.",
            powers=queries.devices(),
        )


def unplugged(queries: Queries) -> Iterator[BenchStep]:
    """Each plug whose loss opens a stop input at once, pulled while nothing moves."""
    seen: set[str] = set()
    for verdict in stop_verdicts(queries):
        fault = verdict.fault
        if fault.kind != "unplugged" or fault.plug is None or verdict.noticed != "at once":
            continue
        row, name = stop_row(queries, verdict), fault.plug.device
        opens = any(_is_stop_input(queries, change.pin.port_ref) for change in verdict.changed)
        if verdict.is_dangerous or name in seen or not opens:
            continue
        seen.add(name)
        yield BenchStep(
            id=f"unplug {name} {fault.plug.port}",
            device=name,
            do=f"Nothing moves, axes enabled: pull the plug of {name} {fault.plug.port}, put it "
            "back",
            see=f"power {row.power}; the controller sees {row.sees}",
            why="A plug that shakes loose must stop the machine, not the stop.",
            port=fault.plug,
            powers=queries.devices(),
        )


def _is_stop_input(queries: Queries, ref: PortRef) -> bool:
    port = queries.port(ref)
    return port is not None and port.kind == "stop input"


def calibration(queries: Queries) -> Iterator[BenchStep]:
    """What is measured once and written down: channels of receivers, sensors that give a value."""
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part and part.kind == "radio receiver" else ():
            pins = [PinRef(device=name, port=port.id, pin=pin.id) for pin in port.pins]
            if port.kind in CHANNELS and any(queries.steps(pin) for pin in pins):
                yield BenchStep(
                    id=f"channel {name} {port.id}",
                    device=name,
                    do=f"Transmitter on first; {name} {port.id}: stick low, neutral, high",
                    see="three values that rise, neutral near the middle; the same again within a "
                    "hundredth",
                    window=Window(unit="µs", form="low, neutral, high"),
                    port=PortRef(device=name, port=port.id),
                    why="The dead band around neutral is set by them.",
                )
        for port in part.ports if part else ():
            pins = [PinRef(device=name, port=port.id, pin=pin.id) for pin in port.pins]
            if port.kind in GIVING and port.end == "device" and any(map(queries.steps, pins)):
                yield BenchStep(
                    id=f"values {name} {port.id}",
                    device=name,
                    do=f"Read {name} twice: at {GIVING[port.kind]}",
                    see="two values that differ; each is what it is known to be",
                    window=Window(unit="", form="two that differ"),
                    port=PortRef(device=name, port=port.id),
                    why="One value hides a wrong table, or a wrong zero.",
                )
