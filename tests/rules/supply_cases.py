"""Small machines for the rules about feeds, on both sides of their limits.

The supply of 24 V, 5 A has 0.005 x 24/5 = 0.024 ohm; a core of 0.5 mm2 at 60 °C 39 x 1.1572 mohm a
metre; every conductor two contacts of 2 mohm.
"""

import math
from collections.abc import Callable

from msgspec.structs import replace

from tests import small
from tests.rules.signal_cases import FOUR, STRAIGHT, with_pin
from vervain.model.axis import Axis, Screw
from vervain.model.machine import Machine, PinRef
from vervain.model.place import Place
from vervain.queries.machine_queries import Queries
from vervain.supply.voltage_profile import feed_path

Made = Callable[[], Machine]
# The speed at which 3.6 A through 0.9 ohm and 2.5 mH wants the 23.946 V that arrive: an electrical
# turn is four of 200 steps.
RPM = math.sqrt((23.946 / 3.6) ** 2 - 0.9**2) / (2 * math.pi * 0.0025) / 50 * 60


def pump(current_a: float = 2.8, *, length_m: float = 1.0, cable: str = "flex-2x0.5") -> Machine:
    """A pump that takes a constant current, on a supply by a cable."""
    build = small.bench("G1 fell-ps24", "M1 quoin-gp24")
    build.cable("W1", cable, length_m)
    build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", "W1")
    return with_pin(build.machine, "quoin-gp24", "LEADS", "1", current_a=current_a)


def one_way() -> Machine:
    build = small.bench("G1 fell-ps24", "M1 quoin-gp24")
    build.join("G1:OUT", "M1:LEADS", "1-+")
    return build.machine


def lamps(count: int) -> Machine:
    """Lamps that take 1.2 A each for an instant, 0.25 A then."""
    names = [f"P{number}" for number in range(1, count + 1)]
    build = small.bench("G1 fell-ps24", *(f"{name} quoin-bl24" for name in names))
    for name in names:
        build.join("G1:OUT", f"{name}:LEADS", "1-1 2-2")
    return build.machine


def in_line(current_a: float) -> Machine:
    """A pump behind an in-line connector whose contacts carry 4 A."""
    build = small.bench("G1 fell-ps24", "X1 quoin-il2", "M1 quoin-gp24")
    build.join("G1:OUT", "X1:B", "1-1 2-2")
    build.join("X1:A", "M1:LEADS", "1-1 2-2")
    return with_pin(build.machine, "quoin-gp24", "LEADS", "1", current_a=current_a)


def fused(current_a: float, rating_a: float = 4.0) -> Machine:
    build = small.bench("G1 fell-ps24", "F1 quoin-fh1", "M1 quoin-gp24")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "M1:LEADS", "OUT-1")
    build.join("G1:OUT", "M1:LEADS", "2-2")
    machine = with_pin(build.machine, "quoin-gp24", "LEADS", "1", current_a=current_a)
    return small.with_setting(machine, "F1", "rating_a", rating_a)


def servo_on(source: str) -> Machine:
    """A servo on a board's 5 V, or on a supply of its own."""
    build = small.bench("K1 tarn-pb5", "M1 quoin-ps9", "G1 fell-ps12", "G2 fell-ps6")
    build.join("G1:OUT", "K1:LOGIC", "1-1 2-2")
    build.join("M1:PLUG", source, "+-1 −-2")
    return build.machine


def driver_at(voltage_v: float) -> Machine:
    """A driver for 36 V at most on a supply of 1 % tolerance."""
    build = small.bench("G1 fell-ps24", "T1 fell-d36")
    build.join("G1:OUT", "T1:FEED", "1-1 2-2")
    return with_pin(build.machine, "fell-ps24", "OUT", "1", nominal_v=voltage_v)


