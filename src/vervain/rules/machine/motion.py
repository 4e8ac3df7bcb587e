"""Rules about speeds: what an axis asks of its driver, controller, encoder and counter."""

from collections.abc import Iterator

from vervain.motion.figures import count_figures, step_figures
from vervain.motion.words import rate_words
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about, about_axis
from vervain.rules.rule import RuleOutput, rule
from vervain.text.quantities import figure


@rule(
    id="machine.step-rate",
    consequence="Won't run",
    scope="axis",
    title="An axis asks for more steps a second than its controller gives",
    reason="The controller cannot make steps faster than its limit: it refuses the speed, or the "
    "axis runs slower than its plan and falls behind the others.",
    source="Step rate = top speed x steps per unit; the limit is the controller's rating.",
)
def step_rate(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    for motor in axis.drives if axis else ():
        found = step_figures(queries, axis_id, motor)
        if found is None or found.step_rate_hz is None or found.step_rate_max_hz is None:
            continue
        if axis is not None and found.step_rate_hz > found.step_rate_max_hz:
            top = (axis.speed_max or 0) * found.step_rate_max_hz / found.step_rate_hz
            yield RuleOutput(
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
    consequence="Unreliable",
    scope="axis",
    title="Steps come faster than a driver can take them",
    reason="A step must be high and low for a shortest time each. Where a whole step is shorter "
    "than both together, the driver misses steps and the axis loses its place.",
    source="Step period = 1 / step rate; the driver's shortest high plus shortest low time.",
)
def step_pulse(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    for motor in axis.drives if axis else ():
        found = step_figures(queries, axis_id, motor)
        if found is None or found.step_period_s is None or found.step_period_min_s is None:
            continue
        if found.step_period_s < found.step_period_min_s:
            yield RuleOutput(
                f"At top speed a step of {axis_id} lasts {found.step_period_s * 1e6:.3g} µs; "
                f"{found.driver} needs {found.step_period_min_s * 1e6:.3g} µs.",
                (about_axis(axis_id), about(found.driver or motor)),
                at=(about(motor),),
                value=found.step_period_s * 1e6,
                limit=found.step_period_min_s * 1e6,
                unit="µs",
                over=False,
            )


@rule(
    id="machine.encoder-rate",
    consequence="Unreliable",
    scope="axis",
    title="An encoder is faster than what counts it",
    reason="Above its limit the input misses edges: the count drifts away from the axis, and "
    "nothing says so.",
    source="Channel frequency = turns a second x lines per turn; count rate = that x decoding.",
)
def encoder_rate(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    found = count_figures(queries, axis_id)
    if found is None or found.channel_hz is None or found.count_hz is None:
        return
    subjects = (about_axis(axis_id), about(found.encoder))
    if found.channel_max_hz is not None and found.channel_hz > found.channel_max_hz:
        yield RuleOutput(
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
        yield RuleOutput(
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
    consequence="Unreliable",
    scope="axis",
    title="A counter rolls over within the travel",
    reason="A counter of n bits holds 2^n counts; beyond that it starts again, and two places of "
    "the axis look the same.",
    source="Counts in the travel = travel x counts per unit, against 2^bits, or "
    "2^(bits - 1) where the counter has a sign.",
)
def counter_range(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis, found = queries.axis(axis_id), count_figures(queries, axis_id)
    if axis is None or axis.endless or found is None:
        return
    if found.counts_in_travel is None or found.counter_bits is None:
        return
    held = 2.0**found.counter_bits
    if found.counts_in_travel > held:
        yield RuleOutput(
            f"{axis_id} has {figure(found.counts_in_travel, 'counts')} in its travel; the counter "
            f"holds {figure(held, 'counts')}.",
            (about_axis(axis_id), about(found.encoder)),
            value=found.counts_in_travel,
            limit=held,
            unit="counts",
        )


@rule(
    id="machine.no-gearing",
    consequence="Workmanship",
    scope="axis",
    title="What an axis moves in one turn, or its top speed, is not given",
    reason="Without it steps per unit, step rate and encoder rate cannot be worked out, nor held "
    "against the limits of controller and driver.",
    source="The machine's own list of axes.",
)
def no_gearing(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or not axis.drives:
        return
    if all(step_figures(queries, axis_id, motor) is None for motor in axis.drives):
        return
    wanted = [("what one turn moves", axis.mechanism), ("its top speed", axis.speed_max)]
    missing = [words for words, given in wanted if given is None]
    if missing:
        yield RuleOutput(
            f"Of {axis_id} {' and '.join(missing)} is not given.", (about_axis(axis_id),)
        )


@rule(
    id="machine.unlike-motors",
    consequence="Unreliable",
    scope="axis",
    title="Two motors of one axis are not alike",
    reason="Motors that pull one axis share its load by their torque and inductance. Unlike ones "
    "lag differently, and the axis goes askew when it is fast.",
    source="Derivation: equal torque and equal lag of mechanically joined motors.",
)
def unlike_motors(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    steppers = [
        (motor, device.part)
        for motor in (axis.drives if axis else ())
        if (device := queries.device(motor)) is not None
    ]
    first = steppers[0] if steppers else None
    for motor, part_id in steppers[1:]:
        if first is not None and part_id != first[1]:
            yield RuleOutput(
                f"{first[0]} and {motor} both pull {axis_id} and are not alike.",
                (about_axis(axis_id), about(first[0]), about(motor)),
                at=(about(motor),),
            )


RULES = (
    unlike_motors,
    step_rate,
    step_pulse,
    encoder_rate,
    counter_range,
    no_gearing,
)
