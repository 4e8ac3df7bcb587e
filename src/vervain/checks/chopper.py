"""Rules about the voltage of chopper drivers: enough for the speed, not more than is of use."""

import math
from collections.abc import Iterator

from vervain.checks.finding import about, about_axis
from vervain.checks.rule import Said, rule
from vervain.leads.use import motor_use
from vervain.machine.look import Look
from vervain.machine.reach import drivers_of, motors_of
from vervain.motion.figures import step_figures
from vervain.supply.account import Arrival
from vervain.supply.path import arrivals_of

# V for the square root of a mH: above it the motor only grows hotter.
USEFUL_V = 32.0


def _feed(look: Look, driver: str) -> Arrival | None:
    """What arrives at a driver's motor feed while everything moves."""
    rows = arrivals_of(look, driver, "moving")
    return max(rows, key=lambda row: row.wanted_a, default=None)


def needed_v(
    peak_a: float, resistance_ohm: float, inductance_h: float, electrical_hz: float
) -> float:
    """The voltage that pushes a peak current through a phase at a frequency, without the motor's
    own voltage, which comes on top: sqrt((I R)^2 + (2 pi f L I)^2).
    """
    reactance_ohm = 2 * math.pi * electrical_hz * inductance_h
    return math.hypot(peak_a * resistance_ohm, peak_a * reactance_ohm)


@rule(
    id="supply.speed",
    stage="Supply",
    consequence="Unreliable",
    scope="axis",
    title="The voltage does not push the motor's current at top speed",
    reason="The faster a motor turns, the shorter each phase has for its current to rise against "
    "the inductance. With too little voltage the current, and the torque, stay behind.",
    source="V >= sqrt((I R)^2 + (2 pi f L I)^2), peak current and windings as wired, without the "
    "motor's own voltage.",
)
def speed(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    for motor in axis.drives if axis else ():
        figures, use = step_figures(look, axis_id, motor), motor_use(look, motor)
        part = look.part_of(motor)
        drivers = drivers_of(look, motor)
        if figures is None or figures.motor_rpm is None or use is None or not drivers:
            continue
        if part is None or part.stepper is None:
            continue
        peak = look.setting(drivers[0], "current_peak_a")
        row = _feed(look, drivers[0])
        if not isinstance(peak, int | float) or row is None or row.volts is None:
            continue
        if use.inductance_h is None or use.resistance_ohm is None or row.status != "on":
            continue
        # Four full steps are one electrical turn of two phases, six of three.
        hertz = figures.motor_rpm / 60 * part.stepper.steps_per_turn / (2 * part.stepper.phases)
        share = float(peak) / max(1, len(motors_of(look, drivers[0])))
        needs = needed_v(share, use.resistance_ohm, use.inductance_h, hertz)
        if needs > row.volts:
            yield Said(
                f"{motor} wants {needs:.3g} V at the top speed of {axis_id}; {drivers[0]} gets "
                f"{row.volts:.3g} V.",
                (about_axis(axis_id), about(motor), about(row.pin)),
                detail=motor,
                value=round(row.volts, 2),
                limit=round(needs, 2),
                unit="V",
                over=False,
            )


@rule(
    id="supply.useful-voltage",
    stage="Supply",
    consequence="Workmanship",
    scope="device",
    title="A driver's voltage is higher than is of use",
    reason="Above this voltage a motor gains little speed; its iron and the driver grow hotter.",
    source="About 32 x sqrt(L in mH) of the winding as wired, a rule of thumb of the trade.",
)
def useful_voltage(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    if part is None or part.driver is None:
        return
    row = _feed(look, device)
    for motor in motors_of(look, device):
        use = motor_use(look, motor)
        if row is None or row.source_v is None or use is None or use.inductance_h is None:
            continue
        useful = USEFUL_V * math.sqrt(use.inductance_h * 1000)
        if row.source_v > useful:
            yield Said(
                f"{device} gets {row.source_v:g} V; {motor} makes use of {useful:.3g} V.",
                (about(row.pin), about(motor)),
                detail=motor,
                value=row.source_v,
                limit=round(useful, 1),
                unit="V",
            )


RULES = (speed, useful_voltage)
