"""What every device takes from its feeds in each operating state, and by what this is known."""

import math

from msgspec.structs import replace

from vervain.electrical.copper import ALPHA_PER_K
from vervain.electrical.feeds import (
    bridge_feed_pin,
    feed_pins,
    main_feed_pin,
    nominal_v,
    zero_pin_of,
)
from vervain.electrical.network import Law
from vervain.leads.winding_connection import motor_use
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput
from vervain.model.elements import Winding
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part
from vervain.motion.figures import step_figures
from vervain.queries.connectivity import motors_of, neighbours_at
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.states import State, feed_table, takes_of

# Without torque and speed a chopper takes about this part of the RMS phase current.
SIZING = 2 / 3
UNRATED = "its rating is not given"
# What each terminated pair takes besides: 3 V across 120 ohm.
TERMINATED_PAIR_A = 0.025


class Demand(Record, frozen=True, kw_only=True):
    """What hangs between two pins in one state: A, ohm or W by its law. `amps` is the same at the
    nominal voltage, `by` says by what it is known.
    """

    plus: PinRef
    minus: PinRef | None
    law: Law
    value: float
    current_a: float
    nominal_v: float
    least_v: float
    most_v: float
    by: str


class Amount(Record, frozen=True, kw_only=True):
    """A current at nominal voltage, its law, and by what it is known."""

    current_a: float
    law: Law
    by: str


@query
def demands_in(queries: Queries, device: str, state: State) -> tuple[Demand, ...]:
    """What the feeds of a device take in a state; those that take nothing are left out."""
    part = queries.part_of(device)
    found = []
    for plus in feed_pins(queries, device) if part is not None else ():
        found_pin = queries.pin(plus)
        feed = found_pin.electrical if found_pin else None
        if part is None or not isinstance(feed, FeedIn):
            continue
        voltage_v = nominal_v(queries, plus)
        amount = _amount(queries, plus, part, feed, state, voltage_v)
        if amount.current_a <= 0:
            continue
        minus = zero_pin_of(queries, plus, None)
        value = {
            "current": amount.current_a,
            "resistive": voltage_v / amount.current_a,
            "power": voltage_v * amount.current_a,
        }[amount.law]
        found.append(
            Demand(
                plus=plus, minus=minus, law=amount.law, value=value, current_a=amount.current_a,
                nominal_v=voltage_v, least_v=feed.v_min_v, most_v=feed.most_v, by=amount.by,
            )
        )  # fmt: skip
    return tuple(found)


@query
def unrated_feeds(queries: Queries, device: str) -> tuple[PinRef, ...]:
    """The feeds of a device of which nothing tells what they take: no rating, no measurement, no
    motors to reckon it from.
    """
    part = queries.part_of(device)
    pins = feed_pins(queries, device) if part is not None else ()
    limits = [(plus, found.electrical) for plus in pins if (found := queries.pin(plus))]
    return tuple(
        plus
        for plus, feed in limits
        if isinstance(feed, FeedIn)
        and part is not None
        and _amount(queries, plus, part, feed, "moving", nominal_v(queries, plus)).by == UNRATED
    )


def _amount(
    queries: Queries, plus: PinRef, part: Part, feed: FeedIn, state: State, voltage_v: float
) -> Amount:
    device = plus.device
    found = queries.device(device)
    measured = found.measured_a.get(state) if found else None
    is_main = plus == main_feed_pin(queries, device)
    if measured is not None and is_main:
        return Amount(current_a=measured, law=_law(part), by="measured")
    if part.driver is not None and is_main:
        driven = _driver(queries, device, part, state, voltage_v)
        if driven is not None:
            return driven
    if plus == bridge_feed_pin(queries, device):
        bridged = _bridge(queries, device, state, voltage_v)
        if bridged is not None:
            # What a board with bridges takes for itself comes on top.
            itself_a = 0.0 if part.kind == "motor bridge" else feed.current_a or 0.0
            return replace(bridged, current_a=bridged.current_a + itself_a)
    if part.kind == "supply":
        # A converter takes what it gives; that comes from the network.
        return Amount(current_a=0.0, law="power", by="what hangs on it")
    rated = feed.current_a
    if rated is not None and part.kind == "encoder":
        rated += TERMINATED_PAIR_A * len(terminated_pairs(queries, device))
    if rated is None:
        return Amount(current_a=0.0, law="current", by=UNRATED)
    row = takes_of(part.kind)
    fraction = getattr(row, state)
    if fraction == "inrush":
        current_a = feed.inrush_a if feed.inrush_a is not None else rated
        return Amount(
            current_a=current_a, law=row.law, by="its inrush" if feed.inrush_a else "its rating"
        )
    words = "its rating" if fraction == 1 else f"{fraction:.0%} of its rating"
    return Amount(current_a=rated * fraction, law=row.law, by=words)


def _law(part: Part) -> Law:
    if part.driver is not None or part.kind in ("motor bridge", "supply"):
        return "power"
    return takes_of(part.kind).law


@query
def driver_rms_a(queries: Queries, driver: str) -> float | None:
    """The RMS current of one phase that a driver is set to: peak / sqrt2. Where nothing tells what
    it is set to, what its motors are rated for as they are wired; of several the sum, in parallel.
    """
    peak = queries.setting(driver, "current_peak_a")
    if isinstance(peak, int | float):
        return float(peak) / math.sqrt(2)
    own = queries.part_of(driver)
    if own is None or own.driver is None:
        # What a controller has in its slots is set there.
        return None
    uses = [motor_use(queries, motor) for motor in motors_of(queries, driver)]
    rated_a = [use.current_a or 0.0 for use in uses if use is not None]
    return sum(rated_a) if rated_a and all(rated_a) else None


