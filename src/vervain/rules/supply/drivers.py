"""Rules about the voltage of chopper drivers: enough for the speed, not more than is of use."""

import math
from collections.abc import Iterator

from vervain.electrical.feeds import (
    bridge_feed_pin,
    sources_of,
)
from vervain.electrical.unmet_needs import pins_it_meets
from vervain.leads.motors import open_windings
from vervain.leads.winding_connection import motor_use, uses_of
from vervain.model.electrical import FeedIn
from vervain.model.elements import Winding
from vervain.model.machine import PinRef, PortRef
from vervain.motion.figures import step_figures
from vervain.queries.connectivity import (
    driver_ports_of,
    drivers_of,
    drivers_of_port,
    motors_of,
    neighbours_at,
)
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_axis
from vervain.rules.fixes import SetSetting
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.box_heat import driver_heat_w
from vervain.supply.results import DeliveredPower
from vervain.supply.voltage_profile import arrivals_of

# V for the square root of a mH: above it the motor only grows hotter.
USEFUL_V = 32.0


def _feed(queries: Queries, driver: str) -> DeliveredPower | None:
    """What arrives at a driver's motor feed while everything moves."""
    rows = arrivals_of(queries, driver, "moving")
    return max(rows, key=lambda row: row.wanted_a, default=None)


def needed_v(
    peak_a: float, resistance_ohm: float, inductance_h: float, electrical_hz: float
) -> float:
    """The voltage that pushes a peak current through a phase at a frequency, without the motor's
    own voltage, which comes on top: sqrt((I R)^2 + (2 pi f L I)^2).
    """
    reactance_ohm = 2 * math.pi * electrical_hz * inductance_h
    return math.hypot(peak_a * resistance_ohm, peak_a * reactance_ohm)


def sharing_at(queries: Queries, motor: str, driver: str) -> int:
    """Among how many motors a driver's current divides: those in parallel at the terminals that one
    motor comes to. In series each gets the whole of it.
    """
    ports = [
        ref for ref in driver_ports_of(queries, motor) if driver in drivers_of_port(queries, ref)
    ]
    for ref in list(ports):
        # Sockets of one slot are joined on the board.
        port, part = queries.port(ref), queries.part_of(ref.device)
        ports += [
            PortRef(device=ref.device, port=other.id)
            for other in (part.ports if part else ())
            if port is not None and port.needs is not None and other.needs == port.needs
        ]
    motors = {seat.device for ref in ports for seat in neighbours_at(queries, ref)} | {motor}
    if any(_is_in_series(queries, name) for name in motors):
        return 1
    return len(motors)


def _is_in_series(queries: Queries, motor: str) -> bool:
    """Whether a phase lead of a motor goes to another motor's lead, and to no terminal."""
    part = queries.part_of(motor)
    for port in part.ports if part else ():
        if port.kind != "motor phases" or port.end != "device":
            continue
        for pin in port.pins:
            here = PinRef(device=motor, port=port.id, pin=pin.id)
            ends = {p.end for r in pins_it_meets(queries, here) if (p := queries.port(r.port_ref))}
            if "device" in ends and "host" not in ends:
                return True
    return False


