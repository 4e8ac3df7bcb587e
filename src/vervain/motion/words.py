"""The figures of an axis in one line of plain words, and as facts with their limits."""

from vervain.model.axis import Axis
from vervain.model.base import Record
from vervain.motion.figures import count_figures, step_figures
from vervain.motion.mechanisms import travel_per_motor_turn
from vervain.queries.machine_queries import Queries
from vervain.text.quantities import figure

NOT_YET = "?"


class Share(Record, frozen=True, kw_only=True):
    """A value against its limit: what it is, the value, the limit, the unit."""

    words: str
    value: float
    limit: float
    unit: str


def length_words(value: float, unit: str) -> str:
    """A position or length of an axis to four figures: "40 mm", "60°"."""
    joint = "" if unit == "°" else " "
    return f"{value:.4g}{joint}{unit}"


def speed_words(axis: Axis) -> str:
    """The top speed of an axis; empty where it is not given."""
    return f"{length_words(axis.speed_max, axis.unit)}/s" if axis.speed_max is not None else ""


def figures_line(queries: Queries, axis_id: str) -> tuple[tuple[str, bool], ...]:
    """The arithmetic of an axis as pieces of text, each with whether it is a result."""
    axis = queries.axis(axis_id)
    if axis is None:
        return ()
    found = next((f for motor in axis.drives if (f := step_figures(queries, axis_id, motor))), None)
    speed = speed_words(axis)
    if found is None:
        words = "No stepper motor drives it." if axis.drives else "No motor yet."
        return ((f"{words}   {speed}".rstrip(), False),)
    microsteps = str(found.microsteps) if found.microsteps is not None else NOT_YET
    turn = length_words(found.turn, axis.unit) if found.turn is not None else NOT_YET
    pieces = [(f"{found.full_steps} steps × {microsteps} ÷ {turn} a turn = ", False)]
    if found.steps_per_unit is not None:
        word = "degree" if axis.motion == "rotary" else "mm"
        pieces.append((f"{found.steps_per_unit:.4g} steps a {word}", True))
    elif found.driver is None:
        pieces[0] = (f"{found.full_steps} steps a turn, {turn} a turn; no driver yet", False)
    else:
        pieces.append((NOT_YET, True))
    counts = count_figures(queries, axis_id)
    if counts is not None and counts.counts_per_unit is not None:
        pieces.append((f", {counts.counts_per_unit:.4g} counts", False))
    if found.backlash_steps is not None:
        pieces.append((f", backlash {found.backlash_steps:.3g} steps", False))
    if speed:
        pieces.append((f"     {speed}", False))
    return tuple(pieces)


def shares(queries: Queries, axis_id: str) -> tuple[Share, ...]:
    """What an axis asks for against the limit that it meets, the step rate first."""
    axis = queries.axis(axis_id)
    found: list[Share] = []
    for motor in axis.drives if axis else ():
        steps = step_figures(queries, axis_id, motor)
        if steps is None:
            continue
        if steps.step_rate_hz is not None and steps.step_rate_max_hz is not None:
            found.append(
                Share(
                    words=f"Steps a second, {steps.controller}",
                    value=steps.step_rate_hz,
                    limit=steps.step_rate_max_hz,
                    unit="Hz",
                )
            )
        if steps.step_period_s is not None and steps.step_period_min_s is not None:
            found.append(
                Share(
                    words=f"A step lasts, {steps.driver} needs",
                    value=steps.step_period_s * 1e6,
                    limit=steps.step_period_min_s * 1e6,
                    unit="µs",
                )
            )
        break
    counts = count_figures(queries, axis_id)
    if counts is not None and counts.channel_hz is not None and counts.channel_max_hz is not None:
        found.append(
            Share(
                words=f"Encoder channel, {counts.channel_limited_by}",
                value=counts.channel_hz,
                limit=counts.channel_max_hz,
                unit="Hz",
            )
        )
    if counts is not None and counts.count_hz is not None and counts.count_max_hz is not None:
        found.append(
            Share(
                words="Counts a second",
                value=counts.count_hz,
                limit=counts.count_max_hz,
                unit="counts/s",
            )
        )
    return tuple(found)


def derived_facts(queries: Queries, axis_id: str) -> tuple[tuple[str, str], ...]:
    """What follows from the numbers of an axis: (what, value with unit)."""
    axis = queries.axis(axis_id)
    if axis is None:
        return ()
    found: list[tuple[str, str]] = []
    turn = travel_per_motor_turn(axis)
    if turn is not None:
        found.append(("One motor turn moves", length_words(turn, axis.unit)))
    steps = next((f for motor in axis.drives if (f := step_figures(queries, axis_id, motor))), None)
    if steps is not None and steps.full_step is not None:
        found.append(("One full step moves", length_words(steps.full_step, axis.unit)))
    if steps is not None and steps.motor_rpm is not None:
        found.append(("Motor turns at", f"{steps.motor_rpm:.4g} rpm"))
    found += [
        (
            share.words,
            f"{rate_words(share.value, share.unit)} / {rate_words(share.limit, share.unit)}",
        )
        for share in shares(queries, axis_id)
    ]
    counts = count_figures(queries, axis_id)
    if counts is not None and counts.resolution is not None:
        found.append(("One count is", length_words(counts.resolution, axis.unit)))
    if counts is not None and counts.counts_in_travel is not None and not axis.endless:
        bits = f" of {counts.counter_bits} bits" if counts.counter_bits else ""
        found.append(
            (f"Counts in the travel{bits}", f"{counts.counts_in_travel:,.0f}".replace(",", " "))
        )
    if counts is not None and axis.feedback_at == "motor" and turn is not None:
        per_turn = 360.0 / turn if axis.motion == "rotary" else None
        if per_turn is not None and per_turn > 1.001:
            found.append(("Index of the encoder", f"{per_turn:.3g} times a turn"))
    return tuple(found)


def rate_words(value: float, unit: str) -> str:
    """A rate for display: "24.0 kHz", "41.7 µs"."""
    if unit == "Hz" and value >= 1000:
        return f"{value / 1000:.3g} kHz"
    return figure(value, unit)
