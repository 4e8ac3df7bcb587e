"""The arithmetic of an axis: steps, rates and counts, with the limit that each is held against."""

from vervain.model.axis import Axis, Screw
from vervain.model.base import Record
from vervain.model.machine import PortRef
from vervain.model.part import Part
from vervain.model.ratings import Counter
from vervain.motion.mechanisms import travel_per_motor_turn
from vervain.queries.connectivity import drivers_of, host_ports, neighbours_at
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import reached


class StepFigures(Record, frozen=True, kw_only=True):
    """Steps of one motor of an axis. Lengths in the axis's unit; None where an input is missing.

    `driver` and `controller` are the devices whose limits count.
    """

    motor: str
    full_steps: int
    driver: str | None = None
    controller: str | None = None
    microsteps: int | None = None
    turn: float | None = None
    steps_per_unit: float | None = None
    full_step: float | None = None
    motor_rpm: float | None = None
    step_rate_hz: float | None = None
    step_rate_max_hz: float | None = None
    step_period_s: float | None = None
    step_period_min_s: float | None = None
    backlash_steps: float | None = None


class CountFigures(Record, frozen=True, kw_only=True):
    """Counts of the encoder of an axis, and the limits of the input that counts them.

    `channel_hz` is one channel's frequency at top speed, `count_hz` that times the decoding.
    """

    encoder: str
    lines_per_turn: int
    decoding: int
    counted_by: PortRef | None = None
    counts_per_unit: float | None = None
    resolution: float | None = None
    channel_hz: float | None = None
    channel_max_hz: float | None = None
    channel_limited_by: str = ""
    count_hz: float | None = None
    count_max_hz: float | None = None
    counts_in_travel: float | None = None
    counter_bits: int | None = None


def _speed_in_turns(axis: Axis, turn: float | None) -> float | None:
    """Turns a second at top speed, of what moves `turn` in one turn."""
    return axis.speed_max / turn if axis.speed_max is not None and turn is not None else None


def _controller_of(queries: Queries, driver: str) -> tuple[str, Part] | None:
    """The controller that gives a driver its steps."""
    part = queries.part_of(driver)
    for port in part.ports if part else ():
        if port.kind not in ("step and direction", "driver slot"):
            continue
        for ref in neighbours_at(queries, PortRef(device=driver, port=port.id)):
            host = queries.part_of(ref.device)
            if host is not None and host.kind == "controller":
                return ref.device, host
    return None


class WheelFigures(Record, frozen=True, kw_only=True):
    """A hand wheel that is counted: where, and how many counts a turn makes."""

    wheel: str
    counted_by: PortRef
    counts_per_turn: int


@query
def wheel_figures(queries: Queries, wheel: str) -> WheelFigures | None:
    """The counts of a hand wheel: lines x decoding; None where nothing counts it."""
    part = queries.part_of(wheel)
    if part is None or part.kind != "hand wheel" or part.encoder is None:
        return None
    for port in part.ports:
        for ref in host_ports(queries, PortRef(device=wheel, port=port.id)):
            host = queries.port(ref)
            if host is not None and host.counter is not None:
                counts = part.encoder.lines_per_turn * host.counter.decoding
                return WheelFigures(wheel=wheel, counted_by=ref, counts_per_turn=counts)
    return None