def behind_fuse(rating_a: float) -> Machine:
    """A core for 4.8 A behind a fuse on a supply that limits at 5.5 A."""
    build = small.bench("G1 fell-ps24", "F1 quoin-fh1", "M1 quoin-gp24")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.cable("W1", "flat-2x0.25", 0.5)
    build.join("F1:FUSE", "M1:LEADS", "OUT-1", "W1", "1")
    build.join("G1:OUT", "M1:LEADS", "2-2", "W1", "2")
    return small.with_setting(build.machine, "F1", "rating_a", rating_a)


def mains(pins: str) -> Machine:
    build = small.bench("X1 quoin-mt4", "G1 fell-ps24")
    build.join("X1:1", "G1:MAINS", pins)
    return build.machine


def one_rail(length_m: float) -> Machine:
    """A board whose logic hangs on a thin pair together with a bed that the board does not switch:
    11 A at 12 V through the pair at work, nothing at rest.
    """
    build = small.bench("G1 fell-ps12", "X1 quoin-ts8", "K1 tarn-pb5", "E1 osier-hb300")
    build.cable("W1", "pair-rdbk-2.5", length_m)
    build.join("G1:OUT", "X1:1", "1-+ 2-0V", "W1")
    build.join("X1:2", "K1:LOGIC", "+-1 0V-2")
    build.join("X1:3", "E1:LEADS", "+-1 0V-2")
    return build.machine


def turning(rpm: float) -> Machine:
    """A motor of 2.5 mH and its resistance at 3.6 A peak on 24 V, its axis a turn a millimetre."""
    build = small.bench("M1 fell-s57", "T1 fell-d72", "G1 fell-ps24")
    build.join("M1:LEADS", "T1:MOTOR", FOUR)
    build.join("G1:OUT", "T1:POWER", "1-1 2-2")
    axis = Axis(
        id="X", name="a", travel=10, mechanism=Screw(lead_mm=1), speed_max=rpm / 60, drives=("M1",)
    )
    machine = replace(build.machine, axes=(axis,))
    return small.with_setting(machine, "T1", "current_peak_a", 3.6)


def at_volts(voltage_v: float) -> Machine:
    """A motor of 2.5 mH makes use of 32 sqrt(2.5) = 50.6 V."""
    return with_pin(turning(60), "fell-ps24", "OUT", "1", nominal_v=voltage_v)


def hot_driver(peak_a: float) -> Machine:
    """Two phases through 0.34 ohm: 1.2 W at 1.3284 A RMS, 1.8787 A peak."""
    build = small.bench("K1 tarn-pb5", "T1 tarn-pd25", "M1 fell-s42")
    build.join("T1:FOOT", "K1:SLOT X", STRAIGHT)
    build.join("M1:LEADS", "K1:X", FOUR)
    return small.with_setting(build.machine, "T1", "current_peak_a", peak_a)


def boxed(sheds_w: float) -> Machine:
    """24 V x 2 A: the supply loses about 48 x (1/0.85 - 1) = 8.47 W in the box."""
    machine = pump(2.0, length_m=0.1)
    devices = tuple(replace(d, place="box") if d.designator == "G1" else d for d in machine.devices)
    places = (Place(id="box", name="Box", sheds_w=sheds_w),)
    return replace(machine, devices=devices, places=places)


def charging(capacitance_f: float) -> Machine:
    """Capacitors behind a fuse of 4 A, which 13 A2s melt, on a battery."""
    build = small.bench("G1 osier-lb24", "F1 quoin-fh1", "M1 quoin-gp24")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "M1:LEADS", "OUT-1")
    build.join("G1:OUT", "M1:LEADS", "2-2")
    machine = small.with_setting(build.machine, "F1", "rating_a", 4.0)
    return with_pin(machine, "quoin-gp24", "LEADS", "1", capacitance_f=capacitance_f)