@rule(
    id="supply.speed",
    consequence="Unreliable",
    scope="axis",
    title="The voltage does not push the motor's current at top speed",
    reason="The faster a motor turns, the shorter each phase has for its current to rise against "
    "the inductance. With too little voltage the current, and the torque, stay behind.",
    source="V >= sqrt((I R)^2 + (2 pi f L I)^2), peak current and windings as wired, without the "
    "motor's own voltage.",
)
def speed(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    for motor in axis.drives if axis else ():
        figures, use = step_figures(queries, axis_id, motor), motor_use(queries, motor)
        part = queries.part_of(motor)
        drivers = drivers_of(queries, motor)
        if figures is None or figures.motor_rpm is None or use is None or not drivers:
            continue
        if part is None or part.stepper is None:
            continue
        peak = queries.setting(drivers[0], "current_peak_a")
        row = _feed(queries, drivers[0])
        if not isinstance(peak, int | float) or row is None or row.voltage_v is None:
            continue
        if use.inductance_h is None or use.resistance_ohm is None or row.status != "on":
            continue
        # Four full steps are one electrical turn of two phases, six of three.
        hertz = figures.motor_rpm / 60 * part.stepper.steps_per_turn / (2 * part.stepper.phases)
        share = float(peak) / sharing_at(queries, motor, drivers[0])
        needs = needed_v(share, use.resistance_ohm, use.inductance_h, hertz)
        if needs > row.voltage_v:
            yield RuleOutput(
                f"{motor} wants {needs:.3g} V at the top speed of {axis_id}; {drivers[0]} gets "
                f"{row.voltage_v:.3g} V.",
                (about_axis(axis_id), about(motor), about(row.pin)),
                at=(about(motor),),
                value=round(row.voltage_v, 2),
                limit=round(needs, 2),
                unit="V",
                over=False,
            )


@rule(
    id="supply.useful-voltage",
    consequence="Workmanship",
    scope="device",
    title="A driver's voltage is higher than is of use",
    reason="Above this voltage a motor gains little speed; its iron and the driver grow hotter.",
    source="About 32 x sqrt(L in mH) of the winding as wired, a rule of thumb of the trade.",
)
def useful_voltage(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.driver is None:
        return
    row = _feed(queries, device)
    for motor in motors_of(queries, device):
        use = motor_use(queries, motor)
        if row is None or row.source_v is None or use is None or not use.inductance_h:
            continue
        useful = USEFUL_V * math.sqrt(use.inductance_h * 1000)
        if row.source_v > useful:
            yield RuleOutput(
                f"{device} gets {row.source_v:g} V; {motor} makes use of {useful:.3g} V.",
                (about(row.pin), about(motor)),
                at=(about(motor),),
                value=row.source_v,
                limit=round(useful, 1),
                unit="V",
            )


def _cool_peak_a(queries: Queries, driver: str, peak_a: float) -> float:
    """The peak at which a driver sheds its heat without a heat sink: that grows with the current
    squared. Infinite where one is fitted, or nothing is given.
    """
    part, heat_w = queries.part_of(driver), driver_heat_w(queries, driver)
    bare_w = part.driver.bare_w if part is not None and part.driver is not None else None
    if not heat_w or bare_w is None or queries.setting(driver, "heat_sink") == "fitted":
        return math.inf
    return peak_a * math.sqrt(bare_w / heat_w)


@rule(
    id="supply.driver-current",
    consequence="Damage",
    scope="device",
    title="The driver's current does not suit the motor",
    reason="More than the rated current overheats the windings and weakens the magnets; less "
    "than half of it wastes the motor and loses steps.",
    source="A chopper's RMS is its peak / sqrt(2); a peak up to sqrt(2) times the rated RMS "
    "current is inside the rating.",
)
def driver_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.stepper is None:
        return
    use = motor_use(queries, device)
    rated_a = use.current_a if use is not None else part.stepper.current_a
    if rated_a is None:
        return
    several = uses_of(queries, device) or open_windings(queries, device)
    used = f", {use.kind}" if use is not None and several else ""
    for name in drivers_of(queries, device):
        driver = queries.part_of(name)
        peak = queries.setting(name, "current_peak_a")
        if driver is None or driver.driver is None or not isinstance(peak, int | float):
            continue
        sharing = sharing_at(queries, device, name)
        limit = math.sqrt(2) * rated_a
        most = min(limit * sharing, driver.driver.current_max_peak_a or math.inf)
        cool = _cool_peak_a(queries, name, peak)
        if cool >= limit * sharing / 2:
            most = min(most, cool)
        suited = math.floor(most * 10) / 10
        fix = Fix(
            words=f"set {name} to {suited:g} A peak",
            remedy=SetSetting(device=name, key="current_peak_a", value=suited),
        )
        share = peak / sharing
        given = f"{name} is set to {peak:g} A peak"
        if sharing > 1:
            given += f", {share:.3g} A for each of {sharing} motors"
        if share > limit * 1.0001:
            yield RuleOutput(
                f"{given}; {device} takes {limit:.3g} A peak ({rated_a:.3g} A RMS{used}).",
                (about(name), about(device)),
                at=(about(name),),
                detail="over",
                value=float(share),
                limit=limit,
                unit="A",
                fixes=(fix,),
            )
        elif share < limit / 2:
            yield RuleOutput(
                f"{given}, below half of what {device} is rated for.",
                (about(name), about(device)),
                at=(about(name),),
                detail="under",
                value=float(share),
                limit=limit / 2,
                unit="A",
                over=False,
                consequence="Unreliable",
                fixes=(fix,) if suited > peak else (),
            )


@rule(
    id="supply.bridge-duty",
    consequence="Damage",
    scope="device",
    title="A bridge gives a motor more than its voltage",
    reason="A brushed motor takes the battery's voltage times the duty on the average. Above its "
    "rating it overheats; its commutator and its gears wear out.",
    source="Mean voltage = supply voltage x duty; the motor's own limit.",
)
def bridge_duty(queries: Queries, device: str) -> Iterator[RuleOutput]:
    top, duty = _bridge_top_v(queries, device), queries.setting(device, "duty_max")
    # A bridge that cannot be limited gives all that it is fed with.
    share = float(duty) / 100 if isinstance(duty, int | float) else 1.0
    for ref, motor in _bridge_motors(queries, device):
        mean_v = top * share
        if mean_v <= motor.most_v:
            continue
        suited = math.floor(motor.most_v / top * 100)
        fix = Fix(
            words=f"limit the duty of {device} to {suited} %",
            remedy=SetSetting(device=device, key="duty_max", value=float(suited)),
        )
        yield RuleOutput(
            f"{device} gives {ref.device} up to {mean_v:.3g} V; it takes {motor.most_v:g} V.",
            (about(device), about(ref)),
            at=(about(ref.device),),
            value=round(mean_v, 3),
            limit=motor.v_max_v,
            unit="V",
            fixes=(fix,) if isinstance(duty, int | float) else (),
        )


def _bridge_top_v(queries: Queries, device: str) -> float:
    """The highest voltage that the bridges of a device are fed with; 0 where nothing feeds them."""
    pin = bridge_feed_pin(queries, device)
    sources = sources_of(queries, pin) if pin is not None else ()
    return max((source.feed.highest_v for source in sources), default=0.0)


def _bridge_motors(queries: Queries, bridge: str) -> Iterator[tuple[PinRef, FeedIn]]:
    """The motors on the outputs of a bridge, with the window of their voltage."""
    part = queries.part_of(bridge)
    for port in part.ports if part else ():
        if port.kind != "bridge output":
            continue
        for ref in neighbours_at(queries, PortRef(device=bridge, port=port.id)):
            motor_port = queries.port(ref)
            for pin in motor_port.pins if motor_port else ():
                if isinstance(pin.electrical, FeedIn):
                    yield PinRef(device=ref.device, port=ref.port, pin=pin.id), pin.electrical


@rule(
    id="supply.bridge-current",
    consequence="Damage",
    scope="device",
    title="A bridge is asked for more current than it gives",
    reason="A brushed motor that stands takes all that its winding lets through. What a bridge "
    "does not carry for long its transistors do not survive, or its protection stops the motor.",
    source="The motor's running current, and V / R when it stands, against the output's rating.",
)
def bridge_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    duty = queries.setting(device, "duty_max")
    share = float(duty) / 100 if isinstance(duty, int | float) else 1.0
    top_v = _bridge_top_v(queries, device) * share
    for port in part.ports if part else ():
        limit = port.current_max_a
        if port.kind != "bridge output" or limit is None:
            continue
        for ref in neighbours_at(queries, PortRef(device=device, port=port.id)):
            motor, motor_port = queries.part_of(ref.device), queries.port(ref)
            runs_a = max(
                (p.electrical.current_a or 0.0 for p in (motor_port.pins if motor_port else ())
                 if isinstance(p.electrical, FeedIn)), default=0.0,
            )  # fmt: skip
            winding = next(
                (e for e in (motor.inside if motor else ()) if isinstance(e, Winding)), None
            )
            ohm = winding.resistance_ohm if winding is not None else None
            stands_a = top_v / ohm if ohm is not None else 0.0
            value = runs_a if runs_a > limit else stands_a
            if value > limit:
                does = "takes" if runs_a > limit else "takes, when it stands,"
                yield RuleOutput(
                    f"{ref.device} {does} {value:.3g} A; {device} {port.id} gives {limit:g} A.",
                    (about(device), about(ref)),
                    at=(about(ref.device),),
                    value=round(value, 2),
                    limit=limit,
                    unit="A",
                    consequence="Damage" if runs_a > limit else "Unreliable",
                )


@rule(
    id="supply.twins",
    consequence="Unreliable",
    scope="axis",
    title="Two drivers of one axis are set differently",
    reason="Motors that pull one axis share its load. With unequal current or microsteps they "
    "pull unequally, and the axis goes askew.",
    source="Derivation: equal torque and equal steps of mechanically joined motors.",
)
def twins(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    drivers: dict[str, None] = {}
    for motor in axis.drives if axis else ():
        drivers.update(dict.fromkeys(drivers_of(queries, motor)))
    names = list(drivers)
    for key in ("current_peak_a", "microsteps"):
        values = {name: queries.setting(name, key) for name in names}
        if len(set(values.values())) > 1:
            said = ", ".join(f"{name} {value}" for name, value in values.items())
            first, second = names[0], names[1]
            lower = min(values.values(), key=lambda value: float(value or 0))
            if lower is None:
                continue
            target = first if values[first] != lower else second
            fix = Fix(
                words=f"set {target} to {lower} as well",
                remedy=SetSetting(device=target, key=key, value=lower),
            )
            words = "current" if key == "current_peak_a" else "microsteps"
            yield RuleOutput(
                f"The drivers of {axis_id} differ in {words}: {said}.",
                (*map(about, names),),
                detail=key,
                fixes=(fix,),
            )


RULES = (
    speed,
    useful_voltage,
    driver_current,
    bridge_duty,
    bridge_current,
    twins,
)
