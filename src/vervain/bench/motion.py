"""Axes, one after the other; the stops; what is written down for later."""

from collections.abc import Iterator

from vervain.bench.step import BenchStep, bench_table
from vervain.model.machine import PinRef
from vervain.motion.figures import count_figures, step_figures
from vervain.ports.occupancy import place_name
from vervain.queries.machine_queries import Queries
from vervain.tables.stop_rows import press_rows

# A channel goes on to a bridge or a controller, or straight to a servo.
CHANNELS = ("radio", "servo")


def axes(queries: Queries) -> Iterator[BenchStep]:
    """Each axis: it locks, goes the right way, as far as it is sent, and its counts agree."""
    for axis_id in queries.axes():
        axis = queries.axis(axis_id)
        if axis is None or not axis.drives:
            continue
        unit = "mm" if axis.motion == "linear" else "°"
        motors = " and ".join(axis.drives)
        place = place_name(queries, axis.drives[0])
        # Far enough to measure, near enough to stay clear of the ends.
        sent = round((axis.travel or 20.0) * bench_table().sent_ratio)
        for motor in axis.drives:
            yield BenchStep(
                id=f"lock {motor}", section="Axes", device=motor, place=place_name(queries, motor),
                do=f"Enable {axis_id}; try to turn {motor} by hand", see="it holds",
                why="A driver without current or enable lets go.",
            )  # fmt: skip
        together = f", {motors} together" if len(axis.drives) > 1 else ""
        yield BenchStep(
            id=f"direction {axis_id}", section="Axes", device=axis.drives[0], place=place,
            do=f"A hand on the stop; jog {axis_id} by +1 {unit}",
            see=f"it moves to its positive end, quietly{together}",
            why="Towards the wrong end the limits do not stop it.",
        )  # fmt: skip
        steps = step_figures(queries, axis_id, axis.drives[0])
        if steps is not None and steps.steps_per_unit:
            yield BenchStep(
                id=f"distance {axis_id}", section="Axes", device=axis.drives[0], place=place,
                do=f"Mark {axis_id}, send it {sent} {unit}, measure",
                see=f"{sent} {unit}, by {steps.steps_per_unit:.6g} steps a {unit}",
                why="Half or double is a microstep switch; a little off is the mechanism's.",
            )  # fmt: skip
        counts = count_figures(queries, axis_id)
        if counts is not None and counts.counts_per_unit and counts.encoder:
            yield BenchStep(
                id=f"agree {axis_id}", section="Axes", device=counts.encoder,
                place=place_name(queries, counts.encoder),
                do=f"Send {axis_id} {sent} {unit} and read the counts of {counts.encoder}",
                see=f"up by {sent * counts.counts_per_unit:.6g}",
                why="Sign and scale of motor and counter must agree before a loop is closed.",
            )  # fmt: skip


def stops(queries: Queries) -> Iterator[BenchStep]:
    """Each stop pressed, each door opened, with everything on."""
    for row in press_rows(queries):
        yield BenchStep(
            id=f"stop {row.stop}", section="Stops", device=row.stop,
            place=place_name(queries, row.stop),
            do=f"Everything on: {row.done}; then release it",
            see=f"power {row.power}; the controller sees {row.sees}; released: {row.releasing}",
            why="Every one of them, each time something of the stops was changed.",
        )  # fmt: skip


def calibration(queries: Queries) -> Iterator[BenchStep]:
    """What is measured once and written down: the channels of receivers that are joined."""
    for name in queries.devices():
        part = queries.part_of(name)
        for port in part.ports if part and part.kind == "radio receiver" else ():
            pins = [PinRef(device=name, port=port.id, pin=pin.id) for pin in port.pins]
            if port.kind in CHANNELS and any(queries.steps(pin) for pin in pins):
                yield BenchStep(
                    id=f"channel {name} {port.id}", section="Calibration", device=name,
                    place=place_name(queries, name),
                    do=f"Transmitter on first; {name} {port.id}: stick low, neutral, high",
                    see="write the three down; they stay the same within a hundredth",
                    why="The dead band around neutral is set by them.",
                )  # fmt: skip