def battery(cut_off_v: float) -> Machine:
    """A full load of 2.8 A on a battery of 24.5 V less 7 %, 0.00306 ohm: 22.776 V."""
    machine = charging(1e-6)
    return small.with_part(
        machine,
        "osier-lb24",
        lambda part: replace(part, battery=replace(part.battery, cut_off_v=cut_off_v)),
    )


def loop_ohm() -> float:
    """The way of `charging`: two conductors out and one back, each with 0.3 m of lead or none."""
    queries = Queries(charging(1e-3))
    path = feed_path(queries, "start", PinRef(device="M1", port="LEADS", pin="1"))
    return sum(flow.link.resistance_ohm for flow in path.flows)


def barred(current_a: float) -> Machine:
    """A pump behind a strip whose copper carries 24 A."""
    build = small.bench("G1 fell-ps12", "X1 quoin-ts8", "M1 quoin-gp24")
    build.join("G1:OUT", "X1:1", "1-+ 2-0V")
    build.join("X1:8", "M1:LEADS", "+-+ 0V-−")
    machine = with_pin(build.machine, "quoin-gp24", "LEADS", "1", current_a=current_a, v_min_v=6)
    return machine


CASES: dict[str, tuple[Made, Made]] = {
    # 2.8 A x (2 (L 0.04513 + 0.004) + 0.024) = 5 % of 24 V at L = 4.394 m.
    "supply.drop": (lambda: pump(length_m=4.40), lambda: pump(length_m=4.39)),
    # 24 V less 1 % less that drop is 20 V at L = 14.523 m.
    "supply.too-low": (lambda: pump(length_m=14.53), lambda: pump(length_m=14.52)),
    "supply.no-return": (one_way, pump),
    "supply.budget": (lambda: pump(5.01, length_m=0.1), lambda: pump(4.0, length_m=0.1)),
    "supply.start-up": (lambda: lamps(5), lambda: lamps(4)),
    "supply.core-current": (
        lambda: pump(4.81, length_m=0.1, cable="flat-2x0.25"),
        lambda: pump(4.79, length_m=0.1, cable="flat-2x0.25"),
    ),
    "supply.contact-current": (lambda: in_line(4.01), lambda: in_line(3.99)),
    "supply.fuse-load": (lambda: fused(3.01), lambda: fused(2.99)),
    # A supply of 5 A before a core for 4.8 A and one for 7.5 A.
    "supply.fuse-missing": (lambda: pump(cable="flat-2x0.25"), pump),
    # 1.35 x 4.1 is 5.535 A, 1.35 x 4.07 is 5.4945 A, the supply gives 5.5.
    "supply.fuse-asleep": (lambda: behind_fuse(4.1), lambda: behind_fuse(4.07)),
    "supply.earth": (lambda: mains("L-L N-N"), lambda: mains("L-L N-N PE-PE")),
    "supply.servo-on-logic": (lambda: servo_on("K1:STOP X"), lambda: servo_on("G2:OUT")),
    "supply.shared-rail": (lambda: one_rail(1.53), lambda: one_rail(1.5)),
    "supply.speed": (lambda: turning(RPM + 1), lambda: turning(RPM - 1)),
    "supply.useful-voltage": (lambda: at_volts(50.7), lambda: at_volts(50.5)),
    "supply.driver-heat": (lambda: hot_driver(1.88), lambda: hot_driver(1.87)),
    "supply.box-heat": (lambda: boxed(8.4), lambda: boxed(8.5)),
    # C V^2 / 2R is half of 13 A2s.
    "supply.inrush": (
        lambda: charging(1.01 * 6.5 * 2 * loop_ohm() / 24.5**2),
        lambda: charging(0.99 * 6.5 * 2 * loop_ohm() / 24.5**2),
    ),
    "supply.bar-current": (lambda: barred(24.1), lambda: barred(23.9)),
    "supply.battery-cut-off": (lambda: battery(22.78), lambda: battery(22.77)),
    "supply.headroom": (lambda: driver_at(32.41), lambda: driver_at(32.4)),
}