@query
def terminated_pairs(queries: Queries, device: str) -> tuple[PinRef, ...]:
    """The outputs of a device whose line is terminated at its receiver. Where the part's current
    was measured with its terminations, its inputs should not name them as well.
    """
    part = queries.part_of(device)
    return tuple(
        here
        for port in (part.ports if part else ())
        for pin in port.pins
        if isinstance(pin.electrical, LogicOutput) and not pin.function.endswith("-")
        for here in (PinRef(device=device, port=port.id, pin=pin.id),)
        if any(
            (there := queries.pin(ref)) is not None
            and isinstance(there.electrical, LogicInput)
            and there.electrical.termination_ohm is not None
            for ref in queries.net(here)
        )
    )


def _driver(
    queries: Queries, driver: str, part: Part, state: State, voltage_v: float
) -> Amount | None:
    """A chopper: (phases I_rms^2 R hot)/0.9 while it holds; while it turns, torque times angular
    speed besides where both are given, else 2/3 of I_rms, at least what it takes to hold.
    """
    rating, rms = part.driver, driver_rms_a(queries, driver)
    motors = motors_of(queries, driver)
    if rating is None or rms is None:
        return None
    if state == "idle" or not motors:
        return Amount(current_a=rating.standby_a, law="power", by="standing by")
    copper_w = 0.0
    for motor in motors:
        use = motor_use(queries, motor)
        if use is None or use.resistance_ohm is None:
            words = f"rule of thumb: 2/3 of {rms:.3g} A RMS"
            return Amount(current_a=SIZING * rms, law="power", by=words)
        hot = use.resistance_ohm * (1 + ALPHA_PER_K * (feed_table().hot_winding_c - 20))
        share = rms / len(motors)
        copper_w += rating.phases * share**2 * hot * (1.0 if rating.phases == 2 else 0.5)
    efficiency = feed_table().driver_efficiency
    if state == "holding":
        held = copper_w * rating.hold_ratio**2 / efficiency / voltage_v + rating.standby_a
        words = f"holding with {rating.hold_ratio:.0%} of {rms:.3g} A RMS"
        return Amount(current_a=held, law="power", by=words)
    turning_w = [_turning_w(queries, motor) for motor in motors]
    if state != "start" and all(power_w is not None for power_w in turning_w):
        shaft_w = sum(power_w or 0.0 for power_w in turning_w)
        return Amount(
            current_a=(copper_w + shaft_w) / efficiency / voltage_v + rating.standby_a,
            law="power",
            by=f"{rms:.3g} A RMS in its windings and {shaft_w:.3g} W at the shaft",
        )
    standing = copper_w / efficiency / voltage_v + rating.standby_a
    thumb = SIZING * rms
    if standing >= thumb or state == "start":
        return Amount(
            current_a=max(standing, thumb), law="power", by=f"{rms:.3g} A RMS in its windings"
        )
    return Amount(current_a=thumb, law="power", by=f"rule of thumb: 2/3 of {rms:.3g} A RMS")


def _turning_w(queries: Queries, motor: str) -> float | None:
    """The power at a motor's shaft at the top speed of its axis: torque times angular speed."""
    axis = queries.axis_of(motor)
    figures = step_figures(queries, axis.id, motor) if axis is not None else None
    if axis is None or axis.torque_nm is None or figures is None or figures.motor_rpm is None:
        return None
    return axis.torque_nm * figures.motor_rpm / 60 * 2 * math.pi


def _bridge(queries: Queries, bridge: str, state: State, voltage_v: float) -> Amount | None:
    """A bridge passes the power of its motors on: mean voltage times current, at starting V/R."""
    part = queries.part_of(bridge)
    duty = queries.setting(bridge, "duty_max")
    mean = voltage_v * (float(duty) / 100 if isinstance(duty, int | float) else 1.0)
    watts, motors = 0.0, []
    for port in part.ports if part else ():
        if port.kind != "bridge output":
            continue
        for ref in neighbours_at(queries, PortRef(device=bridge, port=port.id)):
            current_a, resistance_ohm = _brushed(queries, ref)
            if current_a is None:
                return None
            motors.append(ref.device)
            at_start = mean / resistance_ohm if resistance_ohm else current_a
            watts += mean * (at_start if state == "start" else current_a)
    if not motors:
        return Amount(current_a=0.0, law="power", by="drives nothing")
    moves = state in ("moving", "everything", "start")
    current_a = watts / feed_table().driver_efficiency / voltage_v if moves else 0.0
    words = f"{' and '.join(motors)} {'standing' if state == 'start' else 'turning'}"
    return Amount(current_a=current_a, law="power", by=words)


def _brushed(queries: Queries, motor: PortRef) -> tuple[float | None, float | None]:
    """The rated current and the winding of a brushed motor at a port."""
    port, part = queries.port(motor), queries.part_of(motor.device)
    feeds = [pin.electrical for pin in port.pins] if port else []
    current_a = next((feed.current_a for feed in feeds if isinstance(feed, FeedIn)), None)
    winding = next((e for e in (part.inside if part else ()) if isinstance(e, Winding)), None)
    return current_a, winding.resistance_ohm if winding else None
