"""Rules about speeds: what an axis asks of its driver, controller, encoder and counter."""

from collections.abc import Iterator

from vervain.checks.finding import about, about_axis
from vervain.checks.rule import Said, rule
from vervain.harness.lengths import cable_length_m
from vervain.machine.look import Look
from vervain.machine.machine import PinRef
from vervain.machine.reach import ways_from
from vervain.motion.figures import count_figures, step_figures
from vervain.motion.words import rate_words
from vervain.quantities import figure

# How far single-ended encoder lines may be.
SINGLE_ENDED_M = 3.0


@rule(
    id="machine.step-rate",
    stage="Machine",
    consequence="Won't run",
    scope="axis",
    title="An axis asks for more steps a second than its controller gives",
    reason="The controller cannot make steps faster than its limit: it refuses the speed, or the "
    "axis runs slower than its plan and falls behind the others.",
    source="Step rate = top speed x steps per unit; the limit is the controller's rating.",
)
def step_rate(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    for motor in axis.drives if axis else ():
        found = step_figures(look, axis_id, motor)
        if found is None or found.step_rate_hz is None or found.step_rate_max_hz is None:
            continue
        if axis is not None and found.step_rate_hz > found.step_rate_max_hz:
            top = (axis.speed_max or 0) * found.step_rate_max_hz / found.step_rate_hz
            yield Said(
                f"{axis_id} asks {found.controller} for {rate_words(found.step_rate_hz, 'Hz')} of "
                f"steps; it gives {rate_words(found.step_rate_max_hz, 'Hz')}.",
                (about_axis(axis_id), about(found.controller or motor)),
                why=f"With these microsteps it can do {top:.3g} {axis.unit}/s.",
                value=found.step_rate_hz / 1000,
                limit=found.step_rate_max_hz / 1000,
                unit="kHz",
            )
            return


@rule(
    id="machine.step-pulse",
    stage="Machine",
    consequence="Unreliable",
    scope="axis",
    title="Steps come faster than a driver can take them",
    reason="A step must be high and low for a shortest time each. Where a whole step is shorter "
    "than both together, the driver misses steps and the axis loses its place.",
    source="Step period = 1 / step rate; the driver's shortest high plus shortest low time.",
)
def step_pulse(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    for motor in axis.drives if axis else ():
        found = step_figures(look, axis_id, motor)
        if found is None or found.step_period_s is None or found.step_period_min_s is None:
            continue
        if found.step_period_s < found.step_period_min_s:
            yield Said(
                f"At top speed a step of {axis_id} lasts {found.step_period_s * 1e6:.3g} µs; "
                f"{found.driver} needs {found.step_period_min_s * 1e6:.3g} µs.",
                (about_axis(axis_id), about(found.driver or motor)),
                detail=motor,
                value=found.step_period_s * 1e6,
                limit=found.step_period_min_s * 1e6,
                unit="µs",
                over=False,
            )


@rule(
    id="machine.encoder-rate",
    stage="Machine",
    consequence="Unreliable",
    scope="axis",
    title="An encoder is faster than what counts it",
    reason="Above its limit the input misses edges: the count drifts away from the axis, and "
    "nothing says so.",
    source="Channel frequency = turns a second x lines per turn; count rate = that x decoding.",
)
def encoder_rate(look: Look, axis_id: str) -> Iterator[Said]:
    found = count_figures(look, axis_id)
    if found is None or found.channel_hz is None or found.count_hz is None:
        return
    subjects = (about_axis(axis_id), about(found.encoder))
    if found.channel_max_hz is not None and found.channel_hz > found.channel_max_hz:
        yield Said(
            f"At top speed {found.encoder} gives {rate_words(found.channel_hz, 'Hz')} a channel; "
            f"{found.channel_limited_by} follows {rate_words(found.channel_max_hz, 'Hz')}.",
            subjects,
            detail="channel",
            value=found.channel_hz / 1000,
            limit=found.channel_max_hz / 1000,
            unit="kHz",
        )
    elif found.count_max_hz is not None and found.count_hz > found.count_max_hz:
        counted_by = found.counted_by.port if found.counted_by else "the input"
        yield Said(
            f"At top speed {found.encoder} gives {figure(found.count_hz, 'counts/s')}; "
            f"{counted_by} takes {figure(found.count_max_hz, 'counts/s')}.",
            subjects,
            detail="counts",
            value=found.count_hz,
            limit=found.count_max_hz,
            unit="counts/s",
        )


@rule(
    id="machine.counter-range",
    stage="Machine",
    consequence="Unreliable",
    scope="axis",
    title="A counter rolls over within the travel",
    reason="A counter of n bits holds 2^n counts; beyond that it starts again, and two places of "
    "the axis look the same.",
    source="Counts in the travel = travel x counts per unit, against 2^bits.",
)
def counter_range(look: Look, axis_id: str) -> Iterator[Said]:
    axis, found = look.axis(axis_id), count_figures(look, axis_id)
    if axis is None or axis.endless or found is None:
        return
    if found.counts_in_travel is None or found.counter_bits is None:
        return
    held = 2.0**found.counter_bits
    if found.counts_in_travel > held:
        yield Said(
            f"{axis_id} has {figure(found.counts_in_travel, 'counts')} in its travel; the counter "
            f"holds {figure(held, 'counts')}.",
            (about_axis(axis_id), about(found.encoder)),
            value=found.counts_in_travel,
            limit=held,
            unit="counts",
        )


@rule(
    id="machine.no-gearing",
    stage="Machine",
    consequence="Workmanship",
    scope="axis",
    title="What an axis moves in one turn, or its top speed, is not given",
    reason="Without it steps per unit, step rate and encoder rate cannot be worked out, nor held "
    "against the limits of controller and driver.",
    source="The machine's own list of axes.",
)
def no_gearing(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    if axis is None or not axis.drives:
        return
    if all(step_figures(look, axis_id, motor) is None for motor in axis.drives):
        return
    wanted = [("what one turn moves", axis.mechanism), ("its top speed", axis.speed_max)]
    missing = [words for words, given in wanted if given is None]
    if missing:
        yield Said(f"Of {axis_id} {' and '.join(missing)} is not given.", (about_axis(axis_id),))


@rule(
    id="machine.unlike-motors",
    stage="Machine",
    consequence="Unreliable",
    scope="axis",
    title="Two motors of one axis are not alike",
    reason="Motors that pull one axis share its load by their torque and inductance. Unlike ones "
    "lag differently, and the axis goes askew when it is fast.",
    source="Derivation: equal torque and equal lag of mechanically joined motors.",
)
def unlike_motors(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    steppers = [
        (motor, device.part)
        for motor in (axis.drives if axis else ())
        if (device := look.device(motor)) is not None
    ]
    first = steppers[0] if steppers else None
    for motor, part_id in steppers[1:]:
        if first is not None and part_id != first[1]:
            yield Said(
                f"{first[0]} and {motor} both pull {axis_id} and are not alike.",
                (about_axis(axis_id), about(first[0]), about(motor)),
                detail=motor,
            )


@rule(
    id="signals.encoder-length",
    stage="Ports",
    consequence="Unreliable",
    scope="device",
    title="A single-ended encoder is far away",
    reason="Without complements every volt of disturbance on the line counts. Beyond a few metres "
    "beside motor cables false counts are to be expected; a line driver sends the complements.",
    source="Practice: 3 m for single-ended encoder lines.",
)
def encoder_length(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    # A hand wheel gives a few counts a second, which its input filters.
    if part is None or part.kind != "encoder":
        return
    functions = {pin.function for port in part.ports for pin in port.pins}
    if "encoder A-" in functions:
        return
    for port in part.ports:
        channel = next((pin for pin in port.pins if pin.function == "encoder A"), None)
        if channel is None:
            continue
        ref = PinRef(device=device, port=port.id, pin=channel.id)
        for way in ways_from(look, ref):
            length_m = port.lead_length_m + sum(_length_m(look, s.hookup) for s in way.steps)
            if way.lands and length_m > SINGLE_ENDED_M:
                yield Said(
                    f"{device} is {length_m:.3g} m from {way.end.device} {way.end.port}, without "
                    "complements.",
                    (about(device), about(way.end)),
                    detail=f"{way.end.device} {way.end.port}",
                    value=round(length_m, 3),
                    limit=SINGLE_ENDED_M,
                    unit="m",
                )


def _length_m(look: Look, hookup_id: str) -> float:
    hookup = look.hookup(hookup_id)
    known_m = cable_length_m(look, hookup.cable) if hookup and hookup.cable else None
    return known_m or 0.0


RULES = (
    unlike_motors,
    encoder_length,
    step_rate,
    step_pulse,
    encoder_rate,
    counter_range,
    no_gearing,
)