@query
def step_figures(queries: Queries, axis_id: str, motor: str) -> StepFigures | None:
    """The steps of a motor of an axis; None where it is no stepper.

    steps per unit = full steps x microsteps / travel of one motor turn;
    step rate = top speed x steps per unit; step period = 1 / step rate, which must hold the
    driver's shortest high and low times one after the other.
    """
    axis, part = queries.axis(axis_id), queries.part_of(motor)
    if axis is None or part is None or part.stepper is None:
        return None
    turn = travel_per_motor_turn(axis)
    turns_per_s = _speed_in_turns(axis, turn)
    full = part.stepper.steps_per_turn
    found = StepFigures(
        motor=motor,
        full_steps=full,
        turn=turn,
        full_step=turn / full if turn is not None else None,
        motor_rpm=turns_per_s * 60 if turns_per_s is not None else None,
    )
    drivers = drivers_of(queries, motor)
    if not drivers:
        return found
    driver = drivers[0]
    microsteps = _microsteps(queries, driver)
    host = _controller_of(queries, driver)
    rating = host[1].controller if host else None
    driving = queries.part_of(driver)
    timing = driving.driver if driving else None
    period_min_s = None
    if timing is not None and (timing.step_high_min_s or timing.step_low_min_s):
        # A sheet that gives one time means the shortest pulse, and the shortest pause alike.
        high_s = timing.step_high_min_s or timing.step_low_min_s or 0.0
        period_min_s = high_s + (timing.step_low_min_s or high_s)
    steps = full * microsteps if microsteps is not None else None
    per_unit = steps / turn if steps is not None and turn is not None else None
    rate_hz = axis.speed_max * per_unit if axis.speed_max and per_unit is not None else None
    backlash = axis.mechanism.backlash_mm if isinstance(axis.mechanism, Screw) else None
    return StepFigures(
        motor=motor,
        full_steps=full,
        driver=driver,
        controller=host[0] if host else None,
        microsteps=microsteps,
        turn=turn,
        steps_per_unit=per_unit,
        full_step=found.full_step,
        motor_rpm=found.motor_rpm,
        step_rate_hz=rate_hz,
        step_rate_max_hz=rating.step_rate_max_hz if rating else None,
        step_period_s=1 / rate_hz if rate_hz else None,
        step_period_min_s=period_min_s,
        backlash_steps=backlash * per_unit if backlash and per_unit is not None else None,
    )


def _microsteps(queries: Queries, driver: str) -> int | None:
    """What a driver is set to; None where it has no such setting."""
    value = queries.setting(driver, "microsteps")
    try:
        return int(value) if value is not None else None
    except ValueError:
        return None


@query
def counting_port(queries: Queries, encoder: str) -> PortRef | None:
    """The input that counts an encoder's lines, through line receivers on the way."""

    def inputs(device: str) -> list[PortRef]:
        part = queries.part_of(device)
        return [
            ref
            for port in (part.ports if part else ())
            if port.kind == "encoder"
            for ref in neighbours_at(queries, PortRef(device=device, port=port.id))
            if (there := queries.port(ref)) is not None and there.kind == "encoder"
        ]

    devices = reached([encoder], lambda device: (ref.device for ref in inputs(device)))
    return next(
        (
            ref
            for device in devices
            for ref in inputs(device)
            if (port := queries.port(ref)) is not None and port.counter is not None
        ),
        None,
    )


@query
def count_figures(queries: Queries, axis_id: str) -> CountFigures | None:
    """The counts of an axis's encoder; None where it has none.

    channel frequency = turns a second x lines per turn (PPR means lines, never counts);
    count rate = that x decoding; counts per unit = lines x decoding / travel of one encoder turn.
    """
    axis = queries.axis(axis_id)
    if axis is None or axis.feedback is None:
        return None
    part = queries.part_of(axis.feedback)
    if part is None or part.encoder is None:
        return None
    motor_turn = travel_per_motor_turn(axis)
    turn = motor_turn
    if motor_turn is not None and axis.feedback_at == "axis":
        turn = 360.0 if axis.motion == "rotary" else motor_turn * axis.gear_ratio
    lines = part.encoder.lines_per_turn
    ref = counting_port(queries, axis.feedback)
    port = queries.port(ref) if ref else None
    counter = port.counter if port and port.counter else Counter()
    turns_per_s = _speed_in_turns(axis, turn)
    per_unit = lines * counter.decoding / turn if turn is not None else None
    channel_hz = turns_per_s * lines if turns_per_s is not None else None
    limits = [(part.encoder.channel_max_hz, axis.feedback)]
    if ref is not None:
        limits.append((counter.channel_max_hz, f"{ref.device} {ref.port}"))
    known = sorted((limit, by) for limit, by in limits if limit is not None)
    return CountFigures(
        encoder=axis.feedback,
        lines_per_turn=lines,
        decoding=counter.decoding,
        counted_by=ref,
        counts_per_unit=per_unit,
        resolution=1 / per_unit if per_unit else None,
        channel_hz=channel_hz,
        channel_max_hz=known[0][0] if known else None,
        channel_limited_by=known[0][1] if known else "",
        count_hz=channel_hz * counter.decoding if channel_hz is not None else None,
        count_max_hz=counter.count_max_hz,
        counts_in_travel=axis.travel * per_unit if axis.travel and per_unit else None,
        counter_bits=counter.bits - counter.signed if ref is not None else None,
    )
